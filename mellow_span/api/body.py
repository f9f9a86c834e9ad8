"""Bodies of requests: JSON in UTF-8, of bounded size and depth, of text that a database can keep. Anything else is refused by name."""

from __future__ import annotations

import json
import math
import re
from typing import Any, NoReturn

from django.core.exceptions import RequestDataTooBig
from django.http import HttpRequest
from django.http.request import RawPostDataException, UnreadablePostError
from ninja.parser import Parser

# How deep values may lie in each other: the open format needs eight.
DEEPEST = 40
# What JSON can write and text cannot hold: halves of characters, and the end-of-text of the database.
STRANGE = re.compile(rb"\\u(?:d[89a-f]|0000)", re.IGNORECASE)


class BodyError(Exception):
    """A body that cannot be taken."""

    def __init__(self, status: int, field: str, given: str, allowed: str, message: str) -> None:
        super().__init__(message)
        self.status, self.field, self.given, self.allowed, self.message = status, field, given, allowed, message


class Body(Parser):
    """Reads the body of a request."""

    def parse_body(self, request: HttpRequest) -> Any:
        """Return a body as plain data. Raises BodyError."""
        try:
            raw = request.body
        except RequestDataTooBig:
            raise BodyError(413, "body", f"{request.META.get('CONTENT_LENGTH')} bytes", "at most 2 MB", "This is too large.") from None
        except (UnreadablePostError, RawPostDataException):
            raise BodyError(400, "body", "a part of it", "a whole body", "The connection broke off. Try again.") from None
        try:
            data = json.loads(raw.decode("utf-8"), parse_constant=_no_number, parse_float=_number)
        except (ValueError, RecursionError) as error:
            raise BodyError(400, "body", _where(raw, error), "JSON in UTF-8", "The request is not JSON that can be read.") from None
        _measured(data)
        if STRANGE.search(raw):
            _texts(data, "body")
        return data


def _number(text: str) -> float:
    value = float(text)
    if not math.isfinite(value):
        _no_number(text)
    return value


def _no_number(text: str) -> NoReturn:
    raise ValueError(f"{text[:20]} is no number")


def _where(raw: bytes, error: Exception) -> str:
    at = getattr(error, "pos", None)
    if at is None:
        return str(error)[:80].encode("utf-8", "backslashreplace").decode()
    return f"at character {at}: " + raw[max(0, at - 10) : at + 20].decode("utf-8", "replace")


def _measured(data: Any) -> None:
    """Raise BodyError for values that lie too deep in each other; level by level, so that depth itself cannot hurt."""
    level = [data]
    for _ in range(DEEPEST):
        level = [v for one in level if isinstance(one, dict | list) for v in (one.values() if isinstance(one, dict) else one)]
        if not level:
            return
    raise BodyError(422, "body", f"more than {DEEPEST} values in each other", f"at most {DEEPEST}", "Values are nested too deeply.")


def _texts(data: Any, place: str) -> None:
    if isinstance(data, str):
        if "\x00" in data or any("\ud800" <= c <= "\udfff" for c in data):
            given = data[:40].encode("utf-8", "backslashreplace").decode().replace("\x00", "\\x00")
            raise BodyError(422, place, given, "text of whole characters", "This text contains an invalid character.")
    elif isinstance(data, dict):
        for name, value in data.items():
            _texts(name, f"{place}, a name")
            # The values of fields are refused by the fields themselves, which say more.
            if name != "fields":
                _texts(value, f"{place}.{name}")
    elif isinstance(data, list):
        for i, value in enumerate(data):
            _texts(value, f"{place}[{i}]")
