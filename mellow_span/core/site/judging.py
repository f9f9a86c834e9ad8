"""What a single reading says beside its prediction and its limits."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from mellow_span.core.figures import figure, quantity
from mellow_span.core.site.compare import temperature_factor
from mellow_span.core.site.entries import Entry
from mellow_span.core.site.network import Network, core_alone, shown
from mellow_span.core.site.readings import FITTED, INSULATION, YES_NO, Found, Quantity, Reading, Row, SiteTest
from mellow_span.core.working.recorders import Working

# Of a reading whose limit the book of the job does not have.
NO_LIMIT = "its limit is not known in this rule set"
# Of one that nothing in the job says a limit of.
NONE_KNOWN = "no limit known"
UNLISTED, UNSAID = "a point the design does not have", "point not written down"
# Of R1 + R2 where the loop at the board is not known: see limits.py.
ALONE = "Zs limit alone, Ze not known"
# A Ze that was assumed is of a like size up to so much more of it.
LIKE = 0.5
OFF: tuple[Found, ...] = ("above", "below", "short")


def warmed(n: Network, factor: float) -> Network:
    """Return a circuit with its conductors at another temperature, by the factor of their resistance."""
    core = None if n.core is None else n.core * factor
    return replace(n, line=n.line * factor, neutral=n.neutral * factor, cpc=n.cpc * factor, core=core)


@dataclass(frozen=True, slots=True)
class Known:
    """What is known beside a test: the circuit as an instrument sees it; ze: the part of the loop at its board that is assumed alone [ohm]."""

    n: Network | None = None
    ze: float | None = None


def judge(w: Working, test: SiteTest, mine: Sequence[Entry], known: Known) -> None:
    """Put readings to the test they are of, in the order in which they were taken; the last one counts."""
    for e in mine:
        found, text = _said(w, test, e.data, known)
        test.rows.append(Row(e.id, e.data, e.by, e.at, found in OFF, e.clock))
        test.found, test.text = found, text if test.listed else f"{UNLISTED if e.data.point else UNSAID}; {text}"
    if not mine:
        test.text = _expected(test)


def _expected(test: SiteTest) -> str:
    if test.quantity == "rcd_half":
        return "no trip"
    if test.quantity in YES_NO or not (test.predicted is not None or limited(test)):
        return "" if test.quantity in YES_NO else NO_LIMIT if test.quantity in (*INSULATION, "rcd_1", "rcd_5") else NONE_KNOWN
    told = [f"{quantity(test.predicted, test.unit)} is predicted at 20 °C"] if test.predicted is not None else []
    return "; ".join([*told, *([allowed(test)] if limited(test) else [])])


def limited(test: SiteTest) -> bool:
    """Whether there is anything that a reading of a test is held to beside its prediction."""
    return test.least is not None or test.most is not None or test.fine is not None


def allowed(test: SiteTest) -> str:
    """Both limits of a test in words: what a reading may show, and the full one."""
    if test.least is not None and test.most is not None:
        return f"{figure(test.least)} to {figure(test.most)} {test.unit}"
    if test.least is not None:
        return f"at least {figure(test.least)} {test.unit}" + (f" at {figure(test.volts)} V" if test.volts is not None else "")
    if test.fine is not None and test.most is not None and test.fine < test.most:
        return f"max measured {quantity(test.fine, test.unit)} (80 %), full limit {quantity(test.most, test.unit)}"
    return f"at most {quantity(test.most if test.most is not None else test.fine or 0.0, test.unit)}"


def _said(w: Working, test: SiteTest, r: Reading, known: Known) -> tuple[Found, str]:
    """What one reading says."""
    if test.quantity in YES_NO:
        return ("meets", "correct") if r.ok else ("short", "not correct")
    if test.quantity in ("rcd_half", "rcd_1", "rcd_5"):
        return said_of_rcd(test, r)
    if test.quantity in INSULATION:
        return insulated(test, r)
    if r.tripped:
        return "short", "the RCD tripped during the test: earth leakage, or the neutral of another circuit"
    if r.over or r.value is None:
        return "short", past_range(test)
    over = over_limit(test, r.value)
    if test.predicted is None or known.n is None:
        told = f"{quantity(r.value, test.unit)} measured"
        return ("short", f"{told}; {over}") if over else without_prediction(test, told)
    factor = temperature_factor(w.quiet(), r.temperature)
    warm = warmed(known.n, factor)
    expected = test.predicted if test.quantity == "ipf" else shown(warm, test.quantity, test.at if test.at is not None else known.n.length)
    found, text = _beside(w, r.value, expected, test.unit)
    alone = without_armour(w, warm, test.quantity, test.at, r.value)
    if alone is not None:
        found, text = (
            "within",
            f"{quantity(r.value, test.unit)} measured, {quantity(alone, test.unit)} predicted with the armour disconnected",
        )
    if over:
        return "short", f"{text}; {over}"
    if found in ("above", "below") and _of_the_supply(test, r.value, expected, known):
        found, text = "within", f"{text.rpartition(':')[0]} with Ze assumed: the measured value replaces it"
    return found, f"{text}; {allowed(test)}" if test.most is not None and test.unit == "Ω" else text


def without_armour(w: Working, n: Network, name: Quantity, at: float | None, value: float) -> float | None:
    """Return what the core alone would show where a reading is that rather than what core and armour show together; else None."""
    alone = core_alone(n, name, at)
    if alone is None or name not in FITTED or _beside(w, value, alone, "Ω")[0] != "within":
        return None
    both = shown(n, name, at if at is not None else n.length)
    return alone if abs(value - alone) < abs(value - both) else None


def past_range(test: SiteTest) -> str:
    """What a reading past the range says: of a resistance that nothing connects, of a current that it is more than can be told."""
    return "over range: open circuit" if test.unit == "Ω" else "over range: more than the instrument can tell"


def over_limit(test: SiteTest, value: float) -> str:
    """What a reading is over, in words; empty where it is over no limit."""
    of = f" ({test.of})" if test.of else ""
    if test.most is not None and value > test.most:
        clears = " that clears a fault in time" if test.unit == "Ω" and not test.of else ""
        return f"over the {quantity(test.most, test.unit)}{clears or ' allowed'}{of}"
    if test.fine is not None and value > test.fine:
        return f"over the {quantity(test.fine, test.unit)} measured maximum (80 %){of}; full limit {quantity(test.most or 0.0, test.unit)}"
    return ""


def without_prediction(test: SiteTest, told: str) -> tuple[Found, str]:
    """What a reading within its limit says, or one that has none: then nothing is said to meet."""
    if not limited(test):
        return "not_known", f"{told}; {NONE_KNOWN}"
    if test.of == ALONE:
        return "not_known", f"{told}; {allowed(test)} ({test.of})"
    return "meets", f"{told}; {allowed(test)}"


def _of_the_supply(test: SiteTest, value: float, expected: float, known: Known) -> bool:
    """Whether a reading off its prediction is explained by a Ze that was assumed: one of a like size, from none to half as much again."""
    if known.ze is None or known.n is None:
        return False
    if test.quantity == "zs":
        off = value - expected
    elif test.quantity == "ipf" and value > 0:
        off = known.n.u0 / value - known.n.u0 / expected
    else:
        return False
    return -known.ze <= off <= LIKE * known.ze


def _beside(w: Working, value: float, expected: float, unit: str) -> tuple[Found, str]:
    off = max(w.constant("reading_share_off") * expected, w.constant("reading_floor") if unit == "Ω" else 0.0)
    told = f"{quantity(value, unit)} measured, {quantity(expected, unit)} predicted"
    if abs(value - expected) <= off + 1e-9:
        return "within", told
    return ("above", told + ": above") if value > expected else ("below", told + ": below")


def said_of_rcd(test: SiteTest, r: Reading) -> tuple[Found, str]:
    """What one reading of a residual current device says, by its times [ms]."""
    if test.quantity == "rcd_half":
        return ("meets", "no trip") if r.over else ("short", "trips at ½ × IΔn: faulty, or earth leakage on the circuit")
    if r.over or r.value is None:
        return "short", "it does not trip"
    if test.most is not None and r.value > test.most:
        return "short", f"{figure(r.value)} ms, at most {figure(test.most)} ms"
    if test.least is not None and r.value < test.least:
        return "short", f"{figure(r.value)} ms, at least {figure(test.least)} ms: too fast to be selective with the RCD downstream"
    if test.most is None:
        return "not_known", f"{figure(r.value)} ms; {NO_LIMIT}"
    return "meets", f"{figure(r.value)} ms of {figure(test.most)} ms"


def insulated(test: SiteTest, r: Reading) -> tuple[Found, str]:
    """What one reading of insulation says: by its value, and by the voltage it was tested at."""
    told = "over range" if r.value is None else f"{'over ' if r.over else ''}{figure(r.value)} MΩ"
    if r.value is not None and not r.over and test.least is not None and r.value < test.least:
        return "short", f"{told}, at least {figure(test.least)} MΩ"
    if r.volts is not None and test.volts is not None and r.volts < test.volts:
        return "short", f"{told} at {figure(r.volts)} V: test voltage too low, {figure(test.volts)} V needed"
    if test.least is None:
        return "not_known", f"{told}; {NO_LIMIT}"
    if r.over and r.value is not None and r.value < test.least:
        return "not_known", f"{told} says too little, at least {figure(test.least)} MΩ: test again on a range that reaches it"
    if r.volts is None:
        return "not_known", f"{told}; test voltage not recorded, {figure(test.volts or 0.0)} V needed"
    return "meets", f"{told} at {figure(r.volts)} V, at least {figure(test.least)} MΩ"
