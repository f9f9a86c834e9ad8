"""Circuits said in lines, and cells of a board's grid: what was understood of them, and the changes that would make it so."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from mellow_span.core.model.changes import Change
from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets.readings import rules_of
from mellow_span.core.said.cells import COLUMNS, Column, RowSaid, columns_of, read_rows
from mellow_span.core.said.changes import Heard, hear
from mellow_span.core.said.text import Unread, Word


@dataclass(slots=True)
class LineSaid:
    """A line as it was understood, word by word, what was assumed and what was not read; why: why it cannot be taken.
    circuit: identity of the circuit it would make; null for a line that only names a board, or that cannot be taken.
    """

    line: str
    name: str
    circuit: str | None
    words: tuple[Word, ...]
    assumed: tuple[str, ...]
    unread: tuple[Unread, ...]
    why: str
    changes: tuple[Change, ...]


@dataclass(slots=True)
class RowsOut:
    """Rows as they were read, and what their columns were taken for."""

    columns: tuple[Column | None, ...]
    rows: tuple[RowSaid, ...]


def lines_said(job: Installation, text: str, board: str | None, fresh: Callable[[], str]) -> list[LineSaid]:
    """Return what lines say, one circuit each. board: that a line starts from which says none; fresh: makes identities."""
    return [_line(one) for one in hear(rules_of(job), job, text.splitlines(), board, fresh)]


def _line(heard: Heard) -> LineSaid:
    said = heard.said
    return LineSaid(
        said.line, str(said.circuit.get("name", "")), heard.circuit, said.words, said.assumed, said.unread, heard.why, heard.changes
    )


def rows_said(
    job: Installation, rows: list[list[str]], columns: list[Column | None], pasted: bool, circuits: Sequence[str | None], board: str,
    fresh: Callable[[], str],
) -> RowsOut:  # fmt: skip
    """Return what cells of a board's grid say, each by itself. pasted: a first row that names its columns is taken for that, whatever columns says."""
    heads = columns_of(rows[0]) if rows and (pasted or not columns) else None
    if heads:
        rows, columns = rows[1:], heads
    columns = columns or list[Column | None](COLUMNS)
    found = read_rows(rules_of(job), job, rows, columns, list(circuits), board, fresh)
    return RowsOut(tuple(columns), tuple(found))
