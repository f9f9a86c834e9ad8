"""What the loads of a circuit draw: current of each, design current Ib, power factor."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import replace
from math import sqrt
from typing import TYPE_CHECKING

from mellow_span.core.adding import added
from mellow_span.core.errors import MissingInput
from mellow_span.core.figures import apart, quantity
from mellow_span.core.findings.results import Outcome, judge
from mellow_span.core.model.circuit import RESISTIVE, without_label
from mellow_span.core.model.parts import Circuit, Load, Supply
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.vocabulary import C
from mellow_span.core.units import WATT_PER_KW
from mellow_span.core.working.recorders import Silent, Working

if TYPE_CHECKING:
    from mellow_span.core.rules.case import Case
from mellow_span.core.rules.demand.diversity import Item, allowances

# What charging points draw a line [A] by their standard; the kW on their sheets are rounded, and of volts between 220 and 230.
CHARGING_STEPS, ROUNDED_DOWN, ROUNDED_UP = (16.0, 32.0), 0.06, 0.015


def load_current(w: Working, supply: Supply, circuit: Circuit, load: Load) -> float:
    """Return the current of one load line [A]: n P / (U0 pf), or n P / (√3 U pf) balanced over three phases.

    A watt figure holds at its rated voltage Ur: what heats by resistance takes n P U / Ur2 of it, anything else no less than its rating at the
    lower of the two voltages. Raises MissingInput without an amount. BS 7671 section 311 and 433.1.1 (design current).
    """
    name = load.name or load.kind.replace("_", " ")
    if load.basis == "In":
        if circuit.device.rating is None:
            raise MissingInput("device.rating", "the rated current of the device in A")
        return w.given("Ib", circuit.device.rating, "A", f"{name}: full device rating assumed")
    if load.amount is None:
        raise MissingInput(f"load.{load.id}.amount", f"the rating of {name} in W or A")
    if load.basis == "A":
        return w.calc("Ib", load.quantity * load.amount, "A", "n × I", {"n": load.quantity, "I": load.amount}, C.DEMAND, name)
    single = circuit.phases == 1
    symbol, u = ("U0", supply.u0) if single else ("U", line_voltage(w, supply))
    root = 1.0 if single else sqrt(3)
    times = "" if single else "√3 × "
    terms = {"n": float(load.quantity), "P": load.amount, symbol: u, "pf": load.pf}
    rated = load.rated_volts
    if rated is None or rated == u:
        current, formula = load.quantity * load.amount / (root * u * load.pf), f"n × P / ({times}{symbol} × pf)"
    elif load.kind in RESISTIVE:
        current, formula = load.quantity * load.amount * u / (root * rated**2 * load.pf), f"n × P × {symbol} / ({times}Ur² × pf)"
        terms["Ur"] = rated
    else:
        current, formula = load.quantity * load.amount / (root * min(u, rated) * load.pf), f"n × P / ({times}min({symbol}, Ur) × pf)"
        terms["Ur"] = rated
    if load.kind == "ev" and (standard := _charging_step(load, current)) is not None:
        return w.given(
            "Ib",
            standard,
            "A",
            f"{name}: {load.amount / WATT_PER_KW:g} kW is {standard / load.quantity:g} A a line by the standard of charging points",
        )
    return w.calc("Ib", current, "A", formula, terms, C.DEMAND, name)


def _charging_step(load: Load, current: float) -> float | None:
    """The current a line [A] that a charging point of rounded kW has by its standard (IEC 61851-1): 16 or 32 A; None where the kW are of no such."""
    each = current / load.quantity
    step = next((amps for amps in CHARGING_STEPS if amps * (1 - ROUNDED_DOWN) <= each <= amps * (1 + ROUNDED_UP)), None)
    return None if step is None else step * load.quantity


def line_voltage(w: Working, supply: Supply) -> float:
    """Return the nominal voltage line to line U [V]: as entered, 400 V where U0 is 230 V, else √3 U0."""
    if supply.u is not None:
        return supply.u
    if supply.u0 == w.constant("nominal_u0"):
        return w.constant("nominal_u")
    return sqrt(3) * supply.u0


def present(circuit: Circuit) -> list[Load]:
    """Return the loads a circuit is designed for: those that stand now, or, where all may come later, those."""
    return [load for load in circuit.loads if not load.future] or list(circuit.loads)


def design_current(w: Working, case: Case) -> float:
    """Return Ib of the circuit [A]: the sum of its loads, without diversity unless the circuit asks for it.

    A sub-main takes the demand of the board it feeds at its highest phase, or the rating of its device where that is chosen.
    Raises MissingInput where there is no load.
    """
    circuit = case.circuit
    loads = present(circuit)
    if not loads:
        if circuit.feeds:
            return _submain_current(w, case)
        raise MissingInput("loads", "a load in W or A")
    loads, currents = _in_full(w, case)
    if case.after_diversity:
        currents = _diversified(w, circuit, loads, currents)
    loads, currents = _unlocked(loads, currents)
    if len(currents) == 1:
        return currents[0]
    terms = {f"I{i}": current for i, current in enumerate(currents, 1)}
    note = "after diversity" if case.after_diversity else "all loads of the circuit"
    return w.calc("Ib", added(currents), "A", " + ".join(terms), terms, C.DEMAND, note)


def _unlocked(loads: list[Load], currents: list[float]) -> tuple[list[Load], list[float]]:
    """Of loads that an interlock keeps apart the larger alone counts."""
    largest: dict[str, float] = {}
    for load, current in zip(loads, currents, strict=True):
        if load.interlock:
            largest[load.interlock] = max(current, largest.get(load.interlock, 0.0))
    kept, seen = [], set()
    for load, current in zip(loads, currents, strict=True):
        if load.interlock and (current < largest[load.interlock] or load.interlock in seen):
            continue
        seen.add(load.interlock)
        kept.append((load, current))
    return [load for load, _ in kept], [current for _, current in kept]


def _diversified(w: Working, circuit: Circuit, loads: list[Load], currents: list[float]) -> list[float]:
    # By default the usual rule holds: what somebody allowed for the demand of the house says nothing of this circuit.
    if circuit.diversified is None:
        loads = [replace(load, diversity=None, diverse_amps=None, managed=None) for load in loads]
    by_kind: dict[str, list[int]] = defaultdict(list)
    for i, load in enumerate(loads):
        by_kind[load.kind].append(i)
    found = list(currents)
    for kind, places in by_kind.items():
        items = [Item(kind, currents[i], loads[i], ()) for i in places]
        for i, value in zip(places, allowances(w, items), strict=True):
            found[i] = value
    return found


def _submain_current(w: Working, case: Case) -> float:
    if case.circuit.ib_from == "device":
        return w.given("Ib", case.rating, "A", "sub-main: taken as the whole rating of its device, on every line")
    if case.around.demand is None:
        raise MissingInput("loads", case.around.demand_missing or "loads on the board it feeds")
    return w.given("Ib", case.around.demand, "A", "sub-main: demand of its board after diversity, highest phase")


def ib_of(w: Working, case: Case) -> float:
    """Return Ib [A] for a check whose own steps are others."""
    return case.worked(w, "ib", lambda aside: design_current(aside, case), show=False)


def power_factor(case: Case) -> float:
    """Return the power factor of a circuit: its loads weighted by their current; 1 where a load is taken as a rating."""
    quiet = Silent(case.rules)
    weighted = [(load_current(quiet, case.supply, case.circuit, load), load.pf) for load in present(case.circuit)]
    total = added(current for current, _ in weighted)
    return added(current * pf for current, pf in weighted) / total if total else 1.0


def label_volts(rules: RuleSet, circuit: Circuit) -> float | None:
    """Return the other volts that labels are usually made out for [V], of three phases line to line; None where the book knows none."""
    key = "label_volts" if circuit.phases == 1 else "label_volts_3ph"
    return rules.limit(key) if rules.has(key) else None


def labelled(case: Case) -> tuple[Circuit, float] | None:
    """Return the circuit as it is with the other usual volts on the labels that nobody entered, and those volts; None where that is no question."""
    loads, volts = {x.id for x in without_label(case.circuit)}, label_volts(case.rules, case.circuit)
    if not loads or volts is None or case.supply.u0 != case.rules.limit("nominal_u0"):
        return None
    changed = tuple(replace(x, rated_volts=volts) if x.id in loads else x for x in case.circuit.loads)
    return replace(case.circuit, loads=changed), volts


def _other_figures(case: Case, ib: float) -> str:
    """What Ib is by the other school, or with the other usual volts on a label, in words; empty where there is neither."""
    said = []
    quiet = Silent(case.rules)
    if case.after_diversity and case.circuit.loads:
        whole = added(_unlocked(*_in_full(quiet, case))[1])
        said.append(f"after the usual allowance, {quantity(whole, 'A')} in full" if whole > ib * (1 + 1e-9) else "")
    other = labelled(case)
    if other is not None:
        circuit, volts = other
        there = quantity(design_current(quiet, replace(case, circuit=circuit, memo={})), "A")
        if there != quantity(ib, "A"):
            assumed = case.supply.u0 if circuit.phases == 1 else line_voltage(quiet, case.supply)
            said.append(f"its label taken as {quantity(assumed, 'V')}, {there} if it says {quantity(volts, 'V')}")
    told = "; ".join(filter(None, said))
    return f" ({told})" if told else ""


def _in_full(w: Working, case: Case) -> tuple[list[Load], list[float]]:
    loads = present(case.circuit)
    return loads, [load_current(w, case.supply, case.circuit, load) for load in loads]


def check_design_current(w: Working, case: Case) -> Outcome:
    """Check Ib <= In (433.1.1 (i)); what it would be by the other school, or with other volts on a label, is told beside it."""
    ib = case.worked(w, "ib", lambda aside: design_current(aside, case), show=True)
    if case.device.rating is None:
        raise MissingInput("device.rating", "the rated current of the device in A").showing(ib, "A")
    rating = w.given("In", case.rating, "A", "rating of the device")
    taken_as_rating = all(load.basis == "In" for load in case.circuit.loads) and not (
        case.circuit.feeds and case.circuit.ib_from == "demand"
    )
    margin = None if taken_as_rating else 1 - ib / rating
    word = "is over" if judge(1 - ib / rating) == "short" else "is within"
    told, most = apart(ib, rating, "A")
    text = f"Ib {told}{_other_figures(case, ib)} {word} In {most}"
    later = [load for load in case.circuit.loads if load not in present(case.circuit)]
    if later:
        more = added(load_current(w.quiet(), case.supply, case.circuit, load) for load in later)
        text += f"; with future loads {quantity(ib + more, 'A')}"
        if ib <= rating < ib + more:
            text += ", over In"
    return Outcome(ib, rating, "A", margin, text)
