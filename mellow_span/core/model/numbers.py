"""The numbers of circuits on site: the letter of the board and the way, as A3; the same on lists, cables, tags and papers.

A number that stands on a cable, beside a reading or in an issue stays with its circuit wherever that goes; one whose circuit was removed is
not used again.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace

from mellow_span.core.model.parts import Installation, Tagged

# Those that are taken for figures are left out.
LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ"


def letters(count: int) -> list[str]:
    """Return the names of so many boards in a row: letters, then two of them."""
    return [LETTERS[i] if i < len(LETTERS) else LETTERS[i // len(LETTERS) - 1] + LETTERS[i % len(LETTERS)] for i in range(count)]


def letters_of(job: Installation) -> dict[str, str]:
    """Return the letter of each board by its identity: the one it keeps, else that of its place, else the next that nobody had."""
    held = {t.part: t.number for t in job.numbers if t.number.isalpha()}
    used = set(held.values())
    places = zip(job.boards, letters(len(job.boards)), strict=True)
    found = {b.id: held.get(b.id, x) for b, x in places if b.id in held or x not in used}
    free = (x for x in letters(len(job.boards) + len(used)) if x not in used and x not in found.values())
    return {b.id: found[b.id] if b.id in found else next(free) for b in job.boards}


def ways(job: Installation) -> dict[str, int]:
    """Return the first way of each circuit on its board by its identity, board by board; three phases take three ways."""
    at = {board.id: 1 for board in job.boards}
    found: dict[str, dict[str, int]] = {board.id: {} for board in job.boards}
    for circuit in (c for c in job.circuits if c.board in at):
        found[circuit.board][circuit.id] = at[circuit.board]
        at[circuit.board] += circuit.phases
    return {i: way for own in found.values() for i, way in own.items()}


def numbers(job: Installation) -> dict[str, str]:
    """Return the number of each circuit by its identity: the one it keeps, else that of its way, else the next one that nobody had."""
    letter, at = letters_of(job), ways(job)
    of = {c.id: letter[c.board] for c in job.circuits if c.id in at}
    held = {t.part: t.number for t in job.numbers if not t.number.isalpha()}
    used = set(held.values())
    found = {i: held.get(i, f"{of[i]}{way}") for i, way in at.items() if i in held or f"{of[i]}{way}" not in used}
    highest: dict[str, int] = {}
    for number in (*used, *found.values()):
        board, way = _parts(number)
        highest[board] = max(way, highest.get(board, 0))
    for i in (i for i in at if i not in found):
        highest[of[i]] = highest.get(of[i], 0) + 1
        found[i] = f"{of[i]}{highest[of[i]]}"
    return {i: found[i] for i in at}


def _parts(number: str) -> tuple[str, int]:
    """Letters and way of a number."""
    board = number.rstrip("0123456789")
    return board, int(number[len(board) :])


def elsewhere(job: Installation) -> dict[str, str]:
    """Return where each circuit is whose number is not that of its way, by its identity: 'now way 4' with the name of its board."""
    letter, at, named = letters_of(job), ways(job), numbers(job)
    boards = {b.id: b.name or "a board" for b in job.boards}
    return {c.id: f"now way {at[c.id]} of {boards[c.board]}" for c in job.circuits if named[c.id] != f"{letter[c.board]}{at[c.id]}"}


def unused(job: Installation) -> list[str]:
    """Return the numbers that are not used again, as their circuits are not there any more."""
    there = {c.id for c in job.circuits}
    gone = [t.number for t in job.numbers if not t.number.isalpha() and t.part not in there]
    return sorted(gone, key=_parts)


def all_kept(job: Installation) -> Installation:
    """Return the job with every number and letter it has kept, so that a part of it goes by the same ones as the whole."""
    return replace(job, numbers=job.numbers + to_keep(job, {b.id for b in job.boards} | {c.id for c in job.circuits}))


def to_keep(job: Installation, parts: Collection[str]) -> tuple[Tagged, ...]:
    """Return what is to be kept from now on for circuits and boards, given by identity: their numbers, and the letters these stand on."""
    held = {(t.part, t.number.isalpha()) for t in job.numbers}
    circuits = [c for c in job.circuits if c.id in parts]
    lettered = {c.board for c in circuits}
    boards = [b.id for b in job.boards if (b.id in parts or b.id in lettered) and (b.id, True) not in held]
    fresh = [c.id for c in circuits if (c.id, False) not in held]
    if not boards and not fresh:
        return ()
    letter, named = letters_of(job), numbers(job)
    return (*(Tagged(part=i, number=letter[i]) for i in boards), *(Tagged(part=i, number=named[i]) for i in fresh))
