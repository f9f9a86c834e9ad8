"""The intake, as surveyed."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from mellow_span.core.model.spec import spec

Source = Literal["measured", "declared", "assumed"]
Earthing = Literal["TN-C-S", "TN-S", "TT"]
Phases = Literal[1, 3]
Premises = Literal["household", "shared", "other"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Supply:
    """The intake, as surveyed."""

    earthing: Earthing | None = spec("Earthing arrangement of the supply")
    phases: Phases = spec("Phases of the supply", default=1)
    u0: float = spec("Nominal voltage line to earth, U0", "V", 50, 400, default=230.0)
    u: float | None = spec("Nominal voltage line to line, U; empty: 400 V at 230 V, else √3 U0", "V", 80, 700)
    ze: float | None = spec("External earth-fault loop impedance, Ze", "Ω", 0.01, 500)
    ze_source: Source = spec("Where Ze comes from", default="assumed")
    ipf: float | None = spec("Prospective fault current at the origin, Ipf", "A", 50, 50000)
    ipf_source: Source = spec("Where Ipf comes from", default="assumed")
    fuse_kind: str | None = spec("Type of service fuse", choices="service")
    fuse_in: float | None = spec("Rating of the service fuse", "A", 5, 400)
    fuse_source: Source = spec("Where the fuse rating comes from", default="assumed")
    tails_csa: float | None = spec("Meter tails, csa", "mm²", 4, 120)
    private: bool = spec("Fed from a private supply, not from the public network", default=False)
    cmax: float = spec("Voltage factor for the largest fault currents, Cmax", "", 1, 1.2, default=1.0)
    ze_declared: float | None = spec("Maximum Ze declared by the distributor", "Ω", 0.01, 500)
    neutral_csa: float | None = spec("Csa of the supply neutral", "mm²", 4, 400)
    tails_length: float | None = spec("Length of the tails from the service fuse to the board", "m", 0.1, 50)
    tails_fused: bool | None = spec("Tails fused at the meter (fuse or switch-fuse)")
    tails_wrapped: float = spec("Length of the tails surrounded by insulation", "m", 0, 10, default=0.0)
    earthing_csa: float | None = spec("Csa of the main earthing conductor, copper", "mm²", 1, 240)
    earthing_buried: Literal["no", "protected", "against_corrosion", "bare"] = spec("How the earthing conductor is buried", default="no")
    earthing_protected: bool | None = spec("The earthing conductor is protected against mechanical damage")
    bond: Literal["conductor", "none"] = spec("What bonds the metal services here", default="conductor")
    bonding_csa: float | None = spec("Csa of the main bonding conductors, copper", "mm²", 1, 120)
    extraneous: bool | None = spec("Whether metal services or structure need main bonding here")
    surge: Literal["fitted", "declined"] | None = spec("Surge protection: fitted, or omitted with a reason")
    surge_reason: str = spec("Why surge protection is left out", default="")
    surge_length: float | None = spec("Length of the connections of the surge protective device, line to earth in all", "m", 0.01, 20)
    surge_backup: float | None = spec("Rating of the overcurrent device that backs it up; empty: the service fuse alone", "A", 1, 400)
    surge_backup_most: float | None = spec("Maximum back-up device, from the maker of the surge protective device", "A", 1, 400)
