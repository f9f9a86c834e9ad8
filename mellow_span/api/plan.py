"""What is found beyond the single circuit: boards, routes, coordination, advice; ways out, readings, sizes of a whole job.

Searches answer with 202 while they are worked on; see `searches`.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Router

from mellow_span.api.errors import Refusal
from mellow_span.api.render import send
from mellow_span.api.searches import searched
from mellow_span.api.waiting import Searching
from mellow_span.core.design.balance import Balanced, balance
from mellow_span.core.design.breaks import Break
from mellow_span.core.design.cells import CellUse, cells_of
from mellow_span.core.design.check import check, work_out
from mellow_span.core.design.coordination import Pair, pairs_of
from mellow_span.core.design.joint import Joint
from mellow_span.core.design.options import Option
from mellow_span.core.design.outbuilding import EarthingChoice, earthing_choices
from mellow_span.core.design.place_options import INTAKE, PlaceOption
from mellow_span.core.design.reach import Reach, reaches
from mellow_span.core.design.robustness import Variant
from mellow_span.core.design.routes import RouteView, Tryout, route_views
from mellow_span.core.design.size import Sizing
from mellow_span.core.design.surveyed import Assumption
from mellow_span.core.drawing.curves import Plot, plot_of
from mellow_span.core.drawing.section import Section, section_of
from mellow_span.core.findings.advice import Advice, advise
from mellow_span.core.findings.results import BoardResult, Check, RouteResult
from mellow_span.core.model.changes import Change
from mellow_span.core.model.parts import Board, Installation
from mellow_span.core.rulesets.readings import rules_of
from mellow_span.core.site.compare import Comparison, verify
from mellow_span.jobs.ownership import job_of, member_of
from mellow_span.jobs.reads import installation, snapshot
from mellow_span.logbook.prices import prices_for

router = Router()
REFUSALS: dict[Any, Any] = {400: Refusal, 401: Refusal, 404: Refusal, 422: Refusal}
LATER: dict[Any, Any] = {202: Searching, **REFUSALS}


@dataclass(slots=True)
class Overview:
    """A job beyond its circuits, with the working: intake, boards, routes, which device opens first, advice."""

    version: int
    intake: tuple[Check, ...]
    boards: tuple[BoardResult, ...]
    routes: tuple[RouteResult, ...]
    pairs: tuple[Pair, ...]
    advice: tuple[Advice, ...]


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


def _inputs(request: HttpRequest, job_id: UUID) -> tuple[Installation, int]:
    with snapshot():
        job = job_of(request.user, job_id)
        return installation(job), job.version


@router.get("/{uuid:job_id}/overview", response={200: Overview, **REFUSALS}, operation_id="overview")
def overview(request: HttpRequest, job_id: UUID) -> Any:
    """Return what is found beyond the single circuits of a job, with its working."""
    inputs, version = _inputs(request, job_id)
    done = work_out(inputs, keep=False, reuse=True, beyond=True)
    found = done.result
    return send(Overview, Overview(version, found.intake, found.boards, found.routes, pairs_of(done, keep=True), advise(inputs)))


@router.get("/{uuid:job_id}/cells", response={200: list[CellUse], **REFUSALS}, operation_id="job_cells")
def job_cells(request: HttpRequest, job_id: UUID) -> Any:
    """Return the doubtful cells a job rests on, those nobody read first, most used first."""
    return send(list[CellUse], list(cells_of(_inputs(request, job_id)[0])))


@router.get("/{uuid:job_id}/routes", response={200: list[RouteOut], **REFUSALS}, operation_id="routes")
def routes(request: HttpRequest, job_id: UUID) -> Any:
    """Return every route of a job: who lies in it, heat and space side by side, and its section to scale."""
    inputs, _ = _inputs(request, job_id)
    done = work_out(inputs, keep=False, reuse=True, beyond=True)
    lying = {route.id: route for route in done.plan.job.routes}
    rules = rules_of(inputs)
    found = [RouteOut(view, section_of(rules, done.plan.job, lying[view.id])) for view in route_views(done)]
    return send(list[RouteOut], found)


@router.get("/{uuid:job_id}/routes/{uuid:route_id}/tryouts", response={200: list[Tryout], **LATER}, operation_id="route_tryouts")
def route_tryouts(request: HttpRequest, job_id: UUID, route_id: UUID) -> Any:
    """Return what insulating, laying on a tray or splitting a route would do to every circuit. Changes nothing."""
    return searched(request, job_id, "tryouts", route_id)


@router.get("/{uuid:job_id}/assumptions", response={200: list[Assumption], **LATER}, operation_id="assumptions")
def assumed(request: HttpRequest, job_id: UUID) -> Any:
    """Return the surveyed values that nobody measured, and what each would cost if it turned out otherwise."""
    return searched(request, job_id, "assumptions")


@router.get("/{uuid:job_id}/circuits/{uuid:circuit_id}/curves", response={200: Plot, **REFUSALS}, operation_id="circuit_curves")
def circuit_curves(request: HttpRequest, job_id: UUID, circuit_id: UUID) -> Any:
    """Return the time/current plot of the chain of a circuit, laid out."""
    return send(Plot, plot_of(work_out(_inputs(request, job_id)[0], keep=False, reuse=True), str(circuit_id)))


@router.get(
    "/{uuid:job_id}/circuits/{uuid:circuit_id}/breaks",
    response={200: list[Break], **LATER},
    operation_id="circuit_breaks",
)
def circuit_breaks(request: HttpRequest, job_id: UUID, circuit_id: UUID) -> Any:
    """Return the least change of each kind that makes a circuit fall short, the nearest first."""
    return searched(request, job_id, "breaks", circuit_id)


@router.get("/{uuid:job_id}/boards/{uuid:board_id}/balance", response={200: Balanced, **REFUSALS}, operation_id="board_balance")
def board_balance(request: HttpRequest, job_id: UUID, board_id: UUID) -> Any:
    """Return the circuits of a three-phase board spread over its phases, with the phases before and after. Changes nothing."""
    return send(Balanced, balance(_inputs(request, job_id)[0], str(board_id)))


@router.get("/{uuid:job_id}/holds", response={200: list[Variant], **LATER}, operation_id="robustness")
def holds(request: HttpRequest, job_id: UUID) -> Any:
    """Return how every circuit stands with lengths, supply, temperature or insulation a little worse."""
    return searched(request, job_id, "holds")


@router.get("/{uuid:job_id}/cheapest", response={200: Joint, **LATER}, operation_id="cheapest")
def least_cost(request: HttpRequest, job_id: UUID) -> Any:
    """Return the cheapest sizes of all sub-mains and finals together. Changes nothing."""
    return searched(request, job_id, "cheapest")


@router.get(
    "/{uuid:job_id}/circuits/{uuid:circuit_id}/options",
    response={200: list[Option], **LATER},
    operation_id="circuit_options",
)
def circuit_options(request: HttpRequest, job_id: UUID, circuit_id: UUID) -> Any:
    """Return the ranked ways out for a circuit that is short, each solved again. Changes nothing."""
    return searched(request, job_id, "options", circuit_id)


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


@router.get("/{uuid:job_id}/circuits/{uuid:circuit_id}/reach", response={200: list[Reach], **REFUSALS}, operation_id="circuit_reach")
def circuit_reach(request: HttpRequest, job_id: UUID, circuit_id: UUID) -> Any:
    """Return the longest the run may be for each check that length can fail."""
    return send(list[Reach], list(reaches(_inputs(request, job_id)[0], str(circuit_id))))


@router.get(
    "/{uuid:job_id}/circuits/{uuid:circuit_id}/readings", response={200: list[Comparison], **REFUSALS}, operation_id="circuit_readings"
)
def circuit_readings(request: HttpRequest, job_id: UUID, circuit_id: UUID) -> Any:
    """Compare the readings of a circuit with what its design predicts."""
    return send(list[Comparison], list(verify(_inputs(request, job_id)[0], str(circuit_id))))


@router.get("/{uuid:job_id}/boards/{uuid:board_id}/earthing", response={200: list[EarthingOut], **REFUSALS}, operation_id="board_earthing")
def board_earthing(request: HttpRequest, job_id: UUID, board_id: UUID) -> Any:
    """Return the three ways to earth an outbuilding side by side with their consequences. Changes nothing."""
    inputs, _ = _inputs(request, job_id)
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


@router.get("/{uuid:job_id}/circuits/{uuid:circuit_id}/size", response={200: Sizing, **LATER}, operation_id="size_circuit")
def size_circuit(request: HttpRequest, job_id: UUID, circuit_id: UUID) -> Any:
    """Find the smallest csa that passes, with the check that ruled the next smaller one out. Changes nothing."""
    return searched(request, job_id, "size", circuit_id)
