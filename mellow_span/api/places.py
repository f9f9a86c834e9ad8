"""What is asked of places: routes and what could be tried in them, the intake, boards, the ways to earth an outbuilding."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Router
from ninja.decorators import decorate_view

from mellow_span.answers.job import EarthingOut, RouteOut
from mellow_span.api.asked import ask
from mellow_span.api.behind import behind
from mellow_span.api.errors import Refusal
from mellow_span.api.searches import searched
from mellow_span.api.waiting import Searching
from mellow_span.core.design.balance import Balanced
from mellow_span.core.design.place_options import INTAKE, PlaceOption
from mellow_span.core.design.routes import Tryout

router = Router()
REFUSALS: dict[Any, Any] = {400: Refusal, 401: Refusal, 404: Refusal, 422: Refusal}
LATER: dict[Any, Any] = {202: Searching, **REFUSALS}


@router.get("/{uuid:job_id}/routes", response={200: list[RouteOut], 202: Searching, **REFUSALS}, operation_id="routes")
@decorate_view(behind)
def routes(request: HttpRequest, job_id: UUID) -> Any:
    """Return every route of a job: who lies in it, heat and space side by side, and its section to scale."""
    return ask(request, job_id, "/routes")


@router.get("/{uuid:job_id}/routes/{uuid:route_id}/tryouts", response={200: list[Tryout], **LATER}, operation_id="route_tryouts")
def route_tryouts(request: HttpRequest, job_id: UUID, route_id: UUID) -> Any:
    """Return what insulating, laying on a tray or splitting a route would do to every circuit. Changes nothing."""
    return searched(request, job_id, "tryouts", route_id)


@router.get(
    "/{uuid:job_id}/boards/{uuid:board_id}/balance", response={200: Balanced, 202: Searching, **REFUSALS}, operation_id="board_balance"
)
@decorate_view(behind)
def board_balance(request: HttpRequest, job_id: UUID, board_id: UUID) -> Any:
    """Return the circuits of a three-phase board spread over its phases, with the phases before and after. Changes nothing."""
    return ask(request, job_id, "/boards/{board_id}/balance", board_id=board_id)


@router.get("/{uuid:job_id}/intake/options", response={200: list[PlaceOption], **LATER}, operation_id="intake_options")
def intake_options(request: HttpRequest, job_id: UUID) -> Any:
    """Return the cures for what is short or not known at the intake, each solved again. Changes nothing."""
    return searched(request, job_id, "place_options", INTAKE)


@router.get(
    "/{uuid:job_id}/boards/{uuid:board_id}/options",
    response={200: list[PlaceOption], **LATER},
    operation_id="board_options",
)
def board_options(request: HttpRequest, job_id: UUID, board_id: UUID) -> Any:
    """Return the cures for what is short or not known at a board, each solved again. Changes nothing."""
    return searched(request, job_id, "place_options", board_id)


@router.get(
    "/{uuid:job_id}/boards/{uuid:board_id}/earthing",
    response={200: list[EarthingOut], 202: Searching, **REFUSALS},
    operation_id="board_earthing",
)
@decorate_view(behind)
def board_earthing(request: HttpRequest, job_id: UUID, board_id: UUID) -> Any:
    """Return the three ways to earth an outbuilding side by side with their consequences. Changes nothing."""
    return ask(request, job_id, "/boards/{board_id}/earthing", board_id=board_id)
