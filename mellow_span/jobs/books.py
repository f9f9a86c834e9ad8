"""The book of a job: what belongs to it goes along when a job is put under another one."""

from __future__ import annotations

import dataclasses
from collections.abc import Callable
from uuid import UUID

from mellow_span.core.errors import InputError
from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets import available
from mellow_span.core.rulesets.fitting import hold_to
from mellow_span.core.rulesets.readings import rules_of
from mellow_span.jobs.cells import cells_of_firm


def in_its_book(firm: UUID, before: Installation, value: Installation) -> Installation:
    """Return a changed job with what its firm read in the book it is under now. Raises InputError where the book does not know what is in it."""
    if value.ruleset == before.ruleset:
        return value
    value = dataclasses.replace(value, cells=cells_of_firm(firm, value.ruleset))
    hold_to(value, rules_of(value))
    return value


def settling(firm: UUID, before: Installation) -> Callable[[Installation], Installation]:
    """Return `in_its_book` for changes to one job of a firm."""
    return lambda value: in_its_book(firm, before, value)


def known(ruleset: str) -> str:
    """Return the identity of a book that a job can be under. Raises InputError for another."""
    if ruleset not in available():
        raise InputError("ruleset", ruleset, "one of " + ", ".join(available()))
    return ruleset
