"""The rule sets: choices for the inputs, the limits of each field, and every table as it is used."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated, Any

from django.http import HttpRequest
from django.utils import timezone
from ninja import Field, Query, Router, Schema

from mellow_span.answers.books import BookOut, Hits, RulesOut, TableLine, TableOut, book_told, hits_of, rules_told, table_told, tables_told
from mellow_span.api.errors import Refusal
from mellow_span.api.render import send
from mellow_span.core.errors import InputError, RuleSetError
from mellow_span.core.findings.why import Why, why
from mellow_span.core.model.parts import CellRead
from mellow_span.core.rulesets import Known, RuleSet, available, rule_set
from mellow_span.core.rulesets.packs import split
from mellow_span.core.rulesets.table import Row
from mellow_span.jobs.books import rules_at
from mellow_span.jobs.cells import cells_of_firm, reopen, settle
from mellow_span.jobs.ownership import designer_of, member_of

router = Router()
REFUSALS: dict[Any, Any] = {400: Refusal, 401: Refusal, 404: Refusal, 422: Refusal}


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


@router.get("", response={200: list[BookOut], 401: Refusal}, operation_id="books")
def books(request: HttpRequest) -> Any:
    """List the books that a job can be under."""
    return send(list[BookOut], [book_told(rule_set(ruleset)) for ruleset in available()])


@router.get("/{ruleset}", response={200: RulesOut, **REFUSALS}, operation_id="rules")
def rules(request: HttpRequest, ruleset: str) -> Any:
    """Return what the inputs of a job designed to this rule set may choose from."""
    return send(RulesOut, rules_told(_as_read(request, ruleset)))


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
    return send(Hits, hits_of(_as_read(request, ruleset), words))


@router.get("/{ruleset}/tables", response={200: list[TableLine], **REFUSALS}, operation_id="tables")
def tables(request: HttpRequest, ruleset: str) -> Any:
    """List the tables of a rule set with how many of their cells are still to be checked."""
    return send(list[TableLine], tables_told(_as_read(request, ruleset)))


@router.get("/{ruleset}/tables/{number}", response={200: TableOut, **REFUSALS}, operation_id="table")
def table(request: HttpRequest, ruleset: str, number: str) -> Any:
    """Return one table, cell by cell, as the core reads it."""
    return send(TableOut, table_told(_as_read(request, ruleset), number))
