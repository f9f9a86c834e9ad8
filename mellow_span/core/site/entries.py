"""What is written down on site, as a log that only grows: each entry says what was done or read, by whom and when. Apart from the design.

Nothing here changes the design, so an entry never clashes with an edit. An entry is made where the work is done, also without a signal, and carries
an identity from there: sent twice it is there once. What a job is like on site is what its entries come to, in the order of their times.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable
from dataclasses import asdict, dataclass, fields
from functools import cache
from typing import Any

from mellow_span.core.model.spec import spec


@dataclass(frozen=True, slots=True, kw_only=True)
class Pulled:
    """A cable is pulled in, or is not after all."""

    done: bool = spec("It is pulled in", default=True)


@dataclass(frozen=True, slots=True, kw_only=True)
class Undecided:
    """The far end of a cable is still to be decided, or is decided."""

    undecided: bool = spec("Where it ends is not decided yet", default=True)


@dataclass(frozen=True, slots=True, kw_only=True)
class OnHand:
    """What is left of a cable on the van, to be used up first."""

    cable: str = spec("The cable, as the pull list words it", default="", least=1)
    lengths: tuple[float, ...] = spec("Part drums in stock", "m", 0.5, 1000, default=())


@dataclass(frozen=True, slots=True, kw_only=True)
class Had:
    """A line of the list of materials is there, on the van or at the house."""

    key: str = spec("The thing, by its key in the list of materials", default="", least=1)
    have: bool = spec("It is there", default=True)


@dataclass(frozen=True, slots=True, kw_only=True)
class Photo:
    """A photo taken on site, small enough to travel: a JPEG as a data address."""

    name: str = spec("What it shows", default="")
    image: str = spec("The picture: data:image/jpeg;base64, and so on", default="", most=600_000)


@dataclass(frozen=True, slots=True, kw_only=True)
class Colours:
    """The colours of wiring that is there already, as somebody saw them."""

    older: bool = spec("They are those of the older code", default=True)


@dataclass(frozen=True, slots=True, kw_only=True)
class MinorWork:
    """What only the person who did it can say of minor work on a circuit, for its record."""

    done: str = spec("What was done", default="", most=1000, least=1)
    completed: str = spec("The day it was completed, as it is to be printed", default="", least=1)
    departures: str = spec("Departures from the rules with the reason; none where there are none", default="", most=1000, least=1)
    existing: str = spec("What is to be said of the existing installation", default="", most=1000, least=1)


@dataclass(frozen=True, slots=True)
class Entry:
    """An entry of the log. subject: identity of the part it is about, empty for the job; at: when, as ISO 8601 with its zone; by: who.

    about: what the part was called when it was written, for when it is no longer in the design. clock: what the clock on site showed, where that was
    put right by the server's; else empty.
    """

    id: str
    kind: str
    subject: str
    data: Any
    at: str
    by: str
    about: str = ""
    clock: str = ""


def plain(data: Any) -> dict[str, Any]:
    """Return what an entry holds as plain data, as it is stored and written."""
    found = {name: getattr(data, name) for name in _names(data.__class__)}
    # Most hold words and figures alone: there is nothing in them to go through.
    return found if all(map(_flat, found.values())) else asdict(data)


@cache
def _names(of: Hashable) -> tuple[str, ...]:
    return tuple(f.name for f in fields(of))  # type: ignore[arg-type]


def _flat(value: Any) -> bool:
    return isinstance(value, str | float | int | None) or (
        isinstance(value, tuple) and all(isinstance(v, str | float | int) for v in value)
    )


def last(entries: Iterable[Entry], kind: str) -> dict[str, Entry]:
    """Return the last entry of a kind for each part, by the part's identity. entries: in the order of their times."""
    return {e.subject: e for e in entries if e.kind == kind}


def last_by(entries: Iterable[Entry], key: Callable[[Entry], str]) -> dict[str, Entry]:
    """Return the last entry of each key. entries: in the order of their times."""
    return {key(e): e for e in entries}
