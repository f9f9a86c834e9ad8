"""The phases of a board balanced: single-phase circuits spread so that the highest phase draws the least that can be found."""

from __future__ import annotations

from dataclasses import dataclass

from mellow_span.core.design.check import lay_out
from mellow_span.core.design.solving import changed
from mellow_span.core.errors import InputError
from mellow_span.core.findings.results import BoardDemand, PhaseSum
from mellow_span.core.model.changes import Change
from mellow_span.core.model.parts import Circuit, Installation
from mellow_span.core.rules.demand.boards import board_phases

PHASES = ("L1", "L2", "L3")


@dataclass(slots=True)
class Balanced:
    """The phases of a board before and after, and the changes that make it so; none where nothing better was found."""

    board: str
    before: tuple[PhaseSum, ...]
    after: tuple[PhaseSum, ...]
    changes: tuple[Change, ...]


def balance(job: Installation, board_id: str) -> Balanced:
    """Return the circuits of a three-phase board spread over its phases. Raises InputError for a board of one phase, or that is not there.

    The largest first, each to the phase that then draws least; then one moved, or two swapped, while that lowers the highest phase. The
    figures are those of the demand itself, with diversity over the board, so a pass is no guess. Changes nothing.
    """
    board = next((b for b in job.boards if b.id == board_id), None)
    if board is None:
        raise InputError("board", board_id, "a board of this job")
    if board_phases(job, board) < len(PHASES):
        raise InputError("board", board.name or board_id, "a board of three phases")
    before = lay_out(job).demand[board_id]
    singles = [c for c in job.circuits if c.board == board_id and c.phases == 1 and not c.spare]
    weights = {c.id: _alone(job, board_id, c) for c in singles}
    start: dict[str, str] = {c.id: c.phase or "" for c in singles}
    spread: dict[str, str] = {}
    sums = dict.fromkeys(PHASES, 0.0)
    for circuit in sorted(singles, key=lambda c: -weights[c.id]):
        least = min(PHASES, key=lambda p: sums[p])
        spread[circuit.id] = least
        sums[least] += weights[circuit.id]
    best = min((start, spread), key=lambda p: _score(job, board_id, p))
    best = _improved(job, board_id, best)
    changes = tuple(Change("set", "circuit", name, {"phase": phase}) for name, phase in best.items() if phase != start[name])
    after = lay_out(changed(job, changes)).demand[board_id] if changes else before
    return Balanced(board_id, before.phases, after.phases, changes)


def _alone(job: Installation, board_id: str, circuit: Circuit) -> float:
    """What a circuit adds to the board's demand by itself [A]."""
    others = [Change("remove", "circuit", c.id) for c in job.circuits if c.board == board_id and c.id != circuit.id and not c.feeds]
    found = lay_out(changed(job, others)).demand[board_id]
    return found.highest or 0.0


def _score(job: Installation, board_id: str, phases: dict[str, str]) -> tuple[float, float]:
    """The highest phase first, then how far the phases are apart; a circuit without a phase counts on every one."""
    found: BoardDemand = lay_out(changed(job, _placing(phases))).demand[board_id]
    amps = [p.demand for p in found.phases] or [0.0]
    return round(max(amps), 6), round(max(amps) - min(amps), 6)


def _placing(phases: dict[str, str]) -> list[Change]:
    return [Change("set", "circuit", name, {"phase": phase or None}) for name, phase in phases.items()]


def _improved(job: Installation, board_id: str, phases: dict[str, str], rounds: int = 4) -> dict[str, str]:
    """Move one circuit, or swap two, while that helps."""
    best, score = phases, _score(job, board_id, phases)
    for _ in range(rounds):
        tried = [{**best, name: phase} for name in best for phase in PHASES if phase != best[name]]
        names = list(best)
        tried += [
            {**best, one: best[other], other: best[one]}
            for at, one in enumerate(names) for other in names[at + 1 :] if best[one] != best[other] and best[one] and best[other]
        ][:120]  # fmt: skip
        scored = min(((_score(job, board_id, t), i) for i, t in enumerate(tried)), default=None)
        if scored is None or scored[0] >= score:
            break
        score, best = scored[0], tried[scored[1]]
    return best
