"""What is designed: supply, boards, circuits, runs and spans, as plain frozen values in the field's terms.

Base units throughout: A, V, ohm, m, mm2, s, degrees C, W. A field that may be None is one that nobody has entered yet; the checks
that need it answer 'not known'. `spec` beside each field gives unit, range and meaning: the parser, the error texts, the open format
and the interface all read them from here.
"""

from __future__ import annotations

from dataclasses import dataclass, field

from mellow_span.core.model.carried import CellRead, Dismissal, Pack, PackFile, Stage, Tagged
from mellow_span.core.model.circuit import (
    Basis,
    Cable,
    Circuit,
    CpcKind,
    Curve,
    Device,
    Load,
    LoadKind,
    Location,
    Phase,
    Run,
    Shape,
    Span,
)
from mellow_span.core.model.places import Board, Route
from mellow_span.core.model.spec import NOTE_LIMIT, listing, spec
from mellow_span.core.model.supply import Earthing, Phases, Premises, Source, Supply

__all__ = [
    "Basis",
    "Board",
    "Cable",
    "CellRead",
    "Circuit",
    "CpcKind",
    "Curve",
    "Device",
    "Dismissal",
    "Earthing",
    "Installation",
    "Load",
    "LoadKind",
    "Location",
    "Pack",
    "PackFile",
    "Phase",
    "Phases",
    "Premises",
    "Route",
    "Run",
    "Shape",
    "Source",
    "Span",
    "Stage",
    "Supply",
    "Tagged",
]


@dataclass(frozen=True, slots=True, kw_only=True)
class Installation:
    """A whole job: one supply, its boards and their circuits."""

    name: str = spec("Name of the job", default="", least=1)
    client: str = spec("Who it is for, in your own words", default="")
    place: str = spec("Site address", default="")
    note: str = spec("A note shown when the job is opened", default="", most=NOTE_LIMIT)
    ruleset: str = spec(
        "Rule set the job is designed to; with a + and its mark for each pack laid over it", default="bs7671", choices="book"
    )
    premises: Premises = spec(
        "Kind of premises; shared: houses in multiple occupation, student rooms, care homes, tall residential buildings",
        default="household",
    )
    supply: Supply = field(default_factory=Supply, metadata={"meaning": "The intake"})
    boards: tuple[Board, ...] = listing("Boards")
    circuits: tuple[Circuit, ...] = listing("Circuits")
    routes: tuple[Route, ...] = listing("Routes that cables share")
    stages: tuple[Stage, ...] = listing("Stages of the work, the first first; empty: all is there at once")
    dismissals: tuple[Dismissal, ...] = listing("Advice not applicable")
    cells: tuple[CellRead, ...] = listing("Table values the firm checked against the printed standard")
    packs: tuple[Pack, ...] = listing("Packs of tables that the rule set names")
    numbers: tuple[Tagged, ...] = listing("Numbers of circuits and letters of boards that stay")
