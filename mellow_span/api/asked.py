"""The job that a request asks of, as it stands."""

from __future__ import annotations

from uuid import UUID

from django.http import HttpRequest

from mellow_span.core.model.parts import Installation
from mellow_span.jobs.ownership import job_of
from mellow_span.jobs.reads import installation, snapshot


def inputs_of(request: HttpRequest, job_id: UUID) -> tuple[Installation, int]:
    """Return a job of the person's firm and its version. Raises NotYours."""
    with snapshot():
        job = job_of(request.user, job_id)
        return installation(job), job.version
