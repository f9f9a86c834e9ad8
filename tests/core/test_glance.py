"""A whole house at a glance: every circuit once, in the order of the tree, and no bar that says other than its check."""

from __future__ import annotations

from typing import Any

import pytest

from mellow_span.core.design.check import work_out
from mellow_span.core.drawing.glance import Bar, GlanceRow, glance_of
from mellow_span.core.model.parts import Installation
from mellow_span.core.model.tree import feeder_of
from tests.build import circuit, job, submain
from tests.core.random_jobs import random_job
from tests.depth import many, seeded

ROUNDING = 1e-9


def rows(inputs: Installation) -> tuple[GlanceRow, ...]:
    return glance_of(work_out(inputs))


def bar(about: str, one: dict[str, Any], **more: Any) -> Bar:
    (row,) = rows(job(circuit(**one), **more))
    return next(b for b in row.bars if b.about == about)


def shares(one: Bar) -> dict[str, float]:
    return {m.name: m.share for m in one.marks}


def test_amps_are_a_share_of_what_the_cable_carries() -> None:
    """Clipped 2.5 mm2, 27 A (Table 4D5): 13 A on a 20 A breaker."""
    found = bar("amps", {"cable": {"csa": 2.5}, "loads": [{"amount": 13 * 230}], "device": {"rating": 20}})
    assert (found.used, found.limit) == pytest.approx((20 / 27, 27))
    assert shares(found) == pytest.approx({"Ib": 13 / 27, "In": 20 / 27, "Iz": 1})


def test_of_a_ring_all_is_what_both_legs_carry() -> None:
    """433.1.204: 20 A a leg on 32 A, so that 27 A a leg allow 27 x 32 / 20 = 43.2 A."""
    ring = {"shape": "ring", "cable": {"csa": 2.5}, "device": {"rating": 32}, "loads": [{"kind": "sockets", "basis": "In"}]}
    found = bar("amps", ring)
    assert (found.used, found.limit) == pytest.approx((32 / 43.2, 43.2))
    assert shares(found) == pytest.approx({"Ib": 32 / 43.2, "In": 32 / 43.2, "leg": 27 / 43.2})


def test_of_a_rewirable_fuse_iz_holds_its_factor_already() -> None:
    """433.1.202: Iz is 0.725 of the 27 A."""
    found = bar("amps", {"cable": {"csa": 2.5}, "loads": [{"amount": 2300}], "device": {"kind": "BS3036", "rating": 20}})
    assert found.limit == pytest.approx(0.725 * 27, rel=0.001)
    assert found.verdict == "short"


def test_of_a_fuse_all_is_what_its_conventional_current_leaves() -> None:
    """433.1.1 (iii): I2 of 1.5 In up to 1.45 Iz leaves 26.1 A of the 27 A."""
    found = bar("amps", {"cable": {"csa": 2.5}, "loads": [{"amount": 2300}], "device": {"kind": "BS1361", "rating": 20}})
    assert (found.used, found.limit) == pytest.approx((20 / 26.1, 26.1))


def test_the_part_of_the_sub_main_and_the_mark_of_a_measured_value() -> None:
    feed = submain("m", spans=[{"length": 30}], cable={"csa": 10}, device={"rating": 40})
    inputs = job(feed, circuit("f", board="far"), boards=["b", "far"])
    done = work_out(inputs)
    _, row = glance_of(done)
    volts, loop = row.bars[1], row.bars[2]
    before = done.feeds["far"].drop
    assert before
    assert [(m.name, m.value) for m in volts.marks] == [("before", before)]
    assert volts.used
    assert volts.marks[0].share == pytest.approx(before / (volts.limit or 0))
    assert 0 < volts.marks[0].share < volts.used
    assert shares(loop) == {"measured": 0.8}


def test_a_board_on_its_own_electrode_has_no_mark_of_a_measured_value() -> None:
    rcbo = {"device": {"kind": "rcbo", "rating": 16, "idn": 0.03, "rcd_type": "A"}}
    assert not bar("loop", rcbo, supply={"earthing": "TT", "ze": 20}).marks


def test_what_is_not_known_is_no_bar_at_nothing() -> None:
    (row,) = rows(job(circuit(spans=[{"length": None}])))
    volts = row.bars[1]
    assert (volts.used, volts.verdict) == (None, "not_known")
    assert row.worst != "volts"


@pytest.mark.parametrize("seed", range(many(60, 12)))
def test_every_circuit_has_one_row_below_what_feeds_it_and_bars_as_its_checks(seed: int) -> None:
    inputs = random_job(seeded(seed))
    done = work_out(inputs)
    found = glance_of(done)
    at = {row.circuit: i for i, row in enumerate(found)}
    assert len(at) == len(found) == len(inputs.circuits)
    results = {r.id: r for r in done.result.circuits}
    for one in inputs.circuits:
        row, result = found[at[one.id]], results[one.id]
        feeder = feeder_of(inputs, one.board)
        assert row.depth == (0 if feeder is None else found[at[feeder.id]].depth + 1)
        if feeder is not None:
            # Between a circuit and its feed is nothing but what hangs on that feed.
            assert all(found[i].depth > found[at[feeder.id]].depth for i in range(at[feeder.id] + 1, at[one.id] + 1))
        assert (row.verdict, row.margin) == (result.verdict, result.margin)
        checks = {c.id: c for c in result.checks}
        assert row.ruling == (checks[result.ruling].title if result.ruling in checks else "")
        for one_bar in row.bars:
            if one_bar.used is None:
                continue
            if one_bar.about != "amps":
                check = checks[{"volts": "volt_drop", "loop": "loop"}[one_bar.about]]
                assert one_bar.verdict == check.verdict
                assert (one_bar.used > 1 + ROUNDING) == ((check.margin or 0) < -ROUNDING), check.text
            elif one_bar.used > 1 + ROUNDING:
                assert one_bar.verdict in ("short", "not_known")
        shown = [b for b in row.bars if b.used is not None]
        assert (row.worst is None) == (not shown)
