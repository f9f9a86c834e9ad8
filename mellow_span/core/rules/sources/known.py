"""The sources of a job beside the network: what each gives, what it adds to a fault, and which board it keeps alive.

A source is a load of a circuit, an inverter or a generator: it stands where it is wired, and its cable, device and label are those of its circuit.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

from mellow_span.core.adding import added
from mellow_span.core.errors import CoreError, MissingInput
from mellow_span.core.model.circuit import SOURCES
from mellow_span.core.model.parts import Board, Circuit, Installation, Load
from mellow_span.core.rules.case import Alone, Feed
from mellow_span.core.rules.demand.loads import load_current
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.working.recorders import Silent

RATED = "inverter_fault"


@dataclass(frozen=True, slots=True)
class Source:
    """A source beside the network. rated [A]: what it gives on a line; most [A]: into a fault; None where not known.

    together: it can feed beside the network; alone: the board it keeps alive without it.
    """

    load: Load
    circuit: str
    board: str
    name: str
    together: bool
    alone: str | None
    rated: float | None
    most: float | None


@dataclass(frozen=True, slots=True)
class SourceTold:
    """A source as it is listed: its circuit and board, what it gives on a line and adds to a fault [A], and the board it keeps alive."""

    load: str
    name: str
    circuit: str
    board: str
    together: bool
    rated: float | None
    adds: float | None
    alone: str | None


def told(sources: Iterable[Source]) -> tuple[SourceTold, ...]:
    """Return the sources as they are listed; one in place of the network adds nothing to a fault."""
    return tuple(
        SourceTold(one.load.id, one.name, one.circuit, one.board, one.together, one.rated, one.most if one.together else 0.0, one.alone)
        for one in sources
    )


def gives(circuit: Circuit) -> list[Load]:
    """List the sources on a circuit; what may come later is one already, what is not connected is none."""
    return [] if circuit.spare else [load for load in circuit.loads if load.kind in SOURCES]


def sources_of(rules: RuleSet, job: Installation) -> tuple[Source, ...]:
    """Return the sources of a job beside the network, in the order of its circuits."""
    return tuple(_source(rules, job, circuit, load) for circuit in job.circuits for load in gives(circuit))


def _source(rules: RuleSet, job: Installation, circuit: Circuit, load: Load) -> Source:
    try:
        rated = load_current(Silent(rules), job.supply, circuit, load)
    except CoreError:
        rated = None
    # One that takes the place of the network feeds the board whose way it has, unless another is named.
    alone = load.alone or (circuit.board if load.joins == "changeover" else None)
    return Source(
        load, circuit.id, circuit.board, load.name or load.kind, load.joins != "changeover", alone, rated, most(rules, load, rated)
    )  # fmt: skip


def most(rules: RuleSet, load: Load, rated: float | None) -> float | None:
    """Return the largest current a source drives into a fault [A]: its maker's, else 1.5 times the rating of an inverter; None if not known."""
    if load.fault_amps is not None:
        return load.fault_amps * load.quantity
    if load.kind != "inverter" or rated is None or not rules.has(RATED):
        return None
    return rules.limit(RATED) * rated


def driven_by(sources: Iterable[Source]) -> tuple[float, str]:
    """Return what all sources that feed beside the network add to a fault anywhere [A], and the field that is missing where that is not known.

    A bound: what lies between them and the fault is left out.
    """
    total = 0.0
    for one in sources:
        if not one.together:
            continue
        if one.most is None:
            return 0.0, f"load.{one.load.id}.{'amount' if one.load.kind == 'inverter' else 'fault_amps'}"
        total += one.most
    return total, ""


def with_sources(feed: Feed, sources: tuple[Source, ...]) -> Feed:
    """Return what arrives from the network with what the other sources add to a fault."""
    if not sources:
        return feed
    more, missing = driven_by(sources)
    return replace(feed, added=more, added_missing=missing)


def kept_alive(feed: Feed, board: Board, sources: tuple[Source, ...], joined: Mapping[str, list[Source]]) -> Feed:
    """Return what arrives at a board, with the sources that keep it alive without the network; the RCDs ahead of where they come in see nothing.

    feed: as the board hands it on, its own RCD in it; joined: the sources at and behind each board, which go on beside one that keeps it alive.
    """
    here = [one for one in sources if one.alone == board.id]
    if not here:
        return feed
    found = []
    for one in here:
        # By a way of the board itself, or while nobody said how, it comes in behind the board's RCD.
        own_way = one.board == board.id and one.load.joins != "changeover"
        load, ahead = one.load, len(feed.residuals) - (0 if own_way else feed.own_rcd)
        beside = {o.load.id: o for o in (*joined.get(board.id, ()), *here) if o.together}
        currents = [o.most for o in {**beside, load.id: one}.values()]
        most = None if None in currents else added(i for i in currents if i is not None)
        found.append(
            Alone(load.id, one.name, one.rated, most, load.alone_amps, load.alone_off, load.alone_earth, load.alone_ra, ahead, own_way)
        )  # fmt: skip
    return replace(feed, alone=(*feed.alone, *found))


def joined_at(job: Installation, sources: Iterable[Source]) -> dict[str, list[Source]]:
    """Return the sources that feed each board beside the network, from its own ways or from boards behind it, by its identity."""
    found: dict[str, list[Source]] = {}
    feeders = {c.feeds: c for c in job.circuits if c.feeds}
    for one in sources:
        board: str | None = one.board if one.together else None
        while board is not None and one not in found.get(board, ()):
            found.setdefault(board, []).append(one)
            above = feeders.get(board)
            board = above.board if above else None
    return found


def given_back(job: Installation, joined: Mapping[str, list[Source]]) -> dict[str, float]:
    """Return what the sources behind each sub-main send back through it [A], by its identity, on one line; joined: see `joined_at`."""
    fed = {c.id: joined.get(c.feeds or "", ()) for c in job.circuits}
    return {name: added(one.rated or 0.0 for one in there) for name, there in fed.items() if there}


def rated(source: Source) -> float:
    """Return what a source gives [A]. Raises MissingInput."""
    if source.rated is None:
        raise MissingInput(f"load.{source.load.id}.amount", f"what {source.name} gives in W or A")
    return source.rated
