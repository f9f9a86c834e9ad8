"""What lies in a route, body by body: conductors and cables with their usual size over all, for the space they take and for the drawing."""

from __future__ import annotations

from dataclasses import dataclass
from math import pi

from mellow_span.core.errors import MissingInput
from mellow_span.core.model.legs import cable_parts
from mellow_span.core.model.parts import Circuit, Installation, Route
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.vocabulary import T
from mellow_span.core.working.recorders import Working


@dataclass(frozen=True, slots=True)
class Body:
    """So many bodies alike of a circuit: csa [mm2], size over all [mm], round where both are equal; whole: a cable with its own sheath."""

    circuit: str
    count: int
    csa: float
    insulation: str
    width: float
    height: float
    whole: bool

    @property
    def area(self) -> float:
        """Area that one takes [mm2]: of a flat cable its rectangle."""
        return pi / 4 * self.width**2 if self.width == self.height else self.width * self.height


def bodies(w: Working, job: Installation, route: Route) -> tuple[Body, ...]:
    """Return what lies in a route: line and neutral conductors and the cpc of each circuit of singles, cables whole; a ring has both legs in it.

    Raises MissingInput for a cable not chosen, OutsideTable for one whose size over all is not tabulated.
    """
    found: list[Body] = []
    for circuit in job.circuits:
        for part in cable_parts(circuit):
            if any(span.route == route.id for span in part.run.spans):
                found += of_circuit(w, part)
    if not found:
        raise MissingInput("span.route", "at least one circuit with a span in it")
    return tuple(found)


def of_circuit(w: Working, circuit: Circuit) -> list[Body]:
    """Return the bodies of one circuit."""
    cable, name = circuit.run.cable, circuit.name or "a circuit"
    family = w.rules.families.get(cable.family or "")
    if family is None or cable.csa is None:
        raise MissingInput("cable.csa", f"the cable of {name}")
    legs = (2 if circuit.shape == "ring" else 1) * cable.parallel
    if family.cpc != "single":
        width, height = over_all(w, circuit)
        return [Body(circuit.id, legs, cable.csa, family.insulation, width, height, whole=True)]
    live = 2 if circuit.phases == 1 else 4
    found = [_single(w, circuit, live * legs, cable.csa, family.id, family.insulation)]
    if cable.cpc == "usual":
        if cable.cpc_csa is None:
            raise MissingInput("cable.cpc_csa", f"the csa of the protective conductor of {name}")
        found.append(_single(w, circuit, legs, cable.cpc_csa, family.id, family.insulation))
    return found


def _single(w: Working, circuit: Circuit, count: int, csa: float, family: str, insulation: str) -> Body:
    across = w.look("d", T.CABLE_SIZES, (family, 1.0, csa), "width_mm", f"single of {csa:g} mm²")
    return Body(circuit.id, count, csa, insulation, across, across, whole=False)


def over_all(w: Working, circuit: Circuit) -> tuple[float, float]:
    """Return width and height over all [mm] of a cable with a sheath: armoured from its table, others of usual size."""
    cable, name = circuit.run.cable, circuit.name or "a circuit"
    family = w.rules.families[cable.family or ""]
    if family.armour:
        cores = float(cable.cores or (2 if circuit.phases == 1 else 4))
        across = w.look("d", T.ARMOURED_SIZES, (cable.csa, cores), "overall_diameter_mm", name)
        return across, across
    # Flat twin has its two and the cpc; other cables a core for each conductor.
    cores = 3.0 if circuit.phases == 1 else 5.0
    width = w.look("W", T.CABLE_SIZES, (family.id, cores, cable.csa), "width_mm", name)
    return width, w.look("H", T.CABLE_SIZES, (family.id, cores, cable.csa), "height_mm", name)


def inner(rules: RuleSet, diameter: float, heavy: bool = False) -> float:
    """Return the bore of a steel conduit [mm] by its outer diameter [mm]. Raises OutsideTable."""
    return diameter - 2 * rules.table(T.CONDUIT_WALL).cell(diameter, "wall_mm_heavy" if heavy else "wall_mm_light").value
