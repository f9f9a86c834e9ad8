"""One line of the working."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from mellow_span.core.rulesets.table import Citation


# Steps are made by the thousand for each answer: slots and no freezing keep one under a microsecond.
@dataclass(slots=True)
class Step:
    """One line of the working: symbol = formula = value unit, and where it comes from. puts: the values put in, by symbol."""

    symbol: str
    value: float
    unit: str
    formula: str = ""
    puts: Mapping[str, float] = field(default_factory=dict)
    clause: str = ""
    note: str = ""
    cite: Citation | None = None
