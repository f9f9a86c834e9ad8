"""The one place that says which jobs a signed-in person may touch. Every view reaches a job through here, and its parts through the job."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from django.db.models import QuerySet
from django.utils import timezone

from mellow_span.jobs.bin import KEPT
from mellow_span.jobs.models import Job, Member


class NotYours(Exception):
    """No such thing for this person: absent and foreign look the same. what: a job, a member, a link."""

    def __init__(self, what: str = "job") -> None:
        super().__init__(what)
        self.what = what


class NotAllowed(Exception):
    """What this person's role in the firm may not do. allowed: whose it is; message: in words, with what they can do instead."""

    def __init__(self, role: str, allowed: str, message: str) -> None:
        super().__init__(message)
        self.role, self.allowed, self.message = role, allowed, message


def memberships_of(user: Any) -> QuerySet[Member]:
    """Return a person's memberships that stand, with their firms."""
    return Member.objects.filter(user=user.pk, left__isnull=True).select_related("firm")


def member_of(user: Any) -> Member:
    """Return the member whom a signed-in person acts as: in the firm they chose, else in the first of theirs. Raises NotYours for one of no firm.

    The choice is put on the user by `people.sessions.Sessions` from their session.
    """
    known: Member | None = getattr(user, "acting_member", None)
    if known is None and user.is_authenticated:
        theirs = list(memberships_of(user))
        chosen = getattr(user, "acting_as", None)
        known = next((m for m in theirs if m.pk == chosen), theirs[0] if theirs else None)
        user.acting_member = known
    if known is None:
        raise NotYours("firm")
    return known


DESIGNERS = (Member.Role.DESIGNER, Member.Role.SUPERVISOR)


def designer_of(user: Any) -> Member:
    """Return the member, one who may change jobs. Raises NotAllowed for an apprentice, who proposes."""
    member = member_of(user)
    if member.role not in DESIGNERS:
        told = "Apprentices propose changes: submit them and a designer accepts them."
        raise NotAllowed(member.role, "a designer or a supervisor of the firm", told)
    return member


def supervisor_of(user: Any) -> Member:
    """Return the member, one who looks after the members and signs. Raises NotAllowed."""
    member = member_of(user)
    if member.role != Member.Role.SUPERVISOR:
        raise NotAllowed(member.role, "a supervisor of the firm", "Only a supervisor of the firm can do this.")
    return member


def jobs_of(user: Any) -> QuerySet[Job]:
    """Return the jobs of the user's firm; those in the bin are not among them."""
    return Job.objects.filter(firm=member_of(user).firm_id, removed__isnull=True)


def bin_of(user: Any) -> QuerySet[Job]:
    """Return the deleted jobs of the user's firm that can still be brought back."""
    return Job.objects.filter(firm=member_of(user).firm_id, removed__gte=timezone.now() - KEPT)


def job_of(user: Any, job_id: UUID, lock: bool = False) -> Job:
    """Return one job of the user's firm, locked for writing if asked. Raises NotYours.

    Who may write in it is asked apart: `designer_of`.
    """
    jobs = jobs_of(user).select_for_update(of=("self",)) if lock else jobs_of(user)
    job = jobs.filter(pk=job_id).first()
    if job is None:
        raise NotYours
    return job
