"""A test instrument that is made up: it meets a circuit on a bench with a fault put in. python -m mellow_span.standins.instrument --port 8091

A line each way, in UTF-8, ended by a line feed. What it is asked, and what it answers:

HELLO                    OK bench instrument 1, made up
LOAD {json}              OK: the circuit on the bench, as `under_test.Circuit` names its fields
FAULT name seed          OK: a fault put into it, where and how much by the seed
READ quantity [at]       VALUE quantity figure unit, OVER quantity unit, TRIPPED, YES or NO quantity; at: position [m], else the last outlet
BYE                      ends the talk
anything else            ERR and what is allowed

Readings have noise, leads whose resistance is not quite taken away, contacts, and two decimals, as real ones have.
"""

from __future__ import annotations

import json
import socketserver

from mellow_span.standins.serving import serve
from mellow_span.standins.under_test import FAULTS, Circuit, UnderTest, described, put_in

HELLO = "OK bench instrument 1, made up"
LONGEST = 20_000


class Talk(socketserver.StreamRequestHandler):
    """One talk with whoever connects; each has a bench of its own."""

    timeout = 30
    circuit: Circuit | None = None
    bench: UnderTest | None = None

    def handle(self) -> None:
        """Answer line by line until the other says BYE or goes."""
        while True:
            try:
                raw = self.rfile.readline(LONGEST + 1)
            except OSError:
                return
            if not raw or len(raw) > LONGEST:
                return
            line = raw.decode("utf-8", "replace").strip()
            if line == "BYE":
                return
            self.wfile.write((self._answer(line) + "\n").encode())

    def _answer(self, line: str) -> str:
        word, _, rest = line.partition(" ")
        try:
            if word == "HELLO":
                return HELLO
            if word == "LOAD":
                self.circuit = described(json.loads(rest))
                self.bench = put_in(self.circuit, "none", 0)
                return "OK"
            if word == "FAULT":
                return self._fault(rest)
            if word == "READ":
                return self._read(rest)
        except (ValueError, TypeError, IndexError, RecursionError) as error:
            return f"ERR {str(error)[:200]}".replace("\n", " ")
        return "ERR HELLO, LOAD, FAULT, READ or BYE"

    def _fault(self, rest: str) -> str:
        if self.circuit is None:
            return "ERR LOAD a circuit first"
        name, _, seed = rest.partition(" ")
        if name not in FAULTS:
            return "ERR one of " + ", ".join(FAULTS)
        self.bench = put_in(self.circuit, name, int(seed or 0))
        return "OK"

    def _read(self, rest: str) -> str:
        if self.bench is None:
            return "ERR LOAD a circuit first"
        quantity, _, at = rest.partition(" ")
        if self.bench.trips(quantity):
            return f"TRIPPED {quantity}"
        value, unit = self.bench.read(quantity, _nearest(self.bench.circuit, float(at)) if at else None)
        if isinstance(value, bool):
            return f"{'YES' if value else 'NO'} {quantity}"
        return f"OVER {quantity} {unit}" if value is None else f"VALUE {quantity} {value:g} {unit}"


def _nearest(circuit: Circuit, at: float) -> float:
    """The outlet nearest to a position: a probe is held to an outlet, not to a cable."""
    return min(circuit.outlets, key=lambda o: abs(o - at))


def server(port: int) -> socketserver.ThreadingTCPServer:
    """Return the instrument's server on a loopback port; 0: any that is free."""
    socketserver.ThreadingTCPServer.allow_reuse_address = True
    made = socketserver.ThreadingTCPServer(("127.0.0.1", port), Talk)
    made.daemon_threads = True
    return made


if __name__ == "__main__":
    serve(server, "a made-up instrument")
