"""Readings of a file as entries of the log: circuit, quantity, value, and as wanted point, at, temperature, volts, instrument, serial, method, time.

All lines of a file are taken, or none; see `instrument_file` for what a file may look like.
"""

from __future__ import annotations

from datetime import datetime
from math import isfinite
from typing import Any

from mellow_span.core.errors import InputError
from mellow_span.core.model.numbers import letters_of, numbers
from mellow_span.core.model.parts import Installation
from mellow_span.core.site.earlier import identity_of
from mellow_span.core.site.entries import Entry
from mellow_span.core.site.kinds import checked
from mellow_span.core.site.readings import whole
from mellow_span.exchange.instrument_file import Decimal, FileLine, FileRead, read_instrument

USUAL = 20.0


def readings_of(content: bytes, job: Installation, by: str, now: str, decimal: Decimal = "") -> tuple[Entry, ...]:
    """Return the readings of a file as entries of the log. now: the time of those that say none, as ISO 8601 with its zone; by: who brings them.

    An entry's identity is made of its line, so that a file taken in again adds nothing. A circuit or a board goes by its number or name.
    Raises InputError naming the line, also for a figure that may mean two things where `decimal` does not say which.
    """
    found: dict[str, Entry] = {}
    for one, entry in entries_of(read_instrument(content, decimal), job, by, now):
        if one.asks:
            raise InputError(f"line {one.line}: value", one.cell, f"--decimal point ({one.asks[0]:g}) or --decimal comma ({one.asks[1]:g})")
        if entry is None:
            raise InputError(f"line {one.line}: {one.of}", one.given or one.cell, one.wrong)
        found[entry.id] = entry
    return tuple(found.values())


def entries_of(read: FileRead, job: Installation, by: str, now: str) -> list[tuple[FileLine, Entry | None]]:
    """Return each line of a file with the entry it makes; None where it makes none, which the line then says, or where it has to be asked about."""
    circuits = {n.lower(): i for i, n in numbers(job).items()} | {c.name.lower(): c.id for c in job.circuits if c.name}
    letters = letters_of(job)
    boards = {letters[b.id].lower(): b.id for b in job.boards} | {b.name.lower(): b.id for b in job.boards if b.name}
    found: list[tuple[FileLine, Entry | None]] = []
    for one in read.lines:
        named = one.circuit.lower()
        kind, subject = ("reading", circuits[named]) if named in circuits else ("board_reading", boards.get(named, ""))
        entry = None
        if not one.wrong and not one.asks:
            try:
                if not subject:
                    raise InputError("circuit", one.circuit, "the number or name of a circuit or board of the job")
                entry = _entry(one, kind, subject, by, now)
            except InputError as error:
                one.of, one.wrong = error.field.removeprefix("data."), error.allowed
                one.given = one.circuit if one.of == "circuit" else ""
        found.append((one, entry))
    return found


def _entry(one: FileLine, kind: str, subject: str, by: str, now: str) -> Entry:
    data: dict[str, Any] = {
        "quantity": one.quantity, "value": one.value, "over": one.over, "tripped": one.tripped, "ok": one.ok,
        "at": _number("at", one.more.get("at", ""), None), "volts": _number("volts", one.more.get("volts", ""), None),
        "temperature": _number("temperature", one.more.get("temperature", ""), USUAL),
        **{name: one.more.get(name, "") for name in ("point", "instrument", "method")},
        **({"serial": one.more["serial"]} if "serial" in one.more else {}),
    }  # fmt: skip
    reading = checked(kind, data)
    whole(reading)
    time = one.more.get("time", "")
    return Entry(identity_of(subject, data, time), kind, subject, reading, _time(time, now), by)


def _number(name: str, text: str, empty: float | None) -> float | None:
    if text == "":
        return empty
    try:
        value = float(text.replace(",", ".").rstrip("VvmC° "))
    except ValueError:
        value = float("nan")
    if not isfinite(value):
        raise InputError(name, text, "a figure")
    return value


def _time(text: str, now: str) -> str:
    if not text:
        return now
    try:
        at = datetime.fromisoformat(text)
    except ValueError:
        raise InputError("time", text, "a time, as 2026-03-05T14:07") from None
    return at.isoformat() if at.tzinfo else at.replace(tzinfo=datetime.fromisoformat(now).tzinfo).isoformat()
