"""Marking: each line beside what is right, own errors taken forward, the first wrong line with the slip it most likely was."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from mellow_span.core.practice.exercise import EXACT, NEAR, YES, Exercise, Line, Slip, agree, worked

Stands = Literal["right", "follows", "wrong", "left"]
# Slips that can happen on any line: a figure of thousands, an answer turned over.
THOUSAND = 1000.0


@dataclass(slots=True)
class Mark:
    """How a line stands. right: what it is; own: what follows from the lines before as they were filled in, where that is another.

    follows: it is right by the learner's own figures above. slip: the kind it most likely was, empty for none known; told: why, in a sentence.
    """

    id: str
    stands: Stands
    answer: float | None
    right: float
    own: float | None
    slip: str
    told: str


@dataclass(slots=True)
class Marked:
    """An exercise marked. first: the first wrong line, empty where none is; whole: every line is right, or follows."""

    marks: list[Mark]
    first: str
    whole: bool


def mark(made: Exercise, answers: Mapping[str, float | None]) -> Marked:
    """Mark answers by the lines they are of. What was left open is taken as right for the lines after it."""
    right, own = made.solved, made.values
    found: list[Mark] = []
    for line in made.lines:
        answer = answers.get(line.id)
        expected = worked(line.work, own)
        found.append(_mark(line, answer, right, own, expected))
        own[line.id] = right[line.id] if answer is None else answer
    first = next((m.id for m in found if m.stands == "wrong"), "")
    return Marked(found, first, all(m.stands in ("right", "follows") for m in found))


def _mark(line: Line, answer: float | None, right: Mapping[str, float], own: Mapping[str, float], expected: float | None) -> Mark:
    value = right[line.id]
    differs = expected if expected is not None and not agree(expected, value, EXACT) else None
    if answer is None:
        return Mark(line.id, "left", None, value, differs, "", "not filled in")
    if agree(answer, value, line.near):
        return Mark(line.id, "right", answer, value, differs, "", "")
    if expected is not None and agree(answer, expected, line.near):
        return Mark(line.id, "follows", answer, value, differs, "", FOLLOWS)
    if line.decides:
        told = f"{'yes' if (expected if expected is not None else value) == YES else 'no'} follows from the figures above"
        return Mark(line.id, "wrong", answer, value, differs, "", told)
    slip = likely(line, answer, (own, right))
    # Where no slip is known, what to look at again is said, and not the figure.
    again = (
        f"Table {line.table} gives a different figure"
        if line.table
        else f"work it out again: {line.formula}"
        if line.formula
        else "think again"
    )
    told = slip.told if slip else again
    return Mark(line.id, "wrong", answer, value, differs, slip.kind if slip else "", told)


FOLLOWS = "it follows from your own figure above"


def likely(line: Line, answer: float, sides: tuple[Mapping[str, float], ...]) -> Slip | None:
    """Return the slip that gives an answer, by the learner's own figures above or by the right ones; the nearest where several do."""
    bases = [worked(line.work, side) for side in sides]
    # What is said of this very line goes before what can happen on any.
    for slips in ([line.slips] * len(sides), [() if base is None else _general(base) for base in bases]):
        near: list[tuple[float, int, Slip]] = []
        for side, named in zip(sides, slips, strict=True):
            for place, slip in enumerate(named):
                value = worked(slip.work, side)
                if value and agree(answer, value, max(line.near, NEAR)):
                    near.append((abs(answer - value) / abs(value), place, slip))
        if near:
            return min(near, key=lambda one: one[:2])[2]
    return None


def _general(value: float) -> tuple[Slip, ...]:
    return (
        Slip("kilo", "a thousand times too large: check milli, kilo and mΩ per metre", lambda _: value * THOUSAND),
        Slip("kilo", "the figure is a thousand times too small: kW are thousands of W, metres thousands of mm", lambda _: value / THOUSAND),
    )
