"""Demand: the design current of a circuit, and what a board draws per phase after diversity, up the tree to the service fuse."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from mellow_span.core.errors import CoreError, MissingInput
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import BoardDemand, KindLine, Outcome, PhaseSum
from mellow_span.core.model.parts import Board, Circuit, Installation, Load, Supply
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.working.recorders import Silent, Working, recorder

if TYPE_CHECKING:
    from mellow_span.core.rules.case import Case

PHASES = ("L1", "L2", "L3")
# The plain arithmetic of loads looks nothing up, so it needs no rules and keeps no steps.
_QUIET = Silent(None)  # type: ignore[arg-type]


def load_current(w: Working, supply: Supply, circuit: Circuit, load: Load) -> float:
    """Return the current of one load line [A]: n P / (U0 pf), or n P / (3 U0 pf) balanced over three phases.

    Raises MissingInput without an amount. BS 7671 section 311 and 433.1.1 (design current).
    """
    name = load.name or load.kind.replace("_", " ")
    if load.basis == "In":
        if circuit.device.rating is None:
            raise MissingInput("device.rating", "the rated current of the device in A")
        return w.given("Ib", circuit.device.rating, "A", f"{name}: taken as the whole rating of the device")
    if load.amount is None:
        raise MissingInput(f"load.{load.id}.amount", f"the rating of {name} in W or A")
    if load.basis == "A":
        return w.calc("Ib", load.quantity * load.amount, "A", "n × I", {"n": load.quantity, "I": load.amount}, C.DEMAND, name)
    u0, phases = supply.u0, circuit.phases
    current = load.quantity * load.amount / (phases * u0 * load.pf)
    puts = {"n": float(load.quantity), "P": load.amount, "U0": u0, "pf": load.pf}
    return w.calc("Ib", current, "A", "n × P / (U0 × pf)" if phases == 1 else "n × P / (3 × U0 × pf)", puts, C.DEMAND, name)


@dataclass(frozen=True, slots=True)
class Item:
    """One load as the diversity rules see it: its kind, its current [A] on each phase it loads, and its own allowance if it has one."""

    kind: str
    amps: float
    load: Load
    phases: tuple[str, ...]


def allowances(w: Working, items: list[Item]) -> list[float]:
    """Return what is allowed for each of several loads of one kind after diversity [A], in their order.

    The rule of the kind is a row of figures: so many of the largest in full, or so many amperes of the sum in full, and a share of the
    rest; cooking adds 5 A where a control unit has a socket-outlet. A load's own factor or amperes take it out of the rule (311.1).
    """
    found = [_own(w, item) for item in items]
    ruled = [i for i, own in enumerate(found) if own is None]
    if ruled:
        kind = items[ruled[0]].kind
        row = {name: w.rules.table(T.DIVERSITY).cell(kind, name).value for name in ("full_count", "full_amps", "rest_share", "socket_amps")}
        share = w.look("share", T.DIVERSITY, kind, "rest_share", kind.replace("_", " "))
        amps = [items[i].amps for i in ruled]
        allowed = _pooled(w, row, amps) if row["full_amps"] else _ranked(w, int(row["full_count"]), share, amps)
        for i, value in zip(ruled, allowed, strict=True):
            found[i] = value
        if row["socket_amps"] and any(items[i].load.control_socket for i in ruled):
            more = w.look("socket", T.DIVERSITY, kind, "socket_amps", "socket-outlet in the control unit")
            found[ruled[0]] = (found[ruled[0]] or 0.0) + more
    return [value or 0.0 for value in found]


def _own(w: Working, item: Item) -> float | None:
    name = item.load.name or item.kind
    if item.load.diverse_amps is not None:
        return w.given("I", item.load.diverse_amps, "A", f"{name}: own allowance")
    if item.load.diversity is not None:
        puts = {"factor": item.load.diversity, "I": item.amps}
        return w.calc("I", item.load.diversity * item.amps, "A", "factor × I", puts, C.DEMAND, f"{name}: own factor")
    return None


def _pooled(w: Working, row: dict[str, float], amps: list[float]) -> list[float]:
    """So many amperes of the sum in full and a share of the excess, spread over the loads in proportion."""
    total, full, share = sum(amps), row["full_amps"], row["rest_share"]
    if total <= full:
        return amps
    puts = {"full": full, "share": share, "ΣI": total}
    allowed = w.calc("I", full + share * (total - full), "A", "full + share × (ΣI − full)", puts, C.DEMAND)
    return [allowed * one / total for one in amps]


def _ranked(w: Working, count: int, share: float, amps: list[float]) -> list[float]:
    """So many of the largest in full, a share of each other."""
    full = set(sorted(range(len(amps)), key=lambda i: -amps[i])[:count])
    found = [one if i in full else share * one for i, one in enumerate(amps)]
    puts = {"full": sum(amps[i] for i in full), "share": share, "rest": sum(one for i, one in enumerate(amps) if i not in full)}
    w.calc("I", sum(found), "A", "full + share × rest", puts, C.DEMAND)
    return found


def present(circuit: Circuit) -> list[Load]:
    """Return the loads a circuit is designed for: those that stand now, or, where all may come later, those."""
    return [load for load in circuit.loads if not load.future] or list(circuit.loads)


def design_current(w: Working, case: Case) -> float:
    """Return Ib of the circuit [A]: the sum of its loads, without diversity unless the circuit asks for it.

    A sub-main takes the demand of the board it feeds at its highest phase, or the rating of its device where that is chosen.
    Raises MissingInput where there is no load.
    """
    circuit = case.circuit
    loads = present(circuit)
    if not loads:
        if circuit.feeds:
            return _submain_current(w, case)
        raise MissingInput("loads", "a load in W or A")
    currents = [load_current(w, case.supply, circuit, load) for load in loads]
    if circuit.diversified:
        currents = _diversified(w, circuit, loads, currents)
    if len(currents) == 1:
        return currents[0]
    puts = {f"I{i}": current for i, current in enumerate(currents, 1)}
    note = "after diversity, as chosen for this circuit" if circuit.diversified else "all loads of the circuit"
    return w.calc("Ib", sum(currents), "A", " + ".join(puts), puts, C.DEMAND, note)


def _diversified(w: Working, circuit: Circuit, loads: list[Load], currents: list[float]) -> list[float]:
    by_kind: dict[str, list[int]] = defaultdict(list)
    for i, load in enumerate(loads):
        by_kind[load.kind].append(i)
    found = list(currents)
    for kind, places in by_kind.items():
        items = [Item(kind, currents[i], loads[i], ()) for i in places]
        for i, value in zip(places, allowances(w, items), strict=True):
            found[i] = value
    return found


def _submain_current(w: Working, case: Case) -> float:
    if case.circuit.ib_from == "device":
        return w.given("Ib", case.rating, "A", "sub-main: taken as the whole rating of its device")
    if case.around.demand is None:
        raise MissingInput("loads", case.around.demand_missing or "loads on the board it feeds")
    return w.given("Ib", case.around.demand, "A", "sub-main: demand of its board after diversity, highest phase")


def ib_of(w: Working, case: Case) -> float:
    """Return Ib [A] without its steps, worked out once for a circuit."""
    if "ib" not in case.memo:
        case.memo["ib"] = design_current(w.quiet(), case)
    found: float = case.memo["ib"]
    return found


def power_factor(case: Case) -> float:
    """Return the power factor of a circuit: its loads weighted by their current; 1 where a load is taken as a rating."""
    quiet = Silent(case.rules)
    weighted = [(load_current(quiet, case.supply, case.circuit, load), load.pf) for load in present(case.circuit)]
    total = sum(current for current, _ in weighted)
    return sum(current * pf for current, pf in weighted) / total if total else 1.0


def check_design_current(w: Working, case: Case) -> Outcome:
    """Check Ib <= In (433.1.1 (i))."""
    ib = design_current(w, case)
    rating = w.given("In", case.rating, "A", "rating of the device")
    taken_as_rating = all(load.basis == "In" for load in case.circuit.loads) and not (
        case.circuit.feeds and case.circuit.ib_from == "demand"
    )
    margin = None if taken_as_rating else 1 - ib / rating
    word = "is within" if ib <= rating else "is over"
    text = f"Ib {quantity(ib, 'A')} {word} In {quantity(rating, 'A')}"
    later = [load for load in case.circuit.loads if load not in present(case.circuit)]
    if later:
        more = sum(load_current(w.quiet(), case.supply, case.circuit, load) for load in later)
        text += f"; with what may come later {quantity(ib + more, 'A')}"
        if ib <= rating < ib + more:
            text += ", over In"
    return Outcome(ib, rating, "A", margin, text)


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
        if circuit.feeds:
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
