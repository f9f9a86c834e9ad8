"""Jobs drawn at random, sense and nonsense alike, for what must hold whatever is entered."""

from __future__ import annotations

import dataclasses
import random
from typing import Any

from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets import rule_set
from tests.build import circuit, job

R = rule_set("bs7671")
FAMILIES = list(R.families)


def random_job(rnd: random.Random) -> Installation:
    """Any job the model can hold, sense and nonsense alike."""
    boards: list[Any] = [{"id": "b", "earthing": "supply"}]
    circuits = []
    routes = [
        {"id": f"k{i}", "kind": rnd.choice(["open", "conduit", "trunking"]), "laid": rnd.choice(list(R.laid)), "others": rnd.randint(0, 6),
         "simultaneous": rnd.random() < 0.3, "diameter": rnd.choice([None, 16, 20, 25, 32]), "width": rnd.choice([None, 50, 75, 100]),
         "height": rnd.choice([None, 50, 75]), "pull": rnd.choice([None, 2, 6, 9.5, 30]), "bends": rnd.randint(0, 5), "place": rnd.choice([None, *R.places]), "length": rnd.choice([None, 0.1, 12]),
         "ambient": rnd.choice([None, 20, 35]), "wrapped": rnd.choice([None, 0, 0.05]), "ground": rnd.choice([None, 15, 55]), "soil": rnd.choice([None, 3]),
         "guarded": rnd.choice([None, True, False]), "metal_partition": rnd.choice([None, True]), "location": rnd.choice([None, "", "bathroom"])}
        for i in range(rnd.randint(0, 2))
    ]  # fmt: skip
    for i in range(rnd.randint(0, 2)):
        boards.append({"id": f"far{i}", "earthing": rnd.choice(["supply", "TT"]), "ra": rnd.choice([None, 20.0, 300.0]), "extraneous": rnd.choice([None, True, False]),
                       "bond": rnd.choice(["none", "conductor", "armour"]), "bond_csa": rnd.choice([None, 6, 16]), "rcd_idn": rnd.choice([None, 0.03, 0.1]),
                       "rcd_in": rnd.choice([None, 63]), "switch_in": rnd.choice([None, 40, 100]), "busbar_in": rnd.choice([None, 100]), "metal": rnd.choice([None, True]),
                       "class_ii": rnd.choice([None, True, False]), "electrode_distance": rnd.choice([None, 0.1, 4, 500])})  # fmt: skip
        circuits.append(random_circuit(rnd, f"m{i}", routes, board=rnd.choice([b["id"] for b in boards[:-1]]), feeds=f"far{i}"))
    for i in range(rnd.randint(0, 3)):
        circuits.append(random_circuit(rnd, f"f{i}", routes, board=rnd.choice([b["id"] for b in boards])))
    supply = {
        "phases": rnd.choice([1, 3]), "earthing": rnd.choice([None, "TN-S", "TN-C-S", "TT"]), "ze": rnd.choice([None, 0.01, 0.35, 21, 500]),
        "ipf": rnd.choice([None, 50, 920, 16000, 50000]), "private": rnd.random() < 0.2, "u0": rnd.choice([230, 110, 63.5]),
        "fuse_kind": rnd.choice([None, "BS88-2", "BS88-3", "BS1361"]), "fuse_in": rnd.choice([None, 60, 80, 100, 77]), "cmax": rnd.choice([1, 1.1]),
        "tails_csa": rnd.choice([None, 16, 25, 7]), "earthing_csa": rnd.choice([None, 6, 16]), "extraneous": rnd.choice([None, True, False]),
        "neutral_csa": rnd.choice([None, 16, 120]), "bonding_csa": rnd.choice([None, 10]), "ze_declared": rnd.choice([None, 0.8]),
        "u": rnd.choice([None, 415]), "tails_length": rnd.choice([None, 2, 5]), "tails_fused": rnd.choice([None, True, False]),
        "surge": rnd.choice([None, "fitted", "declined"]), "earthing_buried": rnd.choice(["no", "bare"]),
    }  # fmt: skip
    return job(
        *(circuits or [circuit()]), supply=supply, boards=boards, routes=routes, premises=rnd.choice(["household", "shared", "other"])
    )


def random_circuit(rnd: random.Random, id: str, routes: list[dict[str, Any]], **more: Any) -> dict[str, Any]:
    kind = rnd.choice(["mcb", "rcbo", "mccb", "BS88-2", "BS88-3", "BS1361", "BS3036", "BS1362"])
    family = rnd.choice([*FAMILIES, None])
    csa = rnd.choice([None, 1, 2.5, 4, 6, 10, 16, 35, 95, 300])
    spans = [
        {"place": rnd.choice([*R.places, None]), "length": rnd.choice([None, 0.1, 3.0, 18.5, 180, 1000]), "ambient": rnd.choice([-10, 22, 30, 41, 80]),
         "group": rnd.randint(1, 24), "laid": rnd.choice(list(R.laid)), "wrapped": rnd.choice([0, 0, 0.08]), "soil": rnd.choice([0.3, 1.2, 2.5, 4]),
         "depth": rnd.choice([0.3, 0.7, 3]), "ground": rnd.choice([0, 20, 47]), "guarded": rnd.choice([None, True, False]),
         "route": rnd.choice([None, *(b["id"] for b in routes)]), "location": rnd.choice(["", "bathroom", "outdoors", "agricultural", "pool"])}
        for _ in range(rnd.randint(0, 3))
    ]  # fmt: skip
    loads = [
        {"amount": rnd.choice([None, 0, 120, 3000, 9200, 200000]), "basis": rnd.choice(["W", "A", "In"]), "pf": rnd.choice([1, 0.3, 0.8]),
         "kind": rnd.choice(["lighting", "sockets", "cooking", "shower", "heating", "ev", "motor", "other"]), "quantity": rnd.choice([1, 2, 200]),
         "future": rnd.random() < 0.2, "diversity": rnd.choice([None, 0, 0.5]), "at": rnd.choice([None, None, 0, 2.5]), "lead_csa": rnd.choice([None, 0.5, 1.5, 3]),
         "lead_length": rnd.choice([None, 2]), "local_fuse": rnd.choice([None, 3, 5, 13]), "managed": rnd.choice([None, None, 10]),
         "interlock": rnd.choice(["", "", "hot"]), "rated_volts": rnd.choice([None, 240]), "lampholders": rnd.choice([None, True, False]),
         "outlet": rnd.choice([13, 32, 63]), "outlet_idn": rnd.choice([None, 0.03])}
        for _ in range(rnd.randint(0, 3))
    ]  # fmt: skip
    device = {
        "kind": kind, "curve": rnd.choice("BCD"), "rating": rnd.choice([None, 1, 5, 16, 30, 32, 63, 125, 1600]), "icn": rnd.choice([None, 1500, 6000, 50000]),
        "idn": rnd.choice([None, 0.006, 0.03, 0.3, 1]), "delayed": rnd.random() < 0.2, "ir": rnd.choice([None, 80]), "isd": rnd.choice([None, 500]),
        "tsd": rnd.choice([None, 0, 0.2]), "ii": rnd.choice([None, 900]), "i2t": rnd.choice([None, None, 9000]),
    }  # fmt: skip
    cable = {
        "family": family, "csa": csa, "cpc_csa": rnd.choice([None, 1, 10, 300]), "cores": rnd.choice([None, 2, 4]), "parallel": rnd.choice([1, 1, 2, 6]),
        "cpc": rnd.choice(["usual", "usual", "separate", "armour", "armour_and_core", "conduit", "trunking"]),
        "conduit": rnd.choice([None, 20, 32, 63]), "metal_area": rnd.choice([None, 110]), "metal_r": rnd.choice([None, 3]), "cpc_guarded": rnd.choice([None, True, False]),
    }  # fmt: skip
    extra = {
        "phases": rnd.choice([1, 3]), "phase": rnd.choice([None, "L1", "L3"]), "shape": rnd.choice(["radial", "radial", "ring"]),
        "overload": rnd.choice(["device", "omitted"]), "harmonics": rnd.choice([0, 20, 40, 100]), "drop_method": rnd.choice(["worst", "refined"]),
        "diversified": rnd.random() < 0.2, "common_cpc": rnd.choice(["", "", "riser"]), "ib_from": rnd.choice(["demand", "device"]),
        "terminals": rnd.choice([70, 90]), "terminals_by": "sheet", "spare": rnd.random() < 0.05, "accessory": rnd.choice([None, None, "isolator", "rotary_switch"]),
        "accessory_in": rnd.choice([None, 20, 45]), "accessory_poles": rnd.choice([None, 1, 2]), "accessory_csa": rnd.choice([None, 4, 16]),
        "supplementary_r": rnd.choice([None, None, 0.2]), "armour_ends": rnd.choice(["both", "supply"]),
    }  # fmt: skip
    return circuit(id, spans=spans, loads=loads, device=device, cable=cable, **extra, **more)


def numbers(value: Any) -> Any:
    """Every float anywhere in a result."""
    if isinstance(value, float):
        yield value
    elif dataclasses.is_dataclass(value) and not isinstance(value, type):
        for field in dataclasses.fields(value):
            yield from numbers(getattr(value, field.name))
    elif isinstance(value, dict):
        for part in value.values():
            yield from numbers(part)
    elif isinstance(value, list | tuple):
        for part in value:
            yield from numbers(part)
