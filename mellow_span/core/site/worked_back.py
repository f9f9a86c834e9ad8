"""A length or a size that nobody entered, worked back from a reading: told as worked back, and never put into the design by itself."""

from __future__ import annotations

from collections.abc import Sequence

from mellow_span.core.adding import added
from mellow_span.core.errors import CoreError
from mellow_span.core.figures import quantity
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.faults.cpc import cpc_parts, joined
from mellow_span.core.rules.faults.loop import RING_SHARE
from mellow_span.core.rulesets.vocabulary import T
from mellow_span.core.site.compare import temperature_factor
from mellow_span.core.site.readings import SiteTest
from mellow_span.core.units import MM_PER_M
from mellow_span.core.working.recorders import Working

# A size is named where its resistance lies so near to what was read.
NEAR = 0.2


def worked_back(w: Working, case: Case, tests: Sequence[SiteTest]) -> str:
    """Return the length by the size, or the size by the length, from the largest R1 + R2 that was read; empty where nothing is to be worked back."""
    run = case.circuit.run
    length = added(s.length or 0.0 for s in run.spans)
    whole = bool(run.spans) and all(s.length is not None for s in run.spans)
    loop = _read(w, case, tests)
    if not loop or (whole and run.cable.csa is not None):
        return ""
    # At the middle of a ring both legs lie beside each other, each half as long.
    share = 1 / RING_SHARE if case.ring else 1.0
    if run.cable.csa is not None:
        each = _each(w.quiet(), case)
        if each is None:
            return ""
        around = " round the ring" if case.ring else ""
        told = f"Worked back from R1 + R2 of {quantity(loop, 'Ω')}: about {quantity(round(loop / each / share), 'm')} of run{around}"
        return f"{told} on {quantity(case.csa, 'mm²')}. The length is not entered."
    if not whole or length <= 0:
        return ""
    return _size(case, loop / length / share, loop, length)


def _read(w: Working, case: Case, tests: Sequence[SiteTest]) -> float | None:
    """The largest R1 + R2 that was last read at any point, at 20 C [ohm]; of a Zs what is beside the loop at the board, where that is known."""
    found, at_board = [], case.feed.ze_cold
    for t in tests:
        r = t.rows[-1].reading if t.rows else None
        if r is None or r.value is None or r.over:
            continue
        cold = 1 / temperature_factor(w.quiet(), r.temperature)
        if t.quantity in ("r1r2", "cross_le"):
            found.append(r.value * cold)
        elif t.quantity == "zs" and at_board is not None and r.value > at_board:
            found.append((r.value - at_board) * cold)
    return max(found, default=None)


def _each(w: Working, case: Case) -> float | None:
    """R1 + R2 of a metre [ohm]; None where it is not known."""
    try:
        line = w.look("r1", T.RESISTANCE, case.csa, "cu_mohm_per_m_20C") / case.parallel
        return (line + joined(cpc_parts(w, case), hot=False)) / MM_PER_M
    except CoreError:
        return None


def _size(case: Case, each: float, loop: float, length: float) -> str:
    table = case.rules.by_name[T.RESISTANCE]
    by_csa = {float(row.key[0]): float(row.cells["cu_mohm_per_m_20C"]) / MM_PER_M for row in table.rows}
    family = case.rules.families.get(case.circuit.run.cable.family or "")
    pairs = family.pairs if family is not None else {}
    sums = {s: r + by_csa[pairs.get(s, s)] for s, r in by_csa.items() if not pairs or s in pairs}
    best = min(sums, key=lambda s: abs(sums[s] / each - 1))
    told = f"Worked back from R1 + R2 of {quantity(loop, 'Ω')} over {quantity(length, 'm')}: "
    if abs(sums[best] / each - 1) > NEAR:
        return told + "no usual size comes near it. The size is not entered."
    beside = f" with {quantity(pairs.get(best, best), 'mm²')} cpc" if pairs else " with a cpc alike"
    return told + f"nearest to {quantity(best, 'mm²')}{beside}. The size is not entered: look at the cable."
