"""The circuit schedule: every circuit as it is designed, board by board, with what the design predicts."""

from __future__ import annotations

from mellow_span.core.adding import added
from mellow_span.core.findings.results import Check, CircuitResult
from mellow_span.core.model.legs import cable_parts
from mellow_span.core.model.parts import Board, Circuit, Supply
from mellow_span.core.model.places import rcd_over, rcds_of, split
from mellow_span.core.rules.capacity.spans import found_amps, given_counts
from mellow_span.core.rules.protective import serves as serves_as_cpc
from mellow_span.core.site.words import device_words, for_later
from mellow_span.core.units import AMPERE_PER_KA
from mellow_span.papers.page import Block, Column, Facts, Item, Table, number, verdict_cell, words
from mellow_span.papers.subject import Subject

COLUMNS = (
    Column("No."), Column("Circuit", share=13), Column("Cable", share=12), Column("Line", "mm²"), Column("cpc", "mm²"), Column("Method"),
    Column("Length", "m"), Column("Ib", "A"), Column("Device", share=10), Column("In", "A"), Column("Icn", "kA"), Column("RCD", "mA", 7),
    Column("Iz", "A"), Column("Volt drop", "%"), Column("Zs", "Ω"), Column("Zs max", "Ω"), Column("Max measured Zs", "Ω"), Column("Verdict", share=7),
)  # fmt: skip
MA = 1000.0


def schedule(s: Subject, _: str) -> list[Block]:
    """Return the blocks of the circuit schedule: the supply, then each board with its circuits."""
    found: list[Block] = [supply_facts(s)]
    for board in s.job.boards:
        rows = [row(s, circuit) for circuit in s.at_board(board)]
        found.append(Table(board_title(s, board), COLUMNS, rows, key=2, fine=True, note=board_note(s, board)))
        served = [_served(s, circuit) for circuit in s.at_board(board) if not circuit.spare]
        found.append(Table(f"Board {s.letters[board.id]}: what is served and protected", SERVED, served, key=2, fine=True))
        found.append(board_facts(s, board))
    return found


SERVED = (
    Column("No."), Column("Circuit", share=16), Column("Phase"), Column("Serves", share=34), Column("Points"), Column("Longest time", "s"),
    Column("RCD type"), Column("AFDD"), Column("Remarks", share=18),
)  # fmt: skip


def _served(s: Subject, circuit: Circuit) -> list[Item]:
    """Phase, points served, longest time to disconnect, type of RCD and arc fault detection of a circuit."""
    device = circuit.device
    points = added(load.quantity for load in circuit.loads)
    asked = next((c for c in result_of(s, circuit).checks if c.id == "disconnection"), None)
    phase = "L1, L2, L3" if circuit.phases == 3 else circuit.phase or ("L" if s.job.supply.phases == 1 else "")
    remarks = [text for text, on in (("existing", circuit.existing), ("future", for_later(circuit))) if on]
    found = found_amps(circuit)
    if found is not None:
        remarks.append(f"grouped at {number(found, 'A').told} A, not at Ib: {circuit.group_amps_by.strip()}")
    remarks += [f"Iz of {span.name or 'a span'} entered: {span.given_by}" for span in circuit.run.spans if given_counts(circuit, span)]
    return [
        Item(s.numbers[circuit.id]), words(circuit.name, missing="no name"), words(phase, missing="not said"),
        words(serves(s, circuit), missing="" if circuit.feeds else "no load entered"), Item(str(points) if points else "–", float(points)),
        number(asked.limit if asked else None, "s", doubtful=bool(asked and asked.doubtful)),
        words(device.rcd_type or "", missing="not said") if device.idn else Item("–"), Item("yes" if device.afdd else "–"), words(", ".join(remarks)),
    ]  # fmt: skip


def board_facts(s: Subject, board: Board) -> Facts:
    """Return a board's main switch, what feeds it, surge protection, and what was measured at it."""
    above = next((c for c in s.job.circuits if c.feeds == board.id), None)
    supply = s.job.supply
    feed = device_words(s.rules, above.device, above.phases) if above else "the service fuse"
    surge = {"fitted": "fitted", "declined": f"left out: {supply.surge_reason or 'no reason given'}"}.get(supply.surge or "", "")
    return Facts(
        f"Board {s.letters[board.id]}: the board itself",
        [
            ("Main switch", number(board.switch_in, "A")),
            ("Fed through", words(feed)),
            ("Surge protection", words(surge, missing="not said") if above is None else words("see the board at the origin")),
            ("Zs measured", _measured(s, board, "zs" if above else "ze", "Ω")),
            ("Ipf measured", _measured(s, board, "ipf", "A")),
        ],
    )


def _measured(s: Subject, board: Board, quantity: str, unit: str) -> Item:
    """The last reading of a quantity at a board."""
    rows = [row for t in s.at_boards[board.id].tests if t.quantity == quantity for row in t.rows]
    if not rows:
        # A schedule is printed before anything is tested, too.
        return Item("not tested", unit=unit)
    r = rows[-1].reading
    return number(r.value, unit) if r.value is not None and not r.over else Item("over range", unit=unit)


def supply_facts(s: Subject) -> Facts:
    """Return the intake as it was surveyed; what nobody measured is marked."""
    supply, guessed = s.job.supply, {"assumed", "declared"}
    fuse = s.rules.device_title(supply.fuse_kind) if supply.fuse_kind else ""
    return Facts(
        "Supply",
        [
            ("Earthing", words(supply.earthing or "", missing="not known")),
            ("Phases", Item(str(supply.phases), float(supply.phases))),
            ("U0", number(supply.u0, "V")),
            ("Ze", number(supply.ze, "Ω", assumed=supply.ze_source in guessed)),
            ("Ipf", number(supply.ipf, "A", assumed=supply.ipf_source in guessed)),
            ("Service fuse", words(fuse, missing="not known")),
            ("Service fuse rating", number(supply.fuse_in, "A", assumed=supply.fuse_source in guessed)),
            ("Meter tails", number(supply.tails_csa, "mm²")),
            ("Earthing conductor", number(supply.earthing_csa, "mm²")),
            ("Main bonding", _bonding(supply)),
        ],
    )


def _bonding(supply: Supply) -> Item:
    if supply.bond == "none" and supply.extraneous is not False:
        return words("none")
    return number(supply.bonding_csa, "mm²", needed=supply.extraneous is not False)


def board_title(s: Subject, board: Board) -> str:
    """Return a board by letter and name."""
    return f"Board {s.letters[board.id]}: {board.name or 'a board'}"


def board_note(s: Subject, board: Board) -> str:
    """Return what feeds a board, and what arrives there."""
    above = next((c for c in s.job.circuits if c.feeds == board.id), None)
    here = next(b for b in s.done.result.boards if b.id == board.id)
    facts = [f"fed by {s.named(above)}" if above else "at the origin", f"earthing {here.earthing or 'not known'}"]
    facts += [f"Zs at board {number(here.zs, 'Ω').told} Ω" if here.zs is not None else "Zs at board not known"]
    largest = here.ipf_3ph if here.ipf_3ph is not None else here.ipf_ln
    facts += [
        f"max fault current {number(largest / AMPERE_PER_KA, 'kA').told} kA" if largest is not None else "max fault current not known"
    ]
    for rcd in rcds_of(board):
        as_what = f"of section {rcd.section}" if split(board) else "as main RCD"
        facts.append(f"RCD {rcd.idn * MA:g} mA{' time-delayed' if rcd.delayed else ''} {as_what}")
    return "; ".join(facts)


def result_of(s: Subject, circuit: Circuit) -> CircuitResult:
    """Return what was found for a circuit."""
    return next(r for r in s.done.result.circuits if r.id == circuit.id)


def row(s: Subject, circuit: Circuit) -> list[Item]:
    """Return the row of a circuit."""
    found, device, rules = result_of(s, circuit), circuit.device, s.rules
    checks = {c.id: c for c in found.checks}
    parts = cable_parts(circuit)
    methods = list(dict.fromkeys(p.method for span in circuit.run.spans if (p := rules.places.get(span.place or ""))))
    share = rules.limit("reading_share") if rules.has("reading_share") else None
    most = found.zs_max if found.zs_max is not None else None
    needed = not circuit.spare
    known = rules.devices.get(device.kind)
    return [
        Item(s.numbers[circuit.id]),
        words(circuit.name, missing="" if circuit.name else "no name"),
        _all([words(f.title if (f := rules.families.get(one.run.cable.family or "")) else "", missing="not chosen") for one in parts]),
        _all([number(one.run.cable.csa, "mm²") for one in parts], every=True),
        _all([cpc_cell(s, one) for one in parts], every=True),
        words(", ".join(methods), missing="not known"),
        number(found.length, "m"),
        _marked(number(found.ib, "A", needed=needed), checks.get("design_current")),
        Item(f"{rules.device_title(device.kind)}{f' {device.curve}' if device.kind in ('mcb', 'rcbo') else ''}"),
        number(device.rating, "A", needed=needed),
        number(device.icn / AMPERE_PER_KA if device.icn else None, "kA", needed=needed and not (known and known.trips == "fuse")),
        _rcd(s, circuit),
        _marked(number(found.iz, "A", needed=needed), checks.get("capacity")),
        _marked(number(found.drop, "%", needed=needed), checks.get("volt_drop")),
        _marked(number(found.zs, "Ω", needed=needed), checks.get("loop")),
        _marked(number(most, "Ω", needed=needed), checks.get("loop"), assumed=False),
        number(share * most if share is not None and most is not None and not _through_earth(s, circuit) else None, "Ω", needed=False),
        verdict_cell(found.verdict, "spare" if circuit.spare else "", assumed=bool(found.assumed), doubtful=found.doubtful),
    ]  # fmt: skip


def _all(cells: list[Item], every: bool = False) -> Item:
    """The cells of all cables of a run as one; of a run of one cable its own. every: also those that are alike, in the order of the run."""
    if len(cells) == 1:
        return cells[0]
    texts = [cell.text for cell in cells]
    told = texts if every and len(set(texts)) > 1 else list(dict.fromkeys(texts))
    return Item(", then ".join(told), unit=cells[0].unit, missing=any(cell.missing for cell in cells))


def cpc_cell(s: Subject, circuit: Circuit) -> Item:
    """Return the cpc of a circuit: its csa, or what serves as one."""
    cable = circuit.run.cable
    family = s.rules.families.get(cable.family or "")
    kind = serves_as_cpc(s.rules, circuit)
    if kind in ("armour", "armour_and_core", "conduit", "trunking"):
        return Item("armour and a core" if kind == "armour_and_core" else kind)
    pair = family.pairs.get(cable.csa) if family is not None and cable.csa is not None else None
    own = cable.cpc_csa or pair
    if own is None and family is not None and family.cpc in ("core", "armour"):
        own = cable.csa
    return number(own, "mm²")


def _rcd(s: Subject, circuit: Circuit) -> Item:
    """The residual current device of a circuit, its own or that of its board."""
    board = next(b for b in s.job.boards if b.id == circuit.board)
    shared = rcd_over(board, circuit.section)
    idn = circuit.device.idn or (shared.idn if shared else None)
    if idn is None:
        return Item("–")
    kind = f" type {circuit.device.rcd_type}" if circuit.device.idn and circuit.device.rcd_type else ""
    return Item(
        f"{idn * MA:g}{kind}{'' if circuit.device.idn else f' RCD {circuit.section}' if split(board) else ' board'}", idn * MA, "mA"
    )


def _marked(cell: Item, check: Check | None, assumed: bool = True) -> Item:
    """A figure with the marks of the check that it is of."""
    if check is not None and not cell.missing:
        cell.doubtful, cell.assumed = check.doubtful, assumed and bool(check.assumed)
    return cell


def _through_earth(s: Subject, circuit: Circuit) -> bool:
    """Whether its earth fault current goes through an electrode: then no share of a limit says anything of a reading."""
    return next(b for b in s.done.result.boards if b.id == circuit.board).earthing == "TT"


def serves(s: Subject, circuit: Circuit) -> str:
    """Return what a circuit serves, in the words of the house."""
    if circuit.spare:
        return "nothing: cable in place, not connected"
    if circuit.feeds:
        return next((b.name or "a board" for b in s.job.boards if b.id == circuit.feeds), "a board")
    told = []
    for load in circuit.loads:
        name = load.name or load.kind.replace("_", " ")
        told.append(
            f"{name}{f', {load.room}' if load.room and load.room not in name else ''}{f' × {load.quantity}' if load.quantity > 1 else ''}"
        )
    return "; ".join(told)
