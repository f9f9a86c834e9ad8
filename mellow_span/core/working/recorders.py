"""The way to a number, recorded by the look-ups and formulas themselves on the one path that also gives the result.

A rule asks `look` for a table value and `calc` for a computed one, so a step cannot be forgotten and cannot disagree with the figure it
explains. Two recorders stand behind one interface: `Keeping` writes every step down, `Silent` gives the same figures and writes nothing.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Any, ClassVar, TypeVar

from mellow_span.core.errors import CoreError, NotInBook
from mellow_span.core.rulesets.vocabulary import T as Tables
from mellow_span.core.working.steps import Step

if TYPE_CHECKING:
    from mellow_span.core.rulesets import RuleSet

T = TypeVar("T")


class Working:
    """What rules see of a recorder. It remembers whether a value still to be checked was used; `keep` says whether steps are written down."""

    __slots__ = ("_quiet", "doubtful", "rules", "steps")
    keep: ClassVar[bool] = False

    def __init__(self, rules: RuleSet) -> None:
        self.rules = rules
        self.steps: list[Step] = []
        self.doubtful = False
        self._quiet: Silent | None = None

    def look(self, symbol: str, table: str, row: Any, column: str, note: str = "") -> float:
        """Return a table value [unit of the table] and record where it was read. Raises OutsideTable.

        table: its name in the vocabulary, or its number where the rule set's own data names it.
        """
        cell = self.rules.by_name[table].cell(row, column)
        if cell.check:
            self.doubtful = True
        return cell.value

    def constant(self, key: str) -> float:
        """Return a single constant of the rule set without a step of its own, for a comparison that only steers. Raises NotInBook."""
        if not self.rules.has(key):
            raise NotInBook(self.rules.title, key)
        return self.rules.by_name[Tables.LIMITS].cell(key, "value").value

    def limit(self, symbol: str, key: str, note: str = "") -> float:
        """Return a single constant of the rule set, by its key in the table of limits. Raises NotInBook."""
        if not self.rules.has(key):
            raise NotInBook(self.rules.title, key)
        return self.look(symbol, Tables.LIMITS, key, "value", note)

    def calc(self, symbol: str, value: float, unit: str, formula: str, puts: Mapping[str, float], clause: str, note: str = "") -> float:
        """Record a computed value [unit] with its formula, the values put in and the clause; return it.

        clause: its name in the vocabulary. Raises CoreError if the value is not an ordinary number, so that no NaN or infinity can leave the
        core.
        """
        if value - value != 0.0:
            raise CoreError(symbol, value, "an ordinary number")
        return value

    def given(self, symbol: str, value: float, unit: str, note: str) -> float:
        """Record an input as it was entered, with the words for where it comes from."""
        return value

    def remembered(self, key: Any, run: Callable[[Working], T]) -> T:
        """Return what `run` gives, with its steps, remembered on the rule set by all it hangs on: circuits share most of their parts.

        The steps are those of the first time, made on the same path; nobody changes a step once it is made. A refusal is not remembered.
        """
        cache, full = self.rules.memo, (key, self.keep)
        known = cache.get(full)
        if known is None:
            aside = type(self)(self.rules)
            known = run(aside), tuple(aside.steps), aside.doubtful
            cache.put(full, known)
        value, steps, doubtful = known
        self.add(steps, doubtful)
        found: T = value
        return found

    def add(self, steps: tuple[Step, ...], doubtful: bool) -> None:
        """Take over the steps of a figure that was worked out elsewhere, and whether it rests on a value to be checked."""
        if self.keep:
            self.steps += steps
        self.doubtful = self.doubtful or doubtful

    def quiet(self) -> Silent:
        """Return a recorder on the same rules that keeps nothing: for a figure whose steps stand with its own check."""
        if self._quiet is None:
            self._quiet = Silent(self.rules)
        return self._quiet

    def take(self) -> tuple[tuple[Step, ...], bool]:
        """Hand over the steps recorded since the last call and whether any rests on a value to be checked."""
        steps, doubtful = tuple(self.steps), self.doubtful
        self.steps, self.doubtful = [], False
        return steps, doubtful


class Silent(Working):
    """Gives every figure and writes nothing down: for searches, and for answers nobody opens the working of."""

    __slots__ = ()


class Keeping(Working):
    """Writes every step down."""

    __slots__ = ()
    keep: ClassVar[bool] = True

    def look(self, symbol: str, table: str, row: Any, column: str, note: str = "") -> float:
        """Return a table value and write down where it was read."""
        cell = self.rules.by_name[table].cell(row, column)
        if cell.check:
            self.doubtful = True
        self.steps.append(Step(symbol, cell.value, cell.unit, "", {}, cell.clause, note, cell.cite))
        return cell.value

    def calc(self, symbol: str, value: float, unit: str, formula: str, puts: Mapping[str, float], clause: str, note: str = "") -> float:
        """Write a computed value down with its formula, the values put in and the clause."""
        if value - value != 0.0:
            raise CoreError(symbol, value, "an ordinary number")
        self.steps.append(Step(symbol, value, unit, formula, puts, self.rules.clause(clause), note))
        return value

    def given(self, symbol: str, value: float, unit: str, note: str) -> float:
        """Write an input down as it was entered."""
        self.steps.append(Step(symbol, value, unit, "", {}, "", note))
        return value


def recorder(rules: RuleSet, keep: bool) -> Working:
    """Return a recorder that keeps the steps, or one that does not."""
    return Keeping(rules) if keep else Silent(rules)
