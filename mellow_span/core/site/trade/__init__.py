"""Sizes in which the trade sells small parts: no rules, and a maker's own may differ; what rests on them is marked as of usual sizes."""

from __future__ import annotations

import csv
from functools import cache
from pathlib import Path

HERE = Path(__file__).parent


@cache
def rows(name: str) -> tuple[dict[str, str], ...]:
    """Return the lines of a list of parts by its name, as written."""
    with (HERE / f"{name}.csv").open(encoding="utf-8", newline="") as file:
        return tuple(csv.DictReader(file))
