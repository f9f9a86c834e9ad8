"""A cable that cannot be had: the sizes that can, each put into every circuit that was to have it and proved by every check of the whole job."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from mellow_span.core.design.check import check, lay_out
from mellow_span.core.design.solving import changed, rank
from mellow_span.core.errors import InputError
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import CircuitResult, InstallationResult, Verdict
from mellow_span.core.model.changes import Change
from mellow_span.core.model.numbers import numbers
from mellow_span.core.model.parts import Circuit, Installation
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.site.materials import cable_key

MOST = 4


@dataclass(slots=True)
class Turned:
    """A check that reads otherwise with the cable that is there: verdict and words before and after. where: number and name of the circuit."""

    where: str
    title: str
    before: Verdict
    after: Verdict
    was: str
    now: str


@dataclass(slots=True)
class Substitute:
    """A cable in the place of one that cannot be had. passes: no circuit and no place is worse off than with the one that was wanted, and every
    circuit that takes it passes. price: of a metre, as the merchant asks; turned: what reads otherwise, the worst first.
    """

    key: str
    title: str
    changes: tuple[Change, ...]
    passes: bool
    price: float
    turned: tuple[Turned, ...]


def substitutes(job: Installation, wanted: str, offered: Mapping[str, float]) -> tuple[Substitute, ...]:
    """Return what can be taken in the place of a cable, those that pass first, then the cheapest; four at most.

    wanted: the key of the cable (see `materials`); offered: price of a metre of each cable that is there, by its key. Taken are other sizes of the
    family and the same construction with the other insulation. Raises InputError where no circuit takes that cable.
    """
    plan = lay_out(job)
    users = [c for c in plan.job.circuits if not c.existing and c.run.cable.csa and c.run.cable.family in plan.rules.families]
    users = [c for c in users if cable_key(plan, c) == wanted]
    if not users:
        raise InputError("key", wanted, "the key of a cable of this job")
    now = check(job, keep=False, reuse=True)
    (_, own_cores, own_csa), family_kin = _parts(wanted), kin(plan.rules, wanted)
    found = []
    for key, price in offered.items():
        family, cores, csa = _parts(key)
        if key == wanted or cores != own_cores or family not in family_kin:
            continue
        changes = tuple(_change(c, family, csa) for c in users)
        after = check(changed(job, changes), keep=False, reuse=True)
        turned = _turned(job, now, after, {c.id for c in users})
        title = f"{quantity(csa, 'mm²')} {plan.rules.families[family].title}, for {quantity(own_csa, 'mm²')}"
        found.append(Substitute(key, title, changes, _passes(now, after, users), price, turned))
    return tuple(sorted(found, key=lambda i: (not i.passes, i.price))[:MOST])


def _parts(key: str) -> tuple[str, str, float]:
    """Family, cores and csa of the key of a cable. Raises InputError."""
    parts = key.split("/")
    try:
        return parts[1], parts[2] if len(parts) == 4 else "", float(parts[-1])
    except (IndexError, ValueError):
        raise InputError("key", key, "the key of a cable of this job") from None


def kin(rules: RuleSet, key: str) -> set[str]:
    """Return the family of a cable's key and those of the same construction with the other insulation. Raises InputError."""
    family = _parts(key)[0]
    at_70 = {f.id: f.at_70 for f in rules.families.values() if f.at_70}
    return {family, at_70.get(family, family), *(f for f, base in at_70.items() if base == family)}


def _change(circuit: Circuit, family: str, csa: float) -> Change:
    fields: dict[str, Any] = {"cable.family": family, "cable.csa": csa}
    cpc = circuit.run.cable.cpc_csa
    if cpc is not None and cpc == circuit.run.cable.csa:
        # A cpc of the size of the line goes with it.
        fields["cable.cpc_csa"] = csa
    return Change("set", "circuit", circuit.id, fields)


def _passes(now: InstallationResult, after: InstallationResult, users: list[Circuit]) -> bool:
    stood = {c.id: rank(c) for c in now.circuits}
    mine = {c.id for c in users}
    worse = any(rank(c) > (0 if c.id in mine else stood.get(c.id, 0)) for c in after.circuits)
    return not worse and _places(after) <= _places(now)


def _places(result: InstallationResult) -> set[str]:
    """The checks of intake, boards and routes that do not pass."""
    checks = [("intake", c) for c in result.intake]
    checks += [(b.id, c) for b in result.boards for c in b.checks]
    checks += [(r.id, c) for r in result.routes for c in r.checks]
    return {f"{place} {c.id}" for place, c in checks if c.decides and c.verdict in ("short", "not_known")}


def _turned(job: Installation, now: InstallationResult, after: InstallationResult, users: set[str]) -> tuple[Turned, ...]:
    numbered = numbers(job)
    named = {c.id: f"{numbered[c.id]} {c.name}".strip() for c in job.circuits}
    before = {c.id: c for c in now.circuits}
    found = [t for c in after.circuits for t in _of_circuit(named[c.id], before[c.id], c, c.id in users)]
    order: dict[Verdict, int] = {"short": 0, "not_known": 1, "close": 2, "meets": 3}
    return tuple(sorted(found, key=lambda t: (order[t.after], t.before == t.after)))


def _of_circuit(where: str, old: CircuitResult, new: CircuitResult, whole: bool) -> list[Turned]:
    """What reads otherwise in a circuit: all of it for one that takes the cable, only other verdicts for the rest."""
    stood = {c.id: c for c in old.checks}
    found = []
    for c in new.checks:
        was = stood.get(c.id)
        if was is not None and c.decides and c.text != was.text and (whole or c.verdict != was.verdict):
            found.append(Turned(where, c.title, was.verdict, c.verdict, was.text, c.text))
    return found
