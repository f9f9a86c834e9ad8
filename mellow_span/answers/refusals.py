"""How a refusal of the core is worded for the field it belongs to."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from mellow_span.core.errors import CoreError
from mellow_span.core.model.changes import Refused


@dataclass(frozen=True, slots=True)
class AtField:
    """A refusal at a field: what was given, what is allowed, and both in one sentence; change, kind, id: which change of an edit it was."""

    field: str
    given: str
    allowed: str
    message: str
    change: int | None = None
    kind: str | None = None
    id: str | None = None


def at_field(error: CoreError) -> AtField:
    """Word a core error for the field it belongs to."""
    where = (error.at, error.change.kind, error.change.id) if isinstance(error, Refused) else (None, None, None)
    given = "nothing" if error.given is None else shown(error.given)
    allowed = shown(error.allowed, 400)
    return AtField(shown(error.field), given, allowed, f"{given} is not allowed here. Allowed: {allowed}.", *where)


def shown(value: Any, most: int = 80) -> str:
    """Return what was given, as far as it can be shown: of so many characters, and a great or strange value named by its kind."""
    try:
        return str(value)[:most].encode("utf-8", "backslashreplace").decode() or "nothing"
    except (ValueError, RecursionError):
        return f"a {type(value).__name__}"
