"""Everything the core can refuse, as one small tree. Each error carries the field, what was given and what is allowed."""

from __future__ import annotations

from collections.abc import Iterable


class CoreError(Exception):
    """A named refusal.

    field: dotted name of the input in the model; given: what was received; allowed: what would be accepted.
    """

    def __init__(self, field: str, given: object, allowed: str) -> None:
        super().__init__(field, given, allowed)
        self.field = field
        self.given = given
        self.allowed = allowed
        # A figure that was worked out before the refusal, with its unit: it is shown even where its limit is not known.
        self.shown: tuple[float, str] | None = None

    def showing(self, value: float, unit: str) -> CoreError:
        """Return the refusal with the figure that stands all the same."""
        self.shown = (value, unit)
        return self

    def __str__(self) -> str:
        return f"{self.field}: entered {self.given!r}; allowed: {self.allowed}"


class InputError(CoreError):
    """A value outside its range, of the wrong type, or not one of the choices."""


class UnknownWord(InputError):
    """A word that the rule set of the job does not know: of another book, or of a pack that was put away. known: the words it has."""

    def __init__(self, field: str, given: object, known: Iterable[str]) -> None:
        super().__init__(field, given, "one that this rule set has: " + ", ".join(known))

    def __str__(self) -> str:
        what = self.field.rpartition(".")[2].replace("_", " ")
        return f"not known in this standard: {what} {str(self.given)!r}; choose {self.allowed}"


class NotTogether(InputError):
    """Two values that are each allowed and do not exist together. given: the pair in words; allowed: what there is instead."""

    def __str__(self) -> str:
        return f"{self.given} cannot be combined; available: {self.allowed}"


class MissingInput(CoreError):
    """A value that a check needs and that nobody has entered yet."""

    def __init__(self, field: str, allowed: str) -> None:
        super().__init__(field, None, allowed)

    def __str__(self) -> str:
        return f"still to enter: {self.allowed}"


class NotKnownBefore(MissingInput):
    """A figure that the feed of a board should bring along and does not: nothing of the circuit itself is missing."""

    def __str__(self) -> str:
        return f"not known: {self.allowed}; see the feed before it"


class OutsideTable(CoreError):
    """A look-up for which the table has no value; nothing is extrapolated."""

    def __init__(self, table: str, given: str, allowed: str) -> None:
        super().__init__(f"table {table}", given, allowed)
        self.table = table

    def __str__(self) -> str:
        return f"no tabulated value in {self.table} for {self.given}; tabulated: {self.allowed}"


class NotInBook(CoreError):
    """Something that our data of the book of the job do not have. It is not known there, and never borrowed from another book."""

    def __init__(self, book: str, name: str) -> None:
        super().__init__(name, book, "a rule set that has it")

    def __str__(self) -> str:
        return f"not among our data for {self.given}: {self.field.replace('_', ' ')}"


class RuleSetError(Exception):
    """A rule set that cannot be trusted: a file missing, a column unknown, a cell that is no number."""
