"""Revisions of a design: issued, signed, compared, saved as files that prove themselves."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from django.db import transaction
from django.http import HttpRequest, HttpResponse
from ninja import Field, Router, Schema
from ninja.decorators import decorate_view

from mellow_span.api.behind import behind
from mellow_span.api.errors import Refusal
from mellow_span.api.render import send
from mellow_span.api.waiting import Searching
from mellow_span.core.site.between import Between, between
from mellow_span.exchange.issue import STATEMENT
from mellow_span.jobs.ownership import designer_of, job_of, supervisor_of
from mellow_span.jobs.reads import installation, snapshot
from mellow_span.logbook import issues
from mellow_span.logbook.models import Issue
from mellow_span.people.events import note

router = Router()
REFUSALS: dict[Any, Any] = {401: Refusal, 404: Refusal, 422: Refusal}


@dataclass(slots=True)
class IssuedCircuit:
    """A circuit as it was issued: how it stands, and what has a mark."""

    id: str
    name: str
    verdict: str
    headline: str
    assumed: bool
    doubtful: bool


@dataclass(slots=True)
class Revision:
    """A revision: number, version of the job, when and by whom; hash of all it holds; signed by whom and when, with what was accepted.

    current: the job is still as it was issued; statement: what a signature says. key: of the firm, that seals it; empty: from before they were sealed.
    """

    number: int
    version: int
    at: datetime
    by: str
    note: str
    hash: str
    edition: str
    tables: str
    current: bool
    circuits: list[IssuedCircuit]
    signed: str
    signed_at: str
    exceptions: str
    statement: str
    key: str


@dataclass(slots=True)
class Revisions:
    """The revisions of a job, the newest first, and the version it is at."""

    version: int
    revisions: list[Revision]


class IssueIn(Schema):
    """Which version is issued, as the person saw it, and a note on it."""

    version: int = Field(ge=1)
    note: str = Field("", max_length=200, pattern=r"^[^\x00]*$")


class SignatureIn(Schema):
    """What is signed, by its hash; the circuits whose working was read; what is said of those that do not meet."""

    hash: str = Field(min_length=64, max_length=64, pattern=r"^[0-9a-f]*$")
    read: list[UUID] = Field(max_length=1000)
    exceptions: str = Field("", max_length=1000, pattern=r"^[^\x00]*$")


def _out(row: Issue, version: int) -> Revision:
    document = json.loads(row.document)
    names = {c["id"]: c.get("name", "a circuit") for c in document["job"]["installation"]["circuits"]}
    circuits = [
        IssuedCircuit(c["id"], names.get(c["id"], "a circuit"), c["verdict"], c["headline"], bool(c["assumed"]), c["doubtful"])
        for c in document["results"]["circuits"]
    ]
    signature = row.signature or {}
    return Revision(
        row.number, row.version, row.at, row.name, row.note, row.hash, document["ruleset"]["edition"], document["ruleset"]["tables"],
        row.version == version, circuits, signature.get("name", ""), signature.get("at", ""), signature.get("exceptions", ""), STATEMENT,
        document.get("key", ""),
    )  # fmt: skip


@router.get("/{uuid:job_id}/revisions", response={200: Revisions, 202: Searching, **REFUSALS}, operation_id="revisions")
@decorate_view(behind)
def revisions(request: HttpRequest, job_id: UUID) -> Any:
    """Return the revisions of a job, the newest first."""
    job = job_of(request.user, job_id)
    return send(Revisions, Revisions(job.version, [_out(row, job.version) for row in job.issues.all()]))


@router.post("/{uuid:job_id}/revisions", response={201: Revision, 202: Searching, **REFUSALS}, operation_id="issue")
@decorate_view(behind)
def issue(request: HttpRequest, job_id: UUID, given: IssueIn) -> Any:
    """Issue the job as it stands: frozen and numbered, with every result and what was written down on site."""
    member = designer_of(request.user)
    with transaction.atomic():
        job = job_of(request.user, job_id, lock=True)
        row = issues.issue(job, installation(job), member, given.version, given.note.strip())
        note(member, "issued", f"{job.name}, revision {row.number}")
    return send(Revision, _out(row, job.version), 201)


@router.post("/{uuid:job_id}/revisions/{int:revision}/signature", response={200: Revision, **REFUSALS}, operation_id="sign")
def sign(request: HttpRequest, job_id: UUID, revision: int, given: SignatureIn) -> Any:
    """Sign a revision after its working was read."""
    member = supervisor_of(request.user)
    with transaction.atomic():
        job = job_of(request.user, job_id, lock=True)
        row = issues.sign(issues.one(job, revision), member, given.hash, given.read, given.exceptions)
        note(member, "signed", f"{job.name}, revision {row.number}")
    return send(Revision, _out(row, job.version))


@router.get("/{uuid:job_id}/revisions/{int:revision}/file", response={200: dict[str, Any], **REFUSALS}, operation_id="revision_file")
def revision_file(request: HttpRequest, job_id: UUID, revision: int) -> Any:
    """Return a revision as a file that `mellow-span prove` works out again."""
    job = job_of(request.user, job_id)
    row = issues.one(job, revision)
    # Word by word as it was hashed; a large one is not read to be written again.
    signed = f', "signature": {json.dumps(row.signature, ensure_ascii=False)}}}' if row.signature else "}"
    response = HttpResponse(row.document.rstrip().removesuffix("}") + signed, content_type="application/json; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="revision-{revision}.json"'
    return response


@router.get("/{uuid:job_id}/revisions/compare", response={200: Between, 202: Searching, **REFUSALS}, operation_id="compare_revisions")
@decorate_view(behind)
def compare_revisions(request: HttpRequest, job_id: UUID, old: int, new: int = 0) -> Any:
    """Return what lies between two revisions; new 0: the job as it stands, as built."""
    with snapshot():
        job = job_of(request.user, job_id)
        before = issues.job_of_issue(issues.one(job, old))
        after = issues.job_of_issue(issues.one(job, new)) if new else installation(job)
    return send(Between, between(before, after))
