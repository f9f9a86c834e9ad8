"""How far the volt drop lets a run reach, and where along it the volts are lost."""

from __future__ import annotations

from mellow_span.core.adding import added
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.demand.loads import ib_of
from mellow_span.core.rules.drop.figures import _at, _electrical, column_of
from mellow_span.core.rules.drop.points import taps
from mellow_span.core.rules.drop.run import LIMIT_KEYS, drop_limit, nominal, run_shares, starts
from mellow_span.core.units import MM_PER_M
from mellow_span.core.working.recorders import Working


def reach(w: Working, case: Case) -> float | None:
    """Return the longest length of this run [m] that stays within the limit, all else alike; None where the drop is nil."""
    quiet = w.quiet()
    if case.feed.drop is None:
        return None
    own, before = run_shares(quiet, case), starts(case)
    # The phase that is worst at the far point is the one that ends the reach.
    pairs = [(before[i % len(before)], own[i % len(own)]) for i in range(max(len(before), len(own)))]
    start_drop, share = max(pairs, key=added)
    per_m = share / case.length
    if per_m <= 0:
        return None
    ahead = case.feed.length
    base = drop_limit(quiet, case, 0.0) - start_drop
    start, grow, most = (w.constant(key) for key in ("vd_long_from", "vd_long_per_m", "vd_long_most"))
    # A ring is twice as long as its far point is away.
    way = 2 if case.ring else 1
    found = way * _chain_reach(per_m * way, ahead, base, start, grow, most)
    if case.supply.private and not case.circuit.feeds:
        ahead_share = max((case.feed.run.shares or ()) if case.feed.run else (), default=0.0)
        found = min(found, max(0.0, w.constant(LIMIT_KEYS[(case.lighting, False)]) - ahead_share) / per_m)
    return found


def _chain_reach(per_m: float, ahead: float, base: float, start: float, grow: float, most: float) -> float:
    if (plain := base / per_m) + ahead <= start:
        return max(0.0, plain)
    if per_m > grow and (longer := (base + grow * (ahead - start)) / (per_m - grow)) + ahead <= start + most / grow:
        return max(0.0, longer)
    return max(0.0, (base + most) / per_m)


def along(w: Working, case: Case, share: float, parts: int = 12) -> list[tuple[float, float]]:
    """Return points (m from the board, % dropped) along the run; a ring's as the curve its load draws.

    share: drop of the whole run [%].
    """
    if any(load.at is not None for load in case.circuit.loads):
        return _along_taps(w, case)
    if not case.ring:
        return _along_radial(w, case, share)
    length, rating = case.length, case.rating
    far = w.constant("ring_far_load")
    whole = rating / 4 - (rating - far) / 8
    points = []
    for i in range(parts * 2 + 1):
        x = length * i / (parts * 2)
        near = min(x, length - x)
        part = (rating / 2) * near / length - (rating - far) / 2 * (near / length) ** 2
        points.append((x, share * part / whole))
    return points


def _along_radial(w: Working, case: Case, share: float) -> list[tuple[float, float]]:
    if case.circuit.drop_method == "worst" and len({column_of(case, span) for span in case.spans}) == 1:
        # One figure for the whole run: the drop grows with the length alone.
        at, points = 0.0, [(0.0, 0.0)]
        for span in case.spans:
            at += span.length or 0.0
            points.append((at, share * at / case.length))
        return points
    edges = _electrical(w.quiet(), case, ib_of(w, case))
    whole = edges[-1][1]
    return [(at, share * so_far / whole) for at, so_far in edges]


def _along_taps(w: Working, case: Case) -> list[tuple[float, float]]:
    """Points where loads are taken off and where spans meet: the drop is straight between them."""
    points = taps(w, case)
    total = added(current for _, current in points)
    edges = _electrical(w.quiet(), case, total)
    whole, u = edges[-1][1], nominal(w.quiet(), case)
    carried = added(i * (1 - _at(edges, at) / whole) for at, i in points) if case.ring else total
    places = sorted({0.0, *(at for at, _ in edges), *(at for at, _ in points)})
    found, drop, before = [(0.0, 0.0)], 0.0, 0.0
    for place in places[1:]:
        here = _at(edges, place)
        drop += carried * (here - before) / MM_PER_M
        found.append((place, 100 * drop / u))
        carried -= added(i for at, i in points if at == place)
        before = here
    return found
