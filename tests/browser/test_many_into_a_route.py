"""Many circuits into a route by one act, and the currents found that count there."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from mellow_span.core.design.check import check
from mellow_span.jobs.models import Job
from mellow_span.jobs.reads import installation
from tests.browser.hands import becomes, saved
from tests.browser.test_access import accessible
from tests.conftest import Firm


def inside(house: Firm, route: str) -> set[str]:
    job = installation(Job.objects.get(pk=house.job.pk))
    there = next(r.id for r in job.routes if r.name == route)
    return {c.name for c in job.circuits if any(s.route == there for s in c.run.spans)}


def test_circuits_are_ticked_or_pasted_into_a_route_and_taken_back_at_once(at_jobs: Page, house: Firm) -> None:
    page = at_jobs
    page.get_by_role("link", name="Orchard Row", exact=True).click()
    page.get_by_role("heading", name="Orchard Row", exact=True).wait_for()
    page.get_by_role("link", name="Cable routes").click()
    # The button stands below what is still being fetched, and moves down with it.
    expect(page.locator("[aria-busy=false]").filter(has=page.get_by_role("heading", name="Cable routes"))).to_be_visible()
    page.get_by_role("button", name="add a route, conduit or trunking").click()
    page.get_by_role("heading", name="New route").wait_for()
    section = page.locator("section, div").filter(has=page.get_by_role("heading", name="New route")).last
    section.get_by_text("Put circuits in this route").click()
    ticks = section.get_by_role("list", name="Circuits not in it yet").get_by_role("checkbox")
    names = [
        text.split("\n")[0].strip()
        for text in section.get_by_role("list", name="Circuits not in it yet").get_by_role("listitem").all_inner_texts()
    ]
    assert len(names) > 3
    ticks.nth(0).check()
    before = Job.objects.get(pk=house.job.pk).version
    second = installation(Job.objects.get(pk=house.job.pk)).circuits[1].name
    section.get_by_role("textbox", name="Or paste their names").fill(f"{second.upper()}\nnothing of the kind")
    expect(section.get_by_text("Not a circuit outside this route: nothing of the kind")).to_be_visible()
    accessible(page)
    section.get_by_role("button", name="put 2 circuits in").click()
    saved(page)
    becomes(lambda: len(inside(house, "New route")), 2)
    assert second in inside(house, "New route")
    assert Job.objects.get(pk=house.job.pk).version == before + 1, "one edit"
    page.locator("h1").click()
    page.keyboard.press("Control+z")
    becomes(lambda: len(inside(house, "New route")), 0)


def test_a_current_found_counts_with_how_it_was_found(at_jobs: Page, house: Firm) -> None:
    page = at_jobs
    page.get_by_role("link", name="Orchard Row", exact=True).click()
    page.get_by_role("heading", name="Orchard Row", exact=True).wait_for()
    page.get_by_role("link", name="Cable routes").click()
    page.get_by_role("heading", name="Cable routes", exact=True).wait_for()
    # The sections grow once their figures are there: what is below them moves until then.
    expect(page.locator("[aria-busy=true]")).to_have_count(0)
    page.get_by_text("Currents found, for grouping").first.click()
    box = page.locator("details").filter(has_text="Currents found, for grouping").first
    name = box.locator("legend").first.inner_text()
    amps = box.get_by_role("textbox", name="Current found").first
    amps.fill("2")
    amps.press("Enter")
    saved(page)
    expect(page.get_by_text(f"not used until it is entered how it was found: the current of {name}").first).to_be_visible()
    how = box.get_by_role("textbox", name="How that current was found").first
    how.fill("clamp, a week, by the designer")
    how.press("Enter")
    saved(page)
    expect(page.get_by_text("designer's judgement").first).to_be_visible()
    job = installation(Job.objects.get(pk=house.job.pk))
    circuit = next(c for c in job.circuits if c.name == name)
    assert (circuit.group_amps, circuit.group_amps_by) == (2.0, "clamp, a week, by the designer")
    assert any(c.verdict == "close" for r in check(job).routes for c in r.checks if c.id == "count")
