"""The keys by which a firm seals what it issues: made once, used while the secret of the server opens them."""

from __future__ import annotations

from uuid import UUID

from django.conf import settings
from django.db import transaction

from mellow_span.exchange.sealing import Key, new_key, seal
from mellow_span.jobs.models import Firm
from mellow_span.logbook.models import FirmKey


def public_key(firm: UUID) -> str:
    """Return the public half of the key that a firm, given by its identity, seals with; empty where it has none yet."""
    return FirmKey.objects.filter(firm=firm).values_list("public", flat=True).first() or ""


def key_of(firm: Firm) -> Key:
    """Return the key of a firm. One is made where there is none, or where the secret of this server does not open it any more."""
    secret = settings.SECRET_KEY.encode()
    with transaction.atomic():
        Firm.objects.select_for_update().get(pk=firm.pk)
        newest = firm.keys.first()
        if newest is not None:
            try:
                seal(newest.private, secret, "00" * 32)
            except ValueError:
                # A copy of the data under another secret: what was sealed stays provable by the public half.
                newest = None
        if newest is None:
            made = new_key(secret)
            newest = FirmKey.objects.create(firm=firm, private=made.private, public=made.public)
    return Key(newest.private, newest.public)


def sealing(key: Key, digest: str) -> str:
    """Return the seal of a firm over a hash."""
    return seal(key.private, settings.SECRET_KEY.encode(), digest)


def make_missing() -> int:
    """Make a key for each firm that has none, and return how many there were."""
    without = list(Firm.objects.filter(keys=None))
    for firm in without:
        key_of(firm)
    return len(without)
