"""Cures of what is wrong at one place alone: the outlet, the appliance and its lead, an accessory, a joist. They move no cable."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from mellow_span.core.design.check import Plan
from mellow_span.core.design.solving import Idea
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import Check, CircuitResult
from mellow_span.core.model.changes import Change
from mellow_span.core.model.circuit import ACCESSORIES, PLUG_FUSES
from mellow_span.core.model.parts import Circuit, Span
from mellow_span.core.rulesets.vocabulary import T
from mellow_span.core.units import AMPERE_PER_KA, MA_PER_A
from mellow_span.core.working.recorders import Silent

# Usual breaking capacities [A].
BREAKING = (6000.0, 10000.0, 16000.0, 25000.0)


def at_the_end(plan: Plan, circuit: Circuit, before: CircuitResult) -> Iterator[Idea]:
    """Return the cures for what is short at one place of a circuit."""
    failing = {c.id: c for c in before.checks if c.decides and c.verdict == "short"}
    for checks, cures in BY_CHECK:
        if failing.keys() & checks:
            yield from cures(plan, circuit)
    if failing.keys() & {"lead", "lead_thermal"}:
        yield from _lead(plan, circuit)
    if "accessory" in failing:
        yield from _accessory(circuit)
    if "lampholders" in failing:
        most = Silent(plan.rules).constant("lampholder_in")
        yield Idea(
            "lampholders", f"a {quantity(most, 'A')} device, for the lampholders", (_circuit(circuit, {"device": {"rating": most}}),)
        )
    if "arc_fault" in failing:
        yield Idea("afdd", "a device with arc fault detection", (_circuit(circuit, {"device": {"afdd": True}}),))
    if "breaking" in failing:
        yield from _breaking(circuit, failing["breaking"])
    if "cpc_least" in failing:
        least = Silent(plan.rules).constant("separate_cpc_bare")
        yield Idea("cpc", f"a separate cpc of {quantity(least, 'mm²')}", (_circuit(circuit, {"cable": {"cpc_csa": least}}),))
    if "rcd_type" in failing:
        yield Idea("rcd-type", "an RCD of type A", (_circuit(circuit, {"device": {"rcd_type": "A"}}),))
    if "outlets" in failing:
        yield from _outlets(plan, circuit, next(c.limit for c in before.checks if c.id == "outlets"))
    yield from _where_it_lies(plan, circuit, set(failing))
    if "supplementary" in failing:
        yield from _supplementary(circuit, next(c.limit for c in before.checks if c.id == "supplementary"))


def _circuit(circuit: Circuit, fields: dict[str, object]) -> Change:
    return Change("set", "circuit", circuit.id, fields)


def _outlet_rcd(plan: Plan, circuit: Circuit) -> Iterator[Idea]:
    small = Silent(plan.rules).constant("additional_idn")
    at = [load for load in circuit.loads if (load.kind == "sockets" or load.control_socket) and load.outlet_idn is None]
    if at:
        changes = tuple(Change("set", "load", load.id, {"outlet_idn": small}) for load in at)
        yield Idea("outlet", f"socket-outlets with an RCD of {quantity(small * MA_PER_A, 'mA')} built in", changes)


def _outlets(plan: Plan, circuit: Circuit, most: float | None) -> Iterator[Idea]:
    """A device that suits the outlets; nothing else of them is changed."""
    rating = next((r for r in reversed(plan.rules.ratings("mcb")) if most is not None and r <= most), None)
    if rating is not None:
        yield Idea(
            "outlet-device",
            f"a device of {quantity(rating, 'A')} for the socket-outlets",
            (_circuit(circuit, {"device": {"rating": rating}}),),
        )


def _source(plan: Plan, circuit: Circuit) -> Iterator[Idea]:
    """A device that a source may feed through, and one that opens on the little current that a source gives alone."""
    small = Silent(plan.rules).constant("additional_idn")
    device = circuit.device
    if device.both_ways is False:
        yield Idea("both-ways", "a device made for current in both directions", (_circuit(circuit, {"device": {"both_ways": True}}),))
    needed = next((load.maker_rcd for load in circuit.loads if load.maker_rcd), None)
    if needed is not None and device.idn is not None and device.rcd_type != needed:
        yield Idea("source-rcd", f"an RCD of type {needed}, as its maker requires", (_circuit(circuit, {"device": {"rcd_type": needed}}),))
    if device.idn is None and device.kind in ("mcb", "rcbo"):
        rcbo = {"kind": "rcbo", "idn": small, "rcd_type": "A", "delayed": False}
        title = f"an RCBO of {quantity(small * MA_PER_A, 'mA')}: it trips on the little current the source gives"
        yield Idea("alone-rcd", title, (_circuit(circuit, {"device": rcbo}),))


def _charging(plan: Plan, circuit: Circuit) -> Iterator[Idea]:
    small = Silent(plan.rules).constant("additional_idn")
    points = [load for load in circuit.loads if load.kind == "ev"]
    rcbo = {"kind": "rcbo", "idn": small, "rcd_type": "A", "delayed": False}
    detects = tuple(Change("set", "load", load.id, {"dc_detection": True}) for load in points)
    if circuit.device.kind in ("mcb", "rcbo"):
        title = f"an RCBO of {quantity(small * MA_PER_A, 'mA')} type A, with equipment that detects 6 mA direct current"
        yield Idea(
            "charging-a",
            title,
            (_circuit(circuit, {"device": rcbo}), *detects),
        )
        title = f"an RCBO of {quantity(small * MA_PER_A, 'mA')} type B"
        yield Idea("charging-b", title, (_circuit(circuit, {"device": {**rcbo, "rcd_type": "B"}}),))


def _lead(plan: Plan, circuit: Circuit) -> Iterator[Idea]:
    table = plan.rules.table(T.LEAD_CAPACITY)
    column = "amps_1ph" if circuit.phases == 1 else "amps_3ph"
    with_lead = [load for load in circuit.loads if load.lead_csa is not None]
    fused, larger, both = [], [], []
    for load in with_lead:
        carries = table.cell(load.lead_csa, column).value
        amps = (load.amount or 0.0) / (plan.job.supply.u0 if load.basis == "W" else 1.0)
        fuse = next((f for f in reversed(PLUG_FUSES) if amps <= f <= carries), None)
        if fuse is not None:
            fused.append(Change("set", "load", load.id, {"local_fuse": fuse}))
        over = next((f for f in PLUG_FUSES if f >= amps), None)
        thick = next(
            (r.key[0] for r in table.rows if over is not None and r.key[0] > load.lead_csa and (r.cells[column] or 0.0) >= over), None
        )
        if fuse is None and thick is not None:
            both.append(Change("set", "load", load.id, {"local_fuse": over, "lead_csa": thick}))
        need = load.local_fuse or circuit.device.rating or 0.0
        csa = next((row.key[0] for row in table.rows if row.key[0] > load.lead_csa and (row.cells[column] or 0.0) >= need), None)
        if csa is not None:
            larger.append(Change("set", "load", load.id, {"lead_csa": csa}))
    if fused:
        yield Idea("local-fuse", "a fused connection unit before the flex", tuple(fused))
    if both:
        sizes = ", ".join(dict.fromkeys(quantity(c.fields["lead_csa"], "mm²") for c in both))
        yield Idea("fused-lead", f"a fused connection unit and {sizes} flex", tuple(both))
    if larger:
        sizes = ", ".join(dict.fromkeys(quantity(c.fields["lead_csa"], "mm²") for c in larger))
        yield Idea("lead", f"{sizes} flex", tuple(larger))


def _accessory(circuit: Circuit) -> Iterator[Idea]:
    need = max(circuit.device.rating or 0.0, 0.0)
    rated = next((r for r in ACCESSORIES if r >= need), None)
    if rated is None:
        return
    fields: dict[str, object] = {"accessory_in": rated, "accessory_csa": max(circuit.run.cable.csa or 0.0, circuit.accessory_csa or 0.0)}
    if circuit.accessory in ("isolator", "control_unit", "connection_unit"):
        fields["accessory_poles"] = 2 if circuit.phases == 1 else 3
    poles = " that switches every live conductor" if "accessory_poles" in fields else ""
    name = str(circuit.accessory).replace("_", " ")
    yield Idea(
        "accessory",
        f"{'an' if name[0] in 'aeiou' else 'a'} {name} of {quantity(rated, 'A')}{poles}, with terminals for the cable",
        (_circuit(circuit, fields),),
    )


def _breaking(circuit: Circuit, fails: Check) -> Iterator[Idea]:
    """The smallest breaking capacity that reaches the fault current at the board."""
    icn = next((icn for icn in BREAKING if icn >= (fails.limit or 0.0)), None)
    if icn is not None:
        told = quantity(icn / AMPERE_PER_KA, "kA")
        yield Idea(f"icn-{icn:g}", f"a device with {told} breaking capacity", (_circuit(circuit, {"device": {"icn": icn}}),))


def _where_it_lies(plan: Plan, circuit: Circuit, failing: set[str]) -> Iterator[Idea]:
    if "joists" in failing:
        joists = [s for s in circuit.run.spans if (p := plan.rules.places.get(s.place or "")) and p.joists and s.guarded is not True]
        yield Idea("plates", "steel plates over it, or holes 50 mm from the joist face", _each(plan, joists, "guarded"))
    if "supports" in failing:
        weak = [s for s in circuit.run.spans if s.fire_supports is False]
        yield Idea("supports", "metal fire-rated clips", _each(plan, weak, "fire_supports"))
    if "additional" in failing:
        hidden = [
            s for s in circuit.run.spans
            if s.guarded is False and (s.metal_partition or ((p := plan.rules.places.get(s.place or "")) and p.concealed))
        ]  # fmt: skip
        if hidden:
            yield Idea("guarded", "earthed steel protection in the wall, or run it 50 mm deep", _each(plan, hidden, "guarded"))


def _each(plan: Plan, spans: list[Span], field: str) -> tuple[Change, ...]:
    """Set a field to yes where it is said: on the route of a span, or on the span."""
    routes = {route.id: route for route in plan.job.routes}
    found = []
    for span in spans:
        route = routes.get(span.route or "")
        held = route is not None and getattr(route, field) is not None
        found.append(Change("set", "route" if held else "span", str(span.route) if held else span.id, {field: True}))
    return tuple({(c.kind, c.id): c for c in found}.values())


def _supplementary(circuit: Circuit, limit: float | None) -> Iterator[Idea]:
    """A bond with something in hand."""
    if limit:
        most = round(limit * 0.8, 3)
        yield Idea(
            "bond", f"supplementary bonding improved to at most {quantity(most, 'Ω')}", (_circuit(circuit, {"supplementary_r": most}),)
        )


# Cures that hang on the circuit alone, by the checks they answer.
BY_CHECK: tuple[tuple[frozenset[str], Callable[[Plan, Circuit], Iterator[Idea]]], ...] = (
    (frozenset(["source", "alone"]), _source),
    (frozenset(["additional"]), _outlet_rcd),
    (frozenset(["charging"]), _charging),
)
