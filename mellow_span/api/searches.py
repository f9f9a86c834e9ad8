"""Searches: worked out in the request where they are short, else in a process of their own while the page asks how far it is."""

from __future__ import annotations

import hashlib
from uuid import UUID

from django.http import HttpRequest, HttpResponse

from mellow_span.answers.searches import QUICK
from mellow_span.api.answers import answered
from mellow_span.api.behind import is_large
from mellow_span.api.waiting import awaited, begins, told
from mellow_span.core.design.effort import Effort, StoppedError
from mellow_span.core.errors import InputError
from mellow_span.jobs import models, searches
from mellow_span.jobs.cells import stamp_of_cells
from mellow_span.jobs.ownership import job_of
from mellow_span.jobs.reads import installation, snapshot
from mellow_span.jobs.searches import Asked
from mellow_span.logbook.prices import stamp_of


def searched(request: HttpRequest, job_id: UUID, kind: str, subject: UUID | str = "") -> HttpResponse:
    """Answer with what a search found, or with 202 and how far it is."""
    with snapshot():
        job = job_of(request.user, job_id)
        asked = Asked(kind, str(subject), _stamp(job, kind))
        row = searches.find(job, asked)
        # Of a large job even the first look is left to the process for searches.
        if row is None and not begins(request) and not is_large(job):
            try:
                return _send(answered(job, installation(job), asked, Effort(QUICK, whole=True)))
            except StoppedError:
                pass
    row = awaited(request, job, asked, row)
    if row is not None and row.state == models.Search.State.DONE:
        return _send(row.answer, row.cut)
    if row is not None and row.refused:
        raise InputError(**row.refused)
    return told(row)


def _send(answer: str, cut: bool = False) -> HttpResponse:
    response = HttpResponse(answer, content_type="application/json")
    if cut:
        response["Search-Cut-Short"] = "yes"
    return response


# Searches that rank by price.
PRICED = ("cheapest", "options", "place_options", "growing")


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
