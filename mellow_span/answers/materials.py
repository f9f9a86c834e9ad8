"""Materials of a job: counted from its design, priced by the firm's book and by a merchant where one was asked."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from mellow_span.answers.given import Given
from mellow_span.answers.site import PULLED, pull_list
from mellow_span.core.adding import added
from mellow_span.core.site.entries import last_by
from mellow_span.core.site.materials import Need, materials, price_of
from mellow_span.core.site.pulls import cut_lengths
from mellow_span.core.site.uncounted import Uncounted, uncounted


@dataclass(slots=True)
class Offer:
    """What a merchant says of one thing: price of one and of what is wanted, how much it has, whether that is enough."""

    price: float
    cost: float
    stock: float
    enough: bool


@dataclass(slots=True)
class Quote:
    """What a merchant says of a list. state: it answers, is away, or none is set up; offers: by key, of the things it knows."""

    state: Literal["answers", "away", "none"]
    name: str
    offers: dict[str, Offer]


@dataclass(slots=True)
class MaterialLine:
    """A line of the list. cost: by the firm's book, None where it lacks it; offer: what the merchant says; had: it is there, as by says, at."""

    need: Need
    cost: float | None
    offer: Offer | None
    had: bool
    by: str
    at: str | None


@dataclass(slots=True)
class Materials:
    """What a job takes. version: of the job; total: by the firm's book, of lines that are priced; own: the book is the firm's, else made up.

    uncounted: what the job takes and the list does not count, with why. merchant: its name; state: whether it answers; asked: what it asks for what
    it has enough of, unknown: lines it does not know.
    """

    version: int
    lines: list[MaterialLine]
    total: float
    unpriced: int
    own: bool
    state: str
    merchant: str
    asked: float
    unknown: int
    uncounted: tuple[Uncounted, ...]


# What the list depends on of the log.
HAD = (*PULLED, "had")


def needs_of(given: Given) -> list[Need]:
    """Return what a job takes, counted."""
    return list(materials(given.inputs, cut_lengths(p.pull for p in pull_list(given).lines)))


def materials_of(given: Given, needs: list[Need], quote: Quote) -> Materials:
    """Return the list of materials. needs: as counted; quote: what the merchant says of them."""
    book, had = given.book, last_by(given.entries("had"), lambda e: str(e.data.key))
    lines = []
    for need in needs:
        e = had.get(need.key)
        there = e is not None and e.data.have
        offer = quote.offers.get(need.key)
        lines.append(MaterialLine(need, price_of(book, need), offer, there, e.by if e and there else "", e.at if e and there else None))
    costs = [x.cost for x in lines if x.cost is not None]
    asked = added(x.offer.cost for x in lines if x.offer and x.offer.enough)
    unknown = added(x.offer is None for x in lines) if quote.state == "answers" else 0
    return Materials(
        given.version, lines, round(added(costs), 2), len(lines) - len(costs), given.own_prices, quote.state, quote.name, round(asked, 2), unknown,
        uncounted(given.inputs),
    )  # fmt: skip


def unquoted(given: Given) -> Materials:
    """Return the list by the firm's prices alone: whoever asks has no way to a merchant."""
    return materials_of(given, needs_of(given), Quote("away", "", {}))
