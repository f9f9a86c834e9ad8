"""What commands read: jobs, other documents and price books from files or standard input."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from mellow_span.core.design.prices import PriceBook, parse_book
from mellow_span.core.errors import InputError
from mellow_span.core.model.numbers import letters_of, numbers
from mellow_span.core.model.parts import Circuit, Installation
from mellow_span.exchange.document import read

WORDS = {"meets": "meets", "close": "marginal", "short": "FAILS", "not_known": "not known"}
CAUTION = "Design aid only: these checks, with these inputs. Not a substitute for the regulations or a competent person."


def only_one_stdin(*paths: str) -> None:
    """Raise InputError where standard input is named for more than one file: it can be read once."""
    if paths.count("-") > 1:
        raise InputError("file", "-", "standard input for one file alone")


def bytes_at(path: str) -> bytes:
    """Return what is in a file, or in standard input for '-'. Raises InputError."""
    try:
        return sys.stdin.buffer.read() if path == "-" else Path(path).read_bytes()
    except OSError as error:
        raise InputError("file", path, f"a file that can be read ({error})") from None


def text_at(path: str) -> str:
    """Return the text of a file, or of standard input for '-'. Raises InputError."""
    try:
        return sys.stdin.read().removeprefix("\ufeff") if path == "-" else Path(path).read_text("utf-8-sig")
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


def board_named(job: Installation, wanted: str) -> str | None:
    """Return the identity of a board by identity, letter or name, whatever its case; None where there is none of it."""
    letters = letters_of(job)
    known = {b.id: (b.id.lower(), b.name.lower(), letters[b.id].lower()) for b in job.boards}
    return next((i for i, names in known.items() if wanted and wanted.lower() in names), None)


def book_of(args: argparse.Namespace) -> PriceBook | None:
    """Read the price book named on the command line, if one is. Raises InputError."""
    return parse_book(text_at(args.prices)) if args.prices else None


def put(path: str, content: bytes) -> None:
    """Write a file, or standard output for '-'. Raises InputError where it cannot be written."""
    if path == "-":
        sys.stdout.buffer.write(content)
        sys.stdout.buffer.flush()
        return
    try:
        Path(path).write_bytes(content)
    except OSError as error:
        raise InputError("out", path, f"a file that can be written ({error})") from None
