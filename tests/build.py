"""Short ways to write an installation down in a test."""

from __future__ import annotations

from typing import Any

from mellow_span.core.model import Installation
from mellow_span.core.parse import parse

SUPPLY = {"earthing": "TN-C-S", "ze": 0.28, "ipf": 920, "ze_source": "measured", "ipf_source": "measured"}
DEVICE = {"kind": "mcb", "curve": "B", "rating": 32, "icn": 6000}


def circuit(id: str = "c", **given: Any) -> dict[str, Any]:
    """Return a circuit: 6 mm2 flat twin, 10 m clipped, B32, 6 kW, unless given otherwise; spans and loads take what differs."""
    spans = [{"id": f"{id}-s{i}", "place": "masonry", "length": 10, **s} for i, s in enumerate(given.pop("spans", [{}]))]
    loads = [{"id": f"{id}-l{i}", "amount": 6000, **x} for i, x in enumerate(given.pop("loads", [{}]))]
    cable = {"family": "flat_twin_cpc_pvc70", "csa": 6, **given.pop("cable", {})}
    device = {**DEVICE, **given.pop("device", {})}
    return {"id": id, "board": "b", "device": device, "loads": loads, "run": {"id": f"{id}-r", "cable": cable, "spans": spans}, **given}


def job(*circuits: dict[str, Any], supply: dict[str, Any] | None = None, boards: list[str] | None = None) -> Installation:
    """Return an installation with these circuits on board b, or on the boards named."""
    names = boards or ["b"]
    data = {
        "supply": {**SUPPLY, **(supply or {})},
        "boards": [{"id": name, "name": name} for name in names],
        "circuits": list(circuits) or [circuit()],
    }
    return parse(Installation, data)
