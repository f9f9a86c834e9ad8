"""What is found beyond the single circuit: intake, boards, routes, which device opens first, advice; and what the whole of a job rests on."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Router
from ninja.decorators import decorate_view

from mellow_span.api.asked import inputs_of
from mellow_span.api.behind import behind
from mellow_span.api.errors import Refusal
from mellow_span.api.render import send
from mellow_span.api.searches import searched
from mellow_span.api.waiting import Searching
from mellow_span.core.design.cells import CellUse, cells_of
from mellow_span.core.design.check import work_out
from mellow_span.core.design.coordination import Pair, pairs_of
from mellow_span.core.design.joint import Joint
from mellow_span.core.design.robustness import Variant
from mellow_span.core.design.surveyed import Assumption
from mellow_span.core.drawing.glance import GlanceRow, glance_of
from mellow_span.core.findings.advice import Advice, advise
from mellow_span.core.findings.results import BoardResult, Check, RouteResult
from mellow_span.core.rules.sources.known import SourceTold, told

router = Router()
REFUSALS: dict[Any, Any] = {400: Refusal, 401: Refusal, 404: Refusal, 422: Refusal}
LATER: dict[Any, Any] = {202: Searching, **REFUSALS}


@dataclass(slots=True)
class Overview:
    """A job beyond its circuits, with the working: intake, boards, routes, which device operates first, advice, the whole house at a glance, and
    the sources beside the network."""

    version: int
    intake: tuple[Check, ...]
    boards: tuple[BoardResult, ...]
    routes: tuple[RouteResult, ...]
    pairs: tuple[Pair, ...]
    advice: tuple[Advice, ...]
    glance: tuple[GlanceRow, ...]
    sources: tuple[SourceTold, ...]


@router.get("/{uuid:job_id}/overview", response={200: Overview, 202: Searching, **REFUSALS}, operation_id="overview")
@decorate_view(behind)
def overview(request: HttpRequest, job_id: UUID) -> Any:
    """Return what is found beyond the single circuits of a job, with its working."""
    inputs, version = inputs_of(request, job_id)
    done = work_out(inputs, keep=False, reuse=True, beyond=True)
    found = done.result
    beyond = (found.intake, found.boards, found.routes, pairs_of(done, keep=True), advise(inputs), glance_of(done), told(done.plan.sources))
    return send(Overview, Overview(version, *beyond))


@router.get("/{uuid:job_id}/cells", response={200: list[CellUse], 202: Searching, **REFUSALS}, operation_id="job_cells")
@decorate_view(behind)
def job_cells(request: HttpRequest, job_id: UUID) -> Any:
    """Return the doubtful cells a job rests on, those nobody read first, most used first."""
    return send(list[CellUse], list(cells_of(inputs_of(request, job_id)[0])))


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
