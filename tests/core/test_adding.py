"""What is added up comes to the same wherever the program runs."""

from __future__ import annotations

import ast
from pathlib import Path

import pytest

import mellow_span
from mellow_span.core.adding import added
from mellow_span.exchange.program import ROOMS

HOME = Path(mellow_span.__file__).parent
FILES = sorted(f for room in ROOMS if room != "standins" for f in (HOME / room).rglob("*.py"))


@pytest.mark.parametrize("file", FILES, ids=lambda f: str(f.relative_to(HOME)))
def test_nothing_that_runs_on_a_device_adds_up_in_the_way_that_differs_there(file: Path) -> None:
    names = [node for node in ast.walk(ast.parse(file.read_text("utf-8"))) if isinstance(node, ast.Name) and node.id in ("sum", "fsum")]
    assert not names, [node.lineno for node in names]


def test_values_are_added_one_after_the_other() -> None:
    assert added([1e100, 1.0, -1e100]) == 0.0
    assert added([0.1] * 10) != 1.0
    assert added([1 + 2j, 3]) == 4 + 2j
    assert added(iter([2, 3]), 10) == 15
