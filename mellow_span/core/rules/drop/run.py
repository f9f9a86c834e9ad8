"""Volt drop of a run and of the whole chain against its limit (525.1, Appendix 4 section 6)."""

from __future__ import annotations

from mellow_span.core.adding import added
from mellow_span.core.errors import NotKnownBefore
from mellow_span.core.figures import apart, quantity
from mellow_span.core.findings.results import Outcome
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.demand.boards import PHASES
from mellow_span.core.rules.demand.loads import ib_of, line_voltage
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
        terms = {"mV": piece.mv, "I" if case.ring else "Ib": current, "L": piece.length}
        volts = piece.mv * current * piece.length / MM_PER_M / (QUARTER if case.ring else 1)
        total += w.calc("VD", volts, "V", formula, terms, C.DROP_BY_TABLE)
    if len(parts) > 1:
        w.calc("VD", total, "V", "sum of the spans", {}, C.DROP_BY_TABLE)
    return total


def nominal(w: Working, case: Case) -> float:
    """Return the voltage the drop is a share of [V]: U0 single-phase and phase by phase, line to line for three phases."""
    return case.supply.u0 if case.circuit.phases == 1 or case.by_phase else line_voltage(w, case.supply)


def run_shares(w: Working, case: Case) -> tuple[float, ...]:
    """Return the drop of the run [% of its voltage]: one figure, or one for each phase where it is worked out phase by phase."""
    return case.worked(w, "drop", lambda aside: _by_phase(aside, case) if case.by_phase else (_run_share(aside, case),), show=True)


def _run_share(w: Working, case: Case) -> float:
    volts, u = run_drop(w, case), nominal(w.quiet(), case)
    return w.calc("vd", PERCENT * volts / u, "%", "100 × VD / U", {"VD": volts, "U": u}, C.VOLT_DROP)


def phase_currents(w: Working, case: Case) -> tuple[float, ...]:
    """Return what a sub-main carries on each line [A]: the demand there, or its rating on every one."""
    if case.circuit.ib_from == "device":
        return (w.given("I", case.rating, "A", "the rating, on every line"),) * len(PHASES)
    return tuple(
        w.given(f"I{i}", amps, "A", f"demand on {phase}") for i, (phase, amps) in enumerate(zip(PHASES, case.around.phases, strict=True), 1)
    )


def _by_phase(w: Working, case: Case) -> tuple[float, ...]:
    """Drop of each phase, line to neutral [% of U0]: r (2 I1 - (I2 + I3) / 2) L / 1000 with r half the two-wire value, and so on round.

    A phase that would gain counts as 0. Balanced it agrees with the three-phase column; all on one phase it equals the single-phase circuit.
    """
    currents = phase_currents(w, case)
    ohm = 0.0
    for piece in pieces(w, case, max(currents)):
        terms = {"mV": piece.mv, "L": piece.length}
        ohm += w.calc("r L", piece.mv / 2 * piece.length / MM_PER_M, "Ω", "mV / 2 × L / 1000", terms, C.DROP_BY_TABLE, "one wire")
    found = []
    for i, phase in enumerate(PHASES):
        own, others = currents[i], [amps for j, amps in enumerate(currents) if j != i]
        volts = max(0.0, ohm * (2 * own - added(others) / 2))
        terms = {"r L": ohm, "I": own, "I′": others[0], "I″": others[1]}
        w.calc("VD", volts, "V", "max(0, r L × (2 I − (I′ + I″) / 2))", terms, C.DROP_BY_TABLE, phase)
        terms = {"VD": volts, "U0": case.supply.u0}
        found.append(w.calc(f"vd,{phase}", PERCENT * volts / case.supply.u0, "%", "100 × VD / U0", terms, C.VOLT_DROP))
    return tuple(found)


def starts(case: Case) -> tuple[float, ...]:
    """Return the drop from the origin to the board [%]: of each phase for a three-phase circuit where they differ; a single-phase one starts
    from its own phase, or from the worst where its phase is not known. Raises MissingInput where it is not known.
    """
    feed = case.feed
    if feed.drop is None:
        raise NotKnownBefore("board", "the volt drop up to its board")
    if not feed.drops:
        return (feed.drop,)
    if case.circuit.phases > 1:
        return feed.drops
    return (feed.drops[PHASES.index(case.circuit.phase)] if case.circuit.phase else max(feed.drops),)


def totals(w: Working, case: Case) -> tuple[float, ...]:
    """Return the drop from the origin to the far point [%], one figure or one for each phase. Raises MissingInput."""
    own, before = run_shares(w, case), starts(case)
    count = max(len(own), len(before))
    return tuple(before[i % len(before)] + own[i % len(own)] for i in range(count))


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
    terms = {"limit": limit, "p": per, "L": length, "p,most": most}
    return w.calc("limit", limit + more, "%", "limit + min(p,most, p × (L − 100))", terms, C.DROP_LIMIT)


def check_volt_drop(w: Working, case: Case) -> Outcome:
    """Check the volt drop from the origin to the far point (525.1); on a private supply the final circuit alone within 3 or 5 % too."""
    own = run_shares(w, case)
    found = totals(w.quiet(), case)
    total = max(found)
    phase = PHASES[found.index(total)] if len(found) > 1 else ""
    if case.feed.length > 0:
        before, share = starts(case), own[found.index(total) % len(own)]
        where = "the board" if case.feed.run is None else "where this cable begins"
        note = f"from the origin to {where}{' on ' + phase if phase else _whose(case)}"
        upstream = w.given("vd,board", before[found.index(total) % len(before)], "%", note)
        total = w.calc("vd", upstream + share, "%", "vd,board + vd", {"vd,board": upstream, "vd": share}, C.VOLT_DROP)
    # The far end of a ring is half its loop away.
    limit = drop_limit(w, case, case.feed.length + case.length / (2 if case.ring else 1))
    left = case.supply.u0 * (1 - total / 100)
    word = "is within" if total <= limit * (1 + 1e-9) else "is over"
    how = ", corrected for the actual load" if case.circuit.drop_method == "refined" else ""
    where = f" on {phase}" if phase else ""
    told, most = apart(total, limit, "%")
    text = f"{told}{where} {word} {most}{how}; {quantity(left, 'V')} left at the far end"
    margin = 1 - total / limit
    if case.supply.private and not case.circuit.feeds:
        alone = w.limit("limit,final", LIMIT_KEYS[(case.lighting, False)], "the final circuit alone, private supply")
        whole = max(own) + _ahead(case)
        word = "is within" if whole <= alone * (1 + 1e-9) else "is over"
        told, most = apart(whole, alone, "%")
        text += f"; the final circuit alone, {told}, {word} {most}"
        margin = min(margin, 1 - whole / alone)
    return Outcome(total, limit, "%", margin, text)


def _ahead(case: Case) -> float:
    """The drop of the circuit before the cable that is asked about [%], on its worst phase; known wherever that of the whole is."""
    return max((case.feed.run.shares or ()) if case.feed.run else (), default=0.0)


def _whose(case: Case) -> str:
    if not case.feed.drops or case.circuit.phases > 1:
        return ""
    return f" on {case.circuit.phase}" if case.circuit.phase else ", its worst phase: that of the circuit is not entered"
