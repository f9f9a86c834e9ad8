"""The cutting plan: which piece is cut from which drum, so that the least cable is bought; with a bound below which nobody can come.

First the longest pieces go where they leave least; where that buys no more than a bound from the lengths alone, it is the least and no more is
asked. Else an integer programme decides, within a time; what it proves is told.
"""

from __future__ import annotations

import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cache
from importlib.util import find_spec
from math import ceil
from typing import Any

from mellow_span.core.adding import added
from mellow_span.core.cache import Cache
from mellow_span.core.site.entries import Entry
from mellow_span.core.site.pulls import Pull

# Inside, lengths are whole decimetres: so exactly pieces are cut.
PER_M = 10
# How long the programme may think about all cables of a job together [s], and up to how many pieces of one it is asked.
THINK, PIECES = 0.8, 80
# Whether there is a solver: on a device there is none, and what no bound proves is told as not proven.
PROGRAMME = find_spec("highspy") is not None


@dataclass(frozen=True, slots=True)
class Piece:
    """A piece to be cut [m] and what stands on it."""

    tag: str
    length: float


@dataclass(slots=True)
class Drum:
    """A drum [m] and the pieces cut from it, the longest first; at_hand: a rest from before; left: what remains of it [m]."""

    length: float
    at_hand: bool
    pieces: list[Piece] = field(default_factory=list)
    left: float = 0.0


@dataclass(slots=True)
class Cutting:
    """How one cable is cut. bought: new drums together [m]; bound: no plan buys less [m]; proven: it is the least; too_long: in no drum."""

    cable: str
    drums: list[Drum]
    bought: float
    bound: float
    proven: bool
    too_long: list[Piece]


def pieces(found: Sequence[Pull]) -> dict[str, list[Piece]]:
    """Return what a pull list wants of each cable: its pieces of known length."""
    wanted: dict[str, list[Piece]] = {}
    for one in found:
        if one.cut is not None:
            for each in one.stock:
                wanted.setdefault(each.cable, []).extend(Piece(one.number, cut) for cut in one.cuts_of(each) for _ in range(each.count))
    return wanted


def rests(entries: Sequence[Entry]) -> dict[str, list[float]]:
    """Return what is left of each cable on the van [m], as the log says. entries: in the order of their times."""
    return {e.data.cable: list(e.data.lengths) for e in entries if e.kind == "on_hand"}


def cuttings(
    wanted: dict[str, list[Piece]], lengths: Sequence[float], at_hand: Mapping[str, Sequence[float]] | None = None
) -> list[Cutting]:
    """Return the cutting plan of each cable. wanted: its pieces; lengths: drums that can be bought, at_hand: rests of each cable [m].

    A plan is kept for as long as it is asked for again, so that it is thought about once.
    """
    until = time.monotonic() + THINK
    found = []
    for cable, pieces in wanted.items():
        key = (cable, tuple(pieces), tuple(lengths), tuple((at_hand or {}).get(cable, ())))
        plan = _KEPT.get(key)
        if plan is None:
            plan = cut(*key, until - time.monotonic())
            _KEPT.put(key, plan)
        found.append(plan)
    return found


_KEPT: Cache[tuple[Any, ...], Cutting] = Cache(200)


def cut(cable: str, pieces: Sequence[Piece], lengths: Sequence[float], at_hand: Sequence[float] = (), seconds: float = THINK) -> Cutting:
    """Return how one cable is cut: pieces and drums [m]; seconds: how long may be thought about it."""
    sold, rests = sorted(map(_whole, lengths)), sorted(map(_whole, at_hand))
    ordered = sorted(pieces, key=lambda p: -p.length)
    lost = set(_homeless([_whole(p.length) for p in ordered], sold, rests))
    fits = [p for i, p in enumerate(ordered) if i not in lost]
    need = [_whole(p.length) for p in fits]
    found = _by_length(need, sold, rests)
    bound = _least(added(need) - added(rests), tuple(sold))
    if _bought(found) > bound and PROGRAMME and len(need) <= PIECES and seconds > 0.05:
        found, proven = _by_programme(need, sold, rests, found, seconds)
        bound = max(bound, _least(proven, tuple(sold)))
    drums = [_drum(size, fresh, [fits[i] for i in inside]) for size, fresh, inside in found if inside]
    return Cutting(
        cable, sorted(drums, key=lambda d: (not d.at_hand, -d.length)), _bought(found) / PER_M, bound / PER_M,
        _bought(found) <= bound, [ordered[i] for i in sorted(lost)],
    )  # fmt: skip


# A drum in the making: its length, whether it is bought, and the pieces in it by their place in the list.
Packed = list[tuple[int, bool, list[int]]]


def _whole(length: float) -> int:
    return round(length * PER_M)


def _bought(packed: Packed) -> int:
    return added(size for size, fresh, inside in packed if fresh and inside)


def _drum(size: int, fresh: bool, pieces: list[Piece]) -> Drum:
    left = size - added(_whole(p.length) for p in pieces)
    return Drum(size / PER_M, not fresh, sorted(pieces, key=lambda p: -p.length), left / PER_M)


@cache
def _least(need: int, sold: tuple[int, ...]) -> int:
    """The least that drums come to which together hold so much, whatever the pieces."""
    if need <= 0 or not sold:
        return 0
    top = need + sold[-1]
    reached = [True] + [False] * top
    for total in range(1, top + 1):
        reached[total] = any(total >= s and reached[total - s] for s in sold)
    return next(t for t in range(need, top + 1) if reached[t])


def _homeless(need: list[int], sold: list[int], rests: list[int]) -> list[int]:
    """Pieces longer than any drum that is sold, for which no rest is long enough either."""
    room, found = list(rests), []
    for i, length in enumerate(need):
        if length > max(sold, default=0):
            best = min((k for k in range(len(room)) if room[k] >= length), key=lambda k: room[k], default=None)
            if best is None:
                found.append(i)
            else:
                room[best] -= length
    return found


def _by_length(need: list[int], sold: list[int], rests: list[int]) -> Packed:
    """The longest piece first, each where least remains; then each new drum is exchanged for the shortest that holds what is in it."""
    packed: Packed = [(size, False, []) for size in rests]
    room = list(rests)
    for i, length in enumerate(need):
        best = min((k for k in range(len(packed)) if room[k] >= length), key=lambda k: room[k], default=None)
        if best is None:
            packed.append((sold[-1], True, []))
            room.append(sold[-1])
            best = len(packed) - 1
        packed[best][2].append(i)
        room[best] -= length
    return [
        (next(s for s in sold if s >= added(need[i] for i in inside)) if fresh else size, fresh, inside) for size, fresh, inside in packed
    ]


# A way to cut a drum: the drum (its length, whether it is bought, which rest it is) and the pieces in it.
Pattern = tuple[tuple[int, bool, int], frozenset[int]]


class _Programme:
    """Which patterns are used, so that every piece is in one and no rest is used twice; patterns are added as they are found worth while."""

    def __init__(self, need: list[int], rests: list[int], patterns: list[Pattern]) -> None:
        import highspy

        solver: Any = highspy.Highs
        self.h = solver()
        for name, value in (("output_flag", False), ("threads", 1), ("random_seed", 1)):
            self.h.setOptionValue(name, value)
        self.patterns: list[Pattern] = []
        infinite = highspy.kHighsInf
        for _ in need:
            self.h.addRow(1.0, infinite, 0, [], [])
        for _ in rests:
            self.h.addRow(-infinite, 1.0, 0, [], [])
        self.pieces = len(need)
        for pattern in patterns:
            self.add(pattern)

    def add(self, pattern: Pattern) -> None:
        """Let a pattern be used."""
        (size, fresh, rest), inside = pattern
        rows = [*sorted(inside), *([] if fresh else [self.pieces + rest])]
        self.h.addCol(float(size) if fresh else 0.0, 0.0, 1.0, len(rows), rows, [1.0] * len(rows))
        self.patterns.append(pattern)

    def relaxed(self) -> tuple[float, list[float]]:
        """Solve it with parts of patterns; return what is bought and what each piece and rest is worth."""
        self.h.run()
        return self.h.getInfo().objective_function_value, list(self.h.getSolution().row_dual)

    def whole(self, seconds: float) -> list[Pattern]:
        """Solve it with whole patterns; return those used, none where it found nothing in time."""
        import highspy

        self.h.setOptionValue("time_limit", self.h.getRunTime() + max(0.05, seconds))
        for k in range(len(self.patterns)):
            self.h.changeColIntegrality(k, highspy.HighsVarType.kInteger)
        self.h.run()
        if self.h.getInfo().primal_solution_status != highspy.SolutionStatus.kSolutionStatusFeasible:
            return []
        return [p for p, used in zip(self.patterns, self.h.getSolution().col_value, strict=True) if used > 0.5]


def _by_programme(need: list[int], sold: list[int], rests: list[int], known: Packed, seconds: float) -> tuple[Packed, int]:
    """The same by an integer programme over ways to cut a drum. Returns the better of what it found and `known`, and a bound for any plan.

    The bound is that of the programme with parts of patterns, once no pattern is left that would lower it; 0 where time was up before.
    """
    until = time.monotonic() + seconds
    drums = [(size, True, 0) for size in sold] + [(size, False, k) for k, size in enumerate(rests)]
    names = {(size, fresh): (size, fresh, 0) for size, fresh, _ in drums if fresh}
    first = [
        (names[size, True] if fresh else (size, False, k), frozenset(inside)) for k, (size, fresh, inside) in enumerate(known) if inside
    ]
    programme = _Programme(need, rests, first)
    bound = 0
    while time.monotonic() < until - seconds / 2:
        value, worth = programme.relaxed()
        better = [p for p, gain in _worth_while(need, drums, worth) if gain > 1e-6]
        if not better:
            # A little below what it says: it reckons with rounded figures.
            bound = max(0, ceil(value - 1e-3))
            break
        for pattern in better:
            programme.add(pattern)
    used = programme.whole(until - time.monotonic())
    seen: set[int] = set()
    found: Packed = []
    for (size, fresh, _), inside in used:
        found.append((size, fresh, sorted(inside - seen)))
        seen |= inside
    return (known, bound) if not used or _bought(known) <= _bought(found) else (found, bound)


def _worth_while(need: list[int], drums: list[tuple[int, bool, int]], worth: list[float]) -> list[tuple[Pattern, float]]:
    """For each drum the pieces worth most that go into it, and what that lowers the programme by."""
    import numpy as np

    top = max(size for size, _, _ in drums)
    best = np.zeros(top + 1)
    taken = np.zeros((len(need), top + 1), dtype=bool)
    for i, length in enumerate(need):
        if worth[i] > 0:
            with_it = best[: top + 1 - length] + worth[i]
            taken[i, length:] = with_it > best[length:] + 1e-12
            best[length:] = np.maximum(best[length:], with_it)
    found = []
    for size, fresh, rest in drums:
        inside, room = set(), size
        for i in range(len(need) - 1, -1, -1):
            if taken[i, room]:
                inside.add(i)
                room -= need[i]
        price = float(size) if fresh else -worth[len(need) + rest]
        found.append((((size, fresh, rest), frozenset(inside)), float(best[size]) - price))
    return found
