"""The one place that says which jobs a signed-in person may touch. Every view reaches a job through here, and its parts through the job."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from django.db.models import QuerySet

from mellow_span.jobs.models import Job, Member


class NotYours(Exception):
    """No such job for this person: absent and foreign look the same."""


def member_of(user: Any) -> Member:
    """Return the member behind a signed-in user. Raises NotYours for a user of no firm."""
    try:
        member: Member = user.member
    except (AttributeError, Member.DoesNotExist):
        raise NotYours from None
    return member


def jobs_of(user: Any) -> QuerySet[Job]:
    """Return the jobs of the user's firm; those in the bin are not among them."""
    return Job.objects.filter(firm=member_of(user).firm_id, removed__isnull=True)


def bin_of(user: Any) -> QuerySet[Job]:
    """Return the deleted jobs of the user's firm that can still be brought back."""
    return Job.objects.filter(firm=member_of(user).firm_id, removed__isnull=False)


def job_of(user: Any, job_id: UUID, lock: bool = False) -> Job:
    """Return one job of the user's firm, locked for writing if asked. Raises NotYours."""
    jobs = jobs_of(user).select_for_update(of=("self",)) if lock else jobs_of(user)
    job = jobs.filter(pk=job_id).first()
    if job is None:
        raise NotYours
    return job
