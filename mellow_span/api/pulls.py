"""The pull list of a job: figured from the design, ticked off on site."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

from django.db import transaction
from django.http import HttpRequest
from django.utils import timezone
from ninja import Field, Router, Schema

from mellow_span.api.errors import Refusal
from mellow_span.api.render import send
from mellow_span.core.errors import InputError
from mellow_span.core.site.pulls import CableSum, Pull, Slack, by_cable, pulls
from mellow_span.jobs.models import Firm, Job, Pulled, SiteRules
from mellow_span.jobs.ownership import designer_of, job_of, member_of
from mellow_span.jobs.reads import installation, snapshot

router, slack_router = Router(), Router()
REFUSALS: dict[Any, Any] = {401: Refusal, 404: Refusal, 422: Refusal}
# A clock on site may be wrong by so much.
AHEAD = timedelta(minutes=10)


@dataclass(slots=True)
class PullLine:
    """A cable of the pull list. done: it is pulled in; by, at: who ticked it off, and when."""

    pull: Pull
    done: bool
    by: str
    at: datetime | None


@dataclass(slots=True)
class PullList:
    """The pull list in the order of pulling, and how much of each cable it takes. version: of the job it was figured from; slack [m]: of the firm."""

    version: int
    slack: Slack
    lines: tuple[PullLine, ...]
    sums: tuple[CableSum, ...]


class PulledIn(Schema):
    """What was done on site: a cable pulled in, or not after all; its far end still to be decided, or decided. at: when, by the clock there."""

    done: bool | None = None
    undecided: bool | None = None
    at: datetime | None = None


class SlackIn(Schema):
    """What is cut more than a run is long [m]: at a board, at another end, at an end not decided yet."""

    board: float = Field(ge=0, le=20)
    end: float = Field(ge=0, le=20)
    undecided: float = Field(ge=0, le=20)


def slack_of(firm: Firm) -> Slack:
    """Return what a firm cuts more; what is usual where it has said nothing."""
    row = SiteRules.objects.filter(firm=firm).first()
    return Slack(row.board, row.end, row.undecided) if row else Slack()


def _list(job: Job) -> PullList:
    inputs = installation(job)
    known = {str(p.circuit): p for p in job.pulled.select_related("by")}
    there = {c.id for c in inputs.circuits}
    slack = slack_of(job.firm)
    found = pulls(inputs, slack, frozenset(i for i, p in known.items() if p.undecided and i in there))
    lines = []
    for one in found:
        p = known.get(one.circuit)
        lines.append(PullLine(one, bool(p and p.done), p.by.name if p and p.done and p.by else "", p.at if p and p.done else None))
    return PullList(job.version, slack, tuple(lines), by_cable(found))


@router.get("/{uuid:job_id}/pulls", response={200: PullList, **REFUSALS}, operation_id="pull_list")
def pull_list(request: HttpRequest, job_id: UUID) -> Any:
    """Return the pull list of a job with what is ticked off."""
    with snapshot():
        found = _list(job_of(request.user, job_id))
    return send(PullList, found)


@router.post("/{uuid:job_id}/pulls/{uuid:circuit_id}", response={200: PullList, **REFUSALS}, operation_id="pulled")
def pulled(request: HttpRequest, job_id: UUID, circuit_id: UUID, given: PulledIn) -> Any:
    """Tick a cable off, or say that its far end is not decided. The job is not changed by it, and anybody of the firm may do it."""
    member, job = member_of(request.user), job_of(request.user, job_id)
    if str(circuit_id) not in {c.id for c in installation(job).circuits}:
        raise InputError("circuit_id", str(circuit_id), "a circuit of this job")
    now = timezone.now()
    if given.at is not None and (given.at.tzinfo is None or given.at > now + AHEAD):
        raise InputError("at", given.at.isoformat(), "a time that is not yet to come, with its zone")
    with transaction.atomic():
        row, _ = Pulled.objects.select_for_update().get_or_create(job=job, circuit=circuit_id)
        if given.done is not None and given.done != row.done:
            row.done, row.by, row.at = given.done, member, given.at or now
        if given.undecided is not None:
            row.undecided = given.undecided
        row.save()
    return send(PullList, _list(job))


@slack_router.get("", response={200: SlackIn, **REFUSALS}, operation_id="slack")
def slack(request: HttpRequest) -> Any:
    """Return what the firm cuts more than a run is long."""
    found = slack_of(member_of(request.user).firm)
    return SlackIn(board=found.board, end=found.end, undecided=found.undecided)


@slack_router.patch("", response={200: SlackIn, **REFUSALS}, operation_id="set_slack")
def set_slack(request: HttpRequest, given: SlackIn) -> Any:
    """Say what the firm cuts more than a run is long."""
    SiteRules.objects.update_or_create(firm=designer_of(request.user).firm, defaults=given.dict())
    return given
