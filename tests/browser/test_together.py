"""Nothing typed is ever lost: taking back, the history, two people on one job, and edits that cannot be saved."""

from __future__ import annotations

import re
from collections.abc import Iterator
from datetime import timedelta

import pytest
from django.db import transaction
from django.utils import timezone
from playwright.sync_api import Browser, Page, expect

from mellow_span.jobs.models import Circuit, Edit, Epoch, Job, Span
from mellow_span.jobs.reads import forget, installation
from mellow_span.jobs.writes import persist
from tests.browser.conftest import Server, new_page, sign_in
from tests.browser.hands import becomes, of_job, saved
from tests.browser.test_access import violations
from tests.browser.test_circuit import sign_in_sheet
from tests.conftest import Firm, make_colleague

QUILT = "bathroom loft, under quilt"


@pytest.fixture
def colleague(browser: Browser, server: Server, house: Firm) -> Iterator[Page]:
    """A second person of the firm with a browser of their own, at the same job."""
    member = make_colleague(house)
    page = new_page(browser)
    sign_in(page, server, Firm(member.user.username, house.job, member))
    page.get_by_role("link", name="Orchard Row", exact=True).click()
    page.locator("[data-circuit]").filter(has_text="Shower").click()
    page.get_by_role("heading", name="Checks").wait_for()
    yield page
    page.context.close()


def type_length(page: Page, metres: str) -> None:
    page.locator('[data-word="span length"]').click()
    page.keyboard.type(metres)
    page.keyboard.press("Enter")


def quilt(house: Firm) -> float | None:
    return Span.objects.get(job=house.job, name=QUILT).length


def test_an_edit_is_taken_back_and_done_again_by_key(at_shower: Page, house: Firm) -> None:
    page = at_shower
    type_length(page, "1.7")
    saved(page)
    page.locator('[data-word="name"]').click()
    page.keyboard.type("Wet room")
    page.keyboard.press("Enter")
    saved(page)
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("Control+z")
    expect(page.locator('[data-word="name"]')).to_have_text("Shower")
    page.keyboard.press("Control+z")
    expect(page.locator('[data-word="span length"]')).to_have_text("2.4 m")
    saved(page)
    assert quilt(house) == 2.4
    page.keyboard.press("Control+Shift+z")
    expect(page.locator('[data-word="span length"]')).to_have_text("1.7 m")
    saved(page)
    page.keyboard.press("Control+Shift+z")
    expect(page.locator('[data-word="name"]')).to_have_text("Wet room")
    saved(page)
    page.keyboard.press("Control+Shift+z")
    expect(page.get_by_text("Nothing to redo.")).to_be_visible()
    assert quilt(house) == 1.7


def test_a_removed_circuit_comes_back_and_the_history_tells_it(at_shower: Page, house: Firm) -> None:
    page, before = at_shower, installation(house.job)
    row = page.locator("[data-circuit]").filter(has_text="Shower")
    row.focus()
    page.keyboard.press("Delete")
    page.get_by_role("alertdialog").get_by_role("button", name="remove it").click()
    expect(row).to_have_count(0)
    saved(page)
    page.keyboard.press("Control+z")
    expect(row).to_have_count(1)
    saved(page)
    house.job.refresh_from_db()
    assert installation(house.job) == before
    page.locator("body").press("h")
    expect(page.locator("[data-version='2']")).to_contain_text("Shower removed, with 1 load and 4 spans")
    expect(page.locator("[data-version='3']")).to_contain_text("undid version 2")
    page.locator("[data-version='2']").get_by_role("button", name="go back to here").click()
    page.get_by_role("alertdialog").get_by_role("button", name="go back").click()
    expect(page.locator("[data-version='4']")).to_contain_text("went back to version 2")
    assert not Circuit.objects.filter(job=house.job, name="Shower").exists()


def test_two_people_on_different_fields_see_no_dialog_and_each_others_edits(at_shower: Page, colleague: Page, house: Firm) -> None:
    page = at_shower
    # Mine is half typed when theirs arrives, and is not disturbed.
    page.locator('[data-word="span length"]').click()
    page.keyboard.type("1.")
    colleague.locator('[data-word="name"]').click()
    colleague.keyboard.type("Theirs")
    colleague.keyboard.press("Enter")
    saved(colleague)
    expect(page.locator('[data-word="name"]')).to_have_text("Theirs")
    expect(page.get_by_label("Length of the span")).to_have_value("1.")
    page.keyboard.type("9")
    page.keyboard.press("Enter")
    saved(page)
    expect(page.get_by_role("dialog")).to_have_count(0)
    assert (quilt(house), Circuit.objects.filter(job=house.job, name="Theirs").exists()) == (1.9, True)
    expect(colleague.locator('[data-word="span length"]')).to_have_text("1.9 m")


def test_only_the_same_field_is_asked_about_with_both_values(at_shower: Page, colleague: Page, house: Firm) -> None:
    page = at_shower
    page.route("**/api/jobs/*", lambda route: route.abort() if route.request.method == "GET" else route.continue_())
    type_length(colleague, "9")
    saved(colleague)
    type_length(page, "1.5")
    sheet = page.get_by_role("dialog")
    expect(sheet).to_contain_text(f"Shower, {QUILT}: length")
    expect(sheet).to_contain_text("it was 2.4 m")
    expect(sheet).to_contain_text("mine: 1.5 m")
    expect(sheet).to_contain_text(re.compile(r"colleague, .*: 9 m"))
    assert quilt(house) == 9
    sheet.get_by_label(re.compile("^mine")).check()
    page.get_by_role("button", name="save with these").click()
    saved(page)
    assert quilt(house) == 1.5


def test_an_edit_the_server_refuses_is_set_aside_and_the_rest_goes_on(at_shower: Page, house: Firm) -> None:
    page = at_shower
    # The span goes behind the page's back, past the history.
    job = Job.objects.get(pk=house.job.pk)
    value = installation(job)
    shower = next(c for c in value.circuits if c.name == "Shower")
    lost = shower.run.spans[1].id
    page.route("**/api/jobs/*", lambda route: route.abort() if route.request.method == "GET" else route.continue_())
    Span.objects.filter(pk=lost).delete()
    Job.objects.filter(pk=job.pk).update(version=2)
    from mellow_span.jobs.models import Edit

    Edit.objects.create(id="00000000-0000-4000-8000-000000000001", job=job, version=2, changes=[])
    forget(job)
    type_length(page, "1.5")
    expect(page.get_by_text("One edit was not accepted.")).to_be_visible()
    page.get_by_role("button", name="show", exact=True).click()
    expect(page.locator("[data-parked]")).to_contain_text("change span: length 1.5")
    page.get_by_role("button", name="close").click()
    page.locator('[data-word="name"]').click()
    page.keyboard.type("goes on")
    page.keyboard.press("Enter")
    saved(page)
    assert Circuit.objects.filter(job=house.job, name="goes on").exists()
    page.reload()
    page.get_by_role("button", name="show", exact=True).click()
    page.get_by_role("button", name="discard …").click()
    page.get_by_role("button", name="discard for good").click()
    expect(page.get_by_text("set aside")).to_have_count(0)


def test_two_tabs_of_one_browser_share_what_waits(at_shower: Page, server: Server, house: Firm) -> None:
    page = at_shower
    second = page.context.new_page()
    second.goto(page.url)
    second.get_by_role("heading", name="Checks").wait_for()
    server.stop()
    type_length(second, "1.3")
    expect(page.locator('[data-word="span length"]')).to_have_text("1.3 m")
    second.close()
    server.start()
    expect(page.locator("[data-phase]")).to_have_attribute("data-phase", "saved")
    assert quilt(house) == 1.3
    assert house.job.edits.count() == 1


def test_what_waits_at_a_sign_out_is_told_and_is_sent_for_nobody_else(at_shower: Page, server: Server, house: Firm) -> None:
    page = at_shower
    page.route("**/api/jobs/*", lambda route: route.abort() if route.request.method == "PATCH" else route.continue_())
    type_length(page, "1.1")
    expect(page.locator("[data-phase]")).to_have_attribute("data-phase", "away")
    page.get_by_role("button", name="sign out").click()
    expect(page.get_by_role("alertdialog")).to_contain_text("1 change or entry waits in this browser")
    page.get_by_role("alertdialog").get_by_role("button", name="sign out").click()
    page.get_by_label("Password").wait_for()
    page.unroute("**/api/jobs/*")
    other = make_colleague(house)
    sign_in(page, server, Firm(other.user.username, house.job, other))
    page.get_by_role("link", name="Orchard Row", exact=True).click()
    page.locator("[data-circuit]").filter(has_text="Shower").click()
    saved(page)
    assert quilt(house) == 2.4
    page.get_by_role("button", name="sign out").click()
    page.get_by_label("Password").wait_for()
    sign_in(page, server, house)
    expect(page.locator("[data-job]").filter(has_text="Orchard Row")).to_contain_text("1 unsent change waiting in this browser")
    page.get_by_role("link", name="Orchard Row", exact=True).click()
    expect(page.locator("[data-phase]")).to_have_attribute("data-phase", "saved")
    becomes(lambda: quilt(house), 1.1)


def test_signed_out_while_only_reading_asks_and_goes_on(at_shower: Page, house: Firm) -> None:
    page = at_shower
    page.context.clear_cookies()
    page.locator("[data-circuit]").filter(has_text="Cooker").click()
    sheet = page.get_by_role("dialog")
    expect(sheet).to_contain_text("Sign in to go on where you were")
    sign_in_sheet(sheet, house)
    expect(page.locator('[data-word="name"]')).to_have_text("Cooker")
    expect(page.get_by_role("heading", name="Checks")).to_be_visible()


def test_a_broken_job_is_a_line_of_the_list_and_can_be_mended(at_jobs: Page, house: Firm) -> None:
    page, value = at_jobs, installation(house.job)
    feed = next(c for c in value.circuits if c.feeds)
    kiln = next(c for c in value.circuits if c.name == "Kiln")
    from dataclasses import replace

    persist(house.job, value, replace(value, circuits=tuple(replace(c, feeds=feed.board) if c is kiln else c for c in value.circuits)))
    Job.objects.filter(pk=house.job.pk).update(version=2, trouble="This job cannot be worked out.")
    page.reload()
    expect(page.locator("[data-job]").filter(has_text="Orchard Row")).to_contain_text("not worked out")
    page.get_by_role("link", name="Orchard Row", exact=True).click()
    expect(page.get_by_role("alert")).to_contain_text("no board may feed itself")
    page.locator("[data-circuit]").filter(has_text="Kiln").click()
    page.locator('[data-word="feeds"]').click()
    page.keyboard.type("no further")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Checks")).to_be_visible()
    expect(page.get_by_text("No results yet.")).to_have_count(0)


def test_the_focus_stays_where_a_field_is_toggled(at_shower: Page) -> None:
    page = at_shower
    page.locator("summary", has_text="Other details").first.click()
    box = page.locator('[data-name="circuit.existing"] input')
    box.focus()
    page.keyboard.press("Space")
    saved(page)
    expect(box).to_be_checked()
    expect(box).to_be_focused()
    choice = page.locator('[data-name="circuit.phases"] select')
    choice.focus()
    choice.select_option("3")
    saved(page)
    expect(choice).to_be_focused()


def test_a_drag_that_is_given_up_changes_nothing(at_shower: Page, house: Firm) -> None:
    page = at_shower
    box = page.locator("[data-edge]").last.bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 50, y, steps=5)
    page.keyboard.press("Escape")
    page.mouse.up()
    expect(page.locator('[data-word="length"]')).to_have_text("14.7 m")
    saved(page)
    assert not house.job.edits.exists()


def test_jobs_are_searched_and_put_away(at_jobs: Page) -> None:
    page = at_jobs
    page.get_by_label("Search the jobs by name").fill("nothing like it")
    expect(page.get_by_text("No job matches.")).to_be_visible()
    page.get_by_label("Search the jobs by name").fill("orchard")
    of_job(page, "Orchard Row", "archive")
    expect(page.locator("[data-job]")).to_have_count(0)
    page.get_by_label("Which jobs").select_option("away")
    of_job(page, "Orchard Row", "move to current jobs")
    expect(page.get_by_text("No job matches.")).to_be_visible()


def test_a_backup_put_back_is_told_and_what_waits_is_set_aside(at_shower: Page, house: Firm) -> None:
    page = at_shower
    type_length(page, "1.7")
    saved(page)
    # The way is gone; meanwhile the server is put back to before that edit.
    page.context.set_offline(True)
    page.locator('[data-word="name"]').click()
    page.keyboard.type("Wet room")
    page.keyboard.press("Enter")
    expect(page.locator("[data-phase]")).to_contain_text("1 change kept in this browser")
    with transaction.atomic():
        Edit.objects.filter(job=house.job).delete()
        Span.objects.filter(job=house.job, name=QUILT).update(length=2.4)
        Job.objects.filter(pk=house.job.pk).update(version=1)
        Epoch.objects.all().delete()
        Epoch.objects.create(put_back=timezone.now() - timedelta(hours=1))
    forget(house.job)
    page.context.set_offline(False)
    told = page.get_by_text("This server was put back to")
    expect(told.first).to_be_visible()
    expect(page.get_by_text("Anything saved after that is gone.")).to_be_visible()
    # Nothing of before is shown as saved, and nothing goes out by itself.
    expect(page.locator('[data-word="name"]')).to_have_text("Shower")
    assert not Edit.objects.filter(job=house.job).exists()
    assert violations(page) == []
    page.get_by_role("button", name="show", exact=True).click()
    expect(page.locator("[data-parked]")).to_contain_text("look at the job as it is now, then try again or discard it")
    page.get_by_role("button", name="try again").click()
    becomes(lambda: Circuit.objects.filter(job=house.job, name="Wet room").exists(), True)
