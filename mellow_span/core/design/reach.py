"""How long a run may be, check by check, with everything else alike."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from mellow_span.core.adding import added
from mellow_span.core.design.check import NOTHING, feed_to, lay_out
from mellow_span.core.design.circuit import PASSING, RULES, check_circuit
from mellow_span.core.model.parse import specs
from mellow_span.core.model.parts import Circuit, Installation, Span
from mellow_span.core.model.tree import circuit_of


@dataclass(slots=True)
class Reach:
    """The longest this run may be for one check to pass, everything else alike [m]; None where no length decides it.

    passing: at which lengths the check passes: some of them, all that were looked at, or none.
    """

    check: str
    title: str
    longest: float | None
    now: float
    passing: Literal["some", "all", "none"] = "some"


def stretched(circuit: Circuit, by: float) -> Circuit:
    """Return a circuit with its run longer by a factor: every span keeps its share, and loads along it move with it."""
    spans = tuple(
        replace(s, length=None if s.length is None else s.length * by, wrapped=s.wrapped * min(1.0, by)) for s in circuit.run.spans
    )  # fmt: skip
    loads = tuple(replace(x, at=None if x.at is None else x.at * by) for x in circuit.loads)
    return replace(circuit, run=replace(circuit.run, spans=spans), loads=loads)


def reaches(job: Installation, circuit_id: str, most: float = 1000.0) -> tuple[Reach, ...]:
    """Return the reach of every check that length can fail, found by bisection over the length of all spans together.

    Raises InputError for an unknown circuit. A check that passes even at `most` [m] has no reach to tell.
    """
    plan = lay_out(job)
    circuit = circuit_of(plan.job, circuit_id)
    feed, around = feed_to(plan, circuit.board), plan.around.get(circuit_id, NOTHING)
    length = added(s.length or 0.0 for s in circuit.run.spans)
    if not length:
        return ()

    def verdicts(metres: float) -> dict[str, bool]:
        result = check_circuit(plan.rules, job.supply, stretched(circuit, metres / length), feed, False, around)
        return {c.id: c.verdict in PASSING for c in result.checks}

    titles = {rule.id: rule.title for rule in RULES}
    # Each span keeps its share, so the shortest and the longest span bound how far the run can shrink and grow.
    about = specs(Span)["length"]
    parts = [s.length or about["lo"] for s in circuit.run.spans]
    shortest, most = length * about["lo"] / min(parts) * 1.001, min(most, length * about["hi"] / max(parts)) * 0.999
    lowest, highest = verdicts(shortest), verdicts(most)
    found = []
    for name in ("volt_drop", "loop", "disconnection", "line_thermal", "cpc_thermal"):
        if name not in lowest:
            continue
        if not lowest[name] or highest.get(name, False):
            found.append(Reach(name, titles[name], None, length, "all" if lowest[name] else "none"))
            continue
        good, bad = shortest, most
        while bad - good > 0.01:
            middle = (good + bad) / 2
            good, bad = (middle, bad) if verdicts(middle).get(name, False) else (good, middle)
        found.append(Reach(name, titles[name], good, length))
    return tuple(found)
