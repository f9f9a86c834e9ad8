"""Design current of a circuit from its loads."""

from __future__ import annotations

from mellow_span.core.case import Case
from mellow_span.core.errors import MissingInput
from mellow_span.core.figures import quantity
from mellow_span.core.model import Load
from mellow_span.core.results import Outcome
from mellow_span.core.working import Working


def load_current(w: Working, case: Case, load: Load) -> float:
    """Return the current of one load line [A]: n P / (U0 pf), or n P / (3 U0 pf) balanced over three phases.

    Raises MissingInput without an amount. BS 7671 section 311 and 433.1.1 (design current).
    """
    name = load.name or load.kind.replace("_", " ")
    if load.basis == "In":
        return w.given("Ib", case.rating, "A", f"{name}: taken as the whole rating of the device")
    if load.amount is None:
        raise MissingInput(f"load.{load.id}.amount", f"the rating of {name} in W or A")
    if load.basis == "A":
        return w.calc("Ib", load.quantity * load.amount, "A", "n × I", {"n": load.quantity, "I": load.amount}, "311.1", name)
    u0, phases = case.supply.u0, case.circuit.phases
    current = load.quantity * load.amount / (phases * u0 * load.pf)
    puts = {"n": float(load.quantity), "P": load.amount, "U0": u0, "pf": load.pf}
    return w.calc("Ib", current, "A", "n × P / (U0 × pf)" if phases == 1 else "n × P / (3 × U0 × pf)", puts, "311.1", name)


def ib_of(w: Working, case: Case) -> float:
    """Return Ib [A] without its steps, worked out once for a circuit."""
    if "ib" not in case.memo:
        case.memo["ib"] = design_current(w.quiet(), case)
    found: float = case.memo["ib"]
    return found


def design_current(w: Working, case: Case) -> float:
    """Return Ib of the circuit [A], the sum of its loads without diversity; a sub-main with no load of its own takes In.

    Raises MissingInput where there is no load.
    """
    loads = case.circuit.loads
    if not loads:
        if case.circuit.feeds:
            return w.given("Ib", case.rating, "A", "sub-main: taken as the whole rating of its device")
        raise MissingInput("loads", "a load in W or A")
    currents = [load_current(w, case, load) for load in loads]
    if len(currents) == 1:
        return currents[0]
    puts = {f"I{i}": current for i, current in enumerate(currents, 1)}
    return w.calc("Ib", sum(currents), "A", " + ".join(puts), puts, "311.1", "all loads of the circuit")


def check_design_current(w: Working, case: Case) -> Outcome:
    """Check Ib <= In (433.1.1 (i))."""
    ib = design_current(w, case)
    rating = w.given("In", case.rating, "A", "rating of the device")
    taken_as_rating = all(load.basis == "In" for load in case.circuit.loads)
    margin = None if taken_as_rating else 1 - ib / rating
    word = "is within" if ib <= rating else "is over"
    return Outcome(ib, rating, "A", margin, f"Ib {quantity(ib, 'A')} {word} In {quantity(rating, 'A')}")
