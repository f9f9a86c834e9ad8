"""What each kind of search answers with as it goes out, whoever works it out: the request, or the process for searches."""

from __future__ import annotations

from mellow_span.answers.searches import SEARCHES
from mellow_span.answers.stages import seen
from mellow_span.api.papers import MADE, made
from mellow_span.api.render import text
from mellow_span.core.design.effort import Effort
from mellow_span.core.model.parts import Installation
from mellow_span.jobs import models
from mellow_span.jobs.searches import Asked
from mellow_span.logbook.given import Stored


def answered(job: models.Job, inputs: Installation, asked: Asked, effort: Effort) -> str:
    """Work a search out and return its answer as it goes out. Raises StoppedError, CoreError."""
    if asked.kind == MADE:
        # A file that is made is no search, but waits in the same queue.
        return made(job, inputs, asked, effort)
    kind, found = SEARCHES[asked.kind]
    return text(kind, found(seen(Stored(job, inputs=inputs), asked.kind, asked.subject), asked.subject, effort))
