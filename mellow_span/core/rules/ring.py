"""Ring finals: what makes a circuit one, its legs by the metres of its points, its spurs (433.1.204, Appendix 15)."""

from __future__ import annotations

from mellow_span.core.adding import added
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import Outcome, Verdict
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.demand.loads import load_current
from mellow_span.core.rules.drop.points import taps
from mellow_span.core.rulesets.vocabulary import C
from mellow_span.core.working.recorders import Working

# From this a fixed load usually has a circuit of its own [W].
FIXED_ON_RING = 2000


def check_ring(w: Working, case: Case) -> Outcome:
    """Check what makes a ring final one: a device of 30 or 32 A, line conductors of at least 2.5 mm2, spurs as allowed (433.1.204)."""
    low, high = w.limit("In,min", "ring_min_in"), w.limit("In,max", "ring_max_in")
    least = w.limit("S,min", "ring_min_csa")
    if not low <= case.rating <= high:
        text = f"a ring final is protected at {low:g} or {high:g} A, not {quantity(case.rating, 'A')}"
        return Outcome(case.rating, high, "A", None, text, verdict="short")
    heavy = heavier_leg(w, case)
    if heavy is not None:
        iz = min(case.span_iz.values(), default=None)
        if iz is not None and heavy > iz * (1 + 1e-9):
            text = f"the heavier leg of the ring carries {quantity(heavy, 'A')} by the metres of its points, its Iz is {quantity(iz, 'A')}"
            return Outcome(heavy, iz, "A", None, text, verdict="short")
    fused = w.constant("household_outlet")
    over = [
        load.name or "a spur" for load in case.circuit.loads
        if load.spur == "fused" and load_current(w.quiet(), case.supply, case.circuit, load) > fused * (1 + 1e-9)
    ]  # fmt: skip
    if over:
        text = f"a fused spur feeds at most {quantity(fused, 'A')}: {', '.join(over)}"
        return Outcome(case.rating, high, "A", None, text, verdict="short")
    crowded = [load.name or "a spur" for load in case.circuit.loads if load.spur == "unfused" and load.quantity > 1]
    if crowded:
        text = f"an unfused spur feeds one single or one double socket-outlet, not more: {', '.join(crowded)}"
        return Outcome(case.csa, least, "mm²", None, text, verdict="short")
    verdict: Verdict | None = None if case.csa >= least else "short"
    word = "is enough" if verdict is None else "is too small"
    text = f"{quantity(case.csa, 'mm²')} {word} for a ring on {quantity(case.rating, 'A')}, at least {quantity(least, 'mm²')}"
    fixed = [
        x.name or x.kind.replace("_", " ")
        for x in case.circuit.loads
        if x.kind != "sockets" and x.basis == "W" and (x.amount or 0) > FIXED_ON_RING
    ]
    if verdict is None and fixed:
        verdict = "close"
        text += f"; a circuit of its own is usual for {', '.join(fixed)}"
    return Outcome(case.csa, least, "mm²", None, text, verdict=verdict)


def heavier_leg(w: Working, case: Case) -> float | None:
    """Return the current of the heavier leg of a ring [A] from the metres of its points: the sum of I (1 - x / L); None without points.

    The legs share by their lengths (433.1.204); a point at x from one end of a ring of L takes I (L - x) / L from that end.
    """
    if not any(load.at is not None for load in case.circuit.loads):
        return None
    points, length = taps(w.quiet(), case), case.length
    total = added(current for _, current in points)
    one = added(current * (1 - min(at, length) / length) for at, current in points)
    terms = {"ΣI": total, "I,one": one}
    return w.calc(
        "I,leg", max(one, total - one), "A", "max(Σ I (1 − x/L), Σ I x/L)", terms, C.RING_FINAL, "each leg by the metres of its points"
    )
