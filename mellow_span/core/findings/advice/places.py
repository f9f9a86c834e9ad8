"""Advice on places: rooms, the intake, boards, conduits."""

from __future__ import annotations

from mellow_span.core.findings.advice.base import Facts, hint
from mellow_span.core.model.parts import Board, Circuit, Route
from mellow_span.core.rulesets.vocabulary import C


@hint("bathroom", "circuit", "danger", "Room with a bath or shower", C.BATHROOM)
def bathroom(facts: Facts, circuit: Circuit) -> str | None:
    """Zones, 30 mA, and supplementary bonding unless three conditions are met."""
    if not any(s.location == "bathroom" for s in circuit.run.spans):
        return None
    said = "keep to the zones, IPX4 in zones 1 and 2; supplementary bonding unless disconnection, 30 mA and main bonding are all in place"
    return facts.rules.cited(said, C.BATHROOM_BONDING)


@hint("pool", "circuit", "danger", "Swimming pool", C.POOL)
def pool(facts: Facts, circuit: Circuit) -> str | None:
    """Zones, extra-low voltage in the water, supplementary bonding of what is extraneous."""
    if not any(s.location == "pool" for s in circuit.run.spans):
        return None
    said = "extra-low voltage of at most 12 V in zone 0, supplementary bonding in the zones, no PME earth without measures for it"
    return facts.rules.cited(said, C.POOL_RCD)


@hint("agricultural", "circuit", "danger", "Agricultural premises", C.AGRICULTURAL)
def agricultural(facts: Facts, circuit: Circuit) -> str | None:
    """Animals feel less voltage than people; rodents and dust harm cables."""
    if not any(s.location == "agricultural" for s in circuit.run.spans):
        return None
    said = "bond what animals touch, keep cables out of their reach, at least IP44, and no supply earth of the PME kind without bonding the floor"
    return facts.rules.cited(said, C.AGRICULTURAL)


@hint("tails", "job", "danger", "Meter tails", C.TAILS_IN_INSULATION)
def tails(facts: Facts) -> str | None:
    """Tails have insulation, sheath and a way through the wall that does not cook them."""
    if facts.job.supply.tails_wrapped <= 0:
        return None
    return "tails pass through insulation: sleeve or re-route them, or fit larger ones; agree the fuse with the supplier before touching its side"


@hint("assumed-fuse", "job", "danger", "Service fuse only assumed", C.SURVEY)
def assumed_fuse(facts: Facts) -> str | None:
    """What is printed on a cut-out is the carrier's rating, not the fuse's."""
    s = facts.job.supply
    if s.fuse_in is None or s.fuse_source != "assumed":
        return None
    return "the carrier's marking is not the fuse's rating: ask the supplier, who alone may open the cut-out"


@hint("notify", "job", "duty", "Notification", C.NOTIFICATION)
def notify(facts: Facts) -> str | None:
    """A new circuit, a new board and work in a bathroom are notifiable in most places; local rules decide."""
    if not facts.job.circuits:
        return None
    return "a new circuit, a changed board or work near a bath or shower is notifiable in most places: by a registered person or to building control"


@hint("electrode", "board", "danger", "Earth electrode", C.ELECTRODE)
def electrode(facts: Facts, board: Board) -> str | None:
    """Where a rod is driven nobody must hit a service, and soil that dries or freezes raises its resistance."""
    root = not any(c.feeds == board.id for c in facts.job.circuits)
    if board.earthing != "TT" and not (root and facts.job.supply.earthing == "TT"):
        return None
    return "find buried services before driving it and keep clear of them; deep enough not to dry or freeze, its head in a marked pit"


@hint("enclosure", "board", "duty", "Enclosure of the board", C.ENCLOSURE)
def enclosure(facts: Facts, board: Board) -> str | None:
    """In households the enclosure of a consumer unit is of non-combustible material or in a cupboard of it; elsewhere nothing asks it."""
    if board.metal or board.non_combustible or facts.job.premises not in ("household", "shared"):
        return None
    known = "is not of" if board.non_combustible is False else "is not known to be of"
    return f"the enclosure {known} non-combustible material: where people live it is, or stands in an enclosure that is"


@hint("outbuilding", "board", "danger", "Earth of an outbuilding", C.OUTBUILDING)
def outbuilding(facts: Facts, board: Board) -> str | None:
    """Export the supply's earth, or an electrode: a choice to make knowingly."""
    if not board.outbuilding:
        return None
    if board.earthing == "TT":
        return "on an electrode of its own: an RCD for every circuit, and nothing earthed by the house within reach"
    if facts.job.supply.earthing == "TN-C-S":
        return "the supply's combined earth is exported: bond its metal services in full size, and weigh an electrode instead"
    return "the supply's earth is exported: bond its metal services in full size"


@hint("space-and-heat", "route", "note", "Space is not heat", C.SPACE_AND_HEAT)
def space_and_heat(facts: Facts, route: Route) -> str | None:
    """Cables that fit a conduit may still cook each other."""
    if route.kind == "open":
        return None
    return f"that the cables fit the {route.kind} proves nothing of their heat: the grouping of the same circuits stands beside it"
