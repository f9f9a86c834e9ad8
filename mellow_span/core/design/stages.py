"""A job at each of its stages: every stage is a whole installation that is checked, and a circuit is shown at the one that is hardest on it."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import TypeVar

from mellow_span.core.design.check import Checked, check, work_out
from mellow_span.core.findings.results import Attention, BoardResult, Check, CircuitResult, InstallationResult, RouteResult, Verdict
from mellow_span.core.model.carried import Stage
from mellow_span.core.model.parts import Installation
from mellow_span.core.model.stages import at_stage

# A circuit that is there on no day: its board, or the board it feeds, comes and goes at other stages.
NEVER_THERE = "it is there at no stage: the board it starts from, or feeds, is there at others"
WORST: tuple[Verdict, ...] = ("meets", "close", "not_known", "short")
Place = TypeVar("Place", BoardResult, RouteResult)
LEVELS = ("short", "not_known", "close", "assumed", "confirm")


@dataclass(frozen=True, slots=True)
class AtStage:
    """A job worked out as it stands at a stage."""

    stage: Stage
    job: Installation
    done: Checked


@dataclass(frozen=True, slots=True)
class Staged:
    """A job at all its stages, the first first. ruling: of each circuit the place of the stage that it is shown at."""

    each: tuple[AtStage, ...]
    ruling: dict[str, int] = field(default_factory=dict)

    @property
    def last(self) -> AtStage:
        """The job at its last stage."""
        return self.each[-1]

    def at(self, circuit: str) -> AtStage:
        """Return the stage that a circuit is shown at: the last where it is there at none."""
        return self.each[self.ruling.get(circuit, len(self.each) - 1)]


def stages_of(job: Installation, keep: bool | frozenset[str] = False, beyond: bool | None = None) -> Staged | None:
    """Work a job out at each of its stages; None where it has none. keep, beyond: as `work_out`, which raises InputError."""
    if not job.stages:
        return None
    # The last is worked out last, so that it is what is remembered when more is asked.
    found = tuple(
        AtStage(stage, now, work_out(now, keep, reuse=True, beyond=beyond)) for stage in job.stages for now in (at_stage(job, stage.id),)
    )
    return Staged(found, _ruling(found))


def stage_shown(job: Installation, circuit: str) -> Installation:
    """Return the job at the stage that a circuit is shown at."""
    staged = stages_of(job)
    return staged.at(circuit).job if staged else job


def _ruling(each: tuple[AtStage, ...]) -> dict[str, int]:
    """The stage each circuit is worst at; where it stands alike at several, the last of them."""
    found: dict[str, tuple[int, int]] = {}
    for at, one in enumerate(each):
        for result in one.done.result.circuits:
            found[result.id] = max(found.get(result.id, (-1, 0)), (WORST.index(result.verdict), at))
    return {name: at for name, (_, at) in found.items()}


def checked(job: Installation, keep: bool | frozenset[str] = False) -> InstallationResult:
    """Check a job, at each of its stages where it has any; see `shown`."""
    staged = stages_of(job, keep)
    return shown(job, staged) if staged else check(job, keep, reuse=True)


def shown(job: Installation, staged: Staged) -> InstallationResult:
    """Return the answer for a job with stages: each circuit and place as it is at the stage that is hardest on it, what needs a person at any.

    Circuits are in the order of the job; the words of one that is shown at another stage than the last begin by its name.
    """
    each = [one.done.result for one in staged.each]
    boards: dict[str, BoardResult] = {}
    routes: dict[str, RouteResult] = {}
    for result in each:
        for board in result.boards:
            boards[board.id] = _harder(boards.get(board.id), board)
        for route in result.routes:
            routes[route.id] = _harder(routes.get(route.id), route)
    return replace(
        staged.last.done.result, circuits=_circuits(job, staged), attention=_attention(job, staged),
        intake=max(enumerate(r.intake for r in each), key=lambda one: (_worst(one[1]), one[0]))[1],
        boards=tuple(boards[b.id] for b in job.boards if b.id in boards), routes=tuple(routes[r.id] for r in job.routes if r.id in routes),
    )  # fmt: skip


def _harder(before: Place | None, now: Place) -> Place:
    return before if before is not None and _worst(before.checks) > _worst(now.checks) else now


def _worst(checks: tuple[Check, ...]) -> int:
    return max((WORST.index(one.verdict) for one in checks if one.decides), default=0)


def _circuits(job: Installation, staged: Staged) -> tuple[CircuitResult, ...]:
    by = [{c.id: c for c in one.done.result.circuits} for one in staged.each]
    found = []
    for circuit in job.circuits:
        at = staged.ruling.get(circuit.id)
        if at is None:
            found.append(CircuitResult(circuit.id, "not_known", "Not known yet", NEVER_THERE))
            continue
        result = by[at][circuit.id]
        told = staged.each[at].stage.name
        last = at == len(staged.each) - 1
        found.append(result if last or not result.reason else replace(result, reason=f"{told}: {result.reason}"))
    return tuple(found)


def _attention(job: Installation, staged: Staged) -> tuple[Attention, ...]:
    """What needs a person at any stage: each thing once, at the latest stage it is so at, named where that is not the last."""
    found: dict[tuple[object, ...], Attention] = {}
    for at, one in enumerate(reversed(staged.each)):
        for line in one.done.result.attention:
            key = (line.level, line.circuit, line.board, line.route, line.check, line.field)
            if key not in found:
                found[key] = replace(line, stage=one.stage.name) if at else line
    lines = [*found.values(), *_lost(job, staged), *_started(staged)]
    # What is only missing at intake and boards is told after what was assumed, as in a job without stages.
    return tuple(sorted(lines, key=lambda line: LEVELS.index(line.level) + (2.5 if line.level == "not_known" and not line.circuit else 0)))


def _lost(job: Installation, staged: Staged) -> list[Attention]:
    lost = [c for c in job.circuits if c.id not in staged.ruling]
    return [Attention("not_known", c.name or "Unnamed circuit", NEVER_THERE, c.id, None, f"circuit.{c.id}.from_stage") for c in lost]


def _started(staged: Staged) -> list[Attention]:
    """Boards that a sub-main feeds at some stage and that start at the intake at another: so it may be, and so it may have been forgotten."""
    roots = [set(one.done.plan.roots) for one in staged.each]
    fed = {c.feeds for one in staged.each for c in one.job.circuits if c.feeds}
    names = {b.id: b.name or "Unnamed board" for one in staged.each for b in one.job.boards}
    found = []
    for board in sorted(fed & set().union(*roots), key=lambda b: names[b]):
        when = ", ".join(one.stage.name for one, origin in zip(staged.each, roots, strict=True) if board in origin)
        text = f"no sub-main feeds it at {when}: worked out there as a board at the intake"
        found.append(Attention("confirm", names[board], text, None, None, f"board.{board}.from_stage", board))
    return found
