"""How a field of the model is described: meaning, unit, range, default, choices; the parser, the error texts, the open format and the
interface all read them from here.
"""

from __future__ import annotations

from dataclasses import field
from typing import Any

TEXT_LIMIT = 200
NOTE_LIMIT = 2000
# Characters of one file of a pack.
PACK_TEXT = 400_000


def spec(
    meaning: str,
    unit: str = "",
    lo: float | None = None,
    hi: float | None = None,
    default: Any = None,
    choices: str = "",
    most: int = TEXT_LIMIT,
    least: int = 0,
    usual: tuple[float, ...] = (),
) -> Any:
    """Describe one field: meaning, unit, inclusive range, default; choices names the rule-set section its values come from.

    least, most: characters of a text; usual: values that are mostly met, offered and not asked for.
    """
    about = {"meaning": meaning, "unit": unit, "lo": lo, "hi": hi, "choices": choices, "most": most, "least": least, "usual": usual}
    return field(default=default, metadata=about)


def identity(meaning: str = "Identity") -> Any:
    """Describe a field that must be given: the identity of a part, or of the part it belongs to."""
    return field(metadata={"meaning": meaning})


def listing(meaning: str) -> Any:
    """Describe a field that holds further parts of the model."""
    return field(default=(), metadata={"meaning": meaning})
