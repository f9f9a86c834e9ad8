"""Links for clients: one version of one job, to be read until the link ends, by whoever has it."""

from __future__ import annotations

from datetime import timedelta
from uuid import UUID

from django.utils import timezone

from mellow_span.core.errors import InputError
from mellow_span.exchange.document import write
from mellow_span.jobs.models import Job, Member
from mellow_span.jobs.ownership import NotYours
from mellow_span.jobs.reads import installation
from mellow_span.people.events import note
from mellow_span.people.models import ClientLink
from mellow_span.people.tokens import kept, new_token

MOST = 20


def make(by: Member, job: Job, name: str, days: int) -> tuple[ClientLink, str]:
    """Return a new link for a client to a job as it stands now, with its token, which is shown once. Raises InputError."""
    if job.links.filter(ends__gt=timezone.now()).count() >= MOST:
        raise InputError("links", MOST + 1, f"at most {MOST} links to a job; cancel one first")
    token, hashed = new_token()
    ends = timezone.now() + timedelta(days=days)
    made = ClientLink.objects.create(
        job=job, token=hashed, name=name, version=job.version, document=write(installation(job)), by=by, ends=ends
    )
    note(by, "link_made", f"{name}: {job.name}, version {job.version}")
    return made, token


def open_link(token: str) -> ClientLink:
    """Return a link that has not ended, to a job that is not deleted. Raises NotYours."""
    found = ClientLink.objects.select_related("job", "job__firm").filter(
        token=kept(token), ends__gt=timezone.now(), job__removed__isnull=True
    )
    one = found.first()
    if one is None:
        raise NotYours("link")
    return one


def end(by: Member, job: Job, link: UUID) -> None:
    """End a link at once. Raises NotYours."""
    found = job.links.filter(pk=link).first()
    if found is None:
        raise NotYours("link")
    note(by, "link_ended", f"{found.name}: {job.name}")
    found.delete()
