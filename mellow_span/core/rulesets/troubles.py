"""What is wrong with a pack, cell by cell: all of it at once, each with file, line, column, what was given and what is allowed."""

from __future__ import annotations

from dataclasses import dataclass, field

from mellow_span.core.errors import InputError

# As many are told; who has more has most of them from one cause.
MOST = 60


@dataclass(frozen=True, slots=True)
class Trouble:
    """One thing that is wrong. line: from 1, as an editor counts, 0 for the file as a whole; column: of a table, or the name in a TOML file."""

    file: str
    line: int
    column: str
    given: str
    allowed: str

    def __str__(self) -> str:
        where = ", ".join(filter(None, (self.file, f"line {self.line}" if self.line else "", self.column)))
        return f"{where}: {self.given or 'nothing'} is not possible; allowed: {self.allowed}"


@dataclass(slots=True)
class Troubles:
    """Where they are collected."""

    found: list[Trouble] = field(default_factory=list)

    def add(self, file: str, given: object, allowed: str, line: int = 0, column: str = "") -> None:
        """Note one thing that is wrong."""
        if len(self.found) < MOST:
            self.found.append(Trouble(file, line, column, str(given)[:120], allowed[:400]))


class BadPack(InputError):
    """A pack that cannot be used. troubles: everything that is wrong with it."""

    def __init__(self, troubles: list[Trouble]) -> None:
        first = troubles[0]
        super().__init__(first.file, first.given, str(first))
        self.troubles = tuple(troubles)

    def __str__(self) -> str:
        return "\n".join(str(one) for one in self.troubles)
