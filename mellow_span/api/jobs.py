"""Jobs: list, open, edit, size, in and out as files. Every answer about a job is the whole state of it, figured by the core."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal
from urllib.parse import quote
from uuid import UUID, uuid4

from django.db import transaction
from django.http import HttpRequest, HttpResponse
from ninja import Body, Router, Schema, Status
from pydantic import Field, JsonValue, TypeAdapter

from mellow_span.api.errors import Refusal
from mellow_span.core.design.check import check
from mellow_span.core.design.size import Sizing, size
from mellow_span.core.findings.results import Attention, CircuitResult, Verdict
from mellow_span.core.model.parts import Installation
from mellow_span.exchange.document import Document, read, write
from mellow_span.jobs import models
from mellow_span.jobs.edits import Change, Stale, apply
from mellow_span.jobs.load import installation
from mellow_span.jobs.ownership import job_of, jobs_of, member_of
from mellow_span.jobs.store import store

router = Router()
REFUSALS: dict[Any, Any] = {400: Refusal, 401: Refusal, 403: Refusal, 404: Refusal, 422: Refusal}


@dataclass(slots=True)
class CircuitSummary:
    """What the tree shows of a circuit. ib, rating, iz [A]; drop [%]; zs [ohm]; margin: share of the limit left."""

    id: str
    verdict: Verdict
    headline: str
    reason: str
    margin: float | None
    ib: float | None
    rating: float | None
    iz: float | None
    length: float | None
    drop: float | None
    zs: float | None
    doubtful: bool
    assumed: tuple[str, ...]


@dataclass(slots=True)
class JobState:
    """A job as it stands: its inputs, a summary of each circuit, the attention list, and the open circuit in full."""

    id: str
    name: str
    note: str
    version: int
    edition: str
    installation: Installation
    summaries: tuple[CircuitSummary, ...]
    attention: tuple[Attention, ...]
    detail: CircuitResult | None


class JobLine(Schema):
    """A job in the list."""

    id: UUID
    name: str
    version: int
    changed: datetime
    circuits: int
    short: int
    not_known: int
    close: int


class NewJob(Schema):
    """A new job."""

    name: str = Field(min_length=1, max_length=200, pattern=r"^[^\x00]*\S[^\x00]*$")


class ChangeIn(Schema):
    """One change of an edit; see the open format for the fields of each kind."""

    op: Literal["set", "add", "remove", "move"]
    kind: Literal["job", "supply", "board", "circuit", "load", "span", "bundle", "dismissal"]
    id: UUID
    parent: UUID | None = None
    index: int | None = Field(default=None, ge=0, le=1000)
    fields: dict[str, JsonValue] = Field(default_factory=dict)


class EditIn(Schema):
    """An edit: its own identity (so that a repeated send does no harm), the version it was made on, its changes.

    focus: the circuit whose full result is wanted; dry_run: answer as if saved, and save nothing.
    """

    edit_id: UUID
    version: int = Field(ge=1, le=2_000_000_000)
    changes: list[ChangeIn] = Field(min_length=1, max_length=200)
    focus: UUID | None = None
    dry_run: bool = False


class EditLine(Schema):
    """A row of the history."""

    version: int
    at: datetime
    by: str
    changes: list[dict[str, JsonValue]]


_STATE = TypeAdapter(JobState)
_SIZING = TypeAdapter(Sizing)


def state_of(job: models.Job, focus: UUID | None) -> JobState:
    """Figure the whole job; the working is kept for the circuit in focus alone."""
    inputs = installation(job)
    keep = frozenset([str(focus)]) if focus else frozenset[str]()
    found = check(inputs, keep, reuse=True)
    detail = next((c for c in found.circuits if c.id in keep), None)
    summaries = tuple(_summary(c) for c in found.circuits)
    return JobState(str(job.pk), job.name, job.note, job.version, found.edition, inputs, summaries, found.attention, detail)


def _summary(c: CircuitResult) -> CircuitSummary:
    return CircuitSummary(
        c.id, c.verdict, c.headline, c.reason, c.margin, c.ib, c.rating, c.iz, c.length, c.drop, c.zs, c.doubtful, c.assumed
    )


def _send(state: JobState, status: int = 200) -> HttpResponse:
    # Serialised straight from the core's values: validating figures the core has just made would cost more than making them.
    return HttpResponse(_STATE.dump_json(state), status=status, content_type="application/json")


@router.get("", response={200: list[JobLine], 401: Refusal, 404: Refusal}, operation_id="list_jobs")
def list_jobs(request: HttpRequest) -> Any:
    """List the jobs of the firm with how many circuits are short, close or not known."""
    return [_line(job.pk, request.user) for job in jobs_of(request.user)]


def _line(job_id: UUID, user: Any) -> JobLine:
    with transaction.atomic():
        # Locked while it is read, so that an edit meanwhile cannot show half of itself.
        job = job_of(user, job_id, lock=True)
        found = check(installation(job), keep=False, reuse=True)
    verdicts = [c.verdict for c in found.circuits]
    return JobLine(
        id=job.pk, name=job.name, version=job.version, changed=job.changed, circuits=len(verdicts),
        short=verdicts.count("short"), not_known=verdicts.count("not_known"), close=verdicts.count("close"),
    )  # fmt: skip


@router.post("", response={201: JobState, **REFUSALS}, operation_id="add_job")
def add_job(request: HttpRequest, given: NewJob) -> Any:
    """Start a job with an empty intake and one board."""
    with transaction.atomic():
        job = models.Job.objects.create(firm=member_of(request.user).firm, name=given.name.strip())
        models.Supply.objects.create(job=job)
        models.Board.objects.create(job=job, name="Main board")
    return _send(state_of(job, None), 201)


@router.post("/import", response={201: JobState, **REFUSALS}, operation_id="import_job")
def import_job(request: HttpRequest, given: Body[dict[str, JsonValue]]) -> Any:
    """Take in a file of the open job format as a new job. A refusal names the field of the file."""
    job = store(member_of(request.user).firm, read(given))
    return _send(state_of(job, None), 201)


@router.get("/{uuid:job_id}/export", response={200: dict[str, JsonValue], **REFUSALS}, operation_id="export_job")
def export_job(request: HttpRequest, job_id: UUID) -> Any:
    """Return a job in the open job format, as a file."""
    with transaction.atomic():
        job = job_of(request.user, job_id, lock=True)
        document = Document(job.name, job.note, installation(job))
    response = HttpResponse(json.dumps(write(document), ensure_ascii=False, indent=1), content_type="application/json")
    response["Content-Disposition"] = f"attachment; filename*=UTF-8''{quote(job.name)}.json"
    return response


@router.get("/{uuid:job_id}", response={200: JobState, **REFUSALS}, operation_id="open_job")
def open_job(request: HttpRequest, job_id: UUID, focus: UUID | None = None) -> Any:
    """Return a job as it stands; focus: the circuit wanted in full."""
    with transaction.atomic():
        return _send(state_of(job_of(request.user, job_id, lock=True), focus))


@router.patch("/{uuid:job_id}", response={200: JobState, 409: JobState, **REFUSALS}, operation_id="edit_job")
def edit_job(request: HttpRequest, job_id: UUID, edit: EditIn) -> Any:
    """Apply a small edit and answer with the recomputed job.

    409 with the stored state when the edit was made on an older version: nothing is overwritten in silence.
    """
    changes = [Change(c.op, c.kind, c.id, dict(c.fields), c.parent, c.index) for c in edit.changes]
    status = 200
    with transaction.atomic():
        job = job_of(request.user, job_id, lock=True)
        try:
            apply(job, member_of(request.user), uuid4() if edit.dry_run else edit.edit_id, edit.version, changes)
        except Stale:
            status = 409
        state = state_of(job, edit.focus)
        if edit.dry_run:
            transaction.set_rollback(True)
    return _send(state, status)


@router.delete("/{uuid:job_id}", response={204: None, **REFUSALS}, operation_id="remove_job")
def remove_job(request: HttpRequest, job_id: UUID) -> Any:
    """Delete a job for good."""
    job_of(request.user, job_id).delete()
    return Status(204, None)


@router.get("/{uuid:job_id}/history", response={200: list[EditLine], **REFUSALS}, operation_id="job_history")
def job_history(request: HttpRequest, job_id: UUID) -> Any:
    """List the last edits of a job, newest first."""
    rows = job_of(request.user, job_id).edits.select_related("member")[:100]
    return [EditLine(version=e.version, at=e.at, by=e.member.name if e.member else "", changes=e.changes) for e in rows]


@router.get("/{uuid:job_id}/circuits/{uuid:circuit_id}/size", response={200: Sizing, 409: Refusal, **REFUSALS}, operation_id="size_circuit")
def size_circuit(request: HttpRequest, job_id: UUID, circuit_id: UUID) -> Any:
    """Find the smallest csa that passes, with the check that ruled the next smaller one out. Changes nothing."""
    with transaction.atomic():
        inputs = installation(job_of(request.user, job_id, lock=True))
    found = size(inputs, str(circuit_id))
    return HttpResponse(_SIZING.dump_json(found), content_type="application/json")
