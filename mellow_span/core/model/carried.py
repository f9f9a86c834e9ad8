"""What a job carries along beside the design: cells read in the printed book, packs of tables, advice put aside, numbers that stay."""

from __future__ import annotations

from dataclasses import dataclass

from mellow_span.core.model.spec import PACK_TEXT, identity, listing, spec


@dataclass(frozen=True, slots=True, kw_only=True)
class CellRead:
    """A cell of a table that somebody read in the printed book: that it agrees, or the value that is printed there."""

    table: str = identity("Number of the table")
    row: str = identity("Row, as it is labelled")
    column: str = identity("Column")
    value: float | None = spec("Value printed there; empty: it agrees", "", 0, 1_000_000)
    by: str = spec("Who read it", default="", least=1)
    on: str = spec("Date, as year-month-day", default="", least=1)
    edition: str = spec("Edition of the book it was read in", default="", least=1)


@dataclass(frozen=True, slots=True, kw_only=True)
class PackFile:
    """A file of a pack."""

    name: str = identity("Name of the file")
    text: str = spec("What is in it", default="", most=PACK_TEXT)


@dataclass(frozen=True, slots=True, kw_only=True)
class Pack:
    """Tables of one's own, laid over a book: the files of a folder, in the order of their names; see docs/format/packs.md."""

    files: tuple[PackFile, ...] = listing("Files of the pack")


@dataclass(frozen=True, slots=True, kw_only=True)
class Tagged:
    """A number that stays: a cable was tagged with it, a reading written beside it or an issue made. Its part may be gone; it is not used again."""

    part: str = identity("Identity of the circuit, or of the board for its letter")
    number: str = identity("Number of the circuit, as A3; letter of the board")


@dataclass(frozen=True, slots=True, kw_only=True)
class Stage:
    """A day from which the installation stands otherwise: parts come at it, or go at it."""

    id: str = identity()
    name: str = spec("Name of the stage", default="", least=1)
    date: str = spec("When, in your own words: a day, a week, later", default="", most=40)


@dataclass(frozen=True, slots=True, kw_only=True)
class Dismissal:
    """A piece of advice put aside, with the reason."""

    id: str = identity()
    key: str = spec("Which advice", default="")
    reason: str = spec("Why it does not apply", default="")
