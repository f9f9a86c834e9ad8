"""What a design leaves off at an end, or has not bonded, is said wherever somebody acts on it: at the terminations, in the materials, in existing work."""

from __future__ import annotations

from typing import Any

import pytest

from mellow_span.core.design.check import check
from mellow_span.core.model.parts import Installation
from mellow_span.core.site.ends import Ends, ends
from mellow_span.core.site.existing import existing
from mellow_span.core.site.materials import materials
from mellow_span.core.site.pulls import pulls
from tests.build import circuit, job, submain

ISLAND = ["b", {"id": "far", "earthing": "TT", "ra": 60}]
PLAIN = {"cable": {"family": "multicore_xlpe90"}, "spans": [{"place": "masonry", "length": 20}]}


def fed(boards: Any = ISLAND, **given: Any) -> Installation:
    return job(submain("m", **given), boards=boards)


def of(inputs: Installation) -> Ends:
    return next(e for e in ends(inputs) if e.circuit == "m")


def test_a_cpc_left_off_at_an_electrode_is_said_at_that_end_and_tested() -> None:
    near, far = of(fed(core_ends="supply", **PLAIN)).ends
    assert (near.armour, far.armour) == ("", "cpc cut back and insulated, not connected here")
    assert "no continuity from the cpc of this cable to the earth of the far end" in of(fed(core_ends="supply", **PLAIN)).tests
    both = of(fed(core_ends="both", **PLAIN))
    assert [e.armour for e in both.ends] == ["", ""]
    assert not any("no continuity from the cpc" in t for t in both.tests)


def test_a_core_that_serves_as_cpc_has_its_colour_and_is_left_off_beside_the_armour() -> None:
    found = of(fed(armour_ends="supply", core_ends="supply", cable={"cpc": "core", "cores": 3}))
    assert [c.use for c in found.cores] == ["line", "neutral", "cpc"]
    assert "insulated gland" in found.ends[1].armour
    assert "cpc cut back" in found.ends[1].armour


@pytest.mark.parametrize(
    ("where", "leads", "earthed"), [("both", 2, [True, True]), ("supply", 1, [True, False]), ("none", 0, [False, False])]
)
def test_armour_is_earthed_and_has_a_fly_lead_where_the_design_says(where: str, leads: int, earthed: list[bool]) -> None:
    inputs = fed(boards=["b", "far"], armour_ends=where, cable={"cpc": "core", "cores": 3})
    assert [e.earthed for e in of(inputs).ends] == earthed
    needs = materials(inputs, {p.circuit: p.cut for p in pulls(inputs) if p.cut is not None})
    assert sum(n.count for n in needs if n.key.startswith("fly_lead")) == leads


def test_a_core_is_chosen_as_cpc_of_an_armoured_cable_alone() -> None:
    """Of any other cable the core that goes with it serves already: two words for one thing would be counted differently somewhere."""
    result = check(job(circuit(cable={"family": "multicore_pvc70", "cpc": "core"}))).circuits[0]
    assert result.verdict == "not_known"
    assert any("armoured" in k.text for k in result.checks)


def test_bonding_that_is_not_there_is_absent_in_existing_work_whatever_size_was_entered() -> None:
    supply = {"extraneous": True, "bonding_csa": 10, "neutral_csa": 25}
    there = existing(job(circuit(existing=True), supply={**supply, "bonding_csa": 6}), [])
    gone = existing(job(circuit(existing=True), supply={**supply, "bond": "none"}), [])
    grade = {name: next(o.grade for o in found.observations if o.check == "bonding") for name, found in (("thin", there), ("none", gone))}
    assert grade == {"thin": "improve", "none": "may_become"}
