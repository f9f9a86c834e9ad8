"""The numbers of circuits on site: the letter of the board and the way, as A3; the same on lists, cables, tags and papers."""

from __future__ import annotations

from mellow_span.core.model.parts import Installation

# Those that are taken for figures are left out.
LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ"


def letters(count: int) -> list[str]:
    """Return the names of so many boards in a row: letters, then two of them."""
    return [LETTERS[i] if i < len(LETTERS) else LETTERS[i // len(LETTERS) - 1] + LETTERS[i % len(LETTERS)] for i in range(count)]


def numbers(job: Installation) -> dict[str, str]:
    """Return the number of each circuit by its identity; three phases take three ways."""
    found = {}
    for letter, board in zip(letters(len(job.boards)), job.boards, strict=True):
        way = 1
        for circuit in (c for c in job.circuits if c.board == board.id):
            found[circuit.id] = f"{letter}{way}"
            way += circuit.phases
    return found
