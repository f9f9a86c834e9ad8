"""What is written down on site, in a real browser: every tap is with the server once, or is told as refused with a way to keep it."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from datetime import timedelta

import pytest
from django.utils import timezone
from playwright.sync_api import Browser, Locator, Page, Route, expect

from mellow_span.jobs.models import Circuit
from mellow_span.logbook.models import Entry
from tests.browser.conftest import Server, new_page, sign_in
from tests.browser.hands import kept
from tests.conftest import Firm

PHONE = {"width": 390, "height": 844}
WRITE = "**/site"


@pytest.fixture
def phone(house: Firm, server: Server, browser: Browser) -> Iterator[Page]:
    page = new_page(browser, viewport=PHONE, has_touch=True)
    sign_in(page, server, house)
    yield page
    page.context.close()


def at_pulls(page: Page, server: Server, firm: Firm) -> None:
    page.goto(f"{server.url}/jobs/{firm.job.pk}/pulls")
    page.locator("[data-pull]").first.wait_for()


def ticks(page: Page) -> Locator:
    return page.locator("[data-pull] button[aria-pressed]")


def tick(page: Page, n: int) -> None:
    ticks(page).nth(n).tap()


def comes(page: Page, read: Callable[[], int], wanted: int) -> None:
    """Wait until what is read is what is wanted; the page goes on meanwhile, and what stands in for the server with it."""
    for _ in range(900):
        if read() == wanted:
            return
        page.wait_for_timeout(100)
    assert read() == wanted


def pulled(firm: Firm) -> int:
    return Entry.objects.filter(job=firm.job, kind="pulled").count()


def refuse(page: Page, status: int, times: int = 10_000, first: bool = False) -> None:
    """Answer writes of the log with a status, so many times; first: those of the entry that comes first alone."""
    left, seen = [times], list[str]()

    def answer(route: Route) -> None:
        body = json.loads(route.request.post_data or "{}") if route.request.method == "POST" else None
        seen.extend([body["id"]] if body is not None and not seen else [])
        if body is None or left[0] <= 0 or (first and body["id"] != seen[0]):
            route.fallback()
            return
        left[0] -= 1
        route.fulfill(status=status, content_type="application/json", body=json.dumps({"message": f"answered {status}", "errors": []}))

    page.route(WRITE, answer)


def test_taps_without_a_signal_wait_over_a_reload_and_go_out_once(phone: Page, server: Server, house: Firm) -> None:
    at_pulls(phone, server, house)
    server.stop()
    tick(phone, 0)
    tick(phone, 1)
    expect(phone.get_by_text("2 entries wait in this browser")).to_be_visible()
    assert kept(phone) == 2
    server.start()
    comes(phone, lambda: pulled(house), 2)
    comes(phone, lambda: kept(phone), 0)
    phone.reload()
    expect(ticks(phone).nth(0)).to_have_attribute("aria-pressed", "true")


def test_what_waits_is_told_in_the_list_and_sent_from_there_after_a_sign_in(phone: Page, server: Server, house: Firm) -> None:
    at_pulls(phone, server, house)
    refuse(phone, 401)
    tick(phone, 0)
    expect(phone.get_by_text("1 entry waits in this browser")).to_be_visible()
    phone.goto(server.url)
    expect(phone.locator("[data-unsent-site]")).to_contain_text("1 entry from site waiting")
    phone.get_by_role("button", name="more").first.tap()
    phone.get_by_role("button", name="sign out").tap()
    expect(phone.get_by_role("alertdialog")).to_contain_text("1 change or entry waits in this browser")
    phone.get_by_role("button", name="stay").tap()
    phone.unroute(WRITE)
    phone.reload()
    comes(phone, lambda: pulled(house), 1)
    expect(phone.locator("[data-unsent-site]")).to_have_count(0)


def test_an_entry_about_a_part_removed_meanwhile_is_kept_and_told(phone: Page, server: Server, house: Firm, browser: Browser) -> None:
    at_pulls(phone, server, house)
    said = ticks(phone).nth(0).get_attribute("aria-label") or ""
    name = said.partition(" ")[2].partition(": not pulled")[0]
    gone = Circuit.objects.get(board__job=house.job, name=name)
    refuse(phone, 503)
    tick(phone, 0)
    other = new_page(browser)
    sign_in(other, server, house)
    body = {
        "edit_id": "3b8a0c2e-2f6f-4c0e-9d0a-0a5b6c7d8e9f",
        "version": 1,
        "changes": [{"op": "remove", "kind": "circuit", "id": str(gone.pk)}],
    }
    other.goto(f"{server.url}/jobs/{house.job.pk}")
    other.locator("[data-circuit]").filter(has_text=name).wait_for()
    status = other.evaluate(
        """async ([job, body]) => (await fetch(`/api/jobs/${job}`, {method: 'PATCH', headers: {'content-type': 'application/json',
        'x-csrftoken': document.cookie.match(/csrftoken=([^;]+)/)?.[1] ?? ''}, body: JSON.stringify(body)})).status""",
        [str(house.job.pk), body],
    )
    other.context.close()
    assert status == 200
    phone.unroute(WRITE)
    comes(phone, lambda: pulled(house), 1)
    phone.goto(f"{server.url}/jobs/{house.job.pk}/tests")
    expect(phone.locator("[data-gone]")).to_contain_text("pulled in")


@pytest.mark.parametrize("status", [429, 500, 503])
def test_one_entry_that_meets_trouble_holds_up_no_other_and_goes_later(status: int, phone: Page, server: Server, house: Firm) -> None:
    at_pulls(phone, server, house)
    refuse(phone, status, 2, first=True)
    tick(phone, 0)
    tick(phone, 1)
    comes(phone, lambda: pulled(house), 2)
    comes(phone, lambda: kept(phone), 0)


def test_an_answer_that_is_none_is_an_outage_and_nothing_leaves_for_it(phone: Page, server: Server, house: Firm) -> None:
    at_pulls(phone, server, house)
    phone.route(WRITE, lambda route: route.fulfill(status=200, content_type="text/html", body="<html>a proxy</html>"))
    tick(phone, 0)
    expect(phone.get_by_text("1 entry waits in this browser")).to_be_visible()
    assert kept(phone) == 1
    phone.unroute(WRITE)
    comes(phone, lambda: pulled(house), 1)


def test_what_is_refused_stays_with_the_reason_and_a_way_to_keep_it(phone: Page, server: Server, house: Firm) -> None:
    at_pulls(phone, server, house)
    refuse(phone, 422, 1)
    tick(phone, 0)
    refused = phone.locator("[data-refused]")
    name = (ticks(phone).nth(0).get_attribute("aria-label") or "").partition(" ")[2].partition(": ")[0]
    expect(refused).to_contain_text(f"{name}: cable pulled in")
    expect(refused).to_contain_text("answered 422")
    with phone.expect_download() as saved:
        refused.get_by_role("link", name="save them as a file").tap()
    assert json.loads(saved.value.path().read_text())[0]["entry"]["kind"] == "pulled"
    phone.reload()
    expect(refused).to_contain_text("answered 422")
    refused.get_by_role("button", name="send again").tap()
    comes(phone, lambda: pulled(house), 1)
    expect(refused).to_have_count(0)
    refuse(phone, 422, 1)
    tick(phone, 1)
    refused.get_by_role("button", name="discard").tap()
    phone.get_by_role("alertdialog").get_by_role("button", name="discard").tap()
    expect(refused).to_have_count(0)
    comes(phone, lambda: kept(phone), 0)
    assert pulled(house) == 1


def test_a_phone_whose_clock_is_fast_is_put_right_and_both_times_are_told(house: Firm, server: Server, browser: Browser) -> None:
    page = new_page(browser, viewport=PHONE, has_touch=True)
    page.clock.install()
    sign_in(page, server, house)
    page.clock.set_system_time((timezone.now() + timedelta(minutes=15)).isoformat())
    page.goto(f"{server.url}/jobs/{house.job.pk}/tests?circuit={Circuit.objects.get(board__job=house.job, name='Shower').pk}")
    row = page.locator("[data-test=r1r2]").first
    row.get_by_role("textbox").fill("0.2")
    row.get_by_role("button", name="save").tap()
    comes(page, lambda: Entry.objects.filter(job=house.job, kind="reading").count(), 1)
    entry = Entry.objects.get(job=house.job, kind="reading")
    assert abs(entry.at - timezone.now()) < timedelta(minutes=3)
    assert entry.clock is not None
    assert entry.clock - entry.at > timedelta(minutes=10)
    expect(row).to_contain_text("the clock on site said")
    page.context.close()


def test_where_nothing_can_be_kept_it_is_said_and_sent_all_the_same(house: Firm, server: Server, browser: Browser) -> None:
    page = new_page(browser, viewport=PHONE, has_touch=True)
    page.add_init_script(
        "const put = IDBObjectStore.prototype.put; IDBObjectStore.prototype.put = function (...a) {"
        " if (this.name === 'entries') throw new DOMException('full', 'QuotaExceededError'); return put.apply(this, a) }"
    )
    sign_in(page, server, house)
    at_pulls(page, server, house)
    refuse(page, 503, 3)
    tick(page, 0)
    expect(page.get_by_role("alert").filter(has_text="This browser cannot keep an entry")).to_be_visible()
    comes(page, lambda: pulled(house), 1)
    expect(page.get_by_role("alert").filter(has_text="cannot keep")).to_have_count(0)
    page.context.close()


def test_two_windows_of_one_person_send_each_tap_once(phone: Page, server: Server, house: Firm) -> None:
    at_pulls(phone, server, house)
    second = phone.context.new_page()
    at_pulls(second, server, house)
    server.stop()
    tick(phone, 0)
    tick(second, 1)
    server.start()
    comes(phone, lambda: pulled(house), 2)
    comes(phone, lambda: kept(phone), 0)
    assert Entry.objects.filter(job=house.job).values("id").distinct().count() == 2
