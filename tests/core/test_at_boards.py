"""Readings at a board: what is asked for there, and what a reading says beside what the design takes."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from mellow_span import demo
from mellow_span.core.design.check import check
from mellow_span.core.errors import InputError
from mellow_span.core.model.parts import Installation
from mellow_span.core.site.at_boards import board_tests
from mellow_span.core.site.entries import Entry
from mellow_span.core.site.existing import existing
from mellow_span.core.site.kinds import SAYS, checked
from mellow_span.core.site.readings import SiteTest
from mellow_span.exchange.document import read


def house(name: str = "orchard_row") -> Installation:
    return read(json.loads((Path(demo.__file__).parent / f"{name}.json").read_text("utf-8")))


def at(board: str, *given: dict[str, Any], job: Installation | None = None) -> dict[str, SiteTest]:
    entries = []
    for k, one in enumerate(given):
        data = checked("board_reading", one)
        SAYS["board_reading"](data)
        entries.append(Entry(f"e{k}", "board_reading", board, data, f"2026-01-01T08:{k:02}:00+00:00", "Ann"))
    return {t.quantity: t for t in board_tests(job or house(), board, entries).tests}


def test_the_origin_asks_for_ze_a_board_behind_a_sub_main_for_zs() -> None:
    origin, studio = at("house"), at("studio")
    assert origin["ze"].predicted == 0.28
    assert "zs" not in origin
    assert "ze" not in studio
    # Cold, so lower than the hot figure the circuits are judged by.
    hot = next(b.zs for b in check(house()).boards if b.id == "studio")
    assert studio["zs"].predicted is not None
    assert hot is not None
    assert 0.28 < studio["zs"].predicted < hot
    assert origin["ipf"].most == 6000, "the least breaking capacity there"
    assert next(t for t in origin.values() if t.live).quantity == "ze", "dead tests come first"


def test_a_board_on_its_own_electrode_asks_for_ra_with_the_limit_of_its_check() -> None:
    pontoon = at("pontoon", {"quantity": "ra", "value": 400}, job=house("tern_quay"))
    assert (pontoon["ra"].predicted, pontoon["ra"].found) == (85, "above")
    assert pontoon["ra"].most == pytest.approx(50 / 0.03)
    assert at("pontoon", {"quantity": "ra", "value": 1700}, job=house("tern_quay"))["ra"].found == "short"


@pytest.mark.parametrize(
    ("value", "found"), [(0.28, "within"), (0.29, "within"), (0.3, "within"), (0.25, "meets"), (0.31, "above"), (0.36, "short")]
)  # fmt: skip
def test_a_reading_worse_than_the_design_takes_is_told_and_a_better_one_is_well(value: float, found: str) -> None:
    """5 % or 0.02 ohm, whichever is more, is no difference that an instrument can tell."""
    job = house()
    declared = replace(job, supply=replace(job.supply, ze_source="declared"))
    assert at("house", {"quantity": "ze", "value": value}, job=declared)["ze"].found == found


@pytest.mark.parametrize(("value", "found"), [(0.2, "meets"), (0.28, "meets"), (0.33, "meets"), (0.36, "short")])
def test_what_is_measured_replaces_what_was_assumed(value: float, found: str) -> None:
    ze = at("house", {"quantity": "ze", "value": value})["ze"]
    assert ze.found == found
    assert ("measured replaces assumed" in ze.text) == (found == "meets")
    assert ("recheck what depends on it" in ze.text) == (value == 0.33), "a worse one is no fault of the installation, but of the design"


def test_a_test_nobody_asks_for_at_a_board_is_judged_by_what_it_may_show_anywhere() -> None:
    found = at(
        "house", {"quantity": "ir_le", "value": 0.01, "volts": 500}, {"quantity": "rcd_1", "value": 900}, {"quantity": "r1r2", "value": 9.0}
    )
    assert {q: found[q].found for q in ("ir_le", "rcd_1", "r1r2")} == {"ir_le": "short", "rcd_1": "short", "r1r2": "not_known"}
    assert "no limit known" in found["r1r2"].text


def test_readings_at_a_board_count_by_the_time_they_were_taken_whatever_the_zone() -> None:
    job = house()
    late, early = (checked("board_reading", {"quantity": "ze", "value": v}) for v in (0.25, 0.9))
    entries = [
        Entry("a", "board_reading", "house", late, "2026-06-01T08:30:00+00:00", "Ann"),
        Entry("b", "board_reading", "house", early, "2026-06-01T09:00:00+01:00", "Ann"),
    ]
    ze = next(t for t in board_tests(job, "house", entries).tests if t.quantity == "ze")
    assert ([r.id for r in ze.rows], ze.found) == (["b", "a"], "meets")


def test_a_fault_current_no_device_there_breaks_is_short() -> None:
    assert at("house", {"quantity": "ipf", "value": 6100})["ipf"].found == "short"
    assert at("house", {"quantity": "ipf", "value": 900})["ipf"].found == "within"
    assert at("house", {"quantity": "ze", "over": True})["ze"].found == "short"
    assert at("house", {"quantity": "polarity", "ok": False})["polarity"].found == "short"


def test_the_last_reading_counts_and_none_is_lost_also_one_nobody_asked_for() -> None:
    found = at("house", {"quantity": "ze", "value": 0.9}, {"quantity": "ze", "value": 0.25}, {"quantity": "amps", "value": 40})
    assert (found["ze"].found, len(found["ze"].rows), found["amps"].rows[0].reading.value) == ("meets", 2, 40)
    assert board_tests(house(), "house", []).left == len(at("house"))
    with pytest.raises(InputError):
        board_tests(house(), "nowhere", [])


def test_what_is_read_at_a_board_of_existing_work_is_an_observation() -> None:
    job = house("mill_lane")
    board = job.boards[0].id
    readings = ({"quantity": "ze", "value": 5.0}, {"quantity": "ipf", "value": 9000}, {"quantity": "tight", "ok": True})
    entries = [
        Entry(f"e{k}", "board_reading", board, checked("board_reading", r), f"2026-01-01T08:{k:02}:00+00:00", "Ann")
        for k, r in enumerate(readings)
    ]
    seen = {o.check: o for o in existing(job, entries).observations if o.source == "reading"}
    assert set(seen) == {"ze", "ipf"}
    assert (seen["ipf"].grade, seen["ipf"].board, seen["ipf"].circuit) == ("may_become", board, None)
    assert seen["ze"].grade in ("look", "may_become")
