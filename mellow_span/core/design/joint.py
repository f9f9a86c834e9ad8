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

from dataclasses import dataclass, replace

from mellow_span.core.adding import added
from mellow_span.core.design.check import Plan, check, lay_out
from mellow_span.core.design.effort import Effort
from mellow_span.core.design.joint_grids import on_grids
from mellow_span.core.design.joint_search import NO_CURE, Search
from mellow_span.core.design.prices import Cost, PriceBook, circuit_cost, job_cost, shipped
from mellow_span.core.design.size import csa_change, failing
from mellow_span.core.findings.results import CircuitResult
from mellow_span.core.model.changes import restore
from mellow_span.core.model.parts import Circuit, Installation
from mellow_span.core.model.routes import resolved
from mellow_span.core.model.tree import ordered

ROUNDS = 6
# How many sizes the search through everything solves, and the grids: about two seconds together.
BUDGET = 2500
ON_GRIDS = 7000
# The share of the work that finds the set.
SIZING = 0.6
# What is cheaper by less is only rounding.
NOTHING_LESS = 1e-9


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
    """The cheapest sizes. exact: proven cheapest, and every circuit solved; gap: largest share by which it could be dearer; proof: in words.

    By identity: unsolved, circuits that no size of their family cures; unknown, those that lack an input that no size stands in for; waiting,
    those behind a sub-main that is one of either.
    """

    chosen: tuple[Chosen, ...]
    before: Cost
    after: Cost
    exact: bool
    gap: float
    proof: str
    unsolved: tuple[str, ...]
    tried: int
    unknown: tuple[str, ...] = ()
    waiting: tuple[str, ...] = ()


def solve(search: Search) -> tuple[float, dict[str, float], float, bool]:
    """Return cost and sizes of the whole, the least it can cost, and whether every cheaper set was ruled out."""
    total, least, whole = 0.0, 0.0, True
    sizes: dict[str, float] = {}
    for root in search.plan.roots:
        search.budget = search.tried + BUDGET // len(search.plan.roots)
        found = search.board(root, search.plan.root_feed(root))
        floor = found[0]
        if search.spent and not search.effort.over():
            floor, found = on_grids(search, root, found, ON_GRIDS // len(search.plan.roots))
            whole = whole and found[0] <= floor * (1 + NOTHING_LESS)
        elif search.spent:
            whole, floor = False, search.least(root)
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
        _, sizes, least, whole = solve(search)
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
    unsolved, unknown, waiting = _left(found, results)
    chosen = tuple(_chosen(book, plan, old, new) for old, new in zip(plan.job.circuits, resolved(found).circuits, strict=True))
    alone = not any(around.groups for around in plan.around.values())
    if alone and not whole:
        gap = _over(found, book, least)
    else:
        gap = 0.0 if alone and settled else _gap(found, book, effort)
    exact = settled and whole and gap == 0.0 and not (unsolved or unknown or waiting)
    if exact:
        proof = f"cheapest proven: {tried} sizes tried; every other set costs more or fails a check"
    elif settled and whole and gap == 0.0:
        proof = f"the cheapest for those that a size can fix, of {tried} sizes tried; the others are named"
    elif not whole:
        proof = f"best of {tried} sizes tried; at most {gap:.1%} above the cheapest possible"
    elif settled:
        proof = f"cheapest for who counts in the routes as settled; with nobody beside anybody it could be {gap:.1%} cheaper at most"
    else:
        proof = f"grouping still changed with the sizes after {ROUNDS} tries; at most {gap:.1%} dearer than the cheapest"
    return Joint(
        chosen, job_cost(book, plan.rules, job), job_cost(book, plan.rules, found), exact, gap, proof, unsolved, tried, unknown, waiting
    )


def _left(found: Installation, results: dict[str, CircuitResult]) -> tuple[tuple[str, ...], tuple[str, ...], tuple[str, ...]]:
    """Tell apart what is left: circuits that no size cures, those that lack an input, those that only wait for their feed."""
    feeders = {c.feeds: c for c in found.circuits if c.feeds}
    left: dict[str, str] = {}
    for circuit in ordered(found)[0]:
        result = results[circuit.id]
        wrong = failing(result)
        above = feeders.get(circuit.board)
        if not (result.problems or wrong):
            continue
        if above is not None and above.id in left:
            left[circuit.id] = "waiting"
        else:
            left[circuit.id] = "unsolved" if any(c.verdict == "short" for c in wrong) else "unknown"
    return tuple(tuple(c.id for c in found.circuits if left.get(c.id) == kind) for kind in ("unsolved", "unknown", "waiting"))  # type: ignore[return-value]


def _chosen(book: PriceBook, plan: Plan, old: Circuit, new: Circuit) -> Chosen:
    before, after = circuit_cost(book, plan.rules, old), circuit_cost(book, plan.rules, new)
    cable = new.run.cable
    return Chosen(new.id, old.run.cable.csa, cable.csa, cable.cpc_csa, after.cable - before.cable, after.copper_kg - before.copper_kg)


def _gap(found: Installation, book: PriceBook, effort: Effort) -> float:
    """Largest share by which the cables could be dearer than the cheapest: against the same search with nobody beside anybody.

    Fewer neighbours never ask for a bigger cable, so no grouping can be cheaper than none.
    """
    plan = lay_out(found)
    alone = {
        name: replace(around, groups=tuple(replace(g, n=1, simultaneous=False) for g in around.groups))
        for name, around in plan.around.items()
    }
    plan = replace(plan, around=alone)
    cost, _, least, whole = solve(Search(plan, book, effort))
    return _over(found, book, cost if whole else least)


def _over(found: Installation, book: PriceBook, floor: float) -> float:
    """How much dearer the cables found are than a floor, as a share of it."""
    plan = lay_out(found)
    cables = added(circuit_cost(book, plan.rules, c).cable for c in plan.job.circuits if not c.existing)
    return max(0.0, (cables - floor) / floor) if 0 < floor < NO_CURE else 0.0
