"""What serves as protective conductor, and how well each kind conducts: core, single, armour, steel conduit or trunking, or two together."""

from __future__ import annotations

from dataclasses import dataclass
from math import pi

from mellow_span.core.adding import added
from mellow_span.core.errors import MissingInput
from mellow_span.core.rules.case import Case
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.units import MOHM_PER_OHM
from mellow_span.core.working.recorders import Working

SEPARATE, BUNCHED, STEEL = "separate_not_bunched", "in_cable_or_bunched", "sheath_or_armour_steel"


@dataclass(frozen=True, slots=True)
class Part:
    """One conductor of the cpc: use and metal as the table of k names them, csa [mm2], resistance at 20 C and hot, reactance [mohm/m]."""

    name: str
    use: str
    metal: str
    csa: float
    cold: float
    hot: float
    x: float = 0.0


def cpc_parts(w: Working, case: Case) -> tuple[Part, ...]:
    """Return the conductors that together are the cpc of a circuit (543.2.1), remembered by the cable they hang on.

    Raises MissingInput, InputError, OutsideTable.
    """
    return w.remembered(("cpc", case.cable, case.circuit.phases, case.cpc_kind), lambda aside: _parts(aside, case))


def _parts(w: Working, case: Case) -> tuple[Part, ...]:
    kind = case.cpc_kind
    if kind in ("core", "separate"):
        return (_copper(w, case, separate=kind == "separate"),)
    if kind == "armour":
        return (_armour(w, case),)
    if kind == "armour_and_core":
        return (_armour(w, case), _copper(w, case, separate=False))
    return (_conduit(w, case) if kind == "conduit" else _trunking(w, case),)


def _copper(w: Working, case: Case, separate: bool) -> Part:
    r2 = w.look("r2", T.RESISTANCE, case.cpc_csa, "cu_mohm_per_m_20C", f"cpc {case.cpc_csa:g} mm²")
    arrangement = SEPARATE if separate else BUNCHED
    f = w.look("F", T.RESISTANCE_HOT, (arrangement, case.family.insulation), "multiplier_from_20C", "cpc, to operating temperature")
    share = 1 if separate else case.parallel
    use = "separate_cpc" if separate else "cpc_in_cable"
    return Part("the cpc", use, "copper", case.cpc_csa * share, r2 / share, r2 * f / share)


def _armour(w: Working, case: Case) -> Part:
    area = w.look("S,armour", T.ARMOUR_AREA, case.csa, f"{case.family.armour}_{case.cores}c", f"armour of {case.cores} cores")
    r2 = w.look(
        "r2", T.ARMOUR_RESISTANCE, (case.csa, float(case.cores)), "mohm_per_m_20C", f"armour of {case.csa:g} mm², {case.cores} cores"
    )
    f = w.look("F", T.RESISTANCE_HOT, (STEEL, case.family.insulation), "multiplier_from_20C", "armour, to operating temperature")
    return Part("the armour", "sheath_armour", "steel", area * case.parallel, r2 / case.parallel, r2 * f / case.parallel)


def conduit_area(w: Working, diameter: float, heavy: bool) -> float:
    """Return the steel csa of a conduit [mm2] from its outer diameter and wall: pi/4 (D^2 - d^2). Raises OutsideTable."""
    wall = w.look(
        "wall", T.CONDUIT_WALL, diameter, "wall_mm_heavy" if heavy else "wall_mm_light", "heavy gauge" if heavy else "light gauge"
    )
    inner = diameter - 2 * wall
    terms = {"D": diameter, "d": inner}
    return w.calc("S,conduit", pi / 4 * (diameter**2 - inner**2), "mm²", "π/4 × (D² − d²)", terms, C.CPC_KINDS, "steel conduit")


def _conduit(w: Working, case: Case) -> Part:
    """Steel conduit: design values with its joints, of light gauge by the ratio of the steel; a maker's figure replaces them."""
    diameter, heavy = case.cable.conduit, case.cable.conduit_heavy
    if diameter is None:
        raise MissingInput("cable.conduit", "the outer diameter of the steel conduit in mm")
    area = conduit_area(w, diameter, heavy)
    if case.cable.metal_r is not None:
        return _by_maker(w, case, "the conduit", area)
    r = w.look("r2", T.CONDUIT_DESIGN, diameter, "r", "heavy gauge, joints included")
    x = w.look("x2", T.CONDUIT_DESIGN, diameter, "x", "heavy gauge, joints included")
    if not heavy:
        thick = conduit_area(w.quiet(), diameter, True)
        terms = {"r2": r, "S,heavy": thick, "S,light": area}
        r = w.calc("r2", r * thick / area, "mΩ/m", "r2 × S,heavy / S,light", terms, C.CPC_KINDS, "light gauge has less steel")
    return Part("the conduit", "conduit_trunking", "steel", area, r, r * _hot(w, case), x)


def _trunking(w: Working, case: Case) -> Part:
    if case.cable.metal_area is None:
        raise MissingInput("cable.metal_area", "the steel csa of the trunking in mm²")
    area = w.given("S,trunking", case.cable.metal_area, "mm²", "steel of the trunking, as entered")
    if case.cable.metal_r is not None:
        return _by_maker(w, case, "the trunking", area)
    rho = w.limit("ρ", "steel_rho", "steel at 20 °C")
    r2 = w.calc(
        "r2", MOHM_PER_OHM * rho / area, "mΩ/m", "1000 × ρ / S", {"ρ": rho, "S": area}, C.CPC_KINDS, "the trunking, its joints as good"
    )
    return Part("the trunking", "conduit_trunking", "steel", area, r2, r2 * _hot(w, case), _steel_x(w) * r2)


def _by_maker(w: Working, case: Case, name: str, area: float) -> Part:
    r2 = w.given("r2", case.cable.metal_r or 0.0, "mΩ/m", f"{name} with its joints, from its maker")
    return Part(name, "conduit_trunking", "steel", area, r2, r2 * _hot(w, case), _steel_x(w) * r2)


def _hot(w: Working, case: Case) -> float:
    return w.look("F", T.RESISTANCE_HOT, (STEEL, case.family.insulation), "multiplier_from_20C", "steel, to operating temperature")


def _steel_x(w: Working) -> float:
    return w.limit("x/r", "steel_x", "reactance of a steel enclosure")


def joined(parts: tuple[Part, ...], hot: bool) -> float:
    """Return the resistance of the cpc [mohm/m], its conductors in parallel.

    >>> joined((Part("a", "", "", 1, 2, 2), Part("b", "", "", 1, 2, 2)), hot=False)
    1.0
    """
    return 1 / added(1 / (part.hot if hot else part.cold) for part in parts)


def shares(parts: tuple[Part, ...]) -> tuple[float, ...]:
    """Return the share of the fault current each conductor of the cpc takes, by its conductance hot.

    >>> shares((Part("a", "", "", 1, 1, 1), Part("b", "", "", 1, 3, 3)))
    (0.75, 0.25)
    """
    whole = added(1 / part.hot for part in parts)
    return tuple(1 / part.hot / whole for part in parts)


def is_enclosure(case: Case) -> bool:
    """Say whether a metal enclosure serves as cpc: of a ring final it need not be a ring itself (543.2.9)."""
    return case.cpc_kind in ("conduit", "trunking")
