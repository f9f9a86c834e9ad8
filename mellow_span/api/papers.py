"""The papers of a job: which there are, what is missing on one before it is printed, and their files.

A PDF or a spreadsheet is made by the process for searches while the page asks how far it is; CSV and JSON are made in the request.
"""

from __future__ import annotations

import base64
import re
import unicodedata
from collections.abc import Callable
from typing import Any, Literal
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Router
from ninja.decorators import decorate_view

from mellow_span.answers.papers import PaperKind, PaperLook, papers_of
from mellow_span.answers.papers import paper_look as look_at
from mellow_span.api.asked import OfStage
from mellow_span.api.behind import behind, is_large, later
from mellow_span.api.errors import Refusal
from mellow_span.api.render import send
from mellow_span.api.waiting import Searching, awaited, told
from mellow_span.core.design.effort import Effort
from mellow_span.core.errors import InputError
from mellow_span.core.model.parts import Installation
from mellow_span.jobs import models, searches
from mellow_span.jobs.ownership import job_of
from mellow_span.jobs.reads import installation, snapshot
from mellow_span.jobs.searches import Asked
from mellow_span.logbook.papering import paper_stamp, subject_of
from mellow_span.papers.page import Form, Paper
from mellow_span.papers.register import PAPERS, paper
from mellow_span.papers.subject import Subject
from mellow_span.papers.table import as_csv, as_json

router = Router()
REFUSALS: dict[Any, Any] = {401: Refusal, 404: Refusal, 422: Refusal}
# Kind of search that makes a file.
MADE = "paper"
TYPES: dict[Form, str] = {
    "pdf": "application/pdf", "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "csv": "text/csv; charset=utf-8",
    "json": "application/json; charset=utf-8",
}  # fmt: skip
# What a choice may be at most: it is part of what is asked for.
SUBJECT = 40


@router.get("/{uuid:job_id}/papers", response={200: list[PaperKind], 202: Searching, **REFUSALS}, operation_id="papers")
@decorate_view(behind)
def papers(request: HttpRequest, job_id: UUID, revision: int = 0) -> Any:
    """Return the papers of a job as it stands, or of a revision, with what each can be about."""
    return send(list[PaperKind], papers_of(_subject(request, job_id, revision)))


@router.get("/{uuid:job_id}/papers/{paper_id}", response={200: PaperLook, 202: Searching, **REFUSALS}, operation_id="paper_look")
@decorate_view(behind)
def paper_look(request: HttpRequest, job_id: UUID, paper_id: str, subject: str = "", revision: int = 0, stage: OfStage = "") -> Any:
    """Say what is missing on a paper before it is printed."""
    return send(PaperLook, look_at(_subject(request, job_id, revision), paper_id, subject, stage))


@router.get(
    "/{uuid:job_id}/papers/{paper_id}/{form}", response={200: dict[str, Any], 202: Searching, **REFUSALS}, operation_id="paper_file"
)
def paper_file(
    request: HttpRequest,
    job_id: UUID,
    paper_id: str,
    form: Literal["pdf", "xlsx", "csv", "json"],
    subject: str = "",
    revision: int = 0,
    stage: OfStage = "",
) -> Any:
    """Return a paper as a file; a PDF or a spreadsheet with 202 and how far it is until it is made."""
    if paper_id not in PAPERS:
        raise InputError("paper_id", paper_id, "one of " + ", ".join(PAPERS))
    if len(subject) > SUBJECT or not subject.isprintable():
        raise InputError("subject", subject[:SUBJECT], "one of the choices of this paper")
    if form in ("csv", "json") and (found := later(request, job_id)) is not None:
        return found
    with snapshot():
        job = job_of(request.user, job_id)
        if form in ("csv", "json"):
            return _file(job, paper_id, form, written(paper(subject_of(job, installation(job), revision), paper_id, subject, stage), form))
        asked = Asked(MADE, subject, f"{form}:{paper_stamp(job, paper_id, revision)}:{stage}")
        row = searches.find(job, asked)
        if row is None and not is_large(job):
            # What cannot be made is told at once.
            paper(subject_of(job, installation(job), revision), paper_id, subject, stage)
    row = awaited(request, job, asked, row)
    if row is not None and row.state == models.Search.State.DONE:
        return _file(job, paper_id, form, base64.b64decode(row.answer))
    if row is not None and row.refused:
        raise InputError(**row.refused)
    return told(row)


def made(job: models.Job, inputs: Installation, asked: Asked, effort: Effort) -> str:
    """Make the file that was asked for, as text. Raises StoppedError, CoreError."""
    form, paper_id, revision, _, stage = asked.stamp.split(":")
    found = paper(subject_of(job, inputs, int(revision)), paper_id, asked.subject, stage)
    return base64.b64encode(written(found, form, effort.go_on or (lambda share: True))).decode()


def written(found: Paper, form: str, go_on: Callable[[float], bool] = lambda share: True) -> bytes:
    """Return a paper as a file. go_on: told how far it is, says whether anybody still waits."""
    if form == "pdf":
        # Its engine is not loaded before somebody prints.
        from mellow_span.papers.pdf import pdf

        return pdf(found, go_on)
    if form == "xlsx":
        from mellow_span.papers.sheet import as_xlsx

        return as_xlsx(found)
    return (as_csv if form == "csv" else as_json)(found).encode()


def _subject(request: HttpRequest, job_id: UUID, revision: int) -> Subject:
    with snapshot():
        job = job_of(request.user, job_id)
        return subject_of(job, installation(job), revision)


def _file(job: models.Job, paper_id: str, form: Form, content: bytes) -> HttpResponse:
    response = HttpResponse(content, content_type=TYPES[form])
    plain = unicodedata.normalize("NFKD", job.name).encode("ascii", "ignore").decode()
    name = re.sub(r"[^a-z0-9]+", "-", f"{plain} {paper_id}".lower()).strip("-")[:80]
    response["Content-Disposition"] = f'{"inline" if form == "pdf" else "attachment"}; filename="{name}.{form}"'
    return response
