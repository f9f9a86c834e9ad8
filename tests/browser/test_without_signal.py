"""Without a signal: a job that was opened on a device opens there with no server at all, and takes entries."""

from __future__ import annotations

import pytest
from playwright.sync_api import Browser, Page, expect

from mellow_span.logbook.models import Entry
from tests.api.test_jobs import named
from tests.browser.conftest import PHONE, Server, new_page, sign_in
from tests.browser.hands import becomes
from tests.conftest import Firm


@pytest.fixture
def phone(house: Firm, server: Server, browser: Browser) -> Page:
    page = new_page(browser, viewport=PHONE, has_touch=True, service_workers="allow")
    sign_in(page, server, house)
    page.goto(f"{server.url}/jobs/{house.job.pk}/pulls")
    expect(page.get_by_text("This job also opens here without a signal")).to_be_visible()
    return page


def test_a_job_that_was_opened_here_opens_and_takes_entries_with_no_server_at_all(phone: Page, house: Firm, server: Server) -> None:
    about = f"{server.url}/jobs/{house.job.pk}"
    server.stop()
    phone.goto(f"{about}/pulls")
    shower = phone.locator("[data-pull]").filter(has_text="Shower")
    expect(phone.get_by_text("No signal: showing what this device last received")).to_be_visible()
    shower.get_by_role("button").tap()
    expect(shower).to_contain_text("not sent yet")
    # A page that was never gone to, and a place in it.
    phone.goto(f"{about}/isolation?kind=circuit&id={named(house, 'Shower').pk}")
    phone.get_by_role("button", name="start the record").tap()
    expect(phone.get_by_role("form", name="Next step")).to_contain_text("Tell everyone affected, and note what is energised now")
    phone.goto(f"{about}/tests?circuit={named(house, 'Shower').pk}")
    row = phone.locator("[data-test=r1r2]").first
    row.get_by_role("textbox").fill("0.1")
    row.get_by_role("button", name="save").click()
    expect(row).to_contain_text("0.1 Ω")
    # Nothing of it is lost when the page is opened anew; the design stands there as it was.
    phone.goto(about)
    expect(phone.get_by_role("heading", name="Orchard Row")).to_be_visible()
    expect(phone.locator("[data-phase=away]")).to_be_visible()
    phone.goto(f"{about}/pulls")
    expect(phone.get_by_text("3 entries wait in this browser")).to_be_visible()
    assert not Entry.objects.filter(job=house.job).exists()
    # What the core has to work out waits, and says so where it stands.
    phone.goto(f"{about}/papers?paper=schedule")
    expect(phone.get_by_text("A11 Kitchen island: Line")).to_be_visible()
    phone.get_by_role("button", name="make the PDF").click()
    expect(phone.get_by_role("alert")).to_contain_text("Needs a signal")
    server.start()
    phone.goto(f"{about}/pulls")
    expect(phone.locator("[data-waiting]").first).to_have_attribute("data-waiting", "0")
    expect(shower).to_contain_text(f"pulled in by {house.username}")
    assert sorted(Entry.objects.filter(job=house.job).values_list("kind", flat=True)) == ["isolation", "pulled", "reading"]


def test_what_is_kept_on_a_device_goes_with_whoever_signs_out(phone: Page, house: Firm, server: Server) -> None:
    about = f"{server.url}/jobs/{house.job.pk}"
    kept = """() => new Promise((done) => { const ask = indexedDB.open("mellow-span-kept-2");
      ask.onsuccess = () => { const all = ask.result.transaction("answers").objectStore("answers").count();
      all.onsuccess = () => { done(all.result); ask.result.close(); }; }; })"""
    assert phone.evaluate(kept) > 20
    phone.get_by_role("button", name="more").click()
    phone.get_by_role("button", name="sign out").click()
    phone.get_by_role("button", name="sign in").wait_for()
    becomes(lambda: phone.evaluate(kept), 0)
    server.stop()
    phone.goto(f"{about}/pulls")
    expect(phone.get_by_text("The server cannot be reached")).to_be_visible()
    expect(phone.get_by_text("Shower")).to_have_count(0)
    server.start()
