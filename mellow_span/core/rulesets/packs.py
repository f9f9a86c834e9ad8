"""Packs of tables of one's own: how a job names them, and how a pack is known by what is in it.

A job is under `bs7671`, or under `bs7671+0123456789ab`: the book, and after each + the mark of a pack laid over it, in that order. The mark is
made from the files, so it cannot come to mean anything else: a job, or an issued design, keeps the pack it was worked out with.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from functools import lru_cache

from mellow_span.core.errors import InputError
from mellow_span.core.model.parts import Pack

# Hexadecimal digits of a mark, and packs over one book.
MARK, MOST = 12, 4


def split(ruleset: str) -> tuple[str, tuple[str, ...]]:
    """Return the book and the marks of the packs over it.

    >>> split("bs7671+0123456789ab")
    ('bs7671', ('0123456789ab',))
    """
    book, *marks = ruleset.split("+")
    return book, tuple(marks)


def joined(book: str, marks: Iterable[str]) -> str:
    """Return how a job names a book with packs over it."""
    return "+".join((book, *marks))


@lru_cache(maxsize=64)
def digest(pack: Pack) -> str:
    """Return the SHA-256 of a pack, as hexadecimal digits; line ends as of Unix."""
    found = hashlib.sha256()
    for file in sorted(pack.files, key=lambda f: f.name):
        found.update(file.name.encode() + b"\0" + file.text.replace("\r\n", "\n").encode() + b"\0")
    return found.hexdigest()


def mark(pack: Pack) -> str:
    """Return the mark by which a job names a pack."""
    return digest(pack)[:MARK]


def at_hand(ruleset: str, packs: Iterable[Pack]) -> tuple[Pack, ...]:
    """Return the packs that a rule set names, in its order. Raises InputError for one that is not at hand, stands twice, or is one too many."""
    _, marks = split(ruleset)
    there = {mark(pack): pack for pack in packs}
    if len(marks) > MOST or len(set(marks)) < len(marks):
        raise InputError("ruleset", ruleset, f"each pack once, and at most {MOST}")
    if missing := [m for m in marks if m not in there]:
        raise InputError(
            "ruleset", ", ".join(missing), "packs that are at hand" + (": " + ", ".join(there) if there else "; there is none")
        )
    return tuple(there[m] for m in marks)
