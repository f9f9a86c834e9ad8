"""What papers are made from: a job as it stands or as it was issued, worked out, with the log on site and what the firm goes by."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

from mellow_span.core.design.books import as_shipped
from mellow_span.core.design.check import Checked, work_out
from mellow_span.core.design.coordination import Pair, pairs_of
from mellow_span.core.design.prices import PriceBook, shipped
from mellow_span.core.model.numbers import letters_of, numbers
from mellow_span.core.model.parts import Board, Circuit, Installation
from mellow_span.core.model.stages import at_stage
from mellow_span.core.rulesets import RuleSet, available, rule_set
from mellow_span.core.site.at_boards import all_board_tests
from mellow_span.core.site.entries import Entry, last
from mellow_span.core.site.pulls import Pull, Slack, pulls
from mellow_span.core.site.readings import CircuitTests
from mellow_span.core.site.results import tests_of
from mellow_span.exchange.issue import issued
from mellow_span.papers.page import Stamp


@dataclass(frozen=True)
class Subject:
    """A job with what belongs to it. job: with its routes still apart; entries: its log, in the order of times.

    number: of the revision that is printed, 0 for the job as it stands; document: that revision's file. slack, drums, book: what the firm goes by.
    printed: when, as it is read. key: the public half of the firm's; currency, vat [%]: as it shows amounts. settled: gives the job under another book
    what belongs to that one; books: those it can be put under, with their titles.
    """

    job: Installation
    entries: Sequence[Entry] = ()
    number: int = 0
    document: Mapping[str, Any] = field(default_factory=dict)
    slack: Slack = field(default_factory=Slack)
    drums: Sequence[float] = (50.0, 100.0)
    book: PriceBook = field(default_factory=shipped)
    printed: str = ""
    key: str = ""
    currency: str = "£"
    vat: float | None = None
    settled: Callable[[Installation], Installation] = as_shipped
    # The job at all its stages, where `job` is it at one of them, and what that one is called.
    whole: Installation | None = None
    staged: str = ""
    # Said beside the draft: where it was worked out, if not by the server.
    apart: str = ""
    books: Sequence[tuple[str, str]] = field(default_factory=lambda: [(book, rule_set(book).title) for book in available()])

    def at(self, stage: str, fresh: bool = False) -> Subject:
        """Return what the papers of a job at one of its stages are made from: the last where none is named. A job without stages is as it is.
        fresh: what was there before counts as existing. Raises InputError.
        """
        stages = self.job.stages
        if not stages and not stage:
            return self
        one = next((s for s in stages if s.id == stage), stages[-1] if not stage else None)
        now = at_stage(self.job, one.id if one else stage, fresh)
        return replace(self, job=now, whole=self.job, staged=one.name if one else "")

    @cached_property
    def done(self) -> Checked:
        """The job worked out, without its working."""
        return work_out(self.job, keep=False, reuse=True)

    @cached_property
    def shown(self) -> Checked:
        """The job worked out with its working."""
        return work_out(self.job, keep=True)

    @property
    def rules(self) -> RuleSet:
        """The rule set of the job, with the cells the firm read."""
        return self.done.plan.rules

    @property
    def laid(self) -> Installation:
        """The job as it lies: each span with what its route gives it."""
        return self.done.plan.job

    @cached_property
    def numbers(self) -> dict[str, str]:
        """The number of each circuit by its identity."""
        return numbers(self.job)

    @cached_property
    def letters(self) -> dict[str, str]:
        """The letter of each board by its identity."""
        return letters_of(self.job)

    @cached_property
    def pairs(self) -> tuple[Pair, ...]:
        """Every pair of devices in series."""
        return pairs_of(self.done)

    @cached_property
    def pulled(self) -> tuple[Pull, ...]:
        """The pull list."""
        there = {c.id for c in self.job.circuits}
        marked = last(self.entries, "undecided")
        undecided = frozenset(i for i, e in marked.items() if e.data.undecided and i in there)
        return pulls(self.job, self.slack, undecided, self.whole)

    @cached_property
    def tests(self) -> dict[str, CircuitTests]:
        """The tests of each circuit with what was read."""
        spare = {c.id for c in self.job.circuits if c.spare}
        return {i: found for i, found in tests_of(self.job, self.entries).items() if i not in spare}

    def at_board(self, board: Board) -> list[Circuit]:
        """Return the circuits of a board, in their order, as they lie."""
        return [c for c in self.laid.circuits if c.board == board.id]

    def named(self, circuit: Circuit) -> str:
        """Return a circuit by number and name."""
        return f"{self.numbers[circuit.id]} {circuit.name or 'a circuit'}"

    @cached_property
    def at_boards(self) -> dict[str, CircuitTests]:
        """The tests of each board itself with what was read."""
        return all_board_tests(self.job, self.entries)

    @cached_property
    def stamp(self) -> Stamp:
        """What stands on every page: of an issue what it says itself, of a draft the hash of what an issue of it would hold."""
        job = self.job
        if self.number:
            signature = self.document.get("signature") or {}
            signed = f"signed by {signature['name']}, {day(signature['at'])}" if signature else "not signed"
            revision = f"Revision {self.number}, issued {day(self.document['issued'])} by {self.document['by']}, {signed}"
            digest = str(self.document["hash"])
        else:
            revision, digest = f"Draft, not issued{self.apart}", str(issued(self.whole or job, 0, "", "", site=self.entries)["hash"])
        if self.staged:
            revision += f"; as it stands at {self.staged}"
        key = str(self.document.get("key", "")) if self.number else self.key
        return Stamp(job.name, job.place, job.client, revision, digest, self.rules.title, self.printed, key)


MONTHS = ("January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December")


def day(at: str) -> str:
    """Return a time of the log as a day and an hour, by the clock it was written down by.

    >>> day("2026-03-05T14:07:00+00:00"), day("")
    ('5 March 2026, 14:07', '')
    """
    if len(at) < 16:
        return at
    return f"{int(at[8:10])} {MONTHS[int(at[5:7]) - 1]} {at[:4]}, {at[11:16]}"
