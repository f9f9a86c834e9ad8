"""Device curves against points worked by hand."""

from __future__ import annotations

import pytest

from mellow_span.core.model.parts import Device
from mellow_span.core.rules.devices.trip import let_through, slowest_time
from mellow_span.core.rulesets import rule_set
from mellow_span.core.working.recorders import Keeping

W = Keeping(rule_set("bs7671"))


@pytest.mark.parametrize(
    ("curve", "rating", "current", "seconds"),
    [
        ("B", 10, 50, 0.1),
        ("B", 10, 14.4, None),
        ("B", 10, 14.5, 3600),
        # slope ln(60/3600) / ln(25.5/14.5) = -7.2523; 3600 x (20/14.5)^-7.2523
        ("B", 10, 20, 349.48),
        ("B", 10, 25.5, 60),
        ("C", 40, 200, 31.212),  # over 32 A the point at 2.55 In is 120 s: 120 x (102/200)^2
        ("D", 16, 320, 0.1),
    ],
)
def test_slowest_time(curve: str, rating: float, current: float, seconds: float | None) -> None:
    found = slowest_time(W, Device(curve=curve, rating=rating), rating, current)  # type: ignore[arg-type]
    assert found == (seconds if seconds is None else pytest.approx(seconds, rel=1e-3))


@pytest.mark.parametrize(
    ("device", "current", "energy"),
    [
        (Device(curve="B", rating=32, icn=6000), 2900, 18000),
        (Device(curve="B", rating=32, icn=6000), 3100, 32000),
        (Device(curve="B", rating=32, icn=6000), 400, 16000),  # 400^2 x 0.1 is less than class 3
        (Device(curve="B", rating=50, icn=6000), 2900, 841000),  # over 40 A: I2 x 0.1 s
        (Device(curve="D", rating=16, icn=6000), 2900, 841000),  # type D: I2 x 0.1 s
        (Device(curve="B", rating=32, icn=6000, i2t=9000.0), 2900, 9000),  # the maker's figure
        (Device(curve="B", rating=32, icn=3000), 4000, 1600000),  # beyond Icn no class limit is claimed
    ],
)
def test_energy(device: Device, current: float, energy: float) -> None:
    assert let_through(W, device, device.rating or 0, current) == pytest.approx(energy)
