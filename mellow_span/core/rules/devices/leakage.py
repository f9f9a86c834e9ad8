"""Standing leakage against what a residual current device lets pass: of a circuit behind its own, of all that one over a board feeds (531.3.2)."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from mellow_span.core.adding import added
from mellow_span.core.errors import CoreError, MissingInput
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import Outcome
from mellow_span.core.model.parts import Board, Circuit, Installation
from mellow_span.core.model.places import rcds_of, split
from mellow_span.core.rules.case import Case
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.units import MA_PER_A
from mellow_span.core.working.recorders import Silent, Working


@dataclass(frozen=True, slots=True)
class Leakage:
    """Standing leakage [A]: all of it, and what of it was measured or entered from makers' data."""

    total: float
    entered: float


def standing_leakage(w: Working, circuits: Iterable[Circuit]) -> Leakage:
    """Return what circuits leak to earth while everything works: as entered, else what loads of these kinds usually leak.

    What may come later is left out.
    """
    total = entered = 0.0
    for circuit in circuits:
        if circuit.leakage is not None:
            entered += w.given("IΔ", circuit.leakage, "A", f"{circuit.name or 'the circuit'}: measured, or from the makers")
            continue
        sockets = 0.0
        for load in circuit.loads:
            if load.future:
                continue
            if load.kind == "sockets":
                # Nobody knows what will be plugged in: once a circuit, however the outlets were entered.
                sockets = sockets or w.look("IΔ", T.LEAKAGE, load.kind, "ma", "socket-outlets, once a circuit") / MA_PER_A
                continue
            one = w.look("IΔ", T.LEAKAGE, load.kind, "ma", f"{load.quantity} of {load.name or load.kind.replace('_', ' ')}")
            total += one * load.quantity / MA_PER_A
        total += sockets
    note = "as entered" if not total else "typical figures" if not entered else "as entered, and typical figures"
    return Leakage(w.calc("ΣIΔ", total + entered, "A", "sum of n × IΔ", {}, C.LEAKAGE, note), entered)


def judged_leakage(w: Working, found: Leakage, idn: float) -> Outcome:
    """Judge standing leakage against 30 % of IDn (531.3.2); from half of it the device may open without any fault.

    Typical figures are told and make nothing fail; what was measured or entered does by itself.
    """
    leaks = found.total
    share, half = w.limit("share", "leakage_share"), w.limit("from", "leakage_trips")
    most = w.calc("30 %", share * idn, "A", "share × IΔn", {"share": share, "IΔn": idn}, C.LEAKAGE)
    if found.entered > most * (1 + 1e-9):
        amount = quantity(found.entered * MA_PER_A, "mA")
        text = f"{amount} of standing leakage as entered is over {quantity(most * MA_PER_A, 'mA')}: divide the circuits"
        return Outcome(found.entered, most, "A", None, text, verdict="short")
    word = "typically " if found.entered < leaks else ""
    told = f"{word}{quantity(leaks * MA_PER_A, 'mA')} of standing leakage"
    against = f"{quantity(most * MA_PER_A, 'mA')} for {quantity(idn * MA_PER_A, 'mA')}"
    if leaks <= most * (1 + 1e-9):
        return Outcome(leaks, most, "A", None, f"{told} is within {against}")
    if leaks < half * idn:
        return Outcome(leaks, most, "A", None, f"{told} is over {against}: divide the circuits to avoid nuisance tripping", verdict="close")
    text = f"{told} is over {against}, and above half of IΔn it may trip without a fault: divide the circuits between more RCDs, or measure"
    return Outcome(leaks, most, "A", None, text, verdict="close")


def check_board(w: Working, job: Installation, board: Board) -> Outcome:
    """Check the standing leakage of all that each RCD of a board feeds, the boards below included; the worst of several counts (531.3.2)."""
    found: list[Outcome] = []
    for rcd in rcds_of(board):
        fed = [c for c in job.circuits if c.board == board.id and not c.spare and (c.section == rcd.section)]
        one = judged_leakage(w, standing_leakage(w, _with_all_below(job, fed)), rcd.idn)
        found.append(replace(one, text=f"RCD {rcd.section}: {one.text}") if split(board) else one)
    return max(found, key=lambda one: (one.verdict == "short", one.verdict == "close", one.value / (one.limit or 1.0)))


def _with_all_below(job: Installation, circuits: Iterable[Circuit]) -> list[Circuit]:
    found: list[Circuit] = []
    for circuit in circuits:
        # What was measured at a feed is that of all behind it.
        found += [circuit, *(_all_below(job, circuit.feeds) if circuit.feeds and circuit.leakage is None else [])]
    return found


def _all_below(job: Installation, board: str) -> list[Circuit]:
    return _with_all_below(job, [c for c in job.circuits if c.board == board and not c.spare])


def has_own_rcd(case: Case) -> bool:
    """Say whether a final circuit has a residual current device of its own."""
    return case.device.idn is not None and not case.circuit.feeds


def check_circuit(w: Working, case: Case) -> Outcome:
    """Check the standing leakage of a circuit against 30 % of IDn of its own device (531.3.2)."""
    assert case.device.idn is not None
    return judged_leakage(w, standing_leakage(w, [case.circuit]), case.device.idn)


def asks_integrity(case: Case) -> bool:
    """Say whether so much leaks from a final circuit while it works that its protective conductor must not fail unseen."""
    if case.circuit.feeds or not case.rules.has("integrity_leakage"):
        return False
    quiet = Silent(case.rules)
    if case.circuit.leakage is None:
        # Nothing leaks more than the most that is typical: few loads need no sum.
        if T.LEAKAGE not in case.rules.by_name:
            return False
        most = max(row.cells["ma"] or 0.0 for row in case.rules.table(T.LEAKAGE).rows) / MA_PER_A
        if most * added(load.quantity for load in case.circuit.loads) <= quiet.constant("integrity_leakage"):
            return False
    try:
        return standing_leakage(quiet, [case.circuit]).total > quiet.constant("integrity_leakage") * (1 + 1e-9)
    except CoreError:
        return False


def check_integrity(w: Working, case: Case) -> Outcome:
    """Check a protective conductor through which over 10 mA leaks for good: of 10 mm² copper, or doubled, monitored or protected (543.7.1).

    Raises MissingInput where a thinner one was not said to be.
    """
    leaks = standing_leakage(w, [case.circuit])
    most, least = w.limit("up to", "integrity_leakage"), w.limit("S", "integrity_csa", "a single conductor that is enough by itself")
    told = f"{quantity(leaks.total * MA_PER_A, 'mA')} leaks through its protective conductor, over {quantity(most * MA_PER_A, 'mA')}"
    csa = case.cpc_csa if case.cpc_kind in ("core", "bunched", "separate", "armour_and_core") else 0.0
    if csa >= least:
        return Outcome(leaks.total, most, "A", None, f"{told}: {quantity(csa, 'mm²')} copper is enough", verdict="meets")
    if case.circuit.high_integrity is None:
        raise MissingInput(
            "circuit.high_integrity", f"whether its protective conductor is doubled, monitored or protected: {told}"
        ).showing(leaks.total, "A")
    if case.circuit.high_integrity:
        return Outcome(leaks.total, most, "A", None, f"{told}, and it is doubled, monitored or protected as entered", verdict="meets")
    return Outcome(
        leaks.total, most, "A", None, f"{told}: it is doubled, monitored, or of {quantity(least, 'mm²')} copper", verdict="short"
    )
