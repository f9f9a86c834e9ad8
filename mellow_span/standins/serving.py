"""How a stand-in is run: on a loopback port, without the rights of root, not outliving what started it."""

from __future__ import annotations

import argparse
import os
import socketserver
from collections.abc import Callable

from mellow_span.process.rights import die_with_parent, give_up_root


def serve(made: Callable[[int], socketserver.BaseServer], what: str) -> None:
    """Serve until told to stop. made: makes the server for a port."""
    asked = argparse.ArgumentParser(description=f"Serve {what}.")
    asked.add_argument("--port", type=int, required=True)
    asked.add_argument("--user", default="nobody", help="whom a process started by root runs as")
    given = asked.parse_args()
    server = made(given.port)
    give_up_root(given.user)
    if parent := os.environ.get("MELLOW_SPAN_PARENT"):
        die_with_parent(int(parent))
    server.serve_forever()
