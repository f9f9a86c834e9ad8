"""What a pack says of itself, in its pack.toml: the shape of it held to, with everything that does not fit."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from mellow_span.core.model.parts import Pack
from mellow_span.core.rulesets import available
from mellow_span.core.rulesets.troubles import BadPack, Troubles

ABOUT, PRICES, WORDS = "pack.toml", "prices.csv", "words.toml"
MOST_FILES = 60
FILE_NAME = re.compile(r"^[a-z0-9][a-z0-9_.-]{0,60}\.(csv|toml)$")
NAME = re.compile(r"^[a-z][a-z0-9_-]{1,39}$")
VERSION = re.compile(r"^[0-9A-Za-z][0-9A-Za-z.-]{0,19}$")
# What pack.toml may hold, and what each is.
TOP: dict[str, type] = {
    "id": str, "title": str, "version": str, "over": str, "source": str, "checked": str, "not_asked": list, "silent": list,
    "variant": dict, "table": list, "family": dict, "place": dict, "device": dict, "laid": dict, "clause": dict,
    "colours": dict,
}  # fmt: skip
NEEDED = ("id", "title", "version", "over", "source")
TABLE: dict[str, type] = {
    "id": str, "file": str, "name": str, "title": str, "source": str, "unit": str, "units": dict, "keys": list, "text": list, "rows": bool,
}  # fmt: skip
# What a book may lack, beside what the book under it lacks: advice and customs of a country. All else holds somebody back from danger: a pack
# may say that its data are silent on it, and it is then not known, but not that it is not asked.
MAY_LACK = frozenset({
    "arc_fault", "inrush", "lampholders", "leakage", "outlets", "space", "supports", "tails_length", "ways", "electrode_place", "joists",
})  # fmt: skip
KIND_WORDS = {str: "text", list: "a list", dict: "a section", bool: "true or false", float: "a number", int: "a number"}


@dataclass(frozen=True, slots=True)
class About:
    """What a pack says of itself. over: the book under it; source: where its numbers come from; checked: by whom against it, empty for nobody."""

    id: str
    title: str
    version: str
    over: str
    source: str
    checked: str
    tables: tuple[str, ...] = ()
    not_asked: tuple[str, ...] = ()
    silent: tuple[str, ...] = ()

    @property
    def told(self) -> str:
        """The pack as it is cited."""
        return f"{self.title}, version {self.version}"


def about(pack: Pack) -> About:
    """Return what a pack says of itself. Raises BadPack where it does not say it."""
    troubles = Troubles()
    found = read_about(pack, troubles)
    if found is None or troubles.found:
        raise BadPack(troubles.found)
    return found[0]


def read_about(pack: Pack, troubles: Troubles) -> tuple[About, dict[str, Any]] | None:
    """Return what a pack says of itself and all its pack.toml holds; None where that cannot be read at all."""
    _files_named(pack, troubles)
    text = next((f.text for f in pack.files if f.name == ABOUT), None)
    if text is None:
        troubles.add(ABOUT, "", "a file of this name, which says what the pack is")
        return None
    try:
        data = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        line = re.search(r"line (\d+)", str(error))
        troubles.add(ABOUT, error, "a file in TOML", line=int(line[1]) if line else 0)
        return None
    shaped(data, TOP, "", troubles)
    _says_enough(data, troubles)
    if troubles.found:
        return None
    tables = tuple(str(t.get("id", "")) for t in data.get("table", ()) if isinstance(t, dict))
    fields: dict[str, str] = {name: data[name].strip() for name in NEEDED}
    not_asked, silent = (tuple(str(v) for v in data.get(name, ())) for name in ("not_asked", "silent"))
    return About(**fields, checked=data.get("checked", "").strip(), tables=tables, not_asked=not_asked, silent=silent), data


def _files_named(pack: Pack, troubles: Troubles) -> None:
    """Hold the files of a pack to names that a folder of any machine takes, and to so many."""
    names = [f.name for f in pack.files]
    for name in names:
        if not FILE_NAME.match(name):
            troubles.add(name, name, "a name in small letters, digits, _ and -, that ends in .csv or .toml; no folders")
        if names.count(name) > 1:
            troubles.add(name, name, "each file once")
    if len(names) > MOST_FILES:
        troubles.add("the pack", f"{len(names)} files", f"at most {MOST_FILES}")


def _says_enough(data: Mapping[str, Any], troubles: Troubles) -> None:
    """Hold what a pack says of itself to what cannot be left out, and to what there is."""
    for name in NEEDED:
        if not str(data.get(name, "")).strip():
            troubles.add(ABOUT, "", "some text; it cannot be left out", column=name)
    for name, shape, allowed in (
        ("id", NAME, "2 to 40 small letters, digits, _ and -, a letter first"),
        ("version", VERSION, "1 to 20 letters, digits, points and dashes"),
    ):
        if isinstance(data.get(name), str) and data[name] and not shape.match(data[name]):
            troubles.add(ABOUT, data[name], allowed, column=name)
    for name in ("not_asked", "silent"):
        given = data.get(name)
        if strange := [v for v in (given if isinstance(given, list) else ()) if not isinstance(v, str)]:
            troubles.add(ABOUT, strange, "the names of checks, each in quotes", column=name)
    if data.get("over") and data["over"] not in available():
        troubles.add(ABOUT, data["over"], "a book: " + ", ".join(available()), column="over")


def shaped(data: Mapping[str, Any], known: Mapping[str, type], where: str, troubles: Troubles) -> None:
    """Hold a section of pack.toml to the names and kinds it may have; where: its place, for what is told."""
    for name, value in data.items():
        kind, column = known.get(name), f"{where}.{name}".lstrip(".")
        if kind is None:
            troubles.add(ABOUT, name, "one of " + ", ".join(known), column=column)
        elif not isinstance(value, (int, float) if kind is float else kind) or (kind is float and isinstance(value, bool)):
            troubles.add(ABOUT, value, KIND_WORDS[kind], column=column)
        elif isinstance(value, str) and (len(value) > 200 or not value.isprintable()):
            troubles.add(ABOUT, value, "at most 200 characters on one line", column=column)
