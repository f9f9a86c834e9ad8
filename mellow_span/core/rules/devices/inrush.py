"""What a load draws for a moment at switching on, against the current from which its breaker may open at once."""

from __future__ import annotations

from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import Outcome
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.demand.loads import load_current, present
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.working.recorders import Working

# Kinds that draw a multiple of their rating at switching on, and the limit that holds the usual multiple.
STARTS = {"motor": "motor_start", "lighting": "lamp_start"}


def asks(case: Case) -> bool:
    """Say whether the circuit has motors or lamps behind a breaker."""
    return case.device_rules.trips == "breaker" and not case.circuit.feeds and any(load.kind in STARTS for load in case.circuit.loads)


def check_inrush(w: Working, case: Case) -> Outcome:
    """Compare the current at switching on with the lower end of the instantaneous band (BS EN 60898-1); told, since the multiples are typical."""
    peak = 0.0
    for load in present(case.circuit):
        if load.kind not in STARTS:
            continue
        times = w.limit("m", STARTS[load.kind], load.name or load.kind)
        one = load_current(w, case.supply, case.circuit, load)
        peak += w.calc("Î", times * one, "A", "m × Ib", {"m": times, "Ib": one}, C.BREAKER_STANDARD)
    multiple = w.look("m,low", T.BREAKER_INSTANT, case.device.curve, "instant_min_multiple", f"type {case.device.curve}, lower limit")
    low = w.calc("I,low", multiple * case.rating, "A", "m,low × In", {"m,low": multiple, "In": case.rating}, C.BREAKER_STANDARD)
    told = f"inrush typically {quantity(peak, 'A')}"
    kind = f"type {case.device.curve}"
    if peak <= low:
        return Outcome(peak, low, "A", None, f"{told}; {kind} trips instantly only above {quantity(low, 'A')}", decides=False)
    text = f"{told}; {kind} may trip from {quantity(low, 'A')}: use a less sensitive type (C or D), or switch in groups"
    return Outcome(peak, low, "A", None, text, decides=False, verdict="close")
