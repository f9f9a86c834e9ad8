"""Additional protection by a residual current device: which loads and places ask for it, and why."""

from __future__ import annotations

from mellow_span.core.errors import MissingInput
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import Outcome
from mellow_span.core.findings.wording import span_name
from mellow_span.core.model.parts import Span
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.faults.loop import residuals
from mellow_span.core.units import MA_PER_A
from mellow_span.core.working.recorders import Working

PLACES = {
    "bathroom": ("a room with a bath or shower (701.411.3.3)", "bath_idn"),
    "pool": ("a swimming pool (702.410.3)", "swim_idn"),
    "agricultural": ("agricultural premises (705.411.1)", "agri_idn"),
}


def asking(w: Working, case: Case) -> list[tuple[str, float]]:
    """List what asks for a residual current device, and the largest IDn [A] that does: socket-outlets up to 32 A (411.3.3), luminaires in
    a dwelling (411.3.4), the special locations the run passes or ends in (Part 7).
    """
    most, found = w.limit("IΔn,max", "additional_idn"), []
    if case.sockets and case.rating <= w.limit("In", "additional_sockets_in", "socket-outlets"):
        found.append(("socket-outlets (411.3.3)", most))
    if case.lighting:
        found.append(("luminaires in a dwelling (411.3.4)", most))
    for location in dict.fromkeys(span.location for span in case.circuit.run.spans):
        if location in PLACES:
            words, key = PLACES[location]
            found.append((words, w.limit("IΔn,max", key)))
    return found


def hidden_spans(case: Case) -> list[Span]:
    """List the spans hidden in a wall that are not known to be deep enough or protected (522.6.202)."""
    return [s for s in case.circuit.run.spans if case.place(s).concealed and s.guarded is not True]


def check_additional(w: Working, case: Case) -> Outcome:
    """Check that a circuit whose loads or places ask for additional protection has a residual current device for it (415.1.1).

    A cable hidden in a wall asks for it unless it lies deep enough or is protected; where that is not entered it is told and decides
    nothing. Raises MissingInput without a load.
    """
    if not case.circuit.loads and not case.circuit.feeds:
        raise MissingInput("loads", "a load in W or A")
    asked, hidden = asking(w, case), hidden_spans(case)
    covering = [r.idn for r in residuals(case)]
    idn = min(covering) if covering else None
    most = min((limit for _, limit in asked), default=w.constant("additional_idn"))
    value = w.given("IΔn", idn, "A", "smallest residual current device that covers the circuit") if idn is not None else 0.0
    if not asked and not hidden:
        return Outcome(value, most, "A", None, "neither the loads nor the places entered here ask for it")
    told = quantity(most * MA_PER_A, "mA")
    if idn is not None and idn <= most:
        return Outcome(value, most, "A", None, f"IΔn {quantity(value * MA_PER_A, 'mA')} is there, at most {told} is asked for")
    if asked:
        reasons = " and ".join(reason for reason, limit in asked if idn is None or idn > limit)
        return Outcome(value, most, "A", None, f"an RCD of at most {told} is asked for by {reasons}", verdict="short")
    depth = quantity(w.limit("depth", "concealed_depth") * MA_PER_A, "mm")
    names = ", ".join(span_name(case.rules, s) for s in hidden)
    known = any(span.guarded is False for span in hidden)
    text = f"hidden in a wall ({names}): an RCD of {told} is asked for unless the cable is {depth} deep or protected (522.6.202)"
    return Outcome(value, most, "A", None, text, decides=known, verdict="short")
