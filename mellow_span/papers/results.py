"""The results: what was read on site beside what the design predicts and the limits allow, then every reading by itself."""

from __future__ import annotations

from collections.abc import Sequence

from mellow_span.core.model.parts import Board, Circuit
from mellow_span.core.site.readings import TITLES, UNITS, YES_NO, CircuitTests, Quantity, Reading, Row, SiteTest
from mellow_span.papers.page import Block, Column, Item, Signature, Table, number, words
from mellow_span.papers.schedule import board_note, board_title, supply_facts
from mellow_span.papers.subject import Subject, day

# The columns, each with the quantities that answer it; of several readings the worst one stands there.
ASKED: tuple[tuple[str, str, tuple[Quantity, ...]], ...] = (
    ("r1", "Ω", ("r1",)), ("rn", "Ω", ("rn",)), ("r2", "Ω", ("r2",)), ("R1 + R2", "Ω", ("r1r2", "cross_le")), ("R2", "Ω", ("r2_lead",)),
    ("IR live–live", "MΩ", ("ir_ln", "ir_ll")), ("IR live–earth", "MΩ", ("ir_le", "ir_ne")), ("Polarity", "", ("polarity",)), ("Zs", "Ω", ("zs",)),
    ("Ipf", "A", ("ipf",)), ("RCD 1 × IΔn", "ms", ("rcd_1",)), ("RCD 5 × IΔn", "ms", ("rcd_5",)), ("RCD button", "", ("button",)),
    ("Functional", "", ("functional",)),
)  # fmt: skip
# Of these the smallest reading is the worst, of all others the largest.
LEAST = ("ir_ln", "ir_ll", "ir_le", "ir_ne")


def results(s: Subject, _: str) -> list[Block]:
    """Return the blocks of the results: the supply, each board with its circuits, every reading."""
    found: list[Block] = [supply_facts(s)]
    columns = [
        Column("No."),
        Column("Circuit", share=12),
        *(Column(title, unit) for title, unit, _ in ASKED),
        Column("Max measured Zs", "Ω"),
        Column("Full Zs limit", "Ω"),
        Column("Queries"),
        Column("Remarks", share=9),
    ]
    for board in s.job.boards:
        rows = [_row(s, c) for c in s.at_board(board) if not c.spare]
        found.append(Table(board_title(s, board), columns, rows, key=2, fine=True, note=board_note(s, board)))
    found.append(Table("At the boards", BOARDS, [row for b in s.job.boards for row in _board(s, b)], key=3))
    every = [row for c in s.laid.circuits if not c.spare for row in readings_of(s.tests[c.id])]
    every += [row for b in s.job.boards for row in readings_of(s.at_boards[b.id])]
    found.append(Table("All test results", READING, every, key=3, fine=True, note="" if every else "No test results yet."))
    found.append(Table("Tested by, with", TESTED, tested(s), key=2, note="" if every else "No test results yet."))
    found.append(Signature("Tested by"))
    return found


TESTED = (
    Column("By", share=18), Column("Instrument", share=22), Column("Serial no.", share=14), Column("Last check", share=14),
    Column("Test results"), Column("First", share=12), Column("Last", share=12),
)  # fmt: skip


def tested(s: Subject) -> list[list[Item]]:
    """Return who tested with which instrument, with its serial number and its last check, and from when to when; what nobody said is missing."""
    of: dict[tuple[str, ...], list[str]] = {}
    for found in (*s.tests.values(), *s.at_boards.values()):
        for one in (row for t in found.tests for row in t.rows if t.quantity not in YES_NO):
            r = one.reading
            of.setdefault((one.by, r.instrument, r.serial, r.checked), []).append(one.at)
    return [
        [
            words(by, missing="not said"), words(name, missing="not said"), words(serial, missing="not said"), words(checked, missing="not said"),
            Item(str(len(at)), float(len(at))), Item(day(min(at))), Item(day(max(at))),
        ]
        for (by, name, serial, checked), at in sorted(of.items())
    ]  # fmt: skip


def _row(s: Subject, circuit: Circuit) -> list[Item]:
    found = s.tests[circuit.id]
    zs = next((t for t in found.tests if t.quantity == "zs"), None)
    tests = asked_for(found.tests)
    cells = [worst(tests, asked) for _, _, asked in ASKED]
    both = [number(x, "Ω", needed=False) for x in ((zs.fine, zs.most) if zs else (None, None))]
    off = Item(str(found.off) if found.off else "–", float(found.off), verdict="short" if found.off else None)
    told = dict.fromkeys(t.rows[-1].reading.note for t in found.tests if t.rows and t.rows[-1].reading.note)
    return [Item(found.number), Item(found.name), *cells, *both, off, words("; ".join(told))]


def asked_for(tests: Sequence[SiteTest]) -> list[SiteTest]:
    """Return the tests that are to be read: R1 + R2 and R2 answer the same question, so of the two one that was read is enough."""
    read = {t.quantity for t in tests if t.rows}
    spared = "r2_lead" if "r1r2" in read else "r1r2" if "r2_lead" in read else ""
    return [t for t in tests if t.quantity != spared or t.rows]


BOARDS = (
    Column("Board"), Column("Name", share=18), Column("Test", share=20), Column("Reading"), Column("Unit"), Column("Design value"),
    Column("At most"), Column("Result", share=36),
)  # fmt: skip


def _board(s: Subject, board: Board) -> list[list[Item]]:
    tests = s.at_boards[board.id]
    return [
        [
            Item(tests.number), Item(tests.name), Item(t.title), cell_of(t, t.rows[-1]) if t.rows else Item("not tested", missing=True), Item(t.unit),
            number(t.predicted, t.unit, needed=False), number(t.most, t.unit, needed=False), words(t.text if t.rows else ""),
        ]
        for t in tests.tests
    ]  # fmt: skip


def worst(tests: Sequence[SiteTest], asked: Sequence[Quantity]) -> Item:
    """Return the worst of the last readings of some quantities: missing where one that is asked for was not read, a dash where none is asked for."""
    mine = [t for t in tests if t.quantity in asked]
    if not mine:
        return Item("–")
    read = [cell_of(t, t.rows[-1]) for t in mine if t.rows]
    found = max(read, key=lambda c: _badness(c, mine[0].quantity), default=None)
    if found is None or (len(read) < len(mine) and found.verdict is None):
        return Item("not tested", missing=True, unit=mine[0].unit)
    if len(read) < len(mine):
        # What is bad is not hidden behind what is missing.
        return Item(f"{found.text}, others not tested", missing=True, unit=found.unit, verdict=found.verdict)
    return found


def cell_of(test: SiteTest, row: Row) -> Item:
    """Return the cell of a reading; one that is not as it should be says so."""
    r, off = row.reading, test.found in ("above", "below", "short") and row is test.rows[-1]
    if r.quantity in YES_NO:
        return Item("yes" if r.ok else "NO", verdict=None if r.ok else "short")
    if r.over or r.value is None:
        return Item(_past(r), unit=test.unit, verdict="short" if off else None)
    cell = number(r.value, test.unit)
    cell.verdict = "short" if off else None
    return cell


def _past(r: Reading) -> str:
    return (
        "RCD tripped" if r.tripped else "no trip" if r.quantity.startswith("rcd") else "over range" if r.value is None else f"> {r.value:g}"
    )


def _badness(cell: Item, quantity: Quantity) -> tuple[bool, float]:
    value = cell.value if cell.value is not None else (0.0 if cell.text == "yes" else float("inf"))
    return cell.verdict == "short", -value if quantity in LEAST else value


READING = (
    Column("No."), Column("Test", share=14), Column("Point", share=12), Column("Measured"), Column("Unit"), Column("Predicted"), Column("80 %"),
    Column("Limit"),
    Column("At", "°C"), Column("Test voltage", "V"), Column("Instrument", share=9), Column("Method, note", share=12), Column("By", share=7),
    Column("When", share=8), Column("Result", share=7),
)  # fmt: skip
FOUND = {
    "within": "as predicted", "above": "above", "below": "below", "short": "outside limit", "meets": "meets",
    "not_known": "not known", "not_read": "not tested",
}  # fmt: skip


def readings_of(found: CircuitTests) -> list[list[Item]]:
    """Return every reading of a circuit or a board, also those that were taken again, as rows under `READING`."""
    rows = []
    for t in found.tests:
        for one in t.rows:
            r, last = one.reading, one is t.rows[-1]
            limit = t.most if t.most is not None else t.least
            unit = UNITS.get(r.quantity, "")
            rows.append([
                Item(found.number), Item(TITLES[r.quantity]), words(r.point or t.point), cell_of(t, one), Item(unit),
                number(t.predicted, unit, needed=False), number(t.fine, unit, needed=False), number(limit, unit, needed=False),
                number(r.temperature, "°C"),
                number(r.volts, "V", needed=False), words(r.instrument), words(", ".join(filter(None, (r.method, r.note)))), words(one.by),
                words(day(one.at)), Item(FOUND[t.found] if last else "read again since"),
            ])  # fmt: skip
    return rows
