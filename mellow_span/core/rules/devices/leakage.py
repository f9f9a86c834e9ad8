"""Standing leakage against what a residual current device lets pass: of a circuit behind its own, of all that one over a board feeds (531.3.2)."""

from __future__ import annotations

from collections.abc import Iterable

from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import Outcome
from mellow_span.core.model.parts import Board, Circuit, Installation
from mellow_span.core.rules.case import Case
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.units import MA_PER_A
from mellow_span.core.working.recorders import Working


def typical_leakage(w: Working, circuits: Iterable[Circuit]) -> float:
    """Return what loads of these kinds usually leak to earth while they work [A]; what may come later is left out."""
    total = 0.0
    for circuit in circuits:
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
    return w.calc("ΣIΔ", total, "A", "sum of n × IΔ", {}, C.LEAKAGE, "typical figures")


def judged_leakage(w: Working, leaks: float, idn: float) -> Outcome:
    """Judge standing leakage against 30 % of IDn (531.3.2); from half of it the device may open without any fault.

    These are typical figures: they are told, and make nothing fail; what a clamp reads would.
    """
    share, half = w.limit("share", "leakage_share"), w.limit("from", "leakage_trips")
    most = w.calc("30 %", share * idn, "A", "share × IΔn", {"share": share, "IΔn": idn}, C.LEAKAGE)
    told = f"typically {quantity(leaks * MA_PER_A, 'mA')} of standing leakage"
    against = f"{quantity(most * MA_PER_A, 'mA')} for {quantity(idn * MA_PER_A, 'mA')}"
    if leaks <= most * (1 + 1e-9):
        return Outcome(leaks, most, "A", None, f"{told} is within {against}")
    if leaks < half * idn:
        return Outcome(
            leaks, most, "A", None, f"{told} is over {against}: divide the circuits, or it may open for nothing", verdict="close"
        )
    text = f"{told} is over {against}, and from half of IΔn it may open without a fault: divide the circuits, or measure"
    return Outcome(leaks, most, "A", None, text, verdict="close")


def check_board(w: Working, job: Installation, board: Board) -> Outcome:
    """Check the standing leakage of all that an RCD over a board feeds, the boards below included (531.3.2)."""
    assert board.rcd_idn is not None
    return judged_leakage(w, typical_leakage(w, _all_below(job, board.id)), board.rcd_idn)


def _all_below(job: Installation, board: str) -> list[Circuit]:
    found = []
    for circuit in job.circuits:
        if circuit.board == board and not circuit.spare:
            found += [circuit, *(_all_below(job, circuit.feeds) if circuit.feeds else [])]
    return found


def has_own_rcd(case: Case) -> bool:
    """Say whether a final circuit has a residual current device of its own."""
    return case.device.idn is not None and not case.circuit.feeds


def check_circuit(w: Working, case: Case) -> Outcome:
    """Check the standing leakage of a circuit against 30 % of IDn of its own device (531.3.2)."""
    assert case.device.idn is not None
    return judged_leakage(w, typical_leakage(w, [case.circuit]), case.device.idn)
