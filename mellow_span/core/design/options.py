"""The ways out of a failure: each one a change to the job that is solved again, with what it costs and how much it digs.

Ranked: those that cure the circuit first, then by cost. For work that is there already, the same ways are its cures.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from itertools import combinations
from math import floor
from typing import Any

from mellow_span.core.design.check import NOTHING, Plan, check, feed_to, lay_out
from mellow_span.core.design.circuit import check_circuit
from mellow_span.core.design.prices import PriceBook, circuit_cost, shipped
from mellow_span.core.design.size import size, with_circuit, with_csa
from mellow_span.core.errors import CoreError, MissingInput
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import WORSE, CircuitResult, Verdict
from mellow_span.core.model.changes import Change, restore
from mellow_span.core.model.parts import Circuit, Installation, Load, Route, Span
from mellow_span.core.model.rebase import touches
from mellow_span.core.model.routes import SHARED, resolved
from mellow_span.core.model.tree import circuit_of, feeder_of
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.demand.boards import PHASES, board_phases
from mellow_span.core.rules.demand.loads import ib_of, present
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.vocabulary import T
from mellow_span.core.units import WATT_PER_KW
from mellow_span.core.working.recorders import Silent

# A load that is made smaller is rounded down to this many watts.
STEP_W = 100
MOST_PAIRS = 6
LEAST_RATING = 5


@dataclass(slots=True)
class Option:
    """A way out, solved again: the changes, whether the circuit then passes, and what it costs more than what stands now.

    passes: every check that decides meets or is close; what is not known is no pass. cost: in the currency of the book; digging [m]: in the
    ground that is opened again; rescues, breaks: other circuits it brings to a pass, or leaves worse off (short, or no longer known to pass).
    """

    id: str
    title: str
    changes: tuple[Change, ...]
    passes: bool
    verdict: Verdict
    reason: str
    margin: float | None
    cost: float
    digging: float
    rescues: int = 0
    breaks: int = 0


@dataclass(slots=True)
class _Idea:
    id: str
    title: str
    changes: tuple[Change, ...]


def changed(job: Installation, changes: Iterable[Change]) -> Installation:
    """Return a job with the changes of a way out made."""
    return restore(job, changes)[0]


def solved(job: Installation, circuit_id: str) -> CircuitResult:
    """Check one circuit of a job without its working."""
    plan = lay_out(job)
    circuit = circuit_of(plan.job, circuit_id)
    around = plan.around.get(circuit_id, NOTHING)
    return check_circuit(plan.rules, job.supply, circuit, feed_to(plan, circuit.board), False, around)


def short(result: CircuitResult) -> list[str]:
    """List the deciding checks that are short."""
    return [c.id for c in result.checks if c.decides and c.verdict == "short"]


def rank(result: CircuitResult) -> int:
    """Say how bad a circuit is: 0 where all that decides passes, 1 where something is not known, 2 where something is short."""
    return max((WORSE[c.verdict] for c in result.checks if c.decides), default=WORSE["not_known"])


def options(job: Installation, circuit_id: str, book: PriceBook | None = None) -> tuple[Option, ...]:
    """Return the ranked ways out for a circuit that is short; none where nothing is.

    Where no single change cures it, pairs of changes are tried, and the single ones that come nearest follow.
    book: prices; without it the made-up ones that ship. Raises InputError for an unknown circuit.
    """
    book = book or shipped()
    plan = lay_out(job)
    circuit = circuit_of(plan.job, circuit_id)
    before = solved(job, circuit_id)
    if not short(before):
        return ()
    stood = {c.id: rank(c) for c in check(job, keep=False, reuse=True).circuits}
    ideas = list(_ideas(plan, job, circuit, before))

    def solve(tried: list[_Idea]) -> list[Option]:
        found = []
        for idea in tried:
            try:
                found.append(_solve(plan.rules, job, circuit_id, idea, book, stood))
            except CoreError:
                continue
        return sorted(found, key=lambda o: (WORSE[o.verdict], o.breaks > 0, o.cost, o.title))

    singles = solve(ideas)
    if any(o.passes for o in singles):
        return tuple(o for o in singles if o.passes)
    # Where two things are wrong at once, one change may not be enough.
    pairs = solve(_pairs(ideas))
    cures = [o for o in pairs if o.passes]
    if not cures and all(o.verdict == "short" for o in singles):
        cures = [o for o in pairs if o.verdict != "short"]
    return tuple(cures[:MOST_PAIRS] + singles)


def _pairs(ideas: list[_Idea]) -> list[_Idea]:
    """Two ideas as one, where they touch different fields."""
    return [
        _Idea(f"{a.id}+{b.id}", f"{a.title}, and {b.title}", a.changes + b.changes)
        for a, b in combinations(ideas, 2)
        if not touches(a.changes) & touches(b.changes)
    ]


def _solve(rules: RuleSet, job: Installation, circuit_id: str, idea: _Idea, book: PriceBook, stood: dict[str, int]) -> Option:
    trial = changed(job, idea.changes)
    found = {c.id: c for c in check(trial, keep=False, reuse=True).circuits}
    result = found[circuit_id]
    cost, digging = 0.0, 0.0
    for old, new in zip(resolved(job).circuits, resolved(trial).circuits, strict=True):
        if old == new:
            continue
        was, now = circuit_cost(book, rules, old), circuit_cost(book, rules, new)
        if old.run != new.run and old.existing:
            # What lies there already is paid for; the new cable and its laying are not.
            cost += now.cable + now.laying + now.digging
            digging += now.digging_m
        elif old.run != new.run:
            cost += now.cable + now.laying + now.digging - was.cable - was.laying - was.digging
            digging += max(0.0, now.digging_m - was.digging_m)
        if old.device != new.device:
            cost += now.device if old.existing else now.device - was.device
    others = [(stood[c], rank(r)) for c, r in found.items() if c != circuit_id]
    rescued, broken = sum(now == 0 < was for was, now in others), sum(now > was for was, now in others)
    return Option(
        idea.id, idea.title, idea.changes, rank(result) == 0, result.verdict, result.reason, result.margin, cost, digging, rescued, broken
    )  # fmt: skip


def _ideas(plan: Plan, job: Installation, circuit: Circuit, before: CircuitResult) -> Iterator[_Idea]:
    failing = set(short(before))
    yield from _bigger_final(job, circuit)
    yield from _bigger_submain(plan, job, circuit)
    if failing & {"capacity", "overload_current"}:
        yield from _other_surroundings(plan, circuit, before)
    yield from _smaller_device(plan, job, circuit)
    yield from _less_load(plan, job, circuit)
    yield from _residual(plan, circuit, failing)
    yield from _gentler_curve(circuit, failing)
    yield from _other_shape(plan, circuit)
    if "volt_drop" in failing:
        yield from _other_phase(plan, circuit)
    if "volt_drop" in failing and circuit.drop_method == "worst":
        yield _Idea(
            "refined",
            "work the volt drop out for the real load and temperature",
            (Change("set", "circuit", circuit.id, {"drop_method": "refined"}),),
        )


def _cable(circuit: Circuit, csa: float, cpc: float | None) -> Change:
    return Change("set", "circuit", circuit.id, {"cable": {"csa": csa, "cpc_csa": cpc}})


def _bigger_final(job: Installation, circuit: Circuit) -> Iterator[_Idea]:
    try:
        answer = size(job, circuit.id)
    except CoreError:
        return
    if answer.csa is not None and answer.csa != circuit.run.cable.csa:
        word = "replace the cable by" if circuit.existing else "a cable of"
        yield _Idea("final", f"{word} {quantity(answer.csa, 'mm²')}", (_cable(circuit, answer.csa, answer.cpc_csa),))


def _bigger_submain(plan: Plan, job: Installation, circuit: Circuit) -> Iterator[_Idea]:
    """The smallest larger size of each sub-main on the way that cures the circuit; where none does, the largest, to show how far it goes."""
    board = circuit.board
    while (feeder := next((c for c in job.circuits if c.feeds == board), None)) is not None:
        family = plan.rules.families.get(feeder.run.cable.family or "")
        sizes = [s for s in family.sizes if s > (feeder.run.cable.csa or 0.0)] if family else []
        for csa in sizes:
            trial = with_csa(plan.rules, feeder, csa)
            if not short(solved(with_circuit(job, trial), circuit.id)) or csa == sizes[-1]:
                title = f"a sub-main {feeder.name or ''} of {quantity(csa, 'mm²')}".replace("  ", " ")
                yield _Idea(f"submain-{feeder.id}", title, (_cable(feeder, csa, trial.run.cable.cpc_csa),))
                break
        board = feeder.board


def _other_surroundings(plan: Plan, circuit: Circuit, before: CircuitResult) -> Iterator[_Idea]:
    """Treat every span that throttles the run: unwrap it, part it from its neighbours, or lead it over a wall."""
    needed = next((c.limit for c in before.checks if c.id == "capacity"), None)
    if needed is None:
        return
    weak_ids = {s.id for s in before.spans if s.iz is not None and s.iz < needed}
    weak = [s for s in circuit.run.spans if s.id in weak_ids]
    names = " and ".join(s.name or "the span" for s in weak)
    routes = {route.id: route for route in plan.job.routes}
    if any(s.wrapped > 0 for s in weak):
        by_route = {s.route for s in weak if s.route in routes and routes[s.route].wrapped}
        freed = [Change("set", "route", route, {"wrapped": 0.0}) for route in sorted(filter(None, by_route))]
        freed += [Change("set", "span", s.id, {"wrapped": 0.0}) for s in weak if s.route not in by_route]
        yield _Idea("unwrap", f"keep the insulation off {names}", tuple(freed))
    if any(s.route is not None or s.group > 1 for s in weak):
        yield _Idea("apart", f"lay {names} apart from the other circuits", tuple(_alone(s, routes, {"group": 1}) for s in weak))
    family = plan.rules.families.get(circuit.run.cable.family or "")
    if family is None or not weak:
        return
    open_place = next((p for p in plan.rules.open_places if plan.rules.places[p].method in family.methods), None)
    if open_place is not None and any(s.place != open_place for s in weak):
        there = plan.rules.places[open_place]
        changes = tuple(
            _alone(s, routes, {"place": open_place, "laid": plan.rules.laid_as(there, s.laid), "wrapped": 0.0}, keep=True) for s in weak
        )
        yield _Idea("route", f"take “{names}” another way: {there.title}", changes)


def _alone(span: Span, routes: dict[str, Route], fields: dict[str, Any], keep: bool = False) -> Change:
    """Change a span that then stands alone; keep: it stays among those it lies with where it only lies beside them, in no route that says where."""
    route = routes.get(span.route or "")
    if route is None or (keep and route.place is None):
        return Change("set", "span", span.id, fields if keep else {"route": None, **fields})
    # Its own values are already those of the route: the job is looked at as it lies.
    own = {name: getattr(span, name) for name in (*SHARED, "length")}
    return Change("set", "span", span.id, {**own, "route": None, "group": 1, **fields})


def _ratings(plan: Plan, kind: str = "") -> list[float]:
    """Standard ratings of a kind of fuse, or of circuit-breakers [A]; under 6 A nothing is proposed for a circuit."""
    fuses = [row.key[1] for row in plan.rules.table(T.FUSE_LOOPS).rows if row.key[0] == kind]
    return sorted({r for r in fuses or [row.key[1] for row in plan.rules.table(T.BREAKER_LOOPS).rows] if r >= LEAST_RATING})


def _case(plan: Plan, circuit: Circuit) -> Case:
    return Case(plan.rules, plan.job.supply, circuit, feed_to(plan, circuit.board), plan.around.get(circuit.id, NOTHING))


def _smaller_device(plan: Plan, job: Installation, circuit: Circuit) -> Iterator[_Idea]:
    """The largest smaller device that still carries the load and cures the circuit."""
    try:
        ib = ib_of(Silent(plan.rules), _case(plan, circuit))
    except MissingInput:
        return
    rating = circuit.device.rating
    if rating is None or circuit.shape == "ring" or any(load.basis == "In" for load in circuit.loads):
        return
    for lower in (r for r in reversed(_ratings(plan, circuit.device.kind)) if ib <= r < rating):
        one = Change("set", "circuit", circuit.id, {"device": {"rating": lower}})
        if not short(solved(changed(job, (one,)), circuit.id)):
            yield _Idea("device", f"a device of {quantity(lower, 'A')}", (one,))
            return


def _less_load(plan: Plan, job: Installation, circuit: Circuit) -> Iterator[_Idea]:
    """The largest load, with the device that fits it, that the run carries as it lies."""
    loads = [load for load in present(circuit) if load.amount and load.basis in ("W", "A")]
    if not loads or circuit.device.rating is None:
        return
    ib = ib_of(Silent(plan.rules), _case(plan, circuit))
    biggest = max(loads, key=lambda load: (load.amount or 0.0) * load.quantity)
    own = ib_of(Silent(plan.rules), _case(plan, replace(circuit, loads=(biggest,))))
    if own <= 0:
        return
    others = ib - own
    for lower in (r for r in reversed(_ratings(plan, circuit.device.kind)) if others < r <= circuit.device.rating):
        amount = _rounded(biggest, (biggest.amount or 0.0) * (lower - others) / own)
        if amount <= 0 or amount >= (biggest.amount or 0.0):
            continue
        changes = (
            Change("set", "load", biggest.id, {"amount": amount}),
            Change("set", "circuit", circuit.id, {"device": {"rating": lower}}),
        )
        if not short(solved(changed(job, changes), circuit.id)):
            told = quantity(amount / WATT_PER_KW, "kW") if biggest.basis == "W" else quantity(amount, "A")
            yield _Idea("load", f"{biggest.name or 'a load'} of at most {told} on {quantity(lower, 'A')}", changes)
            return


def _rounded(load: Load, amount: float) -> float:
    step = STEP_W if load.basis == "W" else 1
    return float(floor(amount / step + 1e-9) * step)


def _residual(plan: Plan, circuit: Circuit, failing: set[str]) -> Iterator[_Idea]:
    """An RCBO in place of the device; where a fuse stands now, of the smallest rating that carries the load."""
    if circuit.device.kind == "mccb" or not failing & {"loop", "disconnection", "additional", "cpc_thermal"}:
        return
    small = Silent(plan.rules).constant("additional_idn")
    fields: dict[str, Any] = {"kind": "rcbo", "idn": small, "rcd_type": circuit.device.rcd_type or "A", "delayed": False}
    if circuit.device.kind in ("mcb", "rcbo"):
        yield _Idea("rcbo", "an RCBO of 30 mA", (Change("set", "circuit", circuit.id, {"device": fields}),))
        return
    try:
        ib = ib_of(Silent(plan.rules), _case(plan, circuit))
    except MissingInput:
        return
    rating = next((r for r in _ratings(plan) if r >= (circuit.device.rating or ib if circuit.shape == "ring" else ib)), None)
    if rating is not None:
        fields |= {"rating": rating, "curve": "B", "icn": 6000.0}
        title = f"an RCBO of {quantity(rating, 'A')}, 30 mA and 6 kA in place of the fuse"
        yield _Idea("rcbo", title, (Change("set", "circuit", circuit.id, {"device": fields}),))


def _gentler_curve(circuit: Circuit, failing: set[str]) -> Iterator[_Idea]:
    """A type that trips sooner; for a motor no sooner than type C, which its start asks for."""
    if circuit.device.kind not in ("mcb", "rcbo") or not failing & {"loop", "disconnection", "cpc_thermal", "line_thermal"}:
        return
    motor = any(load.kind == "motor" for load in circuit.loads)
    for curve in {"D": ("C", "B"), "C": ("B",)}.get(circuit.device.curve, ()):
        if curve == "B" and motor:
            continue
        one = Change("set", "circuit", circuit.id, {"device": {"curve": curve}})
        yield _Idea(f"curve-{curve}", f"a type {curve} device, if the load starts gently enough", (one,))


def _other_phase(plan: Plan, circuit: Circuit) -> Iterator[_Idea]:
    """Move the circuit, or a single-phase sub-main before it, to another phase of its board, which may carry less and drop less."""
    one: Circuit | None = circuit
    while one is not None:
        board = plan.boards[one.board]
        if one.phases == 1 and board_phases(plan.job, board) > 1:
            what = "move it" if one is circuit else f"move {one.name or 'the sub-main'}"
            for phase in PHASES:
                if phase != one.phase:
                    yield _Idea(f"phase-{one.id}-{phase}", f"{what} to {phase}", (Change("set", "circuit", one.id, {"phase": phase}),))
        one = feeder_of(plan.job, one.board)


def _other_shape(plan: Plan, circuit: Circuit) -> Iterator[_Idea]:
    rating, quiet = circuit.device.rating, Silent(plan.rules)
    if circuit.shape == "ring":
        each = quiet.constant("radial_in")
        changes = (Change("set", "circuit", circuit.id, {"shape": "radial", "device": {"rating": each}}),)
        yield _Idea("radial", f"split the ring into two radials of {quantity(each, 'A')} each", changes)
    elif rating in (quiet.constant("ring_min_in"), quiet.constant("ring_max_in")) and any(load.kind == "sockets" for load in circuit.loads):
        spans = tuple(Change("set", "span", s.id, {"length": 2 * s.length}) for s in circuit.run.spans if s.length)
        yield _Idea("ring", "close it to a ring, back the same way", (Change("set", "circuit", circuit.id, {"shape": "ring"}), *spans))
