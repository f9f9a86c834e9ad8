"""The rule sets: choices for the inputs, the limits of each field, and every table as it is used."""

from __future__ import annotations

import dataclasses
from typing import Any

from django.http import HttpRequest
from ninja import Router, Schema

from mellow_span.api.errors import Refusal
from mellow_span.core import model
from mellow_span.core.errors import RuleSetError
from mellow_span.core.parse import specs
from mellow_span.core.rules import RuleSet, load
from mellow_span.core.rules.table import Table

router = Router()
REFUSALS: dict[Any, Any] = {400: Refusal, 401: Refusal, 404: Refusal, 422: Refusal}


class Pair(Schema):
    """A line csa and the cpc the cable is made with [mm2]."""

    line: float
    cpc: float


class FamilyOut(Schema):
    """A cable family. pairs: the fixed cpc by line csa; cpc: in_cable, single or core."""

    id: str
    title: str
    cpc: str
    sizes: list[float]
    pairs: list[Pair]
    methods: list[str]


class PlaceOut(Schema):
    """Surroundings of a span, with the reference method and how the profile draws them."""

    id: str
    title: str
    method: str
    look: str


class FieldOut(Schema):
    """What a field accepts."""

    field: str
    meaning: str
    unit: str
    lo: float | None
    hi: float | None


class RulesOut(Schema):
    """What the inputs of a job may choose from."""

    id: str
    title: str
    edition: str
    families: list[FamilyOut]
    places: list[PlaceOut]
    laid: list[str]
    ratings: list[float]
    fields: list[FieldOut]


class TableLine(Schema):
    """A table in the list."""

    number: str
    title: str
    source: str
    cells: int
    to_check: int


class RowOut(Schema):
    """A row: its label, its cells as text, and the columns whose value is still to be checked."""

    label: str
    cells: list[str]
    check: list[str]


class TableOut(Schema):
    """A table of the rule set. keys: what a row is found by; units: by column."""

    number: str
    title: str
    source: str
    edition: str
    keys: list[str]
    edge: str
    columns: list[str]
    units: list[str]
    rows: list[RowOut]


EDGES = {
    "exact": "the row itself",
    "up": "between rows the next row up, past the last none",
    "down": "between rows the next row down",
    "band": "the row whose band holds the value",
}
ENTITIES = {
    "supply": model.Supply,
    "device": model.Device,
    "cable": model.Cable,
    "load": model.Load,
    "span": model.Span,
    "board": model.Board,
    "circuit": model.Circuit,
    "bundle": model.Bundle,
    "readings": model.Readings,
}


@router.get("/{ruleset}", response={200: RulesOut, **REFUSALS}, operation_id="rules")
def rules(request: HttpRequest, ruleset: str) -> Any:
    """Return what the inputs of a job designed to this rule set may choose from."""
    found = load(ruleset)
    ratings = sorted({row.key[1] for row in found.table("MCB-Zs").rows})
    return RulesOut(
        id=found.id, title=found.title, edition=found.edition, families=_families(found),
        places=[PlaceOut(**dataclasses.asdict(p)) for p in found.places.values()], laid=list(found.laid), ratings=ratings, fields=_fields(),
    )  # fmt: skip


def _families(found: RuleSet) -> list[FamilyOut]:
    return [
        FamilyOut(
            id=f.id,
            title=f.title,
            cpc=f.cpc,
            sizes=list(f.sizes),
            pairs=[Pair(line=s, cpc=c) for s, c in f.pairs.items()],
            methods=list(f.columns),
        )
        for f in found.families.values()
    ]


def _fields() -> list[FieldOut]:
    return [
        FieldOut(field=f"{kind}.{name}", meaning=about["meaning"], unit=about.get("unit", ""), lo=about.get("lo"), hi=about.get("hi"))
        for kind, cls in ENTITIES.items()
        for name, about in specs(cls).items()
    ]


@router.get("/{ruleset}/tables", response={200: list[TableLine], **REFUSALS}, operation_id="tables")
def tables(request: HttpRequest, ruleset: str) -> Any:
    """List the tables of a rule set with how many of their cells are still to be checked."""
    return [
        TableLine(
            number=t.number, title=t.title, source=t.source, cells=sum(v is not None for r in t.rows for v in r.cells.values()),
            to_check=sum(len(r.check) for r in t.rows),
        )
        for t in load(ruleset).tables.values()
    ]  # fmt: skip


@router.get("/{ruleset}/tables/{number}", response={200: TableOut, **REFUSALS}, operation_id="table")
def table(request: HttpRequest, ruleset: str, number: str) -> Any:
    """Return one table, cell by cell, as the core reads it."""
    found = load(ruleset)
    if number not in found.tables:
        raise RuleSetError(f"{found.title} has no table {number}")
    return _table(found, found.tables[number])


def _table(rules: RuleSet, t: Table) -> TableOut:
    return TableOut(
        number=t.number, title=t.title, source=t.source, edition=rules.edition,
        keys=[" to ".join(k.columns) for k in t.keys],
        edge="; ".join(dict.fromkeys(EDGES[k.match] for k in t.keys)),
        columns=list(t.columns), units=[t.units.get(c, t.unit) for c in t.columns],
        rows=[RowOut(label=r.label, cells=[_text(r.cells[c]) for c in t.columns], check=sorted(r.check)) for r in t.rows],
    )  # fmt: skip


def _text(value: Any) -> str:
    if value is None:
        return ""
    return (
        f"{value:g}" if isinstance(value, float) and abs(value) < 1_000_000 else f"{value:.0f}" if isinstance(value, float) else str(value)
    )
