"""The way to a number, recorded by the look-ups and formulas themselves on the one path that also gives the result.

A rule asks `Working.look` for a table value and `Working.calc` for a computed one, so a step cannot be forgotten and cannot disagree
with the figure it explains. With `keep=False` the same calls give the same figures and only skip the record.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, TypeVar

from mellow_span.core.errors import CoreError
from mellow_span.core.rulesets.table import Citation

if TYPE_CHECKING:
    from mellow_span.core.rulesets import RuleSet

T = TypeVar("T")


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


@dataclass(slots=True)
class Working:
    """Records steps while rules run, and remembers whether a value still to be checked was used."""

    rules: RuleSet
    keep: bool = True
    steps: list[Step] = field(default_factory=list)
    doubtful: bool = False
    _quiet: Working | None = None

    def look(self, symbol: str, table: str, row: Any, column: str, note: str = "") -> float:
        """Return a table value [unit of the table] and record where it was read. Raises OutsideTable."""
        cell = self.rules.tables[table].cell(row, column)
        if cell.check:
            self.doubtful = True
        if self.keep:
            self.steps.append(Step(symbol, cell.value, cell.unit, "", {}, cell.clause, note, cell.cite))
        return cell.value

    def constant(self, key: str) -> float:
        """Return a single constant of the rule set without a step of its own, for a comparison that only steers."""
        return self.rules.tables["LIM"].cell(key, "value").value

    def limit(self, symbol: str, key: str, note: str = "") -> float:
        """Return a single constant of the rule set, by its key in the table of limits."""
        return self.look(symbol, "LIM", key, "value", note)

    def calc(self, symbol: str, value: float, unit: str, formula: str, puts: Mapping[str, float], clause: str, note: str = "") -> float:
        """Record a computed value [unit] with its formula, the values put in and the clause; return it.

        Raises CoreError if the value is not an ordinary number, so that no NaN or infinity can leave the core.
        """
        if value - value != 0.0:
            raise CoreError(symbol, value, "an ordinary number")
        if self.keep:
            self.steps.append(Step(symbol, value, unit, formula, puts, clause, note))
        return value

    def given(self, symbol: str, value: float, unit: str, note: str) -> float:
        """Record an input as it was entered, with the words for where it comes from."""
        if self.keep:
            self.steps.append(Step(symbol, value, unit, "", {}, "", note))
        return value

    def remembered(self, key: Any, run: Callable[[Working], T]) -> T:
        """Return what `run` gives, with its steps, remembered on the rule set by all it hangs on: circuits share most of their parts.

        The steps are those of the first time, made on the same path; nobody changes a step once it is made. A refusal is not remembered.
        """
        memo, full = self.rules.memo, (key, self.keep)
        known = memo.get(full)
        if known is None:
            aside = Working(self.rules, self.keep)
            value = run(aside)
            known = memo[full] = value, aside.steps, aside.doubtful
        if self.keep:
            self.steps += known[1]
        self.doubtful = self.doubtful or known[2]
        found: T = known[0]
        return found

    def quiet(self) -> Working:
        """Return a working on the same rules that keeps nothing: for a figure whose steps stand with its own check."""
        if self._quiet is None:
            self._quiet = Working(self.rules, keep=False)
        return self._quiet

    def take(self) -> tuple[tuple[Step, ...], bool]:
        """Hand over the steps recorded since the last call and whether any rests on a value to be checked."""
        steps, doubtful = tuple(self.steps), self.doubtful
        self.steps, self.doubtful = [], False
        return steps, doubtful
