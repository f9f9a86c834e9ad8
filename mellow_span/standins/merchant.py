"""A merchant that is made up: catalogue, prices and stock over HTTP. python -m mellow_span.standins.merchant --port 8090

GET /                         who it is
GET /items?key=K&key=K        what it has of these, by the keys of the list of materials; ?prefix=P: all whose key begins so
POST /quotes                  {"lines": [{"key": K, "count": N}]}: what each line costs, whether so much is there, and the sum
"""

from __future__ import annotations

import csv
import json
from functools import cache
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any
from urllib.parse import parse_qs, urlsplit

from mellow_span.standins.serving import serve

NAME = "Trade counter (made up: goods, prices and stock)"
CATALOGUE = Path(__file__).parent / "catalogue.csv"
MOST_LINES, MOST_BODY = 500, 200_000


@cache
def catalogue() -> dict[str, dict[str, Any]]:
    """Return every item by its key: title, unit, price of one, stock."""
    with CATALOGUE.open(encoding="utf-8", newline="") as file:
        return {r["key"]: {**r, "price": float(r["price"]), "stock": float(r["stock"])} for r in csv.DictReader(file)}


class Counter(BaseHTTPRequestHandler):
    """Answers one request."""

    protocol_version = "HTTP/1.1"
    timeout = 10

    def do_GET(self) -> None:
        """Say who it is, or what it has."""
        at = urlsplit(self.path)
        asked = parse_qs(at.query)
        if at.path == "/":
            self._answer(200, {"name": NAME, "made_up": True, "items": len(catalogue())})
        elif at.path == "/items":
            prefix = asked.get("prefix", [""])[0]
            named = [catalogue()[k] for k in asked.get("key", [])[:MOST_LINES] if k in catalogue()]
            self._answer(200, {"items": named + [i for k, i in catalogue().items() if prefix and k.startswith(prefix)]})
        else:
            self._answer(404, {"error": "no such place", "allowed": "/, /items, /quotes"})

    def do_POST(self) -> None:
        """Quote a list."""
        length = int(self.headers.get("Content-Length") or 0)
        if length > MOST_BODY:
            self.close_connection = True
            self._answer(413, {"error": "too long", "allowed": f"{MOST_BODY} bytes"})
        elif urlsplit(self.path).path != "/quotes":
            self.rfile.read(length)
            self._answer(404, {"error": "no such place", "allowed": "/quotes"})
        else:
            self._answer(*self._quotes(self.rfile.read(length)))

    def _quotes(self, body: bytes) -> tuple[int, Any]:
        try:
            lines = [(str(line["key"]), float(line["count"])) for line in json.loads(body)["lines"]]
            if len(lines) > MOST_LINES or any(not 0 <= n < 1e6 for _, n in lines):
                raise ValueError
        except (ValueError, KeyError, TypeError):
            return 400, {"error": "not understood", "allowed": "lines, at most 500, each with key and a count from 0"}
        found = [{"key": k, "count": n, **self._quoted(k, n)} for k, n in lines]
        return 200, {"lines": found, "total": round(sum(f["cost"] or 0 for f in found), 2)}

    def _quoted(self, key: str, count: float) -> dict[str, Any]:
        item = catalogue().get(key)
        if item is None:
            return {"known": False, "price": None, "cost": None, "stock": 0.0, "enough": False}
        return {
            "known": True,
            "price": item["price"],
            "cost": round(item["price"] * count, 2),
            "stock": item["stock"],
            "enough": item["stock"] >= count,
        }

    def _answer(self, status: int, body: Any) -> None:
        data = json.dumps(body).encode()
        self.send_response(status)
        self.send_header("Content-Type", "application/json")
        self.send_header("Content-Length", str(len(data)))
        self.end_headers()
        self.wfile.write(data)

    def log_message(self, *_: Any) -> None:
        """Keep quiet: what is asked for is nobody else's matter."""


def server(port: int) -> ThreadingHTTPServer:
    """Return the merchant's server on a loopback port; 0: any that is free."""
    made = ThreadingHTTPServer(("127.0.0.1", port), Counter)
    made.daemon_threads = True
    return made


if __name__ == "__main__":
    catalogue()
    serve(server, "a made-up merchant")
