"""What can only help never harms, order says nothing, and a way out touches what its words name: over jobs drawn at random."""

from __future__ import annotations

import re
from dataclasses import replace
from typing import Any

import pytest

from mellow_span.core.design.check import check
from mellow_span.core.design.options import options
from mellow_span.core.errors import CoreError
from mellow_span.core.findings.results import CircuitResult
from mellow_span.core.model.parts import Installation
from tests.build import circuit, job
from tests.core.random_jobs import random_job
from tests.depth import many, seeded

RANK = {"meets": 0, "close": 0, "not_known": 1, "short": 2}
SEEDS = range(many(60, 12))


def of(inputs: Installation, name: str = "c") -> CircuitResult:
    return next(r for r in check(inputs, keep=False).circuits if r.id == name)


def ranks(result: CircuitResult, *checks: str) -> list[int]:
    return [RANK[k.verdict] for k in result.checks if k.id in checks]


def drawn(seed: int) -> dict[str, Any]:
    """A circuit that could be any in a house."""
    rnd = seeded(seed)
    return {
        "device": {"kind": rnd.choice(["mcb", "rcbo", "BS88-3", "BS3036"]), "rating": rnd.choice([6, 16, 20, 32, 45]), "curve": rnd.choice("BCD"),
                   "idn": rnd.choice([None, 0.03])},
        "loads": [{"amount": rnd.choice([500, 2000, 5000, 7200]), "kind": rnd.choice(["sockets", "heating", "lighting", "shower", "cooking"])}],
        "cable": {"csa": rnd.choice([1, 1.5, 2.5, 4, 6, 10])},
        "spans": [{"place": rnd.choice(["masonry", "plaster", "ceiling_thick", "stud_touching"]), "length": rnd.choice([3, 12, 40, 90]),
                   "group": rnd.choice([1, 2, 4]), "guarded": rnd.choice([None, True, False])} for _ in range(rnd.choice([1, 2, 3]))],
    }  # fmt: skip


def with_spans(given: dict[str, Any], **fields: Any) -> dict[str, Any]:
    return {**given, "spans": [{**s, **{k: v(s[k]) if callable(v) else v for k, v in fields.items()}} for s in given["spans"]]}


@pytest.mark.parametrize("seed", SEEDS)
def test_a_better_earth_clears_no_fault_later(seed: int) -> None:
    before = [2, 2]
    for ze in (1.9, 0.8, 0.35, 0.2, 0.1):
        found = ranks(of(job(circuit(**drawn(seed)), supply={"ze": ze})), "loop", "disconnection")
        assert all(now <= was for now, was in zip(found, before, strict=True)), ze
        before = found


@pytest.mark.parametrize("seed", SEEDS)
def test_what_is_only_bounded_is_never_short(seed: int) -> None:
    """Over 40 A and type D no energy is tabulated: at no earth is such a conductor called too small for certain by it."""
    given = drawn(seed)
    for device in ({"kind": "mcb", "rating": 50, "curve": "B"}, {"kind": "mcb", "rating": 20, "curve": "D"}):
        for ze in (0.35, 0.2, 0.05):
            result = of(job(circuit(**{**given, "device": device}), supply={"ze": ze, "ipf": 4000}))
            for one in result.checks:
                if one.id in ("line_thermal", "cpc_thermal") and one.verdict == "short":
                    assert "no device is certain" in one.text or "least" in one.text, one.text


@pytest.mark.parametrize("seed", SEEDS)
def test_a_shorter_run_is_never_worse(seed: int) -> None:
    given = drawn(seed)
    long = of(job(circuit(**given)))
    short = of(job(circuit(**with_spans(given, length=lambda m: m / 3))))
    checks = ("capacity", "volt_drop", "loop", "disconnection")
    assert all(a <= b for a, b in zip(ranks(short, *checks), ranks(long, *checks), strict=True))
    assert short.drop is None or long.drop is None or short.drop < long.drop


@pytest.mark.parametrize("seed", SEEDS)
def test_fewer_neighbours_and_a_larger_conductor_are_never_worse(seed: int) -> None:
    given = drawn(seed)
    alone = of(job(circuit(**with_spans(given, group=1))))
    among = of(job(circuit(**given)))
    assert alone.iz is None or among.iz is None or alone.iz >= among.iz
    assert all(a <= b for a, b in zip(ranks(alone, "capacity"), ranks(among, "capacity"), strict=True))
    larger = of(job(circuit(**{**given, "cable": {"csa": 16}})))
    checks = ("capacity", "volt_drop", "loop", "disconnection", "least_csa")
    assert all(a <= b for a, b in zip(ranks(larger, *checks), ranks(among, *checks), strict=True))


@pytest.mark.parametrize("seed", SEEDS)
def test_the_order_of_boards_circuits_and_loads_says_nothing(seed: int) -> None:
    inputs = random_job(seeded(seed))
    turned = replace(
        inputs,
        circuits=tuple(replace(c, loads=tuple(reversed(c.loads))) for c in reversed(inputs.circuits)),
        routes=tuple(reversed(inputs.routes)),
    )
    try:
        one, other = check(inputs, keep=False), check(turned, keep=False)
    except CoreError:
        return
    there = {r.id: r for r in other.circuits}
    for result in one.circuits:
        assert there[result.id].verdict == result.verdict
        assert there[result.id].iz == pytest.approx(result.iz)
        assert there[result.id].zs == pytest.approx(result.zs)


# The fields that the words of a way out name: whatever else it changes answers a question that nobody answered.
NAMED: tuple[tuple[str, set[str]], ...] = (
    ("rcbo", {"device.kind", "device.idn", "device.rcd_type", "device.delayed", "device.rating", "device.curve", "device.icn"}),
    ("charging-a", {"device.kind", "device.idn", "device.rcd_type", "device.delayed", "dc_detection"}),
    ("charging-b", {"device.kind", "device.idn", "device.rcd_type", "device.delayed"}),
    ("rcd-type", {"device.rcd_type"}), ("outlet-device", {"device.rating"}), ("outlet", {"outlet_idn"}), ("final", {"cable.csa", "cable.cpc_csa"}),
    ("submain", {"cable.csa", "cable.cpc_csa"}), ("device", {"device.rating"}), ("larger", {"device.rating", "cable.csa", "cable.cpc_csa"}),
    ("load", {"amount", "device.rating"}), ("curve", {"device.curve"}), ("radial", {"shape", "device.rating"}), ("ring", {"shape", "length"}),
    ("label", {"rated_volts"}), ("allowance", {"diversified"}), ("makers-energy", {"device.i2t"}), ("measured-ipf", {"ipf", "ipf_source"}),
    ("measured-ze", {"ze", "ze_source"}), ("measured-both", {"ipf", "ipf_source", "ze", "ze_source"}), ("cpc-larger", {"cable.cpc_csa"}), ("ring-larger", {"shape", "length", "device.rating"}),
    ("accessory", {"accessory_in", "accessory_csa", "accessory_poles"}), ("lampholders", {"device.rating"}), ("afdd", {"device.afdd"}),
    ("icn", {"device.icn"}), ("cpc", {"cable.cpc_csa"}), ("plates", {"guarded"}), ("guarded", {"guarded"}), ("supports", {"fire_supports"}),
    ("bond", {"supplementary_r"}), ("phase", {"phase"}), ("swap", {"phase"}), ("refined", {"drop_method"}), ("unwrap", {"wrapped"}),
    ("local-fuse", {"local_fuse"}), ("fused-lead", {"local_fuse", "lead_csa"}), ("lead", {"lead_csa"}),
)  # fmt: skip
# Where a span is laid anew it takes all its surroundings along.
LAID_ANEW = ("apart", "route", "tray", "split")
WRONG: tuple[dict[str, Any], ...] = (
    {"loads": [{"kind": "ev", "amount": 7000}], "device": {"kind": "mcb", "rating": 32}, "cable": {"csa": 10}},
    {"loads": [{"kind": "sockets", "amount": 3000}], "device": {"kind": "rcbo", "idn": 0.03, "rcd_type": "AC"}},
    {"loads": [{"kind": "sockets", "amount": 3000}], "device": {"rating": 40}, "cable": {"csa": 10}},
    {"loads": [{"kind": "shower", "amount": 9000}], "device": {"kind": "BS3036", "rating": 30, "icn": 4000}},
    {"loads": [{"kind": "heating", "amount": 3000}], "accessory": "isolator", "accessory_in": 13},
)


def fields(changes: Any) -> set[str]:
    found = set()
    for change in changes:
        for name, value in change.fields.items():
            found |= {f"{name}.{inner}" for inner in value} if isinstance(value, dict) else {name}
    return found


@pytest.mark.parametrize("wrong", [*WRONG, *SEEDS])
def test_a_way_out_touches_what_its_words_name(wrong: Any) -> None:
    inputs = job(circuit(**(wrong if isinstance(wrong, dict) else drawn(wrong))))
    for option in options(inputs, "c"):
        for part in option.id.split("+"):
            if not part.startswith(LAID_ANEW):
                assert any(part.startswith(name) for name, _ in NAMED), f"say what {part} may touch"
        if not any(part.startswith(LAID_ANEW) for part in option.id.split("+")):
            allowed = set().union(*(named for part in option.id.split("+") for name, named in NAMED if re.match(f"{name}(-|$)", part)))
            assert fields(option.changes) <= allowed, option.title


@pytest.mark.parametrize("seed", SEEDS)
def test_no_words_are_false(seed: int) -> None:
    """No negative shortfall, no more counted than there are, no limit on the wrong side of its verdict."""
    for inputs in (random_job(seeded(seed)), job(circuit(**drawn(seed)))):
        try:
            found = check(inputs, keep=False)
        except CoreError:
            continue
        for result in found.circuits:
            assert not re.search(r"by -", result.headline), result.headline
            for one in result.checks:
                assert not (one.verdict == "short" and one.margin is not None and one.margin > 0), one.text
        for route in found.routes:
            for text in (k.text for k in route.checks if k.id == "count"):
                if numbers := re.match(r"(\d+) counted of (\d+)", text):
                    assert int(numbers[1]) <= int(numbers[2]), text
