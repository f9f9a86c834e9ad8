"""Which history this server has: the versions of a job say which of its states came first only within one."""

from __future__ import annotations

from uuid import UUID

from mellow_span.core.errors import InputError
from mellow_span.jobs.models import Epoch, Job

# Of a database that was emptied and holds nothing.
NONE = UUID(int=0)


def epoch() -> Epoch:
    """Return the history that is stored now."""
    return Epoch.objects.first() or Epoch(mark=NONE)


def hold(seen: str) -> None:
    """Raise InputError for an edit that was made on a state of another history. seen: its mark, empty where it was not said."""
    if seen and seen != str(epoch().mark):
        raise InputError("epoch", seen[:36], "the history that this server has now: a backup was put in the place of what was stored")


def tag_of(job: Job, now: Epoch) -> str:
    """Return what changes with whatever a state of a job shows. now: the history that is stored."""
    return f"{now.mark}.{job.version}.{job.cells}.{job.numbered}"
