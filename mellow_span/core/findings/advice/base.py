"""What a piece of advice is, and the facts its hints look at. A hint decides nothing; it can be put aside with a reason."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal, TypeVar

from mellow_span.core.model.legs import cable_parts
from mellow_span.core.model.parts import Board, Circuit, Installation, Span
from mellow_span.core.rulesets import RuleSet

Weight = Literal["danger", "duty", "note"]


@dataclass(slots=True)
class Advice:
    """One piece of advice. key: rule and subject; weight: danger, duty or note; dismissed: the reason for which it was put aside."""

    key: str
    weight: Weight
    title: str
    text: str
    clause: str
    subject: str
    circuit: str | None = None
    board: str | None = None
    dismissed: str | None = None


@dataclass(frozen=True, slots=True)
class Facts:
    """What the rules look at: the rule set, the job, and of a circuit's surroundings what is asked for most."""

    rules: RuleSet
    job: Installation

    def board(self, circuit: Circuit) -> Board | None:
        """The board a circuit starts from."""
        return next((b for b in self.job.boards if b.id == circuit.board), None)

    def fed(self, circuit: Circuit) -> Board | None:
        """The board a sub-main feeds."""
        return next((b for b in self.job.boards if b.id == circuit.feeds), None)

    def places(self, circuit: Circuit, *, concealed: bool = False, ground: bool = False) -> list[Span]:
        """The spans of a circuit hidden in a wall, or in the ground."""
        found = [(s, self.rules.places.get(s.place or "")) for s in circuit.run.spans]
        return [s for s, p in found if p and ((concealed and p.concealed) or (ground and p.ground))]

    def armoured(self, circuit: Circuit) -> bool:
        """Whether the cable of a circuit is armoured, or one of them where it changes along the run."""
        families = (self.rules.families.get(part.run.cable.family or "") for part in cable_parts(circuit))
        return any(family and family.armour for family in families)

    def pvc(self, circuit: Circuit) -> bool:
        """Whether the insulation of a circuit is thermoplastic."""
        family = self.rules.families.get(circuit.run.cable.family or "")
        return bool(family and family.insulation == "pvc70")


@dataclass(frozen=True, slots=True)
class Hint:
    """A hint by name: what it is about, how much it weighs, its title and clause, and the function that finds its facts."""

    id: str
    about: Literal["job", "board", "circuit", "route"]
    weight: Weight
    title: str
    clause: str
    run: Callable[..., str | None]


HINTS: list[Hint] = []


F = TypeVar("F", bound=Callable[..., str | None])


def hint(id: str, about: Literal["job", "board", "circuit", "route"], weight: Weight, title: str, clause: str) -> Callable[[F], F]:
    """Register a function as a hint."""

    def add(run: F) -> F:
        HINTS.append(Hint(id, about, weight, title, clause, run))
        return run

    return add


def _named(spans: list[Span]) -> str:
    return ", ".join(s.name or "a span" for s in spans)
