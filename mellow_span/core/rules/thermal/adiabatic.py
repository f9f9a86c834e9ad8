"""Whether line and protective conductors survive the fault: the adiabatic equation, and the table method beside it."""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt
from typing import Any

from mellow_span.core.errors import MissingInput, OutsideTable
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import Outcome
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.devices.trip import instant_of, let_through, residual_time
from mellow_span.core.rules.faults import cpc
from mellow_span.core.rules.faults.loop import feed_loop, largest_fault, least_fault, loop_of, residuals, zs_of
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.units import AMPERE_PER_KA
from mellow_span.core.working.recorders import Working

OVER_300 = 300


@dataclass(slots=True)
class Extreme:
    """One end of the range of faults: its current [A], the energy let through [A2s], the csa it asks for and the one that is there [mm2]."""

    name: str
    current: float
    energy: float
    csa: float
    given: float
    what: str


def fault_energy(w: Working, case: Case, current: float, earth: bool) -> float:
    """Return the energy let through at a fault current [A2s]; an earth fault that only the RCD clears takes the RCD's time.

    Raises OutsideTable where nothing is sure to clear the fault.
    """
    energy = let_through(w, case.device, case.rating, current)
    instant = instant_of(w, case.device, case.rating)
    if earth and not (instant is not None and current >= instant):
        for residual in residuals(case):
            time = residual_time(w, residual.idn, residual.delayed, current)
            if time is not None and (energy is None or current**2 * time < energy):
                note = f"cleared by {residual.where}"
                return w.calc("I²t", current**2 * time, "A²s", "I² × t", {"I": current, "t": time}, C.CPC_ADIABATIC, note)
    if energy is None:
        raise OutsideTable("device", f"a fault of {quantity(current, 'A')}", "currents that operate the device")
    return energy


def needed_csa(w: Working, case: Case, name: str, current: float, k: float, earth: bool, share: float = 1.0) -> tuple[float, float]:
    """Return the energy let through [A2s] and the csa [mm2] one fault asks for: S = sqrt(I2t) / k (434.5.2, 543.1.3).

    share: the part of the current a conductor of a combined cpc takes.
    """
    w.given("I", current, "A", name)
    energy = fault_energy(w, case, current, earth)
    clause = C.CPC_ADIABATIC if earth else C.LINE_IN_FAULT
    if share < 1:
        puts = {"I²t": energy, "share": share}
        energy = w.calc("I²t′", energy * share**2, "A²s", "I²t × share²", puts, clause, "the part this conductor takes")
    return energy, w.calc("S", sqrt(energy) / k, "mm²", "√(I²t) / k", {"I²t": energy, "k": k}, clause, name)


def k_of(w: Working, use: str, metal: str, insulation: str, csa: float, note: str) -> float:
    """Return k [A sqrt(s) / mm2] of a conductor (Tables 43.1, 54.2 to 54.5); over 300 mm2 the lower figure for 70 C insulation."""
    if csa > OVER_300 and insulation == "pvc70" and use in ("live", "cpc_in_cable", "separate_cpc"):
        insulation = "pvc70_over300"
    return w.look("k", T.K_VALUES, (use, metal, insulation), "k", note)


def ln_loop(w: Working, case: Case) -> float:
    """Return the line-neutral loop at the far point, hot [ohm], equal line and neutral. Raises MissingInput."""
    if case.feed.ln_hot is None:
        raise MissingInput("supply.ipf", "the prospective fault current at the origin in A, measured or declared")
    added = loop_of(w, case).ln_hot
    return w.calc("Zln", case.feed.ln_hot + added, "Ω", "Zln,board + 2 R1", {"Zln,board": case.feed.ln_hot, "2 R1": added}, C.DEVICE_LIMITS)


def check_line(w: Working, case: Case) -> Outcome:
    """Check that the line conductor survives the largest fault at the board and the least at the far end (434.5.2)."""
    k = k_of(w, "live", "copper", case.family.insulation, case.csa, "line conductor")
    largest = [i for i in largest_fault(case) if i is not None]
    if case.feed.ln_hot is None or not largest:
        raise MissingInput("supply.ipf", "the prospective fault current at the origin in A, measured or declared")
    far_ln = least_fault(w, case, ln_loop(w, case), "Imin,LN")
    far_le = least_fault(w, case, zs_of(w, case), "Imin,LE")
    far_earth = far_le < far_ln and bool(residuals(case))
    faults = [
        ("largest fault, at the board", max(largest), False),
        ("least fault, at the far end", min(far_ln, far_le), far_earth),
    ]
    if far_earth:
        faults.append(("least line-neutral fault, at the far end", far_ln, False))
    share = 1 / case.parallel
    ends = [_extreme(w, case, fault, k, case.csa, "line", share) for fault in faults]
    return _against(w, case, max(ends, key=lambda e: e.csa / e.given))


def _extreme(w: Working, case: Case, fault: tuple[str, float, bool], k: float, csa: float, what: str, share: float) -> Extreme:
    name, current, earth = fault
    energy, needed = needed_csa(w, case, name, current, k, earth, share)
    return Extreme(name, current, energy, needed, csa, what)


def earth_faults(w: Working, case: Case) -> list[tuple[str, float, bool]]:
    """Return the two ends of the range of earth faults: the largest, at the board, and the least, at the far end [A]."""
    near = case.supply.cmax * case.supply.u0 / (case.feed.ze_cold or feed_loop(case))
    least = least_fault(w, case, zs_of(w, case))
    return [("largest earth fault, at the board", near, True), ("least earth fault, at the far end", least, True)]


def check_cpc(w: Working, case: Case) -> Outcome:
    """Check that the protective conductor survives the earth fault, near and far (543.1.3).

    Each conductor of a combined cpc takes its share of the current. A cpc common to several circuits must survive the most onerous (543.1.2).
    """
    parts = cpc.cpc_parts(w.quiet(), case)
    ends = []
    for part, share in zip(parts, cpc.shares(parts), strict=True):
        k = k_of(w, part.use, part.metal, case.family.insulation, part.csa, part.name)
        name = "cpc" if part.metal == "copper" else part.name.removeprefix("the ")
        for fault in earth_faults(w, case):
            ends.append(_extreme(w, case, fault, k, part.csa, name, share))
        if len(parts) == 1:
            ends += _sharing(w, case, part, k, name)
    return _against(w, case, max(ends, key=lambda e: e.csa / e.given))


def _sharing(w: Working, case: Case, part: cpc.Part, k: float, name: str) -> list[Extreme]:
    """Return what the other circuits of a common cpc ask of it."""
    found = []
    for other in case.around.sharing:
        sibling = Case(case.rules, case.supply, other, case.feed)
        for title, current, earth in earth_faults(w.quiet(), sibling):
            w.given("I", current, "A", f"{title}, of {other.name or 'another circuit'} on the common cpc")
            energy = fault_energy(w, sibling, current, earth)
            puts = {"I²t": energy, "k": k}
            csa = w.calc("S", sqrt(energy) / k, "mm²", "√(I²t) / k", puts, C.COMMON_CPC, other.name or "another circuit")
            found.append(Extreme(f"{title}, of {other.name or 'another circuit'}", current, energy, csa, part.csa, f"common {name}"))
    return found


def _against(w: Working, case: Case, end: Extreme) -> Outcome:
    given = w.given(f"S,{end.what}", end.given, "mm²", f"the {end.what}")
    margin = given / end.csa - 1
    word = "withstands" if margin >= 0 else "is under"
    text = f"{quantity(given, 'mm²')} {end.what} {word} the {quantity(end.csa, 'mm²')} that the {end.name} asks for"
    if margin < 0 and (accepted := _guidance(w, case, given, end)):
        note = f"{quantity(given, 'mm²')} {end.what} accepted on usual guidance up to {accepted:g} kA; maker's I²t would prove it"
        return Outcome(given, end.csa, "mm²", None, note, verdict="meets")
    return Outcome(given, end.csa, "mm²", margin, text)


def _guidance(w: Working, case: Case, csa: float, end: Extreme) -> float | None:
    """Return the fault level [kA] up to which guidance accepts this csa behind a class 3 breaker, or None."""
    kind = {"B": "type_b_mm2", "C": "type_c_mm2"}.get(case.device.curve)
    if kind is None or case.device_rules.trips != "breaker" or case.device.i2t is not None or not end.what.endswith(("cpc", "line")):
        return None
    instant = instant_of(w, case.device, case.rating)
    if instant is None or end.current < instant:
        return None
    try:
        least = w.look("S,min", T.BREAKER_CPC_GUIDANCE, (end.current / AMPERE_PER_KA, case.rating), kind, "usual guidance, class 3")
    except OutsideTable:
        return None
    row = w.rules.table(T.BREAKER_CPC_GUIDANCE).row((end.current / AMPERE_PER_KA, case.rating))
    return float(row.key[0]) if csa >= least else None


def table_csa(w: Working, line: float, k1: float, k2: float) -> float:
    """Return the protective conductor the table method asks for [mm2], before rounding up to a standard size (543.1.4, Table 54.7).

    k1, k2: of the line and of the protective conductor; they scale the result where the metals differ and are equal otherwise.
    """
    s = w.given("S", line, "mm²", "line conductor")
    row = w.rules.table(T.CPC_BY_TABLE).row(s)
    if row.cells["fixed_mm2"] is not None:
        asked = w.look("Sp", T.CPC_BY_TABLE, s, "fixed_mm2", "fixed")
    else:
        share = w.look("share", T.CPC_BY_TABLE, s, "share_of_s", "share of S")
        asked = w.calc("Sp", share * s, "mm²", "share × S", {"share": share, "S": s}, C.CPC_TABLE)
    if k1 == k2:
        return asked
    puts = {"Sp": asked, "k1": k1, "k2": k2}
    return w.calc("Sp", asked * k1 / k2, "mm²", "Sp × k1 / k2", puts, C.CPC_TABLE, "unlike metals")


def next_size(w: Working, csa: float) -> float:
    """Return the next standard conductor size up [mm2]; a figure past the last size stays as it is."""
    size = next((float(r.key[0]) for r in w.rules.table(T.RESISTANCE).rows if r.key[0] >= csa - 1e-9), csa)
    return size if size == csa else w.calc("S,std", size, "mm²", "next standard size from S", {"S": csa}, C.CONDUCTOR_SIZES)


def has_separate_cpc(case: Case) -> bool:
    """Say whether the cpc lies by itself: neither in a cable nor in conduit or trunking."""
    return case.cable.cpc == "separate"


def check_separate_cpc(w: Working, case: Case) -> Outcome:
    """Check a protective conductor that lies by itself: 2.5 mm2 protected against mechanical damage, 4 mm2 where it is not (543.1.1)."""
    given = w.given("S,cpc", case.cpc_csa, "mm²", "separate cpc")
    least, bare = w.limit("protected", "separate_cpc_least"), w.limit("not protected", "separate_cpc_bare")
    if given >= bare:
        return Outcome(given, bare, "mm²", None, f"{quantity(given, 'mm²')} is enough, protected or not")
    if given < least:
        return Outcome(
            given, least, "mm²", None, f"{quantity(given, 'mm²')} is under {quantity(least, 'mm²')}, protected or not", verdict="short"
        )
    if case.cable.cpc_guarded is None:
        raise MissingInput("cable.cpc_guarded", f"whether the cpc of {quantity(given, 'mm²')} is protected against mechanical damage")
    if case.cable.cpc_guarded:
        return Outcome(given, least, "mm²", None, f"{quantity(given, 'mm²')} is enough where it is protected, as entered")
    text = f"{quantity(given, 'mm²')} is under the {quantity(bare, 'mm²')} asked for where nothing protects it"
    return Outcome(given, bare, "mm²", None, text, verdict="short")


def table_hangs_on(case: Case) -> tuple[Any, ...]:
    """Return all that the table method hangs on: the cable and the lines that share its cpc."""
    return (case.cable, case.circuit.phases, *(c.run.cable.csa for c in case.around.sharing))


def check_cpc_table(w: Working, case: Case) -> Outcome:
    """Compare the cpc with the table method, next standard size up (543.1.4, Table 54.7); shown, the adiabatic decides."""
    parts = cpc.cpc_parts(w.quiet(), case)
    part = max(parts, key=lambda p: 1 / p.hot)
    line = max([case.csa, *(c.run.cable.csa or 0.0 for c in case.around.sharing)])
    if part.metal == "copper":
        k1 = k2 = 1.0
    else:
        k1 = k_of(w, "live", "copper", case.family.insulation, case.csa, "line")
        k2 = k_of(w, part.use, part.metal, case.family.insulation, part.csa, part.name)
    asked = table_csa(w, line * case.parallel, k1, k2)
    least = next_size(w, asked) if part.metal == "copper" else asked
    given = w.given("S,cpc", part.csa, "mm²", part.name)
    name = "cpc" if part.metal == "copper" else part.name.removeprefix("the ")
    verdict = None if given >= least else "short"
    word = "is enough by the table" if verdict is None else "is refused by the table"
    text = f"{quantity(given, 'mm²')} {name} {word}, which asks {quantity(least, 'mm²')}; the adiabatic equation decides"
    return Outcome(given, least, "mm²", None, text, decides=False, verdict=verdict)  # type: ignore[arg-type]
