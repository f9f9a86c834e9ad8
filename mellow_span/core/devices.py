"""Protective devices as functions: when they trip, and what energy they let through.

A device is a band, not a line. Where safety asks for the slow or the energetic side of the band, these functions give that bound.
"""

from __future__ import annotations

from math import log

from mellow_span.core.errors import OutsideTable
from mellow_span.core.model import Device
from mellow_span.core.working import Working

AMPERE_PER_KA = 1000


def instantaneous_current(w: Working, device: Device, rating: float) -> float:
    """Return Ia [A], the current that trips a breaker at once: the upper multiple of its type times In (BS EN 60898-1)."""
    multiple = w.look("m", "MCB-inst", device.curve, "instant_max_multiple", f"type {device.curve}, upper limit")
    return w.calc("Ia", multiple * rating, "A", "m × In", {"m": multiple, "In": rating}, "Appendix 3")


def slowest_time(w: Working, device: Device, rating: float, current: float) -> float | None:
    """Return the longest time [s] a breaker may take at a current [A]; None where it need not trip at all.

    At or above the upper instantaneous multiple: 0.1 s. Below: the bound through (1.45 In, 1 or 2 h) and (2.55 In, 60 or 120 s),
    log-log between them, then constant I2t (BS EN 60898-1 Table 7).
    """
    if current >= instantaneous_current(w.quiet(), device, rating):
        return w.limit("t", "breaker_instant_time", "at or above the upper instantaneous limit")
    first, second = thermal_multiples(w)
    low, high = first * rating, second * rating
    if current < low:
        return None
    t_high = w.look("t2.55", "MCB-therm", (second, rating), "max_s", "thermal limit at 2.55 In")
    if current >= high:
        puts = {"t2.55": t_high, "2.55 In": high, "I": current}
        return w.calc("t", t_high * (high / current) ** 2, "s", "t2.55 × (2.55 In / I)²", puts, "BS EN 60898-1")
    t_low = w.look("t1.45", "MCB-therm", (first, rating), "max_s", "thermal limit at 1.45 In")
    slope = _log_slope(low, t_low, high, t_high)
    puts = {"t1.45": t_low, "1.45 In": low, "I": current, "a": slope}
    return w.calc("t", t_low * (current / low) ** slope, "s", "t1.45 × (I / 1.45 In)^a", puts, "BS EN 60898-1")


def thermal_multiples(w: Working) -> tuple[float, float]:
    """Return the two multiples of In at which the thermal bound is tabulated, lower first."""
    found = sorted({row.key[0] for row in w.rules.table("MCB-therm").rows})
    return found[0], found[-1]


def _log_slope(x1: float, y1: float, x2: float, y2: float) -> float:
    return log(y2 / y1) / log(x2 / x1)


def residual_time(w: Working, device: Device, current: float) -> float | None:
    """Return the longest time [s] in which the residual current function clears an earth fault of a current [A]; None without it."""
    if device.idn is None or current < device.idn:
        return None
    ms = w.look("tRCD", "RCD-t", ("general", current / device.idn), "max_ms", "residual current device, general type")
    return w.calc("t", ms / 1000, "s", "tRCD / 1000", {"tRCD": ms}, "BS EN 61008-1")


def breaker_energy(w: Working, device: Device, rating: float, current: float) -> float | None:
    """Return the energy I2t [A2s] a breaker lets through at a fault current [A]; None where it need not trip.

    Outside the instantaneous region: I2 t from the curve. In it: the lower of I2 x 0.1 s and the class 3 limit at the next tabulated
    fault level, at most Icn; types B and C up to 40 A. A maker's figure given by the user replaces it.
    """
    time = slowest_time(w, device, rating, current)
    if time is None:
        return None
    energy = w.calc("I²t", current**2 * time, "A²s", "I² × t", {"I": current, "t": time}, "434.5.2")
    if current < instantaneous_current(w.quiet(), device, rating):
        return energy
    if device.i2t is not None:
        return w.given("I²t", device.i2t, "A²s", "from the maker's data, as entered")
    limit = class_limit(w, device, rating, current)
    if limit is None or limit >= energy:
        return energy
    return w.calc("I²t", limit, "A²s", "min(I² × t, class 3)", {"I² × t": energy, "class 3": limit}, "BS EN 60898-1 Annex ZA")


def class_limit(w: Working, device: Device, rating: float, current: float) -> float | None:
    """Return the class 3 energy limit [A2s] at the next tabulated fault level, or None where there is none (type D, over 40 A)."""
    level = current / AMPERE_PER_KA
    if rating > w.constant("energy_class_in") or (device.icn is not None and current > device.icn):
        return None
    try:
        return w.look("class 3", "MCB-I2t", (device.curve, rating, level), "i2t_a2s", "fault level in kA, next row up")
    except OutsideTable:
        return None
