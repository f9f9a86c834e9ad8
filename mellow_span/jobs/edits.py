"""Applying an edit to a job: small changes, all or none, each kept in the history.

A change is {op, kind, id, parent, index, fields}. Values are checked by the core's own parser, so a refusal names the field, what was
given and what is allowed, whichever way the value comes in.
"""

from __future__ import annotations

import dataclasses
from dataclasses import dataclass
from typing import Any, Literal
from uuid import UUID

from django.db import models as db
from django.db import transaction

from mellow_span.core.errors import InputError
from mellow_span.core.model import parts as core
from mellow_span.core.model.parse import field_value
from mellow_span.core.rulesets import load as load_rules
from mellow_span.jobs import models

Op = Literal["set", "add", "remove", "move"]
PartKind = Literal["job", "supply", "board", "circuit", "load", "span", "bundle", "dismissal"]
MOST = {"board": 40, "circuit": 500, "load": 40, "span": 60, "bundle": 60, "dismissal": 500}


@dataclass(frozen=True, slots=True)
class Change:
    """One change of an edit. parent: the board of a circuit, the circuit of a load or span; index: place among its siblings."""

    op: Op
    kind: PartKind
    id: UUID
    fields: dict[str, Any]
    parent: UUID | None = None
    index: int | None = None


class Stale(Exception):
    """The edit was made on an older version of the job than the one stored."""


class Refused(Exception):
    """A change that cannot be made. at: which change of the edit; kind, id: its target; error: the field, given, allowed."""

    def __init__(self, at: int, change: Change, error: InputError) -> None:
        super().__init__(str(error))
        self.at, self.change, self.error = at, change, error


CORE: dict[str, Any] = {
    "supply": core.Supply, "board": core.Board, "circuit": core.Circuit, "load": core.Load, "span": core.Span,
    "bundle": core.Bundle, "dismissal": core.Dismissal,
}  # fmt: skip
ROWS: dict[str, Any] = {
    "board": models.Board, "circuit": models.Circuit, "load": models.Load, "span": models.Span,
    "bundle": models.Bundle, "dismissal": models.Dismissal,
}  # fmt: skip
TOP_LEVEL = ("board", "bundle", "dismissal")
VALUES: dict[str, Any] = {"device": core.Device, "cable": core.Cable, "readings": core.Readings}
SETTABLE = {
    kind: {f.name for f in dataclasses.fields(cls)} - {"id", "loads", "run", "spans"} | ({"cable"} if kind == "circuit" else set())
    for kind, cls in CORE.items()
}


def apply(job: models.Job, member: models.Member, edit_id: UUID, version: int, changes: list[Change]) -> bool:
    """Apply an edit to a locked job and write its history row; return False if this very edit was applied before.

    Raises Stale when version is not the job's, Refused for the first change that cannot be made; then nothing is changed.
    """
    if models.Edit.objects.filter(pk=edit_id, job=job).exists():
        return False
    if version != job.version:
        raise Stale
    with transaction.atomic(savepoint=False):
        written = [_apply_one(job, at, change) for at, change in enumerate(changes)]
        job.version += 1
        job.save()
        models.Edit.objects.create(id=edit_id, job=job, member=member, version=job.version, changes=written)
    return True


def _apply_one(job: models.Job, at: int, change: Change) -> dict[str, Any]:
    try:
        before, after = _DO[change.op](job, change)
    except InputError as error:
        raise Refused(at, change, error) from None
    return {"op": change.op, "kind": change.kind, "id": str(change.id), "before": before, "after": after}


def _set(job: models.Job, change: Change) -> tuple[Any, Any]:
    row = _target(job, change)
    values = _checked(job, change, row)
    before = {name: _stored(row, name) for name in values}
    _write(row, values)
    return before, {name: _stored(row, name) for name in values}


def _add(job: models.Job, change: Change) -> tuple[Any, Any]:
    if change.kind not in ROWS:
        raise InputError("kind", change.kind, ", ".join(ROWS))
    cls = ROWS[change.kind]
    siblings = _siblings(job, change.kind, change.parent)
    if len(siblings) >= MOST[change.kind]:
        raise InputError(change.kind, len(siblings) + 1, f"at most {MOST[change.kind]} of them")
    if cls.objects.filter(pk=change.id).exists():
        raise InputError("id", str(change.id), "an identity that is not used yet")
    row = cls(id=change.id, job=job, position=len(siblings), **_parentage(job, change))
    values = _checked(job, change, row)
    row.save()
    if isinstance(row, models.Circuit):
        models.Run.objects.create(job=job, circuit=row)
    _write(row, values)
    _place(cls, [*siblings, change.id], change.id, change.index)
    parent = str(change.parent) if change.parent else None
    return None, {"parent": parent, "index": change.index, **{name: _stored(row, name) for name in values}}


def _remove(job: models.Job, change: Change) -> tuple[Any, Any]:
    row = _target(job, change)
    if not isinstance(row, models.Part):
        raise InputError("kind", change.kind, ", ".join(ROWS))
    if change.kind == "board" and models.Board.objects.filter(job=job).count() == 1:
        raise InputError("board", str(change.id), "a job keeps at least one board")
    before = _whole(row, change.kind)
    row.delete()
    return before, None


def _move(job: models.Job, change: Change) -> tuple[Any, Any]:
    row = _target(job, change)
    if not isinstance(row, models.Part):
        raise InputError("kind", change.kind, ", ".join(ROWS))
    if change.kind == "circuit" and change.parent:
        row.board = _board(job, change.parent)  # type: ignore[attr-defined]
        row.save()
    siblings = _siblings(job, change.kind, _parent_id(row))
    before = {"index": siblings.index(change.id)}
    _place(type(row), siblings, change.id, change.index)
    return before, {"index": change.index}


_DO = {"set": _set, "add": _add, "remove": _remove, "move": _move}


def _target(job: models.Job, change: Change) -> Any:
    if change.kind == "job":
        return job
    if change.kind == "supply":
        return models.Supply.objects.get(job=job)
    row = ROWS[change.kind].objects.filter(job=job, pk=change.id).first()
    if row is None:
        raise InputError("id", str(change.id), f"a {change.kind} of this job")
    return row


def _checked(job: models.Job, change: Change, row: Any) -> dict[str, Any]:
    """Check each field with the core's parser; a device, cable or set of readings is laid over the one there."""
    found: dict[str, Any] = {}
    for name, value in change.fields.items():
        if change.kind == "job":
            found[name] = _job_field(name, value)
        elif name not in SETTABLE[change.kind]:
            raise InputError(name, value, "one of " + ", ".join(sorted(SETTABLE[change.kind])))
        elif name in VALUES:
            found[name] = _value_object(job, name, value, {} if row._state.adding else _stored(row, name))
        elif name in ("board", "feeds"):
            found[name] = _board_choice(job, row, name, value)
        elif name == "bundle":
            found[name] = _bundle_choice(job, value)
        else:
            found[name] = field_value(CORE[change.kind], name, value)
            _known_choice(job, CORE[change.kind], name, found[name])
    return found


def _job_field(name: str, value: Any) -> Any:
    if name not in ("name", "note"):
        raise InputError(name, value, "one of name, note")
    if not isinstance(value, str) or not value.strip() or len(value) > 200 or "\x00" in value:
        raise InputError(name, value, "text of 1 to 200 characters")
    return value.strip()


def _value_object(job: models.Job, name: str, given: Any, there: dict[str, Any]) -> dict[str, Any]:
    if not isinstance(given, dict):
        raise InputError(name, given, "an object")
    known = {f.name for f in dataclasses.fields(VALUES[name])}
    for part in given:
        if part not in known:
            raise InputError(f"{name}.{part}", given[part], "one of " + ", ".join(sorted(known)))
    checked = {part: field_value(VALUES[name], part, value, name) for part, value in given.items()}
    if name == "cable":
        rules = load_rules(job.ruleset)
        if checked.get("family") not in (None, *rules.families):
            raise InputError("cable.family", checked["family"], "one of " + ", ".join(rules.families))
    return {**there, **checked}


def _known_choice(job: models.Job, cls: Any, name: str, value: Any) -> None:
    """Refuse a place or a way of laying that the job's rule set does not have."""
    section = next(f for f in dataclasses.fields(cls) if f.name == name).metadata.get("choices")
    if not section or value is None:
        return
    rules = load_rules(job.ruleset)
    sections: dict[str, Any] = {"place": rules.places, "laid": rules.laid, "family": rules.families}
    known = sections[section]
    if value not in known:
        raise InputError(name, value, "one of " + ", ".join(known))


def _board(job: models.Job, value: Any) -> models.Board:
    try:
        return models.Board.objects.get(job=job, pk=UUID(str(value)))
    except (models.Board.DoesNotExist, ValueError):
        raise InputError("board", str(value), "a board of this job") from None


def _board_choice(job: models.Job, row: models.Circuit, name: str, value: Any) -> models.Board | None:
    if name != "feeds":
        return _board(job, value)
    if value is None:
        return None
    board = _board(job, value)
    other = models.Circuit.objects.filter(job=job, feeds=board).exclude(pk=row.pk).first()
    if other is not None:
        raise InputError(name, board.name, f"a board that no other circuit feeds; this one is fed by {other.name or 'another circuit'}")
    return board


def _bundle_choice(job: models.Job, value: Any) -> models.Bundle | None:
    if value is None:
        return None
    try:
        return models.Bundle.objects.get(job=job, pk=UUID(str(value)))
    except (models.Bundle.DoesNotExist, ValueError):
        raise InputError("bundle", str(value), "a bundle of this job") from None


def _stored(row: Any, name: str) -> Any:
    if name == "cable":
        return dict(models.Run.objects.get(circuit=row).cable)
    value = getattr(row, name)
    return str(value.pk) if isinstance(value, db.Model) else value


def _write(row: Any, values: dict[str, Any]) -> None:
    own = {k: v for k, v in values.items() if k != "cable"}
    for name, value in own.items():
        setattr(row, name, value)
    if own:
        row.save()
    if "cable" in values:
        models.Run.objects.filter(circuit=row).update(cable=values["cable"])


def _parentage(job: models.Job, change: Change) -> dict[str, Any]:
    if change.kind in TOP_LEVEL:
        return {}
    if change.kind == "circuit":
        return {"board": _board(job, change.parent)}
    circuit = models.Circuit.objects.filter(job=job, pk=change.parent).first() if change.parent else None
    if circuit is None:
        raise InputError("parent", str(change.parent), "a circuit of this job")
    return {"circuit": circuit} if change.kind == "load" else {"run": circuit.run}


def _parent_id(row: Any) -> UUID | None:
    if isinstance(row, models.Circuit):
        return row.board_id
    if isinstance(row, models.Load):
        return row.circuit_id
    return row.run.circuit_id if isinstance(row, models.Span) else None


def _siblings(job: models.Job, kind: str, parent: UUID | None) -> list[UUID]:
    field = {"circuit": "board", "load": "circuit", "span": "run__circuit"}.get(kind)
    rows: Any = ROWS[kind].objects.filter(job=job)
    if field:
        rows = rows.filter(**{field: parent})
    return list(rows.order_by("position", "id").values_list("pk", flat=True))


def _place(cls: Any, siblings: list[UUID], which: UUID, index: int | None) -> None:
    """Put one among its siblings and number them again; no index is the end."""
    order = [s for s in siblings if s != which]
    order.insert(len(order) if index is None else max(0, min(index, len(order))), which)
    rows = {row.pk: row for row in cls.objects.filter(pk__in=order)}
    moved = []
    for position, pk in enumerate(order):
        if rows[pk].position != position:
            rows[pk].position = position
            moved.append(rows[pk])
    cls.objects.bulk_update(moved, ["position"])


def _whole(row: Any, kind: str) -> dict[str, Any]:
    """Everything needed to put a removed part back, its own parts included."""
    names = sorted(SETTABLE[kind])
    found: dict[str, Any] = {name: _stored(row, name) for name in names}
    found["index"] = row.position
    if isinstance(row, models.Circuit):
        found["loads"] = [{"id": str(p.pk), **_whole(p, "load")} for p in row.loads.all()]
        found["spans"] = [{"id": str(p.pk), **_whole(p, "span")} for p in row.run.spans.all()]
    if isinstance(row, models.Bundle):
        found["spans"] = [str(pk) for pk in row.spans.values_list("pk", flat=True)]
    if isinstance(row, models.Board):
        found["circuits"] = [{"id": str(p.pk), **_whole(p, "circuit")} for p in row.circuits.all()]
    parent = _parent_id(row)
    return {**found, "parent": str(parent) if parent else None}
