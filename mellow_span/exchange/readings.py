"""Readings as CSV: circuit, quantity, value, and as wanted point, at, temperature, volts, instrument, method, time.

All lines of a file are taken, or none.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping
from datetime import datetime
from math import isfinite
from typing import Any

from mellow_span.core.errors import InputError
from mellow_span.core.model.parts import Installation
from mellow_span.core.site.earlier import identity_of
from mellow_span.core.site.entries import Entry
from mellow_span.core.site.kinds import checked
from mellow_span.core.site.numbers import numbers
from mellow_span.core.site.readings import whole

NEEDED = ("circuit", "quantity", "value")
COLUMNS = (*NEEDED, "point", "at", "temperature", "volts", "instrument", "method", "time")
USUAL = 20.0


def readings_of(text: str, job: Installation, by: str, now: str) -> tuple[Entry, ...]:
    """Return the readings of a CSV file as entries of the log. now: the time of those that say none, as ISO 8601 with its zone; by: who brings them.

    An entry's identity is made of its line, so that a file taken in again adds nothing. A circuit goes by its number or name; a value is a
    figure, `over` or `>200`, `tripped`, `yes` or `no`. Raises InputError naming the line.
    """
    first = text.split("\n", 1)[0]
    sign = ";" if ";" in first and "," not in first else "\t" if "\t" in first else ","
    rows = csv.DictReader(io.StringIO(text), delimiter=sign, skipinitialspace=True)
    names = [(name or "").strip().lower() for name in rows.fieldnames or []]
    rows.fieldnames = names
    if not set(NEEDED) <= set(names) or not set(names) <= set(COLUMNS):
        raise InputError("line 1", ", ".join(names), "the columns " + ", ".join(COLUMNS) + "; the first three are needed")
    known = {n.lower(): i for i, n in numbers(job).items()}
    known |= {c.name.lower(): c.id for c in job.circuits if c.name}
    found: dict[str, Entry] = {}
    for row in rows:
        given = {k: (v or "").strip() for k, v in row.items() if isinstance(k, str)}
        if not any(given.values()):
            continue
        try:
            one = _entry(given, known, by, now)
            found[one.id] = one
        except InputError as error:
            raise InputError(f"line {rows.line_num}: {error.field.removeprefix('data.')}", error.given, error.allowed) from None
    return tuple(found.values())


def _entry(given: Mapping[str, str], known: Mapping[str, str], by: str, now: str) -> Entry:
    circuit = known.get(given["circuit"].lower())
    if circuit is None:
        raise InputError("circuit", given["circuit"], "the number or name of a circuit of the job")
    value = given["value"].lower()
    over, answer = value == "over" or value.startswith(">"), {"yes": True, "no": False}.get(value)
    tripped = value in ("trip", "tripped")
    figure = "" if tripped else value.removeprefix(">").strip() if over and value != "over" else value
    data: dict[str, Any] = {
        "quantity": given["quantity"], "value": None if figure in ("", "over") or answer is not None else _number("value", figure),
        "over": over, "tripped": tripped, "ok": answer,
        "at": _number("at", given.get("at", ""), None), "volts": _number("volts", given.get("volts", ""), None),
        "temperature": _number("temperature", given.get("temperature", ""), USUAL),
        **{name: given.get(name, "") for name in ("point", "instrument", "method")},
    }  # fmt: skip
    reading = checked("reading", data)
    whole((), reading)
    return Entry(identity_of(circuit, data, given.get("time", "")), "reading", circuit, reading, _time(given.get("time", ""), now), by)


NEEDS: Any = object()


def _number(name: str, text: str, empty: float | None = NEEDS) -> float | None:
    if text == "" and empty is not NEEDS:
        return empty
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        value = float("nan")
    if not isfinite(value):
        raise InputError(name, text, "a figure" + (", over, tripped, yes or no" if name == "value" else ""))
    return value


def _time(text: str, now: str) -> str:
    if not text:
        return now
    try:
        at = datetime.fromisoformat(text)
    except ValueError:
        raise InputError("time", text, "a time, as 2026-03-05T14:07") from None
    return at.isoformat() if at.tzinfo else at.replace(tzinfo=datetime.fromisoformat(now).tzinfo).isoformat()
