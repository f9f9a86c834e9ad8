"""The open job format: one JSON document with the field names of the core's model, described by a JSON Schema made from it."""

from __future__ import annotations

import dataclasses
import re
import types
from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from typing import Any, Literal, Union, get_args, get_origin

from mellow_span.core.errors import InputError
from mellow_span.core.model.limits import MOST, hold
from mellow_span.core.model.parse import hints, parse, required, specs, text_value
from mellow_span.core.model.parts import (
    Board,
    Cable,
    CellRead,
    Circuit,
    Device,
    Dismissal,
    Installation,
    Load,
    Pack,
    PackFile,
    Route,
    Run,
    Span,
    Stage,
    Supply,
    Tagged,
)
from mellow_span.core.model.routes import SHARED
from mellow_span.core.model.spec import TEXT_LIMIT
from mellow_span.core.model.stages import check_stages, views
from mellow_span.core.model.tree import identities, ordered
from mellow_span.core.rulesets import Known, available
from mellow_span.core.rulesets.readings import checked, rules_of
from mellow_span.core.site.earlier import earlier, held_whole
from mellow_span.core.site.entries import Entry
from mellow_span.core.site.kinds import KINDS
from mellow_span.exchange.site_log import MOST as MOST_ENTRIES
from mellow_span.exchange.site_log import entries_read, entry_written

FORMAT = "mellow-span/job"
VERSION = 7
# Stand at the top of a file, beside the installation.
AT_TOP = ("name", "note")
# A number that stays: letters of the board, and the way of a circuit.
A_NUMBER = re.compile(r"[A-HJ-NP-Z]{1,2}([1-9][0-9]{0,3})?")
MOST_NUMBERS = 5000
# Stands there too where anything was written down on site.
SITE = "site"


def _from_1(data: dict[str, Any]) -> dict[str, Any]:
    """Version 1 took a sub-main without loads at the rating of its device; version 2 takes the demand of its board unless told so."""
    installation = data.get("installation")
    circuits = installation.get("circuits") if isinstance(installation, dict) else None
    if isinstance(circuits, list):
        told = [{**c, "ib_from": "device"} if isinstance(c, dict) and c.get("feeds") and not c.get("loads") else c for c in circuits]
        data = {**data, "installation": {**installation, "circuits": told}}  # type: ignore[dict-item]
    return {**data, "version": 2}


def _from_2(data: dict[str, Any]) -> dict[str, Any]:
    """Version 3 only adds fields, each with a default on the safe side: terminals of 70 °C, outlets of 13 A, a household."""
    return {**data, "version": 3}


def _from_3(data: dict[str, Any]) -> dict[str, Any]:
    """Version 4 has routes in place of bundles: the surroundings that all spans of a bundle have in common move up to the route.

    Nothing computes otherwise: where the spans differ the route leaves the field to each.
    """
    installation = data.get("installation")
    if not isinstance(installation, dict) or "bundles" not in installation:
        return {**data, "version": 4}
    inside = {k: v for k, v in installation.items() if k != "bundles"}
    bundles, circuits = installation["bundles"], installation.get("circuits")
    spans: list[dict[str, Any]] = []
    if isinstance(circuits, list):
        inside["circuits"] = [_routed(c, spans) for c in circuits]
    inside["routes"] = [_route(b, spans) for b in bundles] if isinstance(bundles, list) else bundles
    return {**data, "installation": inside, "version": 4}


def _routed(circuit: Any, spans: list[dict[str, Any]]) -> Any:
    run = circuit.get("run") if isinstance(circuit, dict) else None
    if not isinstance(run, dict) or not isinstance(run.get("spans"), list):
        return circuit
    renamed = [{("route" if k == "bundle" else k): v for k, v in s.items()} if isinstance(s, dict) else s for s in run["spans"]]
    spans += [s for s in renamed if isinstance(s, dict)]
    return {**circuit, "run": {**run, "spans": renamed}}


def _route(bundle: Any, spans: list[dict[str, Any]]) -> Any:
    if not isinstance(bundle, dict):
        return bundle
    route = {("pull" if k == "length" else k): v for k, v in bundle.items()}
    if route.get("kind") == "bundle":
        route["kind"] = "open"
    mine = [s for s in spans if s.get("route") == bundle.get("id")]
    for name in SHARED if mine else ():
        first = mine[0].get(name)
        if first is not None and all(s.get(name) == first for s in mine):
            route[name] = first
    return route


def _from_4(data: dict[str, Any]) -> dict[str, Any]:
    """Version 5 only adds the log on site, beside the installation."""
    return {**data, "version": 5}


def _from_5(data: dict[str, Any]) -> dict[str, Any]:
    """Version 6 has readings in the log alone: those that circuits held in themselves become entries of it, once."""
    installation = data.get("installation")
    circuits = installation.get("circuits") if isinstance(installation, dict) else None
    if not isinstance(circuits, list) or not isinstance(data.get(SITE, []), list):
        return {**data, "version": 6}
    # What is no object of readings stays where it is, to be refused by its name.
    holding = [c for c in circuits if isinstance(c, dict) and "readings" in c and held_whole(c["readings"])]
    moved = [e for c in holding for e in earlier(str(c.get("id", "")), c["readings"])]
    left = [{k: v for k, v in c.items() if k != "readings"} if c in holding else c for c in circuits]
    there = {e.get("id") for e in data.get(SITE, []) if isinstance(e, dict)}
    site = [*data.get(SITE, []), *(e for e in moved if e["id"] not in there)]
    return {**data, "installation": {**installation, "circuits": left}, "version": 6, **({SITE: site} if site else {})}  # type: ignore[dict-item]


def _from_6(data: dict[str, Any]) -> dict[str, Any]:
    """Version 7 only adds numbers that stay."""
    return {**data, "version": 7}


# What brings a file from an older version to the next one.
UPGRADES: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {1: _from_1, 2: _from_2, 3: _from_3, 4: _from_4, 5: _from_5, 6: _from_6}


def read(data: Any) -> Installation:
    """Read a job from the plain data of a file, without its log on site; see `read_file`."""
    return read_file(data)[0]


def read_file(data: Any) -> tuple[Installation, tuple[Entry, ...]]:
    """Read a job and its log on site from the plain data of a file; one of an older version is brought up to date first.

    Raises InputError naming the field for anything unknown, missing or out of range, for a tree that is none, for references that point at
    nothing, and for a version newer than this product.
    """
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise InputError("format", data.get("format") if isinstance(data, dict) else type(data).__name__, f'"{FORMAT}"')
    known = ("format", "version", *AT_TOP, "installation", SITE)
    for field in data:
        if field not in known:
            raise InputError(str(field), data[field], "one of " + ", ".join(known))
    version = data.get("version")
    while isinstance(version, int) and not isinstance(version, bool) and version in UPGRADES:
        data = UPGRADES[version](data)
        version = data["version"]
    if version != VERSION or isinstance(version, bool):
        raise InputError("version", version, f"1 to {VERSION}; a newer file needs a newer Mellow Span")
    top = {name: text_value(specs(Installation)[name], data.get(name, ""), name) for name in AT_TOP}
    inside = data.get("installation", {})
    for name in AT_TOP:
        if isinstance(inside, dict) and name in inside:
            raise InputError(f"installation.{name}", inside[name], "nothing: it stands beside the installation")
    found = dataclasses.replace(parse(Installation, inside, "installation"), name=top["name"], note=top["note"])
    _rules(found)
    _references(found)
    _numbers(found)
    _counts(found)
    return found, entries_read(data.get(SITE, []), found)


def _rules(job: Installation) -> None:
    """Raise InputError for a rule set, family, place or way of laying that does not exist."""
    if job.ruleset not in Known():
        raise InputError("installation.ruleset", job.ruleset, "one of " + ", ".join(available()))
    try:
        rules = rules_of(job)
    except InputError as error:
        raise InputError("installation.packs", error.given, error.allowed) from None
    _choice("installation.supply.fuse_kind", job.supply.fuse_kind, rules.service)
    for i, circuit in enumerate(job.circuits):
        path = f"installation.circuits[{i}].run"
        _choice(f"installation.circuits[{i}].device.kind", circuit.device.kind, rules.devices)
        _choice(f"{path}.cable.family", circuit.run.cable.family, rules.families)
        for j, span in enumerate(circuit.run.spans):
            _choice(f"{path}.spans[{j}].place", span.place, rules.places)
            _choice(f"{path}.spans[{j}].laid", span.laid, rules.laid)
    for i, cell in enumerate(job.cells):
        try:
            checked(rules, cell)
        except InputError as error:
            raise InputError(f"installation.cells[{i}].{error.field}", error.given, error.allowed) from None
    for i, route in enumerate(job.routes):
        _choice(f"installation.routes[{i}].laid", route.laid, rules.laid)
        if route.place is not None:
            _choice(f"installation.routes[{i}].place", route.place, rules.places)


def _choice(field: str, value: str | None, known: Iterable[str]) -> None:
    if value is not None and value not in known:
        raise InputError(field, value, "one of " + ", ".join(known))


def _kept_alive(i: int, circuit: Circuit, boards: list[str]) -> None:
    for j, load in enumerate(circuit.loads):
        if load.alone is not None and load.alone not in boards:
            raise InputError(f"installation.circuits[{i}].loads[{j}].alone", load.alone, "a board of the file: " + ", ".join(boards))


def _references(job: Installation) -> None:
    """Raise InputError where an identity stands twice or points at nothing, and for a tree that is none; places are named as in the file."""
    seen: set[tuple[str, str]] = set()
    for kind, identity in identities(job):
        if (kind, identity) in seen:
            raise InputError(f"installation.{kind}s.id", identity, "each identity once")
        seen.add((kind, identity))
    boards, routes = [b.id for b in job.boards], [b.id for b in job.routes]
    if not boards:
        raise InputError("installation.boards", "none", "at least one board")
    for i, circuit in enumerate(job.circuits):
        for field, value in (("board", circuit.board), ("feeds", circuit.feeds)):
            if value is not None and value not in boards:
                raise InputError(f"installation.circuits[{i}].{field}", value, "a board of the file: " + ", ".join(boards))
        _kept_alive(i, circuit, boards)
        for j, span in enumerate(circuit.run.spans):
            if span.route is not None and span.route not in routes:
                allowed = "a route of the file: " + ", ".join(routes) if routes else "a route of the file, which has none"
                raise InputError(f"installation.circuits[{i}].run.spans[{j}].route", span.route, allowed)
    _fed_once(job)
    try:
        check_stages(job)
        for now in views(job):
            ordered(now)
    except InputError as error:
        raise InputError(f"installation.{error.field}", error.given, error.allowed) from None


def _fed_once(job: Installation) -> None:
    """Raise InputError for a board of two sub-mains; where a job has stages each is asked by itself."""
    fed = Counter(circuit.feeds for circuit in job.circuits if circuit.feeds and not job.stages)
    for i, circuit in enumerate(job.circuits):
        if circuit.feeds and fed[circuit.feeds] > 1:
            raise InputError(f"installation.circuits[{i}].feeds", circuit.feeds, "one sub-main to each board")


def _numbers(job: Installation) -> None:
    """Raise InputError for a number that stays and is none, and where a number or a part stands twice."""
    parts, known = set(), set()
    letters = {b.id for b in job.boards}
    for i, tagged in enumerate(job.numbers):
        field = f"installation.numbers[{i}]"
        if not A_NUMBER.fullmatch(tagged.number):
            raise InputError(f"{field}.number", tagged.number, "letter and way of a circuit, as A3, or the letter of a board")
        alone = tagged.number.isalpha()
        if (alone, tagged.part) in parts or tagged.number in known:
            raise InputError(f"{field}.number", tagged.number, "each number once, and one for each part")
        if not alone and tagged.part in letters and tagged.part not in {c.id for c in job.circuits}:
            raise InputError(f"{field}.number", tagged.number, "a letter: it is that of a board")
        parts.add((alone, tagged.part))
        known.add(tagged.number)


def _counts(job: Installation) -> None:
    """Raise InputError for more parts than a job may have, the same as when they are added one by one."""
    per_board = Counter(c.board for c in job.circuits)
    for kind, count in (
        ("board", len(job.boards)),
        ("route", len(job.routes)),
        ("stage", len(job.stages)),
        ("dismissal", len(job.dismissals)),
        ("circuit", max(per_board.values(), default=0)),
        ("load", max((len(c.loads) for c in job.circuits), default=0)),
        ("span", max((len(c.run.spans) for c in job.circuits), default=0)),
    ):
        if count > MOST[kind]:
            raise InputError(f"installation.{kind}", count, f"at most {MOST[kind]} of them")
    if len(job.numbers) > MOST_NUMBERS:
        raise InputError("installation.numbers", len(job.numbers), f"at most {MOST_NUMBERS} of them")
    hold(job, place="installation.")


def write(job: Installation, site: Sequence[Entry] = ()) -> dict[str, Any]:
    """Return a job as the plain data of a file; a field that has its default is left out. site: its log, where that goes with it."""
    inside = _plain(job)
    top = {name: inside.pop(name, "") for name in AT_TOP}
    beside = {SITE: [entry_written(e) for e in site]} if site else {}
    return {"format": FORMAT, "version": VERSION, **top, "installation": inside, **beside}


def _plain(value: Any) -> Any:
    if isinstance(value, tuple):
        return [_plain(part) for part in value]
    if not dataclasses.is_dataclass(value):
        return value
    found = {}
    for f in dataclasses.fields(value):
        part = getattr(value, f.name)
        default = f.default_factory() if f.default_factory is not dataclasses.MISSING else f.default
        if part != default:
            found[f.name] = _plain(part)
    return found


def schema() -> dict[str, Any]:
    """Return the JSON Schema of the format, every field with its meaning and unit."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": f"Mellow Span job, version {VERSION}",
        "type": "object",
        "required": ["format", "version", "installation"],
        "additionalProperties": False,
        "properties": {
            "format": {"const": FORMAT},
            "version": {"const": VERSION},
            **{name: _property(Installation, name) for name in AT_TOP},
            "installation": _object(Installation),
            SITE: {"type": "array", "maxItems": MOST_ENTRIES, "items": _entry(), "description": "The log on site, see docs/format"},
        },
    }


def _entry() -> dict[str, Any]:
    texts = {name: {"type": "string", "maxLength": TEXT_LIMIT} for name in ("id", "subject", "at", "by", "about", "clock")}
    kinds = {"kind": {"enum": list(KINDS)}, "data": {"type": "object"}}
    return {"type": "object", "required": ["id", "kind", "at"], "additionalProperties": False, "properties": {**texts, **kinds}}


def _object(cls: Any) -> dict[str, Any]:
    properties = {name: _property(cls, name) for name in _inside(cls)}
    return {"type": "object", "required": list(required(cls)), "additionalProperties": False, "properties": properties}


def _inside(cls: Any) -> list[str]:
    """The fields of a part as a file holds them: name and note of a job stand beside it."""
    return [name for name in hints(cls) if cls is not Installation or name not in AT_TOP]


def _property(cls: Any, name: str) -> dict[str, Any]:
    return {**_kind(hints(cls)[name], specs(cls)[name]), **_about(specs(cls)[name])}


def _about(about: Any) -> dict[str, Any]:
    unit = about.get("unit")
    return {"description": about["meaning"] + (f" [{unit}]" if unit else "")}


def _kind(kind: Any, about: Any) -> dict[str, Any]:
    origin = get_origin(kind)
    if origin in (types.UnionType, Union):
        inner = next(a for a in get_args(kind) if a is not type(None))
        return {"anyOf": [_kind(inner, about), {"type": "null"}]}
    if origin is Literal:
        return {"enum": list(get_args(kind))}
    if origin is tuple:
        return {"type": "array", "items": _object(get_args(kind)[0])}
    if dataclasses.is_dataclass(kind):
        return _object(kind)
    plain: dict[str, Any] = {"type": {bool: "boolean", str: "string", int: "integer", float: "number"}[kind]}
    if about.get("lo") is not None:
        plain |= {"minimum": about["lo"], "maximum": about["hi"]}
    return plain | ({"maxLength": about.get("most", TEXT_LIMIT)} if kind is str else {})


PARTS = (Installation, Supply, Board, Route, Circuit, Device, Load, Run, Cable, Span, Stage, Dismissal, CellRead, Pack, PackFile, Tagged)


def fields() -> str:
    """Return every field of every part as Markdown: unit, range or choices, default and meaning."""
    lines = [
        "# Every field of the format",
        "",
        "Made from the model: `mellow-span fields`. A field may be left out when it has its default.",
        "",
    ]
    for cls in PARTS:
        lines += [f"## {cls.__name__}", "", "| field | unit | accepts | default | meaning |", "|---|---|---|---|---|"]
        lines += [_row(cls, name, hints(cls)[name]) for name in _inside(cls)]
        lines.append("")
    return "\n".join(lines)


def fields_listed() -> list[dict[str, Any]]:
    """Return every field of every part as plain data: part, field, unit, what it accepts as JSON Schema, and meaning."""
    return [
        {"part": cls.__name__, "field": name, "unit": about.get("unit", ""), "accepts": _property(cls, name), "meaning": about["meaning"]}
        for cls in PARTS
        for name in _inside(cls)
        for about in (specs(cls)[name],)
    ]


# What a section of a rule set that a field chooses from is called.
CHOSEN = {"laid": "way of laying", "service": "service fuse"}


def _row(cls: Any, name: str, kind: Any) -> str:
    about = specs(cls)[name]
    accepts = _kind(kind, about)
    inner = next((k for k in accepts.get("anyOf", [accepts]) if k.get("type") != "null"), accepts)
    if "enum" in inner:
        told = ", ".join(f"`{c}`" if c != "" else "empty" for c in inner["enum"])
    elif "minimum" in inner:
        told = f"{inner['minimum']:g} to {inner['maximum']:g}" + (", whole" if inner["type"] == "integer" else "")
    elif about.get("choices"):
        told = f"a {CHOSEN.get(about['choices'], about['choices'])} of the rule set"
    else:
        told = {"string": "text", "boolean": "true, false", "object": "an object", "array": "a list"}.get(inner.get("type", ""), "a number")
    field = next(f for f in dataclasses.fields(cls) if f.name == name)
    return f"| `{name}` | {about.get('unit', '')} | {told} | {_default(cls, field)} | {about['meaning']} |"


def _default(cls: Any, field: dataclasses.Field[Any]) -> str:
    if field.name in required(cls):
        return "must be given"
    value = None if field.default is dataclasses.MISSING or field.default == () or field.default == "" else field.default
    return (
        "none"
        if value is None
        else f"`{str(value).lower() if isinstance(value, bool) else f'{value:g}' if isinstance(value, float) else value}`"
    )
