"""Routes: surroundings belong to the building, not to a cable. What a span that lies in a route takes from it."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from mellow_span.core.model.parts import Circuit, Installation, Route, Span

# What a span takes from its route, where the route has it.
SHARED = (
    "place", "ambient", "wrapped", "ground", "soil", "depth", "guarded", "metal_partition", "fire_supports", "polystyrene", "fire_barrier", "location",
)  # fmt: skip


def taken(span: Span, route: Route) -> dict[str, Any]:
    """Return the fields of a span that are others in its route: the route's where it has them, and its length unless the span has its own."""
    found = {name: value for name in SHARED if (value := getattr(route, name)) is not None}
    if span.length is None and route.length is not None:
        found["length"] = route.length
    length = found.get("length", span.length)
    if length is not None and "wrapped" in found:
        # A span that leaves half-way is wrapped no further than it goes.
        found["wrapped"] = min(found["wrapped"], length)
    return {name: value for name, value in found.items() if value != getattr(span, name)}


def in_place(span: Span, routes: dict[str, Route]) -> Span:
    """Return a span with the surroundings of its route laid over its own; the span itself where nothing is another."""
    route = routes.get(span.route or "")
    fields = taken(span, route) if route is not None else {}
    return replace(span, **fields) if fields else span


def resolved(job: Installation) -> Installation:
    """Return the job as it lies: every span with the surroundings of its route. What needs no change is handed on as it is."""
    if not job.routes:
        return job
    routes = {route.id: route for route in job.routes}
    return replace(job, circuits=tuple(_circuit(circuit, routes) for circuit in job.circuits))


def _circuit(circuit: Circuit, routes: dict[str, Route]) -> Circuit:
    spans = tuple(in_place(span, routes) for span in circuit.run.spans)
    circuit = _in_conduit(circuit, routes)
    if all(new is old for new, old in zip(spans, circuit.run.spans, strict=True)):
        return circuit
    return replace(circuit, run=replace(circuit.run, spans=spans))


def _in_conduit(circuit: Circuit, routes: dict[str, Route]) -> Circuit:
    """A conduit that is the cpc of a circuit and whose size is not entered with the cable is the one its route is."""
    cable = circuit.run.cable
    if cable.cpc != "conduit" or cable.conduit is not None:
        return circuit
    sizes = [r.diameter for s in circuit.run.spans if (r := routes.get(s.route or "")) and r.kind == "conduit" and r.diameter]
    if not sizes:
        return circuit
    # Of several the smallest, which conducts worst.
    return replace(circuit, run=replace(circuit.run, cable=replace(cable, conduit=min(sizes))))


def apart(job: Installation) -> Installation:
    """Return the job with every span as it lies and routes that only say who is in them: the same results, and each span can be varied alone."""
    empty: dict[str, Any] = dict.fromkeys((*SHARED, "length"))
    return replace(resolved(job), routes=tuple(replace(route, **empty) for route in job.routes))
