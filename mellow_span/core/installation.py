"""The tree: what flows down from the origin through sub-mains to every final circuit, and the answer for the whole job."""

from __future__ import annotations

from functools import lru_cache

from mellow_span.core.attention import attention
from mellow_span.core.case import Case, Feed
from mellow_span.core.circuit import check_circuit
from mellow_span.core.errors import CoreError, InputError
from mellow_span.core.faults import run_loop
from mellow_span.core.model import Circuit, Installation, Supply
from mellow_span.core.parse import out_of_range
from mellow_span.core.results import CircuitResult, InstallationResult, Problem
from mellow_span.core.rules import RuleSet, load
from mellow_span.core.working import Working


def origin(supply: Supply) -> Feed:
    """Return what arrives at the origin: Ze, and the line-neutral loop behind the prospective fault current."""
    ln = None if supply.ipf is None else supply.u0 / supply.ipf
    return Feed(supply.ze, supply.ze, ln, ln)


def feed_of(rules: RuleSet, supply: Supply, circuit: Circuit, feed: Feed, result: CircuitResult) -> Feed:
    """Return what arrives at the board a sub-main feeds, from what arrives at its own board and the sub-main's result."""
    case = Case(rules, supply, circuit, feed)
    length = feed.length + (result.length or 0.0)
    drawn = (result.profile.stretches, result.profile.points)
    try:
        loop = run_loop(Working(rules, keep=False), case)
    except CoreError:
        return Feed(None, None, None, None, None, length, *drawn)
    line = 2 * loop.r1_cold, 2 * loop.r1_hot
    return Feed(
        ze_cold=None if feed.ze_cold is None else feed.ze_cold + loop.cold,
        ze_hot=None if feed.ze_hot is None else feed.ze_hot + loop.hot,
        ln_cold=None if feed.ln_cold is None else feed.ln_cold + (line[0] ** 2 + loop.x**2) ** 0.5,
        ln_hot=None if feed.ln_hot is None else feed.ln_hot + (line[1] ** 2 + loop.x**2) ** 0.5,
        drop=result.drop,
        length=length,
        stretches=drawn[0],
        points=drawn[1],
    )


def check(job: Installation, keep: bool | frozenset[str] = True, reuse: bool = False) -> InstallationResult:
    """Check a whole installation.

    keep: record the working of all circuits, of none, or of those whose identities are given; the figures are the same.
    reuse: take the result of a circuit whose inputs and feed are those of an earlier call from memory; the results are then shared
    and must not be changed.
    Raises InputError for a tree that is no tree; anything wrong inside one circuit is named in that circuit's result.
    """
    rules = load(job.ruleset)
    feeds = _Feeds(job, rules)
    refused = supply_problems(job.supply)
    found: dict[str, CircuitResult] = {}
    for circuit in feeds.order:
        working = keep if isinstance(keep, bool) else circuit.id in keep
        feed = feeds.at[circuit.board]
        if refused:
            found[circuit.id] = _refused(circuit, refused)
        elif reuse and not working:
            found[circuit.id] = _remembered(rules.id, job.supply, circuit, feed)
        else:
            found[circuit.id] = check_circuit(rules, job.supply, circuit, feed, working)
        if circuit.feeds:
            feeds.at[circuit.feeds] = feed_of(rules, job.supply, circuit, feed, found[circuit.id])
    results = tuple(found[c.id] for c in job.circuits)
    return InstallationResult(rules.id, rules.edition, results, attention(job, results))


@lru_cache(maxsize=8192)
def _remembered(ruleset: str, supply: Supply, circuit: Circuit, feed: Feed) -> CircuitResult:
    return check_circuit(load(ruleset), supply, circuit, feed, keep=False)


def supply_problems(supply: Supply) -> tuple[Problem, ...]:
    """List the inputs of the intake that are outside what is allowed."""
    return tuple(Problem(e.field, str(e.given), e.allowed) for e in out_of_range(supply, "supply"))


def _refused(circuit: Circuit, refused: tuple[Problem, ...]) -> CircuitResult:
    text = f"{refused[0].field}: {refused[0].given} given, allowed {refused[0].allowed}"
    return CircuitResult(circuit.id, "not_known", "Not known yet", text, problems=refused)


class _Feeds:
    """Circuits in the order power flows, and the feed of each board as it becomes known."""

    def __init__(self, job: Installation, rules: RuleSet) -> None:
        names = {board.id for board in job.boards}
        fed = [c.feeds for c in job.circuits if c.feeds]
        for circuit in job.circuits:
            if circuit.board not in names or (circuit.feeds and circuit.feeds not in names):
                raise InputError(f"circuit.{circuit.id}.board", circuit.board, "a board of this job")
        if len(fed) != len(set(fed)):
            raise InputError("circuit.feeds", fed, "one sub-main to each board")
        self.at = {name: origin(job.supply) for name in names if name not in fed}
        self.order = self._ordered(job, set(self.at))

    @staticmethod
    def _ordered(job: Installation, reached: set[str]) -> list[Circuit]:
        left, order = list(job.circuits), []
        while left:
            ready = [c for c in left if c.board in reached]
            if not ready:
                raise InputError("circuit.feeds", [c.id for c in left], "boards that trace back to the origin")
            order += ready
            reached |= {c.feeds for c in ready if c.feeds}
            left = [c for c in left if c not in ready]
        return order
