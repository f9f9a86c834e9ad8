"""What is asked of places: routes and what could be tried in them, the intake, boards, the ways to earth an outbuilding."""

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
from mellow_span.core.design.balance import Balanced, balance
from mellow_span.core.design.check import check, work_out
from mellow_span.core.design.outbuilding import EarthingChoice, earthing_choices
from mellow_span.core.design.place_options import INTAKE, PlaceOption
from mellow_span.core.design.routes import RouteView, Tryout, route_views
from mellow_span.core.drawing.section import Section, section_of
from mellow_span.core.model.changes import Change
from mellow_span.core.model.parts import Board
from mellow_span.core.rulesets.readings import rules_of
from mellow_span.jobs.ownership import member_of
from mellow_span.logbook.prices import prices_for

router = Router()
REFUSALS: dict[Any, Any] = {400: Refusal, 401: Refusal, 404: Refusal, 422: Refusal}
LATER: dict[Any, Any] = {202: Searching, **REFUSALS}


@dataclass(slots=True)
class RouteOut:
    """A route as it is looked at, and its section."""

    view: RouteView
    section: Section


@dataclass(slots=True)
class EarthingOut:
    """One way to earth an outbuilding: its consequences, and how the board and its circuits stand under it. zs [ohm].
    bond_csa [mm2] carried over bond_metres [m]; copper [kg]; cost: by the made-up book; touch: on metal there with an open neutral [V], None
    where it cannot be told; digs_later: when a metal service comes [m]. chosen: it is the way that stands.
    """

    id: str
    title: str
    clause: str
    consequences: tuple[str, ...]
    zs: float | None
    short: tuple[str, ...]
    changes: tuple[Change, ...]
    bond_csa: float | None
    bond_metres: float
    copper: float
    cost: float
    touch: float | None
    digs_later: float
    chosen: bool


@router.get("/{uuid:job_id}/routes", response={200: list[RouteOut], 202: Searching, **REFUSALS}, operation_id="routes")
@decorate_view(behind)
def routes(request: HttpRequest, job_id: UUID) -> Any:
    """Return every route of a job: who lies in it, heat and space side by side, and its section to scale."""
    inputs, _ = inputs_of(request, job_id)
    done = work_out(inputs, keep=False, reuse=True, beyond=True)
    lying = {route.id: route for route in done.plan.job.routes}
    rules = rules_of(inputs)
    found = [RouteOut(view, section_of(rules, done.plan.job, lying[view.id])) for view in route_views(done)]
    return send(list[RouteOut], found)


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
    return send(Balanced, balance(inputs_of(request, job_id)[0], str(board_id)))


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
    inputs, _ = inputs_of(request, job_id)
    choices = earthing_choices(rules_of(inputs), inputs, str(board_id), book=prices_for(member_of(request.user).firm_id, inputs))
    board = next(b for b in inputs.boards if b.id == str(board_id))
    return send(list[EarthingOut], [_earthing(choice, board) for choice in choices])


def _earthing(choice: EarthingChoice, board_now: Board) -> EarthingOut:
    board = board_now.id
    found = check(choice.job, keep=False, reuse=True)
    names = {c.id: c.name or "a circuit" for c in choice.job.circuits}
    here = {c.id for c in choice.job.circuits if c.board == board or c.feeds == board}
    place = next(b for b in found.boards if b.id == board)
    short = [f"{names[c.id]}: {c.reason}" for c in found.circuits if c.id in here and c.verdict == "short"]
    short += [f"{one.title.lower()}: {one.text}" for one in place.checks if one.verdict == "short"]
    chosen = board_now.earthing == ("TT" if choice.id == "local" else "supply") and choice.id != "both"
    return EarthingOut(
        choice.id, choice.title, choice.clause, choice.consequences, place.zs, tuple(short), choice.changes, choice.bond_csa,
        choice.bond_metres, choice.copper, choice.cost, choice.touch, choice.digs_later, chosen,
    )  # fmt: skip
