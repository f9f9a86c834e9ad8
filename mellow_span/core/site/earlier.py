"""Readings that a design holds in itself, as files of before the log on site do, as readings of the log."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

HELD = ("r1", "rn", "r2", "r1r2", "zs", "ipf")
USUAL = 20.0


def earlier(held: Mapping[str, Any]) -> list[dict[str, Any]]:
    """Return the readings a circuit holds in itself, by the fields of `parts.Readings`, as entries of the log hold them; they say no point."""
    degrees = held.get("temperature")
    return [
        {"quantity": name, "value": held[name], "temperature": USUAL if degrees is None else degrees, "note": "entered with the design"}
        for name in HELD
        if held.get(name) is not None
    ]
