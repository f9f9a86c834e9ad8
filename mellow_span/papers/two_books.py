"""One job under two books, side by side: how each part stands under both, what decides a difference, then each check that differs."""

from __future__ import annotations

from mellow_span.core.adding import added
from mellow_span.core.design.books import InBook, UnderBoth, beside
from mellow_span.core.errors import InputError
from mellow_span.papers.page import Block, Column, Item, Table, Words, verdict_cell, words
from mellow_span.papers.subject import Subject


def others(s: Subject) -> list[tuple[str, str]]:
    """Return the books that a job can be put beside its own: identity and title."""
    return [(book, title) for book, title in s.books if book != s.job.ruleset]


def two_books(s: Subject, other: str) -> list[Block]:
    """Return how a job stands under its own book and under another. Raises InputError where none is chosen."""
    titles = dict(others(s))
    if other not in titles:
        raise InputError("subject", other, "one of " + ", ".join(titles))
    here, there = s.rules.title, titles[other]
    found = beside(s.job, other, s.settled)
    turned = added(one.here != one.there for one in found)
    columns = (Column("Part of the job", share=20), Column(here, share=13), Column(there, share=13), Column("What decides"))
    rows = [[words(one.name), _verdict(one, 0), _verdict(one, 1), words(one.decides)] for one in found]
    checks = (Column("Part of the job", share=14), Column("Check", share=14), Column(here), Column(there))
    differing = [[words(one.name), Item(c.title), _in_book(c.here), _in_book(c.there)] for one in found for c in one.checks if c.differs]
    return [
        Words(
            "",
            [f"{turned} of {len(found)} parts differ under {there} from {here}. Which standard applies is for the law to say."],
        ),
        Table("Under both standards", columns, rows),
        Table("Checks that differ", checks, differing, key=2, fine=True, note="" if differing else "None differs."),
    ]


def _verdict(one: UnderBoth, which: int) -> Item:
    doubtful = any((c.here, c.there)[which].doubtful for c in one.checks)
    return verdict_cell((one.here, one.there)[which], doubtful=doubtful)


def _in_book(s: InBook) -> Item:
    if s.verdict is None:
        return Item("not required")
    shown = "" if s.decides else ", for information only"
    return verdict_cell(s.verdict, f"{s.text}{f' ({s.clause})' if s.clause else ''}{shown}", doubtful=s.doubtful)
