"""What each kind of search answers with, whoever works it out: the request, or the process for searches."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from mellow_span.api.columns import Column, columns
from mellow_span.api.papers import MADE, made
from mellow_span.api.render import text
from mellow_span.core.design.books import UnderBoth, beside
from mellow_span.core.design.breaks import Break, smallest_breaks
from mellow_span.core.design.effort import Effort
from mellow_span.core.design.joint import Joint, cheapest
from mellow_span.core.design.options import Option, options
from mellow_span.core.design.place_options import PlaceOption, place_options
from mellow_span.core.design.robustness import Variant, robustness
from mellow_span.core.design.routes import Tryout, tryouts
from mellow_span.core.design.size import Sizing, size
from mellow_span.core.design.surveyed import Assumption, assumptions
from mellow_span.core.model.parts import Installation
from mellow_span.jobs import models
from mellow_span.jobs.books import settling
from mellow_span.jobs.searches import Asked
from mellow_span.logbook.prices import prices_for


def _copies(inputs: Installation, subject: str, effort: Effort, job: models.Job) -> tuple[Any, Any]:
    return list[Column], columns(inputs, job, effort)


# What a kind of search answers with: the type of its answer and the answer.
KINDS: dict[str, Callable[[Installation, str, Effort, models.Job], tuple[Any, Any]]] = {
    "cheapest": lambda inputs, subject, effort, job: (Joint, cheapest(inputs, prices_for(job.firm_id, inputs), effort=effort)),
    "options": lambda inputs, subject, effort, job: (
        list[Option],
        list(options(inputs, subject, prices_for(job.firm_id, inputs), effort=effort)),
    ),
    "place_options": lambda inputs, subject, effort, job: (
        list[PlaceOption],
        list(place_options(inputs, subject, prices_for(job.firm_id, inputs), effort=effort)),
    ),
    "size": lambda inputs, subject, effort, job: (Sizing, size(inputs, subject, effort)),
    "breaks": lambda inputs, subject, effort, job: (list[Break], list(smallest_breaks(inputs, subject, effort))),
    "holds": lambda inputs, subject, effort, job: (list[Variant], list(robustness(inputs, effort))),
    "assumptions": lambda inputs, subject, effort, job: (list[Assumption], list(assumptions(inputs, effort))),
    "tryouts": lambda inputs, subject, effort, job: (list[Tryout], list(tryouts(inputs, subject, effort))),
    "copies": _copies,
    "beside": lambda inputs, subject, effort, job: (list[UnderBoth], list(beside(inputs, subject, settling(job.firm_id, inputs), effort))),
}


def answered(job: models.Job, inputs: Installation, asked: Asked, effort: Effort) -> str:
    """Work a search out and return its answer as it goes out. Raises StoppedError, CoreError."""
    if asked.kind == MADE:
        # A file that is made is no search, but waits in the same queue.
        return made(job, inputs, asked, effort)
    kind, found = KINDS[asked.kind](inputs, asked.subject, effort, job)
    return text(kind, found)
