"""This program as one archive, for a device that is to run the same rules on the same tables; named by what is in it."""

from __future__ import annotations

import hashlib
import io
import zipfile
from functools import cache
from pathlib import Path

HOME = Path(__file__).resolve().parents[1]
# What answers questions, and nothing of what keeps, serves or prints.
ROOMS = ("core", "exchange", "papers", "answers", "standins")
KINDS = (".py", ".toml", ".csv", ".json", ".css")
# When all files of it were made: the same program is the same archive.
THEN = (2000, 1, 1, 0, 0, 0)


@cache
def archive() -> bytes:
    """Return the archive: the package with the rooms that answer questions. Nothing in it is packed: the whole is, for its way."""
    files = [HOME / "__init__.py", *(f for room in ROOMS for f in sorted((HOME / room).rglob("*")) if f.suffix in KINDS)]
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w") as made:
        for file in files:
            made.writestr(zipfile.ZipInfo(file.relative_to(HOME.parent).as_posix(), THEN), file.read_bytes())
    return held.getvalue()


@cache
def fingerprint() -> str:
    """Return which rules, tables and program these are: two that differ in a letter differ here."""
    return hashlib.sha256(archive()).hexdigest()[:16]
