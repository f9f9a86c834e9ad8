"""Charging points for vehicles (section 722): the residual current device of the right kind, an open neutral on PME, a circuit of its own."""

from __future__ import annotations

from mellow_span.core.adding import added
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import Outcome, Verdict, worst
from mellow_span.core.model.parts import Load
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.faults.loop import residuals
from mellow_span.core.rulesets.vocabulary import C
from mellow_span.core.units import MA_PER_A
from mellow_span.core.working.recorders import Working

Said = tuple[Verdict, str]
# Which types see direct fault current by themselves, and which do where the equipment detects 6 mA of it.
SEES, WITH_DETECTION = ("B",), ("A", "F")


def charges(case: Case) -> bool:
    """Say whether the circuit feeds a charging point."""
    return any(load.kind == "ev" for load in case.circuit.loads)


def check_charging(w: Working, case: Case) -> Outcome:
    """Check a charging point: at most 30 mA that sees direct current (722.531.3), an open neutral (722.411.4.1), its own circuit (722.311)."""
    most = w.limit("IΔn,max", "additional_idn", "for each charging point")
    points = [load for load in case.circuit.loads if load.kind == "ev"]
    said = [_residual(case, load, most) for load in points] + [_neutral(w, case, load) for load in points] + [_own_circuit(case)]
    verdict = worst([v for v, _ in said])
    # Every reason that holds it back, the gravest first: who mends one has to know of the others.
    wrong = sorted((s for s in said if s[0] != "meets"), key=lambda s: ("short", "not_known", "close").index(s[0]))
    text = "; ".join(dict.fromkeys(words for _, words in wrong or said))
    clauses = [C.CHARGING_RCD] * len(points) + [C.CHARGING_NEUTRAL] * len(points) + [C.CHARGING_CIRCUIT]
    clause = next(c for c, (v, _) in zip(clauses, said, strict=True) if v == verdict)
    given = [r.idn for r in residuals(case)]
    value = w.given("IΔn", min(given), "A", "lowest IΔn of the RCDs upstream") if given else 0.0
    return Outcome(value, most, "A", None, text, verdict=verdict, clause=clause)


def _residual(case: Case, load: Load, most: float) -> Said:
    """The best of the devices on the way and at the point itself: a device the fault passes is enough."""
    told = quantity(most * MA_PER_A, "mA")
    device = case.device
    found: list[Said] = []
    if device.idn is not None and device.idn <= most and not device.delayed:
        found.append(_by_type(device.rcd_type, load.dc_detection))
    if load.outlet_idn is not None and load.outlet_idn <= most:
        found.append(_by_type("A", load.dc_detection))
    for before in (r for r in case.feed.residuals if r.idn <= most and not r.delayed):
        unsaid = f"type of {before.where} not known: needs type B, or A or F with 6 mA DC detection"
        found.append(("not_known", unsaid) if before.kind is None else _by_type(before.kind, load.dc_detection))
    if not found:
        return "short", f"each charging point needs its own RCD of {told} or less, not time-delayed"
    return min(found, key=lambda one: ("meets", "not_known", "short").index(one[0]))


def _by_type(kind: str | None, detects: bool | None) -> Said:
    if kind in SEES:
        return "meets", "RCD operates on DC fault current"
    if kind in WITH_DETECTION:
        if detects:
            return "meets", f"type {kind}, and the equipment detects 6 mA of direct current"
        if detects is None:
            return "not_known", f"type {kind} is enough only where the equipment detects 6 mA of direct current: not entered"
        return "short", f"type {kind} does not detect DC fault current, nor does the equipment"
    if kind is None:
        return "not_known", "the type of its RCD is not entered: B, or A or F with 6 mA detection in the equipment"
    return "short", f"type {kind} is not for charging: B, or A or F with 6 mA detection in the equipment"


def _neutral(w: Working, case: Case, load: Load) -> Said:
    if load.pen_guard == "electrode":
        return _electrode(w, case, load)
    if case.feed.earthing != "TN-C-S" or case.feed.own_earth:
        return "meets", "not on a PME earth"
    if load.pen_guard is None:
        return "not_known", "PME supply: open-PEN protection for the vehicle not entered"
    words = {
        "device": "open-PEN protective device fitted",
        "electrode": "earthed by an electrode of its own",
        "indoors": "vehicle charged indoors only",
    }
    return "meets", words[load.pen_guard]


def _electrode(w: Working, case: Case, load: Load) -> Said:
    """An electrode of the point's own: RA x IDn <= 50 V by the RCD that stands before it (411.5.3)."""
    if load.electrode_ra is None:
        return "not_known", "the resistance RA of its own electrode is not entered"
    idn = min((r.idn for r in residuals(case)), default=None)
    if idn is None:
        return "short", "earthed by an electrode of its own, and no RCD clears a fault through it"
    most = w.limit("UL", "touch_voltage") / idn
    if load.electrode_ra > most:
        return "short", f"RA {quantity(load.electrode_ra, 'Ω')} of its own electrode is over {quantity(most, 'Ω')}"
    return "meets", f"earthed by an electrode of its own, RA {quantity(load.electrode_ra, 'Ω')}"


def _own_circuit(case: Case) -> Said:
    points = added(load.quantity for load in case.circuit.loads if load.kind == "ev")
    if points > 1:
        return "short", f"{points} charging points on one device: each has a circuit and an RCD of its own"
    others = [load.name or load.kind.replace("_", " ") for load in case.circuit.loads if load.kind != "ev"]
    if others:
        return "short", f"a charging point needs its own circuit; here shared with {', '.join(others)}"
    return "meets", "a circuit of its own"
