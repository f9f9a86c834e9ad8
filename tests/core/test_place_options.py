"""Ways out for the intake and the boards, one by one: what each changes, who has to agree, and that it does what it says."""

from __future__ import annotations

from typing import Any

import pytest

from mellow_span.core.design.check import check
from mellow_span.core.design.place_options import MOST, PlaceOption, place_options
from mellow_span.core.design.solving import changed
from mellow_span.core.errors import InputError
from mellow_span.core.model.parts import Installation
from tests.build import circuit, job, submain

RCBO = {"kind": "rcbo", "idn": 0.03, "rcd_type": "A"}


def cures(inputs: Installation, place: str) -> dict[str, PlaceOption]:
    return {o.id: o for o in place_options(inputs, place)}


def crowded(**more: Any) -> Installation:
    """A shower of 40 A, a charging point of 32 A and a hob of 30 A on a fuse of 60 A with tails of 16 mm2."""
    return job(
        circuit("shower", loads=[{"name": "shower", "kind": "shower", "amount": 9200}], device={"rating": 40}, cable={"csa": 10}),
        circuit("car", loads=[{"name": "car", "kind": "ev", "amount": 7360}], device={"rating": 40}, cable={"csa": 10}),
        circuit("hob", loads=[{"name": "hob", "kind": "cooking", "amount": 6900}]),
        supply={"fuse_kind": "BS1361", "fuse_in": 60, "tails_csa": 16, **more},
    )


def test_a_patient_load_is_held_to_what_is_left_of_the_fuse() -> None:
    """40 + 10 + 0.3 x 20 = 56 A without the car leave 4 A, under the least it can be held to: it is switched off; at 63 A it is held to 7."""
    off = cures(crowded(), "intake")["managed-car-l0"]
    assert off.changes[0].fields == {"managed": 0.0}
    assert "sheds car" in off.title
    held = cures(crowded(fuse_kind="BS88-3", fuse_in=63), "intake")["managed-car-l0"]
    assert held.changes[0].fields == {"managed": 7.0}
    assert held.verdict in ("meets", "close")
    assert held.cost == 85


def test_two_large_loads_shut_each_other_out_and_a_third_joins_an_interlock() -> None:
    found = cures(crowded(), "intake")
    pair = found["interlock-shower-l0-car-l0"]
    assert {c.fields["interlock"] for c in pair.changes} == {"shower or car"}
    assert check(changed(crowded(), pair.changes)).intake[0].value == pytest.approx(40 + 16)
    tight = changed(crowded(fuse_kind="BS88-3", fuse_in=45), pair.changes)
    joins = cures(tight, "intake")
    assert not any("car" in o.title and o.id.startswith("join") for o in joins.values()), "it is in one already"


def test_a_larger_fuse_is_the_suppliers_and_brings_its_tails() -> None:
    found = cures(crowded(), "intake")["fuse-100"]
    assert found.asks == "the distributor"
    assert found.changes[0].fields == {"fuse_in": 100.0, "tails_csa": 25.0}
    assert found.verdict == "meets"
    three = cures(crowded(), "intake")["three-phase"]
    assert three.asks == "the distributor"
    phases = {c.id: c.fields["phase"] for c in three.changes if "phase" in c.fields}
    assert set(phases.values()) == {"L1", "L2", "L3"}, "spread, largest device first"


def test_only_what_cures_is_offered_where_something_does() -> None:
    found = [o for o in place_options(crowded(), "intake") if o.check == "demand"]
    assert found
    assert all(o.verdict in ("meets", "close") for o in found)
    assert len(found) <= MOST
    for one in found:
        after = check(changed(crowded(), one.changes))
        assert next(c for c in after.intake if c.id == "demand").verdict == one.verdict


def test_tails_earthing_and_surge_are_put_right_at_the_intake() -> None:
    poor = job(supply={
        "fuse_kind": "BS88-3", "fuse_in": 100, "tails_csa": 16, "tails_length": 5, "tails_fused": False, "earthing_csa": 6, "neutral_csa": 25,
        "bonding_csa": 6, "extraneous": True,
    })  # fmt: skip
    found = cures(poor, "intake")
    assert found["tails-25"].verdict == "meets"
    assert found["tails-fused"].verdict == "meets"
    assert found["surge"].verdict == "meets"
    assert found["earthing_csa"].changes[0].fields == {"earthing_csa": 10.0}
    assert found["bonding_csa"].changes[0].fields == {"bonding_csa": 10.0}


def test_what_a_board_is_built_of_is_replaced_by_what_fits() -> None:
    weak = job(
        circuit("a"), circuit("c"), supply={"fuse_kind": "BS88-3", "fuse_in": 80}, boards=[{"id": "b", "switch_in": 40, "busbar_in": 100}]
    )
    found = cures(weak, "b")["switch"]
    assert found.changes[0].fields == {"switch_in": 80.0}, "the busbar is enough as it is"
    assert found.verdict == "meets"


def test_one_rcd_that_leaks_too_much_gives_way_to_one_for_each_circuit() -> None:
    pumps = [circuit(f"s{i}", loads=[{"kind": "heat_pump", "amount": 1000, "quantity": 3}]) for i in range(2)]
    board = {"id": "b", "switch_in": 100, "rcd_idn": 0.03, "rcd_in": 100}
    inputs = job(*pumps, boards=[board])
    assert next(c for c in check(inputs).boards[0].checks if c.id == "leakage").verdict == "close", "typical figures make nothing fail"
    found = cures(inputs, "b")["own-rcds"]
    assert found.verdict in ("meets", "close")
    after = changed(inputs, found.changes)
    assert {c.device.kind for c in after.circuits} == {"rcbo"}
    assert after.boards[0].rcd_delayed


def test_an_island_is_parted_and_its_board_protected() -> None:
    far = {"id": "far", "earthing": "TT", "ra": 80, "metal": True, "class_ii": False, "bond": "armour", "extraneous": True, "switch_in": 63}
    inputs = job(submain(), circuit("f", board="far", device=RCBO), boards=["b", far])
    found = cures(inputs, "far")
    assert found["delayed"].changes[0].fields == {"device": {"kind": "rcbo", "idn": 0.1, "delayed": True}}
    assert found["class-ii"].verdict == "meets"
    island = found["island"]
    assert island.verdict == "meets"
    assert {c.kind for c in island.changes} == {"circuit", "board"}, "the armour, and the bond it was"


def test_armour_that_does_not_bond_gets_a_conductor_beside_it() -> None:
    far = {"id": "far", "extraneous": True, "bond": "armour", "switch_in": 63}
    inputs = job(submain(), circuit("f", board="far"), boards=["b", far], supply={"neutral_csa": 25})
    found = cures(inputs, "far")["bond"]
    assert found.changes[0].fields == {"bond": "conductor", "bond_csa": 10.0}
    assert found.verdict == "meets"


def test_nothing_is_offered_where_nothing_is_wrong_and_no_place_is_invented() -> None:
    fine = job(supply={"fuse_kind": "BS88-3", "fuse_in": 80, "tails_csa": 25, "tails_length": 2, "surge": "fitted", "extraneous": False, "earthing_csa": 16, "neutral_csa": 25},
               boards=[{"id": "b", "switch_in": 100}])  # fmt: skip
    assert place_options(fine, "intake") == ()
    assert place_options(fine, "b") == ()
    with pytest.raises(InputError):
        place_options(fine, "nowhere")
