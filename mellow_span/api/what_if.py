"""Copies of a job with named changes, looked at side by side; one that is kept goes in as an edit like any other."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from django.db import transaction
from django.http import HttpRequest
from ninja import Field, Router, Schema, Status

from mellow_span.api.errors import Refusal
from mellow_span.api.jobs import ChangeIn
from mellow_span.api.render import send
from mellow_span.api.state import CircuitSummary, names_in, summary
from mellow_span.core.design.what_if import MOST_COPIES, Compared, compare
from mellow_span.core.errors import InputError
from mellow_span.core.findings.history import told
from mellow_span.core.findings.results import BoardDemand
from mellow_span.core.model.changes import Change, apply
from mellow_span.core.rulesets.readings import rules_of
from mellow_span.jobs import models
from mellow_span.jobs.ownership import job_of, member_of
from mellow_span.jobs.reads import installation, snapshot

router = Router()
REFUSALS: dict[Any, Any] = {400: Refusal, 401: Refusal, 404: Refusal, 422: Refusal}


class CopyIn(Schema):
    """A copy: its identity, what it is called, and the changes it is made of."""

    id: UUID
    name: str = Field(min_length=1, max_length=200, pattern=r"^[^\x00]*\S[^\x00]*$")
    changes: list[ChangeIn] = Field(min_length=1, max_length=200)


class CopyOut(Schema):
    """A copy as it is kept."""

    id: UUID
    name: str


@dataclass(slots=True)
class Column:
    """A copy beside the job: every circuit in it, the demand of each board, what turned; said: its changes in words.

    ready: one of the set that always stands there; why: why its changes cannot be made any more. demand: of the boards.
    """

    id: str
    title: str
    ready: bool
    by: str
    at: datetime | None
    why: str
    said: tuple[str, ...]
    changes: tuple[dict[str, Any], ...]
    circuits: tuple[CircuitSummary, ...]
    demand: tuple[BoardDemand, ...]
    worse: tuple[str, ...]
    better: tuple[str, ...]


def changes_of(given: list[dict[str, Any]]) -> list[Change]:
    """Return changes as they are kept, for the core."""
    return [
        Change(c["op"], c["kind"], "" if c["kind"] in ("job", "supply") else c["id"], c.get("fields", {}), c.get("parent"), c.get("index"))
        for c in given
    ]


@router.get("/{uuid:job_id}/copies", response={200: list[Column], **REFUSALS}, operation_id="copies")
def copies(request: HttpRequest, job_id: UUID) -> Any:
    """Return the job beside its copies, and beside the set that asks whether it would still hold."""
    with snapshot():
        job = job_of(request.user, job_id)
        inputs = installation(job)
        kept = list(job.copies.select_related("member"))
    found = compare(inputs, [(str(c.pk), c.name, changes_of(c.changes)) for c in kept])
    by = {str(c.pk): c for c in kept}
    names = names_in(inputs)
    return send(list[Column], [_column(one, by.get(one.id), inputs, names) for one in found])


def _column(one: Compared, kept: models.Copy | None, inputs: Any, names: dict[str, str]) -> Column:
    said: tuple[str, ...] = ()
    if kept is not None and not one.why:
        _, applied = apply(inputs, changes_of(kept.changes), rules_of(inputs).choices)
        said = tuple(told(applied, names))
    result = one.result
    return Column(
        one.id, one.title, one.ready, kept.member.name if kept and kept.member else "", kept.at if kept else None, one.why, said,
        tuple(kept.changes) if kept else (), tuple(summary(c) for c in result.circuits) if result else (),
        tuple(b.demand for b in result.boards) if result else (), one.worse, one.better,
    )  # fmt: skip


@router.post("/{uuid:job_id}/copies", response={201: CopyOut, **REFUSALS}, operation_id="add_copy")
def add_copy(request: HttpRequest, job_id: UUID, given: CopyIn) -> Any:
    """Keep a copy beside the job; sent again with its identity it takes the place of what was kept. Refused where its changes cannot be made."""
    changes = [c.model_dump(mode="json") for c in given.changes]
    with transaction.atomic():
        job = job_of(request.user, job_id, lock=True)
        inputs = installation(job)
        apply(inputs, changes_of(changes), rules_of(inputs).choices)
        others = job.copies.exclude(pk=given.id)
        if others.count() >= MOST_COPIES:
            raise InputError("copies", MOST_COPIES + 1, f"at most {MOST_COPIES} copies beside a job; throw one away first")
        if models.Copy.objects.filter(pk=given.id).exclude(job=job).exists():
            raise InputError("id", str(given.id), "an identity that is not used yet")
        models.Copy.objects.update_or_create(
            pk=given.id, defaults={"job": job, "member": member_of(request.user), "name": given.name.strip(), "changes": changes}
        )
    return Status(201, CopyOut(id=given.id, name=given.name.strip()))


@router.delete("/{uuid:job_id}/copies/{uuid:copy_id}", response={204: None, **REFUSALS}, operation_id="remove_copy")
def remove_copy(request: HttpRequest, job_id: UUID, copy_id: UUID) -> Any:
    """Throw a copy away; one that is not there any more is gone already."""
    job_of(request.user, job_id).copies.filter(pk=copy_id).delete()
    return Status(204, None)
