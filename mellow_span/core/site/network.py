"""A circuit as an instrument sees it: its conductors with whatever may be wrong with them, and what each dead or live test would show.

Positions are along the run [m], of a ring along the whole loop. Nothing here is a rule; it is Kirchhoff's laws for a run and for a ring, whose two
legs lie in parallel, or crosswise in series where line and the other conductor are joined crosswise at the board (Guidance on ring final circuits).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from math import inf
from typing import Literal

from mellow_span.core.adding import added

Conductor = Literal["line", "neutral", "cpc"]
Quantity = Literal["r1", "rn", "r2", "r1r2", "r2_lead", "cross_ln", "cross_le", "zs", "ipf"]


@dataclass(frozen=True, slots=True)
class Joint:
    """A joint with so much resistance [ohm] in a conductor, at a position [m]."""

    conductor: Conductor
    at: float
    ohm: float


@dataclass(frozen=True, slots=True)
class Network:
    """A circuit. line, neutral, cpc: resistance of each [ohm/m] at the temperature of the readings; z_le, z_ln: loop at its board [ohm].

    joints, broken: in conductors; parallel: a path beside the cpc to the board's earth [ohm], from parallel_at [m], else the far end; in_use: that is
    there in live tests alone; bridge: two positions of a ring joined directly; swapped: positions of outlets at which line and neutral are crossed;
    longer: so many metres more before a position; spur: an outlet, by its position, so many metres off the ring; leads: what dead readings have too
    much [ohm]; interchanged: the second end at the terminals is another ring's.
    """

    ring: bool
    length: float
    line: float
    neutral: float
    cpc: float
    z_le: float | None = None
    z_ln: float | None = None
    u0: float = 230.0
    joints: tuple[Joint, ...] = ()
    broken: tuple[tuple[Conductor, float], ...] = ()
    parallel: float | None = None
    bridge: tuple[float, float] | None = None
    swapped: frozenset[float] = frozenset()
    parallel_at: float | None = None
    in_use: bool = False
    longer: tuple[float, float] | None = None
    spur: tuple[float, float] | None = None
    leads: float = 0.0
    # The cpc without the armour beside it [ohm/m], None where there is none beside it.
    core: float | None = None
    interchanged: bool = False

    def between(self, conductor: Conductor, start: float, end: float) -> float:
        """Return the resistance of a conductor from one position to a later one [ohm]."""
        if any(c == conductor and start < at <= end for c, at in self.broken):
            return inf
        if self.interchanged and start < end == self.length:
            return inf
        own: float = getattr(self, conductor)
        more = self.longer[1] if self.longer is not None and start < self.longer[0] <= end else 0.0
        return own * (end - start + more) + added(j.ohm for j in self.joints if j.conductor == conductor and start < j.at <= end)


def _beside(a: float, b: float) -> float:
    """Two resistances in parallel [ohm]."""
    if a == inf:
        return b
    if b == inf:
        return a
    return a * b / (a + b) if a + b else 0.0


def _legs(n: Network, conductor: Conductor, at: float) -> tuple[float, float, float]:
    """From an outlet: what both ways have in common, and then each leg to its end at the board [ohm]."""
    if n.bridge is None:
        return 0.0, n.between(conductor, 0.0, at), n.between(conductor, at, n.length)
    first, second = n.bridge
    a, b = n.between(conductor, 0.0, first), n.between(conductor, second, n.length)
    if at <= first:
        return 0.0, n.between(conductor, 0.0, at), n.between(conductor, at, first) + b
    if at > second:
        return 0.0, n.between(conductor, second, at) + a, n.between(conductor, at, n.length)
    return _beside(n.between(conductor, first, at), n.between(conductor, at, second)), a, b


def _ends(n: Network, conductor: Conductor) -> float:
    common, a, b = _legs(n, conductor, n.length if n.bridge is None else n.bridge[0])
    return common + a + b


def _to_board(n: Network, conductor: Conductor, at: float) -> float:
    """From an outlet to the board, the ends of a ring joined there [ohm]."""
    if not n.ring:
        return n.between(conductor, 0.0, at)
    common, a, b = _legs(n, conductor, at)
    return common + _beside(a, b) + _aside(n, conductor, at)


def _aside(n: Network, conductor: Conductor, at: float) -> float:
    """The way from an outlet on a spur to the ring [ohm]."""
    return getattr(n, conductor) * n.spur[1] if n.spur is not None and n.spur[0] == at else 0.0


def _earth(n: Network, at: float, live: bool = False) -> float:
    if n.parallel is None or (n.in_use and not live):
        return _to_board(n, "cpc", at)
    leaves = n.length if n.parallel_at is None else n.parallel_at
    near, far = min(at, leaves), max(at, leaves)
    between, home = n.between("cpc", near, far), n.between("cpc", 0.0, near)
    if not n.ring:
        # Beside the run from where it leaves; an outlet beyond has that part of the way before it.
        return _beside(home, between + n.parallel) if at <= leaves else between + _beside(home, n.parallel)
    # Round the ring there are two ways to where it leaves: it lies beside the further one.
    back = n.between("cpc", far, n.length)
    one, other = (home, back) if at <= leaves else (back, home)
    return _beside(one, between + _beside(other, n.parallel)) + _aside(n, "cpc", at)


def _loop(n: Network, at: float) -> float:
    return inf if at in n.swapped else _to_board(n, "line", at) + _earth(n, at)


def _live_loop(n: Network, at: float) -> float:
    return inf if at in n.swapped else _to_board(n, "line", at) + _earth(n, at, live=True)


def _crossed(n: Network, other: Conductor, at: float) -> float:
    """Between line and the other conductor at an outlet of a ring, joined crosswise at the board [ohm]."""
    if other == "cpc" and at in n.swapped:
        return inf
    common, a, b = _legs(n, "line", at)
    shared, c, d = _legs(n, other, at)
    return common + shared + _beside(a + d, b + c) + _aside(n, "line", at) + _aside(n, other, at)


def _zs(n: Network, at: float) -> float:
    return inf if n.z_le is None else n.z_le + _live_loop(n, at)


def _ipf(n: Network, at: float) -> float:
    if n.z_ln is None:
        return inf
    loop = n.z_ln + _to_board(n, "line", at) + _to_board(n, "neutral", at)
    return n.u0 / loop if loop < inf else 0.0


LIVE = ("zs", "ipf")
SHOWN: dict[str, Callable[[Network, float], float]] = {
    "r1": lambda n, at: _ends(n, "line"),
    "rn": lambda n, at: _ends(n, "neutral"),
    "r2": lambda n, at: _ends(n, "cpc"),
    "r1r2": _loop,
    "r2_lead": _earth,
    "cross_ln": lambda n, at: _crossed(n, "neutral", at),
    "cross_le": lambda n, at: _crossed(n, "cpc", at),
    "zs": _zs,
    "ipf": _ipf,
}


def shown(n: Network, quantity: str, at: float) -> float:
    """Return what an instrument without errors shows [ohm; A for ipf] at a position [m]; infinite where there is no way.

    >>> ring = Network(True, 60.0, 0.00741, 0.00741, 0.0121)
    >>> round(shown(ring, "r1", 0.0), 4), round(shown(ring, "cross_ln", 20.0), 4)
    (0.4446, 0.2223)
    >>> round(shown(Network(False, 20.0, 0.00461, 0.00461, 0.0121), "r1r2", 20.0), 4)
    0.3342
    """
    return SHOWN[quantity](n, at) + (0.0 if quantity in LIVE else n.leads)


def core_alone(n: Network | None, name: str, at: float | None) -> float | None:
    """Return what a test shows with the armour disconnected [ohm]; None where no armour lies beside a core, or the test does not ask it."""
    if n is None or n.core is None or name not in ("r1r2", "r2_lead"):
        return None
    return shown(replace(n, cpc=n.core), "r1r2" if name == "r1r2" else "r2_lead", at if at is not None else n.length)
