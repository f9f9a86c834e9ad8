"""The stand-in of the merchant by its documented API, and what the app makes of it where it is away or talks nonsense."""

from __future__ import annotations

import json
import threading
import urllib.error
import urllib.request
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any

import pytest
from django.conf import settings

from mellow_span.logbook import merchant as client
from mellow_span.standins import merchant

KEY, OUT = "cable/flat_twin_cpc_pvc70/6", "cable/flat_twin_cpc_pvc70/4"


@pytest.fixture
def address() -> Iterator[str]:
    server = merchant.server(0)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield f"http://127.0.0.1:{server.server_port}"
    server.shutdown()
    server.server_close()


@pytest.fixture
def asked(address: str, monkeypatch: pytest.MonkeyPatch) -> str:
    monkeypatch.setattr(settings, "MERCHANT", address, raising=False)
    return address


def call(address: str, body: Any = None) -> tuple[int, Any]:
    data = body if isinstance(body, bytes | None) else json.dumps(body).encode()
    try:
        with urllib.request.urlopen(urllib.request.Request(address, data), timeout=5) as answer:
            return answer.status, json.loads(answer.read())
    except urllib.error.HTTPError as error:
        return error.code, json.loads(error.read())


def test_it_says_that_it_is_made_up_and_what_it_has(address: str) -> None:
    assert call(address + "/")[1]["made_up"] is True
    items = call(f"{address}/items?key={KEY}&key=nothing")[1]["items"]
    assert [i["key"] for i in items] == [KEY]
    family = call(f"{address}/items?prefix=cable/flat_twin_cpc_pvc70/")[1]["items"]
    assert {i["key"] for i in family} >= {KEY, OUT}
    assert call(f"{address}/nowhere")[0] == 404


def test_a_quote_says_what_it_costs_and_whether_so_much_is_there(address: str) -> None:
    price = merchant.catalogue()[KEY]["price"]
    status, found = call(address + "/quotes", {"lines": [{"key": KEY, "count": 10}, {"key": OUT, "count": 1}, {"key": "tea", "count": 1}]})
    assert status == 200
    known, out, unknown = found["lines"]
    assert (known["cost"], known["enough"]) == (round(10 * price, 2), True)
    assert (out["stock"], out["enough"]) == (0.0, False)
    assert unknown["known"] is False
    assert found["total"] == pytest.approx(known["cost"] + out["cost"])


@pytest.mark.parametrize(
    "body", [b"", b"{", b"[]", b'{"lines": [{"key": "x"}]}', b'{"lines": [{"key": "x", "count": -1}]}', b'{"lines": 3}']
)
def test_a_list_it_cannot_read_is_refused(address: str, body: bytes) -> None:
    assert call(address + "/quotes", body)[0] == 400


def test_the_app_asks_it(asked: str) -> None:
    found = client.quote({KEY: 5.0, OUT: 5.0, "tea": 1.0})
    assert (found.state, set(found.offers)) == ("answers", {KEY, OUT})
    there = client.offered(["cable/flat_twin_cpc_pvc70/"], 10)
    assert there
    assert OUT not in there, "what is not in stock is not offered"


def test_one_that_is_away_or_none_is_told_and_not_waited_for(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(settings, "MERCHANT", "http://127.0.0.1:9", raising=False)
    assert client.quote({KEY: 1.0}).state == "away"
    assert client.offered(["cable/"], 1) is None
    monkeypatch.setattr(settings, "MERCHANT", "", raising=False)
    assert client.quote({KEY: 1.0}).state == "none"


@pytest.mark.parametrize(
    "said", [b"", b"<html>", b"[]", b'{"name": "x"}', b'{"name": "x", "lines": [{"key": "x", "known": true, "price": "dear"}]}']
)
def test_nonsense_counts_as_away(said: bytes, monkeypatch: pytest.MonkeyPatch) -> None:
    class Strange(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            self.send_response(200)
            self.end_headers()
            self.wfile.write(said)

        do_POST = do_GET  # noqa: N815

        def log_message(self, *_: Any) -> None:
            pass

    server = ThreadingHTTPServer(("127.0.0.1", 0), Strange)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    monkeypatch.setattr(settings, "MERCHANT", f"http://127.0.0.1:{server.server_port}", raising=False)
    assert client.quote({KEY: 1.0}).state == "away"
    assert client.offered(["cable/"], 1) is None
    server.shutdown()
    server.server_close()
