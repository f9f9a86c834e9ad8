"""Lights behind a driver: the cable at extra-low voltage has a drop and a current of its own, and nothing of it goes back to the mains."""

from __future__ import annotations

from typing import Any

import pytest

from mellow_span.core.design.check import check
from mellow_span.core.findings.results import Check
from tests.build import circuit, job

# 1.5 mm² flexible: 13.3 mOhm/m each way at 20 C, 1.20 hot.
R, HOT = 13.3, 1.20


def strip(**more: Any) -> dict[str, Check]:
    load = {"kind": "lighting", "name": "strip", "amount": 60, "elv_volts": 24, "elv_length": 8, "elv_csa": 1.5, "elv_drop": 5} | more
    house = job(circuit("c", loads=[load], device={"rating": 6}, cable={"csa": 1.5}), supply={"ze": 0.35, "ipf": 1500})
    return {c.id: c for c in check(house).circuits[0].checks}


def test_the_drop_behind_the_driver_by_hand() -> None:
    found = strip()["extra_low"]
    lost = 2 * R * HOT * 8 / 1000 * 60 / 24
    assert found.value == pytest.approx(100 * lost / 24)
    assert (found.limit, found.verdict) == (5, "meets")
    assert "23.4 V left" in found.text


@pytest.mark.parametrize(
    ("more", "verdict", "value"),
    [
        ({"elv_length": 20}, "short", 100 * 2 * R * HOT * 20 / 1000 * 2.5 / 24),
        # At half the voltage four times the share.
        ({"elv_volts": 12}, "short", 4 * 100 * 2 * R * HOT * 8 / 1000 * 2.5 / 24),
        ({"quantity": 3}, "short", 3 * 100 * 2 * R * HOT * 8 / 1000 * 2.5 / 24),
        ({"elv_drop": 2}, "short", 100 * 2 * R * HOT * 8 / 1000 * 2.5 / 24),
    ],
)
def test_it_fails_where_it_is_longer_thinner_or_asked_more_of(more: dict[str, Any], verdict: str, value: float) -> None:
    found = strip(**more)["extra_low"]
    assert (found.verdict, found.value) == (verdict, pytest.approx(value))


def test_a_short_cable_is_still_one_that_carries_the_current() -> None:
    """0.3 m of 0.5 mm² drop next to nothing and carry 3 A."""
    found = strip(elv_length=0.3, elv_csa=0.5, amount=120)["extra_low"]
    assert (found.verdict, found.unit, found.limit) == ("short", "A", pytest.approx(5))


@pytest.mark.parametrize("field", ["elv_length", "elv_csa", "elv_drop", "amount"])
def test_what_is_not_entered_is_asked_and_never_taken(field: str) -> None:
    found = strip(**{field: None})["extra_low"]
    assert (found.verdict, found.field) == ("not_known", f"load.c-l0.{field}")


def test_nothing_of_it_reaches_the_mains_and_a_load_without_a_driver_is_not_asked() -> None:
    with_it, without = strip(), strip(elv_volts=None, elv_length=None, elv_csa=None, elv_drop=None)
    assert "extra_low" not in without
    for name, before in without.items():
        assert (with_it[name].value, with_it[name].verdict) == (before.value, before.verdict), name
