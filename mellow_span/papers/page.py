"""What a paper is made of: blocks of cells that know their number, unit and marks, so that no way of writing it can lose one."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Literal

from mellow_span.core.figures import figure
from mellow_span.core.findings.results import STANDS, Verdict

CAUTION = (
    "Meets these checks with these inputs, and no more. It does not replace the regulations and local rules, inspection, testing or the judgement "
    "of a competent, licensed person."
)
# What the marks on a paper mean; each paper prints those it uses.
DAGGER, ASSUMED = "†", "≈"
# A box to tick by hand.
TICK = "[   ]"
LEGEND = {
    DAGGER: "† based on a table value still to be checked against the printed standard",
    ASSUMED: "≈ based on a value assumed or declared, not measured",
}


@dataclass(slots=True)
class Item:
    """A value on a paper: as text, and as a number [unit] where it is one. missing: it should be there and is not.

    verdict: how it stands; assumed, doubtful: it rests on a value nobody measured, on a doubtful cell of a table. drawn: the same as SVG, beside
    the text where it is printed.
    """

    text: str = ""
    value: float | None = None
    unit: str = ""
    missing: bool = False
    assumed: bool = False
    doubtful: bool = False
    verdict: Verdict | None = None
    drawn: str = ""

    @property
    def told(self) -> str:
        """The cell as it is read, with its marks and without its unit."""
        return f"{f'{ASSUMED} ' if self.assumed else ''}{self.text}{f' {DAGGER}' if self.doubtful else ''}"


def number(value: float | None, unit: str = "", *, assumed: bool = False, doubtful: bool = False, needed: bool = True) -> Item:
    """Return the cell of a number [unit]; without one it is missing where it is needed, else a dash.

    >>> number(0.35, "Ω", assumed=True).told, number(None, "m").missing, number(None, "m", needed=False).told
    ('≈ 0.350', True, '–')
    """
    if value is None:
        return Item("not known", missing=True, unit=unit) if needed else Item("–")
    return Item(figure(value, unit), float(value), unit, assumed=assumed, doubtful=doubtful)


def money(value: float, currency: str = "£") -> Item:
    """Return the cell of an amount, without VAT.

    >>> money(1234.5).text, money(-3, "€").text
    ('£1234.50', '−€3.00')
    """
    # Rounded once, as a person does: the cell of a spreadsheet holds what is printed.
    amount = round(value, 2)
    return Item(f"{'−' if amount < 0 else ''}{currency}{abs(amount):.2f}", float(amount))


def words(text: str, *, missing: str = "") -> Item:
    """Return the cell of a text; where there is none, what is missing in its place, a dash where nothing is."""
    return Item(text) if text else Item(missing or "–", missing=bool(missing))


def verdict_cell(verdict: Verdict, text: str = "", *, assumed: bool = False, doubtful: bool = False) -> Item:
    """Return the cell of a verdict, in words."""
    return Item(text or STANDS[verdict], verdict=verdict, assumed=assumed, doubtful=doubtful)


@dataclass(slots=True)
class Column:
    """A column of a table: title, unit of its numbers; share: of the width, where it is not left to its contents."""

    title: str
    unit: str = ""
    share: float = 0.0


@dataclass(slots=True)
class Table:
    """Rows of cells under columns. key: so many first columns name a row, about: what all of them are of. fine: in small type, for wide tables;
    dense: its rows close together as well, where all have to stand on one page.

    lined: printed as lines of text, in which a page full of working is read and laid out faster; else as a table.
    """

    title: str
    columns: Sequence[Column]
    rows: list[list[Item]]
    key: int = 1
    fine: bool = False
    note: str = ""
    lined: bool = False
    about: str = ""
    dense: bool = False


@dataclass(slots=True)
class Facts:
    """Values with their names, one below the other."""

    title: str
    rows: list[tuple[str, Item]]


@dataclass(slots=True)
class Words:
    """Paragraphs, or lines of a list."""

    title: str
    lines: list[str]
    listed: bool = False
    strong: bool = False


@dataclass(slots=True)
class Drawing:
    """A drawing as SVG, and what it shows in words."""

    title: str
    svg: str
    told: str


@dataclass(slots=True)
class Signature:
    """A line to sign on: for what, and who signed already with the time, empty for nobody."""

    role: str
    name: str = ""
    at: str = ""


@dataclass(slots=True)
class Sheet:
    """Labels on sheets of a size; see `labels`. each: the lines of a label, the first in large type; first: place of the first one."""

    size: str
    first: int
    each: list[tuple[str, ...]]


@dataclass(slots=True)
class Leaf:
    """What follows begins on a new page, under a heading."""

    title: str


# So many of the 64 letters of a hash make the check code: no two drafts of a job are alike in them.
CODE = 16
Block = Table | Facts | Words | Drawing | Signature | Sheet | Leaf


@dataclass(slots=True)
class Stamp:
    """What stands on every page. job, place, client; revision in words; hash of the data; edition of the rules; printed: when.

    key: the public half of the firm's key, against which an issued file can be proved.
    """

    job: str
    place: str
    client: str
    revision: str
    hash: str
    edition: str
    printed: str
    key: str = ""

    @property
    def code(self) -> str:
        """The check code: as much of the hash as two papers are compared by, in groups that an eye can hold.

        >>> Stamp("", "", "", "", "11f64135a1b67bcc60ac", "", "").code
        '11f6 4135 a1b6 7bcc'
        """
        return " ".join(self.hash[i : i + 4] for i in range(0, CODE, 4))


@dataclass(slots=True)
class Paper:
    """A paper: its kind, title and what it is about, its blocks; wide: lies across."""

    id: str
    title: str
    about: str
    stamp: Stamp
    blocks: list[Block] = field(default_factory=list)
    wide: bool = False

    def cells(self) -> Iterator[tuple[str, str, Item]]:
        """Return every cell with the words that say of what it is, and which it is."""
        for block in self.blocks:
            if isinstance(block, Facts):
                yield from ((block.title, name, cell) for name, cell in block.rows)
            elif isinstance(block, Table):
                for row in block.rows:
                    name = " ".join(filter(None, (block.about, *(c.text for c in row[: block.key]))))
                    yield from ((name, column.title, cell) for column, cell in zip(block.columns, row, strict=True))

    @property
    def missing(self) -> list[str]:
        """What should be on the paper and is not, in words: a line for each thing of which something is missing."""
        found: dict[str, list[str]] = {}
        for of, which, cell in self.cells():
            if cell.missing:
                found.setdefault(of, []).append(which)
        return [": ".join(filter(None, (of, ", ".join(dict.fromkeys(which))))) for of, which in found.items()]

    @property
    def legend(self) -> list[str]:
        """The marks this paper uses, with what they mean."""
        cells = [cell for _, _, cell in self.cells()]
        used = {DAGGER: any(c.doubtful for c in cells) or self._says(DAGGER), ASSUMED: any(c.assumed for c in cells) or self._says(ASSUMED)}
        return [LEGEND[mark] for mark, on in used.items() if on]

    def _says(self, mark: str) -> bool:
        texts = [line for b in self.blocks if isinstance(b, Words) for line in b.lines]
        texts += [b.svg for b in self.blocks if isinstance(b, Drawing)]
        return any(mark in text for text in [*texts, *(c.text for _, _, c in self.cells())])


Form = Literal["pdf", "xlsx", "csv", "json"]
