"""Papers: a record of minor work from the design to the PDF, labels, a revision as it was issued."""

from __future__ import annotations

import io
import re
from pathlib import Path

import openpyxl
from playwright.sync_api import Page, expect
from pypdf import PdfReader

from mellow_span.core.figures import figure
from mellow_span.papers.register import PAPERS
from tests.api.test_isolation import Sign
from tests.api.test_jobs import change, named, send
from tests.browser.conftest import Server
from tests.conftest import Firm


def text_of(path: Path) -> str:
    return re.sub(r"\s+", " ", " ".join(p.extract_text() for p in PdfReader(io.BytesIO(path.read_bytes())).pages))


def saved(page: Page, button: str) -> Path:
    """Have a file made and save it."""
    page.get_by_role("button", name=button).click()
    link = page.get_by_role("link", name="save ")
    expect(link).to_be_visible()
    with page.expect_download() as download:
        link.click()
    return download.value.path()


def test_a_record_of_minor_work_from_the_design_to_the_pdf(at_jobs: Page, server: Server, house: Firm, searcher: None) -> None:
    page, shower = at_jobs, named(house, "Shower")
    page.goto(f"{server.url}/jobs/{house.job.pk}/tests?circuit={shower.pk}")
    row = page.locator("[data-test=r1r2]").first
    row.get_by_role("textbox").fill("0.1")
    row.get_by_role("button", name="save").click()
    expect(row).to_contain_text("0.100 Ω measured")
    page.goto(f"{server.url}/jobs/{house.job.pk}/papers")
    page.get_by_role("button", name="Minor work record").click()
    expect(page.get_by_text("Choose a circuit first")).to_be_visible()
    page.get_by_label("circuit", exact=False).last.select_option(label="A4 Shower")
    missing = page.locator("[data-missing]")
    expect(missing).to_contain_text("The work: What was done, Completed on")
    expect(missing).to_contain_text("Test results")
    form = page.get_by_role("form", name="The work")
    form.get_by_label("What was done").fill("Shower of 9.2 kW put in, cable run over the bathroom")
    expect(form.get_by_role("button")).to_be_disabled()
    form.get_by_label("Completed on").fill("26 November 2026")
    form.get_by_label("Departures").fill("none")
    form.get_by_label("existing installation").fill("bonding looked at and found whole")
    form.get_by_role("button", name="save").click()
    expect(missing).not_to_contain_text("The work")
    expect(form).to_contain_text(f"entered by {house.username}")
    told = text_of(saved(page, "make the PDF"))
    opened = page.request.get(server.url + (page.get_by_role("link", name="open it").get_attribute("href") or ""))
    assert (opened.headers["content-type"], opened.body()[:4]) == ("application/pdf", b"%PDF")
    result = page.evaluate(f"fetch('/api/jobs/{house.job.pk}').then(r => r.json())")
    one = next(c for c in result["summaries"] if c["id"] == str(shower.pk))
    for words in (
        "Shower of 9.2 kW put in",
        "bonding looked at",
        "0.100",
        "not tested",
        "Draft, not issued",
        "page 1 of",
        f"{figure(one['zs'], 'Ω')} Ω",
    ):
        assert words in told
    sheet = openpyxl.load_workbook(io.BytesIO(saved(page, "spreadsheet, XLSX").read_bytes()))["Facts"]
    values = {row[1].value: row[2].value for row in sheet.iter_rows(min_row=2)}
    assert values["Capacity Iz"] == one["iz"]


def test_every_paper_is_looked_at_and_labels_begin_where_the_sheet_is_free(
    at_jobs: Page, server: Server, house: Firm, searcher: None
) -> None:
    page = at_jobs
    page.goto(f"{server.url}/jobs/{house.job.pk}/papers")
    for kind in PAPERS.values():
        page.get_by_role("button", name=kind.title, exact=True).click()
        expect(page.get_by_role("heading", level=2, name=kind.title)).to_be_visible()
        if kind.one and not kind.all and kind.one != "labels and sheet":
            expect(page.get_by_text(f"Choose a {kind.one} first")).to_be_visible()
        else:
            expect(page.get_by_text("Draft, not issued")).to_be_visible()
    page.get_by_role("button", name="Labels", exact=True).click()
    page.get_by_label("first free label").fill("66")
    expect(page.get_by_text("1 to 65")).to_be_visible()
    page.get_by_label("first free label").fill("65")
    expect(page.get_by_text("Draft, not issued")).to_be_visible()
    pages = PdfReader(saved(page, "make the PDF")).pages
    assert len(pages) == 2
    assert pages[0].extract_text().count("board") < 3, "one label on what was left of the first sheet"


def test_a_revision_is_printed_as_it_was_issued(at_jobs: Page, server: Server, house: Firm, searcher: None, signed_in: Sign) -> None:
    page = at_jobs
    page.goto(f"{server.url}/jobs/{house.job.pk}/revisions")
    page.get_by_role("button", name="issue").first.click()
    expect(page.get_by_text("Revision 1")).to_be_visible()
    assert (
        send(signed_in(house), house, change("set", "circuit", named(house, "Shower").pk, fields={"name": "Renamed since"})).status_code
        == 200
    )
    page.goto(f"{server.url}/jobs/{house.job.pk}/papers?paper=chart&revision=1")
    expect(page.get_by_text("Revision 1, issued")).to_be_visible()
    told = text_of(saved(page, "make the PDF"))
    assert "Shower" in told
    assert "Renamed since" not in told
    issued = house.job.issues.get().hash
    assert "check code " + " ".join(issued[i : i + 4] for i in range(0, 16, 4)) in told
    page.goto(f"{server.url}/jobs/{house.job.pk}/papers?paper=chart")
    assert "Renamed since" in text_of(saved(page, "make the PDF"))
