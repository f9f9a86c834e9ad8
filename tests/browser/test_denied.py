"""A browser that keeps nothing, something on the way that answers for the server, a page that closes in the middle of a word."""

from __future__ import annotations

from playwright.sync_api import Browser, Page, Route, expect

from mellow_span.jobs.models import Job
from mellow_span.jobs.reads import installation
from mellow_span.logbook.models import Entry
from tests.api.test_jobs import named
from tests.browser.conftest import Server, new_page, open_circuit, sign_in
from tests.browser.hands import becomes, saved
from tests.browser.test_access import VIEWS
from tests.conftest import Firm

# As where all storage of a site is blocked: asking for either is refused.
DENIED = """for (const name of ['localStorage', 'sessionStorage', 'indexedDB', 'caches'])
  Object.defineProperty(globalThis, name, { configurable: true, get() { throw new DOMException('denied', 'SecurityError') } })"""


def length_of(house: Firm) -> float | None:
    found = next(c for c in installation(Job.objects.get(pk=house.job.pk)).circuits if c.name == "Shower")
    return found.run.spans[0].length


def lengthen(page: Page, metres: str) -> None:
    page.locator('[data-word="length"]').first.click()
    page.keyboard.type(metres)


def test_a_browser_that_denies_its_storage_shows_every_view_and_saves(browser: Browser, server: Server, house: Firm) -> None:
    page = new_page(browser)
    page.add_init_script(DENIED)
    sign_in(page, server, house)
    board, shower = house.job.board_set.get(name="House board").pk, named(house, "Shower").pk
    for path, heading in VIEWS:
        page.goto(f"{server.url}/jobs/{house.job.pk}" + path.replace("BOARD", str(board)).replace("CIRCUIT", str(shower)))
        expect(page.get_by_role("heading", name=heading, exact=True).first).to_be_visible()
    page.goto(server.url)
    open_circuit(page, "Shower")
    lengthen(page, "13")
    page.keyboard.press("Enter")
    saved(page)
    assert length_of(house) == 13
    # It says that it keeps nothing, and that what is not sent goes with the page.
    expect(page.get_by_role("alert").filter(has_text="This browser cannot keep anything now")).to_be_visible()
    # A tick on site goes out too.
    page.goto(f"{server.url}/jobs/{house.job.pk}/pulls")
    page.locator("[data-pull] button[aria-pressed]").first.click()
    becomes(lambda: Entry.objects.filter(job=house.job, kind="pulled").count(), 1)


def test_what_answers_in_place_of_the_server_takes_no_edit(at_shower: Page, house: Firm) -> None:
    page, before = at_shower, length_of(house)
    answers = [
        {"status": 200, "content_type": "application/json", "body": "{}"},
        {"status": 200, "content_type": "text/html", "body": "<html>Pay for the network</html>"},
        {"status": 404, "content_type": "text/html", "body": "<html>No such page</html>"},
        {"status": 403, "content_type": "application/json", "body": '{"error": "blocked"}'},
    ]
    seen = 0

    def stranger(route: Route) -> None:
        nonlocal seen
        seen += 1
        route.fulfill(**answers[seen % len(answers)])  # type: ignore[arg-type]

    page.route("**/api/**", stranger)
    lengthen(page, "12")
    page.keyboard.press("Enter")
    expect(page.locator("[data-phase]")).to_have_attribute("data-phase", "away")
    for _ in range(len(answers)):
        count = seen
        page.evaluate("dispatchEvent(new Event('online'))")
        becomes(lambda c=count: (page.wait_for_timeout(50), seen > c)[1], True)  # type: ignore[misc]
        expect(page.locator("[data-phase]")).to_have_attribute("data-phase", "away")
    expect(page.locator("[data-parked]")).to_have_count(0)
    assert length_of(house) == before
    page.unroute("**/api/**")
    page.evaluate("dispatchEvent(new Event('online'))")
    saved(page)
    assert length_of(house) == 12


def test_a_page_that_closes_keeps_the_word_that_was_half_typed(at_shower: Page, house: Firm, server: Server) -> None:
    page = at_shower
    lengthen(page, "11")
    page.goto("about:blank")
    page.goto(f"{server.url}/jobs/{house.job.pk}")
    saved(page)
    becomes(lambda: length_of(house), 11)
    # A line of circuits that was begun stands there again; once it is added it does not.
    page.keyboard.press("n")
    line = page.get_by_role("textbox", name="one per line")
    line.fill("shed lights 6x8W b6 rcbo")
    page.goto("about:blank")
    page.goto(f"{server.url}/jobs/{house.job.pk}")
    page.get_by_role("heading", name="Orchard Row", exact=True).wait_for()
    page.keyboard.press("n")
    expect(line).to_have_value("shed lights 6x8W b6 rcbo")
    page.get_by_role("button", name="add it").click()
    saved(page)
    # The new circuit stands on its first missing word, where letters are typed.
    expect(page.locator("[data-word]:focus")).to_have_count(1)
    page.keyboard.press("Escape")
    page.keyboard.press("n")
    expect(line).to_have_value("")
