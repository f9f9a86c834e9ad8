"""The book of a job as a person meets it: chosen at the start, another laid beside it, taken over as a copy that is kept, taken back."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from mellow_span.jobs.models import Job
from tests.browser.conftest import Server
from tests.browser.hands import saved
from tests.conftest import Firm


def test_a_job_starts_under_a_book_and_all_it_offers_is_of_that_book(at_jobs: Page, house: Firm) -> None:
    page = at_jobs
    page.get_by_label("Name of the new job").fill("Larch Cottage")
    book = page.get_by_label("Designed to")
    expect(book.locator("option")).to_have_count(2)
    book.select_option("iec60364")
    expect(page.locator("[data-start]")).to_contain_text("every number in it still to be checked †")
    page.get_by_role("button", name="start a job").click()
    expect(page.locator('[data-word="earthing"]')).to_be_focused()
    expect(page).to_have_title("Larch Cottage · Mellow Span")
    assert Job.objects.get(firm=house.member.firm, name="Larch Cottage").ruleset == "iec60364"
    page.get_by_role("link", name="IEC 60364", exact=True).wait_for()
    page.keyboard.press("Escape")
    page.locator('[data-word="fuse kind"]').click()
    expect(page.get_by_role("option", name="gG")).to_be_visible()
    page.keyboard.press("Escape")
    # A circuit said in a line is read with the ratings and places of this book, and its working cites it.
    expect(page.locator("[data-letters=word]")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.locator("[data-letters=commands]")).to_be_visible()
    page.keyboard.press("n")
    page.get_by_label("Circuits of Board of the house").wait_for()
    page.keyboard.type("cooker 7kW b32 6 flat: masonry 12")
    expect(page.locator("[data-said=whole]")).to_be_visible()
    page.keyboard.press("Enter")
    page.locator("[data-check=capacity]").click()
    working = page.get_by_role("region", name="Working")
    working.get_by_role("button", name="Table B.52.2").or_(working.get_by_text("B.52.2")).first.wait_for()
    page.get_by_role("link", name="Tables", exact=True).click()
    expect(page.get_by_role("link", name="B.52.2").or_(page.get_by_text("B.52.2", exact=True)).first).to_be_visible()
    expect(page.get_by_text("4D5")).to_have_count(0)


def test_a_job_is_laid_beside_another_book_and_put_under_it_as_a_copy_that_is_kept(at_jobs: Page, house: Firm, server: Server) -> None:
    page = at_jobs
    page.goto(f"{server.url}/jobs/{house.job.pk}/survey")
    page.get_by_role("link", name="BS 7671:2018+A2:2022").click()
    page.get_by_role("heading", name="Compare with another standard").wait_for()
    turned = page.locator("[data-turned]")
    expect(turned).to_contain_text("differ under IEC 60364")
    loft = page.locator("[data-beside-row]").filter(has_text="Loft room sockets")
    expect(loft).to_contain_text("22 A by BS 7671, 18 A by IEC 60364 †, against 20 A (433.1)")
    expect(page.get_by_label("only differences")).to_be_checked()
    loft.get_by_role("button", name="Loft room sockets").click()
    expect(loft.locator("[data-check=capacity]")).to_contain_text("Iz 22 A carries In 20 A")
    page.get_by_role("button", name="make a what-if copy under it").click()
    copy = page.locator("[data-copy]").filter(has_text="Under IEC 60364")
    expect(copy).to_contain_text("worse")
    expect(copy).to_contain_text("became IEC 60364")
    copy.get_by_role("button", name="apply to the job").click()
    saved(page)
    page.locator("body").press("i")
    expect(page.get_by_role("link", name="IEC 60364", exact=True)).to_be_visible()
    assert Job.objects.get(pk=house.job.pk).ruleset == "iec60364"
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    page.keyboard.press("Control+z")
    expect(page.get_by_role("link", name="BS 7671:2018+A2:2022")).to_be_visible()
    saved(page)
    assert Job.objects.get(pk=house.job.pk).ruleset == "bs7671"
