"""The steps of an isolation: what each asks for, which pairs are proved, and how a step is kept with the record it belongs to."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from mellow_span.core.errors import InputError

Kind = Literal["board", "circuit", "route", "room"]
Needs = Literal["nothing", "words", "dead", "clear"]
# What a question about another source is answered with: no and how that is known, isolated and how; the last one ends the record.
CLEAR, NOT_CLEAR = ("no: ", "isolated: "), "not isolated"
ONE_PHASE = ("L–N", "L–E", "N–E")
THREE_PHASE = ("L1–N", "L2–N", "L3–N", "L1–E", "L2–E", "L3–E", "N–E", "L1–L2", "L2–L3", "L1–L3")


@dataclass(slots=True)
class Act:
    """A step of the record. needs: nothing but to be done, words (what is asked), whether a pair is dead, or whether another source is ruled out.

    local: a local switch may stand for it.
    """

    key: str
    text: str
    needs: Needs = "nothing"
    asks: str = ""
    local: bool = False


def packed(step: Act) -> str:
    """Return a step as it is kept with the beginning of a record."""
    return f"{step.key}|{step.needs}{'*local' if step.local else ''}|{step.asks}|{step.text}"


def unpacked(text: str) -> Act:
    """Return a step as it was kept. Raises InputError."""
    parts = text.split("|", 3)
    if len(parts) != 4 or parts[1].removesuffix("*local") not in ("nothing", "words", "dead", "clear"):
        raise InputError("data.steps", text[:60], "key|needs|asks|text")
    needs: Needs = parts[1].removesuffix("*local")  # type: ignore[assignment]
    return Act(parts[0], parts[3], needs, parts[2], parts[1].endswith("*local"))
