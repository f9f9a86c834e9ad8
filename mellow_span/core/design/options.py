"""The ways out of a failure: each one a change to the job that is solved again, with what it costs and how much it digs.

Ranked: those that cure the circuit first, then by cost. For work that is there already, the same ways are its cures.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import combinations

from mellow_span.core.design.changed_price import price_of
from mellow_span.core.design.check import Checked, lay_out, work_out
from mellow_span.core.design.coordination import pairs_of
from mellow_span.core.design.effort import LAID_OUT, Effort
from mellow_span.core.design.ideas import bigger_final, ideas_for
from mellow_span.core.design.prices import PriceBook, shipped
from mellow_span.core.design.questions import QUESTIONS, questions
from mellow_span.core.design.solving import Ask, Idea, changed, in_book, rank, short, solved
from mellow_span.core.errors import CoreError
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import WORSE, Check, InstallationResult, Verdict
from mellow_span.core.model.changes import Change
from mellow_span.core.model.parts import Circuit, Installation
from mellow_span.core.model.rebase import touches
from mellow_span.core.model.tree import circuit_of
from mellow_span.core.rulesets import RuleSet

MOST = 8
SELECTIVE = {"total": 0, "partial": 1}
# How many things wrong at once are cured together, one after the other.
MOST_STEPS = 5


@dataclass(slots=True)
class Option:
    """A way out, solved again: the changes, whether the circuit then passes, and what it costs more than what stands now.

    passes: every check that decides meets or is close; what is not known is no pass. cost: in the currency of the book, without what
    `unpriced` names; copper [kg] and digging [m, in ground that is opened again] more than now; rescues, breaks: how much else it brings to a
    pass, or leaves worse off (short, no longer known to pass, no longer selective); others: the identities of circuits among that; turned: in
    words what at boards and between devices is worse then. ask: what a person has to say for it, where it is no change by itself.
    """

    id: str
    title: str
    changes: tuple[Change, ...]
    passes: bool
    verdict: Verdict
    reason: str
    margin: float | None
    cost: float
    digging: float
    copper: float = 0.0
    rescues: int = 0
    breaks: int = 0
    others: tuple[str, ...] = ()
    unpriced: tuple[str, ...] = ()
    turned: tuple[str, ...] = ()
    ask: Ask | None = None


def options(job: Installation, circuit_id: str, book: PriceBook | None = None, effort: Effort | None = None) -> tuple[Option, ...]:
    """Return the ranked ways out for a circuit that is short, at most eight, none of them another with more beside it; none where nothing is short.

    Where no single change cures it, pairs are tried, and one cure after the other; the single ones that come nearest follow.
    book: prices; without it the made-up ones that ship. effort: how much work it may be; once spent, what was found until then is ranked.
    Raises InputError for an unknown circuit.
    """
    book, effort = book or shipped(), effort or Effort()
    plan = lay_out(job)
    circuit = circuit_of(plan.job, circuit_id)
    before = solved(job, circuit_id)
    solve = _Solver(plan.rules, job, circuit_id, book, work_out(job, keep=False, reuse=True), effort)
    asked = list(questions(plan, job, circuit, before, effort))
    if not short(before):
        return tuple(solve.all(asked)[:MOST])
    ideas = asked + list(ideas_for(plan, job, circuit, before, effort))
    singles = solve.all(ideas)
    cures = [o for o in singles if o.passes]
    if not cures:
        # Where two things are wrong at once, one change may not be enough.
        pairs = solve.all(_pairs(ideas) + _then_sized(job, circuit, ideas, effort))
        cures = [o for o in pairs if o.passes]
        if not cures:
            cures = [o for o in solve.all(_one_after_the_other(job, circuit_id, effort)) if o.passes or o.verdict != "short"]
        if not cures and all(o.verdict == "short" for o in singles):
            cures = [o for o in pairs if o.verdict != "short"]
        return tuple((without_dominated(cures) + singles)[:MOST])
    return tuple(without_dominated(cures)[:MOST])


def without_dominated(found: list[Option]) -> list[Option]:
    """Leave out what is another way out with more beside it: the same changes and others, no cheaper, no less digging, no fewer left worse."""

    def parts(option: Option) -> set[str]:
        return {f"{c.kind} {c.id} {name} {value}" for c in option.changes for name, value in c.fields.items()}

    def no_worse(other: Option, one: Option) -> bool:
        return other.cost <= one.cost and other.digging <= one.digging and other.breaks <= one.breaks

    def dominated(one: Option) -> bool:
        return any(parts(other) < parts(one) and no_worse(other, one) for other in found)

    return [one for one in found if not dominated(one)]


def _pairs(ideas: list[Idea]) -> list[Idea]:
    """Two ideas as one, where they go together."""
    return [_together(pair) for pair in combinations(ideas, 2) if _go_together(pair)]


def _then_sized(job: Installation, circuit: Circuit, ideas: Sequence[Idea], effort: Effort) -> list[Idea]:
    """Each idea with the cable that is then enough: behind a device that cannot break the fault, say, no size is enough until it is another."""
    found: list[Idea] = []
    for idea in ideas:
        if effort.over():
            break
        effort.spend(LAID_OUT * len(job.circuits))
        for sized in in_book(bigger_final(changed(job, idea.changes), circuit, effort)):
            if _go_together((idea, sized)):
                found.append(_together((idea, sized)))
    return found


def _go_together(ideas: Sequence[Idea]) -> bool:
    """Whether ideas can be taken as one: no field is set by two of them, at most one figure is asked, and none that is entered elsewhere."""
    asked = [idea.ask for idea in ideas if idea.ask is not None]
    apart = all(not touches(a.changes) & touches(b.changes) for a, b in combinations(ideas, 2))
    return apart and len(asked) <= 1 and all(ask.field for ask in asked)


def _together(ideas: Sequence[Idea]) -> Idea:
    """Ideas as one, with the question of the one that asks."""
    changes = tuple(change for idea in ideas for change in idea.changes)
    ask = next((idea.ask for idea in ideas if idea.ask is not None), None)
    return Idea("+".join(i.id for i in ideas), ", and ".join(i.title for i in ideas), changes, ask)


def _one_after_the_other(job: Installation, circuit_id: str, effort: Effort) -> list[Idea]:
    """Cure by cure: of what can be done the one that leaves least short, then the same again on what is then left."""
    made: list[Idea] = []
    now = job
    for _ in range(MOST_STEPS):
        plan, result = lay_out(now), solved(now, circuit_id)
        left = set(short(result))
        if not left or effort.over():
            break
        best: tuple[int, int, Idea] | None = None
        for order, idea in enumerate(ideas_for(plan, now, circuit_of(plan.job, circuit_id), result, effort)):
            if effort.over():
                break
            if not _go_together([*made, idea]):
                continue
            effort.spend(LAID_OUT * len(job.circuits))
            try:
                then = set(short(solved(changed(now, idea.changes), circuit_id)))
            except CoreError:
                continue
            if then < left and (best is None or (len(then), order) < best[:2]):
                best = (len(then), order, idea)
        if best is None:
            break
        made.append(best[2])
        now = changed(now, best[2].changes)
    return [_together(made)] if len(made) > 1 else []


@dataclass
class _Solver:
    rules: RuleSet
    job: Installation
    circuit: str
    book: PriceBook
    stood: Checked
    effort: Effort

    def all(self, tried: Sequence[Idea]) -> list[Option]:
        """Solve ideas and rank them; one that cannot be made is left out."""
        found = []
        self.effort.expect(len(tried) * len(self.job.circuits))
        for idea in tried:
            if self.effort.over():
                break
            self.effort.spend(len(self.job.circuits))
            try:
                found.append(self.one(idea))
            except CoreError:
                continue
        return sorted(found, key=order_of)

    def one(self, idea: Idea) -> Option:
        trial = changed(self.job, idea.changes)
        done = work_out(trial, keep=False, reuse=True)
        found = done.result
        result = next(c for c in found.circuits if c.id == self.circuit)
        price = price_of(self.book, self.rules, self.job, trial)
        rescued, broken = moved({c.id: rank(c) for c in self.stood.result.circuits}, found, self.circuit)
        turned = worse_places(self.stood, done)
        if any("device" in change.fields for change in idea.changes):
            turned += no_longer_selective(self.stood, done)
        return Option(
            idea.id, idea.title, idea.changes, rank(result) == 0, result.verdict, result.reason, result.margin, price.cost, price.digging,
            price.copper, len(rescued), len(broken) + len(turned), (*rescued, *broken), tuple(price.missing), tuple(turned), idea.ask,
        )  # fmt: skip


def order_of(option: Option) -> tuple[object, ...]:
    """Rank ways out: what cures most, breaks nothing, is a question rather than work, has a price, costs least."""
    return WORSE[option.verdict], option.breaks > 0, option.id not in QUESTIONS, bool(option.unpriced), option.cost, option.title


def worse_places(before: Checked, after: Checked) -> list[str]:
    """Return the checks of intake, boards and routes that a changed job leaves worse, in words."""
    was = {where: check.verdict for where, _, check in _place_checks(before)}
    return [
        f"{name}: {check.title.lower()}"
        for where, name, check in _place_checks(after)
        if WORSE[check.verdict] > WORSE[was.get(where, "meets")]
    ]


def _place_checks(done: Checked) -> Iterator[tuple[tuple[str, str], str, Check]]:
    """The checks that decide at places: identities of place and check, name of the place, check."""
    job, found = done.plan.job, done.result
    names = {b.id: b.name or "a board" for b in job.boards} | {r.id: r.name or "a route" for r in job.routes}
    there: list[tuple[str, Sequence[Check]]] = [("intake", found.intake)]
    there += [(b.id, b.checks) for b in found.boards]
    there += [(r.id, r.checks) for r in found.routes]
    for place, checks in there:
        yield from (((place, c.id), names.get(place, "intake"), c) for c in checks if c.decides)


def no_longer_selective(before: Checked, after: Checked) -> list[str]:
    """Return the pairs of devices that were selective, wholly or in part, and are less so now, in words (536.4)."""
    was = {(p.kind, p.upper, p.lower): p for p in pairs_of(before)}
    found = []
    for pair in pairs_of(after):
        old = was.get((pair.kind, pair.upper, pair.lower))
        if old is None or old.result not in SELECTIVE or pair.result == "not_known":
            continue
        less = pair.result == old.result == "partial" and (pair.limit or 0.0) < (old.limit or 0.0) * (1 - 1e-9)
        if less or SELECTIVE.get(pair.result, len(SELECTIVE)) > SELECTIVE[old.result]:
            now = f", now up to {quantity(pair.limit, 'A')}" if pair.result == "partial" and pair.limit else ""
            found.append(f"selectivity of {pair.upper} over {pair.lower}{now}")
    return found


def moved(stood: dict[str, int], found: InstallationResult, but: str = "") -> tuple[list[str], list[str]]:
    """Return the other circuits that a changed job brings to a pass, and those it leaves worse off."""
    others = [(c.id, stood[c.id], rank(c)) for c in found.circuits if c.id != but and c.id in stood]
    return [c for c, was, now in others if now == 0 < was], [c for c, was, now in others if now > was]
