"""Whether line and protective conductors survive the fault: the adiabatic equation, and the table method beside it."""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

from mellow_span.core.case import Case
from mellow_span.core.devices import AMPERE_PER_KA, breaker_energy, instantaneous_current, residual_time
from mellow_span.core.errors import MissingInput, OutsideTable
from mellow_span.core.faults import feed_loop, largest_fault, least_fault, loop_of, zs_of
from mellow_span.core.figures import quantity
from mellow_span.core.results import Outcome
from mellow_span.core.working import Working


@dataclass(frozen=True, slots=True)
class Extreme:
    """One end of the range of faults: its current [A], the energy let through [A2s] and the csa it asks for [mm2]."""

    name: str
    current: float
    energy: float
    csa: float


def fault_energy(w: Working, case: Case, current: float, earth: bool) -> float:
    """Return the energy let through at a fault current [A2s]; an earth fault that only the RCD clears takes the RCD's time.

    Raises OutsideTable where nothing is sure to clear the fault.
    """
    energy = breaker_energy(w, case.device, case.rating, current)
    fast = current >= instantaneous_current(w.quiet(), case.device, case.rating)
    if earth and not fast:
        time = residual_time(w, case.device, current)
        if time is not None and (energy is None or current**2 * time < energy):
            return w.calc("I²t", current**2 * time, "A²s", "I² × t", {"I": current, "t": time}, "543.1.3", "cleared by the RCD")
    if energy is None:
        raise OutsideTable("MCB-therm", f"a fault of {quantity(current, 'A')}", "currents that trip the device")
    return energy


def needed_csa(w: Working, case: Case, name: str, current: float, k: float, earth: bool) -> Extreme:
    """Return the csa [mm2] one fault asks for: S = sqrt(I2t) / k (434.5.2, 543.1.3)."""
    w.given("I", current, "A", name)
    energy = fault_energy(w, case, current, earth)
    csa = w.calc("S", sqrt(energy) / k, "mm²", "√(I²t) / k", {"I²t": energy, "k": k}, "543.1.3" if earth else "434.5.2", name)
    return Extreme(name, current, energy, csa)


def ln_loop(w: Working, case: Case) -> float:
    """Return the line-neutral loop at the far point, hot [ohm], equal line and neutral. Raises MissingInput."""
    if case.feed.ln_hot is None:
        raise MissingInput("supply.ipf", "the prospective fault current at the origin in A, measured or declared")
    loop = loop_of(w, case)
    added = sqrt((2 * loop.r1_hot) ** 2 + loop.x**2)
    return w.calc("Zln", case.feed.ln_hot + added, "Ω", "Zln,board + 2 R1", {"Zln,board": case.feed.ln_hot, "2 R1": added}, "Appendix 3")


def check_line(w: Working, case: Case) -> Outcome:
    """Check that the line conductor survives the largest fault at the board and the least at the far end (434.5.2)."""
    k = w.look("k", "k", ("live", "copper", case.family.insulation), "k", "line conductor")
    largest = [i for i in largest_fault(case) if i is not None]
    if case.feed.ln_hot is None or not largest:
        raise MissingInput("supply.ipf", "the prospective fault current at the origin in A, measured or declared")
    far_ln = least_fault(w, case, ln_loop(w, case), "Imin,LN")
    far_le = least_fault(w, case, zs_of(w, case), "Imin,LE")
    far_earth = far_le < far_ln and case.device.idn is not None
    ends = [
        needed_csa(w, case, "largest fault, at the board", max(largest), k, earth=False),
        needed_csa(w, case, "least fault, at the far end", min(far_ln, far_le), k, earth=far_earth),
    ]
    if far_earth:
        ends.append(needed_csa(w, case, "least line-neutral fault, at the far end", far_ln, k, earth=False))
    return _against(w, case, "line", case.csa, max(ends, key=lambda e: e.csa))


def check_cpc(w: Working, case: Case) -> Outcome:
    """Check that the protective conductor survives the earth fault, near and far (543.1.3)."""
    use = "cpc_in_cable"
    k = w.look("k", "k", (use, "copper", case.family.insulation), "k", "cpc in a cable or bunched")
    near = case.supply.u0 / (case.feed.ze_cold or feed_loop(case))
    zs = zs_of(w, case)
    ends = [
        needed_csa(w, case, "largest earth fault, at the board", near, k, earth=True),
        needed_csa(w, case, "least earth fault, at the far end", least_fault(w, case, zs), k, earth=True),
    ]
    return _against(w, case, "cpc", case.cpc_csa, max(ends, key=lambda e: e.csa))


def _against(w: Working, case: Case, what: str, csa: float, end: Extreme) -> Outcome:
    given = w.given(f"S,{what}", csa, "mm²", f"the {what}")
    margin = given / end.csa - 1
    word = "withstands" if margin >= 0 else "is under"
    text = f"{quantity(given, 'mm²')} {what} {word} the {quantity(end.csa, 'mm²')} that the {end.name} asks for"
    if margin < 0 and (accepted := _guidance(w, case, given, end)):
        note = f"{quantity(given, 'mm²')} {what} accepted on usual guidance up to {accepted:g} kA; maker's I²t would prove it"
        return Outcome(given, end.csa, "mm²", None, note, verdict="meets")
    return Outcome(given, end.csa, "mm²", margin, text)


def _guidance(w: Working, case: Case, csa: float, end: Extreme) -> float | None:
    """Return the fault level [kA] up to which guidance accepts this csa behind a class 3 breaker, or None."""
    kind = {"B": "type_b_mm2", "C": "type_c_mm2"}.get(case.device.curve)
    instant = end.current >= instantaneous_current(w.quiet(), case.device, case.rating)
    if kind is None or not instant or case.device.i2t is not None:
        return None
    try:
        least = w.look("S,min", "MCB-cpc", (end.current / AMPERE_PER_KA, case.rating), kind, "usual guidance, class 3")
    except OutsideTable:
        return None
    row = w.rules.table("MCB-cpc").row((end.current / AMPERE_PER_KA, case.rating))
    return float(row.key[0]) if csa >= least else None


def check_cpc_table(w: Working, case: Case) -> Outcome:
    """Compare the cpc with the table method, next standard size up (543.1.4, Table 54.7); shown, the adiabatic decides."""
    s = w.given("S", case.csa, "mm²", "line conductor")
    row = w.rules.table("54.7").row(s)
    if row.cells["fixed_mm2"] is not None:
        asked = w.look("Sp", "54.7", s, "fixed_mm2", "fixed")
    else:
        share = w.look("share", "54.7", s, "share_of_s", "share of S")
        asked = w.calc("Sp", share * s, "mm²", "share × S", {"share": share, "S": s}, "543.1.4")
    least = next((r.key[0] for r in w.rules.table("R20").rows if r.key[0] >= asked - 1e-9), asked)
    given = w.given("S,cpc", case.cpc_csa, "mm²", "the cpc")
    verdict = None if given >= least else "short"
    word = "is enough by the table" if verdict is None else "is refused by the table"
    text = f"{quantity(given, 'mm²')} cpc {word}, which asks {quantity(least, 'mm²')}; the adiabatic equation decides"
    return Outcome(given, least, "mm²", None, text, decides=False, verdict=verdict)  # type: ignore[arg-type]
