"""A text that is being read: each reader takes what it understands and leaves the rest where it stands."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

from mellow_span.core.said.numbered import shown

NUMBER = r"\d+(?:[.,]\d+)?"
# What takes the place of a word that was read, so that what stood on either side of it does not grow together.
_READ = "\x00"


@dataclass(frozen=True, slots=True)
class Word:
    """A part of the line that was understood. start, end: characters of the line; field: of which part of the model; told: in words, empty
    where the word before it told both.
    """

    start: int
    end: int
    text: str
    field: str
    told: str


@dataclass(frozen=True, slots=True)
class Unread:
    """A part of the line that was not understood, and what would be."""

    start: int
    end: int
    text: str
    why: str


class Text:
    """A stretch of a line with what is left of it to read. Words and what was assumed are collected for the whole line."""

    def __init__(self, line: str, start: int = 0, end: int | None = None, parent: Text | None = None) -> None:
        self.line = line
        self.start = start
        self.left = line[start : len(line) if end is None else end]
        self.words: list[Word] = parent.words if parent else []
        self.unread: list[Unread] = parent.unread if parent else []
        self.assumed: list[str] = parent.assumed if parent else []

    def within(self, start: int, end: int) -> Text:
        """Return a part of what is left, from start to end as characters of the line."""
        part = Text(self.line, start, end, self)
        part.left = self.left[start - self.start : end - self.start]
        return part

    def find(self, pattern: str) -> re.Match[str] | None:
        """Return the first place in what is left where a pattern stands as words of its own."""
        return _first(pattern, self.left)

    def find_name(self, pattern: str) -> re.Match[str] | None:
        """Return the first place of a pattern with names in it, whose digits may be hidden in what is left (`numbered`)."""
        return _first(pattern, shown(self.left))

    def take(self, match: re.Match[str], field: str, told: str, group: int | str = 0) -> None:
        """Take what a reader understood out of what is left."""
        start, end = match.span(group)
        self.words.append(Word(self.start + start, self.start + end, self._said(start, end), field, told))
        self._blank(start, end)

    def note(self, match: re.Match[str], field: str, told: str) -> None:
        """Say what a word means and leave it where it is: it belongs to the name as well."""
        start, end = match.span()
        self.words.append(Word(self.start + start, self.start + end, self._said(start, end), field, told))

    def refuse(self, start: int, end: int, why: str) -> None:
        """Take what nothing understands out of what is left, and say what would be."""
        self.unread.append(Unread(self.start + start, self.start + end, self._said(start, end), why))
        self._blank(start, end)

    def rest(self) -> Iterator[re.Match[str]]:
        """Yield the words that are left, in order."""
        return re.finditer(r"[^\s\x00,;:()\[\]]+", self.left)

    def plain(self) -> str:
        """Return the words that are left, with one blank between them."""
        return " ".join(m[0] for m in self.rest())

    def _said(self, start: int, end: int) -> str:
        return self.line[self.start + start : self.start + end]

    def _blank(self, start: int, end: int) -> None:
        self.left = self.left[:start] + _READ * (end - start) + self.left[end:]


def _first(pattern: str, text: str) -> re.Match[str] | None:
    return re.search(rf"(?<![^\W_])(?<!\d[.,])(?:{pattern})(?![^\W_])", text, re.IGNORECASE)


def number(text: str) -> float:
    """Return a number as it is typed, with a point or a comma.

    >>> number("2,4")
    2.4
    """
    return float(text.replace(",", "."))


def sentence_case(text: str) -> str:
    """Return a text with a capital at its beginning and the rest as typed."""
    return text[:1].upper() + text[1:]
