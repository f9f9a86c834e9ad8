"""Faults while a source feeds alone, without the network: what clears them when so little current flows (551.4)."""

from __future__ import annotations

from dataclasses import replace
from math import inf, sqrt

from mellow_span.core.errors import CoreError
from mellow_span.core.figures import figure, quantity
from mellow_span.core.findings.results import Outcome
from mellow_span.core.rules.capacity.spans import ruling_span
from mellow_span.core.rules.case import Alone, Case
from mellow_span.core.rules.devices.trip import residual_time, slowest_time
from mellow_span.core.rules.faults.loop import allowed_time, feed_loop
from mellow_span.core.rules.sources.known import gives
from mellow_span.core.rules.sources.said import Said, together
from mellow_span.core.rules.thermal.adiabatic import k_of
from mellow_span.core.rulesets.vocabulary import C
from mellow_span.core.working.recorders import Working


def fed_alone(case: Case) -> bool:
    """Say whether a source keeps the circuit alive without the network; its own circuit is behind its own protection."""
    return bool(case.feed.alone) and bool(_sources(case))


def check_alone(w: Working, case: Case) -> Outcome:
    """Check that an earth fault is cleared while each source feeds alone: by an RCD, by the device, or by the source's own cut-off (551.4.3)."""
    allowed = allowed_time(w, case)
    return together([_earth(w, case, source, allowed) for source in _sources(case)], 0.0, allowed, "s")


def check_alone_line(w: Working, case: Case) -> Outcome:
    """Check a fault between line and neutral while each source feeds alone: no RCD sees it. The cable carries all that the source can give
    (436.1), or the device or the source's own cut-off ends it in time.
    """
    return together([_line(w, case, source) for source in _sources(case)], 0.0, w.limit("t,max", "longest_fault"), "s")


def _sources(case: Case) -> list[Alone]:
    own = {load.id for load in gives(case.whole)}
    return [source for source in case.feed.alone if source.load not in own]


def _earth(w: Working, case: Case, source: Alone, allowed: float) -> Said:
    here, name = f"load.{source.load}", source.name
    if source.earth is None:
        return "not_known", f"{name}, mains off: not entered what its neutral is connected to then", C.SOURCE_EARTH, f"{here}.alone_earth"
    if source.earth == "none":
        text = f"{name}, mains off: its neutral is connected to no earth, so that no device detects an earth fault"
        return "short", text, C.SOURCE_EARTH, f"{here}.alone_earth"
    if source.earth == "supply":
        text = f"{name}, mains off: the supply earth may be lost with the mains; it needs an earth electrode of the installation"
        return "short", text, C.SOURCE_EARTH, f"{here}.alone_earth"
    if source.ra is None:
        return "not_known", f"{name}, mains off: RA of its electrode not entered", C.SOURCE_EARTH, f"{here}.alone_ra"
    found = _cleared(w, case, _through_soil(w, case, source, source.ra), allowed)
    if found is None:
        if source.off is None:
            text = f"{name}, mains off: no RCD clears an earth fault, and its own cut-off time is not entered"
            return "not_known", text, C.SOURCE_FAULTS, f"{here}.alone_off"
        text = f"{name}, mains off: it cuts itself off in {figure(source.off, 's')} s at a fault, over the {figure(allowed, 's')} s allowed"
        return "short", text, C.SOURCE_FAULTS, f"{here}.alone_off"
    stable = w.limit("stable", "tt_stable") if w.rules.has("tt_stable") else inf
    if source.ra > stable:
        text = f"{name}, mains off: RA {quantity(source.ra, 'Ω')} of its electrode is over {quantity(stable, 'Ω')} and may not stay stable"
        return "close", text, C.SOURCE_EARTH, f"{here}.alone_ra"
    return "meets", f"{name}, mains off: an earth fault is cleared by {found}", C.SOURCE_FAULTS, None


def _through_soil(w: Working, case: Case, source: Alone, ra: float) -> Alone:
    """A source with what it can drive into an earth fault: over the link at the source as much as into any other, but through the soil, from a
    board on an electrode of its own, no more than both electrodes let through.
    """
    if not case.feed.own_earth:
        return source
    terms = {"Cmin": w.limit("Cmin", "cmin"), "U0": case.supply.u0, "RA,board": feed_loop(case), "RA": ra}
    most = terms["Cmin"] * terms["U0"] / (terms["RA,board"] + ra)
    w.calc("I", most, "A", "Cmin × U0 / (RA,board + RA)", terms, C.SOURCE_FAULTS, "through both electrodes")
    least = source.least if source.least is not None else source.rated
    return replace(source, least=None if least is None else min(least, most))


def _cleared(w: Working, case: Case, source: Alone, allowed: float) -> str | None:
    # An RCD needs no more than the least that any source gives: what it gives at work.
    flows = source.least if source.least is not None else source.rated
    passed = case.residuals[: len(case.residuals) - source.ahead]
    for one in passed:
        time = None if flows is None else residual_time(w, one.idn, one.delayed, flows)
        if time is not None and time <= allowed:
            return one.where
    if _by_device(w, case, source, allowed):
        return "its overcurrent device"
    if source.off is not None and source.off <= allowed:
        return f"its own cut-off in {figure(source.off, 's')} s, as its maker says"
    return None


def _by_device(w: Working, case: Case, source: Alone, within: float) -> bool:
    """Whether the overcurrent device opens in time [s] at the least current that its maker says the source drives into a fault."""
    if source.least is None:
        return False
    time = slowest_time(w, case.device, case.rating, w.given("I,least", source.least, "A", f"least fault current of {source.name}"))
    return time is not None and time <= within


def _line(w: Working, case: Case, source: Alone) -> Said:
    """A fault between line and neutral, which no RCD sees."""
    name, field = source.name, f"load.{source.load}.alone_off"
    try:
        _, iz = ruling_span(w.quiet(), case)
    except CoreError:
        iz = None
    if source.most is not None and iz is not None and source.most <= iz * (1 + 1e-9):
        text = f"{name}, mains off: the cable carries all of the {quantity(source.most, 'A')} it can give"
        return "meets", text, C.SOURCE_LIMITED, None
    longest = w.limit("t,max", "longest_fault")
    if _by_device(w, case, source, longest):
        return "meets", f"{name}, mains off: the device clears a fault to neutral", C.SOURCE_FAULTS, None
    if source.off is None:
        return "not_known", f"{name}, mains off: its own cut-off time at a fault to neutral is not entered", C.SOURCE_FAULTS, field
    if source.most is None:
        asked = f"load.{source.load}.fault_amps"
        return "not_known", f"{name}, mains off: its largest fault current is not entered", C.SOURCE_FAULTS, asked
    k = k_of(w, "live", "copper", case.family.insulation, case.csa, "line conductor")
    terms = {"I": source.most, "t": source.off, "k": k}
    needed = w.calc("S", source.most * sqrt(source.off) / k, "mm²", "I × √t / k", terms, C.LINE_IN_FAULT, f"until {name} cuts itself off")
    if needed > case.csa or source.off > longest:
        text = (
            f"{name}, mains off: a fault to neutral lasts {figure(source.off, 's')} s, which {quantity(case.csa, 'mm²')} does not withstand"
        )
        return "short", text, C.SOURCE_FAULTS, field
    return "meets", f"{name}, mains off: it cuts itself off before the cable is too hot", C.SOURCE_FAULTS, None
