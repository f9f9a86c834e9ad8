"""Runs that branch. The spans of a run stand in a list, and each goes on from the end of the one before it unless it says where it leaves from:
from the end of another span, which is then a box, or from the board. So a straight run says nothing, and a run with boxes is a tree.

What is worked out of a tree is worked out of its paths: from the device to each end, with every load where it takes its current off that path. A load
that nobody placed may stand at any end, and counts in full at each; one with metres alone stands so far along the main way.

A span may begin another cable, which goes on until a span further on begins its own: a run is then worked out stretch by stretch, each of one cable.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from mellow_span.core.adding import added
from mellow_span.core.errors import InputError
from mellow_span.core.model.circuit import Cable, Circuit, Load, Run, Span

# Where a span leaves from that is a second cable on the device itself.
BOARD = "board"


@dataclass(frozen=True, slots=True)
class Path:
    """A way along the cable from the device to the end of a span: the spans in order."""

    spans: tuple[Span, ...]

    @property
    def end(self) -> Span:
        """The span it ends with."""
        return self.spans[-1]

    @property
    def length(self) -> float:
        """Metres from the board, with nothing for a span whose length is not entered."""
        return added(span.length or 0.0 for span in self.spans)


def begins(span: Span) -> bool:
    """Say whether another cable begins with a span."""
    return span.own_family is not None or span.own_csa is not None


def mixed(circuit: Circuit) -> bool:
    """Say whether a run is of more than the one cable that is entered for the whole of it."""
    return any(begins(span) for span in circuit.run.spans)


def plain(circuit: Circuit) -> bool:
    """Say whether the run of a circuit is straight, of one cable and with nothing at a box along it: then nothing of this is asked."""
    return not any(span.after or begins(span) for span in circuit.run.spans) and not any(load.span for load in circuit.loads)


def cable_from(span: Span, before: Cable) -> Cable:
    """Return the cable that begins with a span: of the type before it where none is said."""
    return Cable(
        family=span.own_family or before.family, csa=span.own_csa, cpc_csa=span.own_cpc_csa, cpc=span.own_cpc, cores=span.own_cores
    )


def cables(run: Run) -> dict[str, tuple[Cable, str]]:
    """Return by span its cable and the span which that begins with, empty for the cable of the whole run."""
    found: dict[str, tuple[Cable, str]] = {}
    for span, (span_id, previous) in zip(run.spans, befores(run.spans).items(), strict=True):
        there = found[previous] if previous is not None else (run.cable, "")
        found[span_id] = (cable_from(span, there[0]), span.id) if begins(span) else there
    return found


def befores(spans: Sequence[Span]) -> dict[str, str | None]:
    """Return by span the one it goes on from, None for the board. Raises InputError where one names none that stands before it in the list."""
    found: dict[str, str | None] = {}
    last: str | None = None
    for span in spans:
        if span.after is None:
            found[span.id] = last
        elif span.after == BOARD:
            found[span.id] = None
        elif span.after in found:
            found[span.id] = span.after
        else:
            raise InputError(
                f"span.{span.id}.after", span.after, "a span of this job, of the same run and before it in the list, or the board"
            )
        last = span.id
    return found


def cable_parts(circuit: Circuit) -> tuple[Circuit, ...]:
    """Return a circuit once for each of its cables, with that cable and the spans it lies in; of a run of one cable the circuit itself.

    For what is bought, pulled and made off: each part is a run of its own, with a piece wherever it begins.
    """
    if not mixed(circuit):
        return (circuit,)
    before, of = befores(circuit.run.spans), cables(circuit.run)
    groups: dict[str, list[Span]] = {}
    for span in circuit.run.spans:
        groups.setdefault(of[span.id][1], []).append(span)
    found = []
    for spans in groups.values():
        here = {span.id for span in spans}
        # A span that goes on from another cable starts a piece here.
        bare = tuple(
            replace(s, own_family=None, own_csa=None, after=b if (b := before[s.id]) in here else None if k == 0 else BOARD)
            for k, s in enumerate(spans)
        )
        # A load that stands along another of its cables is the circuit's all the same.
        loads = tuple(x if x.span is None or x.span in here else replace(x, span=None) for x in circuit.loads)
        found.append(replace(circuit, loads=loads, run=replace(circuit.run, cable=of[spans[0].id][0], spans=bare)))
    return tuple(found)


def walks(run: Run) -> dict[str, Path]:
    """Return the path from the device to the end of every span of a run."""
    found: dict[str, Path] = {}
    by_id = {span.id: span for span in run.spans}
    for span_id, previous in befores(run.spans).items():
        before = found[previous].spans if previous is not None else ()
        found[span_id] = Path((*before, by_id[span_id]))
    return found


def path_to(run: Run, span_id: str) -> Path:
    """Return the path from the device to the end of a span. Raises InputError for a span that is not there."""
    found = walks(run).get(span_id)
    if found is None:
        raise InputError("span", span_id, "a span of this run")
    return found


def ends(run: Run) -> tuple[Span, ...]:
    """Return the spans that nothing goes on from, the end of the main way first: at a box the way goes on that stands first in the list."""
    following: dict[str | None, list[Span]] = {}
    before = befores(run.spans)
    for span in run.spans:
        following.setdefault(before[span.id], []).append(span)
    found: list[Span] = []
    open_yet = list(reversed(following.get(None, [])))
    while open_yet:
        span = open_yet.pop()
        on = following.get(span.id, [])
        open_yet += reversed(on)
        if not on:
            found.append(span)
    return tuple(found)


def paths(run: Run) -> tuple[Path, ...]:
    """Return the path to each end of a run, the main way first; of a run without spans none."""
    found = walks(run)
    return tuple(found[span.id] for span in ends(run))


def boxes(run: Run, loads: Iterable[Load] = ()) -> tuple[Span, ...]:
    """Return the spans at whose end the run parts, another cable begins, something stands, or a name says what is there; ends of the run are none of
    them.
    """
    before, last = befores(run.spans), {span.id for span in ends(run)}
    counts: dict[str, int] = {}
    for previous in before.values():
        if previous is not None:
            counts[previous] = counts.get(previous, 0) + 1
    standing = {load.span for load in loads}
    joined = {before[span.id] for span in run.spans if begins(span)}
    return tuple(s for s in run.spans if s.id not in last and (counts.get(s.id, 0) > 1 or s.id in standing | joined or s.box))


@dataclass(frozen=True, slots=True)
class Leg:
    """A piece of cable between boxes: where it starts, None for the board, and the spans it lies in."""

    start: Span | None
    spans: tuple[Span, ...]


def legs(run: Run) -> tuple[Leg, ...]:
    """Return the pieces a run is cut into: at every box where it parts or which has a name, in the order in which one walks along it."""
    cut = {span.id for span in boxes(run)}
    by_id = {span.id: span for span in run.spans}
    before = befores(run.spans)
    found: dict[str, list[Span]] = {}
    first: dict[str, str] = {}
    for span in run.spans:
        previous = before[span.id]
        first[span.id] = span.id if previous is None or previous in cut else first[previous]
        found.setdefault(first[span.id], []).append(span)
    return tuple(Leg(by_id[start] if (start := before[spans[0].id]) else None, tuple(spans)) for spans in found.values())


def straight(circuit: Circuit, path: Path) -> Circuit:
    """Return a circuit as one who looks along a path sees it: the run goes along it, and a load beside it draws from where it leaves the path.

    With one path and no box it is the circuit itself. Raises InputError for a span that leaves from none.
    """
    if plain(circuit):
        return circuit
    run = circuit.run
    on, there, home = {span.id for span in path.spans}, walks(run), ends(run)[0].id
    loads = []
    for load in circuit.loads:
        if load.span is None and load.at is None:
            # Nobody said where it stands: it counts in full at whichever end is asked.
            loads.append(load)
            continue
        own = there[load.span or home]
        place: float | None = own.length if load.at is None else load.at
        shared = [span for span, other in zip(own.spans, path.spans, strict=False) if span.id == other.id]
        if own.end.id not in on:
            place = min(place or 0.0, added(span.length or 0.0 for span in shared))
        elif load.at is None and own.end.id == path.end.id:
            place = None
        loads.append(replace(load, at=place, span=None))
    spans = tuple(replace(span, after=None) for span in path.spans)
    return replace(circuit, loads=tuple(loads), run=replace(run, spans=spans))


@dataclass(frozen=True, slots=True)
class Stretch:
    """A part of a straight run that is of one cable: the circuit as it is along it, where it starts [m] from the board, and the span it begins with."""

    circuit: Circuit
    start: float
    begins: Span | None


def stretches(circuit: Circuit) -> tuple[Stretch, ...]:
    """Return the parts of a straight run that are each of one cable, from the device on; of a run of one cable itself alone.

    A load draws in each part up to where it stands: at the end of a part where it stands behind it, not at all where it stands before it. Where none
    draws all stand at its start: there is no current along it, and the circuit has its loads.
    """
    if not mixed(circuit):
        return (Stretch(circuit, 0.0, None),)
    found: list[Stretch] = []
    of = cables(circuit.run)
    groups: list[tuple[tuple[Cable, str], list[Span]]] = []
    for span in circuit.run.spans:
        if not groups or groups[-1][0][1] != of[span.id][1]:
            groups.append((of[span.id], []))
        groups[-1][1].append(span)
    at = 0.0
    for k, ((cable, _), spans) in enumerate(groups):
        end = at + added(span.length or 0.0 for span in spans)
        loads = _along(circuit.loads, at, end, k == len(groups) - 1) or [replace(load, at=0.0) for load in circuit.loads]
        bare = tuple(replace(span, own_family=None, own_csa=None) for span in spans)
        own = replace(circuit, loads=tuple(loads), run=replace(circuit.run, cable=cable, spans=bare))
        found.append(Stretch(own, at, spans[0] if begins(spans[0]) else None))
        at = end
    return tuple(found)


def _along(loads: Iterable[Load], start: float, end: float, last: bool) -> list[Load]:
    """The loads as a part of a run from start to end [m] sees them."""
    found = []
    for load in loads:
        if load.at is None:
            found.append(load)
        elif load.at > start or start == 0:
            found.append(replace(load, at=None if load.at >= end and not last else min(load.at, end) - start))
    return found


def longest(circuit: Circuit) -> Circuit:
    """Return a circuit along the longest of its paths: what one figure says of the whole where a question is not asked of every end."""
    if plain(circuit) or not circuit.run.spans:
        return circuit
    return straight(circuit, max(paths(circuit.run), key=lambda path: path.length))


def let_go(spans: Sequence[Span], gone: str) -> dict[str, str | None]:
    """Return what `after` of other spans has to become when one goes, so that what went on from it goes on from where it left."""
    before = befores(spans)
    found: dict[str, str | None] = {}
    previous: str | None = None
    for span in spans:
        if span.id == gone:
            continue
        wanted = before[gone] if before[span.id] == gone else before[span.id]
        means = previous if span.after is None else None if span.after == BOARD else span.after
        if means != wanted:
            found[span.id] = None if wanted == previous else wanted or BOARD
        previous = span.id
    return found
