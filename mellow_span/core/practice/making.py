"""The heads of practice, and an exercise of one by its seed: always the same for the same seed, always one that can be solved and marked."""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

from mellow_span.core.errors import CoreError, InputError
from mellow_span.core.practice import currents, drops, faults, places
from mellow_span.core.practice.exercise import Exercise, Maker, clear
from mellow_span.core.rulesets import RuleSet, rule_set

# A draw that cannot be told apart from its slips is drawn again, this often.
TRIES = 200
MOST_SEED = 2**31 - 1


@dataclass(frozen=True, slots=True)
class Head:
    """A head of practice, in the order they build on each other."""

    id: str
    title: str
    about: str
    make: Callable[[Maker, int], Exercise]


HEADS: tuple[Head, ...] = (
    Head("design_current", "Design current", "from kilowatts to amperes, and the rating that carries them", currents.design_current),
    Head("capacity", "Capacity in one span", "the column of the method, the factor of the place", currents.capacity),
    Head("throttled", "The limiting span", "three spans, and the one that limits", currents.throttled),
    Head("grouping", "Grouping", "the grouping factor and the 30 % rule", currents.grouping),
    Head("volt_drop", "Volt drop", "millivolts, metres, the share and its limit", drops.volt_drop),
    Head("chain", "A final circuit on a three-phase sub-main", "shares add, volts do not", drops.chain),
    Head("loop", "Zs and disconnection", "Zs hot, the operating current, the maximum Zs", faults.loop),
    Head("protective_conductor", "Protective conductor", "by the adiabatic equation and by the table", faults.protective_conductor),
    Head("pairs", "Fixed pairs", "the cpc size in flat twin, from memory", faults.pairs),
    Head("conduit", "Space in a conduit", "cable factors and the conduit they need", places.conduit),
    Head("outbuilding", "An outbuilding", "its own earth electrode, or the supply earth exported", places.outbuilding),
    Head("readings", "Test readings", "a warm reading corrected to 20 °C, and the length it implies", faults.readings),
)
BY_ID = {head.id: head for head in HEADS}


def make(head: str, seed: int, book: str = "bs7671") -> Exercise:
    """Return the exercise of a head and a seed. Raises InputError for a head or seed that is none, or a book that lacks what the head needs."""
    found = BY_ID.get(head)
    if found is None:
        raise InputError("head", head, "one of " + ", ".join(BY_ID))
    if isinstance(seed, bool) or not 0 <= seed <= MOST_SEED:
        raise InputError("seed", seed, f"a whole number from 0 to {MOST_SEED}")
    rules, rng = rule_set(book), random.Random(f"{head}/{seed}")
    for _ in range(TRIES):
        made = _tried(found, rng, rules, seed)
        if made is not None and clear(made):
            return made
    raise InputError("head", head, f"a head that {rules.title} has all tables for")


def _tried(head: Head, rng: random.Random, rules: RuleSet, seed: int) -> Exercise | None:
    try:
        made = head.make(Maker(rng, rules), seed)
        # Every line has an answer, or the draw is not taken.
        made.solved  # noqa: B018
    except (CoreError, LookupError, StopIteration):
        return None
    return made


@lru_cache(maxsize=8)
def offered(book: str) -> tuple[Head, ...]:
    """Return the heads that a book has all tables for."""
    found = []
    for head in HEADS:
        try:
            make(head.id, 1, book)
        except InputError:
            continue
        found.append(head)
    return tuple(found)
