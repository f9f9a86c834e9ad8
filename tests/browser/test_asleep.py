"""A phone stops the pages behind the one in use: one that sends for all tabs must not keep their work while it sleeps."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from mellow_span.jobs.models import Circuit
from tests.browser.conftest import Server
from tests.browser.hands import becomes, kept, saved
from tests.browser.test_site_log import at_pulls, comes, phone, pulled, tick
from tests.conftest import Firm

__all__ = ["phone"]


def sleeps(page: Page, asleep: bool) -> None:
    page.context.new_cdp_session(page).send("Page.setWebLifecycleState", {"state": "frozen" if asleep else "active"})


def test_what_is_written_while_another_tab_sleeps_arrives_all_the_same(phone: Page, server: Server, house: Firm) -> None:
    at_pulls(phone, server, house)
    second = phone.context.new_page()
    at_pulls(second, server, house)
    before = Circuit.objects.filter(job=house.job).count()
    sleeps(phone, True)
    tick(second, 1)
    comes(second, lambda: pulled(house), 1)
    comes(second, lambda: kept(second), 0)
    # The design goes the same way.
    second.goto(f"{server.url}/jobs/{house.job.pk}")
    second.get_by_role("heading", name="Orchard Row", exact=True).wait_for()
    saved(second)
    second.locator("body").press("n")
    second.get_by_role("textbox", name="one per line").fill("shower 9.5kW B45 15m")
    expect(second.locator("[data-said=whole]")).to_be_visible()
    second.keyboard.press("Enter")
    becomes(lambda: Circuit.objects.filter(job=house.job).count(), before + 1)
    sleeps(phone, False)
    expect(phone.locator("[data-pull] button[aria-pressed=true]")).to_have_count(1)
    tick(phone, 2)
    comes(phone, lambda: pulled(house), 2)
