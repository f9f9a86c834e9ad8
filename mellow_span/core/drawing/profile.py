"""The figures behind the span profile: stretches to scale, and the three lanes from the origin to the far point."""

from __future__ import annotations

from dataclasses import replace

from mellow_span.core.adding import added
from mellow_span.core.design.branches import path_case, worst_end
from mellow_span.core.design.check import Checked
from mellow_span.core.errors import CoreError
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import Check, CircuitResult, Point, Profile, Stretch
from mellow_span.core.findings.wording import span_name
from mellow_span.core.model.legs import plain
from mellow_span.core.model.parts import Circuit
from mellow_span.core.model.tree import circuit_of, feeder_of
from mellow_span.core.rules.case import Around, Case
from mellow_span.core.rules.demand.boards import PHASES
from mellow_span.core.rules.drop.along import along, reach
from mellow_span.core.rules.drop.run import run_shares, starts
from mellow_span.core.rules.faults.loop import RING_SHARE, loop_of
from mellow_span.core.rules.stretches import by_stretch
from mellow_span.core.working.recorders import Silent


def profile_of(done: Checked, circuit_id: str, end: str = "") -> Profile:
    """Return the profile of a circuit with everything upstream of it; what is not known is left out of its lane.

    Of a run that branches the path to an end is drawn; end: the span that leads there, empty: the one that stands worst.

    Positions are metres from the origin; drop is in % of U0 and volts in V left; loop in ohm. Raises InputError for an unknown circuit.
    """
    plan, results = done.plan, {c.id: c for c in done.result.circuits}
    circuit = circuit_of(plan.job, circuit_id)
    chain = [circuit]
    while (feeder := feeder_of(plan.job, chain[0].board)) is not None:
        chain.insert(0, feeder)
    drawn = Profile(u0=plan.job.supply.u0)
    for one in chain:
        result = results[one.id]
        if result.problems or not result.checks:
            return Profile()
        case = Case(plan.rules, plan.job.supply, one, done.feeds[one.board], plan.around.get(one.id, Around()))
        if one is circuit and not plain(circuit):
            end = end or worst_end(result)
            parts = path_case(case, end)
        else:
            parts = by_stretch(case)
        start = parts[0].feed.length
        for part in parts:
            drawn = replace(_drawn_on(drawn, part, result, circuit), own_from=start)
    drawn.end = end
    return drawn


def paths_of(done: Checked, circuit_id: str) -> tuple[Profile, ...]:
    """Return the profile of the path to each end of a run that branches, the main way first; of a straight one none."""
    circuit = circuit_of(done.plan.job, circuit_id)
    result = next(r for r in done.result.circuits if r.id == circuit_id)
    return tuple(profile_of(done, circuit_id, end.span) for end in result.ends if end.last) if not plain(circuit) else ()


def _drawn_on(before: Profile, case: Case, result: CircuitResult, target: Circuit) -> Profile:
    """The profile so far, with one more circuit drawn behind it."""
    checks = {c.id: c for c in result.checks}
    capacity, drop, loop = checks["capacity"], checks["volt_drop"], checks["loop"]
    own = _stretches(case, result)
    if own is None:
        return Profile(before.stretches, before.points, case.feed.length, u0=before.u0)
    reading = case.rules.limit("reading_share") if case.rules.has("reading_share") else None
    return Profile(
        stretches=before.stretches + own,
        points=before.points + _points(case, target),
        own_from=case.feed.length,
        drop_limit=drop.limit,
        zs_limit=loop.limit,
        zs_reading_limit=None if loop.limit is None or reading is None or case.feed.earthing == "TT" else reading * loop.limit,
        iz_needed=capacity.limit,
        reach_drop=_reach_drop(case),
        reach_zs=_reach_zs(case, loop),
        governing=capacity.span,
        u0=case.supply.u0,
    )


def _stretches(case: Case, result: CircuitResult) -> tuple[Stretch, ...] | None:
    try:
        spans = case.spans
    except CoreError:
        return None
    iz = {s.id: s.iz for s in result.spans}
    at, found = case.feed.length, []
    for span in spans:
        place = case.rules.places.get(span.place or "")
        end = at + (span.length or 0.0)
        found.append(
            Stretch(
                circuit=case.circuit.id, span=span.id, name=span_name(case.rules, span), look=place.look if place else "",
                method=place.method if place else "", start=at, end=end, ib=result.ib, rating=case.device.rating, iz=iz.get(span.id),
                cable=_begun(case) if span is spans[0] else "",
            )
        )  # fmt: skip
        at = end
    return tuple(found)


def _begun(case: Case) -> str:
    """The size of a cable that begins along a run; empty for that of the whole run, and while it is not chosen."""
    csa = case.circuit.run.cable.csa
    return "" if case.begins is None or csa is None else quantity(csa, "mm²")


def _points(case: Case, target: Circuit) -> tuple[Point, ...]:
    """Points along this run: at its span edges, or along the curve of a ring. target: the circuit whose phase is followed, where it has one."""
    quiet = Silent(case.rules)
    drops: list[tuple[float, float]] | None = None
    start = None
    try:
        own, before = run_shares(quiet, case), starts(case)
        count = max(len(own), len(before))
        pairs = [(before[i % len(before)], own[i % len(own)]) for i in range(count)]
        followed = target.phase if target.phases == 1 and count > 1 else None
        start, share = pairs[PHASES.index(followed)] if followed else max(pairs, key=added)
        drops = along(quiet, case, share)
    except CoreError:
        drops = None
    edges = [at for at, _ in drops] if drops else _edges(case)
    try:
        loop = loop_of(quiet, case).hot
    except CoreError:
        loop = None
    found = []
    for i, at in enumerate(edges):
        lost = None if drops is None or start is None else start + drops[i][1]
        zs = None if loop is None or case.feed.ze_hot is None else case.feed.ze_hot + loop * _loop_share(case, at)
        found.append(Point(case.feed.length + at, lost, None if lost is None else case.supply.u0 * (1 - lost / 100), zs))
    return tuple(found)


def _edges(case: Case) -> list[float]:
    at, edges = 0.0, [0.0]
    for span in case.spans:
        at += span.length or 0.0
        edges.append(at)
    return edges


def _loop_share(case: Case, at: float) -> float:
    """Share of the run's loop impedance met at a point; in a ring both ways round in parallel, whole at the middle."""
    part = at / case.length
    return RING_SHARE * part * (1 - part) if case.ring else part


def _reach_drop(case: Case) -> float | None:
    try:
        return reach(Silent(case.rules), case)
    except CoreError:
        return None


def _reach_zs(case: Case, loop: Check) -> float | None:
    """Longest length of this run [m] whose Zs stays within the limit, all else alike."""
    if loop.limit is None or case.feed.ze_hot is None:
        return None
    added = loop_of(Silent(case.rules), case).hot
    return max(0.0, case.length * (loop.limit - case.feed.ze_hot) / added)
