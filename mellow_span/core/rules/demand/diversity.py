"""What is allowed for several loads of one kind after diversity."""

from __future__ import annotations

from dataclasses import dataclass

from mellow_span.core.adding import added
from mellow_span.core.model.parts import Load
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.working.recorders import Working


@dataclass(frozen=True, slots=True)
class Item:
    """One load as the diversity rules see it: its kind, its current [A] on each phase it loads, and its own allowance if it has one."""

    kind: str
    amps: float
    load: Load
    phases: tuple[str, ...]
    three: bool = False

    @property
    def counts(self) -> float:
        """What counts in a demand before any rule [A]: its current, no more than a load management lets it draw."""
        return self.amps if self.load.managed is None else min(self.amps, self.load.managed)

    @property
    def alone(self) -> float:
        """What it counts by itself [A]: its own allowance where it has one, else what it may draw."""
        load = self.load
        if load.diverse_amps is not None:
            return load.diverse_amps
        return self.counts if load.diversity is None else load.diversity * self.counts

    @property
    def has_own(self) -> bool:
        """Whether the load has an allowance of its own, by the user's factor or amperes, and is out of the rule."""
        return self.load.diversity is not None or self.load.diverse_amps is not None


def allowances(w: Working, items: list[Item], where: str = "") -> list[float]:
    """Return what is allowed for each of several loads of one kind after diversity [A], in their order.

    The rule of the kind is a row of figures: so many of the largest in full, or so many amperes of the sum in full, and a share of the
    rest; cooking adds 5 A where a control unit has a socket-outlet. A load's own factor or amperes take it out of the rule, and
    one that a load management holds back counts no more than it lets through (311.1). where: words for the phase.
    """
    found = [_own(w, item) for item in items]
    ruled = [i for i, own in enumerate(found) if own is None]
    if ruled:
        kind = items[ruled[0]].kind
        row = {name: w.rules.table(T.DIVERSITY).cell(kind, name).value for name in ("full_count", "full_amps", "rest_share", "socket_amps")}
        share = w.look("share", T.DIVERSITY, kind, "rest_share", kind.replace("_", " ") + where)
        amps = [_held(w, items[i]) for i in ruled]
        allowed = _pooled(w, row, amps) if row["full_amps"] else _ranked(w, int(row["full_count"]), share, amps)
        for i, value in zip(ruled, allowed, strict=True):
            found[i] = value
        with_socket = next((i for i in ruled if items[i].load.control_socket), None)
        if row["socket_amps"] and with_socket is not None:
            more = w.look("socket", T.DIVERSITY, kind, "socket_amps", "socket-outlet in the control unit")
            found[with_socket] = (found[with_socket] or 0.0) + more
    return [value or 0.0 for value in found]


def _held(w: Working, item: Item) -> float:
    """What may be drawn [A], with its step where a load management holds it back."""
    if item.load.managed is None:
        return item.amps
    terms = {"I": item.amps, "cap": item.load.managed}
    return w.calc("I", item.counts, "A", "min(I, cap)", terms, C.DEMAND, f"{item.load.name or item.kind}: limited by load management")


def _own(w: Working, item: Item) -> float | None:
    name = item.load.name or item.kind
    if item.load.diverse_amps is not None:
        return w.given("I", item.load.diverse_amps, "A", f"{name}: own allowance")
    if item.load.diversity is not None:
        terms = {"factor": item.load.diversity, "I": _held(w, item)}
        return w.calc("I", item.load.diversity * item.counts, "A", "factor × I", terms, C.DEMAND, f"{name}: own factor")
    return None


def _pooled(w: Working, row: dict[str, float], amps: list[float]) -> list[float]:
    """So many amperes of the sum in full and a share of the excess, spread over the loads in proportion."""
    total, full, share = added(amps), row["full_amps"], row["rest_share"]
    if total <= full:
        return amps
    terms = {"full": full, "share": share, "ΣI": total}
    allowed = w.calc("I", full + share * (total - full), "A", "full + share × (ΣI − full)", terms, C.DEMAND)
    return [allowed * one / total for one in amps]


def _ranked(w: Working, count: int, share: float, amps: list[float]) -> list[float]:
    """So many of the largest in full, a share of each other."""
    full = set(sorted(range(len(amps)), key=lambda i: -amps[i])[:count])
    found = [one if i in full else share * one for i, one in enumerate(amps)]
    terms = {"full": added(amps[i] for i in full), "share": share, "rest": added(one for i, one in enumerate(amps) if i not in full)}
    w.calc("I", added(found), "A", "full + share × rest", terms, C.DEMAND)
    return found
