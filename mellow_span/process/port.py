"""A socket that listens. The standard library alone: what keeps the app running has nothing else."""

from __future__ import annotations

import socket


def listen(host: str, port: int) -> socket.socket:
    """Return a socket that listens on a port of an address of this machine. Raises OSError where it cannot be had.

    It may be had beside another of ours: servers whose keeper was killed hold theirs until they have ended what they began.
    """
    sock = socket.socket()
    sock.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    sock.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEPORT, 1)
    sock.bind((host, port))
    sock.listen(1024)
    return sock
