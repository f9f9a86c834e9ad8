"""Volt drop from the origin to the far point, as a share of U0 so that sub-mains and finals add.

Worst case: conductors at their highest temperature, unity power factor. Refined: at the temperature the real load gives them, with the
load's power factor. Where loads are taken off along the run, the current falls from one to the next.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from math import sqrt

from mellow_span.core.errors import InputError, MissingInput, OutsideTable
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import Outcome
from mellow_span.core.model.parts import Span
from mellow_span.core.rules.capacity import spans as capacity
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.demand.demand import ib_of, load_current, power_factor, present
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.units import MM_PER_M
from mellow_span.core.working.recorders import Working

QUARTER = 4
LIMIT_KEYS = {
    (True, False): "vd_lighting",
    (False, False): "vd_other",
    (True, True): "vd_lighting_private",
    (False, True): "vd_other_private",
}


def drop_current(w: Working, case: Case) -> float:
    """Return the current that drops volts [A]: Ib, or for a ring 20 A at the far point with the rest spread evenly.

    The ring's usual assumption is worth (In + 20) / 2 over a quarter of its length: 26 A at 32 A, 25 A at 30 A.
    """
    if not case.ring:
        return w.given("Ib", ib_of(w, case), "A", "design current")
    far = w.limit("Ifar", "ring_far_load")
    return w.calc("I", (case.rating + far) / 2, "A", "(In + Ifar) / 2", {"In": case.rating, "Ifar": far}, C.RING_LOADING, "over L / 4")


def column_of(case: Case, span: Span) -> str:
    """Return the volt drop column of a span. Raises MissingInput, OutsideTable."""
    return case.family.drop_column(case.method(span), case.circuit.phases)


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
    it = capacity.tabulated(w, case, case.method(span))
    ca = 1.0 if ambient < base else capacity.ambient_factor(w, case, span)
    cg = capacity.grouping_factor(w, case, span)
    tp = w.look("tp", T.K_VALUES, ("live", "copper", case.family.insulation), "start_c", "highest conductor temperature")
    offset, reference = w.limit("θ", "ct_offset"), w.limit("θ30", "ct_ambient")
    load = current / case.parallel / it
    value = (offset + tp - (ca**2 * cg**2 - load**2) * (tp - reference)) / (offset + tp)
    puts = {"θ": offset, "tp": tp, "Ca": ca, "Cg": cg, "Ib/It": load, "θ30": reference}
    return w.calc("Ct", min(1.0, value), "", "(θ + tp − (Ca² Cg² − (Ib/It)²) (tp − θ30)) / (θ + tp)", puts, C.DROP_BY_TABLE)


def refined_mv(w: Working, case: Case, span: Span, current: float, pf: float) -> float:
    """Return the refined volt drop figure of a span [mV/A/m]: Ct cos phi r + sin phi x, or Ct cos phi (mV) up to 16 mm2 (6.1, 6.2)."""
    ct = ct_factor(w, case, span, current)
    column = column_of(case, span)
    puts = {"Ct": ct, "cosφ": pf}
    if column.endswith("_z"):
        try:
            r = w.look("r", case.family.drop, case.csa, column[:-1] + "r")
            x = w.look("x", case.family.drop, case.csa, column[:-1] + "x")
        except OutsideTable:
            pass
        else:
            sin = sqrt(1 - pf**2)
            puts |= {"r": r, "sinφ": sin, "x": x}
            return w.calc("mV", ct * pf * r + sin * x, "mV/A/m", "Ct cosφ r + sinφ x", puts, C.DROP_REFINED)
    mv = w.look("mV", case.family.drop, case.csa, column)
    return w.calc("mV", ct * pf * mv, "mV/A/m", "Ct cosφ mV", {**puts, "mV": mv}, C.DROP_REFINED)


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
    note = "worst case: hot conductor, unity power factor"
    return [Piece(length, w.look("mV", case.family.drop, case.csa, c, note) / case.parallel, note) for c, length in lengths.items()]


def run_drop(w: Working, case: Case) -> float:
    """Return the volts dropped in the run [V] (Appendix 4, 6.1)."""
    if any(load.at is not None for load in case.circuit.loads):
        return _ring_exact(w, case) if case.ring else _along_legs(w, case)
    current = drop_current(w, case)
    total = 0.0
    parts = pieces(w, case, current)
    for piece in parts:
        formula = "mV × I × L / 4 / 1000" if case.ring else "mV × Ib × L / 1000"
        puts = {"mV": piece.mv, "I" if case.ring else "Ib": current, "L": piece.length}
        volts = piece.mv * current * piece.length / MM_PER_M / (QUARTER if case.ring else 1)
        total += w.calc("VD", volts, "V", formula, puts, C.DROP_BY_TABLE)
    if len(parts) > 1:
        w.calc("VD", total, "V", "sum of the spans", {}, C.DROP_BY_TABLE)
    return total


def taps(w: Working, case: Case) -> list[tuple[float, float]]:
    """Return (m from the board, A) of each load line that stands now, in order; one without a place is at the far point.

    Raises InputError for a place beyond the run.
    """
    quiet, found = w.quiet(), []
    for load in present(case.circuit):
        at = case.length if load.at is None else load.at
        if at > case.length + 1e-9:
            raise InputError(f"load.{load.id}.at", load.at, f"at most the length of the run, {case.length:g} m")
        found.append((at, load_current(quiet, case.supply, case.circuit, load)))
    whole = sum(current for _, current in found)
    if case.circuit.diversified and whole:
        share = ib_of(w, case) / whole
        found = [(at, current * share) for at, current in found]
    return sorted(found)


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
                seen[column] = w.look("mV", case.family.drop, case.csa, column, "worst case: hot conductor, unity power factor")
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


def _along_legs(w: Working, case: Case) -> float:
    """Sum over the legs of a multi-point radial: the current still carried times the leg (Appendix 4, 6.1); Ib over the whole length beside."""
    points = taps(w, case)
    whole = sum(current for _, current in points)
    edges = _electrical(w, case, whole)
    total, before, left = 0.0, 0.0, whole
    for at, current in points:
        here = _at(edges, at)
        puts = {"ΣmV": here - before, "I": left}
        total += w.calc("VD", (here - before) * left / MM_PER_M, "V", "ΣmV × I / 1000", puts, C.DROP_BY_TABLE, f"leg to {at:g} m")
        before, left = here, left - current
    simple = whole * edges[-1][1] / MM_PER_M
    w.calc(
        "VD", simple, "V", "ΣmV × Ib / 1000", {"ΣmV": edges[-1][1], "Ib": whole}, C.DROP_BY_TABLE, "for comparison: all at the far point"
    )
    return w.calc("VD", total, "V", "sum of the legs", {}, C.DROP_BY_TABLE)


def ring_drop(points: list[tuple[float, float]], whole: float) -> tuple[float, float]:
    """Return the largest drop of a two-ended ring, in (unit of place) x A, and the place where it is.

    points: (place, current [A]) with place measured along the ring in any unit proportional to what it drops per ampere; whole: both ends'
    distance. End A carries sum(I (1 - x/whole)); the drop is largest where the current from A changes sign.

    >>> ring_drop([(50, 20)], 100)
    (500.0, 50)
    """
    from_a = sum(current * (1 - x / whole) for x, current in points)
    drop, best, where, before = 0.0, 0.0, 0.0, 0.0
    for x, current in sorted(points):
        drop += from_a * (x - before)
        if drop > best:
            best, where = drop, x
        from_a, before = from_a - current, x
    return best, where


def _ring_exact(w: Working, case: Case) -> float:
    """Return the drop at the worst point of a ring fed from both ends, from the given points."""
    points = taps(w, case)
    edges = _electrical(w, case, sum(current for _, current in points))
    found, _ = ring_drop([(_at(edges, at), current) for at, current in points], edges[-1][1])
    puts = {f"I{i}": current for i, (_, current) in enumerate(points, 1)}
    return w.calc("VD", found / MM_PER_M, "V", "largest over the points, fed from both ends", puts, C.DROP_BY_TABLE, "ring from its points")


def nominal(case: Case) -> float:
    """Return the voltage the drop is a share of [V]: U0 single-phase, line to line for three phases."""
    return case.supply.u0 * (1.0 if case.circuit.phases == 1 else 3**0.5)


def run_share(w: Working, case: Case) -> float:
    """Return the drop of the run [% of its voltage]; worked out once for a circuit where no steps are kept."""
    if not w.keep and "drop" in case.memo:
        known: float = case.memo["drop"]
        return known
    volts, u = run_drop(w, case), nominal(case)
    found = w.calc("vd", 100 * volts / u, "%", "100 × VD / U", {"VD": volts, "U": u}, C.VOLT_DROP)
    case.memo["drop"] = found
    return found


def drop_limit(w: Working, case: Case, length: float) -> float:
    """Return the limit [%] from origin to far point, with the growth for chains over 100 m (Appendix 4, 6.4).

    length: whole chain [m].
    """
    key = LIMIT_KEYS[(case.lighting, case.supply.private)]
    limit = w.limit("limit", key, "lighting" if case.lighting else "other uses")
    start = w.constant("vd_long_from")
    if length <= start:
        return limit
    per, most = w.limit("p", "vd_long_per_m"), w.limit("p,most", "vd_long_most")
    more = min(most, per * (length - start))
    puts = {"limit": limit, "p": per, "L": length, "p,most": most}
    return w.calc("limit", limit + more, "%", "limit + min(p,most, p × (L − 100))", puts, C.DROP_LIMIT)


def check_volt_drop(w: Working, case: Case) -> Outcome:
    """Check the volt drop from the origin to the far point (525.1); on a private supply the final circuit alone within 3 or 5 % too."""
    own = run_share(w, case)
    if case.feed.drop is None:
        raise MissingInput("board", "a feed whose own volt drop is known")
    total = own
    if case.feed.length > 0:
        upstream = w.given("vd,board", case.feed.drop, "%", "from the origin to the board")
        total = w.calc("vd", upstream + own, "%", "vd,board + vd", {"vd,board": upstream, "vd": own}, C.VOLT_DROP)
    limit = drop_limit(w, case, case.feed.length + case.length)
    left = case.supply.u0 * (1 - total / 100)
    word = "is within" if total <= limit else "is over"
    how = ", refined for the real load" if case.circuit.drop_method == "refined" else ""
    text = f"{quantity(total, '%')} {word} {quantity(limit, '%')}{how}; {quantity(left, 'V')} left at the far point"
    found = Outcome(total, limit, "%", 1 - total / limit, text)
    if case.supply.private and not case.circuit.feeds:
        alone = w.limit("limit,final", LIMIT_KEYS[(case.lighting, False)], "the final circuit alone, private supply")
        if 1 - own / alone < (found.margin or 0.0):
            word = "is within" if own <= alone else "is over"
            text = f"the final circuit alone: {quantity(own, '%')} {word} {quantity(alone, '%')}{how}; {quantity(left, 'V')} left"
            return Outcome(own, alone, "%", 1 - own / alone, text)
    return found


def reach(w: Working, case: Case) -> float | None:
    """Return the longest length of this run [m] that stays within the limit, all else alike; None where the drop is nil."""
    quiet = w.quiet()
    per_m = run_share(quiet, case) / case.length
    if case.feed.drop is None or per_m <= 0:
        return None
    ahead = case.feed.length
    base = drop_limit(quiet, case, 0.0) - case.feed.drop
    table = w.rules.table(T.LIMITS)
    start, grow, most = (table.cell(key, "value").value for key in ("vd_long_from", "vd_long_per_m", "vd_long_most"))
    found = _chain_reach(per_m, ahead, base, start, grow, most)
    if case.supply.private and not case.circuit.feeds:
        found = min(found, w.constant(LIMIT_KEYS[(case.lighting, False)]) / per_m)
    return found


def _chain_reach(per_m: float, ahead: float, base: float, start: float, grow: float, most: float) -> float:
    if (plain := base / per_m) + ahead <= start:
        return max(0.0, plain)
    if per_m > grow and (longer := (base + grow * (ahead - start)) / (per_m - grow)) + ahead <= start + most / grow:
        return max(0.0, longer)
    return max(0.0, (base + most) / per_m)


def along(w: Working, case: Case, share: float, parts: int = 12) -> list[tuple[float, float]]:
    """Return points (m from the board, % dropped) along the run; a ring's as the curve its load draws.

    share: drop of the whole run [%].
    """
    if any(load.at is not None for load in case.circuit.loads):
        return _along_taps(w, case)
    if not case.ring:
        return _along_radial(w, case, share)
    length, rating = case.length, case.rating
    far = w.constant("ring_far_load")
    whole = rating / 4 - (rating - far) / 8
    points = []
    for i in range(parts * 2 + 1):
        x = length * i / (parts * 2)
        near = min(x, length - x)
        part = (rating / 2) * near / length - (rating - far) / 2 * (near / length) ** 2
        points.append((x, share * part / whole))
    return points


def _along_radial(w: Working, case: Case, share: float) -> list[tuple[float, float]]:
    if case.circuit.drop_method == "worst" and len({column_of(case, span) for span in case.spans}) == 1:
        # One figure for the whole run: the drop grows with the length alone.
        at, points = 0.0, [(0.0, 0.0)]
        for span in case.spans:
            at += span.length or 0.0
            points.append((at, share * at / case.length))
        return points
    edges = _electrical(w.quiet(), case, ib_of(w, case))
    whole = edges[-1][1]
    return [(at, share * so_far / whole) for at, so_far in edges]


def _along_taps(w: Working, case: Case) -> list[tuple[float, float]]:
    """Points where loads are taken off and where spans meet: the drop is straight between them."""
    points = taps(w, case)
    total = sum(current for _, current in points)
    edges = _electrical(w.quiet(), case, total)
    whole, u = edges[-1][1], nominal(case)
    carried = sum(i * (1 - _at(edges, at) / whole) for at, i in points) if case.ring else total
    places = sorted({0.0, *(at for at, _ in edges), *(at for at, _ in points)})
    found, drop, before = [(0.0, 0.0)], 0.0, 0.0
    for place in places[1:]:
        here = _at(edges, place)
        drop += carried * (here - before) / MM_PER_M
        found.append((place, 100 * drop / u))
        carried -= sum(i for at, i in points if at == place)
        before = here
    return found
