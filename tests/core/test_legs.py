"""Runs that branch: what arrives at every end and box, against an independent walk over the tree; and what a straight run must not notice."""

from __future__ import annotations

import dataclasses
import itertools
import random
from collections import defaultdict
from typing import Any

import pytest

from mellow_span.core.design.check import check
from mellow_span.core.design.size import size
from mellow_span.core.errors import InputError
from mellow_span.core.findings.history import names_of, told
from mellow_span.core.findings.results import CircuitResult
from mellow_span.core.model import legs
from mellow_span.core.model.changes import Change, Refused, apply, invert, replay
from mellow_span.core.model.difference import difference
from mellow_span.core.model.parts import Circuit, Installation, Run, Span
from mellow_span.core.model.tree import canonical
from tests.build import circuit, job
from tests.depth import many

# r1 + r2 at 20 C and hot (1.20: PVC, a cpc bunched with its line) of 1.5 mm2 with a cpc of 1.0 [mohm/m]; its volt drop [mV/A/m].
R12, HOT, MV = 12.10 + 18.10, 1.20, 29.0
ZE, U0 = 0.35, 230.0


def lights(spans: list[dict[str, Any]], loads: list[dict[str, Any]], **more: Any) -> Installation:
    given = {
        "device": {"kind": "rcbo", "rating": 6, "idn": 0.03, "rcd_type": "A", "icn": 6000},
        "cable": {"csa": 1.5},
        **more,
    }
    return job(circuit("c", spans=spans, loads=[{"kind": "lighting", **x} for x in loads], **given), supply={"ze": ZE, "ipf": 1500})


def found(house: Installation) -> CircuitResult:
    return check(house).circuits[0]


# The example of a row of lamps: 6 m to box A, from it 7 m on to the hall, and 4 m to the landing with 5 m more to the bath.
ROW = [
    {"id": "joists", "length": 6, "box": "box A"}, {"id": "hall", "name": "hall", "length": 7}, {"id": "landing", "length": 4, "after": "joists"},
    {"id": "bath", "name": "bath", "length": 5},
]  # fmt: skip
AT = [
    {"id": "1", "amount": 230, "span": "hall"}, {"id": "2", "amount": 115, "span": "landing"}, {"id": "3", "amount": 460, "span": "bath"},
]  # fmt: skip


def test_the_example_by_hand() -> None:
    result = found(lights(ROW, AT))
    ends = {end.span: end for end in result.ends}
    assert {k: (e.at, e.last) for k, e in ends.items()} == {
        "joists": (6, False), "hall": (13, True), "landing": (10, False), "bath": (15, True),
    }  # fmt: skip
    # 1 A at the hall, 0.5 A at the landing, 2 A at the bath: 3.5 A to the box, 1 A on to the hall, 2.5 and 2 A to the bath.
    volts = {"joists": 6 * 3.5, "hall": 6 * 3.5 + 7, "landing": 6 * 3.5 + 4 * 2.5, "bath": 6 * 3.5 + 4 * 2.5 + 5 * 2}
    for name, amp_metres in volts.items():
        assert ends[name].drop == pytest.approx(100 * amp_metres * MV / 1000 / U0)
        assert ends[name].r1r2 == pytest.approx(R12 * (ends[name].at or 0) / 1000)
        assert ends[name].zs == pytest.approx(ZE + R12 * HOT * (ends[name].at or 0) / 1000)
    assert (result.drop, result.zs) == (ends["bath"].drop, ends["bath"].zs)
    # What is bought is the whole of it.
    assert result.length == 22
    by_id = {c.id: c for c in result.checks}
    assert by_id["volt_drop"].text.startswith("to bath: ")
    assert by_id["loop"].text.startswith("to bath: ")
    assert by_id["design_current"].value == pytest.approx(3.5)


def test_a_short_branch_that_fails_is_not_outvoted_by_a_long_one_that_meets() -> None:
    """The worst end rules the verdict, and the headline says which it is."""
    spans = [{"id": "a", "name": "near", "length": 45}, {"id": "b", "name": "far", "length": 50, "after": "board"}]
    loads = [{"id": "1", "amount": 1300, "span": "a"}, {"id": "2", "amount": 10, "span": "b"}]
    result = found(lights(spans, loads))
    ends = {end.name: end for end in result.ends}
    assert (ends["near"].verdict, ends["far"].verdict) == ("short", "meets")
    assert (result.verdict, result.ruling) == ("short", "volt_drop")
    assert "near" in result.reason
    assert result.drop == ends["near"].drop


def random_tree(rnd: random.Random) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
    spans: list[dict[str, Any]] = []
    for k in range(rnd.randint(2, 9)):
        after = rnd.choice([None, None, *(s["id"] for s in spans), *(["board"] if spans else [])])
        spans.append({"id": f"s{k}", "name": f"span {k}", "length": round(rnd.uniform(1, 12), 1), "after": after})
    loads = [{"id": f"x{k}", "amount": rnd.choice([20, 60, 115, 230]), "span": rnd.choice(spans)["id"]} for k in range(rnd.randint(1, 6))]
    return spans, loads


def walked(spans: list[dict[str, Any]], loads: list[dict[str, Any]]) -> dict[str, tuple[float, float]]:
    """By span what arrives at its end: metres, and volts dropped. Currents add up towards the device, drops away from it."""
    before, last = {}, None
    for s in spans:
        before[s["id"]] = last if s["after"] is None else None if s["after"] == "board" else s["after"]
        last = s["id"]
    carried: dict[str, float] = defaultdict(float)
    for x in loads:
        at = x["span"]
        while at is not None:
            carried[at] += x["amount"] / U0
            at = before[at]
    arrived: dict[str | None, tuple[float, float]] = {None: (0.0, 0.0)}
    for s in spans:
        metres, volts = arrived[before[s["id"]]]
        arrived[s["id"]] = metres + s["length"], volts + carried[s["id"]] * s["length"] * MV / 1000
    return {k: v for k, v in arrived.items() if k is not None}


@pytest.mark.parametrize("seed", range(many(200, 40)))
def test_every_end_and_box_of_any_tree(seed: int) -> None:
    spans, loads = random_tree(random.Random(seed))
    result, wanted = found(lights(spans, loads)), walked(spans, loads)
    assert result.ends
    for end in result.ends:
        metres, volts = wanted[end.span]
        assert end.at == pytest.approx(metres)
        assert end.drop == pytest.approx(100 * volts / U0)
        assert end.zs == pytest.approx(ZE + R12 * HOT * metres / 1000)
    assert result.drop == pytest.approx(max(100 * volts / U0 for _, volts in wanted.values()))
    assert result.zs == pytest.approx(max(ZE + R12 * HOT * metres / 1000 for metres, _ in wanted.values()))
    assert {s.id for s in result.spans} == {s["id"] for s in spans}


def test_a_chain_that_is_said_as_a_tree_is_the_straight_run() -> None:
    """Each span said to leave from the one before it, loads said to stand where they stood by metres: not a figure moves."""
    for seed in range(many(60, 20)):
        rnd = random.Random(seed)
        metres = [round(rnd.uniform(1, 9), 1) for _ in range(rnd.randint(1, 5))]
        edges = list(itertools.accumulate(metres))
        at = [rnd.randrange(len(metres)) for _ in range(rnd.randint(1, 4))]
        plain = found(
            lights(
                [{"id": f"s{k}", "length": m} for k, m in enumerate(metres)],
                [{"id": f"x{k}", "amount": 100, "at": edges[a]} for k, a in enumerate(at)],
            )
        )
        tree = found(
            lights(
                [{"id": f"s{k}", "length": m, "after": f"s{k - 1}" if k else "board"} for k, m in enumerate(metres)],
                [{"id": f"x{k}", "amount": 100, "span": f"s{a}"} for k, a in enumerate(at)],
            )
        )
        assert (tree.drop, tree.zs, tree.r1r2, tree.fault_min, tree.verdict) == pytest.approx(
            (plain.drop, plain.zs, plain.r1r2, plain.fault_min, plain.verdict)
        )
        assert [(c.id, c.verdict, c.value) for c in tree.checks] == [(c.id, c.verdict, pytest.approx(c.value)) for c in plain.checks]


def test_a_branch_never_makes_another_end_better_and_the_size_holds_at_every_end() -> None:
    for seed in range(many(60, 20)):
        rnd = random.Random(seed)
        spans, loads = random_tree(rnd)
        before = found(lights(spans, loads))
        more = [*spans, {"id": "more", "length": 60.0, "after": rnd.choice(spans)["id"]}]
        after = found(lights(more, [*loads, {"id": "y", "amount": 400, "span": "more"}]))
        assert (after.drop or 0) >= (before.drop or 0)
        assert (after.zs or 0) >= (before.zs or 0)
    house = lights(
        [{"id": "a", "length": 5}, {"id": "b", "length": 30}, {"id": "c", "length": 60, "after": "a"}],
        [{"id": "x", "amount": 1200, "span": "c"}],
    )
    sized = size(house, "c")
    assert sized.csa is not None
    assert sized.csa > 1.5, "a path that is longer than the main way decides the size"


# The shape itself -----------------------------------------------------------------------------------------------------------------


def run_of(*afters: str | None) -> Run:
    return Run(id="r", spans=tuple(Span(id=f"s{k}", length=float(k + 1), after=after) for k, after in enumerate(afters)))


def shape(run: Run) -> list[list[str]]:
    return [[s.id for s in path.spans] for path in legs.paths(run)]


def test_ends_come_with_the_main_way_first() -> None:
    assert shape(run_of(None, None, "s0", None)) == [["s0", "s1"], ["s0", "s2", "s3"]]
    assert shape(run_of(None, "board", None)) == [["s0"], ["s1", "s2"]]
    assert shape(run_of(None, None, "s1", "s0")) == [["s0", "s1", "s2"], ["s0", "s3"]]
    assert shape(run_of()) == []
    for bad in ("s1", "s9", "s0"):
        with pytest.raises(InputError, match="before it"):
            legs.befores(run_of(bad).spans)


def test_when_a_span_goes_what_went_on_from_it_goes_on_from_where_it_left() -> None:
    rnd = random.Random(5)
    for _ in range(300):
        spans, _ = random_tree(rnd)
        run = Run(id="r", spans=tuple(Span(**{k: v for k, v in s.items() if k != "amount"}) for s in spans))
        before = legs.befores(run.spans)
        gone = rnd.choice(run.spans).id
        moved = legs.let_go(run.spans, gone)
        left = [dataclasses.replace(s, after=moved.get(s.id, s.after)) for s in run.spans if s.id != gone]
        assert legs.befores(left) == {s.id: before[gone] if before[s.id] == gone else before[s.id] for s in left}


def branched(rnd: random.Random) -> Installation:
    spans, loads = random_tree(rnd)
    return canonical(lights(spans, loads))


def test_any_change_of_a_tree_goes_back_to_the_last_piece() -> None:
    rnd, gone = random.Random(7), 0
    for _ in range(many(300, 150)):
        house = branched(rnd)
        target = rnd.choice(house.circuits[0].run.spans).id
        change = rnd.choice(
            [
                Change("remove", "span", target),
                Change("set", "span", target, {"after": rnd.choice([None, "board", "s0", "s1"])}),
                Change("add", "span", "new", {"length": 3, "after": rnd.choice([None, target])}, "c", rnd.choice([None, 0, 1, 9])),
                Change("set", "load", "x0", {"span": rnd.choice([None, target, "nowhere"])}),
            ]
        )
        try:
            after, applied = apply(house, [change])
        except Refused:
            gone += 1
            continue
        legs.befores(after.circuits[0].run.spans)
        assert all(x.span is None or x.span in {s.id for s in after.circuits[0].run.spans} for x in after.circuits[0].loads)
        assert replay(after, invert(applied)) == house
        assert replay(house, applied) == after
    assert 0 < gone < many(300, 150) / 2


def test_one_tree_becomes_any_other() -> None:
    rnd = random.Random(11)
    for _ in range(many(200, 80)):
        old, new = branched(rnd), branched(rnd)
        assert replay(old, difference(old, new)) == new
        assert replay(new, invert(difference(old, new))) == old


def test_a_span_of_a_tree_is_not_moved_and_a_branch_between_two_does_not_take_the_rest_with_it() -> None:
    house = canonical(lights(ROW, AT))
    with pytest.raises(Refused, match="branches"):
        apply(house, [Change("move", "span", "bath", index=0)])
    after, _ = apply(house, [Change("add", "span", "new", {"length": 2, "after": "joists"}, "c", 1)])
    assert shape(after.circuits[0].run) == [["joists", "hall"], ["joists", "landing", "bath"], ["joists", "new"]]


def test_a_load_is_said_at_an_end_or_by_metres_never_both() -> None:
    """By metres it could be said nearer than the end it stands at, and drop less."""
    result = found(lights(ROW, [AT[0], {**AT[2], "at": 0.5}]))
    assert (result.verdict, [p.field for p in result.problems]) == ("not_known", ["load.3.at"])


@pytest.mark.parametrize(("more", "told"), [({"shape": "ring"}, "ring"), ({"feeds": "far"}, "sub-main")])
def test_neither_a_ring_nor_a_sub_main_branches(more: dict[str, Any], told: str) -> None:
    made = circuit("c", spans=ROW, loads=[] if "feeds" in more else AT, **more)
    result = check(job(made, boards=["b", "far"])).circuits[0]
    assert result.verdict == "not_known"
    assert result.problems[0].field.endswith(".after")
    assert told in result.problems[0].allowed


def test_no_figure_of_a_straight_run_hangs_on_it() -> None:
    made = circuit("c")
    one: Circuit = job(made).circuits[0]
    assert legs.plain(one)
    assert legs.longest(one) is one
    assert found(job(made)).ends == ()


def test_what_is_done_to_a_tree_is_told_by_names_never_by_identities() -> None:
    house = canonical(lights(ROW, AT))
    after, applied = apply(
        house,
        [
            Change("set", "span", "bath", {"after": "joists"}),
            Change("set", "load", "3", {"span": None}),
            Change("set", "span", "hall", {"after": "board"}),
        ],
    )
    lines = told(applied, names_of(after))
    assert "leaves from the end of none became box A" in lines[0]
    assert "stands at the end of bath became none" in lines[1]
    assert "none became the board" in lines[2]
    # Also of a part that is gone by now.
    assert "became a span" in told(applied, {})[0]


def test_a_file_whose_spans_leave_from_none_is_refused_at_the_field() -> None:
    for spans, loads, field in (
        ([{**ROW[0], "after": "nowhere"}, *ROW[1:]], AT, "span.joists.after"),
        (ROW, [{**AT[0], "span": "nowhere"}], "load.1.span"),
    ):
        with pytest.raises(InputError) as refused:
            check(lights(spans, loads))
        assert refused.value.field == field


def test_what_is_remembered_of_a_tree_is_what_is_worked_out_anew() -> None:
    """The longest path alone says nothing of the others: a metre less on a short branch is another circuit."""
    rnd = random.Random(3)
    for _ in range(many(60, 25)):
        spans, loads = random_tree(rnd)
        first = lights(spans, loads)
        check(first, keep=False, reuse=True)
        whole = legs.longest(first.circuits[0]).run.spans
        beside = [s for s in spans if s["id"] not in {span.id for span in whole}]
        if beside:
            rnd.choice(beside)["length"] /= 2
        house = lights(spans, loads)
        assert check(house, keep=False, reuse=True).circuits == check(house, keep=False, reuse=False).circuits
    here, there = (lights([{**ROW[0]}, {**ROW[1], "length": metres}, *ROW[2:]], AT) for metres in (7, 2))
    hall = [next(e.at for e in check(house, keep=False, reuse=True).circuits[0].ends if e.span == "hall") for house in (here, there, here)]
    assert hall == [13, 8, 13]


def test_a_load_that_nobody_placed_counts_in_full_at_every_end() -> None:
    loads = [{"id": "1", "amount": 230}, {"id": "2", "amount": 115}]
    free = {end.span: end.drop or 0 for end in found(lights(ROW, loads)).ends}
    assert {k: v for k, v in free.items() if k in ("hall", "bath")} == pytest.approx(
        {k: 100 * 1.5 * metres * MV / 1000 / U0 for k, metres in (("hall", 13), ("bath", 15))}
    )
    # Wherever they are put, no end is worse off than it was.
    for at in itertools.product([s["id"] for s in ROW], repeat=2):
        placed = found(lights(ROW, [{**x, "span": span} for x, span in zip(loads, at, strict=True)]))
        assert all((end.drop or 0) <= free[end.span] + 1e-9 for end in placed.ends if end.span in free)


def test_the_size_is_that_of_the_end_that_needs_it_most_not_of_the_longest_path() -> None:
    spans = [{"id": "a", "length": 45}, {"id": "b", "length": 50, "after": "board"}]
    heavy = lights(spans, [{"id": "1", "amount": 1300, "span": "a"}, {"id": "2", "amount": 10, "span": "b"}])
    sized = size(heavy, "c").csa
    assert sized is not None
    assert sized > 1.5
    circuit_of_it = dataclasses.replace(
        heavy.circuits[0], run=dataclasses.replace(heavy.circuits[0].run, cable=dataclasses.replace(heavy.circuits[0].run.cable, csa=sized))
    )
    assert found(dataclasses.replace(heavy, circuits=(circuit_of_it,))).verdict in ("meets", "close")
