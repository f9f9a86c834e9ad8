"""Take the pictures of docs/screenshots from the demo data: ./run shots."""

from __future__ import annotations

import json
import os
import re
import shutil
import subprocess
import uuid
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "mellow_span.settings")
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")

import django

django.setup()

from playwright.sync_api import Page, sync_playwright

from bench.web import server
from mellow_span import demo
from mellow_span.exchange.document import read_file
from mellow_span.jobs.models import Firm, Member
from mellow_span.jobs.reads import installation
from mellow_span.jobs.writes import take_in
from mellow_span.logbook import log
from mellow_span.papers.pdf import pdf
from mellow_span.papers.register import paper
from mellow_span.papers.subject import Subject
from tests.browser.conftest import CHROMIUM, FLAGS, open_circuit
from tests.conftest import PASSWORD, make_colleague, make_firm

FOLDER = Path(__file__).parents[2] / "docs" / "screenshots"
BENCH, PHONE = (1280, 800), (390, 844)


def _circuit(page: Page) -> None:
    open_circuit(page, "Shower")
    page.get_by_role("button", name="It 36 A").click()
    page.locator("td[data-lit]").wait_for()


def _practice(page: Page) -> None:
    page.goto(page.url.partition("/jobs")[0].rstrip("/") + "/practice/loop?seed=4")
    for line, figure in (("r1", "3.08"), ("r2", "3.08"), ("F", "1.2"), ("R1+R2", "0.333"), ("Zs", "0.573"), ("Ia", "80")):
        page.locator(f"[data-line='{line}'] input").fill(figure)
    page.locator("[data-line=r2]").get_by_role("button", name="Table R20").click()
    page.get_by_role("button", name="mark it").click()
    page.get_by_text("The first line to look at again").wait_for()


def _books(page: Page) -> None:
    page.get_by_role("link", name="Orchard Row", exact=True).click()
    page.wait_for_url(re.compile("/jobs/"))
    page.goto(page.url + "/books?book=iec60364")
    page.locator("[data-beside-row]").first.wait_for()
    page.get_by_role("button", name="Loft room sockets").first.click()


def _attention(page: Page) -> None:
    page.get_by_role("link", name="Orchard Row", exact=True).click()
    page.get_by_text("Fails: must be put right").wait_for()


def _stage(page: Page, job: str, view: str) -> None:
    page.get_by_role("link", name=job, exact=True).click()
    page.locator("nav").get_by_role("link", name=re.compile(f"{view}( \\d+)?$")).first.click()
    page.get_by_role("heading", level=1).wait_for()
    page.wait_for_load_state("networkidle")


def _demand(page: Page) -> None:
    _stage(page, "Orchard Row", "Maximum demand")
    page.locator("[data-ways=intake] summary").click()
    page.locator("[data-ways=intake] [data-option]").first.wait_for()


def _boards(page: Page) -> None:
    _stage(page, "Orchard Row", "Boards")
    page.locator("[data-glance-row]").last.wait_for()


def _grid(page: Page) -> None:
    _stage(page, "Orchard Row", "Boards")
    page.locator("nav").get_by_role("link", name=re.compile("^House board")).click()
    page.locator("[data-cell='3-1']").click()
    page.keyboard.press("F2")


def _say(page: Page) -> None:
    page.get_by_role("link", name="Orchard Row", exact=True).click()
    page.get_by_role("heading", level=1).wait_for()
    page.locator("body").press("n")
    page.keyboard.type("towel rail 120W b6 rcbo 30mA 1.5 flat: landing joists 4, bathroom stud 2.5, wall 3")
    page.locator("[data-said]").wait_for()


def _coordination(page: Page) -> None:
    _stage(page, "Tern Quay boat store", "Selectivity")
    page.locator("[data-plot]").wait_for()


def _routes(page: Page) -> None:
    page.get_by_role("link", name="Tern Quay boat store", exact=True).click()
    page.locator("nav").get_by_role("link", name="Cable routes").click()
    page.locator("[data-section]").first.wait_for()
    page.locator("summary").filter(has_text="Try a change").first.click()
    page.locator("[data-tryout=split]").first.wait_for()


def _earthing(page: Page) -> None:
    _stage(page, "Orchard Row", "Earthing")
    page.locator("[data-way=both]").wait_for()


def _ways_out(page: Page) -> None:
    page.get_by_role("link", name="Mill Lane flat", exact=True).click()
    page.locator("[data-circuit]").filter(has_text="Water heater").click()
    page.get_by_role("heading", name="Checks").wait_for()
    page.locator("body").press("o")
    page.locator("[data-option]").first.wait_for()


def _site(page: Page, job: str, view: str) -> None:
    page.get_by_role("link", name=job, exact=True).click()
    page.get_by_role("list", name="On site").get_by_role("link", name=view).click()
    page.get_by_role("heading", name=view, exact=True).wait_for()


def _readings(page: Page) -> None:
    _site(page, "Mill Lane flat", "Test results")
    page.get_by_role("button", name="Ring").click()
    page.get_by_role("heading", name="Dead").wait_for()


def _isolation(page: Page) -> None:
    page.get_by_role("link", name="Tern Quay boat store", exact=True).click()
    page.wait_for_url(re.compile("/jobs/"))
    page.goto(page.url + "/isolation")
    page.get_by_label("What is to be made dead").select_option(label="Slipway board")
    page.get_by_role("button", name="start the record").click()
    looked = "looked at the meter and the bars"
    for words in ("the harbour office; all on", looked, looked, looked, looked, "tester 7 on the proving unit", ""):
        step = page.get_by_role("form", name="Next step")
        if words:
            step.get_by_role("textbox").fill(words)
        step.get_by_role("button", name="no" if words == looked else "done", exact=True).click()
        page.wait_for_timeout(300)


def _papers(page: Page) -> None:
    _site(page, "Mill Lane flat", "Documents")
    page.get_by_role("button", name="Test results").click()
    page.locator("[data-missing]").wait_for()


def printed() -> None:
    """A printed page: the working of a circuit, as it comes out of the printer."""
    if shutil.which("pdftoppm") is None:
        print("left paper: poppler-utils are not installed")
        return
    inputs, _ = read_file(json.loads((Path(demo.__file__).parent / "orchard_row.json").read_text("utf-8")))
    content = pdf(paper(Subject(inputs, printed="26 November 2026, 9:00 UTC"), "working", "kiln"))
    command = ["pdftoppm", "-png", "-r", "100", "-l", "1", "-singlefile", "-", str(FOLDER / "paper")]
    subprocess.run(command, input=content, check=True)
    print("took paper")


def _phone(page: Page) -> None:
    _attention(page)
    page.get_by_role("link", name="Shower Cable capacity").click()
    page.get_by_text("Fails by 4 A").wait_for()


SHOTS: list[tuple[str, tuple[int, int], str, Callable[[Page], None]]] = [
    ("jobs", BENCH, "light", lambda page: None),
    ("attention", BENCH, "light", _attention),
    ("survey", BENCH, "light", lambda page: _stage(page, "Orchard Row", "Survey")),
    ("demand", BENCH, "light", _demand),
    ("boards", BENCH, "light", _boards),
    ("grid", BENCH, "light", _grid),
    ("say", BENCH, "light", _say),
    ("circuit", BENCH, "light", _circuit),
    ("ways-out", BENCH, "light", _ways_out),
    ("routes", BENCH, "light", _routes),
    ("earthing", BENCH, "light", _earthing),
    ("coordination", BENCH, "light", _coordination),
    ("books", BENCH, "light", _books),
    ("readings", BENCH, "light", _readings),
    ("papers", BENCH, "light", _papers),
    ("isolation", PHONE, "light", _isolation),
    ("practice", BENCH, "light", _practice),
    ("phone", PHONE, "light", _phone),
]


def take() -> None:
    """Take every picture with a throw-away firm that owns a copy of the demo jobs."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    firm = make_firm(f"demo-{uuid.uuid4().hex[:4]}")
    for name in ("tern_quay", "mill_lane", "weir_lodge"):
        inputs, entries = read_file(json.loads((Path(demo.__file__).parent / f"{name}.json").read_text("utf-8")))
        job = take_in(firm.member.firm, inputs)
        log.bring_in(job, inputs, installation(job), entries, "Rue Tansy")
    Firm.objects.filter(pk=firm.member.firm_id).update(name="The firm of the demo")
    for name, role in (("Rue Tansy", "designer"), ("Ash Fennel", "apprentice")):
        Member.objects.filter(pk=make_colleague(firm, role).pk).update(name=name)
    try:
        with server() as (url, _), sync_playwright() as p:
            browser = p.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
            for name, (width, height), scheme, act in SHOTS:
                page = browser.new_page(viewport={"width": width, "height": height}, color_scheme=scheme, reduced_motion="reduce")  # type: ignore[arg-type]
                page.goto(url)
                page.get_by_label("Name").fill(firm.username)
                page.get_by_label("Password").fill(PASSWORD)
                page.get_by_role("button", name="sign in").click()
                page.get_by_role("link", name="Orchard Row", exact=True).wait_for()
                act(page)
                page.mouse.move(2, 2)
                page.wait_for_timeout(500)
                page.screenshot(path=FOLDER / f"{name}.png")
                page.close()
                print("took", name)
    finally:
        people = [m.user for m in Member.objects.filter(firm=firm.member.firm_id).select_related("user")]
        Firm.objects.filter(pk=firm.member.firm_id).delete()
        for user in people:
            user.delete()


if __name__ == "__main__":
    printed()
    take()
