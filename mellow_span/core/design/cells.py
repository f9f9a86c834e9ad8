"""The cells a job rests on that are still to be checked against the printed table, most used first."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from mellow_span.core.design.check import check
from mellow_span.core.findings.results import Check, InstallationResult
from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets.readings import rules_of
from mellow_span.core.working.steps import Step


@dataclass(slots=True)
class CellUse:
    """A cell: its table with the title, row, column, the value used with its unit, in how many steps of the job, whether it is still to be
    checked, and who read it.
    """

    table: str
    title: str
    row: str
    column: str
    value: float
    unit: str
    uses: int
    check: bool
    read: str


def cells_of(job: Installation) -> tuple[CellUse, ...]:
    """Return the doubtful cells a job rests on, those nobody read first, most used first."""
    rules = rules_of(job)
    uses: Counter[tuple[str, str, str]] = Counter()
    seen: dict[tuple[str, str, str], Step] = {}
    for step in _steps(check(job, keep=True)):
        cite = step.cite
        if cite is not None and (cite.check or cite.read):
            key = (cite.table, cite.row, cite.column)
            uses[key] += 1
            seen.setdefault(key, step)
    found = []
    for key, count in uses.items():
        step = seen[key]
        assert step.cite is not None
        found.append(
            CellUse(*key[:1], rules.tables[key[0]].title, *key[1:], step.value, step.unit, count, step.cite.check, step.cite.read)
        )  # fmt: skip
    return tuple(sorted(found, key=lambda one: (not one.check, -one.uses, one.table, one.row, one.column)))


def _steps(found: InstallationResult) -> list[Step]:
    checks: list[Check] = [*found.intake, *(c for r in found.circuits for c in r.checks)]
    checks += [c for b in found.boards for c in b.checks] + [c for r in found.routes for c in r.checks]
    steps = [step for one in checks for step in one.steps]
    steps += [step for r in found.circuits for span in r.spans for step in span.steps]
    return steps + [step for b in found.boards for step in b.demand.steps]
