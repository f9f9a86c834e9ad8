"""What is designed: supply, boards, circuits, runs and spans, as plain frozen values in the field's terms.

Base units throughout: A, V, ohm, m, mm2, s, degrees C, W. A field that may be None is one that nobody has entered yet; the checks
that need it answer 'not known'. `spec` beside each field gives unit, range and meaning: the parser, the error texts, the open format
and the interface all read them from here.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal

Source = Literal["measured", "declared", "assumed"]
Earthing = Literal["TN-C-S", "TN-S", "TT"]
LoadKind = Literal[
    "lighting", "sockets", "cooking", "shower", "water_heater", "heating", "floor_heating", "storage_heating",
    "ev", "heat_pump", "motor", "other",
]  # fmt: skip
Basis = Literal["W", "A", "In"]
Shape = Literal["radial", "ring"]
DeviceKind = Literal["mcb", "rcbo"]
Curve = Literal["B", "C", "D"]
Phases = Literal[1, 3]


def spec(meaning: str, unit: str = "", lo: float | None = None, hi: float | None = None, default: Any = None, choices: str = "") -> Any:
    """Describe one field: meaning, unit, inclusive range, default; choices names the rule-set section its values come from."""
    return field(default=default, metadata={"meaning": meaning, "unit": unit, "lo": lo, "hi": hi, "choices": choices})


def identity(meaning: str = "Identity") -> Any:
    """Describe a field that must be given: the identity of a part, or of the part it belongs to."""
    return field(metadata={"meaning": meaning})


def listing(meaning: str) -> Any:
    """Describe a field that holds further parts of the model."""
    return field(default=(), metadata={"meaning": meaning})


@dataclass(frozen=True, slots=True, kw_only=True)
class Supply:
    """The intake, as surveyed."""

    earthing: Earthing | None = spec("Earthing arrangement of the supply")
    phases: Phases = spec("Phases of the supply", default=1)
    u0: float = spec("Nominal voltage line to earth, U0", "V", 50, 400, default=230.0)
    ze: float | None = spec("External earth-fault loop impedance, Ze", "Ω", 0.01, 500)
    ze_source: Source = spec("Where Ze comes from", default="assumed")
    ipf: float | None = spec("Prospective fault current at the origin, Ipf", "A", 50, 50000)
    ipf_source: Source = spec("Where Ipf comes from", default="assumed")
    fuse_kind: Literal["BS88-3", "BS88-2", "BS1361"] | None = spec("Kind of service fuse")
    fuse_in: float | None = spec("Rating of the service fuse", "A", 5, 400)
    fuse_source: Source = spec("Where the fuse rating comes from", default="assumed")
    tails_csa: float | None = spec("Csa of the meter tails", "mm²", 4, 120)
    private: bool = spec("Fed from a private supply, not from the public network", default=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class Device:
    """The protective device at the head of a circuit."""

    kind: DeviceKind = spec("Kind of device", default="mcb")
    curve: Curve = spec("Tripping type", default="B")
    rating: float | None = spec("Rated current, In", "A", 1, 125)
    icn: float | None = spec("Rated short-circuit capacity, Icn", "A", 1000, 50000)
    idn: float | None = spec("Rated residual current, IΔn", "A", 0.006, 1)
    rcd_type: Literal["AC", "A", "F", "B"] | None = spec("Type of residual current device")
    i2t: float | None = spec("Energy let through, from the maker's data", "A²s", 100, 10_000_000)


@dataclass(frozen=True, slots=True, kw_only=True)
class Cable:
    """What is pulled: family, line csa and cpc csa."""

    family: str | None = spec("Cable family of the rule set", choices="family")
    csa: float | None = spec("Line conductor csa", "mm²", 0.5, 400)
    cpc_csa: float | None = spec("Protective conductor csa; empty: the fixed pair of the family", "mm²", 0.5, 400)


@dataclass(frozen=True, slots=True, kw_only=True)
class Load:
    """One load, or several alike, on a circuit."""

    id: str = identity()
    name: str = spec("What the client calls it", default="")
    kind: LoadKind = spec("Kind of load, for diversity and limits", default="other")
    basis: Basis = spec("Unit of the amount: W, A, or In to take the whole device rating", default="W")
    amount: float | None = spec("Rated power or current of one", "W or A", 0, 200_000)
    pf: float = spec("Power factor", "", 0.3, 1, default=1.0)
    quantity: int = spec("How many alike", "", 1, 200, default=1)


@dataclass(frozen=True, slots=True, kw_only=True)
class Span:
    """A stretch of a run with one kind of surroundings."""

    id: str = identity()
    name: str = spec("Where it is, in the client's words", default="")
    place: str | None = spec("Surroundings, as a place of the rule set", choices="place")
    length: float | None = spec("Length", "m", 0.1, 1000)
    ambient: float = spec("Temperature of the surroundings", "°C", -10, 80, default=30.0)
    group: int = spec("Circuits lying together, this one included", "", 1, 40, default=1)
    laid: str = spec("How the group lies", default="bunched", choices="laid")
    wrapped: float = spec("Length totally surrounded by thermal insulation", "m", 0, 1000, default=0.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Run:
    """A cable and the spans it lies in, from the device to the far point."""

    id: str = identity()
    cable: Cable = field(default_factory=Cable, metadata={"meaning": "The cable"})
    spans: tuple[Span, ...] = listing("Spans in order from the board")


@dataclass(frozen=True, slots=True, kw_only=True)
class Circuit:
    """A final circuit, or the sub-main that feeds another board."""

    id: str = identity()
    name: str = spec("Name on the board chart", default="")
    board: str = identity("Identity of the board it starts from")
    feeds: str | None = spec("Identity of the board it feeds, for a sub-main")
    phases: Phases = spec("Phases of the circuit", default=1)
    shape: Shape = spec("Radial or ring", default="radial")
    device: Device = field(default_factory=Device, metadata={"meaning": "Protective device"})
    loads: tuple[Load, ...] = listing("Loads")
    run: Run = field(default=Run(id=""), metadata={"meaning": "The fixed cable"})


@dataclass(frozen=True, slots=True, kw_only=True)
class Board:
    """A distribution board."""

    id: str = identity()
    name: str = spec("Name", default="")
    ways: int | None = spec("Number of ways", "", 1, 96)


@dataclass(frozen=True, slots=True, kw_only=True)
class Installation:
    """A whole job: one supply, its boards and their circuits."""

    ruleset: str = spec("Rule set the job is designed to", default="bs7671")
    supply: Supply = field(default_factory=Supply, metadata={"meaning": "The intake"})
    boards: tuple[Board, ...] = listing("Boards")
    circuits: tuple[Circuit, ...] = listing("Circuits")
