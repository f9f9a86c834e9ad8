"""Circuits with a fault put in, read by the stand-in of the instrument, and what is concluded from the readings: python -m tests.simulated 1000"""

from __future__ import annotations

import random
import sys
from collections import Counter
from math import inf

from mellow_span.core.rulesets import rule_set
from mellow_span.core.site.fit import Cause, Read, Sizes, fit
from mellow_span.core.site.network import Network
from mellow_span.standins import under_test

# A borrowed neutral shows in the insulation alone, and is told by a rule of its own.
FAULTS = tuple(f for f in under_test.FAULTS if f != "borrowed_neutral")
PAIRS = {1.0: 1.0, 1.5: 1.0, 2.5: 1.5, 4.0: 1.5, 6.0: 2.5, 10.0: 4.0, 16.0: 6.0}


def ohms(csa: float) -> float:
    return rule_set("bs7671").by_name["resistance"].cell(csa, "cu_mohm_per_m_20C").value / 1000


def simulated(seed: int, fault: str) -> tuple[under_test.Fault, tuple[Cause, ...]]:
    """A circuit by a seed, with a fault, and the causes its readings point to."""
    chance = random.Random(seed * 7 + 1)
    # A path beside the cpc cannot show in the dead tests of a ring, whose cpc is parted from everything.
    ring = fault in ("broken_ring", "bridged_ring") or (chance.random() < 0.5 and fault != "parallel_path")
    csa = 2.5 if ring else chance.choice([2.5, 4.0, 6.0] if fault == "thin_cpc" else [1.5, 2.5, 4.0, 6.0])
    length = round(chance.uniform(30, 90) if ring else chance.uniform(12, 45), 1)
    count = chance.randint(4, 8) if ring else chance.randint(2, 5)
    outlets = [round(length * (k + 1) / (count + (1 if ring else 0)), 2) for k in range(count)]
    smaller = max((s for s in PAIRS if s < PAIRS[csa]), default=None)
    circuit = under_test.Circuit(
        ring, length, ohms(csa), ohms(csa), ohms(PAIRS[csa]), outlets, chance.choice([0.2, 0.35, 0.6]), chance.choice([0.2, 0.35]),
        thinner=ohms(smaller) / ohms(PAIRS[csa]) if smaller else 1.6,
    )  # fmt: skip
    there = under_test.put_in(circuit, fault, seed)
    dead = ("cross_ln", "cross_le") if ring else ("r1r2", "r2_lead")
    asked = [(q, 0.0) for q in ("r1", "rn", "r2") if ring] + [(q, at) for at in outlets for q in dead]
    asked += [("zs", outlets[count // 2] if ring else outlets[-1])] + ([] if ring else [("ipf", outlets[-1])])
    reads = []
    for quantity, at in asked:
        value, _ = there.read(quantity, at)
        reads.append(Read(quantity, at, (0.0 if quantity == "ipf" else inf) if value is None else float(value)))
    network = Network(ring, length, circuit.line, circuit.neutral, circuit.cpc, circuit.z_le, circuit.z_ln)
    sizes = Sizes({s: (ohms(s), ohms(c)) for s, c in PAIRS.items() if s != csa}, {s: ohms(s) for s in PAIRS if s != PAIRS[csa]})
    return there.fault, fit(network, reads, [(at, f"outlet {k + 1}") for k, at in enumerate(outlets)], sizes)


def right(fault: under_test.Fault, causes: tuple[Cause, ...]) -> bool:
    """Whether the first cause is the fault that was put in."""
    return bool(causes) and causes[0].id.startswith(fault.right)


def main(count: int) -> None:
    """Print how often the first cause is right, fault by fault."""
    hits, all_of = Counter[str](), Counter[str]()
    for seed in range(count):
        name = FAULTS[seed % len(FAULTS)]
        fault, causes = simulated(seed, name)
        all_of[name] += 1
        hits[name] += right(fault, causes)
    for name in FAULTS:
        print(f"{name:18} {hits[name]:4} of {all_of[name]}")
    print(f"{'together':18} {100 * sum(hits.values()) / count:.1f} %")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 1000)
