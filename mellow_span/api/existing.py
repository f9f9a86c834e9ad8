"""What is there already: what was found in it, graded, with changes since and limits of the survey."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Router
from ninja.decorators import decorate_view

from mellow_span.api.asked import ask
from mellow_span.api.behind import behind
from mellow_span.api.errors import Refusal
from mellow_span.api.waiting import Searching
from mellow_span.core.site.existing import Existing

router = Router()


@router.get(
    "/{uuid:job_id}/existing", response={200: Existing, 202: Searching, 401: Refusal, 404: Refusal, 422: Refusal}, operation_id="existing"
)
@decorate_view(behind)
def job_existing(request: HttpRequest, job_id: UUID) -> Any:
    """Return what is found in the existing work of a job, the worst first."""
    return ask(request, job_id, "/existing")
