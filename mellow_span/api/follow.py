"""To begin what an address of a job is answered with 202 for, and to ask how far it is."""

from __future__ import annotations

import json
from typing import Any
from urllib.parse import urlsplit
from uuid import UUID

from django.http import HttpRequest
from django.urls import Resolver404
from ninja import Field, Router, Schema

from mellow_span.api.behind import LONGEST, viewed
from mellow_span.api.errors import Refusal
from mellow_span.api.waiting import Searching
from mellow_span.core.errors import InputError
from mellow_span.jobs.ownership import job_of

router = Router()


class FollowIn(Schema):
    """What is asked for: its address, with the query."""

    address: str = Field(max_length=LONGEST)


class Followed(Searching):
    """How far it is. done: its address has the answer now, or says why there is none."""

    done: bool


@router.post("/{uuid:job_id}/searches", response={200: Followed, 401: Refusal, 404: Refusal, 422: Refusal}, operation_id="follow")
def follow(request: HttpRequest, job_id: UUID, given: FollowIn) -> Any:
    """Begin what a job is asked for at an address, or say that somebody still waits for it: what nobody asks for is given up."""
    job_of(request.user, job_id)
    whole = f"/api/jobs/{job_id}"
    path = urlsplit(given.address).path
    try:
        if path != whole and not path.startswith(whole + "/"):
            raise Resolver404
        response = viewed(request.user, given.address, begins=True)
    except Resolver404:
        raise InputError("address", given.address[:200], f"an address of this job, {whole}/...") from None
    far = json.loads(response.content) if response.status_code == 202 else {"share": 1, "before": 0}
    return Followed(done=response.status_code != 202, **far)
