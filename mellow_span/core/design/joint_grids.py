"""The search of `joint` on grids, for sub-mains behind sub-mains: a floor that no set of sizes can undercut, and sets that can be built.

What arrives at a board is rounded to the side that asks for less, so that few different feeds are left at any depth. Checks that a better
feed never makes worse rule sizes out; the others, on the energy of a fault, are left to the set that is built.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from math import exp, floor, inf, log, log1p
from typing import TYPE_CHECKING

from mellow_span.core.model.parts import Circuit
from mellow_span.core.rules.case import Feed

if TYPE_CHECKING:
    from mellow_span.core.design.joint import Search

Mains = dict[str, tuple[float, Circuit]]
Found = tuple[float, dict[str, float]]
# Steps of the grids: of impedances as a share, of volt drop in % of U0; and how close floor and set are to be.
GRIDS = ((0.2, 0.5), (0.08, 0.2), (0.03, 0.08), (0.012, 0.03), (0.005, 0.012))
CLOSE = 0.005
# Checks that a feed with less impedance and less drop never makes worse; those on the energy of a fault may be, since it grows.
MONOTONE = frozenset({
    "inputs", "capacity", "overload_current", "ring", "least_csa", "accessory", "volt_drop", "loop", "disconnection", "cpc_least",
})  # fmt: skip


def on_grids(search: Search, root: str, found: Found, limit: int) -> tuple[float, Found]:
    """Return the highest floor and the cheapest set found on grids that get finer, in about so many sizes."""
    until, least = search.tried + limit, 0.0
    for at, (share, drop) in enumerate(GRIDS):
        # The first is coarse enough to be finished whatever it takes.
        grid = _Grid(search, share, drop, inf if at == 0 else until)
        try:
            cost, mains = grid.board(root, grid.rounded(search.plan.root_feed(root)))
        except _SpentError:
            break
        least = max(least, cost[1])
        found = min(found, search.refined(root, mains, limit // 12), key=lambda pair: pair[0])
        if found[0] <= least * (1 + CLOSE):
            break
    return least, found


def _values(feed: Feed) -> tuple[float, ...]:
    """What differs between feeds of one board, the more the worse; None, which no check passes, is worst."""
    drops = feed.drops or (feed.drop,) * 3
    numbers = (feed.ze_cold, feed.ze_hot, feed.ln_cold, feed.ln_hot, feed.drop, *drops)
    return tuple(inf if v is None else v for v in numbers)


class _SpentError(Exception):
    """A grid was too fine for what is left of the budget."""


@dataclass
class _Grid:
    """The search on a grid: what arrives at a board is rounded to the side that asks for less, so that few feeds differ.

    share: step of impedances, drop: of volt drop [%]. Costs are (circuits that nothing cures, money): fewer of the first comes before less of
    the second.
    """

    search: Search
    share: float
    drop: float
    until: float = inf
    memo: dict[tuple[str, Feed], tuple[tuple[int, float], Mains]] = field(default_factory=dict)

    def rounded(self, feed: Feed) -> Feed:
        """Return a feed with its impedances and drops rounded down to the grid."""
        step = log1p(self.share)

        def down(ohms: float | None) -> float | None:
            return exp(floor(log(ohms) / step) * step) if ohms else ohms

        def less(percent: float) -> float:
            return floor(percent / self.drop) * self.drop

        return replace(
            feed,
            ze_cold=down(feed.ze_cold),
            ze_hot=down(feed.ze_hot),
            ln_cold=down(feed.ln_cold),
            ln_hot=down(feed.ln_hot),
            drop=None if feed.drop is None else less(feed.drop),
            drops=tuple(less(d) for d in feed.drops),
        )

    def board(self, board: str, feed: Feed) -> tuple[tuple[int, float], Mains]:
        """Return the least a board and all below it can cost on the grid, and its sub-mains."""
        key = (board, feed)
        if key not in self.memo:
            bare, total = 0, 0.0
            mains: Mains = {}
            for circuit in self.search.circuits(board):
                (none, cost), found = self._submain(circuit, feed) if circuit.feeds else (self._least(circuit, feed), {})
                bare, total = bare + none, total + cost
                mains |= found
            self.memo[key] = ((bare, total), mains)
        return self.memo[key]

    def _first(self, circuit: Circuit, feed: Feed) -> int:
        """The place of the first size that no check rules out which a better feed could only make better; past the last where all are.

        A feed that is worse in everything rules out no less: what was found for others bounds it from both sides.
        """
        asked = _values(feed)
        sizes = self.search.candidates(circuit)
        low, high = 0, len(sizes)
        known = self.search.firsts.setdefault(circuit.id, [])
        for values, place in known:
            if place > low and all(v <= a for v, a in zip(values, asked, strict=True)):
                low = place
            elif place < high and all(v >= a for v, a in zip(values, asked, strict=True)):
                high = place
        if low < high:
            while low < high and self.search.failing(sizes[low][1], feed) in MONOTONE:
                low += 1
            known.append((asked, low))
        return low

    def _least(self, circuit: Circuit, feed: Feed) -> tuple[int, float]:
        place, sizes = self._first(circuit, feed), self.search.candidates(circuit)
        return (0, sizes[place][0]) if place < len(sizes) else (1, 0.0)

    def _submain(self, circuit: Circuit, feed: Feed) -> tuple[tuple[int, float], Mains]:
        assert circuit.feeds is not None
        best: tuple[tuple[int, float], Mains] | None = None
        possible = self.search.candidates(circuit)[self._first(circuit, feed) :]
        least = self.search.least(circuit.feeds)
        for cost, trial in possible or [self.search.largest(circuit)]:
            if best is not None and best[0][0] == 0 and cost + least >= best[0][1]:
                break
            if best is not None and self.search.failing(trial, feed) in MONOTONE:
                continue
            self.search.tried += 1
            if self.search.tried > self.until:
                raise _SpentError
            (none, below), mains = self.board(circuit.feeds, self.rounded(self.search.below(trial, feed)))
            whole = (none + (0 if possible else 1), cost + below)
            if best is None or whole < best[0]:
                best = whole, {circuit.id: (cost, trial), **mains}
        assert best is not None
        return best
