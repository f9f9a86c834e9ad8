"""Demand of boards per phase, from the far ends of the tree up."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from mellow_span.core.errors import CoreError, MissingInput
from mellow_span.core.findings.results import BoardDemand, KindLine, PhaseSum
from mellow_span.core.model.parts import Board, Circuit, Installation
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.vocabulary import C
from mellow_span.core.working.recorders import Silent, Working, recorder

if TYPE_CHECKING:
    pass
from mellow_span.core.rules.demand.diversity import Item, allowances
from mellow_span.core.rules.demand.loads import load_current

PHASES = ("L1", "L2", "L3")


# The plain arithmetic of loads looks nothing up, so it needs no rules and keeps no steps.
_QUIET = Silent(None)  # type: ignore[arg-type]


@dataclass(slots=True)
class Draw:
    """What a board draws on each phase [A]: connected, after diversity, and after diversity with what may come later."""

    connected: dict[str, float] = field(default_factory=lambda: defaultdict(float))
    demand: dict[str, float] = field(default_factory=lambda: defaultdict(float))
    later: dict[str, float] = field(default_factory=lambda: defaultdict(float))


def phases_of(job: Installation, circuits: Iterable[Circuit], board_phases: int) -> tuple[dict[str, str], tuple[str, ...]]:
    """Return the phase of each single-phase circuit of a board, and the identities of those whose phase was only assumed.

    On a three-phase board, circuits without a phase are spread largest first onto the least loaded phase; that is a proposal to balance.
    """
    circuits = list(circuits)
    if board_phases == 1:
        return {c.id: c.phase or "L1" for c in circuits if c.phases == 1}, ()
    fixed = {c.id: str(c.phase) for c in circuits if c.phases == 1 and c.phase}
    sums: dict[str, float] = dict.fromkeys(PHASES, 0.0)

    def weight(circuit: Circuit) -> float:
        total = 0.0
        for load in circuit.loads:
            try:
                total += load_current(_QUIET, job.supply, circuit, load)
            except CoreError:
                continue
        return total or (circuit.device.rating or 0.0)

    for circuit in circuits:
        if circuit.id in fixed:
            sums[fixed[circuit.id]] += weight(circuit)
    open_ones = sorted((c for c in circuits if c.phases == 1 and not c.phase), key=lambda c: (-weight(c), c.id))
    for circuit in open_ones:
        phase = min(PHASES, key=lambda p: sums[p])
        fixed[circuit.id] = phase
        sums[phase] += weight(circuit)
    return fixed, tuple(c.id for c in open_ones)


def board_phases(job: Installation, board: Board) -> int:
    """Return the phases of a board: those of the sub-main that feeds it, else of the supply."""
    above = next((c for c in job.circuits if c.feeds == board.id), None)
    return above.phases if above else job.supply.phases


def board_demand(w: Working, job: Installation, board: Board, below: dict[str, BoardDemand]) -> BoardDemand:
    """Return the demand of a board [A per phase]: each kind of load by its rule over the whole board, then summed per phase; the totals of
    the boards below it add as they are (311.1).

    below: demand of the boards fed from this one. What is missing is named in `error`, and then there is no figure.
    """
    circuits = [c for c in job.circuits if c.board == board.id]
    phases = board_phases(job, board)
    on, guessed = phases_of(job, circuits, phases)
    names = PHASES if phases > 1 else ("L1",)
    try:
        items = _items(w, job, circuits, on)
        draw = Draw()
        lines = _by_kind(w, items, draw, names)
        _from_below(circuits, below, on, draw, names)
    except CoreError as refusal:
        w.take()
        return BoardDemand(board.id, error=str(refusal), field=refusal.field)
    sums = tuple(PhaseSum(p, draw.connected[p], draw.demand[p], draw.later[p]) for p in names)
    highest = max(s.demand for s in sums)
    puts = {s.phase: s.demand for s in sums}
    w.calc("I,max", highest, "A", f"max({', '.join(puts)})" if len(puts) > 1 else "L1", puts, C.DEMAND, "demand of the highest phase")
    steps, _ = w.take()
    return BoardDemand(
        board.id, sums, highest, max(s.later for s in sums), highest - min(s.demand for s in sums), lines, guessed, steps=steps
    )  # fmt: skip


def _items(w: Working, job: Installation, circuits: list[Circuit], on: dict[str, str]) -> list[Item]:
    found = []
    for circuit in circuits:
        if circuit.feeds or circuit.spare:
            continue
        where = PHASES if circuit.phases == 3 else (on[circuit.id],)
        for load in circuit.loads:
            found.append(Item(load.kind, load_current(w.quiet(), job.supply, circuit, load), load, where))
    return found


def _by_kind(w: Working, items: list[Item], draw: Draw, names: tuple[str, ...]) -> tuple[KindLine, ...]:
    lines = []
    for kind in dict.fromkeys(item.kind for item in items):
        every = [item for item in items if item.kind == kind]
        now = [item for item in every if not item.load.future]
        allowed = allowances(w, now) if now else []
        for item, value in zip(now, allowed, strict=True):
            _put(draw.connected, item, item.amps, names)
            _put(draw.demand, item, value, names)
        later = allowances(w.quiet(), every) if len(now) != len(every) else allowed
        for item, value in zip(every, later, strict=True):
            _put(draw.later, item, value, names)
        lines.append(KindLine(kind, len(now), sum(item.amps for item in now), sum(allowed), sum(later)))
    return tuple(lines)


def _put(sums: dict[str, float], item: Item, amps: float, names: tuple[str, ...]) -> None:
    for phase in item.phases if len(names) > 1 else names:
        sums[phase] += amps


def _from_below(circuits: list[Circuit], below: dict[str, BoardDemand], on: dict[str, str], draw: Draw, names: tuple[str, ...]) -> None:
    for circuit in circuits:
        if not circuit.feeds:
            continue
        fed = below[circuit.feeds]
        if fed.error:
            raise MissingInput(fed.field or "loads", fed.error)
        for part in fed.phases:
            phase = part.phase if circuit.phases == 3 and len(names) > 1 else (on.get(circuit.id, "L1") if len(names) > 1 else "L1")
            draw.connected[phase] += part.connected
            draw.demand[phase] += part.demand
            draw.later[phase] += part.later


def demands(rules: RuleSet, job: Installation, upward: list[Circuit], keep: bool) -> dict[str, BoardDemand]:
    """Return the demand of every board, from the far ends of the tree up. upward: sub-mains in the order power flows."""
    found: dict[str, BoardDemand] = {}
    boards = {board.id: board for board in job.boards}
    order = [c.feeds for c in reversed(upward) if c.feeds]
    for name in [*order, *(b for b in boards if b not in order)]:
        found[name] = board_demand(recorder(rules, keep), job, boards[name], found)
    return found
