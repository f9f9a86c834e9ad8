"""Readings that a design held in itself, as files of before the log on site do, as entries of the log."""

from __future__ import annotations

import json
import uuid
from collections.abc import Mapping
from typing import Any

HELD = ("r1", "rn", "r2", "r1r2", "zs", "ipf")
USUAL = 20.0
# Nobody wrote down when they were taken: before everything that says its time, so that they turn nothing taken since.
LONG_AGO = "2000-01-01T00:00:00+00:00"
NAMESPACE = uuid.UUID("4f0ec1e6-6a0c-5f0f-9c93-0d4f4b1f5a10")


def identity_of(*content: Any) -> str:
    """Return an identity that is made of contents: the same thing taken in again is the same entry."""
    return str(uuid.uuid5(NAMESPACE, json.dumps(content, ensure_ascii=False, sort_keys=True)))


def held_whole(held: Any) -> bool:
    """Whether what a circuit of a file holds is an object of readings and nothing else."""
    return isinstance(held, dict) and set(held) <= {*HELD, "temperature"}


def earlier(circuit: str, held: Mapping[str, Any]) -> list[dict[str, Any]]:
    """Return the readings a circuit of a file holds in itself as entries of a file's log; they say no point. circuit: its identity."""
    degrees = held.get("temperature", USUAL)
    return [
        {
            "id": identity_of(circuit, name, held[name], degrees), "kind": "reading", "subject": circuit, "at": LONG_AGO, "by": "",
            "data": {"quantity": name, "value": held[name], "temperature": degrees, "note": "entered with the design, time not known"},
        }
        for name in HELD if held.get(name) is not None
    ]  # fmt: skip
