"""A file of an instrument, whatever it looks like: its encoding, what stands before its table, its columns, and each cell as it is meant.

Nothing is guessed where a figure may mean two things: such cells are given back to be asked about.
"""

from __future__ import annotations

import codecs
import csv
import io
import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Literal

from mellow_span.core.adding import added
from mellow_span.core.errors import InputError
from mellow_span.core.site.readings import TITLES, UNITS

Decimal = Literal["", "point", "comma"]
MOST_LINES = 2000
# What a column is called by one instrument or another.
COLUMNS: dict[str, tuple[str, ...]] = {
    "circuit": ("circuit", "circuit no", "circuit number", "circuit ref", "way", "board", "no", "id", "label"),
    "quantity": ("quantity", "test", "test type", "function", "type", "measurement", "parameter"),
    "value": ("value", "result", "reading", "measured", "measured value"),
    "unit": ("unit", "units"),
    "point": ("point", "location", "outlet", "position"),
    "at": ("at", "distance"),
    "temperature": ("temperature", "temp", "conductor temperature"),
    "volts": ("volts", "test voltage", "voltage"),
    "instrument": ("instrument", "tester", "model"),
    "serial": ("serial", "serial no", "serial number"),
    "method": ("method",),
    "time": ("time", "date", "when", "date/time", "date time", "timestamp"),
}
# Those that say more of a reading.
MORE = ("point", "at", "temperature", "volts", "instrument", "serial", "method", "time")
NAMED = {alias: name for name, aliases in COLUMNS.items() for alias in aliases}
# What a quantity is called; written without spaces, in small letters.
QUANTITIES: dict[str, tuple[str, ...]] = {
    "zs": ("zs", "loop", "loopimpedance", "earthloop", "zsloop"), "ze": ("ze", "externalloop"), "ra": ("ra", "electrode", "earthelectrode"),
    "r1r2": ("r1+r2", "r1r2", "r1andr2"), "r2_lead": ("r2lead", "wanderlead", "r2wanderlead"), "r1": ("r1", "r1ring", "linering"),
    "rn": ("rn", "neutralring"), "r2": ("r2", "cpcring"),
    "ir_le": ("irl-e", "irle", "insulationl-e", "rinsl-e"), "ir_ne": ("irn-e", "irne", "insulationn-e", "rinsn-e"),
    "ir_ln": ("irl-n", "irln", "insulationl-n", "rinsl-n"), "ir_ll": ("irl-l", "irll", "insulationl-l", "rinsl-l"),
    "ipf": ("ipf", "pfc", "psc", "pscc", "pefc", "ik"), "rcd_half": ("rcdx1/2", "rcd½", "rcd½xiδn", "x1/2", "½xiδn", "rcd0.5", "x0.5"),
    "rcd_1": ("rcdx1", "rcd1", "x1", "rcd1xiδn", "tripx1", "rcdtime", "triptime"), "rcd_5": ("rcdx5", "rcd5", "x5", "rcd5xiδn"),
    "button": ("testbutton", "rcdtestbutton", "button"),
    "polarity": ("polarity",), "rotation": ("rotation", "phasesequence", "phaserotation"), "functional": ("functional", "functionaltest"),
}  # fmt: skip
# Where a capital letter tells one from another: R2 is what a long lead reads, r2 the cpc of a ring from end to end; of R1 alone nothing is read.
CASED = {"R1": "", "R2": "r2_lead", "r1": "r1", "r2": "r2"}
CALLED = {name.replace("_", ""): name for name in TITLES} | {alias: name for name, aliases in QUANTITIES.items() for alias in aliases}


def _plain(text: str) -> str:
    """A name without spaces, in small letters, with the signs that a keyboard has."""
    return re.sub(r"[\s_]+", "", text.lower()).replace("×", "x").replace("−", "-").replace("–", "-")


TITLED = {_plain(title): name for name, title in TITLES.items()}
# Units by what they are times of that in which a quantity is kept.
TIMES: dict[str, dict[str, float]] = {
    "Ω": {"mΩ": 0.001, "mohm": 0.001, "MΩ": 1e6, "Mohm": 1e6}, "MΩ": {"MΩ": 1, "Mohm": 1, "M": 1, "GΩ": 1000, "Gohm": 1000, "G": 1000, "Ω": 1e-6},
    "ms": {}, "A": {"kA": 1000},
}  # fmt: skip
# The same, of names in which a capital letter says nothing.
PLAIN: dict[str, dict[str, float]] = {
    "Ω": {"ω": 1, "ohm": 1, "ohms": 1, "r": 1, "kω": 1000, "kohm": 1000},
    "MΩ": {"megohm": 1, "megohms": 1, "meg": 1, "gohm": 1000, "kohm": 0.001, "kω": 0.001, "ohm": 1e-6, "ohms": 1e-6},
    "ms": {"ms": 1, "msec": 1, "s": 1000, "sec": 1000}, "A": {"a": 1, "amp": 1, "amps": 1, "ka": 1000},
}  # fmt: skip
OVER = ("ol", "o.l", "o/l", "0l", "over", "overrange", "over range", "open", "∞")
YES, NO = ("yes", "pass", "ok", "passed", "✓", "✔", "true"), ("no", "fail", "failed", "✗", "✘", "false")
TRIPPED = ("trip", "tripped")
NOTHING = ("", "-", "--", "---", "–", "n/a", "na", "not tested", "n.t.")
A_VALUE = re.compile(r"(?P<more>[>≥]?)\s*(?P<figure>[\d][\d.,\u00a0\u202f' ]*)\s*(?P<unit>[A-Za-zΩΩµ]*)\s*")
# A comma that can part nothing but decimals.
A_DECIMAL_COMMA = re.compile(r"(?<![\d.,])(?:0,\d+|\d+,(?:\d{1,2}|\d{4,}))(?![\d.,])")


@dataclass(slots=True)
class FileLine:
    """A reading of a file as it was read. line: in the file; cell: as it stands there; quantity: empty where it is none.

    wrong: what would be taken in its place, of: of which field, given: what stands there, where that is not the cell.

    value in the unit of its quantity; asks: its figure may mean two things, by decimal point and by decimal comma.
    """

    line: int
    circuit: str
    quantity: str
    cell: str
    value: float | None = None
    over: bool = False
    tripped: bool = False
    ok: bool | None = None
    more: dict[str, str] = field(default_factory=dict)
    wrong: str = ""
    of: str = "value"
    given: str = ""
    asks: tuple[float, float] | None = None


@dataclass(slots=True)
class FileRead:
    """A file as it was read. encoding, before: lines ahead of its table; columns: each with what it was taken for, empty for nothing."""

    encoding: str
    before: int
    columns: list[tuple[str, str]]
    lines: list[FileLine]


def decoded(content: bytes) -> tuple[str, str]:
    """Return the text of a file and its encoding: by its mark, else UTF-16 by its zeros, UTF-8 where it is that, else Latin-1 as Windows has it."""
    for mark, name in ((codecs.BOM_UTF8, "utf-8-sig"), (codecs.BOM_UTF16_LE, "utf-16"), (codecs.BOM_UTF16_BE, "utf-16")):
        if content.startswith(mark):
            return content.decode(name, "replace"), name.removesuffix("-sig")
    if content[1:200:2].count(0) > len(content[1:200:2]) / 2:
        return content.decode("utf-16-le", "replace"), "utf-16"
    if content[0:200:2].count(0) > len(content[0:200:2]) / 2:
        return content.decode("utf-16-be", "replace"), "utf-16"
    try:
        return content.decode("utf-8"), "utf-8"
    except UnicodeDecodeError:
        return content.decode("cp1252", "replace"), "latin-1"


def read_instrument(content: bytes, decimal: Decimal = "") -> FileRead:
    """Read a file of an instrument. decimal: what parts whole numbers from decimals, where that was asked about.

    Raises InputError where there is no table in it that names circuits, and quantities with their values.
    """
    text, encoding = decoded(content)
    text = text.replace("\r\n", "\n").replace("\r", "\n")
    rows = list(_rows(text))
    if len(rows) > MOST_LINES:
        raise InputError("file", f"{len(rows)} lines", f"at most {MOST_LINES} lines")
    for at, (_, row) in enumerate(rows):
        taken = [_column(cell) for cell in row]
        kinds = {kind for kind, _, _ in taken}
        if "circuit" in kinds and ({"quantity", "value"} <= kinds or "reading" in kinds):
            columns = [
                (cell.strip(), {"reading": TITLES.get(name, name)}.get(kind, kind))
                for cell, (kind, name, _) in zip(row, taken, strict=True)
            ]
            commas = any(A_DECIMAL_COMMA.search(cell) for _, cells in rows[at + 1 :] for cell in cells)
            lines = [one for number, cells in rows[at + 1 :] for one in _line(number, cells, taken, decimal, commas)]
            return FileRead(encoding, rows[at][0] - 1, columns, lines)
    raise InputError(
        "file", text[:40], "a table with a column for the circuit, and one for quantity and one for value, or a column for each quantity"
    )


def _rows(text: str) -> Iterator[tuple[int, list[str]]]:
    """The rows of a table with their lines; the separator is the one that most lines have."""
    signs = {sign: added(1 for line in text.split("\n") if sign in line) for sign in (";", "\t", ",")}
    sign = max(signs, key=lambda s: signs[s] + (0.5 if s != "," else 0)) if max(signs.values()) else ","
    reader = csv.reader(io.StringIO(text), delimiter=sign, skipinitialspace=True)
    try:
        for row in reader:
            if any(cell.strip() for cell in row):
                yield reader.line_num, row
    except csv.Error as error:
        raise InputError("file", str(error), "separated values, with quotes closed") from None


def _column(head: str) -> tuple[str, str, str]:
    """What a column is: its kind ('reading' for one of a quantity), the quantity, and the unit its head names."""
    name, unit = head.strip().strip("\ufeff"), ""
    found = re.fullmatch(r"(.*?)\s*[(\[]\s*([^()\[\]]*)\s*[)\]]\s*", name)
    if found:
        name, unit = found[1], found[2]
    plain = re.sub(r"[\s_]+", " ", name).strip().lower().rstrip(".")
    if plain in NAMED:
        return NAMED[plain], "", unit
    called = quantity_called(name)
    return ("reading", called, unit) if called else ("", "", "")


@lru_cache(maxsize=512)
def quantity_called(text: str) -> str:
    """Return which quantity a name means; empty for none.

    >>> quantity_called("R1 + R2"), quantity_called("RCD ×5"), quantity_called("R2"), quantity_called("r2"), quantity_called("colour")
    ('r1r2', 'rcd_5', 'r2_lead', 'r2', '')
    """
    if text.strip() in CASED:
        return CASED[text.strip()]
    plain = _plain(text).replace("l-pe", "l-e").replace("n-pe", "n-e")
    return CALLED.get(plain) or CALLED.get(plain.replace("rcdx", "rcd")) or TITLED.get(plain, "")


def _line(number: int, cells: list[str], taken: list[tuple[str, str, str]], decimal: Decimal, commas: bool) -> Iterator[FileLine]:
    by = {kind: cells[k].strip() for k, (kind, _, _) in enumerate(taken) if kind and kind != "reading" and k < len(cells)}
    circuit = by.get("circuit", "")
    more = {name: text for name, text in by.items() if name in MORE and text}
    if "quantity" in by:
        name = quantity_called(by["quantity"])
        unit = by.get("unit") or next((u for kind, _, u in taken if kind == "value"), "")
        one = FileLine(number, circuit, name, by.get("value", ""), more=more)
        if not name and circuit:
            one.wrong, one.of, one.given = "a test, as zs, r1r2, ir_le or its name", "quantity", by["quantity"]
        elif by.get("value", "").lower() in NOTHING:
            return
        else:
            _meant(one, unit, decimal, commas)
        yield one
        return
    for k, (kind, name, unit) in enumerate(taken):
        if kind == "reading" and k < len(cells) and cells[k].strip().lower() not in NOTHING:
            one = FileLine(number, circuit, name, cells[k].strip(), more=more)
            _meant(one, unit, decimal, commas)
            yield one


def _meant(one: FileLine, unit: str, decimal: Decimal, commas: bool) -> None:
    """Put into a line what its cell means, or why it means nothing."""
    text = one.cell.strip()
    plain = text.lower()
    if plain in OVER or plain in TRIPPED or plain in YES or plain in NO:
        one.over, one.tripped = plain in OVER, plain in TRIPPED
        one.ok = True if plain in YES else False if plain in NO else None
        return
    found = A_VALUE.fullmatch(text)
    if found is None:
        one.wrong = "a figure, over, tripped, pass or fail"
        return
    times = _times(UNITS.get(one.quantity, ""), found["unit"] or unit)
    if times is None:
        one.wrong = f"a unit of {TITLES.get(one.quantity, one.quantity)} in place of {found['unit'] or unit}"
        return
    one.over = bool(found["more"])
    figures = [round(f * times, 9) for f in figures_of(found["figure"].strip(), decimal, commas)]
    if not figures:
        one.wrong = "a figure"
    elif len(figures) == 2:
        one.asks = figures[0], figures[1]
    else:
        one.value = figures[0]


def _times(kept: str, unit: str) -> float | None:
    """How many of the unit a quantity is kept in one of the unit given makes; None for a unit that is none of it.

    >>> _times("Ω", "mΩ"), _times("Ω", "Mohm"), _times("MΩ", "mohm"), _times("ms", "S")
    (0.001, 1000000.0, None, 1000)
    """
    unit = unit.strip().replace("\u2126", "Ω")
    if not unit or not kept:
        return 1.0
    exact = TIMES.get(kept, {}).get(unit)
    return exact if exact is not None else PLAIN.get(kept, {}).get(unit.lower())


def figures_of(text: str, decimal: Decimal = "", commas: bool = False) -> list[float]:
    """Return what a figure may mean: one number where it can be read in one way alone, two by decimal point and comma, none where it is no figure.

    commas: decimals are parted by commas elsewhere in the file: then a point before three digits may part thousands.

    >>> figures_of("0,35"), figures_of("1,234"), figures_of("1,234", "comma"), figures_of("1,234.5"), figures_of("1 234")
    ([0.35], [1234.0, 1.234], [1.234], [1234.5], [1234.0])
    """
    text = re.sub(r"(?<=\d)[ \u00a0\u202f'](?=\d{3}(?!\d))", "", text)
    # The answer to what was asked about decides where both ways are open, and there alone.
    ways = [(",", "."), (".", ",")] if decimal == "comma" else [(".", ","), (",", ".")]
    found: list[float] = []
    for mark, parts in ways:
        shape = rf"(?:\d+|[1-9]\d{{0,2}}(?:{re.escape(parts)}\d{{3}})+)(?:{re.escape(mark)}\d+)?"
        if re.fullmatch(shape, text):
            value = float(text.replace(parts, "").replace(mark, "."))
            if value not in found:
                found.append(value)
    point_alone = not commas and "," not in text
    # A point alone is a decimal point where nothing else is met.
    return found[:1] if decimal or point_alone else found
