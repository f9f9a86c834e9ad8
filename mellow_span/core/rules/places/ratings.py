"""What a board is built of and how it is divided: ratings of main switch, RCCB and busbar; one device for everything."""

from __future__ import annotations

from mellow_span.core.adding import added
from mellow_span.core.errors import MissingInput
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import Check, Outcome
from mellow_span.core.model.parts import Board, Circuit, Installation
from mellow_span.core.model.places import rcds_of, split
from mellow_span.core.rules.demand.boards import board_phases, lies_on
from mellow_span.core.rules.devices import leakage
from mellow_span.core.rules.runner import run_check
from mellow_span.core.rulesets.vocabulary import C
from mellow_span.core.working.recorders import Working

PHASES = ("L1", "L2", "L3")


def build_checks(w: Working, job: Installation, board: Board, above: Circuit | None) -> tuple[Check, ...]:
    """Return the checks of what a board is built of and of how it divides its circuits."""
    found = [run_check(w, "ratings", "Main switch and busbar", C.BOARD_RATINGS, lambda: check_ratings(w, job, board, above))]
    if rcds_of(board):
        found.append(run_check(w, "leakage", "Standing earth leakage", C.LEAKAGE, lambda: leakage.check_board(w, job, board)))
    if division := undivided(job, board):
        found.append(run_check(w, "division", "Division into circuits", C.DIVISION, lambda: division))
    return tuple(found)


def own_circuits(job: Installation, board: Board) -> list[Circuit]:
    """List the circuits of a board that are connected."""
    return [c for c in job.circuits if c.board == board.id and not c.spare]


def check_ratings(w: Working, job: Installation, board: Board, above: Circuit | None) -> Outcome:
    """Check the ratings of main switch, residual current device and busbar against what can flow through them, without leaning on diversity:
    the device before the board, or the sum of those that leave it (536.4.3.2).

    Raises MissingInput where nothing says what can flow through it.
    """
    flows = through(w, job, board, above)
    there = [("main switch", board.switch_in, "board.switch_in", flows), ("busbar", board.busbar_in, "", flows)]
    for rcd in rcds_of(board):
        name = f"RCD {rcd.section}" if split(board) else "main RCD"
        passes = min(flows, _leaving(w, job, board, rcd.section) or flows) if split(board) else flows
        there.append((name, rcd.rated, f"board.{rcd.prefix}_in", passes))
    known = [(rated / most if most else 1.0, name, rated, most) for name, rated, _, most in there if rated is not None]
    missing = next(((name, field, most) for name, rated, field, most in there if rated is None and field), None)
    known.sort()
    if missing is not None and not (known and known[0][0] < 1 - 1e-9):
        # What is short for certain is told first; what nobody read off a switch is still to confirm and holds nothing back.
        text = f"still to enter: the rated current of the {missing[0]} in A; {quantity(missing[2], 'A')} can flow through it"
        return Outcome(0.0, missing[2], "A", None, text, decides=False, verdict="not_known", field=missing[1])
    share, name, rated, most = known[0]
    w.given("In", rated, "A", name)
    word = "carries" if share >= 1 - 1e-9 else "is under"
    text = f"{name} {quantity(rated, 'A')} {word} the {quantity(most, 'A')} that can flow through it"
    return Outcome(rated, most, "A", None, text, verdict="meets" if share >= 1 - 1e-9 else "short")


def _leaving(w: Working, job: Installation, board: Board, section: int) -> float | None:
    """The sum of the devices that leave one section on its most loaded phase [A]; None where one is not known, or there are none."""
    leaving = [c for c in own_circuits(job, board) if c.section == section]
    if not leaving or any(c.device.rating is None for c in leaving):
        return None
    names = PHASES if board_phases(job, board) > 1 else PHASES[:1]
    total = max(added(c.device.rating or 0.0 for c in leaving if phase in lies_on(c, names)) for phase in names)
    return w.given(f"ΣIn,{section}", total, "A", f"outgoing devices of section {section}, on the most loaded phase")


def through(w: Working, job: Installation, board: Board, above: Circuit | None) -> float:
    """Return what can flow through a board [A]: the device before it, or the sum of the devices that leave it on one phase, the lesser.

    Raises MissingInput where neither is known.
    """
    before = above.device.rating if above is not None else job.supply.fuse_in
    leaving = own_circuits(job, board)
    names = PHASES if board_phases(job, board) > 1 else PHASES[:1]
    total = None
    if leaving and all(c.device.rating is not None for c in leaving):
        total = max(added(c.device.rating or 0.0 for c in leaving if phase in lies_on(c, names)) for phase in names)
        w.given("ΣIn", total, "A", "outgoing devices, on the most loaded phase")
    if before is not None:
        w.given("In,up", before, "A", "device upstream of the board")
    known = {name: value for name, value in (("In,up", before), ("ΣIn", total)) if value is not None}
    if not known:
        raise MissingInput("device.rating" if above else "supply.fuse_in", "the rated current of the device upstream of the board in A")
    return w.calc("I", min(known.values()), "A", f"min({', '.join(known)})", known, C.BOARD_RATINGS, "without diversity")


def undivided(job: Installation, board: Board) -> Outcome | None:
    """Return what is told where one device takes everything with it (314.1): one RCD over a whole board, or one circuit for lights and sockets."""
    said = []
    leaving = own_circuits(job, board)
    one = next(iter(rcds_of(board)), None)
    if one is not None and len(leaving) > 1 and all(c.device.idn is None and c.section == one.section for c in leaving):
        said.append(f"one RCD trips all {len(leaving)} circuits together")
    for circuit in leaving:
        kinds = {load.kind for load in circuit.loads}
        if {"lighting", "sockets"} <= kinds:
            said.append(f"lights and sockets of {circuit.name or 'a circuit'} share one device: a fault leaves people in the dark")
    return Outcome(0.0, 0.0, "", None, "; ".join(said), verdict="close") if said else None
