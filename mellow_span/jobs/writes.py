"""From the core's value to the tables: the difference between two values of a job as rows, and each edit as a version with its history."""

from __future__ import annotations

import dataclasses
import uuid
from collections.abc import Collection, Iterable, Mapping, Sequence
from typing import Any
from uuid import UUID

from django.db import IntegrityError, transaction

from mellow_span.answers.standing import Standing, stand
from mellow_span.core.errors import InputError
from mellow_span.core.model import parts as core
from mellow_span.core.model.changes import Applied, Change, apply, as_data, restore
from mellow_span.core.model.difference import difference
from mellow_span.core.model.rebase import Clash, rebase
from mellow_span.core.model.stages import NEVER
from mellow_span.core.model.tree import canonical
from mellow_span.core.rulesets.packs import split
from mellow_span.core.rulesets.readings import rules_of
from mellow_span.jobs import history, models, packs
from mellow_span.jobs.books import in_its_book
from mellow_span.jobs.cells import adopt, cells_of_firm
from mellow_span.jobs.numbering import add_numbers
from mellow_span.jobs.reads import (
    BOARD_FIELDS,
    CIRCUIT_FIELDS,
    DISMISSAL_FIELDS,
    LOAD_FIELDS,
    ROUTE_FIELDS,
    SPAN_FIELDS,
    STAGE_FIELDS,
    SUPPLY_FIELDS,
    installation,
    remember,
    written,
)

NAMELESS = "Unnamed job"


class Clashed(Exception):
    """An edit made on an older version cannot be merged. clashes: each point, with the edit of theirs it clashes with."""

    def __init__(self, clashes: Sequence[tuple[Clash, models.Edit | None]], standing: Standing) -> None:
        super().__init__(f"{len(clashes)} clashes")
        self.clashes, self.standing = clashes, standing


@dataclasses.dataclass(frozen=True, slots=True)
class Saved:
    """A job after an edit: how it stands, and the version that very edit made; the job may be further on when it is sent again."""

    standing: Standing
    landed: int


# Edits ----------------------------------------------------------------------------------------------------------------


@dataclasses.dataclass(frozen=True, slots=True)
class Pen:
    """Who makes an edit on which job, locked, under which identity; keep: circuits whose working is wanted in the answer."""

    job: models.Job
    member: models.Member
    edit_id: UUID
    keep: frozenset[str] = frozenset()


def save(pen: Pen, base: int, seen: frozenset[int], changes: Sequence[Change]) -> Saved:
    """Make changes that were asked for on version `base` and, after it, on the person's own versions `seen`.

    Sent twice, it is made once. Raises Clashed where others changed the same since; Refused naming the change; then nothing is changed.
    """
    job = pen.job
    before = _sent_before(pen)
    if before is not None:
        return before
    if base > job.version:
        raise InputError("version", base, f"at most {job.version}, the version of the job")
    now = installation(job)
    theirs, rows = history.since(job, base, seen)
    rebased = rebase(now, changes, theirs)
    if rebased.clashes:
        raise Clashed([(clash, rows[clash.by]) for clash in rebased.clashes], stand(now, pen.keep))
    value, applied = apply(now, rebased.changes, rules_of(now).choices)
    value = in_its_book(job.firm_id, now, value)
    return _commit(pen, models.Edit(), now, value, applied)


def play_back(pen: Pen, again: bool) -> Saved:
    """Take back the person's last edit, or with `again` do again what they took back last.

    What others changed since stays. Raises Clashed where it cannot, InputError where there is nothing to take back.
    """
    job = pen.job
    before = _sent_before(pen)
    if before is not None:
        return before
    now = installation(job)
    target = history.last_of(job, pen.member, again)
    changes, theirs = history.backwards(job, now, target)
    rebased = rebase(now, changes, theirs)
    if rebased.clashes:
        raise Clashed([(clash, history.author(job, target, clash)) for clash in rebased.clashes], stand(now, pen.keep))
    value, applied = restore(now, rebased.changes)
    value = in_its_book(job.firm_id, now, value)
    return _commit(pen, models.Edit(undoes=target), now, value, applied)


def go_back(pen: Pen, base: int, to: int) -> Saved:
    """Make the job again what it was at an earlier version, as a new edit.

    Raises InputError where it has changed since the version the person saw: going back would take others' edits away unseen.
    """
    job = pen.job
    before = _sent_before(pen)
    if before is not None:
        return before
    if base != job.version:
        raise InputError("version", base, f"{job.version}: the job was changed meanwhile, look at it first")
    now = installation(job)
    then = in_its_book(job.firm_id, now, history.at_version(job, now, to))
    return _commit(pen, models.Edit(back_to=to), now, then, difference(now, then))


def _sent_before(pen: Pen) -> Saved | None:
    row = models.Edit.objects.filter(pk=pen.edit_id).only("job_id", "version").first()
    if row is None:
        return None
    if row.job_id != pen.job.pk:
        raise InputError("edit_id", str(pen.edit_id), "an identity that is not used yet")
    return Saved(stand(installation(pen.job), pen.keep), row.version)


def _commit(pen: Pen, edit: models.Edit, before: core.Installation, after: core.Installation, applied: Sequence[Applied]) -> Saved:
    job, standing = pen.job, stand(after, pen.keep)
    try:
        with transaction.atomic():
            persist(job, before, after, written(applied))
            job.version += 1
            if after.cells != before.cells:
                job.cells += 1
            record_standing(job, standing)
            edit.pk, edit.job, edit.member = pen.edit_id, job, pen.member
            edit.version, edit.changes = job.version, as_data(applied)
            edit.save(force_insert=True)
    except IntegrityError:
        raise InputError("id", _made(applied), "an identity that is not used yet, here or in another job") from None
    transaction.on_commit(lambda: remember(job, after, applied))
    return Saved(standing, job.version)


def _made(applied: Sequence[Applied]) -> str:
    return ", ".join(one.id for one in applied if one.op == "add")


def record_standing(job: models.Job, standing: Standing) -> None:
    """Store how a job stands, with its name and note as its value has them."""
    value = standing.installation
    job.name, job.note, job.ruleset, job.premises = value.name or NAMELESS, value.note, value.ruleset, value.premises
    job.client, job.place = value.client, value.place
    job.circuits, job.trouble, job.counted = len(value.circuits), standing.trouble[:400], True
    verdicts = [c.verdict for c in standing.result.circuits] if standing.result else []
    job.short, job.not_known, job.close = (verdicts.count(v) for v in ("short", "not_known", "close"))
    job.save()


def count_all() -> int:
    """Count how every job stands that has no count yet, and return how many there were."""
    return len(count_again(models.Job.objects.filter(counted=False)))


def count_again(jobs: Iterable[models.Job]) -> list[models.Job]:
    """Return jobs with how they stand, counted anew where it is not: after a cell of the tables was read in the printed book."""
    found = []
    for job in jobs:
        if not job.counted:
            with transaction.atomic():
                # Nobody edits it meanwhile, and one that was counted by another in this moment is taken as it is.
                locked = models.Job.objects.select_for_update().filter(pk=job.pk).first()
                if locked is None:
                    # Deleted for good in this moment.
                    continue
                if not locked.counted:
                    record_standing(locked, stand(installation(locked)))
                job = locked
        found.append(job)
    return found


# Whole jobs -------------------------------------------------------------------------------------------------------------


def take_in(firm: models.Firm, value: core.Installation) -> models.Job:
    """Store a whole installation as a new job of a firm: identities are made anew, references follow; figured in the same transaction."""
    value = canonical(with_new_identities(value))
    if not value.name.strip():
        value = dataclasses.replace(value, name=NAMELESS)
    with transaction.atomic():
        book, _ = split(value.ruleset)
        adopt(firm, book, value.cells)
        packs.adopt(firm, value.packs)
        value = dataclasses.replace(value, cells=cells_of_firm(firm.pk, book), packs=packs.packs_named(firm.pk, value.ruleset))
        job = models.Job.objects.create(firm=firm, name=value.name, ruleset=value.ruleset, cells=len(value.cells))
        models.Supply.objects.create(job=job)
        persist(job, core.Installation(ruleset=value.ruleset), value)
        add_numbers(job, value.numbers)
        record_standing(job, stand(value))
    transaction.on_commit(lambda: remember(job, value))
    return job


def with_new_identities(job: core.Installation) -> core.Installation:
    """Return a job whose parts have new identities, with every reference among them carried over."""
    new: dict[str, str] = {}

    def fresh(old: str) -> str:
        return new.setdefault(old, str(uuid.uuid4()))

    boards = tuple(dataclasses.replace(b, id=fresh(f"board:{b.id}"), **_stages(b, fresh)) for b in job.boards)
    routes = tuple(dataclasses.replace(b, id=fresh(f"route:{b.id}")) for b in job.routes)
    stages = tuple(dataclasses.replace(s, id=fresh(f"stage:{s.id}")) for s in job.stages)
    circuits = tuple(_renewed(c, fresh) for c in job.circuits)
    dismissals = tuple(
        dataclasses.replace(d, id=str(uuid.uuid4()), key=_renewed_key(d.key, new)) for d in job.dismissals
    )  # fmt: skip
    # The number of a part that is gone is kept under an identity made anew, too.
    numbers = tuple(dataclasses.replace(t, part=fresh(f"{'board' if t.number.isalpha() else 'circuit'}:{t.part}")) for t in job.numbers)
    return dataclasses.replace(job, boards=boards, routes=routes, circuits=circuits, stages=stages, dismissals=dismissals, numbers=numbers)


def _renewed(circuit: core.Circuit, fresh: Any) -> core.Circuit:
    own = fresh(f"circuit:{circuit.id}")
    new = {s.id: str(uuid.uuid4()) for s in circuit.run.spans}
    spans = tuple(
        dataclasses.replace(s, id=new[s.id], route=fresh(f"route:{s.route}") if s.route else None, after=new.get(s.after or "", s.after))
        for s in circuit.run.spans
    )
    return dataclasses.replace(
        circuit,
        id=own,
        board=fresh(f"board:{circuit.board}"),
        feeds=fresh(f"board:{circuit.feeds}") if circuit.feeds else None,
        loads=tuple(
            dataclasses.replace(
                x,
                id=str(uuid.uuid4()),
                span=new.get(x.span or "", x.span),
                alone=fresh(f"board:{x.alone}") if x.alone else None,
                **_stages(x, fresh),
            )
            for x in circuit.loads
        ),
        run=dataclasses.replace(circuit.run, id=f"{own}-run", spans=spans),
        **_stages(circuit, fresh),
    )


def _stages(part: Any, fresh: Any) -> dict[str, Any]:
    """The stages that a part comes and goes at."""
    return {name: fresh(f"stage:{named}") for name in NEVER if (named := getattr(part, name))}


def _renewed_key(key: str, new: dict[str, str]) -> str:
    """The key of a dismissal ends in the identity of what the advice is about."""
    rule, _, subject = key.partition(":")
    renewed = next((new[f"{kind}:{subject}"] for kind in ("circuit", "board", "route") if f"{kind}:{subject}" in new), subject)
    return f"{rule}:{renewed}" if subject else key


# Rows ---------------------------------------------------------------------------------------------------------------------

Row = tuple[dict[str, Any], int]


def persist(
    job: models.Job, before: core.Installation, after: core.Installation, anew: Collection[tuple[str, str, str]] = frozenset()
) -> None:
    """Write what differs between two values of a job to its rows, and nothing else.

    anew: (kind, identity, column) of what is written even where it does not differ: a value that did not fit was read as its default, and
    entering that default mends the row.
    """
    columns: dict[str, set[str]] = {}
    for what, identity, name in anew:
        columns.setdefault("" if what == "supply" else identity, set()).add(name)
    if before.supply != after.supply or "" in columns:
        models.Supply.objects.filter(job=job).update(**_columns(after.supply, SUPPLY_FIELDS))
    for kind, names, attribute in (
        (models.Board, BOARD_FIELDS, "boards"),
        (models.Route, ROUTE_FIELDS, "routes"),
        (models.Stage, STAGE_FIELDS, "stages"),
        (models.Dismissal, DISMISSAL_FIELDS, "dismissals"),
    ):
        _write(job, kind, _listed(getattr(before, attribute), names), _listed(getattr(after, attribute), names), columns, remove=False)
    old, new = _circuit_rows(before, after, columns), _circuit_rows(after, before, columns)
    let_go = [i for i, (row, _) in old.items() if row["feeds_id"] and (i not in new or new[i][0]["feeds_id"] != row["feeds_id"])]
    if let_go:
        # One board has one feeder: all that change are let go before any is set.
        models.Circuit.objects.filter(job=job, pk__in=let_go).update(feeds=None)
        old = {i: ({**row, "feeds_id": None} if i in let_go else row, at) for i, (row, at) in old.items()}
    _write(job, models.Circuit, old, new, columns)
    _write(job, models.Run, *_inner_rows(before, after, _run_rows, columns), columns)
    _write(job, models.Load, *_inner_rows(before, after, _load_rows, columns), columns)
    _write(job, models.Span, *_inner_rows(before, after, _span_rows, columns), columns)
    for kind, attribute in ((models.Board, "boards"), (models.Route, "routes"), (models.Stage, "stages"), (models.Dismissal, "dismissals")):
        gone = {p.id for p in getattr(before, attribute)} - {p.id for p in getattr(after, attribute)}
        if gone:
            kind.objects.filter(job=job, pk__in=gone).delete()


def _write(job: models.Job, kind: Any, old: dict[str, Row], new: dict[str, Row], anew: Mapping[str, set[str]], remove: bool = True) -> None:
    """Bring the rows of one kind from what they hold to what they should: (columns, position) by identity."""
    gone = [i for i in old if i not in new]
    if gone and remove:
        kind.objects.filter(job=job, pk__in=gone).delete()
    moved = []
    for identity, (columns, position) in new.items():
        if identity not in old:
            continue
        had, was_at = old[identity]
        always = anew.get(identity, ())
        changed = {name: value for name, value in columns.items() if had[name] != value or name in always}
        if changed:
            kind.objects.filter(job=job, pk=identity).update(**changed)
        if position != was_at:
            moved.append(kind(pk=identity, position=position))
    if moved:
        kind.objects.bulk_update(moved, ["position"], batch_size=500)
    made = [kind(id=i, job=job, position=at, **columns) for i, (columns, at) in new.items() if i not in old]
    if made:
        kind.objects.bulk_create(made, batch_size=500)


def _columns(part: Any, names: Iterable[str]) -> dict[str, Any]:
    return {name: getattr(part, name) for name in names}


def _listed(parts: Sequence[Any], names: tuple[str, ...]) -> dict[str, Row]:
    return {part.id: (_columns(part, names), at) for at, part in enumerate(parts)}


def _given(value: Any) -> dict[str, Any]:
    """The fields of a value that differ from its defaults."""
    return {f.name: getattr(value, f.name) for f in dataclasses.fields(value) if getattr(value, f.name) != f.default}


def _circuit_rows(job: core.Installation, other: core.Installation, anew: Mapping[str, set[str]]) -> dict[str, Row]:
    """The circuits that are not the very same in the other value, or stand elsewhere in it."""
    found: dict[str, Row] = {}
    elsewhere = _places(other)
    for identity, (circuit, at) in _places(job).items():
        there = elsewhere.get(identity)
        if there is not None and there[0] is circuit and there[1] == at and identity not in anew:
            continue
        columns = _columns(circuit, CIRCUIT_FIELDS) | {
            "board_id": circuit.board, "feeds_id": circuit.feeds, "device": _given(circuit.device),
        }  # fmt: skip
        found[identity] = (columns, at)
    return found


def _places(job: core.Installation) -> dict[str, tuple[core.Circuit, int]]:
    """Each circuit with its place among those of its board."""
    found: dict[str, tuple[core.Circuit, int]] = {}
    counts: dict[str, int] = {}
    for circuit in job.circuits:
        at = counts[circuit.board] = counts.get(circuit.board, -1) + 1
        found[circuit.id] = (circuit, at)
    return found


def _inner_rows(
    before: core.Installation, after: core.Installation, rows: Any, anew: Mapping[str, set[str]]
) -> tuple[dict[str, Row], dict[str, Row]]:
    """What a circuit has inside, before and after, of the circuits that are not the very same."""
    same = {c.id: c for c in before.circuits}
    changed = [c for c in after.circuits if same.get(c.id) is not c or (anew and any(i in anew for i in _inside(c)))]
    kept = {c.id for c in after.circuits}
    old = [same[c.id] for c in changed if c.id in same]
    # The rows of a circuit that went have gone with it.
    assert all(c.id in kept for c in old)
    return {k: v for c in old for k, v in rows(c).items()}, {k: v for c in changed for k, v in rows(c).items()}


def _inside(circuit: core.Circuit) -> list[str]:
    return [circuit.id, *(x.id for x in circuit.loads), *(s.id for s in circuit.run.spans)]


def _run_rows(circuit: core.Circuit) -> dict[str, Row]:
    return {circuit.id: ({"circuit_id": circuit.id, "cable": _given(circuit.run.cable)}, 0)}


def _load_rows(circuit: core.Circuit) -> dict[str, Row]:
    return {x.id: ({"circuit_id": circuit.id, **_columns(x, LOAD_FIELDS)}, at) for at, x in enumerate(circuit.loads)}


def _span_rows(circuit: core.Circuit) -> dict[str, Row]:
    spans = enumerate(circuit.run.spans)
    return {s.id: ({"run_id": circuit.id, "route_id": s.route, **_columns(s, SPAN_FIELDS)}, at) for at, s in spans}
