"""Practice as an apprentice and as a supervisor: a step done wrong and done again, progress, a paper sat on a phone, its results, its print."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Browser, Page, expect

from mellow_span.core.practice.making import make
from mellow_span.learning.models import Sitting, Tried
from tests.browser.conftest import Server
from tests.browser.test_access import violations
from tests.browser.test_people import another, invite, join
from tests.conftest import Firm


def fill(page: Page, where: str, answers: dict[str, float], decides: set[str]) -> None:
    """Type figures into the lines of an exercise as a person writes them: three of them, with a comma now and then."""
    form = page.locator(where)
    for id, value in answers.items():
        line = form.locator(f"[data-line='{id}']")
        if id in decides:
            line.get_by_label("yes" if value else "no", exact=True).check()
        else:
            line.get_by_role("textbox").fill(f"{value:.3g}".replace(".", ",") if value < 1000 else f"{value:.0f}")


def lines(head: str, seed: int) -> tuple[dict[str, float], set[str]]:
    made = make(head, seed)
    return {x.id: made.solved[x.id] for x in made.lines}, {x.id for x in made.lines if x.decides}


def test_an_apprentice_finds_the_wrong_step_by_the_table_and_does_it_again(at_jobs: Page, house: Firm, server: Server) -> None:
    page = at_jobs
    page.get_by_role("link", name="Practice").click()
    page.get_by_role("heading", name="Practice", exact=True).wait_for()
    expect(page.locator("[data-head]")).to_have_count(12)
    assert violations(page) == []
    page.get_by_role("link", name="Zs and disconnection").click()
    page.wait_for_url(re.compile(r"seed=\d+"))
    seed = int(re.search(r"seed=(\d+)", page.url)[1])  # type: ignore[index]
    expect(page.get_by_text(f"seed {seed}")).to_be_visible()
    answers, decides = lines("loop", seed)
    wrong = {**answers, "r2": answers["r1"]}
    fill(page, "main", wrong, decides)
    # A hint opens the very table; no cell of it is lit.
    page.locator("[data-line='r2']").get_by_role("button", name=re.compile("^Table")).click()
    table = page.get_by_label(re.compile("^Table R20"))
    expect(table.get_by_role("row").first).to_be_visible()
    expect(table.locator("[data-lit]")).to_have_count(0)
    # What was typed outlives the page.
    page.reload()
    expect(page.locator("[data-line='r1'] input")).not_to_have_value("")
    page.locator("[data-line='r1'] input").fill("no number")
    page.get_by_role("button", name="mark it").click()
    expect(page.locator("[data-line='r1']").get_by_role("alert")).to_contain_text("A number is needed")
    fill(page, "main", {"r1": answers["r1"]}, set())
    page.get_by_role("button", name="mark it").click()
    r2 = page.locator("[data-line='r2']")
    expect(r2).to_have_attribute("data-stands", "wrong")
    expect(r2).to_contain_text("in this cable it is smaller")
    expect(page.get_by_role("status").filter(has_text="look at again is r2")).to_be_visible()
    expect(r2).not_to_contain_text("is correct")
    assert violations(page) == []
    r2.get_by_role("textbox").fill(f"{answers['r2']:g}")
    page.get_by_role("button", name="mark it").click()
    expect(page.locator("[data-marked=true]")).to_contain_text("Every line is right, or right from your own earlier figure")
    page.get_by_text("the worked solution").click()
    expect(page.locator("[data-solution]")).to_contain_text("), as worked out here")
    expect(page.locator("[data-solution]")).to_contain_text("Zs,max")
    assert violations(page) == []
    # The first time counts, and what was wrong is remembered.
    assert [(t.whole, t.slip) for t in Tried.objects.filter(member=house.member)] == [(False, "cpc_as_line")]
    page.get_by_role("button", name="another exercise").click()
    page.wait_for_url(lambda url: "seed=" in url and f"seed={seed}" not in url)
    page.get_by_role("link", name="Practice").first.click()
    loop = page.locator("[data-head=loop]")
    expect(loop).to_contain_text("0 of 1 fully correct")
    expect(loop).to_contain_text("most often: the cpc taken as the line")


def test_what_follows_from_a_wrong_figure_follows(at_jobs: Page, server: Server) -> None:
    page = at_jobs
    page.goto(f"{server.url}/practice/volt_drop?seed=3&tables=shut")
    made = make("volt_drop", 3)
    page.get_by_text("closed book, as in an exam").wait_for()
    expect(page.get_by_role("button", name=re.compile("^Table"))).to_have_count(0)
    right = made.solved
    mv = right["mV"] * 1.2
    volts = mv * right["Ib"] * right["L"] / 1000
    fill(page, "main", {"mV": mv, "VD": volts}, set())
    page.get_by_role("button", name="mark it").click()
    expect(page.locator("[data-line=mV]")).to_have_attribute("data-stands", "wrong")
    expect(page.locator("[data-line=VD]")).to_have_attribute("data-stands", "follows")
    expect(page.locator("[data-line=VD]")).to_contain_text("it follows from your own figure above")


@pytest.mark.parametrize("width", [390])
def test_a_paper_is_set_by_a_supervisor_sat_on_a_phone_and_read(
    width: int, at_jobs: Page, house: Firm, browser: Browser, server: Server
) -> None:
    page = at_jobs
    link = invite(page, "A learner", "apprentice")
    page.goto(f"{server.url}/practice")
    page.get_by_role("button", name="set a paper").click()
    form = page.get_by_role("form", name="A paper to set")
    form.get_by_role("button", name="set it").click()
    expect(form.get_by_role("alert")).to_contain_text("A title is needed")
    form.get_by_label("title").fill("Friday")
    form.get_by_label("Design current").check()
    form.get_by_label("Fixed pairs").check()
    form.get_by_label(re.compile("minutes")).fill("x")
    form.get_by_role("button", name="set it").click()
    expect(form.get_by_role("alert")).to_contain_text("1 to 300")
    form.get_by_label(re.compile("minutes")).fill("20")
    assert violations(page) == []
    form.get_by_role("button", name="set it").click()
    expect(page.locator("[data-paper]")).to_contain_text("2 exercises, 20 minutes, closed book")
    phone = another(browser)
    join(phone, link, "learner")
    phone.get_by_role("heading", name="Jobs", exact=True).wait_for()
    phone.set_viewport_size({"width": width, "height": 844})
    phone.goto(f"{server.url}/practice")
    expect(phone.get_by_role("button", name="set a paper")).to_have_count(0)
    phone.get_by_role("link", name=re.compile("^start")).click()
    expect(phone.get_by_role("timer")).to_contain_text("20 minutes left")
    assert phone.evaluate("document.documentElement.scrollWidth") <= width, "nothing is wider than the phone"
    assert violations(phone) == []
    sitting = Sitting.objects.get(paper__firm=house.member.firm)
    for at, (head, seed) in enumerate(sitting.seeds, 1):
        answers, decides = lines(head, seed)
        if at == 1:
            answers["Ib"] /= 1000
            answers.pop("In")
        fill(phone, f"section[aria-label='Exercise {at}']", answers, decides)
    phone.get_by_role("button", name="hand it in").click()
    expect(phone.get_by_role("alertdialog").or_(phone.get_by_role("dialog"))).to_contain_text("1 line is still blank")
    phone.get_by_role("button", name="hand it in").last.click()
    expect(phone.locator("[data-result]")).to_contain_text("1 of 2 fully correct")
    expect(phone.locator("[data-line=Ib]")).to_contain_text("kW for W")
    expect(phone.locator("[data-line=Ib]")).to_contain_text("is correct")
    # The supervisor reads it, and prints the paper with the answers apart.
    page.reload()
    page.get_by_role("link", name="results of 1").click()
    expect(page.locator("[data-result]")).to_contain_text("1 of 2 fully correct")
    assert violations(page) == []
    page.go_back()
    page.get_by_role("link", name="print it").click()
    expect(page.get_by_label("Answers")).to_contain_text("Answers: Friday")
    expect(page.get_by_text("Name: ____")).to_be_visible()
    assert violations(page) == []
    assert page.get_by_label("Answers").evaluate("e => getComputedStyle(e).breakBefore") == "page"
