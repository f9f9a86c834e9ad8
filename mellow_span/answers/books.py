"""What the inputs of a job may choose from, and the tables and clauses of a book as they are used."""

from __future__ import annotations

from dataclasses import dataclass
from types import UnionType
from typing import Any, Literal, Union, get_args, get_origin

from mellow_span.core.adding import added
from mellow_span.core.design.circuit import RULES
from mellow_span.core.errors import RuleSetError
from mellow_span.core.model import parts as model
from mellow_span.core.model.parse import hints, specs
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.table import Table
from mellow_span.core.rulesets.vocabulary import C, T

# Cells shown of a table that holds a value many times.
CELLS_SHOWN = 12


@dataclass(slots=True)
class BookOut:
    """A book that a job can be under. to_check: how many of its numbers are still to be checked against the printed one."""

    id: str
    title: str
    edition: str
    numbers: int
    to_check: int


@dataclass(slots=True)
class FixedCpc:
    """A line csa and the cpc the cable is made with [mm2]."""

    line: float
    cpc: float


@dataclass(slots=True)
class FamilyOut:
    """A cable family. pairs: the fixed cpc by line csa; cpc: in_cable, single or core."""

    id: str
    title: str
    cpc: str
    sizes: list[float]
    pairs: list[FixedCpc]
    methods: list[str]


@dataclass(slots=True)
class PlaceOut:
    """Surroundings of a span: the reference method, how the profile draws them, whether they are in the ground, how a group can lie there,
    and what else it is called.
    """

    id: str
    title: str
    method: str
    look: str
    ground: bool
    laid: list[str]
    said: list[str]


@dataclass(slots=True)
class FieldOut:
    """What a field accepts: its kind, range (of a text its most characters) and unit, the values it may take, whether it may be
    empty, and values that are mostly met.
    """

    field: str
    meaning: str
    unit: str
    kind: Literal["number", "whole", "text", "flag", "choice", "part"]
    lo: float | None
    hi: float | None
    choices: list[str]
    optional: bool
    usual: list[float]


@dataclass(slots=True)
class DeviceOut:
    """A kind of protective device: how it trips, and the ratings its tables have [A]; none where any rating may be entered."""

    id: str
    title: str
    trips: str
    ratings: list[float]


@dataclass(slots=True)
class KindOut:
    """A kind of load: what it is called, and the words by which it is known."""

    id: str
    title: str
    said: list[str]


@dataclass(slots=True)
class RulesOut:
    """What the inputs of a job may choose from. example: what may be searched for."""

    id: str
    title: str
    edition: str
    families: list[FamilyOut]
    places: list[PlaceOut]
    laid: list[str]
    ratings: list[float]
    devices: list[DeviceOut]
    kinds: list[KindOut]
    fields: list[FieldOut]
    example: str


@dataclass(slots=True)
class TableLine:
    """A table in the list."""

    number: str
    title: str
    source: str
    cells: int
    to_check: int


@dataclass(slots=True)
class RowOut:
    """A row: its label, its cells as text, the columns whose value is still to be checked, and by column who read one in the printed book."""

    label: str
    cells: list[str]
    check: list[str]
    read: dict[str, str]


@dataclass(slots=True)
class CellAt:
    """Where a cell stands: its row, as it is labelled, and its column."""

    row: str
    column: str


@dataclass(slots=True)
class TableHit:
    """A table that a search found; cells: those that hold the value searched for."""

    number: str
    cells: list[CellAt]


@dataclass(slots=True)
class ClauseHit:
    """A clause that a search found: what it asks, and the checks that cite it."""

    clause: str
    asks: str
    checks: list[str]


@dataclass(slots=True)
class Hits:
    """What a search over tables and clauses found."""

    tables: list[TableHit]
    clauses: list[ClauseHit]


@dataclass(slots=True)
class TableOut:
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


FieldKind = Literal["number", "whole", "text", "flag", "choice", "part"]
PLAIN: dict[Any, FieldKind] = {bool: "flag", int: "whole", float: "number", str: "text"}
EDGES = {
    "exact": "the row itself",
    "up": "between rows the next row up, past the last none",
    "down": "between rows the next row down",
    "band": "the row whose band holds the value",
}
# Not fields of their own: identities, the rule set, and what is described as a part by itself.
APART = (
    "id", "spans", "loads", "run", "device", "cable", "ruleset", "supply", "boards", "circuits", "routes", "stages", "dismissals", "cells",
    "packs", "numbers",
)  # fmt: skip
ENTITIES = {
    "job": model.Installation,
    "supply": model.Supply,
    "device": model.Device,
    "cable": model.Cable,
    "load": model.Load,
    "span": model.Span,
    "board": model.Board,
    "circuit": model.Circuit,
    "route": model.Route,
    "stage": model.Stage,
}


def book_told(found: RuleSet) -> BookOut:
    """Return a book with how many of its numbers are still to be checked."""
    tables = found.tables.values()
    numbers = added(isinstance(v, float) for t in tables for r in t.rows for v in r.cells.values())
    return BookOut(
        id=found.id, title=found.title, edition=found.edition, numbers=numbers, to_check=added(len(r.check) for t in tables for r in t.rows)
    )


def rules_told(found: RuleSet) -> RulesOut:
    """Return what the inputs of a job designed to a rule set may choose from."""
    places = [
        PlaceOut(
            id=p.id,
            title=p.title,
            method=p.method,
            look=p.look,
            ground=p.ground != "",
            laid=list(found.laid_in(p)),
            said=_said(found, p.id),
        )
        for p in found.places.values()
    ]
    words = found.words
    breakers = sorted({r for k, d in found.devices.items() if d.trips == "breaker" for r in found.ratings(k)})
    kinds = [KindOut(id=k, title=title, said=list(words.of(words.loads, k))) for k, title in words.load_titles.items()]
    return RulesOut(
        id=found.id, title=found.title, edition=found.edition, families=_families(found), places=places, laid=list(found.laid),
        ratings=breakers, devices=_devices(found), kinds=kinds, fields=_fields(found),
        example=f"{found.table(T.RESISTANCE).number} · {found.clause(C.DISCONNECTION)}",
    )  # fmt: skip


def _said(found: RuleSet, place: str) -> list[str]:
    return list(found.words.of(found.words.places, place))


def _devices(found: RuleSet) -> list[DeviceOut]:
    return [DeviceOut(id=k, title=d.title, trips=d.trips, ratings=list(found.ratings(k))) for k, d in found.devices.items()]


def _families(found: RuleSet) -> list[FamilyOut]:
    return [
        FamilyOut(
            id=f.id,
            title=f.title,
            cpc=f.cpc,
            sizes=list(f.sizes),
            pairs=[FixedCpc(line=s, cpc=c) for s, c in f.pairs.items()],
            methods=list(f.methods),
        )
        for f in found.families.values()
    ]


def _fields(found: RuleSet) -> list[FieldOut]:
    return [
        _field(found, f"{kind}.{name}", hints(cls)[name], about)
        for kind, cls in ENTITIES.items()
        for name, about in specs(cls).items()
        if name not in APART
    ]


def _field(found: RuleSet, name: str, hint: Any, about: Any) -> FieldOut:
    """Describe a field from the model's own types, so that the interface asks for what the parser accepts."""
    parts = [a for a in get_args(hint) if a is not type(None)] if get_origin(hint) in (UnionType, Union) else [hint]
    inner = parts[0]
    sections: dict[str, Any] = {
        "place": found.places,
        "laid": found.laid,
        "family": found.families,
        "device": found.devices,
        "service": found.service,
    }
    choices = [str(c) for c in get_args(inner)] if get_origin(inner) is Literal else list(sections.get(about.get("choices") or "", ()))
    kind: FieldKind = (
        "choice" if choices else "part" if name.endswith((".board", ".feeds", ".route", "_stage")) else PLAIN.get(inner, "text")
    )
    most = about.get("most") if kind == "text" else about.get("hi")
    return FieldOut(
        field=name, meaning=about["meaning"], unit=about.get("unit", ""), kind=kind, lo=about.get("lo"), hi=most,
        choices=choices, optional=type(None) in get_args(hint), usual=list(about.get("usual", ())),
    )  # fmt: skip


def hits_of(rules: RuleSet, words: str) -> Hits:
    """Search the tables by number, word or a value that stands in them, and the clauses by number or word."""
    wanted = words.lower().split()
    found = []
    for t in rules.tables.values():
        told = f"{t.number} {t.title} {t.source}".lower()
        cells = [CellAt(row=r.label, column=c) for r in t.rows for c, v in r.cells.items() if len(wanted) == 1 and _text(v) == wanted[0]]
        if cells or (wanted and all(w in told for w in wanted)):
            found.append(TableHit(number=t.number, cells=cells[:CELLS_SHOWN]))
    return Hits(tables=found, clauses=_clauses(rules, wanted))


def _clauses(rules: RuleSet, wanted: list[str]) -> list[ClauseHit]:
    found = []
    for name, clause in sorted(rules.clauses.items(), key=lambda pair: pair[1]):
        asks = name.replace("_", " ")
        checks = [rule.title for rule in RULES if rule.clause == name]
        told = f"{clause} {asks} {' '.join(checks)}".lower()
        if wanted and all(w in told for w in wanted):
            found.append(ClauseHit(clause=clause, asks=asks, checks=checks))
    return found


def tables_told(rules: RuleSet) -> list[TableLine]:
    """Return the tables of a rule set with how many of their cells are still to be checked."""
    return [
        TableLine(
            number=t.number, title=t.title, source=t.source, cells=added(v is not None for r in t.rows for v in r.cells.values()),
            to_check=added(len(r.check) for r in t.rows),
        )
        for t in rules.tables.values()
    ]  # fmt: skip


def table_told(rules: RuleSet, number: str) -> TableOut:
    """Return one table, cell by cell, as the core reads it. Raises RuleSetError."""
    if number not in rules.tables:
        raise RuleSetError(f"{rules.title} has no table {number}")
    return _table(rules, rules.tables[number])


def _table(rules: RuleSet, t: Table) -> TableOut:
    return TableOut(
        number=t.number, title=t.title, source=t.source, edition=rules.edition,
        keys=[" to ".join(k.columns) for k in t.keys],
        edge="; ".join(dict.fromkeys(EDGES[k.match] for k in t.keys)),
        columns=list(t.columns), units=[t.units.get(c, t.unit) for c in t.columns],
        rows=[RowOut(label=r.label, cells=[_text(r.cells[c]) for c in t.columns], check=sorted(r.check), read=dict(r.read)) for r in t.rows],
    )  # fmt: skip


def _text(value: Any) -> str:
    if value is None:
        return ""
    return (
        f"{value:g}" if isinstance(value, float) and abs(value) < 1_000_000 else f"{value:.0f}" if isinstance(value, float) else str(value)
    )
