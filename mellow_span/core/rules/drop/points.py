"""Runs with loads along the way: the drop over their legs, and of a ring from its points."""

from __future__ import annotations

from mellow_span.core.adding import added
from mellow_span.core.errors import InputError
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.demand.loads import ib_of, load_current, present
from mellow_span.core.rules.drop.figures import _at, _electrical
from mellow_span.core.rulesets.vocabulary import C
from mellow_span.core.units import MM_PER_M
from mellow_span.core.working.recorders import Working


def taps(w: Working, case: Case) -> list[tuple[float, float]]:
    """Return (m from the board, A) of each load line that stands now, in order; one without a place is at the far point.

    Raises InputError for a place beyond the run.
    """
    quiet, found = w.quiet(), []
    for load in present(case.circuit):
        at = case.length if load.at is None else load.at
        if at > case.length + 1e-9:
            raise InputError(f"load.{load.id}.at", load.at, f"at most the length of the run, {case.length:g} m")
        found.append((at, load_current(quiet, case.supply, case.circuit, load)))
    whole = added(current for _, current in found)
    if case.after_diversity and whole:
        share = ib_of(w, case) / whole
        found = [(at, current * share) for at, current in found]
    return sorted(found)


def _along_legs(w: Working, case: Case) -> float:
    """Sum over the legs of a multi-point radial: the current still carried times the leg (Appendix 4, 6.1); Ib over the whole length beside."""
    points = taps(w, case)
    whole = added(current for _, current in points)
    edges = _electrical(w, case, whole)
    total, before, left = 0.0, 0.0, whole
    for at, current in points:
        here = _at(edges, at)
        terms = {"ΣmV": here - before, "I": left}
        total += w.calc("VD", (here - before) * left / MM_PER_M, "V", "ΣmV × I / 1000", terms, C.DROP_BY_TABLE, f"leg to {at:g} m")
        before, left = here, left - current
    simple = whole * edges[-1][1] / MM_PER_M
    w.calc("VD", simple, "V", "ΣmV × Ib / 1000", {"ΣmV": edges[-1][1], "Ib": whole}, C.DROP_BY_TABLE, "for comparison: all at the far end")
    return w.calc("VD", total, "V", "sum of the legs", {}, C.DROP_BY_TABLE)


def ring_drop(points: list[tuple[float, float]], whole: float) -> tuple[float, float]:
    """Return the largest drop of a two-ended ring, in (unit of place) x A, and the place where it is.

    points: (place, current [A]) with place measured along the ring in any unit proportional to what it drops per ampere; whole: both ends'
    distance. End A carries added(I (1 - x/whole)); the drop is largest where the current from A changes sign.

    >>> ring_drop([(50, 20)], 100)
    (500.0, 50)
    """
    from_a = added(current * (1 - x / whole) for x, current in points)
    drop, best, where, before = 0.0, 0.0, 0.0, 0.0
    for x, current in sorted(points):
        drop += from_a * (x - before)
        if drop > best:
            best, where = drop, x
        from_a, before = from_a - current, x
    return best, where


def _ring_exact(w: Working, case: Case) -> float:
    """Return the drop at the worst point of a ring fed from both ends, from the given points."""
    points = taps(w, case)
    edges = _electrical(w, case, added(current for _, current in points))
    found, _ = ring_drop([(_at(edges, at), current) for at, current in points], edges[-1][1])
    terms = {f"I{i}": current for i, (_, current) in enumerate(points, 1)}
    return w.calc(
        "VD", found / MM_PER_M, "V", "largest over the points, fed from both ends", terms, C.DROP_BY_TABLE, "ring from its points"
    )
