"""Fuses as curves: points of the operating-current tables, carried on to the tabulated total energy, log-log between them."""

from __future__ import annotations

from itertools import pairwise
from math import log, sqrt

from mellow_span.core.errors import OutsideTable
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.working.recorders import Silent, Working

# Columns of the operating-current table by time [s], slowest first.
TIMES = {5.0: "i_5s", 1.0: "i_1s", 0.4: "i_0p4s", 0.2: "i_0p2s", 0.1: "i_0p1s"}
ZS_COLUMNS = {5.0: "max_zs_5s", 0.4: "max_zs_0p4s"}
GUARD = 1e-9
READ = "read on the curve log-log, not tabulated"


def operating_current(w: Working, kind: str, rating: float, time: float) -> float | None:
    """Return the current [A] that operates a fuse in a tabulated time [s]: the operating-current table, else from the largest Zs.

    None where neither has a value; the look-up is recorded (Appendix 3).
    """
    try:
        return w.look("Ia", T.FUSE_CURRENTS, (kind, rating), TIMES[time], f"current for {time:g} s")
    except OutsideTable:
        pass
    if time not in ZS_COLUMNS:
        return None
    try:
        zs = w.look("Zs,tab", T.FUSE_LOOPS, (kind, rating), ZS_COLUMNS[time], f"largest Zs for {time:g} s")
    except OutsideTable:
        return None
    cmin = w.limit("Cmin", "cmin")
    u0 = w.limit("U0", "nominal_u0", "of the tabulated loops")
    return w.calc("Ia", cmin * u0 / zs, "A", "Cmin × U0 / Zs,tab", {"Cmin": cmin, "U0": u0, "Zs,tab": zs}, C.DEVICE_LIMITS)


def total_energy(w: Working, kind: str, rating: float) -> float | None:
    """Return the tabulated total energy of a fuse [A2s], or None."""
    try:
        return w.look("I²t,total", T.FUSE_ENERGY, (kind, rating), "total_i2t", "total energy")
    except OutsideTable:
        return None


def prearcing_energy(w: Working, kind: str, rating: float) -> float | None:
    """Return the tabulated pre-arcing energy of a fuse [A2s], or None."""
    try:
        return w.look("I²t,pre", T.FUSE_ENERGY, (kind, rating), "prearcing_i2t", "pre-arcing energy")
    except OutsideTable:
        return None


def points(rules: RuleSet, kind: str, rating: float) -> list[tuple[float, float]]:
    """Return the points (current [A], time [s]) of a fuse's slow side, current rising.

    Past the shortest tabulated time the curve goes on to (0.01 s, sqrt(total energy / 0.01 s)) where a total energy is tabulated and that
    point lies further out. Raises OutsideTable for a fuse the tables do not have.
    """
    quiet = Silent(rules)
    found: list[tuple[float, float]] = []
    for time in TIMES:
        current = operating_current(quiet, kind, rating, time)
        if current is not None and (not found or current > found[-1][0]):
            found.append((current, time))
    if not found:
        raise rules.outside(T.FUSE_CURRENTS, f"{kind} {rating:g} A", ", ".join(f"{r:g}" for r in rules.ratings(kind)))
    energy = total_energy(quiet, kind, rating)
    short = quiet.constant("fuse_energy_time")
    if energy is not None and (end := sqrt(energy / short)) > found[-1][0]:
        found.append((end, short))
    return found


def last_energy(w: Working, kind: str, rating: float) -> float:
    """Return the energy [A2s] a fuse lets through past the last point of its curve: its total energy, else I2 t of that point as a bound."""
    energy = total_energy(w, kind, rating)
    if energy is not None:
        return energy
    current, time = points(w.rules, kind, rating)[-1]
    return w.calc(
        "I²t", current**2 * time, "A²s", "I² × t", {"I": current, "t": time}, C.DEVICE_LIMITS, "last tabulated point, a bound beyond it"
    )


def time_at(w: Working, kind: str, rating: float, current: float) -> float | None:
    """Return the longest time [s] a fuse takes at a current [A]; None where it is slower than the slowest tabulated time (5 s).

    Past the last point of the curve its energy stays what it is there, since it falls as the current rises: t = energy / I2.
    """
    curve = points(w.rules, kind, rating)
    if current < curve[0][0] * (1 - GUARD):
        return None
    if current >= curve[-1][0]:
        energy = last_energy(w, kind, rating)
        return w.calc(
            "t", energy / current**2, "s", "I²t / I²", {"I²t": energy, "I": current}, C.DEVICE_LIMITS, "past the last point of the curve"
        )
    if current <= curve[0][0]:
        return w.calc("t", curve[0][1], "s", "t1", {"t1": curve[0][1], "I": current}, C.DEVICE_LIMITS, "at the first point of the curve")
    (i1, t1), (i2, t2) = next(pair for pair in pairwise(curve) if pair[1][0] > current)
    slope = log(t2 / t1) / log(i2 / i1)
    terms = {"t1": t1, "I1": i1, "I": current, "a": slope}
    return w.calc("t", t1 * (current / i1) ** slope, "s", "t1 × (I / I1)^a", terms, C.DEVICE_LIMITS, "between two points, log-log")


def current_for(w: Working, kind: str, rating: float, time: float) -> float:
    """Return Ia [A], the current that operates a fuse within a time [s]: the table's own value, else log-log between its neighbours.

    Raises OutsideTable where the curve does not reach that time.
    """
    if time in TIMES and (known := operating_current(w, kind, rating, time)) is not None:
        return known
    curve = points(w.rules, kind, rating)
    for (i1, t1), (i2, t2) in pairwise(curve):
        if t2 <= time <= t1:
            slope = log(i2 / i1) / log(t2 / t1)
            terms = {"I1": i1, "t1": t1, "t": time, "a": slope}
            return w.calc("Ia", i1 * (time / t1) ** slope, "A", "I1 × (t / t1)^a", terms, C.DEVICE_LIMITS, READ)
    if time < curve[-1][1]:
        terms = {"I²t": last_energy(w, kind, rating), "t": time}
        return w.calc("Ia", sqrt(terms["I²t"] / time), "A", "√(I²t / t)", terms, C.DEVICE_LIMITS, READ)
    raise w.rules.outside(T.FUSE_CURRENTS, f"{kind} {rating:g} A in {time:g} s", ", ".join(f"{t:g} s" for _, t in curve))


def energy_at(w: Working, kind: str, rating: float, current: float) -> float | None:
    """Return the energy [A2s] a fuse lets through at a current [A]: I2 t on its curve, its total energy beyond; None where it is too slow.

    Where no total energy is tabulated, that of the last tabulated point is the bound.
    """
    time = time_at(w.quiet(), kind, rating, current)
    if time is None:
        return None
    curve = points(w.rules, kind, rating)
    if current >= curve[-1][0]:
        return last_energy(w, kind, rating)
    time = time_at(w, kind, rating, current)
    assert time is not None
    return w.calc("I²t", current**2 * time, "A²s", "I² × t", {"I": current, "t": time}, C.LINE_IN_FAULT)
