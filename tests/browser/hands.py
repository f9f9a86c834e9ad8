"""What the hands do in a browser, and how a test waits: for what is to be seen or stored, never for an amount of time."""

from __future__ import annotations

import re
import time
from collections.abc import Callable
from typing import TypeVar

from playwright.sync_api import Page, expect

T = TypeVar("T")


def saved(page: Page) -> None:
    """Wait until the page says that nothing of it is unsaved."""
    expect(page.locator("[data-phase]")).to_have_attribute("data-phase", "saved")


def to(page: Page, view: str) -> None:
    """Go to a view by its link beside the page."""
    page.locator("nav").get_by_role("link", name=re.compile(f"^([a-z ]+ )?{view}( \\d+)?$")).first.click()
    expect(page.get_by_role("heading", level=1)).to_be_visible()


def of_job(page: Page, name: str, what: str) -> None:
    """Do something with a job of the list by its menu."""
    page.get_by_role("button", name=f"more: {name}").click()
    page.get_by_role("menuitem", name=what).click()


def enter(page: Page, *words: str) -> None:
    """Type words one after the other as fast as the keyboard can: each Enter opens the next word where nothing stands yet."""
    for typed in words:
        page.keyboard.type(typed)
        page.keyboard.press("Enter")


def say(page: Page, job: str, line: str) -> None:
    """Open a job from the list and type a circuit in one line; wait until all of it is read, and add it."""
    page.get_by_role("link", name=job, exact=True).click()
    page.get_by_role("heading", name=job, exact=True).wait_for()
    page.keyboard.press("Escape")
    page.locator("body").press("n")
    page.get_by_role("textbox", name="one per line").fill(line)
    expect(page.locator("[data-said=whole]")).to_be_visible()
    page.keyboard.press("Enter")


def becomes(read: Callable[[], T], wanted: T) -> None:
    """Wait until what is read is what is wanted; after a good while the two are compared a last time, to say how they differ."""
    end = time.monotonic() + 90
    while read() != wanted and time.monotonic() < end:
        time.sleep(0.05)
    assert read() == wanted


KEPT = """async () => {
  const open = indexedDB.open('mellow-span-site')
  const db = await new Promise((ok, no) => { open.onsuccess = () => ok(open.result); open.onerror = () => no(open.error) })
  if (!db.objectStoreNames.contains('entries')) return db.close(), 0
  const asked = db.transaction('entries').objectStore('entries').getAll()
  const rows = await new Promise(ok => { asked.onsuccess = () => ok(asked.result) })
  db.close()
  return rows.length
}"""


def kept(page: Page) -> int:
    """Return how many entries of the site log this browser still keeps."""
    found: int = page.evaluate(KEPT)
    return found
