"""The flexible lead between outlet and appliance: what it carries, and whether it survives a fault, behind its own fuse or the circuit's device."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from mellow_span.core.errors import CoreError, MissingInput
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import Outcome
from mellow_span.core.model.parts import Load
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.demand.loads import load_current
from mellow_span.core.rules.faults import cpc
from mellow_span.core.rules.faults.loop import feed_loop, least_fault, loop_of, other_sources, zs_of
from mellow_span.core.rules.thermal.adiabatic import Extreme, Fault, judged, k_of, needed_csa
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.units import MM_PER_M
from mellow_span.core.working.recorders import Working

# Cords of the usual kind are insulated for 70 C.
INSULATION = "pvc70"


def has_lead(case: Case) -> bool:
    """Say whether an appliance of the circuit has a flexible lead entered."""
    return any(load.lead_csa is not None for load in case.circuit.loads)


def leads(case: Case) -> list[tuple[Load, float, str]]:
    """List the loads with a lead: the load, the csa of its lead [mm2], and its name."""
    return [(load, load.lead_csa, load.name or load.kind.replace("_", " ")) for load in case.circuit.loads if load.lead_csa is not None]


def check_lead(w: Working, case: Case) -> Outcome:
    """Check that each lead is protected against overload: In of the device, or of the fuse in its plug or connection unit, at most what it
    carries (Table 4F3A, 433.1.1).
    """
    worst: Outcome | None = None
    for load, csa, name in leads(case):
        carries = w.look("It,lead", T.LEAD_CAPACITY, csa, "amps_1ph" if case.circuit.phases == 1 else "amps_3ph", f"lead of {name}")
        local = load.local_fuse is not None
        rated = w.given(
            "In", load.local_fuse or case.rating, "A", "fuse in its plug or connection unit" if local else "device of the circuit"
        )
        margin = carries / rated - 1
        word = "carries" if margin >= 0 else "is under"
        text = f"flex of {name}, {quantity(csa, 'mm²')}: {quantity(carries, 'A')} {word} {'its fuse' if local else 'In'} {quantity(rated, 'A')}"
        text += _drops(w, case, load, csa)
        if worst is None or margin < (worst.margin or 0):
            worst = Outcome(carries, rated, "A", margin, text)
    assert worst is not None
    return worst


def _drops(w: Working, case: Case, load: Load, csa: float) -> str:
    """What the lead drops, told beside the check, since the limit is for the fixed wiring."""
    if load.lead_length is None or load.basis == "In" or load.amount is None:
        return ""
    current = load_current(w.quiet(), case.supply, case.circuit, load) / load.quantity
    mv = w.look("mV,lead", T.LEAD_DROP, csa, "ph1_z" if case.circuit.phases == 1 else "ph3_z", "flexible lead")
    terms = {"mV,lead": mv, "I": current, "L": load.lead_length}
    volts = w.calc("VD,lead", mv * current * load.lead_length / MM_PER_M, "V", "mV,lead × I × L / 1000", terms, C.DROP_BY_TABLE)
    return f"; over {quantity(load.lead_length, 'm')} volt drop {quantity(volts, 'V')}"


def check_lead_fault(w: Working, case: Case) -> Outcome:
    """Check that each lead survives a fault at its outlet and at its appliance, to neutral and to earth (434.5.2, 543.1.3)."""
    k = k_of(w, "live", "copper", INSULATION, 0.0, "flexible lead")
    ends: list[Extreme] = []
    refused: list[CoreError] = []
    for load, csa, name in leads(case):
        behind = _behind(w, case, load)
        for fault in _faults(w, case, load, csa, name):
            try:
                one = fault()
                energy, needed = needed_csa(w, behind, one, k)
            except CoreError as refusal:
                refused.append(refusal)
            else:
                ends.append(Extreme(one, energy.value, needed, csa, f"lead of {name}", energy.certain))
    return judged(w, case, ends, refused)


def _behind(w: Working, case: Case, load: Load) -> Case:
    """The case with the fuse that stands before the lead as its device; between tabulated ratings the next larger bounds the energy."""
    if load.local_fuse is None:
        return case
    kind = w.rules.plug_fuse
    ratings = sorted(row.key[1] for row in w.rules.table(T.FUSE_LOOPS).rows if row.key[0] == kind and row.key[1] >= load.local_fuse)
    if not ratings:
        raise w.rules.outside(T.FUSE_LOOPS, f"{kind} {load.local_fuse:g} A", "fuses of plugs and connection units")
    w.given("In", ratings[0], "A", f"fuse of {load.local_fuse:g} A, next tabulated rating up")
    device = replace(case.device, kind=kind, rating=ratings[0], icn=None, i2t=None)
    return Case(case.rules, case.supply, replace(case.circuit, device=device), case.feed, case.around)


def _faults(w: Working, case: Case, load: Load, csa: float, name: str) -> list[Callable[[], Fault]]:
    supply, feed = case.supply, case.feed

    def lead(hot: bool) -> float:
        if load.lead_length is None:
            raise MissingInput(f"load.{load.id}.lead_length", f"the length of the lead of {name} in m")
        r = w.look("r,lead", T.LEAD_RESISTANCE, csa, "mohm_per_m_20C", f"flex of {name}, each conductor")
        f = w.look("F", T.RESISTANCE_HOT, (cpc.BUNCHED, INSULATION), "multiplier_from_20C", "lead, hot") if hot else 1.0
        terms = {"r,lead": r, "F": f, "L": load.lead_length}
        return w.calc("R,lead", 2 * r * f * load.lead_length / MM_PER_M, "Ω", "2 × r,lead × F × L / 1000", terms, C.FAULT_LOOP)

    def largest(at_board: float | None, run: float) -> float:
        if not at_board:
            raise MissingInput("supply.ipf", "the prospective fault current and the loop at the origin")
        z, more = at_board + run, other_sources(feed)
        terms, plus = {"Cmax": supply.cmax, "U0": supply.u0, "Z": z}, ""
        if more:
            terms["Ig"], plus = more, " + Ig"
        return w.calc("Imax", supply.cmax * supply.u0 / z + more, "A", f"Cmax × U0 / Z{plus}", terms, C.FAULT_LEVEL)

    def far_ln() -> Fault:
        if feed.ln_hot is None:
            raise MissingInput("supply.ipf", "the prospective fault current at the origin in A, measured or declared")
        z = feed.ln_hot + loop_of(w, case).ln_hot + lead(hot=True)
        return Fault(f"least fault at the {name}", least_fault(w, case, z, "Imin"), False)

    def far_le() -> Fault:
        feed_loop(case)
        return Fault(f"least earth fault at the {name}", least_fault(w, case, zs_of(w, case) + lead(hot=True), "Imin"), True)

    return [
        lambda: Fault(f"largest fault at the outlet of {name}", largest(feed.ln_cold, loop_of(w, case).ln_cold), False),
        lambda: Fault(f"largest earth fault at the outlet of {name}", largest(feed.ze_cold, loop_of(w, case).cold), True),
        far_ln,
        far_le,
    ]
