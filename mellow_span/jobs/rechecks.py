"""The standing re-check: when a cell is read or a pack comes in anew, all jobs of the firm are worked out again, and what turns is listed.

It waits in the database for the process that works searches out, like a search, and goes on whether anybody looks or not.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Iterable
from datetime import timedelta
from typing import Any

from django.db import connection, transaction
from django.db.models import Q, QuerySet
from django.utils import timezone

from mellow_span.core.model.parts import CellRead
from mellow_span.jobs import models

# Without a word from its process it is begun anew; so many are kept for a firm.
SILENT, KEPT = timedelta(seconds=60), 40
TAKING = 72_058


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
    models.Recheck.objects.create(firm=firm, cause=cause[:400], change=change, by=member)
    old = list(models.Recheck.objects.filter(firm=firm).values_list("pk", flat=True)[KEPT:])
    models.Recheck.objects.filter(pk__in=old).delete()


def take() -> models.Recheck | None:
    """Take the re-check that is next in turn, for one job of it; None where there is none. At first its jobs are noted."""
    now = timezone.now()
    with transaction.atomic():
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_advisory_xact_lock(%s)", [TAKING])
        waiting = Q(state=models.Recheck.State.WAITING) | Q(state=models.Recheck.State.RUNNING, beat__lt=now - SILENT)
        row = models.Recheck.objects.filter(waiting).order_by("at", "id").first()
        if row is not None:
            if "jobs" not in row.change:
                row.change["jobs"] = [str(pk) for pk in jobs_of(row).values_list("pk", flat=True)]
                row.total = len(row.change["jobs"])
            row.state, row.beat = models.Recheck.State.RUNNING, now
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
