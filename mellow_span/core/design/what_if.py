"""What if: a job beside copies of itself, each with named changes; what turns, and every number of every circuit side by side."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from mellow_span.core.design.check import check
from mellow_span.core.design.effort import Effort
from mellow_span.core.design.robustness import insulated_later, longer, warmer, weaker_supply
from mellow_span.core.errors import CoreError
from mellow_span.core.findings.results import WORSE, InstallationResult
from mellow_span.core.model.changes import Change, apply
from mellow_span.core.model.parts import Installation
from mellow_span.core.model.routes import apart
from mellow_span.core.rulesets.readings import rules_of

# A copy beside the job, and beside others: more do not fit side by side.
MOST_COPIES = 8


@dataclass(slots=True)
class Compared:
    """A copy as it stands. why: why its changes cannot be made any more, empty where they can; result: none then.

    worse, better: identities of the circuits that fall short or are no longer known where they were not, and of those that are cured.
    """

    id: str
    title: str
    ready: bool
    why: str
    result: InstallationResult | None
    worse: tuple[str, ...]
    better: tuple[str, ...]


def _as_it_is(job: Installation) -> Installation:
    return job


def compare(
    job: Installation,
    copies: Sequence[tuple[str, str, Sequence[Change]]],
    ready: bool = True,
    effort: Effort | None = None,
    settled: Callable[[Installation], Installation] = _as_it_is,
) -> tuple[Compared, ...]:
    """Return the job as it is and each copy as it stands: identity, title and changes of each are given.

    ready: with the set that asks whether it would still hold, lengths, supply, temperature and insulation a little worse than entered.
    effort: how much work it may be; copies left out are missing. settled: gives a copy under another book what belongs to that book, or refuses it.
    """
    effort = effort or Effort()
    effort.expect((len(copies) + 5) * len(job.circuits))
    effort.spend(len(job.circuits))
    now = check(job, keep=False, reuse=True)
    found = [Compared("now", "As it is", True, "", now, (), ())]
    for identity, title, changes in copies:
        if effort.over():
            break
        effort.spend(len(job.circuits))
        try:
            other = settled(apply(job, changes, rules_of(job).choices)[0])
        except CoreError as refused:
            found.append(Compared(identity, title, False, str(refused), None, (), ()))
        else:
            found.append(_beside(identity, title, now, other))
    if ready:
        free = apart(job)
        for identity, title, other in (
            ("longer", "Every length 10 % longer", longer(free)),
            ("supply", "Ze at the declared maximum", weaker_supply(free)),
            ("warmer", "Air and ground 5 °C warmer", warmer(free)),
            ("insulated", "Insulation added later", insulated_later(rules_of(job), free)),
        ):
            if effort.over():
                break
            effort.spend(len(job.circuits))
            found.append(_beside(identity, title, now, other, ready=True))
    return tuple(found)


def _beside(identity: str, title: str, now: InstallationResult, other: Installation, ready: bool = False) -> Compared:
    after = check(other, keep=False, reuse=True)
    stood = {c.id: WORSE[c.verdict] for c in now.circuits}
    turned = [(c.id, WORSE[c.verdict] - stood[c.id]) for c in after.circuits if c.id in stood]
    worse = tuple(name for name, step in turned if step > 0)
    return Compared(identity, title, ready, "", after, worse, tuple(name for name, step in turned if step < 0))
