"""More than one source: what inverters and generators add to a fault, how they are joined to the network, and what clears a fault without it."""

from __future__ import annotations

import random
from dataclasses import replace
from typing import Any

import pytest

from mellow_span.core.design.check import check
from mellow_span.core.design.options import options
from mellow_span.core.errors import InputError
from mellow_span.core.findings.advice import advise
from mellow_span.core.findings.results import BoardResult, Check, CircuitResult
from mellow_span.core.model.changes import Change, apply, invert, replay
from mellow_span.core.model.parse import parse
from mellow_span.core.model.parts import Circuit, Installation
from mellow_span.core.rulesets import rule_set
from mellow_span.core.said.line import read_line
from mellow_span.core.site.isolation import isolation
from mellow_span.papers.chart import notices
from mellow_span.papers.subject import Subject
from tests.build import circuit, job
from tests.core.random_jobs import random_job
from tests.pinned import demo_job

# An inverter of 16 A gives at most 24 A into a fault (1.5 times); all that is asked of it is answered.
SOLAR = {
    "id": "pv", "name": "solar", "kind": "inverter", "basis": "A", "amount": 16, "battery": False, "joins": "way", "loss_of_mains": True,
    "maker_rcd": "A",
}  # fmt: skip
RCBO = {"kind": "rcbo", "rating": 20, "idn": 0.03, "rcd_type": "A", "both_ways": True}
# A battery that keeps a board alive, its neutral joined to an electrode.
KEEPS = {
    **SOLAR, "id": "bat", "name": "battery", "battery": True, "parted": True, "alone": "b", "alone_earth": "electrode", "alone_ra": 40,
    "alone_off": 0.2,
}  # fmt: skip


def solar(device: dict[str, Any] | None = None, others: tuple[dict[str, Any], ...] = (), load: Any = None, **more: Any) -> dict[str, Any]:
    """A circuit with a source alone on it, unless others are given."""
    return circuit("s", device={**RCBO, **(device or {})}, loads=[load or SOLAR, *others], **more)


def found(inputs: Installation, which: str = "s") -> CircuitResult:
    return next(c for c in check(inputs).circuits if c.id == which)


def one(result: CircuitResult | BoardResult, id: str) -> Check:
    return next(c for c in result.checks if c.id == id)


def names(result: CircuitResult) -> set[str]:
    return {c.id for c in result.checks}


def test_a_job_with_the_network_alone_is_asked_nothing_of_it() -> None:
    result = check(job(circuit("c")))
    assert not {"source", "source_cable", "alone", "alone_line"} & names(result.circuits[0])
    assert "two_sources" not in {c.id for c in result.boards[0].checks}


def test_a_source_adds_to_every_largest_fault_and_to_no_least_one() -> None:
    plain, with_it = found(job(circuit("c")), "c"), found(job(circuit("c"), solar()), "c")
    assert with_it.fault_max == pytest.approx((plain.fault_max or 0) + 24)
    assert with_it.far_ln == pytest.approx((plain.far_ln or 0) + 24)
    assert with_it.far_le == pytest.approx((plain.far_le or 0) + 24)
    assert one(with_it, "breaking").limit == pytest.approx((one(plain, "breaking").limit or 0) + 24)
    # Shock is judged by the weakest that feeds: the network alone.
    assert (with_it.zs, with_it.fault_min, one(with_it, "disconnection").value) == (
        plain.zs, plain.fault_min, one(plain, "disconnection").value,
    )  # fmt: skip


def test_what_it_adds_can_be_what_a_device_does_not_break() -> None:
    near = {"ipf": 5990, "ze": 0.05}
    assert one(found(job(circuit("c"), supply=near), "c"), "breaking").verdict != "short"
    assert one(found(job(circuit("c"), solar(), supply=near), "c"), "breaking").verdict == "short"


@pytest.mark.parametrize(("fields", "adds"), [({"fault_amps": 30}, 30), ({"quantity": 2}, 48), ({"fault_amps": 30, "quantity": 2}, 60)])
def test_a_makers_figure_and_the_number_of_inverters_count(fields: dict[str, Any], adds: float) -> None:
    there = check(job(circuit("c"), solar(load={**SOLAR, **fields}, device={"rating": 40})))
    assert there.boards[0].ipf_ln == pytest.approx(920 + adds)


def test_a_generator_beside_the_network_whose_fault_current_nobody_knows_leaves_every_circuit_open() -> None:
    beside = {**SOLAR, "kind": "generator", "battery": None}
    refused = one(found(job(circuit("c"), solar(load=beside)), "c"), "breaking")
    assert (refused.verdict, refused.field) == ("not_known", "load.pv.fault_amps")
    known = one(found(job(circuit("c"), solar(load={**beside, "fault_amps": 120})), "c"), "breaking")
    assert known.limit == pytest.approx(1040)
    # One that takes the place of the network never feeds a fault together with it.
    instead = {**beside, "joins": "changeover", "parted": True}
    assert one(found(job(circuit("c"), solar(load=instead)), "c"), "breaking").limit == pytest.approx(920)


@pytest.mark.parametrize(
    ("load", "device", "field", "clause"),
    [
        ({"joins": None}, {}, "load.pv.joins", "551"),
        ({"battery": None}, {}, "load.pv.battery", "551"),
        ({"loss_of_mains": None}, {}, "load.pv.loss_of_mains", "551.7.4"),
        ({"joins": "changeover", "parted": None}, {}, "load.pv.parted", "551.6.1"),
        ({"maker_rcd": None}, {}, "load.pv.maker_rcd", "712.531.3.5"),
        ({}, {"both_ways": None}, "device.both_ways", "530.3.201"),
        ({}, {"rcd_type": None}, "device.rcd_type", "712.531.3.5"),
    ],
)
def test_what_nobody_answered_is_not_known_and_names_its_field(load: Any, device: Any, field: str, clause: str) -> None:
    asked = one(found(job(solar(device, load={**SOLAR, **load}))), "source")
    assert (asked.verdict, asked.field, asked.clause) == ("not_known", field, clause)


@pytest.mark.parametrize(
    ("load", "device", "clause", "said"),
    [
        ({"loss_of_mains": False}, {}, "551.7.4", "does not disconnect itself"),
        ({"joins": "changeover", "parted": False}, {}, "551.6.1", "connected to the mains"),
        ({"maker_rcd": "B"}, {}, "712.531.3.5", "needs type B"),
        ({"maker_rcd": "F"}, {}, "712.531.3.5", "needs type F"),
        ({}, {"both_ways": False}, "530.3.201", "one direction"),
        ({}, {"rating": 10}, "551.7.1", "is under the 16 A"),
    ],
)
def test_what_is_wrong_fails_by_its_clause(load: Any, device: Any, clause: str, said: str) -> None:
    wrong = one(found(job(solar(device, load={**SOLAR, **load}))), "source")
    assert (wrong.verdict, wrong.clause) == ("short", clause)
    assert said in wrong.text


def test_all_answered_meets_and_without_an_rcd_no_type_of_one_is_asked() -> None:
    assert one(found(job(solar())), "source").verdict == "meets"
    assert one(found(job(solar(load={**SOLAR, "maker_rcd": None}, device={"rcd_type": "B"}))), "source").verdict == "meets"
    bare = solar({"kind": "mcb", "idn": None, "both_ways": None}, load={**SOLAR, "maker_rcd": None})
    assert one(found(job(bare)), "source").verdict == "meets"
    # Arc fault detection works by electronics as well.
    asked = one(found(job(solar({"kind": "mcb", "idn": None, "afdd": True, "both_ways": None}))), "source")
    assert (asked.verdict, asked.field) == ("not_known", "device.both_ways")


def test_every_rcd_up_to_the_origin_is_asked_for_both_ways_and_its_type() -> None:
    board = {"id": "b", "rcd_idn": 0.1, "rcd_type": "A", "rcd_in": 63}
    asked = one(found(job(solar(), boards=[board])), "source")
    assert (asked.verdict, asked.field) == ("not_known", "board.rcd_both_ways")
    assert one(found(job(solar(), boards=[{**board, "rcd_both_ways": True}])), "source").verdict == "meets"
    lesser = one(found(job(solar(), boards=[{**board, "rcd_both_ways": True, "rcd_type": "AC"}])), "source")
    assert (lesser.verdict, lesser.field) == ("short", "board.rcd_type")


def test_a_cable_shared_with_loads_carries_the_device_and_the_source_together() -> None:
    alone = one(found(job(solar())), "source_cable")
    assert alone.limit == pytest.approx(16)
    shared = one(found(job(solar(others=({"amount": 2, "basis": "A"},)))), "source_cable")
    assert shared.limit == pytest.approx(36)
    assert one(found(job(solar({"rating": 40}, others=({"amount": 2, "basis": "A"},)))), "source_cable").verdict == "short"


def test_a_feed_lets_back_what_the_sources_behind_it_give() -> None:
    feed = circuit("m", feeds="far", loads=[], device={"rating": 20})
    behind = {**solar(), "board": "far"}
    inputs = job(feed, behind, boards=["b", "far"])
    assert one(found(inputs, "m"), "source").verdict == "meets"
    assert one(found(inputs, "m"), "source_cable").limit == pytest.approx(16)
    small = job({**feed, "device": {**feed["device"], "rating": 10}}, behind, boards=["b", "far"])
    assert one(found(small, "m"), "source").verdict == "short"


def test_a_busbar_between_two_sources_carries_both() -> None:
    supply = {"fuse_kind": "BS1361", "fuse_in": 80, "fuse_source": "declared"}
    many = [circuit(f"c{i}") for i in range(4)]
    busbar = one(check(job(*many, solar(), supply=supply, boards=[{"id": "b", "busbar_in": 100}])).boards[0], "two_sources")
    assert (busbar.verdict, busbar.limit) == ("meets", pytest.approx(96))
    small = one(check(job(*many, solar(), supply=supply, boards=[{"id": "b", "busbar_in": 80}])).boards[0], "two_sources")
    assert small.verdict == "short"
    unsaid = one(check(job(*many, solar(), supply=supply)).boards[0], "two_sources")
    assert (unsaid.verdict, unsaid.field) == ("not_known", "board.busbar_in")
    # No more can flow than leaves it.
    few = one(check(job(many[0], solar(), supply=supply, boards=[{"id": "b", "busbar_in": 40}])).boards[0], "two_sources")
    assert (few.verdict, few.limit) == ("meets", pytest.approx(32))


def test_a_source_behind_two_feeds_comes_back_through_both_and_counts_on_every_busbar() -> None:
    feeds = [circuit("m", feeds="far", loads=[]), circuit("n", board="far", feeds="end", loads=[])]
    inputs = job(
        *feeds, circuit("c"), {**solar(), "board": "end"}, boards=["b", "far", "end"], supply={"fuse_in": 80, "fuse_kind": "BS1361"}
    )
    assert [one(found(inputs, name), "source_cable").limit for name in ("m", "n")] == pytest.approx([16, 16])
    assert all("two_sources" in {c.id for c in board.checks} for board in check(inputs).boards)


def test_an_earth_fault_that_is_the_larger_one_is_added_to_as_well() -> None:
    near = {"ze": 0.1, "ipf": 900}
    plain, with_it = (found(job(circuit("c"), *more, supply=near), "c") for more in ((), (solar(),)))
    assert one(plain, "breaking").limit == pytest.approx(2300)
    assert one(with_it, "breaking").limit == pytest.approx(2324)
    largest = [max(step.value for step in one(result, "cpc_thermal").steps if step.symbol == "I") for result in (plain, with_it)]
    assert largest == pytest.approx([2300, 2324])


@pytest.mark.parametrize(("battery", "draws"), [(False, 0), (True, 16), (None, 16)])
def test_an_inverter_draws_on_the_supply_only_where_it_may_charge_a_battery(battery: bool | None, draws: float) -> None:
    result = check(job(circuit("c"), solar(load={**SOLAR, "battery": battery})))
    bare = check(job(circuit("c")))
    assert result.boards[0].demand.highest == pytest.approx((bare.boards[0].demand.highest or 0) + draws)


# Without the network -----------------------------------------------------------------------------------------------------

RCD = {"kind": "rcbo", "idn": 0.03, "rcd_type": "A"}


def kept(load: Any = None, device: Any = None, **more: Any) -> Installation:
    """A circuit on a board that a battery keeps alive."""
    return job(circuit("c", device=RCD if device is None else device), solar(load={**KEEPS, **(load or {})}), **more)


def test_an_rcd_clears_an_earth_fault_without_the_network() -> None:
    result = found(kept(), "c")
    assert one(result, "alone").verdict == "meets"
    assert "the RCD" in one(result, "alone").text
    # Its own circuit is behind the source's own protection.
    assert "alone" not in names(found(kept()))


@pytest.mark.parametrize(
    ("load", "verdict", "field"),
    [
        ({"alone_earth": None}, "not_known", "load.bat.alone_earth"),
        ({"alone_earth": "none"}, "short", "load.bat.alone_earth"),
        ({"alone_earth": "supply"}, "short", "load.bat.alone_earth"),
        ({"alone_ra": None}, "not_known", "load.bat.alone_ra"),
    ],
)
def test_an_rcd_is_of_no_use_where_the_neutral_is_joined_to_no_earth(load: Any, verdict: str, field: str) -> None:
    asked = one(found(kept(load), "c"), "alone")
    assert (asked.verdict, asked.field) == (verdict, field)


def test_a_breaker_does_not_clear_what_an_inverter_gives() -> None:
    bare = {"kind": "mcb"}
    assert one(found(kept({"alone_off": None}, bare), "c"), "alone").verdict == "not_known"
    assert one(found(kept({"alone_off": 0.2}, bare), "c"), "alone").verdict == "meets"
    late = one(found(kept({"alone_off": 2}, bare), "c"), "alone")
    assert (late.verdict, late.field) == ("short", "load.bat.alone_off")
    # A machine whose maker says that it drives 200 A opens a B32 at once.
    assert one(found(kept({"alone_off": 2, "alone_amps": 200}, bare), "c"), "alone").verdict == "meets"
    assert one(found(kept({"alone_off": 2, "alone_amps": 100}, bare), "c"), "alone").verdict == "short"


def test_an_rcd_ahead_of_where_the_source_comes_in_sees_nothing() -> None:
    bare, board = {"kind": "mcb"}, {"id": "b", "rcd_idn": 0.03, "rcd_type": "A", "rcd_in": 63, "rcd_both_ways": True}
    by_way = one(found(kept({"alone_off": 2}, bare, boards=[board]), "c"), "alone")
    assert by_way.verdict == "short"
    # Over a change-over ahead of the board its current passes the board's RCD.
    ahead = one(found(kept({"alone_off": 2, "joins": "changeover"}, bare, boards=[board]), "c"), "alone")
    assert ahead.verdict == "meets"


@pytest.mark.parametrize("source_in", [1, 2, 0])
@pytest.mark.parametrize("circuit_in", [1, 2, 0])
def test_of_a_board_divided_by_rcd_none_counts_for_a_source_on_one_of_its_ways(source_in: int, circuit_in: int) -> None:
    board = {"id": "b", "rcd_idn": 0.03, "rcd_in": 63, "rcd2_idn": 0.03, "rcd2_in": 63}
    source = {**solar(load={**KEEPS, "alone_off": 2}), "section": source_in}
    bare = circuit("c", device={"kind": "mcb"}, section=circuit_in)
    assert one(found(job(bare, source, boards=[board]), "c"), "alone").verdict == "short"
    # Its own RCBO counts wherever it is, and that of the circuit's section does where the source comes in ahead of the board.
    own = circuit("c", device=RCD, section=circuit_in)
    assert one(found(job(own, source, boards=[board]), "c"), "alone").verdict == "meets"
    ahead = solar(load={**KEEPS, "alone_off": 2, "joins": "changeover"})
    expected = "short" if circuit_in == 0 else "meets"
    assert one(found(job(bare, ahead, boards=[board]), "c"), "alone").verdict == expected
    # Behind a sub-main the RCDs of the further board are passed whatever the section.
    feed = circuit("m", feeds="far", loads=[], device={"rating": 32})
    beyond = circuit("f", board="far", device={"kind": "mcb"}, section=2)
    far = {**board, "id": "far"}
    assert one(found(job(feed, beyond, source, boards=["b", far]), "f"), "alone").verdict == "meets"


def test_until_it_is_said_how_a_source_comes_in_the_rcd_of_its_board_does_not_count() -> None:
    board = {"id": "b", "rcd_idn": 0.03, "rcd_type": "A", "rcd_in": 63, "rcd_both_ways": True}
    unsaid = kept({"alone_off": 2, "joins": None}, {"kind": "mcb"}, boards=[board])
    assert one(found(unsaid, "c"), "alone").verdict == "short"


def test_a_board_behind_the_one_kept_alive_is_kept_too_and_its_own_rcd_counts() -> None:
    feed = circuit("m", feeds="far", loads=[], device={"rating": 32})
    final = circuit("f", board="far")
    source = solar(load={**KEEPS, "alone_off": 2})
    far = {"id": "far", "rcd_idn": 0.03, "rcd_type": "A", "rcd_in": 63}
    assert one(found(job(feed, final, source, boards=["b", "far"]), "f"), "alone").verdict == "short"
    assert one(found(job(feed, final, source, boards=["b", far]), "f"), "alone").verdict == "meets"


def test_only_what_the_source_keeps_alive_is_asked() -> None:
    feed = circuit("m", feeds="far", loads=[], device={"rating": 32})
    source = solar(load={**KEEPS, "alone": "far"})
    inputs = job(feed, circuit("f", board="far"), circuit("c"), source, boards=["b", "far"])
    assert "alone" in names(found(inputs, "f"))
    assert "alone" not in names(found(inputs, "c"))


@pytest.mark.parametrize(
    ("load", "csa", "verdict"),
    [
        # 24 A at most: a cable of 6 mm2 carries them as long as they last, one of 1 mm2 does not.
        ({"alone_off": None}, 6, "meets"),
        ({"alone_off": None}, 1, "not_known"),
        # 115 x 1 / 24 = 4.79, squared 23 s: over 5 s nothing keeps its heat.
        ({"alone_off": 4}, 1, "meets"),
        ({"alone_off": 6}, 1, "short"),
        # 1500 A for 0.2 s ask for 5.83 mm2.
        ({"fault_amps": 1500, "alone_off": 0.2}, 6, "meets"),
        ({"fault_amps": 1500, "alone_off": 0.2}, 4, "short"),
    ],
)
def test_a_fault_to_neutral_ends_or_does_no_harm(load: Any, csa: float, verdict: str) -> None:
    inputs = job(circuit("c", device=RCD, cable={"csa": csa}), solar(load={**KEEPS, **load}))
    assert one(found(inputs, "c"), "alone_line").verdict == verdict


def test_sources_that_go_on_side_by_side_add_up_in_a_fault_to_neutral() -> None:
    # 24 A of the battery and 24 A of a roof on the same board: 1 mm2 carries neither, 2.5 mm2 one of them, 6 mm2 both.
    roof = circuit("roof", device=RCBO, loads=[SOLAR])
    for csa, alone, both in ((1, "not_known", "not_known"), (2.5, "meets", "not_known"), (10, "meets", "meets")):
        final = circuit("c", device=RCD, cable={"csa": csa})
        battery = solar(load={**KEEPS, "alone_off": None})
        assert one(found(job(final, battery), "c"), "alone_line").verdict == alone, csa
        assert one(found(job(final, battery, roof), "c"), "alone_line").verdict == both, csa
    # What one of them gives is not known: neither is their sum.
    unknown = circuit("roof", device=RCBO, loads=[{**SOLAR, "kind": "generator", "battery": None}])
    late = solar(load={**KEEPS, "alone_off": None})
    assert one(found(job(circuit("c", device=RCD, cable={"csa": 10}), late, unknown), "c"), "alone_line").verdict == "not_known"


@pytest.mark.parametrize(("ra", "idn", "verdict"), [(60, 0.3, "meets"), (190, 0.3, "meets"), (190, 1.0, "short"), (300, 0.03, "close")])
def test_from_a_board_on_its_own_electrode_the_return_is_through_the_soil(ra: float, idn: float, verdict: str) -> None:
    """0.95 x 230 / (100 + RA) is what flows: 0.75 A at 190 ohm, which opens 300 mA and not 1 A."""
    feed = circuit("m", feeds="far", loads=[], device={"rating": 32})
    final = circuit("f", board="far", device={"kind": "rcbo", "idn": idn, "rcd_type": "A"})
    far = {"id": "far", "earthing": "TT", "ra": 100, "ra_source": "measured"}
    source = solar(load={**KEEPS, "alone_ra": ra, "alone_off": 5})
    assert one(found(job(feed, final, source, boards=["b", far]), "f"), "alone").verdict == verdict


def test_an_electrode_that_may_not_stay_stable_is_told() -> None:
    assert one(found(kept({"alone_ra": 200}), "c"), "alone").verdict == "meets"
    assert one(found(kept({"alone_ra": 201}), "c"), "alone").verdict == "close"


# Around it -----------------------------------------------------------------------------------------------------------------


def test_what_is_remembered_of_a_circuit_hangs_on_the_sources() -> None:
    for inputs in (
        kept(), kept({"alone_off": 2}), kept({"alone_earth": "none"}), kept({"fault_amps": 300}), kept({"alone_amps": 200}),
        kept({"joins": "changeover"}), kept({"alone": None}), job(circuit("c", device=RCD)),
    ):  # fmt: skip
        kept_ones, anew = check(inputs, keep=False, reuse=True), check(inputs, keep=False)
        assert kept_ones == anew


def test_a_board_that_goes_leaves_the_source_and_an_undo_brings_both_back() -> None:
    feed = circuit("m", feeds="far", loads=[], device={"rating": 32})
    before = job(feed, solar(load={**KEEPS, "alone": "far"}), boards=["b", "far"])
    after, applied = apply(before, [Change("remove", "board", "far")])
    assert next(c for c in after.circuits if c.id == "s").loads[0].alone is None
    assert replay(after, invert(applied)) == before


def test_isolation_locks_every_source_that_could_feed_from_behind() -> None:
    inputs = kept()
    plan = isolation(inputs, "board", "b")
    assert any(p.key.startswith("source:") and "battery" in p.what for p in plan.points)
    assert any(act.key.startswith("isolate:source:") for act in plan.steps)
    assert any("direct-current side" in text for text in plan.live)
    assert any(p.key.startswith("source:") for p in isolation(inputs, "circuit", "s").points)
    # A final circuit is parted from every source by its own device.
    assert not any(p.key.startswith("source:") for p in isolation(inputs, "circuit", "c").points)
    far = job(
        circuit("m", feeds="far", loads=[], device={"rating": 32}), solar(load={**KEEPS, "alone": "far"}), boards=["b", "far"]
    )  # fmt: skip
    assert any(p.key.startswith("source:") for p in isolation(far, "board", "far").points)


def test_what_stays_live_is_told_of_each_source_by_its_kind() -> None:
    standby = circuit(
        "g", loads=[{"id": "gen", "name": "genset", "kind": "generator", "amount": 3000, "joins": "changeover", "parted": True}]
    )
    live = isolation(job(solar(load=KEEPS), standby), "board", "b").live
    assert any("direct-current side of battery:" in text for text in live)
    assert any(text.startswith("genset up to") for text in live)


def test_boards_and_the_distributor_are_told() -> None:
    inputs = kept()
    told = notices(Subject(inputs, printed="today"), inputs.boards[0])
    assert any("More than one source" in text and "battery" in text for text in told)
    assert any("supplies this board" in text for text in told)
    assert any("tell the distributor (DNO) about an inverter" in one.text for one in advise(inputs))
    plain = job(circuit("c"))
    assert not any("source" in text.lower() for text in notices(Subject(plain, printed="today"), plain.boards[0]))
    assert not any(one.title == "Distributor to be told" for one in advise(plain))


def test_a_source_is_said_in_one_line() -> None:
    said = read_line(rule_set("bs7671"), "solar inverter 3.68kW b20 rcbo 6mm flat: loft 8")
    load = said.loads[0]
    assert (load["kind"], load["amount"], load["basis"]) == ("inverter", 3680, "W")
    for line, kind in (("solar water heater 3kW b16", "water_heater"), ("battery charger 500W b6", "ev"), ("solar 3.68kW b16", "inverter")):
        assert read_line(rule_set("bs7671"), line).loads[0]["kind"] == kind, line


def test_random_jobs_with_a_random_source_are_the_same_from_memory_and_no_fault_level_falls() -> None:
    rnd = random.Random(7)
    for _ in range(25):
        plain = random_job(rnd)
        if not plain.circuits:
            continue
        board = rnd.choice(plain.boards).id
        load = {
            **SOLAR, "kind": rnd.choice(["inverter", "generator"]), "amount": rnd.choice([None, 5, 16, 40]), "joins": rnd.choice([None, "way", "changeover"]),
            "fault_amps": rnd.choice([None, 30, 300]), "alone": rnd.choice([None, board]), "alone_earth": rnd.choice([None, "electrode", "none"]),
            "alone_ra": 50, "alone_off": rnd.choice([None, 0.1, 3]), "alone_amps": rnd.choice([None, 20, 200]),
        }  # fmt: skip
        added = parse(Circuit, solar(load=load, board=board))
        inputs = replace(plain, circuits=(*plain.circuits, added))
        try:
            before = check(plain, keep=False)
        except InputError:
            continue
        after, remembered = check(inputs, keep=False), check(inputs, keep=False, reuse=True)
        assert after == remembered
        for old, new in zip(before.boards, after.boards, strict=True):
            assert old.ipf_ln is None or new.ipf_ln is None or new.ipf_ln >= old.ipf_ln - 1e-9
            assert old.zs == new.zs


def test_the_demo_croft_tells_what_it_is_made_to_tell() -> None:
    croft = demo_job("larch_croft")
    failing = {c.id: c.ruling for c in check(croft).circuits if c.verdict != "meets"}
    assert failing == {"pump": "alone", "barn-solar": "source"}
    cured = {c: [o.title for o in options(croft, c) if o.passes] for c in failing}
    assert any("both directions" in title for title in cured["barn-solar"])
    assert any("RCBO" in title for title in cured["pump"])
