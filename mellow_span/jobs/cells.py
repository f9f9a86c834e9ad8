"""Cells of the tables that a firm read in the printed book: kept by the firm, laid over the rule set in every job of it."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from typing import Any
from uuid import UUID

from django.db import transaction
from django.db.models import F

from mellow_span.core.errors import InputError
from mellow_span.core.model.parse import specs, text_value
from mellow_span.core.model.parts import CellRead
from mellow_span.core.rulesets import rule_set
from mellow_span.core.rulesets.readings import checked
from mellow_span.jobs import models
from mellow_span.jobs.rechecks import of_cells, under

FIELDS = ("table", "row", "column", "value", "by", "on", "edition")


def cells_of_firm(firm: UUID, ruleset: str) -> tuple[CellRead, ...]:
    """Return what a firm, given by its identity, read in the book of a rule set."""
    rows = models.CellRead.objects.filter(firm=firm, ruleset=ruleset).values_list(*FIELDS)
    return tuple(CellRead(**dict(zip(FIELDS, row, strict=True))) for row in rows)


@transaction.atomic
def settle(firm: models.Firm, ruleset: str, cell: CellRead, member: models.Member | None = None) -> None:
    """Keep a cell as a member read it, in place of an earlier reading; every job of the firm is figured anew, and what turns is listed.

    Raises InputError.
    """
    checked(rule_set(ruleset), cell)
    for name in ("by", "on", "edition"):
        if not text_value(specs(CellRead)[name], getattr(cell, name), name).strip():
            raise InputError(name, "", "some text")
    before = _one(firm, ruleset, cell)
    where: dict[str, Any] = {"firm": firm, "ruleset": ruleset, "table": cell.table, "row": cell.row, "column": cell.column}
    models.CellRead.objects.update_or_create(**where, defaults={name: getattr(cell, name) for name in ("value", "by", "on", "edition")})
    _changed(firm, ruleset)
    of_cells(firm, ruleset, [(before, cell)], member)


@transaction.atomic
def reopen(firm: models.Firm, ruleset: str, table: str, row: str, column: str, member: models.Member | None = None) -> None:
    """Take a reading back: the cell is as doubtful as it was. Raises InputError where nobody read it."""
    cell = checked(rule_set(ruleset), CellRead(table=table, row=row, column=column))
    before = _one(firm, ruleset, cell)
    gone, _ = models.CellRead.objects.filter(firm=firm, ruleset=ruleset, table=table, row=row, column=column).delete()
    if not gone:
        raise InputError("row", f"{table}, {row}, {column}", "a cell that was read")
    _changed(firm, ruleset)
    of_cells(firm, ruleset, [(before, None)], member)


def stamp_of_cells(firm: UUID) -> str:
    """Return a mark that changes with anything a firm reads in any book."""
    rows = list(models.CellRead.objects.filter(firm=firm).values_list("ruleset", *FIELDS))
    return hashlib.sha256(repr(rows).encode()).hexdigest()[:32] if rows else ""


def adopt(firm: models.Firm, ruleset: str, cells: Iterable[CellRead]) -> None:
    """Take over what a file brings of cells that this firm has not read itself."""
    own = {(c.table, c.row, c.column) for c in cells_of_firm(firm.pk, ruleset)}
    new = [c for c in cells if (c.table, c.row, c.column) not in own]
    models.CellRead.objects.bulk_create(
        models.CellRead(firm=firm, ruleset=ruleset, **{name: getattr(c, name) for name in FIELDS}) for c in new
    )  # fmt: skip
    if new:
        _changed(firm, ruleset)
        of_cells(firm, ruleset, [(None, c) for c in new], None)


def _one(firm: models.Firm, ruleset: str, cell: CellRead) -> CellRead | None:
    there = cells_of_firm(firm.pk, ruleset)
    return next((c for c in there if (c.table, c.row, c.column) == (cell.table, cell.row, cell.column)), None)


def _changed(firm: models.Firm, ruleset: str) -> None:
    models.Job.objects.filter(under(ruleset), firm=firm).update(cells=F("cells") + 1, counted=False)
