"""The pull list of a job: figured from the design, with what is ticked off on site, and how the cables are cut from drums."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Router
from ninja.decorators import decorate_view

from mellow_span.answers.site import PullList
from mellow_span.api.asked import OfStage, ask
from mellow_span.api.behind import behind
from mellow_span.api.errors import Refusal
from mellow_span.api.waiting import Searching

router = Router()
REFUSALS: dict[Any, Any] = {401: Refusal, 404: Refusal, 422: Refusal}


@router.get("/{uuid:job_id}/pulls", response={200: PullList, 202: Searching, **REFUSALS}, operation_id="pull_list")
@decorate_view(behind)
def pull_list(request: HttpRequest, job_id: UUID, stage: OfStage = "") -> Any:
    """Return the pull list of a job with what is ticked off, and the cutting plan."""
    return ask(request, job_id, "/pulls", stage)
