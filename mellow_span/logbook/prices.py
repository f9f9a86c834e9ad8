"""The price book of a firm: its own, or the made-up one that ships."""

from __future__ import annotations

import hashlib
from functools import lru_cache
from uuid import UUID

from mellow_span.core.design.prices import SHIPPED, PriceBook, parse_book, shipped, with_pack
from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets.readings import rules_of
from mellow_span.jobs.models import Firm, Member
from mellow_span.logbook.models import Prices


def text_of(firm_id: UUID) -> str:
    """Return a firm's own price book as it was brought in, empty where it has none."""
    return Prices.objects.filter(firm=firm_id).values_list("text", flat=True).first() or ""


def book_of(firm_id: UUID) -> PriceBook:
    """Return the prices a firm ranks and adds up by."""
    text = text_of(firm_id)
    return _parsed(text) if text else shipped()


def prices_for(firm_id: UUID, job: Installation) -> PriceBook:
    """Return the prices of a firm for a job: those that the packs over its book bring along go before."""
    return with_pack(book_of(firm_id), rules_of(job))


def stamp_of(firm_id: UUID) -> str:
    """Return a mark that changes with a firm's prices, empty for the made-up ones."""
    text = text_of(firm_id)
    return hashlib.sha256(text.encode()).hexdigest()[:32] if text else ""


@lru_cache(maxsize=32)
def _parsed(text: str) -> PriceBook:
    return parse_book(text)


def file_of(firm_id: UUID) -> str:
    """Return the price book of a firm as a file, or the made-up one to begin from."""
    return text_of(firm_id) or SHIPPED.read_text("utf-8")


def bring_in(firm: Firm, member: Member, text: str) -> int:
    """Keep a price book for a firm; return how many lines it has. Raises InputError naming the line."""
    parse_book(text)
    Prices.objects.update_or_create(firm=firm, defaults={"text": text, "by": member})
    return len(text.splitlines()) - 1
