"""Routes: who runs beside whom, and which cables are loaded so lightly that they need not be counted.

A route names no circuits; the spans of the circuits name it. So n follows from who runs in it, and an edit of one circuit reaches its
neighbours. A cable carrying at most 30 % of its grouped rating, worked out with the whole group, need not be counted for the others (note to
Table 4C1). One pass: repeating it on the smaller group lets twenty lightly loaded cables count as none.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from mellow_span.core.adding import added
from mellow_span.core.errors import CoreError
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import Check, Member, RouteResult, Verdict
from mellow_span.core.model.legs import cable_parts
from mellow_span.core.model.parts import Circuit, Installation, Route, Span
from mellow_span.core.rules.capacity.spans import found_amps, grouped_rating, grouping_factor
from mellow_span.core.rules.case import Around, Case, Feed, Group
from mellow_span.core.rules.demand.loads import ib_of
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.working.recorders import Silent, Working, recorder


@dataclass(slots=True)
class _Runner:
    """A circuit in a route: its span there, its design current per cable [A] and cables; light: 30 % of its grouped rating [A]."""

    case: Case
    span: Span
    ib: float | None
    cables: int
    rated_at: int
    counted: bool = True
    light: float | None = None


@dataclass(slots=True)
class Settled:
    """A route once its count is stable: the group each circuit finds in it, and the result to show."""

    groups: dict[str, Group] = field(default_factory=dict)
    result: RouteResult | None = None


def settle(rules: RuleSet, job: Installation, route: Route, demand_of: Callable[[Circuit], float | None], keep: bool) -> Settled:
    """Return who counts in a route and what each circuit finds there. n is never below 1.

    job: the circuits that may lie there are enough, with the supply.
    demand_of: the current a sub-main takes from its board [A], None where not known. A circuit whose current or rating is not known counts.
    """
    runners = _runners(rules, job, route, demand_of)
    w = recorder(rules, keep)
    quiet = w.quiet()
    share = w.limit("share", "grouped_light", "of the grouped rating: up to this a cable need not be counted")
    # All at the lowest temperature among them, those left out by the 30 % rule included; of circuits not in the job nobody says, so 70 °C.
    rated_at = 70 if route.others else min((r.rated_at for r in runners), default=90)
    whole = max(1, route.others + added(r.cables for r in runners))
    for runner in [r for r in runners if _is_light(quiet, r, whole, route.laid, share, rated_at)]:
        runner.counted = False
    n = max(1, route.others + added(r.cables for r in runners if r.counted))
    _record(w, runners, n, route, share)
    found = Settled()
    members = []
    for runner in runners:
        own = n if runner.counted else n + runner.cables if _anyone(runners, route) else max(1, runner.cables)
        note = f"{own} circuits, {route.laid}, in {route.name or 'a route'}" + ("" if runner.counted else ", itself lightly loaded")
        simultaneous = route.simultaneous
        found.groups[runner.case.circuit.id] = Group(route.id, own, route.laid, simultaneous, note, rated_at)
        members.append(Member(runner.case.circuit.id, runner.counted, runner.ib, runner.light, own))
    checks = (_counted(w, runners, n, route), *_unlike(w, runners))
    found.result = RouteResult(route.id, n, _factor(quiet, runners, n, route), tuple(members), checks)
    return found


def _anyone(runners: list[_Runner], route: Route) -> bool:
    return route.others > 0 or any(r.counted for r in runners)


def _runners(rules: RuleSet, job: Installation, route: Route, demand_of: Callable[[Circuit], float | None]) -> list[_Runner]:
    found = []
    for circuit in job.circuits:
        spans = [s for s in circuit.run.spans if s.route == route.id]
        if not spans or circuit.spare:
            continue
        # Of a run whose cable changes the cable that lies here; one that changes inside a route counts by the first that does.
        part = next(p for p in cable_parts(circuit) if any(s.route == route.id for s in p.run.spans))
        case = Case(rules, job.supply, part, Feed(premises=job.premises), Around(demand=demand_of(circuit)))
        flows = found_amps(circuit)
        try:
            ib: float | None = (ib_of(Silent(rules), case) if flows is None else flows) / case.parallel
        except CoreError:
            ib = None
        found.append(_Runner(case, spans[0], ib, case.parallel, _rated_at(case)))
    return found


def _rated_at(case: Case) -> int:
    """The temperature a cable is rated at [C]; of one whose kind is not entered the lower."""
    try:
        return case.rated_at
    except CoreError:
        return 70


def _is_light(w: Working, runner: _Runner, n: int, laid: str, share: float, rated_at: int) -> bool:
    if runner.ib is None:
        return False
    spans = [s for s in runner.case.whole.run.spans if s.route == runner.span.route]
    try:
        runner.light = share * min(grouped_rating(w, runner.case, span, n, laid, rated_at) for span in spans)
    except CoreError:
        return False
    return runner.ib <= runner.light * (1 + 1e-9)


def _factor(w: Working, runners: list[_Runner], n: int, route: Route) -> float | None:
    for runner in runners:
        try:
            return grouping_factor(w, runner.case, runner.span, Group(route.id, n, route.laid))
        except CoreError:
            continue
    return None


def _name(runner: _Runner) -> str:
    return runner.case.circuit.name or "a circuit"


def _record(w: Working, runners: list[_Runner], n: int, route: Route, share: float) -> None:
    for runner in runners:
        if runner.ib is not None and runner.light is not None:
            terms = {"Ib": runner.ib, "share": share, "grouped": runner.light / share}
            note = f"{_name(runner)}: {'counts' if runner.counted else 'does not count'}"
            if found_amps(runner.case.circuit) is not None:
                w.given("Ib", runner.ib, "A", f"{_name(runner)}: found, {runner.case.circuit.group_amps_by.strip()}")
            w.calc("0.3 Iz", runner.light, "A", "share × grouped rating", terms, C.GROUPED_LIGHT, note)
        else:
            w.given("n", 1.0, "", f"{_name(runner)}: counted: its current or rating is not known")
    w.given("others", float(route.others), "", "circuits in it from outside this job")
    w.calc("n", float(n), "", "those that count", {}, C.GROUPED_LIGHT, "one pass: the ratings are those of the whole group")


def _counted(w: Working, runners: list[_Runner], n: int, route: Route) -> Check:
    dropped = [_name(r) for r in runners if not r.counted]
    there = added(r.cables for r in runners) + route.others
    text = f"{n} counted of {there}" if any(r.counted for r in runners) or route.others else f"none of {there} counts: each by itself"
    judged = [f"{_name(r)} {quantity(r.ib or 0.0, 'A')}" for r in runners if found_amps(r.case.circuit) is not None]
    if judged:
        text += f"; by currents found, the designer's judgement: {', '.join(judged)}"
    unsaid = [_name(r) for r in runners if r.case.circuit.group_amps is not None and found_amps(r.case.circuit) is None]
    if unsaid:
        text += f"; not used until it is entered how it was found: the current of {', '.join(unsaid)}"
    if dropped:
        text += f"; not counted, at or under 30 % of grouped rating: {', '.join(dropped)}"
    steps, doubtful = w.take()
    return Check(
        id="count",
        title="Circuits counted for grouping",
        clause=w.rules.clause(C.GROUPED_LIGHT),
        # What rests on somebody's judgement never passes as plain arithmetic.
        verdict="close" if judged else "meets",
        text=text,
        value=float(n),
        steps=steps,
        doubtful=doubtful,
    )


def _unlike(w: Working, runners: list[_Runner]) -> list[Check]:
    """Warn where the sizes in a group span more than three adjacent standard sizes: the factors then no longer fit (note to Table 4C1)."""
    sizes = sorted({r.case.circuit.run.cable.csa for r in runners if r.case.circuit.run.cable.csa})
    if len(sizes) < 2:
        return []
    standard = [row.key[0] for row in w.rules.table(T.RESISTANCE).rows]
    places = [standard.index(size) for size in (sizes[0], sizes[-1]) if size in standard]
    if len(places) < 2:
        return []
    spread = places[1] - places[0] + 1
    most = w.limit("sizes", "alike_sizes")
    ends = f"{quantity(sizes[0], 'mm²')} to {quantity(sizes[-1], 'mm²')}"
    fits = spread <= most
    text = f"{ends}: {spread} adjacent sizes, {'alike' if fits else 'too mixed: the small cables run hotter than the factor allows'}"
    steps, doubtful = w.take()
    verdict: Verdict = "meets" if fits else "close"
    return [
        Check(
            id="unlike",
            title="Mixed sizes in the group",
            clause=w.rules.clause(C.GROUPED_LIGHT),
            verdict=verdict,
            text=text,
            value=float(spread),
            limit=most,
            steps=steps,
            doubtful=doubtful,
        )
    ]
