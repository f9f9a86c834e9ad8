"""The cutting plan: nothing is lost, no drum holds more than it is long, and what is called the least is."""

from __future__ import annotations

from itertools import product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mellow_span.papers.drums import Cutting, Piece, cut
from tests.depth import examples

LENGTHS = st.lists(st.integers(10, 400).map(lambda n: n / 10), min_size=1, max_size=7)


def pieces(*lengths: float) -> list[Piece]:
    return [Piece(f"A{i}", length) for i, length in enumerate(lengths)]


def whole(found: Cutting, wanted: list[Piece]) -> None:
    assert sorted([p for d in found.drums for p in d.pieces] + found.too_long, key=lambda p: p.tag) == sorted(wanted, key=lambda p: p.tag)
    for drum in found.drums:
        assert sum(p.length for p in drum.pieces) + drum.left == pytest.approx(drum.length)
        assert drum.left > -1e-9


def by_trying(lengths: list[float], sold: list[float], rests: list[float]) -> float:
    """The least that must be bought, by trying every way to put the pieces together: independent of the plan's own method."""
    n, best = len(lengths), float("inf")

    def go(i: int, loads: list[float]) -> None:
        nonlocal best
        if i == n:
            best = min(best, price(loads))
            return
        for k in range(len(loads)):
            go(i + 1, [*loads[:k], round(loads[k] + lengths[i], 1), *loads[k + 1 :]])
        go(i + 1, [*loads, lengths[i]])

    def price(loads: list[float]) -> float:
        least = float("inf")
        for where in product(range(-1, len(rests)), repeat=len(loads)):
            used = [w for w in where if w >= 0]
            if len(set(used)) != len(used) or any(w >= 0 and loads[k] > rests[w] + 1e-9 for k, w in enumerate(where)):
                continue
            new = [next((s for s in sold if s >= load - 1e-9), float("inf")) for load, w in zip(loads, where, strict=True) if w < 0]
            least = min(least, sum(new))
        return least

    go(0, [])
    return best


@examples(40)
@given(LENGTHS.filter(lambda x: len(x) <= 5), st.lists(st.sampled_from([12.0, 30.0]), max_size=1))
def test_what_is_bought_is_the_least_there_is_and_the_bound_never_above_it(lengths: list[float], rests: list[float]) -> None:
    wanted = pieces(*lengths)
    found = cut("x", wanted, [25, 50, 100], rests)
    whole(found, wanted)
    least = by_trying(lengths, [25, 50, 100], rests)
    assert found.bound <= least + 1e-9
    assert found.bought >= least - 1e-9
    if found.proven:
        assert found.bought == pytest.approx(least)


def test_a_plan_the_longest_first_misses_is_found() -> None:
    """Two of 50 m in the place of three: 26 + 24 and 20 + 16 + 14; the longest first puts 26 + 20 together and 24 + 16, with 14 left over."""
    found = cut("x", pieces(26, 24, 20, 16, 14), [50])
    assert (found.bought, found.bound, found.proven) == (100.0, 100.0, True)
    assert [d.left for d in found.drums] == [0.0, 0.0]


def test_a_piece_longer_than_any_drum_is_said_and_one_that_a_rest_holds_is_cut_from_it() -> None:
    found = cut("x", pieces(120, 130, 10), [100], [125])
    assert [p.length for p in found.too_long] == [130.0]
    assert [(d.length, d.at_hand, d.left) for d in found.drums] == [(125.0, True, 5.0), (100.0, False, 90.0)]


def test_a_bound_is_told_where_the_least_was_not_settled() -> None:
    wanted = pieces(*(10 + (i * 37 % 301) / 10 for i in range(120)))
    found = cut("x", wanted, [25, 50, 100], seconds=0.3)
    whole(found, wanted)
    assert found.bound <= found.bought
    assert found.bound >= sum(p.length for p in wanted)
