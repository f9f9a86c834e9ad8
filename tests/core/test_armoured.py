"""Armoured cables as they are bought: what serves as cpc by their cores, what a test then shows, and how the cores are made off."""

from __future__ import annotations

from typing import Any

import pytest

from mellow_span.core.design.check import check
from mellow_span.core.findings.results import CircuitResult
from mellow_span.core.model.parse import parse
from mellow_span.core.model.parts import Circuit, Installation
from mellow_span.core.rules.protective import kind_of
from mellow_span.core.site.ends import ends
from mellow_span.core.site.entries import Entry
from mellow_span.core.site.readings import Reading
from mellow_span.core.site.results import results_of
from mellow_span.papers.schedule import cpc_cell
from mellow_span.papers.subject import Subject
from tests.build import circuit, job

# 6 mm2: copper 3.08, the armour of two cores 4.6 and of three 4.3 [mohm/m] where the tables have it; 25 m in a duct.
COPPER = 3.08


def feed(cores: int | None, cpc: str = "usual", **more: Any) -> Installation:
    cable = {"family": "armoured_xlpe90", "csa": 6, "cores": cores, "cpc": cpc}
    given = {
        "loads": [{"amount": 6000, "kind": "heating"}],
        "spans": [{"place": "duct", "length": 25}],
        "device": {"rating": 32, "kind": "rcbo", "idn": 0.03},
        **more,
    }
    return job(circuit("c", cable=cable, **given), supply={"phases": 3})


def found(inputs: Installation) -> CircuitResult:
    return check(inputs).circuits[0]


def armour(inputs: Installation) -> float:
    """Resistance of its armour [mohm/m], by what the armour alone gives."""
    alone = found(feed(inputs.circuits[0].run.cable.cores or 2, "armour")).r1r2
    assert alone is not None
    return alone / 0.025 - COPPER


@pytest.mark.parametrize(
    ("phases", "cores", "kind", "ends_earthed", "serves"),
    [
        (1, None, "heating", "both", "armour"), (1, 2, "heating", "both", "armour"), (1, 3, "heating", "both", "armour_and_core"),
        (1, 3, "heating", "supply", "core"), (1, 3, "heating", "none", "core"), (1, 2, "heating", "supply", "armour"),
        (1, 4, "sockets", "both", "armour_and_core"), (3, 4, "sockets", "both", "armour"), (3, 4, "motor", "both", "armour_and_core"),
        (3, 3, "motor", "both", "armour"), (3, None, "motor", "both", "armour"),
    ],
)  # fmt: skip
def test_a_core_to_spare_serves_as_cpc_with_the_armour_beside_it(
    phases: int, cores: int | None, kind: str, ends_earthed: str, serves: str
) -> None:
    inputs = feed(cores, phases=phases, loads=[{"amount": 3000, "kind": kind}], armour_ends=ends_earthed)
    one: Circuit = inputs.circuits[0]
    assert kind_of(one, True) == serves
    for said in ("armour", "core", "armour_and_core", "separate"):
        assert kind_of(feed(cores, said).circuits[0], True) == said
    assert kind_of(one, False) == "core"


def test_a_feed_of_three_lines_needs_its_fourth_core_whatever_hangs_behind_it_today() -> None:
    made = parse(Circuit, {"id": "c", "board": "b", "phases": 3, "feeds": "far", "run": {"id": "r", "cable": {"cores": 4}}})
    assert kind_of(made, True) == "armour"


def test_core_and_armour_lie_side_by_side_and_a_test_without_the_armour_shows_the_core_alone() -> None:
    inputs = feed(3)
    steel = armour(inputs)
    both = 1 / (1 / COPPER + 1 / steel)
    assert found(inputs).r1r2 == pytest.approx((COPPER + both) * 0.025)
    assert found(feed(3, "core")).r1r2 == pytest.approx(2 * COPPER * 0.025) == pytest.approx(0.154)
    assert (found(feed(3)).zs or 0) < (found(feed(3, "core")).zs or 0) < (found(feed(3, "armour")).zs or 0)
    test = next(t for t in results_of(inputs, "c", ()).tests if t.quantity == "r1r2")
    assert test.predicted == pytest.approx((COPPER + both) * 0.025)
    assert "with the armour disconnected at one end 0.154 Ω" in test.care
    plain = next(t for t in results_of(feed(2), "c", ()).tests if t.quantity == "r1r2")
    assert "armour disconnected" not in plain.care


def reading(value: float, degrees: float = 20) -> Entry:
    given = parse(Reading, {"quantity": "r1r2", "value": value, "temperature": degrees})
    return Entry("e", "reading", "c", given, "2026-01-01T08:00:00+00:00", "Ann")


@pytest.mark.parametrize(
    ("cores", "value", "wanted", "alone"),
    [(3, 0.154, "within", True), (3, 0.6, "above", False), (3, None, "within", False), (2, 0.154, "below", False)],
)
def test_either_prediction_is_a_reading_as_predicted_and_points_to_no_fault(
    cores: int, value: float | None, wanted: str, alone: bool
) -> None:
    inputs = feed(cores)
    both = found(inputs).r1r2 or 0
    results = results_of(inputs, "c", (reading(value or both),), together=True)
    test = next(t for t in results.tests if t.quantity == "r1r2")
    assert test.found == wanted
    assert ("with the armour disconnected" in test.text) is alone
    if wanted == "within":
        assert not [c for c in results.causes if "fits" not in c.text and "predicted" not in c.text]


def test_the_firm_says_which_core_is_the_neutral_and_both_are_sleeved() -> None:
    for neutral, cpc in (("black", "grey"), ("grey", "black")):
        (one,) = ends(feed(3), neutral=neutral)  # type: ignore[arg-type]
        assert {c.use: (c.made, c.sleeve) for c in one.cores} == {
            "line": ("brown", ""), "neutral": (neutral, "blue"), "cpc": (cpc, "green-yellow"),
        }  # fmt: skip
        assert one.rule.startswith(f"{neutral} is the neutral and {cpc} the cpc")
    (two,) = ends(feed(2), neutral="grey")
    assert ([c.made for c in two.cores], two.rule) == (["brown", "blue"], "")
    (three,) = ends(feed(3, "armour"), neutral="grey")
    assert three.rule == ""


def test_the_schedule_says_what_serves() -> None:
    said = [
        cpc_cell(Subject(i, printed="today"), i.circuits[0]).text
        for i in (feed(2), feed(3), feed(3, "core"), feed(3, armour_ends="supply"))
    ]
    assert said == ["armour", "armour and a core", "6", "6"]


def test_what_serves_is_part_of_what_is_remembered() -> None:
    """One cable serves in three ways: by where its armour is earthed and by what hangs on it."""
    three = [feed(3, armour_ends=way) for way in ("both", "supply", "both", "none")]
    lines = [feed(4, phases=3, loads=[{"amount": 3000, "kind": kind}]) for kind in ("motor", "sockets", "motor")]
    for inputs in (*three, *lines, *reversed(three)):
        kept, fresh = (check(inputs, keep=False, reuse=reuse).circuits[0] for reuse in (True, False))
        assert (kept.r1r2, kept.zs) == (fresh.r1r2, fresh.zs)
    assert found(three[0]).r1r2 != found(three[1]).r1r2
    assert found(lines[0]).r1r2 != found(lines[1]).r1r2
