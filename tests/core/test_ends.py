"""Ends of cables: cores by their use, sleeves, the armour at each end, what to test after."""

from __future__ import annotations

import dataclasses
from typing import Any

import pytest

from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets import rule_set
from mellow_span.core.site.ends import Ends, ends
from tests.build import circuit, job, submain


def of(inputs: Installation, name: str = "c", **seen: frozenset[str]) -> Ends:
    return next(e for e in ends(inputs, **seen) if e.name == name)


def cores(found: Ends) -> list[tuple[str, str, str]]:
    return [(c.use, c.made, c.sleeve) for c in found.cores]


def test_the_bare_cpc_of_a_flat_cable_is_sleeved_and_nothing_else() -> None:
    assert cores(of(job())) == [("line", "brown", ""), ("neutral", "blue", ""), ("cpc", "bare", "green-yellow")]


@pytest.mark.parametrize(
    ("phases", "cable", "expected", "spare"),
    [
        (1, {"cores": 2}, [("line", "brown", ""), ("neutral", "blue", "")], 0),
        (1, {"cores": 3}, [("line", "brown", ""), ("neutral", "black", "blue"), ("cpc", "grey", "green-yellow")], 0),
        (1, {"cores": 3, "cpc": "armour"}, [("line", "brown", ""), ("neutral", "black", "blue")], 1),
        (
            1,
            {"cores": 3, "cpc": "armour_and_core"},
            [("line", "brown", ""), ("neutral", "black", "blue"), ("cpc", "grey", "green-yellow")],
            0,
        ),
        (3, {"cores": 4}, [("L1", "brown", ""), ("L2", "black", ""), ("L3", "grey", ""), ("neutral", "blue", "")], 0),
    ],
)
def test_an_armoured_cable_takes_the_core_that_has_the_colour_and_sleeves_the_rest(
    phases: int, cable: dict[str, Any], expected: list[Any], spare: int
) -> None:
    supply = {"phases": 3} if phases == 3 else {}
    found = of(job(submain(phases=phases, cable=cable), boards=["b", "far"], supply=supply), "m")
    assert (cores(found), found.spare) == (expected, spare)


@pytest.mark.parametrize(("family", "spare"), [("flat_twin_cpc_pvc70", 1), ("multicore_pvc70", 0)])
def test_with_a_separate_cpc_line_and_neutral_keep_their_cores(family: str, spare: int) -> None:
    found = of(job(circuit(cable={"family": family, "csa": 6, "cpc": "separate", "cpc_csa": 6})))
    assert (cores(found), found.spare) == ([("line", "brown", ""), ("neutral", "blue", "")], spare)


def test_more_conductors_than_cores_are_said() -> None:
    found = of(job(submain(phases=3, cable={"cores": 3}), boards=["b", "far"], supply={"phases": 3}), "m")
    assert ("neutral", "not in the cable", "") in cores(found)


@pytest.mark.parametrize("family", ["flat_twin_cpc_pvc70", "single_pvc70", "multicore_xlpe90", "armoured_xlpe90"])
@pytest.mark.parametrize("phases", [1, 3])
def test_green_yellow_is_never_a_live_core_and_every_core_ends_in_its_colour(family: str, phases: int) -> None:
    found = of(job(circuit(cable={"family": family, "csa": 6, "cpc_csa": 6}, phases=phases), supply={"phases": phases}))
    for core in found.cores:
        assert core.use == "cpc" or "green-yellow" not in (core.made, core.sleeve)
        assert (core.sleeve or core.made) in (rule_set("bs7671").colours.today[core.use], "not in the cable")


def test_the_armour_is_earthed_as_the_design_says_and_why() -> None:
    """10 mm2 of two cores: 2.9 mohm/m by its table times 30 m."""
    both = of(job(submain(), boards=["b", "far"]), "m")
    assert [e.earthed for e in both.ends] == [True, True]
    assert both.armour_r is not None
    assert both.fly_lead == 10
    assert any("gland to gland" in t for t in both.tests)
    island = job(submain(armour_ends="supply"), boards=["b", {"id": "far", "earthing": "TT", "ra": 80}])
    apart = of(island, "m")
    assert [e.earthed for e in apart.ends] == [True, False]
    assert "own electrode" in apart.ends[1].why
    assert any("no continuity" in t for t in apart.tests)
    meeting = of(job(submain(), boards=["b", {"id": "far", "earthing": "TT", "ra": 80}]), "m")
    assert "two earths meet" in meeting.ends[1].why


def test_where_wiring_of_two_times_meets_it_is_warned_of_and_where_nobody_looked_too() -> None:
    inputs = job(circuit("new"), circuit("old", existing=True), circuit("elsewhere", board="far"), submain(), boards=["b", "far"])
    assert "not been checked" in of(inputs, "new").warning
    assert "blue was a line" in of(inputs, "new", older=frozenset(["old"])).warning
    assert of(inputs, "new", newer=frozenset(["old"])).warning == ""
    assert of(inputs, "elsewhere").warning == ""
    # A book of no country knows of no older code: nothing is borrowed from the first one.
    abroad = dataclasses.replace(inputs, ruleset="iec60364")
    assert "what the older ones meant is not known" in of(abroad, "new", older=frozenset(["old"])).warning
    assert of(abroad, "new").warning.endswith("it may be wiring of an older colour code.")
    assert {(c.made, c.older) for c in of(abroad, "old").cores} == {("brown", ""), ("blue", ""), ("bare", "")}
    alone = job(circuit("old", existing=True))
    assert of(alone, "old").warning == "", "nothing new meets it"
