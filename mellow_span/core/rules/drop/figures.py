"""Volt drop per ampere and metre of each span: tabulated, or refined for the load's temperature and power factor."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from math import sqrt

from mellow_span.core.errors import OutsideTable
from mellow_span.core.model.parts import Span
from mellow_span.core.rules.capacity import spans as capacity
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.demand.loads import power_factor
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.units import MM_PER_M
from mellow_span.core.working.recorders import Working

BY_TABLE, BY_FORMULA = "table", "formula"
VARIANTS = (BY_TABLE, BY_FORMULA)


def by_formula(case: Case) -> bool:
    """Say whether the book of the case has a formula for the volt drop in place of tables."""
    return case.rules.variant("volt_drop", VARIANTS) == BY_FORMULA


def column_of(case: Case, span: Span) -> str:
    """Return the volt drop column of a span: of a circuit worked out phase by phase that of two wires; with a formula all spans are alike.

    Raises MissingInput, OutsideTable.
    """
    if by_formula(case):
        return BY_FORMULA
    return case.family.drop_column(case.method(span), 1 if case.by_phase else case.circuit.phases)


def unit_drop(w: Working, case: Case, column: str, note: str = "") -> float:
    """Return the volt drop of the cable [mV/A/m] by its table, or by the formula of a book that has one."""
    if column == BY_FORMULA:
        return formula_drop(w, case)
    return w.look("mV", case.family.drop, case.csa, column, note)


def formula_drop(w: Working, case: Case) -> float:
    """Return the volt drop of the cable [mV/A/m]: b (1000 rho1 cos phi / S + lambda sin phi), rho1 [ohm mm2/m] hot, lambda [mohm/m].

    b: 2 for line and neutral, sqrt 3 for three phases, since the drop is then a share of the voltage between lines. The power factor is that
    of the load.
    """
    rho, reactance = w.limit("ρ1", "rho1_cu"), w.limit("λ", "lambda")
    pf = power_factor(case)
    sin = sqrt(1 - pf**2)
    b = 2.0 if case.circuit.phases == 1 or case.by_phase else sqrt(3)
    terms = {"b": b, "ρ1": rho, "cosφ": pf, "S": case.csa, "λ": reactance, "sinφ": sin}
    value = b * (MM_PER_M * rho * pf / case.csa + reactance * sin)
    return w.calc(
        "mV", value, "mV/A/m", "b × (1000 ρ1 cosφ / S + λ sinφ)", terms, C.DROP_BY_TABLE, "hot conductors, the load's power factor"
    )


def ct_factor(w: Working, case: Case, span: Span, current: float) -> float:
    """Return Ct, the resistance at the temperature the load really gives, as a share of that at the highest temperature (Appendix 4, 6.1).

    Ct = (230 + tp - (Ca^2 Cg^2 - Ib^2/It^2) (tp - 30)) / (230 + tp). Ca = 1 under 30 C in air, under 20 C in the ground. Ct = 1 where
    the cable is wrapped in insulation or a rewirable fuse protects it.
    """
    if span.wrapped > 0 or case.rewirable:
        return w.given("Ct", 1.0, "", "wrapped in insulation" if span.wrapped > 0 else "rewirable fuse")
    ground = bool(case.place(span).ground)
    base = w.constant("ct_ground" if ground else "ct_ambient")
    ambient = span.ground if ground else span.ambient
    it = capacity.tabulated(w, case, case.family, case.method(span))
    ca = 1.0 if ambient < base else capacity.ambient_factor(w, case, case.family, span)
    cg = capacity.grouping_factor(w, case, span)
    tp = w.look("tp", T.K_VALUES, ("live", "copper", case.family.insulation), "start_c", "highest conductor temperature")
    offset, reference = w.limit("θ", "ct_offset"), w.limit("θ30", "ct_ambient")
    load = current / case.parallel / it
    value = (offset + tp - (ca**2 * cg**2 - load**2) * (tp - reference)) / (offset + tp)
    terms = {"θ": offset, "tp": tp, "Ca": ca, "Cg": cg, "Ib/It": load, "θ30": reference}
    return w.calc("Ct", min(1.0, value), "", "(θ + tp − (Ca² Cg² − (Ib/It)²) (tp − θ30)) / (θ + tp)", terms, C.DROP_BY_TABLE)


def refined_mv(w: Working, case: Case, span: Span, current: float, pf: float) -> float:
    """Return the refined volt drop figure of a span [mV/A/m]: Ct cos phi r + sin phi x, or Ct cos phi (mV) up to 16 mm2 (6.1, 6.2)."""
    column = column_of(case, span)
    if column == BY_FORMULA:
        # The formula has the load's power factor already, and the book no temperature factor.
        return formula_drop(w, case)
    ct = ct_factor(w, case, span, current)
    terms = {"Ct": ct, "cosφ": pf}
    if column.endswith("_z"):
        try:
            r = w.look("r", case.family.drop, case.csa, column[:-1] + "r")
            x = w.look("x", case.family.drop, case.csa, column[:-1] + "x")
        except OutsideTable:
            pass
        else:
            sin = sqrt(1 - pf**2)
            terms |= {"r": r, "sinφ": sin, "x": x}
            return w.calc("mV", ct * pf * r + sin * x, "mV/A/m", "Ct cosφ r + sinφ x", terms, C.DROP_REFINED)
    mv = w.look("mV", case.family.drop, case.csa, column)
    return w.calc("mV", ct * pf * mv, "mV/A/m", "Ct cosφ mV", {**terms, "mV": mv}, C.DROP_REFINED)


@dataclass(slots=True)
class Piece:
    """A piece of the run with one volt drop figure [mV/A/m]: its length [m] and words for the record."""

    length: float
    mv: float
    note: str


def pieces(w: Working, case: Case, current: float) -> list[Piece]:
    """Return the run as pieces with their mV/A/m; spans that share a column are one, in the worst case; refined, each span is its own."""
    if case.circuit.drop_method == "refined":
        pf = power_factor(case)
        return [
            Piece(s.length or 0.0, refined_mv(w, case, s, current, pf) / case.parallel, "refined, at the load's temperature")
            for s in case.spans
        ]
    lengths: dict[str, float] = {}
    for span in case.spans:
        column = column_of(case, span)
        lengths[column] = lengths.get(column, 0.0) + (span.length or 0.0)
    note = "worst case: hot conductor, unity power factor" if not by_formula(case) else "by the formula"
    return [Piece(length, unit_drop(w, case, c, note) / case.parallel, note) for c, length in lengths.items()]


def _electrical(w: Working, case: Case, current: float) -> list[tuple[float, float]]:
    """Return (m from the board, mV/A so far) at the edges of the spans: the run measured in what it drops per ampere."""
    pf = power_factor(case) if case.circuit.drop_method == "refined" else 1.0
    at, so_far, found = 0.0, 0.0, [(0.0, 0.0)]
    seen: dict[str, float] = {}
    for span in case.spans:
        if case.circuit.drop_method == "refined":
            mv = refined_mv(w, case, span, current, pf)
        else:
            column = column_of(case, span)
            if column not in seen:
                seen[column] = unit_drop(w, case, column, "worst case: hot conductor, unity power factor")
            mv = seen[column]
        at += span.length or 0.0
        so_far += mv / case.parallel * (span.length or 0.0)
        found.append((at, so_far))
    return found


def _at(edges: list[tuple[float, float]], place: float) -> float:
    for (x1, y1), (x2, y2) in pairwise(edges):
        if place <= x2 + 1e-9:
            return y1 + (y2 - y1) * (place - x1) / (x2 - x1)
    return edges[-1][1]
