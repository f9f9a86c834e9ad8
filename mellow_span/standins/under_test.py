"""A made-up circuit on a bench, with faults put in, as an instrument would meet it: conductors as a network of resistors that is solved node by node.

It is apart from the rules and formulas of the app on purpose, so that what the app concludes from readings is tested against another way to get them.
"""

from __future__ import annotations

import random
from dataclasses import dataclass, field, replace
from itertools import pairwise
from typing import Any

FAULTS = (
    "none", "loose_terminal", "wrong_length", "thin_cpc", "swapped_polarity", "broken_ring", "bridged_ring", "borrowed_neutral", "parallel_path",
    "parallel_in_use", "leads_not_nulled", "rings_interchanged", "spur_on_ring", "longer_leg", "broken_run", "other_supply",
)  # fmt: skip
CONDUCTORS = ("line", "neutral", "cpc")
OF_A_RING = ("broken_ring", "bridged_ring", "rings_interchanged", "spur_on_ring")
OF_A_RADIAL = ("parallel_path", "broken_run")
# A point at the end of a spur has its node so far away from those along the run [m].
ASIDE = 1e5
# What joins two things by a test lead or a solid connection [ohm], what counts as open [ohm], and what an instrument can show at most [ohm, Mohm].
SOLID, OPEN, MOST, MOST_INSULATION = 1e-4, 1e9, 200.0, 999.0
Node = tuple[str, float]


@dataclass
class Circuit:
    """What lies on the bench. length: along the run, of a ring all round [m]; line, neutral, cpc [ohm/m]; outlets: positions [m]; loops [ohm]."""

    ring: bool
    length: float
    line: float
    neutral: float
    cpc: float
    outlets: list[float]
    z_le: float = 0.35
    z_ln: float = 0.35
    u0: float = 230.0
    idn: float = 0.0
    delayed: bool = False
    amps: float = 0.0
    # How much thinner the next smaller cpc conducts.
    thinner: float = 1.6


@dataclass
class Fault:
    """What is wrong: its name and where and how much. right: how the app names it when it is right."""

    name: str = "none"
    conductor: str = ""
    at: float = 0.0
    other: float = 0.0
    ohm: float = 0.0
    factor: float = 1.0
    right: str = "none"


@dataclass
class UnderTest:
    """A circuit with a fault in it and an instrument before it."""

    circuit: Circuit
    fault: Fault
    chance: random.Random
    # The run is never quite as long as it was drawn, and what leads and clips add is not quite taken away.
    stretch: float = 1.0
    leads: float = 0.0
    _points: list[float] = field(default_factory=list)

    def read(self, quantity: str, at: float | None = None) -> tuple[float | bool | None, str]:
        """Return what the instrument shows and its unit: a figure, yes or no, or None past its range. Raises ValueError for what it cannot do."""
        where = self.circuit.outlets[-1] if at is None else at
        if quantity in ("polarity", "rotation", "functional", "tight"):
            return self._yes(quantity, where), ""
        if quantity.startswith("ir_"):
            return self._insulation(quantity), "Mohm"
        if quantity.startswith("rcd_"):
            return self._rcd(quantity), "ms"
        if quantity == "amps":
            return round(self.circuit.amps * self.chance.uniform(0.97, 1.03), 1), "A"
        true = self._true(quantity, where)
        if quantity == "ipf":
            return (None if true > OPEN / 10 else round(self.circuit.u0 / self._noisy(true, 0.02))), "A"
        shown = self._noisy(true, 0.02) if quantity == "zs" else self._noisy(true, 0.01, self._not_nulled())
        return (None if shown > MOST else round(shown, 2)), "ohm"

    def trips(self, quantity: str) -> bool:
        """Whether a residual current device before the circuit trips while a live test is done: load comes back by another circuit's neutral."""
        return self.fault.name == "borrowed_neutral" and self.circuit.idn > 0 and quantity in ("zs", "functional")

    def _not_nulled(self) -> float:
        return self.fault.ohm if self.fault.name == "leads_not_nulled" else 0.0

    def _noisy(self, true: float, share: float, more: float = 0.0) -> float:
        return max(0.0, true * (1 + self.chance.gauss(0, share)) + self.chance.gauss(0, 0.004) + self.leads + more)

    def _yes(self, quantity: str, at: float) -> bool:
        if quantity == "polarity":
            return not (self.fault.name == "swapped_polarity" and abs(self.fault.at - at) < 1e-9)
        return not (quantity == "tight" and self.fault.name == "loose_terminal" and abs(self.fault.at - at) < 1e-9)

    def _insulation(self, quantity: str) -> float | None:
        if self.fault.name == "borrowed_neutral" and quantity in ("ir_ne", "ir_live_e"):
            # The other circuit's neutral is still joined to the installation's.
            return 0.0
        found = self.chance.uniform(250, 1500)
        return None if found > MOST_INSULATION else round(found)

    def _rcd(self, quantity: str) -> float | None:
        if not self.circuit.idn or quantity == "rcd_half":
            return None
        if quantity == "rcd_5":
            return round(self.chance.uniform(60, 110) if self.circuit.delayed else self.chance.uniform(8, 25), 1)
        return round(self.chance.uniform(150, 300) if self.circuit.delayed else self.chance.uniform(18, 40), 1)

    def _true(self, quantity: str, at: float) -> float:
        """The resistance between the two terminals that a test is at [ohm], by solving the network."""
        c = self.circuit
        ends = {"r1": "line", "rn": "neutral", "r2": "cpc"}
        if quantity in ends and c.ring:
            return self._solve([], (ends[quantity], 0.0), (ends[quantity], c.length))
        if self.fault.name == "spur_on_ring" and abs(self.fault.at - at) < 1e-9:
            at += ASIDE
        live, other = (
            ("neutral", "line") if self.fault.name == "swapped_polarity" and abs(self.fault.at - at) < 1e-9 else ("line", "neutral")
        )
        closed = [((x, 0.0), (x, c.length), SOLID) for x in CONDUCTORS] if c.ring else []
        if quantity in ("cross_ln", "cross_le") and c.ring:
            to = "neutral" if quantity == "cross_ln" else "cpc"
            crosswise = [(("line", 0.0), (to, c.length), SOLID), (("line", c.length), (to, 0.0), SOLID)]
            return self._solve(crosswise, (live, at), (other if to == "neutral" else "cpc", at))
        closed.append((("earth", 0.0), ("cpc", 0.0), SOLID))
        linked = [(("line", 0.0), ("cpc", 0.0), SOLID)]
        if quantity == "r1r2":
            return self._solve(closed + linked, (live, at), ("cpc", at))
        if quantity == "r2_lead":
            return self._solve(closed, ("cpc", 0.0), ("cpc", at))
        if quantity == "zs":
            beside = [(("cpc", self.fault.at), ("earth", 0.0), self.fault.ohm)] if self.fault.name == "parallel_in_use" else []
            z = c.z_le * self._supply()
            return self._solve([*closed, *beside, (("line", 0.0), ("cpc", 0.0), z)], (live, at), ("cpc", at))
        if quantity == "ipf":
            return self._solve([*closed, (("line", 0.0), ("neutral", 0.0), c.z_ln * self._supply())], (live, at), (other, at))
        raise ValueError(f"{quantity} cannot be read here")

    def _supply(self) -> float:
        return self.fault.factor if self.fault.name == "other_supply" else 1.0

    def _solve(self, joined: list[tuple[Node, Node, float]], start: Node, end: Node) -> float:
        edges = self._edges() + joined
        nodes = sorted({n for a, b, _ in edges for n in (a, b)} | {start, end})
        index = {n: i for i, n in enumerate(nodes)}
        size = len(nodes)
        # A hair of conductance to earth keeps parts that hang in the air solvable.
        matrix = [[0.0] * (size + 1) for _ in range(size)]
        for i in range(size):
            matrix[i][i] = 1 / OPEN / 10
        for a, b, ohm in edges:
            g = 1 / max(ohm, SOLID)
            i, j = index[a], index[b]
            matrix[i][i] += g
            matrix[j][j] += g
            matrix[i][j] -= g
            matrix[j][i] -= g
        matrix[index[start]][size], matrix[index[end]][size] = 1.0, -1.0
        volts = _eliminated(matrix)
        return volts[index[start]] - volts[index[end]]

    def _edges(self) -> list[tuple[Node, Node, float]]:
        c, f = self.circuit, self.fault
        points = sorted({0.0, *c.outlets, *([c.length] if c.ring else []), *([f.at] if f.name in ("broken_ring", "broken_run") else [])})
        factor = self.stretch * (f.factor if f.name == "wrong_length" else 1.0)
        found: list[tuple[Node, Node, float]] = []
        for conductor in CONDUCTORS:
            own = getattr(c, conductor) * factor * (f.factor if f.name == "thin_cpc" and conductor == "cpc" else 1.0)
            for a, b in pairwise(points):
                loose = f.ohm if f.name == "loose_terminal" and f.conductor == conductor and b == f.at else 0.0
                more = f.other if f.name == "longer_leg" and b == f.at else 0.0
                broken = f.name in ("broken_ring", "broken_run") and f.conductor == conductor and b == f.at
                # The second end at its terminals is another ring's: this ring's last leg ends elsewhere.
                if not broken and not (f.name == "rings_interchanged" and b == c.length):
                    found.append(((conductor, a), (conductor, b), own * (b - a + more) + loose))
            if f.name == "spur_on_ring":
                found.append(((conductor, f.at), (conductor, f.at + ASIDE), own * f.other))
            if f.name == "bridged_ring":
                found.append(((conductor, f.at), (conductor, f.other), 0.005))
        if f.name == "parallel_path":
            # Through pipes and bonding to the main earthing terminal: no way round where the cpc is parted from that.
            found.append((("cpc", f.at), ("earth", 0.0), f.ohm))
        return found


def _eliminated(m: list[list[float]]) -> list[float]:
    """Solve a set of linear equations by Gauss's elimination with the largest pivot."""
    size = len(m)
    for k in range(size):
        pivot = max(range(k, size), key=lambda i: abs(m[i][k]))
        m[k], m[pivot] = m[pivot], m[k]
        for i in range(k + 1, size):
            factor = m[i][k] / m[k][k]
            if factor:
                for j in range(k, size + 1):
                    m[i][j] -= factor * m[k][j]
    found = [0.0] * size
    for k in range(size - 1, -1, -1):
        found[k] = (m[k][size] - sum(m[k][j] * found[j] for j in range(k + 1, size))) / m[k][k]
    return found


def put_in(circuit: Circuit, name: str, seed: int) -> UnderTest:
    """Put a fault into a circuit, where and how much by a seed. Raises ValueError for a fault that the circuit cannot have."""
    chance = random.Random(seed)
    if name not in FAULTS:
        raise ValueError(f"no such fault: one of {', '.join(FAULTS)}")
    if name in OF_A_RING and not circuit.ring:
        raise ValueError(f"{name} needs a ring")
    if name == "bridged_ring" and len(circuit.outlets) < 3:
        raise ValueError("a bridge needs three outlets")
    made = {
        "none": lambda: Fault(),
        "loose_terminal": lambda: _loose(circuit, chance),
        "wrong_length": lambda: Fault(name, factor=chance.choice([chance.uniform(0.5, 0.75), chance.uniform(1.3, 2.0)]), right="length"),
        "thin_cpc": lambda: Fault(name, factor=circuit.thinner, right="cpc:"),
        "swapped_polarity": lambda: _swapped(circuit, chance),
        "broken_ring": lambda: _broken(circuit, chance),
        "broken_run": lambda: _parted(circuit, chance),
        "bridged_ring": lambda: _bridged(circuit, chance),
        "borrowed_neutral": lambda: Fault(name, right="borrowed"),
        "parallel_path": lambda: Fault(name, at=_beyond(circuit, chance), ohm=_r2(circuit) * chance.uniform(0.15, 0.8), right="parallel"),
        "parallel_in_use": lambda: Fault(name, at=_read_live(circuit), ohm=_r2(circuit) * chance.uniform(0.02, 0.1), right="parallel"),
        "leads_not_nulled": lambda: Fault(name, ohm=chance.uniform(0.08, 0.5), right="leads"),
        "rings_interchanged": lambda: Fault(name, right="interchanged"),
        "spur_on_ring": lambda: Fault(name, at=chance.choice(circuit.outlets), other=chance.uniform(6, 20), right="spur:"),
        "longer_leg": lambda: _longer(circuit, chance),
        "other_supply": lambda: Fault(name, factor=chance.choice([chance.uniform(0.3, 0.5), chance.uniform(1.8, 3.0)]), right="supply"),
    }[name]()
    return UnderTest(circuit, made, chance, stretch=chance.uniform(0.98, 1.02), leads=chance.uniform(0, 0.01))


def _r2(c: Circuit) -> float:
    return c.cpc * c.length / (4 if c.ring else 1)


def _loose(c: Circuit, chance: random.Random) -> Fault:
    conductor = chance.choice(CONDUCTORS)
    return Fault(
        "loose_terminal", conductor, chance.choice(c.outlets), ohm=chance.choice([0.15, 0.3, 0.6, 1.5]), right=f"joint:{conductor}"
    )


def _swapped(c: Circuit, chance: random.Random) -> Fault:
    at = chance.choice(c.outlets)
    return Fault("swapped_polarity", at=at, right=f"swapped:{at:g}")


def _broken(c: Circuit, chance: random.Random) -> Fault:
    conductor = chance.choice(CONDUCTORS)
    edges = [0.0, *c.outlets, c.length]
    k = chance.randrange(len(edges) - 1)
    return Fault("broken_ring", conductor, at=(edges[k] + edges[k + 1]) / 2, right=f"broken:{conductor}")


def _parted(c: Circuit, chance: random.Random) -> Fault:
    """A conductor of a radial is broken somewhere before an outlet; of a ring with one, that is a broken ring."""
    if c.ring:
        return replace(_broken(c, chance), name="broken_run")
    conductor = chance.choice(CONDUCTORS)
    edges = [0.0, *c.outlets]
    k = chance.randrange(len(edges) - 1)
    return Fault("broken_run", conductor, at=(edges[k] + edges[k + 1]) / 2, right=f"broken:{conductor}")


def _longer(c: Circuit, chance: random.Random) -> Fault:
    """One leg goes a way round: of a radial somewhere along it, of a ring anywhere round; with few outlets that reads as a longer run."""
    return Fault(
        "longer_leg",
        at=chance.choice([*c.outlets, *([c.length] if c.ring else [])]),
        other=c.length * chance.uniform(0.3, 0.8),
        right="leg",
    )


def _read_live(c: Circuit) -> float:
    """The outlet where the loop is read: half way round a ring, else the last."""
    return c.outlets[len(c.outlets) // 2] if c.ring else c.outlets[-1]


def _beyond(c: Circuit, chance: random.Random) -> float:
    """An outlet from which on a path beside the cpc leaves: not the very first, where it would lie beside next to nothing."""
    return chance.choice(c.outlets[len(c.outlets) // 2 :])


def _bridged(c: Circuit, chance: random.Random) -> Fault:
    i = chance.randrange(len(c.outlets) - 2)
    j = chance.randrange(i + 2, len(c.outlets))
    return Fault("bridged_ring", at=c.outlets[i], other=c.outlets[j], right="bridged")


def described(data: dict[str, Any]) -> Circuit:
    """Return a circuit from plain data. Raises ValueError, TypeError."""
    made = Circuit(**data)
    numbers = [made.length, made.line, made.neutral, made.cpc, made.z_le, made.z_ln, made.u0]
    if not all(isinstance(n, int | float) and 0 < n < 1e6 for n in numbers):
        raise ValueError("lengths, resistances and voltages lie above 0")
    if (
        not made.outlets
        or len(made.outlets) > 40
        or made.outlets != sorted(made.outlets)
        or not 0 < made.outlets[0] <= made.outlets[-1] <= made.length
    ):
        raise ValueError("1 to 40 outlets in order along the run")
    return made
