"""The ends of the cables of a job: cores and colours, glands, armour, what to test after."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Router
from ninja.decorators import decorate_view

from mellow_span.api.asked import OfStage, ask
from mellow_span.api.behind import behind
from mellow_span.api.errors import Refusal
from mellow_span.api.waiting import Searching
from mellow_span.core.site.ends import Ends

router = Router()


@router.get(
    "/{uuid:job_id}/ends", response={200: list[Ends], 202: Searching, 401: Refusal, 404: Refusal, 422: Refusal}, operation_id="ends"
)
@decorate_view(behind)
def job_ends(request: HttpRequest, job_id: UUID, stage: OfStage = "") -> Any:
    """Return the ends of every cable of a job."""
    return ask(request, job_id, "/ends", stage)
