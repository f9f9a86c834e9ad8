"""A job with stages: at which one a question sees it, and all of them side by side."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from mellow_span.answers.given import Given
from mellow_span.answers.state import CircuitSummary, summary
from mellow_span.core.design.check import total_demand
from mellow_span.core.design.stages import AtStage, stage_shown, stages_of
from mellow_span.core.errors import InputError
from mellow_span.core.model.parts import Installation
from mellow_span.core.model.stages import at_stage, last_of, views

# Questions of the work of a day: at a stage that is named they leave out what was there before.
OF_A_DAY = frozenset(["/pulls", "/materials"])
# Questions and searches of the whole job, which see to its stages by themselves.
OF_ALL = frozenset(["/overview", "/stages", "/site", "copies", "growing"])
# Questions that are never asked of just any stage.
TO_BE_NAMED = frozenset(["/isolation/plan"])


@dataclass(slots=True)
class StageTold:
    """A stage beside the others: how each circuit stands that is there, what the intake draws [A], what comes and goes (by identity).

    short, not_known, close: what needs a person, as the attention list has it.
    """

    id: str
    name: str
    date: str
    demand: float | None
    short: int
    not_known: int
    close: int
    circuits: tuple[CircuitSummary, ...]
    comes: tuple[str, ...]
    goes: tuple[str, ...]


def stages_told(given: Given) -> list[StageTold]:
    """Return the stages of a job side by side, the first first; none for a job without."""
    staged = stages_of(given.inputs)
    if staged is None:
        return []
    found: list[StageTold] = []
    before: AtStage | None = None
    for one in staged.each:
        found.append(_told(one, before))
        before = one
    return found


def _told(one: AtStage, before: AtStage | None) -> StageTold:
    result = one.done.result
    demand = None if one.done.plan.refused else total_demand(one.done.plan)
    levels = [line.level for line in result.attention]
    there, was = _parts(one.job), _parts(before.job) if before else {}
    return StageTold(
        one.stage.id, one.stage.name, one.stage.date, demand.highest if demand else None, levels.count("short"), levels.count("not_known"),
        levels.count("close"), tuple(map(summary, result.circuits)), tuple(i for i in there if before and i not in was),
        tuple(i for i in was if i not in there),
    )  # fmt: skip


def _parts(job: Installation) -> dict[str, None]:
    """Boards, circuits and loads by identity, what stands inside another that is there as well."""
    found = [b.id for b in job.boards]
    for circuit in job.circuits:
        found += [circuit.id, *(x.id for x in circuit.loads)]
    return dict.fromkeys(found)


def seen(given: Given, about: str, part: str = "", stage: str = "") -> Given:
    """Return a job as a question sees it: at the stage that is named; else what is about a circuit at the stage that is hardest on it, what is about
    a board at the last it is there at, all else at the last. about: address or kind of the question; part: identity of the circuit or board.

    Raises InputError for a stage that the job does not have, and for none where it has to be named.
    """
    job = given.inputs
    if stage:
        return given.at(at_stage(job, stage, about in OF_A_DAY))
    if not job.stages or about in OF_ALL:
        return given
    if about in TO_BE_NAMED:
        # What feeds a place on the day is the whole point: no stage is taken for granted.
        raise InputError("stage", "none", "the stage the work is done at: " + ", ".join(s.name for s in job.stages))
    if any(c.id == part for c in job.circuits):
        return given.at(stage_shown(job, part))
    there = [now for now in views(job) if any(b.id == part for b in now.boards)]
    if not there and any(b.id == part for b in job.boards):
        raise InputError("board", part, "a board that is there at a stage")
    return given.at(there[-1] if there else last_of(job))


def part_of(about: Mapping[str, object]) -> str:
    """Return the circuit or board that a question is about, from what stands in its address and query; empty for none."""
    return str(about.get("circuit_id") or about.get("board_id") or about.get("id") or "")
