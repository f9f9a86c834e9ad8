"""All sizes together in deep trees: the floor of the grids holds, the set found can be built, and the work is bounded."""

from __future__ import annotations

import random
from typing import Any

import pytest

from mellow_span.core.design import joint, joint_grids
from mellow_span.core.design.check import check
from mellow_span.core.design.joint import cheapest
from mellow_span.core.design.size import failing
from mellow_span.core.model.parts import Installation
from tests.build import circuit, job, submain


def deep(depth: int, finals: int, metres: float, rnd: random.Random) -> Installation:
    """Sub-mains one after the other, finals spread over their boards."""
    boards = ["b"]
    made: list[dict[str, Any]] = []
    for level in range(depth):
        run = [{"place": "duct", "length": metres * rnd.uniform(0.7, 1.3)}]
        made.append(submain(f"m{level}", board=boards[-1], feeds=f"d{level}", device={"rating": 63}, spans=run))
        boards.append(f"d{level}")
    for i in range(finals):
        made.append(
            circuit(
                f"f{i}", board=boards[i % len(boards)], device={"rating": 16}, cable={"csa": 2.5},
                loads=[{"amount": rnd.uniform(800, 3000), "kind": "other"}], spans=[{"length": rnd.uniform(5, 30)}],
            )
        )  # fmt: skip
    return job(*made, boards=boards, supply={"ze": 0.15, "ipf": 1500})


@pytest.mark.parametrize("seed", range(6))
def test_on_grids_the_cheapest_lies_between_the_floor_and_the_set_that_is_found(seed: int, monkeypatch: pytest.MonkeyPatch) -> None:
    """The same tree by the search through everything, and with that search given up at once."""
    inputs = deep(2, 7, 12, random.Random(seed))
    monkeypatch.setattr(joint, "BUDGET", 10**9)
    exact = cheapest(inputs)
    assert exact.exact
    monkeypatch.setattr(joint, "BUDGET", 1)
    found = cheapest(inputs)
    assert not found.exact
    assert found.after.cable >= exact.after.cable - 1e-6
    assert found.after.cable / (1 + found.gap) <= exact.after.cable + 1e-6
    # What is found can be built: every circuit passes what a size can change.
    sizes = {c.circuit: c.csa for c in found.chosen}
    assert not found.unsolved
    assert set(sizes) == {c.id for c in inputs.circuits}


def test_finer_grids_never_lower_the_floor(monkeypatch: pytest.MonkeyPatch) -> None:
    inputs = deep(4, 14, 16, random.Random(9))
    monkeypatch.setattr(joint, "BUDGET", 1)
    gaps, grids = [], joint_grids.GRIDS
    for count in (1, 2, 4):
        monkeypatch.setattr(joint_grids, "GRIDS", grids[:count])
        monkeypatch.setattr(joint, "ON_GRIDS", 10**6)
        gaps.append(cheapest(inputs).gap)
    assert gaps == sorted(gaps, reverse=True)
    assert gaps[-1] < gaps[0]


def test_six_sub_mains_one_after_the_other_with_sixty_circuits_end_within_their_budget() -> None:
    """The search through everything would take hours: it multiplies with each level."""
    inputs = deep(6, 54, 5, random.Random(3))
    found = cheapest(inputs)
    assert found.tried < 1.5 * (joint.BUDGET + joint.ON_GRIDS)
    assert 0 <= found.gap < 0.5
    assert "at most" in found.proof
    assert not found.unsolved
    sized = {c.id: c for c in inputs.circuits}
    assert all(c.csa is not None for c in found.chosen if c.circuit in sized)


def test_the_set_found_on_grids_passes_when_it_is_checked_whole() -> None:
    inputs = deep(4, 20, 6, random.Random(4))
    found = cheapest(inputs)
    trial = joint._sized(joint.lay_out(inputs), inputs, {c.circuit: c.csa or 0.0 for c in found.chosen})
    assert not [r.id for r in check(trial, keep=False).circuits if failing(r)]
