"""A whole house at a glance: every circuit in the order of the tree, its amps, volts and loop each as a share of what is allowed there."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from mellow_span.core.design.check import NOTHING, Checked
from mellow_span.core.findings.results import WORSE, Check, CircuitResult, Verdict, worst
from mellow_span.core.model.parts import Circuit
from mellow_span.core.rules.case import Case

About = Literal["amps", "volts", "loop"]
# Whose a mark is: "leg" is the Iz of one leg of a ring.
MarkName = Literal["Ib", "In", "Iz", "leg", "before", "measured"]
AMPS = ("design_current", "capacity", "overload_current")


@dataclass(slots=True)
class BarMark:
    """A place on the scale of a bar: whose it is, its value in the unit of the bar, and its share of what is allowed."""

    name: MarkName
    value: float
    share: float


@dataclass(slots=True)
class Bar:
    """One figure of a circuit beside what is allowed: used is the share of it, 1 is all of it; None is not known.

    value, limit [unit]: what the share is of. marks: of the amps Ib, In and Iz, of a ring that of a leg; of the volts what the sub-mains take; of
    the loop up to where a measured value may go.
    """

    about: About
    verdict: Verdict
    unit: str
    used: float | None = None
    value: float | None = None
    limit: float | None = None
    marks: tuple[BarMark, ...] = ()


@dataclass(slots=True)
class GlanceRow:
    """A circuit in the order of the tree. depth: sub-mains before it; ruling: the title of the check that rules the verdict, with its margin; worst:
    which bar is nearest its limit.
    """

    circuit: str
    board: str
    depth: int
    verdict: Verdict
    ruling: str
    margin: float | None
    bars: tuple[Bar, ...]
    worst: About | None


def glance_of(done: Checked) -> tuple[GlanceRow, ...]:
    """Return a row for every circuit of a job worked out, those of a board under the sub-main that feeds it."""
    plan = done.plan
    found = {r.id: r for r in done.result.circuits}
    rows = []
    for circuit, depth in _in_order(plan.roots, plan.job.circuits):
        case = Case(plan.rules, plan.job.supply, circuit, done.feeds[circuit.board], plan.around.get(circuit.id, NOTHING))
        rows.append(_row(case, depth, found[circuit.id]))
    return tuple(rows)


def _in_order(roots: tuple[str, ...], circuits: tuple[Circuit, ...]) -> Iterator[tuple[Circuit, int]]:
    starting: dict[str, list[Circuit]] = defaultdict(list)
    for circuit in circuits:
        starting[circuit.board].append(circuit)
    waiting = [(c, 0) for board in reversed(roots) for c in reversed(starting[board])]
    while waiting:
        circuit, depth = waiting.pop()
        yield circuit, depth
        if circuit.feeds:
            waiting += [(c, depth + 1) for c in reversed(starting[circuit.feeds])]


def _row(case: Case, depth: int, result: CircuitResult) -> GlanceRow:
    checks = {c.id: c for c in result.checks}
    bars = (_amps(case, checks, result), _volts(case, checks), _loop(case, checks))
    known = [b for b in bars if b.used is not None]
    nearest = max(known, key=lambda b: (WORSE[b.verdict], b.used or 0.0)).about if known else None
    circuit = case.circuit
    ruling = checks[result.ruling].title if result.ruling in checks else ""
    return GlanceRow(circuit.id, circuit.board, depth, result.verdict, ruling, result.margin, bars, nearest)


def _amps(case: Case, checks: dict[str, Check], result: CircuitResult) -> Bar:
    """All of it is the In that the cable allows: Iz; of a ring that of both legs (433.1.204); of a fuse what I2 leaves of it (433.1.1 (iii))."""
    there = [checks[name] for name in AMPS if name in checks]
    verdict = worst([c.verdict for c in there])
    capacity, overload = checks.get("capacity"), checks.get("overload_current")
    rating, iz = result.rating, result.iz
    if capacity is None or iz is None or not rating or not capacity.limit:
        return Bar("amps", verdict, "A")
    allowed = iz
    if case.ring:
        allowed = iz * rating / capacity.limit
    elif overload is not None and overload.value and overload.limit:
        allowed = min(allowed, rating * overload.limit / overload.value)
    ib = result.ib or 0.0
    # Where overload protection is left out for a reason it is Ib that the cable has to carry (433.3.1).
    needed = ib if case.overload_omitted else max(rating, ib)
    there_are: tuple[tuple[MarkName, float | None], ...] = (("Ib", result.ib), ("In", rating), ("leg" if case.ring else "Iz", iz))
    marks = tuple(BarMark(name, amps, amps / allowed) for name, amps in there_are if amps is not None)
    return Bar("amps", verdict, "A", needed / allowed, needed, allowed, marks)


def _volts(case: Case, checks: dict[str, Check]) -> Bar:
    drop = checks.get("volt_drop")
    if drop is None or drop.value is None or not drop.limit:
        return Bar("volts", "not_known" if drop is None else drop.verdict, "%")
    before = case.feed.drop
    marks = (BarMark("before", before, before / drop.limit),) if before else ()
    return Bar("volts", drop.verdict, "%", drop.value / drop.limit, drop.value, drop.limit, marks)


def _loop(case: Case, checks: dict[str, Check]) -> Bar:
    loop = checks.get("loop")
    if loop is None or loop.value is None or not loop.limit:
        return Bar("loop", "not_known" if loop is None else loop.verdict, "Ω")
    asked = case.feed.earthing != "TT" and case.rules.has("reading_share")
    share = case.rules.limit("reading_share") if asked else None
    marks = (BarMark("measured", share * loop.limit, share),) if share else ()
    return Bar("loop", loop.verdict, "Ω", loop.value / loop.limit, loop.value, loop.limit, marks)
