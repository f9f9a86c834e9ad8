"""Circuits said in lines, and cells of a board's grid: what was understood of them, and the changes that would make it so."""

from __future__ import annotations

from typing import Any
from uuid import UUID, uuid4

from django.http import HttpRequest
from ninja import Field, Router, Schema

from mellow_span.answers.said import LineSaid, RowsOut, lines_said, rows_said
from mellow_span.api.errors import Refusal
from mellow_span.api.render import send
from mellow_span.core.model.parts import Installation
from mellow_span.core.said.cells import ROWS, Column
from mellow_span.core.said.changes import LINES
from mellow_span.core.said.line import MOST
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


def _inputs(request: HttpRequest, job_id: UUID) -> Installation:
    with snapshot():
        return installation(job_of(request.user, job_id))


def _identity() -> str:
    return str(uuid4())


@router.post("/{uuid:job_id}/said", response={200: list[LineSaid], **REFUSALS}, operation_id="said")
def said(request: HttpRequest, job_id: UUID, body: SaidIn) -> Any:
    """Return what lines say, one circuit each. Changes nothing: the changes are the caller's to send."""
    found = lines_said(_inputs(request, job_id), body.text, str(body.board) if body.board else None, _identity)
    return send(list[LineSaid], found)


@router.post("/{uuid:job_id}/said/rows", response={200: RowsOut, **REFUSALS}, operation_id="said_rows")
def said_rows(request: HttpRequest, job_id: UUID, body: RowsIn) -> Any:
    """Return what cells of a board's grid say, each by itself. Changes nothing: the changes are the caller's to send."""
    circuits = [str(c) if c else None for c in body.circuits]
    found = rows_said(_inputs(request, job_id), body.rows, list(body.columns), body.pasted, circuits, str(body.board), _identity)
    return send(RowsOut, found)
