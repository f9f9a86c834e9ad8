"""WCAG 2.2 AA on each view, light and dark, by axe; and the page on a phone."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.api.test_jobs import named
from tests.browser.conftest import Server, open_circuit
from tests.conftest import Firm

AXE = (Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js").read_text("utf-8")
VIEWS = (
    ("", "Orchard Row"), ("/survey", "Survey"), ("/demand", "Maximum demand"), ("/demand?client=1", "What is wanted, room by room"),
    ("/boards", "Boards"), ("/boards/BOARD", "House board"), ("/routes", "Cable routes"), ("/earthing", "Earthing and outbuildings"),
    ("/coordination", "Selectivity"), ("/what-if", "What if"), ("/tables/4D5", "Tables"), ("/history", "History"), ("/pulls", "Cable list"),
    ("/materials", "Materials"), ("/ends", "Terminations"), ("/isolation?kind=board&id=BOARD", "Safe isolation"), ("/tests", "Test results"), ("/existing", "Existing installation"), ("/revisions", "Revisions"), ("/tests?circuit=CIRCUIT", "Test results"), ("/tests?circuit=BOARD", "Test results"), ("/papers?paper=minor_work&subject=CIRCUIT", "Documents"), ("/papers?paper=labels", "Documents"), ("/books", "Compare with another standard"),
)  # fmt: skip
# Pages beside the jobs.
BESIDE = (("/packs", "Your own tables"), ("/practice", "Practice"), ("/practice/loop?seed=4", "Zs and disconnection"))
# The views are looked at in so many tests, so that two processors share them.
PARTS = 4
TAGS = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]


def violations(page: Page, only: list[str] | None = None) -> list[str]:
    """What axe finds. only: these rules alone, instead of those of the standard."""
    if not page.evaluate("'axe' in window"):
        page.evaluate(AXE)
    found: Any = page.evaluate("what => axe.run(document, {runOnly: what, resultTypes: ['violations']})", only or TAGS)
    return [f"{v['id']}: {[n['target'] for n in v['nodes']][:3]} {v['nodes'][0]['failureSummary']}" for v in found["violations"]]


def open_all(page: Page) -> None:
    """Open everything that opens in place, and what is in it in turn: it is drawn when it is first opened."""
    for _ in range(6):
        if not page.evaluate("[...document.querySelectorAll('details:not([open])')].map(d => { d.open = true }).length"):
            return
        page.wait_for_load_state("networkidle")
        page.wait_for_timeout(100)
    raise AssertionError("there is always something more to open")


def accessible(page: Page) -> None:
    """Nothing is wrong in either of the two themes: they differ in their colours alone."""
    page.emulate_media(color_scheme="dark")
    assert violations(page, ["color-contrast"]) == []
    page.emulate_media(color_scheme="light")
    assert violations(page) == []


@pytest.mark.parametrize("part", range(PARTS))
def test_each_view_is_accessible(part: int, at_jobs: Page, server: Server, house: Firm) -> None:
    page, base = at_jobs, f"{server.url}/jobs/{house.job.pk}"
    board, shower = house.job.board_set.get(name="House board").pk, named(house, "Shower").pk
    for path, heading in VIEWS[part::PARTS]:
        page.goto(base + path.replace("BOARD", str(board)).replace("CIRCUIT", str(shower)))
        page.get_by_role("heading", name=heading, exact=True).wait_for()
        page.wait_for_load_state("networkidle")
        open_all(page)
        accessible(page)
        # The view scrolls in its frame; the page around it never does, into nothing.
        assert page.evaluate("document.documentElement.scrollHeight - innerHeight") <= 0, path


def test_what_opens_over_a_circuit_is_accessible(at_jobs: Page, server: Server, house: Firm) -> None:
    page = at_jobs
    accessible(page)
    open_circuit(page, "Shower")
    page.get_by_role("button", name="It 36 A").click()
    page.locator("td[data-lit]").wait_for()
    accessible(page)
    page.locator('[data-word="device"]').click()
    accessible(page)
    page.keyboard.press("Escape")
    page.get_by_role("button", name="size it").click()
    page.get_by_text("mm² is the smallest that meets").wait_for()
    accessible(page)
    page.keyboard.press("Escape")
    open_circuit_directly(page, f"{server.url}/jobs/{house.job.pk}", house)
    open_all(page)
    accessible(page)
    page.get_by_role("button", name="fixes").click()
    page.locator("[data-option]").first.wait_for()
    accessible(page)


def test_what_stands_beside_the_jobs_is_accessible(at_jobs: Page, server: Server) -> None:
    page = at_jobs
    for path, heading in BESIDE:
        page.goto(server.url + path)
        page.get_by_role("heading", name=heading, exact=True).wait_for()
        page.wait_for_load_state("networkidle")
        accessible(page)
    page.context.clear_cookies()
    page.goto(server.url)
    page.get_by_label("Password").wait_for()
    accessible(page)


def open_circuit_directly(page: Page, base: str, house: Firm) -> None:
    shower = house.job.circuit_set.get(name="Shower")
    page.goto(f"{base}/circuits/{shower.pk}")
    page.get_by_role("heading", name="Checks").wait_for()


@pytest.mark.parametrize("path", ["/packs", "/practice", "/practice/grouping?seed=4", "JOB/books?book=iec60364"])
def test_a_phone_shows_books_packs_and_practice_without_sideways_scrolling(path: str, at_jobs: Page, server: Server, house: Firm) -> None:
    page = at_jobs
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(server.url + path.replace("JOB", f"/jobs/{house.job.pk}"))
    page.get_by_role("heading", level=1).wait_for()
    page.wait_for_load_state("networkidle")
    assert page.evaluate("document.documentElement.scrollWidth") <= 390


def test_a_phone_shows_the_circuit_without_sideways_scrolling(at_jobs: Page) -> None:
    page = at_jobs
    page.set_viewport_size({"width": 390, "height": 844})
    page.get_by_role("link", name="Orchard Row", exact=True).click()
    page.get_by_role("link", name="Shower Cable capacity").click()
    expect(page.get_by_text("Fails by 4 A")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    page.get_by_role("button", name="menu").click()
    page.locator("[data-circuit]").filter(has_text="Cooker").click()
    expect(page.locator('[data-word="name"]')).to_have_text("Cooker")
