"""Stages of a job: what comes on one day and what goes on it; and the whole job as it stands at each.

A part is there from the stage it comes at until before the one it goes at; without either it is there throughout. What stands inside another goes
with it, and a sub-main is there while the board is that it feeds. A job without stages is as it is.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import Any, Literal

from mellow_span.core.cache import Latest
from mellow_span.core.errors import InputError
from mellow_span.core.model.numbers import all_kept
from mellow_span.core.model.parts import Circuit, Installation
from mellow_span.core.model.tree import check_feeds

# Jobs asked about last, each at its stages: an object of its own to each, so that what was worked out of it is found again.
_AT: Latest[Installation, dict[tuple[str, bool], Installation]] = Latest(4)
NEVER: dict[str, Any] = {"from_stage": None, "until_stage": None}


def at_stage(job: Installation, stage: str, fresh: bool = False) -> Installation:
    """Return the job as it stands at a stage, itself without stages. fresh: what was there at the stage before it counts as existing, so that what is
    left is the work of that day. Raises InputError for a stage the job does not have.

    >>> from mellow_span.core.model.parts import Board, Stage
    >>> job = Installation(stages=(Stage(id="now"), Stage(id="later")), boards=(Board(id="a"), Board(id="b", from_stage="later")))
    >>> [b.id for b in at_stage(job, "now").boards], [b.id for b in at_stage(job, "later").boards]
    (['a'], ['a', 'b'])
    """
    kept = _AT.get(job)
    if kept is None:
        kept = {}
        _AT.put(job, kept)
    if (stage, fresh) not in kept:
        kept[(stage, fresh)] = _work_of(job, stage) if fresh else _at(job, _place(job, stage))
    return kept[(stage, fresh)]


def last_of(job: Installation) -> Installation:
    """Return the job as it stands at its last stage, which is what cables are sized for; the very same where it has none."""
    return at_stage(job, job.stages[-1].id) if job.stages else job


def views(job: Installation) -> tuple[Installation, ...]:
    """Return the job at each of its stages; the job itself where it has none."""
    return tuple(at_stage(job, stage.id) for stage in job.stages) or (job,)


def naming(job: Installation, stage: str) -> list[tuple[Literal["board", "circuit", "load"], Any]]:
    """Return the parts that come or go at a stage, with their kind."""
    return [(kind, part) for kind, part in _staged(job) if stage in (part.from_stage, part.until_stage)]


def check_stages(job: Installation) -> None:
    """Raise InputError for a part that goes before it comes, or a board that two sub-mains feed at one stage, or that feeds itself then."""
    order = {stage.id: at for at, stage in enumerate(job.stages)}
    for kind, part in _staged(job):
        for name in NEVER:
            if (named := getattr(part, name)) is not None and named not in order:
                raise InputError(f"{kind}.{part.id}.{name}", named, "a stage of this job")
        if part.from_stage is not None and part.until_stage is not None and order[part.until_stage] <= order[part.from_stage]:
            until = job.stages[order[part.until_stage]].name
            raise InputError(f"{kind}.{part.id}.until_stage", until, "a stage after the one it is installed at")
    for stage in job.stages:
        now = at_stage(job, stage.id)
        for circuit in now.circuits:
            if circuit.feeds is not None:
                try:
                    check_feeds(now, circuit, circuit.feeds)
                except InputError as error:
                    raise InputError(
                        f"circuit.{circuit.id}.feeds", error.given, f"{error.allowed}; so it would be at {stage.name}"
                    ) from None


def _staged(job: Installation) -> Iterable[tuple[Literal["board", "circuit", "load"], Any]]:
    yield from (("board", b) for b in job.boards)
    for circuit in job.circuits:
        yield "circuit", circuit
        yield from (("load", load) for load in circuit.loads)


def _place(job: Installation, stage: str) -> int:
    found = next((at for at, one in enumerate(job.stages) if one.id == stage), None)
    if found is None:
        raise InputError(
            "stage", stage, "a stage of this job: " + ", ".join(s.name for s in job.stages) if job.stages else "none: it has no stages"
        )
    return found


def _at(job: Installation, at: int) -> Installation:
    order = {stage.id: place for place, stage in enumerate(job.stages)}

    def there(part: Any) -> bool:
        comes = order.get(part.from_stage, 0) if part.from_stage else 0
        goes = order.get(part.until_stage, len(order)) if part.until_stage else len(order)
        return comes <= at < goes

    boards = tuple(_plain(b) for b in job.boards if there(b))
    standing = {b.id for b in boards}
    circuits = tuple(
        _inside(c, [x for x in c.loads if there(x)], standing)
        for c in job.circuits
        if there(c) and c.board in standing and (c.feeds is None or c.feeds in standing)
    )
    return replace(all_kept(job), boards=boards, circuits=circuits, stages=())


def _inside(circuit: Circuit, loads: list[Any], boards: set[str]) -> Circuit:
    """A circuit with the loads that are there; the very same where nothing of it has a stage."""
    standing = tuple(_plain(x if x.alone is None or x.alone in boards else replace(x, alone=None)) for x in loads)
    same = len(standing) == len(circuit.loads) and all(a is b for a, b in zip(standing, circuit.loads, strict=True))
    found: Circuit = _plain(circuit if same else replace(circuit, loads=standing))
    return found


def _plain(part: Any) -> Any:
    return part if part.from_stage is None and part.until_stage is None else replace(part, **NEVER)


def _work_of(job: Installation, stage: str) -> Installation:
    at = _place(job, stage)
    now = at_stage(job, stage)
    if at == 0:
        return now
    before = {c.id for c in at_stage(job, job.stages[at - 1].id).circuits}
    circuits = tuple(replace(c, existing=True) if c.id in before and not c.existing else c for c in now.circuits)
    return replace(now, circuits=circuits)
