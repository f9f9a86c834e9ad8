"""A run whose cable changes on the way, worked out stretch by stretch: each is of one cable, and starts from what arrives where it begins."""

from __future__ import annotations

from dataclasses import replace

from mellow_span.core.errors import CoreError
from mellow_span.core.model.legs import mixed, stretches
from mellow_span.core.rules.case import Ahead, Case, Feed
from mellow_span.core.rules.drop.run import run_shares, totals
from mellow_span.core.rules.faults.loop import loop_of
from mellow_span.core.working.recorders import Silent


def by_stretch(case: Case) -> list[Case]:
    """Return the case of each stretch of a straight run, from the device on; of a run of one cable the case itself.

    Volt drop, loops and length of the stretches before it arrive with the feed of each, so that whatever is asked of the last one is asked of the
    whole run; its device is that of the circuit.
    """
    if not mixed(case.circuit):
        return [case]
    found: list[Case] = []
    feed = case.feed
    for part in stretches(case.circuit):
        if found:
            feed = _beyond(found[-1])
        found.append(Case(case.rules, case.supply, part.circuit, feed, case.around, begins=part.begins))
    # A fault at the far end flows through all of them: the least one is that of the whole run.
    for one, after in zip(reversed(found[:-1]), reversed(found[1:]), strict=True):
        one.behind = _behind(after)
    return found


def at_end(case: Case) -> Case:
    """Return the case of what a run ends with: its last stretch, with all that is before it on its feed."""
    return by_stretch(case)[-1]


def _beyond(case: Case) -> Feed:
    """Return what arrives at the far end of a stretch; what is not known of it is not known behind it."""
    feed, quiet = case.feed, Silent(case.rules)
    last = case.circuit.run.spans[-1] if case.circuit.run.spans else None
    before = replace(feed.run or Ahead(), ground=last is not None and bool(case.place(last).ground))
    try:
        loop, length = loop_of(quiet, case), case.length
    except CoreError:
        nothing = replace(before, r1_cold=None, r2_cold=None, x=None, shares=None)
        return replace(feed, ze_cold=None, ze_hot=None, ln_cold=None, ln_hot=None, drop=None, drops=(), run=nothing)
    try:
        drops, own = totals(quiet, case), run_shares(quiet, case)
    except CoreError:
        drops, own = (), ()
    ahead = Ahead(
        before.length + length,
        _sum(before.r1_cold, loop.r1_cold), _sum(before.r2_cold, loop.r2_cold), _sum(before.x, loop.x),
        _shares(before.shares, own) if own else None, before.ground,
    )  # fmt: skip
    return replace(
        feed,
        ze_cold=_sum(feed.ze_cold, loop.cold), ze_hot=_sum(feed.ze_hot, loop.hot),
        ln_cold=_sum(feed.ln_cold, loop.ln_cold), ln_hot=_sum(feed.ln_hot, loop.ln_hot),
        drop=max(drops, default=None), drops=drops if len(drops) > 1 else (), length=feed.length + length, run=ahead,
    )  # fmt: skip


def _behind(case: Case) -> tuple[float, float]:
    """The loops of a stretch and of all behind it, hot [ohm]; of one that is not known nothing: it is told by its own checks."""
    try:
        loop = loop_of(Silent(case.rules), case)
    except CoreError:
        return case.behind
    return case.behind[0] + loop.hot, case.behind[1] + loop.ln_hot


def _sum(before: float | None, more: float) -> float | None:
    return None if before is None else before + more


def _shares(before: tuple[float, ...] | None, own: tuple[float, ...]) -> tuple[float, ...] | None:
    """The drop of the stretches so far, phase by phase where one of them is."""
    if before is None:
        return None
    if not before:
        return own
    return tuple(before[i % len(before)] + own[i % len(own)] for i in range(max(len(before), len(own))))
