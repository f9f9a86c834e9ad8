"""The process that works searches and views of large jobs out, one after the other: python -m mellow_span.serving.searcher [--views-alone].

Any number of them may run beside each other.
"""

from __future__ import annotations

import argparse
import logging
import os
import signal
import time

from mellow_span.process.rights import die_with_parent, give_up_root
from mellow_span.settings.environment import environment

log = logging.getLogger("mellow_span.serving.searcher")
# How long it sleeps where nothing waits.
PAUSE = 0.2
# Jobs to be looked at again are asked for at every so many of those looks: nobody waits for them on a page.
SELDOM = 10


def work_once(also_again: bool = True, views_alone: bool = False) -> bool:
    """Work out what is next in turn, else a job that is to be looked at again; return whether there was one.

    also_again: whether the second is asked for at all; views_alone: nothing but views is.
    """
    from mellow_span.api.answers import answered
    from mellow_span.api.behind import looked
    from mellow_span.core.design.effort import StoppedError
    from mellow_span.core.errors import CoreError, InputError
    from mellow_span.jobs import rechecking, rechecks, searches
    from mellow_span.jobs.ownership import NotYours
    from mellow_span.jobs.reads import installation, snapshot

    row = searches.take(views_alone)
    if row is None:
        # Nobody waits for these on a page; they go on while nobody else does.
        again = rechecks.take() if also_again and not views_alone else None
        if again is not None:
            rechecking.work(again)
        return again is not None
    job = row.job
    if (job.version, job.cells) != (row.version, row.cells):
        searches.give_up(row)
        return True
    effort, asked = searches.Watch(row).effort(), searches.Asked(row.kind, row.subject, row.stamp, row.head)
    try:
        if row.kind == searches.VIEW:
            with searches.alive(row):
                answer, head = looked(job, asked)
            searches.done(row, answer, head=head)
            return True
        with snapshot():
            inputs = installation(job)
        searches.done(row, answered(job, inputs, asked, effort), effort.cut)
    except (StoppedError, NotYours):
        searches.give_up(row)
    except CoreError as error:
        searches.refuse(row, error)
    except Exception:
        # A fault of ours: the page is told, the next search is not kept waiting for it.
        log.exception("a search failed", extra={"search": row.kind})
        searches.refuse(row, InputError(row.kind, "this job", "nothing: the search failed over it, which is a fault of the program"))
    return True


def main() -> None:
    """Work until told to stop."""
    asked = argparse.ArgumentParser(description="Work searches out.")
    asked.add_argument("--user", default="nobody", help="whom a process started by root runs as")
    asked.add_argument("--views-alone", action="store_true", help="leave searches to others: nobody who looks at something waits for one")
    given = asked.parse_args()
    user = given.user
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "mellow_span.settings")
    import django

    django.setup()
    from mellow_span.core.rulesets import available, rule_set

    for ruleset in available():
        rule_set(ruleset)
    give_up_root(user)
    if parent := environment().parent:
        die_with_parent(parent)
    from django.db import Error, close_old_connections, connections

    from mellow_span.process.tuning import collect_seldom

    going = [True]
    for name in (signal.SIGTERM, signal.SIGINT):
        signal.signal(name, lambda *_: going.clear())
    collect_seldom()
    idle = 0
    while going:
        try:
            close_old_connections()
            idle = 0 if work_once(idle % SELDOM == 0, given.views_alone) else idle + 1
            if idle:
                time.sleep(PAUSE)
        except Error:
            # The database is away or starts again: what was taken is begun anew once it is back.
            log.warning("the database is away")
            connections.close_all()
            time.sleep(1)


if __name__ == "__main__":
    main()
