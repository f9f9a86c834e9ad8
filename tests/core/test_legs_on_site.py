"""A run that branches on site and on paper: the pieces it is cut into, what an instrument should show at each end, what is printed of it."""

from __future__ import annotations

import json
from typing import Any

import pytest

from mellow_span.core.design.check import check, work_out
from mellow_span.core.design.prices import circuit_cost, shipped
from mellow_span.core.drawing.profile import paths_of, profile_of
from mellow_span.core.model.legs import legs
from mellow_span.core.model.parse import parse
from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets.readings import rules_of
from mellow_span.core.site.ends import ends
from mellow_span.core.site.entries import Entry
from mellow_span.core.site.materials import materials
from mellow_span.core.site.pulls import Slack, by_cable, pieces_told, pulls
from mellow_span.core.site.readings import Reading
from mellow_span.core.site.results import results_of
from mellow_span.core.site.uncounted import uncounted
from mellow_span.exchange.document import read, write
from mellow_span.papers.drums import pieces
from mellow_span.papers.register import paper
from mellow_span.papers.subject import Subject
from tests.core.test_legs import AT, ROW, lights


def house(**more: Any) -> Installation:
    return lights(ROW, AT, **more)


def test_the_pieces_of_a_run_are_cut_at_its_boxes() -> None:
    job = house()
    found = [(leg.start.id if leg.start else "board", [s.id for s in leg.spans]) for leg in legs(job.circuits[0].run)]
    assert found == [("board", ["joists"]), ("joists", ["hall"]), ("joists", ["landing", "bath"])]
    (one,) = pulls(job, Slack(board=1.0, end=0.2))
    assert [(p.start, p.end, p.run, p.cut) for p in one.pieces] == [
        ("b", "box A", 6, 7.2), ("box A", "hall", 7, pytest.approx(7.4)), ("box A", "bath", 9, pytest.approx(9.4)),
    ]  # fmt: skip
    assert (one.run, one.cut, one.cuts) == (22, pytest.approx(24.0), (7.2, pytest.approx(7.4), pytest.approx(9.4)))
    assert sorted(p.length for p in next(iter(pieces([one]).values()))) == pytest.approx([7.2, 7.4, 9.4])
    (total,) = by_cable((one,))
    assert (total.metres, total.pieces, total.longest) == (pytest.approx(24.0), 3, pytest.approx(9.4))
    assert "box A to bath 9.4 m" in pieces_told(one)
    assert one.end == "hall, bath"


def test_one_unknown_length_leaves_the_others_their_cuts_and_the_whole_unknown() -> None:
    (one,) = pulls(lights([*ROW[:3], {"id": "bath", "length": None}], AT))
    assert [p.cut is None for p in one.pieces] == [False, False, True]
    assert (one.cut, one.cuts) == (None, ())


def test_what_is_bought_counts_each_piece_and_says_what_boxes_are_not() -> None:
    job = house()
    armoured = house(cable={"family": "armoured_pvc70", "csa": 1.5})
    supply = house(cable={"family": "armoured_pvc70", "csa": 1.5}, armour_ends="supply")
    # Six ends of three pieces; earthed at the supply alone the armour still goes on through the box.
    for inputs, glands, leads in ((job, 0, 0), (armoured, 6, 6), (supply, 6, 4)):
        lines = {n.key: n for n in materials(inputs, {p.circuit: p.cut for p in pulls(inputs) if p.cut is not None})}
        assert sum(n.count for k, n in lines.items() if "gland" in k) == glands
        assert sum(n.count for k, n in lines.items() if k.startswith("fly_lead")) == leads
        assert lines["label/tag"].count == 6
        assert sum(n.count for k, n in lines.items() if k.startswith("cable")) == pytest.approx(pulls(inputs)[0].cut)
    assert [(u.what, u.where) for u in uncounted(job) if "box" in u.what] == [("1 box where a run parts or is joined", "A1")]
    straight = lights([{"id": "a", "length": 22}], [{"amount": 100}])
    rules = rules_of(job)
    assert circuit_cost(shipped(), rules, job.circuits[0]).cable == pytest.approx(
        circuit_cost(shipped(), rules, straight.circuits[0]).cable
    )


def test_every_end_and_box_is_made_off() -> None:
    (plain,) = ends(house())
    assert [e.where for e in plain.ends] == ["b", "box A: 3 cables", "hall", "bath"]
    assert not any(e.armour for e in plain.ends)
    armoured = house(cable={"family": "armoured_pvc70", "csa": 1.5})
    (one,) = ends(armoured)
    assert [(e.where, e.earthed) for e in one.ends] == [("b", True), ("box A", True), ("hall", True), ("bath", True)]
    assert one.ends[1].armour.startswith("3 glands with earth tags")
    (supply,) = ends(house(cable={"family": "armoured_pvc70", "csa": 1.5}, armour_ends="supply"))
    assert [e.earthed for e in supply.ends] == [True, True, False, False], "the armour goes on through the box"
    (bare,) = ends(house(cable={"family": "armoured_pvc70", "csa": 1.5}, armour_ends="none"))
    assert not any(e.earthed for e in bare.ends)
    # The armour is read to the end that is farthest, box A and on to the bath: 6 + 9 of 22 m.
    (long,) = ends(lights([{"id": "a", "length": 15}], [{"amount": 100}], cable={"family": "armoured_pvc70", "csa": 1.5}))
    assert one.armour_r == pytest.approx(long.armour_r or 0)


def reading(quantity: str, point: str, value: float) -> Entry:
    return Entry(
        "e", "reading", "c", parse(Reading, {"quantity": quantity, "point": point, "value": value}), "2026-01-01T08:00:00+00:00", "Ann"
    )


def test_an_instrument_should_show_at_each_end_what_the_design_says_of_it() -> None:
    job = house()
    ends = {end.name: end for end in check(job).circuits[0].ends}
    tests = {(t.quantity, t.point.split(",")[0]): t for t in results_of(job, "c", ()).tests}
    for name, end in ends.items():
        assert tests["r1r2", name].predicted == pytest.approx(end.r1r2)
    point = next(t.point for t in results_of(job, "c", ()).tests if t.quantity == "r1r2" and t.point.startswith("hall"))
    good, bad = (results_of(job, "c", (reading("r1r2", point, value),)) for value in ((ends["hall"].r1r2 or 0), 1.9))
    assert [t.found for t in good.tests if t.point == point and t.quantity == "r1r2"] == ["within"]
    assert [t.found for t in bad.tests if t.point == point and t.quantity == "r1r2"] == ["above"]
    # No cause is made up of readings on different branches.
    assert bad.causes == []


def test_the_drawing_goes_to_the_end_that_stands_worst_or_to_the_one_that_is_asked() -> None:
    done = work_out(house())
    assert [[s.span for s in p.stretches] for p in paths_of(done, "c")] == [["joists", "hall"], ["joists", "landing", "bath"]]
    worst = profile_of(done, "c")
    assert (worst.end, [round(s.end, 1) for s in worst.stretches]) == ("bath", [6, 10, 15])
    ends = {end.span: end for end in done.result.circuits[0].ends}
    for drawn in paths_of(done, "c"):
        assert drawn.points[-1].drop == pytest.approx(ends[drawn.end].drop)
        assert drawn.points[-1].zs == pytest.approx(ends[drawn.end].zs)
    assert paths_of(work_out(lights([{"id": "a"}], [{}])), "c") == ()


def test_the_working_prints_every_end_and_the_file_brings_the_tree_back() -> None:
    job = house()
    assert read(json.loads(json.dumps(write(job)))) == job
    printed = paper(Subject(job, printed="today"), "working", "c")
    cells = {item.text for _, _, item in printed.cells()}
    assert {"box A", "hall", "bath"} <= cells
    assert any("to bath:" in text for text in cells)
    listed = {item.text for _, _, item in paper(Subject(job, printed="today"), "pulls", "").cells()}
    assert any("in 3 pieces" in text for text in listed)
