"""The protective conductor by table, beside the adiabatic equation, and its least sizes where it lies by itself (543.1.1, 543.1.4)."""

from __future__ import annotations

from typing import Any

from mellow_span.core.errors import CoreError, MissingInput
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import Outcome
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.faults import cpc
from mellow_span.core.rules.thermal.adiabatic import check_cpc, k_of
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.working.recorders import Working


def table_csa(w: Working, line: float, k1: float, k2: float) -> float:
    """Return the protective conductor the table method asks for [mm2], before rounding up to a standard size (543.1.4, Table 54.7).

    k1, k2: of the line and of the protective conductor; they scale the result where the metals differ and are equal otherwise.
    """
    s = w.given("S", line, "mm²", "line conductor")
    row = w.rules.table(T.CPC_BY_TABLE).row(s)
    if row.cells["fixed_mm2"] is not None:
        asked = w.look("Sp", T.CPC_BY_TABLE, s, "fixed_mm2", "fixed")
    else:
        share = w.look("share", T.CPC_BY_TABLE, s, "share_of_s", "share of S")
        asked = w.calc("Sp", share * s, "mm²", "share × S", {"share": share, "S": s}, C.CPC_TABLE)
    if k1 == k2:
        return asked
    terms = {"Sp": asked, "k1": k1, "k2": k2}
    return w.calc("Sp", asked * k1 / k2, "mm²", "Sp × k1 / k2", terms, C.CPC_TABLE, "unlike metals")


def next_size(w: Working, csa: float) -> float:
    """Return the next standard conductor size up [mm2]; a figure past the last size stays as it is."""
    size = next((float(r.key[0]) for r in w.rules.table(T.RESISTANCE).rows if r.key[0] >= csa - 1e-9), csa)
    return size if size == csa else w.calc("S,std", size, "mm²", "next standard size from S", {"S": csa}, C.CONDUCTOR_SIZES)


def has_separate_cpc(case: Case) -> bool:
    """Say whether the cpc lies by itself: neither in a cable nor in conduit or trunking."""
    return case.cable.cpc == "separate"


def check_separate_cpc(w: Working, case: Case) -> Outcome:
    """Check a protective conductor that lies by itself: 2.5 mm2 protected against mechanical damage, 4 mm2 where it is not (543.1.1)."""
    given = w.given("S,cpc", case.cpc_csa, "mm²", "separate cpc")
    least, bare = w.limit("protected", "separate_cpc_least"), w.limit("not protected", "separate_cpc_bare")
    if given >= bare:
        return Outcome(given, bare, "mm²", None, f"{quantity(given, 'mm²')} is enough, protected or not")
    if given < least:
        return Outcome(
            given, least, "mm²", None, f"{quantity(given, 'mm²')} is under {quantity(least, 'mm²')}, protected or not", verdict="short"
        )
    if case.cable.cpc_guarded is None:
        raise MissingInput("cable.cpc_guarded", f"whether the cpc of {quantity(given, 'mm²')} is protected against mechanical damage")
    if case.cable.cpc_guarded:
        return Outcome(given, least, "mm²", None, f"{quantity(given, 'mm²')} is enough where it is protected, as entered")
    text = f"{quantity(given, 'mm²')} is under the {quantity(bare, 'mm²')} needed without mechanical protection"
    return Outcome(given, bare, "mm²", None, text, verdict="short")


def table_hangs_on(case: Case) -> tuple[Any, ...]:
    """Return all that the table method hangs on: the cable and the lines that share its cpc."""
    return (case.cable, case.circuit.phases, case.cpc_kind, *(c.run.cable.csa for c in case.around.sharing))


def check_cpc_table(w: Working, case: Case) -> Outcome:
    """Compare the cpc with the table method, next standard size up (543.1.4, Table 54.7); shown, the adiabatic decides."""
    parts = cpc.cpc_parts(w.quiet(), case)
    part = max(parts, key=lambda p: 1 / p.hot)
    line = max([case.csa, *(c.run.cable.csa or 0.0 for c in case.around.sharing)])
    if part.metal == "copper":
        k1 = k2 = 1.0
    else:
        k1 = k_of(w, "live", "copper", case.family.insulation, case.csa, "line")
        k2 = k_of(w, part.use, part.metal, case.family.insulation, part.csa, part.name)
    asked = table_csa(w, line * case.parallel, k1, k2)
    least = next_size(w, asked) if part.metal == "copper" else asked
    given = w.given("S,cpc", part.csa, "mm²", part.name)
    name = "cpc" if part.metal == "copper" else part.name.removeprefix("the ")
    verdict = None if given >= least else "short"
    word = "is enough by the table" if verdict is None else "is under the table size"
    text = f"{quantity(given, 'mm²')} {name} {word}, which needs {quantity(least, 'mm²')}; the adiabatic equation decides"
    return Outcome(given, least, "mm²", None, text, decides=False, verdict=verdict)  # type: ignore[arg-type]


def check_cpc_in_fault(w: Working, case: Case) -> Outcome:
    """Check that the protective conductor survives the earth fault: by the adiabatic equation, or by the table where the energy is only bounded.

    Either way satisfies 543.1.1; the table needs no energy.
    """
    found = check_cpc(w, case)
    if found.verdict != "not_known":
        return found
    try:
        table = check_cpc_table(w.quiet(), case)
    except CoreError:
        return found
    if table.verdict == "short":
        return found
    text = f"{quantity(table.value or 0.0, 'mm²')} is enough by the table, which needs {quantity(table.limit or 0.0, 'mm²')}"
    text += "; the energy let through is only bounded, and not withstood for certain"
    return Outcome(table.value, table.limit, "mm²", None, text, verdict="meets", clause=C.CPC_TABLE)
