"""Boards divided by RCD: a section behind each of two or three, and circuits behind none of them."""

from __future__ import annotations

from typing import Any

import pytest

from mellow_span.core.design.check import check, lay_out, work_out
from mellow_span.core.findings.results import BoardResult, Check, CircuitResult
from mellow_span.core.model.parts import Installation
from mellow_span.core.model.places import rcds_of
from mellow_span.core.rules.case import Case, in_section
from mellow_span.core.site.materials import materials
from mellow_span.papers.register import paper
from mellow_span.papers.subject import Subject
from tests.build import circuit, job, submain

SPLIT = {
    "id": "b", "rcd_idn": 0.03, "rcd_type": "A", "rcd_in": 63, "rcd2_idn": 0.1, "rcd2_type": "F", "rcd2_in": 80, "rcd2_delayed": True,
    "rcd3_idn": 0.3, "rcd3_type": "B", "rcd3_in": 40,
}  # fmt: skip


def one(result: CircuitResult | BoardResult, id: str) -> Check:
    return next(c for c in result.checks if c.id == id)


def rcds(inputs: Installation, which: str = "c") -> list[tuple[float, str | None]]:
    """The residual current devices that cover a circuit, nearest first, as its rules see them."""
    done = work_out(inputs)
    it = next(c for c in done.plan.job.circuits if c.id == which)
    return [(r.idn, r.kind) for r in Case(done.plan.rules, inputs.supply, it, done.feeds[it.board]).residuals]


@pytest.mark.parametrize(("section", "covered"), [(1, [(0.03, "A")]), (2, [(0.1, "F")]), (3, [(0.3, "B")]), (0, [])])
def test_a_circuit_is_behind_the_rcd_of_its_section_and_no_other(section: int, covered: list[Any]) -> None:
    assert rcds(job(circuit(section=section), boards=[SPLIT])) == covered


def test_what_lies_before_the_board_and_the_circuits_own_device_count_in_every_section() -> None:
    own = {"kind": "rcbo", "idn": 0.01, "rcd_type": "A"}
    far = {**SPLIT, "id": "far"}
    for section, shared in ((1, [(0.03, "A")]), (2, [(0.1, "F")]), (0, [])):
        inputs = job(
            submain("m", device={"kind": "rcbo", "idn": 0.5, "rcd_type": "A"}, section=2), circuit(board="far", section=section, device=own),
            boards=[SPLIT, far],
        )  # fmt: skip
        # The feed leaves its own board by that board's second section.
        assert rcds(inputs) == [(0.01, "A"), *shared, (0.5, "A"), (0.1, "F")]


def test_a_section_without_an_rcd_leaves_its_circuits_without_one() -> None:
    two = {"id": "b", "rcd_idn": 0.03, "rcd2_idn": 0.03}
    sockets = {"loads": [{"kind": "sockets", "basis": "In", "amount": None}]}
    verdicts = {n: one(check(job(circuit(section=n, **sockets), boards=[two])).circuits[0], "additional").verdict for n in (0, 1, 2, 3)}
    assert verdicts == {0: "short", 1: "meets", 2: "meets", 3: "short"}
    # A board with a second section alone: what stands in the first is behind none.
    assert rcds(job(circuit(), boards=[{"id": "b", "rcd2_idn": 0.03}])) == []


def test_to_be_put_into_a_section_twice_is_to_be_put_there_once() -> None:
    inputs = job(circuit(), boards=[SPLIT])
    feed = lay_out(inputs).root_feed("b")
    for first in range(4):
        for then in range(4):
            assert in_section(in_section(feed, first), then) == in_section(feed, then)


def leaking(section: int, amps: float, name: str) -> dict[str, Any]:
    return circuit(name, section=section, leakage=amps)


def test_standing_leakage_is_that_of_each_section_and_the_worst_is_told() -> None:
    two = {"id": "b", "rcd_idn": 0.03, "rcd2_idn": 0.03}
    fine = check(job(leaking(1, 0.006, "c"), leaking(2, 0.006, "d"), boards=[two])).boards[0]
    assert one(fine, "leakage").verdict == "meets"
    together = check(job(leaking(2, 0.006, "c"), leaking(2, 0.006, "d"), boards=[two])).boards[0]
    assert one(together, "leakage").verdict == "short"
    assert one(together, "leakage").text.startswith("RCD 2: ")
    # What is behind none counts for none.
    apart = check(job(leaking(0, 0.5, "c"), leaking(1, 0.006, "d"), boards=[two])).boards[0]
    assert one(apart, "leakage").verdict == "meets"


def test_an_rcd_carries_what_its_own_section_can_take() -> None:
    two = {"id": "b", "switch_in": 100, "rcd_idn": 0.03, "rcd_in": 63, "rcd2_idn": 0.03, "rcd2_in": 40}
    supply = {"fuse_kind": "BS1361", "fuse_in": 100, "fuse_source": "declared"}
    circuits = [circuit("c", section=1), circuit("d", section=2), circuit("e", section=2, device={"rating": 6})]
    fine = one(check(job(*circuits, boards=[two], supply=supply)).boards[0], "ratings")
    assert (fine.verdict, fine.limit) == ("meets", pytest.approx(38))
    more = one(check(job(*circuits, circuit("f", section=2), boards=[two], supply=supply)).boards[0], "ratings")
    assert (more.verdict, more.limit) == ("short", pytest.approx(70))
    assert "RCD 2" in more.text
    unread = one(check(job(*circuits, boards=[{**two, "rcd2_in": None}], supply=supply)).boards[0], "ratings")
    assert unread.field == "board.rcd2_in"


def test_one_device_for_everything_is_told_only_where_it_is_so() -> None:
    def told(*sections: int) -> str:
        circuits = [circuit(f"c{i}", section=n) for i, n in enumerate(sections)]
        found = check(job(*circuits, boards=[{"id": "b", "rcd_idn": 0.03, "rcd2_idn": 0.03}])).boards[0]
        return next((c.text for c in found.checks if c.id == "division"), "")

    assert "trips all 2 circuits" in told(1, 1)
    assert not told(1, 2)
    assert not told(1, 0)


def test_on_an_electrode_every_section_has_to_clear() -> None:
    board = {"id": "b", "earthing": "TT", "ra": 100, "ra_source": "measured", "rcd_idn": 0.03, "rcd2_idn": 0.3, "metal": False}

    def electrode(*sections: int) -> Check:
        return one(check(job(*(circuit(f"c{i}", section=n) for i, n in enumerate(sections)), boards=[board])).boards[0], "electrode")

    assert electrode(1, 2).verdict == "meets"
    # 50 V / 0.3 A, the least sensitive of them.
    assert electrode(1, 2).limit == pytest.approx(50 / 0.3)
    assert electrode(1, 0).verdict == "short"


def test_papers_and_materials_name_each() -> None:
    inputs = job(circuit("c", section=2), circuit("d", section=0), boards=[SPLIT])
    s = Subject(inputs, printed="today")
    cells = [item.text for _, _, item in paper(s, "schedule", "").cells()]
    assert "100 RCD 2" in cells
    assert "–" in cells, "the one behind none has none"
    needs = [n.title for n in materials(inputs, {}) if n.key.startswith("rccb/")]
    assert len(needs) == 3
    assert [r.section for r in rcds_of(inputs.boards[0])] == [1, 2, 3]


def test_what_is_remembered_hangs_on_the_section() -> None:
    for section in (0, 1, 2, 3, 1):
        inputs = job(circuit(section=section, loads=[{"kind": "sockets", "basis": "In", "amount": None}]), boards=[SPLIT])
        assert check(inputs, keep=False, reuse=True) == check(inputs, keep=False)
