"""What no book can be: cells of a pack that cannot be right whatever the country, each told with its line."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from itertools import pairwise

from mellow_span.core.rulesets import Family, RuleSet, in_table
from mellow_span.core.rulesets.pack_tables import Told
from mellow_span.core.rulesets.table import Table
from mellow_span.core.rulesets.troubles import Troubles
from mellow_span.core.rulesets.vocabulary import T

# The factors by which capacities are multiplied: none is of any use over twice.
FACTORS = (T.AMBIENT_AIR, T.AMBIENT_GROUND, T.SOIL, T.DEPTH, T.WRAPPED_SHORT)
MOST_FACTOR = 2.0


def hold_to_sense(laid: RuleSet, where: Mapping[str, Told], troubles: Troubles) -> None:
    """Hold the cells of the pack to what no book can be: a larger conductor that carries less, a factor of more than two, a rising resistance."""
    numbers = {name: table.number for name, table in laid.by_name.items()}
    rising = {pair for f in laid.families.values() for pair in capacities(f)}
    falling = {f.drop for f in laid.families.values() if f.drop} | {numbers.get(name, "") for name in (T.RESISTANCE, T.RESISTANCE_HOT)}
    factors = {numbers.get(name, "") for name in FACTORS} | {pair[0] for ways in laid.laid.values() for pair in ways.values()}
    for number, told in where.items():
        table = laid.tables.get(number)
        for column in table.columns if table else ():
            assert table is not None
            if number in factors:
                _each(troubles, table, told, column, lambda v: 0 < v <= MOST_FACTOR, f"a factor over 0 and up to {MOST_FACTOR:g}")
            elif (number, column) in rising:
                _each(troubles, table, told, column, lambda v: v > 0, "a current over 0 A")
                _ordered(troubles, table, told, column, lambda before, now: now > before, "more than the size before it carries")
            elif number in falling:
                _each(troubles, table, told, column, lambda v: v > 0, "a value over 0")
                # The reactive part hardly falls, and in some books it rises a little.
                if column != "x" and not column.endswith("_x"):
                    _ordered(troubles, table, told, column, lambda before, now: now <= before, "no more than the size before it has")


def _each(troubles: Troubles, table: Table, told: Told, column: str, good: Callable[[float], bool], allowed: str) -> None:
    for row in table.rows:
        value = row.cells[column]
        if row.label in told.lines and isinstance(value, float) and not good(value):
            troubles.add(told.file, f"{value:g}", allowed, told.lines[row.label], column)


def _ordered(troubles: Troubles, table: Table, told: Told, column: str, good: Callable[[float, float], bool], allowed: str) -> None:
    """Down a column by rising size: each cell of the pack beside the one before it and the one after it."""
    if len(table.keys) != 1 or not all(isinstance(r.key[0], float) for r in table.rows):
        return
    there = [(r, r.cells[column]) for r in sorted(table.rows, key=lambda r: r.key[0]) if isinstance(r.cells[column], float)]
    for (before, low), (now, high) in pairwise(there):
        mine = now if now.label in told.lines else before
        if mine.label in told.lines and not good(low, high):
            beside = f"{allowed}: {low:g} at {before.label}, {high:g} at {now.label}"
            troubles.add(told.file, f"{mine.cells[column]:g}", beside, told.lines[mine.label], column)


def capacities(family: Family) -> list[tuple[str, str]]:
    """Return every table and column that a family has capacities in."""
    found = [in_table(family.capacity, str(c)) for columns in family.columns.values() if isinstance(columns, list) for c in columns]
    return found + [(str(listed[0]), str(c)) for listed in family.also.values() if isinstance(listed, list) and listed for c in listed[1:]]
