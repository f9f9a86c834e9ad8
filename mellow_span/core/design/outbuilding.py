"""The ways to earth an outbuilding, side by side: each a changed job with what it means in words."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

from mellow_span.core.adding import added
from mellow_span.core.design.check import lay_out, total_demand
from mellow_span.core.design.prices import COPPER, PriceBook, shipped
from mellow_span.core.errors import CoreError, InputError
from mellow_span.core.figures import quantity
from mellow_span.core.model import Board, Circuit, Installation
from mellow_span.core.model.changes import Change, restore
from mellow_span.core.model.legs import cable_parts
from mellow_span.core.model.routes import resolved
from mellow_span.core.rules.places.boards import armour_bonding
from mellow_span.core.rules.places.intake import bonding_csa
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.vocabulary import C
from mellow_span.core.working.recorders import Silent, Working


@dataclass(slots=True)
class EarthingChoice:
    """One way to earth an outbuilding, with what it means: the job changed so, its verdicts, and words for the consequences."""

    id: str
    title: str
    clause: str
    job: Installation
    consequences: tuple[str, ...]
    # What choosing it changes, and the numbers it is weighed by: see `_weighed`.
    changes: tuple[Change, ...] = ()
    bond_csa: float | None = None
    bond_metres: float = 0.0
    copper: float = 0.0
    cost: float = 0.0
    touch: float | None = None
    digs_later: float = 0.0


def earthing_choices(
    rules: RuleSet, job: Installation, board_id: str, ra: float | None = None, book: PriceBook | None = None
) -> tuple[EarthingChoice, ...]:
    """Return the three ways to earth an outbuilding as changed jobs with their consequences: export, local electrode, export with one more.

    ra: resistance of the local electrode [ohm]; without it that of the board. Raises InputError for a board that no sub-main feeds.
    The third way computes like the first: an additional electrode is never counted on for disconnection.
    """
    board = next((b for b in job.boards if b.id == board_id), None)
    above = next((c for c in job.circuits if c.feeds == board_id), None)
    if board is None or above is None:
        raise InputError("board", board_id, "a board fed by a sub-main")
    w = Silent(rules)
    with_ra = ra if ra is not None else board.ra
    bond = _bonding_words(w, job, replace(board, earthing="supply"), above)
    armoured = _armoured(rules, above)
    pme = job.supply.earthing == "TN-C-S"
    lost = "if the supply PEN conductor breaks, metal here rises to a dangerous voltage" if pme else ""
    exporting = _earthing(board, {"earthing": "supply"}, above, "both")
    apart = _earthing(board, {"earthing": "TT", "ra": with_ra}, above, "supply")
    export, local = restore(job, exporting)[0], restore(job, apart)[0]
    bare, held = open_neutral(w, job, board_id, with_ra) if pme else ("", "")
    softens = "the electrode lowers the voltage on metal here if the PEN conductor breaks" if pme else ""
    ends = "earth the armour at the supply end only, with an insulated gland at the far end" if armoured else ""
    # An electrode at the supply is no TN earth, whoever it is carried on to.
    exported = C.EXPORTED_EARTH_TT if job.supply.earthing == "TT" else C.EXPORTED_EARTH
    both = C.EXPORTED_EARTH_TT if job.supply.earthing == "TT" else C.EXPORTED_EARTH_AND_ELECTRODE
    found = (
        EarthingChoice("export", "Export the supply's earth", rules.clause(exported), export, _words(bond, lost, bare, _ends(armoured))),
        EarthingChoice(
            "local", "Own earth electrode (TT)", rules.clause(C.OWN_ELECTRODE), local,
            _words("every circuit here needs an RCD: a fuse or breaker will not clear an earth fault through an electrode", ends,
                   "the sub-main's cpc stops at the far gland; keep the two earths apart, not touchable at the same time"),
        ),
        EarthingChoice(
            "both", "Export, plus an extra electrode", rules.clause(both), export,
            _words(bond, _ends(armoured), softens, held, "the electrode is not relied on for disconnection"),
        ),
    )  # fmt: skip
    for choice, changes in zip(found, (exporting, apart, exporting), strict=True):
        choice.changes = tuple(changes)
        _weigh(w, job, choice, board, above, with_ra, book or shipped())
    return found


def _weigh(w: Working, job: Installation, choice: EarthingChoice, board: Board, above: Circuit, ra: float | None, book: PriceBook) -> None:
    """Put numbers to a way: the bonding conductor it needs across the yard with its copper [kg], what it costs more by the book, the voltage on
    metal with an open neutral [V], and what has to be dug when metal comes later [m].

    Metal that was found needs its bonding now; where nobody looked, or none was found, a pipe that comes later is dug for. The armour is
    counted on where it is good enough.
    """
    local = choice.id == "local"
    lying = next(c for c in resolved(job).circuits if c.id == above.id)
    metres = added(s.length or 0.0 for s in lying.run.spans)
    ground = added(s.length or 0.0 for s in lying.run.spans if (p := w.rules.places.get(s.place or "")) and p.ground)
    supply = replace(job.supply, earthing="TT") if local else job.supply
    try:
        needed: float | None = bonding_csa(w, supply)
    except CoreError:
        needed = None
    carried = needed is not None and not local and not _armour_does(w, above, needed)
    choice.bond_csa = needed
    if carried and board.extraneous and needed is not None:
        choice.bond_metres = metres
        choice.copper = needed * metres * COPPER
        choice.cost += metres * book.part.get("bond_metre", 0.0) * needed / 10
    elif carried:
        choice.digs_later = ground
    if local or choice.id == "both":
        choice.cost += book.part.get("electrode", 0.0)
    if local and _armoured(w.rules, above):
        choice.cost += book.part.get("gland_insulated", 0.0)
    choice.touch = 0.0 if local else _touch(job, ra if choice.id == "both" else None)


def _touch(job: Installation, ra: float | None) -> float | None:
    """The voltage on exported metal with an open neutral [V]; None where the demand, or the electrode, is not known, 0 without PME."""
    if job.supply.earthing != "TN-C-S":
        return 0.0
    if ra is None:
        return job.supply.u0
    demand = total_demand(lay_out(job))
    if demand is None or not demand.highest:
        return None
    return job.supply.u0 * ra / (ra + job.supply.u0 / demand.highest)


def _armoured(rules: RuleSet, above: Circuit) -> bool:
    families = [rules.families.get(part.run.cable.family or "") for part in cable_parts(above)]
    return all(family is not None and bool(family.armour) for family in families)


def _armour_does(w: Working, above: Circuit, needed: float) -> bool:
    try:
        return (armour_bonding(w, above, needed).margin or 0.0) >= 0
    except CoreError:
        return False


def open_neutral(w: Working, job: Installation, board_id: str, ra: float | None) -> tuple[str, str]:
    """Return what an open neutral does to exported metal: its voltage with the demand of the day, and the electrode that keeps it low.

    With the combined conductor broken the load's current returns through the electrode: U = U0 RA / (RA + U0 / I); RA <= UL (U0 / I) / (U0 - UL)
    keeps it at UL (411.4.2, 542.1.3). Empty texts where the demand is not known or nothing is drawn, or U0 itself is no more than may be touched.
    """
    demand = total_demand(lay_out(job))
    u0, most = job.supply.u0, w.limit("UL", "touch_voltage")
    if demand is None or not demand.highest or u0 <= most:
        return "", ""
    load = u0 / demand.highest
    needed = most * load / (u0 - most)
    drawn, ohm = quantity(demand.highest, "A"), quantity(needed, "Ω")
    told = f"with {drawn} flowing, an electrode of {ohm} or less keeps metal here under {quantity(most, 'V')}"
    if ra is None:
        return f"without an electrode metal here comes to about {quantity(u0, 'V')} then", told
    volts = u0 * ra / (ra + load)
    return (
        f"without an electrode metal here comes to about {quantity(u0, 'V')} then",
        f"with {quantity(ra, 'Ω')} it comes to {quantity(volts, 'V')}; {told}",
    )


def _words(*said: str) -> tuple[str, ...]:
    return tuple(s for s in said if s)


def _ends(armoured: bool) -> str:
    return "earth the armour at both ends" if armoured else ""


def _bonding_words(w: Working, job: Installation, board: Board, above: Circuit) -> str:
    if board.extraneous is False:
        return "no extraneous metal found: no bonding conductor needed"
    try:
        needed = bonding_csa(w, job.supply)
    except CoreError as refusal:
        return f"bonding size not known: {refusal}"
    said = f"metal services here need a {quantity(needed, 'mm²')} copper main bonding conductor run with the feed"
    try:
        return f"{said}; {armour_bonding(w, above, needed).text}"
    except CoreError:
        return said


def _earthing(board: Board, fields: dict[str, Any], above: Circuit, ends: str) -> list[Change]:
    """What earths a board so, with the armour of its feed earthed at these ends."""
    return [Change("set", "board", board.id, fields), Change("set", "circuit", above.id, {"armour_ends": ends})]
