"""Circuits said in one line, and cells of a grid: what is understood, what is assumed, what is refused, and that nothing is ever guessed in silence."""

from __future__ import annotations

import re
from itertools import count
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mellow_span.core.design.check import check
from mellow_span.core.errors import RuleSetError
from mellow_span.core.model.changes import apply
from mellow_span.core.model.legs import paths
from mellow_span.core.model.parts import Board, Cable, Circuit, Device, Installation, Load, Route, Run, Span
from mellow_span.core.rulesets import HERE, rule_set
from mellow_span.core.rulesets.words import load_words
from mellow_span.core.said.cells import Column, columns_of, read_rows
from mellow_span.core.said.changes import hear
from mellow_span.core.said.line import Said, read_line
from tests.depth import examples

RULES = rule_set("bs7671")
HOUSE = Installation(name="House", boards=(Board(id="main", name="House board"), Board(id="far", name="Pottery studio")))
ROUTES = (Route(id="r", name="Landing joists", place="floor_void", length=7.5),)


def ids() -> Any:
    numbers = count(1)
    return lambda: f"new-{next(numbers)}"


def said(line: str) -> Said:
    return read_line(RULES, line, HOUSE.boards, ROUTES)


def facts(line: str) -> dict[str, Any]:
    """Everything a line says, flat, with loads and spans by their number."""
    found = said(line)
    flat = dict(found.circuit) | {f"device.{k}": v for k, v in found.device.items()} | {f"cable.{k}": v for k, v in found.cable.items()}
    for kind, parts in (("load", found.loads), ("span", found.spans)):
        flat |= {f"{kind}{i}.{k}": v for i, one in enumerate(parts) for k, v in one.items()}
    return flat


def test_the_line_of_the_brief_is_read_whole() -> None:
    found = said("shower 9.2kW b40 rcbo 30mA 10 flat: riser 3.2 masonry, loft 2.4 under quilt, landing 7.5 joists")
    assert found.circuit == {"name": "Shower"}
    assert found.device == {"idn": 0.03, "curve": "B", "rating": 40, "kind": "rcbo"}
    assert found.cable == {"family": "flat_twin_cpc_pvc70", "csa": 10}
    assert found.loads == [{"basis": "W", "amount": 9200, "kind": "shower", "name": "shower"}]
    assert [(s["name"], s["length"], s["place"]) for s in found.spans] == [
        ("riser", 3.2, "masonry"), ("loft", 2.4, "ceiling_thick"), ("landing", 7.5, "floor_void"),
    ]  # fmt: skip
    assert found.unread == ()
    assert len(found.assumed) == 2
    assert "over 100 mm, the worse" in found.assumed[1]


@pytest.mark.parametrize(
    ("line", "meant"),
    [
        # the device, in every order of its words
        ("b40", {"device.curve": "B", "device.rating": 40, "device.kind": "mcb"}),
        ("40b mcb", {"device.curve": "B", "device.rating": 40, "device.kind": "mcb"}),
        ("type c 16 mcb 10kA", {"device.curve": "C", "device.rating": 16, "device.icn": 10_000}),
        ("C16 RCBO 30 mA type A", {"device.curve": "C", "device.rating": 16, "device.idn": 0.03, "device.rcd_type": "A"}),
        ("100 mA delayed rcbo c63", {"device.idn": 0.1, "device.delayed": True, "device.rating": 63, "device.curve": "C"}),
        ("30 mA b20", {"device.kind": "rcbo", "device.rating": 20}),
        ("bs88-3 80", {"device.kind": "BS88-3", "device.rating": 80}),
        ("80 A bs 88-2", {"device.kind": "BS88-2", "device.rating": 80}),
        ("rewirable 30", {"device.kind": "BS3036", "device.rating": 30}),
        ("30A rewirable", {"device.kind": "BS3036", "device.rating": 30}),
        ("mccb 160", {"device.kind": "mccb", "device.rating": 160}),
        # the cable
        ("2.5/1.5 flat", {"cable.csa": 2.5, "cable.cpc_csa": 1.5, "cable.family": "flat_twin_cpc_pvc70"}),
        ("2,5mm² twin and earth", {"cable.csa": 2.5, "cable.family": "flat_twin_cpc_pvc70"}),
        ("t&e 6", {"cable.csa": 6, "cable.family": "flat_twin_cpc_pvc70"}),
        ("16 singles", {"cable.csa": 16, "cable.cpc_csa": 16, "cable.family": "single_pvc70"}),
        ("10 mm2 armoured 90 3 core", {"cable.csa": 10, "cable.cores": 3, "cable.family": "armoured_xlpe90"}),
        ("swa 4", {"cable.csa": 4, "cable.family": "armoured_pvc70"}),
        ("10 flat cpc 6", {"cable.csa": 10, "cable.cpc_csa": 6}),
        # the loads
        ("6 x 8 W lights pf 0.9", {"load0.quantity": 6, "load0.amount": 8, "load0.pf": 0.9, "load0.kind": "lighting"}),
        ("2 off 3kw immersion", {"load0.quantity": 2, "load0.amount": 3000, "load0.kind": "water_heater"}),
        ("13 A heater b16", {"load0.amount": 13, "load0.basis": "A", "load0.kind": "heating", "device.rating": 16}),
        ("38 A heater", {"load0.amount": 38, "load0.basis": "A"}),
        ("32A cooker 6 flat", {"device.rating": 32, "load0.kind": "cooking"}),
        ("kiln 9.2kW + wheel 400 W later", {"load0.amount": 9200, "load1.amount": 400, "load1.future": True, "load1.kind": "motor"}),
        ("9.5kW at 240 V shower b40", {"load0.amount": 9500, "load0.rated_volts": 240, "load0.kind": "shower", "name": "Shower"}),
        ("shower 9.5 kW 240v b40 10 flat", {"load0.rated_volts": 240, "device.rating": 40, "cable.csa": 10}),
        ("three-phase 9 kW at 415 volts water heater", {"load0.rated_volts": 415, "phases": 3}),
        ("cooker 11.5 kW in full b32", {"diversified": False, "load0.kind": "cooking", "name": "Cooker"}),
        ("cooker 11.5 kW after diversity", {"diversified": True}),
        ("4 downlights", {"load0.quantity": 4, "load0.kind": "lighting"}),
        ("kitchen sockets b32", {"load0.kind": "sockets", "load0.basis": "In", "name": "Kitchen sockets"}),
        ("kitchen ring b32 2.5 flat", {"shape": "ring", "name": "Kitchen ring", "load0.kind": "sockets", "load0.basis": "In"}),
        ("underfloor heating 1.2kW", {"load0.kind": "floor_heating"}),
        # the circuit
        ("heater 3kW three-phase", {"phases": 3}),
        ("heater 3kW on L2", {"phase": "L2"}),
        ("existing cooker 7kW", {"existing": True, "name": "Cooker"}),
        # spans
        ("x: trench 12 m at 15 °C", {"span0.place": "buried", "span0.ground": 15, "span0.length": 12}),
        ("x: 3 clipped 35 C", {"span0.place": "masonry", "span0.ambient": 35}),
        ("x: tray 4 with 2 others", {"span0.group": 3, "span0.place": "tray"}),
        ("x: 5 circuits bunched in trunking 4", {"span0.group": 5, "span0.laid": "bunched", "span0.place": "conduit"}),
        ("x: stud 250 cm wrapped 0.3", {"span0.length": 2.5, "span0.wrapped": 0.3, "span0.place": "stud_adrift"}),
        ("x: landing joists", {"span0.route": "r"}),
        ("x: in the landing joists 6.2", {"span0.route": "r", "span0.length": 6.2}),
        ("lights 20 W b6 1.5 flat 12m under thick quilt", {"span0.length": 12, "span0.place": "ceiling_thick", "name": "Lights"}),
        (
            "cooker 7kW b32, 6 flat, 4 m stud, 6.5 m joists",
            {"span0.place": "stud_adrift", "span1.length": 6.5, "span1.place": "floor_void"},
        ),
    ],
)
def test_words_of_the_trade_in_any_order(line: str, meant: dict[str, Any]) -> None:
    found = facts(line)
    assert {k: found.get(k) for k in meant} == meant


@pytest.mark.parametrize(
    ("line", "told"),
    [
        ("b40", "taken as an MCB"),
        ("40 rcbo 30mA", "taken as type B"),
        ("16 singles", "a single of 16 mm²"),
        ("swa 4", "taken as 70 °C, the worse"),
        ("x: stud 4", "taken as not touching, the worse"),
        ("x: loft insulation 4", "over 100 mm, the worse"),
        ("cooker 32A", "32 A was taken as the rating"),
        ("heater b16", "no rating given for the heater"),
        ("sockets b32", "count the full device rating"),
        ("10 b40", "10 without a unit was taken as 10 mm²"),
        ("b45", "no table has a MCB of 45 A"),
        ("12 flat", "no table has flat twin & earth of 12 mm²"),
        ("x: stud", "no length given"),
        ("9.2kW shower", "label volts of the shower not given"),
        ("cooker 7kW b32", "after the usual allowance in a household"),
        ("x: hall 4", "installation method of “hall” still to choose"),
    ],
)
def test_what_is_assumed_is_told_and_taken_the_worse_way(line: str, told: str) -> None:
    assert any(told in one for one in said(line).assumed), said(line).assumed


def test_what_is_not_read_is_named_with_its_place_and_the_rest_stands() -> None:
    line = "shower 9.2kW b40 10 flat 77: riser 3.2 masonry 9"
    found = said(line)
    assert [(u.text, line[u.start : u.end]) for u in found.unread] == [("77", "77"), ("9", "9")]
    assert found.device["rating"] == 40
    assert found.spans[0]["length"] == 3.2


def test_a_decimal_comma_is_none_between_spans() -> None:
    assert [s["length"] for s in said("x: riser 3,2 masonry, loft 2,4 tray").spans] == [3.2, 2.4]


def test_every_phrase_of_the_words_leads_to_what_it_names() -> None:
    """Each phrase alone, as it stands in the data: a longer one or another section must not swallow it."""
    words = RULES.words
    for phrase in words.places:
        assert said(f"x: {phrase.text} 4").spans[0].get("place") == phrase.means, phrase
    for phrase in words.families:
        assert said(f"6 {phrase.text}").cable.get("family") == phrase.means, phrase
    for phrase in words.loads:
        assert said(f"{phrase.text} 100 W").loads[0]["kind"] == phrase.means, phrase
    for phrase in words.devices:
        assert said(f"{phrase.text} 20").device.get("kind") == phrase.means, phrase


@examples(120)
@given(st.text(max_size=120))
def test_any_text_is_read_without_harm_and_its_words_stand_in_it(line: str) -> None:
    found = read_line(RULES, line, HOUSE.boards, ROUTES)
    for word in (*found.words, *found.unread):
        assert found.line[word.start : word.end] == word.text
    heard = hear(RULES, HOUSE, [line], None, ids())
    for one in heard:
        assert one.circuit is None or apply(HOUSE, one.changes, RULES.choices)


def test_a_list_of_lines_builds_a_house_with_its_sub_main() -> None:
    """The studio of Orchard Row from an empty job: the lines after 'from' start there, the board that is fed is made by its name."""
    job = Installation(name="Row", boards=(Board(id="main", name="House board"),))
    lines = [
        "# the studio", "", "studio feed b63 mcb 16 armoured 90 3 core feeding Pottery studio: garage wall 4 masonry, garden 22 trench",
        "from Pottery studio", "kiln 9.2 kW b40 rcbo 30mA 6 singles: conduit 6.5", "lights 4 x 10 W b6 rcbo 30mA 1.5 flat 9 m joists",
        "from Nowhere: lamp 20W",
    ]  # fmt: skip
    heard = hear(RULES, job, lines, None, ids())
    assert [h.circuit is not None for h in heard] == [True, False, True, True, False]
    assert heard[4].why == "there is no board called “Nowhere”; there are: House board, Pottery studio"
    after, _ = apply(job, [c for h in heard for c in h.changes], RULES.choices)
    studio = next(b for b in after.boards if b.name == "Pottery studio")
    assert {c.name: (c.board, c.feeds) for c in after.circuits} == {
        "Studio feed": ("main", studio.id), "Kiln": (studio.id, None), "Lights": (studio.id, None),
    }  # fmt: skip
    assert check(after, keep=False).circuits[1].ib == pytest.approx(40.0)


def test_a_line_the_model_refuses_changes_nothing() -> None:
    heard = hear(RULES, HOUSE, ["lamp 20W: trench 5000 m"], None, ids())
    assert heard[0].changes == ()
    assert "allowed" in heard[0].why


# Cells of the grid -----------------------------------------------------------------------------------------------------------

FULL = Installation(
    name="House",
    boards=(Board(id="main", name="House board"),),
    circuits=(
        Circuit(
            id="c", name="Cooker", board="main", device=Device(kind="rcbo", curve="B", rating=32, idn=0.03),
            loads=(Load(id="l", name="cooker", kind="cooking", amount=7000),),
            run=Run(id="r", spans=(Span(id="a", place="masonry", length=4), Span(id="b", place="timber", length=6))),
        ),
    ),
)  # fmt: skip


def typed(column: Column, text: str) -> tuple[Installation, str]:
    """The job after a cell of the one circuit was typed, and why it was refused."""
    row = read_rows(RULES, FULL, [[text]], [column], ["c"], "main", ids())[0]
    return apply(FULL, row.changes, RULES.choices)[0], row.cells[0].why


@pytest.mark.parametrize(
    ("column", "text", "field", "value"),
    [
        ("name", "Range", "name", "Range"),
        # a number alone keeps kind and type; a type alone keeps the RCBO
        ("device", "40", "device", Device(kind="rcbo", curve="B", rating=40, idn=0.03)),
        ("device", "c25", "device", Device(kind="rcbo", curve="C", rating=25, idn=0.03)),
        ("device", "b20 mcb", "device", Device(kind="mcb", curve="B", rating=20, idn=0.03)),
        ("phase", "L3", "phase", "L3"),
        ("phase", "3", "phases", 3),
    ],
)
def test_a_cell_is_read_like_a_line(column: Column, text: str, field: str, value: Any) -> None:
    job, why = typed(column, text)
    assert why == ""
    assert getattr(job.circuits[0], field) == value


def test_a_load_cell_keeps_the_load_it_changes() -> None:
    job, _ = typed("load", "8 kW cooker + 60 W lights")
    assert [(x.id, x.amount) for x in job.circuits[0].loads] == [("l", 8000), ("new-1", 60)]
    assert typed("load", "")[0].circuits[0].loads == ()


def test_a_cell_for_several_spans_holds_one_part_for_each() -> None:
    job, why = typed("length", "5 + 7.5")
    assert why == ""
    assert [s.length for s in job.circuits[0].run.spans] == [5, 7.5]
    assert typed("length", "9")[1] == "the run has 2 spans: give a length of each, with + between them"
    job, why = typed("place", "stud + trench")
    assert [s.place for s in job.circuits[0].run.spans] == ["stud_adrift", "buried"]


@pytest.mark.parametrize(
    ("column", "text", "told"),
    [
        ("device", "b40 please", "“please” was not understood"),
        ("cable", "10 blue", "“blue” was not understood"),
        ("length", "far + 4", "is not a length in metres"),
        ("length", "4 + 99999", "allowed"),
        (
            "place",
            "somewhere + trench",
            "is not a known installation method; try clipped, in joists, under thick quilt, stud, conduit, tray, trench",
        ),
        ("phase", "L9", "say L1, L2, L3"),
    ],
)
def test_a_bad_cell_is_told_and_changes_nothing(column: Column, text: str, told: str) -> None:
    job, why = typed(column, text)
    assert told in why
    assert job == apply(FULL, [])[0]


def test_pasted_rows_with_heads_take_the_good_cells_of_a_bad_row() -> None:
    heads = columns_of(["Circuit", "Breaker", "Notes", "Size", "Length"])
    assert heads == ["name", "device", None, "cable", "length"]
    rows = [["Shed", "b16 rcbo 30mA", "ask", "2.5 flat", "12"], ["Pond", "b16 maybe", "", "2.5 flat", "x"], ["", "", "", "", ""]]
    found = read_rows(RULES, FULL, rows, heads or [], [], "main", ids())
    assert [[c.why != "" for c in row.cells] for row in found] == [[False] * 4, [False, True, False, True]]
    job, _ = apply(FULL, [c for row in found for c in row.changes], RULES.choices)
    assert [(c.name, c.device.rating, c.run.cable.csa) for c in job.circuits[1:]] == [("Shed", 16, 2.5), ("Pond", None, 2.5)]
    assert columns_of(["Shed", "b16", "2.5"]) is None


def test_a_word_for_nothing_or_for_two_things_is_no_rule_set(tmp_path: Any) -> None:
    text = (HERE / "bs7671" / "words.toml").read_text("utf-8")
    known = {"place": RULES.places, "family": RULES.families, "device": RULES.devices, "laid": RULES.laid, "load": RULES.words.load_titles}
    for bad, why in (
        (text.replace('tray = ["perforated tray"', 'trays = ["perforated tray"'), "no such place"),
        (text.replace('duct = ["in a duct"', 'duct = ["trench", "in a duct"'), "says twice"),
    ):
        path = tmp_path / "words.toml"
        path.write_text(bad, "utf-8")
        with pytest.raises(RuleSetError, match=why):
            load_words(path, known)


def test_a_kiln_is_no_cooker_it_counts_in_full() -> None:
    """The allowance for cooking is for what is cooked on by turns; a kiln draws for hours."""
    found = read_line(RULES, "kiln 9.2 kW b40 rcbo")
    assert found.loads[0]["kind"] == "other"
    assert found.circuit["name"] == "Kiln"


def test_the_name_is_told_where_its_words_say_the_load_as_well() -> None:
    told = {w.text: w.told for w in read_line(RULES, "towel rail 120W b6").words}
    assert told["towel rail"] == "load: heater; name: Towel rail"
    assert "rail" not in told


@pytest.mark.parametrize("family", RULES.families.values(), ids=lambda f: f.id)
def test_a_family_is_read_by_its_title_with_each_of_its_sizes(family: Any) -> None:
    for csa in family.sizes:
        found = read_line(RULES, f"b6 {csa:g} {family.title}").cable
        assert (found["family"], found["csa"]) == (family.id, csa)


@pytest.mark.parametrize("place", RULES.places.values(), ids=lambda p: p.id)
def test_a_place_is_read_by_its_title(place: Any) -> None:
    job, why = typed("place", f"{place.title} + {place.title}")
    assert why == ""
    assert [s.place for s in job.circuits[0].run.spans] == [place.id, place.id]


@pytest.mark.parametrize(
    ("line", "loads"),
    [
        # A number of watts after it, or sockets: two loads. Else the name of one.
        ("350 W boiler and pump b6", [("boiler and pump", 350)]),
        ("boiler 350 W and pump 60 W b6", [("boiler", 350), ("pump", 60)]),
        ("lights 60 W and sockets b16", [("lights", 60), ("sockets", None)]),
        ("kiln 9.2kW and wheel 400W b40", [("kiln", 9200), ("wheel", 400)]),
    ],
)
def test_and_sets_loads_apart_only_where_another_amount_follows(line: str, loads: list[tuple[str, float | None]]) -> None:
    assert [(x["name"], x.get("amount")) for x in read_line(RULES, line).loads] == loads


def test_several_lights_are_lights_as_one_is() -> None:
    """Taken for anything else they would be let have 5 % of volt drop instead of 3 %."""
    for line in ("4 x 150 W floodlights b6", "150 W floodlight b6", "6 x 8 W downlight b6"):
        assert read_line(RULES, line).loads[0]["kind"] == "lighting"


def test_a_load_whose_name_stays_keeps_what_it_is() -> None:
    """A water heater entered as a shower for its diversity is one still when only its watts are typed anew."""
    job, _ = typed("load", "8 kW shower unit")
    load = Load(id="l", name="water heater", kind="shower", amount=7200)
    circuit = Circuit(id="c", board="main", loads=(load,), run=job.circuits[0].run)
    job = Installation(boards=(Board(id="main", name="House board"),), circuits=(circuit,))
    [row] = read_rows(RULES, job, [["6 kW water heater"]], ["load"], ["c"], "main", ids())
    found = apply(job, row.changes, RULES.choices)[0].circuits[0].loads[0]
    assert (found.kind, found.amount) == ("shower", 6000)
    [row] = read_rows(RULES, job, [["6 kW water heater, upstairs"]], ["load"], ["c"], "main", ids())
    assert apply(job, row.changes, RULES.choices)[0].circuits[0].loads[0].kind == "water_heater"


@pytest.mark.parametrize(
    ("cable", "text", "csa", "cpc_csa"),
    [
        # the same size: nothing moves, whatever its cpc is
        ({"family": "single_pvc70", "csa": 4, "cpc_csa": 2.5, "cpc": "separate"}, "4 singles, 70 °C", 4, 2.5),
        # another size of singles: the cpc as the lines, until somebody says another
        ({"family": "single_pvc70", "csa": 4, "cpc_csa": 2.5, "cpc": "separate"}, "6 singles, 70 °C", 6, 6),
        ({"family": "single_pvc70", "csa": 4, "cpc_csa": 2.5, "cpc": "separate"}, "6/4 singles, 70 °C", 6, 4),
        # a metal conduit stays the cpc
        ({"family": "single_pvc70", "csa": 4, "cpc": "conduit", "conduit": 20}, "6", 6, None),
        # from singles to a cable with its own cpc
        ({"family": "single_pvc70", "csa": 4, "cpc_csa": 2.5, "cpc": "separate"}, "6 flat", 6, None),
    ],
)
def test_a_cable_cell_moves_the_cpc_only_with_the_size(cable: dict[str, Any], text: str, csa: float, cpc_csa: float | None) -> None:
    circuit = Circuit(id="c", board="main", run=Run(id="r", cable=Cable(**cable), spans=(Span(id="s", length=5, place="masonry"),)))
    job = Installation(boards=(Board(id="main", name="House board"),), circuits=(circuit,))
    [row] = read_rows(RULES, job, [[text]], ["cable"], ["c"], "main", ids())
    assert row.cells[0].why == ""
    found = apply(job, row.changes, RULES.choices)[0].circuits[0].run.cable
    assert (found.csa, found.cpc_csa) == (csa, cpc_csa)
    assert (found.cpc, found.conduit) == (circuit.run.cable.cpc, circuit.run.cable.conduit)


def test_cells_that_say_what_stands_change_nothing_even_in_a_route() -> None:
    route = Route(id="r", name="Joists", place="floor_void", length=7.5)
    spans = (Span(id="a", route="r"), Span(id="b", place="masonry", length=2), Span(id="d"))
    circuit = Circuit(id="c", board="main", run=Run(id="run", spans=spans))
    job = Installation(boards=(Board(id="main", name="House board"),), circuits=(circuit,), routes=(route,))
    void, wall = RULES.places["floor_void"].title, RULES.places["masonry"].title
    [row] = read_rows(RULES, job, [["7.5 + 2 + ?", f"{void} + {wall} + not chosen"]], ["length", "place"], ["c"], "main", ids())
    assert [cell.why for cell in row.cells] == ["", ""]
    assert row.changes == ()
    # One part of several may be said anew; what a route has is changed there.
    [row] = read_rows(RULES, job, [["7.5 + 3 + ?", f"{wall} + {wall} + not chosen"]], ["length", "place"], ["c"], "main", ids())
    assert [c.fields for c in row.changes] == [{"length": 3.0}]
    assert row.cells[1].why.startswith("set by its route")


@pytest.mark.parametrize("line", ["9.2kW at 240 V shower", "cooker 7kW in full at 230 V", "lights 60 W", "13 A heater"])
def test_what_was_said_of_a_label_or_an_allowance_is_not_assumed(line: str) -> None:
    assert not any("label" in one or "allowance" in one for one in said(line).assumed)


# Runs that branch -----------------------------------------------------------------------------------------------------------------


def tree(line: str) -> list[tuple[str, float | None, int | None, str]]:
    return [(x["name"], x.get("length"), x.get("after"), x.get("box", "")) for x in read_line(RULES, line).spans]


@pytest.mark.parametrize(
    ("tail", "wanted"),
    [
        ("a 6, box A [b 4, c 5], d 7", [("a", 6, None, "box A"), ("d", 7, None, ""), ("b", 4, 0, ""), ("c", 5, None, "")]),
        ("a 6 [b 4 [c 3], d 5] [e 2]", [("a", 6, None, ""), ("b", 4, None, ""), ("d", 5, None, ""), ("e", 2, 0, ""), ("c", 3, 1, "")]),
        ("a 6, joint, b 4", [("a", 6, None, "joint"), ("b", 4, None, "")]),
        ("a 6, box 2 [b 4", [("a", 6, None, "box 2"), ("b", 4, None, "")]),
        ("a 6, box room 4 m [b 1,5]", [("a", 6, None, ""), ("box room", 4, None, ""), ("b", 1.5, None, "")]),
    ],
)
def test_a_run_that_branches_is_said_with_brackets(tail: str, wanted: list[Any]) -> None:
    assert tree(f"lights 100W b6 1.5 flat: {tail}") == wanted


def test_what_was_said_of_branches_becomes_the_tree() -> None:
    house = Installation(boards=(Board(id="b"),))
    names = (str(k) for k in count())
    (heard,) = hear(RULES, house, ["lights 12x8W b6 rcbo 1.5 flat: joists 6, box A [landing 4, bath 5], hall 7"], "b", lambda: next(names))
    run = apply(house, heard.changes)[0].circuits[0].run
    by_id = {span.id: span.name or span.box for span in run.spans}
    assert [[by_id[s.id] for s in path.spans] for path in paths(run)] == [["box A", "hall"], ["box A", "landing", "bath"]]


@given(st.lists(st.sampled_from(["a 6", "b 4 timber", "[", "]", ",", "box A", "joint", "12", "foo", ";", "0,5", "m"]), max_size=14))
@examples(200)
def test_whatever_brackets_are_typed_no_word_is_lost_and_the_tree_is_one(words: list[str]) -> None:
    line = "lights 100W b6 1.5 flat: " + " ".join(words)
    said = read_line(RULES, line)
    for k, span in enumerate(said.spans):
        assert span.get("after", 0) in range(k) or "after" not in span
    covered = {k for w in (*said.words, *said.unread) for k in range(w.start, w.end)}
    for match in re.finditer(r"[^\s,;:\[\]]+", line):
        assert covered & set(range(*match.span())), match[0]


@pytest.mark.parametrize(
    ("line", "struck", "field", "value"),
    [
        ("feed 80A bs88-2 100A 16 swa: duct 4", "100A", "device.rating", 80.0),
        ("feed 80 A bs88-3 fuse 63: duct 4", "63", "device.rating", 80.0),
        ("ev 7.4kW b40 10 swa 5 core: duct 12", "5 core", "cable.csa", 10.0),
        ("ev 7.4kW b40 10 swa 12 cores: duct 12", "12 cores", "cable.csa", 10.0),
    ],
)
def test_what_is_said_twice_or_not_tabulated_is_struck_and_never_swallowed(line: str, struck: str, field: str, value: float) -> None:
    found = read_line(RULES, line)
    assert [u.text for u in found.unread] == [struck]
    assert facts(line)[field] == value
    assert "core" not in str(found.circuit.get("name", "")).lower()


def test_cores_are_read_however_they_are_written() -> None:
    for told in ("3 core", "3-core", "3core", "3c", "3 cores"):
        assert read_line(RULES, f"ev 7.4kW b40 10 swa {told}: duct 12").cable["cores"] == 3, told


@pytest.mark.parametrize(
    ("line", "name", "kept"),
    [
        ("Bedroom 2 sockets b20 rcbo 2.5 flat: wall 12 masonry", "Bedroom 2 sockets", {"load.quantity": 1}),
        ("flat 3 lights 10x6W b6 rcbo 1.5 flat: riser 8 conduit", "Flat 3 lights", {"load.quantity": 10, "load.amount": 6.0}),
        ("room 12b heater 2kW b16 rcbo 2.5 flat: wall 4 masonry", "Room 12b heater", {"load.amount": 2000.0}),
        # What is a figure stays one: sizes, ratings, counts, watts.
        ("shed 16 swa b40 3kW: duct 20", "Shed", {"cable.csa": 16.0}),
        ("heater 3kW 2.5 flat 16A rcbo: wall 4 masonry", "Heater", {"device.rating": 16.0, "cable.csa": 2.5}),
        ("room 3 x 8W lights b6 1.5 flat: hall 4 masonry", "Room lights", {"load.quantity": 3, "load.amount": 8.0}),
        ("flat 2 kW heater b16 2.5 flat: wall 4 masonry", "Flat heater", {"load.amount": 2000.0}),
        ("kitchen 2 sockets b20 rcbo 2.5 flat: wall 12 masonry", "Kitchen sockets", {"load.quantity": 2}),
    ],
)
def test_a_number_that_belongs_to_a_name_stays_in_it(line: str, name: str, kept: dict[str, Any]) -> None:
    found = read_line(RULES, line)
    assert not found.unread
    assert found.circuit["name"] == name
    read = {
        f"{kind}.{k}": v
        for kind, fields in (("load", found.loads[0]), ("device", found.device), ("cable", found.cable))
        for k, v in fields.items()
    }
    for field, value in kept.items():
        assert read.get(field, 1) == value, field
    assert all(ord(c) < 0xE000 for word in found.words for c in word.told + word.text)


def test_the_section_of_a_divided_board_is_said() -> None:
    assert read_line(RULES, "ring 32A b32 2.5 flat behind RCD 2: joists 40").circuit["section"] == 2
    assert read_line(RULES, "lights 100W b6 1.5 flat on rcd 1: hall 4 masonry").circuit["section"] == 1
    plain = read_line(RULES, "shower 9.2kW b40 rcd 30mA 10 flat: hall 4 masonry")
    assert "section" not in plain.circuit


def test_rooms_of_a_run_are_numbered_where_metres_follow() -> None:
    found = read_line(RULES, "lights 100W b6 1.5 flat: riser 4 conduit, bedroom 2, bedroom 3 6 masonry, bed 4 2,5 m masonry")
    assert [(s["name"], s["length"]) for s in found.spans] == [("riser", 4), ("bedroom", 2), ("bedroom 3", 6), ("bed 4", 2.5)]


def test_boards_and_routes_with_a_number_are_known_by_it() -> None:
    boards = (Board(id="b", name="Flat 2 board"), Board(id="c", name="Flat 3 board"))
    found = read_line(RULES, "lights 100W b6 1.5 flat from flat 3 board: hall 4 masonry", boards)
    assert found.board == "flat 3 board"
    routes = (Route(id="k", name="Riser flat 2", length=5.0),)
    spans = read_line(RULES, "lights 100W b6 1.5 flat: riser flat 2, hall 4 masonry", boards, routes).spans
    assert spans[0]["route"] == "k"


@pytest.mark.parametrize(
    ("span", "place", "told"),
    [
        ("loft 6", "ceiling_thick", True), ("loft 6 under foam board", "ceiling_thick", True), ("hall 4 behind plasterboard", "stud_adrift", True),
        # A word that does name a place, and a route, come first.
        ("loft 6 in conduit", "conduit", False), ("loft 6 under thin quilt", "ceiling_thin", False), ("plasterboard 3 masonry", "masonry", False),
    ],
)  # fmt: skip
def test_a_word_that_hints_at_a_place_is_taken_the_worse_way_and_stays_in_the_name(span: str, place: str, told: bool) -> None:
    found = read_line(RULES, f"lights 100W b6 1.5 flat: {span}")
    assert found.spans[0]["place"] == place
    assert any("not given: taken as" in one and "the worse" in one for one in found.assumed) is told
    assert found.spans[0]["name"].split()[0] == span.split()[0]
    inside = read_line(RULES, "lights 100W b6 1.5 flat: loft 6", (), (Route(id="k", name="loft"),))
    assert "place" not in inside.spans[0]


# Another cable along the way ------------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("line", "wanted"),
    [
        (
            "lights 8x10W b6 rcbo 1.5 flat: hall 6 masonry, box A, 4 armoured 3 core from here resin, garden 20 duct",
            {"cable.csa": 1.5, "span0.box": "box A", "span1.own_family": "armoured_pvc70", "span1.own_csa": 4, "span1.own_cores": 3,
             "span1.joint": "resin", "span1.length": 20, "span1.name": "garden"},
        ),
        ("lights 1x10W b6 1.5 flat: hall 6, garden 20 duct 2.5 armoured xlpe from here on", {"span1.own_csa": 2.5, "span1.own_family": "armoured_xlpe90"}),
        ("y 1kW b16 4 flat: hall 6 [1.5 flat from here crimped joint, loft 4], attic 5", {"span2.own_csa": 1.5, "span2.joint": "crimped", "span2.after": 0}),
        ("y 1kW b16 4 flat: hall 6, 2.5/1.5 flat from here maintenance free joint, loft 4", {"span1.own_cpc_csa": 1.5, "span1.joint": "maintenance_free"}),
    ],
)  # fmt: skip
def test_another_cable_is_said_along_the_way(line: str, wanted: dict[str, Any]) -> None:
    found = facts(line)
    assert {k: found.get(k) for k in wanted} == wanted
    assert said(line).unread == ()
    # The cable of the whole run is the one that was said before the way.
    assert not any(k.startswith("own_") for k in found)


def test_a_cable_that_goes_nowhere_or_is_none_is_struck() -> None:
    assert [u.text for u in said("y 1kW b16 4 flat: hall 6, 2.5 flat from here").unread] == ["2.5 flat from here"]
    assert [u.text for u in said("y 1kW b16 4 flat: hall 6, from here, garden 3").unread] == ["from here"]
