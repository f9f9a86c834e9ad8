"""People in the browser: invited, joined, proposing; a second step; devices; a client's link; and a search that takes a while."""

from __future__ import annotations

import random
from uuid import uuid4

from django.test import Client
from django_otp.oath import totp
from django_otp.plugins.otp_totp.models import TOTPDevice
from playwright.sync_api import Browser, Page, expect

from mellow_span.jobs.models import Copy, Job, Member
from mellow_span.jobs.reads import installation
from mellow_span.jobs.writes import take_in
from tests.api.test_jobs import named
from tests.browser.conftest import Server, new_page, open_circuit, sign_in, sign_in_by_hand
from tests.browser.hands import becomes, of_job, saved
from tests.browser.test_access import violations
from tests.conftest import PASSWORD, Firm
from tests.core.test_joint import deep

STRONG = "quince and plum 7"


def another(browser: Browser) -> Page:
    """Somebody else's browser."""
    return new_page(browser)


def invite(page: Page, name: str, role: str) -> str:
    page.get_by_role("link", name="Your firm").click()
    page.get_by_label("their name, as shown in the history").fill(name)
    page.get_by_label("Role of the person invited").select_option(role)
    page.get_by_role("button", name="make the link").click()
    return page.locator("[data-once]").inner_text()


def join(page: Page, link: str, username: str, password: str = STRONG) -> None:
    page.goto(link)
    page.get_by_label("a name to sign in with").fill(username)
    page.get_by_label("a password, 10 characters or more").fill(password)
    page.get_by_role("button", name="join", exact=True).click()


def test_an_apprentice_is_invited_proposes_and_a_designer_takes_it_over(at_jobs: Page, browser: Browser, house: Firm) -> None:
    boss, guest = at_jobs, another(browser)
    link = invite(boss, "Ash Fennel", "apprentice")
    assert violations(boss) == []
    guest.goto(link)
    expect(guest.get_by_text("you are invited to")).to_contain_text("as apprentice")
    assert violations(guest) == []
    join(guest, link, "ash", "1234567890")
    expect(guest.get_by_role("alert")).to_contain_text("too common")
    join(guest, link, "ash")
    guest.get_by_role("heading", name="Jobs").wait_for()
    guest.get_by_role("button", name="more: Orchard Row").click()
    expect(guest.get_by_role("menuitem")).to_have_text(["save as file"])
    guest.keyboard.press("Escape")
    # They change two things: figures follow, nothing is saved.
    open_circuit(guest, "Shower")
    bar = guest.get_by_role("region", name="Your proposal")
    expect(bar).to_contain_text("Change what you like: nothing is saved to the job until a designer accepts it")
    guest.locator('[data-word="csa"], [data-word="cable"]').first.click()
    guest.keyboard.type("16 mm")
    guest.keyboard.press("Enter")
    expect(bar).to_contain_text("1 change so far, kept in this browser, not submitted")
    guest.reload()
    expect(bar).to_contain_text("not submitted")
    assert violations(guest) == []
    assert Job.objects.get(pk=house.job.pk).version == 1
    bar.get_by_role("button", name="submit …").click()
    bar.get_by_label("What the proposal is called").fill("Larger cable for the shower")
    bar.get_by_role("button", name="submit", exact=True).click()
    expect(bar).to_contain_text("Submitted: a designer will find it under What if")
    # The supervisor finds it beside the job, and keeps it.
    boss.get_by_role("link", name="Jobs").click()
    boss.get_by_role("link", name="Orchard Row", exact=True).click()
    boss.get_by_role("link", name="What if").click()
    column = boss.locator("th").filter(has_text="Larger cable for the shower")
    expect(column).to_contain_text("Ash Fennel")
    column.get_by_role("button", name="apply to the job").click()
    becomes(lambda: {c.name: c.run.cable.csa for c in installation(Job.objects.get(pk=house.job.pk)).circuits}["Shower"], 16)
    # The link is used up.
    again = another(browser)
    again.goto(link)
    expect(again.get_by_role("alert")).to_contain_text("has been used, withdrawn or has expired")


def test_a_proposal_is_one_for_two_tabs_and_a_step_whose_part_is_gone_is_left_out_alone(
    at_jobs: Page, browser: Browser, house: Firm, server: Server
) -> None:
    boss, guest = at_jobs, another(browser)
    join(guest, invite(boss, "Elm Sorrel", "apprentice"), "elm")
    guest.get_by_role("heading", name="Jobs").wait_for()
    second = guest.context.new_page()
    for page, circuit in ((guest, "Shower"), (second, "Cooker")):
        page.goto(f"{server.url}/jobs/{house.job.pk}/circuits/{named(house, circuit).pk}")
        page.locator('[data-word="csa"], [data-word="cable"]').first.click()
        page.keyboard.type("16 mm")
        page.keyboard.press("Enter")
    bars = [page.get_by_role("region", name="Your proposal") for page in (guest, second)]
    for bar in bars:
        expect(bar).to_contain_text("2 changes so far, kept in this browser, not submitted")
    second.close()
    # One of the circuits goes: the step about it is kept with its reason, the other one is submitted.
    client = Client()
    client.force_login(house.member.user)
    gone = {"op": "remove", "kind": "circuit", "id": str(named(house, "Cooker").pk)}
    edit = {"edit_id": str(uuid4()), "version": 1, "epoch": "", "seen": [], "changes": [gone], "focus": None, "dry_run": False}
    answer = client.patch(f"/api/jobs/{house.job.pk}", edit, content_type="application/json")
    assert answer.status_code == 200, answer.content
    expect(bars[0]).to_contain_text("1 change so far")
    expect(guest.get_by_role("alert").filter(has_text="One edit was not accepted")).to_be_visible()
    bars[0].get_by_role("button", name="submit …").click()
    bars[0].get_by_label("What the proposal is called").fill("The shower alone")
    bars[0].get_by_role("button", name="submit", exact=True).click()
    expect(bars[0]).to_contain_text("Submitted")
    copy = Copy.objects.get(job=house.job)
    assert [c["id"] for c in copy.changes] == [str(named(house, "Shower").pk)]


def test_a_role_is_given_and_a_member_is_removed_at_once(at_jobs: Page, browser: Browser, house: Firm) -> None:
    boss, guest = at_jobs, another(browser)
    join(guest, invite(boss, "Rue Tansy", "designer"), "rue")
    guest.get_by_role("heading", name="Jobs").wait_for()
    boss.reload()
    boss.get_by_label("Role of Rue Tansy").select_option("apprentice")
    expect(boss.get_by_role("region", name="Activity")).to_contain_text("Rue Tansy: designer to apprentice")
    assert Member.objects.get(firm=house.member.firm, name="Rue Tansy").role == "apprentice"
    mine = boss.get_by_label(f"Role of {house.username}")
    mine.select_option("designer")
    expect(boss.get_by_role("alert")).to_contain_text("hand over first")
    boss.get_by_role("button", name="remove Rue Tansy").click()
    boss.get_by_role("alertdialog").get_by_role("button", name="remove them").click()
    expect(boss.locator("[data-member=rue]")).to_have_count(0)
    guest.reload()
    guest.get_by_label("Password").wait_for()
    # They come back under their name, though they forgot what they signed in with.
    boss.get_by_role("button", name="invite again: Rue Tansy").click()
    link = boss.locator("[data-once]").inner_text()
    assert violations(boss) == []
    guest.goto(link)
    expect(guest.get_by_text("set a new password for")).to_contain_text("rue")
    guest.get_by_label("new password, 10 characters or more").fill("1234567890")
    guest.get_by_role("button", name="set it and sign in").click()
    expect(guest.get_by_role("alert")).to_contain_text("too common")
    assert violations(guest) == []
    guest.get_by_label("new password, 10 characters or more").fill(STRONG + " again")
    guest.get_by_role("button", name="set it and sign in").click()
    guest.get_by_role("heading", name="Jobs").wait_for()
    boss.reload()
    expect(boss.locator("[data-member=rue]")).to_be_visible()
    expect(boss.get_by_role("region", name="Activity")).to_contain_text("set a new password by a link")


def test_a_known_person_joins_by_name_password_and_code(at_jobs: Page, browser: Browser, house: Firm) -> None:
    boss, guest = at_jobs, another(browser)
    join(guest, invite(boss, "Tansy Reed", "designer"), "tansy")
    guest.get_by_role("heading", name="Jobs").wait_for()
    user = Member.objects.get(firm=house.member.firm, name="Tansy Reed").user
    TOTPDevice.objects.create(user=user, confirmed=True)
    boss.reload()
    boss.get_by_role("button", name="remove Tansy Reed").click()
    boss.get_by_role("alertdialog").get_by_role("button", name="remove them").click()
    link = invite(boss, "Tansy", "apprentice")
    stranger = another(browser)
    join(stranger, link, "tansy", STRONG + " no")
    expect(stranger.get_by_role("alert")).to_contain_text("or your own, with its password")
    join(stranger, link, "tansy")
    device = TOTPDevice.objects.get(user=user)
    stranger.get_by_label("the code from your app, or a recovery code").fill(f"{totp(device.bin_key):06d}")
    stranger.get_by_role("button", name="join", exact=True).click()
    stranger.get_by_role("heading", name="Jobs").wait_for()


def test_a_second_step_is_turned_on_and_asked_for(at_jobs: Page, browser: Browser, server: Server, house: Firm) -> None:
    page = at_jobs
    page.get_by_role("link", name="Your account").click()
    page.get_by_role("button", name="turn it on …").click()
    page.locator("[data-secret]").wait_for()
    assert violations(page) == []
    device = TOTPDevice.objects.get(user=house.member.user)
    page.get_by_label("the six digits it shows now").fill(f"{totp(device.bin_key):06d}")
    page.get_by_role("button", name="turn it on", exact=True).click()
    codes = page.locator("[data-once]").inner_text().split()
    assert len(codes) == 10
    other = another(browser)
    other.goto(server.url)
    other.get_by_label("Name").fill(house.username.upper())
    other.get_by_label("Password").fill(PASSWORD)
    other.get_by_role("button", name="sign in").click()
    expect(other.get_by_role("alert")).to_contain_text("One more step")
    other.get_by_label("Code").fill(codes[3])
    other.get_by_role("button", name="sign in").click()
    other.get_by_role("heading", name="Jobs").wait_for()
    # And the device is signed out from here.
    page.reload()
    devices = page.get_by_role("region", name="Devices").locator("[data-device]")
    expect(devices).to_have_count(2)
    page.get_by_role("button", name="sign it out").click()
    expect(devices).to_have_count(1)
    other.reload()
    other.get_by_label("Password").wait_for()


def test_too_many_wrong_passwords_are_told_with_how_long_to_wait(house: Firm, server: Server, page: Page) -> None:
    page.goto(server.url)
    page.get_by_label("Name").fill(house.username)
    for i in range(5):
        page.get_by_label("Password").fill(f"wrong {i}")
        with page.expect_response("**/api/session"):
            page.get_by_role("button", name="sign in").click()
        expect(page.get_by_role("alert")).to_be_visible()
    expect(page.get_by_role("alert")).to_contain_text("Too many attempts. Wait 10 minutes")
    expect(page.get_by_label("Name")).to_have_value(house.username)


def test_a_client_reads_by_a_link_and_changes_nothing(at_jobs: Page, browser: Browser) -> None:
    page, client = at_jobs, another(browser)
    of_job(page, "Orchard Row", "links for clients")
    page.get_by_label("who it is for").fill("The potter")
    page.get_by_role("button", name="make a link").click()
    link = page.locator("[data-once]").inner_text()
    assert violations(page) == []
    client.goto(link)
    expect(client.get_by_role("heading", name="Orchard Row")).to_be_visible()
    shower = client.get_by_role("row").filter(has_text="Shower")
    expect(shower).to_contain_text("fails")
    expect(shower).to_contain_text("assumed")
    expect(client.get_by_text("A design aid only")).to_be_visible()
    assert violations(client) == []
    assert client.get_by_role("button").count() == 0
    with page.expect_response(lambda answer: answer.request.method == "DELETE" and answer.ok):
        page.get_by_role("button", name="cancel link: the link of The potter").click()
    client.reload()
    client.get_by_role("heading", name="This link no longer works").wait_for()


def test_a_person_of_two_firms_acts_in_one(at_jobs: Page, browser: Browser, server: Server, house: Firm) -> None:
    from tests.conftest import make_firm

    second = make_firm()
    there = another(browser)
    sign_in(there, server, second)
    link = invite(there, "A guest", "designer")
    page = at_jobs
    page.goto(link)
    page.get_by_role("button", name=f"join as {house.username}").click()
    firms = page.get_by_label("The firm you are working in")
    expect(firms.locator("option:checked")).to_have_text(second.username)
    firms.select_option(label=house.username)
    expect(firms.locator("option:checked")).to_have_text(house.username)
    mine = page.locator(f"[data-job='{house.job.pk}']")
    mine.get_by_role("link", name="Orchard Row", exact=True).click()
    page.wait_for_url(f"**/jobs/{house.job.pk}**")
    expect(page.locator(f"[data-job='{second.job.pk}']")).to_have_count(0)


def test_a_long_search_shows_how_far_it_is_and_ends(at_jobs: Page, server: Server, house: Firm, searcher: None) -> None:
    page = at_jobs
    row = take_in(house.member.firm, deep(6, 54, 5, random.Random(3)))
    page.goto(f"{server.url}/jobs/{row.pk}/boards?sizes=1")
    expect(page.get_by_role("status").filter(has_text="Trying sizes for every circuit")).to_be_visible()
    expect(page.locator("[data-cheapest]")).to_be_visible()
    expect(page.get_by_text("cheapest proven:")).to_be_visible()


def test_what_was_typed_is_saved_when_its_word_is_left_and_restored_by_escape(at_shower: Page, house: Firm) -> None:
    page = at_shower
    word = page.locator('[data-word="span length"]')
    word.click()
    page.keyboard.type("3.3")
    page.get_by_role("heading", name="Checks").click()
    expect(word).to_have_text("3.3 m")
    expect(page.locator("[data-phase]")).to_have_attribute("data-phase", "saved")
    word.click()
    page.keyboard.type("9.9")
    page.keyboard.press("Escape")
    expect(word).to_have_text("3.3 m")
    saved(page)
    assert house.job.edits.count() == 1


def test_one_signs_in_by_name_and_password_and_a_wrong_one_is_told(page: Page, server: Server, house: Firm) -> None:
    page.goto(server.url)
    page.get_by_label("Name").fill(house.username)
    page.get_by_label("Password").fill("not the one it is")
    page.get_by_role("button", name="sign in").click()
    expect(page.get_by_role("alert")).to_be_visible()
    sign_in_by_hand(page, server, house)
    expect(page.get_by_role("link", name="Orchard Row", exact=True)).to_be_visible()
