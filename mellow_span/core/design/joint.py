"""The cheapest set of sizes for a whole installation: every sub-main and final at once, since a bigger sub-main can rescue several finals.

The tree is searched branch by branch. For a given feed the finals of a board are independent of each other, so each takes its cheapest
size that passes; a sub-main is tried from its cheapest size up, until what it costs together with the least its branch can cost is no
better than the best found. Nothing that could be cheaper is left untried, so the answer is exact where no route ties circuits together.
Where one does, who counts there (the 30 % rule) is settled anew with the sizes found and the search repeated until both agree; the gap to
the cheapest is then proven against the same search with nobody beside anybody.

Sub-mains behind sub-mains multiply the ways, so that search solves so many sizes at most (`BUDGET`). Where that is not enough, what arrives at
a board is laid on a grid (`joint_grids`): the cheapest there is a floor that no set of sizes can undercut. Its sub-mains, with every final sized for
what really arrives, are a set that can be built; it is made cheaper one sub-main a size up or down at a time. The grid is made finer until floor
and set are close or the budget is spent. A budget of sizes, not of seconds: the same job has the same answer on any machine.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from math import inf

from mellow_span.core.design.check import NOTHING, Plan, at_board, check, feed_below, lay_out
from mellow_span.core.design.circuit import first_failing
from mellow_span.core.design.effort import Effort
from mellow_span.core.design.joint_grids import Mains, on_grids
from mellow_span.core.design.prices import Cost, PriceBook, circuit_cost, job_cost, shipped
from mellow_span.core.design.size import csa_change, failing, with_csa
from mellow_span.core.model.changes import restore
from mellow_span.core.model.parts import Circuit, Installation
from mellow_span.core.model.routes import resolved
from mellow_span.core.rules.case import Case, Feed

ROUNDS = 6
# How many sizes the search through everything solves, and the grids: about two seconds together.
BUDGET = 2500
ON_GRIDS = 7000
# The share of the work that finds the set.
SIZING = 0.6
# What is cheaper by less is only rounding.
NOTHING_LESS = 1e-9
# A circuit that no size cures costs this much, so that the rest is still solved around it.
NO_CURE = 1e7


@dataclass(slots=True)
class Chosen:
    """The size found for a circuit [mm2] beside the one entered, and what the change costs, in money and in copper [kg]; none where no size
    cures one not entered.
    """

    circuit: str
    before: float | None
    csa: float | None
    cpc_csa: float | None
    cost: float
    copper: float


@dataclass(slots=True)
class Joint:
    """The cheapest sizes. exact: proven cheapest; gap: largest share by which it could be dearer than the cheapest; proof: in words.

    unsolved: circuits that no size of their family cures, with sub-mains as large as they come.
    """

    chosen: tuple[Chosen, ...]
    before: Cost
    after: Cost
    exact: bool
    gap: float
    proof: str
    unsolved: tuple[str, ...]
    tried: int


@dataclass
class Search:
    """A search through the sizes of a plan by what they cost; tried: how many sizes were solved, budget: how many may be.

    What arrives at a board has a number, since it is asked for again and again and long to compare.
    """

    plan: Plan
    book: PriceBook
    effort: Effort = field(default_factory=Effort)
    budget: int = BUDGET
    tried: int = 0
    memo: dict[tuple[str, int], tuple[float, dict[str, float]]] = field(default_factory=dict)
    passed: dict[tuple[str, float | None, int], str] = field(default_factory=dict)
    feeds: dict[Feed, int] = field(default_factory=dict)
    #: The number of a feed by the identity of the object, which is kept so that none takes its place.
    numbers: dict[int, tuple[Feed, int]] = field(default_factory=dict)
    hosts: dict[str, list[Circuit]] = field(default_factory=dict)
    leasts: dict[str, float] = field(default_factory=dict)
    priced: dict[str, list[tuple[float, Circuit]]] = field(default_factory=dict)

    @property
    def spent(self) -> bool:
        """Say whether as many sizes were solved as one search may."""
        return self.tried >= self.budget or self.effort.over()

    def number(self, feed: Feed) -> int:
        """Return the number of what arrives at a board: the same for the same."""
        known = self.numbers.get(id(feed))
        if known is None:
            known = self.numbers[id(feed)] = feed, self.feeds.setdefault(feed, len(self.feeds))
        return known[1]

    def count(self) -> None:
        """Count a size that is solved."""
        self.tried += 1
        self.effort.spend(1)

    def candidates(self, circuit: Circuit) -> list[tuple[float, Circuit]]:
        """Return (cost, circuit) for each size of the family the book prices, cheapest first; work that is there keeps its size."""
        if circuit.id in self.priced:
            return self.priced[circuit.id]
        family = self.plan.rules.families.get(circuit.run.cable.family or "")
        if circuit.existing or family is None:
            found = [(0.0, circuit)]
        else:
            trials = [with_csa(self.plan.rules, circuit, csa) for csa in family.sizes]
            sold = [t for t in trials if self.book.of_cable(family.id, t.run.cable.csa or 0.0) is not None]
            found = [(circuit_cost(self.book, self.plan.rules, t).cable, t) for t in sold]
        self.priced[circuit.id] = sorted(found, key=lambda pair: (pair[0], pair[1].run.cable.csa or 0.0))
        return self.priced[circuit.id]

    def largest(self, circuit: Circuit) -> tuple[float, Circuit]:
        """Return the largest size of a circuit with its cost; itself where the book has none."""
        return max(self.candidates(circuit), key=lambda pair: pair[1].run.cable.csa or 0.0, default=(NO_CURE, circuit))

    def least(self, board: str) -> float:
        """The least a board and all below it can cost: each circuit at its cheapest size, whether it passes or not."""
        if board not in self.leasts:
            total = 0.0
            for circuit in self.circuits(board):
                total += min((cost for cost, _ in self.candidates(circuit)), default=0.0)
                total += self.least(circuit.feeds) if circuit.feeds else 0.0
            self.leasts[board] = total
        return self.leasts[board]

    def circuits(self, board: str) -> list[Circuit]:
        """Return the circuits of a board."""
        if not self.hosts:
            for circuit in self.plan.job.circuits:
                self.hosts.setdefault(circuit.board, []).append(circuit)
        return self.hosts.get(board, [])

    def board(self, board: str, feed: Feed) -> tuple[float, dict[str, float]]:
        """Return the cheapest cost and sizes of a board and all below it for what arrives there."""
        key = (board, self.number(feed))
        if key in self.memo:
            return self.memo[key]
        total = 0.0
        sizes: dict[str, float] = {}
        for circuit in self.circuits(board):
            cost, found = self.submain(circuit, feed) if circuit.feeds else self.final(circuit, feed)
            total += cost
            sizes |= found
        self.memo[key] = (total, sizes)
        return total, sizes

    def failing(self, trial: Circuit, feed: Feed) -> str:
        """Return the first check that a size can change and that does not pass for what arrives at its board, empty where all do."""
        key = (trial.id, trial.run.cable.csa, self.number(feed))
        if key not in self.passed:
            self.count()
            found = first_failing(self.plan.rules, self.plan.job.supply, trial, feed, self.plan.around.get(trial.id, NOTHING))
            self.passed[key] = found.id if found else ""
        return self.passed[key]

    def passes(self, trial: Circuit, feed: Feed) -> bool:
        """Say whether a circuit passes what a size can change, for what arrives at its board."""
        return self.failing(trial, feed) == ""

    def below(self, trial: Circuit, feed: Feed) -> Feed:
        """Return what a sub-main hands on to its board."""
        assert trial.feeds is not None
        case = Case(self.plan.rules, self.plan.job.supply, trial, feed, self.plan.around.get(trial.id, NOTHING))
        return at_board(feed_below(case), self.plan.boards[trial.feeds])

    def final(self, circuit: Circuit, feed: Feed) -> tuple[float, dict[str, float]]:
        """Return the cheapest size of a final that passes, with its cost; the one entered at NO_CURE where none does."""
        for cost, trial in self.candidates(circuit):
            if self.passes(trial, feed):
                return cost, {circuit.id: trial.run.cable.csa or 0.0}
        return NO_CURE, {circuit.id: circuit.run.cable.csa or 0.0}

    def submain(self, circuit: Circuit, feed: Feed) -> tuple[float, dict[str, float]]:
        """Return the cheapest cost and sizes of a sub-main and all behind it, for what arrives at its own board."""
        assert circuit.feeds is not None
        best = inf
        sizes: dict[str, float] = {circuit.id: circuit.run.cable.csa or 0.0}
        floor = self.least(circuit.feeds)
        for cost, trial in self.candidates(circuit):
            if best < inf and (cost + floor >= best or self.spent):
                break
            good = self.passes(trial, feed)
            if not good and cost + floor + NO_CURE >= best:
                continue
            whole, found = self.board(circuit.feeds, self.below(trial, feed))
            whole += cost + (0.0 if good else NO_CURE)
            if whole < best:
                best, sizes = whole, {circuit.id: trial.run.cable.csa or 0.0, **found}
        return (best if best < inf else NO_CURE), sizes

    def fixed(self, board: str, feed: Feed, mains: dict[str, tuple[float, Circuit]]) -> tuple[float, dict[str, float]]:
        """Return the cheapest cost and sizes of a board and all below it where the sizes of the sub-mains are given."""
        total = 0.0
        sizes: dict[str, float] = {}
        for circuit in self.circuits(board):
            if not circuit.feeds:
                cost, found = self.final(circuit, feed)
            else:
                own, trial = mains[circuit.id]
                below, found = self.fixed(circuit.feeds, self.below(trial, feed), mains)
                cost = own + below + (0.0 if self.passes(trial, feed) else NO_CURE)
                found = {circuit.id: trial.run.cable.csa or 0.0, **found}
            total += cost
            sizes |= found
        return total, sizes

    def refined(self, root: str, mains: Mains, limit: int) -> tuple[float, dict[str, float]]:
        """Return a set of sub-mains with its finals, made cheaper one sub-main a size up or down at a time, in so many sizes more."""
        feed = self.plan.root_feed(root)
        self.budget = self.tried + limit
        whole = self.fixed(root, feed, mains)
        # The grid asks for less than what really arrives: where a final is then left without a size, every sub-main goes a size up.
        while whole[0] >= NO_CURE and (larger := {name: self._beside(one, 1) for name, one in mains.items()}) != mains:
            mains = larger
            whole = min(whole, self.fixed(root, feed, mains), key=lambda pair: pair[0])
        better = True
        while better and not self.spent:
            better = False
            for name in mains:
                for step in (-1, 1):
                    trial = {**mains, name: self._beside(mains[name], step)}
                    if self.spent or trial == mains:
                        continue
                    found = self.fixed(root, feed, trial)
                    if found[0] < whole[0]:
                        whole, mains, better = found, trial, True
        return whole

    def _beside(self, main: tuple[float, Circuit], step: int) -> tuple[float, Circuit]:
        """A sub-main some sizes up or down in price; itself where there is none."""
        them = self.candidates(main[1])
        at = next((i for i, p in enumerate(them) if p[1].run.cable.csa == main[1].run.cable.csa), None)
        return main if at is None or not 0 <= at + step < len(them) else them[at + step]

    def solve(self) -> tuple[float, dict[str, float], float, bool]:
        """Return cost and sizes of the whole, the least it can cost, and whether every cheaper set was ruled out."""
        total, least, whole = 0.0, 0.0, True
        sizes: dict[str, float] = {}
        for root in self.plan.roots:
            self.budget = self.tried + BUDGET // len(self.plan.roots)
            found = self.board(root, self.plan.root_feed(root))
            floor = found[0]
            if self.spent and not self.effort.over():
                floor, found = on_grids(self, root, found, ON_GRIDS // len(self.plan.roots))
                whole = whole and found[0] <= floor * (1 + NOTHING_LESS)
            elif self.spent:
                whole, floor = False, self.least(root)
            total += found[0]
            least += floor
            sizes |= found[1]
        return total, sizes, least, whole


def cheapest(job: Installation, book: PriceBook | None = None, effort: Effort | None = None) -> Joint:
    """Return the cheapest sizes with which every circuit of a job passes what a size can change.

    book: prices; without it the made-up ones that ship. effort: how much work it may be, in sizes solved; once spent, the best found until then
    is told with how much dearer it could be. Places, lengths, devices and cable families stay as they are.
    """
    book, effort = book or shipped(), effort or Effort()
    effort.expect(len(job.circuits) + (BUDGET + ON_GRIDS if any(c.feeds for c in job.circuits) else BUDGET))
    # What is left proves how good the set is.
    sizing = effort.part(SIZING)
    now, tried, settled, whole, least = job, 0, False, True, 0.0
    for _ in range(ROUNDS):
        plan = lay_out(now)
        search = Search(plan, book, sizing)
        _, sizes, least, whole = search.solve()
        tried += search.tried
        found = _sized(plan, now, sizes)
        settled = found == now or lay_out(found).around == plan.around
        now = found
        # A tree too large to be searched whole is not searched again for what a route may add.
        if settled or not whole or sizing.over():
            break
    return _answer(job, now, book, tried, settled, whole, least, effort)


def _sized(plan: Plan, job: Installation, sizes: dict[str, float]) -> Installation:
    new = [(c, csa) for c in job.circuits if (csa := sizes.get(c.id)) and not c.existing and csa != c.run.cable.csa]
    return restore(job, [csa_change(plan.rules, circuit, csa) for circuit, csa in new])[0]


def _answer(
    job: Installation, found: Installation, book: PriceBook, tried: int, settled: bool, whole: bool, least: float, effort: Effort
) -> Joint:
    plan = lay_out(job)
    results = {c.id: c for c in check(found, keep=False).circuits}
    unsolved = tuple(c.id for c in found.circuits if results[c.id].problems or failing(results[c.id]))
    chosen = tuple(_chosen(book, plan, old, new) for old, new in zip(plan.job.circuits, resolved(found).circuits, strict=True))
    alone = not any(around.groups for around in plan.around.values())
    if alone and not whole:
        gap = _over(found, book, least)
    else:
        gap = 0.0 if alone and settled else _gap(found, book, effort)
    exact = settled and whole and gap == 0.0
    if exact:
        proof = f"exact: {tried} sizes were solved, and every other set is ruled out by its price or by a check that fails"
    elif not whole:
        proof = f"the best of {tried} sizes that were solved; at most {gap:.1%} dearer than the cheapest"
    elif settled:
        proof = f"cheapest for who counts in the routes as settled; with nobody beside anybody it could be {gap:.1%} cheaper at most"
    else:
        proof = f"after {ROUNDS} rounds who counts in the routes still changed with the sizes; at most {gap:.1%} dearer than the cheapest"
    return Joint(chosen, job_cost(book, plan.rules, job), job_cost(book, plan.rules, found), exact, gap, proof, unsolved, tried)


def _chosen(book: PriceBook, plan: Plan, old: Circuit, new: Circuit) -> Chosen:
    before, after = circuit_cost(book, plan.rules, old), circuit_cost(book, plan.rules, new)
    cable = new.run.cable
    return Chosen(new.id, old.run.cable.csa, cable.csa, cable.cpc_csa, after.cable - before.cable, after.copper_kg - before.copper_kg)


def _gap(found: Installation, book: PriceBook, effort: Effort) -> float:
    """Largest share by which the cables could be dearer than the cheapest: against the same search with nobody beside anybody.

    Fewer neighbours never ask for a bigger cable, so no grouping can be cheaper than none.
    """
    plan = lay_out(found)
    plan.around = {
        name: replace(around, groups=tuple(replace(g, n=1, simultaneous=False) for g in around.groups))
        for name, around in plan.around.items()
    }
    cost, _, least, whole = Search(plan, book, effort).solve()
    return _over(found, book, cost if whole else least)


def _over(found: Installation, book: PriceBook, floor: float) -> float:
    """How much dearer the cables found are than a floor, as a share of it."""
    plan = lay_out(found)
    cables = sum(circuit_cost(book, plan.rules, c).cable for c in plan.job.circuits if not c.existing)
    return max(0.0, (cables - floor) / floor) if 0 < floor < NO_CURE else 0.0
