"""Whether line and protective conductors survive the fault: the adiabatic equation, and the table method beside it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from math import sqrt

from mellow_span.core.errors import CoreError, MissingInput
from mellow_span.core.figures import apart, quantity
from mellow_span.core.findings.results import Outcome, judge
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.devices.trip import GUARD, class_limit, instant_of, let_through, residual_time, slowest_time
from mellow_span.core.rules.faults import cpc
from mellow_span.core.rules.faults.loop import (
    THREE_PHASE,
    allowed_time,
    backed_up,
    feed_loop,
    largest_fault,
    least_fault,
    loop_of,
    other_sources,
    residuals,
    zs_of,
)
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.units import AMPERE_PER_KA
from mellow_span.core.working.recorders import Working

GUIDANCE_TYPE = "B"
# What is needed is told to this much [mm2]: an electrode's fault heats nothing, and 0 mm2 is no conductor.
LEAST_TOLD = 0.01


@dataclass(frozen=True, slots=True)
class Fault:
    """One end of the range of faults: its name, its current [A], and whether it flows to earth."""

    name: str
    current: float
    earth: bool


@dataclass(slots=True)
class Extreme:
    """What one fault asks of one conductor: energy let through [A2s], csa asked for and there [mm2]; csa None where nothing clears it.

    certain: the energy is what the device lets through at most; else it is only a bound, and the maker's figure decides beyond it.
    """

    fault: Fault
    energy: float | None
    csa: float | None
    given: float
    what: str
    certain: bool = True
    k: float = 0.0


@dataclass(frozen=True, slots=True)
class Energy:
    """Energy let through [A2s], None where nothing is sure to clear the fault; certain: see Extreme."""

    value: float | None
    certain: bool = True


def fault_energy(w: Working, case: Case, fault: Fault) -> Energy:
    """Return the energy let through at a fault (434.5.2, 543.1.3).

    The overcurrent device counts wherever it is in time for the disconnection asked. Only where it is not does the time of an RCD count, and
    then of any RCD that the fault passes, the fastest at that current.
    """
    energy = Energy(let_through(w, case.device, case.rating, fault.current))
    if energy.value is not None:
        energy = _bounded(w, case, fault.current, energy.value)
    quick = _by_residual(w, case, fault) if fault.earth and residuals(case) else None
    if quick is None or (energy.value is not None and energy.value <= quick[0]):
        return energy
    value, time, where = quick
    return Energy(w.calc("I²t", value, "A²s", "I² × t", {"I": fault.current, "t": time}, C.CPC_ADIABATIC, f"cleared by {where}"))


def _by_residual(w: Working, case: Case, fault: Fault) -> tuple[float, float, str] | None:
    """The least energy [A2s] by the RCDs on the way with its time [s] and where, None where the overcurrent device is in time by itself."""
    quiet = w.quiet()
    time = slowest_time(quiet, case.device, case.rating, fault.current)
    if time is not None and time <= allowed_time(quiet, case):
        return None
    found = []
    for residual in residuals(case):
        by = residual_time(quiet, residual.idn, residual.delayed, fault.current)
        if by is not None:
            found.append((fault.current**2 * by, by, residual.where))
    return min(found, default=None)


def _bounded(w: Working, case: Case, current: float, energy: float) -> Energy:
    """Beyond a breaker's own capacity the fuse before its assembly bounds the energy; of an adjustable breaker only its maker knows it."""
    device = case.device
    beyond = device.icn is not None and current > device.icn * (1 + GUARD)
    if case.device_rules.trips == "fuse" and beyond:
        return _behind_another(w, case, current)
    if device.i2t is not None or case.device_rules.trips == "fuse":
        return Energy(energy)
    if beyond and backed_up(w.quiet(), case, current):
        fuse = case.feed.above[0]
        w.given("Icc", case.feed.conditional or 0.0, "A", "conditional rating of the assembly: the fuse before it bounds the energy")
        assert fuse.rating is not None
        bound = let_through(w, fuse, fuse.rating, current)
        if bound is not None and bound < energy:
            terms = {"fuse": bound, "I² × t": energy}
            energy = w.calc(
                "I²t", bound, "A²s", "min(fuse, I² × t)", terms, C.CONDITIONAL_RATING, "upper limit; use the maker's figure above it"
            )
        return Energy(energy, certain=False)
    instant = instant_of(w, device, case.rating)
    at_once = instant is not None and current >= instant * (1 - GUARD)
    # Where no let-through energy is tabulated (type D, over 40 A, beyond the fault levels, another book), the current for the whole time is a
    # bound: what stands it meets, and beyond it the maker knows.
    return Energy(energy, certain=not (at_once and class_limit(w.quiet(), device, case.rating, current) is None))


def _behind_another(w: Working, case: Case, current: float) -> Energy:
    """What a fuse beyond its own breaking capacity lets through: the device before it clears, and its total energy is a bound (434.5.1).

    Raises MissingInput where nobody said what stands before it.
    """
    before = case.feed.above[0] if case.feed.above else None
    if before is None or before.rating is None:
        field = "supply.fuse_in" if before is not None and len(case.feed.above) == 1 else "supply.fuse_kind"
        raise MissingInput(field, "the device before it: the fault is over its own breaking capacity")
    w.given("In,up", before.rating, "A", "device before it, which clears what this fuse cannot")
    return Energy(let_through(w, before, before.rating, current), certain=False)


def needed_csa(w: Working, case: Case, fault: Fault, k: float, share: float = 1.0) -> tuple[Energy, float | None]:
    """Return the energy let through and the csa [mm2] one fault asks for: S = sqrt(I2t) / k (434.5.2, 543.1.3); None where nothing clears it.

    share: the part of the current a conductor of a combined cpc takes.
    """
    w.given("I", fault.current, "A", fault.name)
    energy = fault_energy(w, case, fault)
    if energy.value is None:
        return energy, None
    clause, value = C.CPC_ADIABATIC if fault.earth else C.LINE_IN_FAULT, energy.value
    if share < 1:
        terms = {"I²t": value, "share": share}
        value = w.calc("I²t′", value * share**2, "A²s", "I²t × share²", terms, clause, "this conductor’s share")
    return Energy(value, energy.certain), w.calc("S", sqrt(value) / k, "mm²", "√(I²t) / k", {"I²t": value, "k": k}, clause, fault.name)


def k_of(w: Working, use: str, metal: str, insulation: str, csa: float, note: str) -> float:
    """Return k [A sqrt(s) / mm2] of a conductor (Tables 43.1, 54.2 to 54.5); over 300 mm2 the lower figure for 70 C insulation."""
    if csa > w.constant("k_lower_over") and insulation == "pvc70" and use in ("live", "cpc_in_cable", "separate_cpc"):
        insulation = "pvc70_over300"
    return w.look("k", T.K_VALUES, (use, metal, insulation), "k", note)


def ln_loop(w: Working, case: Case) -> float:
    """Return the line-neutral loop at the far point, hot [ohm], equal line and neutral. Raises MissingInput."""
    if case.feed.ln_hot is None:
        raise MissingInput("supply.ipf", "the prospective fault current at the origin in A, measured or declared")
    added = loop_of(w, case).ln_hot + case.behind[1]
    return w.calc("Zln", case.feed.ln_hot + added, "Ω", "Zln,board + 2 R1", {"Zln,board": case.feed.ln_hot, "2 R1": added}, C.DEVICE_LIMITS)


def far_zs(w: Working, case: Case) -> float:
    """Return Zs at the far end of the run [ohm], which lies behind the end of a cable that changes along it."""
    return zs_of(w, case) + case.behind[0]


def check_line(w: Working, case: Case) -> Outcome:
    """Check that the line conductor survives the largest fault at the board and the least at the far end (434.5.2).

    A three-phase circuit meets its three-phase fault. The least is the lower of the line-neutral and the line-earth one.
    """
    if short_to_fuse(case):
        return _to_its_fuse(w, case)
    k = k_of(w, "live", "copper", case.family.insulation, case.csa, "line conductor")
    near, *far = _line_faults(w, case)
    # Near the origin a fault in one of several cables is carried by that cable alone (434.4); far from it they share.
    ends, refused = _each(w, case, [near], k, case.csa, "line", 1.0)
    more, lacking = _each(w, case, far, k, case.csa, "line", 1 / case.parallel)
    return judged(w, case, ends + more, refused + lacking)


def short_to_fuse(case: Case) -> bool:
    """Say whether fault protection of a smaller cable stands at its end, as 434.2.1 allows for a short one that is run as it asks."""
    return case.begins is not None and case.begins.own_overload == "fuse" and case.begins.own_short is True


def _to_its_fuse(w: Working, case: Case) -> Outcome:
    most = w.limit("L,most", "short_to_device", "from the change of csa to the device, run so that faults, fire and danger are unlikely")
    length = w.given("L", case.length, "m", "of the smaller cable, up to its fuse")
    word = "is within" if length <= most * (1 + 1e-9) else "is over"
    told, limit = apart(length, most, "m")
    text = f"{told} to its fuse {word} {limit}: fault protection at the end of the smaller cable"
    return Outcome(length, most, "m", most / length - 1, text, clause=C.SHORT_TO_DEVICE, verdict="short" if word == "is over" else "meets")


def _line_faults(w: Working, case: Case) -> list[Callable[[], Fault]]:
    """The faults a line conductor meets, each worked out when it is asked for: one that lacks an input does not stop the others."""

    def near() -> Fault:
        ln, le = largest_fault(case)
        if ln is None:
            raise MissingInput("supply.ipf", "the prospective fault current at the origin in A, measured or declared")
        if case.circuit.phases > 1:
            three = w.calc("Ipf,3ph", THREE_PHASE * ln, "A", "2 × Ipf,LN", {"Ipf,LN": ln}, C.FAULT_LEVEL, "equal line and neutral")
            return Fault(f"three-phase fault, {case.start}", max(three, le or 0.0), False)
        return Fault(f"largest fault, {case.start}", max(ln, le or 0.0), False)

    def far_ln() -> Fault:
        return Fault("least line-neutral fault, at the far end", least_fault(w, case, ln_loop(w, case), "Imin,LN"), False)

    def far_le() -> Fault:
        return Fault("least earth fault, at the far end", least_fault(w, case, far_zs(w, case), "Imin,LE"), True)

    return [near, far_ln, far_le]


def _each(
    w: Working, case: Case, faults: list[Callable[[], Fault]], k: float, csa: float, what: str, share: float
) -> tuple[list[Extreme], list[CoreError]]:
    """What each fault asks of a conductor, and the refusals of those that lack an input."""
    ends, refused = [], []
    for fault in faults:
        try:
            one = fault()
            energy, needed = needed_csa(w, case, one, k, share)
        except CoreError as refusal:
            refused.append(refusal)
        else:
            # A part of a combined conductor takes its share of the current alone: the energy told is that of the whole.
            ends.append(Extreme(one, energy.value, needed, csa, what, energy.certain, k / share))
    return ends, refused


def earth_faults(w: Working, case: Case) -> list[Callable[[], Fault]]:
    """Return the two ends of the range of earth faults, each worked out when asked for: the largest, at the board, and the least, at the far end."""

    def near() -> Fault:
        current = case.supply.cmax * case.supply.u0 / (case.feed.ze_cold or feed_loop(case)) + other_sources(case.feed)
        return Fault(f"largest earth fault, {case.start}", current, True)

    return [near, lambda: Fault("least earth fault, at the far end", least_fault(w, case, far_zs(w, case)), True)]


def check_cpc(w: Working, case: Case) -> Outcome:
    """Check that the protective conductor survives the earth fault, near and far (543.1.3).

    Each conductor of a combined cpc takes its share of the current. A cpc common to several circuits must survive the most onerous (543.1.2).
    """
    parts = cpc.cpc_parts(w.quiet(), case)
    ends: list[Extreme] = []
    refused: list[CoreError] = []
    for part, share in zip(parts, cpc.shares(parts), strict=True):
        k = k_of(w, part.use, part.metal, case.family.insulation, part.csa, part.name)
        name = "cpc" if part.metal == "copper" else part.name.removeprefix("the ")
        near, far = earth_faults(w, case)
        # One of several cables carries a fault near its origin alone, with its own part of the protective conductor (434.4).
        alone = case.parallel if part.use in ("cpc_in_cable", "sheath_armour") else 1
        for fault, csa in ((near, part.csa / alone), (far, part.csa)):
            more, lacking = _each(w, case, [fault], k, csa, name, share)
            ends, refused = ends + more, refused + lacking
        if len(parts) == 1:
            more, lacking = _sharing(w, case, part, k, name)
            ends, refused = ends + more, refused + lacking
    return judged(w, case, ends, refused)


def _sharing(w: Working, case: Case, part: cpc.Part, k: float, name: str) -> tuple[list[Extreme], list[CoreError]]:
    """Return what the other circuits of a common cpc ask of it."""
    found: list[Extreme] = []
    refused: list[CoreError] = []
    for other in case.around.sharing:
        sibling = Case(case.rules, case.supply, other, case.feed)
        title = other.name or "another circuit"
        for fault in earth_faults(w.quiet(), sibling):
            try:
                one = fault()
                w.given("I", one.current, "A", f"{one.name}, of {title} on the common cpc")
                energy = fault_energy(w, sibling, one)
            except CoreError as refusal:
                refused.append(refusal)
                continue
            csa = None
            if energy.value is not None:
                csa = w.calc("S", sqrt(energy.value) / k, "mm²", "√(I²t) / k", {"I²t": energy.value, "k": k}, C.COMMON_CPC, title)
            named = Fault(f"{one.name}, of {title}", one.current, True)
            found.append(Extreme(named, energy.value, csa, part.csa, f"common {name}", energy.certain, k))
    return found, refused


def judged(w: Working, case: Case, ends: list[Extreme], refused: list[CoreError]) -> Outcome:
    """Judge each end of the range of faults by itself: what fails for certain is short, whatever is not known of the others."""
    uncleared = next((end for end in ends if end.csa is None), None)
    if uncleared is not None:
        text = f"no device is certain to clear the {uncleared.fault.name} of {quantity(uncleared.fault.current, 'A')}"
        return Outcome(uncleared.given, None, "mm²", None, text, verdict="short")
    known = [(end, end.csa) for end in ends if end.csa is not None]
    known.sort(key=lambda pair: pair[0].given / pair[1])
    failing = [(end, csa) for end, csa in known if judge(end.given / csa - 1) == "short"]
    accepted = [(end, csa) for end, csa in failing if _guidance(w, case, end)]
    for end, csa in failing:
        if end.certain and (end, csa) not in accepted:
            return _told(w, end, csa)
    if refused:
        raise refused[0]
    bound = next(((end, csa) for end, csa in failing if not end.certain), None)
    if bound is not None:
        return _undecided(w, *bound)
    rest = [pair for pair in known if pair not in accepted]
    if not accepted:
        return _told(w, *rest[0])
    end, csa = accepted[0]
    given, most = w.given(f"S,{end.what}", end.given, "mm²", f"the {end.what}"), w.constant("guidance_ka")
    note = f"{quantity(given, 'mm²')} {end.what} accepted on usual guidance up to {most:g} kA; the maker's I²t would confirm it"
    return Outcome(given, csa, "mm²", None, note, verdict=judge(rest[0][0].given / rest[0][1] - 1) if rest else "meets")


def _told(w: Working, end: Extreme, csa: float) -> Outcome:
    given = w.given(f"S,{end.what}", end.given, "mm²", f"the {end.what}")
    margin = given / csa - 1
    word = "is under" if judge(margin) == "short" else "withstands"
    own, needed = apart(given, csa, "mm²")
    if csa < LEAST_TOLD:
        needed = f"less than {quantity(LEAST_TOLD, 'mm²')}"
    the = "" if csa < LEAST_TOLD else "the "
    text = f"{own} {end.what} {word} {the}{needed} needed for the {end.fault.name}"
    return Outcome(given, csa, "mm²", margin, text)


def _undecided(w: Working, end: Extreme, csa: float) -> Outcome:
    """The bound is not withstood, and the bound is all that is known: a maker's figure, or a measured fault level, decides."""
    given = w.given(f"S,{end.what}", end.given, "mm²", f"the {end.what}")
    stands = (end.k * given) ** 2
    text = (
        f"{quantity(given, 'mm²')} {end.what} against a bound of {quantity(csa, 'mm²')} for the {end.fault.name}: "
        f"the maker's I²t decides, up to {quantity(stands, 'A²s')} would do, or a measured fault level"
    )
    return Outcome(given, csa, "mm²", None, text, verdict="not_known", field="device.i2t")


def _guidance(w: Working, case: Case, end: Extreme) -> bool:
    """Say whether usual guidance accepts a conductor of 1.0 mm2 at this end: behind a type B breaker up to 16 A, at most 3 kA and never above Icn."""
    device = case.device
    if T.BREAKER_CPC_GUIDANCE not in w.rules.by_name:
        return False
    if (
        case.device_rules.trips != "breaker"
        or device.curve != GUIDANCE_TYPE
        or device.i2t is not None
        or not end.what.endswith(("cpc", "line"))
    ):
        return False
    instant = instant_of(w, device, case.rating)
    current = end.fault.current
    most = w.limit("up to", "guidance_ka", "usual guidance, class 3") * AMPERE_PER_KA
    if device.icn is not None:
        most = min(most, device.icn)
    if instant is None or current < instant * (1 - GUARD) or current > most * (1 + GUARD):
        return False
    if case.rating > w.constant("guidance_in"):
        return False
    return end.given >= w.look("S,min", T.BREAKER_CPC_GUIDANCE, (current / AMPERE_PER_KA, case.rating), "type_b_mm2", "usual guidance")
