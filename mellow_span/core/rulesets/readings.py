"""Cells that a firm read in the printed book, laid over a rule set: the doubt of a cell goes, and a printed value is used in place of ours."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache

from mellow_span.core.cache import Cache
from mellow_span.core.errors import InputError
from mellow_span.core.model.parts import CellRead, Installation, Pack
from mellow_span.core.rulesets import Named, RuleSet, rule_set
from mellow_span.core.rulesets.pack_about import about
from mellow_span.core.rulesets.pack_departure import SHOWN, clashes
from mellow_span.core.rulesets.pack_laying import lay
from mellow_span.core.rulesets.packs import at_hand, joined, mark, split
from mellow_span.core.rulesets.table import Row, Table


def rules_of(job: Installation) -> RuleSet:
    """Return the rule set of a job: its book, the cells its firm read in it, and the packs over it.

    Raises RuleSetError for a book that is unknown, InputError for a pack that is not at hand, BadPack for one that cannot be used.
    """
    return layered(job.ruleset, job.cells, job.packs) if job.cells or "+" in job.ruleset else rule_set(job.ruleset)


@lru_cache(maxsize=32)
def layered(ruleset: str, cells: tuple[CellRead, ...], packs: tuple[Pack, ...] = ()) -> RuleSet:
    """Return a book with cells read in its printed form laid over it, then the packs that are named, in their order.

    What a pack brings takes the place of what was read: it says so itself.
    """
    book, _ = split(ruleset)
    rules = with_cells(book, cells) if cells else rule_set(book)
    named = at_hand(ruleset, packs)
    if len(named) > 1:
        _apart(book, named)
    for pack in named:
        rules = lay(rules, pack)
    return rules if rules.id == ruleset else replace(rules, id=ruleset)


def _apart(book: str, packs: tuple[Pack, ...]) -> None:
    """Raise InputError where two packs set the same: which of them counts would hang on their order."""
    found = clashes(rule_set(book), [(p, layered(joined(book, [mark(p)]), (), (p,))) for p in packs])
    if found:
        more = f"; and {len(found) - SHOWN} more" if len(found) > SHOWN else ""
        raise InputError(
            "ruleset", ", ".join(about(p).told for p in packs), f"packs that do not set the same value: {'; '.join(found[:SHOWN])}{more}"
        )


@lru_cache(maxsize=16)
def with_cells(ruleset: str, cells: tuple[CellRead, ...]) -> RuleSet:
    """Return a book with cells read in its printed form laid over it; one that its tables no longer have is left out."""
    rules = rule_set(ruleset)
    tables = dict(rules.tables)
    for cell in cells:
        table = tables.get(cell.table)
        if table is not None and _numeric(table, cell.row, cell.column) is not None:
            tables[cell.table] = _with(table, cell)
    named = Named(rules.by_name.book, {name: tables[table.number] for name, table in rules.by_name.items()})
    return replace(rules, tables=tables, by_name=named, memo=Cache(8_000), results=Cache(4_000), settled=Cache(2_000))


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
