"""How far the jobs of a list are: issued, on site, tested; told from what is stored, without working any of them out."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from uuid import UUID

from django.db.models import Count, Max

from mellow_span.jobs.models import Circuit
from mellow_span.logbook.models import Entry, Issue

# What is written down on site while cables are drawn in and circuits made dead.
ON_SITE = ("pulled", "isolation", "had", "reading")


@dataclass(slots=True)
class JobProgress:
    """How far a job is. issued: the number of its last revision, 0 for none; on_site: work there was written down; tested: circuits it still has
    with at least one reading.
    """

    issued: int = 0
    on_site: bool = False
    tested: int = 0


def progress_of(jobs: Collection[UUID]) -> dict[UUID, JobProgress]:
    """Return how far each of some jobs is, in three queries whatever their number."""
    found = {job: JobProgress() for job in jobs}
    for job, number in Issue.objects.filter(job__in=jobs).order_by().values_list("job").annotate(Max("number")):
        found[job].issued = number
    for job in Entry.objects.filter(job__in=jobs, kind__in=ON_SITE).order_by().values_list("job", flat=True).distinct():
        found[job].on_site = True
    # Which were read, each once, and then which of them are still there: joined row by row a long log costs seconds.
    subjects = Entry.objects.filter(job__in=jobs, kind="reading").order_by().values_list("subject", flat=True).distinct()
    read = {subject for subject in subjects if subject is not None}
    for job, count in Circuit.objects.filter(job__in=jobs, pk__in=read).order_by().values_list("job").annotate(Count("pk")):
        found[job].tested = count
    return found
