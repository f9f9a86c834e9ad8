"""Short ways to write an installation down in a test."""

from __future__ import annotations

from typing import Any

from mellow_span.core.model.parse import parse
from mellow_span.core.model.parts import Installation

SUPPLY = {"earthing": "TN-C-S", "ze": 0.28, "ipf": 920, "ze_source": "measured", "ipf_source": "measured"}
DEVICE = {"kind": "mcb", "curve": "B", "rating": 32, "icn": 6000}


def circuit(id: str = "c", **given: Any) -> dict[str, Any]:
    """Return a circuit: 6 mm2 flat twin, 10 m clipped, B32, 6 kW, unless given otherwise; spans and loads take what differs."""
    spans = [{"id": f"{id}-s{i}", "place": "masonry", "length": 10, **s} for i, s in enumerate(given.pop("spans", [{}]))]
    loads = [{"id": f"{id}-l{i}", "amount": 6000, **x} for i, x in enumerate(given.pop("loads", [{}]))]
    cable = {"family": "flat_twin_cpc_pvc70", "csa": 6, **given.pop("cable", {})}
    device = {**DEVICE, **given.pop("device", {})}
    return {
        "id": id, "name": id, "board": "b", "device": device, "loads": loads,
        "run": {"id": f"{id}-run", "cable": cable, "spans": spans}, **given,
    }  # fmt: skip


def submain(id: str = "m", **given: Any) -> dict[str, Any]:
    """Return a sub-main from board b to board far: 10 mm2 armoured, 30 m in a duct, B40, unless given otherwise."""
    return circuit(
        id,
        **{
            "feeds": "far", "loads": [], "device": {"rating": 40, **given.pop("device", {})},
            "cable": {"family": "armoured_xlpe90", "csa": 10, **given.pop("cable", {})},
            "spans": given.pop("spans", [{"place": "duct", "length": 30}]), **given,
        },
    )  # fmt: skip


def job(*circuits: dict[str, Any], supply: dict[str, Any] | None = None, boards: list[Any] | None = None, **more: Any) -> Installation:
    """Return an installation with these circuits on board b, or on the boards named; a board may be given by its fields."""
    data = {
        "supply": {**SUPPLY, **(supply or {})},
        "boards": [{"name": b, "id": b} if isinstance(b, str) else {"name": b["id"], **b} for b in boards or ["b"]],
        "circuits": list(circuits) or [circuit()],
        **more,
    }
    return parse(Installation, data)
