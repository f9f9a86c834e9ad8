"""Time over current, both logarithmic, for a chain of devices: bands, damage lines of conductors, fault currents, times asked for.

Everything is laid out here: points stand in a square of side 1, current to the right, time upwards; whoever paints only scales them. Straight
lines in the square are what the figures between two points mean, so a place in it can be read back as a current and a time.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from itertools import pairwise
from math import log10, sqrt
from typing import Literal

from mellow_span.core.design.check import NOTHING, Checked
from mellow_span.core.design.coordination import Band, Pair, above, band, compare, fault_at_board, verdict_of
from mellow_span.core.errors import CoreError
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import CircuitResult, Verdict
from mellow_span.core.model.parts import Circuit, Device
from mellow_span.core.model.tree import circuit_of
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.devices.trip import let_through
from mellow_span.core.rules.faults.cpc import cpc_parts
from mellow_span.core.rules.faults.loop import allowed_time
from mellow_span.core.rules.stretches import by_stretch
from mellow_span.core.rules.thermal.adiabatic import k_of
from mellow_span.core.rules.thermal.leads import INSULATION, leads
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.vocabulary import C
from mellow_span.core.working.recorders import Silent

# What the square spans: time in s for all plots, current by what is to be shown, on whole decades.
SHORTEST, LONGEST = 0.01, 10_000.0
# The conductors stay adiabatic for so long [s] (434.5.2); beyond it a damage line says nothing.
ADIABATIC = 5.0
POINTS = tuple[tuple[float, float], ...]


@dataclass(slots=True)
class Scale:
    """What the sides of the square stand for: lowest and highest current [A], shortest and longest time [s]."""

    i_lo: float
    i_hi: float
    t_lo: float = SHORTEST
    t_hi: float = LONGEST

    def at(self, current: float, time: float) -> tuple[float, float]:
        """Return the place of a current [A] and a time [s] in the square, held to its edges."""
        x = log10(current / self.i_lo) / log10(self.i_hi / self.i_lo)
        y = log10(time / self.t_lo) / log10(self.t_hi / self.t_lo)
        return round(min(1.0, max(0.0, x)), 5), round(min(1.0, max(0.0, y)), 5)


@dataclass(slots=True)
class DeviceBand:
    """A device of the chain, the nearest to the load first. area: outline of its band; slow, fast: its two edges; why: why there is none.

    rating [A]; steps: ratings of the same kind there are, to step through; role: what it stands before.
    """

    id: str
    name: str
    title: str
    role: Literal["appliance", "circuit", "sub-main", "service"]
    circuit: str | None
    load: str | None
    rating: float | None
    ratings: tuple[float, ...]
    area: POINTS = ()
    slow: POINTS = ()
    fast: POINTS = ()
    why: str = ""


@dataclass(slots=True)
class Damage:
    """What a conductor withstands: t = k² S² / I², for as long as that holds."""

    id: str
    title: str
    points: POINTS


@dataclass(slots=True)
class Upright:
    """A fault current [A] at its place x; end: the largest or the least."""

    id: str
    title: str
    current: float
    x: float
    end: Literal["largest", "least"]


@dataclass(slots=True)
class Level:
    """A time asked for [s] at its place y."""

    id: str
    title: str
    time: float
    y: float


@dataclass(slots=True)
class Through:
    """What the device of the circuit lets through at its largest fault, as a place on the plot: the time of the same energy at that current."""

    energy: float
    title: str
    x: float
    y: float


@dataclass(slots=True)
class Beside:
    """Two devices next to each other in the chain: which opens first, in words."""

    lower: str
    upper: str
    verdict: Verdict
    text: str


@dataclass(slots=True)
class Tick:
    """A decade of a side: its place and its label."""

    at: float
    label: str


@dataclass(slots=True)
class Plot:
    """The plot of a chain, from the appliance's fuse of a circuit up to the service fuse."""

    circuit: str
    scale: Scale
    devices: tuple[DeviceBand, ...]
    damage: tuple[Damage, ...]
    faults: tuple[Upright, ...]
    times: tuple[Level, ...]
    through: Through | None
    pairs: tuple[Beside, ...]
    amps: tuple[Tick, ...]
    seconds: tuple[Tick, ...]


def plot_of(done: Checked, circuit_id: str) -> Plot:
    """Return the plot of the chain of a circuit of a job that is worked out. Raises InputError for a circuit the job does not have."""
    plan = done.plan
    circuit = circuit_of(plan.job, circuit_id)
    result = next(c for c in done.result.circuits if c.id == circuit_id)
    case = Case(plan.rules, plan.job.supply, circuit, done.feeds[circuit.board], plan.around.get(circuit_id, NOTHING))
    # What a fault reaches first is the weakest: of a run whose cable changes its curves are drawn for the smallest.
    weakest = min(by_stretch(case), key=lambda one: one.circuit.run.cable.csa or 0.0)
    chain = _chain(done, circuit)
    bands = [_band(plan.rules, device) for _, device in chain]
    scale = _scale(chain, result)
    return Plot(
        circuit_id,
        scale,
        tuple(_laid(scale, entry, found) for (entry, _), found in zip(chain, bands, strict=True)),
        _damage(weakest, scale),
        _faults(scale, result, fault_at_board(case)),
        _times(case, scale),
        _through(weakest, scale),
        _pairs(done, case, chain),
        _decades(scale.i_lo, scale.i_hi, lambda i: scale.at(i, SHORTEST)[0], lambda i: f"{i / 1000:g} k" if i >= 1000 else f"{i:g}"),
        _decades(SHORTEST, LONGEST, lambda t: scale.at(scale.i_lo, t)[1], lambda t: f"{t:g}"),
    )


Entry = tuple[DeviceBand, Device]


def _chain(done: Checked, circuit: Circuit) -> list[Entry]:
    """The devices from the appliance's fuse to the service fuse."""
    rules = done.plan.rules
    found: list[Entry] = []
    for load in circuit.loads:
        if load.local_fuse is not None:
            device = Device(kind=rules.plug_fuse, rating=load.local_fuse)
            name = f"fuse of {load.name or 'an appliance'}"
            found.append((_entry(rules, f"load-{load.id}", name, "appliance", None, load.id, device), device))
    role: Literal["circuit", "sub-main"] = "sub-main" if circuit.feeds else "circuit"
    found.append((_entry(rules, circuit.id, circuit.name or "a circuit", role, circuit.id, None, circuit.device), circuit.device))
    for name, owner, device in above(done.plan, circuit):
        above_role: Literal["sub-main", "service"] = "sub-main" if owner else "service"
        found.append((_entry(rules, owner or "service", name, above_role, owner, None, device), device))
    return found


def _entry(
    rules: RuleSet,
    identity: str,
    name: str,
    role: Literal["appliance", "circuit", "sub-main", "service"],
    circuit: str | None,
    load: str | None,
    device: Device,
) -> DeviceBand:
    kind = rules.devices.get(device.kind)
    if kind is None:
        # Its band says that the book does not know it.
        return DeviceBand(identity, name, device.kind, role, circuit, load, device.rating, ())
    letter = f" type {device.curve}" if kind.trips == "breaker" else ""
    title = f"{quantity(device.rating, 'A')}{letter} {kind.title}" if device.rating else f"{kind.title} without a rating"
    return DeviceBand(identity, name, title, role, circuit, load, device.rating, rules.ratings(device.kind))


def _band(rules: RuleSet, device: Device) -> Band | str:
    try:
        return band(rules, device)
    except CoreError as refusal:
        return str(refusal)


def _scale(chain: list[Entry], result: CircuitResult) -> Scale:
    """Whole decades round what is to be shown: from under the smallest rating to over the largest fault."""
    ratings = [d.rating for _, d in chain if d.rating] or [10.0]
    lowest = min([*ratings, max(1.0, result.fault_min or min(ratings))])
    highest = [value for value in (result.fault_max, result.far_ln, 20 * max(ratings)) if value]
    low, high = 10 ** _floor(log10(lowest)), 10 ** -_floor(-log10(max(highest)))
    return Scale(low, max(high, low * 100))


def _floor(value: float) -> int:
    return int(value // 1)


def _laid(scale: Scale, entry: DeviceBand, found: Band | str) -> DeviceBand:
    if isinstance(found, str):
        entry.why = found
        return entry
    slow = [(i, t) for i, t in found.slow if t > 0]
    if not slow:
        entry.why = "no curve of it is tabulated"
        return entry
    # The slow edge begins where the table does: below that current it may never open. Past its last point the time there holds, or less.
    first, last = slow[0], slow[-1]
    slow_edge = [(first[0], LONGEST), *slow, (max(scale.i_hi, last[0]), min(last[1], SHORTEST) if last[1] <= SHORTEST else last[1])]
    fast = [(i, t) for i, t in found.fast if t > 0]
    fast_edge = [(fast[0][0], LONGEST), *fast, (fast[-1][0], SHORTEST), (scale.i_hi, SHORTEST)] if fast else []
    entry.slow = tuple(_cut(scale, slow_edge))
    entry.fast = tuple(_cut(scale, fast_edge))
    entry.area = (*entry.fast, *reversed(entry.slow)) if fast else ()
    return entry


def _cut(scale: Scale, points: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """Lay points into the square; a line that leaves it below is cut where it crosses the shortest time."""
    found: list[tuple[float, float]] = []
    before: tuple[float, float] | None = None
    for current, time in points:
        if before is not None and (before[1] - SHORTEST) * (time - SHORTEST) < 0 and current != before[0]:
            share = (log10(SHORTEST) - log10(before[1])) / (log10(time) - log10(before[1]))
            crossing = 10 ** (log10(before[0]) + share * (log10(current) - log10(before[0])))
            found.append(scale.at(crossing, SHORTEST))
        found.append(scale.at(current, max(time, SHORTEST)))
        before = (current, time)
    return list(dict.fromkeys(found))


def _damage(case: Case, scale: Scale) -> tuple[Damage, ...]:
    w = Silent(case.rules)
    found = []

    def add(identity: str, title: str, k: float, csa: float, share: float = 1.0) -> None:
        if csa <= 0 or share <= 0:
            return
        energy = (k * csa / share) ** 2
        ends = [(sqrt(energy / ADIABATIC), ADIABATIC), (sqrt(energy / SHORTEST), SHORTEST)]
        inside = [(i, t) for i, t in ends if i > 0]
        found.append(Damage(identity, title, tuple(_along(scale, inside[0], inside[1]))))

    try:
        k = k_of(w, "live", "copper", case.family.insulation, case.csa, "line conductor")
        add("line", f"line {quantity(case.csa, 'mm²')}", k, case.csa * case.parallel)
    except CoreError:
        pass
    try:
        for part in cpc_parts(w, case):
            add(
                "cpc",
                f"{part.name} {quantity(part.csa, 'mm²')}",
                k_of(w, part.use, part.metal, case.family.insulation, part.csa, ""),
                part.csa,
            )
    except CoreError:
        pass
    try:
        k = k_of(w, "live", "copper", INSULATION, 0.0, "flexible cord")
        for load, csa, name in leads(case):
            add(f"lead-{load.id}", f"lead of {name} {quantity(csa, 'mm²')}", k, csa)
    except CoreError:
        pass
    return tuple(found)


def _along(scale: Scale, one: tuple[float, float], other: tuple[float, float]) -> list[tuple[float, float]]:
    """A line of constant energy, cut to the currents of the square."""
    points = []
    for current, time in (one, other):
        held = min(max(current, scale.i_lo), scale.i_hi)
        points.append(scale.at(held, time * (current / held) ** 2))
    return points


def _faults(scale: Scale, result: CircuitResult, at_board: float | None) -> tuple[Upright, ...]:
    named: tuple[tuple[str, str, float | None, Literal["largest", "least"]], ...] = (
        ("largest", "maximum, at the board", at_board or result.fault_max, "largest"),
        ("far", "largest, at the far end", result.far_ln, "largest"),
        ("least", "minimum, at the far end", result.fault_min, "least"),
    )
    return tuple(
        Upright(identity, f"{title}: {quantity(value, 'A')}", value, scale.at(value, SHORTEST)[0], end)
        for identity, title, value, end in named
        if value is not None and scale.i_lo <= value <= scale.i_hi
    )


def _times(case: Case, scale: Scale) -> tuple[Level, ...]:
    try:
        allowed = allowed_time(Silent(case.rules), case)
    except CoreError:
        return ()
    title = f"an earth fault is cleared within {quantity(allowed, 's')} ({case.rules.clause(C.DISCONNECTION)})"
    return (Level("disconnection", title, allowed, scale.at(scale.i_lo, allowed)[1]),)


def _through(case: Case, scale: Scale) -> Through | None:
    """Where energy decides, the time on the plot says too little: the let-through stands as the time of the same energy."""
    current = fault_at_board(case)
    if current is None or case.device.rating is None:
        return None
    try:
        energy = let_through(Silent(case.rules), case.device, case.rating, current)
    except CoreError:
        return None
    if energy is None:
        return None
    title = f"lets through {quantity(energy, 'A²s')} at {quantity(current, 'A')}"
    x, y = scale.at(current, max(SHORTEST, energy / current**2))
    return Through(energy, title, x, y)


def _pairs(done: Checked, case: Case, chain: list[Entry]) -> tuple[Beside, ...]:
    """Each device against the next above it."""
    plan = done.plan
    found = []
    for (lower, own), (upper, over) in pairwise(chain):
        owner = case.circuit if lower.circuit is None else circuit_of(plan.job, lower.circuit)
        feed = done.feeds[owner.board]
        here = Case(plan.rules, plan.job.supply, replace(owner, device=own), feed, plan.around.get(owner.id, NOTHING))
        try:
            result, limit, text = compare(Silent(plan.rules), here, over)
        except CoreError as refusal:
            result, limit, text = "not_known", None, str(refusal)
        pair = Pair("overcurrent", upper.name, lower.name, upper.circuit, lower.circuit, result, text, "", limit)
        found.append(Beside(lower.id, upper.id, verdict_of(pair), text))
    return tuple(found)


def _decades(low: float, high: float, place: Callable[[float], float], label: Callable[[float], str]) -> tuple[Tick, ...]:
    ticks = []
    value = low
    while value <= high * 1.0001:
        ticks.append(Tick(place(value), label(value)))
        value *= 10
    return tuple(ticks)
