"""The circuit schedule: every circuit as it is designed, board by board, with what the design predicts."""

from __future__ import annotations

from mellow_span.core.findings.results import Check, CircuitResult
from mellow_span.core.model.parts import Board, Circuit, Supply
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
    return found


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
    if board.rcd_idn:
        facts.append(f"RCD {board.rcd_idn * MA:g} mA{' time-delayed' if board.rcd_delayed else ''} as main RCD")
    return "; ".join(facts)


def result_of(s: Subject, circuit: Circuit) -> CircuitResult:
    """Return what was found for a circuit."""
    return next(r for r in s.done.result.circuits if r.id == circuit.id)


def row(s: Subject, circuit: Circuit) -> list[Item]:
    """Return the row of a circuit."""
    found, cable, device, rules = result_of(s, circuit), circuit.run.cable, circuit.device, s.rules
    checks = {c.id: c for c in found.checks}
    family = rules.families.get(cable.family or "")
    methods = list(dict.fromkeys(p.method for span in circuit.run.spans if (p := rules.places.get(span.place or ""))))
    share = rules.limit("reading_share") if rules.has("reading_share") else None
    most = found.zs_max if found.zs_max is not None else None
    needed = not circuit.spare
    known = rules.devices.get(device.kind)
    return [
        Item(s.numbers[circuit.id]),
        words(circuit.name, missing="" if circuit.name else "no name"),
        words(family.title if family else "", missing="not chosen"),
        number(cable.csa, "mm²"),
        cpc_cell(s, circuit),
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


def cpc_cell(s: Subject, circuit: Circuit) -> Item:
    """Return the cpc of a circuit: its csa, or what serves as one."""
    cable = circuit.run.cable
    family = s.rules.families.get(cable.family or "")
    if cable.cpc in ("armour", "armour_and_core", "conduit", "trunking"):
        return Item(cable.cpc.replace("_", " "))
    if family is not None and family.armour and cable.cpc == "usual":
        return Item("armour")
    pair = family.pairs.get(cable.csa) if family is not None and cable.csa is not None else None
    own = cable.cpc_csa or pair
    if own is None and family is not None and family.cpc == "core":
        own = cable.csa
    return number(own, "mm²")


def _rcd(s: Subject, circuit: Circuit) -> Item:
    """The residual current device of a circuit, its own or that of its board."""
    board = next(b for b in s.job.boards if b.id == circuit.board)
    idn = circuit.device.idn or board.rcd_idn
    if idn is None:
        return Item("–")
    kind = f" type {circuit.device.rcd_type}" if circuit.device.idn and circuit.device.rcd_type else ""
    return Item(f"{idn * MA:g}{kind}{'' if circuit.device.idn else ' board'}", idn * MA, "mA")


def _marked(cell: Item, check: Check | None, assumed: bool = True) -> Item:
    """A figure with the marks of the check that it is of."""
    if check is not None and not cell.missing:
        cell.doubtful, cell.assumed = check.doubtful, assumed and bool(check.assumed)
    return cell


def _through_earth(s: Subject, circuit: Circuit) -> bool:
    """Whether its earth fault current goes through an electrode: then no share of a limit says anything of a reading."""
    return next(b for b in s.done.result.boards if b.id == circuit.board).earthing == "TT"
