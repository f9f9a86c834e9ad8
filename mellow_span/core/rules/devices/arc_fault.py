"""Arc fault detection: asked of socket-outlet circuits where many sleep who do not know each other (421.1.7)."""

from __future__ import annotations

from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import Outcome
from mellow_span.core.rules.case import Case
from mellow_span.core.working.recorders import Working


def asks_arc_fault(case: Case) -> bool:
    """Say whether the premises ask for arc fault detection: socket-outlet circuits up to 32 A where many sleep who do not know each other."""
    most = case.rules.limit("afdd_in")
    return case.feed.premises == "shared" and case.circuit.phases == 1 and bool(case.outlets) and (case.device.rating or 0.0) <= most


def check_arc_fault(w: Working, case: Case) -> Outcome:
    """Check that a socket-outlet circuit in such premises has arc fault detection (421.1.7)."""
    most = w.limit("In,max", "afdd_in", "single-phase socket-outlet circuits")
    value = case.device.rating or 0.0
    if case.device.afdd:
        return Outcome(value, most, "A", None, "arc fault detection fitted")
    return Outcome(
        value, most, "A", None, f"arc fault detection needed here on socket-outlets up to {quantity(most, 'A')}", verdict="short"
    )
