"""The fields of each kind of part as one flat list of names: `device.rating` of a circuit is a field of the circuit.

Changes, history and comparisons speak of a part and a field; nothing else has to know that a device sits inside its circuit.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Mapping
from functools import cache
from typing import Any, Literal

from mellow_span.core.errors import InputError
from mellow_span.core.model.parse import field_value, hints, specs
from mellow_span.core.model.parts import Board, Cable, Circuit, Device, Dismissal, Installation, Load, Route, Span, Stage, Supply

PartKind = Literal["job", "supply", "board", "circuit", "load", "span", "route", "stage", "dismissal"]
PART: dict[str, Any] = {
    "job": Installation, "supply": Supply, "board": Board, "circuit": Circuit, "load": Load, "span": Span, "route": Route,
    "stage": Stage, "dismissal": Dismissal,
}  # fmt: skip
# Values inside a circuit whose fields are fields of the circuit, by the name they go by.
INSIDE: dict[str, Any] = {"device": Device, "cable": Cable}
# What is not set field by field: identities, and what belongs to another part.
_APART = {
    "job": {"supply", "boards", "circuits", "routes", "stages", "dismissals", "cells", "packs", "numbers"},
    "circuit": {"id", "board", "loads", "run", *INSIDE},
}
# Fields that name another part of the job, with its kind.
REFERENCES: dict[tuple[str, str], PartKind] = {
    # When a sub-main is there before what it feeds: two may feed one board, one after the other.
    ("board", "from_stage"): "stage", ("board", "until_stage"): "stage", ("circuit", "from_stage"): "stage", ("circuit", "until_stage"): "stage",
    ("load", "from_stage"): "stage", ("load", "until_stage"): "stage",
    ("circuit", "feeds"): "board", ("span", "route"): "route", ("span", "after"): "span", ("load", "span"): "span",
    ("load", "alone"): "board",
}  # fmt: skip

# Fields that mean something only beside each other: what one person sets of them and what another does is merged by nobody but a person. A figure
# belongs to what it is a figure of, and to where it is from: 10 mm² of another cable, or somebody's assumption called measured, is what nobody said.
TOGETHER: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("circuit", ("cable.family", "cable.csa", "cable.cores", "cable.cpc", "cable.cpc_csa")),
    ("circuit", ("device.kind", "device.rating")),
    ("circuit", ("device.kind", "device.curve")),
    ("circuit", ("device.kind", "device.ir", "device.isd", "device.tsd", "device.ii")),
    ("circuit", ("device.idn", "device.delayed")),
    ("circuit", ("terminals", "terminals_by")),
    ("circuit", ("group_amps", "group_amps_by")),
    ("circuit", ("accessory", "accessory_in")),
    ("circuit", ("accessory", "accessory_csa")),
    ("circuit", ("accessory", "accessory_poles")),
    ("load", ("basis", "amount", "rated_volts")),
    ("load", ("lampholders", "basis")),
    ("load", ("outlet", "outlet_idn")),
    ("load", ("elv_volts", "elv_drop")),
    ("load", ("fault_amps", "maker_rcd")),
    ("span", ("own_family", "own_csa", "own_cores", "own_cpc", "own_cpc_csa")),
    ("span", ("given_iz", "given_for", "given_by")),
    ("span", ("joint", "joint_reached")),
    ("supply", ("ze", "ze_source")),
    ("supply", ("ipf", "ipf_source")),
    ("supply", ("fuse_kind", "fuse_in", "fuse_source")),
    ("supply", ("surge", "surge_reason")),
    ("supply", ("surge_backup", "surge_backup_most")),
    ("board", ("ra", "ra_source")),
    ("board", ("rcd_idn", "rcd_delayed")),
    ("board", ("rcd2_idn", "rcd2_delayed")),
    ("board", ("rcd3_idn", "rcd3_delayed")),
    ("board", ("earthing", "earthing_reason")),
    ("route", ("kind", "diameter")),
    ("route", ("kind", "width")),
    ("route", ("kind", "height")),
)


@cache
def together(kind: str, name: str) -> frozenset[str]:
    """Return the other fields of a part that a field belongs together with.

    >>> sorted(together("supply", "ze"))
    ['ze_source']
    """
    return frozenset(n for k, names in TOGETHER if k == kind and name in names for n in names) - {name}


@cache
def own_fields(kind: str) -> tuple[str, ...]:
    """Return the fields of a kind of part that are its own, as they can be set."""
    return tuple(f.name for f in dataclasses.fields(PART[kind]) if f.name not in _APART.get(kind, {"id"}))


@cache
def field_names(kind: str) -> tuple[str, ...]:
    """Return every settable field of a kind of part, those of a circuit's device and cable by their dotted name."""
    inside = [f"{name}.{f.name}" for name, cls in INSIDE.items() for f in dataclasses.fields(cls)] if kind == "circuit" else []
    return (*own_fields(kind), *inside)


@cache
def _home(kind: str, name: str) -> tuple[Any, str]:
    """The class that holds a field, and its name there."""
    outer, _, inner = name.partition(".")
    return (INSIDE[outer], inner) if inner else (PART[kind], name)


@cache
def about(kind: str, name: str) -> Mapping[str, Any]:
    """Return the spec of a field by its dotted name: meaning, unit, range, choices."""
    cls, inner = _home(kind, name)
    found: Mapping[str, Any] = specs(cls)[inner]
    return found


@cache
def default(kind: str, name: str) -> Any:
    """Return what a field holds where nobody entered anything."""
    cls, inner = _home(kind, name)
    return next(f for f in dataclasses.fields(cls) if f.name == inner).default


def get(part: Any, name: str) -> Any:
    """Return a field of a part by its dotted name."""
    outer, _, inner = name.partition(".")
    if not inner:
        return getattr(part, name)
    return getattr(part.run.cable if outer == "cable" else getattr(part, outer), inner)


def laid_over(part: Any, values: Mapping[str, Any]) -> Any:
    """Return the part with some of its fields replaced, by dotted name."""
    own: dict[str, Any] = {}
    inside: dict[str, dict[str, Any]] = {}
    for name, value in values.items():
        outer, _, inner = name.partition(".")
        if inner:
            inside.setdefault(outer, {})[inner] = value
        else:
            own[name] = value
    for outer, fields in inside.items():
        if outer == "cable":
            own["run"] = dataclasses.replace(part.run, cable=dataclasses.replace(part.run.cable, **fields))
        else:
            own[outer] = dataclasses.replace(getattr(part, outer), **fields)
    return dataclasses.replace(part, **own)


def given(kind: str, part: Any) -> dict[str, Any]:
    """Return the fields of a part that differ from their defaults, by dotted name."""
    found = {}
    for name in field_names(kind):
        value = get(part, name)
        if value != default(kind, name):
            found[name] = value
    return found


def flattened(kind: str, fields: Mapping[str, Any]) -> dict[str, Any]:
    """Return fields as they come in, nested or dotted, by dotted name. Raises InputError for a name the part does not have."""
    found: dict[str, Any] = {}
    for name, value in fields.items():
        if kind == "circuit" and name in INSIDE:
            if not isinstance(value, Mapping):
                raise InputError(name, value, "an object")
            known = {f.name for f in dataclasses.fields(INSIDE[name])}
            for inner, one in value.items():
                if inner not in known:
                    raise InputError(f"{name}.{inner}", one, "one of " + ", ".join(sorted(known)))
                found[f"{name}.{inner}"] = one
        elif name in field_names(kind):
            found[name] = value
        else:
            raise InputError(str(name), value, "one of " + ", ".join(sorted({*own_fields(kind), *(INSIDE if kind == "circuit" else ())})))
    return found


def checked(kind: str, name: str, value: Any, known: Mapping[str, Any] | None) -> Any:
    """Return a value converted for a field, or raise InputError naming the field, what was given and what is allowed.

    known: the choices a rule set offers, by section; None where they are not asked.
    """
    cls, inner = _home(kind, name)
    path = name.rpartition(".")[0]
    found = field_value(cls, inner, value, path)
    told = about(kind, name)
    if told.get("least") and not str(found).strip():
        raise InputError(name, value, f"text of {told['least']} to {told['most']} characters")
    section = told.get("choices")
    if section and known is not None and found is not None and found not in known[section]:
        raise InputError(name, found, "one of " + ", ".join(known[section]))
    return found.strip() if kind == "job" and name == "name" else found


def restored(kind: str, name: str, value: Any) -> Any:
    """Return a value of the history as the model holds it: JSON has one kind of number, the model two."""
    cls, inner = _home(kind, name)
    return float(value) if isinstance(value, int) and not isinstance(value, bool) and hints(cls)[inner] in (float, float | None) else value
