"""A re-check worked out: each job of it as it was and as it is now, and what turned between the two."""

from __future__ import annotations

import dataclasses
import logging
from math import isclose
from typing import Any

from django.utils import timezone

from mellow_span.core.design.books import InBook, between
from mellow_span.core.errors import CoreError, RuleSetError
from mellow_span.core.model.parts import CellRead, Installation
from mellow_span.core.rulesets.packs import joined, split
from mellow_span.jobs import models
from mellow_span.jobs.packs import packs_named
from mellow_span.jobs.reads import installation, snapshot

log = logging.getLogger(__name__)
# Figures that are told as moved, of all jobs together.
MOST_MOVED = 300


def work(row: models.Recheck) -> None:
    """Work out the next job of a re-check; then it waits again, so that a search on a page waits for one job at most.

    A job that cannot be worked out is listed as that; one that is gone meanwhile is passed over.
    """
    jobs = row.change["jobs"]
    turned, moved = list(row.turned), list(row.moved)
    if row.worked < len(jobs):
        job = models.Job.objects.filter(pk=jobs[row.worked], removed__isnull=True).first()
        if job is not None:
            lines, figures = _looked_at(row, job)
            turned, moved = turned + lines, (moved + figures)[:MOST_MOVED]
    worked = min(row.worked + 1, len(jobs))
    state = models.Recheck.State.DONE if worked >= len(jobs) else models.Recheck.State.WAITING
    models.Recheck.objects.filter(pk=row.pk).update(state=state, worked=worked, turned=turned, moved=moved, beat=timezone.now())


def _looked_at(row: models.Recheck, job: models.Job) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
    try:
        return _turned(row, job)
    except (CoreError, RuleSetError) as error:
        return [_line(job, "the whole job", "", "", "not_known", str(error)[:400])], []
    except Exception:
        log.exception("a job cannot be checked again")
        return [_line(job, "the whole job", "", "", "not_known", "it cannot be worked out; open it to see why")], []


def _turned(row: models.Recheck, job: models.Job) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
    """What stands otherwise, and the figures that are others though their check stands as it did."""
    with snapshot():
        now = installation(job)
        before, after = (_with_pack if "to" in row.change else _with_cells)(row, now)
    both = [(one.name, c) for one in between(before, after) for c in one.checks]
    turned = [
        _line(job, name, c.title, (c.there.clause or c.here.clause), _told(c.here.verdict), c.there.text, _told(c.there.verdict))
        for name, c in both if c.here.verdict != c.there.verdict
    ]  # fmt: skip
    moved = [
        _line(job, name, c.title, (c.there.clause or c.here.clause), c.here.text, c.there.text, _told(c.there.verdict))
        for name, c in both if c.here.verdict == c.there.verdict and _other(c.here, c.there)
    ]  # fmt: skip
    return turned, moved


def _other(a: InBook, b: InBook) -> bool:
    """Whether a figure of a check, or its limit, is another one."""
    pairs = ((a.value, b.value), (a.limit, b.limit))
    return any((x is None) != (y is None) or (x is not None and y is not None and not isclose(x, y, rel_tol=1e-9)) for x, y in pairs)


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
    book, marks = split(now.ruleset)
    ruleset = joined(book, dict.fromkeys(row.change["to"] if m in row.change["from"] else m for m in marks))
    return now, dataclasses.replace(now, ruleset=ruleset, packs=packs_named(row.firm_id, ruleset))
