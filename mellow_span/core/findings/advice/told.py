"""All advice the facts of a job call for, in the order it is told."""

from __future__ import annotations

from collections.abc import Iterator

from mellow_span.core.findings.advice.base import HINTS, Advice, Facts, Hint
from mellow_span.core.model.parts import Installation
from mellow_span.core.model.routes import resolved
from mellow_span.core.rulesets.readings import rules_of


def _subjects(facts: Facts, one: Hint) -> Iterator[tuple[str, str, str | None, str | None, str | None]]:
    """Yield (key, subject, circuit, board, words) for each subject of a rule."""
    job = facts.job
    if one.about == "job":
        yield one.id, "Intake", None, None, one.run(facts)
    elif one.about == "board":
        for board in job.boards:
            yield f"{one.id}:{board.id}", board.name or "a board", None, board.id, one.run(facts, board)
    elif one.about == "circuit":
        for circuit in job.circuits:
            yield f"{one.id}:{circuit.id}", circuit.name or "a circuit", circuit.id, None, one.run(facts, circuit)
    else:
        for route in job.routes:
            yield f"{one.id}:{route.id}", route.name or "a route", None, None, one.run(facts, route)


# In the order of the work: the run, rooms, earthing of the metal, devices, the intake, boards, containment.
ALONG_THE_WORK = (
    "polystyrene", "zones", "cavity", "fire", "burial", "outdoors", "bathroom", "pool", "agricultural", "flylead", "island", "rcdtype",
    "afdd", "isolation", "joint", "tails", "assumed-fuse", "notify", "distributor", "electrode", "enclosure", "outbuilding",
    "space-and-heat", "separation",
)  # fmt: skip
ORDER: dict[str, int] = {"danger": 0, "duty": 1, "note": 2}


def advise(job: Installation) -> tuple[Advice, ...]:
    """Return all advice the facts of a job call for: dangers first, then duties, then notes; what was put aside keeps its reason."""
    job = resolved(job)
    facts = Facts(rules_of(job), job)
    aside = {d.key: d.reason for d in job.dismissals}
    found = [
        Advice(key, one.weight, one.title, words, facts.rules.clause(one.clause), subject, circuit, board, aside.get(key))
        for one in sorted(HINTS, key=lambda h: ALONG_THE_WORK.index(h.id))
        for key, subject, circuit, board, words in _subjects(facts, one)
        if words is not None
    ]
    return tuple(sorted(found, key=lambda a: (a.dismissed is not None, ORDER[a.weight])))
