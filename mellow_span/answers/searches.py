"""What each kind of search answers with, whoever works it out."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from mellow_span.answers.columns import Column, columns
from mellow_span.answers.given import Given
from mellow_span.core.design.books import UnderBoth, beside
from mellow_span.core.design.breaks import Break, smallest_breaks
from mellow_span.core.design.effort import Effort
from mellow_span.core.design.joint import Joint, cheapest
from mellow_span.core.design.options import Option, options
from mellow_span.core.design.place_options import PlaceOption, place_options
from mellow_span.core.design.robustness import Variant, robustness
from mellow_span.core.design.routes import Tryout, tryouts
from mellow_span.core.design.size import Sizing, size
from mellow_span.core.design.staged_sizes import Growing, growing
from mellow_span.core.design.surveyed import Assumption, assumptions

# Circuits that may be worked out while somebody waits for the one answer: some tenths of a second on a server.
QUICK = 1000

# What a kind of search answers with: the type of its answer and the answer, for a subject (a part of the job, a book).
SEARCHES: dict[str, tuple[Any, Callable[[Given, str, Effort], Any]]] = {
    "cheapest": (Joint, lambda given, subject, effort: cheapest(given.inputs, given.book, effort=effort)),
    "options": (list[Option], lambda given, subject, effort: list(options(given.inputs, subject, given.book, effort=effort))),
    "place_options": (
        list[PlaceOption],
        lambda given, subject, effort: list(place_options(given.inputs, subject, given.book, effort=effort)),
    ),
    "size": (Sizing, lambda given, subject, effort: size(given.inputs, subject, effort)),
    "breaks": (list[Break], lambda given, subject, effort: list(smallest_breaks(given.inputs, subject, effort))),
    "holds": (list[Variant], lambda given, subject, effort: list(robustness(given.inputs, effort))),
    "assumptions": (list[Assumption], lambda given, subject, effort: list(assumptions(given.inputs, effort))),
    "growing": (list[Growing], lambda given, subject, effort: list(growing(given.inputs, given.book, effort))),
    "tryouts": (list[Tryout], lambda given, subject, effort: list(tryouts(given.inputs, subject, effort))),
    "copies": (list[Column], lambda given, subject, effort: columns(given, effort)),
    "beside": (list[UnderBoth], lambda given, subject, effort: list(beside(given.inputs, subject, given.settled, effort))),
}
