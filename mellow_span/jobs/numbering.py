"""Numbers that stay: kept for a job once a cable was tagged, a reading written or an issue made."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import replace

from django.db import transaction

from mellow_span.core.model.numbers import to_keep
from mellow_span.core.model.parts import Installation, Tagged
from mellow_span.jobs import models
from mellow_span.jobs.reads import remember_numbered, stored


def keep_numbers(job: models.Job, inputs: Installation, parts: Collection[str]) -> Installation:
    """Keep the numbers of circuits and the letters of boards, given by identity, from now on; return the job as it stands with them.

    job, inputs: as they were read; where all are kept already nothing is asked of the database.
    """
    if not to_keep(inputs, parts):
        return inputs
    with transaction.atomic():
        locked = models.Job.objects.select_for_update(of=("self",)).get(pk=job.pk)
        # As it stands by now: of two who tag at once the second finds what the first one kept.
        known = stored(locked)
        new = to_keep(known.installation, parts)
        add_numbers(locked, new)
        kept = replace(known, installation=replace(known.installation, numbers=known.installation.numbers + new))
        # Nothing of the design is another: it need not be read again for its numbers.
        transaction.on_commit(lambda: remember_numbered(locked, kept))
    job.numbered = locked.numbered
    return kept.installation


def add_numbers(job: models.Job, new: Iterable[Tagged]) -> None:
    """Store numbers to be kept for a job, locked."""
    rows = models.Number.objects.bulk_create(models.Number(job=job, part=t.part, number=t.number) for t in new)
    if rows:
        job.numbered += len(rows)
        job.save(update_fields=["numbered"])
