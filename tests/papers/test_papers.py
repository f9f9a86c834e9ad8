"""Papers: what stands on them is what was worked out, no mark is lost in any of their forms, and what is missing is said."""

from __future__ import annotations

import csv
import io
import json
import re
from dataclasses import replace
from functools import cache
from html import unescape
from pathlib import Path
from typing import Any

import openpyxl
import pytest
from pypdf import PdfReader

from mellow_span import demo
from mellow_span.cli import main
from mellow_span.core.design.effort import StoppedError
from mellow_span.core.design.options import options
from mellow_span.core.errors import InputError
from mellow_span.core.figures import figure
from mellow_span.core.site.entries import Entry
from mellow_span.core.site.isolation import isolation
from mellow_span.core.site.isolation_steps import packed
from mellow_span.core.site.kinds import checked
from mellow_span.exchange.document import read
from mellow_span.exchange.issue import issued
from mellow_span.papers import schedule
from mellow_span.papers.html import html
from mellow_span.papers.labels import SIZES
from mellow_span.papers.page import ASSUMED, DAGGER, Drawing, Facts, Item, Sheet, Table, number
from mellow_span.papers.pdf import pdf
from mellow_span.papers.register import PAPERS, paper
from mellow_span.papers.sheet import as_xlsx
from mellow_span.papers.subject import Subject
from mellow_span.papers.table import as_csv, as_json
from tests import build
from tests.core import test_own_cable as own_cable
from tests.core.strange_words import FIELDS, WORD, house, strange

DEMO = Path(demo.__file__).parent
AT = "2026-03-05T14:07:00+00:00"


@cache
def subject(name: str = "orchard_row") -> Subject:
    return Subject(read(json.loads((DEMO / f"{name}.json").read_text("utf-8"))), printed="5 March 2026, 15:00 UTC")


@pytest.mark.parametrize(("kind", "name"), FIELDS)
def test_every_paper_is_made_of_a_job_with_words_the_book_does_not_know(kind: str, name: str) -> None:
    s = Subject(strange(house(), kind, name, "m"), printed="5 March 2026, 15:00 UTC")
    # Two books stand side by side only where both know what is in the job; that refusal has a test of its own.
    made = [one for one in PAPERS if one != "books"]
    said = json.dumps([as_json(paper(s, one, first(s, one))) for one in made], default=str)
    assert WORD in said or name in ("laid", "place", "cable.family")


def logged(kind: str, about: str, k: int, /, **data: Any) -> Entry:
    return Entry(f"{kind}-{about}-{k}", kind, about, checked(kind, data), f"2026-03-05T14:{k:02d}:00+00:00", "Ann")


def first(s: Subject, kind: str) -> str:
    """The first thing a paper can be about, where it has to be about one."""
    return "" if PAPERS[kind].all or not PAPERS[kind].choices(s) else PAPERS[kind].choices(s)[0][0]


def text_of(content: bytes) -> str:
    return re.sub(r"\s+", " ", " ".join(page.extract_text() for page in PdfReader(io.BytesIO(content)).pages))


def table(s: Subject, kind: str, title: str, about: str = "") -> list[dict[str, Item]]:
    found = next(b for b in paper(s, kind, about).blocks if isinstance(b, Table) and title in b.title)
    return [{c.title: cell for c, cell in zip(found.columns, row, strict=True)} for row in found.rows]


@pytest.mark.parametrize("name", ["orchard_row", "tern_quay", "mill_lane", "weir_lodge"])
@pytest.mark.parametrize("kind", PAPERS)
def test_every_paper_of_every_demo_job_is_made_and_no_form_of_it_loses_a_row(kind: str, name: str) -> None:
    s = subject(name)
    found = paper(s, kind, first(s, kind))
    page = html(found)
    assert "None" not in re.sub(r"<[^>]+>", " ", page), "what is not there is said in words"
    again = json.loads(as_json(found))
    assert again["missing"] == found.missing
    lines = list(csv.reader(io.StringIO(as_csv(found))))
    rows = [row for b in found.blocks if isinstance(b, Table) for row in b.rows]
    texts = {line[0] for line in lines if line}
    assert all(row[0].text in texts or row[0].value is not None or f"'{row[0].text}" in texts for row in rows)
    book = openpyxl.load_workbook(io.BytesIO(as_xlsx(found)))
    facts = sum(len(b.rows) for b in found.blocks if isinstance(b, Facts))
    tables = [sheet for sheet in book.worksheets if sheet.title not in ("Paper", "Facts", "Words")]
    assert sum(sheet.max_row - 1 for sheet in tables) == len(rows)
    if facts:
        assert book["Facts"].max_row == facts + 1


def test_the_schedule_prints_the_figures_that_were_worked_out_with_their_marks() -> None:
    s = subject()
    content = pdf(paper(s, "schedule"))
    told = text_of(content)
    pages = len(PdfReader(io.BytesIO(content)).pages)
    for page in range(1, pages + 1):
        assert f"page {page} of {pages}" in told
    assert told.count("Meets these checks with these inputs, and no more") == pages
    assert told.count(f"check code {s.stamp.code}") > pages, "at the head and on each page"
    assert "Draft, not issued" in told
    rows = {row["No."].text: row for letter in "AB" for row in table(s, "schedule", f"Board {letter}")}
    assert len(rows) == len(s.job.circuits)
    for circuit, result in zip(s.job.circuits, s.done.result.circuits, strict=True):
        row = rows[s.numbers[circuit.id]]
        for title, value, unit in (
            ("Ib", result.ib, "A"), ("Iz", result.iz, "A"), ("Volt drop", result.drop, "%"), ("Zs", result.zs, "Ω"), ("Zs max", result.zs_max, "Ω"),
        ):  # fmt: skip
            assert row[title].value == value
            assert row[title].missing == (value is None)
            if value is not None:
                assert figure(value, unit) in told
        loop = next(c for c in result.checks if c.id == "loop")
        assert (row["Zs"].assumed, row["Zs"].doubtful) == (
            bool(loop.assumed) and not row["Zs"].missing,
            loop.doubtful and not row["Zs"].missing,
        )
        assert row["Verdict"].verdict == result.verdict
    assert f"{ASSUMED} 0.619" in told, "Ze is assumed, so every Zs is marked"
    assert paper(s, "schedule").missing == ["A11 Kitchen island: Line, cpc, Length, Iz, Volt drop, Zs, Zs max, Longest time"]
    assert "Missing from this document: 1" in told


def test_a_spreadsheet_has_numbers_whose_formats_carry_their_marks() -> None:
    s = subject()
    found = paper(s, "schedule")
    sheet = openpyxl.load_workbook(io.BytesIO(as_xlsx(found)))[found.title]
    heads = [cell.value for cell in sheet[1]]
    zs, name = heads.index("Zs [Ω]"), heads.index("Circuit")
    for row in sheet.iter_rows(min_row=2):
        result = next(r for c, r in zip(s.job.circuits, s.done.result.circuits, strict=True) if c.name == row[name].value)
        if result.zs is None:
            assert row[zs].value == "not known"
        else:
            assert row[zs].value == pytest.approx(result.zs)
            assert row[zs].number_format.startswith('"≈ "0.000')
    assert any(DAGGER in row[zs].number_format for row in sheet.iter_rows(min_row=2))
    marked = next(line for line in csv.reader(io.StringIO(as_csv(found))) if line[:2] == ["A12", "Studio feed"])
    assert "Zs: assumed, doubtful" in marked[-1]


def test_a_name_that_a_spreadsheet_would_run_is_text() -> None:
    s = subject()
    circuits = (replace(s.job.circuits[0], name="=1+1"), *s.job.circuits[1:])
    found = paper(replace(s, job=replace(s.job, circuits=circuits, client="<b>@x</b>")), "schedule")
    assert ",'=1+1," in as_csv(found)
    cells = [cell for sheet in openpyxl.load_workbook(io.BytesIO(as_xlsx(found))) for row in sheet.iter_rows() for cell in row]
    assert not [c for c in cells if c.data_type == "f"]
    assert "&lt;b&gt;@x" in html(found)


RUN = [
    "=1+1",
    " =1+1",
    "\t=1+1",
    "\u200b=1+1",
    "\n=1+1",
    "\r\n =1+1",
    "+1+1",
    "-1+1",
    "@x",
    "\uff1d1+1",
    " \uff0b1",
    "\uff20x",
    "a\n=1+1",
    "a\r=1+1",
]


@pytest.mark.parametrize("name", RUN)
def test_nothing_typed_begins_a_cell_or_a_line_that_a_spreadsheet_would_run(name: str) -> None:
    s = subject()
    circuits = (replace(s.job.circuits[0], name=name), *s.job.circuits[1:])
    written = as_csv(paper(replace(s, job=replace(s.job, name=name, place=name, circuits=circuits)), "schedule"))
    cells = [cell for row in csv.reader(io.StringIO(written)) for cell in row]
    figures = [c for c in cells if re.fullmatch(r"-?[\d.]+(e[+-]\d+)?", c)]
    for cell in {*cells, *written.splitlines()} - set(figures):
        assert not re.match(r"[\s\"\u200b]*[=+@\uff1d\uff0b\uff20-]", cell), cell
    assert any("1+1" in c or "x" in c for c in cells)


def test_the_working_prints_every_step_with_its_value_and_its_cell() -> None:
    s = subject()
    shower = next(c for c in s.job.circuits if c.id == "shower")
    told = text_of(pdf(paper(s, "working", shower.id)))
    result = next(r for r in s.shown.result.circuits if r.id == shower.id)
    flat = told.replace(" ", "")
    for check in result.checks:
        assert check.title in told
        for step in check.steps:
            assert f"={step.formula}".replace(" ", "") in flat or not step.formula
            assert f"{figure(step.value, step.unit)}{step.unit}".replace(" ", "") in flat
            if step.cite:
                assert f"Table {step.cite.table}" in told
                assert not step.cite.check or DAGGER in told
    drawing = next(b for b in paper(s, "working", shower.id).blocks if isinstance(b, Drawing))
    assert "Iz 36 A too low" in drawing.svg, "the span that throttles is named"
    assert "shown only" in told or all(c.decides for c in result.checks)


@pytest.mark.parametrize("board", [True, False])
def test_the_coordination_of_a_circuit_is_drawn_and_every_pair_is_told(board: bool) -> None:
    s = subject()
    about = "" if board else "kiln"
    rows = table(s, "coordination", "Which operates first", about)
    wanted = [p for p in s.pairs if board or p.lower_circuit == about]
    assert [r["Why"].text for r in rows] == [p.text for p in wanted]
    drawn = [b for b in paper(s, "coordination", about).blocks if isinstance(b, Drawing)]
    assert len(drawn) == (0 if board else 1)


def test_readings_stand_beside_predictions_and_what_is_off_or_missing_says_so() -> None:
    s = subject()
    shower = next(c for c in s.job.circuits if c.id == "shower")
    entries = (
        logged("reading", shower.id, 1, quantity="r1r2", value=0.2), logged("reading", shower.id, 2, quantity="ir_le", over=True, volts=500),
        logged("reading", shower.id, 3, quantity="polarity", ok=False), logged("reading", shower.id, 4, quantity="r1r2", value=0.095, note="made good"),
    )  # fmt: skip
    on_site = replace(s, entries=entries)
    row = next(r for r in table(on_site, "results", "Board A") if r["No."].text == "A4")
    assert (row["R1 + R2"].value, row["R1 + R2"].verdict) == (0.095, None), "the last reading counts"
    assert (row["Polarity"].text, row["Polarity"].verdict) == ("NO", "short")
    assert row["IR live–earth"].missing, "neutral to earth was not understood"
    assert not row["R2"].missing, "R1 + R2 answers it"
    assert row["Zs"].missing
    leaking = replace(s, entries=(*entries, logged("reading", shower.id, 5, quantity="ir_ne", value=0.1, volts=500)))
    assert next(r for r in table(leaking, "results", "Board A") if r["No."].text == "A4")["IR live–earth"].value == 0.1
    half = replace(s, entries=(logged("reading", shower.id, 5, quantity="ir_ne", value=0.1, volts=500),))
    cell = next(r for r in table(half, "results", "Board A") if r["No."].text == "A4")["IR live–earth"]
    assert (cell.text, cell.verdict, cell.missing) == ("0.1, others not tested", "short", True), (
        "a bad one is not hidden behind a missing one"
    )
    every = table(on_site, "results", "All test results")
    assert [(r["Measured"].told, r["Result"].text, r["By"].text) for r in every if r["Test"].text == "R1 + R2"] == [
        ("0.200", "read again since", "Ann"), ("0.095", "as predicted", "Ann"),
    ]  # fmt: skip
    assert len(every) == 4


def test_a_record_of_minor_work_says_what_is_missing_until_it_is_said() -> None:
    s, shower = subject(), "shower"
    before = paper(s, "minor_work", shower)
    assert (
        before.missing[0]
        == "The work: What was done, Completed on, Departures from the standard, with the reason, Comments on the existing installation"
    )
    said = {"done": "shower put in", "completed": "5 March 2026", "departures": "none", "existing": "nothing"}
    after = paper(replace(s, entries=(logged("minor_work", shower, 1, **said),)), "minor_work", shower)
    assert [m.partition(":")[0] for m in after.missing] == ["Test results"]
    told = text_of(pdf(after))
    for words in (*said.values(), "signature", "Draft, not issued"):
        assert words in told
    with pytest.raises(InputError):
        paper(s, "minor_work", "")
    with pytest.raises(InputError):
        checked("minor_work", {**said, "done": ""})


@pytest.mark.parametrize("size", SIZES)
def test_labels_lie_on_the_sheet_apart_from_each_other(size: str) -> None:
    about = SIZES[size]
    assert about.left + (about.columns - 1) * about.across + about.width <= 210
    assert about.top + (about.rows - 1) * about.down + about.height <= 297
    assert about.across >= about.width
    assert about.down >= about.height
    s, room = subject(), about.columns * about.rows
    sheet = next(b for b in paper(s, "labels", f"ends/{size}/{room}").blocks if isinstance(b, Sheet))
    page = html(paper(s, "labels", f"ends/{size}/{room}"))
    # The first goes on the last place of a sheet, the rest on new ones.
    assert page.count('class="sheet"') == 1 + -(-(len(sheet.each) - 1) // room)
    assert len(sheet.each) == sum(len(p.tags) for p in s.pulled)
    assert page.count('class="label"') == len(sheet.each)


@pytest.mark.parametrize("wanted", ["x/65/1", "ends/9/1", "ends/65/0", "ends/65/66", "ends/65/x"])
def test_labels_that_cannot_be_are_refused(wanted: str) -> None:
    with pytest.raises(InputError):
        paper(subject(), "labels", wanted)


def test_a_record_of_isolation_is_printed_step_by_step_with_what_is_not_done() -> None:
    s = subject()
    plan = isolation(s.job, "circuit", "shower")
    steps, release = [packed(x) for x in plan.steps], [packed(x) for x in plan.release]
    begun = logged(
        "isolation", "", 0, record="r1", step="begin", title=plan.title, kind="circuit", id="shower", steps=steps, release=release
    )
    done = logged("isolation", "", 1, record="r1", step=plan.steps[0].key, value="everybody told")
    found = paper(replace(s, entries=(begun, done)), "isolation", "r1")
    told = text_of(pdf(found))
    assert "Started: NOT proved dead" in told
    assert "everybody told" in told
    assert len([cell for _, _, cell in found.cells() if cell.text == "not done"]) == len(steps) + len(release) - 1
    assert found.missing
    with pytest.raises(InputError):
        paper(s, "isolation", "r2")


def test_an_issue_prints_its_own_hash_and_signature_and_a_draft_says_it_is_one() -> None:
    s = subject()
    document = issued(s.job, 3, AT, "Bea", "for the client", s.entries)
    one = replace(s, number=3, document=document)
    assert "Revision 3, issued 5 March 2026, 14:07 by Bea, not signed" in text_of(pdf(paper(one, "chart")))
    document["signature"] = {"name": "Cleo", "at": AT, "hash": document["hash"]}
    stamp = replace(one, document=document).stamp
    assert (stamp.hash, stamp.revision.endswith("signed by Cleo, 5 March 2026, 14:07")) == (document["hash"], True)
    # The hash of a draft is that of its data: the same for the same, another once anything is read.
    assert s.stamp.hash == replace(s, printed="later").stamp.hash
    assert s.stamp.hash != replace(s, entries=(logged("reading", "shower", 1, quantity="r1r2", value=0.1),)).stamp.hash


def test_a_paper_nobody_waits_for_is_stopped_and_progress_grows() -> None:
    found, shares = paper(subject(), "assumptions"), []

    def go_on(share: float) -> bool:
        shares.append(share)
        return True

    pdf(found, go_on)
    assert shares == sorted(shares)
    assert 0 < max(shares) < 1
    with pytest.raises(StoppedError):
        pdf(found, lambda share: False)


def test_a_page_fetches_nothing_from_anywhere() -> None:
    s = subject()
    bad = replace(s, job=replace(s.job, name='x"><img src="http://127.0.0.1:9/x.png">'))
    assert "<img" not in html(paper(bad, "chart"))
    assert "127.0.0.1:9" in text_of(pdf(paper(bad, "chart")))


def test_a_number_without_a_value_is_missing_where_it_is_needed() -> None:
    assert (number(None, "A").missing, number(None, "A", needed=False).missing) == (True, False)
    assert number(0.0, "A").value == 0.0


def test_the_registers_hold_every_assumption_every_doubtful_cell_and_all_advice() -> None:
    s = subject()
    assert [r["Value"].text for r in table(s, "assumptions", "Assumed")] == ["Ze", "service fuse"]
    cells = table(s, "assumptions", "Table values still")
    assert all(r["Value"].doubtful for r in cells)
    assert len(cells) > 5
    resting = {r["No."].text for r in table(s, "assumptions", "Circuits that use")}
    assert resting == {s.numbers[c.id] for c in s.done.result.circuits if c.assumed or c.doubtful}
    assert len(table(s, "advice", "Advice")) > 5


def test_the_pull_list_and_materials_say_what_is_ticked_and_what_is_not_known() -> None:
    s = subject()
    ticked = replace(s, entries=(logged("pulled", "shower", 1, done=True),))
    rows = {r["No."].text: r for r in table(ticked, "pulls", "Cables to pull")}
    assert rows["A4"]["Pulled in"].text == "Ann, 5 March 2026, 14:01"
    assert rows["A11"]["Cut length"].missing
    metres = {r["Cable"].text: r["Total"].value for r in table(s, "pulls", "Total of each")}
    cut = {r["Cable"].text: 0.0 for r in table(s, "pulls", "Cutting plan")}
    for r in table(s, "pulls", "Cutting plan"):
        cut[r["Cable"].text] += (r["Drum"].value or 0.0) - (r["Left over"].value or 0.0)
    for cable, length in cut.items():
        assert length == pytest.approx(metres[cable])
    bill = paper(s, "materials")
    costs = [cell.value or 0.0 for _, title, cell in bill.cells() if title == "Costs, without VAT"]
    total = next(cell.value for _, title, cell in bill.cells() if title.startswith("Total"))
    assert total == pytest.approx(sum(costs), abs=0.01)
    assert total > 100


def test_the_report_on_what_is_there_grades_and_prints_limits() -> None:
    s = subject("mill_lane")
    entries = (
        logged("limit", "", 1, text="loft not entered", agreed="the tenant"),
        logged("changed", "", 2, what="insulation", text="quilt, 2019"),
    )
    found = paper(replace(s, entries=entries), "existing")
    told = text_of(pdf(found))
    for words in ("Unsatisfactory", "loft not entered", "the tenant", "quilt, 2019", "Potentially dangerous", "C2"):
        assert words in told
    cures = [(r["Circuit"].text, r["Remedy"].text, r["Costs, without VAT"].value) for r in table(s, "existing", "Remedial options")]
    heater = next(o for o in options(s.job, "heater", s.book) if o.passes)
    assert ("A1 Water heater", heater.title, round(heater.cost, 2)) in cures


def test_the_command_prints_papers_and_takes_readings(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    job, out = str(DEMO / "orchard_row.json"), tmp_path / "j.json"
    readings = tmp_path / "r.csv"
    readings.write_text("circuit;quantity;value;volts;time\nA4;r1r2;0,2;;2026-03-05T14:07\nShower;ir_le;>200;500;\nA5;polarity;yes;;\n")
    assert main(["read", job, str(readings), "--by", "Ann", "--out", str(out)]) == 1, "R1 + R2 is off"
    assert "above" in capsys.readouterr().out
    site = [e for e in json.loads(out.read_text())["site"] if e["by"] == "Ann"]
    assert [(e["data"]["quantity"], e["data"]["value"], e["data"]["over"], e["by"]) for e in site] == [
        ("r1r2", 0.2, False, "Ann"), ("ir_le", 200.0, True, "Ann"), ("polarity", None, False, "Ann"),
    ]  # fmt: skip
    assert site[0]["at"].startswith("2026-03-05T14:07")
    for form in ("pdf", "xlsx", "csv", "json"):
        file = tmp_path / f"x.{form}"
        assert main(["paper", str(out), "results", "--out", str(file)]) == 0
        assert file.stat().st_size > 500
    assert "missing, and marked so: A4 Shower: IR live–live" in capsys.readouterr().out
    assert main(["paper", job, "minor_work", "--about", "shower", "--out", str(tmp_path / "m.csv")]) == 0
    assert "A4 Shower" in (tmp_path / "m.csv").read_text()
    issue = tmp_path / "issue.json"
    issue.write_text(json.dumps(issued(subject().job, 2, AT, "Bea", site=subject().entries)))
    assert main(["paper", str(issue), "chart", "--out", str(tmp_path / "i.pdf")]) == 0
    assert "Revision 2, issued 5 March 2026, 14:07 by Bea" in text_of((tmp_path / "i.pdf").read_bytes())


@pytest.mark.parametrize(
    ("line", "told"),
    [
        ("A99,r1r2,0.2", "line 2: circuit"), ("A4,nothing,0.2", "line 2: quantity"), ("A4,r1r2,lots", "line 2: value"), ("A4,r1r2,nan", "line 2: value"),
        ("A4,polarity,0.2", "line 2: ok"), ("A4,r1r2,yes", "line 2: ok"), ("A4,r1r2,-1", "line 2: value"),
    ],
)  # fmt: skip
def test_a_line_of_readings_that_cannot_be_is_named_and_nothing_is_taken(
    line: str, told: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    readings, out = tmp_path / "r.csv", tmp_path / "out.json"
    readings.write_text(f"circuit,quantity,value\n{line}\n")
    assert main(["read", str(DEMO / "orchard_row.json"), str(readings), "--out", str(out)]) == 2
    assert told in capsys.readouterr().err
    assert not out.exists()


def test_sixty_circuits_at_a_glance_are_one_page_each_with_its_bars_and_figures() -> None:
    inputs = build.job(*(build.circuit(f"c{i}", name=f"Circuit {i}, with a name", device={"rating": 32}) for i in range(60)))
    s = Subject(inputs)
    made = paper(s, "glance")
    content = pdf(made)
    assert len(PdfReader(io.BytesIO(content)).pages) == 1
    told = text_of(content)
    (found,) = (b for b in made.blocks if isinstance(b, Table))
    for row, result in zip(found.rows, s.done.result.circuits, strict=True):
        assert all(cell.drawn.startswith("<svg") for cell in row[1:4])
        assert row[2].value == result.drop
        assert row[3].value == result.zs
        assert row[0].text.strip() in told


def test_every_thing_that_is_missing_is_named_on_the_paper() -> None:
    s = subject()
    for kind in ("results", "schedule"):
        made = paper(s, kind)
        told = unescape(html(made))
        assert len(made.missing) > 4 or kind == "schedule"
        assert not [one for one in made.missing if one not in told]


def test_a_run_of_several_cables_names_them_all_wherever_one_is_named() -> None:
    s = Subject(own_cable.house(own_cable.GARDEN))
    (circuit,) = s.job.circuits
    told = [cell.text for cell in schedule.row(s, circuit)]
    assert told[2:5] == ["flat twin & earth, then armoured, 90 °C", "2.5, then 4", "1.5, then armour and a core"]
