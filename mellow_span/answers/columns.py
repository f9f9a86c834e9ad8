"""A job and its copies as columns beside each other."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from mellow_span.answers.given import Given, Kept
from mellow_span.answers.state import CircuitSummary, summary
from mellow_span.core.design.effort import Effort
from mellow_span.core.design.what_if import Compared, compare
from mellow_span.core.findings.history import names_of, told
from mellow_span.core.findings.results import BoardDemand
from mellow_span.core.model.changes import Change, apply
from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets.readings import rules_of


@dataclass(slots=True)
class Column:
    """A copy beside the job: every circuit in it, the demand of each board, what turned; said: its changes in words.

    ready: one of the set that always stands there; why: why its changes cannot be made any more. demand: of the boards.
    """

    id: str
    title: str
    ready: bool
    by: str
    at: datetime | None
    why: str
    said: tuple[str, ...]
    changes: tuple[dict[str, Any], ...]
    circuits: tuple[CircuitSummary, ...]
    demand: tuple[BoardDemand, ...]
    worse: tuple[str, ...]
    better: tuple[str, ...]


def changes_of(given: Any) -> list[Change]:
    """Return changes as they are kept or sent, for the core. given: each with op, kind, id, and fields, parent, index where it has them."""
    return [
        Change(c["op"], c["kind"], "" if c["kind"] in ("job", "supply") else c["id"], c.get("fields", {}), c.get("parent"), c.get("index"))
        for c in given
    ]


def columns(given: Given, effort: Effort) -> list[Column]:
    """Return a job beside its copies, and beside the set that asks whether it would still hold."""
    inputs, by = given.inputs, {c.id: c for c in given.copies}
    found = compare(inputs, [(c.id, c.name, changes_of(c.changes)) for c in by.values()], effort=effort, settled=given.settled)
    names = names_of(inputs)
    return [_column(one, by.get(one.id), inputs, names) for one in found]


def _column(one: Compared, kept: Kept | None, inputs: Installation, names: dict[str, str]) -> Column:
    said: tuple[str, ...] = ()
    if kept is not None and not one.why:
        _, applied = apply(inputs, changes_of(kept.changes), rules_of(inputs).choices)
        said = tuple(told(applied, names))
    result = one.result
    return Column(
        one.id, one.title, one.ready, kept.by if kept else "", kept.at if kept else None, one.why, said,
        kept.changes if kept else (), tuple(summary(c) for c in result.circuits) if result else (),
        tuple(b.demand for b in result.boards) if result else (), one.worse, one.better,
    )  # fmt: skip
