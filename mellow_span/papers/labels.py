"""Labels on sheets: for both ends of every cable, for the ways and doors of the boards. Sizes of sheets are data."""

from __future__ import annotations

from dataclasses import dataclass

from mellow_span.core.errors import InputError
from mellow_span.core.site.notices import notices_of
from mellow_span.papers.chart import notices
from mellow_span.papers.page import Block, Column, Item, Sheet, Table
from mellow_span.papers.schedule import serves
from mellow_span.papers.subject import Subject


@dataclass(frozen=True, slots=True)
class Size:
    """A sheet of labels on A4 [mm]: columns and rows, size of one, margins at the left and top, steps from one to the next."""

    title: str
    columns: int
    rows: int
    width: float
    height: float
    left: float
    top: float
    across: float
    down: float


SIZES = {
    "65": Size("65 of 38.1 × 21.2 mm", 5, 13, 38.1, 21.2, 4.7, 10.7, 40.6, 21.2),
    "24": Size("24 of 64 × 34 mm", 3, 8, 64.0, 34.0, 8.0, 12.5, 65.0, 34.0),
    "21": Size("21 of 63.5 × 38.1 mm", 3, 7, 63.5, 38.1, 7.2, 15.1, 66.0, 38.1),
    "14": Size("14 of 99.1 × 38.1 mm", 2, 7, 99.1, 38.1, 4.7, 15.1, 101.6, 38.1),
    "8": Size("8 of 99.1 × 67.7 mm", 2, 4, 99.1, 67.7, 4.7, 13.1, 101.6, 67.7),
}
KINDS = {"ends": "Both ends of every cable", "ways": "Board ways", "boards": "Board doors", "notices": "Warning notices"}


def labels(s: Subject, wanted: str) -> list[Block]:
    """Return sheets of labels. wanted: kind, size of the sheet, place of the first label on it, as 'ends/65/1'. Raises InputError."""
    kind, size, first = [*wanted.split("/"), "", ""][:3] if wanted else ("ends", "65", "1")
    kind, size, first = kind or "ends", size or "65", first or "1"
    if kind not in KINDS:
        raise InputError("subject", kind, "one of " + ", ".join(KINDS))
    if size not in SIZES:
        raise InputError("subject", size, "a sheet of " + ", ".join(SIZES))
    room = SIZES[size].columns * SIZES[size].rows
    if not first.isdecimal() or not 1 <= int(first) <= room:
        raise InputError("subject", first, f"a place on the sheet, 1 to {room}")
    each = {"ends": _ends, "ways": _ways, "boards": _boards, "notices": _notices}[kind](s)
    rows = [[Item(str(k)), *(Item(" · ".join(part)) for part in (lines[:1], lines[1:]))] for k, lines in enumerate(each, 1)]
    if not each:
        return [Table(KINDS[kind], (Column("Label"), Column("Large"), Column("Small")), rows, note="There is nothing to label.")]
    return [Sheet(size, int(first), each), Table(KINDS[kind], (Column("Label"), Column("Large"), Column("Small", share=60)), rows)]


def _ends(s: Subject) -> list[tuple[str, ...]]:
    """A label for each tag of the pull list: two a cable."""
    return [(tag, one.name, f"{one.start} to {one.end}", one.cable) for one in s.pulled for tag in one.tags]


def _ways(s: Subject) -> list[tuple[str, ...]]:
    return [
        (s.numbers[c.id], c.name or "a circuit", serves(s, c), f"{c.device.rating:g} A" if c.device.rating else "not chosen")
        for board in s.job.boards
        for c in s.at_board(board)
    ]


def _notices(s: Subject) -> list[tuple[str, ...]]:
    """What stays where somebody works years later, each with its place and the clause that asks for it."""
    return [(one.heading, one.text, f"at {one.where} · {one.clause}") for one in notices_of(s.job)]


def _boards(s: Subject) -> list[tuple[str, ...]]:
    found: list[tuple[str, ...]] = []
    for board in s.job.boards:
        above = next((c for c in s.job.circuits if c.feeds == board.id), None)
        name = f"{s.letters[board.id]} {board.name or 'a board'}"
        found.append(
            (
                name,
                f"fed by {s.named(above)}" if above else "at the origin",
                "more than one point of isolation: see the chart" if above else "",
            )
        )
        found += [(s.letters[board.id], text) for text in notices(s, board)]
    return found
