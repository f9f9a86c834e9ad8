"""Searches: worked out in the request where they are short, else in a process of their own while the page asks how far it is."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from typing import Any
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Schema

from mellow_span.api.columns import Column, columns
from mellow_span.api.render import text
from mellow_span.core.design.books import UnderBoth, beside
from mellow_span.core.design.breaks import Break, smallest_breaks
from mellow_span.core.design.effort import Effort, StoppedError
from mellow_span.core.design.joint import Joint, cheapest
from mellow_span.core.design.options import Option, options
from mellow_span.core.design.place_options import PlaceOption, place_options
from mellow_span.core.design.robustness import Variant, robustness
from mellow_span.core.design.routes import Tryout, tryouts
from mellow_span.core.design.size import Sizing, size
from mellow_span.core.design.surveyed import Assumption, assumptions
from mellow_span.core.errors import InputError
from mellow_span.core.model.parts import Installation
from mellow_span.jobs import models, searches
from mellow_span.jobs.books import settling
from mellow_span.jobs.cells import stamp_of_cells
from mellow_span.jobs.ownership import job_of
from mellow_span.jobs.reads import installation, snapshot
from mellow_span.jobs.searches import Asked
from mellow_span.site.prices import prices_for, stamp_of

# Circuits that a request may work out itself: some tenths of a second.
QUICK = 1000
# Of a job with more circuits than this, even the first look at it is left to the process for searches.
LARGE = 120


class Searching(Schema):
    """A search that goes on: how far it is (0 to 1), and how many are before it. Ask again for its answer; where nobody asks it is given up."""

    share: float
    before: int


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
    if asked.kind == "paper":
        # A file that is made is no search, but waits in the same queue.
        from mellow_span.api.papers import made

        return made(job, inputs, asked, effort)
    kind, found = KINDS[asked.kind](inputs, asked.subject, effort, job)
    return text(kind, found)


def searched(request: HttpRequest, job_id: UUID, kind: str, subject: UUID | str = "") -> HttpResponse:
    """Answer with what a search found, or with 202 and how far it is."""
    with snapshot():
        job = job_of(request.user, job_id)
        inputs = installation(job)
        asked = Asked(kind, str(subject), _stamp(job, kind))
        row = searches.find(job, asked)
        if row is None and len(inputs.circuits) <= LARGE:
            try:
                return _send(answered(job, inputs, asked, Effort(QUICK, whole=True)))
            except StoppedError:
                pass
    row = searches.put(job, asked) if row is None else searches.wanted(row)
    if row.state == models.Search.State.DONE:
        return _send(row.answer, row.cut)
    if row.refused:
        raise InputError(**row.refused)
    return HttpResponse(
        text(Searching, Searching(share=row.share, before=searches.before(row))), status=202, content_type="application/json"
    )


def _send(answer: str, cut: bool = False) -> HttpResponse:
    response = HttpResponse(answer, content_type="application/json")
    if cut:
        response["Search-Cut-Short"] = "yes"
    return response


# Searches that rank by price.
PRICED = ("cheapest", "options", "place_options")


def _stamp(job: models.Job, kind: str) -> str:
    """What a search depends on beside the version of the job: its copies, the firm's prices."""
    if kind in PRICED:
        return stamp_of(job.firm_id)
    if kind == "beside":
        return stamp_of_cells(job.firm_id)
    if kind != "copies":
        return ""
    kept = "".join(f"{pk}{at.isoformat()}" for pk, at in job.copies.values_list("pk", "at"))
    return hashlib.sha256(f"{kept}{stamp_of_cells(job.firm_id)}".encode()).hexdigest()[:32] if kept else ""
