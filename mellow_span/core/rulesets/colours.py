"""The colours of conductors in a book: those of today, and those of wiring that is older than its present code."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

# What a conductor can be for.
USES = ("line", "L1", "L2", "L3", "neutral", "cpc")
# The colours that are known by name here, so that they can be drawn and a slip of the pen is noticed.
NAMES = (
    "brown",
    "black",
    "grey",
    "blue",
    "green-yellow",
    "green",
    "red",
    "yellow",
    "white",
    "orange",
    "purple",
    "pink",
    "turquoise",
    "bare",
)


@dataclass(frozen=True, slots=True)
class Colours:
    """Colours by use. older: those of wiring from before a year, empty where the book knows of none; before: that year."""

    today: Mapping[str, str]
    older: Mapping[str, str] = field(default_factory=dict)
    before: int | None = None

    @property
    def wiring(self) -> str:
        """Words for the older wiring.

        >>> Colours({}, {}, 2004).wiring, Colours({}).wiring
        ('wiring of before 2004', 'wiring of an older colour code')
        """
        return f"wiring of before {self.before}" if self.before else "wiring of an older colour code"

    @property
    def traps(self) -> str:
        """What a colour of today's live conductors was once, where that was another of them; empty where none changed, or the book knows of none.

        >>> Colours({"line": "brown", "neutral": "blue"}, {"L3": "blue", "neutral": "black"}).traps
        'blue was a line'
        """
        lines = {self.today[u] for u in USES[:4] if u in self.today}
        was = [f"{c} was a line" for c in (self.today.get("neutral"),) if c and c in {self.older.get(u) for u in USES[:4]}]
        was += [f"{c} the neutral" if was else f"{c} was the neutral" for c in (self.older.get("neutral"),) if c in lines]
        return " and ".join(was)


def troubles(about: Mapping[str, Any]) -> list[tuple[str, object, str]]:
    """Return what is wrong with the colours of a book as its data have them: the name, what is given, what is allowed."""
    found: list[tuple[str, object, str]] = []
    older = about.get("older", {})
    if not isinstance(older, Mapping):
        return [("older", older, "a section")]
    # All of the older ones, or none.
    for where, given, more in (("", about, ("older",)), ("older.", older, ("before",)))[: 2 if older else 1]:
        found += [(where + name, name, "one of " + ", ".join((*USES, *more))) for name in given if name not in (*USES, *more)]
        found += [(where + use, "", "one of " + ", ".join(NAMES)) for use in USES if use not in given]
        found += [(where + use, given[use], "one of " + ", ".join(NAMES)) for use in USES if use in given and given[use] not in NAMES]
    before = older.get("before")
    if older and (not isinstance(before, int) or isinstance(before, bool) or not 1880 <= before <= 2100):
        found.append(("older.before", before if before is not None else "", "a year"))
    return found


def read(about: Mapping[str, Any]) -> Colours:
    """Return the colours of a book from its data, which `troubles` has nothing against."""
    older = dict(about.get("older", {}))
    before = older.pop("before", None)
    return Colours({use: about[use] for use in USES}, older, before)
