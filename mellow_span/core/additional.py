"""Additional protection by a residual current device: which loads and places ask for it, and why."""

from __future__ import annotations

from mellow_span.core.case import Case, span_name
from mellow_span.core.errors import MissingInput
from mellow_span.core.figures import quantity
from mellow_span.core.results import Outcome
from mellow_span.core.working import Working

MA_PER_A = 1000


def asking_loads(w: Working, case: Case) -> list[str]:
    """List the loads that ask for additional protection: socket-outlets up to 32 A (411.3.3), luminaires in a dwelling (411.3.4)."""
    found = []
    if case.sockets and case.rating <= w.limit("In", "additional_sockets_in", "socket-outlets"):
        found.append("socket-outlets (411.3.3)")
    if case.lighting:
        found.append("luminaires in a dwelling (411.3.4)")
    return found


def hidden_spans(case: Case) -> list[str]:
    """List the spans hidden in a wall, where depth or protection against penetration decides (522.6.202)."""
    places = case.rules.places
    return [span_name(case.rules, s) for s in case.circuit.run.spans if s.place in places and places[s.place].concealed]


def check_additional(w: Working, case: Case) -> Outcome:
    """Check that a circuit whose load asks for additional protection has a residual current device of at most 30 mA (415.1.1).

    A cable hidden in a wall asks for it too, unless it lies deep enough or is protected: that is told, and decides nothing here.
    Raises MissingInput without a load.
    """
    if not case.circuit.loads and not case.circuit.feeds:
        raise MissingInput("loads", "a load in W or A")
    loads, hidden = asking_loads(w, case), hidden_spans(case)
    most = w.limit("IΔn,max", "additional_idn")
    idn = case.device.idn
    there = idn is not None and idn <= most
    value = w.given("IΔn", idn, "A", "residual current function of the device") if idn is not None else 0.0
    if not loads and not hidden:
        return Outcome(value, most, "A", None, "neither the loads nor the places entered here ask for it")
    asked = quantity(most * MA_PER_A, "mA")
    if there:
        return Outcome(value, most, "A", None, f"IΔn {quantity(value * MA_PER_A, 'mA')} is there, at most {asked} is asked for")
    if loads:
        return Outcome(value, most, "A", None, f"an RCD of at most {asked} is asked for by {' and '.join(loads)}", verdict="short")
    depth = quantity(w.limit("depth", "concealed_depth") * MA_PER_A, "mm")
    text = (
        f"hidden in a wall ({', '.join(hidden)}): an RCD of {asked} is asked for unless the cable is {depth} deep or protected (522.6.202)"
    )
    return Outcome(value, most, "A", None, text, decides=False, verdict="short")
