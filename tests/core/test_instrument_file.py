"""Files of instruments: whatever they look like they are read as they are meant, told line by line, and nothing that may mean two things is guessed."""

from __future__ import annotations

import random
from pathlib import Path
from typing import Any

import pytest

from mellow_span.core.errors import InputError
from mellow_span.core.site.readings import TITLES, UNITS
from mellow_span.exchange.document import read_file
from mellow_span.exchange.instrument_file import QUANTITIES, decoded, figures_of, quantity_called, read_instrument
from mellow_span.exchange.readings import entries_of, readings_of

NOW = "2026-05-01T08:00:00+00:00"


def house() -> Any:
    import json

    return read_file(json.loads(Path("mellow_span/demo/orchard_row.json").read_text("utf-8")))[0]


def one(cell: str, quantity: str = "zs", head: str = "value") -> Any:
    (line,) = read_instrument(f"circuit\tquantity\t{head}\nA4\t{quantity}\t{cell}\n".encode()).lines
    return line


@pytest.mark.parametrize(
    ("cell", "quantity", "value", "over"),
    [
        ("0.35", "zs", 0.35, False), ("0.35 Ω", "zs", 0.35, False), ("0.35ohm", "zs", 0.35, False), ("350 mΩ", "zs", 0.35, False), ("1.2 kΩ", "zs", 1200, False),
        ("0,35", "zs", 0.35, False), ("0,350", "zs", 0.35, False), (">20.0", "zs", 20, True), ("> 999 MΩ", "ir_le", 999, True), ("≥ 200", "ir_le", 200, True),
        ("1.5 GΩ", "ir_le", 1500, False), ("500 kΩ", "ir_le", 0.5, False), ("24.4 ms", "rcd_1", 24.4, False), ("0.03 s", "rcd_1", 30, False), ("0.74 kA", "ipf", 740, False),
        ("1,234.5", "ipf", 1234.5, False), ("1 234", "ipf", 1234, False), ("1.234,5", "ipf", 1234.5, False), ("12,34", "ipf", 12.34, False), ("0,001", "zs", 0.001, False),
    ],
)  # fmt: skip
def test_a_figure_is_read_with_its_unit(cell: str, quantity: str, value: float, over: bool) -> None:
    line = one(cell, quantity)
    assert (line.wrong, line.asks) == ("", None)
    assert line.value == pytest.approx(value)
    assert line.over is over


@pytest.mark.parametrize("cell", ["OL", "o.L", "OVER", "Open", "∞"])
def test_past_the_range_is_never_a_figure(cell: str) -> None:
    line = one(cell, "ir_le")
    assert (line.value, line.over, line.wrong) == (None, True, "")


@pytest.mark.parametrize(
    ("cell", "ok"), [("pass", True), ("PASS", True), ("✓", True), ("yes", True), ("fail", False), ("✗", False), ("No", False)]
)
def test_pass_and_fail_answer_a_test_without_a_figure(cell: str, ok: bool) -> None:
    assert one(cell, "polarity").ok is ok


@pytest.mark.parametrize("cell", ["0.35 V", "lots", "1.2.3", "12..3", "1,23,4", "0.5 mΩ", "3 apples", "--3", "-0.2", "1e3", "NaN"])
def test_what_is_no_figure_of_its_test_is_told_and_never_taken(cell: str) -> None:
    line = one(cell, "ir_le")
    assert line.wrong, line
    assert line.value is None


def test_a_resistance_in_megohms_is_no_milliohms() -> None:
    assert one("5 Mohm", "r1r2").value == 5e6
    assert one("5 mohm", "r1r2").value == 0.005
    assert one("5 mohm", "ir_le").wrong, "which of the two it is nobody can tell"


@pytest.mark.parametrize("cell", ["1,234", "12,345", "999,000"])
def test_a_comma_before_three_digits_is_asked_about(cell: str) -> None:
    line = one(cell, "ipf")
    assert line.value is None
    assert line.asks is not None
    whole, part = float(cell.replace(",", "")), float(cell.replace(",", "."))
    assert line.asks == (whole, part)
    content = f"circuit;quantity;value\nA4;ipf;{cell}\n".encode()
    assert [read_instrument(content, way).lines[0].value for way in ("point", "comma")] == [whole, part]  # type: ignore[arg-type]
    with pytest.raises(InputError, match="--decimal"):
        readings_of(content, house(), "", NOW)


def test_a_point_before_three_digits_is_asked_about_in_a_file_with_decimal_commas() -> None:
    cells = {"0,35": 0.35, "1.234": None, "12.5": 12.5, "24,4": 24.4}
    rows = "".join(f"A4;ipf;{cell}\n" for cell in cells)
    lines = read_instrument(f"circuit;quantity;value\n{rows}".encode()).lines
    assert [x.value for x in lines] == list(cells.values())
    assert lines[1].asks == (1.234, 1234.0)


@pytest.mark.parametrize("seed", range(200))
def test_a_figure_written_in_any_way_means_itself_or_is_asked_about(seed: int) -> None:
    dice = random.Random(seed)
    value = round(dice.choice([1, 10, 1000, 100_000]) * dice.random(), dice.choice([0, 1, 2, 3]))
    plain = f"{value:,.{dice.choice([0, 1, 2, 3])}f}"
    meant = float(plain.replace(",", ""))
    continental = plain.replace(",", "_").replace(".", ",").replace("_", dice.choice([".", " ", "\u202f", "'"]))
    for text, way in ((plain, "point"), (continental, "comma")):
        assert figures_of(text, way) == [meant], (text, way)  # type: ignore[arg-type]
        found = figures_of(text)
        # A point alone is a decimal point, unless the file has decimal commas.
        point_alone = "." in text and "," not in text
        assert meant in found or point_alone, text
        assert len(found) == 2 or found == [meant] or point_alone, text
        assert meant in figures_of(text, commas=True), text


def test_a_preamble_units_in_heads_and_a_column_for_each_test() -> None:
    text = "Tester 9\nExported, 2026\n\nCircuit No;Location;Zs (Ω);R1 + R2 [mΩ];IR L-PE;Colour\nA4;shower;0,35;121;>999;red\nA3;;OL;--;;\n"
    read = read_instrument(text.encode())
    assert (read.before, [kind for _, kind in read.columns]) == (3, ["circuit", "point", "Zs", "R1 + R2", "Insulation, line to earth", ""])
    assert [(x.line, x.circuit, x.quantity, x.value, x.over) for x in read.lines] == [
        (5, "A4", "zs", 0.35, False), (5, "A4", "r1r2", 0.121, False), (5, "A4", "ir_le", 999, True), (6, "A3", "zs", None, True),
    ]  # fmt: skip
    assert read.lines[0].more == {"point": "shower"}


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "utf-16-le", "utf-16-be", "cp1252"])
@pytest.mark.parametrize("sign", [",", ";", "\t"])
def test_encodings_separators_and_line_ends(encoding: str, sign: str) -> None:
    rows = [["circuit", "quantity", "value", "method"], ["A4", "zs", "0.35", "two½wire"], ["A3", "polarity", "pass", "×"]]
    for end in ("\n", "\r\n", "\r"):
        read = read_instrument(end.join(sign.join(row) for row in rows).encode(encoding))
        assert [(x.quantity, x.value, x.ok, x.more["method"]) for x in read.lines] == [
            ("zs", 0.35, None, "two½wire"),
            ("polarity", None, True, "×"),
        ]


def test_each_quantity_goes_by_its_title_its_name_and_its_aliases() -> None:
    for name, title in TITLES.items():
        assert quantity_called(title) == name, title
        assert quantity_called(name) == name
        assert quantity_called(name.upper()) == {"r1": "", "r2": "r2_lead"}.get(name, name), "R2 and r2 are not one test"
    every = [(alias, name) for name, aliases in QUANTITIES.items() for alias in aliases]
    assert len({alias for alias, _ in every}) == len(every), "no alias means two"
    assert {name for _, name in every} <= set(TITLES)
    for alias, name in every:
        assert quantity_called(alias) == name, alias
    assert set(UNITS) <= set(TITLES)


def test_boards_have_readings_too_and_strangers_are_told() -> None:
    read = read_instrument(b"circuit,test,result\nA,Ze,0.24\nHouse board,ipf,958\nZ9,zs,1\nA4,colour,red\nA4,ze,0.3\n")
    found = entries_of(read, house(), "Ann", NOW)
    assert [e.kind if e else None for _, e in found][:4] == ["board_reading", "board_reading", None, None]
    assert [one.of for one, e in found if e is None][:2] == ["circuit", "quantity"]
    with pytest.raises(InputError, match="line 4: circuit"):
        readings_of(b"circuit,test,result\nA,Ze,0.24\nHouse board,ipf,958\nZ9,zs,1\n", house(), "", NOW)


@pytest.mark.parametrize("content", [b"", b"\x00", b"a,b,c\n1,2,3\n", b"circuit,value\nA4,1\n", b"%PDF-1.4", b'circuit,zs\n"A4,1\n' * 3])
def test_a_file_without_such_a_table_is_refused(content: bytes) -> None:
    with pytest.raises(InputError):
        readings_of(content, house(), "", NOW)


@pytest.mark.parametrize("seed", range(60))
def test_no_file_breaks_the_reader(seed: int) -> None:
    dice = random.Random(seed)
    good = b"Circuit;Zs (ohm);IR L-E\r\nA4;0,35;>999\r\nA3;OL;1,234\r\n"
    content = bytearray(good)
    for _ in range(dice.randrange(1, 12)):
        content[dice.randrange(len(content))] = dice.randrange(256)
    decoded(bytes(content))
    try:
        read = read_instrument(bytes(content))
    except InputError:
        return
    entries_of(read, house(), "", NOW)
