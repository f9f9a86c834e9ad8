"""What lies between two states of a job, as two revisions: what was changed, in words, and what that did to the circuits."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from mellow_span.core.design.check import check
from mellow_span.core.findings.history import names_of, told
from mellow_span.core.findings.results import Verdict
from mellow_span.core.model.changes import Applied
from mellow_span.core.model.difference import difference
from mellow_span.core.model.numbers import numbers
from mellow_span.core.model.parts import Installation


@dataclass(slots=True)
class CircuitBetween:
    """A circuit that stands otherwise: number and name, verdict and reason before and after; None where it was not there."""

    where: str
    before: Verdict | None
    after: Verdict | None
    was: str
    now: str


@dataclass(slots=True)
class Between:
    """What was changed, line by line, and the circuits that stand otherwise, those that got worse first."""

    lines: list[str]
    circuits: list[CircuitBetween]


def _main(applied: Sequence[Applied]) -> list[Applied]:
    """What was done, without the loads and spans that came or went with their circuit, and without mere order."""
    whole = {one.id for one in applied if one.kind in ("circuit", "board") and one.op in ("add", "remove")}

    def along(one: Applied) -> bool:
        place = one.after if one.op == "add" else one.before
        return one.op in ("add", "remove") and (place or {}).get("parent") in whole and one.kind in ("load", "span")

    def order(one: Applied) -> bool:
        return one.op == "move" and (one.before or {}).get("parent") == (one.after or {}).get("parent")

    return [one for one in applied if not along(one) and not order(one)]


ORDER: tuple[Verdict | None, ...] = ("short", "not_known", "close", "meets", None)


def between(old: Installation, new: Installation) -> Between:
    """Return what lies between two states of a job. Raises CoreError for one that cannot be worked out."""
    names = names_of(old, new)
    lines = told([replace(one, step=k) for k, one in enumerate(_main(difference(old, new)))], names)
    before, after = ({c.id: c for c in check(job, keep=False, reuse=True).circuits} for job in (old, new))
    called: dict[str, str] = {}
    for job in (old, new):
        numbered = numbers(job)
        called |= {c.id: f"{numbered[c.id]} {c.name or 'a circuit'}" for c in job.circuits}
    found = []
    for identity in [*after, *(i for i in before if i not in after)]:
        a, b = before.get(identity), after.get(identity)
        was, now = (f"{c.headline}: {c.reason}" if c else "not there" for c in (a, b))
        if was != now:
            found.append(CircuitBetween(called[identity], a.verdict if a else None, b.verdict if b else None, was, now))
    found.sort(key=lambda c: ORDER.index(c.after))
    return Between(lines, found)
