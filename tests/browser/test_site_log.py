"""What is written down on site, in a real browser: every tap is with the server once, or is told as refused with a way to keep it."""

from __future__ import annotations

import io
import json
import re
import uuid
from collections.abc import Callable, Iterator
from datetime import timedelta
from typing import Any

import pytest
from django.utils import timezone
from PIL import Image
from playwright.sync_api import Browser, Locator, Page, Route, expect

from mellow_span.jobs.models import Circuit
from mellow_span.logbook.models import Entry, Picture
from tests.browser.conftest import Server, new_page, sign_in
from tests.browser.hands import kept
from tests.conftest import Firm, make_colleague

PHONE = {"width": 390, "height": 844}
# One entry, or several together.
WRITE = re.compile(r"/api/jobs/[^/]+/site(/entries)?$")


# The storage where entries are kept takes nothing more.
FULL = (
    "const put = IDBObjectStore.prototype.put; IDBObjectStore.prototype.put = function (...a) {"
    " if (this.name === 'entries') throw new DOMException('full', 'QuotaExceededError'); return put.apply(this, a) };"
)


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
        ids = [] if body is None else [one["id"] for one in body.get("entries", [body])]
        seen.extend(ids[:1] if not seen else [])
        if not ids or left[0] <= 0 or (first and seen[0] not in ids):
            route.fallback()
            return
        left[0] -= 1
        route.fulfill(status=status, content_type="application/json", body=json.dumps({"detail": f"answered {status}", "errors": []}))

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
        FULL + "const set = Storage.prototype.setItem; Storage.prototype.setItem = function (k, v) {"
        " if (k.startsWith('mellow-span/site/')) throw new DOMException('full', 'QuotaExceededError'); return set.call(this, k, v) }"
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


# Many, photos, and what becomes of the device ---------------------------------------------------------------------------------


def test_a_day_of_taps_goes_out_in_few_questions(phone: Page, server: Server, house: Firm) -> None:
    at_pulls(phone, server, house)
    server.stop()
    count = ticks(phone).count()
    for _ in range(2):
        for n in range(count):
            tick(phone, n)
    expect(phone.get_by_text(f"{2 * count} entries wait in this browser")).to_be_visible()
    asked: list[str] = []
    phone.on("request", lambda r: asked.append(r.url) if r.method == "POST" and WRITE.search(r.url) else None)
    server.start()
    comes(phone, lambda: pulled(house), 2 * count)
    comes(phone, lambda: kept(phone), 0)
    assert len(asked) <= 6, asked


def picture(width: int = 3000, height: int = 2000) -> dict[str, Any]:
    """A photo as a camera takes it, with enough in it not to be small by itself."""
    out = io.BytesIO()
    Image.effect_noise((width // 10, height // 10), 40).resize((width, height)).convert("RGB").save(out, "JPEG", quality=92)
    return {"name": "photo.jpg", "mimeType": "image/jpeg", "buffer": out.getvalue()}


def at_tests(page: Page, server: Server, firm: Firm) -> Locator:
    page.goto(f"{server.url}/jobs/{firm.job.pk}/tests?circuit={Circuit.objects.get(board__job=firm.job, name='Shower').pk}")
    row = page.locator("[data-test=tight]").first
    row.wait_for()
    return row


def take(row: Locator) -> None:
    row.locator("input[type=file]").set_input_files(picture())


def photos(firm: Firm) -> int:
    return Picture.objects.filter(entry__job=firm.job).count()


def test_a_photo_is_made_small_and_the_text_goes_before_it(phone: Page, server: Server, house: Firm) -> None:
    row = at_tests(phone, server, house)
    server.stop()
    take(row)
    expect(phone.get_by_text("2 entries wait in this browser")).to_be_visible()
    order: list[str] = []
    phone.on(
        "request",
        lambda r: order.append(json.loads(r.post_data or "{}")["kind"]) if r.method == "POST" and r.url.endswith("/site") else None,
    )
    server.start()
    comes(phone, lambda: photos(house), 1)
    comes(phone, lambda: kept(phone), 0)
    assert order[-2:] == ["reading", "photo"]
    jpeg = bytes(Picture.objects.get(entry__job=house.job).jpeg)
    assert Image.open(io.BytesIO(jpeg)).size == (1600, 1067)
    assert len(jpeg) < 450_000
    shown = phone.request.get(f"{server.url}/api/jobs/{house.job.pk}/photos/{Entry.objects.get(job=house.job, kind='photo').pk}")
    assert shown.body() == jpeg


def test_a_signal_that_goes_in_the_middle_of_a_photo_loses_none(phone: Page, server: Server, house: Firm) -> None:
    row = at_tests(phone, server, house)
    server.stop()
    for n in range(3):
        take(row)
        expect(phone.get_by_text(f"{2 * n + 2} entries wait in this browser")).to_be_visible()
    broken = [0]

    def cut(route: Route) -> None:
        if '"photo"' in (route.request.post_data or "")[:200] and broken[0] < 2:
            broken[0] += 1
            route.abort("connectionreset")
        else:
            route.fallback()

    phone.route(WRITE, cut)
    server.start()
    comes(phone, lambda: photos(house), 3)
    comes(phone, lambda: kept(phone), 0)
    assert broken[0] == 2
    assert Entry.objects.filter(job=house.job).count() == 6


def test_photos_wait_over_a_reload(phone: Page, server: Server, house: Firm) -> None:
    row = at_tests(phone, server, house)
    refuse(phone, 503)
    take(row)
    expect(phone.get_by_text("2 entries wait in this browser")).to_be_visible()
    comes(phone, lambda: kept(phone), 2)
    phone.unroute(WRITE)
    phone.reload()
    comes(phone, lambda: photos(house), 1)
    comes(phone, lambda: kept(phone), 0)


def test_a_full_disk_says_so_at_the_tap_and_keeps_the_text(house: Firm, server: Server, browser: Browser) -> None:
    page = new_page(browser, viewport=PHONE, has_touch=True)
    page.add_init_script(FULL)
    sign_in(page, server, house)
    row = at_tests(page, server, house)
    refuse(page, 503)
    take(row)
    expect(page.get_by_role("alert").filter(has_text="This browser cannot keep an entry")).to_be_visible()
    # The photo goes with the page; the words are there after it.
    page.unroute(WRITE)
    page.goto("about:blank")
    at_tests(page, server, house)
    comes(page, lambda: Entry.objects.filter(job=house.job, kind="reading").count(), 1)
    assert page.evaluate("Object.keys(localStorage).filter(k => k.startsWith('mellow-span/site/')).length") == 0
    page.context.close()


def test_little_room_is_told_before_it_is_gone(house: Firm, server: Server, browser: Browser) -> None:
    page = new_page(browser, viewport=PHONE, has_touch=True)
    page.add_init_script("navigator.storage.estimate = async () => ({quota: 100e6, usage: 92e6})")
    page.add_init_script("window.asked = 0; navigator.storage.persist = async () => { window.asked++; return true }")
    sign_in(page, server, house)
    at_pulls(page, server, house)
    expect(page.locator("[data-room]")).to_contain_text("8 MB")
    tick(page, 0)
    comes(page, lambda: pulled(house), 1)
    assert page.evaluate("window.asked") == 1
    page.context.close()


def test_storage_that_is_thrown_away_under_an_open_page_loses_nothing(phone: Page, server: Server, house: Firm) -> None:
    at_pulls(phone, server, house)
    refuse(phone, 503)
    tick(phone, 0)
    tick(phone, 1)
    comes(phone, lambda: kept(phone), 2)
    phone.evaluate("new Promise((ok, no) => { const d = indexedDB.deleteDatabase('mellow-span-site'); d.onsuccess = ok; d.onerror = no })")
    phone.unroute(WRITE)
    comes(phone, lambda: pulled(house), 2)
    comes(phone, lambda: kept(phone), 0)


def test_entries_of_an_earlier_version_of_the_page_go_out_after_an_update(phone: Page, server: Server, house: Firm) -> None:
    at_pulls(phone, server, house)
    person = phone.evaluate("fetch('/api/session').then(r => r.json()).then(s => s.person)")
    shower = Circuit.objects.get(board__job=house.job, name="Shower").pk
    entry = {"id": str(uuid.uuid4()), "kind": "pulled", "subject": str(shower), "data": {"done": True}, "at": timezone.now().isoformat()}
    phone.evaluate("([k, v]) => localStorage.setItem(k, v)", [f"mellow-span/site/{person}/{house.job.pk}/{entry['id']}", json.dumps(entry)])
    phone.reload()
    comes(phone, lambda: pulled(house), 1)
    assert str(Entry.objects.get(job=house.job).pk) == entry["id"]
    comes(phone, lambda: phone.evaluate("Object.keys(localStorage).filter(k => k.startsWith('mellow-span/site/')).length"), 0)


# Two, and what becomes of the answer -------------------------------------------------------------------------------------------


def test_two_phones_without_a_signal_bring_all_their_taps(phone: Page, server: Server, house: Firm, browser: Browser) -> None:
    mate = new_page(browser, viewport=PHONE, has_touch=True)
    sign_in(mate, server, house)
    for page in (phone, mate):
        at_pulls(page, server, house)
    server.stop()
    for page, which in ((phone, (0, 1, 2)), (mate, (2, 3))):
        for n in which:
            tick(page, n)
    server.start()
    comes(phone, lambda: pulled(house), 5)
    for page in (phone, mate):
        comes(page, lambda page=page: kept(page), 0)  # type: ignore[misc]
        at_pulls(page, server, house)
        for n in range(4):
            expect(ticks(page).nth(n)).to_have_attribute("aria-pressed", "true")
    mate.context.close()


def test_of_two_about_the_same_cable_the_later_one_counts(phone: Page, server: Server, house: Firm, browser: Browser) -> None:
    mate = new_page(browser, viewport=PHONE, has_touch=True)
    sign_in(mate, server, house)
    for page in (phone, mate):
        at_pulls(page, server, house)
        refuse(page, 503)
    tick(phone, 0)
    tick(mate, 0)
    tick(mate, 0)
    expect(mate.get_by_text("2 entries wait in this browser")).to_be_visible()
    # The one that was made last arrives first.
    mate.unroute(WRITE)
    comes(mate, lambda: pulled(house), 2)
    phone.unroute(WRITE)
    comes(phone, lambda: pulled(house), 3)
    at_pulls(phone, server, house)
    expect(ticks(phone).nth(0)).to_have_attribute("aria-pressed", "false")
    mate.context.close()


def test_an_entry_whose_answer_was_lost_is_there_once(phone: Page, server: Server, house: Firm) -> None:
    at_pulls(phone, server, house)
    lost = [0]

    def lose(route: Route) -> None:
        lost[0] += 1
        if lost[0] == 1:
            route.fetch()
            route.abort("connectionreset")
        else:
            route.fallback()

    phone.route(WRITE, lose)
    tick(phone, 0)
    comes(phone, lambda: kept(phone), 0)
    assert lost[0] >= 2
    assert pulled(house) == 1


def test_a_page_closed_right_after_the_tap_has_kept_it(house: Firm, server: Server, browser: Browser) -> None:
    page = new_page(browser, viewport=PHONE, has_touch=True)
    sign_in(page, server, house)
    at_pulls(page, server, house)
    refuse(page, 503)
    tick(page, 0)
    expect(page.get_by_text("1 entry waits in this browser")).to_be_visible()
    again = page.context.new_page()
    page.close()
    at_pulls(again, server, house)
    comes(again, lambda: pulled(house), 1)
    comes(again, lambda: kept(again), 0)
    again.context.close()


def test_what_waits_of_one_person_is_not_sent_by_another_on_the_same_phone(phone: Page, server: Server, house: Firm) -> None:
    at_pulls(phone, server, house)
    refuse(phone, 503)
    tick(phone, 0)
    comes(phone, lambda: kept(phone), 1)
    mate = make_colleague(house)
    phone.context.clear_cookies()
    phone.unroute(WRITE)
    sign_in(phone, server, Firm(mate.user.username, house.job, mate))
    at_pulls(phone, server, house)
    expect(ticks(phone).nth(0)).to_have_attribute("aria-pressed", "false")
    tick(phone, 1)
    comes(phone, lambda: pulled(house), 1)
    assert kept(phone) == 1
    phone.context.clear_cookies()
    sign_in(phone, server, house)
    at_pulls(phone, server, house)
    comes(phone, lambda: pulled(house), 2)
    assert {e.by_id for e in Entry.objects.filter(job=house.job)} == {mate.pk, house.member.pk}
    comes(phone, lambda: kept(phone), 0)


def test_entries_of_a_job_that_was_deleted_meanwhile_are_told_in_the_list(phone: Page, server: Server, house: Firm) -> None:
    at_pulls(phone, server, house)
    refuse(phone, 503)
    tick(phone, 0)
    comes(phone, lambda: kept(phone), 1)
    house.job.__class__.objects.filter(pk=house.job.pk).update(removed=timezone.now())
    phone.unroute(WRITE)
    phone.goto(server.url)
    house.job.__class__.objects.filter(pk=house.job.pk).update(removed=None)
    phone.reload()
    comes(phone, lambda: pulled(house) + kept(phone), 1)


def test_a_phone_whose_clock_is_slow_is_put_right(house: Firm, server: Server, browser: Browser) -> None:
    page = new_page(browser, viewport=PHONE, has_touch=True)
    page.clock.install()
    sign_in(page, server, house)
    page.clock.set_system_time((timezone.now() - timedelta(hours=3)).isoformat())
    at_pulls(page, server, house)
    tick(page, 0)
    comes(page, lambda: pulled(house), 1)
    entry = Entry.objects.get(job=house.job)
    assert abs(entry.at - timezone.now()) < timedelta(minutes=3)
    assert entry.clock is not None
    assert entry.at - entry.clock > timedelta(hours=2)
    page.context.close()
