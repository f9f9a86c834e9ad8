"""All sizes together in deep trees: the floor of the grids holds, the set found can be built, and the work is bounded."""

from __future__ import annotations

import itertools
import random
from dataclasses import replace
from math import inf
from typing import Any

import pytest

from mellow_span.core.design import joint, joint_grids
from mellow_span.core.design.check import check
from mellow_span.core.design.joint import cheapest
from mellow_span.core.design.prices import circuit_cost, shipped
from mellow_span.core.design.size import failing, size, with_circuit, with_csa
from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets import rule_set
from tests.build import circuit, job, submain
from tests.core.test_laws import routed
from tests.depth import many

R = rule_set("bs7671")


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


def spread(rnd: random.Random, phases: int = 1, own_earth: bool = False) -> Installation:
    """Four sub-mains as a tree of their own, two deep, finals over all boards; the last board may be on an electrode."""
    boards, parents = ["b", "d0", "d1", "d2", "d3"], ["b", "d0", "d0", "b"]
    made: list[dict[str, Any]] = []
    for i, parent in enumerate(parents):
        run = [{"place": "duct", "length": rnd.uniform(8, 20)}]
        many = {"phases": 3} if phases == 3 and i == 0 else {}
        made.append(submain(f"m{i}", board=parent, feeds=f"d{i}", device={"rating": 40}, spans=run, **many))
    for i in range(8):
        one = {"phase": f"L{1 + i % 3}"} if phases == 3 and boards[i % 5] in ("b", "d0") else {}
        made.append(
            circuit(
                f"f{i}", board=boards[i % 5], device={"rating": 16}, cable={"csa": 2.5},
                loads=[{"amount": rnd.uniform(800, 3000), "kind": "other"}], spans=[{"length": rnd.uniform(8, 35)}], **one,
            )
        )  # fmt: skip
    found = job(*made, boards=boards, supply={"ze": 0.15, "ipf": 1500, "phases": phases})
    if own_earth:
        last = replace(found.boards[-1], earthing="TT", ra=60.0, ra_source="measured", rcd_idn=0.1)
        found = replace(found, boards=(*found.boards[:-1], last))
    return found


TREES = [
    spread(random.Random(9), phases=3),
    spread(random.Random(8), own_earth=True),
    deep(2, 7, 12, random.Random(0)),
    spread(random.Random(0)),
]
# Long sub-mains, where volt drop rules most sizes.
TREES += [deep(2, 6, metres, random.Random(seed)) for metres, seed in ((25, 11), (30, 12), (35, 13))]
TREES += [make for seed in range(1, 4) for make in (deep(2, 7, 12, random.Random(seed)), spread(random.Random(seed)))]
TREES = TREES[: many(len(TREES), 5)]


@pytest.mark.parametrize("inputs", TREES)
def test_on_grids_the_cheapest_lies_between_the_floor_and_the_set_that_is_found(
    inputs: Installation, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The same tree by the search through everything, and with that search given up at once."""
    monkeypatch.setattr(joint, "BUDGET", 10**9)
    exact = cheapest(inputs)
    assert exact.exact
    assert not exact.unsolved
    monkeypatch.setattr(joint, "BUDGET", 1)
    for cuts in ((3,), joint_grids.GRIDS):
        monkeypatch.setattr(joint_grids, "GRIDS", cuts)
        found = cheapest(inputs)
        assert found.after.cable >= exact.after.cable - 1e-6
        assert found.after.cable / (1 + found.gap) <= exact.after.cable + 1e-6
        if found.exact:
            assert found.after.cable == pytest.approx(exact.after.cable)
        # What is found can be built: every circuit passes what a size can change.
        assert not found.unsolved
        assert {c.circuit for c in found.chosen} == {c.id for c in inputs.circuits}
    assert found.gap < 0.02


@pytest.mark.parametrize("inputs", TREES)
def test_the_floor_of_a_grid_by_itself_is_never_over_the_cheapest(inputs: Installation) -> None:
    """Not held down by any set that was found: coarse and fine, one board after the other."""
    plan = joint.lay_out(inputs)
    search = joint.Search(plan, joint.shipped(), budget=10**9)
    least = 0.0
    for root in plan.roots:
        cheapest_there, _ = search.board(root, plan.root_feed(root))
        tree = joint_grids.Tree(search, root)
        floors = []
        for cuts in (2, 10, 100, 1000):
            answer = joint_grids._Grid(tree, root, cuts, None, inf).solve()
            assert answer is not None
            floors.append(answer[0][1])
        assert max(floors) <= cheapest_there * (1 + 1e-9)
        # A fine one comes close: it is no floor of nothing.
        assert floors[-1] >= 0.9 * cheapest_there
        least += floors[-1]
    assert least > 0


def test_finer_grids_never_lower_the_floor(monkeypatch: pytest.MonkeyPatch) -> None:
    inputs = deep(4, 14, 16, random.Random(9))
    monkeypatch.setattr(joint, "BUDGET", 1)
    gaps = []
    for grids in ((2,), (2, 8), (2, 8, 60, 240)):
        monkeypatch.setattr(joint_grids, "GRIDS", grids)
        monkeypatch.setattr(joint, "ON_GRIDS", 10**6)
        gaps.append(cheapest(inputs).gap)
    assert gaps == sorted(gaps, reverse=True)
    assert gaps[-1] < gaps[0]


@pytest.mark.parametrize(("depth", "finals", "metres", "seed"), [(6, 54, 5, 3), (6, 54, 6, 2), (10, 90, 3, 1)][: many(3, 1)])
def test_sub_mains_one_after_the_other_are_sized_within_their_budget(depth: int, finals: int, metres: float, seed: int) -> None:
    """The search through everything would take hours: it multiplies with each level."""
    inputs = deep(depth, finals, metres, random.Random(seed))
    found = cheapest(inputs)
    assert found.tried < 1.5 * (joint.BUDGET + joint.ON_GRIDS)
    assert 0 <= found.gap < 0.02
    assert not found.unsolved
    assert all(c.csa is not None for c in found.chosen)


def test_the_set_found_on_grids_passes_when_it_is_checked_whole() -> None:
    inputs = deep(4, 20, 6, random.Random(4))
    found = cheapest(inputs)
    trial = joint._sized(joint.lay_out(inputs), inputs, {c.circuit: c.csa or 0.0 for c in found.chosen})
    assert not [r.id for r in check(trial, keep=False).circuits if failing(r)]


def tree(rnd: random.Random) -> Installation:
    """A sub-main and finals on both boards, with lengths at which sizes matter."""
    feed = submain(
        "m",
        ib_from="device",
        cable={"csa": 2.5},
        device={"rating": rnd.choice([20, 32])},
        spans=[{"place": "duct", "length": rnd.uniform(10, 70)}],
    )
    finals = [
        circuit(f"f{i}", board=rnd.choice(["b", "far", "far"]), loads=[{"amount": rnd.uniform(500, 3500), "kind": rnd.choice(["other", "lighting"])}],
                device={"rating": 16, "kind": "rcbo", "idn": 0.03}, cable={"csa": 1}, spans=[{"length": rnd.uniform(5, 45)}])
        for i in range(2)
    ]  # fmt: skip
    return job(feed, *finals, boards=["b", "far"], supply={"ze": 0.2, "ipf": 1200})


def test_the_cheapest_sizes_are_those_of_a_search_through_all_of_them() -> None:
    """Independent: every combination of sizes of three circuits is checked whole, and the cheapest that passes kept."""
    rnd, book = random.Random(5), shipped()
    compared = 0
    for _ in range(many(6, 3)):
        inputs = tree(rnd)
        found = cheapest(inputs, book)
        best = inf
        sizes = [[s for s in R.families[c.run.cable.family or ""].sizes if s <= (35 if c.feeds else 16)] for c in inputs.circuits]
        for chosen in itertools.product(*sizes):
            trial = inputs
            for c, csa in zip(inputs.circuits, chosen, strict=True):
                trial = with_circuit(trial, with_csa(R, c, csa))
            cost = sum(circuit_cost(book, R, c).cable for c in trial.circuits)
            if cost < best and not any(failing(r) for r in check(trial, keep=False, reuse=True).circuits):
                best = cost
        if not found.unsolved and max(c.csa or 0 for c in found.chosen if c.circuit == "m") <= 35:
            assert found.exact
            assert found.after.cable == pytest.approx(best)
            compared += 1
        elif best < inf:
            assert found.after.cable <= best
    assert compared >= 3


def test_a_gap_is_proven_where_a_route_ties_circuits_together() -> None:
    parts = [(1.5, 3000.0, "masonry"), (1.5, 2500.0, "masonry"), (1.5, 300.0, "masonry")]
    made = [{**c, "device": {**c["device"], "rating": 16}} for c in routed(parts)]
    found = cheapest(job(*made, routes=[{"id": "k"}]))
    assert not found.exact
    assert 0 <= found.gap < 1
    assert not found.unsolved


def overfull(rnd: random.Random) -> Installation:
    """A feed that needs a large size for itself, and finals behind it that pass at a low fault level alone, or at none."""
    feed = submain(
        "m",
        ib_from="device",
        device={"rating": 80, "icn": 10000},
        cable={"csa": 25},
        spans=[{"place": "duct", "length": rnd.uniform(2, 10)}],
    )
    finals = [
        circuit(f"f{i}", board="far", cable={"csa": 1}, device={"rating": rnd.choice([6, 16]), "icn": 6000, "curve": rnd.choice("BD")},
                loads=[{"amount": 1000}], spans=[{"length": rnd.uniform(2, 90)}])
        for i in range(4)
    ]  # fmt: skip
    return job(feed, *finals, boards=["b", "far"], supply={"ze": 0.02, "ipf": rnd.choice([3000, 9000])})


@pytest.mark.parametrize("seed", range(8))
def test_a_feed_is_never_traded_for_the_circuits_behind_it(seed: int, monkeypatch: pytest.MonkeyPatch) -> None:
    """Whatever stands behind it, by both searches: where a size of the feed passes its own checks, one that passes is taken."""
    inputs = overfull(random.Random(seed))
    able = [
        s
        for s in R.families["armoured_xlpe90"].sizes
        if not failing(check(with_circuit(inputs, with_csa(R, inputs.circuits[0], s)), keep=False).circuits[0])
    ]
    assert able
    for budget in (10**6, 1):
        monkeypatch.setattr(joint, "BUDGET", budget)
        found = cheapest(inputs)
        assert next(c.csa for c in found.chosen if c.circuit == "m") in able
        assert "m" not in found.unsolved
        assert not found.exact or not (found.unsolved or found.unknown or found.waiting)


def test_a_feed_that_no_size_cures_stays_as_it_is_and_those_behind_it_wait() -> None:
    feed = submain("m", device={"rating": 40}, cable={"csa": 10}, spans=[{"place": "duct", "length": 900}], ib_from="device")
    lamp = circuit("f", board="far", loads=[{"amount": 1000, "kind": "lighting"}], device={"rating": 6}, cable={"csa": 1.5})
    near = circuit("n", loads=[{"amount": 1000}], device={"rating": 16}, cable={"csa": 6})
    bare = circuit("u", loads=[{"amount": None}], device={"rating": 16}, cable={"csa": 2.5})
    found = cheapest(job(feed, lamp, near, bare, boards=["b", "far"]))
    assert (found.unsolved, found.unknown, found.waiting) == (("m",), ("u",), ("f",))
    sizes = {c.circuit: c.csa for c in found.chosen}
    assert sizes["m"] == 10
    assert sizes["n"] == 1.5 or sizes["n"] == 2.5
    assert not found.exact
    assert "exact" not in found.proof


def test_a_spare_asks_nothing_of_its_feed_and_keeps_its_size() -> None:
    feed = submain("m", spans=[{"place": "duct", "length": 20}])
    spare = circuit("s", board="far", spare=True, cable={"csa": 6}, spans=[{"length": 400}], loads=[{"amount": 7000}])
    used = circuit("f", board="far", loads=[{"amount": 1000}], device={"rating": 16}, cable={"csa": 2.5})
    with_it = cheapest(job(feed, spare, used, boards=["b", "far"]))
    without = cheapest(job(feed, used, boards=["b", "far"]))
    assert (with_it.unsolved, with_it.unknown, with_it.waiting) == ((), (), ())
    assert {c.circuit: c.csa for c in with_it.chosen if c.circuit != "s"} == {c.circuit: c.csa for c in without.chosen}
    assert next(c.csa for c in with_it.chosen if c.circuit == "s") == 6


@pytest.mark.parametrize("seed", range(6))
def test_together_no_circuit_is_smaller_than_the_smallest_it_can_be_by_itself(seed: int) -> None:
    """Behind the feed found: what `size` says of one circuit alone is what it is given together."""
    inputs = tree(random.Random(seed))
    found = cheapest(inputs)
    built = joint._sized(joint.lay_out(inputs), inputs, {c.circuit: c.csa or 0.0 for c in found.chosen})
    for one in found.chosen:
        circuit = next(c for c in built.circuits if c.id == one.circuit)
        if circuit.feeds or one.circuit in (*found.unsolved, *found.waiting):
            continue
        assert size(built, one.circuit).csa == one.csa
