"""Overload: Ib <= In <= Iz and I2, ring finals and least sizes."""

from __future__ import annotations

from mellow_span.core.errors import CoreError, InputError, MissingInput
from mellow_span.core.figures import apart, quantity
from mellow_span.core.findings.results import Outcome, Verdict, judge
from mellow_span.core.findings.wording import span_name
from mellow_span.core.rules.capacity.spans import least_known, parallel_allowed, ruling_span, span_capacity
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.demand.loads import ib_of
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.working.recorders import Working

CANNOT_OVERLOAD = frozenset(["shower", "water_heater", "heating", "floor_heating", "storage_heating"])


def check_capacity(w: Working, case: Case) -> Outcome:
    """Check In <= Iz in the worst span (433.1.1 (ii)); each leg of a ring at least 20 A (433.1.204); Ib <= Iz where overload
    protection is left out because the load cannot overload (433.3.1).
    """
    parallel_allowed(case)
    try:
        span, iz = ruling_span(w, case)
    except CoreError:
        # A span nobody placed does not hide that another fails for certain.
        worst = least_known(w, case)
        if worst is None or not _fails(w.quiet(), case, worst[1]):
            raise
        span, iz = worst
    where = span_name(case.rules, span)
    if case.ring:
        needed = w.limit("Iz,leg", "ring_leg_iz", "each leg of a ring final")
        name = "the least for a ring leg"
    elif at_its_fuse(case):
        needed, name = fuse_at_end(w, case), "the fuse at its end,"
    elif case.overload_omitted:
        needed = w.given("Ib", ib_of(w, case), "A", "overload protection omitted: the load cannot overload (433.3.1)")
        name = "Ib"
    elif case.device.rating is None:
        raise MissingInput("device.rating", "the rated current of the device in A").showing(iz, "A")
    else:
        needed = w.given("In", case.rating, "A", "rating of the device")
        name = "In"
    margin = iz / needed - 1 if needed else None
    word = "is under" if margin is not None and judge(margin) == "short" else "carries"
    own, asked = apart(iz, needed, "A")
    text = f"{where}: Iz {own} {word} {name} {asked}"
    if case.overload_omitted:
        text += _omitted(case)
    if at_its_fuse(case):
        text += "; overload protection along the run (433.2.2)"
    clause = (
        C.RING_FINAL
        if case.ring
        else C.OVERLOAD_ALONG
        if at_its_fuse(case)
        else C.OVERLOAD_OMITTED
        if case.overload_omitted
        else C.OVERLOAD
    )
    return Outcome(iz, needed, "A", margin, text, span.id, verdict=_omission_verdict(case, iz >= needed), clause=clause)


def at_its_fuse(case: Case) -> bool:
    """Say whether a cable that begins along a run has its overload protection at its end (433.2.2): the fuse of what stands there."""
    return case.begins is not None and case.begins.own_overload == "fuse"


def fuse_at_end(w: Working, case: Case) -> float:
    """Return the rating of the fuses that a smaller cable ends with, together [A] (433.2.2).

    Raises MissingInput for a load without its fuse, InputError for one that is taken off before the end, and where nothing stands there.
    """
    assert case.begins is not None
    field, total = f"span.{case.begins.id}.own_overload", 0.0
    if not case.circuit.loads:
        raise InputError(field, "fuse", "the device of the circuit, for a cable that no load with a fuse stands at the end of")
    for load in case.circuit.loads:
        if load.at is not None:
            raise InputError(field, "fuse", f"a cable without outlets up to the fuse ({case.rules.clause(C.OVERLOAD_ALONG)})")
        if load.local_fuse is None:
            raise MissingInput(f"load.{load.id}.local_fuse", f"the fuse of {load.name or 'the load'} in A")
        total += w.given("Ifuse", load.local_fuse * load.quantity, "A", f"fuse of {load.name or 'the load'}")
    return w.calc("In,fuse", total, "A", "sum of the fuses at its end", {}, C.OVERLOAD_ALONG)


def _fails(w: Working, case: Case, iz: float) -> bool:
    try:
        needed = (
            w.constant("ring_leg_iz")
            if case.ring
            else fuse_at_end(w, case)
            if at_its_fuse(case)
            else ib_of(w, case)
            if case.overload_omitted
            else case.rating
        )
    except CoreError:
        return False
    return iz < needed * (1 - 1e-9)


def _omitted(case: Case) -> str:
    able = sorted({load.name or load.kind.replace("_", " ") for load in case.circuit.loads if load.kind not in CANNOT_OVERLOAD})
    if able or case.circuit.feeds:
        return f"; overload protection cannot be omitted: {', '.join(able) or 'a sub-main'} can overload"
    return "; overload protection deliberately omitted: the load cannot overload (433.3.1)"


def _omission_verdict(case: Case, carries: bool) -> Verdict | None:
    """Short where overload protection is left out for a load that can overload; never silently."""
    can = case.circuit.feeds or any(load.kind not in CANNOT_OVERLOAD for load in case.circuit.loads)
    return "short" if case.overload_omitted and can and carries else None


def check_overload_current(w: Working, case: Case) -> Outcome:
    """Check I2 <= 1.45 Iz written out (433.1.1 (iii)), on Iz without Cf, which already is that rule.

    gG, BS 88-3 and BS 1361 fuses are deemed to comply when In <= Iz: their line is shown and does not decide.
    """
    span, _ = ruling_span(w.quiet(), case)
    iz = span_capacity(w, case, span, without_fuse=True)
    row = (case.device_rules.conventional, case.rating)
    multiple = w.look("I2/In", T.CONVENTIONAL, row, "i2_multiple", "conventional operating current")
    i2 = w.calc("I2", multiple * case.rating, "A", "I2/In × In", {"I2/In": multiple, "In": case.rating}, C.OVERLOAD)
    factor = w.limit("factor", "i2_multiple")
    most = w.calc("1.45 Iz", factor * iz, "A", "factor × Iz", {"factor": factor, "Iz": iz}, C.OVERLOAD)
    fits = i2 <= most * (1 + 1e-9)
    told, limit = apart(i2, most, "A")
    text = f"I2 {told} {'is within' if fits else 'is over'} 1.45 Iz, {limit}"
    deemed = case.device_rules.deemed
    if deemed:
        text += "; a fuse of this kind is deemed to comply when In ≤ Iz"
    if case.overload_omitted:
        text += "; overload protection omitted"
    if at_its_fuse(case):
        text += "; overload protection by the fuse at its end"
    elsewhere = case.overload_omitted or at_its_fuse(case)
    return Outcome(i2, most, "A", most / i2 - 1, text, span.id, decides=not deemed and not elsewhere)


def use_of(case: Case) -> str:
    """Return the use of a circuit as Table 52.3 names it: lighting, where there is nothing else, or power."""
    return "lighting" if case.lighting and all(load.kind == "lighting" for load in case.circuit.loads) else "power"


def check_least_csa(w: Working, case: Case) -> Outcome:
    """Check the line csa against the least of Table 52.3 for lighting or power."""
    use = use_of(case)
    least = w.look("S,min", T.LEAST_CSA, (use, "copper"), "min_mm2", f"{use} circuit")
    csa = w.given("S", case.csa, "mm²", "line conductor")
    verdict = None if csa >= least else "short"
    word = "is enough" if verdict is None else "is too small"
    text = f"{quantity(csa, 'mm²')} {word}: a {use} circuit takes at least {quantity(least, 'mm²')}"
    return Outcome(csa, least, "mm²", None, text, verdict=verdict)  # type: ignore[arg-type]
