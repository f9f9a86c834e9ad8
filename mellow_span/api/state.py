"""A job as it goes out: its inputs with the figures, and what an edit clashed on."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from ninja import Schema

from mellow_span.answers.standing import Standing
from mellow_span.answers.state import CircuitSummary, figures_of
from mellow_span.core.findings.history import label, names_of, value_told
from mellow_span.core.findings.results import Attention, CircuitResult, Problem, Profile
from mellow_span.core.findings.steps import StepMark
from mellow_span.core.model import fields as of
from mellow_span.core.model.parts import Installation
from mellow_span.core.model.rebase import Clash
from mellow_span.jobs import models
from mellow_span.jobs.epochs import epoch, tag_of
from mellow_span.jobs.reads import stored
from mellow_span.jobs.writes import Clashed
from mellow_span.logbook.progress import JobProgress, progress_of


@dataclass(slots=True)
class JobState:
    """A job as it stands: its inputs, a summary of each circuit, the attention list, how each step of the work stands, and the open circuit in
    full, with its drawing. paths: of a run that branches, the drawing of the path to each end; profile is the one that stands worst. stage: the one of
    the job that it is shown at, where that is not the last.

    tag: changes with whatever is shown here; its ETag is made of it. epoch: the history that its version belongs to, another one after a backup was
    put back, put_back: to when, empty where none was. cells: grows when the firm reads a cell of the tables. landed: the version that the edit
    this answers made; the job may be further on.
    trouble: why the job cannot be worked out; unfit: stored values this version does not take.
    """

    id: str
    version: int
    tag: str
    epoch: str
    put_back: str
    cells: int
    landed: int | None
    edition: str
    installation: Installation
    summaries: tuple[CircuitSummary, ...]
    attention: tuple[Attention, ...]
    steps: tuple[StepMark, ...]
    detail: CircuitResult | None
    profile: Profile | None
    paths: tuple[Profile, ...]
    trouble: str
    stage: str
    unfit: tuple[Problem, ...]


@dataclass(slots=True)
class ClashPoint:
    """One point on which two edits cannot both stand: the part and field, what it was, what each made of it, and who did when.

    change: which change of the edit it is about; why: value (both set it), gone (the part was removed), changed (removed here, changed
    there), place (both moved it). *_told: the values in words.
    """

    change: int
    why: Literal["value", "gone", "changed", "place"]
    kind: str
    id: str
    name: str
    field: str
    label: str
    base_told: str
    mine_told: str
    theirs_told: str
    by: str
    at: str


@dataclass(slots=True)
class ClashAnswer:
    """The answer to an edit that cannot be merged: every point, and the job as it stands. Nothing was changed."""

    message: str
    clashes: tuple[ClashPoint, ...]
    state: JobState


class JobLine(Schema):
    """A job in the list. by: whoever made its last edit; removed: since when it is in the bin; trouble: why it cannot be worked out.

    issued, on_site, tested: how far it is, as `logbook.progress.JobProgress`.
    """

    id: UUID
    name: str
    client: str
    place: str
    version: int
    changed: datetime
    by: str
    archived: bool
    removed: datetime | None
    circuits: int
    short: int
    not_known: int
    close: int
    trouble: str
    issued: int
    on_site: bool
    tested: int


def line_of(job: models.Job, reached: JobProgress | None = None) -> JobLine:
    """Return the line of a job from what was counted with its version. reached: how far it is, where that is known already."""
    reached = reached or progress_of([job.pk])[job.pk]
    return JobLine(
        id=job.pk, name=job.name, client=job.client, place=job.place, version=job.version, changed=job.changed,
        by=getattr(job, "last_by", None) or "", archived=job.archived, removed=job.removed, circuits=job.circuits, short=job.short,
        not_known=job.not_known, close=job.close, trouble=job.trouble, issued=reached.issued, on_site=reached.on_site, tested=reached.tested,
    )  # fmt: skip


def state_of(job: models.Job, standing: Standing, focus: str | None, landed: int | None = None) -> JobState:
    """Return the state of a job from how it stands; the working is there for the circuit in focus."""
    # What is in a pack is not sent with each answer: the page has the rules that it makes.
    inputs = replace(standing.installation, packs=()) if standing.installation.packs else standing.installation
    now = epoch()
    back = now.put_back.isoformat() if now.put_back else ""
    head = (str(job.pk), job.version, tag_of(job, now), str(now.mark), back, job.cells, landed)
    f = figures_of(standing, focus)
    figures = (f.summaries, f.attention, f.steps, f.detail, f.profile, f.paths, f.trouble)
    return JobState(*head, f.edition, inputs, *figures, f.stage, stored(job).unfit)


def clash_answer(job: models.Job, clashed: Clashed, focus: str | None) -> ClashAnswer:
    """Return what an edit clashed on, worded."""
    inputs = clashed.standing.installation
    names = names_of(inputs)
    points = []
    for clash, edit in clashed.clashes:
        plain = clash.field in of.field_names(clash.kind)

        def worded(value: Any, plain: bool = plain, kind: str = clash.kind, name: str = clash.field) -> str:
            return value_told(kind, name, value, names) if plain else ""

        def beside(clash: Clash, which: int) -> str:
            """With what it belongs together, as it was and as they made it: that stands whichever is chosen."""
            if clash.beside is None:
                return ""
            name = clash.beside[0]
            return f", with {label(clash.kind, name)} {value_told(clash.kind, name, clash.beside[which], names)}"

        points.append(
            ClashPoint(
                clash.at, clash.why, clash.kind, clash.id, clash.name, clash.field, label(clash.kind, clash.field) if plain else clash.field,
                worded(clash.base) + beside(clash, 1), worded(clash.mine) + beside(clash, 2), worded(clash.theirs) + beside(clash, 2),
                edit.member.name if edit and edit.member else "", edit.at.isoformat() if edit else "",
            )
        )  # fmt: skip
    return ClashAnswer(
        "Someone else has changed this; nothing has been overwritten.", tuple(points), state_of(job, clashed.standing, focus)
    )
