"""A route cut across: what lies in it, to scale, where it comes to lie. Positions are for the eye; nothing is worked out from them."""

from __future__ import annotations

from dataclasses import dataclass
from math import hypot, sqrt
from typing import Literal

from mellow_span.core.adding import added
from mellow_span.core.errors import CoreError
from mellow_span.core.model.parts import Installation, Route
from mellow_span.core.rules.places.bodies import Body, bodies, inner
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.working.recorders import Silent

# How far cables are apart from edge to edge, by how they lie: so many of their own widths, or so many mm.
GAPS: dict[str, tuple[float, float]] = {"spaced": (1.0, 0.0), "apart_quarter": (0.0, 250.0), "apart_half": (0.0, 500.0)}
IN_ROWS = ("layer", "spaced", "tray", "ladder", "apart_quarter", "apart_half")
# A route holds no more than this in a drawing; beyond it the drawing says how many are left out.
MOST = 60
# How finely a place in a bore is looked for.
FINE = 48


@dataclass(slots=True)
class Shape:
    """One conductor or cable: of which circuit, its csa [mm2], its lower left corner and size [mm], and whether it lies inside what holds it."""

    circuit: str
    csa: float
    x: float
    y: float
    width: float
    height: float
    inside: bool = True


@dataclass(slots=True)
class Section:
    """A route cut across [mm]: its outline, or none for cables that lie open; the shapes in it; why there is no drawing."""

    outline: Literal["", "conduit", "trunking"]
    width: float
    height: float
    shapes: tuple[Shape, ...] = ()
    left_out: int = 0
    why: str = ""


def section_of(rules: RuleSet, job: Installation, route: Route) -> Section:
    """Return the section of a route of a job as it lies; where a size is not known it says why and draws nothing."""
    try:
        there = bodies(Silent(rules), job, route)
        if route.kind == "conduit" and route.diameter is not None:
            return _conduit(inner(rules, route.diameter), _each(there))
    except CoreError as refusal:
        return Section("", 0.0, 0.0, why=str(refusal))
    each = _each(there)
    if route.kind == "trunking" and route.width is not None and route.height is not None:
        return _trunking(route.width, route.height, each)
    return _row(each, route.laid) if route.laid in IN_ROWS else _heap(each)


def _each(there: tuple[Body, ...]) -> list[Body]:
    return [body for body in there for _ in range(body.count)]


def _shape(body: Body, x: float, y: float, inside: bool = True) -> Shape:
    return Shape(body.circuit, body.csa, x, y, body.width, body.height, inside)


def _row(each: list[Body], laid: str) -> Section:
    times, apart = GAPS.get(laid, (0.0, 0.0))
    x, shapes = 0.0, []
    for body in each[:MOST]:
        shapes.append(_shape(body, x, 0.0))
        x += body.width * (1 + times) + apart
    last = shapes[-1]
    return Section("", last.x + last.width, max(s.height for s in shapes), tuple(shapes), max(0, len(each) - MOST))


def _heap(each: list[Body]) -> Section:
    """Bunched: rows about as wide as they are high."""
    drawn = sorted(each[:MOST], key=lambda body: -body.height)
    area = added(body.width * body.height for body in drawn)
    wide = max(sqrt(area) * 1.25, max(body.width for body in drawn))
    shapes, width, height = _rows(drawn, wide)
    return Section("", width, height, tuple(shapes), max(0, len(each) - MOST))


def _rows(each: list[Body], wide: float) -> tuple[list[Shape], float, float]:
    shapes: list[Shape] = []
    x = y = top = width = 0.0
    for body in each:
        if x and x + body.width > wide * (1 + 1e-9):
            x, y, top = 0.0, y + top, 0.0
        shapes.append(_shape(body, x, y))
        x, top = x + body.width, max(top, body.height)
        width = max(width, x)
    return shapes, width, y + top


def _trunking(wide: float, high: float, each: list[Body]) -> Section:
    shapes, _, _ = _rows(sorted(each[:MOST], key=lambda body: -body.height), wide)
    for shape in shapes:
        shape.inside = shape.y + shape.height <= high * (1 + 1e-9)
    return Section("trunking", wide, high, tuple(shapes), max(0, len(each) - MOST))


def _conduit(bore: float, each: list[Body]) -> Section:
    """The largest first, each as low as it finds a place, nearest the middle; what finds none is drawn beside the bore."""
    shapes: list[Shape] = []
    left: list[Body] = []
    for body in sorted(each[:MOST], key=lambda body: (-body.height, -body.width)):
        # Where one found no place, one no smaller finds none either.
        full = any(body.width >= other.width and body.height >= other.height for other in left)
        place = None if full else _lowest(bore, body, shapes)
        if place is None:
            left.append(body)
        else:
            shapes.append(_shape(body, *place))
    return Section("conduit", bore, bore, tuple(shapes + _beside(left, bore + 3.0)), max(0, len(each) - MOST))


def _lowest(bore: float, body: Body, there: list[Shape]) -> tuple[float, float] | None:
    step = bore / FINE
    sides = sorted((i * step for i in range(FINE + 1)), key=lambda x: abs(x + body.width / 2 - bore / 2))
    for row in range(FINE + 1):
        y = row * step
        for x in sides:
            if _inside(bore, body, x, y) and not any(_meet(body, x, y, other) for other in there):
                return x, y
    return None


def _round(body: Body | Shape) -> bool:
    return body.width == body.height


def _inside(bore: float, body: Body, x: float, y: float) -> bool:
    r = bore / 2
    if _round(body):
        return hypot(x + body.width / 2 - r, y + body.height / 2 - r) <= r - body.width / 2 + 1e-9
    corners = ((x, y), (x + body.width, y), (x, y + body.height), (x + body.width, y + body.height))
    return all(hypot(a - r, b - r) <= r + 1e-9 for a, b in corners)


def _meet(body: Body, x: float, y: float, other: Shape) -> bool:
    if _round(body) and _round(other):
        across = (body.width + other.width) / 2
        return hypot(x + body.width / 2 - other.x - other.width / 2, y + body.height / 2 - other.y - other.height / 2) < across - 1e-9
    apart = x + body.width <= other.x + 1e-9 or other.x + other.width <= x + 1e-9
    return not (apart or y + body.height <= other.y + 1e-9 or other.y + other.height <= y + 1e-9)


def _beside(left: list[Body], x: float) -> list[Shape]:
    """What finds no place, in rows of three beside the bore."""
    found: list[Shape] = []
    for i, body in enumerate(left):
        at = x if i % 3 == 0 else found[-1].x + found[-1].width
        found.append(_shape(body, at, i // 3 * left[0].height, inside=False))
    return found
