"""The second step of a sign-in: a code of the moment from an app, or one of a list of recovery codes, each good once and kept as a hash alone."""

from __future__ import annotations

import secrets
from base64 import b32encode
from typing import Any

import segno
from django.db import transaction
from django_otp.plugins.otp_static.models import StaticDevice, StaticToken
from django_otp.plugins.otp_totp.models import TOTPDevice

from mellow_span.core.errors import InputError
from mellow_span.people.tokens import masked

RECOVERY_CODES = 10


def is_on(user: Any) -> bool:
    """Say whether a person signs in with a second step."""
    return bool(TOTPDevice.objects.filter(user=user, confirmed=True).exists())


def codes_left(user: Any) -> int:
    """Return how many recovery codes are left."""
    return int(StaticToken.objects.filter(device__user=user).count())


def hashed(code: str) -> str:
    """Return what is kept of a recovery code: keyed with the secret of this server, as it has few bits of its own.

    >>> len(hashed("0123456789"))
    16
    """
    return masked("recovery code", code)[:16]


@transaction.atomic
def passes(user: Any, code: str) -> bool:
    """Say whether a code is right now; a recovery code is used up by it. Wrong ones are slowed down, more with each."""
    clean = code.replace(" ", "").lower()
    if not clean:
        return False
    # Of several who try at once one has the row: no code counts twice.
    apps = list(TOTPDevice.objects.select_for_update().filter(user=user, confirmed=True))
    lists = list(StaticDevice.objects.select_for_update().filter(user=user, confirmed=True))
    return any(device.verify_token(clean) for device in apps) or any(device.verify_token(hashed(clean)) for device in lists)


@transaction.atomic
def begin(user: Any) -> tuple[str, str, str]:
    """Return a new secret as text, its address for an app, and that as a picture; it counts once a code proves that the app has it."""
    if is_on(user):
        raise InputError("second", "on", "two-step sign-in that is off")
    TOTPDevice.objects.filter(user=user, confirmed=False).delete()
    device = TOTPDevice.objects.create(user=user, name="app", confirmed=False)
    address = device.config_url
    return b32encode(device.bin_key).decode().rstrip("="), address, segno.make(address, error="m").svg_inline(scale=4, border=2)


@transaction.atomic
def confirm(user: Any, code: str) -> list[str]:
    """Turn the second step on, and return the recovery codes, which are shown once. Raises InputError for a wrong code."""
    device = TOTPDevice.objects.filter(user=user, confirmed=False).first()
    if device is None:
        raise InputError("second", "not begun", "a second step that was begun")
    if not device.verify_token(code.replace(" ", "")):
        raise InputError("code", code, "the six digits that the app shows now")
    device.confirmed = True
    device.save(update_fields=["confirmed"])
    StaticDevice.objects.filter(user=user).delete()
    kept = StaticDevice.objects.create(user=user, name="recovery", confirmed=True)
    codes = [secrets.token_hex(5) for _ in range(RECOVERY_CODES)]
    StaticToken.objects.bulk_create(StaticToken(device=kept, token=hashed(code)) for code in codes)
    return codes


@transaction.atomic
def end(user: Any) -> None:
    """Turn the second step off."""
    TOTPDevice.objects.filter(user=user).delete()
    StaticDevice.objects.filter(user=user).delete()
