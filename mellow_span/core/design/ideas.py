"""What could cure a circuit that is short: each idea a change to the job, made to measure and not yet solved."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Any

from mellow_span.core.design.check import Plan
from mellow_span.core.design.cures import at_the_end
from mellow_span.core.design.effort import LAID_OUT, Effort, StoppedError
from mellow_span.core.design.own_cables import cables_along
from mellow_span.core.design.questions import case_of
from mellow_span.core.design.routes import tryouts
from mellow_span.core.design.size import csa_change, size, with_circuit, with_csa
from mellow_span.core.design.solving import Ask, Idea, changed, in_book, short, solved
from mellow_span.core.design.usual import terminals_take, usual_amount
from mellow_span.core.errors import CoreError, MissingInput
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import CircuitResult
from mellow_span.core.model.changes import Change
from mellow_span.core.model.parts import Circuit, Installation, Route, Span
from mellow_span.core.model.routes import SHARED
from mellow_span.core.model.tree import feeder_of
from mellow_span.core.rules.demand.boards import PHASES, board_phases
from mellow_span.core.rules.demand.loads import ib_of, present
from mellow_span.core.units import MA_PER_A, WATT_PER_KW
from mellow_span.core.working.recorders import Silent

LEAST_RATING = 5
# What a delayed device before others is usually set to [A].
DELAYED_IDN = 0.1
# How many sizes up a sub-main is tried together with its finals: beyond that the sub-main alone is offered.
STEPS_UP = 3


def ideas_for(plan: Plan, job: Installation, circuit: Circuit, before: CircuitResult, effort: Effort | None = None) -> Iterator[Idea]:
    """Return what could cure a circuit, as changes that are yet to be solved: along the whole chain, at the devices, the loads, the routes.

    effort: how much work it may be to think of them; once spent, those that take some are left out.
    """
    effort, failing = effort or Effort(), set(short(before))
    yield from in_book(bigger_final(job, circuit, effort))
    yield from in_book(cables_along(plan, circuit, before, effort))
    yield from in_book(_thicker_cpc(plan, job, circuit, failing))
    yield from in_book(_bigger_submain(plan, job, circuit, effort))
    if not effort.over():
        yield from in_book(_along_the_chain(plan, job, circuit, effort))
    if failing & {"capacity", "overload_current"}:
        yield from in_book(_other_surroundings(plan, circuit, before))
        yield from in_book(_route_tried(job, circuit, before))
    if "design_current" in failing:
        yield from in_book(_larger_device(plan, job, circuit))
    yield from in_book(_smaller_device(plan, job, circuit, failing))
    yield from in_book(_less_load(plan, job, circuit, failing))
    yield from in_book(_residual(plan, circuit, failing))
    yield from _gentler_curve(circuit, failing)
    yield from in_book(_other_shape(plan, circuit))
    yield from in_book(at_the_end(plan, circuit, before))
    if "volt_drop" in failing:
        yield from _other_phase(plan, circuit)
    if "volt_drop" in failing and circuit.drop_method == "worst":
        yield Idea(
            "refined",
            "work out volt drop at the actual load and temperature",
            (Change("set", "circuit", circuit.id, {"drop_method": "refined"}),),
        )


def _cable(circuit: Circuit, csa: float, cpc: float | None) -> Change:
    return Change("set", "circuit", circuit.id, {"cable": {"csa": csa, "cpc_csa": cpc}})


def bigger_final(job: Installation, circuit: Circuit, effort: Effort) -> Iterator[Idea]:
    """The smallest cable with which the circuit passes, where one does and the terminals take it; none where that is more work than is left."""
    try:
        answer = size(job, circuit.id, effort)
    except (CoreError, StoppedError):
        # Whether anybody still waits for the search is asked again before its next piece.
        return
    if answer.csa is not None and answer.csa != circuit.run.cable.csa and not _too_thick(circuit, answer.csa):
        word = "replace the cable by" if circuit.existing else "a cable of"
        yield Idea("final", f"{word} {quantity(answer.csa, 'mm²')}", (_cable(circuit, answer.csa, answer.cpc_csa),))


def _too_thick(circuit: Circuit, csa: float) -> bool:
    """Whether the terminals at the end of a final do not usually take a csa: then it is no way out, and another is looked for."""
    takes = terminals_take(circuit)
    return takes is not None and csa > takes and csa > (circuit.run.cable.csa or 0.0)


def _thicker_cpc(plan: Plan, job: Installation, circuit: Circuit, failing: set[str]) -> Iterator[Idea]:
    """The smallest larger protective conductor that leaves less short, where it is chosen by itself."""
    family = plan.rules.families.get(circuit.run.cable.family or "")
    if family is None or circuit.run.cable.csa is None or not (family.cpc == "single" or circuit.run.cable.cpc == "separate"):
        return
    if not failing & {"loop", "disconnection", "cpc_thermal", "cpc_least"}:
        return
    for csa in (s for s in family.sizes if (circuit.run.cable.cpc_csa or 0.0) < s <= circuit.run.cable.csa):
        one = Change("set", "circuit", circuit.id, {"cable": {"cpc_csa": csa}})
        if _better(changed(job, (one,)), circuit.id, failing):
            yield Idea("cpc-larger", f"a cpc of {quantity(csa, 'mm²')}", (one,))
            return


def _bigger_submain(plan: Plan, job: Installation, circuit: Circuit, effort: Effort) -> Iterator[Idea]:
    """The smallest larger size of each sub-main on the way that cures the circuit; where none does, the largest, to show how far it goes."""
    board = circuit.board
    while (feeder := next((c for c in job.circuits if c.feeds == board), None)) is not None:
        family = plan.rules.families.get(feeder.run.cable.family or "")
        sizes = [s for s in family.sizes if s > (feeder.run.cable.csa or 0.0)] if family else []
        for csa in sizes:
            if effort.over():
                return
            effort.spend(LAID_OUT * len(job.circuits))
            trial = with_csa(plan.rules, feeder, csa)
            if not short(solved(with_circuit(job, trial), circuit.id)) or csa == sizes[-1]:
                title = f"a sub-main {feeder.name or ''} of {quantity(csa, 'mm²')}".replace("  ", " ")
                yield Idea(f"submain-{feeder.id}", title, (_cable(feeder, csa, trial.run.cable.cpc_csa),))
                break
        board = feeder.board


def _other_surroundings(plan: Plan, circuit: Circuit, before: CircuitResult) -> Iterator[Idea]:
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
        yield Idea("unwrap", f"keep the insulation off {names}", tuple(freed))
    if any(s.route is not None or s.group > 1 for s in weak):
        yield Idea("apart", f"lay {names} apart from the other circuits", tuple(_alone(s, routes, {"group": 1}) for s in weak))
    family = plan.rules.families.get(circuit.run.cable.family or "")
    if family is None or not weak:
        return
    open_place = next((p for p in plan.rules.open_places if plan.rules.places[p].method in family.methods), None)
    if open_place is not None and any(s.place != open_place for s in weak):
        there = plan.rules.places[open_place]
        changes = tuple(
            _alone(s, routes, {"place": open_place, "laid": plan.rules.laid_as(there, s.laid), "wrapped": 0.0}, keep=True) for s in weak
        )
        # Nobody has measured the new way: the length of the old one stands until somebody says.
        only = weak[0] if len(weak) == 1 else None
        ask = Ask("span", only.id, "length", "Length of the new way", "m") if only is not None else None
        yield Idea("route", f"re-route “{names}”: {there.title}, the same length assumed", changes, ask)


def _alone(span: Span, routes: dict[str, Route], fields: dict[str, Any], keep: bool = False) -> Change:
    """Change a span that then stands alone; keep: it stays among those it lies with where it only lies beside them, in no route that says where."""
    route = routes.get(span.route or "")
    if route is None or (keep and route.place is None):
        return Change("set", "span", span.id, fields if keep else {"route": None, **fields})
    # Its own values are already those of the route: the job is looked at as it lies.
    own = {name: getattr(span, name) for name in (*SHARED, "length")}
    return Change("set", "span", span.id, {**own, "route": None, "group": 1, **fields})


def _ratings(plan: Plan, kind: str = "mcb") -> list[float]:
    """Standard ratings of a kind of device, of circuit-breakers where it has none [A]; under 6 A nothing is proposed for a circuit."""
    return [r for r in plan.rules.ratings(kind) or plan.rules.ratings("mcb") if r >= LEAST_RATING]


def _better(job: Installation, circuit: str, failing: set[str]) -> bool:
    """Whether less is short in a job than was: what remains may be cured by something beside it."""
    left = set(short(solved(job, circuit)))
    return left < failing


def _smaller_device(plan: Plan, job: Installation, circuit: Circuit, failing: set[str]) -> Iterator[Idea]:
    """The largest smaller device that still carries the load and leaves less short."""
    try:
        ib = ib_of(Silent(plan.rules), case_of(plan, circuit))
    except MissingInput:
        return
    rating = circuit.device.rating
    # A sub-main is for its rating, whatever it is asked for now.
    if rating is None or circuit.feeds or circuit.shape == "ring" or any(load.basis == "In" for load in circuit.loads):
        return
    for lower in (r for r in reversed(_ratings(plan, circuit.device.kind)) if ib <= r < rating):
        one = Change("set", "circuit", circuit.id, {"device": {"rating": lower}})
        if _better(changed(job, (one,)), circuit.id, failing):
            yield Idea("device", f"a device of {quantity(lower, 'A')}", (one,))
            return


def _less_load(plan: Plan, job: Installation, circuit: Circuit, failing: set[str]) -> Iterator[Idea]:
    """The largest load, with the device that fits it, that the run carries as it lies."""
    loads = [load for load in present(circuit) if load.amount and load.basis in ("W", "A")]
    if not loads or circuit.device.rating is None:
        return
    biggest = max(loads, key=lambda load: (load.amount or 0.0) * load.quantity)
    try:
        ib = ib_of(Silent(plan.rules), case_of(plan, circuit))
        own = ib_of(Silent(plan.rules), case_of(plan, replace(circuit, loads=(biggest,))))
    except CoreError:
        # A load beside it whose amount nobody entered.
        return
    if own <= 0:
        return
    others = ib - own
    for lower in (r for r in reversed(_ratings(plan, circuit.device.kind)) if others < r <= circuit.device.rating):
        amount = usual_amount(biggest, (biggest.amount or 0.0) * (lower - others) / own)
        if amount is None or amount >= (biggest.amount or 0.0):
            continue
        changes = (
            Change("set", "load", biggest.id, {"amount": amount}),
            Change("set", "circuit", circuit.id, {"device": {"rating": lower}}),
        )
        if _better(changed(job, changes), circuit.id, failing):
            told = quantity(amount / WATT_PER_KW, "kW") if biggest.basis == "W" else quantity(amount, "A")
            yield Idea("load", f"{biggest.name or 'a load'} of at most {told} on {quantity(lower, 'A')}", changes)
            return


def _residual(plan: Plan, circuit: Circuit, failing: set[str]) -> Iterator[Idea]:
    """An RCBO in place of the device; where a fuse stands now, of the smallest rating that carries the load."""
    if circuit.device.kind == "mccb" or not failing & {"loop", "disconnection", "additional", "cpc_thermal", "charging"}:
        return
    small = Silent(plan.rules).constant("additional_idn")
    fields: dict[str, Any] = {"kind": "rcbo", "idn": small, "rcd_type": circuit.device.rcd_type or "A", "delayed": False}
    told = f"30 mA, type {fields['rcd_type']}"
    if circuit.feeds and "additional" not in failing:
        # Nothing asks a feed for 30 mA: delayed, so that what it feeds opens first.
        fields |= {"idn": DELAYED_IDN, "delayed": True}
        told = f"{quantity(DELAYED_IDN * MA_PER_A, 'mA')}, time-delayed, type {fields['rcd_type']}"
    if circuit.device.kind in ("mcb", "rcbo"):
        yield Idea("rcbo", f"an RCBO of {told}", (Change("set", "circuit", circuit.id, {"device": fields}),))
        return
    try:
        ib = ib_of(Silent(plan.rules), case_of(plan, circuit))
    except MissingInput:
        return
    kept = circuit.feeds or circuit.shape == "ring"
    rating = next((r for r in _ratings(plan) if r >= (circuit.device.rating or ib if kept else ib)), None)
    if rating is not None:
        fields |= {"rating": rating, "curve": "B", "icn": 6000.0}
        title = f"a type B RCBO of {quantity(rating, 'A')}, {told} and 6 kA in place of the fuse"
        yield Idea("rcbo", title, (Change("set", "circuit", circuit.id, {"device": fields}),))


def _gentler_curve(circuit: Circuit, failing: set[str]) -> Iterator[Idea]:
    """A type that trips sooner; for a motor no sooner than type C, which its start asks for."""
    if circuit.device.kind not in ("mcb", "rcbo") or not failing & {"loop", "disconnection", "cpc_thermal", "line_thermal"}:
        return
    motor = any(load.kind == "motor" for load in circuit.loads)
    for curve in {"D": ("C", "B"), "C": ("B",)}.get(circuit.device.curve, ()):
        if curve == "B" and motor:
            continue
        one = Change("set", "circuit", circuit.id, {"device": {"curve": curve}})
        yield Idea(f"curve-{curve}", f"a type {curve} device, if the inrush allows", (one,))


def _other_phase(plan: Plan, circuit: Circuit) -> Iterator[Idea]:
    """Move the circuit, or a single-phase sub-main before it, to another phase of its board, which may carry less and drop less."""
    one: Circuit | None = circuit
    while one is not None:
        board = plan.boards[one.board]
        if one.phases == 1 and board_phases(plan.job, board) > 1:
            what = "move it" if one is circuit else f"move {one.name or 'the sub-main'}"
            for phase in PHASES:
                if phase != one.phase:
                    to = Change("set", "circuit", one.id, {"phase": phase})
                    yield Idea(f"phase-{one.id}-{phase}", f"{what} to {phase}", (to,))
                    yield from _swapped(plan, one, phase, to)
        one = feeder_of(plan.job, one.board)


def _swapped(plan: Plan, one: Circuit, phase: str, to: Change) -> Iterator[Idea]:
    """The same with the circuit of that phase that is most like it going the other way, so that the board stays as even as it was."""
    there = [c for c in plan.job.circuits if c.board == one.board and c.phases == 1 and c.phase == phase and not c.spare]
    if one.phase is None or not there:
        return
    like = min(there, key=lambda c: (abs((c.device.rating or 0.0) - (one.device.rating or 0.0)), c.id))
    back = Change("set", "circuit", like.id, {"phase": one.phase})
    yield Idea(f"swap-{one.id}-{like.id}", f"swap phases with {like.name or 'a circuit'} on {phase}", (to, back))


def _other_shape(plan: Plan, circuit: Circuit) -> Iterator[Idea]:
    rating, quiet = circuit.device.rating, Silent(plan.rules)
    if circuit.shape == "ring":
        each = quiet.constant("radial_in")
        changes = (Change("set", "circuit", circuit.id, {"shape": "radial", "device": {"rating": each}}),)
        yield Idea("radial", f"split the ring into two radials of {quantity(each, 'A')} each", changes)
    elif rating in (quiet.constant("ring_min_in"), quiet.constant("ring_max_in")) and any(load.kind == "sockets" for load in circuit.loads):
        yield Idea(
            "ring",
            "make it a ring, returning by the same route",
            (Change("set", "circuit", circuit.id, {"shape": "ring"}), *_there_and_back(circuit)),
        )
    elif rating == quiet.constant("radial_in") and any(load.kind == "sockets" for load in circuit.loads):
        larger = quiet.constant("ring_max_in")
        fields = {"shape": "ring", "device": {"rating": larger}}
        title = f"make it a ring, returning by the same route, on {quantity(larger, 'A')}"
        yield Idea("ring-larger", title, (Change("set", "circuit", circuit.id, fields), *_there_and_back(circuit)))


def _there_and_back(circuit: Circuit) -> tuple[Change, ...]:
    return tuple(Change("set", "span", s.id, {"length": 2 * s.length}) for s in circuit.run.spans if s.length)


def _larger_device(plan: Plan, job: Installation, circuit: Circuit) -> Iterator[Idea]:
    """The next device that reaches the load, with the cable it asks for."""
    try:
        ib = ib_of(Silent(plan.rules), case_of(plan, circuit))
    except MissingInput:
        return
    rating = next((r for r in _ratings(plan, circuit.device.kind) if r >= ib * (1 - 1e-9)), None)
    if rating is None or circuit.shape == "ring":
        return
    one = Change("set", "circuit", circuit.id, {"device": {"rating": rating}})
    trial = changed(job, (one,))
    yield Idea("larger", f"a device of {quantity(rating, 'A')} for the load", (one,))
    try:
        answer = size(trial, circuit.id)
    except CoreError:
        return
    if answer.csa is not None and answer.csa != circuit.run.cable.csa and not _too_thick(circuit, answer.csa):
        cable = csa_change(plan.rules, circuit, answer.csa)
        title = f"a device of {quantity(rating, 'A')} with a cable of {quantity(answer.csa, 'mm²')}"
        yield Idea("larger+final", title, (one, cable))


def _along_the_chain(plan: Plan, job: Installation, circuit: Circuit, effort: Effort) -> Iterator[Idea]:
    """A sub-main a few sizes up together with the final that is then enough: no absurd final behind a thin sub-main."""
    feeder = feeder_of(plan.job, circuit.board)
    family = plan.rules.families.get(feeder.run.cable.family or "") if feeder else None
    if feeder is None or family is None or feeder.existing:
        return
    try:
        alone = size(job, circuit.id).csa
    except CoreError:
        return
    for csa in [s for s in family.sizes if s > (feeder.run.cable.csa or 0.0)][:STEPS_UP]:
        if effort.over():
            return
        bigger = csa_change(plan.rules, feeder, csa)
        effort.spend(len(family.sizes) * LAID_OUT * len(job.circuits))
        answer = size(changed(job, (bigger,)), circuit.id)
        if (
            answer.csa is None
            or answer.csa == circuit.run.cable.csa
            or (alone is not None and answer.csa >= alone)
            or _too_thick(circuit, answer.csa)
        ):
            continue
        title = f"{feeder.name or 'the sub-main'} of {quantity(csa, 'mm²')}, and here {quantity(answer.csa, 'mm²')}"
        yield Idea(f"submain-{feeder.id}+final", title, (bigger, csa_change(plan.rules, circuit, answer.csa)))
        return


def _route_tried(job: Installation, circuit: Circuit, before: CircuitResult) -> Iterator[Idea]:
    """What can be done with the routes in which the run is throttled: a tray, or parting those who lie in it."""
    needed = next((c.limit for c in before.checks if c.id == "capacity"), None)
    weak = {s.id for s in before.spans if needed is not None and s.iz is not None and s.iz < needed}
    for route in dict.fromkeys(s.route for s in circuit.run.spans if s.id in weak and s.route):
        name = next((r.name for r in job.routes if r.id == route), "") or "the route"
        for one in tryouts(job, str(route)):
            if one.id in ("tray", "split") and not one.why:
                yield Idea(f"{one.id}-{route}", f"{name}: {one.title}", one.changes)
