"""What is usual in the trade: sizes that appliances are sold in, and the largest conductors that the terminals of accessories take.

Guidance, not of any book: nothing passes or fails by it. Ways out are made to it, so that none asks for what nobody sells.
"""

from __future__ import annotations

import csv
from collections import defaultdict
from functools import cache
from pathlib import Path

from mellow_span.core.model.parts import Circuit, Load

SHIPPED = Path(__file__).parent / "usual_sizes"
# A load that comes in no usual sizes is made smaller by this many watts or amperes.
STEP_W, STEP_A = 100, 1


@cache
def _watts() -> dict[str, tuple[float, ...]]:
    found: dict[str, list[float]] = defaultdict(list)
    for row in csv.DictReader((SHIPPED / "appliances.csv").read_text("utf-8").splitlines()):
        found[row["kind"]].append(float(row["watts"]))
    return {kind: tuple(sorted(watts)) for kind, watts in found.items()}


@cache
def _terminals() -> dict[str, float]:
    return {row["what"]: float(row["csa"]) for row in csv.DictReader((SHIPPED / "terminals.csv").read_text("utf-8").splitlines())}


def usual_amount(load: Load, most: float) -> float | None:
    """Return the largest amount up to `most` [W or A, as the load has it] that such a load is sold in; None where there is none so small."""
    if load.basis == "W" and load.kind in _watts():
        return max((w for w in _watts()[load.kind] if w <= most * (1 + 1e-9)), default=None)
    step = STEP_W if load.basis == "W" else STEP_A
    amount = float((most + 1e-9) // step * step)
    return amount if amount > 0 else None


def terminals_take(circuit: Circuit) -> float | None:
    """Return the largest csa [mm2] that the terminals at the end of a final usually take, as entered where it is; None where nobody can say."""
    if circuit.feeds:
        return None
    if circuit.accessory_csa is not None:
        return circuit.accessory_csa
    there = [circuit.accessory] if circuit.accessory else [load.kind for load in circuit.loads]
    known = [csa for what in there if what and (csa := _terminals().get(what)) is not None]
    return min(known, default=None)
