"""How far a pack departs from the book under it: what it changes, by how much, and which of it lies on the unsafe side.

Nothing here refuses a pack. It is shown before the pack is laid over, and past the bounds below a supervisor says in words why it is right.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, fields
from math import log10

from mellow_span.core.model.parts import Pack
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.pack_about import about
from mellow_span.core.rulesets.pack_sense import capacities
from mellow_span.core.rulesets.table import Table
from mellow_span.core.rulesets.vocabulary import T

# Bounds: a cell this much on the unsafe side, and such a share of a table's compared cells on it.
MOST_CELL, MOST_SHARE = 0.10, 0.25
# A ratio so near to a power of ten looks like another unit; the first such power is ten itself.
NEAR_TEN = 0.05
SHOWN = 8
# Tables whose larger values let more through, and those whose smaller values do; of any other every change is taken to be on the unsafe side.
LARGER = frozenset({
    T.DISCONNECTION_TIMES, T.LEAD_CAPACITY, T.K_VALUES, T.BREAKER_LOOPS, T.FUSE_LOOPS, T.ARMOUR_AREA, T.CONDUIT_SHORT, T.CONDUIT_LONG, T.TRUNKING,
    T.AMBIENT_AIR, T.AMBIENT_GROUND, T.SOIL, T.DEPTH, T.WRAPPED_SHORT,
})  # fmt: skip
SMALLER = frozenset({
    T.LEAD_DROP, T.LEAD_RESISTANCE, T.RESISTANCE, T.RESISTANCE_HOT, T.ARMOUR_RESISTANCE, T.CONDUIT_DESIGN, T.LEAST_CSA, T.BURIED_EARTHING,
    T.CPC_BY_TABLE, T.BREAKER_CPC_GUIDANCE, T.PME_BONDING, T.BREAKER_INSTANT, T.BREAKER_THERMAL, T.BREAKER_ENERGY, T.FUSE_ENERGY, T.FUSE_CURRENTS,
    T.CONDUIT_CABLE_SHORT, T.CONDUIT_CABLE_LONG, T.TRUNKING_CABLE, T.CABLE_SIZES, T.LEAKAGE, T.DIVERSITY, T.CONVENTIONAL,
})  # fmt: skip


@dataclass(frozen=True, slots=True)
class Moved:
    """A cell that is another one: table, row, column, as the book has it and as the pack has it."""

    table: str
    row: str
    column: str
    book: float
    pack: float

    @property
    def told(self) -> str:
        """The cell in words."""
        return f"Table {self.table}, {self.row}, {self.column}: {self.book:g} in the book, {self.pack:g} here"


@dataclass(frozen=True, slots=True)
class TableDeparture:
    """How far a table departs. cells: numbers of the book that stand in it; changed: how many are others; added: that the book does not have.

    least, most: the pack's value over the book's, of those that changed, None where none did; unsafe: how many lie on the unsafe side.
    """

    table: str
    title: str
    cells: int
    changed: int
    added: int
    least: float | None
    most: float | None
    unsafe: int


@dataclass(frozen=True, slots=True)
class Departure:
    """How far a pack departs. tens: cells that look like another unit; unsafe: the worst on the unsafe side, the worst first.

    otherwise: what the book has and the pack reads in another way, though no number changed: which table or column a cable, a place or a device is
    looked up in, and cells of words. bounds: what is past the bounds, in words; empty: nobody need confirm it.
    """

    tables: tuple[TableDeparture, ...]
    tens: tuple[Moved, ...]
    unsafe: tuple[Moved, ...]
    otherwise: tuple[str, ...]
    bounds: tuple[str, ...]


def departure(book: RuleSet, laid: RuleSet) -> Departure:
    """Return how far a rule set with a pack over it departs from the book under it, table by table."""
    side = _sides(laid)
    tables, tens, unsafe, bounds = [], [], [], []
    for number, table in laid.tables.items():
        base = book.tables.get(number)
        if table is base:
            continue
        moved, cells, added = _compared(base, table)
        wrong = [m for m in moved if _unsafe(m, side.get((number, m.column), 0))]
        tables.append(_of_table(table, moved, cells, added, len(wrong)))
        tens += [m for m in moved if _another_unit(m)]
        unsafe += wrong
        if cells and len(wrong) > MOST_SHARE * cells:
            bounds.append(f"Table {number}: {len(wrong)} of {cells} values on the unsafe side")
    unsafe.sort(key=lambda m: -_far(m))
    past = [m for m in unsafe if _far(m) > MOST_CELL]
    if past:
        bounds.append(f"{len(past)} {'value' if len(past) == 1 else 'values'} over {MOST_CELL:.0%} on the unsafe side".replace("%", " %"))
    if tens:
        bounds.append(f"{len(tens)} {'value looks' if len(tens) == 1 else 'values look'} like another unit: ten times or more apart")
    otherwise = (*_looked_up(book, laid), *_words(book, laid))
    if otherwise:
        bounds.append(f"{len(otherwise)} {'thing' if len(otherwise) == 1 else 'things'} read otherwise than in the standard")
    return Departure(tuple(tables), tuple(tens[:SHOWN]), tuple(unsafe[:SHOWN]), otherwise[:SHOWN], tuple(bounds))


# Columns of words by which a cell is told.
CALLED = ("clause", "meaning")
# Of what a book describes: fields that change no figure, and those that only ask for more where they are so.
HARMLESS = ("title", "look", "ratings", "sizes")
STRICTER: dict[str, bool] = {"deemed": False, "household": False, "concealed": True, "joists": True, "surrounded": True}


def _looked_up(book: RuleSet, laid: RuleSet) -> Iterator[str]:
    """What the book has and the pack looks up elsewhere: a name of the vocabulary, a cable, a place, a device, a way of laying, a formula."""
    for name, table in book.by_name.items():
        if laid.by_name[name].number != table.number:
            yield f"{name.replace('_', ' ')}: table {table.number} in the book, {laid.by_name[name].number} here"
    for kind, ours, theirs in (
        ("cable", book.families, laid.families), ("place", book.places, laid.places), ("device", book.devices, laid.devices),
    ):  # fmt: skip
        for key, one in ours.items():
            changed = [f.name for f in fields(one) if _counts(f.name, getattr(one, f.name), getattr(theirs[key], f.name))]
            if changed:
                yield f"{kind} {one.title}: {', '.join(changed)}"
    for kind, before, after in (("laid", book.laid, laid.laid), ("formula", book.variants, laid.variants)):
        yield from (f"{kind} {key.replace('_', ' ')}" for key, value in before.items() if after[key] != value)


def _counts(name: str, before: object, after: object) -> bool:
    return before != after and name not in HARMLESS and not (name in STRICTER and after is STRICTER[name])


def _words(book: RuleSet, laid: RuleSet) -> Iterator[str]:
    """Cells of words that are others: a rule may read them."""
    for number, table in laid.tables.items():
        base = book.tables.get(number)
        if base is None or table is base:
            continue
        there = {row.key: row.cells for row in base.rows}
        for row in table.rows:
            for column, text in row.cells.items():
                before = there.get(row.key, {}).get(column)
                if column not in CALLED and isinstance(text, str) and isinstance(before, str) and before != text:
                    yield f"Table {number}, {row.label}, {column}: “{before}” in the book, “{text}” here"


def _of_table(table: Table, moved: list[Moved], cells: int, added: int, unsafe: int) -> TableDeparture:
    ratios = [m.pack / m.book for m in moved if m.book]
    return TableDeparture(
        table.number, table.title, cells, len(moved), added, min(ratios, default=None), max(ratios, default=None), unsafe
    )  # fmt: skip


def _compared(base: Table | None, table: Table) -> tuple[list[Moved], int, int]:
    """The cells that are others, how many of the book's numbers are still there, and how many there are that it does not have."""
    there = {row.key: row.cells for row in base.rows} if base else {}
    moved, cells, added = [], 0, 0
    for row in table.rows:
        for column, value in row.cells.items():
            if not isinstance(value, float):
                continue
            old = there.get(row.key, {}).get(column)
            if not isinstance(old, float):
                added += 1
                continue
            cells += 1
            if old != value:
                moved.append(Moved(table.number, row.label, column, old, value))
    return moved, cells, added


def _sides(rules: RuleSet) -> dict[tuple[str, str], int]:
    """By number of a table and column: 1 where a larger value lets more through, -1 where a smaller one does."""
    whole = {rules.by_name[name].number: sign for names, sign in ((LARGER, 1), (SMALLER, -1)) for name in names if name in rules.by_name}
    whole |= {family.drop: -1 for family in rules.families.values() if family.drop}
    whole |= {pair[0]: 1 for ways in rules.laid.values() for pair in ways.values()}
    found = {(number, column): sign for number, sign in whole.items() if number in rules.tables for column in rules.tables[number].columns}
    # One table may hold currents and the drop beside them.
    return found | {pair: 1 for family in rules.families.values() for pair in capacities(family)}


def _unsafe(m: Moved, side: int) -> bool:
    return m.pack != m.book if side == 0 else (m.pack - m.book) * side > 0


def _far(m: Moved) -> float:
    """How far a cell is from the book's, as a share of the larger of the two."""
    return abs(m.pack - m.book) / max(m.pack, m.book)


def _another_unit(m: Moved) -> bool:
    if not m.book or not m.pack:
        return False
    powers = log10(m.pack / m.book)
    return abs(powers) > 1 - NEAR_TEN and abs(powers - round(powers)) < NEAR_TEN


def clashes(book: RuleSet, packs: Sequence[tuple[Pack, RuleSet]]) -> list[str]:
    """Return what two packs over a book both set, in words: a cell, or a list of checks. packs: each with the book under it alone."""
    cells: dict[tuple[str, ...], int] = {}
    titles = [about(pack).told for pack, _ in packs]
    found = []
    for k, (pack, laid) in enumerate(packs):
        told = about(pack)
        lists = [(name,) for name, given in (("not_asked", told.not_asked), ("silent", told.silent)) if given]
        for what in (*_set_by(book, laid), *lists):
            first = cells.setdefault(what, k)
            if first != k:
                where = f"Table {', '.join(what)}" if len(what) > 1 else what[0]
                found.append(f"{where} is in {titles[first]} and in {titles[k]}")
    return found


def _set_by(book: RuleSet, laid: RuleSet) -> Iterator[tuple[str, str, str]]:
    """The cells that a pack brings: table, row and column."""
    for number, table in laid.tables.items():
        if table is not book.tables.get(number):
            yield from ((number, row.label, column) for row in table.rows for column in row.read)
