"""Accessories on the way to a load: rated current, poles, terminals; and lampholders at its end."""

from __future__ import annotations

from mellow_span.core.errors import CoreError, MissingInput
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import Outcome, Verdict, worst
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.demand.loads import ib_of
from mellow_span.core.working.recorders import Working

# What isolates an appliance opens both its conductors.
TWO_POLE = ("isolator", "control_unit", "connection_unit")


def has_accessory(case: Case) -> bool:
    """Say whether an accessory on the way is entered."""
    return case.circuit.accessory is not None


def check_accessory(w: Working, case: Case) -> Outcome:
    """Check the accessory on the way to the load: rated current against In or the load (536.4.3.2, 512.1.2), poles (462.2, 537.2), terminals (526.2).

    What is short for certain is told before what is not known.
    """
    name = str(case.circuit.accessory).replace("_", " ")
    said: list[tuple[Verdict, str, str | None]] = [_rated(w, case, name), _poles(case, name), _terminals(w, case, name)]
    verdict = worst([v for v, _, _ in said])
    text = "; ".join(words for v, words, _ in said if v == verdict)
    field = next((f for v, _, f in said if v == verdict and f), None)
    rated = case.circuit.accessory_in or 0.0
    # What nobody entered of an accessory is still to confirm and holds nothing back; what is entered and wrong does.
    return Outcome(rated, case.device.rating or 0.0, "A", None, text, verdict=verdict, field=field, decides=verdict != "not_known")


def _rated(w: Working, case: Case, name: str) -> tuple[Verdict, str, str | None]:
    rated = case.circuit.accessory_in
    if rated is None:
        return "not_known", f"still to enter: the rated current of the {name} in A", "circuit.accessory_in"
    w.given("In,acc", rated, "A", name)
    if case.device.rating is not None and rated >= case.rating * (1 - 1e-9):
        return "meets", f"{name} {quantity(rated, 'A')} for In {quantity(case.rating, 'A')}", None
    try:
        ib = ib_of(w, case)
    except CoreError as refusal:
        return "not_known", str(refusal), refusal.field
    w.given("Ib", ib, "A", "design current")
    if ib > rated * (1 + 1e-9):
        return "short", f"{name} {quantity(rated, 'A')} is under the load of {quantity(ib, 'A')}", None
    told = f"{name} {quantity(rated, 'A')} carries the load of {quantity(ib, 'A')}"
    if case.device.rating is None:
        return "not_known", f"{told}; still to enter: the rated current of the device in A", "device.rating"
    return "close", f"{told} and is under In {quantity(case.rating, 'A')}: only the load keeps it from overload", None


def _poles(case: Case, name: str) -> tuple[Verdict, str, str | None]:
    if case.circuit.accessory not in TWO_POLE:
        return "meets", "", None
    # Through an electrode the neutral may stand far from earth: it is opened as well (461.2).
    asked = 2 if case.circuit.phases == 1 else 4 if case.feed.earthing == "TT" and case.neutral else 3
    poles = case.circuit.accessory_poles
    if poles is None:
        return "not_known", f"still to enter: whether the {name} switches line and neutral", "circuit.accessory_poles"
    if poles < asked:
        return "short", f"the {name} switches {poles} pole{'s' if poles > 1 else ''}: {asked} needed to isolate an appliance", None
    return "meets", "isolates every live conductor", None


def _terminals(w: Working, case: Case, name: str) -> tuple[Verdict, str, str | None]:
    takes = case.circuit.accessory_csa
    if takes is None:
        return "not_known", f"still to enter: the largest csa that the terminals of the {name} take", "circuit.accessory_csa"
    w.given("S,acc", takes, "mm²", f"terminals of the {name}")
    try:
        csa = case.csa
    except CoreError as refusal:
        return "not_known", str(refusal), refusal.field
    wires = f"two of {quantity(csa, 'mm²')}" if case.ring else quantity(csa, "mm²")
    if takes < csa * (1 - 1e-9):
        return "short", f"its terminals take {quantity(takes, 'mm²')}, not {wires}", None
    return "meets", f"its terminals take {wires}", None


def lights_over(case: Case) -> bool:
    """Say whether the circuit has lamps."""
    return case.lighting and not case.circuit.feeds


def check_lampholders(w: Working, case: Case) -> Outcome:
    """Check that lampholders of the usual household types hang on no more than 16 A (559.5.1.204)."""
    most = w.limit("In,max", "lampholder_in", "for standard household lampholders")
    rated = w.given("In", case.rating, "A", "device of the circuit")
    if rated <= most:
        return Outcome(rated, most, "A", None, f"In {quantity(rated, 'A')} suits any lampholder")
    lamps = [load for load in case.circuit.loads if load.kind == "lighting"]
    if any(load.lampholders for load in lamps):
        text = f"In {quantity(rated, 'A')} is over {quantity(most, 'A')} for standard household lampholders"
        return Outcome(rated, most, "A", None, text, verdict="short")
    unsaid = next((load for load in lamps if load.lampholders is None), None)
    if unsaid is not None:
        raise MissingInput(f"load.{unsaid.id}.lampholders", f"whether standard lampholders are used: if so, at most {quantity(most, 'A')}")
    return Outcome(rated, most, "A", None, "no standard lampholders, as entered")
