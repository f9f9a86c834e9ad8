"""Protective devices as functions: when they trip, and what energy they let through.

A device is a band, not a line. Where safety asks for the slow or the energetic side of the band, these functions give that bound.
Breakers follow their product standard, adjustable breakers their settings, fuses their tables (`fuses`).
"""

from __future__ import annotations

from math import log

from mellow_span.core.errors import MissingInput, OutsideTable
from mellow_span.core.model.parts import Device
from mellow_span.core.rules.devices import fuses
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.units import AMPERE_PER_KA, MS_PER_S
from mellow_span.core.working.recorders import Working

SLOW_TYPE = "D"
# An exact tie counts as reached, whatever the last binary digit says.
GUARD = 1e-9


def trips(w: Working, device: Device) -> str:
    """Return how a device trips: breaker, adjustable or fuse."""
    return w.rules.devices[device.kind].trips


def instantaneous_current(w: Working, device: Device, rating: float) -> float | None:
    """Return the current [A] that trips a breaker at once; None for a fuse, which has no such region.

    The upper multiple of its type times In (BS EN 60898-1); for an adjustable breaker its instantaneous setting with the upper tolerance.
    """
    how = trips(w, device)
    if how == "fuse":
        return None
    if how == "adjustable":
        if device.ii is None:
            raise MissingInput("device.ii", "the instantaneous setting of the MCCB in A")
        tolerance = w.limit("tolerance", "mccb_tolerance", "upper tolerance of the setting")
        return w.calc("Ia", tolerance * device.ii, "A", "tolerance × Ii", {"tolerance": tolerance, "Ii": device.ii}, C.MCCB_STANDARD)
    multiple = w.look("m", T.BREAKER_INSTANT, device.curve, "instant_max_multiple", f"type {device.curve}, upper limit")
    return w.calc("Ia", multiple * rating, "A", "m × In", {"m": multiple, "In": rating}, C.DEVICE_LIMITS)


def slow_current(w: Working, device: Device, rating: float) -> float | None:
    """Return the current [A] from which a breaker opens within 5 s by a limit of its own type; None for a type without one (type D has it)."""
    if trips(w, device) != "breaker" or device.curve != SLOW_TYPE:
        return None
    multiple = w.limit("m", "type_d_slow", "type D, within 5 s")
    return w.calc("Ia", multiple * rating, "A", "m × In", {"m": multiple, "In": rating}, C.DEVICE_LIMITS)


def instant_of(w: Working, device: Device, rating: float) -> float | None:
    """Return the instantaneous current without its steps: asked for at every fault current, so remembered by the few inputs it hangs on."""
    key = ("instant", device.kind, device.curve, device.ii, rating)
    known: tuple[float | None] | None = w.rules.memo.get(key)
    if known is None:
        known = (instantaneous_current(w.quiet(), device, rating),)
        w.rules.memo.put(key, known)
    return known[0]


def disconnecting_current(w: Working, device: Device, rating: float, time: float) -> float:
    """Return Ia [A], the current that makes the overcurrent device disconnect within a time [s] (411.4.4).

    Breakers: the instantaneous current; an adjustable breaker its short-time setting where the delay fits; fuses: from their curve.
    """
    if trips(w, device) == "fuse":
        return fuses.current_for(w, device.kind, rating, time)
    if device.kind == "mccb" and device.isd is not None and device.tsd is not None and device.tsd <= time:
        tolerance = w.limit("tolerance", "mccb_tolerance", "upper tolerance of the setting")
        terms = {"tolerance": tolerance, "Isd": device.isd}
        return w.calc("Ia", tolerance * device.isd, "A", "tolerance × Isd", terms, C.MCCB_STANDARD, f"short-time, delay {device.tsd:g} s")
    if time >= w.constant("time_distribution_tn") and (slow := slow_current(w, device, rating)) is not None:
        return slow
    found = instantaneous_current(w, device, rating)
    assert found is not None
    return found


def slowest_time(w: Working, device: Device, rating: float, current: float) -> float | None:
    """Return the longest time [s] a device may take at a current [A]; None where it need not operate, or is slower than its data.

    Breakers, at or above the upper instantaneous multiple: 0.1 s. Below: the bound through (1.45 In, 1 or 2 h) and (2.55 In, 60 or 120 s),
    log-log between them, then constant I2t (BS EN 60898-1 Table 7).
    """
    if trips(w, device) == "fuse":
        return fuses.time_at(w, device.kind, rating, current)
    instant = instant_of(w, device, rating)
    assert instant is not None
    if current >= instant * (1 - GUARD):
        return w.limit("t", "breaker_instant_time", "at or above the upper instantaneous limit")
    if device.kind == "mccb":
        return _short_time(w, device, current)
    time = _thermal_time(w, rating, current)
    slow = slow_current(w.quiet(), device, rating)
    if slow is None or current < slow * (1 - GUARD):
        return time
    slow_current(w, device, rating)
    within = w.limit("t", "time_distribution_tn", "type D, from 10 In")
    return within if time is None else min(time, within)


def _short_time(w: Working, device: Device, current: float) -> float | None:
    """Return the short-time delay of an adjustable breaker where the current reaches its setting; its long-time curve is not tabulated."""
    if device.isd is None or device.tsd is None or current < w.constant("mccb_tolerance") * device.isd:
        return None
    return w.given("t", max(device.tsd, w.constant("breaker_instant_time")), "s", "short-time delay, as entered")


def _thermal_time(w: Working, rating: float, current: float) -> float | None:
    first, second = thermal_multiples(w)
    low, high = first * rating, second * rating
    if current < low:
        return None
    t_high = w.look("t2.55", T.BREAKER_THERMAL, (second, rating), "max_s", "thermal limit at 2.55 In")
    if current >= high:
        terms = {"t2.55": t_high, "2.55 In": high, "I": current}
        return w.calc("t", t_high * (high / current) ** 2, "s", "t2.55 × (2.55 In / I)²", terms, C.BREAKER_STANDARD)
    t_low = w.look("t1.45", T.BREAKER_THERMAL, (first, rating), "max_s", "thermal limit at 1.45 In")
    slope = log(t_high / t_low) / log(high / low)
    terms = {"t1.45": t_low, "1.45 In": low, "I": current, "a": slope}
    return w.calc("t", t_low * (current / low) ** slope, "s", "t1.45 × (I / 1.45 In)^a", terms, C.BREAKER_STANDARD)


def thermal_multiples(w: Working) -> tuple[float, float]:
    """Return the two multiples of In at which the thermal bound is tabulated, lower first."""
    found = sorted({row.key[0] for row in w.rules.table(T.BREAKER_THERMAL).rows})
    return found[0], found[-1]


def residual_time(w: Working, idn: float | None, delayed: bool, current: float) -> float | None:
    """Return the longest time [s] in which a residual current device of IDn [A] clears an earth fault of a current [A]; None without it."""
    if idn is None or current < idn:
        return None
    kind = "S" if delayed else "general"
    ms = w.look("tRCD", T.RCD_TIMES, (kind, current / idn), "max_ms", f"RCD, {kind} type")
    return w.calc("t", ms / MS_PER_S, "s", "tRCD / 1000", {"tRCD": ms}, C.RCD_STANDARD)


def let_through(w: Working, device: Device, rating: float, current: float) -> float | None:
    """Return the energy I2t [A2s] a device lets through at a fault current [A]; None where it need not operate.

    Outside the instantaneous region of a breaker: I2 t from the curve. In it: the lower of I2 x 0.1 s and the class 3 limit at the next
    tabulated fault level, at most Icn; types B and C up to 40 A. A maker's figure given by the user replaces it. Fuses: their curve; a
    maker's figure of a fuse holds for faults it clears within 0.1 s.
    """
    if trips(w, device) == "fuse":
        time = fuses.time_at(w.quiet(), device.kind, rating, current)
        if device.i2t is not None and time is not None and time <= w.constant("maker_energy_time"):
            return w.given("I²t", device.i2t, "A²s", "from the maker's data, as entered")
        return fuses.energy_at(w, device.kind, rating, current)
    time = slowest_time(w, device, rating, current)
    if time is None:
        return None
    energy = w.calc("I²t", current**2 * time, "A²s", "I² × t", {"I": current, "t": time}, C.LINE_IN_FAULT)
    instant = instant_of(w, device, rating)
    assert instant is not None
    if current < instant * (1 - GUARD):
        return energy
    if device.i2t is not None:
        return w.given("I²t", device.i2t, "A²s", "from the maker's data, as entered")
    limit = class_limit(w, device, rating, current)
    if limit is None or limit >= energy:
        return energy
    return w.calc("I²t", limit, "A²s", "min(I² × t, class 3)", {"I² × t": energy, "class 3": limit}, C.BREAKER_ENERGY_CLASS)


def class_limit(w: Working, device: Device, rating: float, current: float) -> float | None:
    """Return the class 3 energy limit [A2s] at the next tabulated fault level, or None where there is none (type D, over 40 A, MCCB)."""
    if T.BREAKER_ENERGY not in w.rules.by_name:
        return None
    level = current / AMPERE_PER_KA
    if device.kind == "mccb" or rating > w.constant("energy_class_in") or (device.icn is not None and current > device.icn * (1 + GUARD)):
        return None
    try:
        return w.look("class 3", T.BREAKER_ENERGY, (device.curve, rating, level), "i2t_a2s", "fault level in kA, next row up")
    except OutsideTable:
        return None
