"""A slip made in this very process: the code of the function is exchanged, or the default of a field; what was remembered is forgotten."""

from __future__ import annotations

import dataclasses
import functools
import gc
import importlib
import types
from pathlib import Path
from typing import Any, Literal, get_args, get_origin, get_type_hints

from mellow_span.core.cache import Latest
from slips.sites import DEFAULT, Slip, made

ROOT = Path(__file__).resolve().parents[2]


class NotMade(Exception):
    """A slip that cannot be made in a running process: its function is not there to be exchanged."""


def make(slip: Slip) -> None:
    """Make a slip, here and for good. Raises NotMade."""
    if slip.kind == DEFAULT:
        _default(slip)
    else:
        _code(slip)
    _forget()


def _code(slip: Slip) -> None:
    path = ROOT / slip.file
    try:
        new = made(slip, path.read_text("utf-8"), str(path))
    except (LookupError, SyntaxError) as error:
        raise NotMade(str(error)) from error
    exchanged = 0
    for found in gc.get_objects():
        if isinstance(found, types.FunctionType):
            old = found.__code__
            if old.co_filename == new.co_filename and old.co_qualname == new.co_qualname and old.co_firstlineno == new.co_firstlineno:
                if slip.function == "<lambda>" and list(old.co_positions())[1:2] != list(new.co_positions())[1:2]:
                    continue
                try:
                    found.__code__ = new
                except ValueError as error:
                    raise NotMade(str(error)) from error
                exchanged += 1
    if not exchanged:
        raise NotMade("no such function is loaded")


def other_default(kind: Any, value: Any) -> Any:
    """Return another value that a field of this type could have begun with. Raises NotMade where none suggests itself."""
    if isinstance(value, bool):
        return not value
    if isinstance(value, int | float):
        return type(value)(value * 2 or 1)
    options = [c for part in (kind, *get_args(kind)) if get_origin(part) is Literal for c in get_args(part) if c != value]
    if not options:
        raise NotMade("a text, of which any would do")
    return options[0]


def _default(slip: Slip) -> None:
    module = importlib.import_module(slip.file.removesuffix(".py").replace("/", ".").removesuffix(".__init__"))
    owner = getattr(module, slip.function)
    name = slip.told.split(" ")[0].partition(".")[2]
    if not dataclasses.is_dataclass(owner):
        raise NotMade("no dataclass")
    field = owner.__dataclass_fields__[name]
    other = other_default(get_type_hints(owner)[name], field.default)
    field.default = other
    start: Any = owner.__dict__["__init__"]
    if start.__kwdefaults__ and name in start.__kwdefaults__:
        start.__kwdefaults__ = {**start.__kwdefaults__, name: other}
    elif start.__defaults__:
        names = [f.name for f in dataclasses.fields(owner) if f.init and f.default is not dataclasses.MISSING]
        start.__defaults__ = tuple(
            other if n == name else d for n, d in zip(names[-len(start.__defaults__) :], start.__defaults__, strict=True)
        )
    if not hasattr(owner, "__slots__"):
        setattr(owner, name, other)


def _forget() -> None:
    """Forget what was worked out before the slip."""
    for found in gc.get_objects():
        if isinstance(found, functools._lru_cache_wrapper | Latest):
            found.cache_clear()
