"""What a job takes and the list of materials does not count, each with why: so that nobody orders by a list that looks whole and is not."""

from __future__ import annotations

from dataclasses import dataclass

from mellow_span.core.adding import added
from mellow_span.core.design.check import Plan, lay_out
from mellow_span.core.figures import quantity
from mellow_span.core.model.legs import boxes
from mellow_span.core.model.numbers import numbers
from mellow_span.core.model.parts import Circuit, Installation, Span, Supply


@dataclass(frozen=True, slots=True)
class Uncounted:
    """Something that is not counted. why: what is not entered, or hangs on the building; where: numbers of circuits, names of boards and routes."""

    what: str
    why: str
    where: str


def uncounted(job: Installation) -> tuple[Uncounted, ...]:
    """Return what the list of materials of a job does not count. Raises InputError for a job that is no tree."""
    plan = lay_out(job)
    fresh = [c for c in plan.job.circuits if not c.existing]
    return (*_containment(plan, fresh), *_conductors(job.supply), *_at_points(plan, fresh))


def _containment(plan: Plan, fresh: list[Circuit]) -> list[Uncounted]:
    used = {s.route for c in fresh for s in c.run.spans}
    found = [
        Uncounted(route.kind, "its length is not entered", route.name or "a route")
        for route in plan.job.routes
        if route.id in used and route.kind != "open" and not route.length
    ]
    named = numbers(plan.job)
    # In a place that is conduit or trunking by itself, or on a tray, nobody said which cables share it.
    for kind, told, why in (
        ("conduit", "conduit or trunking that is no route", "which cables share it is not entered: make it a route with its length"),
        ("tray", "cable tray or ladder, with its supports", "its width, fittings and supports hang on the building"),
    ):
        mine = [c for c in fresh if any(_lies_alone(plan, s, kind) for s in c.run.spans if _looks(plan, s.place) == kind)]
        if mine:
            found.append(Uncounted(told, why, ", ".join(named[c.id] for c in mine)))
    return found


def _lies_alone(plan: Plan, span: Span, kind: str) -> bool:
    """Whether what holds a span up is counted nowhere: it is in no route, or in one that is no tray or basket."""
    route = next((r for r in plan.job.routes if r.id == span.route), None)
    return route is None or (kind == "tray" and route.kind not in ("tray", "basket"))


def _looks(plan: Plan, place: str | None) -> str:
    about = plan.rules.places.get(place or "")
    return "" if about is None else "conduit" if about.encloses else "tray" if about.look == "tray" else ""


def _conductors(supply: Supply) -> list[Uncounted]:
    found = []
    if supply.earthing_csa:
        found.append(
            Uncounted(f"main earthing conductor, {quantity(supply.earthing_csa, 'mm²')}", "its length is not entered", "the intake")
        )
    if supply.extraneous is not False:
        size = f", {quantity(supply.bonding_csa, 'mm²')}" if supply.bonding_csa else ""
        found.append(Uncounted(f"main bonding conductors{size}", "how many services there are, and how far, is not entered", "the intake"))
    if not (supply.tails_csa and supply.tails_length):
        found.append(Uncounted("meter tails", "their size or length is not entered", "the intake"))
    return found


def _at_points(plan: Plan, fresh: list[Circuit]) -> list[Uncounted]:
    """Cable that hangs out at points along a run: only its two ends have more than the run itself."""
    named = numbers(plan.job)
    mine = [named[c.id] for c in fresh if added(load.quantity for load in c.loads) > (0 if c.shape == "ring" else 1)]
    why = "how many there are is not in the length of a run: add it to the spans, or as more at an end"
    found = [Uncounted("cable left at points along a run", why, ", ".join(mine))] if mine else []
    boxed = [c for c in fresh if boxes(c.run)]
    count = added(len(boxes(c.run)) for c in boxed)
    if count:
        why = "the kind of box, and what joins the conductors in it, is not entered"
        where = ", ".join(named[c.id] for c in boxed)
        found.append(Uncounted(f"{count} {'box' if count == 1 else 'boxes'} where a run parts or is joined", why, where))
    return found
