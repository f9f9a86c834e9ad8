"""Boards and what feeds them: finding parts, the order power flows in, and what makes a tree that is none."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable
from dataclasses import replace

from mellow_span.core.errors import InputError
from mellow_span.core.model.legs import befores, plain
from mellow_span.core.model.parts import Board, Circuit, Installation


def circuit_of(job: Installation, circuit_id: str) -> Circuit:
    """Return a circuit by identity. Raises InputError."""
    found = next((c for c in job.circuits if c.id == circuit_id), None)
    if found is None:
        raise InputError("circuit", circuit_id, "a circuit of this job")
    return found


def board_of(job: Installation, board_id: str) -> Board:
    """Return a board by identity. Raises InputError."""
    found = next((b for b in job.boards if b.id == board_id), None)
    if found is None:
        raise InputError("board", board_id, "a board of this job")
    return found


def feeder_of(job: Installation, board_id: str) -> Circuit | None:
    """Return the sub-main that feeds a board; None for a board at the origin."""
    return next((c for c in job.circuits if c.feeds == board_id), None)


def canonical(job: Installation) -> Installation:
    """Return the job with its circuits in the one order jobs are kept in: board by board, each board's own in their order."""
    places: dict[str, list[Circuit]] = {board.id: [] for board in job.boards}
    lost = [c for c in job.circuits if c.board not in places]
    for circuit in job.circuits:
        if circuit.board in places:
            places[circuit.board].append(circuit)
    order = tuple(c for own in places.values() for c in own) + tuple(lost)
    return job if order == job.circuits else replace(job, circuits=order)


def check_feeds(job: Installation, circuit: Circuit, board_id: str) -> None:
    """Raise InputError if a circuit cannot feed a board: another does already, or the board would feed itself. A job with stages is asked at each of
    them (`stages.check_stages`).
    """
    board = board_of(job, board_id)
    if job.stages:
        return
    other = next((c for c in job.circuits if c.feeds == board_id and c.id != circuit.id), None)
    if other is not None:
        allowed = f"a board that no other circuit feeds; this one is fed by {other.name or 'another circuit'}"
        raise InputError("feeds", board.name or board_id, allowed)
    feeders = {c.feeds: c for c in job.circuits if c.feeds}
    above, seen = circuit.board, {circuit.id}
    while above != board_id:
        feeder = feeders.get(above)
        if feeder is None or feeder.id in seen:
            return
        seen.add(feeder.id)
        above = feeder.board
    through = ", ".join(c.name or "a circuit" for c in job.circuits if c.id in seen and c.id != circuit.id)
    raise InputError(
        "feeds", board.name or board_id, f"another board: no board may feed itself, directly or through others{through and f' ({through})'}"
    )


def ordered(job: Installation) -> tuple[list[Circuit], tuple[str, ...]]:
    """Return the circuits in the order power flows, and the boards at the origin. Raises InputError for a tree that is no tree."""
    references(job)
    fed = {c.feeds for c in job.circuits if c.feeds}
    starting: dict[str, list[Circuit]] = defaultdict(list)
    for circuit in job.circuits:
        starting[circuit.board].append(circuit)
    roots = tuple(board.id for board in job.boards if board.id not in fed)
    order: list[Circuit] = []
    reached = list(roots)
    for board in reached:
        order += starting[board]
        reached += [c.feeds for c in starting[board] if c.feeds]
    if len(order) != len(job.circuits):
        known = {c.id for c in order}
        left = _names(c for c in job.circuits if c.feeds and c.id not in known)
        raise InputError(
            "circuit.feeds", left, "boards that trace back to the origin: no board may feed itself, directly or through others"
        )
    return order, roots


def references(job: Installation) -> None:
    """Raise InputError where a part names another that is not there, or two circuits feed one board."""
    boards, routes = {b.id for b in job.boards}, {b.id for b in job.routes}
    for circuit in job.circuits:
        if circuit.board not in boards:
            raise InputError(f"circuit.{circuit.id}.board", circuit.board, "a board of this job")
        if circuit.feeds and circuit.feeds not in boards:
            raise InputError(f"circuit.{circuit.id}.feeds", circuit.feeds, "a board of this job")
        for span in circuit.run.spans:
            if span.route is not None and span.route not in routes:
                raise InputError(f"span.{span.id}.route", span.route, "a route of this job")
        for load in circuit.loads:
            if load.alone is not None and load.alone not in boards:
                raise InputError(f"load.{load.id}.alone", load.alone, "a board of this job")
        if not plain(circuit):
            _boxes(circuit)
    twice = [board for board, n in Counter(c.feeds for c in job.circuits if c.feeds).items() if n > 1]
    if twice:
        raise InputError("circuit.feeds", _names(c for c in job.circuits if c.feeds == twice[0]), "one sub-main to each board")


def _boxes(circuit: Circuit) -> None:
    known = befores(circuit.run.spans)
    for load in circuit.loads:
        if load.span is not None and load.span not in known:
            raise InputError(f"load.{load.id}.span", load.span, "a span of its circuit")


def identities(job: Installation) -> list[tuple[str, str]]:
    """Return (kind, identity) of every part of a job that has one."""
    found = [("board", b.id) for b in job.boards] + [("route", b.id) for b in job.routes] + [("dismissal", d.id) for d in job.dismissals]
    found += [("stage", s.id) for s in job.stages]
    for circuit in job.circuits:
        found.append(("circuit", circuit.id))
        found += [("load", load.id) for load in circuit.loads] + [("span", span.id) for span in circuit.run.spans]
    return found


def _names(circuits: Iterable[Circuit]) -> str:
    return ", ".join(c.name or c.id for c in circuits)
