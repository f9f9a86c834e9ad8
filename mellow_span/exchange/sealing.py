"""The seal of a firm: a signature by a key of its own (Ed25519, RFC 8032) over the hash of what it issues.

The keys come in where one is used: a device that works out a job by itself reads and prints what was sealed, and has none of them.

It tells that a file was made where the firm's key is; it cannot tell whose hand was on the keys. The public half is printed on every document.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

A_KEY = re.compile(r"[0-9a-f]{64}")


@dataclass(frozen=True, slots=True)
class Key:
    """A key of a firm. private: PEM, locked with the secret of the server it was made on; public: 64 hexadecimal digits."""

    private: str
    public: str


def new_key(secret: bytes) -> Key:
    """Make a key, its private half locked with a secret."""
    from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
    from cryptography.hazmat.primitives.serialization import BestAvailableEncryption, Encoding, PrivateFormat, PublicFormat

    made = Ed25519PrivateKey.generate()
    private = made.private_bytes(Encoding.PEM, PrivateFormat.PKCS8, BestAvailableEncryption(secret))
    return Key(private.decode(), made.public_key().public_bytes(Encoding.Raw, PublicFormat.Raw).hex())


def seal(private: str, secret: bytes, digest: str) -> str:
    """Return the seal over a hash, as hexadecimal digits. Raises ValueError where the secret does not open the key."""
    from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
    from cryptography.hazmat.primitives.serialization import load_pem_private_key

    key = load_pem_private_key(private.encode(), secret)
    if not isinstance(key, Ed25519PrivateKey):
        raise ValueError("no Ed25519 key")
    return key.sign(bytes.fromhex(digest)).hex()


def sealed(public: object, digest: object, given: object) -> bool:
    """Whether a seal is that of the public half of a key over a hash; anything that is none of these is not."""
    from cryptography.exceptions import InvalidSignature
    from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PublicKey

    # One way of writing alone: capitals and spaces would be read as well.
    if not (_hexadecimal(public, 64) and _hexadecimal(digest, 64) and _hexadecimal(given, 128)):
        return False
    try:
        Ed25519PublicKey.from_public_bytes(bytes.fromhex(str(public))).verify(bytes.fromhex(str(given)), bytes.fromhex(str(digest)))
    except (ValueError, InvalidSignature):
        return False
    return True


def _hexadecimal(value: object, digits: int) -> bool:
    return isinstance(value, str) and len(value) == digits and re.fullmatch("[0-9a-f]*", value) is not None


def spelled(public: str) -> str:
    """Return a key in groups that an eye can hold.

    >>> spelled("11f64135a1b6")
    '11f6 4135 a1b6'
    """
    return " ".join(public[i : i + 4] for i in range(0, len(public), 4))
