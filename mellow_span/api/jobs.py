"""Jobs: list, open, edit, take back, in and out as files. Every answer about a job is the whole state of it, figured by the core."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Annotated, Any, Literal
from urllib.parse import quote
from uuid import UUID

from django.db import transaction
from django.db.models import Q
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Body, Query, Router, Schema, Status
from ninja.decorators import decorate_view
from pydantic import Field, JsonValue

from mellow_span.answers.standing import stand
from mellow_span.api.behind import behind, later
from mellow_span.api.errors import Refusal
from mellow_span.api.render import send
from mellow_span.api.state import ClashAnswer, JobLine, JobState, clash_answer, line_of, state_of
from mellow_span.api.waiting import Searching
from mellow_span.core.design.starts import Answers, StartKind, start_of
from mellow_span.core.findings.history import names_of, told
from mellow_span.core.model.changes import Change, apply, from_data
from mellow_span.core.model.parts import Earthing
from mellow_span.core.rulesets.readings import rules_of
from mellow_span.exchange.document import read_file, write
from mellow_span.jobs import models
from mellow_span.jobs.bin import with_last_editor
from mellow_span.jobs.books import in_its_book, rules_at
from mellow_span.jobs.epochs import epoch, tag_of
from mellow_span.jobs.epochs import hold as hold_epoch
from mellow_span.jobs.ownership import NotYours, bin_of, designer_of, job_of, jobs_of, member_of
from mellow_span.jobs.reads import installation, snapshot
from mellow_span.jobs.writes import Clashed, Pen, Saved, count_again, go_back, play_back, save, take_in
from mellow_span.logbook import log
from mellow_span.logbook.progress import progress_of
from mellow_span.people.events import note

router = Router()
REFUSALS: dict[Any, Any] = {400: Refusal, 401: Refusal, 403: Refusal, 404: Refusal, 422: Refusal}
EDITED: dict[Any, Any] = {200: JobState, 409: ClashAnswer, **REFUSALS}
A_PAGE = 50
Version = Annotated[int, Field(ge=1, le=2_000_000_000)]
Epoch = Annotated[str, Field(max_length=36)]


class JobPage(Schema):
    """A page of the list of jobs; total: how many there are in all, of those asked for."""

    jobs: list[JobLine]
    total: int
    page: int
    pages: int


# The most characters of the identity of a book.
BOOK = 120
NO_NUL = r"^[^\x00]*$"


class NewJob(Schema):
    """A new job, and the answers of its short start; what is not answered stays not entered."""

    name: str = Field(min_length=1, max_length=200, pattern=r"^[^\x00]*\S[^\x00]*$")
    kind: StartKind = "empty"
    client: str = Field(default="", max_length=200, pattern=NO_NUL)
    place: str = Field(default="", max_length=200, pattern=NO_NUL)
    earthing: Earthing | None = None
    ways: int | None = Field(default=None, ge=1, le=96)
    outbuilding: str = Field(default="", max_length=150, pattern=NO_NUL)
    distance: float | None = Field(default=None, ge=0.1, le=1000)
    ruleset: str = Field(default="bs7671", max_length=BOOK, pattern=NO_NUL)


class Archive(Schema):
    """Whether a job is put away."""

    archived: bool


class ChangeIn(Schema):
    """One change of an edit; see the open format for the fields of each kind."""

    op: Literal["set", "add", "remove", "move"]
    kind: Literal["job", "supply", "board", "circuit", "load", "span", "route", "stage", "dismissal"]
    id: UUID
    parent: UUID | None = None
    index: int | None = Field(default=None, ge=0, le=1000)
    fields: dict[str, JsonValue] = Field(default_factory=dict)


class EditIn(Schema):
    """An edit: its own identity (so that a repeated send does no harm), the version it was made on with the epoch of that, its changes.

    seen: versions after that one which the person's own earlier edits made, and on top of which this one was made. focus: the circuit whose
    full result is wanted; dry_run: answer as if saved, and save nothing.
    """

    edit_id: UUID
    version: Version
    epoch: Epoch = ""
    seen: list[Version] = Field(default_factory=list, max_length=5000)
    changes: list[ChangeIn] = Field(min_length=1, max_length=200)
    focus: UUID | None = None
    dry_run: bool = False


class UndoIn(Schema):
    """Take back my last edit; again: do again what I took back last."""

    edit_id: UUID
    epoch: Epoch = ""
    again: bool = False
    focus: UUID | None = None


class BackIn(Schema):
    """Go back to an earlier version as a new edit; version: the one I see."""

    edit_id: UUID
    version: Version
    epoch: Epoch = ""
    to: Version
    focus: UUID | None = None


class EditLine(Schema):
    """A row of the history. said: what it did; act: an edit, or one that took another back, did it again, or went back to a version.

    reachable: whether the job can go back to it.
    """

    version: int
    at: str
    by: str
    mine: bool
    act: Literal["edit", "undo", "redo", "back"]
    of: int | None
    said: list[str]
    reachable: bool


class History(Schema):
    """The history from its newest edit, or from before a version; more: whether there is more."""

    version: int
    lines: list[EditLine]
    more: bool


def _text(value: UUID | None) -> str | None:
    return None if value is None else str(value)


@router.get("", response={200: JobPage, 401: Refusal, 404: Refusal, 422: Refusal}, operation_id="list_jobs")
def list_jobs(
    request: HttpRequest,
    search: Annotated[str, Query(max_length=200)] = "",
    archived: bool = False,
    removed: bool = False,
    page: Annotated[int, Query(ge=1, le=100_000)] = 1,
) -> Any:
    """List the jobs of the firm with how many circuits are short, close or not known; figured only where a reading made it others.

    removed: those in the bin instead; what has lain there for 30 days is deleted for good.
    """
    found = bin_of(request.user) if removed else jobs_of(request.user).filter(archived=archived)
    if wanted := search.strip().replace("\x00", ""):
        found = found.filter(Q(name__icontains=wanted) | Q(client__icontains=wanted) | Q(place__icontains=wanted))
    found = with_last_editor(found)
    total = found.count()
    pages = max(1, -(-total // A_PAGE))
    page = min(page, pages)
    shown = count_again(found[(page - 1) * A_PAGE : page * A_PAGE])
    reached = progress_of([job.pk for job in shown])
    return JobPage(jobs=[line_of(job, reached[job.pk]) for job in shown], total=total, page=page, pages=pages)


@router.post("", response={201: JobState, **REFUSALS}, operation_id="add_job")
def add_job(request: HttpRequest, given: NewJob) -> Any:
    """Start a job from a handful of answers: an intake to be surveyed, its boards, and nothing that was not said."""
    member = designer_of(request.user)
    rules_at(member.firm_id, given.ruleset)
    answers = Answers(
        given.name.strip(),
        given.client.strip(),
        given.place.strip(),
        given.earthing,
        given.ways,
        given.outbuilding,
        given.distance,
        given.ruleset,
    )
    return _opened(take_in(member.firm, start_of(given.kind, answers)), None, 201)


@router.post("/import", response={201: JobState, **REFUSALS}, operation_id="import_job")
def import_job(request: HttpRequest, given: Body[dict[str, JsonValue]]) -> Any:
    """Take in a file of the open job format as a new job. A refusal names the field of the file; then nothing is stored."""
    member = designer_of(request.user)
    inputs, entries = read_file(given)
    with transaction.atomic():
        job = take_in(member.firm, inputs)
        stored = installation(job)
        log.bring_in(job, inputs, stored, entries, member.name)
    note(member, "imported", job.name)
    return _opened(job, None, 201)


def _opened(job: models.Job, focus: str | None, status: int = 200) -> HttpResponse:
    keep = frozenset([focus]) if focus else frozenset[str]()
    return send(JobState, state_of(job, stand(installation(job), keep), focus), status)


@router.get("/{uuid:job_id}/export", response={200: dict[str, JsonValue], 202: Searching, **REFUSALS}, operation_id="export_job")
@decorate_view(behind)
def export_job(request: HttpRequest, job_id: UUID) -> Any:
    """Return a job in the open job format, as a file."""
    with snapshot():
        job = job_of(request.user, job_id)
        document = write(installation(job), log.entries(job))
    note(member_of(request.user), "exported", job.name)
    response = HttpResponse(json.dumps(document, ensure_ascii=False, indent=1), content_type="application/json")
    response["Content-Disposition"] = f"attachment; filename*=UTF-8''{quote(job.name)}.json"
    return response


@router.get("/{uuid:job_id}", response={200: JobState, 202: Searching, 304: None, **REFUSALS}, operation_id="open_job")
def open_job(request: HttpRequest, job_id: UUID, focus: UUID | None = None) -> Any:
    """Return a job as it stands; focus: the circuit wanted in full. Asked again with its ETag while nothing changed: 304, figuring nothing."""
    if request.headers.get("If-None-Match") == (tag := _tag(job_of(request.user, job_id), focus)):
        return HttpResponse(status=304, headers={"ETag": tag})
    if (found := later(request, job_id)) is not None:
        return found
    with snapshot():
        job = job_of(request.user, job_id)
        tag = _tag(job, focus)
        answer = _opened(job, _text(focus))
    answer["ETag"] = tag
    return answer


def _tag(job: models.Job, focus: UUID | None) -> str:
    return f'W/"{tag_of(job, epoch())}-{focus or ""}"'


@router.patch("/{uuid:job_id}", response=EDITED, operation_id="edit_job")
def edit_job(request: HttpRequest, job_id: UUID, edit: EditIn) -> Any:
    """Apply a small edit and answer with the recomputed job.

    One made on an older version is merged where it touches nothing that has changed since; 409 with each clash where it does, and then
    nothing is changed.
    """
    changes = [
        Change(c.op, c.kind, "" if c.kind in ("job", "supply") else str(c.id), c.fields, _text(c.parent), c.index) for c in edit.changes
    ]
    if edit.dry_run:
        return _dry_run(request, job_id, changes, _text(edit.focus))
    return _written(
        request, job_id, edit.edit_id, edit.focus, edit.epoch, lambda pen: save(pen, edit.version, frozenset(edit.seen), changes)
    )


def _dry_run(request: HttpRequest, job_id: UUID, changes: list[Change], focus: str | None) -> HttpResponse:
    with snapshot():
        job = job_of(request.user, job_id)
        inputs = installation(job)
    value, _ = apply(inputs, changes, rules_of(inputs).choices)
    value = in_its_book(job.firm_id, inputs, value)
    return send(JobState, state_of(job, stand(value, frozenset([focus]) if focus else frozenset()), focus))


def _written(
    request: HttpRequest, job_id: UUID, edit_id: UUID, focus: UUID | None, seen: str, write_it: Callable[[Pen], Saved]
) -> HttpResponse:
    member, looked_at = designer_of(request.user), _text(focus)
    keep = frozenset([looked_at]) if looked_at else frozenset[str]()
    try:
        with transaction.atomic():
            job = job_of(request.user, job_id, lock=True)
            hold_epoch(seen)
            saved = write_it(Pen(job, member, edit_id, keep))
    except Clashed as clashed:
        return send(ClashAnswer, clash_answer(job, clashed, looked_at), 409)
    return send(JobState, state_of(job, saved.standing, looked_at, saved.landed))


@router.post("/{uuid:job_id}/undo", response=EDITED, operation_id="undo_edit")
def undo_edit(request: HttpRequest, job_id: UUID, given: UndoIn) -> Any:
    """Take back the person's last edit, or do it again, as a new edit. What others changed since stays, or it is said why it cannot."""
    return _written(request, job_id, given.edit_id, given.focus, given.epoch, lambda pen: play_back(pen, given.again))


@router.post("/{uuid:job_id}/back", response=EDITED, operation_id="go_back")
def back_to(request: HttpRequest, job_id: UUID, given: BackIn) -> Any:
    """Make the job what it was at an earlier version, as a new edit."""
    return _written(request, job_id, given.edit_id, given.focus, given.epoch, lambda pen: go_back(pen, given.version, given.to))


@router.post("/{uuid:job_id}/archive", response={200: JobLine, **REFUSALS}, operation_id="archive_job")
def archive_job(request: HttpRequest, job_id: UUID, given: Archive) -> Any:
    """Put a job away, or take it out again; it is in the list of its kind and otherwise as it was."""
    designer_of(request.user)
    job = job_of(request.user, job_id)
    job.archived = given.archived
    models.Job.objects.filter(pk=job.pk).update(archived=given.archived)
    return line_of(job)


@router.delete("/{uuid:job_id}", response={204: None, **REFUSALS}, operation_id="remove_job")
def remove_job(request: HttpRequest, job_id: UUID) -> Any:
    """Put a job into the bin, from which it can be brought back for 30 days."""
    member, job = designer_of(request.user), job_of(request.user, job_id)
    models.Job.objects.filter(pk=job.pk).update(removed=timezone.now())
    note(member, "deleted", job.name)
    return Status(204, None)


@router.post("/{uuid:job_id}/bring-back", response={200: JobLine, **REFUSALS}, operation_id="bring_job_back")
def bring_back(request: HttpRequest, job_id: UUID) -> Any:
    """Take a job out of the bin; it is as it was."""
    member = designer_of(request.user)
    job = bin_of(request.user).filter(pk=job_id).first()
    if job is None:
        raise NotYours
    job.removed = None
    models.Job.objects.filter(pk=job.pk).update(removed=None)
    note(member, "brought_back", job.name)
    return line_of(job)


@router.get("/{uuid:job_id}/history", response={200: History, **REFUSALS}, operation_id="job_history")
def job_history(request: HttpRequest, job_id: UUID, before: Annotated[int, Query(ge=1, le=2_000_000_000)] | None = None) -> Any:
    """List edits of a job in words, newest first; before: only those older than a version."""
    with snapshot():
        job = job_of(request.user, job_id)
        names = names_of(installation(job))
        rows = job.edits.select_related("member", "undoes", "undoes__undoes")
        found = list((rows.filter(version__lt=before) if before else rows)[: A_PAGE + 1])
        # A version can be gone back to while everything after it can be played backwards.
        last_stop = job.edits.filter(playable=False).order_by("-version").values_list("version", flat=True).first() or 0
    me = member_of(request.user)
    lines = [_history_line(edit, me, names, last_stop) for edit in found[:A_PAGE]]
    return History(version=job.version, lines=lines, more=len(found) > A_PAGE)


def _history_line(edit: models.Edit, me: models.Member, names: dict[str, str], last_stop: int) -> EditLine:
    taken = edit.undoes
    act: Any = "back" if edit.back_to else "edit" if taken is None else "redo" if taken.undoes_id else "undo"
    of = edit.back_to or (None if taken is None else taken.undoes.version if taken.undoes else taken.version)
    said = told(from_data(edit.changes), names) if edit.playable else ["an edit from before the history was kept in words"]
    by = edit.member.name if edit.member else ""
    return EditLine(
        version=edit.version, at=edit.at.isoformat(), by=by, mine=edit.member_id == me.pk, act=act, of=of, said=said,
        reachable=edit.version >= last_stop,
    )  # fmt: skip
