"""The standing re-check: when a cell is read or a pack comes in anew, all jobs of the firm are worked out again, and what turns is listed.

It waits in the queue like a search, but behind all of them, one job of it at a time, and goes on whether anybody looks or not.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Iterable
from typing import Any

from django.db import transaction
from django.db.models import Q, QuerySet
from django.utils import timezone
from procrastinate.contrib.django import app

from mellow_span.core.model.parts import CellRead
from mellow_span.jobs import models
from mellow_span.jobs.searches import LOST, SEARCHES

# So many are kept for a firm.
KEPT = 40
# Its task in the queue of searches, and how far that stands behind them.
TASK, BEHIND = "recheck", -10


def under(book: str) -> Q:
    """Return the condition of the jobs under a book, with packs over it or without."""
    return Q(ruleset=book) | Q(ruleset__startswith=f"{book}+")


def of_cells(
    firm: models.Firm, book: str, changed: Iterable[tuple[CellRead | None, CellRead | None]], member: models.Member | None
) -> None:
    """Ask for a re-check after cells of a book were read, or readings taken back: each as it was and as it is now, None for not read."""
    pairs = [(old, new) for old, new in changed if old != new]
    if not pairs or not models.Job.objects.filter(under(book), firm=firm, removed__isnull=True).exists():
        return
    one = pairs[0][1] or pairs[0][0]
    assert one is not None
    where = f"Table {one.table}, {one.row}, {one.column}"
    said = "read in the printed book" if pairs[0][1] else "a reading taken back"
    cause = f"{where}: {said}" if len(pairs) == 1 else f"{len(pairs)} cells that a file brought along, the first {where}"
    change = {"book": book, "cells": [[None if c is None else dataclasses.asdict(c) for c in pair] for pair in pairs]}
    _put(firm, cause, change, member)


def of_version(pack: models.Pack, member: models.Member) -> None:
    """Ask for a re-check after a pack came in of which jobs use an earlier version: what would turn if they took this one."""
    earlier = list(
        models.Pack.objects.filter(firm=pack.firm, name=pack.name, over=pack.over).exclude(pk=pack.pk).values_list("mark", flat=True)
    )
    if any(models.Job.objects.filter(firm=pack.firm, removed__isnull=True, ruleset__contains=f"+{m}").exists() for m in earlier):
        _put(
            pack.firm,
            f"{pack.title}, version {pack.version}, in place of an earlier one",
            {"book": pack.over, "from": earlier, "to": pack.mark},
            member,
        )


def _put(firm: models.Firm, cause: str, change: dict[str, Any], member: models.Member | None) -> None:
    with transaction.atomic():
        made = models.Recheck.objects.create(firm=firm, cause=cause[:400], change=change, by=member)
        go_on(made)
    old = list(models.Recheck.objects.filter(firm=firm).values_list("pk", flat=True)[KEPT:])
    models.Recheck.objects.filter(pk__in=old).delete()


def go_on(row: models.Recheck) -> None:
    """Put the next job of a re-check into the queue; a firm has one of them worked on at a time."""
    app.configure_task(TASK, queue=SEARCHES, lock=f"re-checks of {row.firm_id}", priority=BEHIND).defer(pk=row.pk)


def take_up_lost() -> None:
    """Put re-checks into the queue again that nobody has heard of for long, as after an upgrade: one more task for one does no harm."""
    long_ago = timezone.now() - LOST
    for row in models.Recheck.objects.exclude(state=models.Recheck.State.DONE).filter(at__lt=long_ago).exclude(beat__gte=long_ago):
        go_on(row)


def begin(pk: int) -> models.Recheck | None:
    """Take a re-check up for its next job; None where it is over. At first its jobs are noted."""
    row = models.Recheck.objects.filter(pk=pk, state__in=(models.Recheck.State.WAITING, models.Recheck.State.RUNNING)).first()
    if row is None:
        return None
    if "jobs" not in row.change:
        row.change["jobs"] = [str(pk) for pk in jobs_of(row).values_list("pk", flat=True)]
        row.total = len(row.change["jobs"])
    row.state, row.beat = models.Recheck.State.RUNNING, timezone.now()
    row.save()
    return row


def jobs_of(row: models.Recheck) -> QuerySet[models.Job]:
    """Return the jobs that a re-check looks at."""
    jobs = models.Job.objects.filter(under(row.change["book"]), firm=row.firm, removed__isnull=True)
    if "to" in row.change:
        named = Q()
        for mark in row.change["from"]:
            named |= Q(ruleset__contains=f"+{mark}")
        jobs = jobs.filter(named) if row.change["from"] else jobs.none()
    return jobs.order_by("name", "created")
