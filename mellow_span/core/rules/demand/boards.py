"""Demand of boards per phase, from the far ends of the tree up."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, field

from mellow_span.core.adding import added
from mellow_span.core.errors import CoreError, MissingInput
from mellow_span.core.findings.results import BoardDemand, KindLine, PhaseSum
from mellow_span.core.model.parts import Board, Circuit, Installation, Load
from mellow_span.core.rules.demand.diversity import Item, allowances
from mellow_span.core.rules.demand.loads import load_current
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.vocabulary import C
from mellow_span.core.working.recorders import Working, recorder

PHASES = ("L1", "L2", "L3")


@dataclass(slots=True)
class Draw:
    """What a board draws on each phase [A]: connected, after diversity, and after diversity with what may come later."""

    connected: dict[str, float] = field(default_factory=lambda: defaultdict(float))
    demand: dict[str, float] = field(default_factory=lambda: defaultdict(float))
    later: dict[str, float] = field(default_factory=lambda: defaultdict(float))
    # Interlocked loads by (name, phase): the largest that is on at a time, now and later; they are not in the sums above.
    locked: dict[tuple[str, str], float] = field(default_factory=dict)
    locked_later: dict[tuple[str, str], float] = field(default_factory=dict)

    def lock(self, later: bool, name: str, phase: str, amps: float) -> None:
        """Let the larger of the interlocked loads stand."""
        sums = self.locked_later if later else self.locked
        sums[(name, phase)] = max(amps, sums.get((name, phase), 0.0))

    def summed(self, phase: str) -> PhaseSum:
        """Return the sums of a phase with the interlocked loads in them."""
        now = self.demand[phase] + added(amps for (_, p), amps in self.locked.items() if p == phase)
        later = self.later[phase] + added(amps for (_, p), amps in self.locked_later.items() if p == phase)
        return PhaseSum(phase, self.connected[phase], now, later)


def lies_on(circuit: Circuit, names: tuple[str, ...]) -> tuple[str, ...]:
    """Return the phases of a board that a circuit counts on; a single-phase circuit of unknown phase counts on every one."""
    if circuit.phases > 1 or len(names) == 1 or circuit.phase is None:
        return names
    return (circuit.phase,)


def board_phases(job: Installation, board: Board) -> int:
    """Return the phases of a board: those of the sub-main that feeds it, else of the supply."""
    above = next((c for c in job.circuits if c.feeds == board.id), None)
    return above.phases if above else job.supply.phases


def board_demand(w: Working, job: Installation, board: Board, below: dict[str, BoardDemand], drawn: dict[str, Draw]) -> BoardDemand:
    """Return the demand of a board [A per phase]: on each phase each kind of load by its rule, three-phase loads as a list apart, and never
    less than the largest single load there; the totals of the boards below add as they are (311.1).

    below: demand of the boards fed from this one; drawn: what each board draws before it is summed, to which this one is added. What is
    missing is named in `error`, and then there is no figure.
    """
    circuits = [c for c in job.circuits if c.board == board.id and not c.spare]
    names = PHASES if board_phases(job, board) > 1 else ("L1",)
    open_ones = tuple(c.id for c in circuits if c.phases == 1 and c.phase is None) if len(names) > 1 else ()
    try:
        items = _items(w, job, circuits, names)
        draw = Draw()
        lines = [_on_phase(w, items, draw, phase, len(names) > 1) for phase in names]
        unlike = _from_below(circuits, below, drawn, draw, names)
    except CoreError as refusal:
        w.take()
        return BoardDemand(board.id, error=str(refusal), field=refusal.field)
    drawn[board.id] = draw
    sums = tuple(draw.summed(phase) for phase in names)
    highest = max(s.demand for s in sums)
    terms = {s.phase: s.demand for s in sums}
    w.calc("I,max", highest, "A", f"max({', '.join(terms)})" if len(terms) > 1 else "L1", terms, C.DEMAND, "demand of the highest phase")
    steps, _ = w.take()
    return BoardDemand(
        board.id, sums, highest, max(s.later for s in sums), highest - min(s.demand for s in sums), _kinds(lines), open_ones,
        uneven=len(names) > 1 and (unlike or any(not item.three for item in items)), steps=steps,
    )  # fmt: skip


def _items(w: Working, job: Installation, circuits: list[Circuit], names: tuple[str, ...]) -> list[Item]:
    return [
        Item(load.kind, load_current(w.quiet(), job.supply, circuit, load), load, lies_on(circuit, names), three=circuit.phases > 1)
        for circuit in circuits
        if not circuit.feeds
        for load in circuit.loads
        if draws(load)
    ]


def draws(load: Load) -> bool:
    """Say whether a load takes anything: a generator gives alone, and so does an inverter that is said to have no battery to charge."""
    return load.kind != "generator" and not (load.kind == "inverter" and load.battery is False)


def _on_phase(w: Working, items: list[Item], draw: Draw, phase: str, many: bool) -> dict[str, KindLine]:
    here = [item for item in items if phase in item.phases]
    now = [item for item in here if not item.load.future]
    draw.connected[phase] = added(item.amps for item in now)
    if many and now:
        w.given(phase, draw.connected[phase], "A", f"connected on {phase}")
    beside, beside_later = _locked(w, draw, here, phase)
    free, free_later = ([item for item in items if not item.load.interlock] for items in (now, here))
    allowed = _by_kind(w, free, phase if many else "")
    later = _by_kind(w.quiet(), free_later, "") if len(free) != len(free_later) else allowed
    draw.demand[phase] = _floored(w, free, added(allowed.values()), beside)
    draw.later[phase] = _floored(w.quiet(), free_later, added(later.values()), beside_later)
    found = {}
    for kind in dict.fromkeys(item.kind for item in here):
        of_kind = [item for item in now if item.kind == kind]
        amps = added(item.amps for item in of_kind)
        found[kind] = KindLine(kind, len(of_kind), amps, allowed.get(kind, 0.0), later.get(kind, 0.0))
    return found


def _by_kind(w: Working, items: list[Item], phase: str) -> dict[str, float]:
    """What is allowed of each kind on one phase [A]: its single-phase loads by the rule of the kind, its three-phase loads by it once more."""
    found: dict[str, float] = defaultdict(float)
    for kind in dict.fromkeys(item.kind for item in items):
        for three in (False, True):
            alike = [item for item in items if item.kind == kind and item.three is three]
            if alike:
                found[kind] += added(allowances(w, alike, f" on {phase}" if phase else ""))
    return found


def _locked(w: Working, draw: Draw, here: list[Item], phase: str) -> tuple[float, float]:
    """Note the interlocked loads of a board on a phase, and return what they draw there at a time [A], now and with what may come later."""
    own, own_later = Draw(), Draw()
    for item in here:
        name = item.load.interlock
        if not name:
            continue
        for one in (draw, own_later):
            one.lock(True, name, phase, item.alone)
        if not item.load.future:
            amps = w.given("I", item.alone, "A", f"{item.load.name or item.kind}: interlocked, {name}")
            for one in (draw, own):
                one.lock(False, name, phase, amps)
    return added(own.locked.values()), added(own_later.locked_later.values())


def _floored(w: Working, items: list[Item], amps: float, beside: float) -> float:
    """No less than the largest single load, in full, together with what interlocked loads draw beside it; a load with an allowance of its own
    is left out of this floor.
    """
    most = max((i.counts / i.load.quantity for i in items if not i.has_own), default=0.0)
    if most <= (amps + beside) * (1 + 1e-9):
        return amps
    terms = {"ΣI": amps, "largest": most, "locked": beside}
    return w.calc("I", most - beside, "A", "largest − locked", terms, C.DEMAND, "not less than the largest single load")


def _kinds(by_phase: list[dict[str, KindLine]]) -> tuple[KindLine, ...]:
    """Each kind once: on the phase where it draws most."""
    kinds = dict.fromkeys(kind for lines in by_phase for kind in lines)
    return tuple(max((lines[k] for lines in by_phase if k in lines), key=lambda line: (line.allowed, line.later)) for k in kinds)


def _from_below(circuits: list[Circuit], below: dict[str, BoardDemand], drawn: dict[str, Draw], draw: Draw, names: tuple[str, ...]) -> bool:
    """Add what the boards below draw; say whether that is uneven over the phases of this one."""
    uneven = False
    for circuit in circuits:
        if not circuit.feeds:
            continue
        fed = below[circuit.feeds]
        if fed.error:
            raise MissingInput(fed.field or "loads", fed.error)
        through = circuit.phases > 1 and len(names) > 1
        uneven = uneven or fed.uneven or not through
        for part in fed.phases:
            for phase in (part.phase,) if through else lies_on(circuit, names):
                add(draw, phase, drawn[circuit.feeds], part.phase)
    return uneven


def add(draw: Draw, phase: str, below: Draw, of: str) -> None:
    """Add a phase of a board below as it is; of loads interlocked over both only the larger counts."""
    draw.connected[phase] += below.connected[of]
    draw.demand[phase] += below.demand[of]
    draw.later[phase] += below.later[of]
    for later, sums in ((False, below.locked), (True, below.locked_later)):
        for (name, there), amps in sums.items():
            if there == of:
                draw.lock(later, name, phase, amps)


def demands(rules: RuleSet, job: Installation, upward: list[Circuit], keep: bool) -> tuple[dict[str, BoardDemand], dict[str, Draw]]:
    """Return the demand of every board, from the far ends of the tree up, and what each draws. upward: sub-mains in the order power flows."""
    found: dict[str, BoardDemand] = {}
    drawn: dict[str, Draw] = {}
    boards = {board.id: board for board in job.boards}
    order = [c.feeds for c in reversed(upward) if c.feeds]
    for name in [*order, *(b for b in boards if b not in order)]:
        found[name] = board_demand(recorder(rules, keep), job, boards[name], found, drawn)
    return found, drawn
