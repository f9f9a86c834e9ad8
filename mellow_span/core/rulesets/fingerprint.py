"""The fingerprint of a rule set: changes with any cell of its tables, so that a frozen result says by which tables it was worked out."""

from __future__ import annotations

import hashlib
from functools import cache

from mellow_span.core.rulesets import HERE


@cache
def fingerprint(ruleset: str) -> str:
    """Return the SHA-256 of all data of a rule set, as hexadecimal digits; files by name, their line ends as of Unix."""
    found = hashlib.sha256()
    for path in sorted((HERE / ruleset).iterdir()):
        if path.suffix in (".csv", ".toml"):
            found.update(path.name.encode() + b"\0" + path.read_bytes().replace(b"\r\n", b"\n") + b"\0")
    return found.hexdigest()
