"""Rule sets as data: tables with number, edition, unit, edge policy and confidence, loaded and validated once.

A later amendment or another country's tables are a new folder beside `bs7671`; nothing here knows one rule set from another.
"""

from __future__ import annotations

import tomllib
from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path
from typing import Any, TypeVar, get_args

from mellow_span.core.cache import Cache
from mellow_span.core.errors import NotInBook, OutsideTable, RuleSetError, UnknownWord
from mellow_span.core.model.parts import LoadKind
from mellow_span.core.rulesets import colours
from mellow_span.core.rulesets.table import Table, load_table
from mellow_span.core.rulesets.vocabulary import CLAUSES, TABLES, T
from mellow_span.core.rulesets.words import Words, load_words

HERE = Path(__file__).parent
V = TypeVar("V")
# What fields choose from, by the part of a rule set that holds it: its section, and the field it is asked for most.
CHOOSING = {
    "families": ("family", "cable.family"), "laid": ("laid", "span.laid"), "places": ("place", "span.place"), "devices": ("device", "device.kind"),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Family:
    """A cable family: its capacity and volt drop tables, and how a reference method picks their columns."""

    id: str
    title: str
    insulation: str
    capacity: str
    columns: dict[str, list[str]]
    drop: str
    drop_columns: dict[str, str]
    drop_formation: dict[str, list[str]]
    cpc: str
    pairs: dict[float, float]
    insulated_methods: tuple[str, ...]
    sizes: tuple[float, ...]
    armour: str = ""
    # The family whose capacities hold where the terminals or the neighbours suit 70 °C alone; empty for one of 70 °C itself.
    at_70: str = ""
    # Methods that another table answers for this family: the table, then its columns as in `columns`.
    also: dict[str, list[str]] = field(default_factory=dict)

    @property
    def methods(self) -> tuple[str, ...]:
        """The reference methods that the tables have a capacity for."""
        return (*self.columns, *self.also)

    def capacity_column(self, method: str, loaded: int) -> tuple[str, str]:
        """Return table and column of the capacity for a reference method and 2 or 3 loaded conductors. Raises OutsideTable."""
        table, *columns = self.also.get(method) or [self.capacity, *self.columns.get(method, ())]
        if not columns:
            raise OutsideTable(self.capacity, f"reference method {method}", "methods " + ", ".join(self.methods))
        if loaded - 2 >= len(columns):
            raise OutsideTable(table, f"{loaded} loaded conductors", "2 loaded conductors")
        return in_table(table, columns[loaded - 2])

    def drop_column(self, method: str, phases: int, part: str = "z") -> str:
        """Return the volt drop column: part z, r or x. Raises OutsideTable."""
        stem = self.drop_columns.get(str(phases))
        if stem is None:
            raise OutsideTable(self.drop, f"{phases} phases", "1 phase")
        formation = self.drop_formation.get(method)
        if "{f}" in stem and formation is None:
            raise OutsideTable(self.drop, f"reference method {method}", "methods " + ", ".join(self.drop_formation))
        if formation:
            stem = stem.format(f=formation[0 if phases == 1 else 1])
        return stem if stem == "mv" else f"{stem}_{part}"


def in_table(table: str, column: str) -> tuple[str, str]:
    """Return table and column of a column as a family names it: of its own table, or of another where the book has one for each count of conductors.

    >>> in_table("4D5", "C"), in_table("B.52.2", "B.52.4:C")
    (('4D5', 'C'), ('B.52.4', 'C'))
    """
    other, colon, own = column.rpartition(":")
    return (other, own) if colon else (table, column)


@dataclass(frozen=True, slots=True)
class Place:
    """Surroundings a span can lie in: words, reference method, how the profile draws them, and whether a wall hides the cable."""

    id: str
    title: str
    method: str
    look: str
    concealed: bool = False
    # Under a floor or over a ceiling, where nails and screws reach (522.6.201).
    joists: bool = False
    ground: str = ""
    insulated_later: str = ""
    # An enclosure or support of its own, in which cores without a sheath may lie (521.10.1).
    encloses: bool = False
    # Insulation all round a cable along the whole span, where the book has no method of its own for that.
    surrounded: bool = False
    # How cables grouped there can lie; empty: as the table for the ground has it.
    laid: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class DeviceRules:
    """A kind of protective device: its words, its row in the table of conventional currents, how it trips, whether it is rewirable.

    deemed: with In <= Iz it is deemed to protect against overload as well (433.1.1).
    household: a fuse that an assembly of a household is given its conditional rating behind.
    service: a fuse that the supply may be protected by, ahead of the meter.
    ratings: what it is made in [A], where the book has no table of loops that says it.
    """

    title: str
    conventional: str
    trips: str
    rewirable: bool = False
    deemed: bool = False
    household: bool = False
    service: bool = False
    ratings: tuple[float, ...] = ()


class Known(tuple[str, ...]):
    """The books there are. One with packs over it is known where the book under them is; whether they are at hand is seen where the rules are laid."""

    def __new__(cls) -> Known:
        """Return the books that ship."""
        return super().__new__(cls, available())

    def __contains__(self, name: object) -> bool:
        return isinstance(name, str) and super().__contains__(name.partition("+")[0])


class Chosen(dict[str, V]):
    """What a field may choose from, by its words; one that the book does not know is refused with the field it was asked for."""

    def __init__(self, field: str, known: Mapping[str, V]) -> None:
        super().__init__(known)
        self.field = field

    def __missing__(self, word: str) -> V:
        raise UnknownWord(self.field, word, self)


class Named(dict[str, Table]):
    """The tables of a book, by number and by the name the vocabulary has for them; one it lacks is refused, so that its rule answers 'not known'."""

    def __init__(self, book: str, tables: Mapping[str, Table]) -> None:
        super().__init__(tables)
        self.book = book

    def __missing__(self, name: str) -> Table:
        raise NotInBook(self.book, name)


@dataclass(frozen=True, slots=True)
class RuleSet:
    """One edition of one set of rules."""

    id: str
    title: str
    edition: str
    tables: dict[str, Table]
    families: dict[str, Family]
    laid: dict[str, dict[str, tuple[str, str]]]
    places: dict[str, Place]
    devices: dict[str, DeviceRules]
    tails: str
    open_places: tuple[str, ...]
    trays: tuple[str, ...]
    plug_fuse: str
    clauses: dict[str, str]
    # Tables by their number and by the name the vocabulary has for them.
    by_name: Named
    # What people call its places, families, loads and devices.
    words: Words
    # Which colour a conductor has by its use, today and once.
    colours: colours.Colours
    # The single limits and constants it has, by their keys.
    limits: frozenset[str] = frozenset()
    # Checks, by their identity, that this book does not ask.
    not_asked: frozenset[str] = frozenset()
    # Checks it has rules for that are not among its data here: they answer 'not known', and are never borrowed.
    silent: frozenset[str] = frozenset()
    # Where a formula differs between books, the name of the one this book has; see `variant`.
    variants: Mapping[str, str] = field(default_factory=dict)
    # Prices that a pack brings along, as the text of a price book.
    prices: str = ""
    # What hangs on the rule set and a few inputs alone, by those inputs, with its steps; and whole results of circuits and routes, without.
    memo: Cache[Any, Any] = field(default_factory=lambda: Cache(8_000))
    results: Cache[Any, Any] = field(default_factory=lambda: Cache(4_000))
    settled: Cache[Any, Any] = field(default_factory=lambda: Cache(2_000))
    # What a field may choose from within the book, by the section that the model's fields name.
    chosen: Mapping[str, Collection[str]] = field(init=False, default_factory=dict)

    def __post_init__(self) -> None:
        """Hold what fields choose from so that an unknown word is refused by name, wherever it is met."""
        known: dict[str, Collection[str]] = {}
        for name, (section, asked) in CHOOSING.items():
            known[section] = Chosen(asked, getattr(self, name))
            object.__setattr__(self, name, known[section])
        object.__setattr__(self, "chosen", {**known, "service": self.service})

    @property
    def choices(self) -> dict[str, Collection[str]]:
        """What a field may choose from, by the section that the model's fields name; with the books there are."""
        return {**self.chosen, "book": Known()}

    @property
    def service(self) -> tuple[str, ...]:
        """The kinds of fuse that the supply may be protected by."""
        return tuple(kind for kind, about in self.devices.items() if about.service)

    def laid_in(self, place: Place) -> tuple[str, ...]:
        """Return the ways that a group can lie in a place: those of its table, in the air only those that its surroundings leave room for."""
        fitting = tuple(name for name, columns in self.laid.items() if (place.ground or "air") in columns)
        return tuple(name for name in fitting if not place.laid or name in place.laid)

    def laid_as(self, place: Place, laid: str) -> str:
        """Return how a group lies once it is moved to a place: as it did where that exists there, else bunched, which is never the better one."""
        return laid if laid in self.laid_in(place) else self.laid_in(place)[0]

    def table(self, number: str) -> Table:
        """Return a table by its number or its name in the vocabulary. Raises NotInBook for one the rule set does not have."""
        return self.by_name[number]

    def outside(self, name: str, given: str, allowed: str) -> OutsideTable:
        """Return the refusal of a look-up for which a table of the vocabulary has no value."""
        return OutsideTable(self.table(name).number, given, allowed)

    def has(self, key: str) -> bool:
        """Say whether the book has a single limit or constant, by its key."""
        return key in self.limits

    def limit(self, key: str) -> float:
        """Return a single limit or constant by its key, for words alone; a rule takes it by its working. Raises NotInBook."""
        if key not in self.limits:
            raise NotInBook(self.title, key)
        value: float = self.table(T.LIMITS).cell(key, "value").value
        return value

    def ratings(self, kind: str) -> tuple[float, ...]:
        """Return what a kind of device is made in [A], by the tables; none where any rating may be set, or the book does not say."""
        about = self.devices[kind]
        if about.ratings or about.trips == "adjustable":
            return about.ratings
        name = T.FUSE_LOOPS if about.trips == "fuse" else T.BREAKER_LOOPS
        if name not in self.by_name:
            return ()
        return tuple(sorted({row.key[1] for row in self.table(name).rows if about.trips != "fuse" or row.key[0] == kind}))

    def device_title(self, kind: str) -> str:
        """Return what a kind of device is called; of one that the book does not know, its word with that said."""
        about = self.devices.get(kind)
        return about.title if about else f"{kind} (not known in this rule set)"

    def variant(self, of: str, known: Iterable[str]) -> str:
        """Return which formula of several this book has, the first where it says nothing. Raises RuleSetError for one that is none."""
        choices = tuple(known)
        found = self.variants.get(of, choices[0])
        if found not in choices:
            raise RuleSetError(f"{self.id}: {of} is {found!r}, one of {', '.join(choices)} is needed")
        return found

    def clause(self, name: str) -> str:
        """Return the clause that a name of the vocabulary stands for in this book; empty where it has none."""
        if name and name not in CLAUSES:
            raise RuleSetError(f"no clause {name!r} in the vocabulary")
        return self.clauses.get(name, "")

    def cited(self, text: str, name: str) -> str:
        """Return words with the clause they go by, in this book; by themselves where it has none."""
        clause = self.clause(name)
        return f"{text} ({clause})" if clause else text


def available() -> tuple[str, ...]:
    """Return the identities of the rule sets that ship with the product."""
    return tuple(sorted(p.parent.name for p in HERE.glob("*/rules.toml")))


@cache
def rule_set(ruleset: str) -> RuleSet:
    """Load and validate a rule set by identity. Raises RuleSetError if it is unknown or cannot be trusted."""
    if ruleset not in available():
        raise RuleSetError(f"no rule set {ruleset!r}; there are: {', '.join(available())}")
    return load_folder(HERE / ruleset)


def load_folder(folder: Path) -> RuleSet:
    """Load and validate a rule set from a folder with a rules.toml and its CSV files."""
    about = tomllib.loads((folder / "rules.toml").read_text("utf-8"))
    doubtful = _doubtful(folder / about["doubtful"])
    tables = {t["id"]: load_table(folder, t, doubtful) for t in about["table"]}
    if about.get("all_doubtful"):
        tables = {number: table.all_to_check() for number, table in tables.items()}
    _every_file_used(folder, about)
    named = {t["name"]: tables[t["id"]] for t in about["table"] if "name" in t}
    for what, given, known in (("table", set(named), TABLES), ("clause", set(about["clause"]), CLAUSES)):
        if strange := given - known:
            raise RuleSetError(f"{folder.name}: no such {what} in the vocabulary: {sorted(strange)}")
    if left := set(doubtful) - {t["file"].removesuffix(".csv") for t in about["table"]}:
        raise RuleSetError(f"{folder.name}: doubtful cells of unknown files {sorted(left)}")
    kinds = {
        "place": about["place"], "family": about["family"], "device": about["device"], "laid": about["laid"], "load": get_args(LoadKind),
    }  # fmt: skip
    return RuleSet(
        id=about["id"],
        title=about["title"],
        edition=about["edition"],
        tables=tables,
        families={k: _family(k, v, tables) for k, v in about["family"].items()},
        laid={k: {where: (c[0], c[1]) for where, c in v.items()} for k, v in about["laid"].items()},
        devices={k: DeviceRules(**{**v, "ratings": tuple(map(float, v.get("ratings", ())))}) for k, v in about["device"].items()},
        places={k: Place(**{"id": k, **v, "laid": tuple(v.get("laid", ()))}) for k, v in about["place"].items()},
        tails=about["tails"],
        open_places=tuple(about["open_places"]),
        trays=tuple(about["trays"]),
        plug_fuse=about["plug_fuse"],
        clauses=about["clause"],
        by_name=Named(about["title"], tables | named),
        limits=frozenset(row.key[0] for row in named[T.LIMITS].rows),
        not_asked=frozenset(about.get("not_asked", ())),
        silent=frozenset(about.get("silent", ())),
        variants=about.get("variant", {}),
        colours=_colours(folder.name, about["colours"]),
        words=load_words(folder / "words.toml", kinds),
    )


def _colours(book: str, about: dict[str, Any]) -> colours.Colours:
    if wrong := colours.troubles(about):
        raise RuleSetError(f"{book}: colours: {wrong}")
    return colours.read(about)


def _doubtful(path: Path) -> dict[str, set[tuple[str, str]]]:
    found: dict[str, set[tuple[str, str]]] = {}
    for line in path.read_text("utf-8").splitlines()[1:]:
        file, row, column = line.split(",")
        found.setdefault(file, set()).add((row, column))
    return found


def _every_file_used(folder: Path, about: dict[str, Any]) -> None:
    there = {p.name for p in folder.glob("*.csv")}
    named = {t["file"] for t in about["table"]} | {about["doubtful"]}
    if there != named:
        raise RuleSetError(f"{folder.name}: files and rules.toml differ: {sorted(there ^ named)}")


def _family(name: str, about: dict[str, Any], tables: dict[str, Table]) -> Family:
    for number, *columns in about.get("also", {}).values():
        if strange := set(columns) - set(tables[number].columns):
            raise RuleSetError(f"family {name}: table {number} has no columns {sorted(strange)}")
    capacity = tables[about["capacity"]]
    for columns in about["columns"].values():
        for number, column in (in_table(capacity.number, c) for c in columns):
            if number not in tables or column not in tables[number].columns:
                raise RuleSetError(f"family {name}: table {number} has no column {column}")
    return Family(
        id=name,
        title=about["title"],
        insulation=about["insulation"],
        capacity=about["capacity"],
        columns=about["columns"],
        drop=about.get("drop", ""),
        drop_columns=about.get("drop_columns", {}),
        drop_formation=about.get("drop_formation", {}),
        cpc=about["cpc"],
        pairs={float(k): float(v) for k, v in about.get("pairs", {}).items()},
        insulated_methods=tuple(about.get("insulated_methods", ())),
        sizes=tuple(row.key[0] for row in capacity.rows),
        armour=about.get("armour", ""),
        at_70=about.get("at_70", ""),
        also=about.get("also", {}),
    )
