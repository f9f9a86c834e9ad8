"""Copies of a job with named changes, looked at side by side; one that is kept goes in as an edit like any other."""

from __future__ import annotations

from typing import Annotated, Any
from uuid import UUID

from django.db import transaction
from django.http import HttpRequest
from ninja import Field, Query, Router, Schema, Status

from mellow_span.answers.columns import Column, changes_of
from mellow_span.api.errors import Refusal
from mellow_span.api.jobs import BOOK, ChangeIn
from mellow_span.api.searches import searched
from mellow_span.api.waiting import Searching
from mellow_span.core.design.books import UnderBoth
from mellow_span.core.design.what_if import MOST_COPIES
from mellow_span.core.errors import InputError
from mellow_span.core.model.changes import apply
from mellow_span.core.rulesets.readings import rules_of
from mellow_span.jobs import models
from mellow_span.jobs.books import in_its_book, rules_at
from mellow_span.jobs.ownership import designer_of, job_of, member_of
from mellow_span.jobs.reads import installation

router = Router()
REFUSALS: dict[Any, Any] = {400: Refusal, 401: Refusal, 404: Refusal, 422: Refusal}


class CopyIn(Schema):
    """A copy: its identity, what it is called, and the changes it is made of."""

    id: UUID
    name: str = Field(min_length=1, max_length=200, pattern=r"^[^\x00]*\S[^\x00]*$")
    changes: list[ChangeIn] = Field(min_length=1, max_length=200)


class CopyOut(Schema):
    """A copy as it is kept."""

    id: UUID
    name: str


@router.get("/{uuid:job_id}/copies", response={200: list[Column], 202: Searching, **REFUSALS}, operation_id="copies")
def copies(request: HttpRequest, job_id: UUID) -> Any:
    """Return the job beside its copies, and beside the set that asks whether it would still hold; 202 while it is worked on."""
    return searched(request, job_id, "copies")


@router.get("/{uuid:job_id}/beside", response={200: list[UnderBoth], 202: Searching, **REFUSALS}, operation_id="beside")
def under_another(request: HttpRequest, job_id: UUID, book: Annotated[str, Query(max_length=BOOK)]) -> Any:
    """Return a job under its own book and under another, check by check, and what decides each difference; 202 while it is worked on."""
    rules_at(member_of(request.user).firm_id, book)
    return searched(request, job_id, "beside", book)


@router.post("/{uuid:job_id}/copies", response={201: CopyOut, **REFUSALS}, operation_id="add_copy")
def add_copy(request: HttpRequest, job_id: UUID, given: CopyIn) -> Any:
    """Keep a copy beside the job; sent again with its identity it takes the place of what was kept. Refused where its changes cannot be made."""
    changes = [c.model_dump(mode="json") for c in given.changes]
    with transaction.atomic():
        job = job_of(request.user, job_id, lock=True)
        inputs = installation(job)
        in_its_book(job.firm_id, inputs, apply(inputs, changes_of(changes), rules_of(inputs).choices)[0])
        member, others = member_of(request.user), job.copies.exclude(pk=given.id)
        if job.copies.filter(pk=given.id).exclude(member=member).exists():
            designer_of(request.user)
        if others.count() >= MOST_COPIES:
            raise InputError("copies", MOST_COPIES + 1, f"at most {MOST_COPIES} copies per job; discard one first")
        if models.Copy.objects.filter(pk=given.id).exclude(job=job).exists():
            raise InputError("id", str(given.id), "an identity that is not used yet")
        models.Copy.objects.update_or_create(
            pk=given.id, defaults={"job": job, "member": member, "name": given.name.strip(), "changes": changes}
        )
    return Status(201, CopyOut(id=given.id, name=given.name.strip()))


@router.delete("/{uuid:job_id}/copies/{uuid:copy_id}", response={204: None, **REFUSALS}, operation_id="remove_copy")
def remove_copy(request: HttpRequest, job_id: UUID, copy_id: UUID) -> Any:
    """Throw a copy away; one that is not there any more is gone already. An apprentice throws away their own."""
    member, kept = member_of(request.user), job_of(request.user, job_id).copies.filter(pk=copy_id)
    if kept.exclude(member=member).exists():
        designer_of(request.user)
    kept.delete()
    return Status(204, None)
