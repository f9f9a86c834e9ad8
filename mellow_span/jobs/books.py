"""The book of a job: what belongs to it goes along when a job is put under another one."""

from __future__ import annotations

import dataclasses
from collections.abc import Callable
from uuid import UUID

from mellow_span.core.errors import InputError
from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets import Known, RuleSet, available, rule_set
from mellow_span.core.rulesets.fitting import hold_to
from mellow_span.core.rulesets.packs import joined, split
from mellow_span.core.rulesets.readings import layered, rules_of
from mellow_span.jobs import models
from mellow_span.jobs.cells import cells_of_firm
from mellow_span.jobs.packs import packs_named


def in_its_book(firm: UUID, before: Installation, value: Installation) -> Installation:
    """Return a changed job with what its firm read in the book it is under now, and the packs over it.

    Raises InputError for a pack that the firm does not have, and where the book does not know what is in the job.
    """
    if value.ruleset == before.ruleset:
        return value
    value = dataclasses.replace(value, cells=cells_of_firm(firm, split(value.ruleset)[0]), packs=packs_named(firm, value.ruleset))
    hold_to(value, rules_of(value))
    return value


def settling(firm: UUID, before: Installation) -> Callable[[Installation], Installation]:
    """Return `in_its_book` for changes to one job of a firm."""
    return lambda value: in_its_book(firm, before, value)


def rules_at(firm: UUID, ruleset: str) -> RuleSet:
    """Return a book with what a firm read in it and its packs over it. Raises InputError for one that a job of the firm cannot be under."""
    if ruleset not in Known():
        raise InputError("ruleset", ruleset, "one of " + ", ".join(available()))
    return layered(ruleset, cells_of_firm(firm, split(ruleset)[0]), packs_named(firm, ruleset))


def books_of(firm: UUID) -> list[tuple[str, str]]:
    """Return the books that a job of a firm can be put under, with their titles: those that ship, and each with a pack of the firm over it."""
    packs = models.Pack.objects.filter(firm=firm, away=False).values_list("over", "mark", "title", "version")
    shipped = [(book, rule_set(book).title) for book in available()]
    return shipped + [(joined(over, [mark]), f"{rule_set(over).title} with {title} {version}") for over, mark, title, version in packs]
