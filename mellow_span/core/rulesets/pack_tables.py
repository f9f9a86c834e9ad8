"""The tables of a pack, read cell by cell: a whole table, or rows laid over a table of the book."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping
from dataclasses import dataclass, replace
from math import isfinite
from typing import Any

from mellow_span.core.cache import Cache
from mellow_span.core.rulesets.table import Key, Row, Table, label_of, parse_key
from mellow_span.core.rulesets.troubles import Troubles

# No cell of any table is larger, and none is negative.
MOST_VALUE = 1e9
MATCHES = ("exact", "up", "down", "band")


@dataclass(frozen=True, slots=True)
class Told:
    """Where the cells of a table of a pack stand: its file, and the line of each row by its label."""

    file: str
    lines: Mapping[str, int]


@dataclass(frozen=True, slots=True)
class Origin:
    """Whose cells these are: how they are told where they are cited, and whether somebody checked them against their source."""

    told: str
    checked: bool


def read_table(about: Mapping[str, Any], text: str, base: Table | None, origin: Origin, troubles: Troubles) -> tuple[Table, Told] | None:
    """Return a table of a pack and where its cells stand; None where what is wrong with it, noted in `troubles`, leaves none.

    about: its entry in pack.toml; base: the table of the book with its number. With `rows` the rows given are laid over that one, else it is
    replaced.
    """
    file = str(about["file"])
    over = base if about.get("rows") else None
    if about.get("rows") and base is None:
        troubles.add("pack.toml", about["id"], "the number of a table of the book, where only rows are given", column="table.rows")
        return None
    keys = over.keys if over else _keys(about, base, troubles)
    if keys is None:
        return None
    try:
        lines = list(csv.reader(io.StringIO(text, newline=""), strict=True))
    except csv.Error as error:
        troubles.add(file, error, "comma-separated values")
        return None
    header = [name.strip() for name in lines[0]] if lines else []
    wanted = [c for k in keys for c in k.columns]
    if missing := [n for n in wanted if n not in header]:
        troubles.add(file, ", ".join(header), "a first line with the columns " + ", ".join(missing), line=1)
        return None
    if twice := sorted({n for n in header if header.count(n) > 1}):
        troubles.add(file, ", ".join(twice), "each column once", line=1)
        return None
    columns = tuple(c for c in header if c not in wanted)
    if over and (strange := [c for c in columns if c not in over.columns]):
        troubles.add(file, ", ".join(strange), "columns of the table: " + ", ".join(over.columns), line=1)
        return None
    texts = _texts(about, base, over)
    reading = _Reading(file, header, keys, columns, texts, _numeric(keys, base), origin, troubles)
    rows, places = _rows(reading, lines[1:])
    told = Told(file, places)
    if over:
        laid = _over(over, rows)
        _bands_apart(reading, list(laid.rows), places)
        return laid, told
    _bands_apart(reading, rows, places)
    inherited = base.units if base else {}
    title, source, unit = (str(about.get(name, getattr(base, name, ""))) for name in ("title", "source", "unit"))
    return Table(
        str(about["id"]), title, f"{source} ({origin.told})", unit, dict(about.get("units", inherited)), keys, columns, tuple(rows)
    ), told


# Keys that are sizes of conductors in any table.
SIZES = ("size", "csa", "line")


def _numeric(keys: tuple[Key, ...], base: Table | None) -> frozenset[str]:
    """The keys of one column that are numbers, since they are in the table of the book, or by their name."""
    found = {c for k in keys for c in k.columns if c in SIZES}
    for at, key in enumerate(base.keys if base and base.keys == keys else ()):
        if base is not None and all(isinstance(row.key[at], float) for row in base.rows):
            found.update(key.columns)
    return frozenset(found)


def _texts(about: Mapping[str, Any], base: Table | None, over: Table | None) -> frozenset[str]:
    """The columns that hold words: as the pack says, else those that hold words in the table of the book."""
    if "text" in about and not over:
        return frozenset(about["text"])
    return frozenset(c for c in (base.columns if base else ()) if base and any(isinstance(r.cells[c], str) for r in base.rows))


def _keys(about: Mapping[str, Any], base: Table | None, troubles: Troubles) -> tuple[Key, ...] | None:
    if "keys" not in about:
        if base is None:
            troubles.add("pack.toml", "", "keys, what a row is found by", column=f"table {about['id']}.keys")
            return None
        return base.keys
    keys = tuple(parse_key(str(k)) for k in about["keys"])
    for key in keys:
        if key.match not in MATCHES or (key.match == "band") != (len(key.columns) == 2):
            allowed = "a column, with :up, :down, or two columns a..b with :band"
            troubles.add("pack.toml", "..".join(key.columns) + ":" + key.match, allowed, column=f"table {about['id']}.keys")
            return None
    return keys


@dataclass(slots=True)
class _Reading:
    file: str
    header: list[str]
    keys: tuple[Key, ...]
    columns: tuple[str, ...]
    texts: frozenset[str]
    # Keys that are numbers: those of the book's table, and sizes of conductors wherever they are.
    numbers: frozenset[str]
    origin: Origin
    troubles: Troubles


def _rows(r: _Reading, lines: list[list[str]]) -> tuple[list[Row], dict[str, int]]:
    found: list[Row] = []
    places: dict[str, int] = {}
    for number, line in enumerate(lines, 2):
        if not any(cell.strip() for cell in line):
            continue
        if len(line) != len(r.header):
            r.troubles.add(r.file, f"{len(line)} cells", f"{len(r.header)} cells, one under each column", line=number)
            continue
        raw = dict(zip(r.header, (cell.strip() for cell in line), strict=True))
        key = tuple(_key_value(r, k, raw, number) for k in r.keys)
        cells = {c: raw[c] if c in r.texts else _number(r, raw[c], number, c) for c in r.columns}
        if any(part is None for part in key):
            continue
        label = label_of(key)
        if label in places:
            r.troubles.add(r.file, label, f"each row once; it stands in line {places[label]} too", line=number)
            continue
        places[label] = number
        given = frozenset(c for c, v in cells.items() if isinstance(v, float))
        found.append(Row(key, label, cells, frozenset() if r.origin.checked else given, dict.fromkeys(given, r.origin.told)))
    if not found:
        r.troubles.add(r.file, "no rows", "at least one row")
    return found, places


def _number(r: _Reading, text: str, line: int, column: str) -> float | None:
    if not text:
        return None
    try:
        value = float(text)
    except ValueError:
        r.troubles.add(r.file, text, "a number with a point, or nothing where the table is blank", line=line, column=column)
        return None
    if not isfinite(value) or not 0 <= value <= MOST_VALUE:
        r.troubles.add(r.file, text, "a number from 0 up", line=line, column=column)
        return None
    return value


def _key_value(r: _Reading, key: Key, raw: dict[str, str], line: int) -> Any:
    """A key as it is looked up by; None where it is wrong, which is noted."""
    if key.match == "band":
        low, high = (_edge(r, raw[c], line, c) for c in key.columns)
        if low is None or (raw[key.columns[1]] and high is None):
            if not raw[key.columns[0]]:
                r.troubles.add(r.file, "", "a number: where the band begins", line=line, column=key.columns[0])
            return None
        if high is not None and high <= low:
            r.troubles.add(r.file, f"{low:g} to {high:g}", "a band that ends above where it begins", line=line, column=key.columns[1])
            return None
        return (low, high)
    text, column = raw[key.columns[0]], key.columns[0]
    if not text:
        r.troubles.add(r.file, "", "what the row is found by", line=line, column=column)
        return None
    if key.match in ("up", "down") or column in r.numbers:
        return _edge(r, text, line, column)
    try:
        return float(text)
    except ValueError:
        return text


def _edge(r: _Reading, text: str, line: int, column: str) -> float | None:
    if not text:
        return None
    try:
        value = float(text)
    except ValueError:
        value = float("nan")
    if not isfinite(value):
        r.troubles.add(r.file, text, "a number", line=line, column=column)
        return None
    return value


def _bands_apart(r: _Reading, rows: list[Row], places: dict[str, int]) -> None:
    """Bands of one key must not lie over each other where the other keys agree: a value would have two rows."""
    for at, key in enumerate(r.keys):
        if key.match != "band":
            continue
        for k, row in enumerate(rows):
            for other in rows[:k]:
                same = all(a == b for i, (a, b) in enumerate(zip(row.key, other.key, strict=True)) if i != at)
                (low, high), (low2, high2) = row.key[at], other.key[at]
                mine = row.label if row.label in places else other.label
                if same and mine in places and (high2 is None or low < high2) and (high is None or low2 < high):
                    there = other.label if mine == row.label else row.label
                    r.troubles.add(r.file, mine, f"a band that does not lie over {there}", line=places[mine], column=key.columns[0])


def _over(base: Table, rows: list[Row]) -> Table:
    """A table of the book with rows laid over it: cells that are given take the place of its own, a row it does not have is put in."""
    given = {row.key: row for row in rows}
    found = [_merged(row, given.pop(row.key, None)) for row in base.rows]
    found += [row._replace(cells={c: row.cells.get(c) for c in base.columns}) for row in given.values()]
    if all(isinstance(part, float) for row in found for part in row.key):
        found.sort(key=lambda row: row.key)
    return replace(base, rows=tuple(found), _seen=Cache(5_000))


def _merged(row: Row, over: Row | None) -> Row:
    if over is None:
        return row
    # A blank cell says nothing: what the book has stays.
    given = {c: v for c, v in over.cells.items() if v not in (None, "")}
    return Row(row.key, row.label, {**row.cells, **given}, (row.check - frozenset(over.read)) | over.check, {**row.read, **over.read})
