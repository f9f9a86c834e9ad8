"""What could harm a cable where it lies: nails in joists, supports that fall in a fire (section 522 and 521)."""

from __future__ import annotations

from mellow_span.core.errors import MissingInput
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import Outcome
from mellow_span.core.findings.wording import span_name
from mellow_span.core.model.parts import Span
from mellow_span.core.rules.case import Case
from mellow_span.core.units import MM_PER_M
from mellow_span.core.working.recorders import Working


def in_joists(case: Case) -> list[Span]:
    """List the spans under a floor or over a ceiling, in or across joists, that are not known to be deep enough or protected."""
    return [s for s in case.circuit.run.spans if case.place(s).joists and s.guarded is not True and not case.earthed_metal]


def asks_joists(case: Case) -> bool:
    """Say whether a span lies in joists."""
    return any(case.place(s).joists for s in case.circuit.run.spans)


def check_joists(w: Working, case: Case) -> Outcome:
    """Check cables under floors and over ceilings: 50 mm from the face of the joist, or protected; no RCD stands in for it (522.6.201).

    Where that is not entered it is told and decides nothing.
    """
    depth = w.limit("depth", "concealed_depth")
    bare = in_joists(case)
    if not bare:
        return Outcome(0.0, depth, "m", None, "deep enough in the joists, or protected")
    names = ", ".join(span_name(case.rules, s) for s in bare)
    text = f"{names}: {quantity(depth * MM_PER_M, 'mm')} from the face of the joist, or protected against nails and screws"
    return Outcome(0.0, depth, "m", None, text, decides=any(s.guarded is False for s in bare), verdict="short")


def asks_supports(case: Case) -> bool:
    """Say whether the supports of a span are entered."""
    return any(s.fire_supports is not None for s in case.circuit.run.spans)


def check_supports(w: Working, case: Case) -> Outcome:
    """Check that the wiring does not come down early in a fire: metal clips, ties or fixings hold it (521.10.202)."""
    weak = [span_name(case.rules, s) for s in case.circuit.run.spans if s.fire_supports is False]
    if weak:
        return Outcome(
            0.0, 0.0, "", None, f"{', '.join(weak)}: supports that fail early in a fire let cables fall on people", verdict="short"
        )
    return Outcome(0.0, 0.0, "", None, "supports last in a fire, where entered")


def asks_bath_sockets(case: Case) -> bool:
    """Say whether the circuit has socket-outlets and ends or passes in a room with a bath or shower."""
    return any(load.kind == "sockets" for load in case.circuit.loads) and any(s.location == "bathroom" for s in case.circuit.run.spans)


def check_bath_sockets(w: Working, case: Case) -> Outcome:
    """Check how far socket-outlets in a room with a bath or shower stand from it (701.512.3). Raises MissingInput where nobody said."""
    least = w.limit("least", "bath_socket")
    outlets = [load for load in case.circuit.loads if load.kind == "sockets"]
    unsaid = next((load for load in outlets if load.bath_distance is None), None)
    near = min((load.bath_distance for load in outlets if load.bath_distance is not None), default=None)
    if near is not None and near < least * (1 - 1e-9):
        text = f"a socket-outlet {quantity(near, 'm')} from the bath or shower: at least {quantity(least, 'm')}"
        return Outcome(near, least, "m", None, text, verdict="short")
    if unsaid is not None:
        raise MissingInput(
            f"load.{unsaid.id}.bath_distance", f"how far its socket-outlets are from the bath or shower: at least {quantity(least, 'm')}"
        )
    return Outcome(near or 0.0, least, "m", None, f"socket-outlets {quantity(near or 0.0, 'm')} from the bath or shower")
