"""The pull list: numbers, lengths to cut, ends, order of pulling, sums."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mellow_span import demo
from mellow_span.core.errors import InputError
from mellow_span.core.model.numbers import LETTERS
from mellow_span.core.site.pulls import Slack, by_cable, pulls
from mellow_span.core.site.sleeves import sleeve
from mellow_span.exchange.document import read
from tests.build import circuit, job, submain

HOUSE = read(json.loads((Path(demo.__file__).parent / "orchard_row.json").read_text("utf-8")))


def test_what_is_cut_is_the_run_and_some_more_at_each_end_worked_by_hand() -> None:
    """Final: 10 + 1.0 at the board + 0.5; ring: a board at both ends; sub-main: two boards; undecided: 3.0 in the place of 0.5."""
    inputs = job(
        circuit("final", spans=[{"length": 4.04}, {"length": 6}]), circuit("ring", shape="ring", spans=[{"length": 40}]),
        submain("feed", spans=[{"place": "duct", "length": 30}]), circuit("open", spans=[{"length": 10}]), boards=["b", "far"],
    )  # fmt: skip
    found = {p.name: p for p in pulls(inputs, undecided=frozenset(["open"]))}
    assert {name: p.cut for name, p in found.items()} == {"final": 11.6, "ring": 42.0, "feed": 32.0, "open": 14.0}
    assert found["open"].open
    assert pulls(inputs, Slack(0, 0, 0))[0].cut == 40.0


def test_both_ends_carry_the_number_of_board_and_way_and_three_phases_take_three_ways() -> None:
    inputs = job(
        circuit("one"), circuit("three", phases=3, device={"rating": 16}), circuit("next"), submain("feed"), circuit("there", board="far"),
        boards=["b", "far"], supply={"phases": 3},
    )  # fmt: skip
    found = {p.name: p for p in pulls(inputs)}
    assert {name: p.number for name, p in found.items()} == {"one": "A1", "three": "A2", "next": "A5", "feed": "A6", "there": "B1"}
    assert found["one"].tags == ("A1 board", "A1 far")
    assert (found["feed"].start, found["feed"].end) == ("b", "far")
    assert not {"I", "O"} & set(LETTERS), "letters that are taken for figures"


def test_numbers_are_each_once_in_a_job_of_sixty_boards() -> None:
    inputs = job(*(circuit(f"c{i}", board=f"b{i}") for i in range(60)), boards=[f"b{i}" for i in range(60)])
    numbers = [p.number for p in pulls(inputs)]
    assert len(set(numbers)) == 60


def test_what_is_there_is_not_pulled_a_spare_is_and_an_unknown_length_says_why() -> None:
    inputs = job(
        circuit("there", existing=True),
        circuit("spare", spare=True, loads=[]),
        circuit("vague", spans=[{"length": None}]),
        circuit("bare", spans=[]),
        circuit("charger", loads=[{"future": True}]),
        circuit("kitchen", loads=[{"future": True}, {}]),
    )
    found = {p.name: p for p in pulls(inputs)}
    assert "there" not in found
    assert found["spare"].spare
    assert [name for name, p in found.items() if p.later] == ["charger"], "all of its loads future load"
    assert found["spare"].end == "a coil left at its end"
    assert (found["vague"].cut, found["vague"].why) == (None, "a span has no length yet")
    assert found["bare"].why == "the run has no span yet"
    assert [p.cut is None for p in pulls(inputs)] == [False, False, False, True, True], "what has no length comes last"


def test_those_of_one_way_are_pulled_together_the_hardest_first() -> None:
    routes = [{"id": "loft", "name": "Loft"}, {"id": "riser", "name": "Riser"}]
    inputs = job(
        circuit("thin", cable={"csa": 1.5}, device={"rating": 6}, spans=[{"length": 8, "route": "loft"}]),
        circuit("thick", cable={"csa": 16}, spans=[{"length": 20, "route": "riser"}]),
        circuit("long", spans=[{"length": 25, "route": "loft"}]),
        circuit("alone", spans=[{"length": 3}]), routes=routes,
    )  # fmt: skip
    found = pulls(inputs)
    assert [p.name for p in found] == ["thick", "long", "thin", "alone"]
    assert [p.bundle for p in found] == [1, 2, 2, 3]
    assert [p.place for p in found] == [1, 2, 3, 4]


def test_the_demo_house_is_pulled_whole_and_its_sizes_that_are_doubtful_say_so() -> None:
    found = pulls(HOUSE)
    assert {p.circuit for p in found} == {c.id for c in HOUSE.circuits if not c.existing}
    assert any(p.doubtful for p in found if p.across)
    sums = by_cable(found)
    # Of A10, in singles, line, neutral and cpc are each cut for themselves.
    conductors = {p.number: 3 if p.number == "A10" else p.count for p in found}
    assert sum(s.pieces + s.unknown for s in sums) == sum(conductors.values())
    assert sum(s.metres for s in sums) == pytest.approx(sum((p.cut or 0) * conductors[p.number] for p in found))


@given(st.floats(0, 20), st.floats(0, 20), st.floats(0.1, 500))
def test_a_cable_is_never_cut_short(board: float, end: float, length: float) -> None:
    one = pulls(job(circuit("c", spans=[{"length": length}])), Slack(board, end))[0]
    assert one.cut is not None
    assert one.cut >= length + board + end - 1e-6
    assert one.cut <= length + board + end + 0.1 + 1e-6


@pytest.mark.parametrize("bad", [-0.1, 20.1])
def test_slack_past_its_range_and_an_unknown_circuit_are_refused_by_name(bad: float) -> None:
    with pytest.raises(InputError) as refused:
        Slack(board=bad)
    assert refused.value.field == "slack.board"
    with pytest.raises(InputError, match="a circuit of this job"):
        pulls(HOUSE, undecided=frozenset(["nobody"]))


def test_the_sleeve_slips_over_and_holds() -> None:
    """6 mm2 flat twin, 13.6 x 7: girth as of 13.1, with a tenth to spare 14.4, so 19 which shrinks to 9.5. A single of 2.5, 3.6: 4.0, so 4.8."""
    inputs = job(
        circuit("flat"), circuit("singles", cable={"family": "single_pvc70", "csa": 2.5, "cpc_csa": 2.5}, spans=[{"place": "conduit"}])
    )
    found = {p.name: p for p in pulls(inputs)}
    assert (found["flat"].sleeve, found["flat"].across) == (19.0, 13.6)
    assert (found["singles"].sleeve, found["singles"].across) == (4.8, None)


@pytest.mark.parametrize("across", [1.0, 60.0])
def test_no_sleeve_is_better_than_a_wrong_one(across: float) -> None:
    assert sleeve(across, across) is None
