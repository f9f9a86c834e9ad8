"""Readings on site, as rows: what is to be tested on a circuit in which order, what each reading says, and what all of them together point to.

Dead tests come first. Each reading is held against its prediction at its temperature, its limit, and for Zs 80 % of that, since conductors are cold.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import datetime
from typing import Literal

from mellow_span.core.errors import InputError
from mellow_span.core.model.spec import spec
from mellow_span.core.site.entries import Entry
from mellow_span.core.site.fit import Cause

Quantity = Literal[
    "r1", "rn", "r2", "cross_ln", "cross_le", "r1r2", "r2_lead", "ir_ll", "ir_le", "ir_ne", "ir_ln", "polarity", "zs", "ipf",
    "rcd_half", "rcd_1", "rcd_5", "button", "rotation", "functional", "amps", "tight", "ze", "ra",
]  # fmt: skip
Found = Literal["within", "above", "below", "short", "meets", "not_known", "not_read"]
UNITS: dict[str, str] = {
    **dict.fromkeys(("r1", "rn", "r2", "cross_ln", "cross_le", "r1r2", "r2_lead", "zs", "ze", "ra"), "Ω"), **dict.fromkeys(("ipf", "amps"), "A"),
    **dict.fromkeys(("rcd_half", "rcd_1", "rcd_5"), "ms"), **dict.fromkeys(("ir_ll", "ir_le", "ir_ne", "ir_ln"), "MΩ"),
}  # fmt: skip
TITLES: dict[str, str] = {
    "r1": "r1, line end to end", "rn": "rn, neutral end to end", "r2": "r2, cpc end to end", "cross_ln": "Line–neutral, cross-connected",
    "cross_le": "Line–cpc, cross-connected", "r1r2": "R1 + R2", "r2_lead": "R2, wander lead", "ir_ll": "Insulation, line to line",
    "ir_le": "Insulation, line to earth", "ir_ne": "Insulation, neutral to earth", "ir_ln": "Insulation, line to neutral",
    "polarity": "Polarity", "zs": "Zs", "ipf": "Ipf, line to neutral", "rcd_half": "RCD, ½ × IΔn", "rcd_1": "RCD, 1 × IΔn",
    "rcd_5": "RCD, 5 × IΔn", "button": "RCD test button trips it", "rotation": "Phase sequence",
    "functional": "Functional test", "amps": "Load current, clamp meter",
    "tight": "Terminals torqued", "ze": "Ze", "ra": "RA, earth electrode",
}  # fmt: skip
YES_NO = ("polarity", "button", "rotation", "functional", "tight")
INSULATION = ("ir_ll", "ir_le", "ir_ne", "ir_ln")
LIVE = ("zs", "ze", "ra", "ipf", "rcd_half", "rcd_1", "rcd_5", "button", "rotation", "functional", "amps")
# Live tests that are done behind an RCD and must not trip it.
TRIPS = ("zs", "ipf", "amps")
FITTED = ("r1", "rn", "r2", "cross_ln", "cross_le", "r1r2", "r2_lead", "zs", "ipf")
LIVE_CAUTION = (
    "Live tests: for a competent person only, with fused leads and suitable protection. Keep enclosures closed as far as the test allows, and "
    "others away."
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """One reading as it was taken. value: in the unit of its quantity, ohm, megohm, ms or A; over: it is more than that, or past a range not said."""

    quantity: Quantity = spec("What was read", default="r1r2")  # noqa: RUF009
    value: float | None = spec("What the instrument showed", "Ω, MΩ, ms or A", 0, 1_000_000)
    over: bool = spec("Over the value, or over the instrument's range; for an RCD, no trip", default=False)
    tripped: bool = spec("The RCD tripped during the test, so that there is no figure", default=False)
    ok: bool | None = spec("Of a test that has no figure: it is as it must be")
    point: str = spec("Where it was taken: an outlet, a board", default="")
    at: float | None = spec("How far along the run that is, of a ring round the loop", "m", 0, 2000)
    temperature: float = spec("Temperature of the conductors", "°C", -10, 60, default=20.0)
    volts: float | None = spec("Test voltage of the insulation", "V", 50, 1000)
    instrument: str = spec("The instrument, by its name or number", default="")
    serial: str = spec("Serial number of the instrument", default="")
    checked: str = spec("Date of the instrument's last check", default="")
    method: str = spec("Method: wander lead, plug adaptor, two-wire", default="")
    note: str = spec("A note", default="")
    photo: str = spec("Identity of a photo taken with it", default="")


@dataclass(slots=True)
class Row:
    """A reading with who took it and when. off: it lies outside what its prediction allows or past a limit; clock: as `Entry.clock`."""

    id: str
    reading: Reading
    by: str
    at: str
    off: bool
    clock: str = ""


@dataclass(slots=True)
class SiteTest:
    """A test of the sequence. predicted: at 20 C [unit]; least, most: limits; fine: of Zs 80 % of it; rows: readings so far, the last one counts.

    live: the supply is on for it; why: what it is for; care: what to see to first; found, text: what the last reading says.
    of: what the most is where that is not the clearing of a fault; listed: whether the design has the point and asks for the test there.
    """

    id: str
    quantity: Quantity
    title: str
    point: str
    at: float | None
    live: bool
    unit: str
    predicted: float | None
    least: float | None
    most: float | None
    fine: float | None
    volts: float | None
    why: str
    care: str
    rows: list[Row] = field(default_factory=list)
    found: Found = "not_read"
    text: str = ""
    of: str = ""
    listed: bool = True


@dataclass(slots=True)
class CircuitTests:
    """All tests of a circuit. left: how many are not read yet; off: how many are not as they should be.

    causes: what the readings point to, the likeliest first; told: that in words; why: why nothing is predicted.
    heat: conductor temperature of the ruling span that a clamp reading gives [C], in words; care: before the live tests.
    back: a length or a size that is not entered, worked back from readings, in words.
    """

    circuit: str
    number: str
    name: str
    tests: list[SiteTest]
    left: int
    off: int
    causes: list[Cause]
    told: str
    heat: str
    care: str
    why: str
    back: str = ""


def taken(entries: Iterable[Entry]) -> list[Entry]:
    """Return entries in the order in which they were taken, whatever zone their clocks showed; of one moment as they came."""
    return sorted(entries, key=lambda e: datetime.fromisoformat(e.at))


def whole(given: Reading) -> None:
    """Raise InputError for a reading that says nothing, or two things at once."""
    if given.quantity in YES_NO:
        if given.ok is None or given.value is not None or given.over:
            raise InputError("data.ok", given.ok, "yes or no, and nothing else, for a test that has no figure")
    elif given.ok is not None:
        raise InputError("data.ok", given.ok, "nothing: this test has a figure")
    elif given.tripped:
        if given.value is not None or given.over or given.quantity not in TRIPS:
            raise InputError("data.tripped", given.tripped, "set for a live test that an RCD ended, without a figure")
    elif given.value is None and not given.over:
        raise InputError("data.value", given.value, "a figure, or past the range")
