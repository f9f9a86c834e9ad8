"""How a firm shows amounts."""

from __future__ import annotations

from uuid import UUID

from mellow_span.logbook.models import Money


def money_of(firm: UUID) -> Money:
    """Return how a firm, given by its identity, shows amounts; in pounds and without VAT where it has said nothing."""
    return Money.objects.filter(firm=firm).first() or Money(firm_id=firm)
