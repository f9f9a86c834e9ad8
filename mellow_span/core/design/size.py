"""The smallest cable that passes every check, and the check that ruled the next smaller one out."""

from __future__ import annotations

from dataclasses import dataclass, replace

from mellow_span.core.design.check import NOTHING, check, feed_to, lay_out
from mellow_span.core.design.circuit import PASSING, RULES, check_circuit, first_failing
from mellow_span.core.design.effort import Effort, StoppedError
from mellow_span.core.design.usual import terminals_take
from mellow_span.core.errors import MissingInput
from mellow_span.core.findings.results import Check, CircuitResult
from mellow_span.core.model.changes import Change
from mellow_span.core.model.fields import laid_over
from mellow_span.core.model.parts import Circuit, Installation
from mellow_span.core.model.tree import circuit_of
from mellow_span.core.rules.drop.run import LIMIT_KEYS
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.working.recorders import Silent

CSA_MATTERS = frozenset(rule.id for rule in RULES if rule.csa_matters)


@dataclass(slots=True)
class Tried:
    """A size that was tried: csa, cpc [mm2], whether it passes, and what it fails on first.

    Of a sub-main also what it leaves: of the volt drop for lighting and for other uses [%], Zs at the board it feeds [ohm], and the circuits
    behind it that it alone turns short (by identity).
    """

    csa: float
    cpc_csa: float | None
    passes: bool
    check: str | None
    text: str
    left_lighting: float | None = None
    left_other: float | None = None
    zs: float | None = None
    behind: tuple[str, ...] = ()


@dataclass(slots=True)
class Sizing:
    """The answer of `size`: the csa [mm2], or None with the reason; decided_by: the check that ruled out the next smaller size."""

    csa: float | None
    cpc_csa: float | None
    decided_by: str | None
    reason: str
    tried: tuple[Tried, ...]


def size(job: Installation, circuit_id: str, effort: Effort | None = None) -> Sizing:
    """Return the smallest csa with which the circuit passes all that a csa can change, everything else as it stands.

    Where the circuit runs in a route, who counts there is settled anew for each size. A sub-main is offered the smallest size that turns nobody
    behind it short: what even the largest size leaves short there is not held against it.

    effort: how much work it may be, where sizes are tried whole or not at all. Raises InputError for an unknown circuit, MissingInput for a cable
    family not chosen, StoppedError.
    """
    effort = effort or Effort()
    plan = lay_out(job)
    circuit = circuit_of(plan.job, circuit_id)
    rules = plan.rules
    family = rules.families.get(circuit.run.cable.family or "")
    if family is None:
        raise MissingInput("cable.family", "a cable family")
    feed = feed_to(plan, circuit.board)
    behind = _Behind(job, rules, circuit, family.sizes[-1]) if circuit.feeds else None
    tried: list[Tried] = []
    for csa in family.sizes:
        if effort.over():
            raise StoppedError("more work than it may do")
        effort.spend(len(job.circuits) if behind or plan.around.get(circuit_id, NOTHING).groups else 1)
        trial = with_csa(rules, circuit, csa)
        around = plan.around.get(circuit_id, NOTHING)
        if around.groups:
            around = lay_out(with_circuit(job, trial)).around[circuit_id]
        failed = first_failing(rules, job.supply, trial, feed, around)
        cable = trial.run.cable
        tried.append(Tried(csa, cable.cpc_csa, failed is None, None, "passes"))
        if behind is not None and failed is None:
            behind.look(trial, tried[-1])
        if tried[-1].passes:
            return _answer(circuit, tried, check_circuit(rules, job.supply, trial, feed, False, around))
        if failed is None:
            continue
        tried[-1].text = failed.text
        if failed.id == "inputs":
            break
        tried[-1].check = failed.id
    last = tried[-1]
    return Sizing(None, None, last.check, f"no size of {family.title} passes: {last.text}", tuple(tried))


@dataclass
class _Behind:
    """What stands behind a sub-main, and what of it is short even with the largest size."""

    job: Installation
    rules: RuleSet
    circuit: Circuit
    largest: float

    def __post_init__(self) -> None:
        self.below = _below(self.job, self.circuit.feeds or "")
        found = check(with_circuit(self.job, with_csa(self.rules, self.circuit, self.largest)), keep=False, reuse=True)
        self.anyway = {c.id: _short(c) for c in found.circuits if c.id in self.below}

    def look(self, trial: Circuit, tried: Tried) -> None:
        """Note what a size leaves for the circuits behind, and refuse it where it turns one short."""
        found = check(with_circuit(self.job, trial), keep=False, reuse=True)
        board = next(b for b in found.boards if b.id == self.circuit.feeds)
        tried.zs = board.zs
        if board.drop is not None:
            quiet, private = Silent(self.rules), self.job.supply.private
            tried.left_lighting = quiet.constant(LIMIT_KEYS[(True, private)]) - board.drop
            tried.left_other = quiet.constant(LIMIT_KEYS[(False, private)]) - board.drop
        turned = [c for c in found.circuits if c.id in self.below and _short(c) - self.anyway[c.id]]
        if not turned:
            return
        names = {c.id: c.name or "a circuit" for c in self.job.circuits}
        why = sorted({one.title.lower() for c in turned for one in c.checks if one.id in _short(c) - self.anyway[c.id]})
        tried.behind, tried.passes, tried.check = tuple(c.id for c in turned), False, "behind"
        tried.text = f"passes on its own but makes {', '.join(names[c.id] for c in turned)} fail: {', '.join(why)}"


def _below(job: Installation, board: str) -> set[str]:
    here = [c for c in job.circuits if c.board == board]
    return {c.id for c in here}.union(*(_below(job, c.feeds) for c in here if c.feeds))


def _short(result: CircuitResult) -> set[str]:
    return {c.id for c in result.checks if c.decides and c.verdict == "short"}


def csa_change(rules: RuleSet, circuit: Circuit, csa: float) -> Change:
    """Return the change to another csa; the cpc follows where the family fixes it or where the user left it to the pair.

    A single cpc entered by hand keeps its size when it is no larger than the new line, else follows the line down.
    """
    cable = circuit.run.cable
    family = rules.families[cable.family or ""]
    fixed = family.cpc in ("in_cable", "core", "armour") and cable.cpc != "separate"
    cpc = None if fixed else min(cable.cpc_csa or csa, csa)
    return Change("set", "circuit", circuit.id, {"cable.csa": csa, "cable.cpc_csa": cpc})


def with_csa(rules: RuleSet, circuit: Circuit, csa: float) -> Circuit:
    """Return the circuit with another csa, as `csa_change` changes it."""
    found: Circuit = laid_over(circuit, csa_change(rules, circuit, csa).fields)
    return found


def with_circuit(job: Installation, circuit: Circuit) -> Installation:
    """Return the job with one circuit put in the place of its namesake."""
    return replace(job, circuits=tuple(circuit if c.id == circuit.id else c for c in job.circuits))


def failing(result: CircuitResult) -> list[Check]:
    """List the deciding checks that a csa can change and that do not pass."""
    return [c for c in result.checks if c.id in CSA_MATTERS and c.decides and c.verdict not in PASSING]


def _answer(circuit: Circuit, tried: list[Tried], result: CircuitResult) -> Sizing:
    found = tried[-1]
    title = {rule.id: rule.title for rule in RULES} | {"behind": "what it feeds"}
    others = [c.title.lower() for c in result.checks if c.decides and c.id not in CSA_MATTERS and c.verdict not in PASSING]
    warn = f"; no csa fixes {', '.join(others)}" if others else ""
    takes = terminals_take(circuit)
    if takes is not None and found.csa > takes:
        warn += f"; terminals there usually take {takes:g} mm²: look for another way, or end it in a box"
    if len(tried) == 1:
        return Sizing(found.csa, found.cpc_csa, None, f"the smallest size made passes{warn}", tuple(tried))
    before = tried[-2]
    reason = f"{before.csa:g} mm² fails on {title.get(before.check or '', '').lower()}: {before.text}{warn}"
    return Sizing(found.csa, found.cpc_csa, before.check, reason, tuple(tried))
