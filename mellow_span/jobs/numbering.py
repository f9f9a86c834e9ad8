"""Numbers that stay: kept for a job once a cable was tagged, a reading written or an issue made."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import replace

from django.db import transaction

from mellow_span.core.model.parts import Installation, Tagged
from mellow_span.core.site.numbers import to_keep
from mellow_span.jobs import models
from mellow_span.jobs.reads import installation


def keep_numbers(job: models.Job, inputs: Installation, parts: Collection[str]) -> Installation:
    """Keep the numbers of circuits and the letters of boards, given by identity, from now on; return the job as it stands with them.

    job, inputs: as they were read; where all are kept already nothing is asked of the database.
    """
    if not to_keep(inputs, parts):
        return inputs
    with transaction.atomic():
        locked = models.Job.objects.select_for_update(of=("self",)).get(pk=job.pk)
        # As it stands by now: of two who tag at once the second finds what the first one kept.
        now = installation(locked)
        add_numbers(locked, new := to_keep(now, parts))
    job.numbered = locked.numbered
    return replace(now, numbers=now.numbers + new)


def add_numbers(job: models.Job, new: Iterable[Tagged]) -> None:
    """Store numbers to be kept for a job, locked."""
    rows = models.Number.objects.bulk_create(models.Number(job=job, part=t.part, number=t.number) for t in new)
    if rows:
        job.numbered += len(rows)
        job.save(update_fields=["numbered"])
