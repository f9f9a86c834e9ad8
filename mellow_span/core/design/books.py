"""One job under two books, side by side: each check with both verdicts, figures and clauses, and what decides a difference."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

from mellow_span.core.design.check import check
from mellow_span.core.design.effort import Effort
from mellow_span.core.errors import InputError
from mellow_span.core.findings.results import WORSE, Check, CircuitResult, InstallationResult, Verdict
from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets import Known, available
from mellow_span.core.rulesets.fitting import hold_to
from mellow_span.core.rulesets.readings import rules_of


@dataclass(slots=True)
class InBook:
    """How a check stands in one book; verdict None where that book does not ask it, decides False where it shows it and goes by another."""

    verdict: Verdict | None
    text: str
    clause: str
    value: float | None
    limit: float | None
    unit: str
    decides: bool = True
    doubtful: bool = False


@dataclass(slots=True)
class Both:
    """A check in both books. differs: the verdicts are others."""

    id: str
    title: str
    here: InBook
    there: InBook
    differs: bool


@dataclass(slots=True)
class UnderBoth:
    """A circuit, the intake or a board under both books; id and name of it. decides: what makes the difference in a sentence, empty where none is."""

    id: str
    kind: Literal["circuit", "intake", "board"]
    name: str
    here: Verdict
    there: Verdict
    checks: list[Both]
    decides: str


NOT_ASKED = InBook(None, "not required", "", None, None, "")


def as_shipped(job: Installation) -> Installation:
    """Return a job under another book as that one ships: nobody has read anything in it."""
    return replace(job, cells=())


def beside(
    job: Installation, other: str, settled: Callable[[Installation], Installation] = as_shipped, effort: Effort | None = None
) -> tuple[UnderBoth, ...]:
    """Return a job under its own book and under another, circuit by circuit, then intake and boards.

    settled: gives the job under the other book what belongs to that one. Raises InputError for a book that is none, or that does not know what
    is in the job.
    """
    if other not in Known():
        raise InputError("with", other, "one of " + ", ".join(available()))
    there = settled(replace(job, ruleset=other))
    hold_to(there, rules_of(there))
    return between(job, there, effort)


def between(job: Installation, other: Installation, effort: Effort | None = None) -> tuple[UnderBoth, ...]:
    """Return two values of one job side by side, of the same circuits and boards under two rule sets: circuits, then intake and boards."""
    effort = effort or Effort()
    effort.expect(2 * len(job.circuits))
    effort.spend(len(job.circuits))
    mine = check(job, keep=False, reuse=True)
    effort.spend(len(job.circuits))
    theirs = check(other, keep=False, reuse=True)
    titles = rules_of(job).title, rules_of(other).title
    names = {c.id: c.name or "a circuit" for c in job.circuits} | {b.id: b.name or "a board" for b in job.boards}
    found = [_circuit(names[a.id], a, b, titles) for a, b in zip(mine.circuits, theirs.circuits, strict=True)]
    places = zip(_places(mine), _places(theirs), strict=True)
    return (*found, *(_place(names.get(i, "Intake"), i, a, b, titles) for (i, a), (_, b) in places))


def _places(found: InstallationResult) -> list[tuple[str, tuple[Check, ...]]]:
    return [("intake", found.intake), *((b.id, b.checks) for b in found.boards)]


def _circuit(name: str, a: CircuitResult, b: CircuitResult, titles: tuple[str, str]) -> UnderBoth:
    checks = _both(a.checks, b.checks)
    return UnderBoth(a.id, "circuit", name, a.verdict, b.verdict, checks, _decides(checks, titles) if a.verdict != b.verdict else "")


def _place(name: str, id: str, a: tuple[Check, ...], b: tuple[Check, ...], titles: tuple[str, str]) -> UnderBoth:
    checks = _both(a, b)
    here, there = (_worst([c for c in of if c.decides]) for of in (a, b))
    return UnderBoth(
        id, "intake" if id == "intake" else "board", name, here, there, checks, _decides(checks, titles) if here != there else ""
    )


def _worst(checks: list[Check]) -> Verdict:
    return max((c.verdict for c in checks), key=lambda v: (WORSE[v], v == "close"), default="meets")


def _both(a: tuple[Check, ...], b: tuple[Check, ...]) -> list[Both]:
    mine, theirs = {c.id: c for c in a}, {c.id: c for c in b}
    found = []
    for id in [*mine, *(i for i in theirs if i not in mine)]:
        x, y = mine.get(id), theirs.get(id)
        here, there = (_in_book(c) for c in (x, y))
        title = (x or y).title  # type: ignore[union-attr]
        found.append(Both(id, title, here, there, _counts(here) != _counts(there)))
    return found


def _counts(s: InBook) -> Verdict:
    """What a check counts for in its book: what is not asked, or does not decide, stands in nobody's way."""
    return s.verdict if s.verdict is not None and s.decides else "meets"


def _in_book(c: Check | None) -> InBook:
    return NOT_ASKED if c is None else InBook(c.verdict, c.text, c.clause, c.value, c.limit, c.unit, c.decides, c.doubtful)


def _decides(checks: list[Both], titles: tuple[str, str]) -> str:
    """The gravest check on which the books differ, in a sentence."""
    differing = [c for c in checks if c.differs]
    if not differing:
        return ""
    one = max(differing, key=lambda c: max(WORSE[_counts(s)] for s in (c.here, c.there)))
    told = [f"{title}: {s.text}{f' ({s.clause})' if s.clause else ''}" for title, s in zip(titles, (one.here, one.there), strict=True)]
    return f"{one.title}. {told[0]}; {told[1]}"
