"""A board goes in along a run, comes out again, and one goes in between the meter and the old board: one edit each."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from mellow_span.core.design.check import check
from mellow_span.core.model.parts import Circuit, Installation
from mellow_span.jobs.models import Job
from mellow_span.jobs.reads import installation
from tests.browser.conftest import open_circuit
from tests.browser.hands import becomes, saved
from tests.browser.test_access import accessible
from tests.conftest import Firm


def kept(house: Firm) -> Installation:
    return installation(Job.objects.get(pk=house.job.pk))


def named(house: Firm, name: str) -> Circuit:
    return next(c for c in kept(house).circuits if c.name == name)


def zs(house: Firm, name: str) -> float:
    job = kept(house)
    return next(r.zs or 0.0 for r in check(job).circuits if r.id == named(house, name).id)


def test_a_board_goes_in_along_a_run_and_out_again(at_jobs: Page, house: Firm) -> None:
    page = at_jobs
    open_circuit(page, "Shower")
    before, lengths, version = (
        zs(house, "Shower"),
        [s.length for s in named(house, "Shower").run.spans],
        Job.objects.get(pk=house.job.pk).version,
    )
    page.get_by_text("board here …").click()
    box = page.get_by_role("dialog")
    box.get_by_role("textbox").nth(0).fill("1")
    box.get_by_role("textbox").nth(1).fill("Landing board")
    accessible(page)
    box.get_by_role("button").filter(has_not_text="cancel").first.click()
    becomes(lambda: "Landing board" in {b.name for b in kept(house).boards}, True)
    saved(page)
    assert Job.objects.get(pk=house.job.pk).version == version + 1, "one edit"
    assert named(house, "Feed to Landing board").feeds == next(b.id for b in kept(house).boards if b.name == "Landing board")
    assert abs(zs(house, "Shower") - before) < 1e-9
    # From the board's own page it comes out, and the run is as it was.
    page.get_by_role("link", name=re.compile("^Landing board")).first.click()
    page.get_by_role("heading", name="Landing board", exact=True).wait_for()
    page.get_by_text("All details of this board").click()
    page.get_by_role("button", name="take this board out: its feed runs on as Shower").click()
    becomes(lambda: "Landing board" in {b.name for b in kept(house).boards}, False)
    saved(page)
    assert [s.length for s in named(house, "Shower").run.spans] == lengths
    assert abs(zs(house, "Shower") - before) < 1e-9
    page.locator("body").press("Control+z")
    becomes(lambda: "Landing board" in {b.name for b in kept(house).boards}, True)


def test_a_board_goes_in_between_the_meter_and_the_old_one(at_jobs: Page, house: Firm) -> None:
    page = at_jobs
    page.get_by_role("link", name="Orchard Row", exact=True).click()
    page.get_by_role("heading", name="Orchard Row", exact=True).wait_for()
    page.get_by_role("link", name="House board").first.click()
    page.get_by_role("heading", name="House board", exact=True).wait_for()
    page.get_by_text("All details of this board").click()
    page.get_by_role("button", name="put a board between the meter and this one").click()
    becomes(lambda: "New main board" in {b.name for b in kept(house).boards}, True)
    saved(page)
    job = kept(house)
    old, new = (next(b.id for b in job.boards if b.name == name) for name in ("House board", "New main board"))
    assert next((c.board, c.feeds) for c in job.circuits if c.name == "Feed to House board") == (new, old)
    # What it is made of is still to be entered, and the circuits behind it say so.
    expect(page.get_by_text("Not known yet").first).to_be_visible()
    assert all(r.verdict != "meets" for r in check(job).circuits if r.id in {c.id for c in job.circuits if c.name == "Feed to House board"})
