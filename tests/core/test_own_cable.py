"""A run whose cable changes on the way: each stretch by its own cable, all of them together at the end; what a smaller cable is asked, and its joint."""

from __future__ import annotations

import random
from collections.abc import Callable
from contextlib import suppress
from math import sqrt
from typing import Any

import pytest

from mellow_span.core.design.check import check, lay_out, work_out
from mellow_span.core.design.options import options
from mellow_span.core.design.prices import circuit_cost, shipped
from mellow_span.core.drawing.profile import profile_of
from mellow_span.core.errors import CoreError
from mellow_span.core.findings.results import Check, CircuitResult, Outcome
from mellow_span.core.model.legs import cable_parts, cables, path_to, paths, stretches
from mellow_span.core.model.parts import Installation
from mellow_span.core.rules.capacity.overload import check_capacity, check_overload_current
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.stretches import by_stretch
from mellow_span.core.rules.thermal.adiabatic import earth_faults
from mellow_span.core.site.compare import verify
from mellow_span.core.site.ends import ends
from mellow_span.core.site.materials import materials
from mellow_span.core.site.pulls import by_cable, cut_lengths, pulls
from mellow_span.core.site.results import results_of
from mellow_span.core.working.recorders import Silent, Working
from tests import pinned
from tests.build import circuit, job, submain
from tests.core.test_legs import HOT, U0, ZE, random_tree
from tests.depth import many, seeded

# r1 and r2 at 20 C [mohm/m], volt drop [mV/A/m] of flat cables with their fixed cpc.
R1 = {1.5: 12.10, 2.5: 7.41, 4.0: 4.61, 6.0: 3.08}
R2 = {1.5: 18.10, 2.5: 12.10, 4.0: 12.10, 6.0: 7.41}
MV = {1.5: 29.0, 2.5: 18.0, 4.0: 11.0, 6.0: 7.3}
JOINT = {"joint": "terminals", "joint_reached": True}
FEED = [{"id": "hall", "length": 10, "box": "box A"}, {"id": "loft", "length": 5, "own_csa": 1.5, **JOINT}]


def house(spans: list[dict[str, Any]], loads: list[dict[str, Any]] | None = None, **more: Any) -> Installation:
    given: dict[str, Any] = {
        "device": {"kind": "rcbo", "rating": 10, "idn": 0.03, "rcd_type": "A", "icn": 6000}, "cable": {"csa": 2.5},
        "loads": loads or [{"kind": "lighting", "amount": 1380}],
    } | more  # fmt: skip
    return job(circuit("c", spans=spans, **given), supply={"ze": ZE, "ipf": 1500})


def found(of: Installation) -> CircuitResult:
    return check(of).circuits[0]


def by_id(of: Installation) -> dict[str, Check]:
    return {c.id: c for c in found(of).checks}


def test_two_sizes_in_one_run_by_hand() -> None:
    """10 m of 2.5 mm², then 5 m of 1.5 mm², 6 A at the end."""
    result = found(house(FEED))
    r12 = 10 * (R1[2.5] + R2[2.5]) / 1000 + 5 * (R1[1.5] + R2[1.5]) / 1000
    assert result.zs == pytest.approx(ZE + HOT * r12)
    assert result.r1r2 == pytest.approx(r12)
    assert result.drop == pytest.approx(100 * 6 * (10 * MV[2.5] + 5 * MV[1.5]) / 1000 / U0)
    assert result.length == 15
    ends = {e.span: e for e in result.ends}
    assert (ends["hall"].last, ends["loft"].last) == (False, True)
    assert ends["hall"].r1r2 == pytest.approx(10 * (R1[2.5] + R2[2.5]) / 1000)
    assert ends["loft"].zs == result.zs
    # Each span carries what its own cable carries.
    iz = {s.id: s.iz for s in result.spans}
    alone = {csa: found(house([{"length": 5}], cable={"csa": csa})).spans[0].iz for csa in (1.5, 2.5)}
    assert (iz["hall"], iz["loft"]) == (alone[2.5], alone[1.5])
    assert result.verdict == "meets"


@pytest.mark.parametrize("seed", range(many(40)))
def test_the_same_cable_begun_anew_changes_nothing(seed: int) -> None:
    """A joint between two pieces of one cable: every check that both runs are asked says the same. Where guidance stands in for a margin at the board,
    the fault at the joint has one all the same.
    """
    rng = seeded(seed)
    lengths = [rng.choice([2.0, 5.0, 9.5, 14.0]) for _ in range(rng.randint(2, 4))]
    csa, amount, rating = rng.choice([1.5, 2.5, 4.0]), rng.choice([500, 1400, 2300]), rng.choice([6, 10, 16])
    fuse = {"kind": "BS3036", "rating": 15} if rng.random() < 0.3 else {"kind": "rcbo", "rating": rating, "idn": 0.03, "icn": 6000}
    more = {"cable": {"csa": csa}, "device": fuse, "loads": [{"kind": "lighting", "amount": amount}]}
    one = [{"id": f"s{k}", "length": x} for k, x in enumerate(lengths)]
    cut = [x | ({"own_csa": csa, **JOINT} if k and rng.random() < 0.7 else {}) for k, x in enumerate(one)]
    plain, joined = found(house(one, **more)), found(house(cut, **more))
    for name in ("ib", "iz", "rating", "length"):
        assert getattr(plain, name) == getattr(joined, name), name
    for name in ("drop", "zs", "r1r2", "far_ln", "far_le", "fault_max", "fault_min"):
        assert getattr(joined, name) == pytest.approx(getattr(plain, name)), name
    before = {c.id: c for c in plain.checks}
    for c in joined.checks:
        guided = c.id == "cpc_thermal" and before[c.id].margin is None
        if c.id != "joint" and not guided:
            assert (c.id, c.verdict) == (c.id, before[c.id].verdict)
            assert c.value == pytest.approx(before[c.id].value), c.id
            assert c.margin == pytest.approx(before[c.id].margin), c.id


@pytest.mark.parametrize("seed", range(many(40)))
def test_every_end_of_any_tree_of_any_cables(seed: int) -> None:
    """Against a walk of its own over the tree: resistance and volts add up span by span, each with the cable that lies there."""
    rng = seeded(seed)
    spans, loads = random_tree(rng)
    for span in spans:
        if rng.random() < 0.4:
            span |= {"own_csa": rng.choice([1.5, 2.5, 4.0, 6.0]), **JOINT}
    of = house(spans, [{"kind": "lighting", **x} for x in loads], cable={"csa": 4.0})
    run = of.circuits[0].run
    ends = {e.span: e for e in found(of).ends}
    size = {name: cable.csa or 0.0 for name, (cable, _) in cables(run).items()}
    for path in paths(run):
        r12 = sum((s.length or 0) * (R1[size[s.id]] + R2[size[s.id]]) for s in path.spans) / 1000
        assert ends[path.end.id].r1r2 == pytest.approx(r12)
        assert ends[path.end.id].zs == pytest.approx(ZE + HOT * r12)
        volts = 0.0
        for k, span in enumerate(path.spans):
            behind = {s.id for s in path.spans[k:]}
            amps = sum(x["amount"] / U0 for x in loads if _flows(run, x["span"], behind, {s.id for s in path.spans}))
            volts += amps * (span.length or 0) * MV[size[span.id]] / 1000
        assert ends[path.end.id].drop == pytest.approx(100 * volts / U0)


def _flows(run: Any, at: str, behind: set[str], path: set[str]) -> bool:
    """Whether the current of a load that stands at a span flows in the first span of `behind`: it goes along the path as far as the two share it."""
    shared = [s.id for s in path_to(run, at).spans if s.id in path]
    return bool(shared) and shared[-1] in behind


def test_a_smaller_cable_is_protected_by_the_device_or_says_by_what() -> None:
    spur = [{"id": "a", "length": 10}, {"id": "b", "length": 2, "own_csa": 1.0, "name": "spur", **JOINT}]
    heater = [{"kind": "water_heater", "amount": 500, "rated_volts": 230, "local_fuse": 3, "name": "fan heater"}]
    more: dict[str, Any] = {"device": {"kind": "rcbo", "rating": 20, "idn": 0.03, "icn": 6000}, "loads": heater}
    bare = by_id(house(spur, **more))["capacity"]
    assert (bare.verdict, bare.span) == ("short", "b")
    fused = [spur[0], spur[1] | {"own_overload": "fuse"}]
    assert by_id(house(fused, **more))["capacity"].verdict == "meets"
    there = of_stretch(house(fused, **more), 1, check_capacity)
    assert (there.limit, there.clause) == (3, "overload_along")
    assert of_stretch(house(fused, **more), 1, check_overload_current).decides is False
    # Without the fuse it is asked for; an outlet before it is none of what 433.2.2 allows.
    assert by_id(house(fused, **(more | {"loads": [{**heater[0], "local_fuse": None}]})))["capacity"].field == "load.c-l0.local_fuse"
    early = [{**heater[0]}, {"kind": "lighting", "amount": 50, "at": 11, "local_fuse": 3}]
    assert by_id(house(fused, **(more | {"loads": early})))["capacity"].verdict == "not_known"
    cannot = [spur[0], spur[1] | {"own_overload": "cannot"}]
    assert by_id(house(cannot, **more))["capacity"].verdict == "meets"
    there = of_stretch(house(cannot, **more), 1, check_capacity)
    assert (there.limit, there.clause) == (pytest.approx(500 / U0), "overload_omitted")
    assert by_id(house(cannot, **(more | {"loads": [{"kind": "sockets", "amount": 500}]})))["capacity"].verdict == "short"


@pytest.mark.parametrize(("length", "verdict"), [(2.9, "meets"), (3.0, "meets"), (3.1, "short")])
def test_a_short_smaller_cable_may_have_its_fault_protection_at_its_end(length: float, verdict: str) -> None:
    spans = [{"id": "a", "length": 4}, {"id": "b", "length": length, "own_csa": 1.0, "own_overload": "fuse", "own_short": True, **JOINT}]
    loads = [{"kind": "other", "amount": 500, "local_fuse": 3}]
    fuse = {"kind": "BS88-2", "rating": 63, "icn": 80_000}
    of = house(spans, loads, device=fuse, cable={"csa": 16})
    line = by_id(of)["line_thermal"]
    assert (line.verdict, line.clause, line.limit) == (verdict, "434.2.1", 3)
    bare = by_id(house([spans[0], spans[1] | {"own_short": None}], loads, device=fuse, cable={"csa": 16}))["line_thermal"]
    assert (bare.verdict, bare.clause) == ("short", "434.5.2")


def test_what_lies_before_the_change_meets_the_least_fault_of_the_whole_run() -> None:
    """A fuse lets more through at a small current: a long thin end makes the fault in the thick start longer."""
    fuse = {"kind": "BS88-3", "rating": 32, "icn": 33_000}
    tail = [{"id": "a", "length": 5}, {"id": "b", "length": 60, "own_csa": 1.5, **JOINT}]
    case = {"device": fuse, "cable": {"csa": 6.0}, "loads": [{"kind": "other", "amount": 100}]}
    result = found(house(tail, **case))
    whole = ZE + HOT * (5 * (R1[6.0] + R2[6.0]) + 60 * (R1[1.5] + R2[1.5])) / 1000
    first = cases(house(tail, **case))[0]
    start = earth_faults(Silent(first.rules), first)[1]().current
    assert result.zs == pytest.approx(whole)
    assert start == pytest.approx(0.95 * U0 / whole, rel=1e-6)


def cases(of: Installation) -> list[Case]:
    done = work_out(of)
    return by_stretch(Case(done.plan.rules, of.supply, done.plan.job.circuits[0], done.feeds["b"]))


def of_stretch(of: Installation, k: int, ask: Callable[[Working, Case], Outcome]) -> Outcome:
    case = cases(of)[k]
    return ask(Silent(case.rules), case)


def test_a_feed_enlarged_for_a_part_hands_on_the_sum() -> None:
    feed = submain("f", cable={"family": "armoured_xlpe90", "csa": 10, "cores": 3}, spans=[
        {"length": 20}, {"length": 30, "own_csa": 16, "own_family": "armoured_xlpe90", "own_cores": 3, "joint": "resin"},
    ])  # fmt: skip
    of = job(feed, boards=["b", "far"], supply={"ze": ZE, "ipf": 1500})
    done = work_out(of)
    result, board = done.result.circuits[0], done.feeds["far"]
    assert board.ze_hot == pytest.approx(result.zs)
    assert board.drop == pytest.approx(result.drop)
    assert (board.length, board.run) == (50, None)
    # Between the feeds that are of one size throughout.
    low, high = (
        work_out(job(submain("f", cable={"csa": csa, "cores": 3}, spans=[{"length": 50}]),
                     boards=["b", "far"], supply={"ze": ZE, "ipf": 1500})).feeds["far"].ze_hot or 0
        for csa in (16.0, 10.0)
    )  # fmt: skip
    assert low < (board.ze_hot or 0) < high


@pytest.mark.parametrize(("first", "then"), [(16.0, 4.0), (4.0, 16.0)])
@pytest.mark.parametrize("bond", ["core", "armour"])
def test_a_bond_through_a_feed_is_that_of_its_weakest_cable(first: float, then: float, bond: str) -> None:
    def bonding(*sizes: float) -> Check:
        spans = [
            {"length": 10, **({"own_csa": s, "own_cores": 4, "own_family": "armoured_xlpe90", "joint": "resin"} if k else {})}
            for k, s in enumerate(sizes)
        ]
        board = {"id": "far", "outbuilding": True, "extraneous": True, "bond": bond}
        of = job(
            submain("f", cable={"csa": sizes[0], "cores": 4}, spans=spans),
            boards=["b", board],
            supply={"ze": ZE, "ipf": 1500, "neutral_csa": 25},
        )
        return next(c for c in check(of).boards[1].checks if c.id == "bonding")

    both, thin = bonding(first, then), bonding(4.0)
    assert (both.verdict, both.value) == (thin.verdict, thin.value)
    assert both.value != bonding(16.0).value


def test_an_island_is_asked_of_every_cable_of_its_feed() -> None:
    """A flat cable at the board and an armoured one in the garden: it is the armour that reaches the electrode."""
    spans = [
        {"length": 5},
        {"length": 20, "own_csa": 6.0, "own_family": "armoured_xlpe90", "own_cores": 2, "joint": "terminals", "joint_reached": True},
    ]
    feed = submain("f", cable={"family": "flat_twin_cpc_pvc70", "csa": 6}, spans=spans, core_ends="supply")
    far = {"id": "far", "earthing": "TT", "ra": 60.0, "rcd_idn": 0.1}
    island = next(c for c in check(job(feed, boards=["b", far], supply={"ze": ZE, "ipf": 1500})).boards[1].checks if c.id == "island")
    assert island.verdict == "short"
    assert "earthed at both ends" in island.text


@pytest.mark.parametrize(
    ("joint", "verdict"),
    [
        ({}, "not_known"),
        ({"joint": "terminals"}, "not_known"),
        ({"joint": "terminals", "joint_reached": False}, "short"),
        ({"joint": "terminals", "joint_reached": True}, "meets"),
        ({"joint": "maintenance_free"}, "meets"),
        ({"joint": "crimped", "joint_reached": False}, "meets"),
        ({"joint": "crimped", "place": "duct"}, "meets"),
        ({"joint": "crimped", "place": "duct", "from": "duct"}, "short"),
        ({"joint": "maintenance_free", "place": "buried", "from": "duct"}, "short"),
        ({"joint": "resin", "place": "duct", "from": "duct"}, "meets"),
    ],
)
def test_a_joint_is_reached_or_needs_no_access(joint: dict[str, Any], verdict: str) -> None:
    """In the ground where both cables are; where one leaves the ground it is at the wall."""
    before = {"place": joint["from"]} if "from" in joint else {}
    spans = [
        {"id": "a", "length": 5, **before},
        {"id": "b", "length": 5, "own_csa": 2.5, "own_family": "armoured_xlpe90", **{k: v for k, v in joint.items() if k != "from"}},
    ]
    assert by_id(house(spans))["joint"].verdict == verdict


def test_a_second_cable_on_the_device_has_no_joint_and_a_ring_no_second_cable() -> None:
    two = [{"id": "a", "length": 5}, {"id": "b", "length": 5, "after": "board", "own_csa": 1.5}]
    assert "joint" not in by_id(house(two))
    ring = house(FEED, shape="ring", device={"kind": "rcbo", "rating": 32, "idn": 0.03, "icn": 6000})
    assert [p.field for p in found(ring).problems] == ["span.loft.own_csa"]


def test_what_is_not_known_of_the_first_cable_is_not_known_behind_it() -> None:
    checks = by_id(house([{"id": "a", "length": None}, {"id": "b", "length": 5, "own_csa": 1.5, **JOINT}]))
    assert {checks[name].verdict for name in ("volt_drop", "loop", "cpc_thermal")} == {"not_known"}
    checks = by_id(house([{"id": "a", "length": 5}, {"id": "b", "length": 5, "own_family": "armoured_xlpe90", **JOINT}]))
    # What it lacks is asked where it is entered: on the span that it begins with.
    assert checks["capacity"].field == "span.b.own_csa"
    singles = [
        {"id": "a", "length": 5},
        {"id": "b", "length": 5, "place": "conduit", "own_family": "single_pvc70", "own_csa": 2.5, **JOINT},
    ]
    assert by_id(house(singles))["loop"].field == "span.b.own_cpc_csa"


def test_loads_draw_in_each_stretch_up_to_where_they_stand() -> None:
    loads = [{"id": "x", "kind": "lighting", "amount": 230, "at": 4}, {"id": "y", "kind": "lighting", "amount": 460}]
    plan = lay_out(house(FEED, loads))
    first, second = stretches(plan.job.circuits[0])
    assert [(x.id, x.at) for x in first.circuit.loads] == [("x", 4), ("y", None)]
    assert [(x.id, x.at) for x in second.circuit.loads] == [("y", None)]
    result = found(house(FEED, loads))
    volts = (4 * 3 + 6 * 2) * MV[2.5] / 1000 + 5 * 2 * MV[1.5] / 1000
    assert result.drop == pytest.approx(100 * volts / U0)
    assert result.ib == pytest.approx(3)
    assert sqrt(result.r1r2 or 0) > 0


def test_a_larger_cable_where_it_is_too_small_is_a_way_out() -> None:
    """The smallest one: the next smaller still fails; the first cable stays as it is."""
    spans = [{"id": "a", "length": 10}, {"id": "b", "name": "yard", "length": 30, "own_csa": 1.5, **JOINT}]
    more: dict[str, Any] = {"device": {"kind": "rcbo", "rating": 20, "idn": 0.03, "icn": 6000}, "cable": {"csa": 6.0},
                            "loads": [{"kind": "other", "amount": 4000}]}  # fmt: skip
    of = house(spans, **more)
    assert found(of).verdict == "short"
    ways = {o.id: o for o in options(of, "c")}
    way = ways["own-b"]
    csa = way.changes[0].fields["own_csa"]
    assert way.title == f"{csa:g} mm² from “yard” on"
    for size, verdict in ((csa, {"meets", "close"}), (max(s for s in (1.5, 2.5, 4.0, 6.0, 10.0) if s < csa), {"short"})):
        tried = [spans[0], spans[1] | {"own_csa": size}]
        assert found(house(tried, **more)).verdict in verdict
    hidden = [spans[0], spans[1] | {"own_csa": 4.0, "joint_reached": False}]
    assert "joint" in {o.id for o in options(house(hidden, **more), "c")}


# What is bought, pulled, made off and read of it -------------------------------------------------------------------------------------------

GARDEN = [
    {"id": "hall", "name": "hall", "length": 10, "box": "box A"},
    {"id": "garden", "name": "garden", "length": 20, "place": "duct", "own_family": "armoured_xlpe90", "own_csa": 4.0, "own_cores": 3, "joint": "resin"},
]  # fmt: skip


def test_each_cable_is_pulled_bought_and_cut_by_itself() -> None:
    (one,) = pulls(house(GARDEN))
    assert [(p.start, p.end, p.run, p.own) for p in one.pieces] == [("b", "box A", 10, ""), ("box A", "garden", 20, "garden")]
    assert [p.cable for p in one.pieces] == one.cable.split(", then ")
    assert [(d.cable, one.cuts_of(d)) for d in one.stock] == [(p.cable, (p.cut,)) for p in one.pieces]
    assert {s.cable: s.metres for s in by_cable((one,))} == {p.cable: p.cut for p in one.pieces}
    cuts = cut_lengths([one])
    assert sum(cuts.values()) == pytest.approx(one.cut)
    needs = {n.key: n for n in materials(house(GARDEN), cuts)}
    assert needs["cable/flat_twin_cpc_pvc70/2.5"].count == one.pieces[0].cut
    assert needs["cable/armoured_xlpe90/3/4"].count == one.pieces[1].cut
    assert needs["joint/resin"].count == 1
    # Two ends of the armoured one have glands, the flat one has none.
    assert sum(n.count for k, n in needs.items() if k.startswith("armour_gland/")) == 2
    cost = circuit_cost(shipped(), lay_out(house(GARDEN)).rules, house(GARDEN).circuits[0])
    alone = [circuit_cost(shipped(), lay_out(house(GARDEN)).rules, x) for x in cable_parts(house(GARDEN).circuits[0])]
    assert cost.cable == pytest.approx(sum(x.cable for x in alone))
    assert cost.device == alone[0].device


def test_each_cable_is_made_off_by_itself_with_the_joint_between() -> None:
    flat, armoured = ends(house(GARDEN))
    assert [e.where for e in flat.ends] == ["b", "joint at box A"]
    assert [e.where for e in armoured.ends] == ["joint at box A", "garden"]
    assert "cpc goes on through the joint" in armoured.ends[0].armour
    assert (flat.gland, armoured.gland != "") == ("", True)


def test_an_instrument_is_told_what_all_cables_up_to_a_point_come_to() -> None:
    of = house(GARDEN)
    tests = {(t.quantity, t.point): t for t in results_of(of, "c", ()).tests}
    arrived = {e.name: e for e in found(of).ends}
    assert tests["r1r2", "box A"].predicted == pytest.approx(arrived["box A"].r1r2)
    assert tests["r1r2", "garden"].predicted == pytest.approx(arrived["garden"].r1r2)
    assert tests["zs", "garden"].predicted == pytest.approx(ZE + (arrived["garden"].r1r2 or 0), rel=1e-3)
    compared = {c.id: c.predicted for c in verify(of, "c")}
    assert compared["r1r2"] == pytest.approx(found(of).r1r2)


def test_the_drawing_goes_on_over_the_joint() -> None:
    done = work_out(house(GARDEN))
    drawn = profile_of(done, "c")
    assert [s.span for s in drawn.stretches] == ["hall", "garden"]
    zs = [p.zs for p in drawn.points if p.zs is not None]
    assert zs == sorted(zs)
    assert zs[-1] == pytest.approx(done.result.circuits[0].zs)
    assert drawn.points[-1].at == 30


@pytest.mark.parametrize("spans", [FEED, GARDEN], ids=["two sizes", "two types"])
def test_every_view_and_question_has_an_answer(spans: list[dict[str, Any]]) -> None:
    """None of them takes the first cable for all: what works on one alone refuses by the field of the other."""
    of = house(spans)
    for name, ask in [*pinned.beyond(of), *pinned.searched(of), *pinned.drawn(of)]:
        answer = ask()
        assert not (isinstance(answer, list) and answer[:1] == ["refused"]), name


def strange(rng: random.Random) -> Installation:
    """A run of anything: branches, cables that are none, routes, loads at places that are none, a ring, a feed."""
    spans = []
    for k in range(rng.randint(1, 5)):
        spans.append({
            "id": f"s{k}", "length": rng.choice([None, 1, 5, 20]), "after": rng.choice([None, None, "board", f"s{max(0, k - 1)}"]) if k else None,
            "own_csa": rng.choice([None, None, 1.5, 7, 400, 2.5]),
            "own_family": rng.choice([None, None, "nonsense", "armoured_xlpe90", "single_pvc70", "flat_twin_cpc_pvc70"]),
            "own_cpc": rng.choice(["usual", "core", "armour", "separate", "armour_and_core"]), "own_cores": rng.choice([None, 2, 3, 4]),
            "own_overload": rng.choice(["device", "fuse", "cannot"]), "own_short": rng.choice([None, True]),
            "joint": rng.choice(["", "resin", "terminals"]), "joint_reached": rng.choice([None, True, False]),
            "place": rng.choice([None, "masonry", "duct", "buried", "conduit"]), "route": rng.choice([None, None, "k"]),
        })  # fmt: skip
    loads: list[dict[str, Any]] = rng.choice([
        [], [{"kind": "lighting", "amount": 100, "at": rng.choice([None, 0, 3, 50])}],
        [{"kind": "sockets", "basis": "In", "amount": None}, {"kind": "other", "amount": 500, "local_fuse": 3, "span": "s0"}],
    ])  # fmt: skip
    feed = {"feeds": "far", "loads": []} if rng.random() < 0.2 else {"loads": loads}
    given = {
        "shape": rng.choice(["radial", "radial", "ring"]), "phases": rng.choice([1, 3]),
        "cable": {"csa": rng.choice([None, 2.5, 10]), "family": rng.choice(["flat_twin_cpc_pvc70", "armoured_xlpe90", "single_pvc70"])},
        "device": {"kind": rng.choice(["mcb", "BS88-3", "BS3036"]), "rating": rng.choice([None, 6, 15, 30])},
    }  # fmt: skip
    return job(
        circuit("c", spans=spans, **given, **feed), boards=["b", "far"], routes=[{"id": "k"}], supply={"ze": ZE, "ipf": 1500, "phases": 3}
    )


@pytest.mark.parametrize("seed", range(many(400, 60)))
def test_whatever_a_run_is_made_of_it_has_an_answer_or_a_refusal_by_name(seed: int) -> None:
    of = strange(seeded(seed))
    try:
        asks = [*pinned.beyond(of), *pinned.drawn(of)]
    except CoreError:
        return
    for _, ask in [*asks, ("read", lambda: results_of(of, "c", ())), ("compared", lambda: verify(of, "c"))]:
        with suppress(CoreError):
            ask()


def test_a_short_branch_alone_may_lie_in_a_route() -> None:
    spans = [{"id": "a", "length": 5}, {"id": "long", "length": 20}, {"id": "short", "length": 2, "after": "a", "route": "k"}]
    of = job(
        circuit("c", spans=spans, loads=[{"kind": "lighting", "amount": 100, "span": "short"}], cable={"csa": 1.5}, device={"rating": 6}),
        routes=[{"id": "k", "place": "masonry"}], supply={"ze": ZE, "ipf": 1500},
    )  # fmt: skip
    assert next(s.iz for s in found(of).spans if s.id == "short") is not None
