"""Every reading is judged by the limit that is known, whether or not the design knows the point, the length or the cable; and none meets without one."""

from __future__ import annotations

import json
import random
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

import pytest

from mellow_span import demo
from mellow_span.core.model.parts import Installation
from mellow_span.core.site.at_boards import board_tests
from mellow_span.core.site.entries import Entry
from mellow_span.core.site.existing import existing
from mellow_span.core.site.kinds import SAYS, checked
from mellow_span.core.site.readings import TITLES, YES_NO, CircuitTests, SiteTest
from mellow_span.core.site.results import results_of
from mellow_span.core.site.results import tests_of as of_all
from mellow_span.exchange.document import read
from tests.build import circuit, job
from tests.core.random_jobs import random_job
from tests.depth import many

RCBO = {"device": {"kind": "rcbo", "idn": 0.03, "rcd_type": "A"}}
# Readings that no circuit behind a 32 A type B may show.
DANGEROUS: tuple[dict[str, Any], ...] = (
    {"quantity": "zs", "value": 9.0}, {"quantity": "polarity", "ok": False}, {"quantity": "r1r2", "over": True},
    {"quantity": "ir_le", "value": 0.01, "volts": 500}, {"quantity": "rcd_1", "value": 900}, {"quantity": "r1r2", "value": 9.0},
    {"quantity": "rcd_half", "value": 25}, {"quantity": "rcd_5", "over": True}, {"quantity": "ir_ln", "value": 50, "volts": 50},
    {"quantity": "r2_lead", "value": 9.0}, {"quantity": "ipf", "value": 90_000}, {"quantity": "amps", "value": 90},
)  # fmt: skip
BARE = circuit(cable={"family": None, "csa": None}, spans=[{"place": None, "length": None}], loads=[{"amount": None}])


def entry(number: int, data: dict[str, Any], at: str = "") -> Entry:
    given = checked("reading", data)
    SAYS["reading"](given)
    return Entry(f"e{number}", "reading", "c", given, at or f"2026-01-01T08:{number:02}:00+00:00", "Ann")


def judged(inputs: Installation, *given: dict[str, Any]) -> CircuitTests:
    return results_of(inputs, "c", [entry(k, one) for k, one in enumerate(given)])


def read_ones(found: CircuitTests) -> list[SiteTest]:
    return [t for t in found.tests if t.rows]


@pytest.mark.parametrize("reading", DANGEROUS)
@pytest.mark.parametrize(
    "of",
    [
        circuit(**RCBO),
        circuit(shape="ring", cable={"csa": 2.5}, spans=[{"length": 60}], **RCBO),
        {**BARE, **circuit(cable={"csa": None}, spans=[{"length": None}], **RCBO)},
    ],
)
@pytest.mark.parametrize("where", [{"point": "an outlet of yore"}, {"point": ""}, {"point": "behind the wall", "at": 3.0}])
def test_a_dangerous_reading_is_never_well_wherever_it_was_taken(
    reading: dict[str, Any], of: dict[str, Any], where: dict[str, Any]
) -> None:
    found = judged(job(of), {**reading, **where})
    (test,) = read_ones(found)
    assert test.found == "short", (test.found, test.text)
    assert found.off >= 1
    assert test.title in found.told or found.told == ""
    assert test.rows[0].off


def test_a_point_the_design_does_not_have_is_told_and_judged_by_its_place_where_that_is_said() -> None:
    inputs = job(circuit(spans=[{"length": 20}]))
    stray = read_ones(judged(inputs, {"quantity": "r1r2", "value": 0.1, "point": "a box behind the wall"}))[0]
    assert (stray.listed, stray.found) == (False, "meets")
    assert stray.text.startswith("a point the design does not have")
    placed = read_ones(judged(inputs, {"quantity": "r1r2", "value": 0.11, "point": "a box behind the wall", "at": 10}))[0]
    assert (placed.found, placed.predicted) == ("within", pytest.approx((3.08 + 7.41) * 10 / 1000))
    assert read_ones(judged(inputs, {"quantity": "r1r2", "value": 0.3, "point": "a box behind the wall", "at": 10}))[0].found == "above"
    beyond = read_ones(judged(inputs, {"quantity": "r1r2", "value": 0.3, "point": "the shed", "at": 90}))[0]
    assert beyond.predicted is None, "past the end of the run nothing is predicted"


def test_nothing_meets_that_has_no_limit() -> None:
    """Of every quantity, on circuits of every kind: 'meets' only where there is a limit or a yes; 'within' only where something is predicted."""
    rnd = random.Random(20)
    jobs = [job(BARE), job(BARE, supply={"ze": None, "ipf": None}), *(random_job(rnd) for _ in range(many(40)))]
    jobs += [replace(j, ruleset="iec60364") for j in jobs[:10]]
    for inputs in jobs:
        log = []
        for c in inputs.circuits:
            for k, quantity in enumerate(TITLES):
                value: dict[str, Any] = {"ok": True} if quantity in YES_NO else {"value": 0.05}
                for point in ("", "nowhere"):
                    data = checked(
                        "reading", {"quantity": quantity, "point": point, "volts": 500 if quantity.startswith("ir_") else None, **value}
                    )
                    log.append(Entry(f"{c.id}{k}{point}", "reading", c.id, data, "2026-01-01T08:00:00+00:00", "Ann"))
        for found in of_all(inputs, log).values():
            for t in read_ones(found):
                limited = any(x is not None for x in (t.least, t.most, t.fine))
                if t.found == "meets":
                    assert limited or t.quantity in YES_NO, (t.quantity, t.text)
                if t.found == "within":
                    assert t.predicted is not None
                if not limited and t.predicted is None and t.quantity not in (*YES_NO, "rcd_half"):
                    assert t.found == "not_known"
                    assert "limit" in t.text


def test_of_an_existing_circuit_the_device_alone_says_what_may_be_read() -> None:
    """B32: 1.366 ohm, 80 % of it 1.093; Ze 0.28 leaves 0.813 for R1 + R2."""
    inputs = job({**BARE, "existing": True})
    zs = read_ones(judged(inputs, {"quantity": "zs", "value": 1.2}))[0]
    assert zs.found == "short"
    assert (round(zs.fine or 0, 3), round(zs.most or 0, 3)) == (1.093, 1.366)
    assert "1.093 Ω" in zs.text
    assert "1.366 Ω" in zs.text
    well = read_ones(judged(inputs, {"quantity": "zs", "value": 1.0}))[0]
    assert (well.found, "1.093 Ω" in well.text, "1.366 Ω" in well.text) == ("meets", True, True)
    for value, found in ((0.81, "meets"), (0.82, "short"), (1.1, "short")):
        assert read_ones(judged(inputs, {"quantity": "r1r2", "value": value}))[0].found == found, value
    without = job({**BARE, "existing": True}, supply={"ze": None, "ipf": None})
    assert read_ones(judged(without, {"quantity": "r1r2", "value": 0.5}))[0].found == "not_known", "Ze may take all of it"
    assert read_ones(judged(without, {"quantity": "r1r2", "value": 1.4}))[0].found == "short", "more than Zs may be alone"
    graded = existing(inputs, [entry(0, {"quantity": "zs", "value": 1.2, "point": "an old socket"})])
    assert [o.check for o in graded.observations if o.source == "reading"] == ["zs"]


def test_a_length_and_a_size_are_worked_back_and_say_so() -> None:
    """2.5 with 1.5: 19.51 mohm/m; 0.39 ohm are 20 m. On a ring a quarter of it shows at the middle."""
    cable = {"cable": {"csa": 2.5}, "spans": [{"length": None}]}
    assert "about 20 m of run on 2.5 mm²" in judged(job(circuit(**cable)), {"quantity": "r1r2", "value": 0.39}).back
    assert "about 80 m of run round the ring" in judged(job(circuit(shape="ring", **cable)), {"quantity": "cross_le", "value": 0.39}).back
    assert "about 20 m" in judged(job(circuit(**cable)), {"quantity": "zs", "value": 0.28 + 0.39}).back
    bare = circuit(cable={"csa": None}, spans=[{"length": 20}])
    back = judged(job(bare), {"quantity": "r1r2", "value": 0.39}).back
    assert "nearest to 2.5 mm² with 1.5 mm² cpc" in back
    assert "not entered" in back
    assert "no usual size" in judged(job(bare), {"quantity": "r1r2", "value": 60.0}).back
    assert judged(job(), {"quantity": "r1r2", "value": 0.11}).back == "", "nothing is missing"
    assert judged(job(circuit(**cable))).back == ""


@pytest.mark.parametrize(
    ("reading", "found"),
    [
        ({"value": 0.5, "over": True, "volts": 250}, "not_known"), ({"value": 0.5, "over": True, "volts": 500}, "not_known"),
        ({"value": 200, "over": True, "volts": 500}, "meets"), ({"over": True, "volts": 500}, "meets"), ({"over": True, "volts": 250}, "short"),
        ({"value": 0.99, "volts": 500}, "short"), ({"value": 1.0, "volts": 500}, "meets"), ({"value": 50}, "not_known"), ({"value": 0.1}, "short"),
    ],
)  # fmt: skip
def test_insulation_meets_by_its_value_at_its_voltage_and_by_nothing_less(reading: dict[str, Any], found: str) -> None:
    inputs = job()
    expected = "short" if found == "not_known" and reading.get("volts") == 250 else found
    assert read_ones(judged(inputs, {"quantity": "ir_le", **reading}))[0].found == expected
    gentle = read_ones(judged(job(circuit(**RCBO)), {"quantity": "ir_le", **reading, **({"volts": 250} if "volts" in reading else {})}))[0]
    assert gentle.found == ("meets" if reading.get("over") and "value" not in reading else found)


def test_low_insulation_stands_in_what_all_of_them_point_to() -> None:
    fits = ({"quantity": "r1r2", "value": 0.1}, {"quantity": "r2_lead", "value": 0.07}, {"quantity": "zs", "value": 0.38})
    found = judged(job(), *fits, {"quantity": "ir_le", "value": 0.3, "volts": 500})
    assert found.causes[0].id == "insulation"
    assert found.told.startswith("Outside its limit: Insulation, line to earth 0.3 MΩ at the board.")
    assert "line to earth: 0.3 MΩ" in found.told
    assert "All readings" not in found.told
    for data in ({"quantity": "polarity", "ok": False}, {"quantity": "rcd_1", "value": 900}):
        more = judged(job(circuit(**RCBO)), *fits, data)
        assert "Outside its limit" in more.told
        assert "All readings" not in more.told


def test_a_measured_ze_takes_the_place_of_an_assumed_one_in_what_is_predicted() -> None:
    """Ze 0.35 assumed, 0.15 there: Zs 0.255 is predicted with what was measured, and is not off before that either."""
    inputs = job(supply={"ze": 0.35, "ze_source": "assumed"})
    zs = {"quantity": "zs", "value": 0.26}
    alone = read_ones(judged(inputs, zs))[0]
    assert alone.found == "within"
    assert "measured value replaces it" in alone.text
    ze = Entry("z", "board_reading", "b", checked("board_reading", {"quantity": "ze", "value": 0.15}), "2026-01-01T07:00:00+00:00", "Ann")
    both = next(t for t in results_of(inputs, "c", [ze, entry(1, zs)]).tests if t.rows)
    assert both.predicted == pytest.approx(0.15 + (3.08 + 7.41) * 10 / 1000)
    assert both.found == "within"
    assert read_ones(judged(job(supply={"ze": 0.35}), zs))[0].found == "below", "a Ze that was measured is not put aside"
    assert read_ones(judged(inputs, {"quantity": "zs", "value": 0.8}))[0].found == "above", "far more than assumed is no like size"


def test_readings_count_in_the_order_they_were_taken_however_they_arrive() -> None:
    early, late = (
        entry(1, {"quantity": "r1r2", "value": 1.9}, "2026-06-01T10:00:00+01:00"),
        entry(2, {"quantity": "r1r2", "value": 0.1}, "2026-06-01T09:30:00+00:00"),
    )
    for order in ([early, late], [late, early]):
        test = next(t for t in results_of(job(), "c", order).tests if t.rows)
        assert ([r.id for r in test.rows], test.found) == (["e1", "e2"], "within")


def test_both_limits_are_told_before_and_after() -> None:
    for path in sorted(Path(demo.__file__).parent.glob("*.json")):
        inputs = read(json.loads(path.read_text("utf-8")))
        for found in of_all(inputs, []).values():
            for t in found.tests:
                if t.quantity == "zs" and t.fine is not None and t.most is not None and t.fine < t.most:
                    assert "(80 %)" in t.text
                    assert "full limit" in t.text
                assert asdict(t)["listed"]


@pytest.mark.parametrize("value", [0.0, 0.001, 1_000_000.0])
def test_no_figure_that_may_be_written_down_brings_the_tests_down(value: float) -> None:
    """Nothing, next to nothing, and the most: at the board and on every circuit, with the supply assumed, not entered, and with what is bare."""
    rnd = random.Random(7)
    unsure = {"ze_source": "assumed", "ipf_source": "assumed"}
    bare = [
        job(BARE, supply=unsure),
        job(circuit(cable={"csa": None}, spans=[{"length": 20}])),
        job(BARE, supply={"ze": None, "ipf": None}),
    ]
    bare += [job(circuit(shape="ring", cable={"csa": c}, spans=[{"length": x}]), supply=unsure) for c, x in ((2.5, None), (None, 60))]
    for inputs in [*bare, *(random_job(rnd) for _ in range(many(20)))]:
        log = []
        for kind, parts in (("reading", inputs.circuits), ("board_reading", inputs.boards)):
            for part in parts:
                for k, quantity in enumerate(q for q in TITLES if q not in YES_NO):
                    data = checked(kind, {"quantity": quantity, "value": value})
                    log.append(Entry(f"{kind}{part.id}{k}", kind, part.id, data, "2026-01-01T08:00:00+00:00", "Ann"))
        of_all(inputs, log)
        for c in inputs.circuits:
            results_of(inputs, c.id, log)
        for b in inputs.boards:
            board_tests(inputs, b.id, log)


def test_a_current_past_the_range_is_no_open_circuit() -> None:
    ipf = read_ones(judged(job(), {"quantity": "ipf", "over": True}))[0]
    assert (ipf.found, "open circuit" in ipf.text) == ("short", False)
    assert "open circuit" in read_ones(judged(job(), {"quantity": "zs", "over": True}))[0].text
