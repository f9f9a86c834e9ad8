"""Small rooms of the core: the tree, fields, words of the history, the cache, the two recorders, fault currents with their working."""

from __future__ import annotations

import threading
from typing import Any

import pytest
from hypothesis import given

from mellow_span.core.cache import Cache
from mellow_span.core.design.check import check
from mellow_span.core.errors import InputError
from mellow_span.core.findings.history import told
from mellow_span.core.model import fields as of
from mellow_span.core.model import tree
from mellow_span.core.model.changes import Change, apply
from mellow_span.core.model.parse import parse
from mellow_span.core.model.parts import Installation, Span, Stage
from mellow_span.core.rulesets import rule_set
from tests.build import circuit, job, submain
from tests.core.test_changes import house
from tests.core.test_properties import circuits
from tests.depth import examples

R = rule_set("bs7671")


def words(*changes: Change) -> list[str]:
    start = house()
    _, applied = apply(start, changes, R.choices)
    return told(applied, {b.id: b.name for b in (*start.boards, *start.routes)})


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (Change("set", "circuit", "c1", {"cable": {"csa": 4}}), ["c1: line conductor csa 6 mm² became 4 mm²"]),
        (Change("set", "circuit", "c1", {"name": "Oven"}), ["c1: renamed Oven (was c1)"]),
        (Change("set", "span", "c1-s1", {"length": 9.25}), ["c1: length 4 m became 9.25 m"]),
        (Change("set", "span", "c1-s1", {"route": "k"}), ["c1: cable route it is in none became loft"]),
        (Change("set", "circuit", "m", {"feeds": None}), ["m: board it feeds, for a sub-main far became none"]),
        (Change("set", "supply", "", {"ze": 0.2}), ["Intake: external earth-fault loop impedance, Ze 0.28 Ω became 0.2 Ω"]),
        (Change("set", "supply", "", {"private": True}), ["Intake: fed from a private supply, not from the public network no became yes"]),
        (Change("set", "circuit", "c1", {"device": {"kind": "rcbo", "idn": 0.03}}),
         ["c1: kind of device mcb became rcbo", "c1: rated residual operating current, IΔn none became 30 mA"]),
        (Change("set", "circuit", "c1", {"device": {"kind": "mcb", "rating": 20}}), ["c1: rated current, In 32 A became 20 A"]),
        (Change("set", "circuit", "c1", {"name": "c1"}), []),
        (Change("set", "job", "", {"note": "Mind the step."}), ["House: a note shown when the job is opened none became Mind the step."]),
        (Change("add", "circuit", "n", {"name": "Spare"}, "b"), ["Spare added"]),
        (Change("add", "load", "n", {}, "c1"), ["c1 added"]),
        (Change("add", "board", "n", {}), ["A board added"]),
        (Change("remove", "circuit", "c4"), ["c4 removed, with 2 loads and 1 span"]),
        (Change("remove", "board", "far"), ["far removed, with 2 circuits and 3 loads and 2 spans"]),
        (Change("remove", "route", "k"), ["loft removed"]),
        (Change("move", "circuit", "c1", {}, "far"), ["c1 moved to another board"]),
        (Change("move", "circuit", "c1", {}, None, 1), ["c1 moved"]),
    ],
    ids=lambda v: f"{v.op}-{v.kind}" if isinstance(v, Change) else None,
)  # fmt: skip
def test_an_edit_reads_as_a_person_would_say_it(change: Change, said: list[str]) -> None:
    assert words(change) == said


def test_an_edit_of_several_changes_tells_each() -> None:
    both = [Change("remove", "circuit", "c1"), Change("set", "circuit", "c2", {"name": "Oven"})]
    assert words(*both) == ["c1 removed, with 1 load and 2 spans", "c2: renamed Oven (was c2)"]


# The tree ---------------------------------------------------------------------------------------------------------------


def chain(*feeds: tuple[str, str, str]) -> Installation:
    """Sub-mains given as (identity, board, board fed), on boards named in them."""
    boards = list(dict.fromkeys(b for _, *pair in feeds for b in pair))
    return job(*(submain(i, board=b, feeds=f) for i, b, f in feeds), boards=boards)


def test_circuits_come_in_the_order_power_flows() -> None:
    order, roots = tree.ordered(chain(("y", "c", "d"), ("x", "a", "b"), ("m", "b", "c")))
    assert ([c.id for c in order], roots) == (["x", "m", "y"], ("a",))


@pytest.mark.parametrize(
    "broken",
    [
        chain(("x", "a", "b"), ("y", "b", "a")),
        chain(("x", "a", "a")),
        chain(("x", "a", "b"), ("y", "b", "c"), ("z", "c", "b")),
        chain(("x", "a", "b"), ("y", "a", "b")),
        job(circuit(board="nowhere")),
        job(submain(feeds="nowhere")),
        job(circuit(spans=[{"route": "nowhere"}])),
    ],
)
def test_a_tree_that_is_none_is_refused(broken: Installation) -> None:
    with pytest.raises(InputError):
        tree.ordered(broken)
    with pytest.raises(InputError):
        check(broken)


def test_a_circuit_may_feed_a_board_further_down_but_never_one_it_hangs_on() -> None:
    inputs = chain(("x", "a", "b"), ("m", "b", "c"))
    free = job(*(), circuit("f", board="c"), *[], boards=["a", "b", "c", "d"])
    tree.check_feeds(free, free.circuits[0], "d")
    deep = inputs.circuits[1]
    for board in ("a", "b"):
        with pytest.raises(InputError):
            tree.check_feeds(inputs, deep, board)


def test_circuits_are_kept_board_by_board_whatever_order_they_come_in() -> None:
    mixed = job(circuit("1", board="b"), circuit("2", board="a"), circuit("3", board="b"), circuit("4", board="a"), boards=["a", "b"])
    assert [c.id for c in tree.canonical(mixed).circuits] == ["2", "4", "1", "3"]
    assert tree.canonical(tree.canonical(mixed)) is not None
    again = tree.canonical(mixed)
    assert tree.canonical(again) is again


# Fields -----------------------------------------------------------------------------------------------------------------


def test_every_field_of_a_part_can_be_read_laid_over_and_told_from_its_default() -> None:
    start = house()
    for kind in of.PART:
        part: Any = {"job": start, "supply": start.supply, "board": start.boards[0], "circuit": start.circuits[0], "load": start.circuits[0].loads[0],
                     "span": start.circuits[0].run.spans[0], "route": start.routes[0], "dismissal": start.dismissals[0],
                     "stage": Stage(id="s", name="first day")}[kind]  # fmt: skip
        given = of.given(kind, part)
        for name in of.field_names(kind):
            value = of.get(part, name)
            assert of.laid_over(part, {name: value}) == part
            assert (name in given) == (value != of.default(kind, name))
    nested = {"name": "x", "device": {"rating": 16, "curve": "C"}}
    assert of.flattened("circuit", nested) == {"name": "x", "device.rating": 16, "device.curve": "C"}


@pytest.mark.parametrize("text", ["\x00", "a\x00b", "\ud800", "tail \udfff"])
def test_text_that_no_file_takes_is_refused(text: str) -> None:
    with pytest.raises(InputError, match="whole characters"):
        parse(Span, {"id": "s", "name": text})
    assert parse(Span, {"id": "s", "name": "Küche 厨房 🔌"}).name == "Küche 厨房 🔌"


# The cache --------------------------------------------------------------------------------------------------------------


def test_a_cache_keeps_no_more_than_it_may_and_forgets_the_oldest() -> None:
    cache: Cache[int, int] = Cache(3)
    for i in range(10):
        cache.put(i, i * i)
    assert (len(cache), cache.get(6), cache.get(7)) == (3, None, 49)
    cache.drop(lambda key: key == 8)
    assert (cache.get(8), cache.get(9)) == (None, 81)
    cache.clear()
    assert len(cache) == 0


def test_threads_that_share_a_cache_never_find_half_of_anything() -> None:
    cache: Cache[int, tuple[int, int]] = Cache(50)
    wrong: list[Any] = []

    def work(start: int) -> None:
        for i in range(3000):
            key = (start * 7 + i) % 200
            found = cache.get(key)
            if found is not None and found != (key, -key):
                wrong.append(found)
            cache.put(key, (key, -key))

    threads = [threading.Thread(target=work, args=(n,)) for n in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert wrong == []
    assert len(cache) <= 50


# Two recorders, one figure ---------------------------------------------------------------------------------------------------


@examples(40)
@given(circuits)
def test_both_recorders_give_the_same_figures_and_only_one_keeps_the_steps(c: dict[str, Any]) -> None:
    kept, silent = check(job(c), keep=True).circuits[0], check(job(c), keep=False).circuits[0]
    for one, two in zip(kept.checks, silent.checks, strict=True):
        assert (one.id, one.value, one.limit, one.verdict, one.text, one.doubtful) == (
            two.id,
            two.value,
            two.limit,
            two.verdict,
            two.text,
            two.doubtful,
        )
        assert two.steps == ()
    assert [(f.id, f.value, f.doubtful) for f in kept.figures] == [(f.id, f.value, f.doubtful) for f in silent.figures]


def test_fault_currents_show_how_they_were_reached() -> None:
    """Ipf 920 A: Zln 0.25 ohm; 6/2.5 mm2 over 10 m adds 2 x 3.08 = 6.16 mohm/m, 0.0616 ohm: 230 / 0.3116 = 738.1 A."""
    figures = {f.id: f for f in check(job(circuit())).circuits[0].figures}
    assert figures["fault_max"].value == pytest.approx(920)
    assert figures["far_ln"].value == pytest.approx(230 / (0.25 + 0.0616))
    assert figures["far_ln"].steps[-1].value == figures["far_ln"].value
    assert figures["far_le"].value == pytest.approx(230 / (0.28 + (3.08 + 7.41) / 100))
    assert figures["fault_min"].value == pytest.approx(0.95 * 230 / (0.28 + (3.08 + 7.41) * 1.2 / 100))
    assert all(f.steps for f in figures.values())


def test_a_fault_current_that_cannot_be_reached_says_why() -> None:
    figures = {f.id: f for f in check(job(circuit(), supply={"ze": None, "ipf": None})).circuits[0].figures}
    assert figures["far_ln"].value is None
    assert "prospective fault current" in figures["far_ln"].why
    assert figures["r1r2"].value is not None


def test_boards_show_their_fault_currents_three_phase_where_there_are_three() -> None:
    one = check(job(circuit())).boards[0]
    assert [f.id for f in one.figures] == ["ipf_ln", "ipf_le", "fault_min"]
    three = check(job(circuit(), supply={"phases": 3})).boards[0]
    assert three.ipf_3ph == pytest.approx(2 * 920)
    assert next(f for f in three.figures if f.id == "ipf_3ph").steps[-1].note == "equal line and neutral"


def test_a_doubtful_loop_marks_every_check_that_rests_on_it() -> None:
    """The resistance of a large armour is still to be checked: the loop says so, and so do disconnection and heat behind it."""
    marked = next((row for row in R.table("SWA-R").rows if row.check), None)
    if marked is None:
        return
    csa, cores = marked.key
    found = check(job(submain(cable={"csa": csa, "cores": int(cores), "family": "armoured_xlpe90"}), boards=["b", "far"])).circuits[0]
    doubtful = {c.id: c.doubtful for c in found.checks}
    assert doubtful["loop"] == doubtful["disconnection"] == doubtful["cpc_thermal"]
