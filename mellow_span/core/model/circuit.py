"""A circuit: its protective device, its loads, and the run of its cable, span by span."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from mellow_span.core.model.spec import identity, listing, spec
from mellow_span.core.model.supply import Phases

LoadKind = Literal[
    "lighting", "sockets", "cooking", "shower", "water_heater", "heating", "floor_heating", "storage_heating",
    "ev", "heat_pump", "motor", "inverter", "generator", "other",
]  # fmt: skip
Basis = Literal["W", "A", "In"]
Shape = Literal["radial", "ring"]
Curve = Literal["B", "C", "D"]
Phase = Literal["L1", "L2", "L3"]
RcdType = Literal["AC", "A", "F", "B"]
CpcKind = Literal["usual", "core", "separate", "armour", "armour_and_core", "conduit", "trunking"]
# What can be the cpc of a cable that begins along a run.
OwnCpc = Literal["usual", "core", "separate", "armour", "armour_and_core"]
Location = Literal[
    "", "bathroom", "pool", "hot_tub", "sauna", "outdoors", "agricultural", "caravan_pitch", "marina", "construction_site"
]  # fmt: skip
# Where people are in water up to their shoulders: a hot tub is a pool to the rules.
POOLS = frozenset(["pool", "hot_tub"])
# Ratings that are mostly met [A].
ACCESSORIES = (13.0, 20.0, 32.0, 45.0, 50.0, 63.0, 100.0)
PLUG_FUSES = (3.0, 5.0, 13.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Device:
    """The protective device at the head of a circuit."""

    kind: str = spec("Kind of device", default="mcb", choices="device")
    curve: Curve = spec("Type (curve)", default="B")
    rating: float | None = spec("Rated current, In", "A", 1, 1600)
    icn: float | None = spec("Rated short-circuit capacity, Icn", "A", 1000, 200_000)
    idn: float | None = spec("Rated residual operating current, IΔn", "A", 0.006, 1)
    rcd_type: RcdType | None = spec("RCD type")
    i2t: float | None = spec("Energy let through, from the maker's data", "A²s", 100, 10_000_000)
    delayed: bool = spec("Time-delayed RCD, S type", default=False)
    ir: float | None = spec("Long-time setting of an MCCB, Ir", "A", 1, 1600)
    isd: float | None = spec("Short-time setting of an MCCB, Isd", "A", 2, 20000)
    tsd: float | None = spec("Short-time delay of an MCCB, tsd", "s", 0, 1)
    ii: float | None = spec("Instantaneous setting of an MCCB, Ii", "A", 2, 30000)
    afdd: bool = spec("With arc fault detection", default=False)
    spd: bool = spec("With surge protection", default=False)
    poles: Literal[1, 2, 3, 4] | None = spec("Poles that it opens, the neutral counted where it opens it")
    both_ways: bool | None = spec("Its maker lets current through it in both directions")


@dataclass(frozen=True, slots=True, kw_only=True)
class Cable:
    """What is pulled: family, line csa and cpc csa."""

    family: str | None = spec("Cable type", choices="family")
    csa: float | None = spec("Line conductor csa", "mm²", 0.5, 400)
    cpc_csa: float | None = spec("Protective conductor csa; empty: the fixed pair of the family", "mm²", 0.5, 400)
    cpc: CpcKind = spec("What forms the cpc; usual: the core, pair or single supplied with this cable", default="usual")
    cores: int | None = spec("Cores of an armoured cable", "", 2, 4)
    parallel: int = spec("Cables in parallel, of equal length and size", "", 1, 6, default=1)
    conduit: float | None = spec("Outer diameter of the steel conduit that serves as cpc", "mm", 16, 63)
    conduit_heavy: bool = spec("Heavy gauge conduit", default=False)
    cpc_guarded: bool | None = spec("A separate cpc is protected against mechanical damage")
    metal_r: float | None = spec("Resistance of the conduit or trunking with its joints, from its maker", "mΩ/m", 0.05, 50)
    metal_area: float | None = spec("Steel csa of the trunking that serves as cpc", "mm²", 10, 5000)


@dataclass(frozen=True, slots=True, kw_only=True)
class Load:
    """One load, or several alike, on a circuit."""

    id: str = identity()
    name: str = spec("Name, as the client calls it", default="")
    room: str = spec("Room it is for, as the client calls it", default="")
    kind: LoadKind = spec("Kind of load, for diversity and limits", default="other")
    basis: Basis = spec("Unit of the amount: W, A, or In to take the whole device rating", default="W")
    amount: float | None = spec("Rated power or current of one", "W or A", 0, 200_000)
    pf: float = spec("Power factor", "", 0.3, 1, default=1.0)
    quantity: int = spec("Quantity", "", 1, 200, default=1)
    future: bool = spec("Future load: counted in the second total only", default=False)
    diversity: float | None = spec("Own diversity factor instead of the usual rule", "", 0, 1)
    managed: float | None = spec("Limit set by load management, used in the demand", "A", 0, 2000)
    interlock: str = spec("Name of an interlock: of the loads that share it, the larger alone counts in the demand", default="")
    rated_volts: float | None = spec(
        "Volts on its label, that the watts are rated at; of three phases line to line; empty: U0 or U", "V", 50, 500
    )
    lampholders: bool | None = spec("Uses standard household lampholders")
    diverse_amps: float | None = spec("Own allowance after diversity instead of the usual rule", "A", 0, 2000)
    control_socket: bool = spec("Socket-outlet in the cooker control unit", default=False)
    at: float | None = spec("Distance along the run; empty: at the far end", "m", 0, 1000)
    span: str | None = spec("Stands at the end of; a span of its circuit; empty: at the far end, or at its distance")
    spur: Literal["no", "fused", "unfused"] = spec("Whether it is fed by a spur of the ring", default="no")
    outlet: float = spec("Rated current of its socket-outlets", "A", 1, 125, default=13.0)
    outlet_idn: float | None = spec("RCD at or in the outlet, IΔn", "A", 0.006, 1)
    dc_detection: bool | None = spec("The charging equipment detects 6 mA of direct fault current")
    pen_guard: Literal["device", "electrode", "indoors"] | None = spec(
        "Charging on PME: how open-PEN is dealt with; indoors: vehicle charged inside"
    )
    electrode_ra: float | None = spec("Resistance RA of the charging point's own earth electrode", "Ω", 0.1, 5000)
    bath_distance: float | None = spec("From the edge of the bath or shower to the nearest socket-outlet", "m", 0, 20)
    lead_csa: float | None = spec("Flex csa, outlet to appliance", "mm²", 0.5, 6)
    lead_length: float | None = spec("Flex length", "m", 0.1, 50)
    local_fuse: float | None = spec("Fuse in its plug or fused connection unit", "A", 1, 13, usual=PLUG_FUSES)
    # Behind a driver or transformer at extra-low voltage: a cable of its own, checked apart (`rules/thermal/extra_low`).
    elv_volts: float | None = spec("Behind a driver or transformer: its output", "V", 3, 120)
    elv_length: float | None = spec("Behind a driver or transformer: length of cable to the light", "m", 0.1, 200)
    elv_csa: float | None = spec("Behind a driver or transformer: csa of that cable, flexible", "mm²", 0.5, 6)
    elv_drop: float | None = spec("Behind a driver or transformer: volt drop its maker allows in that cable", "%", 0.5, 30)
    # Of a source, an inverter or a generator: what it gives, and what it does when the mains fails (`rules/sources`).
    joins: Literal["way", "changeover"] | None = spec(
        "Source: in parallel with the mains by a way of the board, or instead of it by a change-over switch ahead of the board"
    )
    battery: bool | None = spec("Inverter: with a battery")
    loss_of_mains: bool | None = spec("Source: its maker declares that it disconnects itself when the mains fails")
    parted: bool | None = spec("Source: the switch between it and the mains opens every live conductor and cannot connect the two")
    fault_amps: float | None = spec("Source: maximum fault current, from its maker", "A", 1, 50_000)
    maker_rcd: RcdType | None = spec("Source: RCD type that its maker requires")
    alone: str | None = spec("Source: board it supplies with the mains off")
    alone_amps: float | None = spec("Source: minimum fault current with the mains off, from its maker", "A", 0.1, 50_000)
    alone_off: float | None = spec("Source: its own cut-off time at a fault with the mains off", "s", 0.001, 60)
    alone_earth: Literal["electrode", "supply", "none"] | None = spec(
        "Source: with the mains off its neutral is connected to an earth electrode of the installation, to the supply earth alone, or to none"
    )
    alone_ra: float | None = spec("Source: resistance RA of that electrode", "Ω", 0.1, 5000)
    from_stage: str | None = spec("Installed at stage; empty: in place from the first on")
    until_stage: str | None = spec("Removed at stage; empty: stays")


@dataclass(frozen=True, slots=True, kw_only=True)
class Span:
    """A stretch of a run with one kind of surroundings."""

    id: str = identity()
    name: str = spec("Where it is, in the client's words", default="")
    place: str | None = spec("Installation method", choices="place")
    length: float | None = spec("Length", "m", 0.1, 1000)
    ambient: float = spec("Temperature of the surroundings", "°C", -10, 80, default=30.0)
    group: int = spec("Circuits grouped, including this one", "", 1, 40, default=1)
    laid: str = spec("How the group lies", default="bunched", choices="laid")
    wrapped: float = spec("Length totally surrounded by thermal insulation", "m", 0, 1000, default=0.0)
    route: str | None = spec("Cable route it is in: installation method and grouping come from it")
    ground: float = spec("Temperature of the ground, for a span in it", "°C", 0, 80, default=20.0)
    soil: float = spec("Thermal resistivity of the soil", "K·m/W", 0.3, 4, default=2.5)
    depth: float = spec("Depth of laying", "m", 0.3, 3, default=0.7)
    guarded: bool | None = spec("Hidden in a wall: at least 50 mm deep, or mechanically protected")
    metal_partition: bool = spec("In a wall or partition with metal parts in its construction", default=False)
    fire_supports: bool | None = spec("Supports do not fail early in a fire")
    polystyrene: bool = spec("Touches expanded polystyrene", default=False)
    fire_barrier: bool = spec("Passes a wall or floor that must hold back fire", default=False)
    location: Location = spec("Special location it passes through or ends in", default="")
    after: str | None = spec("Leaves from the end of; a span before it in the list, or board; empty: it goes on from the span before it")
    box: str = spec("What is at its end; a box, a joint, a switch", default="")
    given_iz: float | None = spec(
        "Capacity Iz from elsewhere than the tables, of one cable as it is installed here, all factors in it", "A", 1, 2000
    )
    given_for: float | None = spec("Csa that this capacity is for; with any other the tables count", "mm²", 0.5, 400)
    given_by: str = spec("Where this capacity is from: maker's sheet or book, and page", default="")
    # From here on another cable than before it, until a span further on has its own (`legs`).
    own_family: str | None = spec("Another cable from here on: its type; empty: as before", choices="family")
    own_csa: float | None = spec("Another cable from here on: line conductor csa", "mm²", 0.5, 400)
    own_cpc_csa: float | None = spec(
        "Another cable from here on: protective conductor csa; empty: the fixed pair of its type", "mm²", 0.5, 400
    )
    own_cpc: OwnCpc = spec("Another cable from here on: what forms its cpc", default="usual")
    own_cores: int | None = spec("Another cable from here on: cores of an armoured cable", "", 2, 4)
    own_overload: Literal["device", "fuse", "cannot"] = spec(
        "Another cable from here on, overload protection: by the device of the circuit, by the fuse at its end, or omitted as its load cannot overload",
        default="device",
    )
    own_short: bool | None = spec("Another cable from here on: at most 3 m to its fuse, run so that faults, fire and danger are unlikely")
    joint: Literal["", "terminals", "maintenance_free", "crimped", "resin"] = spec("How it is joined to the cable before it", default="")
    joint_reached: bool | None = spec("That joint can be reached for inspection")


@dataclass(frozen=True, slots=True, kw_only=True)
class Run:
    """A cable and the spans it lies in, from the device on: to the far point, or to several ends where spans leave from another (`legs`)."""

    id: str = identity()
    cable: Cable = field(default_factory=Cable, metadata={"meaning": "The cable"})
    spans: tuple[Span, ...] = listing("Spans in order from the board")


# Loads that give: they feed what stands beside them.
SOURCES = frozenset(["inverter", "generator"])
# What turns all its power into heat by resistance draws by the square of the voltage: its watts belong to the volts of its label.
RESISTIVE = frozenset(["cooking", "shower", "water_heater", "heating", "floor_heating", "storage_heating"])


@dataclass(frozen=True, slots=True, kw_only=True)
class Circuit:
    """A final circuit, or the sub-main that feeds another board."""

    id: str = identity()
    name: str = spec("Name on the board chart", default="")
    board: str = identity("Board it is fed from")
    feeds: str | None = spec("Board it feeds, for a sub-main")
    phases: Phases = spec("Phases of the circuit", default=1)
    shape: Shape = spec("Radial or ring", default="radial")
    device: Device = field(default_factory=Device, metadata={"meaning": "Protective device"})
    loads: tuple[Load, ...] = listing("Loads")
    run: Run = field(default=Run(id=""), metadata={"meaning": "The fixed cable"})
    phase: Phase | None = spec("Phase of a single-phase circuit on a three-phase board")
    ib_from: Literal["demand", "device"] = spec("Sub-main design current: demand of its board, or device rating", default="demand")
    overload: Literal["device", "omitted"] = spec(
        "Overload protection: by the device, or omitted as the load cannot overload", default="device"
    )
    diversified: bool | None = spec(
        "Design current after diversity; empty: as usual, in full save for cooking of a household on its own circuit"
    )
    harmonics: float = spec("Third harmonic in the line current of a three-phase circuit", "%", 0, 100, default=0.0)
    drop_method: Literal["worst", "refined"] = spec("Volt drop: worst case, or corrected for the actual load", default="worst")
    common_cpc: str = spec("Name of a cpc shared with other circuits of the board; empty: its own", default="")
    armour_ends: Literal["both", "supply", "none"] = spec("Ends at which the armour is earthed", default="both")
    core_ends: Literal["both", "supply"] | None = spec(
        "Towards a board with its own earth electrode: ends at which the core that serves as cpc is connected"
    )
    terminals: Literal[70, 90] = spec("Terminal temperature rating, both ends", "°C", default=70)
    terminals_by: str = spec("Maker's statement that the terminals of its device suit 90 °C", default="")
    accessory: Literal["isolator", "control_unit", "connection_unit", "rotary_switch", "socket"] | None = spec(
        "Isolator or accessory in the circuit"
    )
    accessory_in: float | None = spec("Rated current of that accessory", "A", 1, 400, usual=ACCESSORIES)
    accessory_poles: Literal[1, 2, 3, 4] | None = spec("Poles that it switches")
    accessory_csa: float | None = spec("Largest csa that its terminals take", "mm²", 0.5, 400, usual=(4, 6, 10, 16, 25, 35))
    leakage: float | None = spec("Standing leakage to earth while everything works, measured or from the makers", "A", 0, 10)
    high_integrity: bool | None = spec("Its protective conductor is doubled, monitored or protected as leakage over 10 mA needs it")
    socket_risk: str = spec("Risk assessment by which its socket-outlets need no RCD: who made it, and where it is kept", default="")
    supplementary_r: float | None = spec("Resistance between the parts that supplementary bonding joins", "Ω", 0.001, 100)
    group_amps: float | None = spec("Current found, for grouping in cable routes alone; overload stays with In", "A", 0, 1000)
    group_amps_by: str = spec("How that current was found, when and by whom: appliances of the room, a clamp, a logger", default="")
    section: Literal[0, 1, 2, 3] = spec(
        "Section of its board by RCD: 1 behind the main RCD, 2 or 3 behind that section's, 0 behind none", default=1
    )
    spare: bool = spec("Cable in place but not connected: carries nothing, not checked", default=False)
    existing: bool = spec("Existing: check cable and device, do not choose them", default=False)
    from_stage: str | None = spec("Installed at stage; empty: in place from the first on")
    until_stage: str | None = spec("Removed at stage; empty: stays")


def without_label(circuit: Circuit) -> list[Load]:
    """List the loads whose watts hang on the volts of a label that nobody entered: what heats by resistance, and is there now or alone to come."""
    there = [load for load in circuit.loads if not load.future] or list(circuit.loads)
    return [x for x in there if x.basis == "W" and x.amount and x.kind in RESISTIVE and x.rated_volts is None]
