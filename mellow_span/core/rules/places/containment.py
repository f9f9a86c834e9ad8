"""Conduit and trunking: is there space to draw the cables in? Space says nothing about heat; grouping is worked out apart and shown beside.

Short straight conduit (up to 3 m, no bends) and longer or bent conduit have tables of their own, each with its own cable factors.
"""

from __future__ import annotations

from collections.abc import Callable
from math import ceil, pi

from mellow_span.core.adding import added
from mellow_span.core.errors import CoreError, MissingInput, OutsideTable
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import Check, Outcome
from mellow_span.core.model.parts import Installation, Route
from mellow_span.core.model.places import ENCLOSING
from mellow_span.core.rules.places.bodies import Body, bodies, inner
from mellow_span.core.rules.runner import run_check
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.working.recorders import Working

MOST_PULLS = 6
# Whole cables do not go round more bends than singles.
MOST_BENDS = 4


def containment_checks(w: Working, job: Installation, route: Route) -> tuple[Check, ...]:
    """Return the check of the space in a conduit or trunking; none for another route."""
    if route.kind not in ENCLOSING:
        return ()
    rule: Callable[[], Outcome] = lambda: check_conduit(w, job, route) if route.kind == "conduit" else check_trunking(w, job, route)  # noqa: E731
    return (run_check(w, "space", "Conduit or trunking space", C.DRAWING_IN, rule),)


def cable_factors(w: Working, wires: tuple[Body, ...], short: bool) -> float:
    """Return the sum of cable factors in a conduit. Stranded conductors are taken where both are tabulated: theirs are the larger."""
    total = 0.0
    for wire in wires:
        if short:
            kind = "stranded" if wire.csa > 1 else "solid"
            factor = w.look("factor", T.CONDUIT_CABLE_SHORT, (kind, wire.csa), "factor", f"{wire.count} of {wire.csa:g} mm², {kind}")
        else:
            factor = w.look("factor", T.CONDUIT_CABLE_LONG, wire.csa, "factor", f"{wire.count} of {wire.csa:g} mm²")
        total += wire.count * factor
    return w.calc("Σ factor", total, "", "sum of count × factor", {}, C.DRAWING_IN)


def conduit_factor(w: Working, diameter: float, length: float, bends: int) -> float:
    """Return the factor of a conduit by its outer diameter [mm], length [m] and bends. Raises OutsideTable beyond the tables."""
    if is_short(w, length, bends):
        return w.look("conduit", T.CONDUIT_SHORT, diameter, "factor", "short and straight")
    table = w.rules.table(T.CONDUIT_LONG)
    column = f"d{diameter:g}"
    if column not in table.columns:
        raise w.rules.outside(T.CONDUIT_LONG, f"{diameter:g} mm", ", ".join(c[1:] for c in table.columns))
    # The rows of each number of bends have lengths of their own, so the bends are matched first.
    lengths = sorted(row.key[0] for row in table.rows if row.key[1] == bends)
    fitting = next((known for known in lengths if known >= length - 1e-9), None)
    if fitting is None:
        raise w.rules.outside(
            T.CONDUIT_LONG,
            f"{length:g} m with {bends} bends",
            f"up to {lengths[-1]:g} m" if lengths else "up to 4 bends",
        )
    return w.look("conduit", T.CONDUIT_LONG, (fitting, float(bends)), column, f"{length:g} m, {bends} bends")


def is_short(w: Working, length: float, bends: int) -> bool:
    """Say whether the short straight rule applies."""
    return bends == 0 and length <= w.constant("short_pull")


def check_conduit(w: Working, job: Installation, route: Route) -> Outcome:
    """Check that the conductors go through the conduit between drawing-in points; name the next size up, and where boxes would do (522.8)."""
    if route.diameter is None:
        raise MissingInput("route.diameter", "the outer diameter of the conduit in mm")
    if route.pull is None:
        raise MissingInput("route.pull", "the length between drawing-in points in m")
    wires = bodies(w, job, route)
    if any(wire.whole for wire in wires):
        bore = inner(w.rules, route.diameter)
        w.given("d,bore", bore, "mm", f"bore of a {route.diameter:g} mm conduit")
        if route.bends > MOST_BENDS:
            return _too_bent(route)
        found = _by_space(w, wires, pi / 4 * bore**2, "conduit_space", "π/4 × d²")
        return found if found.verdict != "short" else _larger_conduit(w, found)
    length, bends = route.pull, route.bends
    needed = cable_factors(w, wires, is_short(w, length, bends))
    try:
        room = conduit_factor(w, route.diameter, length, bends)
    except OutsideTable as refusal:
        advice = _boxes(w, wires, route)
        if not advice:
            raise
        return Outcome(needed, 0.0, "", None, f"{refusal}{advice}", verdict="short")
    fits = needed <= room
    text = f"cable factors {needed:.0f}, {route.diameter:g} mm conduit allows {room:.0f}"
    if not fits:
        text += _next_conduit(w, wires, route, room) + _boxes(w, wires, route)
    return Outcome(needed, room, "", 1 - needed / room, text)


def _fits(w: Working, wires: tuple[Body, ...], diameter: float, length: float, bends: int) -> bool:
    try:
        return cable_factors(w, wires, is_short(w, length, bends)) <= conduit_factor(w, diameter, length, bends)
    except CoreError:
        return False


def _next_conduit(w: Working, wires: tuple[Body, ...], route: Route, room: float) -> str:
    quiet = w.quiet()
    for row in w.rules.table(T.CONDUIT_SHORT).rows:
        diameter = float(row.key[0])
        if diameter > (route.diameter or 0) and _fits(quiet, wires, diameter, route.pull or 0.0, route.bends):
            return f"; {diameter:g} mm would fit"
    return "; no larger conduit of the table would do"


def _boxes(w: Working, wires: tuple[Body, ...], route: Route) -> str:
    """Say how many boxes split the pull so that each part passes: lengths alike, bends shared out."""
    assert route.diameter is not None
    assert route.pull is not None
    for pulls in range(2, MOST_PULLS + 1):
        if _fits(w.quiet(), wires, route.diameter, route.pull / pulls, ceil(route.bends / pulls)):
            return f"; or add {pulls - 1} draw-in box{'es' if pulls > 2 else ''}, about every {route.pull / pulls:.1f} m"
    return ""


def check_trunking(w: Working, job: Installation, route: Route) -> Outcome:
    """Check that the conductors go into the trunking by factors, or, with whole cables in it, that they fill no more than 45 % (522.8)."""
    if route.width is None or route.height is None:
        raise MissingInput("route.width", "width and height of the trunking in mm")
    wires = bodies(w, job, route)
    if any(wire.whole for wire in wires):
        found = _by_space(w, wires, route.width * route.height, "trunking_space", "W × H")
        return found if found.verdict != "short" else _larger_trunking(w, found)
    needed = trunking_need(w, wires)
    size = (max(route.width, route.height), min(route.width, route.height))
    room = w.look("trunking", T.TRUNKING, size, "factor", f"{size[0]:g} × {size[1]:g} mm")
    text = f"needs {needed:.0f}, the {size[0]:g} × {size[1]:g} mm trunking has {room:.0f}"
    if needed > room:
        rows = sorted(w.rules.table(T.TRUNKING).rows, key=lambda r: r.cells["factor"])
        bigger = next((r for r in rows if r.cells["factor"] >= needed), None)
        text += f"; {bigger.key[0]:g} × {bigger.key[1]:g} mm would fit" if bigger else "; no larger trunking of the table would do"
    return Outcome(needed, room, "", 1 - needed / room, text)


def trunking_need(w: Working, wires: tuple[Body, ...]) -> float:
    """Return the sum of cable factors in a trunking, stranded conductors taken. Raises OutsideTable for a size not tabulated."""
    total = 0.0
    for wire in wires:
        kind = "stranded_pvc" if wire.insulation == "pvc70" else "stranded_thermosetting"
        total += wire.count * w.look("factor", T.TRUNKING_CABLE, (kind, wire.csa), "factor", f"{wire.count} of {wire.csa:g} mm²")
    return w.calc("Σ factor", total, "", "sum of count × factor", {}, C.DRAWING_IN)


def _by_space(w: Working, wires: tuple[Body, ...], inside: float, key: str, formula: str) -> Outcome:
    """Compare what whole cables take over all, singles beside them included, with the share of the inside that they may fill."""
    areas = added(wire.count * wire.area for wire in wires)
    filled = w.calc("A", areas, "mm²", "sum of count × area", {}, C.DRAWING_IN, "over all, usual sizes")
    share = w.limit("share", key)
    room = w.calc("A,max", share * inside, "mm²", f"share × {formula}", {"share": share}, C.DRAWING_IN)
    fits = filled <= room * (1 + 1e-9)
    text = f"the cables {'fill' if fits else 'overfill'} {quantity(filled, 'mm²')} of {quantity(room, 'mm²')} usable"
    return Outcome(filled, room, "mm²", 1 - filled / room, text, verdict=None if fits else "short")


def _larger_trunking(w: Working, found: Outcome) -> Outcome:
    share = w.constant("trunking_space")
    rows = sorted(w.rules.table(T.TRUNKING).rows, key=lambda r: r.key[0] * r.key[1])
    bigger = next((r for r in rows if share * r.key[0] * r.key[1] >= found.value), None)
    found.text += f"; {bigger.key[0]:g} × {bigger.key[1]:g} mm would fit" if bigger else "; no larger trunking of the table would do"
    return found


def _larger_conduit(w: Working, found: Outcome) -> Outcome:
    share = w.constant("conduit_space")
    sizes = sorted(float(row.key[0]) for row in w.rules.table(T.CONDUIT_WALL).rows)
    bigger = next((d for d in sizes if share * pi / 4 * inner(w.rules, d) ** 2 >= found.value), None)
    found.text += f"; {bigger:g} mm would fit" if bigger else "; no larger conduit of the table would do"
    return found


def _too_bent(route: Route) -> Outcome:
    text = f"{route.bends} bends between drawing-in points: at most {MOST_BENDS} for sheathed cables: add a draw-in box"
    return Outcome(float(route.bends), float(MOST_BENDS), "", None, text, verdict="short")
