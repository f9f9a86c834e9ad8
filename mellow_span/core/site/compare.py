"""Readings on site: what the design predicts at the temperature of the reading, and what a reading that differs is likely to mean.

A reading is compared with its prediction, and for Zs with 80 % of the permitted maximum, since it is taken on cold conductors.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from math import sqrt
from typing import Literal

from mellow_span.core.design.check import NOTHING, feed_to, lay_out
from mellow_span.core.errors import CoreError, InputError
from mellow_span.core.figures import quantity
from mellow_span.core.model.parts import Installation
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.faults.cpc import is_enclosure
from mellow_span.core.rules.faults.loop import RING_SHARE, feed_loop, largest_loop, loop_of, residuals, run_cold
from mellow_span.core.rules.stretches import at_end
from mellow_span.core.rulesets.vocabulary import C
from mellow_span.core.site.entries import Entry
from mellow_span.core.site.readings import Reading, taken
from mellow_span.core.working.recorders import Keeping, Working
from mellow_span.core.working.steps import Step

Found = Literal["within", "above", "below", "not_known"]
REFERENCE = 20.0


@dataclass(slots=True)
class Comparison:
    """One quantity of a circuit: predicted at 20 C and at the temperature of the reading, the reading, what it says, and likely causes.

    limit: the most a reading may show, where there is one; over: whether it shows more.
    """

    id: str
    title: str
    unit: str
    cold: float | None
    predicted: float | None
    reading: float | None
    found: Found
    text: str
    causes: tuple[str, ...] = ()
    limit: float | None = None
    over: bool = False
    steps: tuple[Step, ...] = ()


LOOSE = "a loose or dirty termination along the way"
LONGER, SHORTER = "a longer run than entered", "a shorter run than entered"
THINNER, THICKER = "a thinner conductor than entered", "a thicker conductor than entered"
WARMER, COLDER = "conductors warmer than the temperature entered", "conductors colder than the temperature entered"
PARALLEL = "a parallel path through bonding, pipework or armour"
CAUSES: dict[str, tuple[tuple[str, ...], tuple[str, ...]]] = {
    # quantity: (causes when above, causes when below), likeliest first
    "r1": ((LOOSE, LONGER, THINNER, WARMER), ("the ring is bridged part of the way round", SHORTER, THICKER)),
    "rn": ((LOOSE, LONGER, THINNER, WARMER), ("the ring is bridged part of the way round", SHORTER, THICKER)),
    "r2": ((LOOSE, "a cpc of a smaller size than entered", LONGER), (PARALLEL, "the ring is bridged part of the way round", SHORTER)),
    "r1r2": ((LOOSE, LONGER, THINNER, WARMER), (PARALLEL, SHORTER, THICKER, COLDER)),
    "zs": ((LOOSE, LONGER, "Ze at the origin higher than entered"), (PARALLEL, "Ze at the origin lower than entered", SHORTER)),
    "ipf": (("the supply is stronger than entered", SHORTER, THICKER), (LOOSE, "the supply is weaker than entered", LONGER)),
}


def temperature_factor(w: Working, temperature: float) -> float:
    """Return the factor from 20 C to a conductor temperature [C]: 1 + 0.004 (t - 20) (Appendix 3).

    >>> from mellow_span.core.rulesets import rule_set
    >>> from mellow_span.core.working.recorders import Silent
    >>> round(temperature_factor(Silent(rule_set("bs7671")), 10.0), 6)
    0.96
    """
    alpha = w.limit("α", "copper_alpha")
    terms = {"α": alpha, "θ": temperature}
    return w.calc("Fθ", 1 + alpha * (temperature - REFERENCE), "", "1 + α × (θ − 20)", terms, C.DEVICE_LIMITS)


def predictions(w: Working, case: Case) -> dict[str, float]:
    """Return the predicted figures of a circuit at 20 C [ohm, A]: r1, rn, r2 of a ring, R1+R2, Zs at the far point, Ipf there."""
    loop = loop_of(w, case)
    found = {}
    if case.ring:
        ends = RING_SHARE
        found = {"r1": loop.r1_cold * ends, "rn": loop.r1_cold * ends}
        if not is_enclosure(case):
            # A metal enclosure has no two ends to measure between.
            found["r2"] = loop.r2_cold * ends
    r1, r2, x = run_cold(loop, case)
    found["r1r2"] = sqrt((r1 + r2) ** 2 + x**2)
    feed = case.feed
    if feed.ze_cold is not None or feed.ze_hot is not None:
        found["zs"] = (feed.ze_cold if feed.ze_cold is not None else feed_loop(case)) + loop.cold
    if feed.ln_cold is not None:
        found["ipf"] = case.supply.u0 / (feed.ln_cold + loop.ln_cold)
    return found


TITLES = {
    "r1": "r1, line end to end",
    "rn": "rn, neutral end to end",
    "r2": "r2, cpc end to end",
    "r1r2": "R1 + R2",
    "zs": "Zs",
    "ipf": "Ipf",
}


def verify(job: Installation, circuit_id: str, entries: Iterable[Entry] = (), temperature: float | None = None) -> tuple[Comparison, ...]:
    """Compare the readings of a circuit in its log with what its design predicts at their temperature [C].

    Of several points the worst of the last readings counts. temperature: instead of that written down with them. Raises InputError for an
    unknown circuit.
    """
    plan = lay_out(job)
    circuit = next((c for c in plan.job.circuits if c.id == circuit_id), None)
    if circuit is None or plan.refused:
        raise InputError("circuit", circuit_id, "a circuit of this job")
    case = at_end(Case(plan.rules, job.supply, circuit, feed_to(plan, circuit.board), plan.around.get(circuit_id, NOTHING)))
    w = Keeping(plan.rules)
    read = _read(entries, circuit_id)
    try:
        cold = predictions(w.quiet(), case)
        at_board = cold["zs"] - cold["r1r2"] if "zs" in cold else 0.0
    except CoreError as refusal:
        loop = read.get("r1r2")
        return (Comparison("r1r2", TITLES["r1r2"], "Ω", None, None, loop.value if loop else None, "not_known", str(refusal)),)
    found = [_compare(w, case, name, cold, at_board, read.get(name), temperature) for name in TITLES if name in cold]
    return tuple(_told_together(found))


def _read(entries: Iterable[Entry], circuit_id: str) -> dict[str, Reading]:
    """The reading of each quantity that counts: the last one taken at each point, and of those the worst."""
    last: dict[tuple[str, str], Reading] = {}
    for e in taken(entries):
        if e.kind == "reading" and e.subject == circuit_id and e.data.quantity in TITLES and e.data.value is not None:
            last[e.data.quantity, e.data.point] = e.data
    found: dict[str, Reading] = {}
    for (name, _), r in last.items():
        worse = name not in found or (r.value or 0.0) * (-1 if name == "ipf" else 1) > (found[name].value or 0.0) * (
            -1 if name == "ipf" else 1
        )
        found[name] = r if worse else found[name]
    return found


def _compare(
    w: Working, case: Case, name: str, cold: dict[str, float], at_board: float, read: Reading | None, temperature: float | None
) -> Comparison:
    value, reading = cold[name], read.value if read is not None else None
    degrees = temperature if temperature is not None else read.temperature if read is not None else REFERENCE
    factor = temperature_factor(w, degrees)
    if name == "zs":
        terms = {"Zs,board": at_board, "R1+R2": cold["r1r2"], "Fθ": factor}
        predicted = w.calc("Zs", at_board + cold["r1r2"] * factor, "Ω", "Zs,board + (R1+R2) × Fθ", terms, C.DEVICE_LIMITS)
    elif name == "ipf":
        # The largest fault flows through cold conductors; it is not corrected.
        predicted = value
    else:
        predicted = w.calc(name, value * factor, "Ω", "R20 × Fθ", {"R20": value, "Fθ": factor}, C.DEVICE_LIMITS)
    unit = "A" if name == "ipf" else "Ω"
    limit, over = _limit(w, case, name, reading)
    steps, _ = w.take()
    said, text = _judge(w, predicted, reading, unit)
    causes: tuple[str, ...] = ()
    if said in ("above", "below"):
        causes = CAUSES[name][0 if said == "above" else 1]
    if over:
        text += f"; over the {quantity(limit or 0, unit)} a reading may show"
    return Comparison(name, TITLES[name], unit, value, predicted, reading, said, text, causes, limit, over, steps)


def _limit(w: Working, case: Case, name: str, reading: float | None) -> tuple[float | None, bool]:
    if name != "zs":
        return None, False
    _, limit = judged_limit(w, case)
    return limit, limit is not None and reading is not None and reading > limit


def judged_limit(w: Working, case: Case) -> tuple[float | None, float | None]:
    """Return the largest permitted Zs [ohm] and what a reading on cold conductors may show, 80 % of it; through an electrode both are the RCD's."""
    try:
        if case.feed.earthing == "TT":
            limit = _electrode_limit(w, case)
            return limit, limit
        share = w.limit("share", "reading_share") if w.rules.has("reading_share") else None
        most = largest_loop(w, case)
    except CoreError:
        return None, None
    if share is None:
        return most, None
    return most, w.calc(
        "80 %", share * most, "Ω", "share × Zs,max", {"share": share, "Zs,max": most}, C.DEVICE_LIMITS, "for a reading at ambient"
    )


def _electrode_limit(w: Working, case: Case) -> float | None:
    """Through an electrode the RCD says what a reading may show, UL / IΔn: the 80 % of a breaker means nothing there (411.5.3)."""
    idn = min((r.idn for r in residuals(case)), default=None)
    if idn is None:
        return None
    volts = w.limit("UL", "touch_voltage")
    return w.calc("Zs,max", volts / idn, "Ω", "UL / IΔn", {"UL": volts, "IΔn": idn}, C.RCD_TOUCH_VOLTAGE, "by the RCD")


def _judge(w: Working, predicted: float, reading: float | None, unit: str) -> tuple[Found, str]:
    """Say whether a reading lies within what instrument and length allow of its prediction: 10 %, or 0.03 ohm where that is more."""
    told = f"predicted {quantity(predicted, unit)}"
    if reading is None:
        return "not_known", f"{told}; not tested yet"
    off = max(w.constant("reading_share_off") * predicted, w.constant("reading_floor") if unit == "Ω" else 0.0)
    if abs(reading - predicted) <= off + 1e-9:
        return "within", f"{quantity(reading, unit)} measured, {told}"
    word: Found = "above" if reading > predicted else "below"
    return word, f"{quantity(reading, unit)} measured, {word} the {told}"


def _told_together(found: list[Comparison]) -> list[Comparison]:
    """Where one reading explains another, put that cause first: a good R1+R2 under a high Zs points upstream, a poor neutral at the neutral."""
    by = {c.id: c for c in found}
    zs, loop = by.get("zs"), by.get("r1r2")
    if zs and loop and zs.found == "above":
        if loop.found == "within":
            zs.causes = ("the earth path before this board: R1 + R2 is as predicted", "Ze at the origin higher than entered", LOOSE)
        elif loop.found == "above":
            zs.causes = ("the same cause as the high R1 + R2", *zs.causes)
    r1, rn = by.get("r1"), by.get("rn")
    if r1 and rn and rn.found == "above" and r1.found == "within":
        rn.causes = ("a loose neutral: the line is as predicted", *rn.causes)
    return found
