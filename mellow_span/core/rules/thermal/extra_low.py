"""Behind a driver or transformer: what the cable at extra-low voltage drops and carries, apart from the mains before it (525.1, Table 4F3A)."""

from __future__ import annotations

from mellow_span.core.errors import InputError, MissingInput
from mellow_span.core.figures import apart, quantity
from mellow_span.core.findings.results import Outcome
from mellow_span.core.model.parts import Load
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.faults.cpc import BUNCHED
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.units import MM_PER_M, PERCENT
from mellow_span.core.working.recorders import Working

# The flexible cables of the tables.
INSULATION = "pvc70"


def behind_drivers(case: Case) -> list[Load]:
    """List the loads that a driver or transformer feeds at extra-low voltage."""
    return [load for load in case.circuit.loads if load.elv_volts is not None]


def asks_extra_low(case: Case) -> bool:
    """Say whether a load of the circuit is behind a driver or transformer."""
    return bool(behind_drivers(case))


def check_extra_low(w: Working, case: Case) -> Outcome:
    """Check each cable behind a driver: its volt drop against what the maker of driver or light allows, its current against Table 4F3A.

    One driver is taken for all of a load. Raises MissingInput for what is not entered: there is no usual limit, since a light dims by its own.
    """
    found = [outcome for load in behind_drivers(case) for outcome in _of(w, case, load)]
    return min(found, key=lambda outcome: outcome.margin or 0.0)


def _of(w: Working, case: Case, load: Load) -> tuple[Outcome, Outcome]:
    name = load.name or load.kind.replace("_", " ")
    volts = w.given(
        "U,ELV", _entered(load, "elv_volts", f"the output of the driver of {name} in V"), "V", f"output of the driver of {name}"
    )
    length = w.given("L", _entered(load, "elv_length", f"the length of the cable from the driver to {name} in m"), "m", "driver to light")
    csa = _entered(load, "elv_csa", f"the csa of the cable from the driver to {name} in mm²")
    most = _entered(load, "elv_drop", f"the volt drop that the maker of driver or {name} allows, in %")
    if load.basis != "W":
        raise InputError(f"load.{load.id}.basis", load.basis, "W, for a load behind a driver: the current there follows from its watts")
    watts = w.given("P", _entered(load, "amount", f"the watts of {name}") * load.quantity, "W", "all of them on one driver")
    amps = w.calc("I,ELV", watts / volts, "A", "P / U,ELV", {"P": watts, "U,ELV": volts}, C.VOLT_DROP)
    r = w.look("r", T.LEAD_RESISTANCE, csa, "mohm_per_m_20C", f"each conductor, {csa:g} mm²")
    hot = w.look("F", T.RESISTANCE_HOT, (BUNCHED, INSULATION), "multiplier_from_20C", "to operating temperature")
    terms = {"r": r, "F": hot, "L": length, "I,ELV": amps}
    lost = w.calc("VD", 2 * r * hot * length / MM_PER_M * amps, "V", "2 × r × F × L / 1000 × I,ELV", terms, C.VOLT_DROP)
    share = w.calc("vd", PERCENT * lost / volts, "%", "100 × VD / U,ELV", {"VD": lost, "U,ELV": volts}, C.VOLT_DROP)
    carries = w.look("It", T.LEAD_CAPACITY, csa, "amps_1ph", f"flexible cable of {csa:g} mm²")
    told, limit = apart(share, most, "%")
    fits = share <= most * (1 + 1e-9)
    text = f"{name} at {quantity(volts, 'V')}: {told} {'is within' if fits else 'is over'} {limit}; {quantity(volts - lost, 'V')} left"
    drop = Outcome(share, most, "%", most / share - 1 if share else None, text)
    word = "carries" if amps <= carries else "is under"
    text = f"{name} at {quantity(volts, 'V')}: {quantity(csa, 'mm²')} {quantity(carries, 'A')} {word} {quantity(amps, 'A')}"
    return drop, Outcome(carries, amps, "A", carries / amps - 1 if amps else None, text, clause=C.OVERLOAD)


def _entered(load: Load, field: str, asked: str) -> float:
    value: float | None = getattr(load, field)
    if value is None:
        raise MissingInput(f"load.{load.id}.{field}", asked)
    return value
