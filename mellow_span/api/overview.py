"""What is found beyond the single circuit: intake, boards, routes, which device opens first, advice; and what the whole of a job rests on."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Router
from ninja.decorators import decorate_view

from mellow_span.answers.job import Overview
from mellow_span.answers.stages import StageTold
from mellow_span.api.asked import ask
from mellow_span.api.behind import behind
from mellow_span.api.errors import Refusal
from mellow_span.api.searches import searched
from mellow_span.api.waiting import Searching
from mellow_span.core.design.cells import CellUse
from mellow_span.core.design.joint import Joint
from mellow_span.core.design.robustness import Variant
from mellow_span.core.design.staged_sizes import Growing
from mellow_span.core.design.surveyed import Assumption

router = Router()
REFUSALS: dict[Any, Any] = {400: Refusal, 401: Refusal, 404: Refusal, 422: Refusal}
LATER: dict[Any, Any] = {202: Searching, **REFUSALS}


@router.get("/{uuid:job_id}/overview", response={200: Overview, 202: Searching, **REFUSALS}, operation_id="overview")
@decorate_view(behind)
def overview(request: HttpRequest, job_id: UUID) -> Any:
    """Return what is found beyond the single circuits of a job, with its working."""
    return ask(request, job_id, "/overview")


@router.get("/{uuid:job_id}/stages", response={200: list[StageTold], 202: Searching, **REFUSALS}, operation_id="stages")
@decorate_view(behind)
def stages(request: HttpRequest, job_id: UUID) -> Any:
    """Return the stages of a job side by side, the first first; none for a job without."""
    return ask(request, job_id, "/stages")


@router.get("/{uuid:job_id}/stages/sizes", response={200: list[Growing], **LATER}, operation_id="stage_sizes")
def stage_sizes(request: HttpRequest, job_id: UUID) -> Any:
    """Return the circuits whose least size differs between the stages of a job: put in once for the last, or renewed. Changes nothing."""
    return searched(request, job_id, "growing")


@router.get("/{uuid:job_id}/cells", response={200: list[CellUse], 202: Searching, **REFUSALS}, operation_id="job_cells")
@decorate_view(behind)
def job_cells(request: HttpRequest, job_id: UUID) -> Any:
    """Return the doubtful cells a job rests on, those nobody read first, most used first."""
    return ask(request, job_id, "/cells")


@router.get("/{uuid:job_id}/assumptions", response={200: list[Assumption], **LATER}, operation_id="assumptions")
def assumed(request: HttpRequest, job_id: UUID) -> Any:
    """Return the surveyed values that nobody measured, and what each would cost if it turned out otherwise."""
    return searched(request, job_id, "assumptions")


@router.get("/{uuid:job_id}/holds", response={200: list[Variant], **LATER}, operation_id="robustness")
def holds(request: HttpRequest, job_id: UUID) -> Any:
    """Return how every circuit stands with lengths, supply, temperature or insulation a little worse."""
    return searched(request, job_id, "holds")


@router.get("/{uuid:job_id}/cheapest", response={200: Joint, **LATER}, operation_id="cheapest")
def least_cost(request: HttpRequest, job_id: UUID) -> Any:
    """Return the cheapest sizes of all sub-mains and finals together. Changes nothing."""
    return searched(request, job_id, "cheapest")
