"""The standing re-check: when a cell is read or a pack comes in anew, all jobs of the firm are worked out again, and what turns is listed.

It waits in the database for the process that works searches out, like a search, and goes on whether anybody looks or not.
"""

from __future__ import annotations

import dataclasses
import logging
from collections.abc import Iterable
from datetime import timedelta
from typing import Any

from django.db import connection, transaction
from django.db.models import Q, QuerySet
from django.utils import timezone

from mellow_span.core.design.books import between
from mellow_span.core.errors import CoreError, RuleSetError
from mellow_span.core.model.parts import CellRead, Installation
from mellow_span.core.rulesets.packs import joined, split
from mellow_span.jobs import models

log = logging.getLogger(__name__)
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


def work(row: models.Recheck) -> None:
    """Work out the next job of a re-check; then it waits again, so that a search on a page waits for one job at most.

    A job that cannot be worked out is listed as that; one that is gone meanwhile is passed over.
    """
    jobs = row.change["jobs"]
    turned = list(row.turned)
    if row.worked < len(jobs):
        job = models.Job.objects.filter(pk=jobs[row.worked], removed__isnull=True).first()
        if job is not None:
            turned += _looked_at(row, job)
    worked = min(row.worked + 1, len(jobs))
    state = models.Recheck.State.DONE if worked >= len(jobs) else models.Recheck.State.WAITING
    models.Recheck.objects.filter(pk=row.pk).update(state=state, worked=worked, turned=turned, beat=timezone.now())


def _looked_at(row: models.Recheck, job: models.Job) -> list[dict[str, Any]]:
    try:
        return _turned(row, job)
    except (CoreError, RuleSetError) as error:
        return [_line(job, "the whole job", "", "", "not_known", str(error)[:400])]
    except Exception:
        log.exception("a job cannot be checked again")
        return [_line(job, "the whole job", "", "", "not_known", "it cannot be worked out; open it to see why")]


def _turned(row: models.Recheck, job: models.Job) -> list[dict[str, Any]]:
    from mellow_span.jobs.reads import installation, snapshot

    with snapshot():
        now = installation(job)
        before, after = (_with_pack if "to" in row.change else _with_cells)(row, now)
    return [
        _line(job, one.name, c.title, (c.there.clause or c.here.clause), _told(c.here.verdict), c.there.text, _told(c.there.verdict))
        for one in between(before, after) for c in one.checks
        if c.here.verdict != c.there.verdict
    ]  # fmt: skip


def _told(verdict: str | None) -> str:
    return verdict or "not_asked"


def _line(job: models.Job, part: str, check: str, clause: str, before: str, text: str, after: str = "not_known") -> dict[str, Any]:
    return {
        "job": str(job.pk), "name": job.name, "part": part, "check": check, "clause": clause, "before": before, "after": after, "text": text,
    }  # fmt: skip


def _with_cells(row: models.Recheck, now: Installation) -> tuple[Installation, Installation]:
    """The job as it was before the cells were read, and as it is with them; what was read since stays out of it."""
    pairs = [tuple(None if c is None else CellRead(**c) for c in pair) for pair in row.change["cells"]]
    touched = {(c.table, c.row, c.column) for pair in pairs for c in pair if c is not None}
    rest = tuple(c for c in now.cells if (c.table, c.row, c.column) not in touched)
    before, after = (tuple(c for c in side if c is not None) for side in zip(*pairs, strict=True))
    return dataclasses.replace(now, cells=(*rest, *before)), dataclasses.replace(now, cells=(*rest, *after))


def _with_pack(row: models.Recheck, now: Installation) -> tuple[Installation, Installation]:
    """The job as it is, and with the newer version in place of its own."""
    from mellow_span.jobs.packs import packs_named

    book, marks = split(now.ruleset)
    ruleset = joined(book, dict.fromkeys(row.change["to"] if m in row.change["from"] else m for m in marks))
    return now, dataclasses.replace(now, ruleset=ruleset, packs=packs_named(row.firm_id, ruleset))
