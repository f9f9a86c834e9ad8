"""What a list of materials does not count is said with why; every conductor of singles is counted, pulled and cut."""

from __future__ import annotations

import dataclasses
from typing import Any

import pytest

from mellow_span.core.design.check import check
from mellow_span.core.site.materials import materials
from mellow_span.core.site.pulls import by_cable, pulls
from mellow_span.core.site.uncounted import uncounted
from mellow_span.papers.drums import pieces
from tests.build import circuit, job


def told(inputs: Any) -> dict[str, tuple[str, str]]:
    return {u.what: (u.why, u.where) for u in uncounted(inputs)}


def counted(inputs: Any) -> dict[str, float]:
    cuts = {p.circuit: p.cut for p in pulls(inputs) if p.cut is not None}
    return {n.key: n.count for n in materials(inputs, cuts)}


SINGLES = {"family": "single_pvc70", "csa": 4, "cpc": "usual", "cpc_csa": 2.5}


@pytest.mark.parametrize(("phases", "parallel", "live"), [(1, 1, 2), (3, 1, 4), (3, 2, 8)])
def test_singles_are_pulled_cut_and_counted_conductor_by_conductor(phases: int, parallel: int, live: int) -> None:
    inputs = job(
        circuit(phases=phases, cable={**SINGLES, "parallel": parallel}, spans=[{"place": "conduit", "length": 10}]), supply={"phases": 3}
    )
    (one,) = pulls(inputs)
    assert [each.count for each in one.stock] == [live, parallel]
    wanted = pieces([one])
    assert [len(p) for p in wanted.values()] == [live, parallel]
    metres = {c.cable: c.metres for c in by_cable((one,))}
    assert list(metres) == sorted(wanted, key=lambda c: -metres[c])
    assert one.cut is not None
    basket = counted(inputs)
    assert basket["cable/single_pvc70/4"] == pytest.approx(one.cut * live), "the merchant is asked for what is cut"
    assert basket["cpc/single_pvc70/2.5"] == pytest.approx(one.cut * parallel)


def test_a_cable_is_one_piece() -> None:
    (one,) = pulls(job(circuit(spans=[{"length": 10}])))
    assert [(each.cable, each.count) for each in one.stock] == [(one.cable, 1)]


@pytest.mark.parametrize("kind", ["conduit", "trunking"])
def test_a_route_without_its_length_is_told_and_with_it_counted(kind: str) -> None:
    route = {"id": "r", "name": "riser", "kind": kind, "diameter": 25.0, "width": 50.0, "height": 50.0}
    inputs = job(circuit(cable=SINGLES, spans=[{"place": "conduit", "length": 10, "route": "r"}]), routes=[route])
    assert told(inputs)[kind] == ("its length is not entered", "riser")
    assert not [k for k in counted(inputs) if k.startswith(f"{kind}/")]
    long = dataclasses.replace(inputs, routes=tuple(dataclasses.replace(r, length=9.0) for r in inputs.routes))
    assert kind not in told(long)
    assert [v for k, v in counted(long).items() if k.startswith(f"{kind}/")] == [3]
    empty = dataclasses.replace(inputs, circuits=())
    assert kind not in told(empty), "nothing lies in it"


@pytest.mark.parametrize("kind", ["tray", "basket"])
def test_a_tray_that_is_a_route_is_counted_with_its_brackets_and_one_that_is_not_is_told(kind: str) -> None:
    route = {"id": "r", "name": "riser", "kind": kind, "width": 100.0, "length": 10.0, "bends": 2}
    cable = {"family": "multicore_xlpe90"}
    inputs = job(circuit(cable=cable, spans=[{"place": "tray", "length": 10, "route": "r"}]), routes=[route])
    basket = counted(inputs)
    # 10 m: four lengths of 3 m, three couplers; brackets every 1.5 m and one more.
    assert [basket[f"{kind}{part}/100"] for part in ("", "_coupler", "_bend", "_bracket")] == [4, 3, 2, 8]
    assert "cable tray or ladder, with its supports" not in told(inputs)
    unread = job(circuit(cable=cable, spans=[{"place": "tray", "length": 10, "route": "r"}]), routes=[{**route, "length": None}])
    assert told(unread)[kind] == ("its length is not entered", "riser")
    plain = job(circuit(cable=cable, spans=[{"place": "tray", "length": 10, "route": "r"}]), routes=[{**route, "kind": "open"}])
    assert "cable tray or ladder, with its supports" in told(plain)
    # It encloses nothing: no space is asked of it.
    assert not [c for r in check(inputs).routes for c in r.checks if c.id == "space"]


def test_what_hangs_on_the_building_or_is_not_entered_is_told() -> None:
    inputs = job(
        circuit(spans=[{"place": "conduit", "length": 5}], loads=[{"amount": 60, "kind": "lighting", "quantity": 6}]),
        circuit("t", spans=[{"place": "tray", "length": 5}], cable={"family": "multicore_xlpe90"}),
        supply={"earthing_csa": 16, "bonding_csa": 10, "extraneous": True},
    )
    found = told(inputs)
    assert found["conduit or trunking that is no route"][1] == "A1"
    assert found["cable tray or ladder, with its supports"][1] == "A2"
    assert found["cable left at points along a run"][1] == "A1"
    assert {"main earthing conductor, 16 mm²", "main bonding conductors, 10 mm²", "meter tails"} <= set(found)
    assert "main bonding conductors" not in " ".join(
        told(dataclasses.replace(inputs, supply=dataclasses.replace(inputs.supply, extraneous=False)))
    )


def test_tails_and_sleeving_are_counted_where_what_they_hang_on_is_entered() -> None:
    inputs = job(
        circuit(loads=[{"amount": 2000, "kind": "sockets", "quantity": 3}], spans=[{"length": 10}]),
        supply={"tails_csa": 25, "tails_length": 2.5},
    )
    basket = counted(inputs)
    assert basket["meter_tails/25"] == 5.0
    assert basket["sleeving/green_yellow"] == pytest.approx(0.9)
    assert "meter tails" not in told(inputs)
    old = dataclasses.replace(inputs, circuits=tuple(dataclasses.replace(c, existing=True) for c in inputs.circuits))
    assert not counted(old)
    assert "cable left at points along a run" not in told(old)
