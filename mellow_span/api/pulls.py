"""The pull list of a job: figured from the design, with what is ticked off on site, and how the cables are cut from drums."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Router
from ninja.decorators import decorate_view

from mellow_span.api.behind import behind
from mellow_span.api.errors import Refusal
from mellow_span.api.render import send
from mellow_span.api.waiting import Searching
from mellow_span.core.site.entries import last
from mellow_span.core.site.pulls import CableSum, Pull, Slack, by_cable, pulls, ticked
from mellow_span.jobs.models import Job
from mellow_span.jobs.ownership import job_of
from mellow_span.jobs.reads import installation, snapshot
from mellow_span.logbook import log
from mellow_span.logbook.rules import site_rules, slack_of
from mellow_span.papers.drums import Cutting, cuttings, pieces, rests

router = Router()
REFUSALS: dict[Any, Any] = {401: Refusal, 404: Refusal, 422: Refusal}


@dataclass(slots=True)
class PullLine:
    """A cable of the pull list. done: it is pulled in; by, at: who ticked it off, and when."""

    pull: Pull
    done: bool
    by: str
    at: str | None


@dataclass(slots=True)
class PullList:
    """The pull list in the order of pulling, how much of each cable it takes, and how that is cut.

    version: of the job it was figured from; slack: what the firm cuts more, drums: what it buys, at_hand: what is left of a cable on the van [m].
    """

    version: int
    slack: Slack
    drums: list[float]
    lines: tuple[PullLine, ...]
    sums: tuple[CableSum, ...]
    cutting: list[Cutting]
    at_hand: dict[str, list[float]]


def pull_list_of(job: Job) -> PullList:
    """Return the pull list of a job as it stands, with what its log says."""
    inputs, entries = installation(job), log.entries(job, "pulled", "undecided", "on_hand")
    there, rules = {c.id for c in inputs.circuits}, site_rules(job.firm)
    undecided = frozenset(i for i, e in last(entries, "undecided").items() if e.data.undecided and i in there)
    found = pulls(inputs, slack_of(rules), undecided)
    firsts, at_hand = ticked(entries), rests(entries)
    lines = [PullLine(one, (e := firsts.get(one.circuit)) is not None, e.by if e else "", e.at if e else None) for one in found]
    return PullList(
        job.version, slack_of(rules), rules.drums, tuple(lines), by_cable(found), cuttings(pieces(found), rules.drums, at_hand), at_hand
    )


@router.get("/{uuid:job_id}/pulls", response={200: PullList, 202: Searching, **REFUSALS}, operation_id="pull_list")
@decorate_view(behind)
def pull_list(request: HttpRequest, job_id: UUID) -> Any:
    """Return the pull list of a job with what is ticked off, and the cutting plan."""
    with snapshot():
        found = pull_list_of(job_of(request.user, job_id))
    return send(PullList, found)
