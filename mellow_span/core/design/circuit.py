"""One circuit checked from design current to protective conductor: every check in the order the work is done."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

from mellow_span.core.adding import added
from mellow_span.core.design.branches import cases_of, merged, refused_branches
from mellow_span.core.errors import InputError, UnknownWord
from mellow_span.core.findings.attention import CONSEQUENCE
from mellow_span.core.findings.results import Check, CircuitResult, Figure, Outcome, Problem, SpanResult, worst
from mellow_span.core.findings.wording import headline_of, problem_told
from mellow_span.core.model.legs import plain
from mellow_span.core.model.parse import out_of_range, unknown_words
from mellow_span.core.model.parts import Circuit, Supply
from mellow_span.core.rules import ring
from mellow_span.core.rules.capacity import overload
from mellow_span.core.rules.capacity import spans as capacity
from mellow_span.core.rules.case import Around, Case, Feed
from mellow_span.core.rules.demand.loads import check_design_current
from mellow_span.core.rules.devices import accessories, arc_fault, inrush, leakage, outlets
from mellow_span.core.rules.drop.run import check_volt_drop
from mellow_span.core.rules.faults import additional
from mellow_span.core.rules.faults import loop as faults
from mellow_span.core.rules.faults.charging import charges, check_charging
from mellow_span.core.rules.faults.currents import circuit_figures
from mellow_span.core.rules.faults.supplementary import asks, check_supplementary
from mellow_span.core.rules.places import conductors, harm, joints, sites
from mellow_span.core.rules.runner import run_check
from mellow_span.core.rules.sources import alone, on_circuit
from mellow_span.core.rules.thermal import adiabatic as thermal
from mellow_span.core.rules.thermal import extra_low, leads, table_method
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.vocabulary import C
from mellow_span.core.working.recorders import Silent, Working, recorder

ALONE = Around()


@dataclass(frozen=True, slots=True)
class Rule:
    """A check by name: its title, clause, what it rests on in the supply, and whether the csa can change its answer."""

    id: str
    title: str
    clause: str
    run: Callable[[Working, Case], Outcome]
    rests_on: tuple[str, ...] = ()
    csa_matters: bool = True
    # Whether it is asked of a circuit at all.
    asked: Callable[[Case], bool] = lambda case: True
    # All the answer hangs on, where that is little: it is then remembered with its steps. A wrong one would be a wrong answer.
    hangs_on: Callable[[Case], tuple[Any, ...]] | None = None
    # Shown beside the check that decides; it never counts for the verdict.
    shown_only: bool = False


RULES: tuple[Rule, ...] = (
    Rule("design_current", "Design current", C.OVERLOAD, check_design_current, csa_matters=False),
    Rule("capacity", "Cable capacity", C.OVERLOAD, overload.check_capacity),
    Rule("overload_current", "Overload protection", C.OVERLOAD, overload.check_overload_current, asked=lambda case: not case.ring),
    Rule("ring", "Ring final", C.RING_FINAL, ring.check_ring, asked=lambda case: case.ring),
    Rule("conductors", "Conductors", C.CONDUCTORS, conductors.check_conductors, csa_matters=False),
    Rule("least_csa", "Minimum csa", C.LEAST_CSA, overload.check_least_csa, hangs_on=lambda case: (overload.use_of(case), case.csa)),
    Rule("lead", "Appliance flex", C.OVERLOAD, leads.check_lead, csa_matters=False, asked=leads.has_lead),
    Rule("volt_drop", "Volt drop", C.VOLT_DROP, check_volt_drop),
    Rule("extra_low", "Behind the driver", C.VOLT_DROP, extra_low.check_extra_low, csa_matters=False, asked=extra_low.asks_extra_low),
    Rule("loop", "Earth fault loop, Zs", C.FAULT_LOOP, faults.check_loop, ("ze",)),
    Rule("disconnection", "Disconnection time", C.DISCONNECTION, faults.check_disconnection, ("ze",)),
    Rule("additional", "Additional protection", C.ADDITIONAL_PROTECTION, additional.check_additional, csa_matters=False),
    Rule("source", "Source and mains", C.SOURCES, on_circuit.check_source, csa_matters=False, asked=on_circuit.has_source),
    Rule("source_cable", "Cable of a source", C.SOURCE_CAPACITY, on_circuit.check_source_cable, asked=on_circuit.beside_network),
    Rule("alone", "Earth fault with the mains off", C.SOURCE_FAULTS, alone.check_alone, csa_matters=False, asked=alone.fed_alone),
    Rule("alone_line", "Fault to neutral with the mains off", C.SOURCE_FAULTS, alone.check_alone_line, asked=alone.fed_alone),
    Rule("charging", "EV charging point", C.CAR_CHARGING, check_charging, csa_matters=False, asked=charges),
    Rule("lampholders", "Lampholders", C.LAMPHOLDERS, accessories.check_lampholders, csa_matters=False, asked=accessories.lights_over),
    Rule("accessory", "Isolator or accessory in circuit", C.BOARD_RATINGS, accessories.check_accessory, asked=accessories.has_accessory),
    Rule("outlets", "Socket-outlets and device", C.OUTLET_RATING, outlets.check_outlets, csa_matters=False, asked=outlets.has_outlets),
    Rule("rcd_type", "RCD type", C.RCD_TYPE, outlets.check_rcd_type, csa_matters=False, asked=outlets.has_plain_rcd),
    Rule(
        "bath_sockets", "Sockets and the bath", C.BATHROOM_SOCKETS, harm.check_bath_sockets, csa_matters=False, asked=harm.asks_bath_sockets
    ),
    Rule("leakage", "Standing earth leakage", C.LEAKAGE, leakage.check_circuit, csa_matters=False, asked=leakage.has_own_rcd),
    Rule("integrity", "High-integrity cpc", C.HIGH_INTEGRITY, leakage.check_integrity, asked=leakage.asks_integrity),
    Rule("site_earth", "Earthing of the location", C.CARAVANS, sites.check_site_earth, csa_matters=False, asked=sites.asks_site_earth),
    Rule("arc_fault", "Arc fault detection", C.ARC_FAULT, arc_fault.check_arc_fault, csa_matters=False, asked=arc_fault.asks_arc_fault),
    Rule("inrush", "Inrush current", C.BREAKER_STANDARD, inrush.check_inrush, csa_matters=False, asked=inrush.asks, shown_only=True),
    Rule("joint", "Joint", C.JOINTS, joints.check_joint, csa_matters=False, asked=joints.is_joined),
    Rule("joists", "Cable in joists", C.JOISTS, harm.check_joists, csa_matters=False, asked=harm.asks_joists),
    Rule("supports", "Cable supports in fire", C.FIRE_SUPPORTS, harm.check_supports, csa_matters=False, asked=harm.asks_supports),
    Rule("supplementary", "Supplementary bonding", C.SUPPLEMENTARY, check_supplementary, ("ze",), asked=asks),
    Rule(
        "breaking",
        "Breaking capacity",
        C.BREAKING_CAPACITY,
        faults.check_breaking,
        ("ipf", "ze"),
        csa_matters=False,
        hangs_on=faults.breaking_hangs_on,
    ),
    Rule("line_thermal", "Line conductor, fault current", C.LINE_IN_FAULT, thermal.check_line, ("ipf", "ze")),
    Rule("cpc_thermal", "cpc, adiabatic", C.CPC_ADIABATIC, table_method.check_cpc_in_fault, ("ze",)),
    Rule("lead_thermal", "Appliance flex, fault current", C.LINE_IN_FAULT, leads.check_lead_fault, ("ipf", "ze"), asked=leads.has_lead),
    Rule(
        "cpc_least",
        "Separate cpc, minimum size",
        C.EARTHING_CONDUCTOR,
        table_method.check_separate_cpc,
        asked=table_method.has_separate_cpc,
    ),
    Rule(
        "cpc_table",
        "cpc, by table",
        C.CPC_TABLE,
        table_method.check_cpc_table,
        hangs_on=table_method.table_hangs_on,
        shown_only=True,
    ),
)
# Breakers to BS EN 60898 and 61009: their terminals are made for conductors at 70 °C.
MINIATURE = ("mcb", "rcbo")
PASSING = ("meets", "close")
# What is entered of a cable that begins along a run.
OWN = frozenset(["family", "csa", "cpc_csa", "cpc", "cores"])
WORDS = {"ze": "Ze", "ra": "RA", "ipf": "Ipf"}
# A loop that starts at an electrode rests on RA in place of Ze.
STANDS_FOR = {"ra": "ze"}


def applies(rule: Rule, case: Case) -> bool:
    """Say whether a rule is asked of this circuit, and by this book at all."""
    return rule.id not in case.rules.not_asked and rule.asked(case)


def run_rule(w: Working, case: Case, rule: Rule) -> Check:
    """Run one rule of a circuit; what hangs on little is remembered."""

    def ask() -> Outcome:
        if rule.hangs_on is None:
            return rule.run(w, case)
        return w.remembered((rule.id, rule.hangs_on(case)), lambda aside: rule.run(aside, case))

    return run_check(w, rule.id, rule.title, rule.clause, ask, _assumed(rule, case), decides=not rule.shown_only)


def _assumed(rule: Rule, case: Case) -> tuple[str, ...]:
    if not case.assumed:
        return ()
    return tuple(WORDS[name] for name in WORDS if name in case.assumed and STANDS_FOR.get(name, name) in rule.rests_on)


def problems(case: Case) -> tuple[Problem, ...]:
    """List the inputs of a circuit that are outside what is allowed, or words that its book does not know, each by its field."""
    circuit, rules = case.whole, case.rules
    run = circuit.run
    found: list[InputError] = out_of_range(circuit) + out_of_range(circuit.device, "device") + out_of_range(run.cable, "cable")
    found += unknown_words(circuit.device, rules.chosen, "device") + unknown_words(run.cable, rules.chosen, "cable")
    for load in circuit.loads:
        found += out_of_range(load, f"load.{load.id}")
    for span in run.spans:
        found += out_of_range(span, f"span.{span.id}") + unknown_words(span, rules.chosen, f"span.{span.id}")
        if span.length is not None and span.wrapped > span.length:
            found.append(InputError(f"span.{span.id}.wrapped", span.wrapped, f"at most the length of the span, {span.length:g} m"))
    found += refused_branches(circuit)
    if circuit.spare and case.around.in_use:
        found.append(InputError("circuit.spare", "yes", "no: it feeds a board in use"))
    if circuit.terminals > 70 and not circuit.terminals_by.strip() and circuit.device.kind in MINIATURE:
        found.append(
            InputError(
                "circuit.terminals",
                circuit.terminals,
                f"70, or 90 with the maker's statement for this device ({rules.clause(C.TERMINALS)})",
            )
        )
    # Whoever lies in a route lies as it says.
    for group in case.around.groups:
        if group.laid not in rules.laid:
            found.append(UnknownWord(f"route.{group.route}.laid", group.laid, rules.laid))
    return tuple(Problem(e.field, str(e.given), e.allowed) for e in found)


def check_circuit(rules: RuleSet, supply: Supply, circuit: Circuit, feed: Feed, keep: bool = True, around: Around = ALONE) -> CircuitResult:
    """Check one circuit from what arrives at its board; see `check_case`. around: what it takes from the rest of the job."""
    return check_case(Case(rules, supply, circuit, feed, around), keep)


def check_case(case: Case, keep: bool = True) -> CircuitResult:
    """Check one circuit; keep: record the working of every check, span and figure.

    Bad or missing inputs never raise: they are named in the result, and what can still be worked out is.
    """
    if case.circuit.spare and not case.around.in_use:
        return CircuitResult(
            case.circuit.id, "meets", "Not connected", "cable in place but not connected: it carries nothing and is not checked"
        )
    refused = problems(case)
    if refused:
        return CircuitResult(
            case.circuit.id, "not_known", "Not known yet", problem_told(case.rules, case.whole, refused[0]), problems=refused
        )
    if plain(case.whole):
        return _checked(case, keep)
    along = [(asked, _checked(asked.case, keep)) for asked in cases_of(case)]
    if not along:
        return _checked(case, keep)
    together = merged(case, along)
    return replace(_summary(case, together.spans, together.checks, together.figures), ends=together.ends)


def _checked(case: Case, keep: bool) -> CircuitResult:
    """Check a circuit whose run is straight, or one path of it."""
    w = recorder(case.rules, keep)
    spans = capacity.span_results(w, case)
    checks = tuple(_at_span(case, run_rule(w, case, rule)) for rule in RULES if applies(rule, case))
    return _summary(case, spans, checks, circuit_figures(w, case))


def _at_span(case: Case, check: Check) -> Check:
    """A check with its field where it is entered: what a cable that begins along a run lacks is entered on the span it begins with."""
    if case.begins is None or not check.field or not check.field.startswith("cable."):
        return check
    name = check.field.partition(".")[2]
    return replace(check, field=f"span.{case.begins.id}.own_{name}") if name in OWN else check


def first_failing(rules: RuleSet, supply: Supply, circuit: Circuit, feed: Feed, around: Around = ALONE) -> Check | None:
    """Return the first deciding check that a csa can change and that does not pass, without working; None where all pass.

    For searches over sizes: what comes after the first failure is not worked out. Bad inputs fail as a check of their own.
    """
    case = Case(rules, supply, circuit, feed, around)
    if circuit.spare and not around.in_use:
        return None
    refused = problems(case)
    if refused:
        return Check(
            id="inputs",
            title="Inputs",
            clause="",
            verdict="not_known",
            text=problem_told(rules, circuit, refused[0]),
            field=refused[0].field,
        )
    w = Silent(rules)
    cases = (case,) if plain(circuit) else tuple(asked.case for asked in cases_of(case))
    for one in cases:
        for rule in RULES:
            if rule.csa_matters and applies(rule, one):
                found = run_rule(w, one, rule)
                if found.decides and found.verdict not in PASSING:
                    return found
    return None


def _summary(case: Case, spans: tuple[SpanResult, ...], checks: tuple[Check, ...], figures: tuple[Figure, ...]) -> CircuitResult:
    deciding = [c for c in checks if c.decides]
    verdict = worst([c.verdict for c in deciding])
    by_id = {c.id: c for c in checks}
    margins = [c.margin for c in deciding if c.margin is not None]
    drop, loop = by_id["volt_drop"].value, by_id["loop"]
    ruling = _ruling(verdict, deciding)
    headline, reason = headline_of(case.rules, case.whole, verdict, ruling)
    value = {figure.id: figure.value for figure in figures}
    lengths = [s.length for s in case.whole.run.spans]
    return CircuitResult(
        id=case.circuit.id,
        verdict=verdict,
        headline=headline,
        reason=reason,
        ruling=ruling.id,
        margin=min(margins) if margins else None,
        ib=by_id["design_current"].value,
        rating=case.device.rating,
        iz=by_id["capacity"].value,
        length=None if None in lengths else added(length or 0.0 for length in lengths),
        drop=drop,
        volts=None if drop is None else case.supply.u0 * (1 - drop / 100),
        zs=loop.value,
        zs_max=loop.limit,
        doubtful=any(c.doubtful for c in checks),
        assumed=tuple(dict.fromkeys(a for c in checks for a in c.assumed)),
        checks=checks,
        spans=spans,
        figures=figures,
        r1r2=value["r1r2"],
        fault_max=value["fault_max"],
        far_ln=value["far_ln"],
        far_le=value["far_le"],
        fault_min=value["fault_min"],
    )


def _ruling(verdict: str, deciding: list[Check]) -> Check:
    """Return the check that rules the verdict: the least margin, the first that lacks an input, or the gravest."""
    there = [c for c in deciding if c.verdict == verdict]
    if verdict == "meets":
        return min((c for c in deciding if c.margin is not None), key=lambda c: round(c.margin or 0.0, 6))
    return there[0] if verdict == "not_known" else min(there, key=lambda c: CONSEQUENCE.index(c.id))
