"""A paper as CSV and as JSON: numbers stay numbers, and each mark stays with its number."""

from __future__ import annotations

import csv
import dataclasses
import io
import json
import re
from collections.abc import Iterator

from mellow_span.papers.page import CAUTION, Block, Drawing, Facts, Item, Paper, Sheet, Signature, Table, Words

# What a spreadsheet would take for a formula, also behind blanks and what it does not show; and the same signs in full width and small.
UNSEEN, SIGNS = r"\s\ufeff\u200b-\u200f\u2060", r"=+\-@\uff1d\uff0b\uff0d\uff20\ufe66\ufe62\ufe63\ufe6b"
FORMULA = re.compile(f"[{UNSEEN}]*[{SIGNS}]|[\t\r\n]")
# What may not stand in a spreadsheet's file.
CONTROL = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f]")


def rows_of(block: Block) -> Iterator[list[Item]]:
    """Return what stands in a block as rows of cells, its heads first."""
    if isinstance(block, Table):
        yield [Item(f"{c.title} [{c.unit}]" if c.unit else c.title) for c in block.columns]
        yield from block.rows
    elif isinstance(block, Facts):
        for name, cell in block.rows:
            yield [Item(f"{name} [{cell.unit}]" if cell.unit and cell.value is not None else name), cell]
    elif isinstance(block, Words):
        yield from ([Item(line)] for line in block.lines)
    elif isinstance(block, Drawing):
        yield [Item(f"(a drawing: {block.told})")]
    elif isinstance(block, Signature):
        yield [Item(block.role), Item(block.name or "not signed"), Item(block.at)]


def heads(paper: Paper) -> list[str]:
    """Return the lines that stand above a paper, as on each of its pages."""
    stamp = paper.stamp
    return [
        f"{paper.title}{f', {paper.about}' if paper.about else ''}", ", ".join(filter(None, (stamp.job, stamp.place, stamp.client))),
        stamp.revision, stamp.edition, f"hash of the data {stamp.hash}", f"printed {stamp.printed}",
        *([f"key of the firm {stamp.key}"] if stamp.key else []), CAUTION, *paper.legend,
        *(f"missing: {one}" for one in paper.missing),
    ]  # fmt: skip


def marks(cell: Item) -> list[str]:
    """Return the marks of a cell in words."""
    named = (("assumed", cell.assumed), ("doubtful", cell.doubtful), ("missing", cell.missing))
    return [name for name, on in named if on] + ([cell.verdict] if cell.verdict else [])


def plain(text: str) -> str:
    """Return a text that no spreadsheet takes for a formula."""
    text = CONTROL.sub(" ", text)
    return f"'{text}" if len(text) > 1 and FORMULA.match(text) else text


def as_csv(paper: Paper) -> str:
    """Return a paper as CSV; the last field of a row says which of its fields have marks."""
    out = io.StringIO()
    write = csv.writer(out, lineterminator="\n").writerow
    for line in heads(paper):
        write([_on_one_line(line)])
    for block in paper.blocks:
        write([])
        write([_on_one_line(block.title)] if not isinstance(block, Signature | Sheet) else [])
        names = [c.title for c in block.columns] if isinstance(block, Table) else []
        for k, row in enumerate(rows_of(block)):
            told = [f"{names[i] if i < len(names) else 'value'}: {', '.join(m)}" for i, c in enumerate(row) if (m := marks(c))]
            first = isinstance(block, Table) and k == 0
            write([*(_figure(c) for c in row), *(["marks"] if first else ["; ".join(told)] if told else [])])
    return out.getvalue()


def _figure(cell: Item) -> str:
    return f"{cell.value:.10g}" if cell.value is not None else _on_one_line(cell.text)


def _on_one_line(text: str) -> str:
    """A text as a cell: what reads line by line would take its second line for a row of its own."""
    return plain(" ".join(text.splitlines()))


def as_json(paper: Paper) -> str:
    """Return a paper as JSON: its blocks as they are, each cell with its number, unit and marks."""
    blocks = [{"kind": type(b).__name__.lower(), **dataclasses.asdict(b)} for b in paper.blocks]
    found = {
        "format": "mellow-span/paper", "version": 1, "paper": paper.id, "title": paper.title, "about": paper.about,
        "stamp": dataclasses.asdict(paper.stamp), "caution": CAUTION, "legend": paper.legend, "missing": paper.missing, "blocks": blocks,
    }  # fmt: skip
    return json.dumps(found, ensure_ascii=False, indent=1, allow_nan=False)
