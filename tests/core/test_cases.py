"""Every worked case: the core's figure against the hand's."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
import yaml

from mellow_span.core.installation import check
from mellow_span.core.results import CircuitResult
from tests.build import circuit, job

FILES = sorted((Path(__file__).parents[1] / "cases").glob("*.yaml"))
CASES = [pytest.param(case, id=case["name"]) for file in FILES for case in yaml.safe_load(file.read_text("utf-8"))]
ROUNDING = 5e-5


def read(result: CircuitResult, path: str) -> Any:
    first, _, rest = path.partition(".")
    if first == "profile":
        return getattr(result.profile, rest)
    if rest:
        found = next(c for c in result.checks if c.id == first)
        return getattr(found, rest)
    return getattr(result, first)


@pytest.mark.parametrize("case", CASES)
def test_worked_case(case: dict[str, Any]) -> None:
    assert case["label"] in ("independent", "published")
    found = check(job(circuit(**case["circuit"]), supply=case.get("supply"))).circuits[0]
    assert not found.problems
    for path, (expected, arithmetic) in case["expect"].items():
        value = read(found, path)
        if isinstance(expected, float):
            assert value == pytest.approx(expected, rel=ROUNDING), f"{path}: {arithmetic}"
        else:
            assert value == expected, f"{path}: {arithmetic}"


def test_percentages_add_along_a_chain() -> None:
    """Sub-main 4.4 x 40 x 30 / 1000 = 5.28 V, 2.29565 %; final 18 x 10 x 20 / 1000 = 3.6 V, 1.56522 %. Loops: 0.2 + 0.13176 + 0.46824."""
    main = circuit(
        "main", feeds="far", loads=[], device={"rating": 40}, cable={"family": "multicore_pvc70", "csa": 10}, spans=[{"length": 30}]
    )
    final = circuit("final", board="far", loads=[{"amount": 2300}], device={"rating": 16}, cable={"csa": 2.5}, spans=[{"length": 20}])
    found = check(job(main, final, supply={"ze": 0.2}, boards=["b", "far"])).circuits[1]
    assert found.drop == pytest.approx(2.29565 + 1.56522, abs=1e-4)
    assert found.zs == pytest.approx(0.8, abs=1e-9)
    assert found.profile.own_from == pytest.approx(30)
    assert [s.circuit for s in found.profile.stretches] == ["main", "final"]
