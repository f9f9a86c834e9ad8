"""Prices: a small book of made-up figures that ships with the product, or one the user loads; and what a circuit costs by it."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from functools import cache
from pathlib import Path
from typing import cast

from mellow_span.core.adding import added
from mellow_span.core.errors import InputError
from mellow_span.core.model.circuit import RcdType
from mellow_span.core.model.legs import cable_parts, mixed
from mellow_span.core.model.parts import Circuit, Device, Installation
from mellow_span.core.model.routes import resolved
from mellow_span.core.rules.protective import serves
from mellow_span.core.rulesets import RuleSet

SHIPPED = Path(__file__).parent / "price_books" / "made_up.csv"
HEADER = ["item", "name", "size", "price"]
# Density of copper [kg / (m mm2)].
COPPER = 8.9e-3


@dataclass(frozen=True)
class PriceBook:
    """Prices in one currency, whichever the book is written in: cable and laying per metre, device each, digging per metre."""

    cable: dict[tuple[str, float], float]
    device: dict[str, tuple[tuple[float, float], ...]]
    laying: dict[str, float]
    digging: float
    part: dict[str, float] = field(default_factory=dict)
    # How many times the price of a metre of a family a cable of so many cores is.
    cores: dict[tuple[str, float], float] = field(default_factory=dict)

    def of_cable(self, family: str, csa: float) -> float | None:
        """Return the price of a metre of cable, or None where the book has none."""
        return self.cable.get((family, csa))

    def of_device(self, device: Device, phases: int = 1) -> float | None:
        """Return the price of a device: the first line of its kind that reaches its rating, and what its RCD's type and delay and its poles add.

        None where the book has no line for it. A line for type AC or A may be left out: it then adds nothing.
        """
        base = next((price for most, price in self.device.get(device.kind, ()) if (device.rating or 0) <= most), None)
        more = [self.part.get(f"poles/{device.kind}") if phases > 1 and device.kind in ("mcb", "rcbo") else 0.0]
        if device.idn:
            more.append(self.part.get(f"rcd_type/{device.rcd_type}", None if device.rcd_type in ("F", "B") else 0.0))
            more.append(self._delay(device.delayed))
        known = [each for each in more if each is not None]
        return None if base is None or len(known) < len(more) else base + added(known)

    def _delay(self, delayed: bool) -> float | None:
        """What a time delay adds to a residual current device."""
        return self.part.get("rcd_delay/S") if delayed else 0.0

    def of_run(self, family: str, csa: float, cores: int) -> float | None:
        """Return the price of a metre of cable of so many cores; where the book has no line for the cores, that of the family."""
        metre = self.of_cable(family, csa)
        return None if metre is None else metre * self.cores.get((family, float(cores)), 1.0)

    def price(self, key: str, count: float) -> float | None:
        """Return what so many of a thing of the list of materials cost, by its key; None where the book has no line for it."""
        kind, _, rest = key.partition("/")
        name, _, size = rest.rpartition("/")
        if kind in ("cable", "cpc"):
            family, _, cores = name.partition("/")
            one = self.of_run(family, float(size), int(cores or 0)) if size != "unknown" else None
        elif kind == "device":
            one = self.of_device(*_device(rest))
        else:
            one = self.part.get(key, self.part.get(f"{kind}/{rest.partition('/')[0]}", self.part.get(kind)))
            if kind == "rccb" and one is not None and key.endswith("S") and key not in self.part:
                one = None if (delay := self._delay(True)) is None else one + delay
        return None if one is None else round(one * count, 2)


def _device(rest: str) -> tuple[Device, int]:
    """The device in a key and its poles: kind, type where it has one, poles, rating, what its RCD is; without a rating it has no price."""
    found = rest.split("/")
    place = 3 if found[0] in ("mcb", "rcbo") else 2
    if len(found) <= place:
        return Device(kind=found[0], rating=float("inf")), 1
    residual = next((re.fullmatch(r"[\d.]+(AC|A|B|F)?(S)?", part) for part in found[place + 1 :]), None)
    kind = cast(RcdType | None, residual[1]) if residual else None
    device = Device(
        kind=found[0], rating=float(found[place]), idn=0.03 if residual else None, rcd_type=kind, delayed=bool(residual and residual[2])
    )
    return device, int(found[place - 1])


def read_book(path: Path) -> PriceBook:
    """Read a price book from a CSV file; see `parse_book`."""
    return parse_book(path.read_text(encoding="utf-8"))


def _lines(text: str) -> Iterator[tuple[int, str, str, float, str, float]]:
    """The lines of a price book: their number, item, name, size as a number and as a word, price. Raises InputError naming the line."""
    try:
        rows = list(csv.reader(io.StringIO(text, newline="")))
    except csv.Error as error:
        raise InputError("price book", str(error), "a file of comma-separated values") from None
    if not rows or rows[0] != HEADER:
        raise InputError("price book", ",".join(rows[0])[:100] if rows else "nothing", "the columns " + ", ".join(HEADER))
    for number, row in enumerate(rows[1:], 2):
        if not row:
            continue
        try:
            item, name, price = row[0], row[1], float(row[3])
            # Of a part the size may be a word.
            size = float(row[2]) if row[2] and item != "part" else 0.0
            if not (0 <= price < 1e6 and 0 <= size < 1e6):
                raise ValueError
        except (ValueError, IndexError):
            raise InputError(f"price book, line {number}", ",".join(row)[:100], "item, name, size, price from 0 to a million") from None
        yield number, item, name, size, row[2], price


def parse_book(text: str) -> PriceBook:
    """Read a price book from CSV with the columns item, name, size, price. Raises InputError naming the line."""
    cable: dict[tuple[str, float], float] = {}
    device: dict[str, list[tuple[float, float]]] = {}
    laying: dict[str, float] = {}
    part: dict[str, float] = {}
    cores: dict[tuple[str, float], float] = {}
    digging = 0.0
    for number, item, name, size, word, price in _lines(text):
        if item == "cable":
            cable[(name, size)] = price
        elif item == "device":
            device.setdefault(name, []).append((size, price))
        elif item == "laying":
            laying[name] = price
        elif item == "part":
            part[f"{name}/{word}" if word else name] = price
        elif item == "cores":
            cores[(name, size)] = price
        elif item == "digging":
            digging = price
        else:
            raise InputError(f"price book, line {number}", item, "cable, cores, device, laying, part or digging")
    return PriceBook(cable, {k: tuple(sorted(v)) for k, v in device.items()}, laying, digging, part, cores)


def with_pack(book: PriceBook, rules: RuleSet) -> PriceBook:
    """Return a price book with the prices that the packs of a rule set bring along in place of its own."""
    if not rules.prices:
        return book
    over = parse_book(rules.prices)
    return PriceBook(
        {**book.cable, **over.cable}, {**book.device, **over.device}, {**book.laying, **over.laying}, over.digging or book.digging,
        {**book.part, **over.part}, {**book.cores, **over.cores},
    )  # fmt: skip


@cache
def shipped() -> PriceBook:
    """Return the made-up price book that ships with the product."""
    return read_book(SHIPPED)


@dataclass(frozen=True, slots=True)
class Cost:
    """What a circuit or job takes: price of cable, laying and device, digging [m] and its price, copper [kg]; unpriced: cables and devices that
    the book lacks.
    """

    cable: float = 0.0
    laying: float = 0.0
    device: float = 0.0
    digging_m: float = 0.0
    digging: float = 0.0
    copper_kg: float = 0.0
    unpriced: int = 0

    @property
    def total(self) -> float:
        """Cable, laying, device and digging together."""
        return self.cable + self.laying + self.device + self.digging

    def __add__(self, other: Cost) -> Cost:
        return Cost(
            self.cable + other.cable, self.laying + other.laying, self.device + other.device, self.digging_m + other.digging_m,
            self.digging + other.digging, self.copper_kg + other.copper_kg, self.unpriced + other.unpriced,
        )  # fmt: skip


def circuit_cost(book: PriceBook, rules: RuleSet, circuit: Circuit) -> Cost:
    """Return what a circuit costs by the book, each of its cables by itself; what is not entered yet costs nothing."""
    if mixed(circuit):
        total = Cost()
        for k, part in enumerate(cable_parts(circuit)):
            # The device is there once.
            total += circuit_cost(book, rules, part if k == 0 else replace(part, device=replace(part.device, rating=None)))
        return total
    cable = circuit.run.cable
    per_m = book.of_run(cable.family or "", cable.csa or 0.0, cores_of(rules, circuit))
    device = book.of_device(circuit.device, circuit.phases) if circuit.device.rating else 0.0
    length = added(span.length or 0.0 for span in circuit.run.spans)
    dug = added(s.length or 0.0 for s in circuit.run.spans if (p := rules.places.get(s.place or "")) and p.ground)
    return Cost(
        cable=(per_m or 0.0) * length * cable.parallel,
        laying=added(book.laying.get(s.place or "", 0.0) * (s.length or 0.0) for s in circuit.run.spans),
        device=device or 0.0,
        digging_m=dug,
        digging=dug * book.digging,
        copper_kg=copper_kg(rules, circuit, length),
        unpriced=int(per_m is None and cable.csa is not None) + int(device is None),
    )


def cores_of(rules: RuleSet, circuit: Circuit) -> int:
    """Return the cores of one cable, its cpc among them where that is a core; of singles the conductors of the circuit.

    An armoured cable has what is entered, else line and neutral and the cpc where the armour is not it.
    """
    cable, live = circuit.run.cable, 2 if circuit.phases == 1 else 4
    family = rules.families.get(cable.family or "")
    if family is not None and family.armour:
        return cable.cores or (live if cable.cpc in ("usual", "armour") or live == 4 else live + 1)
    return live + (1 if cable.cpc == "usual" or (family is not None and family.cpc == "in_cable") else 0)


def copper_kg(rules: RuleSet, circuit: Circuit, length: float) -> float:
    """Return the copper in the run [kg]: line and neutral, and the cpc where it is copper."""
    cable = circuit.run.cable
    family = rules.families.get(cable.family or "")
    if family is None or cable.csa is None:
        return 0.0
    live = 2 if circuit.phases == 1 else 4
    kind = serves(rules, circuit)
    own = cable.cpc_csa or family.pairs.get(cable.csa) or cable.csa
    cpc = own if kind in ("core", "separate", "armour_and_core") else 0.0
    return (live * cable.csa + cpc) * cable.parallel * length * COPPER


def job_cost(book: PriceBook, rules: RuleSet, job: Installation) -> Cost:
    """Return what all circuits of a job cost by the book."""
    total = Cost()
    for circuit in resolved(job).circuits:
        total += circuit_cost(book, rules, circuit)
    return total
