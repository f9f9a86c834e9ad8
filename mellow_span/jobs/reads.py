"""From the tables to the core's model: one query for each kind of part, whatever the size of the job.

A job is loaded for every answer, so each query is compiled by the ORM once and then only run.
"""

from __future__ import annotations

import contextlib
import dataclasses
import json
from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator, Sequence
from functools import cache
from typing import Any, TypeVar, cast
from uuid import UUID

from django.db import connection, transaction

from mellow_span.core.cache import Cache
from mellow_span.core.errors import InputError
from mellow_span.core.findings.results import Problem
from mellow_span.core.model import fields as of
from mellow_span.core.model import parts as core
from mellow_span.core.model.changes import Applied, Change, restore
from mellow_span.core.model.difference import parts
from mellow_span.core.model.parse import field_value, hints, parse
from mellow_span.core.model.tree import canonical
from mellow_span.core.rulesets.packs import split
from mellow_span.jobs import models
from mellow_span.jobs.cells import cells_of_firm
from mellow_span.jobs.packs import packs_named


@dataclasses.dataclass(frozen=True, slots=True)
class Stored:
    """A version of a job as it is stored. unfit: values that this version of the product does not take, by part and field."""

    installation: core.Installation
    unfit: tuple[Problem, ...] = ()


T = TypeVar("T")
Row = tuple[Any, ...]
SUPPLY_FIELDS = tuple(f.name for f in dataclasses.fields(core.Supply))
ANY_JOB = UUID(int=0)
# Versions of jobs kept in a worker: a few dozen are worth their memory, hundreds are not.
_VERSIONS: Cache[tuple[UUID, int, int, int], Stored] = Cache(48)


def _fields(cls: Any, *leave: str) -> tuple[str, ...]:
    return tuple(f.name for f in dataclasses.fields(cls) if f.name not in ("id", *leave))


BOARD_FIELDS = _fields(core.Board)
CIRCUIT_FIELDS = _fields(core.Circuit, "board", "feeds", "device", "loads", "run")
LOAD_FIELDS = _fields(core.Load)
SPAN_FIELDS = _fields(core.Span, "route")
ROUTE_FIELDS = _fields(core.Route)
STAGE_FIELDS = _fields(core.Stage)
DISMISSAL_FIELDS = _fields(core.Dismissal)
# What else a row brings, before its own fields.
CIRCUIT_HEAD = ("id", "board_id", "feeds_id", "device", "run__cable")
SPAN_HEAD = ("id", "run__circuit_id", "route_id")
LOAD_HEAD = ("id", "circuit_id")


@cache
def _statement(model: Any, names: tuple[str, ...]) -> str:
    """The SQL by which a kind of part is read for one job, in its order."""
    sql, parameters = model.objects.filter(job=ANY_JOB).values_list(*names).query.sql_with_params()
    assert parameters == (ANY_JOB,)
    return str(sql)


def _rows(model: Any, job: models.Job, *names: str) -> list[Row]:
    with connection.cursor() as cursor:
        cursor.execute(_statement(model, names), [job.pk])
        return list(cursor.fetchall())


def _by(rows: Iterable[Row]) -> dict[Any, list[Row]]:
    """Rows by their parent, which stands second."""
    found: dict[Any, list[Row]] = defaultdict(list)
    for row in rows:
        found[row[1]].append(row)
    return found


def _build(cls: Callable[..., T], names: tuple[str, ...], row: Row, head: int, **more: Any) -> T:
    return cls(id=str(row[0]), **dict(zip(names, row[head:], strict=True)), **more)


def _text(identity: Any) -> str | None:
    return str(identity) if identity else None


def installation(job: models.Job) -> core.Installation:
    """Return a job as the core's Installation, parts in their order; see `stored`."""
    return stored(job).installation


def stored(job: models.Job) -> Stored:
    """Return a version of a job with what in it does not fit.

    A version never changes once it is stored, so the last few are kept; whoever reads holds one snapshot of the database (`snapshot`), or
    the lock of the job.
    """
    key = (job.pk, job.version, job.cells, job.numbered)
    known = _VERSIONS.get(key)
    if known is None:
        dropped: list[Problem] = []
        value, strange = fitted(_from_rows(job, dropped))
        known = Stored(value, (*dropped, *strange))
        _VERSIONS.put(key, known)
    return known


def remember(job: models.Job, value: core.Installation, applied: Sequence[Applied] = ()) -> None:
    """Keep a version that was just written, so that it need not be read again; what was changed in it fits now."""
    before = _VERSIONS.get((job.pk, job.version - 1, job.cells, job.numbered))
    changed = written(applied)
    gone = {one.id for one in applied if one.op == "remove"}
    left = [p for p in (before.unfit if before else ()) if not _mended(p, changed, gone)]
    _VERSIONS.put((job.pk, job.version, job.cells, job.numbered), Stored(value, tuple(left)))


def remember_numbered(job: models.Job, value: Stored) -> None:
    """Keep a version of which more numbers stay now."""
    _VERSIONS.put((job.pk, job.version, job.cells, job.numbered), value)


def written(applied: Sequence[Applied]) -> set[tuple[str, str, str]]:
    """Return (kind, identity, column) of all that was set, whether it differs or not: a device, cable or set of readings is one column."""
    return {(one.kind, one.id, name.partition(".")[0]) for one in applied if one.op == "set" for name in one.after or ()}


def _mended(problem: Problem, changed: set[tuple[str, str, str]], gone: set[str]) -> bool:
    kind, _, rest = problem.field.partition(".")
    identity, _, name = rest.partition(".") if kind != "supply" else ("", "", rest)
    return identity in gone or (kind, identity, name.partition(".")[0]) in changed


def fitted(job: core.Installation) -> tuple[core.Installation, list[Problem]]:
    """Return a job with each value that the model does not know at its default, and all that does not fit, by part and field.

    A number outside its range is left as it stands: the check of its circuit refuses it by name.
    """
    found: list[Problem] = []
    mend: list[Change] = []
    for (kind, identity), (part, _) in parts(job).items():
        for name in of.own_fields(kind):
            value: Any = getattr(part, name)
            if value == of.default(kind, name):
                continue
            try:
                of.checked(kind, name, value, None)
            except InputError as error:
                found.append(Problem(_field(kind, identity, name), f"{getattr(part, 'name', '') or kind}: {value}", error.allowed))
                if not isinstance(value, int | float):
                    mend.append(Change("set", kind, identity, {name: of.default(kind, name)}))  # type: ignore[arg-type]
    return (restore(job, mend)[0] if mend else job), found


def _field(kind: str, identity: str, name: str) -> str:
    return f"{kind}.{identity}.{name}" if identity else f"{kind}.{name}"


def forget(job: models.Job) -> None:
    """Drop what is kept of a job: its rows were written past its history."""
    _VERSIONS.drop(lambda key: key[0] == job.pk)


@contextlib.contextmanager
def snapshot() -> Iterator[None]:
    """Read from one state of the database without locking anything: an edit meanwhile shows whole or not at all."""
    if connection.in_atomic_block:
        yield
        return
    with transaction.atomic():
        with connection.cursor() as cursor:
            cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY")
        yield


def _from_rows(job: models.Job, dropped: list[Problem]) -> core.Installation:
    supply = next(iter(_rows(models.Supply, job, *SUPPLY_FIELDS)), None)
    loads = _by(_rows(models.Load, job, *LOAD_HEAD, *LOAD_FIELDS))
    spans = _by(_rows(models.Span, job, *SPAN_HEAD, *SPAN_FIELDS))
    return canonical(core.Installation(
        name=job.name,
        note=job.note,
        client=job.client,
        place=job.place,
        ruleset=job.ruleset,
        premises=cast(Any, job.premises),
        supply=core.Supply(**dict(zip(SUPPLY_FIELDS, supply, strict=True))) if supply else core.Supply(),
        boards=tuple(_build(core.Board, BOARD_FIELDS, b, 1) for b in _rows(models.Board, job, "id", *BOARD_FIELDS)),
        circuits=tuple(
            _circuit(c, loads[c[0]], spans[c[0]], dropped) for c in _rows(models.Circuit, job, *CIRCUIT_HEAD, *CIRCUIT_FIELDS)
        ),
        routes=tuple(_build(core.Route, ROUTE_FIELDS, b, 1) for b in _rows(models.Route, job, "id", *ROUTE_FIELDS)),
        stages=tuple(_build(core.Stage, STAGE_FIELDS, s, 1) for s in _rows(models.Stage, job, "id", *STAGE_FIELDS)),
        dismissals=tuple(_build(core.Dismissal, DISMISSAL_FIELDS, d, 1) for d in _rows(models.Dismissal, job, "id", *DISMISSAL_FIELDS)),
        # Those of a firm that never read one cost no query.
        cells=cells_of_firm(job.firm_id, split(job.ruleset)[0]) if job.cells else (),
        packs=packs_named(job.firm_id, job.ruleset),
        numbers=tuple(core.Tagged(part=str(i), number=n) for i, n in _rows(models.Number, job, "part", "number")) if job.numbered else (),
    ))  # fmt: skip


_VALUES: Cache[tuple[Any, str], tuple[Any, tuple[InputError, ...]]] = Cache(4096)


def _value(cls: Callable[..., T], stored: Any, circuit: Any, name: str, dropped: list[Problem]) -> T:
    """A device, cable or set of readings as it was validated when written; many circuits share the same few.

    One that an older version stored and this one does not take is read field by field; what does not fit is left at its default, and told.
    """
    text = stored if isinstance(stored, str) else json.dumps(stored, sort_keys=True)
    known = _VALUES.get((cls, text))
    if known is None:
        data = json.loads(text)
        try:
            known = parse(cls, data), ()  # type: ignore[arg-type]
        except InputError:
            fields, refused = fitting(cls, data)
            known = cls(**fields), tuple(refused)
        _VALUES.put((cls, text), known)
    dropped += [Problem(f"circuit.{circuit}.{name}.{e.field}", f"{name}: {e.given}", e.allowed) for e in known[1]]
    return cast(T, known[0])


def fitting(cls: Any, data: Any) -> tuple[dict[str, Any], list[InputError]]:
    """Return the fields of plain data that a class of the model takes, and the refusals of those it does not."""
    found, refused = {}, []
    for name, value in data.items() if isinstance(data, dict) else ():
        try:
            if name not in hints(cls):
                raise InputError(str(name), value, "one of " + ", ".join(hints(cls)))
            found[name] = field_value(cls, name, value)
        except InputError as error:
            refused.append(error)
    return found, refused


def _circuit(row: Row, loads: list[Row], spans: list[Row], dropped: list[Problem]) -> core.Circuit:
    board, feeds, device, cable = row[1 : len(CIRCUIT_HEAD)]
    laid = tuple(_build(core.Span, SPAN_FIELDS, s, len(SPAN_HEAD), route=_text(s[2])) for s in spans)
    return _build(
        core.Circuit, CIRCUIT_FIELDS, row, len(CIRCUIT_HEAD),
        board=str(board), feeds=_text(feeds), device=_value(core.Device, device, row[0], "device", dropped),
        loads=tuple(_build(core.Load, LOAD_FIELDS, x, len(LOAD_HEAD)) for x in loads),
        run=core.Run(id=f"{row[0]}-run", cable=_value(core.Cable, cable, row[0], "cable", dropped), spans=laid),
    )  # fmt: skip
