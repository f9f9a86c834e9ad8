"""What commands read: jobs, other documents and price books from files or standard input."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from mellow_span.core.design.prices import PriceBook, read_book
from mellow_span.core.errors import InputError
from mellow_span.core.model.parts import Circuit, Installation
from mellow_span.core.site.numbers import numbers
from mellow_span.exchange.document import read

WORDS = {"meets": "meets", "close": "marginal", "short": "FAILS", "not_known": "not known"}
CAUTION = "Design aid only: these checks, with these inputs. Not a substitute for the regulations or a competent person."


def text_at(path: str) -> str:
    """Return the text of a file, or of standard input for '-'. Raises InputError."""
    try:
        return sys.stdin.read() if path == "-" else Path(path).read_text("utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise InputError("file", path, f"a file that can be read ({error})") from None


def document_at(path: str) -> Any:
    """Return what a file of JSON holds, or standard input for '-'. Raises InputError."""
    text = text_at(path)
    try:
        return json.loads(text)
    except (ValueError, RecursionError) as error:
        raise InputError("file", path, f"JSON ({error})") from None


def job_of(path: str) -> Installation:
    """Read a job from a file, or from standard input for '-'. Raises InputError."""
    return read(document_at(path))


def circuit_of(job: Installation, wanted: str) -> Circuit:
    """Return a circuit by identity, number or name, whatever its case. Raises InputError with what there is."""
    named = numbers(job)
    for circuit in job.circuits:
        if wanted == circuit.id or wanted.lower() in (circuit.name.lower(), named[circuit.id].lower()):
            return circuit
    raise InputError("circuit", wanted, "one of " + ", ".join(f"{named[c.id]} {c.name or c.id}" for c in job.circuits))


def book_of(args: argparse.Namespace) -> PriceBook | None:
    """Read the price book named on the command line, if one is. Raises InputError."""
    if not args.prices:
        return None
    try:
        return read_book(Path(args.prices))
    except OSError as error:
        raise InputError("prices", args.prices, f"a file that can be read ({error})") from None


def put(path: str, content: bytes) -> None:
    """Write a file. Raises InputError where it cannot be written."""
    try:
        Path(path).write_bytes(content)
    except OSError as error:
        raise InputError("out", path, f"a file that can be written ({error})") from None
