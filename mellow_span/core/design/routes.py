"""Routes as they are looked at: who lies in each, how warm and how full it is side by side, and what trying something with it would do."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from uuid import NAMESPACE_OID, uuid5

from mellow_span.core.design.check import Checked, check, work_out
from mellow_span.core.design.effort import Effort
from mellow_span.core.errors import CoreError, InputError
from mellow_span.core.findings.results import WORSE, Check, InstallationResult, RouteResult, Verdict, worst
from mellow_span.core.model.changes import Change, restore
from mellow_span.core.model.fields import given
from mellow_span.core.model.parts import Circuit, Installation, Route
from mellow_span.core.rulesets import Place, RuleSet
from mellow_span.core.rulesets.readings import rules_of


@dataclass(slots=True)
class Lying:
    """A circuit in a route: its csa [mm2], its Iz there and what that has to reach [A], and whether it does."""

    circuit: str
    csa: float | None
    iz: float | None
    needed: float | None
    verdict: Verdict


@dataclass(slots=True)
class RouteView:
    """A route beside its result: who lies in it, the verdict on heat over all of them, and on space; space None where nothing encloses it."""

    id: str
    result: RouteResult | None
    lying: tuple[Lying, ...]
    heat: Verdict
    space: Verdict | None


@dataclass(slots=True)
class Effect:
    """What a try-out does to a circuit: verdict and Iz [A] before and after. better, worse: by verdict."""

    circuit: str
    before: Verdict
    after: Verdict
    iz_before: float | None
    iz_after: float | None
    better: bool
    worse: bool


@dataclass(slots=True)
class Tryout:
    """Something to try with a route: the changes, and every circuit that they touch; why it cannot be tried, where it cannot."""

    id: str
    title: str
    changes: tuple[Change, ...]
    effects: tuple[Effect, ...]
    why: str = ""


def members(job: Installation, route: str) -> list[Circuit]:
    """List the circuits that lie in a route."""
    return [c for c in job.circuits if any(span.route == route for span in c.run.spans)]


def route_views(done: Checked) -> tuple[RouteView, ...]:
    """Return every route of a job that was worked out."""
    results = {route.id: route for route in done.result.routes}
    return tuple(_view(done, route, results.get(route.id)) for route in done.plan.job.routes)


def _view(done: Checked, route: Route, result: RouteResult | None) -> RouteView:
    found = {c.id: c for c in done.result.circuits}
    lying = []
    for circuit in members(done.plan.job, route.id):
        one = found[circuit.id]
        here = [s.id for s in circuit.run.spans if s.route == route.id]
        known = [s.iz for s in one.spans if s.id in here]
        iz = None if not known or None in known else min(i for i in known if i is not None)
        needed = next((c.limit for c in one.checks if c.id == "capacity"), None)
        lying.append(Lying(circuit.id, circuit.run.cable.csa, iz, needed, _carries(circuit, iz, needed)))
    space = next((c for c in result.checks if c.id == "space"), None) if result else None
    heat = worst([one.verdict for one in lying]) if lying else "meets"
    return RouteView(route.id, result, tuple(lying), heat, space.verdict if isinstance(space, Check) else None)


def _carries(circuit: Circuit, iz: float | None, needed: float | None) -> Verdict:
    if circuit.spare:
        return "meets"
    if iz is None or needed is None:
        return "not_known"
    return "meets" if iz >= needed * (1 - 1e-9) else "short"


def tryouts(job: Installation, route_id: str, effort: Effort | None = None) -> tuple[Tryout, ...]:
    """Return what can be tried with a route and what each does to every circuit of the job.

    effort: how much work it may be; trials left out are missing. Raises InputError for an unknown route.
    """
    effort = effort or Effort()
    route = next((r for r in job.routes if r.id == route_id), None)
    if route is None:
        raise InputError("route", route_id, "a route of this job")
    done = work_out(job, keep=False, reuse=True)
    lying = members(done.plan.job, route_id)
    ideas = list(_ideas(rules_of(job), job, route, lying))
    effort.expect(len(ideas) * len(job.circuits))
    found = []
    for one in ideas:
        if effort.over():
            break
        effort.spend(len(job.circuits))
        found.append(_tried(job, done.result, one))
    return tuple(found)


def _tried(job: Installation, before: InstallationResult, one: Tryout) -> Tryout:
    if one.why:
        return one
    try:
        after = check(restore(job, one.changes)[0], keep=False, reuse=True)
    except CoreError as refusal:
        one.why = str(refusal)
        return one
    effects = []
    for old, new in zip(before.circuits, after.circuits, strict=True):
        if (old.verdict, old.iz) != (new.verdict, new.iz):
            change = WORSE[new.verdict] - WORSE[old.verdict]
            effects.append(Effect(old.id, old.verdict, new.verdict, old.iz, new.iz, change < 0, change > 0))
    if effects and all(e.iz_after is None for e in effects):
        # A trial of which the tables know nothing tells nothing.
        one.why = "no tabulated value for its cables"
        return one
    one.effects = tuple(effects)
    return one


def _ideas(rules: RuleSet, job: Installation, route: Route, lying: list[Circuit]) -> Iterator[Tryout]:
    families = [rules.families[c.run.cable.family] for c in lying if c.run.cable.family in rules.families]
    place = rules.places.get(route.place or "") or _common_place(rules, lying, route.id)

    def moved(to: str) -> tuple[Change, ...]:
        there = rules.places[to]
        return (Change("set", "route", route.id, {"place": to, "laid": rules.laid_as(there, route.laid), "wrapped": 0.0}),)

    later = rules.places.get(place.insulated_later) if place and place.insulated_later else None
    if later is not None and all(later.method in f.methods for f in families):
        yield Tryout("insulate", f"insulate it: {later.title}", moved(later.id), ())
    elif place is not None and not place.ground:
        longest = max((s.length or 0.0 for c in lying for s in c.run.spans if s.route == route.id), default=0.0)
        yield Tryout("insulate", "insulate it: surrounded throughout", (Change("set", "route", route.id, {"wrapped": longest}),), ())
    else:
        yield Tryout("insulate", "insulate it", (), (), why="it lies in the ground, or its surroundings are not chosen")
    tray = next((p for p in rules.trays if all(rules.places[p].method in f.methods for f in families)), None)
    if tray is None or (place is not None and place.id == tray and route.laid == "tray"):
        why = "it lies on one already" if tray else "no tray is tabulated for every cable in it"
        yield Tryout("tray", "lay it on a tray", (), (), why=why)
    else:
        change = Change("set", "route", route.id, {"place": tray, "laid": "tray", "wrapped": 0.0, "kind": "open"})
        yield Tryout("tray", f"lay it on a tray, one layer: {rules.places[tray].title}", (change,), ())
    if len(lying) < 2:
        yield Tryout("split", "split it", (), (), why="fewer than two circuits in it to separate")
    else:
        yield Tryout(
            "split", f"split it in two, {len(lying) - len(lying) // 2} and {len(lying) // 2} circuits", tuple(_split(job, route, lying)), ()
        )


def _common_place(rules: RuleSet, lying: list[Circuit], route: str) -> Place | None:
    there = {s.place for c in lying for s in c.run.spans if s.route == route}
    return rules.places.get(there.pop() or "") if len(there) == 1 else None


def _split(job: Installation, route: Route, lying: list[Circuit]) -> Iterator[Change]:
    """A second route like the first, and every other circuit, largest device first, moved to it."""
    taken = {r.id for r in job.routes}
    twin = next(name for n in range(2, 1000) if (name := str(uuid5(NAMESPACE_OID, f"{route.id} {n}"))) not in taken)
    yield Change("add", "route", twin, {**given("route", route), "name": f"{route.name or 'Route'}, second"})
    ordered = sorted(lying, key=lambda c: (-(c.device.rating or 0.0), c.id))
    for circuit in ordered[1::2]:
        for span in circuit.run.spans:
            if span.route == route.id:
                yield Change("set", "span", span.id, {"route": twin})
