"""What a changed job costs more than the job it comes from: cable, laying, devices, digging, what is fitted, what is built in at the intake and boards.

A change for which the book has no price is named: a sum without it is no price.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import Any

from mellow_span.core.adding import added
from mellow_span.core.design.prices import PriceBook, circuit_cost
from mellow_span.core.model.parts import Board, Circuit, Installation, Supply
from mellow_span.core.model.routes import resolved
from mellow_span.core.rulesets import RuleSet

# What is fitted at one place, by the field of a load, span or circuit that says it is there.
FITTED = {
    "load": {
        "outlet_idn": "outlet_rcd",
        "local_fuse": "connection_unit",
        "lead_csa": "lead",
        "managed": "load_management",
        "interlock": "interlock",
    },
    "span": {"guarded": "plates", "fire_supports": "metal_clips"},
    "circuit": {"accessory_in": "accessory", "supplementary_r": "bond"},
}


@dataclass(slots=True)
class Price:
    """What a changed job costs more: money, digging [m], copper [kg]; missing: what of it the book has no price for, in words."""

    cost: float = 0.0
    digging: float = 0.0
    copper: float = 0.0
    missing: list[str] = field(default_factory=list)

    def part(self, book: PriceBook, key: str, words: str, count: float = 1.0) -> None:
        """Add so many of a part by its key in the book; name it where the book has no line for it."""
        one = book.part.get(key, book.part.get(key.partition("/")[0]))
        if one is None:
            self.missing.append(words)
        else:
            self.cost += one * count


def price_of(book: PriceBook, rules: RuleSet, job: Installation, trial: Installation) -> Price:
    """Return what a changed job costs more; what lies there already is paid for and is not given back."""
    price = Price()
    for old, new in zip(resolved(job).circuits, resolved(trial).circuits, strict=True):
        if old != new:
            _circuit(price, book, rules, old, new)
    if job.supply != trial.supply:
        _intake(price, book, job.supply, trial.supply)
    feeds = {c.feeds: c for c in resolved(trial).circuits if c.feeds}
    for was, now in zip(job.boards, trial.boards, strict=True):
        if was != now:
            _board(price, book, was, now, feeds.get(now.id))
    price.missing = list(dict.fromkeys(price.missing))
    return price


def _circuit(price: Price, book: PriceBook, rules: RuleSet, old: Circuit, new: Circuit) -> None:
    was, now = circuit_cost(book, rules, old), circuit_cost(book, rules, new)
    if old.run != new.run:
        if book.of_cable(new.run.cable.family or "", new.run.cable.csa or 0.0) is None and new.run.cable.csa is not None:
            price.missing.append("the cable")
        kept = 0.0 if old.existing else was.cable + was.laying + was.digging
        price.cost += now.cable + now.laying + now.digging - kept
        price.digging += now.digging_m if old.existing else max(0.0, now.digging_m - was.digging_m)
        price.copper += now.copper_kg - (0.0 if old.existing else was.copper_kg)
    for key, words, count in _fitted(old, new):
        price.part(book, key, words, count)
    if new.device.afdd and not old.device.afdd:
        price.part(book, "afdd", "arc fault detection")
    # Settings and makers' figures change no device.
    if (old.device.kind, old.device.rating, old.device.idn, old.device.rcd_type) != (
        new.device.kind, new.device.rating, new.device.idn, new.device.rcd_type,
    ) or (old.device.curve, old.device.delayed, old.phases) != (new.device.curve, new.device.delayed, new.phases):  # fmt: skip
        price.cost += now.device if old.existing else now.device - was.device
        if new.device.rating and book.of_device(new.device, new.phases) is None:
            price.missing.append("the device")
    if (new.device.icn or 0.0) > (old.device.icn or 0.0) and old.device.kind == new.device.kind:
        price.part(book, f"icn/{new.device.icn:g}", "a device of that breaking capacity")


def _fitted(old: Circuit, new: Circuit) -> Iterator[tuple[str, str, float]]:
    """What is fitted newly in a circuit at outlets, appliances, accessories and along the run: key, words, how many."""
    pairs: list[tuple[str, Any, Any]] = [("circuit", old, new)]
    pairs += [("load", a, b) for a in old.loads for b in new.loads if a.id == b.id]
    pairs += [("span", a, b) for a in old.run.spans for b in new.run.spans if a.id == b.id]
    for kind, a, b in pairs:
        for name, part in FITTED[kind].items():
            if getattr(a, name) != getattr(b, name) and getattr(b, name):
                yield part, part.replace("_", " "), float(getattr(b, "quantity", 1))


def _more(name: str) -> Callable[[Any, Any], bool]:
    return lambda a, b: (getattr(b, name) or 0) > (getattr(a, name) or 0)


def _turned(name: str, to: object) -> Callable[[Any, Any], bool]:
    return lambda a, b: getattr(a, name) != to and getattr(b, name) == to


# What is built in at the intake and at a board, by what of it changed.
AT_INTAKE: tuple[tuple[str, str, Callable[[Supply, Supply], bool]], ...] = (
    ("three_phase_supply", "a three-phase supply", _more("phases")),
    ("service_fuse", "a larger service fuse", _more("fuse_in")),
    ("tails", "meter tails", lambda a, b: a.tails_csa != b.tails_csa or b.tails_wrapped < a.tails_wrapped),
    ("switch_fuse", "a switch-fuse", _turned("tails_fused", True)),
    ("earthing_conductor", "an earthing conductor", _more("earthing_csa")),
    ("main_bond", "a main bonding conductor", lambda a, b: _more("bonding_csa")(a, b) or _turned("bond", "conductor")(a, b)),
    ("surge", "surge protection", _turned("surge", "fitted")),
)
AT_BOARD: tuple[tuple[str, str, Callable[[Board, Board], bool]], ...] = (
    ("main_switch", "a main switch", _more("switch_in")),
    ("busbar", "a busbar", _more("busbar_in")),
    ("rccb", "an RCD over the board", lambda a, b: _more("rcd_in")(a, b) or (b.rcd_idn is not None and a.rcd_idn != b.rcd_idn)),
    ("rccb", "an RCD over a section", lambda a, b: _more("rcd2_in")(a, b) or (b.rcd2_idn is not None and a.rcd2_idn != b.rcd2_idn)),
    ("rccb", "an RCD over a section", lambda a, b: _more("rcd3_in")(a, b) or (b.rcd3_idn is not None and a.rcd3_idn != b.rcd3_idn)),
    ("board", "a board", lambda a, b: _turned("non_combustible", True)(a, b) or _turned("class_ii", True)(a, b) or _more("ways")(a, b)),
    ("electrode", "an electrode", _turned("earthing", "TT")),
)


def _intake(price: Price, book: PriceBook, old: Supply, new: Supply) -> None:
    for key, words, changed in AT_INTAKE:
        if changed(old, new):
            price.part(book, key, words)


def _board(price: Price, book: PriceBook, old: Board, new: Board, above: Circuit | None) -> None:
    for key, words, changed in AT_BOARD:
        if changed(old, new):
            price.part(book, f"{key}/{new.ways}" if key == "board" and new.ways else key, words)
    if _turned("bond", "conductor")(old, new) or (new.bond == "conductor" and _more("bond_csa")(old, new)):
        price.part(book, "bond", "a bonding conductor")
        price.part(book, "bond_metre", "a bonding conductor", added(s.length or 0.0 for s in above.run.spans) if above else 0.0)
