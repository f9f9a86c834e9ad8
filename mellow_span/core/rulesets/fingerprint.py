"""The fingerprint of a rule set: changes with any cell of its tables, so that a frozen result says by which tables it was worked out."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from functools import cache

from mellow_span.core.model.parts import Pack
from mellow_span.core.rulesets import HERE
from mellow_span.core.rulesets.packs import at_hand, digest, split


def fingerprint(ruleset: str, packs: Iterable[Pack] = ()) -> str:
    """Return the SHA-256 of all data of a rule set, as hexadecimal digits; with packs, of the book's and theirs in their order."""
    book, marks = split(ruleset)
    own = _shipped(book)
    if not marks:
        return own
    return hashlib.sha256("\0".join((own, *(digest(p) for p in at_hand(ruleset, packs)))).encode()).hexdigest()


@cache
def _shipped(book: str) -> str:
    """Of a book that ships: files by name, their line ends as of Unix."""
    found = hashlib.sha256()
    for path in sorted((HERE / book).iterdir()):
        if path.suffix in (".csv", ".toml"):
            found.update(path.name.encode() + b"\0" + path.read_bytes().replace(b"\r\n", b"\n") + b"\0")
    return found.hexdigest()
