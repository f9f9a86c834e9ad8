"""The search through the sizes of a plan, board by board and by what they cost: what `joint` asks, and the grids where it would take too long."""

from __future__ import annotations

from dataclasses import dataclass, field
from math import inf

from mellow_span.core.design.check import NOTHING, Plan
from mellow_span.core.design.circuit import first_failing
from mellow_span.core.design.effort import Effort
from mellow_span.core.design.prices import PriceBook, circuit_cost
from mellow_span.core.design.size import with_csa
from mellow_span.core.model.parts import Circuit
from mellow_span.core.rules.case import Case, Feed

# Of each sub-main its cost and the size it is given.
Mains = dict[str, tuple[float, Circuit]]
# A circuit that no size cures costs this much, so that the rest is still solved around it.
NO_CURE = 1e7
# A sub-main that does not pass its own checks costs more than all circuits behind it: it is never traded for them.
NO_FEED = 1e11


@dataclass
class Search:
    """A search through the sizes of a plan by what they cost; tried: how many sizes were solved, budget: how many may be.

    What arrives at a board has a number, since it is asked for again and again and long to compare.
    """

    plan: Plan
    book: PriceBook
    effort: Effort = field(default_factory=Effort)
    budget: int = 0
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
        if circuit.existing or circuit.spare or family is None:
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

    def as_entered(self, circuit: Circuit) -> tuple[float, Circuit]:
        """Return a circuit at the size entered with its cost; at its largest where the book does not sell that one."""
        return next((pair for pair in self.candidates(circuit) if pair[1].run.cable.csa == circuit.run.cable.csa), self.largest(circuit))

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
        return self.plan.below(case)

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
        # A feed first passes its own checks, then those behind it.
        for cost, trial in self.candidates(circuit):
            if best < inf and (cost + floor >= best or self.spent):
                break
            if not self.passes(trial, feed):
                continue
            whole, found = self.board(circuit.feeds, self.below(trial, feed))
            whole += cost
            if whole < best:
                best, sizes = whole, {circuit.id: trial.run.cable.csa or 0.0, **found}
        if best < inf:
            return best, sizes
        # Where no size does, it stays as it is, and the others are sized behind it.
        cost, trial = self.as_entered(circuit)
        whole, found = self.board(circuit.feeds, self.below(trial, feed))
        return whole + cost + NO_FEED, {circuit.id: trial.run.cable.csa or 0.0, **found}

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
                cost = own + below + (0.0 if self.passes(trial, feed) else NO_FEED)
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
