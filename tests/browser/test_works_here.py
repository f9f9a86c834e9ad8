"""Without a server a job is worked out on the device: a design from survey to a printed schedule, a day on site, and once the server is back all of it once."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Browser, Page, expect

from mellow_span.jobs.models import Board, Circuit
from mellow_span.logbook.models import Entry
from tests.api.test_jobs import named
from tests.browser.conftest import PHONE, Server, new_page, sign_in
from tests.browser.hands import enter, saved, to
from tests.browser.test_whole import shed_feed, word_by_word
from tests.conftest import Firm

WORKS = "[data-works=ready]"


def at_hand(browser: Browser, server: Server, house: Firm, **more: object) -> Page:
    """The job open on a device that has loaded what works it out, and has the job with it."""
    page = new_page(browser, service_workers="allow", **more)
    sign_in(page, server, house)
    page.goto(f"{server.url}/jobs/{house.job.pk}/pulls")
    page.locator(WORKS).wait_for(state="attached")
    expect(page.get_by_text("This job also opens here without a signal")).to_be_visible()
    return page


@pytest.fixture
def desk(house: Firm, server: Server, browser: Browser) -> Page:
    return at_hand(browser, server, house)


@pytest.fixture
def phone(house: Firm, server: Server, browser: Browser) -> Page:
    return at_hand(browser, server, house, viewport=PHONE, has_touch=True)


def test_a_sub_main_with_its_circuits_is_designed_to_a_printed_schedule_with_no_server(desk: Page, house: Firm, server: Server) -> None:
    page = desk
    server.stop()
    # The list has what opens here.
    page.goto(server.url)
    expect(page.get_by_text("these are the jobs kept on this device")).to_be_visible()
    page.get_by_role("link", name="Orchard Row", exact=True).click()
    page.locator(WORKS).wait_for(state="attached")
    to(page, "Boards")
    page.get_by_role("button", name="add a board").click()
    expect(page.locator("nav").get_by_role("link", name=re.compile("New board"))).to_be_visible()
    expect(page.locator("[data-phase=away]")).to_contain_text("worked out on this device")
    shed_feed(page)
    # It is judged, with its working, and nobody was asked.
    expect(page.locator("[data-verdict]").first).not_to_contain_text("Working it out")
    expect(page.get_by_role("heading", name="Checks")).to_be_visible()
    word_by_word(page, "New board")
    enter(page, "Lamp", "100 W lights", "b6 rcbo 30mA 6kA", "1.5 flat", "8")
    expect(page.locator('[data-word="length"]')).to_have_text("8 m")
    # Lines are read here as well.
    page.locator("nav section").filter(has_text="New board").get_by_role("button", name=re.compile("new circuit")).click()
    lines = "heater 2kW b16 rcbo 30mA 2.5 flat: joists 9\nfreezer 300W b6 rcbo 30mA 1.5 flat: joists 6\nbench 3kW b16 rcbo 30mA 2.5 flat: joists 7"
    page.get_by_role("textbox", name="one per line").fill(lines)
    expect(page.locator("[data-said]")).to_have_count(3)
    page.get_by_role("button", name=re.compile("^add")).click()
    expect(page.locator("nav [data-circuit]").filter(has_text="freezer")).to_be_visible()
    # In the middle of it the page is opened anew, with no server still: everything typed is there, and is worked out again.
    page.reload()
    page.locator(WORKS).wait_for(state="attached")
    page.locator("nav [data-circuit]").filter(has_text="Shed feed").click()
    expect(page.get_by_role("heading", name="Checks")).to_be_visible()
    # What could be done, found here: sizes, and the longest run.
    page.locator("body").press("z")
    expect(page.get_by_role("dialog")).to_contain_text("mm²")
    page.keyboard.press("Escape")
    to(page, "Documents")
    page.get_by_role("button", name="Circuit schedule").click()
    page.get_by_role("button", name="make the PDF").click()
    expect(page.get_by_role("button", name="print it")).to_be_visible()
    with page.expect_download() as got:
        page.get_by_role("link", name="save schedule.html").click()
    told = got.value.path().read_text("utf-8")
    for said in ("Shed feed", "Freezer", "worked out on this device: not yet confirmed by the server"):
        assert said in told
    assert not Circuit.objects.filter(job=house.job, name="Shed feed").exists()
    server.start()
    saved(page)
    feed = Circuit.objects.get(job=house.job, name="Shed feed")
    assert feed.feeds == Board.objects.get(job=house.job, name="New board")
    # Everything is there once.
    assert sorted(Circuit.objects.filter(board=feed.feeds).values_list("name", flat=True)) == ["Bench", "Freezer", "Heater", "Lamp"]
    assert Board.objects.filter(job=house.job, name="New board").count() == 1
    expect(page.locator("[data-phase]")).not_to_contain_text("on this device")


def test_a_day_on_site_is_done_with_no_server_and_readings_are_judged_where_they_are_taken(
    phone: Page, house: Firm, server: Server
) -> None:
    about, shower = f"{server.url}/jobs/{house.job.pk}", named(house, "Shower")
    server.stop()
    phone.goto(f"{about}/pulls")
    line = phone.locator("[data-pull]").filter(has_text="Shower")
    expect(phone.get_by_text("worked out on this device").first).to_be_visible()
    line.get_by_role("button").tap()
    expect(line).to_contain_text("not sent yet")
    phone.goto(f"{about}/isolation?kind=circuit&id={shower.pk}")
    phone.get_by_role("button", name="start the record").tap()
    expect(phone.get_by_role("form", name="Next step")).to_contain_text("Tell everyone affected, and note what is energised now")
    phone.goto(f"{about}/tests?circuit={shower.pk}")
    row = phone.locator("[data-test=r1r2]").first
    row.get_by_role("textbox").fill("1.9")
    row.get_by_role("button", name="save").click()
    # Judged at once, beside what waits.
    expect(row).to_contain_text("1.9 Ω")
    expect(row).to_contain_text("not sent yet; judged on this device")
    expect(row).to_contain_text("outside limit")
    server.start()
    phone.goto(f"{about}/tests?circuit={shower.pk}")
    expect(phone.locator("[data-waiting]").first).to_have_attribute("data-waiting", "0")
    expect(row).not_to_contain_text("not sent yet")
    assert sorted(Entry.objects.filter(job=house.job).values_list("kind", flat=True)) == ["isolation", "pulled", "reading"]


KEEPS_WORKERS = (
    "const Own = Worker; window.made = []; window.Worker = class extends Own { constructor(...a) { super(...a); window.made.push(this) } }"
)


def test_a_worker_that_the_browser_ends_leaves_the_page_with_its_server_and_nothing_is_lost(
    house: Firm, server: Server, browser: Browser
) -> None:
    page = new_page(browser, service_workers="allow")
    page.add_init_script(KEEPS_WORKERS)
    sign_in(page, server, house)
    page.goto(f"{server.url}/jobs/{house.job.pk}/circuits/{named(house, 'Shower').pk}")
    page.locator(WORKS).wait_for(state="attached")
    page.evaluate("window.made.forEach((one) => one.terminate())")
    page.locator('[data-word="cable"]').focus()
    enter(page, "16 flat")
    expect(page.locator("[data-verdict]").first).to_contain_text("Marginal")
    saved(page)
    assert Circuit.objects.get(pk=named(house, "Shower").pk).run.cable["csa"] == 16


def test_switched_off_nothing_is_loaded_and_the_page_says_what_needs_a_signal(house: Firm, server: Server, browser: Browser) -> None:
    page = new_page(browser, service_workers="allow")
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url))
    sign_in(page, server, house)
    page.evaluate("localStorage.setItem('mellow-span/works-here', 'off')")
    page.goto(f"{server.url}/jobs/{house.job.pk}/pulls")
    expect(page.get_by_text("This job also opens here without a signal")).to_be_visible()
    server.stop()
    to(page, "Cable routes")
    expect(page.locator("[data-phase=away]")).to_be_visible()
    assert not [url for url in asked if "/assets/runtime-" in url]
    expect(page.locator("[data-works=off]")).to_be_attached()
    server.start()


# What each view of a job is called where it stands, and what of it needs the server.
VIEWS = {
    "": "Orchard Row", "survey": "Survey", "demand": "Maximum demand", "boards": "Boards", "boards/{board}": "House board", "routes": "Cable routes",
    "earthing": "Earthing and outbuildings", "coordination": "Selectivity", "what-if": "What if", "books": "Compare with another standard", "history": "History", "pulls": "Cable list", "stages": "Stages",
    "materials": "Materials", "ends": "Terminations", "revisions": "Revisions", "papers": "Documents", "existing": "Existing installation", "tests": "Test results",
    "tests?circuit={shower}": "Test results", "isolation": "Safe isolation", "isolation?kind=circuit&id={shower}": "Safe isolation",
    "circuits/{shower}": "Shower", "tables": "Tables", "demand?client=1": "What is wanted, room by room",
}  # fmt: skip
# Kept by the server alone, and not taken along.
NEEDS = {"history"}
GO = "path => { history.pushState(null, '', path); dispatchEvent(new PopStateEvent('popstate')) }"


def test_every_view_of_a_job_opens_with_no_server_and_says_what_it_lacks(desk: Page, house: Firm, server: Server) -> None:
    page, shower = desk, named(house, "Shower")
    troubles: list[str] = []
    page.on("pageerror", lambda error: troubles.append(str(error)))
    server.stop()
    page.goto(f"{server.url}/jobs/{house.job.pk}")
    page.locator(WORKS).wait_for(state="attached")
    for path, title in VIEWS.items():
        at = path.format(shower=shower.pk, board=Board.objects.get(job=house.job, name="House board").pk)
        page.evaluate(GO, f"/jobs/{house.job.pk}/{at}".rstrip("/"))
        main = page.get_by_role("main")
        expect(main.get_by_role("heading", name=title, exact=True).first, path).to_be_attached()
        if path in NEEDS:
            expect(main.get_by_text("signal").first, path).to_be_visible()
            continue
        # It has come to rest, on an answer: nothing is being fetched, and nothing has failed.
        expect(page.locator("main [aria-busy=true]"), path).to_have_count(0)
        expect(main.get_by_text("The server cannot be reached"), path).to_have_count(0)
        expect(main.get_by_text("Something went wrong"), path).to_have_count(0)
    assert troubles == []
