"""Earthing and bonding: the intake, each board's electrode and bonding, armour as a bonding conductor, and the ways to earth an outbuilding."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from math import sqrt
from typing import Literal

from mellow_span.core.case import Feed
from mellow_span.core.cpc import MOHM_PER_OHM
from mellow_span.core.devices import let_through
from mellow_span.core.errors import CoreError, InputError, MissingInput, OutsideTable
from mellow_span.core.figures import quantity
from mellow_span.core.model import Board, Circuit, Device, Installation, Supply
from mellow_span.core.results import BoardDemand, Check, Outcome, judge
from mellow_span.core.rules import RuleSet
from mellow_span.core.thermal import next_size, table_csa
from mellow_span.core.working import Working

BURIED = {"protected": ("yes", "yes"), "against_corrosion": ("yes", "no"), "bare": ("no", "no")}


def run_check(w: Working, id: str, title: str, clause: str, rule: Callable[[], Outcome], assumed: tuple[str, ...] = ()) -> Check:
    """Run one rule of the intake or a board; what it refuses for want of an input becomes 'not known' with the field to fill."""
    try:
        found = rule()
    except CoreError as refusal:
        steps, doubtful = w.take()
        return Check(id, title, clause, "not_known", str(refusal), field=refusal.field, steps=steps, doubtful=doubtful, assumed=assumed)
    steps, doubtful = w.take()
    return Check(
        id, title, clause, found.verdict or judge(found.margin), found.text, found.value, found.limit, found.unit, found.margin,
        None, found.decides, doubtful, assumed, None, steps,
    )  # fmt: skip


def service_fuse(supply: Supply) -> Device:
    """Return the service fuse as a device. Raises MissingInput without its kind or rating."""
    if supply.fuse_kind is None:
        raise MissingInput("supply.fuse_kind", "the kind of service fuse")
    if supply.fuse_in is None:
        raise MissingInput("supply.fuse_in", "the rating of the service fuse in A")
    return Device(kind=supply.fuse_kind, rating=supply.fuse_in)


def intake_checks(w: Working, job: Installation, demand: BoardDemand | None) -> tuple[Check, ...]:
    """Return the checks of the intake: demand against the service fuse, tails, earthing conductor, main bonding."""
    s = job.supply
    fuse = ("service fuse",) if s.fuse_in is not None and s.fuse_source == "assumed" else ()
    ze = ("Ze",) if s.ze is not None and s.ze_source == "assumed" else ()
    return (
        run_check(w, "demand", "Demand on the service fuse", "311.1", lambda: check_demand(w, job, demand), fuse),
        run_check(w, "tails", "Meter tails", "433.1.1", lambda: check_tails(w, s), fuse),
        run_check(w, "earthing", "Main earthing conductor", "543.1.1", lambda: check_earthing(w, s), ze),
        run_check(w, "bonding", "Main bonding", "544.1.1", lambda: check_bonding(w, s)),
    )


def check_demand(w: Working, job: Installation, demand: BoardDemand | None) -> Outcome:
    """Check the demand of the highest phase after diversity against the service fuse, and beside it with what may come later (311.1)."""
    if demand is None:
        raise InputError("boards", 0, "a board at the origin")
    if demand.highest is None:
        raise MissingInput(demand.field or "loads", demand.error)
    if job.supply.fuse_in is None:
        raise MissingInput("supply.fuse_in", "the rating of the service fuse in A")
    amps = w.given("I,max", demand.highest, "A", "demand of the highest phase after diversity")
    fuse = w.given("In", job.supply.fuse_in, "A", "service fuse")
    word = "is within" if amps <= fuse else "is over"
    text = f"{quantity(amps, 'A')} after diversity {word} {quantity(fuse, 'A')}"
    later = demand.later or amps
    if later > amps + 1e-9:
        w.given("I,later", later, "A", "with what may come later")
        text += f"; with what may come later {quantity(later, 'A')}{', over the fuse' if later > fuse else ''}"
    if demand.imbalance and len(demand.phases) > 1:
        text += f"; imbalance {quantity(demand.imbalance, 'A')}"
    return Outcome(amps, fuse, "A", 1 - amps / fuse, text)


def check_tails(w: Working, s: Supply) -> Outcome:
    """Check that the meter tails carry the service fuse (433.1.1): single-core, method C, less where insulation surrounds them (523.9)."""
    if s.tails_csa is None:
        raise MissingInput("supply.tails_csa", "the csa of the meter tails in mm²")
    if s.fuse_in is None:
        raise MissingInput("supply.fuse_in", "the rating of the service fuse in A")
    family = w.rules.families["single_pvc70"]
    column = family.capacity_column("C", 2 if s.phases == 1 else 3)
    iz = w.look("It", family.capacity, s.tails_csa, column, "tails, reference method C")
    if s.tails_wrapped > 0:
        if s.tails_wrapped >= w.limit("from", "wrapped_long"):
            ci = w.limit("Ci", "insulated_tail_share", f"{s.tails_wrapped:g} m wrapped")
        else:
            ci = w.look("Ci", "52.2", s.tails_wrapped * MOHM_PER_OHM, "factor", f"{s.tails_wrapped:g} m wrapped")
        iz = w.calc("Iz", iz * ci, "A", "It × Ci", {"It": iz, "Ci": ci}, "523.9")
    fuse = w.given("In", s.fuse_in, "A", "service fuse")
    word = "carry" if iz >= fuse else "are too thin for"
    text = f"tails of {quantity(s.tails_csa, 'mm²')}, Iz {quantity(iz, 'A')}, {word} the fuse of {quantity(fuse, 'A')}"
    return Outcome(iz, fuse, "A", iz / fuse - 1, text)


def check_earthing(w: Working, s: Supply) -> Outcome:
    """Check the main earthing conductor by the adiabatic equation, the table method beside it, and the least size where it is buried.

    543.1.1, 543.1.3, Table 54.1; the fault is the largest at the origin, cleared by the service fuse.
    """
    if s.earthing_csa is None:
        raise MissingInput("supply.earthing_csa", "the csa of the main earthing conductor in mm²")
    csa = w.given("S,earthing", s.earthing_csa, "mm²", "main earthing conductor")
    needed, told = _earthing_by_fault(w, s)
    if s.earthing_buried != "no":
        buried = w.look("S,buried", "54.1", BURIED[s.earthing_buried], "copper_mm2", "buried earthing conductor")
        if buried > needed:
            needed, told = buried, f"buried: at least {quantity(buried, 'mm²')}"
    if s.tails_csa is not None:
        by_table = next_size(w, table_csa(w, s.tails_csa, 1.0, 1.0))
        told += f"; by the table {quantity(by_table, 'mm²')}"
    word = "is enough" if csa >= needed else "is too thin"
    margin = csa / needed - 1 if needed else None
    return Outcome(csa, needed, "mm²", margin, f"{quantity(csa, 'mm²')} {word}: {told}")


def _earthing_by_fault(w: Working, s: Supply) -> tuple[float, str]:
    if s.ze is None:
        raise MissingInput("supply.ze", "Ze at the origin in Ω, measured or declared")
    fuse = service_fuse(s)
    fault = w.calc("I", s.cmax * s.u0 / s.ze, "A", "Cmax × U0 / Ze", {"Cmax": s.cmax, "U0": s.u0, "Ze": s.ze}, "543.1.3")
    energy = let_through(w, fuse, fuse.rating or 0.0, fault)
    if energy is None:
        if s.earthing == "TT":
            # An electrode passes so little that the service fuse does not see it; the RCDs of the installation clear it.
            return 0.0, f"the fault current through the electrode, {quantity(fault, 'A')}, heats nothing"
        raise OutsideTable("FUSE-I", f"a fault of {quantity(fault, 'A')}", "currents that operate the service fuse within 5 s")
    k = w.look("k", "k", ("separate_cpc", "copper", "pvc70"), "k", "separate copper conductor")
    needed = w.calc("S", sqrt(energy) / k, "mm²", "√(I²t) / k", {"I²t": energy, "k": k}, "543.1.3")
    return needed, f"the fault of {quantity(fault, 'A')} asks for {quantity(needed, 'mm²')}"


def bonding_csa(w: Working, s: Supply) -> float:
    """Return the least main bonding conductor, copper [mm2]: Table 54.8 by the supply neutral under PME, else half the earthing conductor,
    at least 6 and no more than 25 (544.1.1).
    """
    if s.earthing is None:
        raise MissingInput("supply.earthing", "the earthing arrangement: TN-C-S, TN-S or TT")
    if s.earthing == "TN-C-S":
        if s.neutral_csa is None:
            raise MissingInput("supply.neutral_csa", "the csa of the supply neutral in mm²")
        return w.look("S,bond", "54.8", s.neutral_csa, "requirement", "by the supply neutral")
    if s.earthing_csa is None:
        raise MissingInput("supply.earthing_csa", "the csa of the main earthing conductor in mm²")
    share, least, most = w.limit("share", "bond_share"), w.limit("least", "bond_least"), w.limit("most", "bond_most")
    puts = {"share": share, "S": s.earthing_csa, "least": least, "most": most}
    asked = min(most, max(least, share * s.earthing_csa))
    return next_size(w, w.calc("S,bond", asked, "mm²", "min(most, max(least, share × S))", puts, "544.1.1"))


def check_bonding(w: Working, s: Supply) -> Outcome:
    """Check the main bonding conductors at the intake (544.1.1)."""
    if s.extraneous is None:
        raise MissingInput("supply.extraneous", "whether metal services or structure need main bonding here")
    if not s.extraneous:
        return Outcome(0.0, 0.0, "mm²", None, "nothing extraneous was found that needs main bonding")
    needed = bonding_csa(w, s)
    if s.bonding_csa is None:
        raise MissingInput("supply.bonding_csa", "the csa of the main bonding conductors in mm²")
    csa = w.given("S", s.bonding_csa, "mm²", "main bonding conductors")
    word = "is enough" if csa >= needed else "is too thin"
    verdict = "meets" if csa >= needed else "short"
    return Outcome(csa, needed, "mm²", None, f"{quantity(csa, 'mm²')} {word}: at least {quantity(needed, 'mm²')}", verdict=verdict)  # type: ignore[arg-type]


def board_checks(w: Working, job: Installation, board: Board, feed: Feed, demand: BoardDemand, above: Circuit | None) -> tuple[Check, ...]:
    """Return the checks of a board: demand against its feed, its own electrode, and the bonding of metal that enters there."""
    found = []
    if above is not None:
        found.append(run_check(w, "feed", "Demand on the feed", "433.1.1", lambda: check_feed(w, demand, above)))
    if board.earthing == "TT" or (above is None and job.supply.earthing == "TT"):
        assumed = ("RA",) if feed.earth_assumed else ()
        found.append(run_check(w, "electrode", "Earth electrode", "411.5.3", lambda: check_electrode(w, job, board, feed), assumed))
    if above is not None and (board.outbuilding or board.extraneous):
        found.append(run_check(w, "bonding", "Bonding at the board", "544.1.1", lambda: check_board_bonding(w, job, board, above)))
    return tuple(found)


def check_feed(w: Working, demand: BoardDemand, above: Circuit) -> Outcome:
    """Check the demand of a board's highest phase against the device of the sub-main that feeds it (433.1.1)."""
    if demand.highest is None:
        raise MissingInput(demand.field or "loads", demand.error)
    if above.device.rating is None:
        raise MissingInput("device.rating", "the rated current of the device of the sub-main in A")
    amps, rating = demand.highest, above.device.rating
    w.given("I,max", amps, "A", "demand of the highest phase after diversity")
    w.given("In", rating, "A", "device of the sub-main")
    word = "is within" if amps <= rating else "is over"
    text = f"{quantity(amps, 'A')} after diversity {word} In {quantity(rating, 'A')} of {above.name or 'its feed'}"
    if demand.later is not None and demand.later > amps + 1e-9:
        text += f"; with what may come later {quantity(demand.later, 'A')}{', over it' if demand.later > rating else ''}"
    return Outcome(amps, rating, "A", 1 - amps / rating, text)


def check_electrode(w: Working, job: Installation, board: Board, feed: Feed) -> Outcome:
    """Check the electrode of a TT board: RA x IDn <= 50 V with the largest RCD that has to clear, and stable up to 200 ohm (411.5.3)."""
    ra = feed.ze_hot
    if ra is None:
        name = "board.ra" if board.earthing == "TT" else "supply.ze"
        raise MissingInput(name, "the resistance RA of the earth electrode in Ω")
    idns = [c.device.idn for c in job.circuits if c.board == board.id]
    over = [r.idn for r in feed.residuals if r.where == board_rcd(board)]
    if not over and (None in idns or not idns):
        return Outcome(
            ra, 0.0, "Ω", None, "a circuit of this board has no RCD, and no fuse or breaker clears through an electrode", verdict="short"
        )
    idn = w.given("IΔn", max(over or [i for i in idns if i is not None]), "A", "largest RCD that has to clear")
    volts = w.limit("UL", "touch_voltage")
    most = w.calc("RA,max", volts / idn, "Ω", "UL / IΔn", {"UL": volts, "IΔn": idn}, "411.5.3")
    stable = w.limit("stable", "tt_stable")
    text = f"RA {quantity(ra, 'Ω')} {'is within' if ra <= most else 'is over'} {quantity(most, 'Ω')}"
    if ra <= most and ra > stable:
        return Outcome(
            ra, most, "Ω", None, f"{text}, but over {quantity(stable, 'Ω')} it may not stay stable through the year", verdict="close"
        )
    return Outcome(ra, most, "Ω", 1 - ra / most, text)


def board_rcd(board: Board) -> str:
    """Word the residual current device over a whole board."""
    return f"the RCD of {board.name or 'the board'}"


def check_board_bonding(w: Working, job: Installation, board: Board, above: Circuit) -> Outcome:
    """Check what bonds the metal that enters at a board: a conductor of the main bonding size, or the armour of its feed (544.1.1, 543.2.1)."""
    if board.extraneous is None:
        raise MissingInput("board.extraneous", "whether metal services or structure need bonding at this board")
    if not board.extraneous:
        return Outcome(0.0, 0.0, "mm²", None, "nothing extraneous was found that needs bonding here")
    # An electrode of the board's own carries no diverted neutral current, so the rule for supplies without PME applies.
    supply = replace(job.supply, earthing="TT") if board.earthing == "TT" else job.supply
    needed = bonding_csa(w, supply)
    if board.bond == "armour":
        return armour_bonding(w, above, needed)
    if board.bond == "none":
        return Outcome(0.0, needed, "mm²", None, f"nothing bonds it yet: at least {quantity(needed, 'mm²')} copper", verdict="short")
    if board.bond_csa is None:
        raise MissingInput("board.bond_csa", "the csa of the bonding conductor in mm²")
    csa = w.given("S", board.bond_csa, "mm²", "bonding conductor")
    word = "is enough" if csa >= needed else "is too thin"
    verdict = "meets" if csa >= needed else "short"
    return Outcome(csa, needed, "mm²", None, f"{quantity(csa, 'mm²')} {word}: at least {quantity(needed, 'mm²')}", verdict=verdict)  # type: ignore[arg-type]


def armour_bonding(w: Working, above: Circuit, needed: float) -> Outcome:
    """Check armour as a bonding conductor: its resistance per metre against copper of the size asked for (543.2.1, 544.1.1).

    Beside it the rule of thumb, an eighth of the armour's csa, and the least cable of the family whose armour would do.
    """
    cable = above.run.cable
    family = w.rules.families.get(cable.family or "")
    if family is None or not family.armour:
        raise InputError("board.bond", "armour", "an armoured feed")
    if cable.csa is None:
        raise MissingInput("cable.csa", "the csa of the feed in mm²")
    cores = float(cable.cores or (2 if above.phases == 1 else 4))
    copper = w.look("r,copper", "R20", needed, "cu_mohm_per_m_20C", f"copper of {quantity(needed, 'mm²')}")
    steel = w.look("r,armour", "SWA-R", (cable.csa, cores), "mohm_per_m_20C", f"armour of {quantity(cable.csa, 'mm²')}, {cores:g} cores")
    area = w.look("S,armour", "SWA-area", cable.csa, f"{family.armour}_{cores:g}c", "armour")
    by = w.limit("thumb", "armour_rule_of_thumb")
    w.calc("S,copper", area / by, "mm²", "S,armour / thumb", {"S,armour": area, "thumb": by}, "rule of thumb", "does not decide")
    row = next((r for r in w.rules.table("SWA-R").rows if r.key[1] == cores and r.cells["mohm_per_m_20C"] <= copper), None)
    text = f"the armour of {quantity(cable.csa, 'mm²')} has {steel:g} mΩ/m against {copper:g} of {quantity(needed, 'mm²')} copper"
    if steel > copper:
        text += "; no armour of the table would do" if row is None else f"; it takes a cable of {row.key[0]:g} mm² or a conductor beside it"
    return Outcome(steel, copper, "mΩ/m", 1 - steel / copper, text)


@dataclass(slots=True)
class Way:
    """One way to earth an outbuilding, with what it means: the job changed so, its verdicts, and words for the consequences."""

    id: str
    title: str
    clause: str
    job: Installation
    consequences: tuple[str, ...]


def outbuilding_ways(rules: RuleSet, job: Installation, board_id: str, ra: float | None = None) -> tuple[Way, ...]:
    """Return the three ways to earth an outbuilding as changed jobs with their consequences: export, local electrode, export with one more.

    ra: resistance of the local electrode [ohm]; without it that of the board. Raises InputError for a board that no sub-main feeds.
    The third way computes like the first: an additional electrode is never counted on for disconnection.
    """
    board = next((b for b in job.boards if b.id == board_id), None)
    above = next((c for c in job.circuits if c.feeds == board_id), None)
    if board is None or above is None:
        raise InputError("board", board_id, "a board fed by a sub-main")
    w = Working(rules, keep=False)
    with_ra = ra if ra is not None else board.ra
    bond = _bonding_words(w, job, replace(board, earthing="supply"), above)
    armoured = bool(rules.families.get(above.run.cable.family or "") and rules.families[above.run.cable.family or ""].armour)
    pme = job.supply.earthing == "TN-C-S"
    lost = "if the supplier's combined conductor breaks, metal here takes the voltage of the break" if pme else ""
    export = _with_board(job, replace(board, earthing="supply"), above, "both")
    local = _with_board(job, replace(board, earthing="TT", ra=with_ra), above, "supply")
    softens = "the electrode lowers the voltage on metal here if the combined conductor breaks" if pme else ""
    ends = "earth the armour at the supply end only and insulate it at the far gland" if armoured else ""
    return (
        Way("export", "Export the supply's earth", "411.4, 542.1.3", export, _words(bond, lost, _ends(armoured))),
        Way(
            "local", "An electrode of its own (TT)", "411.5, 542.1.2.3", local,
            _words("every circuit here needs an RCD: no fuse or breaker clears through an electrode", ends,
                   "the sub-main's own cpc ends at its far gland; keep the two earths out of reach of each other"),
        ),
        Way(
            "both", "Export, with an additional electrode", "411.4.2, 542.1.3", export,
            _words(bond, _ends(armoured), softens, "the electrode is not counted on to disconnect"),
        ),
    )  # fmt: skip


def _words(*said: str) -> tuple[str, ...]:
    return tuple(s for s in said if s)


def _ends(armoured: bool) -> str:
    return "earth the armour at both ends" if armoured else ""


def _bonding_words(w: Working, job: Installation, board: Board, above: Circuit) -> str:
    if board.extraneous is False:
        return "nothing extraneous was found: no bonding conductor is needed"
    try:
        needed = bonding_csa(w, job.supply)
    except CoreError as refusal:
        return f"bonding size not known: {refusal}"
    said = f"metal services here need main bonding of {quantity(needed, 'mm²')} copper carried across"
    try:
        return f"{said}; {armour_bonding(w, above, needed).text}"
    except CoreError:
        return said


def _with_board(job: Installation, board: Board, above: Circuit, ends: Literal["both", "supply"]) -> Installation:
    boards = tuple(board if b.id == board.id else b for b in job.boards)
    feed = replace(above, armour_ends=ends)
    return replace(job, boards=boards, circuits=tuple(feed if c.id == above.id else c for c in job.circuits))
