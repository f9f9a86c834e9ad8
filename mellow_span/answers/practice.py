"""Exercises as they are set, and marked."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from mellow_span.core.design.check import check
from mellow_span.core.findings.results import Check
from mellow_span.core.practice.exercise import Exercise
from mellow_span.core.practice.making import HEADS
from mellow_span.core.practice.marking import Mark, mark

Answers = Mapping[str, float | None]


@dataclass(slots=True)
class Told:
    """What is given: its symbol and text, the value [unit]."""

    id: str
    text: str
    value: float | None
    unit: str


@dataclass(slots=True)
class Asked:
    """A line to fill in. table: where it is read, empty where the tables are shut; decides: a yes or no."""

    id: str
    symbol: str
    ask: str
    unit: str
    table: str
    decides: bool


@dataclass(slots=True)
class ExerciseOut:
    """A made-up circuit to work out; its head, book and seed make it again. seed: not told while it stands in a paper that is sat."""

    head: str
    title: str
    book: str
    seed: int | None
    story: tuple[str, ...]
    given: tuple[Told, ...]
    lines: tuple[Asked, ...]


@dataclass(slots=True)
class Formula:
    """How a line is worked out: by which formula and clause, or in which table it is read."""

    id: str
    formula: str
    clause: str
    table: str


@dataclass(slots=True)
class MarkedOut:
    """An exercise marked: each line, the first wrong one, how each is worked out, and the working of the program for the same circuit."""

    marks: tuple[Mark, ...]
    first: str
    whole: bool
    formulas: tuple[Formula, ...]
    working: tuple[Check, ...]


TITLES = {h.id: h.title for h in HEADS}


def exercise_told(made: Exercise, tables: bool, sat: bool = False) -> ExerciseOut:
    """Return an exercise as it is set. tables: where each line is read is told; sat: it stands in a paper that is sat, and its seed is not told."""
    return ExerciseOut(
        made.head, TITLES[made.head], made.book, None if sat else made.seed, made.story, tuple(Told(g.id, g.text, g.value, g.unit) for g in made.given),
        tuple(Asked(x.id, x.symbol, x.ask, x.unit, x.table if tables else "", x.decides) for x in made.lines),
    )  # fmt: skip


def marked(made: Exercise, answers: Answers) -> MarkedOut:
    """Return an exercise marked, own errors taken forward."""
    found = mark(made, answers)
    formulas = tuple(Formula(x.id, x.formula, x.clause, x.table) for x in made.lines)
    return MarkedOut(tuple(found.marks), found.first, found.whole, formulas, _working(made))


def _working(made: Exercise) -> tuple[Check, ...]:
    """The working of the program for the same circuit: of its checks, those of its route and of its board."""
    done = check(made.job)
    circuit = next(c for c in done.circuits if c.id == made.circuit)
    places = [c for b in done.boards for c in b.checks] + [c for r in done.routes for c in r.checks]
    return tuple(c for c in (*circuit.checks, *places) if c.id in made.checks)
