"""The stand-in of the instrument by its line protocol, and what the app makes of it where it is away or talks nonsense."""

from __future__ import annotations

import json
import socket
import socketserver
import threading
from collections.abc import Iterator
from typing import Any

import pytest
from django.conf import settings

from mellow_span.logbook import instrument as client
from mellow_span.standins import instrument, under_test

RADIAL = {
    "ring": False,
    "length": 20.0,
    "line": 0.0074,
    "neutral": 0.0074,
    "cpc": 0.0121,
    "outlets": [10.0, 20.0],
    "idn": 0.03,
    "amps": 6.0,
}
ON_BENCH = under_test.described(dict(RADIAL))


@pytest.fixture
def port(monkeypatch: pytest.MonkeyPatch) -> Iterator[int]:
    server = instrument.server(0)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    monkeypatch.setattr(settings, "INSTRUMENT", f"127.0.0.1:{server.server_address[1]}", raising=False)
    yield server.server_address[1]
    server.shutdown()
    server.server_close()


def talk(port: int, *lines: str) -> list[str]:
    with socket.create_connection(("127.0.0.1", port), timeout=5) as line:
        file = line.makefile("rw", encoding="utf-8", newline="\n")
        said = []
        for text in lines:
            file.write(text + "\n")
            file.flush()
            said.append(file.readline().strip())
        return said


def test_a_talk_line_by_line(port: int) -> None:
    hello, early, loaded, fault, value, far, yes, trip = talk(
        port,
        "HELLO",
        "READ r1r2",
        "LOAD " + json.dumps(RADIAL),
        "FAULT none 1",
        "READ r1r2 10",
        "READ r1r2",
        "READ polarity 10",
        "READ rcd_half",
    )
    assert (hello, early, loaded, fault) == (instrument.HELLO, "ERR LOAD a circuit first", "OK", "OK")
    word, quantity, figure, unit = value.split(" ")
    assert (word, quantity, unit) == ("VALUE", "r1r2", "ohm")
    assert float(figure) == pytest.approx(0.195, abs=0.03)
    assert float(far.split(" ")[2]) == pytest.approx(0.39, abs=0.04)
    assert (yes, trip) == ("YES polarity", "OVER rcd_half ms")


@pytest.mark.parametrize(
    "line",
    ["", "tea", "LOAD", "LOAD {", "LOAD []", 'LOAD {"ring": 1}', "LOAD " + json.dumps({**RADIAL, "outlets": []}), "LOAD " + json.dumps({**RADIAL, "length": -1}), "FAULT none", "READ"],
)  # fmt: skip
def test_what_it_cannot_do_is_an_error_in_one_line(port: int, line: str) -> None:
    assert talk(port, line)[0].startswith("ERR ")


def test_faults_it_does_not_know_or_the_circuit_cannot_have(port: int) -> None:
    load = "LOAD " + json.dumps(RADIAL)
    assert talk(port, load, "FAULT tea 1")[1].startswith("ERR one of none")
    assert talk(port, load, "FAULT broken_ring 1")[1] == "ERR broken_ring needs a ring"
    assert talk(port, load, "FAULT none x")[1].startswith("ERR ")
    assert talk(port, load, "READ tea")[1].startswith("ERR ")


@pytest.mark.parametrize("name", under_test.FAULTS)
def test_a_fault_is_the_same_for_the_same_seed_and_shows_somewhere(name: str) -> None:
    ring = under_test.Circuit(True, 60.0, 0.0074, 0.0074, 0.0121, [10.0, 20.0, 30.0, 40.0, 50.0])
    assert under_test.put_in(ring, name, 3).fault == under_test.put_in(ring, name, 3).fault
    sound, faulty = (
        under_test.UnderTest(ring, f, under_test.random.Random(1)) for f in (under_test.Fault(), under_test.put_in(ring, name, 3).fault)
    )
    asked = [(q, at) for q in ("r1", "rn", "r2", "cross_ln", "cross_le", "r1r2", "zs", "ir_ne") for at in ring.outlets]
    assert ([sound.read(*a) for a in asked] == [faulty.read(*a) for a in asked]) == (name == "none")


def test_the_app_reads_from_it(port: int) -> None:
    found = client.read("r1r2", 20.0, ON_BENCH, "none", 1)
    assert (found.unit, found.over, found.ok) == ("Ω", False, None)
    assert found.value == pytest.approx(0.39, abs=0.04)
    assert client.read("polarity", 10.0, ON_BENCH, "none", 1).ok is True
    assert client.read("rcd_half", None, ON_BENCH, "none", 1).over
    with pytest.raises(client.AwayError, match="needs a ring"):
        client.read("r1r2", 20.0, ON_BENCH, "broken_ring", 1)


@pytest.mark.parametrize("address", ["", "127.0.0.1:9", "nowhere"])
def test_one_that_is_away_is_told(address: str, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(settings, "INSTRUMENT", address, raising=False)
    with pytest.raises(client.AwayError):
        client.read("r1r2", 20.0, ON_BENCH, "none", 1)


@pytest.mark.parametrize("said", ["", "tea", "OK", "OK\nOK\nOK\nVALUE r1r2 dear ohm", "OK\nOK\nOK\nVALUE"])
def test_nonsense_counts_as_away(said: str, monkeypatch: pytest.MonkeyPatch) -> None:
    class Strange(socketserver.StreamRequestHandler):
        def handle(self) -> None:
            self.wfile.write((said + "\n").encode())

    server: Any = socketserver.TCPServer(("127.0.0.1", 0), Strange)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    monkeypatch.setattr(settings, "INSTRUMENT", f"127.0.0.1:{server.server_address[1]}", raising=False)
    with pytest.raises(client.AwayError):
        client.read("r1r2", 20.0, ON_BENCH, "none", 1)
    server.shutdown()
    server.server_close()
