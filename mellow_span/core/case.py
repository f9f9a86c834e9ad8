"""A circuit under check: its inputs, the rule set, and the point of the installation it starts from."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

from mellow_span.core.errors import MissingInput
from mellow_span.core.model import Circuit, Device, Span, Supply
from mellow_span.core.results import Point, Stretch
from mellow_span.core.rules import Family, RuleSet


@dataclass(frozen=True, slots=True)
class Feed:
    """What arrives at a board.

    ze_cold, ze_hot [ohm]: earth-fault loop at 20 C and at operating temperature; ln_cold, ln_hot [ohm]: line-neutral loop;
    None where the survey has no value. drop [%], length [m] from the origin. missing: the field to ask for.
    """

    ze_cold: float | None = None
    ze_hot: float | None = None
    ln_cold: float | None = None
    ln_hot: float | None = None
    drop: float | None = 0.0
    length: float = 0.0
    stretches: tuple[Stretch, ...] = ()
    points: tuple[Point, ...] = ()


@dataclass
class Case:
    """One circuit with everything its rules need; asking for an input nobody entered raises MissingInput with its field."""

    rules: RuleSet
    supply: Supply
    circuit: Circuit
    feed: Feed
    span_iz: dict[str, float] = field(default_factory=dict)
    # Figures several checks share, worked out once; their steps stand with the check that owns them.
    memo: dict[str, Any] = field(default_factory=dict)

    @property
    def device(self) -> Device:
        """The protective device."""
        return self.circuit.device

    @cached_property
    def assumed(self) -> frozenset[str]:
        """The surveyed values, by field name, that are there and only assumed."""
        s = self.supply
        there = (("ze", s.ze, s.ze_source), ("ipf", s.ipf, s.ipf_source))
        return frozenset(name for name, value, source in there if value is not None and source == "assumed")

    @cached_property
    def rating(self) -> float:
        """In [A]."""
        if self.circuit.device.rating is None:
            raise MissingInput("device.rating", "the rated current of the device in A")
        return self.circuit.device.rating

    @cached_property
    def family(self) -> Family:
        """The cable family of the rule set."""
        name = self.circuit.run.cable.family
        if name is None or name not in self.rules.families:
            raise MissingInput("cable.family", "a cable family: " + ", ".join(f.title for f in self.rules.families.values()))
        return self.rules.families[name]

    @cached_property
    def csa(self) -> float:
        """Line conductor S [mm2]."""
        if self.circuit.run.cable.csa is None:
            raise MissingInput("cable.csa", "the csa of the line conductor in mm²")
        return self.circuit.run.cable.csa

    @cached_property
    def cpc_csa(self) -> float:
        """Protective conductor csa [mm2]: as entered, or what the family fixes for the line csa."""
        entered = self.circuit.run.cable.cpc_csa
        if entered is not None:
            return entered
        if self.family.cpc == "core":
            return self.csa
        pair = self.family.pairs.get(self.csa)
        if pair is None:
            raise MissingInput("cable.cpc_csa", "the csa of the protective conductor in mm²")
        return pair

    @cached_property
    def spans(self) -> tuple[Span, ...]:
        """The spans of the run, each with a length."""
        spans = self.circuit.run.spans
        if not spans:
            raise MissingInput("spans", "at least one span with its length")
        for span in spans:
            if span.length is None:
                raise MissingInput(f"span.{span.id}.length", f"the length of the span “{span_name(self.rules, span)}” in m")
        return spans

    @cached_property
    def length(self) -> float:
        """Length of the run [m]."""
        return sum(span.length or 0.0 for span in self.spans)

    @cached_property
    def loaded(self) -> int:
        """Loaded conductors: 2 for single phase, 3 for three."""
        return 2 if self.circuit.phases == 1 else 3

    @cached_property
    def ring(self) -> bool:
        """Whether the circuit is a ring final."""
        return self.circuit.shape == "ring"

    @cached_property
    def lighting(self) -> bool:
        """Whether any load is lighting; a mixed circuit takes the stricter limits."""
        return any(load.kind == "lighting" for load in self.circuit.loads)

    @cached_property
    def sockets(self) -> bool:
        """Whether any load is a socket-outlet."""
        return any(load.kind == "sockets" for load in self.circuit.loads)

    def method(self, span: Span) -> str:
        """Reference method of a span, from its place. Raises MissingInput."""
        place = self.rules.places.get(span.place or "")
        if place is None:
            raise MissingInput(
                f"span.{span.id}.place",
                f"the surroundings of the span “{span_name(self.rules, span)}”" if span.name else "the surroundings of a span",
            )
        return place.method


def span_name(rules: RuleSet, span: Span) -> str:
    """Word a span: its own name, else its surroundings."""
    if span.name:
        return span.name
    place = rules.places.get(span.place or "")
    return place.title if place else "a span"
