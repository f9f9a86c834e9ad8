"""The web server: python -m mellow_span.serving.server --port 8000, or --fd 3 for a socket that listens already and that several of them share.

Whoever starts them keeps them running: `scripts/supervise`, or systemd by a socket unit.

It reads requests whole, and sends answers off, in one loop that waits for nobody; only a request that is there whole takes one of its few threads. So
slow and half-sent requests, however many, keep nobody else waiting. Why it is this one: docs/decisions/0010-kept-parts.md.
"""

from __future__ import annotations

import argparse
import os
import resource
import signal
import socket
import sys
import time
from typing import Any

from mellow_span.process.port import listen
from mellow_span.process.rights import die_with_parent, give_up_root
from mellow_span.settings.environment import environment

THREADS, CONNECTIONS = 4, 800
# A connection that sends nothing for so long is let go, and one whose request is not whole by then; a request that runs when the server stops has
# so long to end [s].
SILENT, WHOLE, GRACE = 30, 120, 10
# Who came so long before it stops is still heard [s].
FRESH = 3.0
# Larger bodies are cut off while they are read; what is allowed is less and refused by name.
MOST_BODY = 16_000_000


def options() -> dict[str, Any]:
    """Return how it serves. A proxy in front is believed only where it is named: MELLOW_SPAN_PROXY, its address."""
    proxy = str(environment().proxy or "")
    behind: dict[str, Any] = {"clear_untrusted_proxy_headers": True}
    if proxy:
        behind |= {"trusted_proxy": proxy, "trusted_proxy_count": 1, "trusted_proxy_headers": {"x-forwarded-for", "x-forwarded-proto"}}
    return {
        "threads": THREADS, "connection_limit": CONNECTIONS, "channel_timeout": SILENT, "cleanup_interval": 5, "ident": "",
        "max_request_body_size": MOST_BODY, "max_request_header_size": 65_536, "asyncore_use_poll": True, "backlog": 1024, **behind,
    }  # fmt: skip


def refusing() -> type[Any]:
    """Return how it talks on a connection: what the server itself refuses goes out with the policies of every other answer."""
    from waitress.channel import HTTPChannel
    from waitress.task import ErrorTask

    from mellow_span.settings.headers import EVERYWHERE

    class Refusal(ErrorTask):  # type: ignore[misc]
        def execute(self) -> None:
            self.response_headers.extend([*EVERYWHERE.items(), ("Cache-Control", "no-store")])
            super().execute()

    class Channel(HTTPChannel):  # type: ignore[misc]
        error_task_class = Refusal

    return Channel


class Server:
    """Serves from a socket until told to stop; then ends what it has begun."""

    def __init__(self, sock: socket.socket, application: Any) -> None:
        from waitress.server import create_server

        self.stopping = False
        sock.setblocking(False)
        self.server = create_server(application, sockets=[sock], **options())
        self.server.channel_class = refusing()
        #: Since when a request is there in part, by its connection.
        self.partial: dict[Any, float] = {}

    def run(self) -> None:
        """Serve."""
        for name in (signal.SIGTERM, signal.SIGINT):
            signal.signal(name, self.stop)
        while not self.stopping:
            self._turn(1.0)
        # Nothing new is taken; what was begun is answered. Closed, not only left alone: where the keeper was killed, another has the port as well by
        # now, and what came to this socket would wait for nobody.
        self.server.del_channel()
        self.server.socket.close()
        until = time.monotonic() + GRACE
        while time.monotonic() < until and self._busy():
            self._turn(0.05)
        self.server.task_dispatcher.shutdown(timeout=1)

    def stop(self, *_: Any) -> None:
        """Be told to stop."""
        self.stopping = True
        self.server.pull_trigger()

    def _turn(self, wait: float) -> None:
        self.server.asyncore.loop(timeout=wait, map=self.server._map, use_poll=True, count=1)
        now = time.monotonic()
        slow = [c for c in self.server.active_channels.values() if c.request is not None and not c.requests]
        self.partial = {c: self.partial.get(c, now) for c in slow}
        for channel, since in self.partial.items():
            if now - since > WHOLE:
                channel.will_close = True

    def _busy(self) -> bool:
        """Whether anything is to be ended; who has only just come is heard first, as their request may be on its way."""
        new = time.time() - FRESH
        return any(c.requests or c.total_outbufs_len or c.creation_time > new for c in self.server.active_channels.values())


def main() -> None:
    """Serve until told to stop."""
    asked = argparse.ArgumentParser(description="Serve Mellow Span.")
    where = asked.add_mutually_exclusive_group(required=True)
    where.add_argument("--port", type=int)
    where.add_argument("--fd", type=int, help="the number of a socket that listens, had from whoever started this")
    asked.add_argument("--user", default="nobody", help="whom a server started by root runs as")
    given = asked.parse_args()
    hard = resource.getrlimit(resource.RLIMIT_NOFILE)[1]
    resource.setrlimit(resource.RLIMIT_NOFILE, (min(hard, 8192), hard))
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "mellow_span.settings")
    from mellow_span.serving.wsgi import application

    try:
        sock = listen(str(environment().bind), given.port) if given.fd is None else socket.socket(fileno=given.fd)
    except OSError:
        sys.exit(f"Port {given.port} is taken.")
    give_up_root(given.user)
    if parent := environment().parent:
        die_with_parent(parent)
    Server(sock, application).run()


if __name__ == "__main__":
    main()
