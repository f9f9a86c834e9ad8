"""A pack laid over a book: its description read strictly, its tables cell by cell, and the rule set that both make together.

Everything that is wrong is told at once (`BadPack`); nothing of a pack that has anything wrong with it is used.
"""

from __future__ import annotations

import dataclasses
import tomllib
from collections.abc import Iterable, Mapping
from typing import Any

from mellow_span.core.cache import Cache
from mellow_span.core.model.parts import Pack
from mellow_span.core.rulesets import DeviceRules, Family, Named, Place, RuleSet, colours, in_table
from mellow_span.core.rulesets.colours import Colours
from mellow_span.core.rulesets.pack_about import ABOUT, MAY_LACK, PRICES, TABLE, WORDS, About, read_about, shaped
from mellow_span.core.rulesets.pack_sense import hold_to_sense
from mellow_span.core.rulesets.pack_tables import Origin, Told, read_table
from mellow_span.core.rulesets.table import Table
from mellow_span.core.rulesets.troubles import BadPack, Troubles
from mellow_span.core.rulesets.vocabulary import CLAUSES, TABLES, T
from mellow_span.core.rulesets.words import Phrase, Words

TRIPS = ("breaker", "adjustable", "fuse")
CPC = ("in_cable", "single", "core")
# What a formula of a book may be called, by what it is of; see `RuleSet.variant`.
VARIANTS = {"volt_drop": ("table", "formula")}


def lay(rules: RuleSet, pack: Pack) -> RuleSet:
    """Return a rule set with a pack laid over it. Raises BadPack with all that is wrong with it."""
    troubles = Troubles()
    found = read_about(pack, troubles)
    if found is None:
        raise BadPack(troubles.found)
    told, data = found
    laid = _Laying(rules, told, data, {f.name: f.text for f in pack.files}, troubles).laid()
    if troubles.found:
        raise BadPack(troubles.found)
    return laid


class _Laying:
    """One pack over one rule set, part by part; what is wrong is noted and the rest still looked at."""

    def __init__(self, rules: RuleSet, told: About, data: dict[str, Any], files: dict[str, str], troubles: Troubles) -> None:
        self.rules, self.told, self.data, self.files, self.troubles = rules, told, data, files, troubles
        self.where: dict[str, Told] = {}
        self.tables: dict[str, Table] = dict(rules.tables)
        self.names: dict[str, str] = {name: table.number for name, table in rules.by_name.items()}

    def laid(self) -> RuleSet:
        """The rule set that both make."""
        if self.told.over != self.rules.id.partition("+")[0]:
            self.wrong(self.told.over, f"{self.rules.id.partition('+')[0]}, the book it is to be laid over", "over")
        self._tables()
        laid = {**self.rules.laid, **self._laid()}
        devices = self._devices()
        families = self._families()
        places = self._places(families, laid)
        clauses = self._clauses()
        named = Named(self.rules.by_name.book, {name: self.tables[number] for name, number in self.names.items()})
        told, lists = self.told, self._lists()
        found = dataclasses.replace(
            self.rules,
            title=f"{self.rules.title} with {told.title} {told.version}", edition=f"{self.rules.edition}; {told.told}",
            tables=self.tables, by_name=named, families=families, laid=laid, places=places, devices=devices, clauses=clauses, colours=self._colours(),
            not_asked=lists["not_asked"], silent=lists["silent"], variants={**self.rules.variants, **self._variants()},
            limits=frozenset(row.key[0] for row in named[T.LIMITS].rows), prices=self.files.get(PRICES, self.rules.prices),
            memo=Cache(8_000), results=Cache(4_000), settled=Cache(2_000),
        )  # fmt: skip
        hold_to_sense(found, self.where, self.troubles)
        return dataclasses.replace(found, words=self._words(found))

    def wrong(self, given: object, allowed: str, column: str) -> None:
        """Note what is wrong in pack.toml."""
        self.troubles.add(ABOUT, given, allowed, column=column)

    # Tables ------------------------------------------------------------------------------------------------------------

    def _tables(self) -> None:
        origin, named = Origin(self.told.told, bool(self.told.checked)), {ABOUT, PRICES, WORDS}
        seen: set[str] = set()
        for at, entry in enumerate(self.data.get("table", ())):
            where = f"table[{at}]"
            if not isinstance(entry, dict):
                self.wrong(entry, "a section with id and file", where)
                continue
            shaped(entry, TABLE, where, self.troubles)
            if missing := [n for n in ("id", "file") if not isinstance(entry.get(n), str) or not entry[n]]:
                self.wrong("", "some text; it cannot be left out", f"{where}.{missing[0]}")
                continue
            named.add(entry["file"])
            if entry["id"] in seen:
                self.wrong(entry["id"], "each table once", f"{where}.id")
                continue
            seen.add(entry["id"])
            self._table(entry, where, origin)
        for name in sorted(set(self.files) - named):
            self.troubles.add(name, name, f"only files that {ABOUT} names, {PRICES} and {WORDS}")

    def _table(self, entry: dict[str, Any], where: str, origin: Origin) -> None:
        base, text = self.rules.tables.get(entry["id"]), self.files.get(entry["file"])
        if text is None:
            self.wrong(entry["file"], "a file of the pack: " + ", ".join(sorted(self.files)), f"{where}.file")
            return
        if (name := entry.get("name")) is not None and name not in TABLES:
            self.wrong(name, "a name of the vocabulary: " + ", ".join(sorted(TABLES)), f"{where}.name")
            return
        if base is None and not entry.get("rows"):
            for needed in ("title", "source", "unit"):
                if needed not in entry:
                    self.wrong("", "some text: the book has no such table", f"{where}.{needed}")
        found = read_table(entry, text, base, origin, self.troubles)
        if found is None:
            return
        table, self.where[entry["id"]] = found
        if base is not None and not entry.get("rows") and (lost := sorted(set(base.columns) - set(table.columns))):
            self.troubles.add(
                entry["file"], ", ".join(table.columns), "every column that the table of the book has; missing: " + ", ".join(lost), 1
            )
            return
        self.tables[table.number] = table
        if name is not None:
            self.names[name] = table.number
        self.names[table.number] = table.number

    # Cables, places, devices ---------------------------------------------------------------------------------------------

    def _sections(self, name: str) -> Iterable[tuple[str, dict[str, Any]]]:
        for key, about in self.data.get(name, {}).items():
            if isinstance(about, dict):
                yield key, about
            else:
                self.wrong(about, "a section", f"{name}.{key}")

    def _devices(self) -> dict[str, DeviceRules]:
        known = {
            "title": str,
            "conventional": str,
            "trips": str,
            "rewirable": bool,
            "deemed": bool,
            "household": bool,
            "service": bool,
            "ratings": list,
        }
        found = dict(self.rules.devices)
        rows = {row.key[0] for row in self.tables[self.names[T.CONVENTIONAL]].rows} if T.CONVENTIONAL in self.names else set()
        for key, about in self._sections("device"):
            where = f"device.{key}"
            if not self._held(about, known, where, () if key in found else ("title", "conventional", "trips")):
                continue
            if about.get("trips", TRIPS[0]) not in TRIPS:
                self.wrong(about["trips"], "one of " + ", ".join(TRIPS), f"{where}.trips")
            if about.get("service") and (about.get("trips") or (found[key].trips if key in found else "")) != "fuse":
                self.wrong(True, "a fuse alone: what protects the supply ahead of the meter", f"{where}.service")
            if "conventional" in about and about["conventional"] not in rows:
                self.wrong(
                    about["conventional"],
                    "a row of the conventional currents: " + ", ".join(sorted(map(str, rows))),
                    f"{where}.conventional",
                )
            given = dict(about)
            if "ratings" in about:
                given["ratings"] = self._numbers(about["ratings"], f"{where}.ratings")
            found[key] = dataclasses.replace(found[key], **given) if key in found else DeviceRules(**given)
        return found

    def _families(self) -> dict[str, Family]:
        known = {
            "title": str, "insulation": str, "capacity": str, "columns": dict, "drop": str, "drop_columns": dict, "drop_formation": dict, "cpc": str,
            "pairs": dict, "insulated_methods": list, "armour": str, "at_70": str, "also": dict,
        }  # fmt: skip
        found = dict(self.rules.families)
        for key, about in self._sections("family"):
            where = f"family.{key}"
            if not self._held(about, known, where, () if key in found else ("title", "insulation", "capacity", "columns", "cpc")):
                continue
            if about.get("cpc", CPC[0]) not in CPC:
                self.wrong(about["cpc"], "one of " + ", ".join(CPC), f"{where}.cpc")
            given: dict[str, Any] = {**about}
            if "pairs" in about:
                given["pairs"] = {float(k): float(v) for k, v in about["pairs"].items() if self._pair(k, v, f"{where}.pairs")}
            if "insulated_methods" in about:
                given["insulated_methods"] = tuple(about["insulated_methods"])
            blank = Family(key, "", "", "", {}, "", {}, {}, "", {}, (), ())
            found[key] = dataclasses.replace(found.get(key, blank), **given)
            self._columns(found[key], where)
            if found[key].at_70 and found[key].at_70 not in {**self.rules.families, **self.data.get("family", {})}:
                self.wrong(found[key].at_70, "a family of cables", f"{where}.at_70")
        sized = {}
        for key, family in found.items():
            table = self.tables.get(family.capacity)
            sizes = tuple(row.key[0] for row in table.rows) if table else family.sizes
            sized[key] = dataclasses.replace(family, sizes=sizes)
        return sized

    def _columns(self, family: Family, where: str) -> None:
        """Every table and column that a family names is there."""
        wanted: list[tuple[str, str, str]] = []
        for method, columns in family.columns.items():
            if not isinstance(columns, list) or not columns:
                self.wrong(columns, "a list: the columns for 2 and 3 loaded conductors", f"{where}.columns.{method}")
                continue
            wanted += [(*in_table(family.capacity, str(c)), f"{where}.columns.{method}") for c in columns]
        for method, listed in family.also.items():
            if not isinstance(listed, list) or len(listed) < 2:
                self.wrong(listed, "a list: a table, then its columns", f"{where}.also.{method}")
                continue
            wanted += [(str(listed[0]), str(c), f"{where}.also.{method}") for c in listed[1:]]
        if family.drop and family.drop not in self.tables:
            self.wrong(family.drop, "a table: " + ", ".join(self.tables), f"{where}.drop")
        for number, column, at in wanted:
            if number not in self.tables:
                self.wrong(number, "a table: " + ", ".join(self.tables), at)
            elif column not in self.tables[number].columns:
                self.wrong(column, f"a column of {number}: " + ", ".join(self.tables[number].columns), at)

    def _pair(self, line: Any, cpc: Any, where: str) -> bool:
        try:
            good = 0 < float(line) <= 1000 and 0 < float(cpc) <= 1000
        except (TypeError, ValueError):
            good = False
        if not good:
            self.wrong(f"{line} = {cpc}", "a line csa and its cpc in mm²", where)
        return good

    def _laid(self) -> dict[str, dict[str, tuple[str, str]]]:
        found = {}
        for key, about in self._sections("laid"):
            ways: dict[str, tuple[str, str]] = {}
            for where, pair in about.items():
                table = self.tables.get(str(pair[0])) if isinstance(pair, list) and len(pair) == 2 else None
                if table is None or pair[1] not in table.columns:
                    self.wrong(pair, "a table and one of its columns, for air, direct or ducts", f"laid.{key}.{where}")
                elif where not in ("air", "direct", "ducts"):
                    self.wrong(where, "air, direct or ducts", f"laid.{key}")
                else:
                    ways[where] = (str(pair[0]), str(pair[1]))
            found[key] = ways
        return found

    def _places(self, families: dict[str, Family], laid: Mapping[str, Any]) -> dict[str, Place]:
        known = {
            "title": str, "method": str, "look": str, "concealed": bool, "joists": bool, "ground": str, "insulated_later": str, "surrounded": bool,
            "encloses": bool,
            "laid": list,
        }  # fmt: skip
        methods, looks = {m for f in families.values() for m in f.methods}, {p.look for p in self.rules.places.values()}
        found = dict(self.rules.places)
        mine = dict(self._sections("place"))
        for key, about in mine.items():
            where = f"place.{key}"
            if not self._held(about, known, where, () if key in found else ("title", "method", "look")):
                continue
            choices: tuple[tuple[str, Iterable[str]], ...] = (
                ("method", methods), ("look", looks), ("ground", ("", "direct", "ducts")), ("insulated_later", {"", *found, *mine}),
            )  # fmt: skip
            for name, allowed in choices:
                if name in about and about[name] not in allowed:
                    self.wrong(about[name], "one of " + ", ".join(sorted(filter(None, allowed))), f"{where}.{name}")
            ways = tuple(about.get("laid", ()))
            if strange := [w for w in ways if w not in laid]:
                self.wrong(", ".join(map(str, strange)), "one of " + ", ".join(laid), f"{where}.laid")
            given = {**about, **({"laid": ways} if "laid" in about else {})}
            found[key] = dataclasses.replace(found[key], **given) if key in found else Place(**{"id": key, **given})
        return found

    # The rest ------------------------------------------------------------------------------------------------------------

    def _clauses(self) -> dict[str, str]:
        found = dict(self.rules.clauses)
        for name, clause in self.data.get("clause", {}).items():
            if name not in CLAUSES:
                self.wrong(name, "a name of the vocabulary of clauses", f"clause.{name}")
            elif not isinstance(clause, str) or not clause.strip() or len(clause) > 60:
                self.wrong(clause, "the number of a clause, up to 60 characters", f"clause.{name}")
            else:
                found[name] = clause
        return found

    def _colours(self) -> Colours:
        """The colours of the pack in the place of those of the book: all of them, so that none is left over from another country."""
        about = self.data.get("colours")
        if about is None:
            return self.rules.colours
        wrong = colours.troubles(about)
        for name, given, allowed in wrong:
            self.wrong(given, allowed, f"colours.{name}")
        return self.rules.colours if wrong else colours.read(about)

    def _lists(self) -> dict[str, frozenset[str]]:
        """Checks not asked and checks without data: what the pack says takes the place of what the book says."""
        given = {name: self.data.get(name) for name in ("not_asked", "silent")}
        own = {"not_asked": self.rules.not_asked, "silent": self.rules.silent}
        lacking = MAY_LACK | self.rules.not_asked
        if dropped := [c for c in self.told.not_asked if c not in lacking]:
            allowed = f"checks that a book may lack ({', '.join(sorted(lacking))}); of one it has no data for a pack says so under silent"
            self.wrong(", ".join(dropped), f"{allowed}, and it is not known", "not_asked")
        return {name: own[name] if value is None else frozenset(map(str, value)) for name, value in given.items()}

    def _variants(self) -> dict[str, str]:
        found = {}
        for name, value in self.data.get("variant", {}).items():
            if value not in VARIANTS.get(name, ()):
                allowed = "; ".join(f"{of}: {', '.join(ways)}" for of, ways in VARIANTS.items())
                self.wrong(value, f"one of the formulas there are: {allowed}", f"variant.{name}")
            else:
                found[name] = str(value)
        return found

    def _words(self, laid: RuleSet) -> Words:
        """The phrases of the book with those of the pack: each names one thing."""
        text, words = self.files.get(WORDS), laid.words
        if text is None:
            return words
        try:
            data = tomllib.loads(text)
        except tomllib.TOMLDecodeError as error:
            self.troubles.add(WORDS, error, "a file in TOML")
            return words
        kinds: dict[str, tuple[str, Mapping[str, Any]]] = {
            "place": ("places", laid.places), "family": ("families", laid.families), "device": ("devices", laid.devices), "laid": ("laid", laid.laid),
        }  # fmt: skip
        for section, entries in data.items():
            if section not in kinds or not isinstance(entries, dict):
                self.troubles.add(WORDS, section, "one of " + ", ".join(kinds), column=section)
                continue
            field, known = kinds[section]
            phrases: list[Phrase] = list(getattr(words, field))
            taken = {p.text for p in phrases}
            for means, texts in entries.items():
                if means not in known:
                    self.troubles.add(WORDS, means, "one of " + ", ".join(known), column=f"{section}.{means}")
                for phrase in texts if isinstance(texts, list) else [texts]:
                    if not isinstance(phrase, str) or not phrase.strip() or phrase != phrase.lower() or phrase in taken:
                        allowed = "a phrase in small letters that names nothing else yet"
                        self.troubles.add(WORDS, phrase, allowed, column=f"{section}.{means}")
                        continue
                    taken.add(phrase)
                    phrases.append(Phrase(phrase, means))
            more: Any = {field: tuple(phrases)}
            words = dataclasses.replace(words, **more)
        return words

    def _held(self, about: dict[str, Any], known: Mapping[str, type], where: str, needed: Iterable[str]) -> bool:
        before = len(self.troubles.found)
        shaped(about, known, where, self.troubles)
        for name in needed:
            if name not in about:
                self.wrong("", "some value: the book has no such thing to take it from", f"{where}.{name}")
        return len(self.troubles.found) == before

    def _numbers(self, values: list[Any], where: str) -> tuple[float, ...]:
        good = [v for v in values if isinstance(v, int | float) and not isinstance(v, bool) and 0 < v <= 10_000]
        if len(good) != len(values) or sorted(set(good)) != good:
            self.wrong(values, "numbers above 0 that rise", where)
        return tuple(float(v) for v in good)
