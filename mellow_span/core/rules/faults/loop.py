"""Earth-fault loop, disconnection and fault currents of a circuit."""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt
from typing import Any

from mellow_span.core.adding import added
from mellow_span.core.errors import CoreError, MissingInput, NotKnownBefore
from mellow_span.core.figures import apart, figure, quantity
from mellow_span.core.findings.results import Outcome, Verdict, judge
from mellow_span.core.rules.case import Case, Feed, Residual
from mellow_span.core.rules.devices.trip import SLOW_TYPE, disconnecting_current, residual_time, slowest_time
from mellow_span.core.rules.drop.figures import by_formula
from mellow_span.core.rules.faults import cpc
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.units import AMPERE_PER_KA, MM_PER_M
from mellow_span.core.working.recorders import Working

RING_SHARE = 4
# With equal line and neutral a three-phase fault is twice the line-neutral one.
THREE_PHASE = 2
INSTANT = 0.0


@dataclass(slots=True)
class Loop:
    """Impedance the run itself adds [ohm]: r1, r2 cold at 20 C and hot; x of the line-cpc loop and x_ln of the line-neutral loop.

    A ring's are already quartered.
    """

    r1_cold: float
    r2_cold: float
    r1_hot: float
    r2_hot: float
    x: float
    x_ln: float

    @property
    def hot(self) -> float:
        """|(R1 + R2) + jX| at operating temperature [ohm]."""
        return sqrt((self.r1_hot + self.r2_hot) ** 2 + self.x**2)

    @property
    def cold(self) -> float:
        """|(R1 + R2) + jX| at 20 C [ohm]."""
        return sqrt((self.r1_cold + self.r2_cold) ** 2 + self.x**2)

    @property
    def ln_hot(self) -> float:
        """Line-neutral impedance at operating temperature [ohm], equal line and neutral."""
        return sqrt((2 * self.r1_hot) ** 2 + self.x_ln**2)

    @property
    def ln_cold(self) -> float:
        """Line-neutral impedance at 20 C [ohm], equal line and neutral."""
        return sqrt((2 * self.r1_cold) ** 2 + self.x_ln**2)


def run_loop(w: Working, case: Case) -> Loop:
    """Return the impedance of the run from board to far point; a ring counts (R1 + R2) / 4 of its whole length.

    Conductor resistance at 20 C (BS EN 60228) times the multiplier to operating temperature for the insulation and for how the cpc is
    laid; reactance from 35 mm2 up from the single-phase volt drop column, and of a steel enclosure. Raises OutsideTable, MissingInput.
    """
    return case.worked(w, "loop", lambda aside: _run_loop(aside, case), show=True)


def _run_loop(w: Working, case: Case) -> Loop:
    r1 = w.look("r1", T.RESISTANCE, case.csa, "cu_mohm_per_m_20C", f"line {case.csa:g} mm²") / case.parallel
    m = w.look("F", T.RESISTANCE_HOT, (cpc.BUNCHED, case.family.insulation), "multiplier_from_20C", "line, to operating temperature")
    parts = cpc.cpc_parts(w, case)
    cold, hot = cpc.joined(parts, hot=False), cpc.joined(parts, hot=True)
    share = RING_SHARE if case.ring else 1
    length = w.given("L", case.length, "m", "the whole ring" if case.ring else "board to far end")
    base = length / MM_PER_M / share
    x_ln = loop_reactance(w, case) / case.parallel / share
    # A metal enclosure as cpc of a ring is no ring itself: it leads to the far point, half the loop away, one way.
    straight = case.ring and cpc.is_enclosure(case)
    way = length / MM_PER_M / 2 if straight else base
    x = x_ln + added(part.x for part in parts) * way
    loop = Loop(r1 * base, cold * way, r1 * m * base, hot * way, x, x_ln)
    sign = " / 4" if case.ring and not straight else ""
    plain, warm = ("r1 × L / 4000 + r2 × L / 2000", "r1 × F × L / 4000 + r2′ × L / 2000") if straight else (
        f"(r1 + r2) × L / 1000{sign}", f"(r1 × F + r2′) × L / 1000{sign}"
    )  # fmt: skip
    terms = {"r1": r1, "r2": cold, "L": length}
    w.calc("(R1+R2)20", loop.r1_cold + loop.r2_cold, "Ω", plain, terms, C.CONTINUITY, "at 20 °C, to compare readings")
    terms = {"r1": r1, "F": m, "r2′": hot, "L": length}
    note = "r2′ is r2 at operating temperature"
    total = w.calc("R1+R2", loop.r1_hot + loop.r2_hot, "Ω", warm, terms, C.DEVICE_LIMITS, note)
    if loop.x:
        w.calc("Z", loop.hot, "Ω", "√((R1+R2)² + X²)", {"R1+R2": total, "X": loop.x}, C.DROP_REFINED)
    return loop


def loop_of(w: Working, case: Case) -> Loop:
    """Return the impedance of the run for a check whose own steps are others."""
    return case.worked(w, "loop", lambda aside: _run_loop(aside, case), show=False)


def run_cold(loop: Loop, case: Case) -> tuple[float, float, float]:
    """Return R1, R2 and X of the whole run at 20 C [ohm]: of a cable that begins along it with what lies before it. Raises NotKnownBefore."""
    ahead = case.feed.run
    if ahead is None:
        return loop.r1_cold, loop.r2_cold, loop.x
    if ahead.r1_cold is None or ahead.r2_cold is None or ahead.x is None:
        raise NotKnownBefore("cable", "the loop of the cable before it")
    return ahead.r1_cold + loop.r1_cold, ahead.r2_cold + loop.r2_cold, ahead.x + loop.x


def zs_of(w: Working, case: Case) -> float:
    """Return Zs at the far point [ohm] for a check whose own steps are others."""
    return feed_loop(case) + loop_of(w, case).hot


def loop_reactance(w: Working, case: Case) -> float:
    """Return the reactance of the loop [ohm], span by span with the column of each, for line conductors of 35 mm2 and up, else 0."""
    if by_formula(case):
        x = w.limit("λ", "lambda", "reactance of the loop, there and back")
        return w.calc("X", 2 * x * case.length / MM_PER_M, "Ω", "2 λ L / 1000", {"λ": x, "L": case.length}, C.DROP_BY_TABLE)
    if case.csa < w.constant("reactance_from"):
        return 0.0
    lengths: dict[str, float] = {}
    for span in case.spans:
        column = case.family.drop_column(case.method(span), 1, "x")
        lengths[column] = lengths.get(column, 0.0) + (span.length or 0.0)
    total = 0.0
    for column, length in lengths.items():
        x = w.look("x", case.family.drop, case.csa, column, "reactance of the loop")
        total += w.calc("X", x * length / MM_PER_M, "Ω", "x × L / 1000", {"x": x, "L": length}, C.DROP_REFINED)
    return total


def feed_loop(case: Case) -> float:
    """Return Zs at the board, hot [ohm]. Raises MissingInput without a Ze, or without the electrode of a board that has its own."""
    if case.feed.ze_hot is None:
        if case.feed.own_earth:
            whose = "the board's" if case.feed.electrode == "board.ra" else "the charging point's"
            raise MissingInput(case.feed.electrode, f"the resistance RA of {whose} own electrode in Ω")
        if case.feed.length > 0 and case.supply.ze is not None:
            raise NotKnownBefore("board", "the loop up to its board")
        if case.supply.ze is not None:
            raise MissingInput("supply.ze", f"a Ze that can be: {quantity(case.supply.ze, 'Ω')} is none of a TN supply")
        raise MissingInput("supply.ze", "Ze at the origin in Ω, measured or declared")
    return case.feed.ze_hot


def loop_impedance(w: Working, case: Case) -> float:
    """Return Zs at the far point [ohm]: Zs of the board plus the run, as plain numbers (411.4.4)."""
    origin = (
        "where this cable begins: all before it"
        if case.feed.run is not None
        else "at the board: its own electrode, RA"
        if case.feed.own_earth
        else "at the board: Ze and any sub-main"
    )
    at_board = w.given("Zs,board", feed_loop(case), "Ω", origin)
    added = run_loop(w, case).hot
    return w.calc("Zs", at_board + added, "Ω", "Zs,board + (R1+R2)", {"Zs,board": at_board, "R1+R2": added}, C.FAULT_LOOP)


def largest_loop(w: Working, case: Case) -> float:
    """Return the largest Zs [ohm] with which the overcurrent device disconnects in time: Cmin U0 / Ia (411.4.4)."""
    # A breaker is taken at its instantaneous current whatever the time allowed; a fuse, a delayed breaker and type D are not.
    by_time = case.device_rules.trips != "breaker" or case.device.curve == SLOW_TYPE
    time = allowed_time(w, case) if by_time else INSTANT
    ia = disconnecting_current(w, case.device, case.rating, time)
    cmin = w.limit("Cmin", "cmin")
    return w.calc("Zs,max", cmin * case.supply.u0 / ia, "Ω", "Cmin × U0 / Ia", {"Cmin": cmin, "U0": case.supply.u0, "Ia": ia}, C.FAULT_LOOP)


def residuals(case: Case) -> tuple[Residual, ...]:
    """Return the residual current devices that cover the circuit, its own first, then those on the way to the origin."""
    return case.residuals


def residual_clears(w: Working, case: Case, zs: float) -> Residual | None:
    """Return the residual current device that gives fault protection, Zs x IDn <= 50 V, nearest first; None if none does (411.4.5, 411.5.3)."""
    most = w.limit("UL", "touch_voltage") if residuals(case) else 0.0
    clause = C.RCD_TOUCH_VOLTAGE if case.feed.earthing == "TT" else C.RCD_IN_TN
    for residual in residuals(case):
        terms = {"Zs": zs, "IΔn": residual.idn}
        if w.calc("Zs × IΔn", zs * residual.idn, "V", "Zs × IΔn", terms, clause, residual.where) <= most:
            return residual
    return None


def check_loop(w: Working, case: Case) -> Outcome:
    """Check Zs against the largest the overcurrent device allows, with 80 % of it for a reading (411.4.4, Appendix 3)."""
    zs = loop_impedance(w, case)
    try:
        most = largest_loop(w, case)
    except CoreError as refusal:
        raise refusal.showing(zs, "Ω") from None
    told, limit = apart(zs, most, "Ω")
    text = f"Zs {told} {'is over' if judge(1 - zs / most) == 'short' else 'is within'} {limit}"
    if case.feed.earthing != "TT" and w.rules.has("reading_share"):
        # Through an electrode the line of the overcurrent device means nothing.
        share = w.limit("share", "reading_share")
        terms = {"share": share, "Zs,max": most}
        reading = w.calc("80 %", share * most, "Ω", "share × Zs,max", terms, C.DEVICE_LIMITS, "for a reading at ambient")
        text += f"; max measured {quantity(reading, 'Ω')}"
    covered = residual_clears(w, case, zs)
    if zs > most and covered:
        text += f"; {covered.where} clears the earth fault; the overcurrent device alone would be too slow"
    clause = C.FAULT_LOOP_TT if case.feed.earthing == "TT" else C.FAULT_LOOP
    return Outcome(zs, most, "Ω", 1 - zs / most, text, decides=zs <= most or not covered, clause=clause)


def allowed_time(w: Working, case: Case) -> float:
    """Return the disconnection time allowed [s]: Table 41.1 for smaller finals, else the distribution time (411.3.2)."""
    if case.feed.earthing is None:
        raise MissingInput("supply.earthing", "the earthing arrangement: TN-C-S, TN-S or TT")
    tt = case.feed.earthing == "TT"
    most = w.limit("In", "final_sockets_in" if case.sockets else "final_fixed_in", "largest final with the short time")
    if case.circuit.feeds or case.rating > most:
        return w.limit("t,max", "time_distribution_tt" if tt else "time_distribution_tn")
    return w.look("t,max", T.DISCONNECTION_TIMES, ("TT" if tt else "TN", case.supply.u0), "ac_s", "final circuit")


def least_fault(w: Working, case: Case, zs: float, symbol: str = "Ief") -> float:
    """Return the least earth-fault current at the far point [A]: Cmin U0 / Zs, conductors hot."""
    cmin = w.limit("Cmin", "cmin")
    return w.calc(symbol, cmin * case.supply.u0 / zs, "A", "Cmin × U0 / Zs", {"Cmin": cmin, "U0": case.supply.u0, "Zs": zs}, C.FAULT_LOOP)


@dataclass(frozen=True, slots=True)
class Clearing:
    """How an earth fault is cleared: in what time [s], None where nothing is sure to, by what, and whether by a residual current device alone."""

    time: float | None
    by: str = ""
    residual: bool = False


def clearing(w: Working, case: Case, current: float, zs: float, allowed: float) -> Clearing:
    """Return how an earth fault of a current [A] is cleared: by the overcurrent device where it is in time [s], else by the RCD if it is quicker."""
    time = slowest_time(w, case.device, case.rating, current)
    found = Clearing(time, case.device_rules.title if time is not None else "")
    if time is not None and time <= allowed:
        return found
    residual = residual_clears(w, case, zs)
    quick = None if residual is None else residual_time(w, residual.idn, residual.delayed, current)
    if residual is not None and quick is not None and (time is None or quick < time):
        return Clearing(quick, residual.where, residual=True)
    return found


def check_disconnection(w: Working, case: Case) -> Outcome:
    """Check that an earth fault at the far point is cleared in the time allowed (411.3.2)."""
    allowed = allowed_time(w, case)
    zs = w.given("Zs", zs_of(w, case), "Ω", "at the far end")
    current = least_fault(w, case, zs)
    found = clearing(w, case, current, zs, allowed)
    if found.time is None:
        text = f"{quantity(current, 'A')} of earth fault current may not trip any device; {figure(allowed, 's')} s allowed"
        return Outcome(0.0, allowed, "s", None, text, verdict="short")
    # Protection by a residual current device alone passes, and hangs on one mechanism: never a plain meets (411.4.204).
    passing: Verdict = "close" if found.residual else "meets"
    alone = " alone" if found.residual else ""
    text = f"cleared in {quantity(found.time, 's')} by {found.by}{alone}, {quantity(allowed, 's')} allowed, fault current {quantity(current, 'A')}"
    clause = C.DISCONNECTION
    if found.residual:
        clause = C.RCD_TOUCH_VOLTAGE if case.feed.earthing == "TT" else C.RCD_IN_TN
    return Outcome(found.time, allowed, "s", None, text, verdict=passing if found.time <= allowed else "short", clause=clause)


def largest_fault(case: Case) -> tuple[float | None, float | None]:
    """Return the largest line-neutral and line-earth fault currents at the board [A]: Cmax U0 / Z at 20 C and what other sources add; None where a
    value lacks. Raises MissingInput where it is not known what a source adds.
    """
    u, feed = case.supply.cmax * case.supply.u0, case.feed
    more = other_sources(feed)
    return (u / feed.ln_cold + more if feed.ln_cold else None), (u / feed.ze_cold + more if feed.ze_cold else None)


def other_sources(feed: Feed) -> float:
    """Return what sources beside the network add to a fault [A]. Raises MissingInput where that is not known."""
    if feed.added_missing:
        raise MissingInput(feed.added_missing, "the largest fault current of the source in parallel with the mains, from its maker, in A")
    return feed.added


def breaking_hangs_on(case: Case) -> tuple[Any, ...]:
    """Return all that the check of the breaking capacity hangs on."""
    next_up = (case.feed.above[0].kind, case.feed.above[0].rating) if case.feed.above else None
    return (*largest_fault(case), case.feed.added, case.circuit.phases, case.device.icn, case.feed.conditional, next_up)


def check_breaking(w: Working, case: Case) -> Outcome:
    """Check the breaking capacity Icn against the larger prospective fault current at the board (434.5.1).

    Where the device alone falls short, the conditional rating of the assembly with a fuse upstream may stand in (536.4.2).
    """
    known = {"Ipf,LN": largest_fault(case)[0], "Ipf,LE": largest_fault(case)[1]}
    if known["Ipf,LN"] is None:
        raise MissingInput("supply.ipf", "the prospective fault current at the origin in A, measured or declared")
    if case.circuit.phases > 1:
        known = {"Ipf,3ph": THREE_PHASE * known["Ipf,LN"]}
    there = {name: value for name, value in known.items() if value is not None}
    beside = f", {quantity(case.feed.added, 'A')} of it from sources in parallel with the mains" if case.feed.added else ""
    for name, value in there.items():
        w.given(name, value, "A", f"largest at the board{beside}")
    ipf = w.calc("Ipf", max(there.values()), "A", f"max({', '.join(there)})", there, C.BREAKING_CAPACITY)
    if case.device.icn is None:
        raise MissingInput("device.icn", "the breaking capacity of the device in A")
    icn = w.given("Icn", case.device.icn, "A", "breaking capacity of the device")
    told = f"Ipf {quantity(ipf / AMPERE_PER_KA, 'kA')} at the board"
    if icn < ipf and backed_up(w, case, ipf):
        text = f"Icn {quantity(icn / AMPERE_PER_KA, 'kA')} alone is under {told}; the board's conditional rating behind the fuse covers it"
        return Outcome(icn, ipf, "A", None, text, verdict="meets", clause=C.CONDITIONAL_RATING)
    word = "breaks" if judge(icn / ipf - 1) != "short" else "is under"
    own, most = apart(icn / AMPERE_PER_KA, ipf / AMPERE_PER_KA, "kA")
    return Outcome(icn, ipf, "A", icn / ipf - 1, f"Icn {own} {word} Ipf {most} at the board")


def backed_up(w: Working, case: Case, ipf: float) -> bool:
    """Say whether the assembly's conditional rating reaches a fault current [A] behind the fuse it was given with (536.4.2).

    That is a fuse of a household's service, of at most 100 A; behind any other device Icn alone counts.
    """
    conditional = case.feed.conditional
    next_up = case.feed.above[0] if case.feed.above else None
    if conditional is None or next_up is None or next_up.rating is None or not case.rules.devices[next_up.kind].household:
        return False
    most = w.limit("In,most", "household_fuse", "upstream fuse the conditional rating assumes")
    if w.given("In,up", next_up.rating, "A", case.rules.devices[next_up.kind].title) > most:
        return False
    return w.given("Icc", conditional, "A", "conditional rating of the assembly with its upstream fuse") >= ipf
