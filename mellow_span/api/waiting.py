"""What is told while something is worked out apart: how far it is, and how many are before it. A GET looks alone; what begins it is a POST."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from ninja import Schema

from mellow_span.api.render import text
from mellow_span.jobs import searches
from mellow_span.jobs.models import Job, Search
from mellow_span.jobs.searches import Asked


class Searching(Schema):
    """A search that goes on, or has not begun: how far it is (0 to 1), and how many are before it.

    Post its address to `searches` of the job to begin it, and again to say that somebody still waits.
    """

    share: float
    before: int


def begins(request: HttpRequest) -> bool:
    """Say whether a request may begin what it asks for, and tells that somebody still waits: whatever is posted, see `api.follow`."""
    return request.method == "POST" or getattr(request, "begins", False)


def awaited(request: HttpRequest, job: Job, asked: Asked, row: Search | None) -> Search | None:
    """Return a search as it stands; None where it was not begun, and this request may not. row: what is found of it."""
    if not begins(request):
        return row
    return searches.put(job, asked) if row is None else searches.wanted(row)


def told(row: Search | None) -> HttpResponse:
    """Answer with how far a search is."""
    found = Searching(share=0, before=0) if row is None else Searching(share=row.share, before=searches.before(row))
    return HttpResponse(text(Searching, found), status=202, content_type="application/json")
