"""Everybody: from the survey to the printed schedule by keyboard alone, in forced colours, enlarged twice and on the narrowest screen."""

from __future__ import annotations

import re
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect

from mellow_span.jobs.models import Job
from mellow_span.jobs.reads import installation
from tests.browser.conftest import Server, new_page, sign_in
from tests.browser.hands import becomes, saved
from tests.browser.test_access import violations
from tests.conftest import Firm

# Beyond what the standard asks, what a screen reader finds its way by.
WAYS = ["empty-table-header", "landmark-unique", "region", "heading-order", "page-has-heading-one", "landmark-one-main"]
SETTINGS: dict[str, dict[str, Any]] = {
    "by keyboard": {},
    "forced colours, no motion": {"forced_colors": "active", "reduced_motion": "reduce", "color_scheme": "dark"},
    # Enlarged twice, a screen of 1280 by 800 has room for half of each.
    "200 %": {"viewport": {"width": 640, "height": 400}},
    "320 px": {"viewport": {"width": 320, "height": 640}},
}


# Marks that begin a line of a sentence: its words are boxes, and a line may break beside a box.
BEGUN = """() => [...document.querySelectorAll('p:has(.word), div:has(> .word)')].flatMap(p => {
  const found = [], walk = document.createTreeWalker(p, NodeFilter.SHOW_TEXT)
  while (walk.nextNode()) for (const m of walk.currentNode.textContent.matchAll(/[,.;:)]/g)) {
    const at = document.createRange()
    at.setStart(walk.currentNode, m.index)
    at.setEnd(walk.currentNode, m.index + 1)
    const box = at.getBoundingClientRect()
    if (box.width && box.left - p.getBoundingClientRect().left < 4) found.push(p.textContent.slice(0, 60) + ' at ' + walk.currentNode.textContent.slice(0, 20))
  }
  return found
})"""


def stands(page: Page) -> None:
    """Nothing has to be scrolled sideways, nothing is unnamed, no mark begins a line, and what has the focus is to be seen."""
    assert page.evaluate(BEGUN) == []
    width = page.viewport_size["width"] if page.viewport_size else 0
    wide = "e => [...document.querySelectorAll('main *')].filter(x => x.getBoundingClientRect().right > innerWidth + 1).slice(0, 3).map(x => x.outerHTML.slice(0, 120))"
    assert page.evaluate("document.documentElement.scrollWidth") <= width, page.evaluate(wide)
    assert violations(page, WAYS) == []


def goto(page: Page, name: str) -> None:
    """Go somewhere by its name: the way that is the same at every width."""
    page.keyboard.press("Control+k")
    page.get_by_role("dialog").get_by_role("combobox").wait_for()
    page.keyboard.type(name)
    page.get_by_role("option", name=re.compile(f"^{name}")).first.wait_for()
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog")).to_have_count(0)


@pytest.mark.parametrize("setting", SETTINGS)
def test_a_house_is_surveyed_designed_put_right_and_printed_without_a_mouse(
    setting: str, browser: Browser, server: Server, house: Firm
) -> None:
    page = new_page(browser, **SETTINGS[setting])
    sign_in(page, server, house)
    link = page.get_by_role("link", name="Orchard Row", exact=True)
    for _ in range(40):
        if link.evaluate("e => e === document.activeElement"):
            break
        page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    page.get_by_role("heading", name="Orchard Row", level=1).wait_for()
    stands(page)
    goto(page, "Survey")
    page.get_by_role("heading", name="Survey", level=1).wait_for()
    stands(page)
    # The first circuit of one's own, in one line.
    page.keyboard.press("Escape")
    page.keyboard.press("n")
    page.get_by_label("Circuits of House board").wait_for()
    page.keyboard.type("towel rail 600W b6 rcbo 30mA 6kA 1.5 flat: masonry 4")
    expect(page.locator("[data-said=whole]")).to_be_visible()
    page.keyboard.press("Enter")
    becomes(lambda: "Towel rail" in {c.name for c in installation(Job.objects.get(pk=house.job.pk)).circuits}, True)
    goto(page, "Shower")
    told = page.locator("[aria-live=polite]").filter(has_text="Fails by 4 A")
    expect(told).to_be_visible()
    stands(page)
    # What changes the verdict is heard by whoever does not see it: it stands in a live region, in words.
    page.locator("body").press("o")
    page.locator("[data-option]").first.wait_for()
    page.locator("[data-option=final]").get_by_role("button", name="use it").focus()
    page.keyboard.press("Enter")
    expect(page.locator("[aria-live=polite]").filter(has_text="Marginal")).to_be_visible()
    saved(page)
    goto(page, "Boards")
    page.locator("[data-glance-row]").first.wait_for()
    expect(page.get_by_role("table").filter(has_text="Towel rail").first).to_be_visible()
    stands(page)
    goto(page, "Documents")
    page.get_by_role("heading", name="Documents", level=1).wait_for()
    expect(page.get_by_role("heading", name="Circuit schedule")).to_be_visible()
    expect(page.get_by_role("button", name="make the PDF")).to_be_visible()
    stands(page)
