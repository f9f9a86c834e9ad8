"""Who needs a neutral, and who stands behind a sub-main."""

from __future__ import annotations

from mellow_span.core.model.parts import Circuit, Installation

# Three-phase loads that work between lines alone; all others are taken to need a neutral.
WITHOUT_NEUTRAL = frozenset(["motor", "heat_pump", "heating", "water_heater", "storage_heating", "floor_heating"])


def needs_neutral(circuit: Circuit) -> bool:
    """Say whether a circuit by itself needs a neutral: single-phase ones do, three-phase ones by what they feed (524.2)."""
    return circuit.phases == 1 or any(load.kind not in WITHOUT_NEUTRAL for load in circuit.loads)


def connected(job: Installation) -> dict[str, list[Circuit]]:
    """Return the connected circuits by the board they start from."""
    found: dict[str, list[Circuit]] = {}
    for circuit in job.circuits:
        if not circuit.spare:
            found.setdefault(circuit.board, []).append(circuit)
    return found


def behind(by_board: dict[str, list[Circuit]], board: str) -> list[Circuit]:
    """Return the connected circuits of a board and of all boards it feeds; by_board: see `connected`, of a tree."""
    found, boards = [], [board]
    while boards:
        there = by_board.get(boards.pop(), [])
        found += there
        boards += [c.feeds for c in there if c.feeds]
    return found
