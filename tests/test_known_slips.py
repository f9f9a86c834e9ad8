"""The known slips of `./run mutate` can still be made: a slip whose place is gone notices nothing any more, in silence."""

from __future__ import annotations

import tomllib
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
SLIPS = tomllib.loads((ROOT / "scripts" / "slips.toml").read_text("utf-8"))["slip"]


@pytest.mark.parametrize("slip", SLIPS, ids=lambda slip: slip["name"])
def test_a_slip_has_its_place_in_the_code(slip: dict[str, str]) -> None:
    assert slip["old"] in (ROOT / slip["file"]).read_text("utf-8")
    assert slip["old"] != slip["new"]
    assert slip["tests"] in ("core", "api", "web", "browser", "server") or (ROOT / slip["tests"]).exists()
