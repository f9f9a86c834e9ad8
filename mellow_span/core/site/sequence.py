"""Which tests a circuit asks for, dead ones first, each with what it should show."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from math import inf

from mellow_span.core.design.branches import end_name
from mellow_span.core.figures import figure, quantity
from mellow_span.core.model.legs import boxes, ends, path_to
from mellow_span.core.model.parts import Circuit
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.faults.cpc import cpc_parts, is_enclosure, joined
from mellow_span.core.rules.faults.loop import feed_loop, residuals
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.site.limits import NO_LIMITS, RCD_TIMES, Limits, electronic
from mellow_span.core.site.network import Network, core_alone, shown
from mellow_span.core.site.readings import FITTED, LIVE, TITLES, UNITS, Quantity, SiteTest
from mellow_span.core.units import AMPERE_PER_KA, MM_PER_M
from mellow_span.core.working.recorders import Working

# A point of a circuit: position [m] and name; a test at the board has no position.
Spot = tuple[float | None, str]
Add = Callable[..., None]
ENDS: tuple[Quantity, ...] = ("r1", "rn", "r2")


def points(circuit: Circuit, length: float | None) -> list[tuple[float, str]]:
    """Return the points of a circuit, position [m] and name, in order along the run; several alike are taken to lie evenly spread."""
    if length is None:
        return []
    found: list[tuple[float, str]] = []
    loads = [load for load in circuit.loads if load.spur == "no"]
    for load in loads:
        name = ", ".join(filter(None, (load.name or load.kind.replace("_", " "), load.room)))
        if load.at is not None:
            found.append((min(load.at, length), name))
            continue
        ends = load.quantity + (1 if circuit.shape == "ring" else 0)
        for k in range(1, load.quantity + 1):
            found.append((length * k / ends, f"{name} {k}" if load.quantity > 1 else name))
    if not found:
        found = [(length, "the far end")]
    return sorted((round(at, 2), name) for at, name in found)


def branch_points(circuit: Circuit) -> list[tuple[float, str]]:
    """Return the ends and boxes of a run that branches, metres along the cable and name; none while a length is not known."""
    run = circuit.run
    if any(span.length is None for span in run.spans):
        return []
    found, names = [], Counter[str]()
    for span in (*boxes(run, circuit.loads), *ends(run)):
        path = path_to(run, span.id)
        there = [load.name or load.kind.replace("_", " ") for load in circuit.loads if load.span == span.id]
        name = ", ".join(dict.fromkeys([end_name(circuit, path), *there]))
        names[name] += 1
        # A point is known by its name: of two alike the second has a number.
        found.append((round(path.length, 2), name if names[name] == 1 else f"{name} ({names[name]})"))
    return sorted(found)


def network_of(w: Working, case: Case) -> Network:
    """Return a circuit as an instrument sees it, cold, as designed. Raises CoreError where an input is missing."""
    line = w.look("r1", T.RESISTANCE, case.csa, "cu_mohm_per_m_20C") / case.parallel / MM_PER_M
    parts = cpc_parts(w, case)
    cpc = joined(parts, hot=False) / MM_PER_M
    core = next((part.cold for part in parts if part.metal == "copper"), None) if len(parts) > 1 else None
    feed = case.feed
    z_le = feed.ze_cold if feed.ze_cold is not None else (feed_loop(case) if feed.ze_hot is not None else None)
    return Network(
        case.ring and not is_enclosure(case),
        case.length,
        line,
        line,
        cpc,
        z_le,
        feed.ln_cold,
        case.supply.u0,
        core=None if core is None else core / MM_PER_M,
    )


def one_test(name: Quantity, spot: Spot, limits: Limits, n: Network | None, why: str = "", care: str = "", listed: bool = True) -> SiteTest:
    """A test at a point, with what it should show there and what it may."""
    at, point = spot
    predicted = shown(n, name, at if at is not None else n.length) if n is not None and name in FITTED else None
    alone = core_alone(n, name, at)
    if alone is not None:
        care = "; ".join(filter(None, (care, f"with the armour disconnected at one end {quantity(alone, 'Ω')}: the core alone")))
    return SiteTest(
        f"{name}@{point}", name, TITLES[name], point, at, name in LIVE, UNITS.get(name, ""), None if predicted == inf else predicted,
        limits.least, limits.most, limits.fine, limits.volts, why, care, of=limits.of, listed=listed,
    )  # fmt: skip


def sequence(case: Case, n: Network | None, spots: Sequence[tuple[float, str]], limits: Mapping[str, Limits]) -> list[SiteTest]:
    """The tests of a circuit, dead ones first. limits: what its readings may show, by quantity."""
    last: Spot = spots[-1] if spots else (None, "the far end")
    far: Spot = min(spots, key=lambda s: abs(s[0] - n.length / 2)) if n is not None and n.ring and spots else last
    places: list[Spot] = [*spots] or [last]
    found: list[SiteTest] = []

    def add(name: Quantity, spot: Spot = (None, ""), why: str = "", care: str = "") -> None:
        found.append(one_test(name, spot, limits.get(name, NO_LIMITS), n, why, care))

    if case.ring and (n is None or n.ring):
        for name in ENDS:
            add(name, why="each conductor is continuous round the ring")
        for spot in places:
            add(
                "cross_ln",
                spot,
                "much the same at every outlet: the ring is complete, with no bridge",
                "cross-connect line and neutral at the board",
            )
        for spot in places:
            add("cross_le", spot, "a quarter of r1 + r2, which is R1 + R2", "cross-connect line and cpc at the board")
    else:
        for spot in places:
            add("r1r2", spot, "line and cpc reach here, with what resistance", "link line and cpc at the board; take the link out after")
        add("r2_lead", last, "the cpc reaches this point", "null the wander lead")
    _insulation(case, limits, add)
    for spot in places:
        add("polarity", spot, case.rules.cited("switches and devices break the line; each terminal correctly connected", C.TEST_POLARITY))
    add(
        "tight",
        (None, "the board"),
        case.rules.cited("a loose terminal heats under load", C.CONNECTIONS),
        "isolate; use a torque driver, to the maker's figure",
    )
    add("zs", far, case.rules.cited("Zs at the furthest point is low enough", C.TEST_LOOP))
    add("ipf", far, "the largest current at the furthest point, line to neutral")
    _residual(case, add)
    if case.circuit.phases > 1:
        add("rotation", last, case.rules.cited("phases follow each other in order", C.TEST_ROTATION))
    add("functional", last, case.rules.cited("switches, interlocks and the test button do what they are for", C.TEST_FUNCTION))
    return found


def _volts(value: float | None) -> str:
    return f"{figure(value)} V" if value is not None else "the voltage that the maker and the rules of the place allow"


def _insulation(case: Case, limits: Mapping[str, Limits], add: Add) -> None:
    care = "disconnect or switch off equipment and electronics; warn others"
    if electronic(case):
        rules = case.rules
        usual = rules.limit("ir_volts") if rules.has("ir_volts") else None
        gentle = limits.get("ir_le", NO_LIMITS).volts
        care = f"there is surge protection or electronics: disconnect it and test at {_volts(usual)}, or test at {_volts(gentle)}; " + care
    names: tuple[Quantity, ...] = ("ir_ln", "ir_le", "ir_ne") if case.circuit.phases == 1 else ("ir_ll", "ir_ln", "ir_le", "ir_ne")
    for name in names:
        add(name, (None, "the board"), case.rules.cited("nothing leaks between conductors or to earth", C.TEST_INSULATION), care)


def _residual(case: Case, add: Add) -> None:
    """RCD tests of the device that protects the circuit: no trip at half, within its times at once and at five times its current."""
    rcd = min(residuals(case), key=lambda r: r.idn, default=None)
    if rcd is None:
        return
    for name, multiple in RCD_TIMES.items():
        care = "disconnect the load first; test at 0° and 180°, record the longer"
        why = f"at {figure(rcd.idn * AMPERE_PER_KA * multiple)} mA" + (": it must not trip" if multiple < 1 else "")
        add(name, (None, "the board"), why, care)
    add("button", (None, "the board"), case.rules.cited("its mechanism trips by its own button", C.TEST_FUNCTION), "after the times above")
