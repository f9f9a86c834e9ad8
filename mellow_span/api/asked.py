"""A question of a job: asked of it as it stands, answered by `answers`."""

from __future__ import annotations

from typing import Annotated, Any
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Query

from mellow_span.answers.questions import QUESTIONS
from mellow_span.answers.stages import part_of, seen
from mellow_span.api.render import send
from mellow_span.jobs.ownership import job_of
from mellow_span.jobs.reads import snapshot
from mellow_span.logbook.given import Stored

# The stage of a job that something is asked of, by identity; empty for none in particular.
OfStage = Annotated[str, Query(max_length=36)]


def given_of(request: HttpRequest, job_id: UUID, kinds: tuple[str, ...] | None = ()) -> Stored:
    """Return a job of the person's firm with entries of its log, all read from one state of the database. kinds: None for all. Raises NotYours."""
    with snapshot():
        return Stored(job_of(request.user, job_id), kinds)


def ask(request: HttpRequest, job_id: UUID, address: str, stage: str = "", **about: Any) -> HttpResponse:
    """Answer a question of a job. address: as `QUESTIONS` has it; about: what stands in the address and the query; stage: the one it
    is asked of, see `answers.stages.seen`.
    """
    question = QUESTIONS[address]
    given = given_of(request, job_id, question.log)
    words = {name: str(value) for name, value in about.items()}
    # Worked out with no snapshot held: nobody is kept waiting by it.
    found = question.answer(seen(given, address, part_of(words), stage), **words)
    return send(question.kind, found)
