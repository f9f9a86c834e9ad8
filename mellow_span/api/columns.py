"""A job and its copies as columns beside each other."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from mellow_span.api.state import CircuitSummary, names_in, summary
from mellow_span.core.design.effort import Effort
from mellow_span.core.design.what_if import Compared, compare
from mellow_span.core.findings.history import told
from mellow_span.core.findings.results import BoardDemand
from mellow_span.core.model.changes import Change, apply
from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets.readings import rules_of
from mellow_span.jobs import models
from mellow_span.jobs.books import settling


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


def changes_of(given: list[dict[str, Any]]) -> list[Change]:
    """Return changes as they are kept, for the core."""
    return [
        Change(c["op"], c["kind"], "" if c["kind"] in ("job", "supply") else c["id"], c.get("fields", {}), c.get("parent"), c.get("index"))
        for c in given
    ]


def columns(inputs: Installation, job: models.Job, effort: Effort) -> list[Column]:
    """Return a job beside its copies, and beside the set that asks whether it would still hold."""
    kept = list(job.copies.select_related("member"))
    copies = [(str(c.pk), c.name, changes_of(c.changes)) for c in kept]
    found = compare(inputs, copies, effort=effort, settled=settling(job.firm_id, inputs))
    by = {str(c.pk): c for c in kept}
    names = names_in(inputs)
    return [_column(one, by.get(one.id), inputs, names) for one in found]


def _column(one: Compared, kept: models.Copy | None, inputs: Any, names: dict[str, str]) -> Column:
    said: tuple[str, ...] = ()
    if kept is not None and not one.why:
        _, applied = apply(inputs, changes_of(kept.changes), rules_of(inputs).choices)
        said = tuple(told(applied, names))
    result = one.result
    return Column(
        one.id, one.title, one.ready, kept.member.name if kept and kept.member else "", kept.at if kept else None, one.why, said,
        tuple(kept.changes) if kept else (), tuple(summary(c) for c in result.circuits) if result else (),
        tuple(b.demand for b in result.boards) if result else (), one.worse, one.better,
    )  # fmt: skip
