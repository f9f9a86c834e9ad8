"""Each rule of advice: the facts that call for it, and the same facts without what matters."""

from __future__ import annotations

from typing import Any

import pytest

from mellow_span.core.design.check import check
from mellow_span.core.findings.advice import HINTS, advise
from mellow_span.core.model.parts import Installation
from tests.build import circuit, job, submain

METAL = [{"id": "b", "metal": True}]
RCBO = {"kind": "rcbo", "idn": 0.03, "rcd_type": "A"}
FAR = {"id": "far", "metal": True}


def one(span: dict[str, Any] | None = None, **given: Any) -> Installation:
    return job(circuit("f", spans=[span or {}], **given), boards=METAL)


def with_supply(**supply: Any) -> Installation:
    return job(circuit("f"), supply=supply, boards=METAL)


def with_far(board: dict[str, Any], feed: dict[str, Any] | None = None, supply: dict[str, Any] | None = None) -> Installation:
    return job(submain("m", **(feed or {})), boards=[*METAL, {**FAR, **board}], supply=supply)


def socket_with(**device: Any) -> Installation:
    return one(loads=[{"kind": "sockets", "amount": 2000}], device={**RCBO, **device})


CASES: list[tuple[str, Installation, Installation | None, str]] = [
    # rule, a job that calls for it, the same without what matters (None: it always applies), words it must say
    ("polystyrene", one({"polystyrene": True}), one({"polystyrene": False}), "polystyrene draws"),
    ("polystyrene", one({"polystyrene": True}), one({"polystyrene": True}, cable={"family": "multicore_xlpe90"}), "sleeving"),
    ("zones", one({"place": "plaster"}), one({"place": "plaster", "guarded": True}), "150 mm"),
    ("cavity", one({"place": "stud_touching"}), one({"place": "timber"}), "lining"),
    ("fire", one({"fire_barrier": True}), one(), "seal"),
    (
        "burial",
        one({"place": "duct"}, cable={"family": "armoured_xlpe90"}),
        one({"place": "tray"}, cable={"family": "armoured_xlpe90"}),
        "prove it dead",
    ),
    ("burial", one({"place": "duct", "depth": 0.4}, cable={"family": "armoured_xlpe90"}), None, "spade"),
    ("outdoors", one({"location": "outdoors"}), one(), "IPX4"),
    ("bathroom", one({"location": "bathroom"}), one(), "701.415.2"),
    ("pool", one({"location": "pool"}), one(), "12 V"),
    ("agricultural", one({"location": "agricultural"}), one(), "livestock"),
    ("flylead", one(cable={"family": "single_pvc70", "cpc": "conduit", "conduit": 20}), one(), "fly lead"),
    ("flylead", one(cable={"family": "armoured_pvc70"}), one(cable={"family": "armoured_pvc70", "cpc": "separate"}), "gland"),
    (
        "island",
        with_far({"earthing": "TT", "ra": 80}, {"armour_ends": "supply"}),
        with_far({"earthing": "TT", "ra": 80}),
        "supply end only",
    ),
    ("rcdtype", socket_with(rcd_type="AC"), socket_with(rcd_type="A"), "type AC"),
    ("rcdtype", socket_with(rcd_type=None), one(), "not entered"),
    ("rcdtype", one(loads=[{"kind": "heat_pump", "amount": 3000}], device=RCBO), socket_with(), "ask the maker"),
    ("afdd", socket_with(), socket_with(afdd=True), "recommended"),
    ("isolation", one(loads=[{"kind": "motor", "amount": 2000}]), one(), "lock off"),
    ("joint", one(existing=True), one(), "accessible"),
    ("tails", with_supply(tails_wrapped=0.4), with_supply(), "agree the fuse"),
    ("assumed-fuse", with_supply(fuse_in=80, fuse_source="assumed"), with_supply(fuse_in=80, fuse_source="declared"), "carrier"),
    ("notify", with_supply(), None, "building control"),
    ("distributor", one(loads=[{"kind": "heat_pump"}]), one(), "a heat pump"),
    ("distributor", one(loads=[{"kind": "inverter"}, {"kind": "generator"}]), one(), "an inverter, a generator"),
    ("electrode", with_far({"earthing": "TT"}), with_far({}), "labelled inspection pit"),
    ("electrode", with_supply(earthing="TT"), with_supply(), "buried services"),
    ("enclosure", job(circuit("f")), with_supply(), "non-combustible"),
    ("outbuilding", with_far({"outbuilding": True}), with_far({}), "consider TT instead"),
    ("outbuilding", with_far({"outbuilding": True}, supply={"earthing": "TN-S"}), None, "metal services there at full size"),
    ("outbuilding", with_far({"outbuilding": True, "earthing": "TT"}), None, "RCD for every circuit"),
    (
        "space-and-heat",
        job(circuit("f"), routes=[{"id": "k", "kind": "conduit"}]),
        job(circuit("f"), routes=[{"id": "k"}]),
        "may still overheat",
    ),
    (
        "separation",
        job(circuit("f"), routes=[{"id": "k", "kind": "tray"}]),
        job(circuit("f"), routes=[{"id": "k", "kind": "conduit"}]),
        "a divider",
    ),
]


@pytest.mark.parametrize(("rule", "called", "without", "words"), CASES, ids=[f"{c[0]}: {c[3]}" for c in CASES])
def test_advice_hangs_on_its_facts(rule: str, called: Installation, without: Installation | None, words: str) -> None:
    told = [a for a in advise(called) if a.key.partition(":")[0] == rule]
    assert told
    assert any(words in a.text for a in told), told
    assert all(a.clause and a.title and a.subject for a in told)
    if without is not None:
        assert not [a for a in advise(without) if a.key.partition(":")[0] == rule and words in a.text]


def test_every_rule_is_tried_above() -> None:
    assert {c[0] for c in CASES} == {rule.id for rule in HINTS}


def test_dangers_come_first() -> None:
    weights = [a.weight for a in advise(job(circuit("f", spans=[{"polystyrene": True, "fire_barrier": True}], existing=True)))]
    assert weights == sorted(weights, key=["danger", "duty", "note"].index)


def test_what_holds_nothing_back_is_listed_as_still_to_confirm() -> None:
    """Rating and terminals of an accessory, a board's main switch, joists, the volts of a label: no verdict hangs on them, and somebody has to look."""
    one = circuit(device={"kind": "rcbo", "idn": 0.03, "rcd_type": "A", "rating": 32}, accessory="isolator", loads=[{"kind": "shower", "amount": 6000, "name": "shower"}],
                  spans=[{"place": "floor_void"}])  # fmt: skip
    found = check(job(one, boards=[{"id": "b", "non_combustible": True}], supply={"fuse_in": 80, "fuse_kind": "BS1361"}))
    lines = {line.field or line.check: line for line in found.attention if line.level == "confirm"}
    assert {"circuit.accessory_in", "load.c-l0.rated_volts", "board.switch_in"} <= set(lines)
    assert "taken as 230 V" in lines["load.c-l0.rated_volts"].reason
    assert found.circuits[0].verdict in ("meets", "close")
    assert next(c for c in found.boards[0].checks if c.id == "ratings").decides is False
    # They come last: whoever works through the list from above meets what holds back first.
    levels = [line.level for line in found.attention]
    assert levels[-len(lines) :] == ["confirm"] * len(lines)
    said = circuit(device={"kind": "rcbo", "idn": 0.03, "rcd_type": "A", "rating": 32}, accessory="isolator", accessory_in=45, accessory_poles=2, accessory_csa=10,
                   loads=[{"kind": "shower", "amount": 6000, "rated_volts": 240}])  # fmt: skip
    after = check(job(said, boards=[{"id": "b", "non_combustible": True, "switch_in": 100}], supply={"fuse_in": 80, "fuse_kind": "BS1361"}))
    assert not [line for line in after.attention if line.level == "confirm"]


def test_an_entered_switch_that_is_too_small_holds_back() -> None:
    found = check(job(circuit(), boards=[{"id": "b", "switch_in": 16}], supply={"fuse_in": 80, "fuse_kind": "BS1361"}))
    one = next(c for c in found.boards[0].checks if c.id == "ratings")
    assert (one.decides, one.verdict) == (True, "short")
