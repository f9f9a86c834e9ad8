"""Views of a large job: worked out by the processes behind, while the request that asks is told so at once and asks again.

What a house takes some hundredths of a second for takes seconds at the limits of a job; in a thread of the web server it would keep strangers waiting.
The process behind asks the very same view, as the person who asked, and keeps its answer for as long as nothing that it depends on has changed.
"""

from __future__ import annotations

import hashlib
import time
from collections.abc import Callable
from functools import wraps
from typing import Any
from urllib.parse import urlsplit

from django.db.models import Sum
from django.http import HttpRequest, HttpResponse
from django.test import RequestFactory
from django.urls import resolve
from ninja.utils import check_csrf

from mellow_span.api.errors import at
from mellow_span.api.waiting import awaited, told
from mellow_span.jobs import models, searches
from mellow_span.jobs.ownership import NotYours, job_of, member_of
from mellow_span.jobs.searches import VIEW, Asked
from mellow_span.logbook.marks import mark_of

# A job with more circuits or more entries in its log than this is large.
CIRCUITS, ENTRIES = 120, 3000
# Readings of a circuit with more points than this are fitted behind, whatever the job.
POINTS = 10
# How long an address may be that is asked for again by another process.
LONGEST = 600
# What asks somebody outside stands for so long [s].
OUTSIDE = 60
# Headers that belong to an answer and go with it.
KEPT_HEADERS = ("Content-Disposition", "ETag", "Search-Cut-Short")
Answer = Callable[..., HttpResponse]


def is_large(job: models.Job) -> bool:
    """Say whether a job is too large to be worked out while a request waits."""
    return job.circuit_set.count() > CIRCUITS or job.site_log.count() > ENTRIES


def behind(answer: Answer) -> Answer:
    """Let a view of a large job be worked out by the processes behind; for `decorate_view`."""
    return _behind(answer, outside=False)


def behind_where_it_is_fitted(answer: Answer) -> Answer:
    """The same for what the readings of a circuit point to together: of many points in a ring that takes seconds in the smallest job."""

    @wraps(answer)
    def asked(request: HttpRequest, *args: Any, **kw: Any) -> HttpResponse:
        many = models.Load.objects.filter(circuit=kw["circuit_id"]).aggregate(points=Sum("quantity"))["points"] or 0
        return later(request, kw["job_id"], anyhow=many > POINTS) or answer(request, *args, **kw)

    return asked


def behind_asking_outside(answer: Answer) -> Answer:
    """The same for a view that asks somebody outside, whose word stands for a minute."""
    return _behind(answer, outside=True)


def _behind(answer: Answer, outside: bool) -> Answer:
    @wraps(answer)
    def asked(request: HttpRequest, *args: Any, **kw: Any) -> HttpResponse:
        return later(request, kw["job_id"], outside) or answer(request, *args, **kw)

    return asked


def later(request: HttpRequest, job_id: Any, outside: bool = False, anyhow: bool = False) -> HttpResponse | None:
    """Answer for a large job with what was worked out behind, or with 202 while it is not; None where the view answers by itself.

    outside: it asks somebody outside as well; anyhow: of a small job too. What is posted is done once. Whoever may not see the job is refused by
    the view.
    """
    if getattr(request, "behind", False) or not request.user.is_authenticated or check_csrf(request):
        return None
    try:
        job, member = job_of(request.user, job_id), member_of(request.user)
    except NotYours:
        return None
    if not anyhow and not is_large(job):
        return None
    address = request.get_full_path()
    if len(address) > LONGEST:
        return at(422, "address", f"{len(address)} characters", f"at most {LONGEST} characters", "This address is too long.")
    if request.method == "POST":
        # Done once for what it was asked of: what it makes is no reason to make it again, as it would be where the mark told of it.
        said = hashlib.sha256(request.body + str(job.site_log.count()).encode()).hexdigest()[:40]
        asked = Asked(VIEW, address, f"{member.pk}:once:{said}", {"body": request.body.decode("utf-8", "replace")})
    else:
        asked = Asked(VIEW, address, f"{member.pk}:{mark_of(job)}" + (f":{time.time() // OUTSIDE:.0f}" if outside else ""))
    row = awaited(request, job, asked, searches.find(job, asked))
    if row is None:
        return told(None)
    if row.state == models.Search.State.DONE:
        head = row.head or {}
        if head["status"] >= 500:
            # A fault of ours is told, and not kept.
            searches.give_up(row)
        response = HttpResponse(row.answer, status=head["status"], content_type=head["type"])
        for name, value in head["headers"].items():
            response[name] = value
        return response
    if row.refused:
        return at(500, row.refused["field"], row.refused["given"], row.refused["allowed"], "A program fault stopped this.")
    return told(row)


def viewed(user: Any, address: str, body: str | None = None, **marks: bool) -> HttpResponse:
    """Answer as the view of an address answers a person; body: what is posted to it; marks: set on its request. Raises Resolver404."""
    by = RequestFactory()
    request: Any = by.get(address) if body is None else by.post(address, body, content_type="application/json")
    # The token of the page was looked at when the person asked.
    request.user, request._dont_enforce_csrf_checks = user, True
    for name, is_so in marks.items():
        setattr(request, name, is_so)
    request.resolver_match = found = resolve(urlsplit(address).path)
    response: HttpResponse = found.func(request, *found.args, **found.kwargs)
    return response


def looked(job: models.Job, asked: Asked) -> tuple[str, dict[str, Any]]:
    """Work a view out as the person who asked; return its answer with its status, type and headers. Raises NotYours where they have left."""
    member = models.Member.objects.filter(pk=int(asked.stamp.split(":")[0]), left__isnull=True).select_related("user", "firm").first()
    if member is None or member.firm_id != job.firm_id:
        raise NotYours("job")
    member.user.acting_as, member.user.acting_member = member.pk, member  # type: ignore[attr-defined]
    response = viewed(member.user, asked.subject, (asked.head or {}).get("body"), behind=True)
    kept = {name: response.headers[name] for name in KEPT_HEADERS if name in response.headers}
    return response.content.decode(), {"status": response.status_code, "type": response.headers["Content-Type"], "headers": kept}
