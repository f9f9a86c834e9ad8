"""The bin for deleted jobs, and who touched a job last: what the list of jobs asks beyond the jobs themselves."""

from __future__ import annotations

from datetime import timedelta

from django.db.models import OuterRef, QuerySet, Subquery
from django.utils import timezone

from mellow_span.jobs.models import Edit, Job

# A deleted job can be brought back for so long.
KEPT = timedelta(days=30)


def empty_bins() -> int:
    """Delete for good what has lain in any bin for longer than it is kept; return how many jobs."""
    old = Job.objects.filter(removed__lt=timezone.now() - KEPT)
    return old.delete()[0] if old.exists() else 0


def with_last_editor(jobs: QuerySet[Job]) -> QuerySet[Job]:
    """Return jobs with `last_by`, the name of whoever made their last edit."""
    last = Edit.objects.filter(job=OuterRef("pk")).order_by("-version").values("member__name")[:1]
    return jobs.annotate(last_by=Subquery(last))
