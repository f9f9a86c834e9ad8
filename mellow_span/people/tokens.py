"""Secrets that open something once or for a while: made here, kept only as hashes."""

from __future__ import annotations

import hashlib
import secrets

from django.utils.crypto import salted_hmac


def new_token() -> tuple[str, str]:
    """Return a token for a link, and what is kept of it."""
    token = secrets.token_urlsafe(32)
    return token, kept(token)


def kept(token: str) -> str:
    """Return what is kept of a token: 256 random bits need no slow hash."""
    return hashlib.sha256(token.encode("utf-8", "replace")).hexdigest()


def masked(what: str, value: str) -> str:
    """Return a value as it can be counted without being known: keyed with the secret of this server."""
    return salted_hmac(f"mellow-span {what}", value, algorithm="sha256").hexdigest()[:32]
