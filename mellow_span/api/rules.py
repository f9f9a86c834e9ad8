"""The rule sets: choices for the inputs, the limits of each field, and every table as it is used."""

from __future__ import annotations

from dataclasses import asdict
from types import UnionType
from typing import Annotated, Any, Literal, Union, get_args, get_origin

from django.http import HttpRequest
from django.utils import timezone
from ninja import Field, Query, Router, Schema

from mellow_span.api.errors import Refusal
from mellow_span.api.render import send
from mellow_span.core.design.circuit import RULES
from mellow_span.core.errors import InputError, RuleSetError
from mellow_span.core.findings.why import Why, why
from mellow_span.core.model import parts as model
from mellow_span.core.model.parse import hints, specs
from mellow_span.core.model.parts import CellRead
from mellow_span.core.rulesets import Known, RuleSet, available, rule_set
from mellow_span.core.rulesets.packs import split
from mellow_span.core.rulesets.table import Row, Table
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.jobs.books import rules_at
from mellow_span.jobs.cells import cells_of_firm, reopen, settle
from mellow_span.jobs.ownership import designer_of, member_of

router = Router()
# Cells shown of a table that holds a value many times.
CELLS_SHOWN = 12
REFUSALS: dict[Any, Any] = {400: Refusal, 401: Refusal, 404: Refusal, 422: Refusal}


class BookOut(Schema):
    """A book that a job can be under. to_check: how many of its numbers are still to be checked against the printed one."""

    id: str
    title: str
    edition: str
    numbers: int
    to_check: int


class FixedCpc(Schema):
    """A line csa and the cpc the cable is made with [mm2]."""

    line: float
    cpc: float


class FamilyOut(Schema):
    """A cable family. pairs: the fixed cpc by line csa; cpc: in_cable, single or core."""

    id: str
    title: str
    cpc: str
    sizes: list[float]
    pairs: list[FixedCpc]
    methods: list[str]


class PlaceOut(Schema):
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


class FieldOut(Schema):
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


class DeviceOut(Schema):
    """A kind of protective device: how it trips, and the ratings its tables have [A]; none where any rating may be entered."""

    id: str
    title: str
    trips: str
    ratings: list[float]


class KindOut(Schema):
    """A kind of load: what it is called, and the words by which it is known."""

    id: str
    title: str
    said: list[str]


class RulesOut(Schema):
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


class TableLine(Schema):
    """A table in the list."""

    number: str
    title: str
    source: str
    cells: int
    to_check: int


class RowOut(Schema):
    """A row: its label, its cells as text, the columns whose value is still to be checked, and by column who read one in the printed book."""

    label: str
    cells: list[str]
    check: list[str]
    read: dict[str, str]


class CellAt(Schema):
    """Where a cell stands: its row, as it is labelled, and its column."""

    row: str
    column: str


class TableHit(Schema):
    """A table that a search found; cells: those that hold the value searched for."""

    number: str
    cells: list[CellAt]


class ClauseHit(Schema):
    """A clause that a search found: what it asks, and the checks that cite it."""

    clause: str
    asks: str
    checks: list[str]


class Hits(Schema):
    """What a search over tables and clauses found."""

    tables: list[TableHit]
    clauses: list[ClauseHit]


class CellIn(Schema):
    """A cell as somebody read it in the printed book. value: what is printed there, null where it agrees; the date is today's."""

    table: str = Field(max_length=40)
    row: str = Field(max_length=80)
    column: str = Field(max_length=80)
    value: float | None = Field(default=None, ge=0, le=1_000_000)
    edition: str = Field(min_length=1, max_length=200)


class CellOut(Schema):
    """A cell that the firm has read, by whom, when and in which edition."""

    table: str
    row: str
    column: str
    value: float | None
    by: str
    on: str
    edition: str


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
    "id", "spans", "loads", "run", "device", "cable", "ruleset", "supply", "boards", "circuits", "routes", "dismissals", "cells", "packs", "numbers",
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
}


@router.get("", response={200: list[BookOut], 401: Refusal}, operation_id="books")
def books(request: HttpRequest) -> Any:
    """List the books that a job can be under."""
    return [_book(rule_set(ruleset)) for ruleset in available()]


def _book(found: RuleSet) -> BookOut:
    tables = found.tables.values()
    numbers = sum(isinstance(v, float) for t in tables for r in t.rows for v in r.cells.values())
    return BookOut(
        id=found.id, title=found.title, edition=found.edition, numbers=numbers, to_check=sum(len(r.check) for t in tables for r in t.rows)
    )


@router.get("/{ruleset}", response={200: RulesOut, **REFUSALS}, operation_id="rules")
def rules(request: HttpRequest, ruleset: str) -> Any:
    """Return what the inputs of a job designed to this rule set may choose from."""
    found = _as_read(request, ruleset)
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
    kind: FieldKind = "choice" if choices else "part" if name.endswith((".board", ".feeds", ".route")) else PLAIN.get(inner, "text")
    most = about.get("most") if kind == "text" else about.get("hi")
    return FieldOut(
        field=name, meaning=about["meaning"], unit=about.get("unit", ""), kind=kind, lo=about.get("lo"), hi=most,
        choices=choices, optional=type(None) in get_args(hint), usual=list(about.get("usual", ())),
    )  # fmt: skip


def _as_read(request: HttpRequest, ruleset: str) -> RuleSet:
    """The rule set with what the person's firm has read in the printed book, and its packs over it."""
    if ruleset not in Known():
        raise RuleSetError(f"no rule set {ruleset!r}; there are: {', '.join(available())}")
    return rules_at(member_of(request.user).firm_id, ruleset)


def _book_read(request: HttpRequest, ruleset: str) -> str:
    """The book itself, in which cells are read: a pack says by itself who checked it."""
    _as_read(request, ruleset)
    return split(ruleset)[0]


@router.get("/{ruleset}/cells", response={200: list[CellOut], **REFUSALS}, operation_id="cells_read")
def cells_read(request: HttpRequest, ruleset: str) -> Any:
    """List the cells that the firm has read in the printed book."""
    book = _book_read(request, ruleset)
    return [CellOut(**asdict(cell)) for cell in cells_of_firm(member_of(request.user).firm_id, book)]


@router.post("/{ruleset}/cells", response={200: list[CellOut], **REFUSALS}, operation_id="read_cell")
def read_cell(request: HttpRequest, ruleset: str, cell: CellIn) -> Any:
    """Keep that a cell agrees with the printed book, or the value printed there, with the person's name and today's date."""
    member = designer_of(request.user)
    by, on = member.name or str(request.user), timezone.localdate().isoformat()
    _of_book(request, ruleset, cell)
    settle(member.firm, split(ruleset)[0], CellRead(**cell.dict(), by=by, on=on), member)
    return cells_read(request, ruleset)


def _of_book(request: HttpRequest, ruleset: str, cell: CellIn) -> None:
    """Raise InputError for a cell that a pack brings along: nothing that is read in the printed book changes it."""
    laid, book = (_as_read(request, name).tables.get(cell.table) for name in (ruleset, split(ruleset)[0]))
    mine, own = (next((r for r in t.rows if r.label == cell.row), None) if t else None for t in (laid, book))
    if mine is not None and (own is None or _as_told(mine, cell.column) != _as_told(own, cell.column)):
        where = f"{cell.table}, {cell.row}, {cell.column}"
        raise InputError("row", where, "a cell of the book itself; this one is of a pack, which says by itself who checked it")


def _as_told(row: Row, column: str) -> tuple[Any, bool, str]:
    return row.cells.get(column), column in row.check, row.read.get(column, "")


@router.delete("/{ruleset}/cells", response={200: list[CellOut], **REFUSALS}, operation_id="reopen_cell")
def reopen_cell(request: HttpRequest, ruleset: str, table: str, row: str, column: str) -> Any:
    """Take the reading of a cell back: it is as doubtful as it was."""
    member = designer_of(request.user)
    reopen(member.firm, _book_read(request, ruleset), table, row, column, member)
    return cells_read(request, ruleset)


@router.get("/{ruleset}/why", response={200: Why, **REFUSALS}, operation_id="why")
def why_asked(request: HttpRequest, ruleset: str) -> Any:
    """Say why each check is asked, what goes wrong without it, where practitioners differ; and what each symbol is."""
    _as_read(request, ruleset)
    return send(Why, why())


@router.get("/{ruleset}/search", response={200: Hits, **REFUSALS}, operation_id="search_tables")
def search(request: HttpRequest, ruleset: str, words: Annotated[str, Query(max_length=200)]) -> Any:
    """Search the tables by number, word or a value that stands in them, and the clauses by number or word."""
    rules, wanted = _as_read(request, ruleset), words.lower().split()
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


@router.get("/{ruleset}/tables", response={200: list[TableLine], **REFUSALS}, operation_id="tables")
def tables(request: HttpRequest, ruleset: str) -> Any:
    """List the tables of a rule set with how many of their cells are still to be checked."""
    return [
        TableLine(
            number=t.number, title=t.title, source=t.source, cells=sum(v is not None for r in t.rows for v in r.cells.values()),
            to_check=sum(len(r.check) for r in t.rows),
        )
        for t in _as_read(request, ruleset).tables.values()
    ]  # fmt: skip


@router.get("/{ruleset}/tables/{number}", response={200: TableOut, **REFUSALS}, operation_id="table")
def table(request: HttpRequest, ruleset: str, number: str) -> Any:
    """Return one table, cell by cell, as the core reads it."""
    found = _as_read(request, ruleset)
    if number not in found.tables:
        raise RuleSetError(f"{found.title} has no table {number}")
    return _table(found, found.tables[number])


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
