"""Searches too long for a request, and views of large jobs: what is asked for, how far it is, and what came of it.

Each has a task in the queue in PostgreSQL (procrastinate), so that any process may work on it and none is lost: one search and one view at a time for a
firm, in the order they were asked for, so that neither a stranger's search nor one's own holds up what one looks at. A page asks again and again while
it waits; what nobody asks for is given up.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import timedelta
from typing import Any

from django.db import transaction
from django.db.models import Q
from django.db.models.functions import Now
from django.utils import timezone
from procrastinate.contrib.django import app

from mellow_span.core.design.effort import Effort
from mellow_span.core.errors import CoreError
from mellow_span.jobs.models import Job, Search

# After so long without being asked for, a search is given up; its answer is thrown away. By the clock of the database: those of two hosts differ.
LEFT, KEPT = timedelta(seconds=5), timedelta(minutes=30)
# What nobody has heard of for so long has lost its task, as by an upgrade: whoever still waits for it begins it anew.
LOST = timedelta(minutes=10)
# A view is asked for again as soon as something changed, and its answer may be large.
KEPT_VIEW = timedelta(minutes=3)
# The kind of what is a view.
VIEW = "view"
# How often a process says how far it is and looks whether anybody waits.
BEAT = timedelta(milliseconds=400)
# Circuits a search may work out: a few seconds in a house, about a quarter of a minute in the largest job.
LONG = 60_000
# The queues, and the task in both: views have one of their own, so that there is always a process for what somebody looks at.
SEARCHES, VIEWS, TASK = "searches", "views", "search"


@dataclass(frozen=True, slots=True)
class Asked:
    """What is searched for in a job. subject: the part it is about; stamp: what else the answer depends on; head: what goes with it."""

    kind: str
    subject: str = ""
    stamp: str = ""
    head: dict[str, Any] | None = field(default=None, compare=False)


def find(job: Job, asked: Asked) -> Search | None:
    """Return a search of this version of a job as it stands; None where it is not in the queue."""
    return Search.objects.filter(job=job, version=job.version, cells=job.cells, **_named(asked)).first()


def wanted(row: Search) -> Search:
    """Note that a search is still wanted, and return it."""
    if row.state in (Search.State.WAITING, Search.State.RUNNING):
        Search.objects.filter(pk=row.pk).update(asked=Now())
    return row


def put(job: Job, asked: Asked) -> Search:
    """Put a search into the queue; one that is there already is it."""
    with transaction.atomic():
        row, made = Search.objects.get_or_create(
            job=job,
            version=job.version,
            cells=job.cells,
            **_named(asked),
            defaults={"firm_id": job.firm_id, "asked": Now(), "head": asked.head},
        )
        if made:
            queue = VIEWS if asked.kind == VIEW else SEARCHES
            app.configure_task(TASK, queue=queue, lock=f"{queue} of {job.firm_id}").defer(pk=row.pk)
    return row


def before(row: Search) -> int:
    """Return how many searches are worked on or waiting before one."""
    return Search.objects.filter(state__in=(Search.State.WAITING, Search.State.RUNNING), made__lt=row.made).count()


def _named(asked: Asked) -> dict[str, str]:
    return {"kind": asked.kind, "subject": asked.subject, "stamp": asked.stamp}


def begin(pk: int) -> Search | None:
    """Take a search up, marked as running; None where it is over, or nobody asks for it any more."""
    found = Search.objects.filter(pk=pk)
    found.filter(state=Search.State.WAITING, asked__lt=Now() - LEFT).delete()
    found.filter(state=Search.State.WAITING).update(state=Search.State.RUNNING, beat=Now())
    return found.select_related("job__firm").filter(state=Search.State.RUNNING).first()


def thin_out() -> None:
    """Throw answers away that are kept no longer, and searches that nothing works on."""
    now = Now()
    ended = Q(state__in=(Search.State.DONE, Search.State.FAILED))
    over = ended & (Q(made__lt=now - KEPT) | Q(kind=VIEW, beat__lt=now - KEPT_VIEW))
    lost = ~ended & Q(made__lt=now - LOST) & (Q(beat=None) | Q(beat__lt=now - LOST))
    Search.objects.filter(over | lost).delete()


class Watch:
    """Says of a search how far it is and asks whether it is still wanted, now and then."""

    def __init__(self, row: Search) -> None:
        self.row, self.last = row, timezone.now()

    def __call__(self, share: float) -> bool:
        """Say whether anybody waits; share: how far it is."""
        now = timezone.now()
        if now - self.last < BEAT:
            return True
        self.last = now
        return bool(Search.objects.filter(pk=self.row.pk, asked__gte=Now() - LEFT).update(beat=Now(), share=share))

    def effort(self) -> Effort:
        """Return the effort this search may make."""
        return Effort(LONG, self)


def done(row: Search, answer: str, cut: bool = False, head: dict[str, Any] | None = None) -> None:
    """Keep the answer of a search, or of a view with its head."""
    Search.objects.filter(pk=row.pk).update(state=Search.State.DONE, answer=answer, cut=cut, head=head, share=1.0, beat=Now())


def refuse(row: Search, error: CoreError) -> None:
    """Keep why a search has no answer."""
    refused = {"field": error.field, "given": str(error.given)[:200], "allowed": error.allowed}
    Search.objects.filter(pk=row.pk).update(state=Search.State.FAILED, refused=refused, beat=Now())


def give_up(row: Search) -> None:
    """Throw a search away that nobody waits for."""
    Search.objects.filter(pk=row.pk).delete()
