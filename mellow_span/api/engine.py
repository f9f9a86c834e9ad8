"""What a device needs to work a job out by itself, and what it found that the server found otherwise."""

from __future__ import annotations

import logging
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Field, Router, Schema, Status

from mellow_span.answers.kit import Kit
from mellow_span.api.errors import Refusal
from mellow_span.api.render import send
from mellow_span.exchange.program import fingerprint
from mellow_span.jobs.ownership import job_of
from mellow_span.jobs.reads import snapshot
from mellow_span.logbook.kit import kit_of

router, of_job = Router(), Router()
log = logging.getLogger(__name__)
REFUSALS: dict[Any, Any] = {401: Refusal, 404: Refusal, 422: Refusal}


@dataclass(slots=True)
class Program:
    """Which rules, tables and program the server works by, and the address of the archive of them."""

    program: str
    archive: str


class DifferenceIn(Schema):
    """A job for which a device found other figures than the server. version: of the job; program: that of the device; where: which figures."""

    version: int = Field(ge=1, le=2_000_000_000)
    program: str = Field(max_length=40)
    where: list[str] = Field(max_length=50)


@router.get("", response={200: Program, 401: Refusal}, operation_id="program")
def program(request: HttpRequest) -> Any:
    """Return which program works the figures out."""
    mark = fingerprint()
    return send(Program, Program(mark, f"/engine/{mark}.zip"))


@of_job.get("/{uuid:job_id}/kit", response={200: Kit, **REFUSALS}, operation_id="job_kit")
def kit(request: HttpRequest, job_id: UUID) -> Any:
    """Return what goes with a job to a device that is to work it out by itself."""
    with snapshot():
        found = kit_of(job_of(request.user, job_id))
    return send(Kit, found)


@of_job.post("/{uuid:job_id}/difference", response={204: None, **REFUSALS}, operation_id="report_difference")
def difference(request: HttpRequest, job_id: UUID, given: DifferenceIn) -> Any:
    """Take note that a device found other figures than the server: it is for those who run this server. The server's stand."""
    job = job_of(request.user, job_id)
    about = {"job": str(job.pk), "version": given.version, "device": given.program, "server": fingerprint()}
    log.warning("a device found other figures", extra={**about, "where": ", ".join(w[:80] for w in given.where)[:600]})
    return Status(204, None)
