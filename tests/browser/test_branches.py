"""A run that branches, in the browser: said in one line, drawn path by path, changed by hand, and on the phone."""

from __future__ import annotations

from playwright.sync_api import Browser, Page, expect

from mellow_span.core.design.check import check
from mellow_span.core.model.legs import paths
from mellow_span.core.model.parts import Circuit
from mellow_span.jobs.models import Job
from mellow_span.jobs.reads import installation
from tests.browser.conftest import PHONE, Server, new_page, open_circuit, sign_in
from tests.browser.hands import becomes, enter, saved, say
from tests.browser.test_access import accessible
from tests.conftest import Firm

LINE = "garden lights 6x8W b6 rcbo 30mA 6kA 1.5 flat: joists 6, box A [landing 4 timber, bath 25 timber], hall 7 timber"


def made(house: Firm) -> Circuit:
    return next(c for c in installation(Job.objects.get(pk=house.job.pk)).circuits if c.name == "Garden lights")


def shape(house: Firm) -> list[list[str]]:
    return [[s.name or s.box for s in path.spans] for path in paths(made(house).run)]


def test_a_branched_run_is_said_in_one_line_drawn_and_changed(at_jobs: Page, house: Firm, server: Server, browser: Browser) -> None:
    page = at_jobs
    say(page, "Orchard Row", LINE)
    becomes(lambda: "Garden lights" in {c.name for c in installation(Job.objects.get(pk=house.job.pk)).circuits}, True)
    assert shape(house) == [["box A", "hall"], ["box A", "landing", "bath"]]
    expect(page.get_by_text("along 4 spans, with 1 branch,")).to_be_visible()
    # Every end and box with its figures; drawn is the way to the end that stands worst.
    rows = page.locator("[data-end]")
    expect(rows).to_have_count(3)
    found = next(c for c in check(installation(Job.objects.get(pk=house.job.pk))).circuits if c.id == made(house).id)
    for end in found.ends:
        expect(page.locator(f"[data-end='{end.span}']")).to_contain_text(f"{end.zs:.3f}")
    expect(rows.filter(has_text="bath")).to_contain_text("drawn")
    accessible(page)
    # The tag of a branch draws the path along it; x goes from end to end.
    page.locator("[data-branch]").filter(has_text="hall").locator("text").click()
    expect(rows.filter(has_text="hall")).to_contain_text("drawn")
    expect(page.locator("[data-branch] text")).to_have_text(["landing … bath"])
    page.locator("body").press("x")
    expect(rows.filter(has_text="bath")).to_contain_text("drawn")
    # A branch of one's own from the end of a span, and the load put at its end.
    page.get_by_role("button", name="bath: an end").click()
    page.get_by_role("button", name="Branch from the end of this span").click()
    page.locator('[data-word="length"]').last.click()
    enter(page, "3")
    saved(page)
    becomes(lambda: len(made(house).run.spans), 5)
    # Enter has opened the next word that is missing.
    page.keyboard.press("Escape")
    page.locator('[data-word="what is at its end"]').click()
    expect(page.get_by_role("dialog").get_by_role("textbox")).to_be_focused()
    enter(page, "porch")
    saved(page)
    becomes(lambda: shape(house)[-1], ["box A", "landing", "bath", "porch"])
    page.locator('[data-word="where it leaves from"]').click()
    page.keyboard.type("from the board")
    page.keyboard.press("Enter")
    # The next word that is missing has opened by itself.
    expect(page.get_by_role("dialog").get_by_role("textbox")).to_have_value("")
    page.keyboard.press("Escape")
    saved(page)
    becomes(lambda: ["porch"] in shape(house), True)
    page.locator('[data-word="where garden lights stands"]').click()
    page.keyboard.type("porch")
    page.keyboard.press("Enter")
    saved(page)
    becomes(lambda: made(house).loads[0].span == made(house).run.spans[-1].id, True)
    # A span in the middle goes: what went on from it goes on from where it left.
    page.get_by_role("button", name="Span 3").click()
    page.get_by_role("button", name="remove", exact=True).click()
    becomes(lambda: shape(house), [["box A", "hall"], ["box A", "bath"], ["porch"]])
    page.keyboard.press("Control+z")
    becomes(lambda: ["box A", "landing", "bath"] in shape(house), True)
    saved(page)
    # On a phone: the list of ends and boxes, and the pieces on the cable list.
    phone = new_page(browser, viewport=PHONE, has_touch=True)
    sign_in(phone, server, house)
    phone.goto(page.url)
    expect(phone.locator("[data-end]")).to_have_count(4)
    assert phone.evaluate("document.documentElement.scrollWidth") <= PHONE["width"]
    phone.goto(f"{server.url}/jobs/{house.job.pk}/pulls")
    line = phone.locator("[data-pull]").filter(has_text="Garden lights")
    expect(line.locator("[data-pieces]")).to_contain_text("box A to bath")


def test_a_board_goes_in_along_a_feed_in_one_edit_and_comes_out_with_one_key(at_jobs: Page, house: Firm) -> None:
    page, job = at_jobs, lambda: installation(Job.objects.get(pk=house.job.pk))
    before = job()
    cooker = next(c for c in before.circuits if c.name == "Cooker")
    zs = next(c.zs for c in check(before).circuits if c.id == cooker.id)
    open_circuit(page, "Cooker")
    first = cooker.run.spans[0]
    page.get_by_role("button", name="Span 1").click()
    page.get_by_role("button", name="one goes in along this span").click()
    sheet = page.get_by_role("dialog", name="A board goes in here")
    sheet.get_by_label("How far along this span").fill("99")
    sheet.get_by_label("What the board is called").fill("Pantry board")
    expect(sheet.get_by_role("alert")).to_contain_text("m along this span")
    expect(sheet.get_by_role("button", name="put it in")).to_be_disabled()
    accessible(page)
    sheet.get_by_label("How far along this span").fill("1,5")
    sheet.get_by_role("button", name="put it in").click()
    saved(page)
    becomes(lambda: {b.name for b in job().boards} - {b.name for b in before.boards}, {"Pantry board"})
    now = job()
    board = next(b for b in now.boards if b.name == "Pantry board")
    feed, rest = (next(c for c in now.circuits if c.id == cooker.id), next(c for c in now.circuits if c.board == board.id))
    assert (feed.feeds, feed.loads, feed.name) == (board.id, (), "Feed to Pantry board")
    assert (rest.name, [x.name for x in rest.loads], rest.device) == ("Cooker", [x.name for x in cooker.loads], cooker.device)
    assert [s.length for s in feed.run.spans] == [1.5]
    assert sum(s.length or 0 for c in (feed, rest) for s in c.run.spans) == sum(s.length or 0 for s in cooker.run.spans)
    assert (first.length or 0) > 1.5
    # The same copper, cut in two: what a fault meets at its far end has not changed.
    after = next(c.zs for c in check(now).circuits if c.id == rest.id)
    assert after is not None
    assert zs is not None
    assert abs(after - zs) < 1e-9
    page.keyboard.press("Escape")
    page.locator("body").press("Control+z")
    becomes(job, before)
