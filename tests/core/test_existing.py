"""What is there already: graded by facts, overruled with a reason; changes and limits noted."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from mellow_span import demo
from mellow_span.core.design.circuit import RULES
from mellow_span.core.errors import InputError
from mellow_span.core.model.parts import Installation
from mellow_span.core.site.entries import Entry
from mellow_span.core.site.existing import ORDER, SEEN, USUAL, Existing, Observation, existing, graded
from mellow_span.core.site.kinds import SAYS, checked
from mellow_span.core.site.readings import TITLES
from mellow_span.exchange.document import read
from tests.build import circuit, job

MILL = read(json.loads((Path(demo.__file__).parent / "mill_lane.json").read_text("utf-8")))


def entry(number: int, kind: str, subject: str = "", **data: Any) -> Entry:
    given = checked(kind, data)
    if kind in SAYS:
        SAYS[kind](given)
    return Entry(f"e{number}", kind, subject, given, f"2026-01-01T08:{number:02}:00+00:00", "Ann")


def found(inputs: Installation, *entries: Entry) -> Existing:
    return existing(inputs, entries)


def of(report: Existing, check: str) -> Observation:
    return next(o for o in report.observations if o.check == check)


def test_a_load_above_what_the_cable_carries_may_become_dangerous_a_slow_device_behind_a_fixed_load_only_falls_short() -> None:
    """2.5 mm2 clipped carries 27 A. 7.2 kW draws 31.3 A: too much. 5 kW draws 21.7 A: the cable stands it, but B32 would not stop more."""
    thin: dict[str, Any] = {"existing": True, "cable": {"csa": 2.5}}
    hot = of(found(job(circuit(**thin, loads=[{"kind": "shower", "amount": 7200}]))), "capacity")
    assert (hot.grade, hot.usual) == ("may_become", "C2")
    fixed = of(found(job(circuit(**thin, loads=[{"kind": "shower", "amount": 5000}]))), "capacity")
    assert (fixed.grade, fixed.usual) == ("improve", "C3")
    plugs = of(found(job(circuit(**thin, loads=[{"kind": "sockets", "amount": 5000}]))), "capacity")
    assert plugs.grade == "may_become", "more can be plugged in"


def test_missing_additional_protection_is_an_improvement_indoors_and_more_outdoors() -> None:
    sockets = [{"kind": "sockets", "amount": 3000}]
    assert of(found(job(circuit(existing=True, loads=sockets))), "additional").grade == "improve"
    outdoors = circuit(existing=True, loads=sockets, spans=[{"location": "outdoors"}])
    assert of(found(job(outdoors)), "additional").grade == "may_become"


def test_bonding_that_is_absent_is_not_put_like_bonding_that_is_thin() -> None:
    old = circuit(existing=True)
    assert of(found(job(old, supply={"extraneous": True, "neutral_csa": 25})), "bonding").grade in ("may_become", "look")
    thin = found(job(old, supply={"extraneous": True, "neutral_csa": 25, "bonding_csa": 6}))
    assert of(thin, "bonding").grade == "improve"


def test_new_work_is_no_matter_of_the_survey_and_nothing_there_is_neither_good_nor_bad() -> None:
    report = found(job(circuit(cable={"csa": 1})))
    assert (report.observations, report.satisfactory) == ([], None)
    assert found(job(circuit("ok", existing=True, loads=[{"kind": "heating", "amount": 2000}]))).circuits == 1


def test_what_is_not_known_is_to_be_looked_into_where_it_could_hide_a_danger() -> None:
    report = found(job(circuit(existing=True), supply={"ze": None, "ipf": None}))
    assert of(report, "loop").grade == "look"
    assert "not known" in of(report, "loop").why
    assert report.satisfactory is False


def test_readings_are_observations_too() -> None:
    inputs = job(circuit(existing=True))
    report = found(
        inputs, entry(1, "reading", "c", quantity="ir_le", value=0.2, volts=500), entry(2, "reading", "c", quantity="polarity", ok=False)
    )
    assert of(report, "ir_le").grade == "may_become"
    assert of(report, "polarity").usual == "C1"
    assert report.observations[0].check == "polarity", "the worst first"
    high = found(inputs, entry(1, "reading", "c", quantity="r2_lead", value=0.5))
    assert of(high, "r2_lead").grade == "look"


@pytest.mark.parametrize(("facts", "grade"), [({}, "may_become"), ({"touch": True}, "danger"), ({"burning": True}, "danger")])
def test_what_is_seen_is_graded_by_its_facts(facts: dict[str, bool], grade: str) -> None:
    seen = entry(1, "observed", what="damaged", where="kitchen socket", note="lid gone", **facts)
    report = found(job(), seen)
    assert [(o.grade, o.where, o.source) for o in report.observations] == [(grade, "kitchen socket", "eye")]
    assert "lid gone" in report.observations[0].told
    off = entry(2, "observed", what="other", where="kitchen socket", gone=True, key="e1")
    assert found(job(), seen, off).observations == []
    with pytest.raises(InputError):
        entry(3, "observed", what="other", where="x", gone=True)


def test_a_person_may_grade_otherwise_with_a_reason_and_both_stand() -> None:
    seen = entry(1, "observed", what="damaged", where="hall")
    report = found(job(), seen, entry(2, "graded", key="e1", grade="improve", reason="a cosmetic crack"))
    one = report.observations[0]
    assert (one.grade, one.own, one.usual, one.by, one.reason) == ("may_become", "improve", "C3", "Ann", "a cosmetic crack")
    assert report.satisfactory is True
    back = found(
        job(),
        seen,
        entry(2, "graded", key="e1", grade="improve", reason="x"),
        entry(3, "graded", key="e1", grade="may_become", reason="no"),
    )
    assert back.observations[0].own is None
    with pytest.raises(InputError):
        entry(4, "graded", key="e1", grade="improve")


def test_changes_and_limits_are_noted_and_struck_out() -> None:
    changed = entry(1, "changed", what="insulation", text="loft quilt, about 2019")
    limit = entry(2, "limit", text="no floor lifted", agreed="the tenant")
    report = found(job(), changed, limit)
    assert [(n.what, n.text) for n in report.changes] == [("insulation", "loft quilt, about 2019")]
    assert [(n.text, n.agreed) for n in report.limits] == [("no floor lifted", "the tenant")]
    gone = found(job(), changed, limit, entry(3, "limit", text="no floor lifted", gone=True))
    assert gone.limits == []


def test_every_check_reading_and_thing_seen_has_a_grade_or_is_no_matter_on_purpose() -> None:
    no_matter = {"design_current", "inrush", "cpc_table"}
    assert {r.id for r in RULES if graded("check", r.id, []) is None} == no_matter
    assert all(graded("eye", what, []) for what in SEEN)
    assert {q for q in TITLES if graded("reading", q, []) is None} == {"ipf", "amps"}
    assert set(ORDER) == set(USUAL)


def test_the_flat_that_is_checked_shows_its_water_heater_first_of_its_circuits() -> None:
    report = existing(MILL, [])
    assert report.satisfactory is False
    heater = [o for o in report.observations if "Water heater" in o.where]
    assert ("capacity", "may_become") in {(o.check, o.grade) for o in heater}
    grades = [ORDER.index(o.own or o.grade) for o in report.observations]
    assert grades == sorted(grades)
