"""What a merchant has and asks, over its HTTP API (docs/standins.md). One that does not answer is told as such; nothing here waits long for it."""

from __future__ import annotations

import json
import urllib.error
import urllib.request
from typing import Any
from urllib.parse import urlencode

from django.conf import settings

from mellow_span.answers.materials import Offer, Quote

# How long an answer is waited for [s].
WAIT = 1.5


def quote(wanted: dict[str, float]) -> Quote:
    """Ask the merchant for a list: how many of each key."""
    if not settings.MERCHANT:
        return Quote("none", "", {})
    try:
        name = str(_ask("/")["name"])[:200]
        lines = _ask("/quotes", {"lines": [{"key": k, "count": n} for k, n in wanted.items()]})["lines"]
        known = {
            str(x["key"]): Offer(float(x["price"]), float(x["cost"]), float(x["stock"]), bool(x["enough"])) for x in lines if x["known"]
        }
    except (OSError, ValueError, KeyError, TypeError):
        return Quote("away", "", {})
    return Quote("answers", name, known)


def offered(prefixes: list[str], count: float) -> dict[str, float] | None:
    """Return what the merchant has at least so much of, price by key, of keys that begin so; None where it does not answer."""
    if not settings.MERCHANT:
        return None
    found: dict[str, float] = {}
    try:
        for prefix in prefixes:
            items = _ask("/items?" + urlencode({"prefix": prefix}))["items"]
            found |= {str(i["key"]): float(i["price"]) for i in items if float(i["stock"]) >= count}
    except (OSError, ValueError, KeyError, TypeError):
        return None
    return found


def _ask(path: str, body: Any = None) -> Any:
    data = None if body is None else json.dumps(body).encode()
    asked = urllib.request.Request(settings.MERCHANT + path, data, {"Content-Type": "application/json"})
    with urllib.request.urlopen(asked, timeout=WAIT) as answer:
        return json.loads(answer.read(5_000_000))
