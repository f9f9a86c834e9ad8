"""Earth-fault loop, disconnection and fault currents of a circuit."""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

from mellow_span.core.capacity import MM_PER_M
from mellow_span.core.case import Case
from mellow_span.core.devices import instantaneous_current, residual_time, slowest_time
from mellow_span.core.errors import MissingInput
from mellow_span.core.figures import figure, quantity
from mellow_span.core.results import Outcome
from mellow_span.core.working import Working

RING_SHARE = 4
# With equal line and neutral a three-phase fault is twice the line-neutral one.
THREE_PHASE = 2
SEPARATE, BUNCHED = "separate_not_bunched", "in_cable_or_bunched"


@dataclass(frozen=True, slots=True)
class Loop:
    """Impedance the run itself adds [ohm]: r1, r2 cold at 20 C and hot, and x of the line-cpc loop; a ring's already quartered."""

    r1_cold: float
    r2_cold: float
    r1_hot: float
    r2_hot: float
    x: float

    @property
    def hot(self) -> float:
        """|(R1 + R2) + jX| at operating temperature [ohm]."""
        return sqrt((self.r1_hot + self.r2_hot) ** 2 + self.x**2)

    @property
    def cold(self) -> float:
        """|(R1 + R2) + jX| at 20 C [ohm]."""
        return sqrt((self.r1_cold + self.r2_cold) ** 2 + self.x**2)


def run_loop(w: Working, case: Case) -> Loop:
    """Return the impedance of the run from board to far point; a ring counts (R1 + R2) / 4 of its whole length.

    Conductor resistance at 20 C (BS EN 60228) times the multiplier to operating temperature for the insulation and for a cpc in the
    same cable or enclosure; reactance from 35 mm2 up from the single-phase volt drop column. Raises OutsideTable, MissingInput.
    """
    if not w.keep and "loop" in case.memo:
        known: Loop = case.memo["loop"]
        return known
    r1 = w.look("r1", "R20", case.csa, "cu_mohm_per_m_20C", f"line {case.csa:g} mm²")
    r2 = w.look("r2", "R20", case.cpc_csa, "cu_mohm_per_m_20C", f"cpc {case.cpc_csa:g} mm²")
    m = w.look("F", "RM", (BUNCHED, case.family.insulation), "multiplier_from_20C", "to operating temperature")
    share = RING_SHARE if case.ring else 1
    length = w.given("L", case.length, "m", "the whole ring" if case.ring else "board to far point")
    base = length / MM_PER_M / share
    x = loop_reactance(w, case) * base
    loop = Loop(r1 * base, r2 * base, r1 * m * base, r2 * m * base, x)
    puts = {"r1": r1, "r2": r2, "L": length}
    sign = " / 4" if case.ring else ""
    w.calc("(R1+R2)20", loop.r1_cold + loop.r2_cold, "Ω", f"(r1 + r2) × L / 1000{sign}", puts, "612.2", "at 20 °C, to compare readings")
    total = loop.r1_hot + loop.r2_hot
    return _record(w, loop, w.calc("R1+R2", total, "Ω", f"(r1 + r2) × F × L / 1000{sign}", {**puts, "F": m}, "Appendix 3"))


def loop_of(w: Working, case: Case) -> Loop:
    """Return the impedance of the run without its steps, worked out once for a circuit."""
    if "loop" not in case.memo:
        case.memo["loop"] = run_loop(w.quiet(), case)
    found: Loop = case.memo["loop"]
    return found


def zs_of(w: Working, case: Case) -> float:
    """Return Zs at the far point [ohm] without its steps, worked out once for a circuit."""
    return feed_loop(case) + loop_of(w, case).hot


def _record(w: Working, loop: Loop, total: float) -> Loop:
    if loop.x:
        w.calc("Z", loop.hot, "Ω", "√((R1+R2)² + X²)", {"R1+R2": total, "X": loop.x}, "Appendix 4, 6.2")
    return loop


def loop_reactance(w: Working, case: Case) -> float:
    """Return the reactance of the loop [mohm/m] for line conductors of 35 mm2 and up, else 0."""
    if case.csa < w.constant("reactance_from"):
        return 0.0
    column = case.family.drop_column(case.method(case.spans[0]), 1, "x")
    return w.look("x", case.family.drop, case.csa, column, "reactance of the loop")


def feed_loop(case: Case) -> float:
    """Return Zs at the board, hot [ohm]. Raises MissingInput without a Ze."""
    if case.feed.ze_hot is None:
        raise MissingInput("supply.ze", "Ze at the origin in Ω, measured or declared")
    return case.feed.ze_hot


def loop_impedance(w: Working, case: Case) -> float:
    """Return Zs at the far point [ohm]: Zs of the board plus the run, as plain numbers (411.4.4)."""
    at_board = w.given("Zs,board", feed_loop(case), "Ω", "at the board: Ze and any sub-main")
    added = run_loop(w, case).hot
    return w.calc("Zs", at_board + added, "Ω", "Zs,board + (R1+R2)", {"Zs,board": at_board, "R1+R2": added}, "411.4.4")


def largest_loop(w: Working, case: Case) -> float:
    """Return the largest Zs [ohm] with which the overcurrent device disconnects in time: Cmin U0 / Ia (411.4.4)."""
    ia = instantaneous_current(w, case.device, case.rating)
    cmin = w.limit("Cmin", "cmin")
    return w.calc("Zs,max", cmin * case.supply.u0 / ia, "Ω", "Cmin × U0 / Ia", {"Cmin": cmin, "U0": case.supply.u0, "Ia": ia}, "411.4.4")


def residual_clears(w: Working, case: Case, zs: float) -> bool:
    """Say whether a residual current function gives fault protection: Zs x IDn <= 50 V (411.4.5, 411.5.3)."""
    if case.device.idn is None:
        return False
    most = w.limit("UL", "touch_voltage")
    touch = w.calc("Zs × IΔn", zs * case.device.idn, "V", "Zs × IΔn", {"Zs": zs, "IΔn": case.device.idn}, "411.5.3")
    return touch <= most


def check_loop(w: Working, case: Case) -> Outcome:
    """Check Zs against the largest the overcurrent device allows, with 80 % of it for a reading (411.4.4, Appendix 3)."""
    zs = loop_impedance(w, case)
    most = largest_loop(w, case)
    share = w.limit("share", "reading_share")
    reading = w.calc(
        "80 %", share * most, "Ω", "share × Zs,max", {"share": share, "Zs,max": most}, "Appendix 3", "for a reading at ambient"
    )
    covered = residual_clears(w, case, zs)
    word = "is within" if zs <= most else "is over"
    text = f"Zs {quantity(zs, 'Ω')} {word} {quantity(most, 'Ω')}; a reading may show {quantity(reading, 'Ω')}"
    if zs > most and covered:
        text += "; the RCD clears the earth fault, the breaker alone would not in time"
    return Outcome(zs, most, "Ω", 1 - zs / most, text, decides=zs <= most or not covered)


def allowed_time(w: Working, case: Case) -> float:
    """Return the disconnection time allowed [s]: Table 41.1 for smaller finals, else the distribution time (411.3.2)."""
    if case.supply.earthing is None:
        raise MissingInput("supply.earthing", "the earthing arrangement: TN-C-S, TN-S or TT")
    tt = case.supply.earthing == "TT"
    most = w.limit("In", "final_sockets_in" if case.sockets else "final_fixed_in", "largest final with the short time")
    if case.circuit.feeds or case.rating > most:
        return w.limit("t,max", "time_distribution_tt" if tt else "time_distribution_tn")
    return w.look("t,max", "41.1", ("TT" if tt else "TN", case.supply.u0), "ac_s", "final circuit")


def least_fault(w: Working, case: Case, zs: float, symbol: str = "Ief") -> float:
    """Return the least earth-fault current at the far point [A]: Cmin U0 / Zs, conductors hot."""
    cmin = w.limit("Cmin", "cmin")
    return w.calc(symbol, cmin * case.supply.u0 / zs, "A", "Cmin × U0 / Zs", {"Cmin": cmin, "U0": case.supply.u0, "Zs": zs}, "411.4.4")


def clearing(w: Working, case: Case, current: float) -> tuple[float | None, str]:
    """Return the time [s] in which an earth fault of a current [A] is cleared and by what; (None, '') where nothing clears it."""
    by_breaker = slowest_time(w, case.device, case.rating, current)
    by_residual = residual_time(w, case.device, current)
    slow = by_breaker is None or by_breaker > w.constant("breaker_instant_time")
    if by_residual is not None and slow and (by_breaker is None or by_residual < by_breaker):
        return by_residual, "the RCD"
    return by_breaker, case.rules.devices[case.device.kind].title if by_breaker is not None else ""


def check_disconnection(w: Working, case: Case) -> Outcome:
    """Check that an earth fault at the far point is cleared in the time allowed (411.3.2)."""
    allowed = allowed_time(w, case)
    zs = w.given("Zs", zs_of(w, case), "Ω", "at the far point")
    current = least_fault(w, case, zs)
    time, by = clearing(w, case, current)
    if by == "the RCD" and not residual_clears(w, case, zs):
        time, by = slowest_time(w, case.device, case.rating, current), "the breaker"
    if time is None:
        text = f"{quantity(current, 'A')} of earth fault is not sure to trip anything; {figure(allowed, 's')} s allowed"
        return Outcome(0.0, allowed, "s", None, text, verdict="short")
    verdict = None if time <= allowed else "short"
    text = f"cleared in {quantity(time, 's')} by {by}, {quantity(allowed, 's')} allowed, at {quantity(current, 'A')}"
    return Outcome(time, allowed, "s", None, text, verdict=verdict)  # type: ignore[arg-type]


def largest_fault(case: Case) -> tuple[float | None, float | None]:
    """Return the largest line-neutral and line-earth fault currents at the board [A]; None where the survey lacks the value."""
    u0, feed = case.supply.u0, case.feed
    return (u0 / feed.ln_cold if feed.ln_cold else None), (u0 / feed.ze_cold if feed.ze_cold else None)


def check_breaking(w: Working, case: Case) -> Outcome:
    """Check the breaking capacity Icn against the larger prospective fault current at the board (434.5.1)."""
    known = {"Ipf,LN": largest_fault(case)[0], "Ipf,LE": largest_fault(case)[1]}
    if known["Ipf,LN"] is None:
        raise MissingInput("supply.ipf", "the prospective fault current at the origin in A, measured or declared")
    if case.device.icn is None:
        raise MissingInput("device.icn", "the breaking capacity of the device in A")
    if case.circuit.phases > 1:
        known = {"Ipf,3ph": THREE_PHASE * known["Ipf,LN"]}
    there = {name: value for name, value in known.items() if value is not None}
    for name, value in there.items():
        w.given(name, value, "A", "largest at the board")
    ipf = w.calc("Ipf", max(there.values()), "A", f"max({', '.join(there)})", there, "434.5.1")
    icn = w.given("Icn", case.device.icn, "A", "breaking capacity of the device")
    word = "breaks" if icn >= ipf else "is under"
    text = f"Icn {quantity(icn / MM_PER_M, 'kA')} {word} Ipf {quantity(ipf / MM_PER_M, 'kA')} at the board"
    return Outcome(icn, ipf, "A", icn / ipf - 1, text)
