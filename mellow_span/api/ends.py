"""The ends of the cables of a job: cores and colours, glands, armour, what to test after."""

from __future__ import annotations

from typing import Any, cast
from uuid import UUID

from django.http import HttpRequest
from ninja import Router
from ninja.decorators import decorate_view

from mellow_span.api.behind import behind
from mellow_span.api.errors import Refusal
from mellow_span.api.render import send
from mellow_span.api.waiting import Searching
from mellow_span.core.site.ends import Ends, Neutral, ends
from mellow_span.core.site.entries import last
from mellow_span.jobs.models import Job
from mellow_span.jobs.ownership import job_of
from mellow_span.jobs.reads import installation, snapshot
from mellow_span.logbook import log
from mellow_span.logbook.rules import site_rules

router = Router()


def ends_of(job: Job) -> list[Ends]:
    """Return the ends of every cable of a job, with the colours somebody saw."""
    seen = last(log.entries(job, "colours"), "colours")
    older = frozenset(i for i, e in seen.items() if e.data.older)
    return list(ends(installation(job), older, frozenset(seen) - older, cast(Neutral, site_rules(job.firm).neutral)))


@router.get(
    "/{uuid:job_id}/ends", response={200: list[Ends], 202: Searching, 401: Refusal, 404: Refusal, 422: Refusal}, operation_id="ends"
)
@decorate_view(behind)
def job_ends(request: HttpRequest, job_id: UUID) -> Any:
    """Return the ends of every cable of a job."""
    with snapshot():
        found = ends_of(job_of(request.user, job_id))
    return send(list[Ends], found)
