"""What must hold for whole houses: unbalanced three-phase trees, 90 °C cables, routes, islands on electrodes, spare cables."""

from __future__ import annotations

import dataclasses
import random
from typing import Any

import pytest

from mellow_span.core.design.check import check, lay_out, work_out
from mellow_span.core.design.options import options
from mellow_span.core.design.place_options import place_options
from mellow_span.core.design.size import size
from mellow_span.core.findings.results import WORSE, CircuitResult
from mellow_span.core.model.changes import Change, restore
from mellow_span.core.model.parts import Circuit, Installation
from mellow_span.core.rulesets import rule_set
from tests.build import circuit, job
from tests.depth import many

R = rule_set("bs7671")
PHASES = ("L1", "L2", "L3")
NINETY = {"multicore_xlpe90": "multicore_pvc70", "armoured_xlpe90": "armoured_pvc70"}
SEEDS = range(many(25, 6))


def house(seed: int) -> Installation:
    """A sensible three-phase house: a board in it, one in the yard, an island on an electrode; singles phases apart, some not entered."""
    rnd = random.Random(seed)
    boards: list[Any] = [
        {"id": "b"}, {"id": "yard"},
        {"id": "island", "earthing": "TT", "ra": 60.0, "ra_source": "measured", "metal": False, "electrode_distance": 20.0},
    ]  # fmt: skip
    routes = [
        {"id": "riser", "place": rnd.choice(["masonry", "timber", "floor_void"]), "ambient": rnd.choice([30.0, 35.0]), "length": 9.0},
        {"id": "loft", "place": rnd.choice(["ceiling_thin", "ceiling_thick"]), "wrapped": 0.0},
    ]

    def final(name: str, board: str) -> dict[str, Any]:
        kind = rnd.choice(["lighting", "sockets", "heating", "other", "shower", "cooking"])
        watts = {"lighting": 400, "sockets": 2000, "heating": 2500, "other": 1500, "shower": 8500, "cooking": 6000}[kind]
        rating, csa = next((r, c) for r, c in ((6, 1.5), (10, 1.5), (16, 2.5), (20, 4.0), (32, 6.0), (40, 10.0)) if r * 230 >= watts)
        rcd = {"kind": "rcbo", "idn": 0.03, "rcd_type": "A"} if rnd.random() < 0.8 or board == "island" else {}
        where: dict[str, Any] = {"route": rnd.choice(["riser", "loft"]), "length": rnd.choice([None, 6.0, 14.0])}
        if where["route"] == "loft" and where["length"] is None:
            where["length"] = 8.0
        spans = [where, {"place": "masonry", "length": rnd.uniform(2, 20)}]
        phase = rnd.choice([*PHASES, None]) if board != "island" else None
        load = {
            "kind": kind,
            "amount": watts,
            "quantity": rnd.choice([1, 1, 2]) if watts < 900 else 1,
            "interlock": rnd.choice(["", "", "hot"]),
        }
        more = {"spare": True} if rnd.random() < 0.1 else {}
        return circuit(
            name, board=board, phase=phase, loads=[load], device={"rating": rating, **rcd}, cable={"csa": csa}, spans=spans, **more
        )

    feed = circuit(
        "feed", feeds="yard", phases=3, loads=[], terminals=rnd.choice([70, 90]), terminals_by="sheet", device={"rating": 50, "curve": "C"},
        cable={"family": "armoured_xlpe90", "csa": rnd.choice([6, 10, 16]), "cores": 4}, spans=[{"place": "duct", "length": rnd.uniform(10, 60)}],
    )  # fmt: skip
    out = circuit(
        "out", board="yard", feeds="island", phase=rnd.choice([*PHASES, None]), loads=[], terminals=90, terminals_by="sheet", armour_ends="supply",
        device={"kind": "rcbo", "rating": 32, "idn": 0.1, "delayed": True}, cable={"family": "armoured_xlpe90", "csa": 10, "cores": 2},
        spans=[{"place": "duct", "length": rnd.uniform(10, 40)}],
    )  # fmt: skip
    motor = circuit(
        "motor", board="yard", phases=3, loads=[{"kind": "motor", "amount": 4000, "pf": 0.8}], device={"rating": 16, "curve": "C"},
        cable={"family": "multicore_xlpe90", "csa": 2.5}, terminals=rnd.choice([70, 90]), terminals_by="sheet", spans=[{"place": "masonry", "length": 12}],
    )  # fmt: skip
    finals = (
        [final(f"h{i}", "b") for i in range(5)] + [final(f"y{i}", "yard") for i in range(5)] + [final(f"i{i}", "island") for i in range(2)]
    )
    supply = {
        "phases": 3, "earthing": "TN-S", "ze": 0.25, "ipf": 1500, "fuse_kind": "BS88-3", "fuse_in": 80, "tails_csa": 25, "tails_length": 2,
        "surge": "fitted", "extraneous": False, "earthing_csa": 16,
    }  # fmt: skip
    return job(feed, out, motor, *finals, supply=supply, boards=boards, routes=routes)


def results(inputs: Installation) -> dict[str, CircuitResult]:
    return {c.id: c for c in check(inputs, keep=False).circuits}


def of(inputs: Installation, name: str) -> Circuit:
    return next(c for c in inputs.circuits if c.id == name)


def changed(inputs: Installation, *changes: Change) -> Installation:
    return restore(inputs, changes)[0]


@pytest.mark.parametrize("seed", SEEDS)
def test_the_drop_on_each_phase_is_that_of_the_wires(seed: int) -> None:
    """Wire by wire, without the core: each line drops r I, and the neutral r times the sum of the phasors; unity power factor, 120 degrees apart.

    The rule 2 I1 - (I2 + I3) / 2 is the part of that along the phase's own voltage, so the two agree exactly.
    """
    inputs = house(seed)
    plan = lay_out(inputs)
    feed = of(plan.job, "feed")
    amps = [p.demand for p in plan.demand["yard"].phases]
    ohm = R.table("4E4B").cell(feed.run.cable.csa, "ph1_z").value / 2 * (feed.run.spans[0].length or 0) / 1000
    unit = [complex(1, 0), complex(-0.5, -(3**0.5) / 2), complex(-0.5, 3**0.5 / 2)]
    neutral = sum((a * u for a, u in zip(amps, unit, strict=True)), 0j)
    for i, drop in enumerate(work_out(inputs, keep=False).feeds["yard"].drops):
        along = ((amps[i] * unit[i] + neutral) * unit[i].conjugate()).real * ohm
        assert drop == pytest.approx(max(0.0, along) / 230 * 100, abs=1e-9)


@pytest.mark.parametrize("seed", SEEDS)
def test_a_final_starts_from_its_own_phase_and_one_of_unknown_phase_from_the_worst(seed: int) -> None:
    inputs = house(seed)
    done = work_out(inputs, keep=False)
    before = done.feeds["yard"]
    for one in done.plan.job.circuits:
        if one.board != "yard" or one.feeds or one.phases == 3 or one.spare:
            continue
        found = next(c for c in done.result.circuits if c.id == one.id)
        alone = results(changed(inputs, Change("set", "circuit", one.id, {"phase": one.phase})))[one.id]
        start = max(before.drops) if one.phase is None else before.drops[PHASES.index(one.phase)]
        assert found.drop is not None
        assert found.drop > start
        assert alone == found


@pytest.mark.parametrize("seed", SEEDS)
def test_a_balanced_board_agrees_with_the_three_phase_column(seed: int) -> None:
    inputs = house(seed)
    alike = [
        circuit(f"a{i}", board="yard", phase=p, loads=[{"amount": 2300 + 100 * (seed % 7)}], device={"rating": 16})
        for i, p in enumerate(PHASES)
    ]
    feed = of(inputs, "feed")
    even = dataclasses.replace(job(*alike, boards=["b", "yard"]), supply=inputs.supply)
    even = dataclasses.replace(even, circuits=(feed, *even.circuits))
    amps = (2300 + 100 * (seed % 7)) / 230
    column = R.table("4E4B").cell(feed.run.cable.csa, "ph3_z").value
    drop = results(even)["feed"].drop
    assert drop == pytest.approx(column * amps * (feed.run.spans[0].length or 0) / 1000 / 400 * 100, rel=0.03)


@pytest.mark.parametrize("seed", SEEDS)
def test_demand_is_never_below_the_largest_load_and_an_unknown_phase_counts_on_every_one(seed: int) -> None:
    inputs = house(seed)
    plan = lay_out(inputs)
    for board, demand in plan.demand.items():
        for part in demand.phases:
            own = [c for c in inputs.circuits if c.board == board and not c.feeds and not c.spare and part.phase in (c.phase or part.phase)]
            largest = max(
                (x.amount or 0) / (230 if c.phases == 1 else 3**0.5 * 400 * x.pf) for c in own for x in c.loads
            ) if any(c.loads for c in own) else 0.0  # fmt: skip
            assert part.demand >= largest - 1e-9
    open_one = next((c for c in inputs.circuits if c.phase is None and c.phases == 1 and c.board == "b" and not c.spare), None)
    if open_one is not None:
        for phase in PHASES:
            settled = lay_out(changed(inputs, Change("set", "circuit", open_one.id, {"phase": phase}))).demand["b"]
            assert all(a.demand <= b.demand + 1e-9 for a, b in zip(settled.phases, plan.demand["b"].phases, strict=True))


@pytest.mark.parametrize("seed", SEEDS)
def test_holding_loads_back_never_raises_a_demand(seed: int) -> None:
    inputs = house(seed)
    before = lay_out(inputs).demand
    for one in inputs.circuits:
        for load in one.loads:
            for fields in ({"managed": 5.0}, {"interlock": "hot"}):
                if load.interlock and "interlock" in fields:
                    continue
                after = lay_out(changed(inputs, Change("set", "load", load.id, fields))).demand
                for name, demand in after.items():
                    # An interlocked load leaves the rule of its kind and counts in full: that alone may raise it.
                    slack = 0.0 if "managed" in fields else (load.amount or 0) * load.quantity / 230
                    assert (demand.highest or 0) <= (before[name].highest or 0) + slack + 1e-9


@pytest.mark.parametrize("seed", SEEDS)
def test_a_90_degree_cable_on_70_degree_terminals_is_a_70_degree_cable(seed: int) -> None:
    inputs = house(seed)
    for name in ("feed", "out", "motor"):
        cool = changed(inputs, Change("set", "circuit", name, {"terminals": 70}))
        warm = changed(inputs, Change("set", "circuit", name, {"terminals": 90, "terminals_by": "sheet"}))
        other = changed(cool, Change("set", "circuit", name, {"cable": {"family": NINETY[of(inputs, name).run.cable.family or ""]}}))
        a, b, c = (results(x)[name] for x in (cool, warm, other))
        assert a.iz == c.iz
        assert (a.iz or 0) < (b.iz or 0)
        assert a.drop == b.drop, "volt drop keeps the cable's own tables"


@pytest.mark.parametrize("seed", SEEDS)
def test_a_spare_cable_is_as_if_it_were_not_there(seed: int) -> None:
    inputs = house(seed)
    more = circuit(
        "spare", spare=True, loads=[{"amount": 9000}], device={"rating": 40}, spans=[{"route": "riser", "length": None}, {"route": "loft"}]
    )
    with_it = dataclasses.replace(inputs, circuits=(*inputs.circuits, *job(more).circuits))
    before, after = results(inputs), results(with_it)
    assert {name: after[name] for name in before} == before
    assert after["spare"].headline == "Not connected"


@pytest.mark.parametrize("seed", SEEDS)
def test_an_edit_of_a_route_is_the_edit_of_every_span_in_it(seed: int) -> None:
    inputs = house(seed)
    by_route = results(changed(inputs, Change("set", "route", "riser", {"place": "masonry", "ambient": 40.0, "wrapped": 0.1})))
    spans = [s for c in inputs.circuits for s in c.run.spans if s.route == "riser"]
    empty = Change("set", "route", "riser", {"place": None, "ambient": None, "wrapped": None})
    each = [Change("set", "span", s.id, {"place": "masonry", "ambient": 40.0, "wrapped": 0.1}) for s in spans]
    assert results(changed(inputs, empty, *each)) == by_route


@pytest.mark.parametrize("seed", SEEDS)
def test_on_an_island_nothing_meets_without_an_rcd(seed: int) -> None:
    """With an RCD it is close at best and says so; without one it is short; no 80 % line is spoken of."""
    inputs = house(seed)
    for one in inputs.circuits:
        if one.board != "island" or one.spare:
            continue
        found = next(c for c in results(inputs)[one.id].checks if c.id == "disconnection")
        assert found.verdict in ("close", "short")
        assert "a reading may show" not in next(c for c in results(inputs)[one.id].checks if c.id == "loop").text
        bare = changed(
            inputs, Change("set", "circuit", one.id, {"device": {"kind": "mcb", "idn": None}}), Change("set", "circuit", "out", {"device": {"kind": "mcb", "idn": None}})
        )  # fmt: skip
        assert next(c for c in results(bare)[one.id].checks if c.id == "disconnection").verdict == "short"


@pytest.mark.parametrize("seed", SEEDS)
def test_what_is_taken_away_never_makes_a_circuit_pass(seed: int) -> None:
    """Any one input that nobody entered: what did not pass does not pass for it, and what is short for certain may stay so."""
    inputs, rnd = house(seed), random.Random(seed)
    before = results(inputs)
    for name, fields in (("ze", {"ze": None}), ("ipf", {"ipf": None}), ("earthing", {"earthing": None}), ("fuse_in", {"fuse_in": None})):
        after = results(changed(inputs, Change("set", "supply", "", fields)))
        assert all(not (WORSE[before[c].verdict] and not WORSE[r.verdict]) for c, r in after.items()), name
    one = rnd.choice([c for c in inputs.circuits if not c.spare])
    for fields in ({"device": {"rating": None}}, {"device": {"icn": None}}, {"cable": {"csa": None}}, {"cable": {"family": None}}):
        after = results(changed(inputs, Change("set", "circuit", one.id, fields)))[one.id]
        assert not (WORSE[before[one.id].verdict] and not WORSE[after.verdict]), fields


@pytest.mark.parametrize("seed", SEEDS)
def test_a_three_phase_line_meets_no_less_than_its_single_phase_fault(seed: int) -> None:
    inputs = house(seed)
    for name in ("feed", "motor"):
        three = next(c for c in results(inputs)[name].checks if c.id == "line_thermal")
        single = changed(inputs, Change("set", "circuit", name, {"phases": 1, "phase": "L1"}))
        one = next(c for c in results(single)[name].checks if c.id == "line_thermal")
        assert (three.limit or 0) >= (one.limit or 0) * (1 - 1e-9)


@pytest.mark.parametrize("seed", SEEDS[:10])
def test_ways_out_hold_when_they_are_taken_and_a_sub_main_is_sized_for_those_behind_it(seed: int) -> None:
    inputs = house(seed)
    for one in [c for c in inputs.circuits if results(inputs)[c.id].verdict == "short"][:3]:
        found = options(inputs, one.id)
        assert len(found) <= 8
        for option in found:
            after = results(changed(inputs, *option.changes))[one.id]
            assert after.verdict == option.verdict
            assert option.passes == all(not WORSE[c.verdict] for c in after.checks if c.decides)
    for place in ("intake", "b", "yard", "island"):
        for cure in place_options(inputs, place):
            after_all = check(changed(inputs, *cure.changes), keep=False)
            checks = after_all.intake if place == "intake" else next(b.checks for b in after_all.boards if b.id == place)
            assert next(c.verdict for c in checks if c.id == cure.check) == cure.verdict
    sizing = size(inputs, "feed")
    if sizing.csa is not None:
        smaller = [t for t in sizing.tried if t.csa < sizing.csa]
        assert not any(t.passes for t in smaller)
        best = results(changed(inputs, Change("set", "circuit", "feed", {"cable": {"csa": R.families["armoured_xlpe90"].sizes[-1]}})))
        now = results(changed(inputs, Change("set", "circuit", "feed", {"cable": {"csa": sizing.csa}})))
        for name in now:
            short = {c.id for c in now[name].checks if c.decides and c.verdict == "short"}
            anyway = {c.id for c in best[name].checks if c.decides and c.verdict == "short"}
            assert name == "feed" or of(inputs, name).board == "b" or short <= anyway
