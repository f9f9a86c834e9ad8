"""From the tables to the core's model: one query for each kind of part, whatever the size of the job."""

from __future__ import annotations

import dataclasses
from collections import defaultdict
from collections.abc import Callable, Iterable
from functools import lru_cache
from typing import Any, TypeVar

from mellow_span.core import model as core
from mellow_span.core.parse import parse
from mellow_span.jobs import models

T = TypeVar("T")
SUPPLY_FIELDS = tuple(f.name for f in dataclasses.fields(core.Supply))


def _fields(cls: Any, *leave: str) -> tuple[str, ...]:
    return tuple(f.name for f in dataclasses.fields(cls) if f.name not in ("id", *leave))


BOARD_FIELDS = _fields(core.Board)
CIRCUIT_FIELDS = _fields(core.Circuit, "board", "feeds", "device", "loads", "run", "readings")
LOAD_FIELDS = _fields(core.Load)
SPAN_FIELDS = _fields(core.Span, "bundle")
BUNDLE_FIELDS = _fields(core.Bundle)
DISMISSAL_FIELDS = _fields(core.Dismissal)


def _by(rows: Iterable[dict[str, Any]], parent: str) -> dict[Any, list[dict[str, Any]]]:
    found: dict[Any, list[dict[str, Any]]] = defaultdict(list)
    for row in rows:
        found[row[parent]].append(row)
    return found


def _build(cls: Callable[..., T], row: dict[str, Any], names: tuple[str, ...], **more: Any) -> T:
    return cls(id=str(row["id"]), **{name: row[name] for name in names}, **more)


def installation(job: models.Job) -> core.Installation:
    """Return a job as the core's Installation, parts in their order."""
    supply = models.Supply.objects.filter(job=job).values(*SUPPLY_FIELDS).first() or {}
    loads = _by(models.Load.objects.filter(job=job).values("id", "circuit_id", *LOAD_FIELDS), "circuit_id")
    spans = _by(models.Span.objects.filter(job=job).values("id", "bundle_id", "run__circuit_id", *SPAN_FIELDS), "run__circuit_id")
    boards = models.Board.objects.filter(job=job).values("id", *BOARD_FIELDS)
    circuits = models.Circuit.objects.filter(job=job).values(
        "id", "board_id", "feeds_id", "device", "readings", "run__id", "run__cable", *CIRCUIT_FIELDS
    )
    bundles = models.Bundle.objects.filter(job=job).values("id", *BUNDLE_FIELDS)
    dismissals = models.Dismissal.objects.filter(job=job).values("id", *DISMISSAL_FIELDS)
    return core.Installation(
        ruleset=job.ruleset,
        supply=core.Supply(**supply),
        boards=tuple(_build(core.Board, b, BOARD_FIELDS) for b in boards),
        circuits=tuple(_circuit(c, loads[c["id"]], spans[c["id"]]) for c in circuits),
        bundles=tuple(_build(core.Bundle, b, BUNDLE_FIELDS) for b in bundles),
        dismissals=tuple(_build(core.Dismissal, d, DISMISSAL_FIELDS) for d in dismissals),
    )


@lru_cache(maxsize=4096)
def _value(cls: Callable[..., T], given: tuple[tuple[str, Any], ...]) -> T:
    """A device, cable or set of readings as it was validated when written; many circuits share the same few."""
    return parse(cls, dict(given))  # type: ignore[arg-type]


def _circuit(row: dict[str, Any], loads: list[dict[str, Any]], spans: list[dict[str, Any]]) -> core.Circuit:
    return _build(
        core.Circuit,
        row,
        CIRCUIT_FIELDS,
        board=str(row["board_id"]),
        feeds=str(row["feeds_id"]) if row["feeds_id"] else None,
        device=_value(core.Device, tuple(row["device"].items())),
        readings=_value(core.Readings, tuple(row["readings"].items())),
        loads=tuple(_build(core.Load, load, LOAD_FIELDS) for load in loads),
        run=core.Run(
            id=str(row["run__id"]),
            cable=_value(core.Cable, tuple(row["run__cable"].items())),
            spans=tuple(_build(core.Span, s, SPAN_FIELDS, bundle=str(s["bundle_id"]) if s["bundle_id"] else None) for s in spans),
        ),
    )
