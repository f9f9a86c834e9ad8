"""The cheapest set of sizes for a whole installation: every sub-main and final at once, since a bigger sub-main can rescue several finals.

The tree is searched branch by branch. For a given feed the finals of a board are independent of each other, so each takes its cheapest
size that passes; a sub-main is tried from its cheapest size up, until what it costs together with the least its branch can cost is no
better than the best found. Nothing that could be cheaper is left untried, so the answer is exact where no route ties circuits together.
Where one does, who counts there (the 30 % rule) is settled anew with the sizes found and the search repeated until both agree; the gap to
the cheapest is then proven against the same search with nobody beside anybody.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from math import inf

from mellow_span.core.design.check import NOTHING, Plan, at_board, check, feed_below, lay_out
from mellow_span.core.design.circuit import first_failing
from mellow_span.core.design.prices import Cost, PriceBook, circuit_cost, job_cost, shipped
from mellow_span.core.design.size import csa_change, failing, with_csa
from mellow_span.core.model.changes import restore
from mellow_span.core.model.parts import Circuit, Installation
from mellow_span.core.model.routes import resolved
from mellow_span.core.rules.case import Case, Feed

ROUNDS = 6
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
class _Search:
    plan: Plan
    book: PriceBook
    tried: int = 0
    memo: dict[tuple[str, Feed], tuple[float, dict[str, float]]] = field(default_factory=dict)

    def candidates(self, circuit: Circuit) -> list[tuple[float, Circuit]]:
        """Return (cost, circuit) for each size of the family the book prices, cheapest first; work that is there keeps its size."""
        family = self.plan.rules.families.get(circuit.run.cable.family or "")
        if circuit.existing or family is None:
            return [(0.0, circuit)]
        trials = [with_csa(self.plan.rules, circuit, csa) for csa in family.sizes]
        priced = [t for t in trials if self.book.of_cable(family.id, t.run.cable.csa or 0.0) is not None]
        found = [(circuit_cost(self.book, self.plan.rules, t).cable, t) for t in priced]
        return sorted(found, key=lambda pair: (pair[0], pair[1].run.cable.csa or 0.0))

    def least(self, board: str) -> float:
        """The least a board and all below it can cost: each circuit at its cheapest size, whether it passes or not."""
        total = 0.0
        for circuit in self.circuits(board):
            total += min((cost for cost, _ in self.candidates(circuit)), default=0.0)
            if circuit.feeds:
                total += self.least(circuit.feeds)
        return total

    def circuits(self, board: str) -> list[Circuit]:
        return [c for c in self.plan.job.circuits if c.board == board]

    def board(self, board: str, feed: Feed) -> tuple[float, dict[str, float]]:
        """Return the cheapest cost and sizes of a board and all below it for what arrives there."""
        key = (board, feed)
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

    def passes(self, trial: Circuit, feed: Feed) -> bool:
        """Say whether a circuit passes what a size can change, for what arrives at its board."""
        self.tried += 1
        return first_failing(self.plan.rules, self.plan.job.supply, trial, feed, self.plan.around.get(trial.id, NOTHING)) is None

    def below(self, trial: Circuit, feed: Feed) -> Feed:
        """Return what a sub-main hands on to its board."""
        assert trial.feeds is not None
        case = Case(self.plan.rules, self.plan.job.supply, trial, feed, self.plan.around.get(trial.id, NOTHING))
        return at_board(feed_below(case), self.plan.boards[trial.feeds])

    def final(self, circuit: Circuit, feed: Feed) -> tuple[float, dict[str, float]]:
        candidates = self.candidates(circuit)
        for cost, trial in candidates:
            if self.passes(trial, feed):
                return cost, {circuit.id: trial.run.cable.csa or 0.0}
        return NO_CURE, {circuit.id: circuit.run.cable.csa or 0.0}

    def submain(self, circuit: Circuit, feed: Feed) -> tuple[float, dict[str, float]]:
        assert circuit.feeds is not None
        best = inf
        sizes: dict[str, float] = {circuit.id: circuit.run.cable.csa or 0.0}
        floor = self.least(circuit.feeds)
        for cost, trial in self.candidates(circuit):
            if cost + floor >= best:
                break
            good = self.passes(trial, feed)
            if not good and cost + floor + NO_CURE >= best:
                continue
            whole, found = self.board(circuit.feeds, self.below(trial, feed))
            whole += cost + (0.0 if good else NO_CURE)
            if whole < best:
                best, sizes = whole, {circuit.id: trial.run.cable.csa or 0.0, **found}
        return (best if best < inf else NO_CURE), sizes


def cheapest(job: Installation, book: PriceBook | None = None) -> Joint:
    """Return the cheapest sizes with which every circuit of a job passes what a size can change.

    book: prices; without it the made-up ones that ship. Places, lengths, devices and cable families stay as they are.
    """
    book = book or shipped()
    now, tried, settled = job, 0, False
    for _ in range(ROUNDS):
        plan = lay_out(now)
        search = _Search(plan, book)
        sizes: dict[str, float] = {}
        for root in plan.roots:
            sizes |= search.board(root, plan.root_feed(root))[1]
        tried += search.tried
        found = _sized(plan, now, sizes)
        settled = found == now or lay_out(found).around == plan.around
        now = found
        if settled:
            break
    return _answer(job, now, book, tried, settled)


def _sized(plan: Plan, job: Installation, sizes: dict[str, float]) -> Installation:
    new = [(c, csa) for c in job.circuits if (csa := sizes.get(c.id)) and not c.existing and csa != c.run.cable.csa]
    return restore(job, [csa_change(plan.rules, circuit, csa) for circuit, csa in new])[0]


def _answer(job: Installation, found: Installation, book: PriceBook, tried: int, settled: bool) -> Joint:
    plan = lay_out(job)
    results = {c.id: c for c in check(found, keep=False).circuits}
    unsolved = tuple(c.id for c in found.circuits if results[c.id].problems or failing(results[c.id]))
    chosen = tuple(_chosen(book, plan, old, new) for old, new in zip(plan.job.circuits, resolved(found).circuits, strict=True))
    alone = not any(around.groups for around in plan.around.values())
    gap = 0.0 if alone and settled else _gap(found, book)
    exact = settled and gap == 0.0
    if exact:
        proof = f"exact: {tried} sizes were solved, and every other set is ruled out by its price or by a check that fails"
    elif settled:
        proof = f"cheapest for who counts in the routes as settled; with nobody beside anybody it could be {gap:.1%} cheaper at most"
    else:
        proof = f"after {ROUNDS} rounds who counts in the routes still changed with the sizes; at most {gap:.1%} dearer than the cheapest"
    return Joint(chosen, job_cost(book, plan.rules, job), job_cost(book, plan.rules, found), exact, gap, proof, unsolved, tried)


def _chosen(book: PriceBook, plan: Plan, old: Circuit, new: Circuit) -> Chosen:
    before, after = circuit_cost(book, plan.rules, old), circuit_cost(book, plan.rules, new)
    cable = new.run.cable
    return Chosen(new.id, old.run.cable.csa, cable.csa, cable.cpc_csa, after.cable - before.cable, after.copper_kg - before.copper_kg)


def _gap(found: Installation, book: PriceBook) -> float:
    """Largest share by which the cables could be dearer than the cheapest: against the same search with nobody beside anybody.

    Fewer neighbours never ask for a bigger cable, so no grouping can be cheaper than none.
    """
    plan = lay_out(found)
    plan.around = {
        name: replace(around, groups=tuple(replace(g, n=1, simultaneous=False) for g in around.groups))
        for name, around in plan.around.items()
    }
    search = _Search(plan, book)
    floor = sum(search.board(root, plan.root_feed(root))[0] for root in plan.roots)
    cables = sum(circuit_cost(book, plan.rules, c).cable for c in plan.job.circuits if not c.existing)
    return max(0.0, (cables - floor) / floor) if 0 < floor < NO_CURE else 0.0
