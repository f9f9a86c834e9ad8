"""Socket-outlets by their own rating behind the device of the circuit, and the type of residual current device that loads allow."""

from __future__ import annotations

from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import Outcome
from mellow_span.core.rules.case import Case
from mellow_span.core.working.recorders import Working

# Fixed equipment without electronics: nothing there makes an alternating-current type blind (531.3.3).
WITHOUT_ELECTRONICS = frozenset(["shower", "water_heater", "heating", "storage_heating"])

# Types that detect a fault in equipment with electronics.
DETECTING = ("A", "F", "B")


def has_outlets(case: Case) -> bool:
    """Say whether the circuit has socket-outlets of its own; one in a cooker control unit belongs to the unit."""
    return any(load.kind == "sockets" for load in case.circuit.loads) and not case.circuit.feeds


def check_outlets(w: Working, case: Case) -> Outcome:
    """Check that the device of the circuit suits its outlets: household ones up to 32 A, others no more than their own rating (512.1.2)."""
    rated = w.given("In", case.rating, "A", "device of the circuit")
    household, most = w.limit("household", "household_outlet"), w.limit("up to", "household_outlet_in")
    # The plugs of household outlets have a fuse of their own; those of all others, larger or smaller, have none.
    limits = [(most if load.outlet == household else load.outlet, load) for load in case.circuit.loads if load.kind == "sockets"]
    least, load = min(limits, key=lambda pair: pair[0])
    of = f"socket-outlets of {quantity(load.outlet, 'A')}"
    if rated <= least * (1 + 1e-9):
        return Outcome(rated, least, "A", None, f"In {quantity(rated, 'A')} suits {of}: at most {quantity(least, 'A')}")
    return Outcome(rated, least, "A", None, f"In {quantity(rated, 'A')} is over the {quantity(least, 'A')} for {of}", verdict="short")


def has_plain_rcd(case: Case) -> bool:
    """Say whether an RCD of type AC stands at the circuit or on the way to it."""
    return not case.circuit.feeds and any(r.kind == "AC" for r in case.residuals)


def check_rcd_type(w: Working, case: Case) -> Outcome:
    """Check that a type AC device stands only before fixed equipment without electronics (531.3.3); of existing circuits it is told."""
    plain = next(r for r in case.residuals if r.kind == "AC")
    idn = w.given("IΔn", plain.idn, "A", f"{plain.where}, type AC")
    able = sorted({load.name or load.kind.replace("_", " ") for load in case.circuit.loads if load.kind not in WITHOUT_ELECTRONICS})
    if not able:
        return Outcome(idn, idn, "A", None, "type AC suits fixed equipment without electronics")
    nearer = case.residuals[: case.residuals.index(plain)]
    seen = next((r for r in nearer if r.kind in DETECTING), None)
    text = (
        f"{plain.where} is of type AC and may not detect a fault in equipment with electronics: {', '.join(able)}; type A is the usual one"
    )
    if seen is not None:
        text += f"; {seen.where}, type {seen.kind}, detects it"
    # Behind a device that detects the fault it stands in nobody's way, and should go when the board is next worked on.
    return Outcome(idn, idn, "A", None, text, verdict="close" if case.circuit.existing or seen is not None else "short")
