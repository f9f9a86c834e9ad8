"""What a single reading says beside its prediction and its limits."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from mellow_span.core.figures import figure, quantity
from mellow_span.core.site.compare import temperature_factor
from mellow_span.core.site.entries import Entry
from mellow_span.core.site.network import Network, shown
from mellow_span.core.site.readings import INSULATION, YES_NO, Found, Reading, Row, SiteTest
from mellow_span.core.working.recorders import Working

# Of a reading whose limit the book of the job does not have.
NO_LIMIT = "its limit is not known in this rule set"


def warmed(n: Network, factor: float) -> Network:
    """Return a circuit with its conductors at another temperature, by the factor of their resistance."""
    return replace(n, line=n.line * factor, neutral=n.neutral * factor, cpc=n.cpc * factor)


def judge(w: Working, test: SiteTest, mine: Sequence[Entry], n: Network | None) -> None:
    """Put readings to the test they are of, in the order of their times; the last one counts."""
    for e in mine:
        found, text = _said(w, test, e.data, n)
        test.rows.append(Row(e.id, e.data, e.by, e.at, found in ("above", "below", "short")))
        test.found, test.text = found, text
    if not mine:
        test.text = _expected(test)


def _expected(test: SiteTest) -> str:
    if test.predicted is not None:
        return f"{quantity(test.predicted, test.unit)} is predicted at 20 °C"
    if test.quantity == "rcd_half":
        return "no trip"
    if test.least is not None and test.most is not None:
        return f"{figure(test.least)} to {figure(test.most)} {test.unit}"
    if test.most is not None:
        return f"at most {figure(test.most)} {test.unit}"
    if test.least is not None:
        return f"at least {figure(test.least)} {test.unit}"
    return NO_LIMIT if test.quantity in INSULATION or test.quantity in ("rcd_1", "rcd_5") else ""


def _said(w: Working, test: SiteTest, r: Reading, n: Network | None) -> tuple[Found, str]:
    """What one reading says."""
    if test.quantity in YES_NO:
        return ("meets", "correct") if r.ok else ("short", "not correct")
    if test.quantity in ("rcd_half", "rcd_1", "rcd_5"):
        return said_of_rcd(test, r)
    if test.quantity in INSULATION:
        return _insulated(test, r)
    if r.over or r.value is None:
        return "short", "over range: open circuit"
    if test.predicted is None or n is None:
        over = test.most is not None and r.value > test.most
        return ("short", f"over the {quantity(test.most or 0, test.unit)} allowed") if over else ("meets", "measured; no predicted value")
    factor = temperature_factor(w.quiet(), r.temperature)
    warm = warmed(n, factor)
    expected = test.predicted if test.quantity == "ipf" else shown(warm, test.quantity, test.at if test.at is not None else n.length)
    found, text = _beside(w, r.value, expected, test.unit)
    if test.most is not None and r.value > test.most:
        return "short", f"{text}; over the {quantity(test.most, test.unit)} that clears a fault in time"
    if test.fine is not None and r.value > test.fine:
        return "short", f"{text}; over the {quantity(test.fine, test.unit)} measured maximum (80 %)"
    if test.fine is not None:
        text += f"; within the {quantity(test.fine, test.unit)} that a reading may show"
    return found, text


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


def _insulated(test: SiteTest, r: Reading) -> tuple[Found, str]:
    told = "over range" if r.over or r.value is None else f"{figure(r.value)} MΩ"
    if r.volts is None:
        told += "; test voltage not recorded"
    elif test.volts is not None and r.volts < test.volts:
        return "short", f"{told} at {figure(r.volts)} V: test voltage too low, {figure(test.volts)} V needed"
    if not r.over and r.value is not None and test.least is not None and r.value < test.least:
        return "short", f"{told}, at least {figure(test.least)} MΩ"
    if test.least is None:
        return "not_known", f"{told}; {NO_LIMIT}"
    return "meets", told
