"""Circuits said in lines, and cells of a board's grid: what was understood of them, and the changes that would make it so."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any
from uuid import UUID, uuid4

from django.http import HttpRequest
from ninja import Field, Router, Schema

from mellow_span.api.errors import Refusal
from mellow_span.api.render import send
from mellow_span.core.model.changes import Change
from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets.readings import rules_of
from mellow_span.core.said.cells import COLUMNS, ROWS, Column, RowSaid, columns_of, read_rows
from mellow_span.core.said.changes import LINES, Heard, hear
from mellow_span.core.said.line import MOST
from mellow_span.core.said.text import Unread, Word
from mellow_span.jobs.ownership import job_of
from mellow_span.jobs.reads import installation, snapshot

router = Router()
REFUSALS: dict[Any, Any] = {400: Refusal, 401: Refusal, 404: Refusal, 422: Refusal}


class SaidIn(Schema):
    """Lines, one circuit each. board: the board that a line starts from which says none."""

    text: str = Field(max_length=LINES * MOST)
    board: UUID | None = None


class RowsIn(Schema):
    """Cells of a board's grid, row by row. columns: what they are, null for a column that is left alone; empty: as the first row says, else
    the usual order. pasted: whatever columns says, a first row that names its columns is taken for that. circuits: the circuit of each row
    below it, null for a new one.
    """

    board: UUID
    rows: list[list[str]] = Field(max_length=ROWS + 1)
    columns: list[Column | None] = Field(default=[], max_length=40)
    pasted: bool = False
    circuits: list[UUID | None] = Field(default=[], max_length=ROWS)


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


def _inputs(request: HttpRequest, job_id: UUID) -> Installation:
    with snapshot():
        return installation(job_of(request.user, job_id))


def _identity() -> str:
    return str(uuid4())


@router.post("/{uuid:job_id}/said", response={200: list[LineSaid], **REFUSALS}, operation_id="said")
def said(request: HttpRequest, job_id: UUID, body: SaidIn) -> Any:
    """Return what lines say, one circuit each. Changes nothing: the changes are the caller's to send."""
    job = _inputs(request, job_id)
    found = hear(rules_of(job), job, body.text.splitlines(), str(body.board) if body.board else None, _identity)
    return send(list[LineSaid], [_line(one) for one in found])


def _line(heard: Heard) -> LineSaid:
    said = heard.said
    return LineSaid(
        said.line, str(said.circuit.get("name", "")), heard.circuit, said.words, said.assumed, said.unread, heard.why, heard.changes
    )


@router.post("/{uuid:job_id}/said/rows", response={200: RowsOut, **REFUSALS}, operation_id="said_rows")
def said_rows(request: HttpRequest, job_id: UUID, body: RowsIn) -> Any:
    """Return what cells of a board's grid say, each by itself. Changes nothing: the changes are the caller's to send."""
    job = _inputs(request, job_id)
    rows: list[list[str]] = body.rows
    columns: list[Column | None] = list(body.columns)
    heads = columns_of(rows[0]) if rows and (body.pasted or not columns) else None
    if heads:
        rows, columns = rows[1:], heads
    columns = columns or list[Column | None](COLUMNS)
    circuits = [str(c) if c else None for c in body.circuits]
    found = read_rows(rules_of(job), job, rows, columns, circuits, str(body.board), _identity)
    return send(RowsOut, RowsOut(tuple(columns), tuple(found)))
