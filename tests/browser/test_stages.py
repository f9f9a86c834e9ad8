"""A job planned in stages, in the browser: what is in place on which day, each day checked, and the site work and documents of one."""

from __future__ import annotations

import json
from pathlib import Path

from playwright.sync_api import Page, expect

from mellow_span import demo
from mellow_span.exchange.document import read
from mellow_span.jobs.models import Job
from mellow_span.jobs.reads import installation
from mellow_span.jobs.writes import take_in
from tests.browser.hands import becomes, saved
from tests.browser.test_access import accessible
from tests.conftest import Firm


def test_a_plan_in_stages_is_made_and_every_stage_is_checked(at_jobs: Page, house: Firm) -> None:
    page = at_jobs
    page.get_by_role("link", name="Orchard Row", exact=True).click()
    page.get_by_role("link", name="Stages").first.click()
    expect(page.get_by_text("everything in this job is in place at once")).to_be_visible()
    page.get_by_role("button", name="plan in stages").click()
    page.get_by_label("Name of the stage").nth(1).fill("Charger week")
    page.get_by_label("Name of the stage").nth(1).press("Enter")
    page.get_by_label("Car charger, installed at").select_option(label="Charger week")
    saved(page)
    expect(page.locator("main [aria-busy=true]")).to_have_count(0)

    def kept() -> tuple[list[str], str | None]:
        inputs = installation(Job.objects.get(pk=house.job.pk))
        charger = next(c for c in inputs.circuits if c.name == "Car charger")
        return [s.name for s in inputs.stages], next((s.name for s in inputs.stages if s.id == charger.from_stage), None)

    becomes(kept, (["Now", "Charger week"], "Charger week"))
    cells = page.locator("tr:has-text('Car charger') td")
    expect(cells.nth(3).get_by_label("not in place")).to_be_visible()
    expect(cells.nth(4).get_by_role("img")).not_to_have_attribute("aria-label", "not in place")
    expect(page.locator("[data-stage]").nth(1)).to_contain_text("2 installed")
    accessible(page)
    # Two stages that take each other's place would have it there before it comes: it is refused at the choice, and nothing is lost.
    page.get_by_label("Car charger, removed at").select_option(label="Now")
    expect(page.get_by_text("a stage after the one it is installed at").first).to_be_visible()
    becomes(kept, (["Now", "Charger week"], "Charger week"))
    page.get_by_role("button", name="remove the stage").nth(1).click()
    becomes(kept, (["Now"], None))
    page.keyboard.press("Control+z")
    becomes(kept, (["Now", "Charger week"], "Charger week"))


def test_isolation_cable_list_and_documents_are_of_the_stage_that_is_chosen(at_jobs: Page, house: Firm) -> None:
    page = at_jobs
    croft = take_in(house.member.firm, read(json.loads((Path(demo.__file__).parent / "larch_croft.json").read_text("utf-8"))))
    barn = next(b for b in installation(croft).boards if b.name == "Barn")
    base = page.url.rstrip("/").removesuffix("/jobs") + f"/jobs/{croft.pk}"
    page.goto(f"{base}/isolation?kind=board&id={barn.id}")
    expect(page.get_by_text("Choose the stage first")).to_be_visible()
    page.get_by_label("Stage", exact=True).select_option(label="Now")
    plan = page.get_by_role("region", name="To make Barn dead")
    expect(plan).to_contain_text("Old barn feed")
    page.get_by_label("Stage", exact=True).select_option(label="Barn week, first week of May")
    expect(plan.get_by_role("listitem").first).to_contain_text("A5 Barn feed")
    # On the day it is removed the old feed is still there.
    expect(plan).to_contain_text("A7 Old barn feed")
    expect(plan).to_contain_text("live until it is removed at this stage")
    expect(plan.get_by_role("heading").first).to_contain_text("at stage Barn week")
    # Gone to again it is asked again, though the other views go by what was chosen: what feeds the place on the day is at stake.
    page.reload()
    expect(page.get_by_text("Choose the stage first")).to_be_visible()
    # It is kept for the other views: the cable list is that day's work alone.
    page.goto(f"{base}/pulls")
    expect(page.get_by_text("0 of 1 pulled in")).to_be_visible()
    expect(page.get_by_role("main")).to_contain_text("Barn feed")
    page.goto(f"{base}/papers?paper=schedule")
    expect(page.get_by_text("as it stands at Barn week")).to_be_visible()
    # A circuit that is gone by the last stage is shown at the one it was there at.
    old = next(c for c in installation(croft).circuits if c.name == "Old barn feed")
    page.goto(f"{base}/circuits/{old.id}")
    expect(page.locator("[data-stage]")).to_contain_text("Now")
    expect(page.get_by_role("heading", name="Old barn feed", exact=True)).to_be_attached()
