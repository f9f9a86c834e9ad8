"""The algebra of change: what is applied can be taken back, rebuilt, compared and merged, whatever the edits."""

from __future__ import annotations

import itertools
import random
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from mellow_span.core.model import Installation
from mellow_span.core.model import fields as of
from mellow_span.core.model.changes import Applied, Change, Refused, apply, as_data, forward, from_data, invert, replay
from mellow_span.core.model.difference import difference, flat, parts
from mellow_span.core.model.limits import MOST
from mellow_span.core.model.rebase import rebase, touches
from mellow_span.core.model.tree import canonical
from mellow_span.core.rulesets import rule_set
from tests.build import circuit, job, submain
from tests.depth import examples

KNOWN = rule_set("bs7671").choices
QUICK = examples(60)
# A value for each kind of field that differs from most defaults.
VALUES: dict[str, list[Any]] = {
    "name": ["a", "b", "c"], "length": [1, 2.5, 40], "device": [{"rating": 16}, {"curve": "C", "rating": 20}], "feeds": [None, "b", "far"],
    "route": [None, "k"], "cable": [{"csa": 4}, {"csa": 10, "family": None}], "amount": [None, 500, 7200], "ways": [None, 8], "ra": [60, None],
    "wrapped": [0, 0.5], "others": [0, 2], "reason": ["sleeved"], "ze": [0.2, None], "note": ["", "words"],
    "ambient": [30, 35], "quantity": [1, 3], "phase": [None, "L2"],
    "after": [None, "board", "c1-s0", "c1-s1"], "box": ["", "box A"], "span": [None, "c1-s0", "c1-s1"],
}  # fmt: skip
FIELDS = {
    "job": ["name", "note"], "supply": ["ze"], "board": ["name", "ways", "ra"], "route": ["name", "others"], "dismissal": ["reason"],
    "circuit": ["name", "device", "cable", "feeds", "phase"], "load": ["name", "span", "amount", "quantity"],
    "span": ["name", "after", "length", "route", "wrapped", "ambient", "box"],
}  # fmt: skip


def house() -> Installation:
    """Two boards on a sub-main, a route, dismissed advice: something of every kind."""
    data: list[dict[str, Any]] = [
        circuit("c1", spans=[{"route": "k"}, {"length": 4}]), circuit("c2"), submain(), circuit("c3", board="far", spans=[{"route": "k"}]),
        circuit("c4", board="far", loads=[{}, {"amount": 300}]),
    ]  # fmt: skip
    return canonical(
        job(*data, boards=["b", "far"], routes=[{"id": "k", "name": "loft"}], dismissals=[{"id": "d", "key": "x"}], name="House")
    )


def random_change(rnd: random.Random, inputs: Installation, at: int) -> Change:
    """Any change, sense and nonsense alike, mostly of parts that are there."""
    kind = rnd.choice(["job", "supply", "board", "route", "dismissal", "circuit", "circuit", "load", "span", "span"])
    there = [i for k, i in parts(inputs) if k == kind] or ["none"]
    target = rnd.choice(there)
    op = rnd.choice(["set", "set", "set", "add", "remove", "move"])
    if op == "set":
        fields = {name: rnd.choice(VALUES[name]) for name in rnd.sample(FIELDS[kind], rnd.randint(1, 2) if len(FIELDS[kind]) > 1 else 1)}
        return Change("set", kind, target, fields)  # type: ignore[arg-type]
    parents = {"circuit": [b.id for b in inputs.boards], "load": [c.id for c in inputs.circuits], "span": [c.id for c in inputs.circuits]}
    parent = rnd.choice(parents.get(kind) or [None])  # type: ignore[list-item]
    index = rnd.choice([None, 0, 1, 5])
    if op == "add":
        fields = {name: rnd.choice(VALUES[name]) for name in FIELDS[kind][:2]}
        return Change("add", kind, f"n{at}", fields, parent, index)  # type: ignore[arg-type]
    return Change(op, kind, target, {}, parent if op == "move" and kind == "circuit" else None, index)  # type: ignore[arg-type]


def edits(seed: int, count: int) -> list[tuple[Installation, tuple[Any, ...], Installation]]:
    """A random sequence of edits of one to four changes that went through: before, applied, after."""
    rnd, now, found = random.Random(seed), house(), []
    for at in range(count):
        asked, value = [], now
        for step in range(rnd.randint(1, 4)):
            change = random_change(rnd, value, at * 10 + step)
            try:
                value, _ = apply(value, [change], KNOWN)
            except Refused:
                continue
            asked.append(change)
        after, applied = apply(now, asked, KNOWN)
        assert after == value
        found.append((now, applied, after))
        now = after
    return found


@given(seed=st.integers(0, 10**6))
@QUICK
def test_from_any_version_every_earlier_one_can_be_rebuilt_exactly(seed: int) -> None:
    history = edits(seed, 12)
    value = history[-1][2]
    for before, applied, _ in reversed(history):
        stored = from_data(as_data(applied))
        value = replay(value, invert(stored))
        assert value == before
    for _, applied, after in history:
        value = replay(value, applied)
        assert value == after


@given(seed=st.integers(0, 10**6))
@QUICK
def test_the_difference_of_two_states_turns_one_into_the_other(seed: int) -> None:
    history = edits(seed, 8)
    old, new = history[0][0], history[-1][2]
    for a, b in ((old, new), (new, old)):
        change = difference(a, b)
        assert replay(a, change) == b
        assert flat(replay(b, invert(change))) == flat(a)
    assert difference(new, new) == ()


@given(seed=st.integers(0, 10**6), other=st.integers(0, 10**6))
@QUICK
def test_what_two_people_do_to_different_parts_merges_to_both_and_in_either_order(seed: int, other: int) -> None:
    start = house()
    there = {identity for _, identity in parts(start)}
    mine, theirs = ([c for c in asked(s, start, m) if c.op == "set" and c.id in there] for s, m in ((seed, "m"), (other, "t")))
    # Without the changes left out, what is left may not fit by itself.
    assume("feeds" not in (tried(start, theirs), tried(start, mine)))
    after_theirs, applied_theirs = apply(start, theirs, KNOWN)
    after_mine, applied_mine = apply(start, mine, KNOWN)
    belongs = {(k, i, n) for k, i, name in touches(applied_mine) for n in (name, *of.together(k, name))}
    assume(not belongs & touches(applied_theirs))
    merged = rebase(after_theirs, mine, applied_theirs)
    assert merged.clashes == ()
    one = tried(after_theirs, merged.changes)
    two = tried(after_mine, rebase(after_mine, theirs, applied_mine).changes)
    assert one == two


def tried(start: Installation, changes: Any) -> Installation | str:
    """What changes make of a job, or the field at which both together would make a tree that is none."""
    try:
        return apply(start, changes, KNOWN)[0]
    except Refused as refused:
        assert refused.field == "feeds"
        return refused.field


def asked(seed: int, start: Installation, mark: str) -> list[Change]:
    rnd, value, found = random.Random(seed), start, []
    for at in range(4):
        change = random_change(rnd, value, at)
        if change.op == "add":
            change = Change(change.op, change.kind, mark + change.id, change.fields, change.parent, change.index)
        try:
            value, _ = apply(value, [change], KNOWN)
        except Refused:
            continue
        found.append(change)
    return found


def test_a_removed_board_comes_back_with_all_that_hung_on_it_and_who_fed_it() -> None:
    start = house()
    after, applied = apply(start, [Change("remove", "board", "far")])
    assert [c.id for c in after.circuits] == ["c1", "c2", "m"]
    assert next(c for c in after.circuits if c.id == "m").feeds is None
    assert [(a.op, a.id) for a in applied] == [
        ("set", "m"), ("remove", "c4-l1"), ("remove", "c4-l0"), ("remove", "c4-s0"), ("remove", "c4"), ("remove", "c3-l0"), ("remove", "c3-s0"),
        ("remove", "c3"), ("remove", "far"),
    ]  # fmt: skip
    assert {a.step for a in applied} == {0}
    assert replay(after, invert(applied)) == start


def test_a_moved_circuit_keeps_where_it_came_from() -> None:
    start = house()
    after, applied = apply(start, [Change("move", "circuit", "c1", parent="far", index=1)])
    assert [c.id for c in after.circuits] == ["c2", "m", "c3", "c1", "c4"]
    assert (applied[0].before, applied[0].after) == ({"parent": "b", "index": 0}, {"parent": "far", "index": 1})


def test_a_route_that_goes_leaves_its_spans_and_finds_them_again() -> None:
    start = house()
    after, applied = apply(start, [Change("remove", "route", "k")])
    assert all(s.route is None for c in after.circuits for s in c.run.spans)
    assert sum(a.op == "set" for a in applied) == 2
    assert replay(after, invert(applied)) == start


REFUSALS: list[tuple[Change, str, str]] = [
    (Change("set", "circuit", "nobody", {"name": "x"}), "id", "a circuit of this job"),
    (Change("set", "span", "c1-s0", {"length": 5000}), "length", "0.1 to 1 000 m"),
    (Change("set", "span", "c1-s0", {"place": "moon"}), "place", "masonry"),
    (Change("set", "circuit", "c1", {"device": {"rating": "x"}}), "device.rating", "a number"),
    (Change("set", "circuit", "c1", {"device": 3}), "device", "an object"),
    (Change("set", "circuit", "c1", {"board": "far"}), "board", "existing"),
    (Change("set", "circuit", "c1", {"feeds": "elsewhere"}), "feeds", "a board of this job"),
    (Change("set", "circuit", "c1", {"feeds": "far"}), "feeds", "fed by m"),
    (Change("set", "circuit", "c3", {"feeds": "b"}), "feeds", "no board may feed itself"),
    (Change("set", "circuit", "c1", {"feeds": "b"}), "feeds", "no board may feed itself"),
    (Change("move", "circuit", "m", parent="far"), "feeds", "no board may feed itself"),
    (Change("set", "span", "c1-s0", {"route": "b"}), "route", "a route of this job"),
    (Change("add", "circuit", "c1", parent="b"), "id", "not used yet"),
    (Change("add", "span", "c1", parent="c1"), "id", "not used yet"),
    (Change("add", "circuit", "n", parent="c1"), "parent", "a board of this job"),
    (Change("add", "load", "n", parent="far"), "parent", "a circuit of this job"),
    (Change("move", "span", "c1-s0", parent="c2"), "parent", "stays with its circuit"),
    (Change("remove", "supply"), "kind", "circuit"),
    (Change("set", "job", "", {"name": "  "}), "name", "1 to 200 characters"),
    (Change("set", "job", "", {"note": "n" * 2001}), "note", "at most 2000 characters"),
    (Change("set", "job", "", {"name": "half \ud800 a pair"}), "name", "no half of a pair"),
    (Change("set", "board", "b", {"name": "nu\x00ll"}), "name", "no null"),
]  # fmt: skip


@pytest.mark.parametrize(("change", "field", "allowed"), REFUSALS, ids=lambda v: v.kind + v.op if isinstance(v, Change) else None)
def test_a_refusal_names_change_field_and_what_is_allowed(change: Change, field: str, allowed: str) -> None:
    with pytest.raises(Refused) as refused:
        apply(house(), [Change("set", "job", "", {"name": "good"}), change], KNOWN)
    assert (refused.value.at, refused.value.change, refused.value.field) == (1, change, field)
    assert allowed in refused.value.allowed


def test_every_field_that_names_a_part_refuses_one_of_another_job() -> None:
    for (kind, name), _ in of.REFERENCES.items():
        target = {"board": "b", "circuit": "c1", "span": "c1-s0", "load": "c1-l0"}[kind]
        with pytest.raises(Refused, match="of this job"):
            apply(house(), [Change("set", kind, target, {name: "foreign"})], KNOWN)  # type: ignore[arg-type]
    told = [n for k in of.PART for n in of.own_fields(k) if "identity" in str(of.about(k, n)["meaning"]).lower()]
    assert told == []


def test_a_job_keeps_its_last_board_and_the_most_of_each_kind() -> None:
    with pytest.raises(Refused, match="at least one board"):
        apply(job(circuit()), [Change("remove", "board", "b")])
    for kind, parent in (("board", None), ("load", "c"), ("span", "c"), ("route", None)):
        start = job(circuit())
        have = sum(k == kind for k, _ in parts(start))
        fill = [Change("add", kind, f"n{i}", {}, parent) for i in range(MOST[kind] - have)]  # type: ignore[arg-type]
        full, _ = apply(start, fill)
        with pytest.raises(Refused, match=f"at most {MOST[kind]}"):
            apply(full, [Change("add", kind, "over", {}, parent)])  # type: ignore[arg-type]


CLASHES: list[tuple[Change, Change, str, str]] = [
    (Change("set", "span", "c1-s0", {"length": 5}), Change("set", "span", "c1-s0", {"length": 6}), "value", "length"),
    (Change("set", "circuit", "c1", {"device": {"rating": 16}}), Change("set", "circuit", "c1", {"device": {"rating": 20}}), "value", "device.rating"),
    (Change("set", "span", "c1-s0", {"length": 5}), Change("remove", "circuit", "c1"), "gone", "exists"),
    (Change("add", "load", "n", {}, "c1"), Change("remove", "circuit", "c1"), "gone", "exists"),
    (Change("add", "circuit", "n", {}, "far"), Change("remove", "board", "far"), "gone", "exists"),
    (Change("set", "span", "c2-s0", {"route": "k"}), Change("remove", "route", "k"), "gone", "exists"),
    (Change("remove", "circuit", "c1"), Change("set", "span", "c1-s1", {"length": 9}), "changed", "exists"),
    (Change("remove", "board", "far"), Change("set", "load", "c4-l1", {"amount": 1}), "changed", "exists"),
    (Change("remove", "route", "k"), Change("set", "span", "c2-s0", {"route": "k"}), "changed", "exists"),
    (Change("move", "circuit", "c1", {}, "far"), Change("move", "circuit", "c1", {}, "b", 1), "place", "place"),
]  # fmt: skip


@pytest.mark.parametrize(("mine", "theirs", "why", "field"), CLASHES, ids=lambda v: f"{v.op}-{v.kind}" if isinstance(v, Change) else v)
def test_only_what_cannot_both_stand_is_a_clash(mine: Change, theirs: Change, why: str, field: str) -> None:
    now, applied = apply(house(), [theirs], KNOWN)
    clash = rebase(now, [mine], applied).clashes[0]
    assert (clash.at, clash.why, clash.field, clash.id) == (0, why, field, mine.id)
    if why == "value":
        flat_mine, flat_theirs = of.flattened(mine.kind, mine.fields), of.flattened(theirs.kind, theirs.fields)
        assert (clash.mine, clash.theirs) == (flat_mine[field], flat_theirs[field])
        assert clash.base == of.get(house().circuits[0].run.spans[0] if mine.kind == "span" else house().circuits[0], field)


def part_of(kind: str) -> Any:
    start = house()
    return next((part for (k, _), (part, *_) in parts(start).items() if k == kind), None)


@pytest.mark.parametrize("kind", ["supply", "board", "circuit", "load", "span", "route"])
def test_of_two_fields_of_a_part_those_clash_that_belong_together_and_no_others(kind: str) -> None:
    """Every pair of fields of every kind of part, set by one person and by another to what it was not."""
    start, part = house(), part_of(kind)
    for ours, theirs in itertools.product(of.field_names(kind), repeat=2):
        now, was = of.get(part, theirs), "what it was"
        applied = [Applied("set", kind, part.id if kind != "supply" else "", "", {theirs: was}, {theirs: now})]  # type: ignore[arg-type]
        mine = Change("set", kind, applied[0].id, {ours: "mine"})  # type: ignore[arg-type]
        clashes = rebase(start, [mine], applied).clashes
        belongs = theirs in of.together(kind, ours)
        assert bool(clashes) == (belongs or ours == theirs), (ours, theirs)
        if belongs:
            (clash,) = clashes
            assert (clash.why, clash.field, clash.mine, clash.beside) == ("value", ours, "mine", (theirs, was, now))
            assert clash.base == clash.theirs == of.get(part, ours)
            # Who sets both as the other did, or this one as it stands, or who comes after it was put back, says nothing against it.
            for agreed in ({ours: "mine", theirs: now}, {ours: of.get(part, ours)}):
                assert rebase(start, [replace(mine, fields=agreed)], applied).clashes == ()
            back = replace(applied[0], before={theirs: now}, after={theirs: was})
            assert rebase(start, [mine], [*applied, back]).clashes == ()


def test_what_belongs_together_is_of_fields_there_are_and_goes_both_ways() -> None:
    for kind, names in of.TOGETHER:
        assert set(names) <= set(of.field_names(kind)), names
        assert all(a in of.together(kind, b) for a, b in itertools.permutations(names, 2))
    for kind in ("supply", "board", "circuit", "load", "span", "route"):
        for name in of.field_names(kind):
            said_by = {f"{name}_source", f"{name}_by", f"{name}_reason"} & set(of.field_names(kind))
            assert said_by <= of.together(kind, name), f"{name} and who or what says it"


MERGES: list[tuple[Change, Change]] = [
    (Change("set", "circuit", "c1", {"device": {"rating": 16}}), Change("set", "circuit", "c1", {"device": {"curve": "C"}})),
    (Change("set", "circuit", "c1", {"name": "same"}), Change("set", "circuit", "c1", {"name": "same"})),
    (Change("set", "span", "c1-s0", {"length": 5}), Change("move", "circuit", "c1", {}, "far")),
    (Change("remove", "circuit", "c1"), Change("set", "circuit", "c2", {"name": "x"})),
    (Change("set", "circuit", "c2", {"name": "x"}), Change("remove", "circuit", "c1")),
]  # fmt: skip


@pytest.mark.parametrize(("mine", "theirs"), MERGES, ids=lambda v: f"{v.op}-{v.kind}")
def test_what_can_both_stand_does(mine: Change, theirs: Change) -> None:
    now, applied = apply(house(), [theirs], KNOWN)
    merged = rebase(now, [mine], applied)
    assert merged.clashes == ()
    after, _ = apply(now, merged.changes, KNOWN)
    alone, made = apply(house(), [mine], KNOWN)
    assert all(of.get(parts(after)[(a.kind, a.id)][0], n) == v for a in made if a.op == "set" for n, v in (a.after or {}).items())
    assert alone != after or mine == theirs


def test_two_who_would_feed_one_board_clash() -> None:
    start = canonical(job(circuit("c1"), circuit("c2"), boards=["b", "far"]))
    now, applied = apply(start, [Change("set", "circuit", "c2", {"feeds": "far"})])
    clash = rebase(now, [Change("set", "circuit", "c1", {"feeds": "far"})], applied).clashes[0]
    assert (clash.why, clash.field, clash.theirs) == ("value", "feeds", "c2")


def test_a_place_among_siblings_moves_with_what_others_put_before_it() -> None:
    start = house()
    now, applied = apply(start, [Change("add", "span", "first", {}, "c1", 0)])
    merged = rebase(now, [Change("add", "span", "mine", {}, "c1", 1)], applied)
    after, _ = apply(now, merged.changes)
    assert [s.id for s in after.circuits[0].run.spans] == ["first", "c1-s0", "mine", "c1-s1"]
    gone, removed = apply(start, [Change("remove", "span", "c1-s0")])
    assert rebase(gone, [Change("add", "span", "mine", {}, "c1", 2)], removed).changes[0].index == 1


def test_what_is_applied_can_be_asked_for_again() -> None:
    start = house()
    after, applied = apply(start, [Change("add", "circuit", "n", {"name": "new", "device": {"rating": 10}}, "far", 0)])
    assert forward(applied[0]) == Change("add", "circuit", "n", {"name": "new", "device.rating": 10.0}, "far", 0)
    assert replay(start, applied) == after


def test_a_broken_tree_can_still_be_mended() -> None:
    looped = job(circuit("x", feeds="b"), boards=["b"])
    with pytest.raises(Refused):
        apply(looped, [Change("set", "circuit", "x", {"feeds": "b"})])
    mended, _ = apply(looped, [Change("set", "circuit", "x", {"feeds": None})])
    assert mended.circuits[0].feeds is None
