"""One job under two books, side by side: each check with both verdicts, figures and clauses, and what decides a difference."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

from mellow_span.core.design.check import check
from mellow_span.core.design.effort import Effort
from mellow_span.core.errors import InputError
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import STANDS, WORSE, Check, CircuitResult, InstallationResult, Verdict
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
    """The gravest check on which the books differ: its name, and the two figures that part them, or what the stricter one says."""
    differing = [c for c in checks if c.differs]
    if not differing:
        return ""
    one = max(differing, key=lambda c: max(WORSE[_counts(s)] for s in (c.here, c.there)))
    # A figure that rests on a cell nobody checked says so wherever it stands.
    mine, theirs = (f"{name}{' †' if s.doubtful else ''}" for name, s in zip(_short(titles), (one.here, one.there), strict=True))
    return f"{one.title}: {_apart(one.here, one.there, mine, theirs)}"


def _short(titles: tuple[str, str]) -> tuple[str, str]:
    """Names of two books without their years, unless the years alone tell them apart."""
    mine, theirs = (t.partition(":")[0] for t in titles)
    return (mine, theirs) if mine != theirs else titles


def _apart(here: InBook, there: InBook, mine: str, theirs: str) -> str:
    """What parts one check under two books named mine and theirs: two figures where both have them, else the words of the graver side."""
    for asked, other, title in ((here, there, mine), (there, here, theirs)):
        if other.verdict is None:
            return f"required by {title} alone{_clause(asked)}: {asked.text.partition(';')[0]}"
    if told := _figures_apart(here, there, mine, theirs):
        return told + _clause(there if there.clause else here)
    graver = there if WORSE[_counts(there)] >= WORSE[_counts(here)] else here
    stands = ", ".join(f"{STANDS[_counts(s)]} by {t}" for s, t in ((here, mine), (there, theirs)))
    return f"{stands}: {graver.text.partition(';')[0]}{_clause(graver)}"


def _figures_apart(here: InBook, there: InBook, mine: str, theirs: str) -> str:
    """The figures that part two results, what they have in common said once; empty where no figure does."""
    if not (_figures(here) and _figures(there) and here.unit == there.unit):
        return ""
    values, limits = ([quantity(x or 0.0, here.unit) for x in of] for of in ((here.value, there.value), (here.limit, there.limit)))
    if values[0] == values[1]:
        return "" if limits[0] == limits[1] else f"{values[0]} against {limits[0]} by {mine}, {limits[1]} by {theirs}"
    if limits[0] == limits[1]:
        return f"{values[0]} by {mine}, {values[1]} by {theirs}, against {limits[0]}"
    return f"{values[0]} against {limits[0]} by {mine}, {values[1]} against {limits[1]} by {theirs}"


def _clause(s: InBook) -> str:
    return f" ({s.clause})" if s.clause else ""


def _figures(s: InBook) -> bool:
    """Whether a check stands by figures that say something: a yes or no is told in words."""
    return s.value is not None and s.limit is not None and bool(s.unit) and s.limit != 0 and s.verdict != "not_known"
