"""A run whose cable changes on the way, in a real browser: said in one line, changed by words, pulled and made off as two cables."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from mellow_span.jobs.models import Load, Span
from tests.browser.hands import becomes, enter, saved, say, to
from tests.conftest import Firm

LINE = "Pond lights 4x20W b6 rcbo 30mA 6kA 1.5 flat: hall 6 masonry, box A, 2.5 armoured xlpe 3 core from here resin, garden 18 duct"


def span(house: Firm, name: str) -> Span:
    return Span.objects.get(run__circuit__job=house.job, run__circuit__name="Pond lights", name=name)


def test_another_cable_is_said_changed_and_taken_to_site(at_jobs: Page, house: Firm) -> None:
    page = at_jobs
    say(page, "Orchard Row", LINE)
    page.get_by_role("heading", name="Checks").wait_for()
    saved(page)
    garden = span(house, "garden")
    assert (garden.own_csa, garden.own_cores, garden.joint) == (2.5, 3, "resin")
    page.get_by_role("button", name="Span 2:").click()
    own = page.locator("[data-own-cable]")
    expect(own).to_contain_text("2.5 mm²")
    expect(page.locator("[data-check=joint]")).to_contain_text("filled with resin")
    # A word is changed like any other; terminals ask whether they can be reached.
    page.locator('[data-word="own csa"]').focus()
    enter(page, "4 mm")
    becomes(lambda: span(house, "garden").own_csa, 4)
    page.locator('[data-word="joint"]').focus()
    enter(page, "with term")
    expect(page.locator("[data-check=joint]")).to_contain_text("whether the joint")
    becomes(lambda: span(house, "garden").joint, "terminals")
    # What is missing next opens by itself: whether it can be reached.
    expect(page.get_by_role("dialog", name="joint access")).to_be_visible()
    enter(page, "cannot be")
    expect(page.locator("[data-check=joint]")).to_have_attribute("data-verdict", "short")
    saved(page)
    to(page, "Cable list")
    row = page.locator("[data-pull]").filter(has_text="Pond lights")
    expect(row).to_contain_text("then 4 mm² 3-core")
    to(page, "Terminations")
    expect(page.get_by_text("joint at box A").first).to_be_visible()


def test_a_span_gets_another_cable_by_a_command_and_gives_it_back_with_one_undo(at_shower: Page, house: Firm) -> None:
    page = at_shower
    page.get_by_role("button", name="Span 2:").click()
    page.locator("summary").filter(has_text="More of this span").click()
    page.get_by_role("button", name="another cable from here").click()
    own = page.locator("[data-own-cable]")
    expect(own).to_be_visible()
    expect(page.locator("[data-check=joint]")).to_contain_text("how the cables are joined")
    becomes(lambda: Span.objects.filter(run__circuit__job=house.job, run__circuit__name="Shower").exclude(own_csa=None).count(), 1)
    # The cable goes on where the span it begins with is removed.
    page.get_by_role("button", name="remove", exact=True).click()
    saved(page)
    becomes(lambda: Span.objects.filter(run__circuit__job=house.job, run__circuit__name="Shower").exclude(own_csa=None).count(), 1)
    page.get_by_role("button", name="the cable before it here too").click()
    expect(own).to_have_count(0)
    expect(page.locator("[data-check=joint]")).to_have_count(0)


def test_lights_behind_a_driver_are_asked_what_is_missing_and_judged_by_their_own_volts(at_jobs: Page, house: Firm) -> None:
    page = at_jobs
    say(page, "Orchard Row", "Shelf strip 60W b6 rcbo 30mA 6kA 1.5 flat: hall 6 masonry")
    page.get_by_role("heading", name="Checks").wait_for()
    saved(page)
    page.locator("summary").filter(has_text="Other details").click()
    page.locator("summary").filter(has_text="Load: 60 W").click()
    output = page.get_by_label("Behind a driver or transformer: its output")
    output.fill("24")
    output.press("Tab")
    own = page.locator("[data-driver]")
    expect(own).to_contain_text("behind a driver of 24 V")
    expect(page.locator("[data-check=extra_low]")).to_have_attribute("data-verdict", "not_known")
    page.locator('[data-word="length behind the driver"]').focus()
    # Each Enter opens what is missing next.
    enter(page, "8", "1.5", "5")
    expect(page.locator("[data-check=extra_low]")).to_have_attribute("data-verdict", "meets")
    expect(page.locator("[data-check=extra_low]")).to_contain_text("at 24 V")
    becomes(lambda: Load.objects.get(job=house.job, elv_volts=24).elv_drop, 5)
