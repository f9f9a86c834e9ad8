"""The same job put another way, or with one thing worse, over jobs drawn at random: what must not change does not, what is worse never reads better."""

from __future__ import annotations

import re
from dataclasses import fields, replace
from typing import Any

import pytest

from mellow_span.core.design.check import check
from mellow_span.core.design.options import options
from mellow_span.core.errors import CoreError
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import CircuitResult
from mellow_span.core.model.parts import Circuit, Installation
from tests.build import circuit, job, submain
from tests.core.random_jobs import random_job
from tests.core.test_never_worse import RANK, SEEDS, drawn, of, ranks, with_spans
from tests.depth import many, seeded

LIGHT = range(many(40, 8))


def one(inputs: Installation) -> Circuit:
    return next(c for c in inputs.circuits if c.id == "c")


def with_one(inputs: Installation, **given: Any) -> Installation:
    return replace(inputs, circuits=tuple(replace(c, **given) if c.id == "c" else c for c in inputs.circuits))


def no_better(worse: CircuitResult, than: CircuitResult, *checks: str) -> None:
    """Each of some checks, or all, is no better; one that is no more asked counts as before."""
    there = {k.id: k for k in than.checks}
    for k in worse.checks:
        if (not checks or k.id in checks) and k.id in there and there[k.id].decides:
            assert RANK[k.verdict] >= RANK[there[k.id].verdict], (k.id, there[k.id].text, k.text)


def figures(result: CircuitResult) -> list[Any]:
    return [(k.id, k.verdict, k.value and pytest.approx(k.value), k.limit and pytest.approx(k.limit)) for k in result.checks]


@pytest.mark.parametrize("seed", SEEDS)
def test_warmer_surroundings_are_never_better(seed: int) -> None:
    given = drawn(seed)
    no_better(
        of(job(circuit(**with_spans(given, ambient=55)))), of(job(circuit(**with_spans(given, ambient=30)))), "capacity", "overload_current"
    )


@pytest.mark.parametrize("seed", SEEDS)
def test_more_load_is_never_better(seed: int) -> None:
    given = drawn(seed)
    more = {**given, "loads": [*given["loads"], {"amount": 900, "kind": "other"}]}
    # Cooking alone on its circuit has an allowance that is gone beside another load; nothing gets better by either.
    no_better(of(job(circuit(**more))), of(job(circuit(**given))), "design_current", "volt_drop")


@pytest.mark.parametrize("seed", SEEDS)
def test_a_larger_device_of_its_kind_protects_no_better(seed: int) -> None:
    given = drawn(seed)
    sizes = {kind: [6.0, 16.0, 20.0, 32.0, 45.0] for kind in ("mcb", "rcbo", "BS88-3", "BS3036")}
    kind, rating = given["device"]["kind"], given["device"]["rating"]
    for larger in (r for r in sizes[kind] if r > rating):
        worse = of(job(circuit(**{**given, "device": {**given["device"], "rating": larger}})))
        # Over 32 A more time is allowed, so a slower device may be in time: the loop by itself is left out there.
        checks = ("capacity", "overload_current", *(() if larger > 32 else ("loop",)))
        no_better(worse, of(job(circuit(**given))), *checks)


@pytest.mark.parametrize("seed", SEEDS)
def test_without_its_rcd_a_circuit_is_never_better(seed: int) -> None:
    given = drawn(seed)
    guarded = {**given, "device": {**given["device"], "idn": 0.03, "rcd_type": "A"}}
    bare = {**given, "device": {**given["device"], "idn": None}}
    no_better(of(job(circuit(**bare))), of(job(circuit(**guarded))), "additional", "disconnection", "loop", "cpc_thermal", "charging")


@pytest.mark.parametrize("seed", SEEDS)
def test_less_breaking_capacity_is_never_better(seed: int) -> None:
    given = drawn(seed)
    supply = {"ipf": 4500, "ze": 0.06, "fuse_kind": "BS1361", "fuse_in": 100}
    before = 0
    for icn in (16000, 6000, 3000, 1000):
        found = of(job(circuit(**{**given, "device": {**given["device"], "icn": icn}}), supply=supply))
        # Beyond it the energy is only a bound, and the capacity itself is short: together they are never better.
        now = max(ranks(found, "breaking", "line_thermal", "cpc_thermal"))
        assert now >= before, icn
        before = now


ANSWERS = {
    "circuit": ("high_integrity", "diversified"), "load": ("lampholders", "dc_detection"), "span": ("guarded", "fire_supports"),
    "supply": ("extraneous", "tails_fused", "earthing_protected"), "board": ("metal", "non_combustible", "class_ii", "extraneous"),
}  # fmt: skip


@pytest.mark.parametrize("seed", SEEDS)
@pytest.mark.parametrize(("kind", "name"), [(kind, name) for kind, names in ANSWERS.items() for name in names])
def test_a_question_left_open_never_reads_better_than_its_best_answer(kind: str, name: str, seed: int) -> None:
    """Whatever may be left unsaid with a yes and a no: nothing passes by silence that neither answer would let pass."""
    given = drawn(seed)
    supply = {
        "earthing": "TT",
        "ze": 60,
        "tails_csa": 25,
        "tails_length": 4,
        "earthing_csa": 2.5,
        "fuse_kind": "BS1361",
        "fuse_in": 100,
        "neutral_csa": 25,
    }
    boards = [{"id": "b", "rcd_idn": 0.1, "switch_in": 100, "rcd_in": 100}]

    def found(answer: bool | None) -> dict[str, int]:
        mine = {**given, "leakage": 0.012 if name == "high_integrity" else None}
        here: list[dict[str, Any]] = [dict(b) for b in boards]
        more = dict(supply)
        if kind == "circuit":
            mine[name] = answer
        elif kind == "load":
            mine["loads"] = [{**x, "kind": "ev" if name == "dc_detection" else "lighting", name: answer} for x in given["loads"]]
        elif kind == "span":
            mine = with_spans(mine, **{name: answer})
        elif kind == "board":
            here[0][name] = answer
        else:
            more[name] = answer
        result = check(job(circuit(**mine), supply=more, boards=here), keep=False)
        checks = [*result.circuits[0].checks, *result.intake, *result.boards[0].checks]
        return {id: max((RANK[k.verdict] for k in checks if k.id == id and k.decides), default=0) for id in {k.id for k in checks}}

    yes, no, unsaid = (found(a) for a in (True, False, None))
    for id, rank in unsaid.items():
        if id in yes and id in no:
            assert rank >= min(yes[id], no[id]), id


@pytest.mark.parametrize("seed", SEEDS)
def test_a_span_cut_in_two_is_the_span(seed: int) -> None:
    """Half a stretch and half a stretch of the same surroundings: every figure is that of the whole."""
    given = drawn(seed)
    spans = [half for s in given["spans"] for half in ({**s, "length": s["length"] / 2}, {**s, "length": s["length"] / 2})]
    whole, cut = of(job(circuit(**given))), of(job(circuit(**{**given, "spans": spans})))
    assert figures(cut) == figures(whole)


@pytest.mark.parametrize("seed", SEEDS)
def test_names_say_nothing(seed: int) -> None:
    """Other names and identities of everything: the same verdicts and figures."""
    inputs = random_job(seeded(seed))
    text = repr(inputs)
    names = {c.id for c in inputs.circuits}
    renamed = replace(
        inputs, name="Another", boards=tuple(replace(b, name=f"Board {i}") for i, b in enumerate(inputs.boards)),
        circuits=tuple(replace(c, name=f"No. {i}", loads=tuple(replace(x, name="thing", room="") for x in c.loads)) for i, c in enumerate(inputs.circuits)),
        routes=tuple(replace(r, name="Way") for r in inputs.routes),
    )  # fmt: skip
    assert text == repr(inputs)
    assert names == {c.id for c in renamed.circuits}
    for a, b in zip(check(inputs, keep=False).circuits, check(renamed, keep=False).circuits, strict=True):
        assert figures(a) == figures(b)


@pytest.mark.parametrize("seed", SEEDS)
def test_the_names_of_phases_say_nothing(seed: int) -> None:
    """Every phase called by the next one's name: no verdict and no figure of a circuit changes."""
    turn = {"L1": "L2", "L2": "L3", "L3": "L1", None: None}
    inputs = random_job(seeded(seed))
    turned = replace(inputs, circuits=tuple(replace(c, phase=turn[c.phase]) for c in inputs.circuits))  # type: ignore[arg-type]
    for a, b in zip(check(inputs, keep=False).circuits, check(turned, keep=False).circuits, strict=True):
        assert figures(a) == figures(b)


@pytest.mark.parametrize("seed", SEEDS)
def test_a_spare_and_an_empty_board_change_nothing_else(seed: int) -> None:
    given = drawn(seed)
    alone = check(job(circuit(**given), boards=["b"]), keep=False).circuits[0]
    spare = circuit("s", spare=True, cable={"csa": 1}, loads=[{"amount": 20000}], spans=[{"length": 300}])
    unused = submain("m", spare=True)
    more = job(circuit(**given), spare, unused, boards=["b", "far"])
    assert figures(next(r for r in check(more, keep=False).circuits if r.id == "c")) == figures(alone)


@pytest.mark.parametrize("seed", SEEDS)
def test_that_a_value_was_only_assumed_changes_no_figure(seed: int) -> None:
    given = drawn(seed)
    measured = of(job(circuit(**given)))
    assumed = of(job(circuit(**given), supply={"ze_source": "assumed", "ipf_source": "assumed"}))
    assert figures(assumed) == figures(measured)
    assert set(assumed.assumed) >= set(measured.assumed)


@pytest.mark.parametrize("seed", SEEDS)
def test_what_is_shown_lies_on_the_right_side_of_its_limit(seed: int) -> None:
    """Runs stretched until a check is at its limit: no text says the same figure twice and calls one over the other."""
    given = drawn(seed)
    low, high = 1.0, 300.0
    for _ in range(26):
        middle = (low + high) / 2
        result = of(job(circuit(**with_spans(given, length=middle))))
        low, high = (middle, high) if max(ranks(result, "volt_drop", "loop")) < 2 else (low, middle)
    for metres in (low, high):
        for k in of(job(circuit(**with_spans(given, length=metres)))).checks:
            told = re.search(
                r"([\d.  ]+) (\S+) (?:is over|is under|is within|carries|withstands)(?: the| In| Ib| Ipf)? ([\d.  ]+) (\S+)", k.text
            )
            if told and told[1] == told[3] and k.value is not None and k.limit is not None:
                assert k.value == pytest.approx(k.limit, rel=1e-9), k.text
                assert k.verdict != "short", k.text


@pytest.mark.parametrize("seed", LIGHT)
def test_asking_for_ways_out_never_fails_and_each_is_solved_as_told(seed: int) -> None:
    """Of any job, whatever is missing in it: what a way out says of the circuit is what a check of the changed job says."""
    inputs = random_job(seeded(seed))
    try:
        check(inputs, keep=False)
    except CoreError:
        return
    for circuit_ in inputs.circuits[:2]:
        for option in options(inputs, circuit_.id):
            assert option.title
            assert option.breaks >= len(option.turned)
            assert len(option.others) + len(option.turned) <= option.rescues + option.breaks + len(option.turned)


@pytest.mark.parametrize("field", [f.name for f in fields(Circuit) if f.type in ("bool | None", "float | None")])
def test_every_answer_that_may_be_missing_can_be_given(field: str) -> None:
    """A field that a refusal may name exists, and saying it is never an error."""
    inputs = job(circuit())
    value: Any = True if next(f for f in fields(Circuit) if f.name == field).type == "bool | None" else 1.0
    assert not check(with_one(inputs, **{field: value}), keep=False).circuits[0].problems
    assert quantity(1.0, "A") == "1 A"
