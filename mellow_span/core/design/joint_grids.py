"""The search of `joint` on grids, for sub-mains behind sub-mains: a floor that no set of sizes can undercut, and sets that can be built.

What a sub-main adds on its way, to the fault loop and to the volt drop, is the same whatever arrives at it. So each size of each sub-main is
worked out once, and each size of a circuit has a fault loop and a volt drop from which it is ruled out, whatever else arrives; what is left is
arithmetic on two figures. Of the pairs that can arrive at a board those in one cell of a grid are taken for one, the least of both: this asks for
less than any of them, so the cheapest found is a floor. Checks that a better feed never makes worse rule sizes out; the others, on the
energy of a fault, are left to the set that is built.
"""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass, field, replace
from itertools import combinations
from math import inf

from mellow_span.core.adding import added
from mellow_span.core.design.check import NOTHING
from mellow_span.core.design.circuit import first_failing
from mellow_span.core.design.joint_search import Mains, Search
from mellow_span.core.findings.results import Check
from mellow_span.core.model.parts import Circuit
from mellow_span.core.rules.case import Feed

# Of each sub-main the place of its size among those it can have.
Picked = dict[str, int]
Found = tuple[float, dict[str, float]]
# What arrives: the fault loop when hot [ohm] and the volt drop [%], of phases that differ the least.
State = tuple[float, float]
# Circuits that nothing cures, then money: fewer of the first comes before less of the second.
Price = tuple[int, float]
# Into how many steps the range of both figures is cut; steps of sub-main sizes a grid may take; how close floor and set are to be.
GRIDS = (60, 240, 900, 3000)
MOST_STEPS = 400_000
# The most pairs of sub-mains that are changed together.
MOST_PAIRS = 2000
CLOSE = 0.005
# How often the distance to the point where a size is ruled out is halved, where it is not where the check says.
HALVED = 6
# Stands for a way that was not followed to its end.
NOWHERE = 1_000_000
# So far past its limit, in ohm or %, no rounding lets a size pass.
PAST = 1e-6
# Checks that a feed with less impedance and less drop never makes worse; those on the energy of a fault may be, since it grows.
MONOTONE = frozenset({
    "inputs", "capacity", "overload_current", "ring", "least_csa", "accessory", "volt_drop", "loop", "disconnection", "cpc_least",
})  # fmt: skip
BY_DROP = frozenset({"volt_drop"})


def on_grids(search: Search, root: str, found: Found, limit: int) -> tuple[float, Found]:
    """Return the highest floor and the cheapest set found on grids that get finer; limit: sizes that may be solved for it."""
    tree = Tree(search, root)
    least, each = 0.0, limit // len(GRIDS) // 2
    coarser: _Grid | None = None
    for cuts in GRIDS:
        grid = _Grid(tree, root, cuts, coarser, found[0])
        answer = grid.solve()
        if answer is None:
            break
        (bare, floor), picked = answer
        # What was not followed costs no less than the set found before.
        least = max(least, grid.most if bare >= NOWHERE else min(floor, grid.most))
        if bare >= NOWHERE:
            break
        found = min(found, search.refined(root, tree.mains_of(tree.improved(picked)), each), key=lambda pair: pair[0])
        if found[0] <= least * (1 + CLOSE) or search.effort.over():
            break
        coarser = coarser or grid
    return least, found


@dataclass(frozen=True, slots=True)
class Size:
    """A size of a circuit: its cost, from which fault loop and from which drop it is ruled out, and what it adds to both on its way.

    resets: the fault loop of a board on its own electrode, whatever lies before it.
    """

    cost: float
    trial: Circuit
    out: State
    adds: State = (0.0, 0.0)
    resets: float | None = None

    def stands(self, at: State) -> bool:
        """Say whether nothing rules it out for what arrives."""
        return at[0] < self.out[0] and at[1] < self.out[1]

    def below(self, at: State) -> State:
        """What arrives at the board a sub-main feeds."""
        return (at[0] + self.adds[0] if self.resets is None else self.resets), at[1] + self.adds[1]


def _state(feed: Feed) -> State:
    return feed.ze_hot or 0.0, min(feed.drops, default=feed.drop or 0.0)


def _even(feed: Feed) -> Feed:
    """A feed whose phases all have the least of their drops."""
    drop = _state(feed)[1]
    return replace(feed, drop=None if feed.drop is None else drop, drops=tuple(drop for _ in feed.drops))


class Tree:
    """Every circuit below a board with its sizes, what can arrive at each board at best and at worst."""

    def __init__(self, search: Search, root: str) -> None:
        self.search = search
        self.best: dict[str, Feed] = {root: _even(search.plan.root_feed(root))}
        self.worst: dict[str, State] = {root: _state(self.best[root])}
        self.finals: dict[str, list[list[Size]]] = {}
        self.least: dict[str, _Finals] = {}
        self.mains: dict[str, list[list[Size]]] = {}
        self.boards = [root]
        for board in self.boards:
            here = search.circuits(board)
            self.finals[board] = [self._sizes(c) for c in here if not c.feeds]
            self.mains[board] = [self._main(c) for c in here if c.feeds]
            self.least[board] = _Finals(self.finals[board])
            self.boards += [c.feeds for c in here if c.feeds]

    def price(self, picked: Picked, board: str = "", at: State | None = None) -> Price:
        """Return what all below a board costs with the sub-mains picked, by arithmetic: what rules out no size but by energy is left out."""
        board = board or self.boards[0]
        at = at or _state(self.best[board])
        bare, total = self.least[board].least(at)
        for sizes in self.mains[board]:
            size = sizes[picked[sizes[0].trial.id]]
            none, cost = self.price(picked, size.trial.feeds or "", size.below(at))
            bare, total = bare + none + (not size.stands(at)), total + cost + size.cost
        return bare, total

    def improved(self, picked: Picked) -> Picked:
        """Return sub-mains that no change of one or two of them by a size or two makes cheaper, from those given."""
        sizes = {one[0].trial.id: len(one) for mains in self.mains.values() for one in mains}
        steps = [(name, step) for name in sizes for step in (-2, -1, 1, 2)]
        moves = [(one,) for one in steps] + [(a, b) for a, b in combinations(steps, 2) if a[0] != b[0]][:MOST_PAIRS]
        cost, better = self.price(picked), True
        while better:
            better = False
            for move in moves:
                trial = picked | {name: picked[name] + step for name, step in move}
                if all(0 <= trial[name] < sizes[name] for name, _ in move) and (found := self.price(trial)) < cost:
                    cost, picked, better = found, trial, True
        return picked

    def mains_of(self, picked: Picked) -> Mains:
        """Return sub-mains picked by the place of their size as the search through sizes takes them."""
        every = [sizes for mains in self.mains.values() for sizes in mains]
        chosen = [sizes[picked[sizes[0].trial.id]] for sizes in every]
        return {size.trial.id: (size.cost, size.trial) for size in chosen}

    def _main(self, circuit: Circuit) -> list[Size]:
        """The sizes of a sub-main: those that can stand at all, without the ones that another is cheaper than and no worse."""
        feed, at = self.best[circuit.board], _state(self.best[circuit.board])
        assert circuit.feeds is not None
        sizes: list[Size] = []
        arrives: list[Feed] = []
        for size in self._sizes(circuit) or [Size(*self.search.as_entered(circuit), (inf, inf))]:
            below = _even(self.search.below(size.trial, feed))
            self.search.count()
            there = _state(below)
            own = below.ze_hot if below.own_earth and not feed.own_earth else None
            adds = (there[0] - at[0], there[1] - at[1])
            if all(adds[0] < s.adds[0] or adds[1] < s.adds[1] or size.out[0] > s.out[0] or size.out[1] > s.out[1] for s in sizes):
                sizes.append(replace(size, adds=adds, resets=own))
                arrives.append(below)
        self.best[circuit.feeds] = _least_of(arrives)
        far = [s.below(self.worst[circuit.board]) for s in sizes]
        self.worst[circuit.feeds] = max(z for z, _ in far), max(d for _, d in far)
        return sizes

    def _sizes(self, circuit: Circuit) -> list[Size]:
        """The sizes of a circuit that can stand for the best that can arrive, up to the first that nothing rules out."""
        feed, worst = self.best[circuit.board], self.worst[circuit.board]
        found: list[Size] = []
        for cost, trial in self.search.candidates(circuit):
            if self.search.failing(trial, feed) in MONOTONE:
                continue
            found.append(Size(cost, trial, (self._out(trial, feed, worst[0], 0), self._out(trial, feed, worst[1], 1))))
            if found[-1].out == (inf, inf) and not circuit.feeds:
                break
        return found

    def _refused(self, trial: Circuit, feed: Feed, value: float, axis: int) -> Check | None:
        """The check that rules a size out where one of the two figures is this and all else the best."""
        if axis == 0:
            feed = replace(feed, ze_hot=value)
        else:
            feed = replace(feed, drop=value, drops=tuple(value for _ in feed.drops))
        self.search.count()
        found = first_failing(
            self.search.plan.rules, self.search.plan.job.supply, trial, feed, self.search.plan.around.get(trial.id, NOTHING)
        )
        return found if found is not None and found.id in MONOTONE else None

    def _out(self, trial: Circuit, feed: Feed, worst: float, axis: int) -> float:
        """A value of one of the two figures for which the size was seen to be ruled out, about the least; infinite where it never is."""
        low = _state(feed)[axis]
        refused = self._refused(trial, feed, worst, axis) if worst > low else None
        if refused is None:
            return inf
        high = worst
        if refused.value is not None and refused.limit is not None and (refused.id in BY_DROP) == (axis == 1):
            # What is over the limit there is what has to go: own drop and own loop are the same whatever arrives.
            told = max(low, worst - (refused.value - refused.limit)) + PAST
            if low < told < high:
                if self._refused(trial, feed, told, axis):
                    return told
                low = told
        for _ in range(HALVED):
            middle = (low + high) / 2
            if self._refused(trial, feed, middle, axis):
                high = middle
            else:
                low = middle
        return high


def _least_of(feeds: list[Feed]) -> Feed:
    """The feed that is as good as the best of several in each figure."""

    def least(name: str) -> float | None:
        values = [getattr(f, name) for f in feeds]
        return None if None in values else min(values)

    drops = tuple(min(column) for column in zip(*(f.drops for f in feeds), strict=True)) if all(f.drops for f in feeds) else ()
    names = ("ze_cold", "ze_hot", "ln_cold", "ln_hot", "drop")
    return replace(feeds[0], **{name: least(name) for name in names}, drops=drops)  # type: ignore[arg-type]


@dataclass
class _Grid:
    """The search on one grid. coarser: one on which everything was followed, and most: what a set found costs; what cannot become cheaper is not.

    reached: of each board what can arrive, one for each cell, with the least it costs to bring it there, all that is not behind the board counted
    with it. solved: by cell the least price of what is behind the board, and its sub-mains.
    """

    tree: Tree
    root: str
    cuts: int
    coarser: _Grid | None
    most: float
    cell: dict[str, State] = field(default_factory=dict)
    reached: dict[str, dict[tuple[int, int], tuple[State, float]]] = field(default_factory=dict)
    solved: dict[str, dict[tuple[int, int], tuple[Price, tuple[int, ...]]]] = field(default_factory=dict)
    steps: int = 0

    def solve(self) -> tuple[Price, Picked] | None:
        """Return the least all below the root can cost on the grid, and its sub-mains; None where the grid is too fine."""
        for board in self.tree.boards:
            low, high = _state(self.tree.best[board]), self.tree.worst[board]
            z, d = (max((b - a) / self.cuts, 1e-9) for a, b in zip(low, high, strict=True))
            self.cell[board] = z, d
        start = _state(self.tree.best[self.root])
        self.reached = {board: {} for board in self.tree.boards}
        self.reached[self.root][self._key(self.root, start)] = start, 0.0
        for board in self.tree.boards:
            for at, spent in list(self.reached[board].values()):
                self._reach(board, at, spent)
                if self.steps > MOST_STEPS:
                    return None
        for board in reversed(self.tree.boards):
            self._price(board)
        price = self.solved[self.root][self._key(self.root, start)][0]
        return price, self._picked(self.root, start) if price[0] < NOWHERE else {}

    def floor(self, board: str, at: State) -> float:
        """The least that what is behind a board can cost for what arrives, as far as this grid knows it."""
        z, d = self._key(board, at)
        least = 0.0
        for key in ((z, d), (z - 1, d), (z, d - 1), (z - 1, d - 1)):
            there = self.reached[board].get(key)
            # A floor for what is no better in both figures, and for nothing else.
            if there is not None and there[0][0] <= at[0] and there[0][1] <= at[1]:
                least = max(least, self.solved[board][key][0][1])
        return least

    def _key(self, board: str, at: State) -> tuple[int, int]:
        z, d = self.cell[board]
        return int(at[0] / z), int(at[1] / d)

    def _reach(self, board: str, at: State, spent: float) -> None:
        """Note what can arrive at the boards behind one for what arrives there."""
        here = spent + self.tree.least[board].least(at)[1]
        for sizes in self.tree.mains[board]:
            for place, size in enumerate(sizes):
                if not size.stands(at) and place < len(sizes) - 1:
                    continue
                self.steps += 1
                child, there, cost = size.trial.feeds or "", size.below(at), here + size.cost
                if self.coarser is not None and cost + self.coarser.floor(child, there) > self.most:
                    continue
                reached, key = self.reached[child], self._key(child, there)
                if key in reached:
                    (z, d), least = reached[key]
                    there, cost = (min(z, there[0]), min(d, there[1])), min(cost, least)
                reached[key] = there, cost

    def _price(self, board: str) -> None:
        least = self.solved[board] = {}
        for key, (at, _) in self.reached[board].items():
            bare, total = self.tree.least[board].least(at)
            picked = []
            for sizes in self.tree.mains[board]:
                best, place = self._best(sizes, at)
                bare, total = bare + best[0], total + best[1]
                picked.append(place)
            least[key] = (bare, total), tuple(picked)

    def _best(self, sizes: list[Size], at: State) -> tuple[Price, int]:
        """The least a sub-main costs with all behind it, and the place of its size; where every size is ruled out, the last is taken."""
        best, place = (NOWHERE, inf), len(sizes) - 1
        for i, size in enumerate(sizes):
            stands = size.stands(at)
            if not stands and (i < len(sizes) - 1 or best[1] < inf):
                continue
            below = size.trial.feeds or ""
            known = self.solved[below].get(self._key(below, size.below(at)))
            if known is not None:
                (none, cost), _ = known
                best, place = min((best, place), ((none + (not stands), cost + size.cost), i))
        return best, place

    def _picked(self, board: str, at: State) -> Picked:
        found: Picked = {}
        key = self._key(board, at)
        at = self.reached[board][key][0]
        for sizes, place in zip(self.tree.mains[board], self.solved[board][key][1], strict=True):
            size = sizes[place]
            found[size.trial.id] = place
            found |= self._picked(size.trial.feeds or "", size.below(at))
        return found


class _Finals:
    """What the finals of a board cost together for what arrives, looked up between the points where a size of one is ruled out."""

    def __init__(self, finals: list[list[Size]]) -> None:
        self.finals = finals
        self.loops = sorted({s.out[0] for sizes in finals for s in sizes})
        self.drops = sorted({s.out[1] for sizes in finals for s in sizes})
        self.known: dict[tuple[int, int], Price] = {}

    def least(self, at: State) -> Price:
        """Return how many have no size, and the cost of the others."""
        key = bisect_right(self.loops, at[0]), bisect_right(self.drops, at[1])
        if key not in self.known:
            costs = [next((s.cost for s in sizes if s.stands(at)), None) for sizes in self.finals]
            self.known[key] = added(c is None for c in costs), added(c for c in costs if c is not None)
        return self.known[key]
