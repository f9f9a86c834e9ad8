"""What an exercise is made of: what is given, the lines to fill in, and for each line the ways it goes wrong that have a name."""

from __future__ import annotations

import random
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from math import isfinite
from typing import Literal

from mellow_span.core.errors import CoreError
from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets import RuleSet

Values = Mapping[str, float]
Work = Callable[[Values], float]
SlipKind = Literal[
    "r_for_z", "single_phase_column", "volts_across_phases", "cpc_as_line", "factor_forgotten", "factor_twice", "kilo", "thirty_per_cent",
    "metres_for_millimetres", "wrong_column", "wrong_row", "other_formula",
]  # fmt: skip
# What an answer may differ by: whoever rounds to three figures is within it.
NEAR = 0.01
# A value read in a table is that value.
EXACT = 0.001
YES, NO = 1.0, 0.0


@dataclass(frozen=True, slots=True)
class Given:
    """What is told before the first line: by its symbol, as a number [unit] where it is one."""

    id: str
    text: str
    value: float | None = None
    unit: str = ""


@dataclass(frozen=True, slots=True)
class Slip:
    """A way a line goes wrong. told: in a sentence, what was done and what is to be done; work: what comes out then."""

    kind: SlipKind
    told: str
    work: Work


@dataclass(frozen=True, slots=True)
class Line:
    """A line to fill in: its symbol, what is asked, unit; work: what is right, from what is given and the lines before it.

    table: the table it is read in, empty for one that is worked out; formula: how, clause: by what. decides: a yes or no. near: what the answer may
    differ by, as a share.
    """

    id: str
    symbol: str
    ask: str
    unit: str
    work: Work
    table: str = ""
    formula: str = ""
    clause: str = ""
    slips: tuple[Slip, ...] = ()
    decides: bool = False
    near: float = NEAR


@dataclass(frozen=True, slots=True)
class Exercise:
    """A made-up circuit to work out. story: in sentences; job, circuit, checks: the same for the engine, and the checks whose working solves it."""

    head: str
    seed: int
    book: str
    story: tuple[str, ...]
    given: tuple[Given, ...]
    lines: tuple[Line, ...]
    job: Installation
    circuit: str = ""
    checks: tuple[str, ...] = ()

    @property
    def values(self) -> dict[str, float]:
        """What is given, by its symbol."""
        return {g.id: g.value for g in self.given if g.value is not None}

    @property
    def solved(self) -> dict[str, float]:
        """What every line is, with what is given."""
        found = self.values
        for line in self.lines:
            found[line.id] = line.work(found)
        return found


@dataclass(slots=True)
class Maker:
    """Gathers an exercise; what is drawn comes from its seed alone."""

    rng: random.Random
    rules: RuleSet
    story: list[str] = field(default_factory=list)
    given: list[Given] = field(default_factory=list)
    lines: list[Line] = field(default_factory=list)

    def tell(self, text: str) -> None:
        """Add a sentence of the story."""
        self.story.append(text)

    def give(self, id: str, text: str, value: float, unit: str = "") -> float:
        """Add what is given."""
        self.given.append(Given(id, text, value, unit))
        return value

    def look(self, id: str, ask: str, table: str, row: object, column: str, *slips: Slip, unit: str | None = None) -> float:
        """Add a line that is read in a table. Raises OutsideTable, NotInBook."""
        found = self.rules.table(table)
        cell = found.cell(row, column)
        self.lines.append(
            Line(id, id, ask, cell.unit if unit is None else unit, lambda _: cell.value, found.number, slips=slips, near=EXACT)
        )
        return cell.value

    def calc(self, id: str, ask: str, unit: str, formula: str, work: Work, *slips: Slip, clause: str = "") -> None:
        """Add a line that is worked out. clause: its name in the vocabulary."""
        self.lines.append(Line(id, id, ask, unit, work, formula=formula, clause=self.rules.clause(clause), slips=slips))

    def pick(self, id: str, ask: str, unit: str, work: Work, *slips: Slip, table: str = "", formula: str = "") -> None:
        """Add a line whose answer is one of a row of sizes: it is that one."""
        number = self.rules.table(table).number if table else ""
        self.lines.append(Line(id, id, ask, unit, work, number, formula, slips=slips, near=EXACT))

    def decide(self, id: str, ask: str, work: Callable[[Values], bool], clause: str = "") -> None:
        """Add a yes or no."""
        self.lines.append(Line(id, id, ask, "", lambda v: YES if work(v) else NO, clause=self.rules.clause(clause), decides=True))


def always(value: float) -> Work:
    """Return what is always one value, whatever was filled in."""
    return lambda _: value


def worked(work: Work, values: Values) -> float | None:
    """Return what comes out; None where nothing does, from what was entered before."""
    try:
        found = work(values)
    except (CoreError, ArithmeticError, ValueError, LookupError, StopIteration):
        return None
    return found if isfinite(found) else None


def agree(answer: float, value: float, near: float) -> bool:
    """Say whether an answer is a value, rounding allowed."""
    return abs(answer - value) <= near * abs(value) + 1e-12


def clear(made: Exercise) -> bool:
    """Say whether every slip of every line can be told from what is right and from the other slips: else nobody could say which it was."""
    right = made.solved
    for line in made.lines:
        if line.decides:
            continue
        if right[line.id] <= 0 and not line.decides:
            return False
        seen = [right[line.id], *(v for v in (worked(s.work, right) for s in line.slips) if v is not None)]
        near = 2.5 * max(line.near, NEAR)
        if any(agree(a, b, near) or agree(b, a, near) for i, a in enumerate(seen) for b in seen[:i]):
            return False
    return True


def chosen(rng: random.Random, values: Sequence[float]) -> float:
    """Draw one of some values."""
    return rng.choice(list(values))
