"""Advice on places: rooms, the intake, boards, conduits."""

from __future__ import annotations

from mellow_span.core.findings.advice.base import Facts, hint
from mellow_span.core.model.circuit import POOLS
from mellow_span.core.model.parts import Board, Circuit, Route
from mellow_span.core.model.places import ENCLOSING
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
    if not any(s.location in POOLS for s in circuit.run.spans):
        return None
    said = "extra-low voltage of at most 12 V in zone 0, supplementary bonding in the zones, no PME earth without extra measures"
    return facts.rules.cited(said, C.POOL_RCD)


@hint("agricultural", "circuit", "danger", "Agricultural premises", C.AGRICULTURAL)
def agricultural(facts: Facts, circuit: Circuit) -> str | None:
    """Animals feel less voltage than people; rodents and dust harm cables."""
    if not any(s.location == "agricultural" for s in circuit.run.spans):
        return None
    said = "bond metal that livestock can touch, keep cables out of reach, at least IP44; no PME earth without a bonded floor grid"
    return facts.rules.cited(said, C.AGRICULTURAL)


@hint("tails", "job", "danger", "Meter tails", C.TAILS_IN_INSULATION)
def tails(facts: Facts) -> str | None:
    """Tails have insulation, sheath and a way through the wall that does not cook them."""
    if facts.job.supply.tails_wrapped <= 0:
        return None
    return "tails pass through insulation: re-route them or fit larger ones; agree the fuse and any isolation with the distributor first"


@hint("assumed-fuse", "job", "danger", "Service fuse rating assumed", C.SURVEY)
def assumed_fuse(facts: Facts) -> str | None:
    """What is printed on a cut-out is the carrier's rating, not the fuse's."""
    s = facts.job.supply
    if s.fuse_in is None or s.fuse_source != "assumed":
        return None
    return "the marking on the carrier is not the fuse rating: ask the distributor; do not open the cut-out"


@hint("notify", "job", "duty", "Notification", C.NOTIFICATION)
def notify(facts: Facts) -> str | None:
    """A new circuit, a new board and work in a bathroom are notifiable in most places; local rules decide."""
    if not facts.job.circuits:
        return None
    return "a new circuit, a changed board or work near a bath or shower is notifiable in most places: by a registered person or to building control"


# What the distributor is told of: before it is joined, or where it is small shortly after.
TOLD = {"inverter": "an inverter", "generator": "a generator", "ev": "a charging point", "heat_pump": "a heat pump"}


@hint("distributor", "job", "duty", "Distributor to be told", C.SOURCE_NOTICE)
def distributor(facts: Facts) -> str | None:
    """What feeds the network, or draws on it heavily, is told to whoever runs it: larger ones before they are joined."""
    there = dict.fromkeys(TOLD[x.kind] for c in facts.job.circuits if not c.spare for x in c.loads if x.kind in TOLD)
    if not there:
        return None
    return f"tell the distributor (DNO) about {', '.join(there)}: apply before it is connected, unless it is small enough to be notified afterwards"


@hint("electrode", "board", "danger", "Earth electrode", C.ELECTRODE)
def electrode(facts: Facts, board: Board) -> str | None:
    """Where a rod is driven nobody must hit a service, and soil that dries or freezes raises its resistance."""
    root = not any(c.feeds == board.id for c in facts.job.circuits)
    if board.earthing != "TT" and not (root and facts.job.supply.earthing == "TT"):
        return None
    return "find buried services before driving it and keep clear; deep enough not to dry out or freeze, its clamp in a labelled inspection pit"


@hint("enclosure", "board", "duty", "Enclosure of the board", C.ENCLOSURE)
def enclosure(facts: Facts, board: Board) -> str | None:
    """In households the enclosure of a consumer unit is of non-combustible material or in a cupboard of it; elsewhere nothing asks it."""
    if board.metal or board.non_combustible or facts.job.premises not in ("household", "shared"):
        return None
    known = "is not of" if board.non_combustible is False else "is not known to be of"
    return f"the enclosure {known} non-combustible material: where people live it must be, or be inside an enclosure that is"


@hint("outbuilding", "board", "danger", "Earth of an outbuilding", C.OUTBUILDING)
def outbuilding(facts: Facts, board: Board) -> str | None:
    """Export the supply's earth, or an electrode: a choice to make knowingly."""
    if not board.outbuilding:
        return None
    if board.earthing == "TT":
        return "TT: an RCD for every circuit, and nothing earthed from the house within reach"
    if facts.job.supply.earthing == "TN-C-S":
        return "the PME earth is exported: bond the metal services there at full size, and consider TT instead"
    return "the supply earth is exported: bond the metal services there at full size"


@hint("space-and-heat", "route", "note", "Fit is not rating", C.SPACE_AND_HEAT)
def space_and_heat(facts: Facts, route: Route) -> str | None:
    """Cables that fit a conduit may still cook each other."""
    if route.kind not in ENCLOSING:
        return None
    return f"cables that fit the {route.kind} may still overheat: see the grouping of these circuits"


@hint("separation", "route", "note", "Data cables apart", C.SEPARATION)
def separation(facts: Facts, route: Route) -> str | None:
    """Data, telephone and alarm cables that share a tray or trunking with mains need distance or a divider, and insulation for the higher voltage."""
    if route.kind not in ("trunking", "tray", "basket"):
        return None
    return "data, telephone and alarm cables in it need a divider, or the distance that their own standard sets (BS 6701)"
