"""What is asked of one circuit: its curves, the nearest break, ways out, reach, readings, size. Searches answer with 202 while they are worked on."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Router
from ninja.decorators import decorate_view

from mellow_span.api.asked import ask
from mellow_span.api.behind import behind
from mellow_span.api.errors import Refusal
from mellow_span.api.searches import searched
from mellow_span.api.waiting import Searching
from mellow_span.core.design.breaks import Break
from mellow_span.core.design.options import Option
from mellow_span.core.design.reach import Reach
from mellow_span.core.design.size import Sizing
from mellow_span.core.drawing.curves import Plot
from mellow_span.core.site.compare import Comparison

router = Router()
REFUSALS: dict[Any, Any] = {400: Refusal, 401: Refusal, 404: Refusal, 422: Refusal}
LATER: dict[Any, Any] = {202: Searching, **REFUSALS}


@router.get(
    "/{uuid:job_id}/circuits/{uuid:circuit_id}/curves", response={200: Plot, 202: Searching, **REFUSALS}, operation_id="circuit_curves"
)
@decorate_view(behind)
def circuit_curves(request: HttpRequest, job_id: UUID, circuit_id: UUID) -> Any:
    """Return the time/current plot of the chain of a circuit, laid out."""
    return ask(request, job_id, "/circuits/{circuit_id}/curves", circuit_id=circuit_id)


@router.get(
    "/{uuid:job_id}/circuits/{uuid:circuit_id}/breaks",
    response={200: list[Break], **LATER},
    operation_id="circuit_breaks",
)
def circuit_breaks(request: HttpRequest, job_id: UUID, circuit_id: UUID) -> Any:
    """Return the least change of each kind that makes a circuit fall short, the nearest first."""
    return searched(request, job_id, "breaks", circuit_id)


@router.get(
    "/{uuid:job_id}/circuits/{uuid:circuit_id}/options",
    response={200: list[Option], **LATER},
    operation_id="circuit_options",
)
def circuit_options(request: HttpRequest, job_id: UUID, circuit_id: UUID) -> Any:
    """Return the ranked ways out for a circuit that is short, each solved again. Changes nothing."""
    return searched(request, job_id, "options", circuit_id)


@router.get(
    "/{uuid:job_id}/circuits/{uuid:circuit_id}/reach", response={200: list[Reach], 202: Searching, **REFUSALS}, operation_id="circuit_reach"
)
@decorate_view(behind)
def circuit_reach(request: HttpRequest, job_id: UUID, circuit_id: UUID) -> Any:
    """Return the longest the run may be for each check that length can fail."""
    return ask(request, job_id, "/circuits/{circuit_id}/reach", circuit_id=circuit_id)


@router.get(
    "/{uuid:job_id}/circuits/{uuid:circuit_id}/readings",
    response={200: list[Comparison], 202: Searching, **REFUSALS},
    operation_id="circuit_readings",
)
@decorate_view(behind)
def circuit_readings(request: HttpRequest, job_id: UUID, circuit_id: UUID) -> Any:
    """Compare the readings of a circuit in the log with what its design predicts."""
    return ask(request, job_id, "/circuits/{circuit_id}/readings", circuit_id=circuit_id)


@router.get("/{uuid:job_id}/circuits/{uuid:circuit_id}/size", response={200: Sizing, **LATER}, operation_id="size_circuit")
def size_circuit(request: HttpRequest, job_id: UUID, circuit_id: UUID) -> Any:
    """Find the smallest csa that passes, with the check that ruled the next smaller one out. Changes nothing."""
    return searched(request, job_id, "size", circuit_id)
