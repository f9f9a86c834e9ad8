"""Circuits with a fault put in, read by the stand-in of the instrument, and what is concluded from the readings: python -m tests.simulated 1000"""

from __future__ import annotations

import random
import sys
from collections import Counter
from dataclasses import dataclass
from math import inf

from mellow_span.core.rulesets import rule_set
from mellow_span.core.site.fit import Cause, Read, Sizes, fit
from mellow_span.core.site.network import Network, shown
from mellow_span.standins import under_test

# A borrowed neutral shows in the insulation alone, and is told by a rule of its own.
FAULTS = tuple(f for f in under_test.FAULTS if f != "borrowed_neutral")
PAIRS = {1.0: 1.0, 1.5: 1.0, 2.5: 1.5, 4.0: 1.5, 6.0: 2.5, 10.0: 4.0, 16.0: 6.0}


def ohms(csa: float) -> float:
    return rule_set("bs7671").by_name["resistance"].cell(csa, "cu_mohm_per_m_20C").value / 1000


@dataclass(frozen=True)
class Simulated:
    """A fault that was put in, the causes its readings point to, and whether one of them is off by itself."""

    fault: under_test.Fault
    causes: tuple[Cause, ...]
    red: bool


def simulated(seed: int, fault: str) -> Simulated:
    """A circuit by a seed, with a fault, and the causes its readings point to."""
    chance = random.Random(seed * 7 + 1)
    # A path beside the cpc cannot show in the dead tests of a ring, whose cpc is parted from everything.
    ring = fault in under_test.OF_A_RING or (chance.random() < 0.5 and fault not in under_test.OF_A_RADIAL)
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
    asked += [("zs", outlets[count // 2] if ring else outlets[-1]), ("ipf", outlets[count // 2] if ring else outlets[-1])]
    reads = []
    for quantity, at in asked:
        value, _ = there.read(quantity, at)
        reads.append(Read(quantity, at, (0.0 if quantity == "ipf" else inf) if value is None else float(value)))
    network = Network(ring, length, circuit.line, circuit.neutral, circuit.cpc, circuit.z_le, circuit.z_ln)
    sizes = Sizes({s: (ohms(s), ohms(c)) for s, c in PAIRS.items() if s != csa}, {s: ohms(s) for s in PAIRS if s != PAIRS[csa]})
    causes = fit(network, reads, [(at, f"outlet {k + 1}") for k, at in enumerate(outlets)], sizes)
    return Simulated(there.fault, causes, red(circuit, reads, network))


def right(fault: under_test.Fault, causes: tuple[Cause, ...], among: int = 1) -> bool:
    """Whether the fault that was put in is the first cause, or among so many. One leg of a ring that is longer reads as a longer ring."""
    ids = [c.id for c in causes[:among]]
    return any(i.startswith(fault.right) or (fault.right == "leg" and i == "length") for i in ids)


def red(circuit: under_test.Circuit, reads: list[Read], network: Network) -> bool:
    """Whether a reading by itself is off: 10 % or 0.03 ohm from its prediction."""
    return any(
        (r.value == inf) != (here == inf)
        or (r.value != inf and abs(r.value - here) > max(0.1 * here, 0.03 if r.quantity != "ipf" else 0.0))
        for r in reads
        for here in [shown(network, r.quantity, r.at)]
    )


def main(count: int) -> None:
    """Print how often the first cause is right and it is among three, fault by fault; and how often a fault is missed while nothing is off."""
    first, three, missed, all_of = Counter[str](), Counter[str](), Counter[str](), Counter[str]()
    told: dict[str, Counter[str]] = {}
    for seed in range(count):
        name = FAULTS[seed % len(FAULTS)]
        made = simulated(seed, name)
        all_of[name] += 1
        first[name] += right(made.fault, made.causes)
        three[name] += right(made.fault, made.causes, 3)
        missed[name] += name != "none" and made.causes[0].id == "none" and not made.red
        if not right(made.fault, made.causes):
            told.setdefault(name, Counter())[made.causes[0].id.split(":")[0]] += 1
    for name in FAULTS:
        wrong = ", ".join(f"{k} {n}" for k, n in told.get(name, Counter()).most_common(3))
        print(f"{name:18} {first[name]:4} first, {three[name]:4} among three, {missed[name]:3} missed, of {all_of[name]:4}  {wrong}")
    for title, hits in (("first", first), ("among three", three), ("missed", missed)):
        print(f"{title:18} {100 * sum(hits.values()) / count:.1f} %")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 1000)
