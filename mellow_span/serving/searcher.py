"""The process that works searches and views of large jobs out: python -m mellow_span.serving.searcher [--views-alone].

It takes tasks from the queue in PostgreSQL, one at a time. Any number of them may run beside each other, on any hosts.
"""

from __future__ import annotations

import argparse
import asyncio
import contextlib
import logging
import os
import signal
import time
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime
from typing import Any

from mellow_span.process.rights import die_with_parent, give_up_root
from mellow_span.settings.environment import environment

log = logging.getLogger("mellow_span.serving.searcher")
# It says that it lives every so often; what it had begun is taken up again by another that has not heard of it for so long [s].
BEAT, SILENT = 5.0, 15.0
# What comes is told to it; it looks by itself every so often all the same [s].
LOOK = 30.0
# How long it waits before it looks for the database again [s].
AWAY = 1.0
# Due whatever the clock of this host says.
AT_ONCE = datetime(2000, 1, 1, tzinfo=UTC)


class Searcher:
    """Works tasks out until told to stop; then ends the one it is at."""

    def __init__(self, queues: list[str]) -> None:
        self.queues, self.stopping = queues, False

    def run(self) -> None:
        """Work; where the database is away, go on once it is back."""
        from procrastinate.exceptions import ConnectorException

        while not self.stopping:
            try:
                asyncio.run(self._work())
            except ConnectorException:
                log.warning("the database is away")
            if not self.stopping:
                time.sleep(AWAY)

    async def _work(self) -> None:
        from procrastinate import PsycopgConnector
        from procrastinate.contrib.django import app
        from procrastinate.contrib.django.db_cleanup import close_db_connections
        from procrastinate.contrib.django.utils import connector_params

        loop = asyncio.get_running_loop()
        # One for the task, one for the names of hosts.
        loop.set_default_executor(ThreadPoolExecutor(2))
        queue = app.with_connector(PsycopgConnector(kwargs=connector_params(), min_size=1, max_size=3))
        async with queue.open_async():
            working = asyncio.ensure_future(
                queue.run_worker_async(
                    queues=self.queues,
                    delete_jobs="always",
                    install_signal_handlers=False,
                    fetch_job_polling_interval=LOOK,
                    abort_job_polling_interval=LOOK,
                    update_heartbeat_interval=BEAT,
                    stalled_worker_timeout=SILENT,
                    task_middleware=[close_db_connections],
                )
            )

            def stop() -> None:
                self.stopping = True
                working.cancel()

            for name in (signal.SIGTERM, signal.SIGINT):
                loop.add_signal_handler(name, stop)
            taking_up = asyncio.ensure_future(_take_up_again(queue))
            try:
                await working
            except asyncio.CancelledError:
                if not self.stopping:
                    raise
            finally:
                taking_up.cancel()


async def _take_up_again(queue: Any) -> None:
    """Put back into the queue, now and then, what processes had begun that are gone."""
    from procrastinate.exceptions import ConnectorException

    while True:
        # Where the database is slow or away this once, the next look is in time.
        with contextlib.suppress(ConnectorException):
            for task in await queue.job_manager.get_stalled_jobs(seconds_since_heartbeat=SILENT):
                log.warning("a process is gone; what it had begun is taken up again")
                await queue.job_manager.retry_job_by_id_async(task.id, AT_ONCE)
        await asyncio.sleep(SILENT / 2)


def main() -> None:
    """Work until told to stop."""
    asked = argparse.ArgumentParser(description="Work searches out.")
    asked.add_argument("--user", default="nobody", help="whom a process started by root runs as")
    asked.add_argument("--views-alone", action="store_true", help="leave searches to others: nobody who looks at something waits for one")
    given = asked.parse_args()
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "mellow_span.settings")
    import django

    django.setup()
    from mellow_span.core.rulesets import available, rule_set

    for ruleset in available():
        rule_set(ruleset)
    give_up_root(given.user)
    if parent := environment().parent:
        die_with_parent(parent)
    import mellow_span.serving.tasks  # noqa: F401  the tasks are known by it
    from mellow_span.jobs.searches import SEARCHES, VIEWS
    from mellow_span.process.tuning import collect_seldom

    collect_seldom()
    Searcher([VIEWS] if given.views_alone else [VIEWS, SEARCHES]).run()


if __name__ == "__main__":
    main()
