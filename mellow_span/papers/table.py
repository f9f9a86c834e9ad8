"""A paper as a spreadsheet, as CSV and as JSON: numbers stay numbers, and each mark stays with its number."""

from __future__ import annotations

import csv
import dataclasses
import io
import json
import re
from collections.abc import Iterator
from typing import Any

from openpyxl import Workbook
from openpyxl.styles import Alignment, Font
from openpyxl.utils import get_column_letter

from mellow_span.core.figures import places_of
from mellow_span.papers.page import CAUTION, Block, Cell, Drawing, Facts, Paper, Sheet, Signature, Table, Words

# What a spreadsheet would take for a formula.
FORMULA = ("=", "+", "-", "@", "\t", "\r")
# What may not stand in a spreadsheet's file.
CONTROL = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f]")


def rows_of(block: Block) -> Iterator[list[Cell]]:
    """Return what stands in a block as rows of cells, its heads first."""
    if isinstance(block, Table):
        yield [Cell(f"{c.title} [{c.unit}]" if c.unit else c.title) for c in block.columns]
        yield from block.rows
    elif isinstance(block, Facts):
        for name, cell in block.rows:
            yield [Cell(f"{name} [{cell.unit}]" if cell.unit and cell.value is not None else name), cell]
    elif isinstance(block, Words):
        yield from ([Cell(line)] for line in block.lines)
    elif isinstance(block, Drawing):
        yield [Cell(f"(a drawing: {block.told})")]
    elif isinstance(block, Signature):
        yield [Cell(block.role), Cell(block.name or "not signed"), Cell(block.at)]


def heads(paper: Paper) -> list[str]:
    """Return the lines that stand above a paper, as on each of its pages."""
    stamp = paper.stamp
    return [
        f"{paper.title}{f', {paper.about}' if paper.about else ''}", ", ".join(filter(None, (stamp.job, stamp.place, stamp.client))),
        stamp.revision, stamp.edition, f"hash of the data {stamp.hash}", f"printed {stamp.printed}", CAUTION, *paper.legend,
        *(f"missing: {one}" for one in paper.missing),
    ]  # fmt: skip


def marks(cell: Cell) -> list[str]:
    """Return the marks of a cell in words."""
    named = (("assumed", cell.assumed), ("doubtful", cell.doubtful), ("missing", cell.missing))
    return [name for name, on in named if on] + ([cell.verdict] if cell.verdict else [])


def plain(text: str) -> str:
    """Return a text that no spreadsheet takes for a formula."""
    text = CONTROL.sub(" ", text)
    return f"'{text}" if text.startswith(FORMULA) and len(text) > 1 else text


def as_csv(paper: Paper) -> str:
    """Return a paper as CSV; the last field of a row says which of its fields have marks."""
    out = io.StringIO()
    write = csv.writer(out, lineterminator="\n").writerow
    for line in heads(paper):
        write([plain(line)])
    for block in paper.blocks:
        write([])
        write([plain(block.title)] if not isinstance(block, Signature | Sheet) else [])
        names = [c.title for c in block.columns] if isinstance(block, Table) else []
        for k, row in enumerate(rows_of(block)):
            told = [f"{names[i] if i < len(names) else 'value'}: {', '.join(m)}" for i, c in enumerate(row) if (m := marks(c))]
            first = isinstance(block, Table) and k == 0
            write([*(_figure(c) for c in row), *(["marks"] if first else ["; ".join(told)] if told else [])])
    return out.getvalue()


def _figure(cell: Cell) -> str:
    return f"{cell.value:.10g}" if cell.value is not None else plain(cell.text)


def as_json(paper: Paper) -> str:
    """Return a paper as JSON: its blocks as they are, each cell with its number, unit and marks."""
    blocks = [{"kind": type(b).__name__.lower(), **dataclasses.asdict(b)} for b in paper.blocks]
    found = {
        "format": "mellow-span/paper", "version": 1, "paper": paper.id, "title": paper.title, "about": paper.about,
        "stamp": dataclasses.asdict(paper.stamp), "caution": CAUTION, "legend": paper.legend, "missing": paper.missing, "blocks": blocks,
    }  # fmt: skip
    return json.dumps(found, ensure_ascii=False, indent=1, allow_nan=False)


def as_xlsx(paper: Paper) -> bytes:
    """Return a paper as a spreadsheet: a sheet with what stands above it, one with its facts, then one for all tables of the same columns."""
    book, names = Workbook(), {"paper"}
    first: Any = book.active
    first.title = "Paper"
    for line in heads(paper):
        first.append([plain(line)])
    first.column_dimensions["A"].width = 120
    for title, rows in _sheets(paper):
        sheet: Any = book.create_sheet(_name(title, names))
        for k, row in enumerate(rows, 1):
            for i, cell in enumerate(row, 1):
                _put(sheet.cell(row=k, column=i), cell, k == 1)
        for i in range(len(rows[0])):
            longest = max(len(r[i].told) for r in rows if len(r) > i)
            sheet.column_dimensions[get_column_letter(i + 1)].width = min(60, max(8, longest + 2))
        sheet.freeze_panes = "A2"
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _sheets(paper: Paper) -> Iterator[tuple[str, list[list[Cell]]]]:
    """The sheets of a paper: title and rows, heads first; the first column says of what a row is."""
    facts = [[Cell(b.title), Cell(name), cell, Cell(cell.unit)] for b in paper.blocks if isinstance(b, Facts) for name, cell in b.rows]
    if facts:
        yield "Facts", [[Cell(t) for t in ("Of", "What", "Value", "Unit")], *facts]
    alike: dict[tuple[tuple[str, str], ...], list[Table]] = {}
    for block in paper.blocks:
        if isinstance(block, Table):
            alike.setdefault(tuple((c.title, c.unit) for c in block.columns), []).append(block)
    for tables in alike.values():
        heads = [Cell("Of"), *next(rows_of(tables[0]))]
        rows = [[Cell(" · ".join(filter(None, (t.about, t.title)))), *row] for t in tables for row in t.rows]
        yield (tables[0].title if len({t.title for t in tables}) == 1 else paper.title), [heads, *rows]
    told = [[Cell(b.title), Cell(line)] for b in paper.blocks if isinstance(b, Words) for line in b.lines]
    told += [[Cell(b.role), Cell(f"{b.name}, {b.at}" if b.name else "not signed")] for b in paper.blocks if isinstance(b, Signature)]
    if told:
        yield "Words", [[Cell("Of"), Cell("What")], *told]


_WRAP, _BOLD = Alignment(wrap_text=True, vertical="top"), Font(bold=True)


def _put(place: Any, cell: Cell, head: bool) -> None:
    """Write a cell: a number as a number whose format carries its marks."""
    if cell.value is not None and not cell.missing:
        places = places_of(cell.unit)
        digits = "0" if cell.value == round(cell.value) and cell.unit not in ("Ω", "%") else f"0.{'0' * places}" if places else "0"
        place.value = cell.value
        place.number_format = (
            f"{chr(34) + '≈ ' + chr(34) if cell.assumed else ''}{digits}{chr(34) + ' †' + chr(34) if cell.doubtful else ''}"
        )
        return
    place.value = plain(cell.told)
    if len(cell.text) > 60:
        place.alignment = _WRAP
    if head or cell.missing:
        place.font = _BOLD


def _name(title: str, taken: set[str]) -> str:
    """Return a name for a sheet: of at most 31 signs, none of those it may not hold, each once."""
    base = re.sub(r"[\[\]:*?/\\]", " ", CONTROL.sub(" ", title)).strip("' ")[:28] or "sheet"
    name, k = base, 2
    while name.lower() in taken:
        name, k = f"{base[:26]} {k}", k + 1
    taken.add(name.lower())
    return name
