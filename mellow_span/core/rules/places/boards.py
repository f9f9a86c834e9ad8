"""Earthing and bonding at a board: its electrode, what bonds the metal there, armour as a bonding conductor, the ways to earth an outbuilding."""

from __future__ import annotations

from dataclasses import replace

from mellow_span.core.adding import added
from mellow_span.core.errors import CoreError, InputError, MissingInput
from mellow_span.core.figures import apart, quantity
from mellow_span.core.findings.results import BoardDemand, Check, Outcome, judge
from mellow_span.core.model.legs import cable_parts
from mellow_span.core.model.parts import Board, Circuit, Installation
from mellow_span.core.model.places import BoardRcd, split
from mellow_span.core.rules.case import Feed
from mellow_span.core.rules.places.electrodes import electrode_checks
from mellow_span.core.rules.places.intake import bonding_csa
from mellow_span.core.rules.places.ratings import build_checks
from mellow_span.core.rules.runner import run_check
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.working.recorders import Silent, Working


def board_checks(w: Working, job: Installation, board: Board, feed: Feed, demand: BoardDemand, above: Circuit | None) -> tuple[Check, ...]:
    """Return the checks of a board: its ways, demand against its feed, its own electrode, and the bonding of metal that enters there."""
    found = []
    if board.ways is not None:
        found.append(run_check(w, "ways", "Ways", C.WAYS, lambda: check_ways(w, job, board)))
    if above is not None:
        found.append(run_check(w, "feed", "Demand on the sub-main", C.OVERLOAD, lambda: check_feed(w, demand, above)))
    found += build_checks(w, job, board, above)
    if job.premises in ("household", "shared"):
        found.append(run_check(w, "enclosure", "Enclosure", C.ENCLOSURE, lambda: check_enclosure(board)))
    found += electrode_checks(w, job, board, feed, above)
    if above is not None and (board.outbuilding or board.extraneous):
        found.append(run_check(w, "bonding", "Bonding at the board", C.MAIN_BONDING, lambda: check_board_bonding(w, job, board, above)))
    return tuple(found)


def check_ways(w: Working, job: Installation, board: Board) -> Outcome:
    """Check that the circuits of a board find a way each; a three-phase circuit takes one on each phase (314.4)."""
    taken = float(added(c.phases for c in job.circuits if c.board == board.id))
    ways = w.given("ways", float(board.ways or 0), "", "ways of the board, each of one pole")
    w.calc("taken", taken, "", "one a phase of each circuit", {}, C.WAYS)
    spare = ways - taken
    text = f"{taken:g} of {ways:g} taken, {spare:g} spare" if spare >= 0 else f"{taken:g} ways needed, {ways:g} available"
    return Outcome(taken, ways, "", None, text, verdict="meets" if spare >= 0 else "short")


def check_feed(w: Working, demand: BoardDemand, above: Circuit) -> Outcome:
    """Check the demand of a board's highest phase against the device of the sub-main that feeds it (433.1.1)."""
    if demand.highest is None:
        raise MissingInput(demand.field or "loads", demand.error)
    if above.device.rating is None:
        raise MissingInput("device.rating", "the rated current of the device of the sub-main in A")
    amps, rating = demand.highest, above.device.rating
    w.given("I,max", amps, "A", "demand of the highest phase after diversity")
    w.given("In", rating, "A", "device of the sub-main")
    word = "is over" if judge(1 - amps / rating) == "short" else "is within"
    told, most = apart(amps, rating, "A")
    text = f"{told} after diversity {word} In {most} of {above.name or 'its feed'}"
    if demand.later is not None and demand.later > amps + 1e-9:
        text += f"; with future loads {quantity(demand.later, 'A')}{', over it' if demand.later > rating else ''}"
    return Outcome(amps, rating, "A", 1 - amps / rating, text)


def board_rcd(board: Board, rcd: BoardRcd) -> str:
    """Word a residual current device of a board: the one over all of it, or that of a section by its number."""
    return f"{f'RCD {rcd.section}' if split(board) else 'the RCD'} of {board.name or 'the board'}"


def check_board_bonding(w: Working, job: Installation, board: Board, above: Circuit) -> Outcome:
    """Check what bonds the metal that enters at a board: a conductor of the main bonding size, or the armour of its feed (544.1.1, 543.2.1)."""
    if board.extraneous is None:
        raise MissingInput("board.extraneous", "whether metal services or structure need bonding at this board")
    if not board.extraneous:
        return Outcome(0.0, 0.0, "mm²", None, "no extraneous metal found that needs bonding here")
    # An electrode of the board's own carries no diverted neutral current, so the rule for supplies without PME applies.
    supply = replace(job.supply, earthing="TT") if board.earthing == "TT" else job.supply
    needed = bonding_csa(w, supply)
    if board.bond == "armour":
        return armour_bonding(w, above, needed)
    if board.bond == "core":
        return core_bonding(w, above, needed)
    if board.bond == "none":
        return Outcome(0.0, needed, "mm²", None, f"nothing bonds it yet: at least {quantity(needed, 'mm²')} copper", verdict="short")
    if board.bond_csa is None:
        raise MissingInput("board.bond_csa", "the csa of the bonding conductor in mm²")
    csa = w.given("S", board.bond_csa, "mm²", "bonding conductor")
    word = "is enough" if csa >= needed else "is too small"
    verdict = "meets" if csa >= needed else "short"
    return Outcome(csa, needed, "mm²", None, f"{quantity(csa, 'mm²')} {word}: at least {quantity(needed, 'mm²')}", verdict=verdict)  # type: ignore[arg-type]


def board_bonded(rules: RuleSet, job: Installation, board: Board, above: Circuit, intake: bool | None) -> bool | None:
    """Say whether what bonds the metal at a fed board meets its own check; a board of the same building rests on the intake's bonding."""
    if not (board.outbuilding or board.extraneous):
        return intake
    try:
        found = check_board_bonding(Silent(rules), job, board, above)
    except CoreError:
        return None
    return (found.verdict or judge(found.margin)) in ("meets", "close")


def check_enclosure(board: Board) -> Outcome:
    """Check that the enclosure of a board in a household is of non-combustible material (421.1.201). Raises MissingInput."""
    if board.metal or board.non_combustible:
        return Outcome(0.0, 0.0, "", None, "its enclosure is of non-combustible material", verdict="meets")
    if board.non_combustible is None:
        raise MissingInput("board.non_combustible", "whether its enclosure is of non-combustible material, or in a cabinet of it")
    return Outcome(
        0.0, 0.0, "", None, "its enclosure can burn: in a household it is non-combustible, or in a cabinet that is", verdict="short"
    )


def core_bonding(w: Working, above: Circuit, needed: float) -> Outcome:
    """Check a core of the feed as a bonding conductor: its csa against copper of the size needed (544.1.1). Raises InputError, MissingInput."""
    return _weakest([_core_bonding(w, part, needed) for part in cable_parts(above)])


def _weakest(found: list[Outcome]) -> Outcome:
    """What counts of a feed whose cable changes: the bond goes through all of them."""
    return min(found, key=lambda one: (one.value or 0.0) / (one.limit or 1.0) - 1 if one.margin is None else one.margin)


def _core_bonding(w: Working, above: Circuit, needed: float) -> Outcome:
    family = w.rules.families.get(above.run.cable.family or "")
    if family is None or not family.armour:
        raise InputError("board.bond", "core", "an armoured feed, whose cores are counted")
    if above.run.cable.csa is None:
        raise MissingInput("cable.csa", "the csa of the feed in mm²")
    csa = w.given("S", above.run.cable.csa, "mm²", "core of the feed that bonds")
    verdict = "meets" if csa >= needed else "short"
    word = "is enough" if csa >= needed else "is too small"
    text = f"a core of {quantity(csa, 'mm²')} {word}: at least {quantity(needed, 'mm²')} copper"
    return Outcome(csa, needed, "mm²", None, text, verdict=verdict)  # type: ignore[arg-type]


def armour_bonding(w: Working, above: Circuit, needed: float) -> Outcome:
    """Check armour as a bonding conductor: its resistance per metre against copper of the size asked for (543.2.1, 544.1.1).

    Beside it the rule of thumb, an eighth of the armour's csa, and the least cable of the family whose armour would do.
    """
    return _weakest([_armour_bonding(w, part, needed) for part in cable_parts(above)])


def _armour_bonding(w: Working, above: Circuit, needed: float) -> Outcome:
    cable = above.run.cable
    family = w.rules.families.get(cable.family or "")
    if family is None or not family.armour:
        raise InputError("board.bond", "armour", "an armoured feed")
    if cable.csa is None:
        raise MissingInput("cable.csa", "the csa of the feed in mm²")
    cores = float(cable.cores or (2 if above.phases == 1 else 4))
    copper = w.look("r,copper", T.RESISTANCE, needed, "cu_mohm_per_m_20C", f"copper of {quantity(needed, 'mm²')}")
    steel = w.look(
        "r,armour", T.ARMOUR_RESISTANCE, (cable.csa, cores), "mohm_per_m_20C", f"armour of {quantity(cable.csa, 'mm²')}, {cores:g} cores"
    )
    area = w.look("S,armour", T.ARMOUR_AREA, cable.csa, f"{family.armour}_{cores:g}c", "armour")
    by = w.limit("thumb", "armour_rule_of_thumb")
    w.calc("S,copper", area / by, "mm²", "S,armour / thumb", {"S,armour": area, "thumb": by}, C.RULE_OF_THUMB, "does not decide")
    row = next((r for r in w.rules.table(T.ARMOUR_RESISTANCE).rows if r.key[1] == cores and r.cells["mohm_per_m_20C"] <= copper), None)
    text = f"armour of the {quantity(cable.csa, 'mm²')} cable is {steel:g} mΩ/m; {quantity(needed, 'mm²')} copper is {copper:g}"
    if steel > copper:
        text += (
            "; no armour in the table is enough" if row is None else f"; needs a {row.key[0]:g} mm² cable or a separate bonding conductor"
        )
    return Outcome(steel, copper, "mΩ/m", 1 - steel / copper, text)
