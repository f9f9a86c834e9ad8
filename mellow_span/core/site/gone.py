"""Entries of the log whose part is no longer in the design: kept, and told in words."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from mellow_span.core.figures import quantity
from mellow_span.core.model.numbers import numbers
from mellow_span.core.model.parts import Installation
from mellow_span.core.site.entries import Entry
from mellow_span.core.site.readings import TITLES, UNITS, Reading

NAMELESS = {"reading": "a circuit", "board_reading": "a board", "photo": "a part"}


@dataclass(slots=True)
class Gone:
    """What was written down about a part that is not there any more. about: what the part was called; what: what was done or read; photo: the entry
    that is a photo of it, empty for none.
    """

    id: str
    about: str
    what: str
    by: str
    at: str
    photo: str = ""


def called(job: Installation, identity: str) -> str:
    """Return what a part of a job is called: number and name of a circuit, name of a board or route; empty for one it does not have."""
    named = numbers(job)
    for c in job.circuits:
        if c.id == identity:
            return f"{named[c.id]} {c.name or 'a circuit'}"
    return next(
        (p.name or what for what, parts in (("a board", job.boards), ("a route", job.routes)) for p in parts if p.id == identity), ""
    )


def gone(job: Installation, entries: Sequence[Entry]) -> list[Gone]:
    """Return the entries about parts that a job does not have, in the order of the log."""
    there = {p.id for parts in (job.circuits, job.boards, job.routes) for p in parts}
    return [
        Gone(e.id, e.about or NAMELESS.get(e.kind, "a circuit"), _told(e), e.by, e.at, _photo(e))
        for e in entries
        if e.subject and e.subject not in there
    ]


def _photo(e: Entry) -> str:
    return e.id if e.kind == "photo" else str(getattr(e.data, "photo", ""))


def _told(e: Entry) -> str:
    if isinstance(e.data, Reading):
        return _read(e.data)
    if e.kind == "pulled":
        return "pulled in" if e.data.done else "not pulled in after all"
    if e.kind == "undecided":
        return "its end not decided" if e.data.undecided else "its end decided"
    if e.kind == "minor_work":
        return f"minor work: {e.data.done}"
    return e.kind.replace("_", " ")


def _read(r: Reading) -> str:
    at = f" at {r.point}" if r.point else ""
    if r.ok is not None:
        return f"{TITLES[r.quantity]}{at}: {'yes' if r.ok else 'no'}"
    if r.tripped:
        return f"{TITLES[r.quantity]}{at}: RCD tripped"
    over = "over " if r.over else ""
    return f"{TITLES[r.quantity]}{at}: {over}{quantity(r.value, UNITS.get(r.quantity, '')) if r.value is not None else 'range'}"
