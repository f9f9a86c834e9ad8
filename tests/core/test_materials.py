"""Materials: what a job takes, worked by hand; and what can be taken in the place of a cable that cannot be had."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from mellow_span import demo
from mellow_span.core.design.check import check
from mellow_span.core.design.prices import parse_book, shipped
from mellow_span.core.design.solving import changed
from mellow_span.core.errors import InputError
from mellow_span.core.model.parts import Installation
from mellow_span.core.site.materials import Need, materials, price_of, spacing
from mellow_span.core.site.pulls import pulls
from mellow_span.core.site.substitutes import substitutes
from mellow_span.exchange.document import read
from tests.build import circuit, job, submain

HOUSES = [p.stem for p in Path(demo.__file__).parent.glob("*.json")]


def needs(inputs: Installation) -> dict[str, Need]:
    return {n.key: n for n in materials(inputs, {p.circuit: p.cut for p in pulls(inputs) if p.cut is not None})}


def house(name: str) -> Installation:
    return read(json.loads((Path(demo.__file__).parent / f"{name}.json").read_text("utf-8")))


def test_cable_and_devices_are_counted_over_circuits() -> None:
    """Two runs of 10 m, each cut to 11.5; the third is there already."""
    found = needs(job(circuit("a"), circuit("b", loads=[{"future": True}]), circuit("old", existing=True)))
    assert (found["cable/flat_twin_cpc_pvc70/6"].count, found["cable/flat_twin_cpc_pvc70/6"].unit) == (23.0, "m")
    assert found["cable/flat_twin_cpc_pvc70/6"].where == ["A1", "A2 (later)"]
    assert found["device/mcb/B/1/32"].count == 2
    assert found["label/tag"].count == 4


def test_singles_are_line_and_neutral_and_a_cpc_and_three_phases_four() -> None:
    singles = {"family": "single_pvc70", "csa": 2.5, "cpc_csa": 1.5}
    spans: list[dict[str, Any]] = [{"place": "conduit", "length": 10}]
    found = needs(
        job(circuit("one", cable=singles, spans=spans), circuit("three", cable=singles, spans=spans, phases=3), supply={"phases": 3})
    )
    assert found["cable/single_pvc70/2.5"].count == pytest.approx(11.5 * 2 + 11.5 * 4)
    assert found["cpc/single_pvc70/1.5"].count == pytest.approx(23)


@pytest.mark.parametrize(
    ("ends", "cpc", "leads", "cores"), [("both", "usual", 2, 2), ("supply", "usual", 1, 2), ("both", "armour_and_core", 2, 3)]
)
def test_an_armoured_cable_has_a_kit_at_each_end_and_a_fly_lead_where_it_is_earthed(ends: str, cpc: str, leads: int, cores: int) -> None:
    """10 mm2 two-core: 18 mm over all, gland 20; in a duct, so with a seal; the fly-lead as the line, since it is not above 16."""
    found = needs(job(submain(armour_ends=ends, cable={"cpc": cpc}), boards=["b", "far"]))
    assert found["armour_gland/20w"].count == 2
    assert found["fly_lead/10"].count == leads
    assert f"cable/armoured_xlpe90/{cores}/10" in found


def test_a_tight_box_where_water_is_and_its_clause() -> None:
    found = needs(job(circuit("out", spans=[{"location": "outdoors"}], loads=[{"kind": "sockets", "quantity": 2}])))
    need = found["outlet/socket/13/IP66"]
    assert (need.count, need.note) == (2, "at least IP66 there (512.2)")


def test_conduit_by_lengths_bends_boxes_and_saddles() -> None:
    """10 m: four lengths of 3, three couplers; drawn in every 5 m: two pulls with two bends each, three boxes; saddles every 1.75 m."""
    route = {"id": "r", "name": "Riser", "kind": "conduit", "place": "conduit", "length": 10, "diameter": 25, "pull": 5, "bends": 2}
    singles = {"family": "single_pvc70", "csa": 2.5, "cpc_csa": 2.5}
    found = needs(job(circuit("a", cable=singles, spans=[{"route": "r", "length": None}]), routes=[route]))
    counts = {k: n.count for k, n in found.items() if n.group == "containment"}
    assert counts == {"conduit/25": 4, "conduit_coupler/25": 3, "conduit_bend/25": 4, "conduit_box/25": 3, "saddle/25": 7}
    assert all(n.usual for n in found.values() if n.group == "containment"), "usual sizes stay marked"


def test_fixings_are_closer_for_thin_cables_and_none_where_it_is_buried_or_hidden() -> None:
    assert (spacing("clip", 8), spacing("clip", 12), spacing("cleat", 18)) == (0.25, 0.3, 0.4)
    found = needs(job(circuit("a", spans=[{"length": 3}, {"place": "stud_touching", "length": 5}])))
    assert [(k, n.count) for k, n in found.items() if n.group == "fixings"] == [("clip/14", 11)]


def test_what_is_not_chosen_yet_is_said_not_guessed() -> None:
    found = needs(job(circuit("a", cable={"csa": None}, device={"rating": None}), circuit("b", spans=[{"length": None}])))
    assert found["cable/unknown"].note == "choose them first"
    assert found["device/unknown"].count == 1
    assert found["cable/flat_twin_cpc_pvc70/6"].note == "a length is not known yet"


@pytest.mark.parametrize("name", HOUSES)
def test_all_that_a_house_takes_has_a_price_in_the_book_that_ships(name: str) -> None:
    inputs = house(name)
    unpriced = [n.key for n in needs(inputs).values() if price_of(shipped(), n) is None]
    assert all("unknown" in key for key in unpriced), unpriced


def test_a_book_of_ones_own_prices_by_size_and_by_kind() -> None:
    book = parse_book("item,name,size,price\ncable,flat_twin_cpc_pvc70,6,2\ndevice,mcb,63,5\npart,clip,14,0.1\npart,clip,,0.2\n")
    assert book.price("cable/flat_twin_cpc_pvc70/6", 10) == 20
    assert (book.price("clip/14", 10), book.price("clip/9", 10)) == (1.0, 2.0)
    assert (book.price("device/mcb/B/1/40/30A", 2), book.price("device/mcb/B/1/80", 1), book.price("label/tag", 1)) == (10, None, None)


@pytest.mark.parametrize(
    ("line", "at"),
    [("cable,x,6,-1", 2), ("cable,x,6,nan", 2), ("cable,x,six,1", 2), ("tea,x,,1", 2), ("cable,x", 2), ("part,a,b,1\npart,a,b,1e9", 3)],
)
def test_a_line_of_a_book_that_is_wrong_is_named(line: str, at: int) -> None:
    with pytest.raises(InputError) as error:
        parse_book("item,name,size,price\n" + line)
    assert error.value.field == f"price book, line {at}"


def test_a_size_that_is_there_is_proved_by_every_check_of_the_whole_job() -> None:
    """6 mm2 clipped carries B32; 2.5 mm2 does not, and 10 mm2 does with more to spare."""
    inputs = job()
    offered = {f"cable/flat_twin_cpc_pvc70/{s}": p for s, p in (("2.5", 1.0), ("10", 4.0), ("16", 7.0))} | {
        "cable/multicore_pvc70/3/10": 0.5
    }
    found = substitutes(inputs, "cable/flat_twin_cpc_pvc70/6", offered)
    assert [(s.key.split("/")[-1], s.passes) for s in found] == [("10", True), ("16", True), ("2.5", False)]
    worst = found[-1].turned[0]
    assert (worst.after, worst.before) == ("short", "meets")
    after = check(changed(inputs, found[0].changes), keep=False)
    assert after.circuits[0].verdict in ("meets", "close")


def test_one_that_makes_another_circuit_short_does_not_pass() -> None:
    """A thinner sub-main hands more volt drop down: its own checks pass, the final behind it falls short."""
    inputs = job(
        submain(ib_from="device", spans=[{"place": "duct", "length": 60}], cable={"csa": 16}),
        circuit("f", board="far", spans=[{"length": 18}], cable={"csa": 6}), boards=["b", "far"],
    )  # fmt: skip
    now = {c.id: c.verdict for c in check(inputs, keep=False).circuits}
    assert "short" not in now.values()
    found = {
        s.key: s
        for s in substitutes(inputs, "cable/armoured_xlpe90/2/16", {"cable/armoured_xlpe90/2/10": 1.0, "cable/armoured_pvc70/2/25": 2.0})
    }
    thin = found["cable/armoured_xlpe90/2/10"]
    assert not thin.passes
    assert any(t.where.endswith("f") and t.after == "short" for t in thin.turned)
    assert found["cable/armoured_pvc70/2/25"].passes, "the same construction with the other insulation is offered too"


@pytest.mark.parametrize("key", ["cable/flat_twin_cpc_pvc70/4", "tea", "cable/x/y/z/1", ""])
def test_only_a_cable_of_the_job_can_be_replaced(key: str) -> None:
    with pytest.raises(InputError) as error:
        substitutes(job(), key, {})
    assert error.value.field == "key"


def test_the_command_line_counts_and_prices(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    from mellow_span import cli

    path = str(Path(demo.__file__).parent / "orchard_row.json")
    assert cli.main(["materials", path]) == 0
    said = capsys.readouterr().out
    assert "39 m      72.15  4 mm² flat twin & earth (A7, B2)" in said
    book = tmp_path / "book.csv"
    book.write_text("item,name,size,price\ncable,flat_twin_cpc_pvc70,4,10\n")
    assert cli.main(["materials", path, "--prices", str(book), "--json"]) == 0
    found = {n["key"]: n["cost"] for n in json.loads(capsys.readouterr().out)}
    assert (found["cable/flat_twin_cpc_pvc70/4"], found["label/tag"]) == (390.0, None)
    assert cli.main(["isolate", path, "a4"]) == 0
    assert "Prove the tester again" in capsys.readouterr().out
    assert cli.main(["isolate", path, "the moon"]) == 2
    assert "House board" in capsys.readouterr().err
