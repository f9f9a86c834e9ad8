"""One renderer for the core's values: they go out as they were made, without being validated a second time."""

from __future__ import annotations

from functools import cache
from typing import Any

from django.http import HttpResponse
from pydantic import TypeAdapter


@cache
def _adapter(kind: Any) -> TypeAdapter[Any]:
    return TypeAdapter(kind)


def send(kind: Any, value: Any, status: int = 200) -> HttpResponse:
    """Return a value as JSON; kind: its type. Validating figures the core has just made would cost more than making them."""
    return HttpResponse(_adapter(kind).dump_json(value), status=status, content_type="application/json")


def text(kind: Any, value: Any) -> str:
    """Return a value as JSON text."""
    return _adapter(kind).dump_json(value).decode()
