"""Would it still hold? The whole job checked again with lengths, supply, temperature or insulation a little worse than entered."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from mellow_span.core.design.check import check
from mellow_span.core.design.effort import Effort
from mellow_span.core.findings.results import WORSE, CircuitResult, Verdict
from mellow_span.core.model.changes import Change, restore
from mellow_span.core.model.parts import Circuit, Installation, Span
from mellow_span.core.model.routes import apart
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.readings import rules_of

LONGER, WARMER = 1.1, 5.0


@dataclass(slots=True)
class Holding:
    """How a circuit stands in one variant: its verdict and why, and how it stood before. lost: worse off, short or no longer known to pass."""

    circuit: str
    before: Verdict
    after: Verdict
    lost: bool
    reason: str


@dataclass(slots=True)
class Variant:
    """A variant of the job: what is worse in it, whether it says anything at all, and every circuit in it."""

    id: str
    title: str
    applies: bool
    circuits: tuple[Holding, ...]


def _every_span(job: Installation, change: Callable[[Circuit, Span], dict[str, Any]]) -> Installation:
    changes = [Change("set", "span", span.id, fields) for c in job.circuits for span in c.run.spans if (fields := change(c, span))]
    return restore(job, changes)[0]


def longer(job: Installation) -> Installation:
    """Return the job with every length 10 % up."""
    job = apart(job)
    spans = _every_span(
        job, lambda _, s: {"length": None if s.length is None else s.length * LONGER, "wrapped": s.wrapped * LONGER}
    )  # fmt: skip
    # What is taken off along a run moves on with it.
    moved = [Change("set", "load", x.id, {"at": x.at * LONGER}) for c in job.circuits for x in c.loads if x.at is not None]
    return restore(spans, moved)[0]


def warmer(job: Installation) -> Installation:
    """Return the job with the air and the ground around every span 5 C warmer."""
    return _every_span(job, lambda _, s: {"ambient": s.ambient + WARMER, "ground": min(60.0, s.ground + WARMER)})


def insulated_later(rules: RuleSet, job: Installation) -> Installation:
    """Return the job with insulation put where it could be later: over ceilings, into studs and joists, round what lies free in them."""

    def cover(circuit: Circuit, span: Span) -> dict[str, Any]:
        place = rules.places.get(span.place or "")
        if place is None or not place.insulated_later:
            return {}
        later = rules.places[place.insulated_later]
        family = rules.families.get(circuit.run.cable.family or "")
        if family is not None and later.method in family.methods:
            return {"place": later.id, "laid": rules.laid_as(later, span.laid)}
        return {"wrapped": span.length or 0.0}

    return _every_span(job, cover)


def weaker_supply(job: Installation) -> Installation:
    """Return the job with Ze at the largest the supplier declares, where that is more than what is entered."""
    supply = job.supply
    if supply.ze_declared is None or (supply.ze or 0) >= supply.ze_declared:
        return job
    return restore(job, [Change("set", "supply", fields={"ze": supply.ze_declared})])[0]


def robustness(job: Installation, effort: Effort | None = None) -> tuple[Variant, ...]:
    """Return how every circuit stands with lengths +10 %, Ze at the declared maximum, ambient +5 C, and insulation added later.

    effort: how much work it may be; variants left out are missing.
    """
    effort = effort or Effort()
    rules, job = rules_of(job), apart(job)
    effort.expect(5 * len(job.circuits))
    before = {c.id: c for c in check(job, keep=False, reuse=True).circuits}
    variants = (
        ("lengths", "every length 10 % longer", longer(job)),
        ("supply", "Ze at the declared maximum", weaker_supply(job)),
        ("ambient", "air and ground 5 °C warmer", warmer(job)),
        ("insulation", "insulation added later", insulated_later(rules, job)),
    )
    found = []
    for name, title, other in variants:
        if effort.over():
            break
        effort.spend(len(job.circuits))
        found.append(_variant(name, title, job, other, before))
    return tuple(found)


def _variant(name: str, title: str, job: Installation, other: Installation, before: dict[str, CircuitResult]) -> Variant:
    after = check(other, keep=False, reuse=True)
    stood = {name: result.verdict for name, result in before.items()}
    holding = tuple(Holding(c.id, stood[c.id], c.verdict, WORSE[c.verdict] > WORSE[stood[c.id]], c.reason) for c in after.circuits)
    return Variant(name, title, other != job, holding)
