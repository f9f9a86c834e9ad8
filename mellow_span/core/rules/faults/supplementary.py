"""Supplementary bonding where it is asked: rooms with a bath or shower, and pools (415.2, 701.415.2, 702.415.2)."""

from __future__ import annotations

from mellow_span.core.errors import CoreError, MissingInput
from mellow_span.core.figures import apart, quantity
from mellow_span.core.findings.results import Outcome, judge
from mellow_span.core.model.circuit import POOLS
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.devices.trip import disconnecting_current
from mellow_span.core.rules.faults.loop import allowed_time, check_disconnection, residuals
from mellow_span.core.rulesets.vocabulary import C
from mellow_span.core.units import MA_PER_A
from mellow_span.core.working.recorders import Working

WET = POOLS | {"bathroom"}


def asks(case: Case) -> bool:
    """Say whether supplementary bonding is asked for: in a wet place, or where its resistance is entered."""
    return case.circuit.supplementary_r is not None or any(s.location in WET for s in case.circuit.run.spans)


def check_supplementary(w: Working, case: Case) -> Outcome:
    """Check R <= 50 V / Ia between the parts that are touched together (415.2.2); Ia of the RCD, else of the overcurrent device within 5 s.

    In a room with a bath it may be left out where the circuit is cut off in time, has 30 mA, and main bonding of the
    building was found adequate by its own check (701.415.2).
    """
    r = case.circuit.supplementary_r
    if r is None:
        left_out = _left_out(w, case)
        if left_out:
            return Outcome(0.0, 0.0, "Ω", None, left_out)
        raise MissingInput("circuit.supplementary_r", "resistance of the supplementary bonding in Ω: it cannot be omitted here")
    volts = w.limit("UL", "touch_voltage")
    idn = min((d.idn for d in residuals(case)), default=None)
    if idn is not None:
        ia = w.given("Ia", idn, "A", "IΔn of the RCD")
    else:
        ia = disconnecting_current(w, case.device, case.rating, w.constant("time_distribution_tn"))
    most = w.calc("R,max", volts / ia, "Ω", "UL / Ia", {"UL": volts, "Ia": ia}, C.SUPPLEMENTARY)
    w.given("R", r, "Ω", "supplementary bonding")
    word = "is over" if judge(1 - r / most) == "short" else "is within"
    told, limit = apart(r, most, "Ω")
    return Outcome(r, most, "Ω", 1 - r / most, f"R {told} {word} {limit}, from 50 V / Ia")


def _left_out(w: Working, case: Case) -> str:
    if any(s.location in POOLS for s in case.circuit.run.spans):
        return ""
    quiet = w.quiet()
    small = quiet.constant("bath_idn")
    if not case.feed.bonded or not any(d.idn <= small and not d.delayed for d in residuals(case)):
        return ""
    try:
        allowed_time(quiet, case)
        if check_disconnection(quiet, case).verdict == "short":
            return ""
    except CoreError:
        return ""
    return f"may be omitted: disconnection, {quantity(small * MA_PER_A, 'mA')} RCD and main bonding all in place (701.415.2)"
