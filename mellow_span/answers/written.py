"""Answers as plain data, in the form in which the server sends them."""

from __future__ import annotations

import json
import math
from dataclasses import fields, is_dataclass
from datetime import datetime
from functools import cache
from typing import Any


def written(value: Any) -> str:
    """Return an answer as JSON text: equal, as JSON, to what the server sends of the same value.

    >>> written((1.5, math.inf, {"a": None}))
    '[1.5,null,{"a":null}]'
    """
    return json.dumps(plain(value), ensure_ascii=False, separators=(",", ":"), allow_nan=False)


def plain(value: Any) -> Any:
    """Return an answer as plain data. A number that is none goes out as null."""
    kind = value.__class__
    if kind is str or kind is int or kind is bool or value is None:
        return value
    if kind is float:
        return value if math.isfinite(value) else None
    if kind is tuple or kind is list:
        return [plain(one) for one in value]
    if isinstance(value, dict):
        return {str(name): plain(one) for name, one in value.items()}
    if is_dataclass(kind):
        return {name: plain(getattr(value, name)) for name in _names(kind)}  # type: ignore[arg-type]
    if isinstance(value, datetime):
        return value.isoformat().replace("+00:00", "Z")
    if isinstance(value, set | frozenset):
        return [plain(one) for one in sorted(value)]
    raise TypeError(f"{kind.__name__} is no part of an answer")


@cache
def _names(kind: Any) -> tuple[str, ...]:
    return tuple(f.name for f in fields(kind))
