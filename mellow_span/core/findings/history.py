"""What an edit did, in words a person reads: 'Shower: line conductor csa 10 mm² became 6 mm²'."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from contextlib import suppress
from itertools import groupby
from typing import Any

from mellow_span.core.adding import added
from mellow_span.core.errors import RuleSetError
from mellow_span.core.model import fields as of
from mellow_span.core.model.changes import Applied
from mellow_span.core.model.legs import BOARD, plain
from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets import available, rule_set
from mellow_span.core.rulesets.packs import split
from mellow_span.core.units import MA_PER_A

NAMELESS = {
    "job": "The job", "supply": "Intake", "board": "a board", "circuit": "a circuit", "load": "a load", "span": "a span", "route": "a route",
    "stage": "a stage", "dismissal": "advice",
}  # fmt: skip
Names = Mapping[str, str]


def names_of(*jobs: Installation) -> dict[str, str]:
    """Return what those things are called that fields may name: boards, routes, stages, the spans of runs that branch, types of cable."""
    parts: list[Any] = [part for job in jobs for part in (*job.boards, *job.routes, *job.stages)]
    found: dict[str, str] = {part.id: part.name for part in parts}
    for job in jobs:
        # A book that is not here any more has no names.
        with suppress(RuleSetError):
            found |= {family.id: family.title for family in rule_set(job.ruleset).families.values()}
        for circuit in job.circuits:
            if not plain(circuit):
                found |= {s.id: s.box or s.name or f"the end of span {k}" for k, s in enumerate(circuit.run.spans, 1)}
    return found


def told(applied: Sequence[Applied], names: Names) -> list[str]:
    """Return one line for each thing an edit did; what went or came along with a part is counted, not listed.

    names: see `names_of`.
    """
    lines: list[str] = []
    for _, group in groupby(applied, key=lambda one: one.step):
        lines += _step(list(group), names)
    return lines


def _step(group: Sequence[Applied], names: Names) -> Iterable[str]:
    """One change that was asked for: the last of what it did is what it was about."""
    last = group[-1]
    if last.op == "remove":
        along = [one for one in group[:-1] if one.op == "remove"]
        yield f"{_subject(last)} removed{_counted(along)}"
    elif last.op == "add":
        yield f"{_subject(last)} added"
    elif last.op == "move":
        yield f"{_subject(last)} moved{' to another board' if _elsewhere(last) else ''}"
    else:
        for name, value in (last.after or {}).items():
            before = (last.before or {}).get(name)
            # What was entered as it stood is no news.
            if before != value:
                yield f"{_subject(last)}: {field_told(last.kind, name, before, value, names)}"


def _subject(one: Applied) -> str:
    if one.kind in ("load", "span", "route", "stage", "board", "circuit") and one.name:
        return one.name
    return one.name or NAMELESS[one.kind].capitalize()


def _elsewhere(one: Applied) -> bool:
    return (one.before or {}).get("parent") != (one.after or {}).get("parent")


def _counted(along: Sequence[Applied]) -> str:
    told_of = []
    for kind in ("circuit", "load", "span"):
        count = added(one.kind == kind for one in along)
        if count:
            told_of.append(f"{count} {kind}{'s' if count > 1 else ''}")
    return f", with {' and '.join(told_of)}" if told_of else ""


def label(kind: str, name: str) -> str:
    """Return what a field is called in a sentence: its meaning up to the first mark, with a small letter unless it starts with a symbol."""
    meaning = str(of.about(kind, name)["meaning"]).split(";")[0].split(":")[0]
    symbol = meaning[:2].isalpha() and meaning[:2].isupper()
    return meaning if symbol else meaning[:1].lower() + meaning[1:]


def field_told(kind: str, name: str, before: Any, after: Any, names: Names) -> str:
    """Word one field that changed, with both values."""
    if name == "name":
        return f"renamed {after or 'nothing'} (was {before})" if before else f"called {after}"
    return f"{label(kind, name)} {value_told(kind, name, before, names)} became {value_told(kind, name, after, names)}"


def value_told(kind: str, name: str, value: Any, names: Names) -> str:
    """Word a value of a field with its unit; empty ones too."""
    if value is None or value == "":
        return "none"
    if isinstance(value, bool):
        return "yes" if value else "no"
    unit = str(of.about(kind, name).get("unit", "")).partition(" or ")[0]
    if isinstance(value, int | float):
        if unit == "A" and 0 < value < 1:
            return f"{value * MA_PER_A:g} mA"
        # Every digit that was entered: what is compared here is what somebody typed.
        return f"{value:.10g} {unit}".rstrip()
    if of.about(kind, name).get("choices") == "book":
        book, marks = split(str(value))
        told = f" with {len(marks)} {'pack' if len(marks) == 1 else 'packs'} over it ({', '.join(marks)})" if marks else ""
        return rule_set(book).title + told if book in available() else str(value)
    target = of.REFERENCES.get((kind, name))
    if target is not None and str(value) not in names:
        # A part that is gone by now, or the board that every run starts from.
        return "the board" if value == BOARD else NAMELESS[target]
    return names.get(str(value), str(value).replace("_", " "))
