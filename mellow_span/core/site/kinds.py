"""Every kind of entry of the log on site: what it holds, the part it is about, and when it may not be written down."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from typing import Any, Literal

from mellow_span.core.errors import InputError
from mellow_span.core.model.parse import parse, specs
from mellow_span.core.site.entries import Colours, Entry, Had, MinorWork, OnHand, Photo, Pulled, Undecided
from mellow_span.core.site.existing import Changed, Graded, Limit, Observed, seen_whole
from mellow_span.core.site.isolation_record import Isolation, allowed
from mellow_span.core.site.readings import Reading, whole

MOST_OF_A_LIST = 400
Subject = Literal["circuit", "board", "route", "job", "any"]
# Each kind of entry: what it holds, and the kind of part it is about.
KINDS: dict[str, tuple[type[Any], Subject]] = {
    "pulled": (Pulled, "circuit"),
    "undecided": (Undecided, "circuit"),
    "on_hand": (OnHand, "job"),
    "had": (Had, "job"),
    "colours": (Colours, "circuit"),
    "isolation": (Isolation, "job"),
    "reading": (Reading, "circuit"),
    "board_reading": (Reading, "board"),
    "photo": (Photo, "any"),
    "minor_work": (MinorWork, "circuit"),
    "observed": (Observed, "job"),
    "graded": (Graded, "job"),
    "limit": (Limit, "job"),
    "changed": (Changed, "job"),
}
# What stands under a number from then on: the part keeps the one it has.
NUMBERED = frozenset({"pulled", "reading", "board_reading", "minor_work"})
MOST_PHOTOS = 200
PICTURE = re.compile(r"data:image/jpeg;base64,[A-Za-z0-9+/]+={0,2}")


def small(entries: Sequence[Entry], given: Photo) -> None:
    """Raise InputError for what is no JPEG, and for one photo too many. entries: the photos there are; their pictures are not looked at."""
    if not PICTURE.fullmatch(given.image) or len(given.image[23:]) % 4 or not given.image[23:].startswith("/9j/"):
        raise InputError("data.image", given.image[:30], "a JPEG as a data address, at most 600 000 characters")
    if len(entries) >= MOST_PHOTOS:
        raise InputError("data.image", len(entries) + 1, f"at most {MOST_PHOTOS} photos in a job")


# What an entry of a kind has to say to be one that is written down now. Raises InputError.
SAYS: dict[str, Callable[[Any], None]] = {"reading": whole, "board_reading": whole, "observed": seen_whole}
# Kinds that may not be written down at any time: what asks, given the entries of the kind so far. Raises InputError.
FITS: dict[str, Callable[[Sequence[Entry], Any], None]] = {"isolation": allowed, "photo": small}


def checked(kind: str, data: Any) -> Any:
    """Return what an entry holds. Raises InputError naming the field for a kind that is none and for data that does not fit it."""
    if kind not in KINDS:
        raise InputError("kind", kind, "one of " + ", ".join(KINDS))
    found = parse(KINDS[kind][0], data, "data")
    for name, about in specs(found.__class__).items():
        value = getattr(found, name)
        if isinstance(value, str) and len(value) < about.get("least", 0):
            raise InputError(f"data.{name}", value, "a value; it cannot be left out")
        if isinstance(value, tuple) and len(value) > MOST_OF_A_LIST:
            raise InputError(f"data.{name}", len(value), f"at most {MOST_OF_A_LIST} of them")
    return found
