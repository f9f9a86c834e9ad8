"""Coordination: which device opens first. Each device against every one above it, overcurrent and residual current, with the reason.

Selectivity is its own question: it never makes a thermal or shock check pass or fail (536.4).
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from math import sqrt
from typing import Literal

from mellow_span.core.design.check import NOTHING, Checked, Plan, work_out
from mellow_span.core.errors import CoreError, MissingInput
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import Verdict
from mellow_span.core.model.parts import Circuit, Device, Installation
from mellow_span.core.rules.case import Case, Residual
from mellow_span.core.rules.devices import fuses
from mellow_span.core.rules.devices.trip import class_limit, disconnecting_current, let_through, slowest_time, thermal_multiples, trips
from mellow_span.core.rules.faults.loop import THREE_PHASE, largest_fault, residuals
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.units import AMPERE_PER_KA
from mellow_span.core.working.recorders import Silent, Working, recorder
from mellow_span.core.working.steps import Step

Result = Literal["total", "partial", "none", "not_known"]
SERVICE = "service fuse"
VERDICTS: dict[Result, Verdict] = {"total": "meets", "partial": "close", "none": "close", "not_known": "not_known"}


@dataclass(slots=True)
class Pair:
    """Two devices in series. result: total, partial up to `limit` [A], none, or not known; ipf: fault current at the lower one's board [A]."""

    kind: Literal["overcurrent", "residual"]
    upper: str
    lower: str
    upper_circuit: str | None
    lower_circuit: str | None
    result: Result
    text: str
    clause: str
    limit: float | None = None
    ipf: float | None = None
    steps: tuple[Step, ...] = ()
    doubtful: bool = False


def coordination(job: Installation, keep: bool = True) -> tuple[Pair, ...]:
    """Return every pair of devices in series in a job, circuit by circuit. Raises InputError for a tree that is no tree."""
    return pairs_of(work_out(job, keep=False, reuse=True), keep)


def pairs_of(done: Checked, keep: bool = False) -> tuple[Pair, ...]:
    """Return every pair of devices in series in a job that is worked out."""
    plan = done.plan
    if plan.refused:
        return ()
    found: list[Pair] = []
    seen: set[tuple[str, str]] = set()
    for circuit in plan.order:
        case = Case(plan.rules, plan.job.supply, circuit, done.feeds[circuit.board], plan.around.get(circuit.id, NOTHING))
        found += _overcurrent(plan, case, keep)
        for pair in _residual(case, keep):
            if (pair.upper, pair.lower) not in seen:
                seen.add((pair.upper, pair.lower))
                found.append(pair)
    return tuple(found)


def verdict_of(pair: Pair) -> Verdict:
    """Return how a pair is marked. It makes no other check pass or fail, so nothing there is worse than close (536.4)."""
    return VERDICTS[pair.result]


def above(plan: Plan, circuit: Circuit) -> list[tuple[str, str | None, Device]]:
    """Return the devices between a circuit and the supply, nearest first: name, circuit, device."""
    found: list[tuple[str, str | None, Device]] = []
    board = circuit.board
    while (feeder := next((c for c in plan.job.circuits if c.feeds == board), None)) is not None:
        found.append((feeder.name or "sub-main", feeder.id, feeder.device))
        board = feeder.board
    supply = plan.job.supply
    if supply.fuse_kind is not None and supply.fuse_in is not None:
        found.append((SERVICE, None, Device(kind=supply.fuse_kind, rating=supply.fuse_in)))
    return found


def _overcurrent(plan: Plan, case: Case, keep: bool) -> list[Pair]:
    circuit, clause = case.circuit, plan.rules.clause(C.SELECTIVITY_OVERCURRENT)
    found = []
    for name, upper_id, device in above(plan, circuit):
        w = recorder(plan.rules, keep)
        try:
            result, limit, text = compare(w, case, device)
        except CoreError as refusal:
            result, limit, text = "not_known", None, str(refusal)
        steps, doubtful = w.take()
        names = (name, circuit.name or "a circuit")
        found.append(
            Pair("overcurrent", *names, upper_id, circuit.id, result, text, clause, limit, fault_at_board(case), steps, doubtful)
        )  # fmt: skip
    return found


def fault_at_board(case: Case) -> float | None:
    """Return the largest prospective fault current at the board of a circuit [A], three-phase for a three-phase circuit."""
    ln, le = largest_fault(case)
    if ln is None:
        return None
    return THREE_PHASE * ln if case.circuit.phases > 1 else max(ln, le or 0.0)


def compare(w: Working, case: Case, upper: Device) -> tuple[Result, float | None, str]:
    """Return whether the device of a circuit opens before one above it: result, limit [A], and why (536.4.1).

    Raises MissingInput for a rating or fault current not entered.
    """
    lower = case.device
    if upper.rating is None:
        raise MissingInput("device.rating", "the rated current of the device above in A")
    own, over = w.given("In", case.rating, "A", "lower device"), w.given("In,up", upper.rating, "A", "upper device")
    if own >= over:
        return "none", None, f"In {quantity(own, 'A')} is not below the {quantity(over, 'A')} above it: on overload either may operate"
    ipf = fault_at_board(case)
    if ipf is None:
        raise MissingInput("supply.ipf", "the prospective fault current at the origin in A, measured or declared")
    w.given("Ipf", ipf, "A", "prospective fault current at the lower device's board")
    if trips(w, upper) != "fuse":
        return _under_breaker(w, upper, ipf)
    if trips(w, lower) == "fuse":
        return _fuse_under_fuse(w, lower, own, upper, over)
    return _breaker_under_fuse(w, case, upper, over, ipf)


def _under_breaker(w: Working, upper: Device, ipf: float) -> tuple[Result, float | None, str]:
    """Up to the lower end of the upper device's instantaneous band, where it may open at once as well."""
    limit = instantaneous_floor(w, upper)
    if ipf < limit:
        return "total", None, f"Ipf {quantity(ipf, 'A')} stays below {quantity(limit, 'A')}, where the upper device may trip instantly"
    return "partial", limit, f"up to {quantity(limit, 'A')}; above that the upper device may trip instantly too"


def instantaneous_floor(w: Working, device: Device) -> float:
    """Return the lower end of a breaker's instantaneous band [A]. Raises MissingInput for an MCCB without its setting."""
    if device.kind != "mccb":
        low = w.look("m,low", T.BREAKER_INSTANT, device.curve, "instant_min_multiple", f"type {device.curve}, lower limit")
        return w.calc(
            "I,low", low * (device.rating or 0.0), "A", "m,low × In", {"m,low": low, "In": device.rating or 0.0}, C.BREAKER_STANDARD
        )
    # A short-time delay holds the breaker back until its instantaneous setting.
    setting = device.isd if device.isd is not None and not device.tsd else device.ii
    if setting is None:
        raise MissingInput("device.ii", "the instantaneous setting of the MCCB in A")
    tolerance = w.limit("tolerance", "mccb_tolerance_low", "lower tolerance of the setting")
    return w.calc("I,low", tolerance * setting, "A", "tolerance × setting", {"tolerance": tolerance, "setting": setting}, C.MCCB_STANDARD)


def _fuse_under_fuse(w: Working, lower: Device, own: float, upper: Device, over: float) -> tuple[Result, float | None, str]:
    """By the ratio of the ratings, which says something within one kind of fuse alone; otherwise by the energies."""
    told = "the fuses are of two kinds"
    if lower.kind == upper.kind:
        ratio = w.calc("ratio", over / own, "", "In,up / In", {"In,up": over, "In": own}, C.SELECTIVITY)
        least = w.limit("least", "fuse_ratio")
        if ratio >= least:
            return "total", None, f"the ratings are {ratio:.2g} to 1, at least {least:g} to 1"
        told = f"the ratings are only {ratio:.2g} to 1"
    total, pre = fuses.total_energy(w, lower.kind, own), fuses.prearcing_energy(w, upper.kind, over)
    if total is None or pre is None:
        return "not_known", None, f"{told} and no I²t is tabulated; see the maker's data"
    if total <= pre:
        return "total", None, f"total energy {quantity(total, 'A²s')} stays within the upper fuse's pre-arcing {quantity(pre, 'A²s')}"
    return "none", None, f"total energy {quantity(total, 'A²s')} is over the upper fuse's pre-arcing {quantity(pre, 'A²s')}"


def _breaker_under_fuse(w: Working, case: Case, upper: Device, over: float, ipf: float) -> tuple[Result, float | None, str]:
    """The breaker's let-through strictly below the fuse's pre-arcing energy, at the fault current of the breaker's board."""
    pre = fuses.prearcing_energy(w, upper.kind, over)
    if pre is None:
        return "not_known", None, f"no pre-arcing energy is tabulated for a {case.rules.devices[upper.kind].title}; the maker's data decide"
    through = let_through(w, case.device, case.rating, ipf)
    if through is None:
        return "total", None, f"Ipf {quantity(ipf, 'A')} trips neither instantly"
    if through < pre:
        return "total", None, f"let-through {quantity(through, 'A²s')} at Ipf stays below the fuse's pre-arcing {quantity(pre, 'A²s')}"
    limit = _energy_limit(w.quiet(), case, pre, ipf)
    if limit is None:
        return "none", None, f"let-through {quantity(through, 'A²s')} is over the fuse's pre-arcing {quantity(pre, 'A²s')}"
    text = f"up to {quantity(limit, 'A')}; at Ipf it lets through {quantity(through, 'A²s')}, the fuse melts from {quantity(pre, 'A²s')}"
    return "partial", limit, text


def _energy_limit(w: Working, case: Case, pre: float, ipf: float) -> float | None:
    """Return the largest current [A] up to which the breaker's let-through stays below the fuse's pre-arcing energy, or None."""
    instant = disconnecting_current(w, case.device, case.rating, w.constant("breaker_instant_time"))
    found = []
    by_time = sqrt(pre / w.constant("breaker_instant_time"))
    if by_time > instant and case.device.i2t is None:
        found.append(by_time)
    for level in sorted({row.key[2] for row in w.rules.table(T.BREAKER_ENERGY).rows}):
        amps = level * AMPERE_PER_KA
        limit = class_limit(w, case.device, case.rating, amps)
        if limit is not None and limit < pre and amps < ipf and case.device.i2t is None:
            found.append(amps)
    return max(found, default=None)


def _residual(case: Case, keep: bool) -> list[Pair]:
    chain, clause = residuals(case), case.rules.clause(C.SELECTIVITY_RESIDUAL)
    circuit = case.circuit
    found = []
    for lower, upper in pairwise(chain):
        own = lower.where == "the RCD"
        name = f"the RCD of {circuit.name or 'a circuit'}" if own else lower.where
        w = recorder(case.rules, keep)
        try:
            result, text = compare_residual(w, lower, upper)
        except CoreError as refusal:
            result, text = "not_known", str(refusal)
        steps, doubtful = w.take()
        lower_id = circuit.id if own else None
        found.append(
            Pair(
                "residual",
                upper.where,
                name,
                None,
                lower_id,
                result,
                text,
                clause,
                steps=steps,
                doubtful=doubtful,
            )
        )
    return found


def compare_residual(w: Working, lower: Residual, upper: Residual) -> tuple[Result, str]:
    """Return whether two residual current devices in series open one after the other: the upper delayed and of at least 3 times IDn."""
    ratio = w.calc("ratio", upper.idn / lower.idn, "", "IΔn,up / IΔn", {"IΔn,up": upper.idn, "IΔn": lower.idn}, C.SELECTIVITY_RESIDUAL)
    least = w.limit("least", "rcd_ratio")
    if upper.delayed and not lower.delayed and ratio >= least - 1e-9:
        return "total", f"the upper one is delayed and {ratio:.2g} times as large"
    why = []
    if not upper.delayed:
        why.append("the upper one is not time-delayed (S type)")
    if ratio < least - 1e-9:
        why.append(f"it is only {ratio:.2g} times as large, at least {least:g} is needed")
    if lower.delayed:
        why.append("the lower one is delayed itself")
    return "none", "either may operate: " + "; ".join(why)


@dataclass(slots=True)
class Band:
    """A device as a band of time [s] over current [A]: the slow edge by which it has opened, the fast edge before which it has not."""

    slow: tuple[tuple[float, float], ...]
    fast: tuple[tuple[float, float], ...]


def band(rules: RuleSet, device: Device) -> Band:
    """Return the time/current band of a device for drawing. Raises MissingInput without a rating, OutsideTable for an unknown fuse.

    Slow edge: as the checks use it. Fast edge: of a breaker, no sooner than 1 s up to 2.55 In, then constant energy to the lower end of
    the instantaneous band; of a fuse, its tabulated pre-arcing energy, which no slower melting undercuts.
    """
    if device.rating is None:
        raise MissingInput("device.rating", "the rated current of the device in A")
    w = Silent(rules)
    rating = device.ir if device.kind == "mccb" and device.ir else device.rating
    if rules.devices[device.kind].trips == "fuse":
        slow = tuple(fuses.points(rules, device.kind, rating))
        pre = fuses.prearcing_energy(w, device.kind, rating)
        fast = () if pre is None else tuple((i, pre / i**2) for i, _ in slow)
        return Band(slow, fast)
    top = disconnecting_current(w, device, rating, w.constant("breaker_instant_time"))
    floor = instantaneous_floor(w, device)
    if device.kind == "mccb":
        grid = [i for i in (device.isd and device.isd * w.constant("mccb_tolerance"), top) if i]
        return Band(tuple((i, t) for i in grid if (t := slowest_time(w, device, rating, i)) is not None), ((floor, 0.01),))
    first, second = thermal_multiples(w)
    grid = [*(first * rating * (top / (first * rating)) ** (i / 24) for i in range(24)), top]
    slow = tuple((i, t) for i in grid if (t := slowest_time(w, device, rating, i)) is not None)
    row = (rules.devices[device.kind].conventional, rating)
    hold = rules.table(T.CONVENTIONAL).cell(row, "i1_multiple").value * rating
    least = w.constant("thermal_least")
    knee = second * rating
    fast = ((hold, least), (knee, least), (floor, least * (knee / floor) ** 2), (floor, 0.01))
    return Band(slow, fast)
