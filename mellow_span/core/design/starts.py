"""Short starts for a new job: the shape of a usual job from a handful of answers. What was not answered stays not entered; nothing is made up."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from mellow_span.core.model.parts import Board, Circuit, Earthing, Installation, Phases, Run, Span, Supply

StartKind = Literal["empty", "house", "outbuilding", "workshop", "flat"]


@dataclass(frozen=True, slots=True)
class Answers:
    """What was answered. ways: of the first board; outbuilding: what the separate building is called; distance: of its feed [m]; ruleset: its book."""

    name: str
    client: str = ""
    place: str = ""
    earthing: Earthing | None = None
    ways: int | None = None
    outbuilding: str = ""
    distance: float | None = None
    ruleset: str = "bs7671"


def start_of(kind: StartKind, answers: Answers) -> Installation:
    """Return a new job. house: one board; outbuilding: a second board in a separate building, with its feed; workshop: three phases, premises
    that are no household; flat: a board that is there already, to be checked.

    >>> [b.name for b in start_of("outbuilding", Answers(name="Row", outbuilding="Shed")).boards]
    ['Board of the house', 'Shed board']
    """
    titles = {"workshop": "Workshop board", "flat": "Board of the flat", "empty": "Main board"}
    phases: Phases = 3 if kind == "workshop" else 1
    boards = [Board(id="main", name=titles.get(kind, "Board of the house"), ways=answers.ways)]
    circuits = []
    if kind == "outbuilding":
        called = answers.outbuilding.strip() or "Outbuilding"
        boards.append(Board(id="far", name=f"{called} board", outbuilding=True))
        spans = () if answers.distance is None else (Span(id="across", length=answers.distance),)
        circuits.append(Circuit(id="feed", name=f"{called} feed", board="main", feeds="far", run=Run(id="feed-run", spans=spans)))
    return Installation(
        name=answers.name,
        client=answers.client,
        place=answers.place,
        ruleset=answers.ruleset,
        premises="other" if kind == "workshop" else "household",
        supply=Supply(earthing=answers.earthing, phases=phases),
        boards=tuple(boards),
        circuits=tuple(circuits),
    )
