"""Links for clients, and the page behind one: a job as it was, with how each circuit stands; nothing can be changed there."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from django.http import HttpRequest
from django.utils import timezone
from ninja import Field, Router, Schema, Status

from mellow_span.answers.standing import stand
from mellow_span.answers.state import CircuitSummary, summary
from mellow_span.api.errors import Refusal
from mellow_span.api.render import send
from mellow_span.exchange.document import read
from mellow_span.jobs.ownership import designer_of, job_of
from mellow_span.people import links
from mellow_span.people.models import ClientLink

router, door = Router(), Router()
REFUSALS: dict[Any, Any] = {401: Refusal, 404: Refusal, 422: Refusal}


class LinkIn(Schema):
    """For whom a link is, and for how many days."""

    name: str = Field(min_length=1, max_length=120, pattern=r"^[^\x00]*\S[^\x00]*$")
    days: int = Field(ge=1, le=365)


class LinkOut(Schema):
    """A link. token: for its address, only in the answer that made it."""

    id: UUID
    name: str
    version: int
    made: datetime
    ends: datetime
    token: str = ""


@dataclass(slots=True)
class SharedBoard:
    """A board with its circuits, as a client reads them. names: of the circuits, beside them."""

    name: str
    names: tuple[str, ...]
    circuits: tuple[CircuitSummary, ...]


@dataclass(slots=True)
class Shared:
    """A job as a client reads it. trouble: why it cannot be worked out; revision: as which it was issued, None where it was not; signed: by whom."""

    firm: str
    name: str
    client: str
    place: str
    version: int
    made: datetime
    ends: datetime
    edition: str
    boards: tuple[SharedBoard, ...]
    trouble: str
    revision: int | None
    signed: str


def _out(one: ClientLink, token: str = "") -> LinkOut:
    return LinkOut(id=one.pk, name=one.name, version=one.version, made=one.made, ends=one.ends, token=token)


@router.get("/{uuid:job_id}/links", response={200: list[LinkOut], **REFUSALS}, operation_id="links")
def of_job(request: HttpRequest, job_id: UUID) -> Any:
    """List the links to a job that have not ended."""
    return [_out(one) for one in job_of(request.user, job_id).links.filter(ends__gt=timezone.now())]


@router.post("/{uuid:job_id}/links", response={201: LinkOut, **REFUSALS}, operation_id="make_link")
def make(request: HttpRequest, job_id: UUID, given: LinkIn) -> Any:
    """Make a link by which a client reads the job as it stands now."""
    made, token = links.make(designer_of(request.user), job_of(request.user, job_id), given.name.strip(), given.days)
    return Status(201, _out(made, token))


@router.delete("/{uuid:job_id}/links/{uuid:link_id}", response={204: None, **REFUSALS}, operation_id="end_link")
def end(request: HttpRequest, job_id: UUID, link_id: UUID) -> Any:
    """End a link at once."""
    links.end(designer_of(request.user), job_of(request.user, job_id), link_id)
    return Status(204, None)


@door.get("/{str:token}", response={200: Shared, **REFUSALS}, operation_id="shared_job")
def shared(request: HttpRequest, token: str) -> Any:
    """Return the job behind a link. The link is the key: nobody need be signed in."""
    one = links.open_link(token)
    inputs = read(one.document)
    standing = stand(inputs)
    result = standing.result
    by = {c.id: summary(c) for c in result.circuits} if result else {}
    boards = tuple(
        SharedBoard(
            board.name,
            tuple(c.name for c in inputs.circuits if c.board == board.id and c.id in by),
            tuple(by[c.id] for c in inputs.circuits if c.board == board.id and c.id in by),
        )
        for board in inputs.boards
    )
    edition = result.edition if result else ""
    # The revision of the very version that the link shows, the signed one where there are two.
    rows = list(one.job.issues.filter(version=one.version))
    row = next((r for r in rows if r.signature), rows[0] if rows else None)
    return send(Shared, Shared(
        one.job.firm.name, inputs.name, inputs.client, inputs.place, one.version, one.made, one.ends, edition, boards, standing.trouble,
        row.number if row else None, str((row.signature or {}).get("name", "")) if row else "",
    ))  # fmt: skip
