"""The ways out one by one: what each changes, what it costs, and when it is not offered."""

from __future__ import annotations

from typing import Any

import pytest

from mellow_span.core.design.check import lay_out
from mellow_span.core.design.ideas import ideas_for
from mellow_span.core.design.options import Option, options
from mellow_span.core.design.prices import circuit_cost, copper_kg, job_cost, shipped
from mellow_span.core.design.solving import changed, solved
from mellow_span.core.rulesets import rule_set
from tests.build import circuit, job, submain

R = rule_set("bs7671")
RCBO = {"kind": "rcbo", "idn": 0.03, "rcd_type": "A"}


def found(*circuits: dict[str, Any], of: str = "f", **more: Any) -> dict[str, Option]:
    return {o.id: o for o in options(job(*circuits, **more), of)}


def fields(option: Option) -> list[dict[str, Any]]:
    return [e.fields for e in option.changes]


def test_a_wrapped_span_is_unwrapped() -> None:
    ways = found(
        circuit(
            "f",
            loads=[{"amount": 6000}],
            cable={"family": "multicore_pvc70", "csa": 6},
            spans=[{"length": 5}, {"wrapped": 0.8, "length": 3}],
        )
    )
    assert fields(ways["unwrap"]) == [{"wrapped": 0.0}]
    assert ways["unwrap"].passes


def test_a_grouped_span_is_laid_apart() -> None:
    ways = found(circuit("f", loads=[{"amount": 7000}], spans=[{"group": 4}]))
    assert fields(ways["apart"]) == [{"route": None, "group": 1}]
    assert ways["apart"].passes
    assert ways["apart"].cost == 0


def test_a_smaller_device_is_offered_only_while_it_carries_the_load() -> None:
    light = found(circuit("f", loads=[{"amount": 4000}], device={"rating": 40}, cable={"csa": 4}))
    assert fields(light["device"]) == [{"device": {"rating": 32.0}}]
    heavy = found(circuit("f", loads=[{"amount": 8500}], device={"rating": 40}, cable={"csa": 4}))
    assert "device" not in heavy
    assert heavy["load"].passes


def test_sockets_without_an_rcd_get_an_rcbo() -> None:
    ways = found(circuit("f", loads=[{"kind": "sockets", "amount": 3000}], device={"rating": 20}, cable={"csa": 4}))
    assert fields(ways["rcbo"]) == [{"device": {"kind": "rcbo", "idn": 0.03, "rcd_type": "A", "delayed": False}}]
    assert ways["rcbo"].cost == pytest.approx(24 - 6)


def test_a_fuse_is_replaced_by_the_smallest_rcbo_that_carries_the_load() -> None:
    old = circuit(
        "f",
        existing=True,
        loads=[{"kind": "sockets", "amount": 3000}],
        device={"kind": "BS3036", "rating": 15, "icn": 4000},
        cable={"csa": 2.5},
    )
    way = found(old)["rcbo"]
    assert way.changes[0].fields["device"]["rating"] == 16
    assert way.cost == 24, "the fuse is paid for"


@pytest.mark.parametrize(("kind", "offered"), [("other", {"curve-C", "curve-B"}), ("motor", {"curve-C"})])
def test_a_motor_is_never_put_on_a_type_b(kind: str, offered: set[str]) -> None:
    slow = circuit(
        "f", loads=[{"amount": 2300, "kind": kind}], device={"rating": 16, "curve": "D"}, cable={"csa": 2.5}, spans=[{"length": 20}]
    )
    ways = found(slow, supply={"ze": 0.5, "ipf": 440})
    assert {name for name in ways if name.startswith("curve")} == offered


def test_a_ring_is_split_and_a_long_radial_closed() -> None:
    sockets = [{"kind": "sockets", "basis": "In", "amount": None}]
    weak = circuit("f", shape="ring", loads=sockets, device=RCBO, cable={"csa": 2.5}, spans=[{"place": "stud_adrift", "length": 20}])
    assert "radial" not in found(weak) or not found(weak)["radial"].passes
    radial = circuit("f", loads=[{"kind": "sockets", "amount": 6000}], device=RCBO, cable={"csa": 2.5}, spans=[{"length": 12}])
    ways = found(radial)
    assert fields(ways["ring"]) == [{"shape": "ring"}, {"length": 24.0}]
    assert ways["ring"].passes


def test_two_things_wrong_are_cured_by_a_pair() -> None:
    both = circuit("f", loads=[{"kind": "sockets", "amount": 6500}], cable={"csa": 4}, spans=[{"place": "ceiling_thick"}])
    ways = found(both)
    assert not any(o.passes for name, o in ways.items() if "+" not in name)
    pair = next(o for name, o in ways.items() if "+" in name)
    assert pair.passes
    assert {"rcbo", "outlet"} & set(pair.id.split("+"))


def test_a_way_out_tells_what_it_does_to_others() -> None:
    """The sub-main that cures one final cures the other as well."""
    far = [
        circuit(n, board="far", loads=[{"amount": 2990}], device={"rating": 16}, cable={"csa": 2.5}, spans=[{"length": 20}])
        for n in ("f", "g")
    ]
    feed = submain(ib_from="device", cable={"csa": 6}, device={"rating": 32}, spans=[{"place": "duct", "length": 45}])
    way = found(feed, *far, boards=["b", "far"])["submain-m"]
    assert (way.rescues, way.breaks) == (1, 0)


def test_edits_leave_the_rest_alone() -> None:
    before = job(circuit("f", cable={"csa": 2.5}), circuit("g"))
    after = changed(before, found(circuit("f", cable={"csa": 2.5}))["final"].changes)
    assert after.circuits[1] == before.circuits[1]
    assert after.circuits[0].loads == before.circuits[0].loads
    assert after.circuits[0].run.cable.csa == 4


def test_costs_and_copper_by_hand() -> None:
    book = shipped()
    inputs = job(
        circuit("f", cable={"csa": 6}, device={**RCBO, "rating": 32}, spans=[{"length": 10}, {"length": 5, "place": "plaster"}]),
        submain(cable={"csa": 10}, spans=[{"place": "duct", "length": 30}]), boards=["b", "far"],
    )  # fmt: skip
    first, second = (circuit_cost(book, R, c) for c in inputs.circuits)
    assert (first.cable, first.laying, first.device, first.digging) == pytest.approx((15 * 2.60, 10 * 3 + 5 * 9, 24, 0))
    assert (second.cable, second.laying, second.device, second.digging) == pytest.approx((30 * 5.80, 30 * 5, 6, 30 * 38))
    assert first.copper_kg == pytest.approx((6 + 6 + 2.5) * 15 * 8.9e-3)
    assert second.copper_kg == pytest.approx(2 * 10 * 30 * 8.9e-3), "the armour is the cpc"
    assert job_cost(book, R, inputs).total == pytest.approx(first.total + second.total)
    assert copper_kg(R, inputs.circuits[0], 0) == 0


def test_what_is_not_known_is_no_pass() -> None:
    """A shower short on capacity alone, then the same with a breaking capacity nobody entered: the same cures come, and none of them passes."""
    given: dict[str, Any] = {"loads": [{"amount": 9000, "kind": "shower"}], "spans": [{}, {"place": "stud_adrift", "length": 2}]}
    known = found(circuit("f", device={"rating": 40, "kind": "rcbo", "idn": 0.03}, cable={"csa": 10}, **given))
    open_end = found(circuit("f", device={"rating": 40, "kind": "rcbo", "idn": 0.03, "icn": None}, cable={"csa": 10}, **given))
    cures = [name for name, o in known.items() if o.passes]
    assert cures
    assert not any(o.passes for o in open_end.values())
    assert all(open_end[name].verdict == "not_known" for name in cures)
    assert list(open_end)[: len(cures)] == cures, "those that leave nothing short come first"


def test_a_larger_load_gets_a_larger_device_with_its_cable() -> None:
    ways = found(circuit("f", loads=[{"amount": 9000}], device={"rating": 32}, cable={"csa": 4}))
    assert [c.fields for c in ways["larger+final"].changes] == [{"device": {"rating": 40.0}}, {"cable.csa": 6.0, "cable.cpc_csa": None}]
    assert ways["larger+final"].passes


def test_a_bigger_sub_main_spares_an_absurd_final() -> None:
    """Behind a thin sub-main the final alone would take 16 mm2; one size up before it, it needs less."""
    weak = submain(
        ib_from="device",
        cable={"csa": 6},
        device={"rating": 32},
        spans=[{"place": "duct", "length": 40}],
        terminals=90,
        terminals_by="sheet",
    )
    far = circuit("f", board="far", loads=[{"amount": 4000}], device={"rating": 20}, cable={"csa": 2.5}, spans=[{"length": 25}])
    ways = found(weak, far, boards=["b", "far"])
    both = ways["submain-m+final"]
    assert both.passes
    alone = ways.get("final")
    final = next(c.fields for c in both.changes if c.id == "f")
    assert alone is None or final["cable.csa"] < alone.changes[0].fields["cable"]["csa"]


def test_sockets_get_an_outlet_with_its_own_rcd() -> None:
    ways = found(circuit("f", loads=[{"kind": "sockets", "amount": 3000, "quantity": 1}], device={"rating": 20}, cable={"csa": 4}))
    assert fields(ways["outlet"]) == [{"outlet_idn": 0.03}]
    assert ways["outlet"].passes
    assert ways["outlet"].cost == 32


def test_phases_are_swapped_with_the_circuit_most_alike() -> None:
    feed = submain(phases=3, terminals=90, terminals_by="sheet", spans=[{"place": "free", "length": 60}])
    car = circuit("car", board="far", phase="L1", loads=[{"amount": 7360, "kind": "ev"}], device={"rating": 40}, cable={"csa": 10})
    lamp = circuit(
        "f",
        board="far",
        phase="L1",
        loads=[{"amount": 690, "kind": "lighting"}],
        device={**RCBO, "rating": 6},
        cable={"csa": 1},
        spans=[{"length": 15}],
    )
    other = circuit(
        "o",
        board="far",
        phase="L2",
        loads=[{"amount": 100, "kind": "lighting"}],
        device={**RCBO, "rating": 6},
        cable={"csa": 1},
        spans=[{"length": 2}],
    )
    inputs = job(feed, car, lamp, other, boards=["b", "far"], supply={"phases": 3})
    plan = lay_out(inputs)
    ideas = {i.id: i for i in ideas_for(plan, inputs, next(c for c in plan.job.circuits if c.id == "f"), solved(inputs, "f"))}
    assert [(c.id, c.fields) for c in ideas["swap-f-o"].changes] == [("f", {"phase": "L2"}), ("o", {"phase": "L1"})]
    ways = {o.id for o in options(inputs, "f")}
    assert "phase-f-L2" in ways
    assert "swap-f-o" not in ways, "moving it alone is enough, and costs no more"


@pytest.mark.parametrize(
    ("wrong", "cure"),
    [
        ({"loads": [{"amount": 2000, "lead_csa": 1.5, "lead_length": 2}], "cable": {"csa": 4}}, "local-fuse"),
        ({"loads": [{"amount": 2600, "lead_csa": 1, "lead_length": 2}], "cable": {"csa": 4}}, "fused-lead"),
        ({"loads": [{"amount": 5000, "lead_csa": 2.5, "lead_length": 2}]}, "lead"),
        ({"accessory": "isolator", "accessory_in": 20, "accessory_poles": 1, "accessory_csa": 4}, "accessory"),
        ({"loads": [{"amount": 2000, "kind": "lighting", "lampholders": True}], "device": {**RCBO, "rating": 20}, "cable": {"csa": 4}}, "lampholders"),
        ({"spans": [{"place": "floor_void", "guarded": False}], "cable": {"csa": 10}}, "plates"),
        ({"spans": [{"fire_supports": False}]}, "supports"),
        ({"spans": [{"place": "plaster", "guarded": False}]}, "guarded"),
        ({"device": {"icn": 1500, "rating": 32}, "loads": [{"amount": 5000}]}, "icn-6000"),
        ({"device": {"rating": 20}, "loads": [{"amount": 3000}], "supplementary_r": 0.9}, "bond"),
        ({"loads": [{"kind": "ev", "amount": 6000, "pen_guard": "device"}], "device": {**RCBO, "rcd_type": "AC"}}, "charging-b"),
    ],
)  # fmt: skip
def test_what_is_wrong_at_one_place_is_cured_there(wrong: dict[str, Any], cure: str) -> None:
    supply = {"ipf": 2000, "ze": 0.2} if cure.startswith("icn") else {}
    ways = found(circuit("f", **wrong), supply=supply)
    assert ways[cure].passes, [(o.id, o.reason) for o in ways.values()]


def test_a_cure_along_a_route_is_made_on_the_route() -> None:
    floor = {"id": "floor", "place": "floor_void", "guarded": False}
    ways = found(circuit("f", cable={"csa": 10}, spans=[{"route": "floor", "place": None}]), routes=[floor])
    assert [(c.kind, c.id, c.fields) for c in ways["plates"].changes] == [("route", "floor", {"guarded": True})]


def test_a_throttling_route_is_put_on_a_tray_or_split() -> None:
    lying = [
        circuit(n, loads=[{"amount": 6500}], cable={"family": "multicore_pvc70", "csa": 4}, spans=[{"route": "k", "place": None}])
        for n in "fgh"
    ]
    ways = found(*lying, routes=[{"id": "k", "name": "Cellar", "place": "masonry"}])
    assert ways["tray-k"].title.startswith("Cellar: lay it on a tray")
    assert ways["tray-k"].passes
    assert ways["tray-k"].rescues == 2
    assert set(ways["tray-k"].others) == {"g", "h"}


def test_at_most_eight_and_none_is_another_with_more_beside_it() -> None:
    for given in ({"spans": [{"group": 4}], "loads": [{"amount": 7000}]}, {"cable": {"csa": 2.5}}, {"spans": [{"place": "stud_adrift"}]}):
        ways = options(job(circuit("f", **given)), "f")
        assert 0 < len(ways) <= 8
        passing = [o for o in ways if o.passes]
        for one in passing:
            mine = {(c.kind, c.id, str(c.fields)) for c in one.changes}
            assert not any({(c.kind, c.id, str(c.fields)) for c in o.changes} < mine and o.cost <= one.cost for o in passing)
