"""Giving up the rights of root before anybody is served, and not outliving the process that started us. Linux alone."""

from __future__ import annotations

import ctypes
import os
import pwd
import signal
import sys
from pathlib import Path

# Of linux/prctl.h and linux/capability.h.
PDEATHSIG, KEEPCAPS, VERSION_3, READ_SEARCH = 1, 8, 0x20080522, 1 << 2


def _libc() -> ctypes.CDLL:
    return ctypes.CDLL(None, use_errno=True)


def die_with_parent(parent: int) -> None:
    """Have this process stopped when the one that started it is gone, however it went. parent: its number."""
    _libc().prctl(PDEATHSIG, int(signal.SIGTERM), 0, 0, 0)
    if os.getppid() != parent:
        os.kill(os.getpid(), signal.SIGTERM)


def reachable(user: str, *paths: Path) -> bool:
    """Say whether a user can read these folders and all above them."""
    found = pwd.getpwnam(user)
    for path in paths:
        for place in (path, *path.parents):
            about = place.stat()
            bits = about.st_mode >> (6 if about.st_uid == found.pw_uid else 3 if about.st_gid == found.pw_gid else 0)
            if not bits & 1 or (place == path and not bits & 4):
                return False
    return True


def give_up_root(user: str) -> bool:
    """Become a user without rights, for good; return whether the right to read files had to be kept.

    It is kept where this program or its Python lie in a folder that is closed to the user, as under root's own: it could not go on otherwise.
    Nothing is done by a process that is not root's. Raises KeyError for a user that is not there.
    """
    if os.geteuid() != 0:
        return False
    found = pwd.getpwnam(user)
    places = [Path(__file__).resolve().parents[2], *(Path(p).resolve() for p in (sys.prefix, sys.base_prefix))]
    closed = not reachable(user, *places)
    libc = _libc()
    if closed:
        libc.prctl(KEEPCAPS, 1, 0, 0, 0)
    os.setgroups([])
    os.setresgid(found.pw_gid, found.pw_gid, found.pw_gid)
    os.setresuid(found.pw_uid, found.pw_uid, found.pw_uid)
    if closed:
        header = (ctypes.c_uint32 * 2)(VERSION_3, 0)
        # Effective, permitted and inheritable rights, of the first 32 and of the rest.
        data = (ctypes.c_uint32 * 6)(READ_SEARCH, READ_SEARCH, 0, 0, 0, 0)
        if libc.capset(ctypes.byref(header), ctypes.byref(data)) != 0:
            raise OSError(ctypes.get_errno(), "the right to read files could not be kept")
    os.environ["HOME"] = "/nonexistent"
    return closed
