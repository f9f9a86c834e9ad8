"""From plain data to the model, strictly: each refusal names the field, what was given and what is allowed."""

from __future__ import annotations

import dataclasses
import math
import types
from collections.abc import Collection, Mapping
from functools import cache
from operator import attrgetter
from typing import Any, Literal, TypeVar, Union, get_args, get_origin, get_type_hints

from mellow_span.core.errors import InputError, UnknownWord
from mellow_span.core.figures import figure
from mellow_span.core.model.spec import TEXT_LIMIT

T = TypeVar("T")


@cache
def hints(cls: type) -> dict[str, Any]:
    """Return the resolved type of each field of a model class."""
    return get_type_hints(cls)


@cache
def specs(cls: Any) -> dict[str, Any]:
    """Return the `spec` of each field of a model class: meaning, unit, lo, hi, choices."""
    return {f.name: f.metadata for f in dataclasses.fields(cls)}


@cache
def required(cls: Any) -> tuple[str, ...]:
    """Return the names of the fields of a model class that cannot be left out."""
    missing = dataclasses.MISSING
    return tuple(f.name for f in dataclasses.fields(cls) if f.default is missing and f.default_factory is missing)


def parse(cls: type[T], data: Any, path: str = "") -> T:
    """Build a model value from plain data.

    cls: a dataclass of `model`; data: a mapping; path: prefix for field names in errors.
    Raises InputError for the first field that is unknown, of the wrong type or out of range.
    """
    if not isinstance(data, dict):
        raise InputError(path or cls.__name__, data, "an object")
    kind: Any = cls
    known = hints(kind)
    for name in data:
        if name not in known:
            raise InputError(_join(path, str(name)), data[name], "one of " + ", ".join(known))
    for name in required(kind):
        if name not in data:
            raise InputError(_join(path, name), None, "a value; it cannot be left out")
    return cls(**{name: field_value(cls, name, value, path) for name, value in data.items()})


def field_value(cls: type, name: str, value: Any, path: str = "") -> Any:
    """Return value converted for one field of cls, or raise InputError naming it."""
    return _convert(hints(cls)[name], specs(cls)[name], value, _join(path, name))


def _join(path: str, name: str) -> str:
    return f"{path}.{name}" if path else name


def _convert(kind: Any, about: Any, value: Any, path: str) -> Any:
    origin = get_origin(kind)
    if origin in (types.UnionType, Union):
        if value is None:
            return None
        inner = [a for a in get_args(kind) if a is not type(None)]
        return _convert(inner[0], about, value, path)
    if origin is Literal:
        return _choice(get_args(kind), value, path)
    if origin is tuple:
        if not isinstance(value, list | tuple):
            raise InputError(path, value, "a list")
        return tuple(_convert(get_args(kind)[0], about, v, f"{path}[{i}]") for i, v in enumerate(value))
    if dataclasses.is_dataclass(kind):
        return parse(kind, value, path)  # type: ignore[arg-type]
    return _scalar(kind, about, value, path)


def _choice(choices: tuple[Any, ...], value: Any, path: str) -> Any:
    if isinstance(value, bool) or value not in choices:
        raise InputError(path, value, "one of " + ", ".join(str(c) for c in choices))
    return value


def _scalar(kind: Any, about: Any, value: Any, path: str) -> Any:
    if kind is bool:
        if not isinstance(value, bool):
            raise InputError(path, value, "true or false")
        return value
    if kind is str:
        return text_value(about, value, path)
    number = isinstance(value, int | float) and not isinstance(value, bool)
    if not number or not finite(value) or (kind is int and value != int(value)):
        raise InputError(path, value, "a whole number" + allowed_range(about) if kind is int else "a number" + allowed_range(about))
    check_range(about, value, path)
    return int(value) if kind is int else float(value)


def finite(value: float) -> bool:
    """Say whether a number is an ordinary one: neither infinite nor so large that no figure here holds it.

    >>> finite(1e308), finite(float("nan")), finite(10**400)
    (True, False, False)
    """
    try:
        return math.isfinite(value)
    except OverflowError:
        return False


def text_value(about: Any, value: Any, path: str) -> str:
    """Return a text that can be kept, or raise InputError: too long, or with characters that no file and no database takes."""
    most = about.get("most", TEXT_LIMIT)
    if not isinstance(value, str) or len(value) > most:
        raise InputError(path, value, f"text of at most {most} characters")
    if "\x00" in value or any("\ud800" <= letter <= "\udfff" for letter in value):
        raise InputError(path, ascii(value), "text of whole characters: no null and no half of a pair")
    return value


def check_range(about: Any, value: float, path: str) -> None:
    """Raise InputError when value lies outside the range of its spec, or is not an ordinary number."""
    lo, hi = about.get("lo"), about.get("hi")
    if not finite(value) or (lo is not None and value < lo) or (hi is not None and value > hi):
        raise InputError(path, value, allowed_range(about).strip() or "an ordinary number")


def allowed_range(about: Any) -> str:
    """Word the range of a spec, e.g. ' from 0.1 to 1 000 m'."""
    lo, hi, unit = about.get("lo"), about.get("hi"), about.get("unit", "")
    if lo is None or hi is None:
        return ""
    return f" from {figure(lo)} to {figure(hi)} {unit}".rstrip()


@cache
def _ranged(cls: Any) -> tuple[attrgetter[tuple[Any, ...]], tuple[tuple[str, float, float, Any], ...]]:
    found = tuple((n, a["lo"], a["hi"], a) for n, a in specs(cls).items() if a.get("lo") is not None)
    # A second name keeps the getter's answer a tuple where one field alone has a range.
    names = [row[0] for row in found]
    return attrgetter(*names, names[0]) if names else attrgetter("__class__", "__class__"), found


def out_of_range(value: Any, path: str = "") -> list[InputError]:
    """List every number in a model value that lies outside the range of its spec."""
    found: list[InputError] = []
    getter, ranges = _ranged(value.__class__)
    for given, (name, lo, hi, about) in zip(getter(value), ranges, strict=False):
        if given is not None and not lo <= given <= hi:
            found.append(InputError(_join(path, name), given, allowed_range(about).strip()))
    return found


@cache
def _choosing(cls: Any) -> tuple[tuple[str, str], ...]:
    return tuple(
        (name, about["choices"]) for name, about in specs(cls).items() if about.get("choices", "book") != "book" and about["choices"]
    )


def unknown_words(value: Any, known: Mapping[str, Collection[str]], path: str = "") -> list[InputError]:
    """List every word in a model value that its rule set does not know.

    known: what there is to choose from, by section (`RuleSet.chosen`); the book itself is asked for where the rules are laid.
    """
    found: list[InputError] = []
    for name, section in _choosing(value.__class__):
        word = getattr(value, name)
        if word is not None and word not in known[section]:
            found.append(UnknownWord(_join(path, name), word, known[section]))
    return found
