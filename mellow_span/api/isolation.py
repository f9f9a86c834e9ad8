"""Isolation: what makes a place of a job dead, and the records of doing it."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Router
from ninja.decorators import decorate_view

from mellow_span.answers.site import IsolationOut, Isolations
from mellow_span.api.asked import OfStage, ask
from mellow_span.api.behind import behind
from mellow_span.api.errors import Refusal
from mellow_span.api.waiting import Searching

router = Router()
REFUSALS: dict[Any, Any] = {401: Refusal, 404: Refusal, 422: Refusal}


@router.get("/{uuid:job_id}/isolation", response={200: Isolations, 202: Searching, **REFUSALS}, operation_id="isolations")
@decorate_view(behind)
def isolations(request: HttpRequest, job_id: UUID, stage: OfStage = "") -> Any:
    """Return the places of a job that can be made dead, and its records of isolation."""
    return ask(request, job_id, "/isolation", stage)


@router.get("/{uuid:job_id}/isolation/plan", response={200: IsolationOut, 202: Searching, **REFUSALS}, operation_id="isolation_plan")
@decorate_view(behind)
def isolation_plan(request: HttpRequest, job_id: UUID, kind: str, id: str, stage: OfStage = "") -> Any:
    """Return what makes a place dead. kind: board, circuit, route or room; id: its identity, or the name of a room."""
    return ask(request, job_id, "/isolation/plan", stage, kind=kind, id=id)
