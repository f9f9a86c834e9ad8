"""A job changed and looked at again: what the searches for ways out share."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import TypeVar

from mellow_span.core.design.check import NOTHING, feed_to, lay_out
from mellow_span.core.design.circuit import check_circuit
from mellow_span.core.errors import NotInBook
from mellow_span.core.findings.results import WORSE, CircuitResult
from mellow_span.core.model.changes import Change, restore
from mellow_span.core.model.fields import PartKind
from mellow_span.core.model.parts import Installation
from mellow_span.core.model.tree import circuit_of

T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class Ask:
    """A figure that a way out hangs on and that a person has to give: the field of a part it belongs to, what it is, and what would do.

    field: with a dot for what is inside a device, empty where several are to be found out and entered where they belong. most, least: up to
    which figure, and from which, the way out does what it says.
    """

    kind: PartKind
    id: str
    field: str
    label: str
    unit: str
    most: float | None = None
    least: float | None = None


@dataclass(frozen=True, slots=True)
class Idea:
    """A way out that is yet to be solved: its name, words, the changes it is made of, and what a person has to say for it."""

    id: str
    title: str
    changes: tuple[Change, ...]
    ask: Ask | None = None


def changed(job: Installation, changes: Iterable[Change]) -> Installation:
    """Return a job with the changes of a way out made."""
    return restore(job, changes)[0]


def solved(job: Installation, circuit_id: str) -> CircuitResult:
    """Check one circuit of a job without its working."""
    plan = lay_out(job)
    circuit = circuit_of(plan.job, circuit_id)
    around = plan.around.get(circuit_id, NOTHING)
    return check_circuit(plan.rules, job.supply, circuit, feed_to(plan, circuit.board), False, around)


def short(result: CircuitResult) -> list[str]:
    """List the deciding checks that are short."""
    return [c.id for c in result.checks if c.decides and c.verdict == "short"]


def rank(result: CircuitResult) -> int:
    """Say how bad a circuit is: 0 where all that decides passes, 1 where something is not known, 2 where something is short."""
    return max((WORSE[c.verdict] for c in result.checks if c.decides), default=WORSE["not_known"])


def in_book(ideas: Iterator[T]) -> Iterator[T]:
    """Yield ideas until one asks for what the book of the job does not have: of such nothing is proposed."""
    try:
        yield from ideas
    except NotInBook:
        return
