"""Ways out for a run whose cable changes: the smallest size that does of each cable that begins along it, or of all of them together."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace

from mellow_span.core.design.check import NOTHING, Plan, feed_to
from mellow_span.core.design.circuit import first_failing
from mellow_span.core.design.effort import Effort
from mellow_span.core.design.size import csa_change, with_csa
from mellow_span.core.design.solving import Idea
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import CircuitResult
from mellow_span.core.findings.wording import span_name
from mellow_span.core.model.changes import Change
from mellow_span.core.model.legs import begins, cables, mixed
from mellow_span.core.model.parts import Circuit, Span

Sizes = Mapping[str, float]


def cables_along(plan: Plan, circuit: Circuit, before: CircuitResult, effort: Effort) -> Iterator[Idea]:
    """Return what a larger cable along the run does, and a joint that needs no access where one cannot be reached."""
    if not mixed(circuit):
        return
    yield from _joints(circuit, before)
    begun = [span for span in circuit.run.spans if begins(span)]
    for span in begun:
        yield from _smallest(plan, circuit, [span], effort)
    if len(begun) > 1 or circuit.run.cable.csa is not None:
        yield from _smallest(plan, circuit, begun, effort, whole=True)


def _joints(circuit: Circuit, before: CircuitResult) -> Iterator[Idea]:
    failing = next((c for c in before.checks if c.id == "joint" and c.verdict == "short"), None)
    span = next((s for s in circuit.run.spans if failing is not None and s.id == failing.span), None)
    if span is not None:
        yield Idea("joint", "a joint filled with resin, which needs no access", (Change("set", "span", span.id, {"joint": "resin"}),))


def _smallest(plan: Plan, circuit: Circuit, spans: list[Span], effort: Effort, whole: bool = False) -> Iterator[Idea]:
    """The smallest size of some cables with which the circuit passes all that a size can change; whole: the first cable as well."""
    of = cables(circuit.run)
    families = {of[span.id][0].family for span in spans} | ({circuit.run.cable.family} if whole else set())
    known = [plan.rules.families[name] for name in families if name in plan.rules.families]
    if len(known) < len(families):
        return
    least = min((span.own_csa or 0.0 for span in spans), default=0.0)
    if whole:
        least = min(least, circuit.run.cable.csa or 0.0)
    for csa in sorted(set.intersection(*(set(family.sizes) for family in known))):
        if csa <= least:
            continue
        if effort.over():
            return
        effort.spend(1)
        sizes = {span.id: max(csa, span.own_csa or 0.0) for span in spans}
        trial = _with(plan, circuit, sizes)
        first = max(csa, circuit.run.cable.csa or 0.0)
        if whole:
            trial = with_csa(plan.rules, trial, first)
        around = plan.around.get(circuit.id, NOTHING)
        if first_failing(plan.rules, plan.job.supply, trial, feed_to(plan, circuit.board), around) is None:
            changes = [Change("set", "span", span.id, _fields(plan, circuit, span, sizes)) for span in spans]
            if whole:
                yield Idea("own-all", f"{quantity(csa, 'mm²')} or more all along", (csa_change(plan.rules, circuit, first), *changes))
            else:
                where = span_name(plan.rules, spans[0])
                yield Idea(f"own-{spans[0].id}", f"{quantity(csa, 'mm²')} from “{where}” on", tuple(changes))
            return


def _fields(plan: Plan, circuit: Circuit, span: Span, sizes: Sizes) -> dict[str, object]:
    """The fields of a larger cable: the cpc of singles goes with the line, any other is that of its type."""
    family = plan.rules.families.get(cables(circuit.run)[span.id][0].family or "")
    csa = sizes[span.id]
    return {"own_csa": csa, "own_cpc_csa": min(span.own_cpc_csa or csa, csa) if family is not None and family.cpc == "single" else None}


def _with(plan: Plan, circuit: Circuit, sizes: Sizes) -> Circuit:
    spans = tuple(
        replace(s, **_fields(plan, circuit, s, sizes)) if s.id in sizes else s  # type: ignore[arg-type]
        for s in circuit.run.spans
    )
    return replace(circuit, run=replace(circuit.run, spans=spans))
