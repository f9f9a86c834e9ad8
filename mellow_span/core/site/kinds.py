"""Every kind of entry of the log on site: what it holds, the part it is about, and when it may not be written down."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Literal

from mellow_span.core.errors import InputError
from mellow_span.core.model.parse import parse, specs
from mellow_span.core.site.entries import Colours, Entry, Had, OnHand, Pulled, Undecided
from mellow_span.core.site.isolation import Isolation, allowed

MOST_OF_A_LIST = 400
Subject = Literal["circuit", "board", "route", "job"]
# Each kind of entry: what it holds, and the kind of part it is about.
KINDS: dict[str, tuple[type[Any], Subject]] = {
    "pulled": (Pulled, "circuit"),
    "undecided": (Undecided, "circuit"),
    "on_hand": (OnHand, "job"),
    "had": (Had, "job"),
    "colours": (Colours, "circuit"),
    "isolation": (Isolation, "job"),
}
# Kinds that may not be written down at any time: what asks, given the entries of the kind so far. Raises InputError.
FITS: dict[str, Callable[[Sequence[Entry], Any], None]] = {"isolation": allowed}


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
