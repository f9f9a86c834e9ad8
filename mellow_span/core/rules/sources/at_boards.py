"""A board with a source on one of its ways, or behind one: what its busbar carries between two sources (551.7.2, 536.4.3.2)."""

from __future__ import annotations

from mellow_span.core.adding import added
from mellow_span.core.errors import MissingInput
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import Check, Outcome
from mellow_span.core.model.parts import Board, Circuit, Installation
from mellow_span.core.rules.runner import run_check
from mellow_span.core.rules.sources.known import Source, rated
from mellow_span.core.rulesets.vocabulary import C
from mellow_span.core.working.recorders import Working


def source_checks(w: Working, job: Installation, board: Board, above: Circuit | None, here: list[Source]) -> tuple[Check, ...]:
    """Return the checks of a board that sources feed beside the network; none for another. here: those at and behind it."""
    if not here:
        return ()
    return (run_check(w, "two_sources", "Busbar between two sources", C.SOURCE_CAPACITY, lambda: check_busbar(w, job, board, above, here)),)


def check_busbar(w: Working, job: Installation, board: Board, above: Circuit | None, here: list[Source]) -> Outcome:
    """Check that a busbar carries what the device before the board and all the sources can bring it together, or all that leaves it if that is less.

    Raises MissingInput for a rating not entered.
    """
    before = above.device.rating if above is not None else job.supply.fuse_in
    if before is None:
        raise MissingInput("device.rating" if above else "supply.fuse_in", "the rated current of the device upstream of the board in A")
    w.given("In,up", before, "A", "device upstream of the board")
    sent = 0.0
    for one in here:
        sent += w.given("Ig", rated(one), "A", one.name)
    needed = w.calc("I", before + sent, "A", "In,up + ΣIg", {"In,up": before, "ΣIg": sent}, C.SOURCE_CAPACITY)
    own = {one.circuit for one in here}
    leaving = [c for c in job.circuits if c.board == board.id and not c.spare and c.id not in own]
    if all(c.device.rating is not None for c in leaving):
        out = w.given("ΣIn", added(c.device.rating or 0.0 for c in leaving), "A", "all that leaves it, the ways of the sources left out")
        # A fault of a source's own way aside, what comes in goes out: to the loads, or back to the network.
        needed = w.calc(
            "I", min(needed, max(out, sent)), "A", "min(I, max(ΣIn, ΣIg))", {"I": needed, "ΣIn": out, "ΣIg": sent}, C.BOARD_RATINGS
        )
    if board.busbar_in is None:
        raise MissingInput("board.busbar_in", "the rated current of the busbar in A").showing(needed, "A")
    rating = w.given("In", board.busbar_in, "A", "busbar")
    named = ", ".join(one.name for one in here)
    if rating < needed * (1 - 1e-9):
        text = f"busbar {quantity(rating, 'A')} is under the {quantity(needed, 'A')} of the mains and {named} together"
        return Outcome(rating, needed, "A", None, text, verdict="short")
    return Outcome(
        rating, needed, "A", None, f"busbar {quantity(rating, 'A')} carries the {quantity(needed, 'A')} of the mains and {named} together"
    )
