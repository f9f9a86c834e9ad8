"""Ways out that ask a person something, since the answer may be all that is missing: what a label says, what the maker states, what was measured.

The figure in the words is the one up to which the answer would do; nothing is answered by taking the way out, the person gives the figure.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from math import floor, log10

from mellow_span.core.design.check import NOTHING, Plan, feed_to
from mellow_span.core.design.effort import LAID_OUT, Effort
from mellow_span.core.design.solving import Ask, Idea, changed, in_book, solved
from mellow_span.core.errors import CoreError
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import CircuitResult
from mellow_span.core.model.changes import Change
from mellow_span.core.model.circuit import without_label
from mellow_span.core.model.parts import Circuit, Installation
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.demand.loads import ib_of, labelled
from mellow_span.core.working.recorders import Silent

# Those of them that stand first among what cures as much: asking costs nothing.
QUESTIONS = ("label", "allowance", "makers-energy", "measured-ipf", "measured-ze", "measured-both")
THERMAL = ("line_thermal", "cpc_thermal")
# The least and most energy a person may enter [A2s], and how often the way between is halved.
LEAST_ENERGY, MOST_ENERGY, HALVINGS = 100.0, 1e7, 18
# What a measured fault level may come to, as shares of what was declared; over so much no TN supply is believed.
SHARES = (0.9, 0.7, 0.5, 0.3, 0.15)
LARGEST_ZE = 2.0


def questions(plan: Plan, job: Installation, circuit: Circuit, before: CircuitResult, effort: Effort) -> Iterator[Idea]:
    """Return what could be asked about a circuit that is short or not known, as changes with the figure that would do.

    effort: how much work it may be; what is not found out within it is not asked.
    """
    by_id = {c.id: c for c in before.checks if c.decides}
    if any(by_id[c].verdict == "short" for c in ("design_current", "capacity", "volt_drop", "accessory") if c in by_id):
        yield from in_book(_label(plan, circuit))
        yield from in_book(_allowance(plan, circuit))
    undecided = [c for c in THERMAL if c in by_id and by_id[c].verdict == "not_known" and by_id[c].field == "device.i2t"]
    if undecided:
        yield from _makers_energy(_Edges(job, circuit, undecided, effort))
    at_fault = [*undecided, *(c.id for c in by_id.values() if c.id == "breaking" and c.verdict == "short")]
    if at_fault:
        yield from _measured(_Edges(job, circuit, at_fault, effort))


def case_of(plan: Plan, circuit: Circuit) -> Case:
    """Return a circuit with what arrives at its board."""
    return Case(plan.rules, plan.job.supply, circuit, feed_to(plan, circuit.board), plan.around.get(circuit.id, NOTHING))


def _label(plan: Plan, circuit: Circuit) -> Iterator[Idea]:
    """The question that nobody answered: watts of a label belong to its volts."""
    case = case_of(plan, circuit)
    other = labelled(case)
    if other is None:
        return
    there, volts = other
    quiet = Silent(plan.rules)
    now, then = ib_of(quiet, case), ib_of(quiet, case_of(plan, there))
    asked = f"does the label say {quantity(volts, 'V')}? Then it draws {quantity(then, 'A')} here, not {quantity(now, 'A')}"
    yield Idea("label", asked, tuple(Change("set", "load", x.id, {"rated_volts": volts}) for x in without_label(circuit)))


def _allowance(plan: Plan, circuit: Circuit) -> Iterator[Idea]:
    """Cooking of a household that was taken in full, after the usual allowance."""
    case = case_of(plan, circuit)
    usual = case_of(plan, replace(circuit, diversified=None))
    if circuit.diversified is False and usual.after_diversity:
        quiet = Silent(plan.rules)
        title = f"take the cooking after the usual allowance: {quantity(ib_of(quiet, usual), 'A')}, not {quantity(ib_of(quiet, case), 'A')}"
        yield Idea("allowance", title, (Change("set", "circuit", circuit.id, {"diversified": None}),))


@dataclass(slots=True)
class _Edges:
    """Looks for the figure up to which an answer would do: for some checks of a circuit, within so much work."""

    job: Installation
    circuit: Circuit
    checks: list[str]
    effort: Effort

    def passing(self, change: Change) -> set[str]:
        """Which of the checks pass with a change."""
        self.effort.spend(LAID_OUT * len(self.job.circuits))
        try:
            result = solved(changed(self.job, (change,)), self.circuit.id)
        except CoreError:
            return set()
        return {c.id for c in result.checks if c.id in self.checks and c.verdict in ("meets", "close")}

    def edge(self, make: Callable[[float], Change], goods: Iterable[float], bad: float) -> float | None:
        """Return the figure nearest to `bad` with which those of the checks pass that the first of `goods` to cure any does.

        To two figures, on the side of the good one; None where none cures any, or the work ran out.
        """
        good, cured = 0.0, set[str]()
        for good in goods:
            if self.effort.over():
                return None
            if cured := self.passing(make(good)):
                break
        if not cured:
            return None
        below = good < bad
        for _ in range(HALVINGS):
            if self.effort.over():
                return None
            middle = (good * bad) ** 0.5
            good, bad = (middle, bad) if cured <= self.passing(make(middle)) else (good, middle)
        step = 10.0 ** (floor(log10(good)) - 1)
        told = floor(good / step) * step if below else -(-good // step) * step
        return float(f"{told:.6g}") if cured <= self.passing(make(told)) else good


def _makers_energy(look: _Edges) -> Iterator[Idea]:
    circuit = look.circuit.id

    def make(energy: float) -> Change:
        return Change("set", "circuit", circuit, {"device": {"i2t": energy}})

    most = look.edge(make, (LEAST_ENERGY,), MOST_ENERGY)
    if most is not None:
        ask = Ask("circuit", circuit, "device.i2t", "I²t from the maker's data", "A²s", most=most)
        yield Idea("makers-energy", f"the maker's I²t of the device: up to {quantity(most, 'A²s')} would do", (make(most),), ask)


def _measured(look: _Edges) -> Iterator[Idea]:
    """What was declared or assumed, measured: a lower fault level may be all that is missing."""
    s = look.job.supply

    def ipf(amps: float) -> Change:
        return Change("set", "supply", "", {"ipf": amps, "ipf_source": "measured"})

    def ze(ohms: float) -> Change:
        return Change("set", "supply", "", {"ze": ohms, "ze_source": "measured"})

    if s.ipf is not None and s.ipf_source != "measured":
        most = look.edge(ipf, (s.ipf * share for share in SHARES), s.ipf)
        if most is not None:
            ask = Ask("supply", "", "ipf", "Ipf at the origin, measured", "A", most=most)
            yield Idea("measured-ipf", f"Ipf measured instead of {s.ipf_source}: up to {quantity(most, 'A')} would do", (ipf(most),), ask)
    if s.ipf is not None and s.ze is not None and "measured" not in (s.ipf_source, s.ze_source):
        yield from _both_measured(look, s.ipf, s.ze)
    if s.ze is not None and s.ze_source != "measured" and s.ze < LARGEST_ZE:
        least = look.edge(ze, (s.ze / share for share in SHARES if s.ze / share <= LARGEST_ZE), s.ze)
        if least is not None:
            ask = Ask("supply", "", "ze", "Ze, measured", "Ω", least=least)
            yield Idea("measured-ze", f"Ze measured instead of {s.ze_source}: from {quantity(least, 'Ω')} on would do", (ze(least),), ask)


def _both_measured(look: _Edges, ipf: float, ze: float) -> Iterator[Idea]:
    """Neither fault current was read: a lower one of both, since the larger of the two is what counts. They are entered at the survey, one by one."""
    u0 = look.job.supply.u0

    def both(amps: float) -> Change:
        fields = {"ipf": amps, "ipf_source": "measured", "ze": max(ze, u0 / amps), "ze_source": "measured"}
        return Change("set", "supply", "", fields)

    most = look.edge(both, (ipf * share for share in SHARES), ipf)
    if most is not None and u0 / most > ze:
        ask = Ask("supply", "", "", "Ipf and Ze at the origin, both measured", "A", most=most)
        least = quantity(u0 / most, "Ω")
        yield Idea("measured-both", f"Ipf and Ze measured: up to {quantity(most, 'A')}, and from {least} on, would do", (both(most),), ask)
