"""The chart for the door of a board: its ways in order, what each serves, and what whoever opens it has to know."""

from __future__ import annotations

from mellow_span.core.model.numbers import elsewhere, unused
from mellow_span.core.model.parts import Board
from mellow_span.core.model.places import rcds_of, split
from mellow_span.core.site.entries import last
from mellow_span.core.site.notices import notices_of
from mellow_span.core.site.words import device_words
from mellow_span.papers.page import Block, Column, Facts, Item, Leaf, Table, Words, number, words
from mellow_span.papers.schedule import MA, serves
from mellow_span.papers.subject import Subject

COLUMNS = (Column("Way"), Column("No."), Column("Circuit", share=24), Column("Serves", share=28), Column("Device", share=38))


def chart(s: Subject, board_id: str) -> list[Block]:
    """Return the chart of a board, or of every board one after the other."""
    found: list[Block] = []
    for board in (b for b in s.job.boards if board_id in ("", b.id)):
        if found:
            found.append(Leaf(f"Board {s.letters[board.id]}"))
        found += [
            _facts(s, board),
            Table("Ways", COLUMNS, _ways(s, board), key=2),
            Words("Before opening this board", notices(s, board), listed=True),
        ]
    return found


def _facts(s: Subject, board: Board) -> Facts:
    above = next((c for c in s.job.circuits if c.feeds == board.id), None)
    here = next(b for b in s.done.result.boards if b.id == board.id)
    largest = here.ipf_3ph if here.ipf_3ph is not None else here.ipf_ln
    return Facts(
        f"Board {s.letters[board.id]}: {board.name or 'a board'}",
        [
            ("Fed by", words(s.named(above) if above else "the service fuse")),
            ("Earthing", words(here.earthing or "", missing="not known")),
            ("Main switch", number(board.switch_in, "A")),
            *_rcds(board),
            ("Max prospective fault current", number(largest, "A", assumed=s.job.supply.ipf_source != "measured")),
            ("Zs", number(here.zs, "Ω", assumed=s.job.supply.ze_source != "measured")),
        ],
    )


def _rcds(board: Board) -> list[tuple[str, Item]]:
    """The main RCD, or that of each section of a board that is divided."""
    there = rcds_of(board)
    if not split(board):
        return [("Main RCD", number(there[0].idn * MA if there else None, "mA", needed=False))]
    return [(f"RCD {one.section}", number(one.idn * MA, "mA")) for one in there]


def _ways(s: Subject, board: Board) -> list[list[Item]]:
    rows, way = [], 1
    for circuit in s.at_board(board):
        to = way + circuit.phases - 1
        rows.append([
            Item(str(way) if to == way else f"{way} to {to}"), Item(s.numbers[circuit.id]), words(circuit.name, missing="no name"),
            words(serves(s, circuit)), Item(device_words(s.rules, circuit.device, circuit.phases), missing=circuit.device.rating is None),
        ])  # fmt: skip
        way = to + 1
    while board.ways is not None and way <= board.ways:
        rows.append([Item(str(way)), Item("–"), Item("spare way"), Item("–"), Item("blanked")])
        way += 1
    return rows


def notices(s: Subject, board: Board) -> list[str]:
    """Return what stands on a board for whoever opens it, from what the design and the log say."""
    circuits = s.at_board(board)
    found = [
        "Isolate and prove dead at the point of work, with a tester proved before and after. This chart is only as good as its last update."
    ]
    if rcds_of(board) or any(c.device.idn for c in circuits):
        found.append("RCDs: press the test button about every six months; have one that does not trip replaced.")
    if any(load.kind == "ev" for c in circuits for load in c.loads):
        found.append("A charging point is fed from here: a vehicle may feed back where the equipment allows it.")
    found += source_notices(s, board)
    if any(c.device.afdd for c in circuits):
        found.append("Arc fault detection: test as its maker says.")
    if board.earthing == "TT" and s.job.supply.earthing != "TT":
        found.append("This board has its own earth electrode (TT): never connect its earth to the supply's.")
    found += numbers_that_stay(s, board)
    seen = last(s.entries, "colours")
    older = [s.numbers[c.id] for c in circuits if c.id in seen and seen[c.id].data.older]
    if older:
        found.append(
            f"Wiring of two colour codes meets here ({', '.join(older)} in the older one): identify every conductor before connecting."
        )
    return found


def source_notices(s: Subject, board: Board) -> list[str]:
    """Return the warnings of more than one source, and of surge protection, that stay on a board."""
    here = [one for one in notices_of(s.job) if one.board == board.id and one.heading != "RCD"]
    return [f"{one.heading}: {one.text} ({one.clause})" for one in here]


def numbers_that_stay(s: Subject, board: Board) -> list[str]:
    """Return what there is to say of numbers that are not those of their ways, and of numbers that are not used again."""
    moved = elsewhere(s.whole or s.job)
    found = []
    here = [f"{s.numbers[c.id]} is {moved[c.id]}" for c in s.at_board(board) if c.id in moved]
    if here:
        found.append(f"Numbers stay with their cables: {'; '.join(here)}.")
    gone = [n for n in unused(s.whole or s.job) if n.rstrip("0123456789") == s.letters[board.id]]
    if gone:
        found.append(f"Not used again, their circuits were removed: {', '.join(gone)}.")
    return found
