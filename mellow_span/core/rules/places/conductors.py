"""Conductors that have to be there: as many lines as the circuit says, a neutral where something needs it, a protective conductor that arrives."""

from __future__ import annotations

from mellow_span.core.adding import added
from mellow_span.core.findings.results import Outcome, Verdict, worst
from mellow_span.core.rules.case import Case
from mellow_span.core.rulesets.vocabulary import C
from mellow_span.core.working.recorders import Working

Said = tuple[Verdict, str]
AS_CPC = {"armour": "the armour", "armour_and_core": "a core with the armour beside it", "core": "a core alone"}


def check_conductors(w: Working, case: Case) -> Outcome:
    """Check that the conductors a circuit needs exist: lines of the board (524.1), neutral (524.2), and a cpc that arrives (411.3.1.1, 543.2).

    The cores of an armoured cable are counted; of other cables as many are pulled as the circuit needs.
    """
    said = [_lines(case), _cores(w, case), _arrives(case)]
    verdict = worst([v for v, _ in said])
    wrong = [words for v, words in said if v == verdict]
    text = "; ".join(wrong) if verdict != "meets" else f"line, neutral where needed and protective conductor are there{_serves(case)}"
    return Outcome(0.0, 0.0, "", None, text, verdict=verdict)


def _serves(case: Case) -> str:
    """What serves as cpc of an armoured cable, in words: by its cores it is not the same."""
    return f": {AS_CPC[case.cpc_kind]}" if case.family.armour and case.cpc_kind in AS_CPC else ""


def _lines(case: Case) -> Said:
    if case.circuit.phases > case.feed.phases:
        return "short", "a three-phase circuit on a single-phase board or supply: there are no three lines to connect"
    return "meets", ""


def _cores(w: Working, case: Case) -> Said:
    if case.circuit.phases > 1 and "3" not in case.family.drop_columns:
        return "short", f"{case.family.title} has two cores: a three-phase circuit needs three lines"
    if not case.family.armour:
        return "meets", ""
    asked = {"lines": case.circuit.phases, "neutral": 1 if case.circuit.phases == 1 or case.neutral else 0}
    if case.cpc_kind in ("core", "armour_and_core"):
        asked["cpc"] = 1
    # A core that serves as cpc bonds what is behind it as well; one that bonds beside an armour as cpc is a core of its own.
    if case.around.core_bonds and "cpc" not in asked:
        asked["bond"] = 1
    there, needed = case.cores, added(asked.values())
    w.given("cores", float(there), "", "of the armoured cable")
    w.calc("needed", float(needed), "", " + ".join(asked), {k: float(v) for k, v in asked.items()}, C.CONDUCTORS)
    if there < needed:
        named = ", ".join(
            [f"{asked['lines']} line{'s' if asked['lines'] > 1 else ''}", *(k for k in ("neutral", "cpc", "bond") if asked.get(k))]
        )
        return "short", f"a cable of {there} cores where {needed} are needed: {named}"
    return "meets", ""


def _arrives(case: Case) -> Said:
    ends = case.circuit.armour_ends
    if case.cpc_kind not in ("armour", "armour_and_core") and case.circuit.core_ends == "supply" and not case.own_earth_below:
        return "short", "its cpc is left off at the far end, and there is no earth electrode there: no protective conductor arrives"
    if not case.family.armour or ends == "both":
        return "meets", ""
    where = "at the supply end only" if ends == "supply" else "at neither end"
    if case.cpc_kind == "armour" and not case.own_earth_below:
        return "short", f"the armour is the protective conductor and is earthed {where}: none arrives at the far end"
    if case.cpc_kind == "armour_and_core" and not case.own_earth_below:
        return "short", f"the armour is counted as protective conductor beside the core and is earthed {where}: the core is alone"
    if ends == "none":
        buried = any(case.place(span).ground for span in case.circuit.run.spans)
        told = "the armour is earthed at neither end: what damages it is not cleared"
        return ("short", f"{told}, in the ground it has to be ({case.rules.clause(C.BURIED)})") if buried else ("close", told)
    return "meets", ""
