"""Volt drop from the origin to the far point, as a share of U0 so that sub-mains and finals add."""

from __future__ import annotations

from mellow_span.core.capacity import MM_PER_M
from mellow_span.core.case import Case
from mellow_span.core.demand import ib_of
from mellow_span.core.errors import MissingInput
from mellow_span.core.figures import quantity
from mellow_span.core.results import Outcome
from mellow_span.core.working import Working

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
    return w.calc("I", (case.rating + far) / 2, "A", "(In + Ifar) / 2", {"In": case.rating, "Ifar": far}, "Appendix 15", "over L / 4")


def lengths_by_column(case: Case) -> dict[str, float]:
    """Return the length [m] of the run that each volt drop column covers; spans that share a column are one."""
    found: dict[str, float] = {}
    for span in case.spans:
        column = case.family.drop_column(case.method(span), case.circuit.phases)
        found[column] = found.get(column, 0.0) + (span.length or 0.0)
    return found


def run_drop(w: Working, case: Case) -> float:
    """Return the volts dropped in the run [V], conductors at their highest temperature (Appendix 4, 6.1)."""
    current = drop_current(w, case)
    total = 0.0
    columns = lengths_by_column(case)
    for column, length in columns.items():
        mv = w.look("mV", case.family.drop, case.csa, column, "worst case: hot conductor, unity power factor")
        formula = "mV × I × L / 4 / 1000" if case.ring else "mV × Ib × L / 1000"
        puts = {"mV": mv, "I" if case.ring else "Ib": current, "L": length}
        volts = mv * current * length / MM_PER_M / (QUARTER if case.ring else 1)
        total += w.calc("VD", volts, "V", formula, puts, "Appendix 4, 6.1")
    if len(columns) > 1:
        w.calc("VD", total, "V", "sum of the spans", {}, "Appendix 4, 6.1")
    return total


def nominal(case: Case) -> float:
    """Return the voltage the drop is a share of [V]: U0 single-phase, line to line for three phases."""
    return case.supply.u0 * (1.0 if case.circuit.phases == 1 else 3**0.5)


def run_share(w: Working, case: Case) -> float:
    """Return the drop of the run [% of its voltage]."""
    volts, u = run_drop(w, case), nominal(case)
    return w.calc("vd", 100 * volts / u, "%", "100 × VD / U", {"VD": volts, "U": u}, "525.1")


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
    return w.calc("limit", limit + more, "%", "limit + min(p,most, p × (L − 100))", puts, "Appendix 4, 6.4")


def check_volt_drop(w: Working, case: Case) -> Outcome:
    """Check the volt drop from the origin to the far point (525.1)."""
    own = run_share(w, case)
    if case.feed.drop is None:
        raise MissingInput("board", "a feed whose own volt drop is known")
    total = own
    if case.feed.stretches:
        upstream = w.given("vd,board", case.feed.drop, "%", "from the origin to the board")
        total = w.calc("vd", upstream + own, "%", "vd,board + vd", {"vd,board": upstream, "vd": own}, "525.1")
    limit = drop_limit(w, case, case.feed.length + case.length)
    left = case.supply.u0 * (1 - total / 100)
    word = "is within" if total <= limit else "is over"
    text = f"{quantity(total, '%')} {word} {quantity(limit, '%')}; {quantity(left, 'V')} left at the far point"
    return Outcome(total, limit, "%", 1 - total / limit, text)


def reach(w: Working, case: Case) -> float | None:
    """Return the longest length of this run [m] that stays within the limit, all else alike; None where the drop is nil."""
    quiet = w.quiet()
    per_m = run_share(quiet, case) / case.length
    if case.feed.drop is None or per_m <= 0:
        return None
    ahead = case.feed.length
    base = drop_limit(quiet, case, 0.0) - case.feed.drop
    table = w.rules.table("LIM")
    start, grow, most = (table.cell(key, "value").value for key in ("vd_long_from", "vd_long_per_m", "vd_long_most"))
    if (plain := base / per_m) + ahead <= start:
        return max(0.0, plain)
    if per_m > grow and (longer := (base + grow * (ahead - start)) / (per_m - grow)) + ahead <= start + most / grow:
        return max(0.0, longer)
    return max(0.0, (base + most) / per_m)


def along(case: Case, current: float, share: float, parts: int = 12) -> list[tuple[float, float]]:
    """Return points (m from the board, % dropped) along the run; a ring's as the curve its assumed load draws.

    current: from `drop_current` [A]; share: drop of the whole run [%].
    """
    if not case.ring:
        return _along_radial(case, share)
    length, rating = case.length, case.rating
    far = 2 * current - rating
    whole = rating / 4 - (rating - far) / 8
    points = []
    for i in range(parts * 2 + 1):
        x = length * i / (parts * 2)
        near = min(x, length - x)
        part = (rating / 2) * near / length - (rating - far) / 2 * (near / length) ** 2
        points.append((x, share * part / whole))
    return points


def _along_radial(case: Case, share: float) -> list[tuple[float, float]]:
    table = case.rules.table(case.family.drop)
    parts, total = [], 0.0
    for span in case.spans:
        mv = table.cell(case.csa, case.family.drop_column(case.method(span), case.circuit.phases)).value
        total += mv * (span.length or 0.0)
        parts.append((span.length or 0.0, total))
    at, points = 0.0, [(0.0, 0.0)]
    for length, so_far in parts:
        at += length
        points.append((at, share * so_far / total))
    return points
