"""How much work a search may do: counted in circuits worked out, so that the same job has the same answer on any machine.

A search asks before each piece of its work whether it may go on. Where it may not, it answers with the best found until then, and `cut` says so.
"""

from __future__ import annotations

from collections.abc import Callable
from math import inf


class StoppedError(Exception):
    """A search that was stopped: nobody waits for it any more, or it may do no more work and a part of its answer is of no use."""


# What it costs to lay a job out for one circuit, as a share of working all of them out.
LAID_OUT = 0.2


class Effort:
    """The work of one search. most: circuits it may work out; whole: with less than the whole answer it is stopped, by StoppedError.

    go_on: told how far it is (0 to 1), says whether anybody still waits for it; where nobody does it is stopped.

    >>> effort = Effort(3)
    >>> effort.over()
    False
    >>> effort.spend(3)
    >>> effort.over(), effort.cut
    (True, True)
    """

    def __init__(self, most: float = inf, go_on: Callable[[float], bool] | None = None, whole: bool = False) -> None:
        self.most, self.go_on, self.whole = most, go_on, whole
        self.spent = 0.0
        self.ahead = 0.0
        self.cut = False
        self.parent: Effort | None = None

    def part(self, share: float) -> Effort:
        """Return the effort of a part of the search, which may do a share of all the work; what it does is counted here as well."""
        found = Effort(self.most * share, self.go_on, self.whole)
        found.parent = self
        return found

    def expect(self, units: float) -> None:
        """Note how much work is seen to lie ahead, from now on."""
        self.ahead = self.spent + units

    def spend(self, units: float) -> None:
        """Count work."""
        self.spent += units
        if self.parent is not None:
            self.parent.spend(units)

    @property
    def share(self) -> float:
        """How far the search is, 0 to 1, as far as it can be seen."""
        if self.parent is not None:
            return self.parent.share
        end = min(self.most, self.ahead or inf)
        return min(1.0, self.spent / end) if end < inf else 0.0

    def over(self) -> bool:
        """Say whether the search has to end with what it has. Raises StoppedError."""
        if self.go_on is not None and not self.go_on(self.share):
            raise StoppedError("cancelled")
        if self.spent >= self.most:
            if self.whole:
                raise StoppedError("too much to work out here")
            self.cut = True
            if self.parent is not None:
                self.parent.cut = True
        return self.cut
