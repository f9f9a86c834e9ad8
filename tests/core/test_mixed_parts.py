"""Where several things are judged as one: one of them that is otherwise decides, never all of them, and never the first."""

from __future__ import annotations

import dataclasses

import pytest

from mellow_span.core.design.check import check, work_out
from mellow_span.core.design.effort import Effort
from mellow_span.core.design.size import size
from mellow_span.core.drawing.curves import plot_of
from mellow_span.core.errors import InputError
from mellow_span.core.findings.results import Check
from mellow_span.core.model.changes import Change, apply
from mellow_span.core.model.limits import IN_ALL, hold
from mellow_span.core.model.parts import Installation
from mellow_span.core.model.rebase import rebase
from mellow_span.core.rules.stretches import _shares
from mellow_span.core.rulesets import rule_set
from tests.build import circuit, job

R = rule_set("bs7671")
HIDDEN = {"place": "plaster", "length": 5}


def of(inputs: Installation, name: str, check_id: str) -> Check:
    result = next(c for c in check(inputs).circuits if c.id == name)
    return next(c for c in result.checks if c.id == check_id)


@pytest.mark.parametrize(
    ("guarded", "verdict"),
    [((True, True), "meets"), ((False, False), "short"), ((False, True), "short"), ((None, None), "not_known"), ((None, True), "not_known"), ((None, False), "short")],
)  # fmt: skip
def test_one_span_that_is_not_protected_needs_the_rcd_whatever_the_others_are(guarded: tuple[bool | None, ...], verdict: str) -> None:
    for order in (guarded, guarded[::-1]):
        spans = [{**HIDDEN, "guarded": one} for one in order]
        found = of(job(circuit(spans=spans, loads=[{"kind": "water_heater", "amount": 3000}])), "c", "additional")
        assert found.verdict == verdict, (order, found.text)


def test_one_leaving_device_that_is_not_known_leaves_the_sum_of_a_section_not_known() -> None:
    two = {"id": "b", "switch_in": 100, "rcd_idn": 0.03, "rcd_in": 63, "rcd2_idn": 0.03, "rcd2_in": 40}
    supply = {"fuse_kind": "BS1361", "fuse_in": 100, "fuse_source": "declared"}
    known = job(
        circuit("c", section=1), circuit("d", section=2), circuit("e", section=2, device={"rating": 6}), boards=[two], supply=supply
    )
    unknown, _ = apply(known, [Change("set", "circuit", "e", {"device.rating": None})])
    first, then = (next(k for k in check(inputs).boards[0].checks if k.id == "ratings") for inputs in (known, unknown))
    assert (first.verdict, first.limit) == ("meets", pytest.approx(38))
    # What nobody entered may be anything: all that the service fuse lets through can flow there.
    assert (then.verdict, then.limit) == ("short", pytest.approx(100))


def test_a_length_that_is_missing_on_the_way_leaves_an_end_without_a_distance() -> None:
    spans = [{"place": "masonry", "length": 4}, {"place": "masonry", "length": None}, {"place": "masonry", "length": 3, "after": "c-s0"}]
    inputs = job(circuit(spans=spans, loads=[{"span": "c-s1"}, {"span": "c-s2"}]))
    found = {e.span: e.at for e in check(inputs).circuits[0].ends}
    assert (found["c-s1"], found["c-s2"]) == (None, pytest.approx(7))


def test_work_is_counted_up_and_never_down() -> None:
    whole = Effort(10)
    part = whole.part(0.5)
    for done in (1.0, 2.0, 1.5):
        part.spend(done)
    assert (part.spent, whole.spent) == (4.5, 4.5)
    assert not part.over()
    part.spend(0.5)
    assert part.over()


def test_a_job_that_is_too_large_already_may_stay_so_or_shrink_and_never_grow() -> None:
    routes = tuple(dataclasses.replace(job(circuit(), routes=[{"id": f"r{i}", "name": "x"}]).routes[0]) for i in range(IN_ALL["route"] + 3))
    large = dataclasses.replace(job(circuit()), routes=routes)
    hold(large, large)
    hold(dataclasses.replace(large, routes=routes[1:]), large)
    for before in (dataclasses.replace(large, routes=routes[1:]), None):
        with pytest.raises(InputError, match=f"at most {IN_ALL['route']} routes"):
            hold(large, before)


def test_a_removal_clashes_with_the_newest_of_the_edits_inside_it() -> None:
    start = job(circuit())
    one, first = apply(start, [Change("set", "load", "c-l0", {"amount": 5000.0})])
    two, second = apply(one, [Change("set", "span", "c-s0", {"length": 12.0})])
    clashes = rebase(two, [Change("remove", "circuit", "c")], (*first, *second)).clashes
    assert [(c.why, c.by) for c in clashes] == [("changed", 1)]


def test_a_size_says_which_deciding_checks_no_size_puts_right_and_no_others() -> None:
    inputs = job(circuit(device={"icn": 1000}), supply={"ipf": 4000})
    told = size(inputs, "c").reason
    result = check(inputs).circuits[0]
    wrong = [c.title.lower() for c in result.checks if c.decides and c.verdict not in ("meets", "close") and c.id == "breaking"]
    assert wrong
    assert f"no csa fixes {', '.join(wrong)}" in told
    assert "no csa fixes" not in size(job(circuit()), "c").reason


def test_what_lies_ahead_is_counted_from_what_was_done() -> None:
    effort = Effort()
    effort.spend(3)
    effort.expect(5)
    assert (effort.ahead, effort.share) == (8, pytest.approx(3 / 8))


def test_drop_along_stretches_is_added_phase_by_phase_whichever_of_them_has_phases() -> None:
    assert _shares((), (1.0,)) == (1.0,)
    assert _shares((1.0,), (0.5,)) == (1.5,)
    assert _shares((1.0, 2.0, 3.0), (0.5,)) == (1.5, 2.5, 3.5)
    assert _shares((0.5,), (1.0, 2.0, 3.0)) == (1.5, 2.5, 3.5)
    assert _shares((1.0, 2.0, 3.0), (0.1, 0.2, 0.3)) == pytest.approx((1.1, 2.2, 3.3))
    assert _shares(None, (1.0,)) is None


@pytest.mark.parametrize(
    ("before", "own", "verdict"), [("B", "B", "meets"), ("B", "A", "not_known"), ("A", "B", "not_known"), ("A", "A", "not_known")]
)
def test_every_rcd_before_an_inverter_is_of_the_type_it_needs_not_one_of_them(before: str, own: str, verdict: str) -> None:
    pv = {"kind": "inverter", "amount": 3000, "joins": "way", "battery": False, "loss_of_mains": True}
    device = {"kind": "rcbo", "rating": 16, "idn": 0.03, "rcd_type": own, "both_ways": True}
    boards = [{"id": "b", "rcd_idn": 0.1, "rcd_type": before, "rcd_both_ways": True, "rcd_delayed": True}]
    found = of(job(circuit(device=device, loads=[pv], cable={"csa": 4}), boards=boards), "c", "source")
    assert (found.verdict == "meets") == (verdict == "meets"), found.text
    assert ("type of RCD" in found.text) == (verdict != "meets"), found.text


def test_the_scale_of_the_curves_is_two_decades_at_least() -> None:
    inputs = job(circuit(device={"rating": 6}, spans=[{"length": 200}], cable={"csa": 1.5}), supply={"ze": 5.0, "ipf": 50})
    scale = plot_of(work_out(inputs), "c").scale
    assert scale.i_hi >= 100 * scale.i_lo > 0
