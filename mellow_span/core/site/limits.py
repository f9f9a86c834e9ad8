"""What a reading on a circuit may show, whatever the design knows of the point it was taken at: by the device, the test voltage, the RCD's times."""

from __future__ import annotations

from dataclasses import dataclass

from mellow_span.core.rules.case import Case
from mellow_span.core.rules.faults.loop import feed_loop, residuals
from mellow_span.core.rulesets.vocabulary import T
from mellow_span.core.site.compare import judged_limit
from mellow_span.core.site.judging import ALONE
from mellow_span.core.working.recorders import Working

# Of both, what is asked at an outlet is R1 + R2, which disconnection goes by.
LOOPS = ("r1r2", "cross_le", "r2_lead")
RCD_TIMES = {"rcd_half": 0.5, "rcd_1": 1.0, "rcd_5": 5.0}


@dataclass(frozen=True, slots=True)
class Limits:
    """What a reading may show at least and at most [unit of its quantity]; fine: 80 % of the most, for cold conductors; volts: the test voltage [V].

    of: what the most is, in words, where that is not a clearing of a fault in time.
    """

    least: float | None = None
    most: float | None = None
    fine: float | None = None
    volts: float | None = None
    of: str = ""

    @property
    def known(self) -> bool:
        """Whether there is a limit at all."""
        return self.least is not None or self.most is not None or self.fine is not None


NO_LIMITS = Limits()


def limits_of(w: Working, case: Case) -> dict[str, Limits]:
    """Return the limits of a circuit by quantity. What has none is left out; a limit that the book does not have is none."""
    most, fine = judged_limit(w, case)
    found = {"zs": Limits(most=most, fine=fine)}
    found |= dict.fromkeys(LOOPS, _loop(case, most, fine))
    device = case.circuit.device
    if device.icn is not None:
        found["ipf"] = Limits(most=device.icn, of="Icn of its device")
    if device.rating is not None:
        found["amps"] = Limits(most=device.rating, of="In of its device")
    least, volts = insulation(w, electronic(case))
    found |= dict.fromkeys(("ir_ll", "ir_ln", "ir_le", "ir_ne"), Limits(least=least, volts=volts))
    mine = residuals(case)
    rcd = min(mine, key=lambda r: r.idn, default=None)
    # A circuit whose RCD is not in the design is judged as the general type: what it has is not known to be a delayed one.
    found |= rcd_limits(w, delayed=rcd is not None and rcd.delayed)
    return {name: limits for name, limits in found.items() if limits.known}


def _loop(case: Case, most: float | None, fine: float | None) -> Limits:
    """What R1 + R2 may show: what is left of Zs beside the loop at the board; where that is not known the whole, which it can in no case be over."""
    feed = case.feed
    z = feed.ze_cold if feed.ze_cold is not None else (feed_loop(case) if feed.ze_hot is not None else None)
    if z is None:
        return Limits(most=most, fine=fine, of=ALONE)
    left, little = (None if x is None else max(0.0, x - z) for x in (most, fine))
    return Limits(most=left, fine=little, of="Zs limit less the loop at the board")


def electronic(case: Case) -> bool:
    """Whether something on the circuit does not stand the usual test voltage."""
    return bool(case.circuit.device.spd or case.supply.surge == "fitted" or case.circuit.device.afdd or case.circuit.device.kind == "rcbo")


def of_book(w: Working, key: str) -> float | None:
    """A limit of the book; none where it has none, which a reading then says."""
    return w.limit("", key) if w.rules.has(key) else None


def insulation(w: Working, gentle: bool) -> tuple[float | None, float | None]:
    """Return the least insulation [Mohm] and its test voltage [V]; gentle: with electronics that stay connected."""
    return of_book(w, "ir_least"), of_book(w, "ir_volts_electronic" if gentle else "ir_volts")


def rcd_limits(w: Working, delayed: bool) -> dict[str, Limits]:
    """Return the times of a residual current device [ms] by quantity; half its current has none: it must not trip."""
    table = w.rules.by_name.get(T.RCD_TIMES)
    kind = "S" if delayed else "general"
    found = {}
    for name, multiple in RCD_TIMES.items():
        row = next((r.cells for r in table.rows if r.key[0] == kind and r.key[1] == multiple), {}) if table else {}
        found[name] = Limits(least=row.get("min_ms"), most=row.get("max_ms"))
    return found
