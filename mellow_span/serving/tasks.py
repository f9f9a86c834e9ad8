"""What the processes behind do, each a task of the queue: searches and views, re-checks, and putting away what is kept no longer."""

from __future__ import annotations

import logging

from django.db import Error
from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

from mellow_span.api.answers import answered
from mellow_span.api.behind import looked
from mellow_span.core.design.effort import StoppedError
from mellow_span.core.errors import CoreError, InputError
from mellow_span.jobs import rechecking, rechecks, searches
from mellow_span.jobs.bin import empty_bins
from mellow_span.jobs.models import Recheck, Search
from mellow_span.jobs.ownership import NotYours
from mellow_span.jobs.reads import installation, snapshot

log = logging.getLogger("mellow_span.serving.tasks")
# Where the database was away or slow, a task is tried again.
AGAIN = RetryStrategy(max_attempts=5, wait=2, retry_exceptions={Error})
# What is kept no longer is put away this often, behind everything that somebody waits for.
SELDOM, LAST = "*/10 * * * *", -20


@app.task(name=searches.TASK, retry=AGAIN)
def search(pk: int) -> None:
    """Work out a search or a view, and keep what came of it."""
    row = searches.begin(pk)
    if row is None:
        return
    try:
        _work_out(row)
    except (StoppedError, NotYours):
        searches.give_up(row)
    except CoreError as error:
        searches.refuse(row, error)
    except Error:
        raise
    except Exception:
        # A fault of ours: the page is told, the next search is not kept waiting for it.
        log.exception("a search failed", extra={"search": row.kind})
        searches.refuse(row, InputError(row.kind, "this job", "nothing: the search failed over it, which is a fault of the program"))


def _work_out(row: Search) -> None:
    job = row.job
    if (job.version, job.cells) != (row.version, row.cells):
        raise StoppedError
    asked = searches.Asked(row.kind, row.subject, row.stamp, row.head)
    if row.kind == searches.VIEW:
        answer, head = looked(job, asked)
        searches.done(row, answer, head=head)
        return
    effort = searches.Watch(row).effort()
    with snapshot():
        inputs = installation(job)
    searches.done(row, answered(job, inputs, asked, effort), effort.cut)


@app.task(name=rechecks.TASK, retry=AGAIN)
def recheck(pk: int) -> None:
    """Look at the next job of a re-check again; the one after it waits its turn."""
    row = rechecks.begin(pk)
    if row is None:
        return
    rechecking.work(row)
    if Recheck.objects.filter(pk=pk, state=Recheck.State.WAITING).exists():
        rechecks.go_on(row)


@app.periodic(cron=SELDOM)
@app.task(name="thin out", queue=searches.VIEWS, queueing_lock="thin out", priority=LAST, retry=AGAIN)
def thin_out(timestamp: int) -> None:
    """Take up what was lost; put away answers that are kept no longer, and what has lain in a bin for longer than bins keep it."""
    searches.thin_out()
    rechecks.take_up_lost()
    empty_bins()
