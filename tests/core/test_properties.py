"""What must hold for any circuit, not only for the ones we thought of."""

from __future__ import annotations

import dataclasses
import itertools
import math
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mellow_span.core.design.check import check
from mellow_span.core.design.size import failing, size
from mellow_span.core.errors import CoreError
from mellow_span.core.model.parse import parse
from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets import rule_set
from tests.build import circuit, job
from tests.depth import examples

R = rule_set("bs7671")
PLACES = [p.id for p in R.places.values() if p.method in R.families["flat_twin_cpc_pvc70"].columns]
SIZES = R.families["flat_twin_cpc_pvc70"].sizes

spans = st.lists(
    st.fixed_dictionaries(
        {
            "place": st.sampled_from(PLACES),
            "length": st.floats(0.1, 60),
            "ambient": st.floats(10, 45),
            "group": st.integers(1, 9),
            "wrapped": st.sampled_from([0, 0, 0.05]),
        }
    ),
    min_size=1,
    max_size=4,
)
circuits = st.builds(
    lambda spans, csa, watts, rating, curve, kind, basis: circuit(
        spans=[{**s, "wrapped": min(s["wrapped"], s["length"])} for s in spans],
        cable={"csa": csa},
        loads=[{"amount": watts, "kind": kind}],
        device={"rating": rating, "curve": curve, **basis},
    ),
    spans,
    st.sampled_from(SIZES),
    st.floats(50, 12000),
    st.sampled_from([6, 10, 16, 20, 32, 40, 50]),
    st.sampled_from(["B", "C", "D"]),
    st.sampled_from(["lighting", "other", "sockets"]),
    st.sampled_from([{}, {"kind": "rcbo", "idn": 0.03}]),
)
QUICK = examples(60)


@QUICK
@given(circuits, st.integers(0, 3), st.floats(0.1, 40))
def test_more_length_never_lowers_drop_or_loop(c: dict[str, Any], which: int, more: float) -> None:
    before = check(job(c)).circuits[0]
    spans = c["run"]["spans"]
    spans[which % len(spans)]["length"] += more
    after = check(job(c)).circuits[0]
    assert before.drop is not None
    assert after.drop is not None
    assert after.drop > before.drop
    assert (after.zs or 0) > (before.zs or 0)


@QUICK
@given(circuits)
def test_a_bigger_csa_never_lowers_capacity_and_never_raises_drop_or_loop(c: dict[str, Any]) -> None:
    found = []
    for csa in SIZES:
        c["run"]["cable"]["csa"] = csa
        found.append(check(job(c)).circuits[0])
    for a, b in itertools.pairwise(found):
        assert (b.iz or 0) >= (a.iz or 0)
        assert (b.drop or 0) <= (a.drop or 0)
        assert (b.zs or 0) <= (a.zs or 0)


@QUICK
@given(circuits)
def test_size_returns_the_smallest_that_check_passes(c: dict[str, Any]) -> None:
    passing = []
    for csa in SIZES:
        c["run"]["cable"]["csa"] = csa
        if not failing(check(job(c)).circuits[0]):
            passing.append(csa)
    found = size(job(c), "c")
    assert found.csa == (min(passing) if passing else None)
    assert found.reason


@QUICK
@given(circuits)
def test_working_changes_no_figure_and_every_step_says_where_it_comes_from(c: dict[str, Any]) -> None:
    with_steps, without = check(job(c), keep=True).circuits[0], check(job(c), keep=False).circuits[0]
    for a, b in zip(with_steps.checks, without.checks, strict=True):
        assert (a.value, a.limit, a.margin, a.verdict, a.text, a.doubtful) == (b.value, b.limit, b.margin, b.verdict, b.text, b.doubtful)
        assert not b.steps
        for step in a.steps:
            assert step.cite or step.clause or step.note, (a.id, step)
            assert math.isfinite(step.value)
            if step.cite:
                assert R.table(step.cite.table).columns.index(step.cite.column) >= 0
                assert any(row.label == step.cite.row for row in R.table(step.cite.table).rows)


@QUICK
@given(st.lists(circuits, min_size=2, max_size=4), st.randoms(use_true_random=False))
def test_order_of_circuits_does_not_matter(parts: list[dict[str, Any]], rnd: Any) -> None:
    for i, c in enumerate(parts):
        c["id"] = f"c{i}"
    mixed = list(parts)
    rnd.shuffle(mixed)
    one = {r.id: r for r in check(job(*parts)).circuits}
    two = {r.id: r for r in check(job(*mixed)).circuits}
    assert one == two


@QUICK
@given(circuits)
def test_plain_data_and_back_loses_nothing(c: dict[str, Any]) -> None:
    before = job(c)
    assert parse(Installation, dataclasses.asdict(before)) == before


NUMBERS = st.one_of(st.none(), st.floats(), st.integers(-(10**6), 10**6), st.text(max_size=3))


@examples(300)
@given(circuits, st.data())
def test_nonsense_gives_a_named_error_and_the_other_circuit_still_computes(c: dict[str, Any], data: Any) -> None:
    spans, loads = c["run"]["spans"], c["loads"]
    target: Any = data.draw(st.sampled_from([spans[0], loads[0], c["device"], c["run"]["cable"]]))
    target[data.draw(st.sampled_from(sorted(set(target) - {"id"})))] = data.draw(NUMBERS)
    good = circuit("good")
    try:
        found = check(job(c, good))
    except CoreError as error:
        assert error.field
        assert error.allowed
        return
    assert found.circuits[1].verdict == "meets"
    for value in (found.circuits[0].ib, found.circuits[0].iz, found.circuits[0].drop, found.circuits[0].zs, found.circuits[0].margin):
        assert value is None or math.isfinite(value)


def test_a_value_out_of_range_in_the_model_names_its_field() -> None:
    bad = job(circuit(), circuit("good"))
    span = dataclasses.replace(bad.circuits[0].run.spans[0], length=-4.0)
    run = dataclasses.replace(bad.circuits[0].run, spans=(span,))
    bad = dataclasses.replace(bad, circuits=(dataclasses.replace(bad.circuits[0], run=run), bad.circuits[1]))
    found = check(bad)
    problem = found.circuits[0].problems[0]
    assert (problem.field, problem.given) == ("span.c-s0.length", "-4.0")
    assert "0.1 to 1 000 m" in problem.allowed
    assert found.circuits[1].verdict == "meets"


def test_missing_inputs_are_asked_for_by_name() -> None:
    c = circuit(device={"rating": None}, cable={"csa": None})
    found = {k.id: k for k in check(job(c, supply={"ze": None, "ipf": None})).circuits[0].checks}
    assert found["capacity"].field == "cable.csa"
    assert found["loop"].field in ("supply.ze", "cable.csa")
    assert found["design_current"].field == "device.rating"
    # Whether additional protection is asked for follows from the load alone, which is there.
    assert found.pop("additional").verdict == "meets"
    # Nor do the conductors of a flat cable hang on its size.
    assert found.pop("conductors").verdict == "meets"
    assert all(k.verdict == "not_known" for k in found.values())


def test_a_tree_that_is_none_is_refused() -> None:
    loop = [circuit("a", feeds="y", board="x"), circuit("b", feeds="x", board="y")]
    with pytest.raises(CoreError) as refused:
        check(job(*loop, boards=["x", "y"]))
    assert refused.value.field == "circuit.feeds"
