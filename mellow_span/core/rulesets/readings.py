"""Cells that a firm read in the printed book, laid over a rule set: the doubt of a cell goes, and a printed value is used in place of ours."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache

from mellow_span.core.cache import Cache
from mellow_span.core.errors import InputError
from mellow_span.core.model.parts import CellRead, Installation
from mellow_span.core.rulesets import Named, RuleSet, rule_set
from mellow_span.core.rulesets.table import Row, Table


def rules_of(job: Installation) -> RuleSet:
    """Return the rule set of a job with the cells its firm has read. Raises RuleSetError for a rule set that is unknown."""
    return layered(job.ruleset, job.cells) if job.cells else rule_set(job.ruleset)


@lru_cache(maxsize=16)
def layered(ruleset: str, cells: tuple[CellRead, ...]) -> RuleSet:
    """Return a rule set with cells read in the printed book laid over it; one that its tables no longer have is left out."""
    rules = rule_set(ruleset)
    tables = dict(rules.tables)
    for cell in cells:
        table = tables.get(cell.table)
        if table is not None and _numeric(table, cell.row, cell.column) is not None:
            tables[cell.table] = _with(table, cell)
    named = Named(rules.by_name.book, {name: tables[table.number] for name, table in rules.by_name.items()})
    return replace(rules, tables=tables, by_name=named, memo=Cache(8_000), results=Cache(4_000))


def told(cell: CellRead) -> str:
    """Word who read a cell, when and where."""
    return f"{'printed value' if cell.value is not None else 'agrees with the printed table'}, {cell.by}, {cell.on}, {cell.edition}"


def checked(rules: RuleSet, cell: CellRead) -> CellRead:
    """Return a cell that can be read in a rule set. Raises InputError where there is no such number."""
    table = rules.tables.get(cell.table)
    if table is None:
        raise InputError("table", cell.table, "one of " + ", ".join(rules.tables))
    if cell.column not in table.columns:
        raise InputError("column", cell.column, "one of " + ", ".join(table.columns))
    if _row(table, cell.row) is None:
        raise InputError("row", cell.row, "one of " + ", ".join(r.label for r in table.rows))
    if _numeric(table, cell.row, cell.column) is None:
        raise InputError("column", cell.column, "a cell that holds a number")
    return cell


def _row(table: Table, label: str) -> Row | None:
    return next((row for row in table.rows if row.label == label), None)


def _numeric(table: Table, label: str, column: str) -> float | None:
    row = _row(table, label)
    value = row.cells.get(column) if row is not None else None
    return value if isinstance(value, float) else None


def _with(table: Table, cell: CellRead) -> Table:
    rows = []
    for row in table.rows:
        if row.label == cell.row:
            cells = row.cells if cell.value is None else {**row.cells, cell.column: cell.value}
            row = row._replace(cells=cells, check=row.check - {cell.column}, read={**row.read, cell.column: told(cell)})
        rows.append(row)
    return replace(table, rows=tuple(rows), _seen=Cache(5_000))
