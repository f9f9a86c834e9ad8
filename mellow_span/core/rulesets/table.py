"""One regulation table: strict loading and look-up by the edge policy of each of its keys."""

from __future__ import annotations

import csv
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any, NamedTuple

from mellow_span.core.cache import Cache
from mellow_span.core.errors import OutsideTable, RuleSetError


@dataclass(frozen=True, slots=True)
class Citation:
    """The cell a value was read from. check: the value is still to be checked against the printed table."""

    table: str
    row: str
    column: str
    check: bool
    # Who read the cell in the printed book, when and in which edition; empty where nobody did.
    read: str = ""


class Cell(NamedTuple):
    """A looked-up value with the row it stands in, its unit, its clause, whether it is still to be checked, and how to cite it."""

    value: float
    row: str
    unit: str
    clause: str
    check: bool
    cite: Citation


class Key(NamedTuple):
    """A key of a table. match: exact, up, down or band; a band has two columns."""

    columns: tuple[str, ...]
    match: str


class Row(NamedTuple):
    """A row: its key values, a label, and its cells by column (None where the table is blank)."""

    key: tuple[Any, ...]
    label: str
    cells: dict[str, Any]
    check: frozenset[str]
    # By column, who read the cell in the printed book.
    read: Mapping[str, str] = {}


@dataclass(slots=True)
class Table:
    """A table of a rule set."""

    number: str
    title: str
    source: str
    unit: str
    units: dict[str, str]
    keys: tuple[Key, ...]
    columns: tuple[str, ...]
    rows: tuple[Row, ...]
    _seen: Cache[Any, Cell] = field(default_factory=lambda: Cache(5_000))

    def all_to_check(self) -> Table:
        """Return the table with every number in it still to be checked."""
        numbers = [frozenset(c for c, v in r.cells.items() if isinstance(v, float)) for r in self.rows]
        rows = tuple(r._replace(check=check) for r, check in zip(self.rows, numbers, strict=True))
        return replace(self, rows=rows, _seen=Cache(5_000))

    def cell(self, row: Any, column: str) -> Cell:
        """Return the cell for a key (or a tuple of keys) and a column.

        Raises OutsideTable where the table has no value: outside its rows, or a blank cell.
        """
        seen = self._seen.get((row, column))
        if seen is None:
            seen = self._find(row, column)
            self._seen.put((row, column), seen)
        return seen

    def _find(self, row: Any, column: str) -> Cell:
        if column not in self.columns:
            raise OutsideTable(self.number, f"column {column}", "columns " + ", ".join(self.columns))
        found = self.row(row)
        value = found.cells[column]
        if value is None:
            filled = [r.label for r in self.rows if r.cells[column] is not None]
            raise OutsideTable(self.number, f"{found.label}, {column}", ", ".join(filled))
        unit = self.units.get(column, found.cells.get("unit") or self.unit)
        check = column in found.check
        # Made once with the cell: a cell is cited thousands of times.
        cite = Citation(self.number, found.label, column, check, found.read.get(column, ""))
        return Cell(value, found.label, unit, found.cells.get("clause") or "", check, cite)

    def row(self, row: Any) -> Row:
        """Return the row for a key or a tuple of keys, by the edge policy of each key. Raises OutsideTable."""
        given = row if isinstance(row, tuple) else (row,)
        left = list(self.rows)
        for place, (key, value) in enumerate(zip(self.keys, given, strict=True)):
            left = _MATCH[key.match](left, place, value)
            if not left:
                allowed = dict.fromkeys(str(_plain(r.key[place])) for r in self.rows)
                raise OutsideTable(self.number, f"{key.columns[0]} {_plain(value)}", ", ".join(allowed))
        return left[0]


def _exact(rows: list[Row], place: int, value: Any) -> list[Row]:
    return [r for r in rows if r.key[place] == value]


# A key that was computed may miss the row it means by the rounding of a binary fraction: 230 / (230 / 6000) is the row of 6000.
GUARD = 1e-9


def _up(rows: list[Row], place: int, value: float) -> list[Row]:
    least = value - abs(value) * GUARD
    above = [r.key[place] for r in rows if r.key[place] >= least]
    return _exact(rows, place, min(above)) if above else []


def _down(rows: list[Row], place: int, value: float) -> list[Row]:
    most = value + abs(value) * GUARD
    below = [r.key[place] for r in rows if r.key[place] <= most]
    return _exact(rows, place, max(below)) if below else []


def _band(rows: list[Row], place: int, value: float) -> list[Row]:
    least = value - abs(value) * GUARD
    return [r for r in rows if r.key[place][0] < least and (r.key[place][1] is None or least <= r.key[place][1])]


_MATCH = {"exact": _exact, "up": _up, "down": _down, "band": _band}


def _plain(value: Any) -> str:
    if isinstance(value, tuple):
        return f"{_plain(value[0])} to {_plain(value[1])}" if value[1] is not None else f"over {_plain(value[0])}"
    return f"{value:g}" if isinstance(value, float) else str(value)


def _number(text: str) -> Any:
    try:
        return float(text)
    except ValueError:
        return text.strip()


def load_table(folder: Path, about: dict[str, Any], doubtful: dict[str, set[tuple[str, str]]]) -> Table:
    """Load one table as described in rules.toml. Raises RuleSetError for anything that does not fit."""
    with (folder / about["file"]).open(encoding="utf-8", newline="") as file:
        header, *lines = list(csv.reader(file))
    keys = tuple(parse_key(k) for k in about["keys"])
    names = [c for k in keys for c in k.columns]
    if missing := [n for n in names if n not in header]:
        raise RuleSetError(f"{about['file']}: no key column {missing}")
    columns = tuple(c for c in header if c not in names)
    marks = doubtful.get(about["file"].removesuffix(".csv"), set())
    rows = tuple(_row(about, header, keys, columns, line, marks) for line in lines if line)
    if len({r.key for r in rows}) != len(rows):
        raise RuleSetError(f"{about['file']}: a key stands twice")
    if stray := marks - {(_mark(r.key), c) for r in rows for c in r.check}:
        raise RuleSetError(f"{about['file']}: doubtful cells that do not exist: {sorted(stray)}")
    return Table(about["id"], about["title"], about["source"], about["unit"], about.get("units", {}), keys, columns, rows)


def parse_key(text: str) -> Key:
    """Return a key as rules.toml writes it: a column, or two as a..b, and after a colon how it is matched."""
    name, _, match = text.partition(":")
    return Key(tuple(name.split("..")), match or "exact")


def _mark(key: tuple[Any, ...]) -> str:
    flat = [p for k in key for p in (k if isinstance(k, tuple) else (k,))]
    return " ".join(_plain(p) for p in flat if p is not None)


def _row(
    about: dict[str, Any],
    header: list[str],
    keys: tuple[Key, ...],
    columns: tuple[str, ...],
    line: list[str],
    marks: set[tuple[str, str]],
) -> Row:
    if len(line) != len(header):
        raise RuleSetError(f"{about['file']}: {len(line)} cells under {len(header)} columns: {line}")
    raw = dict(zip(header, line, strict=True))
    key = tuple(_key_value(k, raw) for k in keys)
    text = set(about.get("text", ()))
    cells = {c: _cell(about["file"], c, raw[c], c in text) for c in columns}
    check = frozenset(c for c in columns if (_mark(key), c) in marks)
    return Row(key, label_of(key), cells, check)


def label_of(key: tuple[Any, ...]) -> str:
    """Return what a row is called where it is cited."""
    return ", ".join(_plain(k) for k in key)


def _key_value(key: Key, raw: dict[str, str]) -> Any:
    if key.match == "band":
        low, high = (raw[c] for c in key.columns)
        return (float(low), float(high) if high else None)
    return _number(raw[key.columns[0]])


def _cell(file: str, column: str, text: str, is_text: bool) -> Any:
    if is_text:
        return text
    if not text.strip():
        return None
    try:
        return float(text)
    except ValueError:
        raise RuleSetError(f"{file}: {column} holds {text!r}, which is no number") from None
