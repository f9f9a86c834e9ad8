"""Ways out that an electrician would take: nothing lowered that the circuit is for, what is lost beside it told, a price or 'not priced', questions asked."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest

from mellow_span.core.design.check import check
from mellow_span.core.design.effort import Effort
from mellow_span.core.design.options import Option, options
from mellow_span.core.design.place_options import PlaceOption, place_options
from mellow_span.core.design.prices import parse_book, shipped
from mellow_span.core.design.size import size
from mellow_span.core.design.solving import changed
from mellow_span.core.model.parts import Installation
from mellow_span.core.model.rebase import touches
from tests.build import circuit, job, submain
from tests.core.random_jobs import random_job
from tests.depth import many, seeded

SEEDS = range(many(40, 10))
FUSED = {"fuse_kind": "BS1361", "fuse_in": 100}


def by_id(inputs: Installation, name: str = "c") -> dict[str, Option]:
    return {o.id: o for o in options(inputs, name)}


def at(inputs: Installation, place: str, about: str) -> dict[str, PlaceOption]:
    return {o.id: o for o in place_options(inputs, place) if o.check == about}


@pytest.mark.parametrize("kind", ["mcb", "BS88-3"])
def test_a_sub_main_keeps_its_rating_whatever_it_is_asked_for_now(kind: str) -> None:
    """63 A towards a board that draws 9 A: the fault loop is no reason for 32 A."""
    feed = submain("m", device={"kind": kind, "rating": 63, "icn": 10000}, cable={"csa": 16}, spans=[{"place": "duct", "length": 90}])
    inputs = job(feed, circuit("f", board="far", loads=[{"amount": 2000}]), boards=["b", "far"], supply={"ze": 0.8, **FUSED})
    found = options(inputs, "m")
    assert found
    for option in found:
        now = next(c for c in changed(inputs, option.changes).circuits if c.id == "m")
        assert (now.device.rating or 0) >= 63, option.title
    rcbo = next(o for o in found if o.id.startswith("rcbo"))
    device = next(c for c in changed(inputs, rcbo.changes).circuits if c.id == "m").device
    assert (device.idn, device.delayed) == (0.1, True)
    assert "time-delayed" in rcbo.title


def test_selectivity_that_is_lost_is_told_and_counts_as_broken() -> None:
    """A type B in place of a type D under a 63 A feed keeps what is there; over finals a smaller instant range loses it."""
    feed = submain(
        "m",
        device={"rating": 63, "curve": "D", "icn": 10000},
        cable={"csa": 16},
        spans=[{"place": "duct", "length": 30}],
        ib_from="device",
    )
    final = circuit("f", board="far", device={"rating": 32}, loads=[{"amount": 3000}])
    inputs = job(feed, final, boards=["b", "far"], supply={"ze": 0.3, "ipf": 1500, **FUSED})
    curve = next(o for o in options(inputs, "m") if "curve-B" in o.id)
    before, after = check(inputs, keep=False), check(changed(inputs, curve.changes), keep=False)
    assert [c.id for c in before.circuits if c.verdict == "short"] == ["m"]
    assert next(c for c in after.circuits if c.id == "m").verdict != "short"
    # Lower end of the instantaneous range: 10 x 63 before, 3 x 63 now.
    assert "selectivity of m over f, now up to 189 A" in curve.turned
    assert curve.breaks >= len(curve.turned) > 0


def test_a_board_check_that_turns_is_told() -> None:
    """A larger device asks more of a main switch behind it."""
    feed = submain("m", device={"rating": 40}, cable={"csa": 25}, spans=[{"place": "duct", "length": 5}])
    finals = [circuit(f"f{i}", board="far", device={"rating": 40}, cable={"csa": 10}, loads=[{"amount": 6500}]) for i in range(2)]
    boards = ["b", {"id": "far", "switch_in": 40}]
    larger = by_id(job(feed, *finals, boards=boards, supply={"ze": 0.1, "ipf": 2300, **FUSED}), "m")["larger"]
    assert "far: main switch and busbar" in larger.turned


def test_no_appliance_of_a_size_that_nobody_sells() -> None:
    for watts in range(7600, 12000, 300):
        inputs = job(
            circuit(
                device={"kind": "rcbo", "idn": 0.03, "rating": 40},
                cable={"csa": 10},
                loads=[{"kind": "shower", "amount": watts, "rated_volts": 230}],
            )
        )
        for option in options(inputs, "c"):
            for change in option.changes:
                assert change.fields.get("amount", 8500) in (7500, 8500, 9500, 10500), option.title


@pytest.mark.parametrize(("kind", "takes"), [("lighting", 2.5), ("sockets", 4)])
def test_a_final_is_not_sized_past_its_terminals(kind: str, takes: float) -> None:
    """A long run of lights behind a thin feed: another size of the feed, another limit, but no 6 mm2 in a ceiling rose."""
    feed = submain("m", cable={"csa": 6}, device={"rating": 32}, ib_from="device", spans=[{"place": "duct", "length": 40}])
    final = circuit("f", board="far", device={"kind": "rcbo", "idn": 0.03, "rcd_type": "A", "rating": 16}, cable={"csa": 1.5},
                    loads=[{"amount": 2800, "kind": kind, "lampholders": False}], spans=[{"length": 60}])  # fmt: skip
    inputs = job(feed, final, boards=["b", "far"], supply={"ze": 0.1, "ipf": 2000})
    answer = size(inputs, "f").csa
    assert answer is None or answer > takes
    found = options(inputs, "f")
    assert found
    for option in found:
        now = next(c for c in changed(inputs, option.changes).circuits if c.id == "f")
        assert (now.run.cable.csa or 0) <= takes, option.title


def test_a_final_whose_terminals_are_entered_is_sized_to_them() -> None:
    inputs = job(
        circuit(cable={"csa": 1.5}, device={"rating": 32}, accessory="isolator", accessory_in=45, accessory_poles=2, accessory_csa=10)
    )
    assert "final" in by_id(inputs)
    thin = replace(inputs, circuits=tuple(replace(c, accessory_csa=2.5) for c in inputs.circuits))
    assert "final" not in by_id(thin)


def test_the_makers_energy_is_asked_and_what_would_do_does() -> None:
    inputs = job(
        circuit(device={"rating": 63, "icn": 10000}, cable={"csa": 16}, loads=[{"amount": 12000}]),
        supply={"ipf": 6000, "ze": 0.05, "ipf_source": "declared"},
    )
    assert check(inputs, keep=False).circuits[0].verdict == "not_known"
    first = options(inputs, "c")[0]
    assert (first.id, first.verdict) == ("makers-energy", "meets") or first.verdict == "close"
    ask = first.ask
    assert ask is not None
    assert (ask.kind, ask.field, ask.unit) == ("circuit", "device.i2t", "A²s")
    assert ask.most is not None

    def with_energy(energy: float) -> str:
        device = replace(inputs.circuits[0].device, i2t=energy)
        done = replace(inputs, circuits=(replace(inputs.circuits[0], device=device),))
        return check(done, keep=False).circuits[0].verdict

    assert with_energy(ask.most) in ("meets", "close")
    assert with_energy(ask.most * 1.2) == "short"
    measured = by_id(inputs)["measured-ipf"]
    assert measured.ask is not None
    assert measured.ask.most is not None
    assert measured.ask.most < 6000
    assert "measured-ipf" not in by_id(replace(inputs, supply=replace(inputs.supply, ipf_source="measured")))


def test_a_fault_level_that_was_only_declared_is_measured_before_a_device_is_changed() -> None:
    inputs = job(circuit(device={"rating": 32, "icn": 6000}, cable={"csa": 10}), supply={"ipf": 16000, "ipf_source": "declared"})
    found = by_id(inputs)
    assert found["measured-ipf"].ask.most == pytest.approx(6000, rel=0.05)  # type: ignore[union-attr]


def test_what_the_book_does_not_price_is_named_and_stands_last_of_what_cures_as_much() -> None:
    lines = [f"cable,{f},{s:g},{p}" for (f, s), p in shipped().cable.items()] + ["device,mcb,125,6"]
    poor = parse_book("item,name,size,price\n" + "\n".join(lines))
    inputs = job(circuit(loads=[{"kind": "sockets", "amount": 2000}], device={"rating": 32}, cable={"csa": 10}))
    found = options(inputs, "c", poor)
    assert {o.id: o.unpriced for o in found}["rcbo"] == ("the device",)
    cures = [o for o in found if o.passes]
    assert [bool(o.unpriced) for o in cures] == sorted(bool(o.unpriced) for o in cures)
    assert not any(o.unpriced for o in options(inputs, "c"))


@pytest.mark.parametrize("seed", SEEDS)
def test_no_way_out_sets_a_field_twice(seed: int) -> None:
    """What it says first would not be what is then done: half the load, and half of that."""
    inputs = random_job(seeded(seed))
    for one in inputs.circuits[:4]:
        for option in options(inputs, one.id):
            parts = [touches((change,)) for change in option.changes]
            assert len(frozenset[object]().union(*parts)) == sum(map(len, parts)), option.title


@pytest.mark.parametrize("seed", SEEDS)
def test_every_way_out_has_a_price_or_says_what_has_none(seed: int) -> None:
    """By an empty book: whatever costs something there names it; whatever does not is a setting or a question."""
    empty = parse_book("item,name,size,price\n")
    inputs = random_job(seeded(seed))
    for one in inputs.circuits[:3]:
        for option in options(inputs, one.id, empty):
            free = {
                "drop_method",
                "rated_volts",
                "diversified",
                "ze",
                "ipf",
                "i2t",
                "wrapped",
                "route",
                "place",
                "group",
                "laid",
                "amount",
                "phase",
            }
            touched = {n for change in option.changes for name, v in change.fields.items() for n in (v if isinstance(v, dict) else {name})}
            if touched & {"csa", "rcd_type", "icn", "accessory_in", "outlet_idn", "local_fuse", "lead_csa"} and option.cost == 0:
                assert option.unpriced or touched <= free, option.title


def test_three_phases_rcd_types_poles_and_cores_are_priced() -> None:
    book = shipped()
    feed = submain("m", phases=3, device={"kind": "rcbo", "idn": 0.03, "rcd_type": "B", "rating": 40}, cable={"cores": 4})
    flat = submain("m", device={"kind": "rcbo", "idn": 0.03, "rcd_type": "A", "rating": 40}, cable={"cores": 2})
    (one,), (other,) = (job(x, boards=["b", "far"], supply={"phases": 3}).circuits for x in (feed, flat))
    assert book.of_device(one.device, 3) == 24.0 + 210.0 + 95.0
    assert book.of_device(other.device) == 24.0
    assert book.of_run("armoured_xlpe90", 10, 4) == pytest.approx(1.48 * (book.of_cable("armoured_xlpe90", 10) or 0))
    assert book.price("device/rcbo/B/3/40/30B", 2) == 2 * (24.0 + 210.0 + 95.0)
    assert book.price("device/rcbo/B/1/40/30A", 1) == 24.0
    # A delayed one costs more, beside a circuit as over a board; a book that has no line for the delay has no price for it.
    assert book.price("device/rcbo/B/1/40/100AS", 1) == book.of_device(replace(other.device, idn=0.1, delayed=True)) == 24.0 + 38.0
    assert (book.price("rccb/63/100", 1), book.price("rccb/63/100S", 1)) == (34.0, 34.0 + 38.0)
    plain = replace(book, part={k: v for k, v in book.part.items() if not k.startswith("rcd_delay")} | {"rcd_type/A": 4.0})
    assert (plain.price("rccb/63/100S", 1), plain.of_device(replace(other.device, delayed=True))) == (None, None)
    assert (plain.of_device(other.device), plain.of_device(replace(other.device, rcd_type="AC"))) == (28.0, 24.0)
    over = at(
        job(
            *(circuit(c, device={"rating": 40}, cable={"csa": 10}, loads=[{"amount": 8000}]) for c in "cde"),
            supply={**FUSED, "fuse_in": 60, "tails_csa": 25},
        ),
        "intake",
        "demand",
    )
    assert over["three-phase"].cost == 1900
    assert over["three-phase"].verdict in ("meets", "close")
    assert not any(o.unpriced for o in over.values())


def test_singles_get_a_thicker_cpc() -> None:
    """4 mm2 singles with a cpc of 1 mm2 behind 32 A: the loop, not the line, is at its end."""
    inputs = job(
        circuit(
            device={"rating": 32},
            cable={"family": "single_pvc70", "csa": 6, "cpc_csa": 1},
            loads=[{"amount": 5000}],
            spans=[{"place": "conduit", "length": 60}],
        ),
        supply={"ze": 0.7},
    )
    found = by_id(inputs)
    assert found["cpc-larger"].passes
    assert (
        found["cpc-larger"].changes[0].fields == {"cable": {"cpc_csa": 1.5}}
        or found["cpc-larger"].changes[0].fields["cable"]["cpc_csa"] > 1
    )


def test_a_full_radial_of_sockets_is_closed_to_a_ring() -> None:
    inputs = job(
        circuit(
            device={"kind": "rcbo", "idn": 0.03, "rcd_type": "A", "rating": 20},
            cable={"csa": 2.5},
            loads=[{"kind": "sockets", "amount": 5500}],
            spans=[{"length": 15}],
        )
    )
    ring = by_id(inputs)["ring-larger"]
    now = changed(inputs, ring.changes).circuits[0]
    assert (now.shape, now.device.rating, now.run.spans[0].length) == ("ring", 32, 30)
    assert ring.passes


def test_another_way_says_that_its_length_is_assumed_and_asks_for_it() -> None:
    inputs = job(circuit(device={"rating": 32}, cable={"csa": 6}, spans=[{"place": "stud_adrift", "length": 9}]))
    way = by_id(inputs)["route"]
    assert "the same length assumed" in way.title
    assert way.ask is not None
    assert (way.ask.kind, way.ask.id, way.ask.field) == ("span", "c-s0", "length")


def test_a_house_on_an_electrode_without_rcds_gets_them_all() -> None:
    boards: list[Any] = [{"id": "b", "metal": True, "switch_in": 100, "non_combustible": True}]
    inputs = job(
        *(circuit(c, loads=[{"kind": "sockets", "amount": 2000}]) for c in "cd"),
        boards=boards,
        supply={"earthing": "TT", "ze": 80, **FUSED},
    )
    found = at(inputs, "b", "electrode")["rcds"]
    assert found.verdict in ("meets", "close")
    now = changed(inputs, found.changes)
    assert all((c.device.idn, c.device.rcd_type) == (0.03, "A") for c in now.circuits)
    assert (now.boards[0].rcd_idn, now.boards[0].rcd_delayed) == (0.1, True)
    assert found.cost > 0


def test_a_third_core_bonds_an_outbuilding() -> None:
    boards: list[Any] = ["b", {"id": "far", "outbuilding": True, "extraneous": True, "non_combustible": True}]
    inputs = job(submain("m", cable={"csa": 6, "cores": 2}), boards=boards, supply={"neutral_csa": 25, **FUSED})
    core = at(inputs, "far", "bonding")["core"]
    assert "3 cores, 10 mm²" in core.title
    assert core.verdict == "meets"
    done = check(changed(inputs, core.changes), keep=False).circuits[0]
    assert next(c for c in done.checks if c.id == "conductors").verdict == "meets"
    # Not where the outbuilding has an electrode: the core would join the two earths.
    assert "core" not in at(
        job(submain("m"), boards=["b", {**boards[1], "earthing": "TT", "ra": 50}], supply={"neutral_csa": 25}), "far", "bonding"
    )


def test_tails_are_led_out_of_the_insulation() -> None:
    inputs = job(circuit(), supply={**FUSED, "tails_csa": 25, "tails_wrapped": 1.0})
    out = at(inputs, "intake", "tails")["tails-out"]
    assert out.verdict in ("meets", "close")
    assert "sealed pipe" in out.title
    assert "tails-out" not in at(job(circuit(), supply={**FUSED, "tails_csa": 10}), "intake", "tails")


DECLARED = {"ipf": 7000, "ipf_source": "declared", "ze": 0.05, "ze_source": "declared"}
# Too thin, and its device breaks 6 kA where 7 kA may flow.
TWICE_WRONG = circuit(
    device={"kind": "mcb", "rating": 32, "icn": 6000}, cable={"csa": 2.5}, spans=[{"length": 60}], loads=[{"amount": 6000}]
)


def test_no_pair_answers_a_figure_that_nobody_gave() -> None:
    """A figure of the maker or of a measurement comes from the one that asks for it: a pair that holds one carries its question."""
    found = options(job(TWICE_WRONG, supply=DECLARED), "c")
    for option in found:
        fields = {n: v for c in option.changes for n, v in c.fields.items()}
        answered = "i2t" in str(fields) or "measured" in fields.values()
        assert not answered or (option.ask is not None and option.ask.field in fields), option.title
    assert any("+" in o.id and o.passes and o.ask for o in found)


def test_what_is_measured_at_two_places_goes_with_nothing_else() -> None:
    """Ipf and Ze are entered one by one at the survey: no field could carry that question."""
    inputs = job(TWICE_WRONG, supply={**DECLARED, "ze": 230 / 7000})
    found = options(inputs, "c")
    assert found
    assert not [o.title for o in found if "+" in o.id and "measured-both" in o.id.split("+")]


def test_a_thin_cable_behind_a_device_that_cannot_break_the_fault_is_cured_by_both() -> None:
    found = by_id(job(TWICE_WRONG, supply=DECLARED))
    assert found["icn-10000+final"].passes
    assert found["icn-10000+final"].changes[-1].fields["cable"]["csa"] == 6
    # Neither a larger breaking capacity than is needed, nor the load halved again and again.
    assert not {"icn-16000", "icn-25000"} & {part for o in found for part in o.split("+")}
    assert all(len(set(o.split("+"))) == len(o.split("+")) for o in found)


@pytest.mark.parametrize("most", [0, 1, 3, 10, 40])
def test_a_search_for_ways_out_keeps_to_its_work_and_says_that_it_was_cut(most: float) -> None:
    """Questions, single changes and pairs alike: one more piece of work at the most, and what was found until then is whole."""
    inputs = job(*(circuit(i, device={"kind": "mcb", "rating": 63}, spans=[{"length": 90}]) for i in "abcd"), supply={"ipf": 6000})
    effort = Effort(most)
    found = options(inputs, "a", effort=effort)
    assert effort.cut
    assert effort.spent <= most + 2 * len(inputs.circuits)
    whole = Effort()
    assert len(options(inputs, "a", effort=whole)) >= len(found)
    assert not whole.cut
    assert whole.spent > 40
