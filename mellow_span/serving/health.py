"""Whether the server can work: asked by whoever watches it. It says nothing of anybody."""

from __future__ import annotations

from datetime import timedelta

from django.db import DatabaseError, InterfaceError, connection
from django.http import HttpRequest, HttpResponse, HttpResponseNotAllowed, JsonResponse
from django.utils import timezone

# A search that waits longer than this has nobody to work on it.
PATIENCE = timedelta(seconds=60)


def health(request: HttpRequest) -> HttpResponse:
    """Answer 200 where the database answers and searches are worked on, else 503; in the body which of them it is."""
    if request.method not in ("GET", "HEAD"):
        return HttpResponseNotAllowed(["GET", "HEAD"])
    found = {"database": _database(), "searches": False}
    if found["database"]:
        found["searches"] = _searches()
    well = all(found.values())
    return JsonResponse({"well": well, **found}, status=200 if well else 503)


def _database() -> bool:
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
    except (DatabaseError, InterfaceError):
        return False
    return True


def _searches() -> bool:
    from mellow_span.jobs.models import Search

    waiting = Search.objects.filter(state=Search.State.WAITING, asked__gt=timezone.now() - timedelta(seconds=5))
    oldest = waiting.values_list("made", flat=True).first()
    return oldest is None or timezone.now() - oldest < PATIENCE
