"""How large a job may be: the same by an edit, from a file and on the command line, so that no job is made that cannot be worked out in time."""

from __future__ import annotations

from mellow_span.core.adding import added
from mellow_span.core.errors import InputError
from mellow_span.core.model.parts import Installation
from mellow_span.core.model.stages import views

# The most parts of a kind beside each other: boards, routes and dismissals of a job, circuits of a board, loads and spans of a circuit.
MOST = {"board": 60, "circuit": 500, "load": 40, "span": 60, "route": 200, "dismissal": 500, "stage": 8}
# The most of a kind in a whole job, and the most sub-mains one after the other.
IN_ALL = {"board": 60, "circuit": 500, "span": 2000, "load": 2000, "route": 200}
DEEPEST = 10
NAMES = {"board": "boards", "circuit": "circuits", "span": "spans", "load": "loads", "route": "routes"}


def sizes(job: Installation) -> dict[str, int]:
    """Return how many parts of each kind a job has in all.

    >>> from mellow_span.core.model.parts import Board
    >>> sizes(Installation(boards=(Board(id="b"),)))["board"]
    1
    """
    return {
        "board": len(job.boards),
        "circuit": len(job.circuits),
        "span": added(len(c.run.spans) for c in job.circuits),
        "load": added(len(c.loads) for c in job.circuits),
        "route": len(job.routes),
    }


def depth(job: Installation) -> int:
    """Return how many sub-mains lie one after the other on the longest way from the origin; a circle counts as too deep."""
    feeders = {c.feeds: c for c in job.circuits if c.feeds}
    deepest = 0
    for board in feeders:
        steps, above = 0, board
        while (feeder := feeders.get(above)) is not None and steps <= DEEPEST:
            steps, above = steps + 1, feeder.board
        deepest = max(deepest, steps)
    return deepest


def _deepest(job: Installation) -> int:
    """The depth of a job at the stage it is deepest at."""
    return max(map(depth, views(job)))


def hold(job: Installation, before: Installation | None = None, place: str = "") -> None:
    """Raise InputError, naming the kind, for a job that is larger than allowed. before: the job an edit was made to; what was too large
    already may stay so, or become smaller. place: what stands before the name of a kind where a file is read.
    """
    were = sizes(before) if before else {}
    for kind, count in sizes(job).items():
        if count > max(IN_ALL[kind], were.get(kind, 0)):
            raise InputError(f"{place}{NAMES[kind]}", count, f"at most {IN_ALL[kind]} {NAMES[kind]} in a job")
    if (found := _deepest(job)) > max(DEEPEST, _deepest(before) if before else 0):
        raise InputError(f"{place}circuits.feeds" if place else "feeds", found, f"at most {DEEPEST} sub-mains one after the other")
