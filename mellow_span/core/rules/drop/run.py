"""Volt drop of a run and of the whole chain against its limit (525.1, Appendix 4 section 6)."""

from __future__ import annotations

from mellow_span.core.errors import MissingInput
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import Outcome
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.demand.loads import ib_of
from mellow_span.core.rules.drop.figures import pieces
from mellow_span.core.rules.drop.points import _along_legs, _ring_exact
from mellow_span.core.rulesets.vocabulary import C
from mellow_span.core.units import MM_PER_M, PERCENT
from mellow_span.core.working.recorders import Working

QUARTER = 4


LIMIT_KEYS = {
    (True, False): "vd_lighting",
    (False, False): "vd_other",
    (True, True): "vd_lighting_private",
    (False, True): "vd_other_private",
}


def drop_current(w: Working, case: Case) -> float:
    """Return the current that drops volts [A]: Ib, or for a ring 20 A at the far point with the rest spread evenly.

    The ring's usual assumption is worth (In + 20) / 2 over a quarter of its length: 26 A at 32 A, 25 A at 30 A.
    """
    if not case.ring:
        return w.given("Ib", ib_of(w, case), "A", "design current")
    far = w.limit("Ifar", "ring_far_load")
    return w.calc("I", (case.rating + far) / 2, "A", "(In + Ifar) / 2", {"In": case.rating, "Ifar": far}, C.RING_LOADING, "over L / 4")


def run_drop(w: Working, case: Case) -> float:
    """Return the volts dropped in the run [V] (Appendix 4, 6.1)."""
    if any(load.at is not None for load in case.circuit.loads):
        return _ring_exact(w, case) if case.ring else _along_legs(w, case)
    current = drop_current(w, case)
    total = 0.0
    parts = pieces(w, case, current)
    for piece in parts:
        formula = "mV × I × L / 4 / 1000" if case.ring else "mV × Ib × L / 1000"
        puts = {"mV": piece.mv, "I" if case.ring else "Ib": current, "L": piece.length}
        volts = piece.mv * current * piece.length / MM_PER_M / (QUARTER if case.ring else 1)
        total += w.calc("VD", volts, "V", formula, puts, C.DROP_BY_TABLE)
    if len(parts) > 1:
        w.calc("VD", total, "V", "sum of the spans", {}, C.DROP_BY_TABLE)
    return total


def nominal(case: Case) -> float:
    """Return the voltage the drop is a share of [V]: U0 single-phase, line to line for three phases."""
    return case.supply.u0 * (1.0 if case.circuit.phases == 1 else 3**0.5)


def run_share(w: Working, case: Case) -> float:
    """Return the drop of the run [% of its voltage]."""
    return case.worked(w, "drop", lambda aside: _run_share(aside, case), show=True)


def _run_share(w: Working, case: Case) -> float:
    volts, u = run_drop(w, case), nominal(case)
    return w.calc("vd", PERCENT * volts / u, "%", "100 × VD / U", {"VD": volts, "U": u}, C.VOLT_DROP)


def drop_limit(w: Working, case: Case, length: float) -> float:
    """Return the limit [%] from origin to far point, with the growth for chains over 100 m (Appendix 4, 6.4).

    length: whole chain [m].
    """
    key = LIMIT_KEYS[(case.lighting, case.supply.private)]
    limit = w.limit("limit", key, "lighting" if case.lighting else "other uses")
    start = w.constant("vd_long_from")
    if length <= start:
        return limit
    per, most = w.limit("p", "vd_long_per_m"), w.limit("p,most", "vd_long_most")
    more = min(most, per * (length - start))
    puts = {"limit": limit, "p": per, "L": length, "p,most": most}
    return w.calc("limit", limit + more, "%", "limit + min(p,most, p × (L − 100))", puts, C.DROP_LIMIT)


def check_volt_drop(w: Working, case: Case) -> Outcome:
    """Check the volt drop from the origin to the far point (525.1); on a private supply the final circuit alone within 3 or 5 % too."""
    own = run_share(w, case)
    if case.feed.drop is None:
        raise MissingInput("board", "a feed whose own volt drop is known")
    total = own
    if case.feed.length > 0:
        upstream = w.given("vd,board", case.feed.drop, "%", "from the origin to the board")
        total = w.calc("vd", upstream + own, "%", "vd,board + vd", {"vd,board": upstream, "vd": own}, C.VOLT_DROP)
    limit = drop_limit(w, case, case.feed.length + case.length)
    left = case.supply.u0 * (1 - total / 100)
    word = "is within" if total <= limit else "is over"
    how = ", refined for the real load" if case.circuit.drop_method == "refined" else ""
    text = f"{quantity(total, '%')} {word} {quantity(limit, '%')}{how}; {quantity(left, 'V')} left at the far point"
    found = Outcome(total, limit, "%", 1 - total / limit, text)
    if case.supply.private and not case.circuit.feeds:
        alone = w.limit("limit,final", LIMIT_KEYS[(case.lighting, False)], "the final circuit alone, private supply")
        if 1 - own / alone < (found.margin or 0.0):
            word = "is within" if own <= alone else "is over"
            text = f"the final circuit alone: {quantity(own, '%')} {word} {quantity(alone, '%')}{how}; {quantity(left, 'V')} left"
            return Outcome(own, alone, "%", 1 - own / alone, text)
    return found
