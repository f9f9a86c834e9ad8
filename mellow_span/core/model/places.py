"""Where circuits start and lie: boards, and the routes that cables share."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from mellow_span.core.model.circuit import Location, RcdType
from mellow_span.core.model.spec import identity, spec
from mellow_span.core.model.supply import Source

# Ratings that are mostly met [A].
SWITCHES = (40.0, 63.0, 80.0, 100.0, 125.0, 160.0, 200.0, 250.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Board:
    """A distribution board."""

    id: str = identity()
    name: str = spec("Name", default="")
    ways: int | None = spec("Number of ways", "", 1, 96)
    earthing: Literal["supply", "TT"] = spec("Earthed by the supply's earth, or by an electrode of its own", default="supply")
    ra: float | None = spec("Resistance of its own earth electrode, RA", "Ω", 0.1, 5000)
    ra_source: Source = spec("Where RA comes from", default="assumed")
    conditional: float | None = spec("Rated conditional short-circuit current with the upstream fuse", "A", 1000, 50000)
    rcd_idn: float | None = spec("Main RCD of the board, or of its first section, IΔn", "A", 0.006, 1)
    rcd_delayed: bool = spec("That residual current device is time-delayed, type S", default=False)
    rcd_type: RcdType | None = spec("Type of that residual current device")
    rcd_in: float | None = spec("Rated current of that residual current device", "A", 6, 125, usual=(25, 40, 63, 80, 100))
    rcd_both_ways: bool | None = spec("The maker of that residual current device lets current through it in both directions")
    rcd2_idn: float | None = spec("RCD of the second section of the board, IΔn", "A", 0.006, 1)
    rcd2_delayed: bool = spec("RCD of the second section: time-delayed, type S", default=False)
    rcd2_type: RcdType | None = spec("RCD of the second section: type")
    rcd2_in: float | None = spec("RCD of the second section: rated current", "A", 6, 125, usual=(25, 40, 63, 80, 100))
    rcd2_both_ways: bool | None = spec("RCD of the second section: its maker lets current through it in both directions")
    rcd3_idn: float | None = spec("RCD of the third section of the board, IΔn", "A", 0.006, 1)
    rcd3_delayed: bool = spec("RCD of the third section: time-delayed, type S", default=False)
    rcd3_type: RcdType | None = spec("RCD of the third section: type")
    rcd3_in: float | None = spec("RCD of the third section: rated current", "A", 6, 125, usual=(25, 40, 63, 80, 100))
    rcd3_both_ways: bool | None = spec("RCD of the third section: its maker lets current through it in both directions")
    switch_in: float | None = spec("Rated current of the main switch", "A", 6, 800, usual=SWITCHES)
    busbar_in: float | None = spec("Rated current of the busbar", "A", 6, 800, usual=SWITCHES)
    class_ii: bool | None = spec("Of class II construction up to its residual current devices")
    electrode_distance: float | None = spec("Distance from its electrode to the nearest buried metal or other electrode", "m", 0.1, 500)
    outbuilding: bool = spec("In a separate building", default=False)
    earthing_reason: str = spec("Why it is earthed as it is", default="")
    metal: bool | None = spec("Enclosure of metal")
    non_combustible: bool | None = spec("Enclosure of non-combustible material, or in a cabinet of it; one of metal is")
    extraneous: bool | None = spec("Whether metal services or structure need main bonding here")
    bond: Literal["none", "conductor", "armour", "core"] = spec(
        "What bonds them; core: a core of the feed beside those in use", default="none"
    )
    bond_csa: float | None = spec("Csa of that bonding conductor, copper", "mm²", 1, 120)
    from_stage: str | None = spec("Installed at stage; empty: in place from the first on")
    until_stage: str | None = spec("Removed at stage; empty: stays")


# Kinds of route that enclose what lies in them: space and drawing in are asked there alone.
ENCLOSING = frozenset(["conduit", "trunking"])


@dataclass(frozen=True, slots=True)
class BoardRcd:
    """A residual current device of a board: the section it protects, IΔn [A], delay, type, rated current [A], direction; prefix: of its fields."""

    section: int
    idn: float
    delayed: bool
    kind: RcdType | None
    rated: float | None
    both_ways: bool | None
    prefix: str


def rcds_of(board: Board) -> tuple[BoardRcd, ...]:
    """Return the residual current devices of a board, by the section each protects."""
    each = (
        (1, board.rcd_idn, board.rcd_delayed, board.rcd_type, board.rcd_in, board.rcd_both_ways, "rcd"),
        (2, board.rcd2_idn, board.rcd2_delayed, board.rcd2_type, board.rcd2_in, board.rcd2_both_ways, "rcd2"),
        (3, board.rcd3_idn, board.rcd3_delayed, board.rcd3_type, board.rcd3_in, board.rcd3_both_ways, "rcd3"),
    )
    return tuple(BoardRcd(n, idn, *rest) for n, idn, *rest in each if idn is not None)  # type: ignore[arg-type]


def rcd_over(board: Board, section: int) -> BoardRcd | None:
    """Return the residual current device over a section of a board; None where it has none."""
    return next((one for one in rcds_of(board) if one.section == section), None)


def split(board: Board) -> bool:
    """Say whether a board is divided into sections with residual current devices of their own."""
    return board.rcd2_idn is not None or board.rcd3_idn is not None


@dataclass(frozen=True, slots=True, kw_only=True)
class Route:
    """A named stretch of the building that cables share: a riser, landing joists, a loft, a trench, a tray, a conduit or trunking.

    Which circuits are in it follows from their spans. A span in it takes the surroundings from here; a field that is empty is left to the span.
    """

    id: str = identity()
    name: str = spec("Name", default="")
    kind: Literal["open", "conduit", "trunking", "tray", "basket"] = spec("What holds them together", default="open")
    place: str | None = spec("Surroundings, as a place of the rule set", choices="place")
    length: float | None = spec("Length of the stretch; a span that leaves half-way has its own", "m", 0.1, 1000)
    ambient: float | None = spec("Temperature of the surroundings", "°C", -10, 80)
    wrapped: float | None = spec("Length totally surrounded by thermal insulation", "m", 0, 1000)
    ground: float | None = spec("Temperature of the ground, for a stretch in it", "°C", 0, 80)
    soil: float | None = spec("Thermal resistivity of the soil", "K·m/W", 0.3, 4)
    depth: float | None = spec("Depth of laying", "m", 0.3, 3)
    guarded: bool | None = spec("Hidden in a wall: at least 50 mm deep, or mechanically protected")
    metal_partition: bool | None = spec("In a wall or partition with metal parts in its construction")
    fire_supports: bool | None = spec("Held by supports that do not fail early in a fire")
    polystyrene: bool | None = spec("Touches expanded polystyrene")
    fire_barrier: bool | None = spec("Passes a wall or floor that must hold back fire")
    location: Location | None = spec("Special place it lies in or ends in")
    laid: str = spec("How they lie", default="bunched", choices="laid")
    others: int = spec("Loaded circuits in it that are not in this job", "", 0, 40, default=0)
    simultaneous: bool = spec("No two can be overloaded at the same time", default=False)
    diameter: float | None = spec("Outer diameter of the conduit", "mm", 16, 63)
    width: float | None = spec("Width of the trunking, tray or basket", "mm", 16, 600)
    height: float | None = spec("Height of the trunking", "mm", 16, 300)
    pull: float | None = spec("Length between drawing-in points", "m", 0.1, 100)
    bends: int = spec("Right-angle bends between drawing-in points; a double set counts as one", "", 0, 10, default=0)
