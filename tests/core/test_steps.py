"""The steps of the work beyond a single circuit: marks, assumptions and their cost, copies, smallest breaks, phases, the plot, ways to earth."""

from __future__ import annotations

from dataclasses import replace
from math import log10
from typing import Any

import pytest

from mellow_span.core.design.balance import balance
from mellow_span.core.design.breaks import smallest_breaks
from mellow_span.core.design.check import check, work_out
from mellow_span.core.design.joint import cheapest
from mellow_span.core.design.outbuilding import earthing_choices
from mellow_span.core.design.reach import reaches
from mellow_span.core.design.solving import changed
from mellow_span.core.design.starts import Answers, start_of
from mellow_span.core.design.surveyed import assumptions
from mellow_span.core.design.what_if import compare
from mellow_span.core.drawing.curves import Scale, plot_of
from mellow_span.core.errors import InputError
from mellow_span.core.findings.results import Check, InstallationResult
from mellow_span.core.findings.steps import marks, of_board, of_intake
from mellow_span.core.model.changes import Change
from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets import rule_set
from tests.build import circuit, job, submain

RULES = rule_set("bs7671")
SURVEYED = {"fuse_kind": "BS1361", "fuse_in": 80, "tails_csa": 25}


def verdict(inputs: Installation, name: str) -> str:
    return next(c.verdict for c in check(inputs, keep=False).circuits if c.id == name)


# Marks of the steps ----------------------------------------------------------------------------------------------------------


def found(**checks: str) -> InstallationResult:
    intake = tuple(Check(name, name, "", verdict, "") for name, verdict in checks.items())  # type: ignore[arg-type]
    return InstallationResult("bs7671", "", (), (), intake)


def test_each_check_of_a_place_belongs_to_the_step_that_cures_it() -> None:
    assert [of_intake(c) for c in ("demand", "earthing", "bonding", "tails")] == ["demand", "earthing", "earthing", "survey"]
    assert [of_board(c) for c in ("feed", "electrode", "ways")] == ["demand", "earthing", "boards"]
    supply = job(supply=SURVEYED).supply
    marked = {m.id: m.verdict for m in marks(supply, found(demand="short", tails="close", bonding="meets"), ["not_known"])}
    assert marked == {
        "survey": "close", "demand": "short", "boards": None, "routes": None, "earthing": "meets", "coordination": "not_known",
        "attention": "short",
    }  # fmt: skip


def test_a_survey_that_lacks_a_value_is_not_known_and_selectivity_makes_nothing_worse() -> None:
    supply = replace(job(supply=SURVEYED).supply, ipf=None)
    marked = {m.id: m.verdict for m in marks(supply, found(tails="meets"), ["close"])}
    assert (marked["survey"], marked["attention"], marked["coordination"]) == ("not_known", "not_known", "close")


# What was assumed --------------------------------------------------------------------------------------------------------------


def test_the_assumption_that_moves_most_verdicts_is_to_be_read_first() -> None:
    """At 16 kA an Icn of 6 kA does not break the fault; at Ze 0.35 the loop grows by 0.07 Ohm, which a B32 on 10 m does not mind."""
    inputs = job(circuit(), supply={**SURVEYED, "ze_source": "assumed", "ipf_source": "assumed", "fuse_source": "measured"})
    told = assumptions(inputs)
    assert [(a.field, a.first) for a in told] == [("ipf", True), ("ze", False)]
    assert told[0].instead[0].text == "if Ipf were 16 kA"
    assert told[0].instead[0].worse == ("c",)
    assert told[1].instead[0].text == "if Ze were 0.350 Ω"
    assert told[1].instead[0].worse == ()


def test_what_was_measured_is_no_assumption_and_a_declared_maximum_of_the_supplier_counts_before_the_usual_one() -> None:
    measured = job(circuit(), supply={**SURVEYED, "fuse_source": "measured"})
    assert assumptions(measured) == ()
    declared = job(circuit(), supply={**SURVEYED, "fuse_source": "measured", "ze_source": "declared", "ze_declared": 0.5})
    assert [i.value for a in assumptions(declared) for i in a.instead] == [0.5]


# Copies --------------------------------------------------------------------------------------------------------------------------


def test_a_copy_says_what_turns_and_one_that_cannot_be_made_says_why() -> None:
    inputs = job(circuit(spans=[{"place": "stud_adrift"}], loads=[{"amount": 7000}]))
    assert verdict(inputs, "c") == "short"
    cured = Change("set", "span", "c-s0", {"place": "masonry"})
    gone = Change("set", "span", "elsewhere", {"place": "masonry"})
    columns = {c.id: c for c in compare(inputs, [("a", "On the wall", [cured]), ("b", "Nothing", [gone])], ready=False)}
    assert columns["a"].better == ("c",)
    assert columns["a"].worse == ()
    assert columns["b"].result is None
    assert "elsewhere" in columns["b"].why
    assert columns["now"].result is not None
    assert list(columns) == ["now", "a", "b"]


# The smallest break ----------------------------------------------------------------------------------------------------------------


def test_the_least_insulation_that_fails_a_span_is_that_of_the_table() -> None:
    """6 mm2 clipped carries 47 A (4D5, C); a B40 allows a factor of 40 / 47 = 0.851. Table 52.2: 0.89 for 50 mm, 0.81 for 100 mm, and between
    them the lower one: so the first length read at 0.81 or less fails, that is just over 50 mm, told as 0.1 m on a tape of 50 mm steps.
    """
    inputs = job(circuit(device={"rating": 40}, loads=[{"amount": 8000}]))
    assert verdict(inputs, "c") in ("meets", "close")
    least = next(b for b in smallest_breaks(inputs, "c") if b.id == "insulation")
    assert least.amount == pytest.approx(0.1)
    assert least.check == "Cable capacity"
    assert verdict(changed(inputs, [Change("set", "span", "c-s0", {"wrapped": 0.05})]), "c") != "short"
    assert verdict(changed(inputs, [Change("set", "span", "c-s0", {"wrapped": 0.1})]), "c") == "short"


@pytest.mark.parametrize("kind", ["insulation", "length", "warmth", "neighbours", "load", "loop"])
def test_what_is_told_to_break_a_circuit_does_and_a_step_less_does_not(kind: str) -> None:
    inputs = job(circuit(device={"rating": 32}, loads=[{"amount": 6900}], spans=[{"length": 12}]))
    one = next(b for b in smallest_breaks(inputs, "c") if b.id == kind)

    def with_(amount: float) -> str:
        loads = [Change("set", "load", x.id, {"amount": (x.amount or 0) * (1 + amount)}) for x in inputs.circuits[0].loads]
        span = inputs.circuits[0].run.spans[0]
        changes: dict[str, list[Any]] = {
            "insulation": [Change("set", "span", span.id, {"wrapped": amount})],
            "length": [Change("set", "span", span.id, {"length": (span.length or 0) + amount})],
            "warmth": [Change("set", "span", span.id, {"ambient": span.ambient + amount})],
            "neighbours": [Change("set", "span", span.id, {"group": 1 + round(amount)})],
            "load": loads,
            "loop": [Change("set", "supply", fields={"ze": (inputs.supply.ze or 0) + amount})],
        }
        return verdict(changed(inputs, changes[kind]), "c")

    fine = {"insulation": 0.05, "length": 0.1, "warmth": 1.0, "neighbours": 1.0, "load": 0.01, "loop": 0.01}[kind]
    assert with_(one.amount) == "short"
    assert with_(one.amount - fine * 1.01 if kind != "neighbours" else one.amount - 1) != "short"


def test_a_circuit_that_is_short_already_has_no_smallest_break() -> None:
    assert smallest_breaks(job(circuit(spans=[{"place": "stud_adrift"}], loads=[{"amount": 7000}])), "c") == ()


# Phases ------------------------------------------------------------------------------------------------------------------------------


def test_phases_are_balanced_by_the_largest_first_and_never_for_the_worse() -> None:
    """Six heaters of 4, 3, 3, 2, 2 and 1 kW on one phase: 15 kW in all, so 5 kW a phase is the best there is, 21.7 A."""
    kilowatts = (4, 3, 3, 2, 2, 1)
    heaters = [
        circuit(f"h{i}", phase="L1", loads=[{"kind": "other", "amount": 1000 * kw, "diversity": 1}]) for i, kw in enumerate(kilowatts)
    ]
    inputs = job(*heaters, supply={"phases": 3})
    answer = balance(inputs, "b")
    assert max(p.demand for p in answer.before) == pytest.approx(15000 / 230)
    assert [p.demand for p in answer.after] == pytest.approx([5000 / 230] * 3)
    again = balance(changed(inputs, answer.changes), "b")
    assert again.changes == ()
    with pytest.raises(InputError):
        balance(job(), "b")


# The plot ----------------------------------------------------------------------------------------------------------------------------


def test_the_square_is_logarithmic_and_keeps_what_lies_outside_at_its_edge() -> None:
    scale = Scale(10, 1000)
    assert scale.at(100, 0.01) == (0.5, 0.0)
    assert scale.at(10_000, 1e6) == (1.0, 1.0)


def test_the_chain_runs_from_the_appliance_to_the_service_fuse_with_its_damage_lines() -> None:
    final = circuit(
        "kiln",
        board="far",
        loads=[{"name": "kiln", "amount": 2500, "local_fuse": 13, "lead_csa": 1.5, "lead_length": 2}],
        device={"rating": 16},
    )
    inputs = job(submain(), final, boards=["b", "far"], supply={**SURVEYED, "fuse_kind": "BS88-2"})
    plot = plot_of(work_out(inputs), "kiln")
    assert [(d.role, d.rating) for d in plot.devices] == [("appliance", 13), ("circuit", 16), ("sub-main", 40), ("service", 80)]
    assert {d.id for d in plot.damage} == {"line", "cpc", f"lead-{inputs.circuits[1].loads[0].id}"}
    assert [(p.lower, p.upper) for p in plot.pairs][1:] == [("kiln", "m"), ("m", "service")]
    assert plot.times[0].time == 0.4


def test_a_breaker_stands_where_its_standard_has_it_and_a_damage_line_where_k_has_it() -> None:
    """B32: the slow edge ends at 5 In = 160 A and 0.1 s. The line of 6 mm2, k = 115: I = 115 x 6 / sqrt(t), 6900 A at 0.01 s."""
    plot = plot_of(work_out(job(circuit(), supply=SURVEYED)), "c")
    scale, band = plot.scale, plot.devices[0]
    assert scale.at(160, 0.1) in [pytest.approx(p) for p in band.slow]
    line = next(d for d in plot.damage if d.id == "line")
    (x1, y1), (x2, y2) = line.points
    amps = [scale.i_lo * (scale.i_hi / scale.i_lo) ** x for x in (x1, x2)]
    seconds = [scale.t_lo * (scale.t_hi / scale.t_lo) ** y for y in (y1, y2)]
    for i, t in zip(amps, seconds, strict=True):
        assert i**2 * t == pytest.approx((115 * 6) ** 2, rel=0.01)
    assert all(0 <= v <= 1 for d in plot.devices for p in (*d.area, *d.slow, *d.fast) for v in p)
    # The slow edge never runs back: read at any current it has one time.
    assert all(a[0] <= b[0] + 1e-9 for a, b in zip(band.slow, band.slow[1:], strict=False))


def test_decades_are_labelled_and_a_device_without_a_rating_says_why_it_has_no_band() -> None:
    plot = plot_of(work_out(job(circuit(device={"rating": None}), supply=SURVEYED)), "c")
    assert plot.devices[0].why != ""
    assert plot.devices[0].area == ()
    labels = [t.label for t in plot.amps]
    assert labels[0] == f"{plot.scale.i_lo:g}"
    assert len(labels) == round(log10(plot.scale.i_hi / plot.scale.i_lo)) + 1


# Ways to earth, sizes, starts -----------------------------------------------------------------------------------------------------------


def test_each_way_to_earth_has_its_numbers() -> None:
    """PME, metal there: 10 mm2 over 30 m is 10 x 30 x 0.0089 = 2.67 kg. Open neutral: 6 kW draw 26.1 A, so the load is 8.82 Ohm;
    with RA 80 metal comes to 230 x 80 / 88.8 = 207 V.
    """
    boards = ["b", {"id": "far", "outbuilding": True, "extraneous": True, "ra": 80}]
    supply = {**SURVEYED, "neutral_csa": 25, "earthing_csa": 16}
    final = circuit("f", board="far", loads=[{"amount": 6000, "kind": "other", "diversity": 1}])
    inputs = job(submain(), final, boards=boards, supply=supply)
    export, local, both = earthing_choices(RULES, inputs, "far")
    assert (export.bond_csa, export.bond_metres) == (10, 30)
    assert export.copper == pytest.approx(10 * 30 * 8.9e-3)
    assert (export.touch, local.touch) == (230, 0)
    assert both.touch == pytest.approx(230 * 80 / (80 + 230 / (6000 / 230)), rel=1e-3)
    assert both.cost > export.cost > 0
    assert local.bond_metres == 0
    chosen = changed(inputs, local.changes)
    assert chosen.boards[1].earthing == "TT"
    assert chosen.circuits[0].armour_ends == "supply"
    unknown = job(submain(), final, boards=["b", {"id": "far", "outbuilding": True}], supply=supply)
    assert earthing_choices(RULES, unknown, "far")[0].digs_later == 30


def test_the_sizes_found_together_say_their_copper() -> None:
    answer = cheapest(job(circuit(cable={"csa": 10}, spans=[{"length": 20}])))
    one = answer.chosen[0]
    assert one.csa is not None
    assert one.before == 10
    family = RULES.families["flat_twin_cpc_pvc70"]

    def kg(csa: float) -> float:
        return (2 * csa + family.pairs[csa]) * 20 * 8.9e-3

    assert one.copper == pytest.approx(kg(one.csa) - kg(10))


def test_a_short_start_makes_up_nothing() -> None:
    flat = start_of("flat", Answers(name="Flat", earthing="TN-S"))
    assert flat.supply == replace(Installation(name="x").supply, earthing="TN-S")
    assert flat.circuits == ()
    shop = start_of("workshop", Answers(name="Shop"))
    assert (shop.supply.phases, shop.premises, shop.supply.earthing) == (3, "other", None)


def test_a_short_start_with_an_outbuilding_has_it_apart_with_its_feed() -> None:
    """Apart matters: an outbuilding's earth, bonding and electrode are asked for, a part of the house's are not."""
    row = start_of("outbuilding", Answers(name="Row", outbuilding="Shed", distance=31))
    assert [b.outbuilding for b in row.boards] == [False, True]
    [feed] = row.circuits
    assert (feed.feeds, feed.board, [s.length for s in feed.run.spans]) == (row.boards[1].id, row.boards[0].id, [31])
    assert start_of("outbuilding", Answers(name="Row")).circuits[0].run.spans == ()


@pytest.mark.parametrize("field", ["earthing", "ze", "ipf", "fuse_kind", "fuse_in", "tails_csa"])
def test_each_value_the_survey_has_to_find_out_leaves_it_open(field: str) -> None:
    whole = job(supply=SURVEYED).supply
    assert {m.id: m.verdict for m in marks(whole, found(tails="meets"), [])}["survey"] == "meets"
    lacking = {m.id: m.verdict for m in marks(replace(whole, **{field: None}), found(tails="meets"), [])}
    assert (lacking["survey"], lacking["attention"]) == ("not_known", "not_known")


def test_no_pair_of_devices_makes_the_attention_worse() -> None:
    marked = {m.id: m.verdict for m in marks(job(supply=SURVEYED).supply, found(tails="meets"), ["short", "not_known"])}
    assert (marked["coordination"], marked["attention"]) == ("short", "meets")


def test_breaks_come_nearest_first_by_usual_steps() -> None:
    """A step is what a site brings: 0.5 m of insulation, 5 m, 5 degrees, one circuit, a tenth of load, a tenth of an ohm."""
    breaks = smallest_breaks(job(circuit(device={"rating": 32}, loads=[{"amount": 6900}], spans=[{"length": 12}])), "c")
    usual = {"insulation": 0.5, "length": 5.0, "warmth": 5.0, "neighbours": 1.0, "load": 0.1, "loop": 0.1}
    assert [b.steps for b in breaks] == [pytest.approx(b.amount / usual[b.id]) for b in breaks]
    assert [b.steps for b in breaks] == sorted(b.steps for b in breaks)
    assert len(breaks) >= 4


def test_what_is_let_through_stands_at_the_time_of_its_energy() -> None:
    """Where energy decides, the plot says how long the fault current would take to bring as much: E / I²."""
    plot = plot_of(work_out(job(circuit(), supply={**SURVEYED, "ipf": 900})), "c")
    assert plot.through is not None
    scale = plot.scale
    current = scale.i_lo * (scale.i_hi / scale.i_lo) ** plot.through.x
    seconds = scale.t_lo * (scale.t_hi / scale.t_lo) ** plot.through.y
    assert current == pytest.approx(900, rel=1e-3)
    assert seconds == pytest.approx(max(0.01, plot.through.energy / 900**2), rel=1e-3)
    assert seconds > 0.02


def test_the_faults_stand_at_their_currents_and_the_least_is_told_as_such() -> None:
    plot = plot_of(work_out(job(circuit(), supply=SURVEYED)), "c")
    ends = {f.id: (f.end, f.current) for f in plot.faults}
    assert ends["largest"][0] == "largest"
    assert ends["least"][0] == "least"
    assert ends["least"][1] < ends["largest"][1]
    for fault in plot.faults:
        assert plot.scale.i_lo * (plot.scale.i_hi / plot.scale.i_lo) ** fault.x == pytest.approx(fault.current, rel=1e-3)


def test_the_working_beyond_the_circuits_is_the_same_where_they_come_from_memory() -> None:
    """The overview, the routes and the plot take circuits from memory; what they show of places is worked out with its steps."""
    inputs = job(circuit(), circuit("d", loads=[{"amount": 1200}]), supply=SURVEYED)
    whole, quick = work_out(inputs, keep=True), work_out(inputs, keep=False, reuse=True, beyond=True)
    assert quick.result.intake == whole.result.intake
    assert quick.result.boards == whole.result.boards
    assert quick.result.routes == whole.result.routes
    assert any(step for check_ in quick.result.intake for step in check_.steps)
    assert plot_of(quick, "c") == plot_of(whole, "c")


def test_neighbours_in_a_route_are_those_who_lie_there() -> None:
    """`group` of a span that lies in a route says nothing: the break counts cables in the route, and taking it there does break it."""
    inputs = job(
        circuit(device={"rating": 32}, loads=[{"amount": 6900}], spans=[{"route": "k", "group": 1}]),
        routes=[{"id": "k", "name": "riser", "others": 1}],
    )
    one = next(b for b in smallest_breaks(inputs, "c") if b.id == "neighbours")
    assert "in riser" in one.text
    route = inputs.routes[0]
    for more, wrong in ((int(one.amount) - 1, False), (int(one.amount), True)):
        there = replace(inputs, routes=(replace(route, others=route.others + more),))
        assert (check(there, keep=False).circuits[0].verdict == "short") is wrong


def test_a_window_that_fails_between_two_that_pass_is_found_with_both_its_edges() -> None:
    """A fuse that still clears in time lets most through just before it does not; past that the RCD counts, and little gets through."""
    given = {
        "device": {"kind": "BS88-3", "rating": 63, "icn": 16000},
        "cable": {"csa": 16, "cpc_csa": 4},
        "loads": [{"amount": 8000}],
        "spans": [{"length": 5}],
    }
    inputs = job(circuit(**given), boards=[{"id": "b", "rcd_idn": 0.03}], supply={"ze": 0.2, "ipf": 1000})
    one = next(b for b in smallest_breaks(inputs, "c") if b.id == "loop")
    assert one.until is not None
    assert "passes again" in one.text

    def short(ze: float) -> bool:
        return check(replace(inputs, supply=replace(inputs.supply, ze=ze)), keep=False).circuits[0].verdict == "short"

    assert not short(0.2 + one.amount - 0.02)
    assert short(0.2 + one.amount + 0.005)
    assert short(0.2 + one.until - 0.005)
    assert not short(0.2 + one.until + 0.01)


def test_reach_tells_none_that_passes_from_none_that_fails() -> None:
    hopeless = {r.check: r.passing for r in reaches(job(circuit(), supply={"ze": 3}), "c")}
    assert (hopeless["loop"], hopeless["volt_drop"]) == ("none", "some")
    easy = {r.check: r for r in reaches(job(circuit(loads=[{"amount": 10}], device={"kind": "rcbo", "idn": 0.03})), "c")}
    assert (easy["volt_drop"].passing, easy["volt_drop"].longest) == ("all", None)
