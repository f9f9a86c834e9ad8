"""What people call the things of a rule set: phrases of the trade for places, families, loads and devices, as data beside the tables."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from mellow_span.core.errors import RuleSetError


@dataclass(frozen=True, slots=True)
class Phrase:
    """A phrase and what it names. told: what it leaves open and which way it is taken; empty where it leaves nothing open."""

    text: str
    means: str
    told: str = ""


@dataclass(frozen=True, slots=True)
class Words:
    """The phrases of a rule set by what they can name, the longest first, and what each kind of load is called."""

    places: tuple[Phrase, ...]
    families: tuple[Phrase, ...]
    loads: tuple[Phrase, ...]
    devices: tuple[Phrase, ...]
    laid: tuple[Phrase, ...]
    load_titles: Mapping[str, str]
    # What hints at a place where no other word of a span names one; it stays in the name.
    hints: tuple[Phrase, ...] = ()

    def of(self, phrases: Iterable[Phrase], means: str) -> tuple[str, ...]:
        """Return what one thing is called."""
        return tuple(p.text for p in phrases if p.means == means)


def pattern(phrases: Iterable[Phrase]) -> str:
    """Return the alternatives of a regular expression for phrases: blanks of any length, the longest phrase first."""
    ordered = sorted({p.text for p in phrases}, key=lambda t: (-len(t), t))
    return "|".join(re.escape(text).replace(r"\ ", r"\s+") for text in ordered)


# Words up to so many letters are as they stand: 'ev'.
SHORT = 2


def load_words(path: Path, known: Mapping[str, Iterable[str]]) -> Words:
    """Read the words of a rule set. known: what there is to be named, by section. Raises RuleSetError for a name of nothing, or a phrase
    that names two things.
    """
    about = tomllib.loads(path.read_text("utf-8"))
    found: dict[str, list[Phrase]] = {
        section: [Phrase(text, means) for means, texts in about[section].items() for text in texts]
        for section in ("place", "family", "device", "laid")
    }
    said = [(text, one["kind"]) for one in about["load"] for text in one["words"]]
    found["load"] = [Phrase(text, kind) for text, kind in said]
    # One or several: 'floodlight' is also met as 'floodlights', 'downlights' as 'downlight'.
    texts = {text for text, _ in said}
    other = {(text[:-1] if text.endswith("s") else f"{text}s", kind) for text, kind in said if len(text) > SHORT}
    found["load"] += [Phrase(text, kind) for text, kind in sorted(other) if text not in texts]
    for one in about["unsure"]:
        section = "place" if "place" in one else "family"
        found[section] += [Phrase(text, one[section], one["told"]) for text in one["words"]]
    hints = tuple(Phrase(text, one["place"], one["told"]) for one in about.get("hint", ()) for text in one["words"])
    _trusted(path.parent.name, "place", [*found["place"], *hints], set(known["place"]))
    for section, phrases in found.items():
        _trusted(path.parent.name, section, phrases, set(known[section]))
    titles = {one["kind"]: one["title"] for one in about["load"]}
    return Words(
        places=tuple(found["place"]),
        families=tuple(found["family"]),
        loads=tuple(found["load"]),
        devices=tuple(found["device"]),
        laid=tuple(found["laid"]),
        load_titles=titles,
        hints=hints,
    )


def _trusted(folder: str, section: str, phrases: list[Phrase], known: set[Any]) -> None:
    if strange := {p.means for p in phrases} - known:
        raise RuleSetError(f"{folder}: words.toml names no such {section}: {sorted(strange)}")
    texts = [p.text for p in phrases]
    if twice := sorted({t for t in texts if texts.count(t) > 1}):
        raise RuleSetError(f"{folder}: words.toml says twice, for a {section}: {twice}")
