"""What a plan in stages costs in cables: a size that grows from stage to stage, put in once for the last, or renewed when its day comes."""

from __future__ import annotations

from dataclasses import dataclass

from mellow_span.core.adding import added
from mellow_span.core.design.effort import Effort, StoppedError
from mellow_span.core.design.prices import PriceBook, circuit_cost
from mellow_span.core.design.size import csa_change, size, with_csa
from mellow_span.core.design.stages import Staged, stages_of
from mellow_span.core.errors import CoreError
from mellow_span.core.model.changes import Change
from mellow_span.core.model.parts import Circuit, Installation
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.readings import rules_of


@dataclass(slots=True)
class Needed:
    """The least csa [mm2] of a circuit at a stage, None with the reason where no size meets the checks there. stage: its identity."""

    stage: str
    csa: float | None
    reason: str


@dataclass(slots=True)
class Growing:
    """A circuit whose least size grows from stage to stage. csa: as it stands [mm2]; most: the least that meets the checks at every stage.

    once, renewed: cable, laying and digging by the prices, put in once with `most`, or with what each stage needs and put in anew when that grows;
    dug, dug_again: the digging of each [m]; changes: what makes it `most`; none where it is already.
    """

    circuit: str
    needed: tuple[Needed, ...]
    csa: float | None
    most: float
    once: float
    renewed: float
    dug: float
    dug_again: float
    changes: tuple[Change, ...]


def growing(job: Installation, book: PriceBook, effort: Effort | None = None) -> tuple[Growing, ...]:
    """Return the circuits of a job whose least size grows from one of its stages to a later one, those first that cost most to renew.

    What lies there already is not chosen, so not asked. effort: how much work it may be; what is left out then is missing. Raises InputError for a job
    that cannot be worked out.
    """
    effort, staged = effort or Effort(), stages_of(job)
    if staged is None:
        return ()
    asked = [c for c in job.circuits if not c.existing and not c.spare and _differs(staged, c.id)]
    effort.expect(len(asked) * len(job.stages) * len(job.circuits))
    found = []
    for circuit in asked:
        if effort.over():
            break
        try:
            one = _growing(staged, rules_of(job), book, circuit, effort)
        except StoppedError:
            # A size counts whole or not at all; nobody who waits is told half of one.
            if not effort.cut:
                raise
            break
        if one is not None:
            found.append(one)
    return tuple(sorted(found, key=lambda one: one.once - one.renewed))


def _differs(staged: Staged, circuit: str) -> bool:
    """Whether a circuit is there at several stages and not alike at all of them."""
    there = [c for one in staged.each for c in one.done.result.circuits if c.id == circuit]
    return len({(c.ib, c.iz, c.drop, c.zs, c.verdict) for c in there}) > 1


def _growing(staged: Staged, rules: RuleSet, book: PriceBook, circuit: Circuit, effort: Effort) -> Growing | None:
    needed = []
    for one in staged.each:
        if any(c.id == circuit.id for c in one.job.circuits):
            try:
                sizing = size(one.job, circuit.id, effort)
                needed.append(Needed(one.stage.id, sizing.csa, sizing.reason))
            except CoreError as error:
                needed.append(Needed(one.stage.id, None, str(error)))
    sizes = [n.csa for n in needed if n.csa is not None]
    put_in = _put_in(sizes)
    if len(put_in) < 2 or len(sizes) < len(needed):
        return None
    most = put_in[-1]
    costs = {csa: circuit_cost(book, rules, with_csa(rules, circuit, csa)) for csa in put_in}
    sums = {csa: cost.cable + cost.laying + cost.digging for csa, cost in costs.items()}
    return Growing(
        circuit.id, tuple(needed), circuit.run.cable.csa, most, round(sums[most], 2), round(added(sums[csa] for csa in put_in), 2),
        costs[most].digging_m, added(costs[csa].digging_m for csa in put_in),
        () if circuit.run.cable.csa == most else (csa_change(rules, circuit, most),),
    )  # fmt: skip


def _put_in(sizes: list[float]) -> list[float]:
    """The cables that are put in one after the other where each is taken for its stage alone: one that is large enough already stays.

    >>> _put_in([4.0, 10.0, 6.0, 16.0])
    [4.0, 10.0, 16.0]
    """
    found: list[float] = []
    for csa in sizes:
        if not found or csa > found[-1]:
            found.append(csa)
    return found
