"""A paper as a spreadsheet: real numbers, whose formats carry their marks. Its library is loaded with this file, so with the first one wanted."""

from __future__ import annotations

import io
import re
from collections.abc import Iterator
from typing import Any

from openpyxl import Workbook
from openpyxl.styles import Alignment, Font
from openpyxl.utils import get_column_letter

from mellow_span.papers.page import Facts, Item, Paper, Signature, Table, Words
from mellow_span.papers.table import CONTROL, heads, plain, rows_of


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


def _sheets(paper: Paper) -> Iterator[tuple[str, list[list[Item]]]]:
    """The sheets of a paper: title and rows, heads first; the first column says of what a row is."""
    facts = [[Item(b.title), Item(name), cell, Item(cell.unit)] for b in paper.blocks if isinstance(b, Facts) for name, cell in b.rows]
    if facts:
        yield "Facts", [[Item(t) for t in ("Of", "What", "Value", "Unit")], *facts]
    alike: dict[tuple[tuple[str, str], ...], list[Table]] = {}
    for block in paper.blocks:
        if isinstance(block, Table):
            alike.setdefault(tuple((c.title, c.unit) for c in block.columns), []).append(block)
    for tables in alike.values():
        heads = [Item("Of"), *next(rows_of(tables[0]))]
        rows = [[Item(" · ".join(filter(None, (t.about, t.title)))), *row] for t in tables for row in t.rows]
        yield (tables[0].title if len({t.title for t in tables}) == 1 else paper.title), [heads, *rows]
    told = [[Item(b.title), Item(line)] for b in paper.blocks if isinstance(b, Words) for line in b.lines]
    told += [[Item(b.role), Item(f"{b.name}, {b.at}" if b.name else "not signed")] for b in paper.blocks if isinstance(b, Signature)]
    if told:
        yield "Words", [[Item("Of"), Item("What")], *told]


_WRAP, _BOLD = Alignment(wrap_text=True, vertical="top"), Font(bold=True)


def _put(place: Any, cell: Item, head: bool) -> None:
    """Write a cell: a number as a number whose format carries its marks."""
    shape = number_format(cell)
    if shape:
        place.value = cell.value
        place.number_format = shape
        return
    place.value = plain(cell.told)
    if len(cell.text) > 60:
        place.alignment = _WRAP
    if head or cell.missing:
        place.font = _BOLD


FIGURE = re.compile(r"\d{1,3}(?: \d{3})+(?:\.\d+)?|\d+(?:\.\d+)?")


def number_format(cell: Item) -> str:
    """Return the format in which a spreadsheet shows a number as the paper prints it, with its marks and the words around it; empty for what is none.

    >>> number_format(Item("0.350", 0.35, "Ω", assumed=True)), number_format(Item("−£3.00", -3.0))
    ('"≈ "0.000', '"£"0.00;"−£"0.00')
    """
    found = FIGURE.search(cell.text)
    if cell.value is None or cell.missing or found is None:
        return ""
    places = len(found[0].partition(".")[2])
    if f"{abs(cell.value):.{places}f}" != found[0].replace(" ", ""):
        # What is printed is not this number: then it is text here too.
        return ""
    digits = f"0.{'0' * places}" if places else "0"
    before, after = cell.text[: found.start()], cell.text[found.end() :]
    marked = [("≈ " if cell.assumed else "") + before.lstrip("−"), after + (" †" if cell.doubtful else "")]
    head, tail = (f'"{text}"' if text else "" for text in (part.replace('"', "″") for part in marked))
    minus = before.startswith("−") or cell.value < 0
    return f"{head}{digits}{tail}" + (f';"−{head.strip(chr(34))}"{digits}{tail}' if minus else "")


def _name(title: str, taken: set[str]) -> str:
    """Return a name for a sheet: of at most 31 signs, none of those it may not hold, each once."""
    base = re.sub(r"[\[\]:*?/\\]", " ", CONTROL.sub(" ", title)).strip("' ")[:28] or "sheet"
    name, k = base, 2
    while name.lower() in taken:
        name, k = f"{base[:26]} {k}", k + 1
    taken.add(name.lower())
    return name
