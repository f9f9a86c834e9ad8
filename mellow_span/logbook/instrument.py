"""Asking an instrument for a reading, by its line protocol (docs/standins.md).

Only the stand-in knows LOAD and FAULT: it has to be told what lies before it.
"""

from __future__ import annotations

import json
import socket
from dataclasses import asdict, dataclass
from typing import Any

from django.conf import settings

# How long an answer is waited for [s].
WAIT = 2.0


class AwayError(Exception):
    """The instrument does not answer, or what it says is not understood."""


@dataclass(slots=True)
class Shown:
    """What the instrument shows: a figure with its unit, past the range, yes or no; tripped: the RCD ended the test."""

    value: float | None
    unit: str
    over: bool
    ok: bool | None
    tripped: bool = False


UNITS = {"ohm": "Ω", "Mohm": "MΩ", "ms": "ms", "A": "A"}


def read(quantity: str, at: float | None, bench: Any, fault: str, seed: int) -> Shown:
    """Take one reading. bench: the circuit that lies on it; at: position of the outlet [m]. Raises AwayError."""
    if not settings.INSTRUMENT:
        raise AwayError("no instrument is set up")
    host, _, port = settings.INSTRUMENT.rpartition(":")
    try:
        with socket.create_connection((host, int(port)), timeout=WAIT) as line:
            file = line.makefile("rw", encoding="utf-8", newline="\n")

            def say(text: str) -> str:
                file.write(text + "\n")
                file.flush()
                return file.readline(10_000).strip()

            if not say("HELLO").startswith("OK"):
                raise AwayError("what answered is not an instrument")
            for text in ("LOAD " + json.dumps(asdict(bench)), f"FAULT {fault} {seed}"):
                said = say(text)
                if said != "OK":
                    raise AwayError(said.removeprefix("ERR ")[:200] or "no reply")
            return _shown(say(f"READ {quantity}" + ("" if at is None else f" {at:g}")))
    except (OSError, ValueError) as error:
        raise AwayError(f"the instrument does not answer: {error}"[:200]) from None


def _shown(said: str) -> Shown:
    parts = said.split(" ")
    if parts[0] in ("YES", "NO"):
        return Shown(None, "", False, parts[0] == "YES")
    if parts[0] == "TRIPPED":
        return Shown(None, "", False, None, tripped=True)
    if parts[0] == "OVER" and len(parts) == 3:
        return Shown(None, UNITS.get(parts[2], parts[2]), True, None)
    if parts[0] == "VALUE" and len(parts) == 4:
        return Shown(float(parts[2]), UNITS.get(parts[3], parts[3]), False, None)
    raise AwayError(said.removeprefix("ERR ")[:200] or "no reply")
