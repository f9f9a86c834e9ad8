"""Isolation: what makes a place of a job dead, and the records of doing it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Router
from ninja.decorators import decorate_view

from mellow_span.api.behind import behind
from mellow_span.api.errors import Refusal
from mellow_span.api.render import send
from mellow_span.api.waiting import Searching
from mellow_span.core.site.isolation import IsolationPlan, Target, isolation, targets
from mellow_span.core.site.isolation_record import Record, records
from mellow_span.core.site.isolation_steps import packed
from mellow_span.jobs.ownership import job_of
from mellow_span.jobs.reads import installation, snapshot
from mellow_span.logbook import log

router = Router()
REFUSALS: dict[Any, Any] = {401: Refusal, 404: Refusal, 422: Refusal}


@dataclass(slots=True)
class IsolationOut:
    """A plan with its steps as they are kept with the beginning of a record."""

    plan: IsolationPlan
    steps: list[str]
    release: list[str]


@dataclass(slots=True)
class Isolations:
    """The places of a job that can be made dead, and its records, the newest first."""

    targets: list[Target]
    records: list[Record]


@router.get("/{uuid:job_id}/isolation", response={200: Isolations, 202: Searching, **REFUSALS}, operation_id="isolations")
@decorate_view(behind)
def isolations(request: HttpRequest, job_id: UUID) -> Any:
    """Return the places of a job that can be made dead, and its records of isolation."""
    with snapshot():
        job = job_of(request.user, job_id)
        found = Isolations(list(targets(installation(job))), list(records(log.entries(job, "isolation"))))
    return send(Isolations, found)


@router.get("/{uuid:job_id}/isolation/plan", response={200: IsolationOut, 202: Searching, **REFUSALS}, operation_id="isolation_plan")
@decorate_view(behind)
def isolation_plan(request: HttpRequest, job_id: UUID, kind: str, id: str) -> Any:
    """Return what makes a place dead. kind: board, circuit, route or room; id: its identity, or the name of a room."""
    with snapshot():
        plan = isolation(installation(job_of(request.user, job_id)), kind, id)
    return send(IsolationOut, IsolationOut(plan, [packed(s) for s in plan.steps], [packed(s) for s in plan.release]))
