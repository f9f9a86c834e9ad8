"""Laws that hold for any input: of groups, fuses and breakers, drops, demand, readings, and of things getting worse."""

from __future__ import annotations

import itertools
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mellow_span.core.design.check import check
from mellow_span.core.design.coordination import band
from mellow_span.core.design.robustness import longer, robustness
from mellow_span.core.model.parts import Load
from mellow_span.core.rules.demand.diversity import Item, allowances
from mellow_span.core.rules.devices import fuses
from mellow_span.core.rules.devices.trip import let_through, slowest_time
from mellow_span.core.rules.drop.points import ring_drop
from mellow_span.core.rulesets import rule_set
from mellow_span.core.site.compare import verify
from mellow_span.core.site.earlier import earlier
from mellow_span.core.working.recorders import Silent
from mellow_span.exchange.site_log import entries_read
from tests.build import circuit, job
from tests.depth import examples

R = rule_set("bs7671")
QUICK = examples(40)
FUSES = [
    (kind, row.key[1])
    for kind in ("BS88-2", "BS88-3", "BS1361", "BS3036", "BS1362")
    for row in R.table("FUSE-Zs").rows
    if row.key[0] == kind
]


runners = st.lists(
    st.tuples(st.sampled_from([1.5, 2.5, 4, 6, 10]), st.floats(50, 9000), st.sampled_from(["masonry", "timber", "ceiling_thick"])),
    min_size=1,
    max_size=9,
)


def routed(parts: list[tuple[float, float, str]], **route: Any) -> list[dict[str, Any]]:
    return [
        circuit(f"c{i}", loads=[{"amount": watts}], device={"rating": 40}, cable={"csa": csa}, spans=[{"place": place, "route": "k"}])
        for i, (csa, watts, place) in enumerate(parts)
    ]


@QUICK
@given(runners, st.randoms(use_true_random=False))
def test_who_counts_does_not_hang_on_the_order(parts: list[tuple[float, float, str]], rnd: Any) -> None:
    made = routed(parts)
    mixed = list(made)
    rnd.shuffle(mixed)
    one, two = check(job(*made, routes=[{"id": "k"}])), check(job(*mixed, routes=[{"id": "k"}]))
    assert {c.id: c for c in one.circuits} == {c.id: c for c in two.circuits}
    assert {m.circuit: (m.counted, m.n) for m in one.routes[0].members} == {m.circuit: (m.counted, m.n) for m in two.routes[0].members}


@QUICK
@given(runners)
def test_exactly_those_over_thirty_per_cent_of_the_whole_groups_rating_count(parts: list[tuple[float, float, str]]) -> None:
    """Worked out here from the tables alone, in one pass: with all of them in the group, who carries over 30 % of It x Cg counts."""
    found = check(job(*routed(parts), routes=[{"id": "k"}])).routes[0]
    cg = R.table("4C1").cell(len(parts), "bunched_or_enclosed").value
    column = {"masonry": "C", "timber": "C", "ceiling_thick": "m101"}
    assert found.n == max(1, sum(m.counted for m in found.members))
    for member, (csa, watts, place) in zip(found.members, parts, strict=True):
        light = 0.3 * R.table("4D5").cell(csa, column[place]).value * cg
        assert member.counted == (watts / 230 > light * (1 + 1e-9))
        assert member.n == (found.n if member.counted else (found.n + 1 if any(m.counted for m in found.members) else 1))


@QUICK
@given(runners, st.integers(0, 12))
def test_more_neighbours_never_raise_a_capacity(parts: list[tuple[float, float, str]], more: int) -> None:
    made = routed(parts)
    few, many = check(job(*made, routes=[{"id": "k"}])), check(job(*made, routes=[{"id": "k", "others": more}]))
    for a, b in zip(few.circuits, many.circuits, strict=True):
        assert b.iz is None or (b.iz <= (a.iz or 0) + 1e-9)


@pytest.mark.parametrize(("kind", "rating"), FUSES)
def test_a_fuse_never_takes_longer_at_more_current(kind: str, rating: float) -> None:
    points = fuses.points(R, kind, rating)
    w = Silent(R)
    assert [i for i, _ in points] == sorted(i for i, _ in points)
    assert [t for _, t in points] == sorted((t for _, t in points), reverse=True)
    low, high = points[0][0], points[-1][0] * 3
    times = [fuses.time_at(w, kind, rating, low * (high / low) ** (k / 40)) for k in range(41)]
    assert times[0] == pytest.approx(points[0][1])
    assert all(t is not None for t in times)
    assert all((b or 0) <= (a or 0) * (1 + 1e-9) for a, b in itertools.pairwise(times))
    assert fuses.time_at(w, kind, rating, low * 0.99) is None


@QUICK
@given(st.sampled_from("BCD"), st.sampled_from([6, 16, 32, 50, 63, 100]), st.floats(1.5, 200))
def test_the_band_of_a_breaker_holds_what_the_checks_use(curve: str, rating: float, multiple: float) -> None:
    from mellow_span.core.model.parts import Device

    device = Device(curve=curve, rating=rating, icn=10000)  # type: ignore[arg-type]
    edges = band(R, device)
    time = slowest_time(Silent(R), device, rating, multiple * rating)
    assert time is not None
    assert edges.slow[-1][1] <= time + 1e-9 <= 7200.0001
    assert edges.fast[-1][1] < edges.slow[-1][1]
    energy = let_through(Silent(R), device, rating, multiple * rating)
    assert energy is not None
    assert energy > 0


@QUICK
@given(st.lists(st.tuples(st.floats(0, 100), st.floats(0.1, 20)), min_size=1, max_size=6))
def test_a_ring_drops_the_same_from_either_end_and_less_than_a_radial(points: list[tuple[float, float]]) -> None:
    forward, _ = ring_drop(points, 100)
    backward, _ = ring_drop([(100 - x, i) for x, i in points], 100)
    assert forward == pytest.approx(backward, rel=1e-9, abs=1e-6)
    assert forward <= sum(x * i for x, i in points) + 1e-6


@QUICK
@given(st.lists(st.tuples(st.floats(0, 40), st.floats(10, 3000)), min_size=2, max_size=5))
def test_loads_along_a_radial_never_drop_more_than_all_at_the_end(points: list[tuple[float, float]]) -> None:
    along = job(circuit(loads=[{"amount": w, "at": at} for at, w in points], spans=[{"length": 40}]))
    at_end = job(circuit(loads=[{"amount": w} for _, w in points], spans=[{"length": 40}]))
    assert (check(along).circuits[0].drop or 0) <= (check(at_end).circuits[0].drop or 0) + 1e-9


@QUICK
@given(st.floats(100, 8000), st.floats(0.5, 1), st.integers(10, 45))
def test_refined_never_exceeds_the_worst_case_below_25_mm2(watts: float, pf: float, ambient: int) -> None:
    given_ = {"loads": [{"amount": watts * pf, "pf": pf}], "spans": [{"length": 25, "ambient": ambient}]}
    worst, refined = (check(job(circuit(drop_method=how, **given_))).circuits[0].drop for how in ("worst", "refined"))
    assert (refined or 0) <= (worst or 0) + 1e-9


@QUICK
@given(
    st.sampled_from(["lighting", "sockets", "cooking", "shower", "heating", "motor", "other"]),
    st.lists(st.floats(0.1, 60), min_size=1, max_size=6),
)
def test_diversity_never_adds_and_does_not_hang_on_the_order(kind: str, amps: list[float]) -> None:
    w = Silent(R)
    items = [Item(kind, a, Load(id=str(i), kind=kind), ("L1",)) for i, a in enumerate(amps)]  # type: ignore[arg-type]
    allowed = allowances(w, items)
    assert sum(allowed) <= sum(amps) + 1e-9
    assert sum(allowances(w, items[::-1])) == pytest.approx(sum(allowed))


@QUICK
@given(st.floats(5, 70), st.sampled_from([2.5, 4, 6]), st.floats(-5, 40))
def test_a_reading_as_predicted_is_within(length: float, csa: float, degrees: float) -> None:
    inputs = job(circuit("f", cable={"csa": csa}, spans=[{"length": length}]))
    predicted = {c.id: c.predicted for c in verify(inputs, "f", temperature=degrees)}
    log = entries_read(earlier("f", {"temperature": degrees, **{k: v for k, v in predicted.items() if v}}), inputs)
    assert {c.found for c in verify(inputs, "f", log)} == {"within"}


@QUICK
@given(st.floats(5, 60), st.sampled_from(["masonry", "timber", "plaster"]))
def test_nothing_gets_better_when_things_get_worse(length: float, place: str) -> None:
    inputs = job(circuit("f", spans=[{"length": length, "place": place}]), supply={"ze_declared": 0.8})
    before = check(inputs).circuits[0]
    for variant in robustness(inputs):
        assert variant.applies or (variant.id, place) == ("insulation", "masonry")
        assert not (variant.circuits[0].before == "short" and variant.circuits[0].after == "meets")
    after = check(longer(inputs)).circuits[0]
    assert (after.drop or 0) == pytest.approx(1.1 * (before.drop or 0))
