"""What is found beyond the single circuit: intake, boards, routes, which device opens first, advice; and the cells the whole rests on."""

from __future__ import annotations

from dataclasses import dataclass

from mellow_span.answers.given import Given
from mellow_span.core.design.balance import Balanced, balance
from mellow_span.core.design.cells import CellUse, cells_of
from mellow_span.core.design.check import check, work_out
from mellow_span.core.design.coordination import Pair, pairs_of
from mellow_span.core.design.outbuilding import EarthingChoice, earthing_choices
from mellow_span.core.design.reach import Reach, reaches
from mellow_span.core.design.routes import RouteView, route_views
from mellow_span.core.design.stages import shown, stages_of
from mellow_span.core.drawing.curves import Plot, plot_of
from mellow_span.core.drawing.glance import GlanceRow, glance_of
from mellow_span.core.drawing.section import Section, section_of
from mellow_span.core.findings.advice import Advice, advise
from mellow_span.core.findings.results import BoardResult, Check, RouteResult
from mellow_span.core.model.changes import Change
from mellow_span.core.model.parts import Board
from mellow_span.core.model.stages import last_of
from mellow_span.core.rules.sources.known import SourceTold, told
from mellow_span.core.rulesets.readings import rules_of


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


def overview(given: Given) -> Overview:
    """Return what is found beyond the single circuits of a job, with its working."""
    inputs = last_of(given.inputs)
    staged = stages_of(given.inputs, beyond=True)
    done = staged.last.done if staged else work_out(inputs, keep=False, reuse=True, beyond=True)
    found = shown(given.inputs, staged) if staged else done.result
    beyond = (found.intake, found.boards, found.routes, pairs_of(done, keep=True), advise(inputs), glance_of(done), told(done.plan.sources))
    return Overview(given.version, *beyond)


def job_cells(given: Given) -> list[CellUse]:
    """Return the doubtful cells a job rests on, those nobody read first, most used first."""
    return list(cells_of(given.inputs))


def curves(given: Given, circuit_id: str) -> Plot:
    """Return the time/current plot of the chain of a circuit, laid out."""
    return plot_of(work_out(given.inputs, keep=False, reuse=True), circuit_id)


def reach(given: Given, circuit_id: str) -> list[Reach]:
    """Return the longest the run may be for each check that length can fail."""
    return list(reaches(given.inputs, circuit_id))


def routes(given: Given) -> list[RouteOut]:
    """Return every route of a job: who lies in it, heat and space side by side, and its section to scale."""
    done = work_out(given.inputs, keep=False, reuse=True, beyond=True)
    lying = {route.id: route for route in done.plan.job.routes}
    rules = rules_of(given.inputs)
    return [RouteOut(view, section_of(rules, done.plan.job, lying[view.id])) for view in route_views(done)]


def balanced(given: Given, board_id: str) -> Balanced:
    """Return the circuits of a three-phase board spread over its phases, with the phases before and after."""
    return balance(given.inputs, board_id)


def earthing(given: Given, board_id: str) -> list[EarthingOut]:
    """Return the three ways to earth an outbuilding side by side with their consequences."""
    inputs = given.inputs
    choices = earthing_choices(rules_of(inputs), inputs, board_id, book=given.book)
    board = next(b for b in inputs.boards if b.id == board_id)
    return [_earthing(choice, board) for choice in choices]


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
