"""What could harm a cable where it lies: nails in joists, supports that fall in a fire (section 522 and 521)."""

from __future__ import annotations

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
            0.0, 0.0, "", None, f"{', '.join(weak)}: supports that fail early in a fire let the cable down on people", verdict="short"
        )
    return Outcome(0.0, 0.0, "", None, "held by supports that last in a fire, where entered")
