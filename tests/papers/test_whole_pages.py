"""Every document as it is printed: no figure is broken over two lines, no word is cut off, no page is empty."""

from __future__ import annotations

import dataclasses
import io
import json
import re
import uuid
from functools import cache
from pathlib import Path

import pytest
from openpyxl import load_workbook
from pypdf import PdfReader

from mellow_span import demo
from mellow_span.core.model.parts import Installation
from mellow_span.exchange.document import read_file
from mellow_span.papers.page import CAUTION, Paper
from mellow_span.papers.pdf import pdf
from mellow_span.papers.register import PAPERS, paper
from mellow_span.papers.sheet import as_xlsx, number_format
from mellow_span.papers.subject import Subject

HOUSES = sorted(p.stem for p in Path(demo.__file__).parent.glob("*.json"))
# A figure: with spaces between thousands, its point, its sign and currency.
FIGURE = re.compile(r"(?:[£€$−]|≈ )?\d{1,3}(?: \d{3})+(?:\.\d+)?|[£€$−]?\d+(?:\.\d+)?")
KEY = "0123456789abcdef" * 4
LONG = "Socket-outlets of the north-western utility room, its passage and the boot store beyond the yard door"


@cache
def house(name: str) -> Subject:
    inputs, entries = read_file(json.loads((Path(demo.__file__).parent / f"{name}.json").read_text("utf-8")))
    return Subject(inputs, entries, printed="26 November 2026, 9:00 UTC", key=KEY)


@cache
def stress() -> Subject:
    """65 circuits on three phases, each with a name that does not fit its column."""
    base = house("tern_quay").job
    three = next(c for c in base.circuits if c.phases == 3 and c.feeds is None)
    single = next(c for c in base.circuits if c.phases == 1 and c.feeds is None)
    more = tuple(
        dataclasses.replace(
            pattern, id=str(uuid.UUID(int=k)), name=f"{LONG} {k}", phase=None if pattern.phases == 3 else f"L{k % 3 + 1}",
            loads=tuple(dataclasses.replace(x, id=f"{k}-{x.id}", name=f"{LONG} {k}") for x in pattern.loads),
            run=dataclasses.replace(pattern.run, id=f"{k}-run", spans=tuple(dataclasses.replace(x, id=f"{k}-{x.id}") for x in pattern.run.spans)),
        )
        for k, pattern in enumerate(([three] + [single] * 4) * 13)
    )  # fmt: skip
    board = dataclasses.replace(base.boards[0], ways=96)
    job = dataclasses.replace(
        base, name=LONG, client=LONG, place=LONG, boards=(board, *base.boards[1:]), circuits=base.circuits + more[: 65 - len(base.circuits)]
    )
    assert isinstance(job, Installation)
    assert len(job.circuits) == 65
    return Subject(job, printed="26 November 2026, 9:00 UTC", key=KEY)


def subjects(s: Subject, kind: str) -> str:
    return {"minor_work": s.job.circuits[0].id, "books": "iec60364"}.get(kind, "")


def printed(one: Paper) -> list[str]:
    return [page.extract_text() for page in PdfReader(io.BytesIO(pdf(one))).pages]


def squeezed(text: str) -> str:
    return re.sub(r"[\s\u00ad\u200b-]+", "", text)


def hold(one: Paper) -> None:
    """Hold a document to its own cells: each figure is on its pages, unbroken, as often as it is in them, each text whole."""
    pages = printed(one)
    text = "\n".join(pages)
    cells = [item.text for _, _, item in one.cells() if re.search(r"\w", item.text)]
    figures = {figure for cell in cells for figure in FIGURE.findall(cell)}
    there = {figure: (sum(cell.count(figure) for cell in cells), text.count(figure)) for figure in figures}
    broken = {figure: counts for figure, counts in there.items() if counts[1] < counts[0]}
    assert not broken, f"{one.title}: figures broken or cut off, how often in its cells and on its pages: {broken}"
    whole = squeezed(text)
    lost = [cell for cell in cells if squeezed(cell)[:50] not in whole]
    assert not lost, f"{one.title}: cut off: {lost[:5]}"
    for k, page in enumerate(pages):
        assert page.partition(CAUTION[:40])[0].strip(), f"{one.title}: page {k + 1} of {len(pages)} is empty: {page!r}"


# Labels are printed alone, on sheets of their own; the working is prose, and long.
SHORT = [kind for kind in PAPERS if kind not in ("labels", "working")]


@pytest.mark.parametrize("name", HOUSES)
@pytest.mark.parametrize("kind", SHORT)
def test_a_document_of_a_demo_job_is_whole(kind: str, name: str) -> None:
    s = house(name)
    hold(paper(s, kind, subjects(s, kind)))


@pytest.mark.parametrize("kind", [k for k in SHORT if k != "books"])
def test_a_document_of_a_job_that_strains_every_column_is_whole(kind: str) -> None:
    s = stress()
    hold(paper(s, kind, subjects(s, kind)))


def test_the_working_of_a_circuit_breaks_no_figure() -> None:
    s = house("orchard_row")
    hold(paper(s, "working", s.job.circuits[3].id))


def shown(value: float, shape: str) -> str:
    """What a spreadsheet shows of a number in a format as `number_format` makes it."""
    part = shape.split(";")[-1] if value < 0 else shape.split(";")[0]
    found = re.search(r'(?:"([^"]*)")?(0(?:\.0+)?)(?:"([^"]*)")?$', part)
    assert found, shape
    places = len(found[2].partition(".")[2])
    return f"{found[1] or ''}{abs(value):.{places}f}{found[3] or ''}"


@pytest.mark.parametrize("kind", SHORT)
def test_a_spreadsheet_shows_each_figure_as_the_page_prints_it(kind: str) -> None:
    s = house("orchard_row")
    one = paper(s, kind, subjects(s, kind))
    numbers = 0
    for _, _, item in one.cells():
        shape = number_format(item)
        if item.value is None or item.missing:
            assert not shape
            continue
        if shape:
            numbers += 1
            assert shown(item.value, shape).replace(" ", "") == item.told.replace(" ", ""), (item, shape)
    table = load_workbook(io.BytesIO(as_xlsx(one)))
    kept = sum(isinstance(cell.value, int | float) for sheet in table for row in sheet.iter_rows() for cell in row)
    assert kept == numbers
