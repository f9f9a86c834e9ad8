"""What the drawing says must be what the checks say: reach, lanes, ruling span, attention."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from mellow_span.core.design.check import check, work_out
from mellow_span.core.drawing.profile import profile_of
from mellow_span.core.findings.results import CircuitResult, Profile
from tests.build import circuit, job
from tests.core.test_properties import circuits
from tests.depth import examples

QUICK = examples(60)


def result(c: dict[str, Any], **supply: Any) -> CircuitResult:
    return check(job(c, supply=supply)).circuits[0]


def drawn(c: dict[str, Any]) -> Profile:
    return profile_of(work_out(job(c)), c["id"])


def value(found: CircuitResult, name: str) -> Any:
    return next(c for c in found.checks if c.id == name)


def stretched(c: dict[str, Any], factor: float) -> None:
    for span in c["run"]["spans"]:
        span["length"] *= factor


@QUICK
@given(circuits)
def test_a_run_as_long_as_its_reach_is_right_at_the_limit(c: dict[str, Any]) -> None:
    """Independent of the formula for the reach: the run is stretched to it and checked again."""
    before = result(c)
    length, profile = before.length, drawn(c)
    assert length
    assert profile.reach_drop is not None
    assert profile.reach_zs is not None
    for reach, check_id in ((profile.reach_drop, "volt_drop"), (profile.reach_zs, "loop")):
        assume(all(0.1 <= s["length"] * reach / length <= 1000 for s in c["run"]["spans"]))
        stretched(c, reach / length)
        found = value(result(c), check_id)
        assert found.value == pytest.approx(found.limit, rel=1e-6)
        stretched(c, length / reach)


@QUICK
@given(circuits)
def test_the_lanes_start_at_the_origin_and_end_at_what_the_checks_say(c: dict[str, Any]) -> None:
    found = result(c)
    profile = drawn(c)
    points, stretches = profile.points, profile.stretches
    assert (points[0].drop, points[0].zs) == (0, 0.28)
    assert points[-1].drop == pytest.approx(found.drop)
    assert points[-1].zs == pytest.approx(found.zs)
    assert points[-1].at == pytest.approx(found.length)
    assert [s.start for s in stretches[1:]] == [s.end for s in stretches[:-1]]
    assert min(s.iz for s in stretches if s.iz is not None) == pytest.approx(found.iz)
    ruling = next(s for s in stretches if s.span == profile.governing)
    assert ruling.iz == pytest.approx(found.iz)
    drops = [p.drop for p in points]
    assert drops == sorted(drops, key=lambda d: d or 0)


@QUICK
@given(st.floats(10, 150), st.sampled_from([30, 32]))
def test_a_ring_is_worst_in_the_middle_and_back_at_its_board_at_both_ends(length: float, rating: int) -> None:
    ring = circuit(
        shape="ring",
        loads=[{"kind": "sockets", "basis": "In", "amount": None}],
        device={"rating": rating, "kind": "rcbo", "idn": 0.03},
        cable={"csa": 2.5},
        spans=[{"length": length}],
    )
    found = result(ring)
    points = drawn(ring).points
    worst = max(points, key=lambda p: p.drop or 0)
    assert worst.at == pytest.approx(length / 2)
    assert worst.drop == pytest.approx(found.drop)
    assert worst.zs == pytest.approx(found.zs)
    assert (points[0].drop, points[-1].drop) == (0, pytest.approx(0, abs=1e-9))
    assert points[-1].zs == pytest.approx(0.28)


def test_what_can_kill_stands_before_what_dims() -> None:
    slow = circuit("slow", loads=[{"amount": 3000}], device={"rating": 16, "curve": "C"}, cable={"csa": 2.5}, spans=[{"length": 60}])
    dim = circuit("dim", loads=[{"amount": 520, "kind": "lighting"}], device={"rating": 6, "kind": "rcbo", "idn": 0.03}, cable={"csa": 1},
                  spans=[{"length": 90}])  # fmt: skip
    hot = circuit("hot", loads=[{"amount": 9000}], device={"rating": 40}, cable={"csa": 6}, spans=[{"place": "ceiling_thick"}])
    unknown = circuit("unknown", cable={"csa": None})
    found = check(job(dim, unknown, hot, slow, supply={"ze": 0.9, "ipf": 250, "ze_source": "assumed"}))
    lines = [(line.level, line.circuit, line.check) for line in found.attention if line.circuit]
    assert lines == [
        ("short", "slow", "disconnection"),
        ("short", "hot", "capacity"),
        ("short", "dim", "volt_drop"),
        ("not_known", "unknown", "capacity"),
    ]
    assert [line.level for line in found.attention if line.field == "supply.ze"] == ["assumed"]


def test_an_assumed_survey_marks_every_check_that_rests_on_it() -> None:
    found = result(circuit(), ze_source="assumed", ipf_source="declared")
    marked = {c.id: c.assumed for c in found.checks if c.assumed}
    assert marked == dict.fromkeys(("loop", "disconnection", "breaking", "line_thermal", "cpc_thermal"), ("Ze",))
    assert found.assumed == ("Ze",)
    assert result(circuit()).assumed == ()


def test_a_value_still_to_be_checked_marks_the_checks_that_use_it() -> None:
    """The class 3 energy of a 40 A breaker is a doubtful cell; that of 32 A is not."""
    doubtful = result(circuit(device={"rating": 40}, cable={"csa": 10}))
    sure = result(circuit())
    assert {c.id for c in doubtful.checks if c.doubtful} == {"line_thermal", "cpc_thermal"}
    assert doubtful.doubtful
    assert not sure.doubtful


def test_remembered_results_are_the_same_as_fresh_ones() -> None:
    first = job(circuit("a"), circuit("b", spans=[{"length": 22}]))
    assert check(first, keep=False, reuse=True) == check(first, keep=False)
    changed = job(circuit("a", spans=[{"length": 11}]), circuit("b", spans=[{"length": 22}]))
    assert check(changed, keep=False, reuse=True) == check(changed, keep=False)
    other_supply = job(circuit("a"), circuit("b", spans=[{"length": 22}]), supply={"ze": 0.4})
    assert check(other_supply, keep=False, reuse=True) == check(other_supply, keep=False)
