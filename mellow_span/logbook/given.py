"""A job as it is stored, with its log and what its firm goes by: what the questions of `answers` are asked of here."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from copy import copy
from functools import cached_property
from typing import cast

from mellow_span.answers.given import Kept, SiteWays
from mellow_span.core.design.prices import PriceBook
from mellow_span.core.model.parts import Installation
from mellow_span.core.site.ends import Neutral
from mellow_span.core.site.entries import Entry
from mellow_span.jobs.books import settling
from mellow_span.jobs.models import Job
from mellow_span.jobs.reads import installation
from mellow_span.logbook import log
from mellow_span.logbook.prices import prices_for, text_of
from mellow_span.logbook.rules import site_rules, slack_of


class Stored:
    """What a question is asked of. kinds: entries of the log that it reads, None for all.

    Job and log are read at once, so that whoever makes this holds one snapshot of the database; what the firm goes by is read when it is wanted.
    """

    def __init__(self, job: Job, kinds: tuple[str, ...] | None = (), inputs: Installation | None = None) -> None:
        self.job, self.version = job, job.version
        self.inputs = self.whole = installation(job) if inputs is None else inputs
        self._entries: list[Entry] = [] if kinds == () else log.entries(job, *(kinds or ()))

    def at(self, inputs: Installation) -> Stored:
        """Return the same, seen as the job stands at one of its stages."""
        found = copy(self)
        found.inputs = inputs
        return found

    def entries(self, *kinds: str) -> Sequence[Entry]:
        """Return the log in the order of times, of some kinds alone where they are named."""
        return [e for e in self._entries if e.kind in kinds] if kinds else self._entries

    @cached_property
    def ways(self) -> SiteWays:
        """What the firm goes by on site."""
        rules = site_rules(self.job.firm)
        return SiteWays(slack_of(rules), rules.drums, cast(Neutral, rules.neutral))

    @cached_property
    def book(self) -> PriceBook:
        """The prices of the firm for this job."""
        return prices_for(self.job.firm_id, self.inputs)

    @cached_property
    def own_prices(self) -> bool:
        """Whether these are the firm's own."""
        return bool(text_of(self.job.firm_id))

    @cached_property
    def copies(self) -> Sequence[Kept]:
        """What is kept beside the job."""
        rows = self.job.copies.select_related("member")
        return [Kept(str(c.pk), c.name, tuple(c.changes), c.member.name if c.member else "", c.at) for c in rows]

    @property
    def settled(self) -> Callable[[Installation], Installation]:
        """Gives the job under another book what belongs to that one."""
        return settling(self.job.firm_id, self.inputs)
