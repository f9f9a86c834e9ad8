"""Keeps the app running: the database, the web servers and the processes that work searches out. Whatever dies is started again, and said.

Run by ./run demo. Uses only the standard library, since it must go on where everything else fails.
"""

from __future__ import annotations

import argparse
import contextlib
import json
import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from datetime import date, datetime
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))
sys.path.insert(0, str(Path(__file__).resolve().parent))
import backup
import cluster

from mellow_span.process.port import listen

ROOT = Path(__file__).resolve().parents[1]
MARK = cluster.LOCAL / "serving.json"
USER = "mellow-span"
# One that dies is started again at once, the next time a little later, and so on up to so long [s]; one that ran for so long [s] counts anew. Nothing
# is ever given up, and nothing else is stopped for it: what is wrong may be mended meanwhile.
FIRST, LONGEST, WELL = 0.5, 30, 120
# How often it is looked whether all of it runs [s].
LOOK = 0.3
GRACE = 15


def say(text: str) -> None:
    """Tell whoever started it."""
    print(f"  {text}", flush=True)


def service_user() -> str:
    """Return the user a server started by root runs as; made where it is missing."""
    if os.geteuid() != 0:
        return ""
    if subprocess.run(["id", USER], capture_output=True, check=False).returncode != 0:
        line = ["useradd", "--system", "--no-create-home", "--home-dir", "/nonexistent", "--shell", "/usr/sbin/nologin", USER]
        if subprocess.run(line, capture_output=True, check=False).returncode != 0:
            return "nobody"
    return USER


class Pause:
    """How long to wait before the next try: none at first, then longer each time, until something ran well for a while.

    >>> pause = Pause()
    >>> [pause.next(0.0, now) for now in (1.0, 2.0, 3.0)], pause.next(3.0, 500.0)
    ([0.0, 0.5, 1.0], 0.0)
    """

    def __init__(self) -> None:
        self.failed = 0

    def next(self, began: float, now: float) -> float:
        """Return how long to wait [s]. began: when what failed now was started."""
        self.failed = 1 if now - began > WELL else self.failed + 1
        return 0.0 if self.failed == 1 else min(LONGEST, FIRST * 2.0 ** min(self.failed - 2, 10))


class Child:
    """A process that is kept running. given: the open files it has from here; due: when it is to be started again, None while it runs."""

    def __init__(self, name: str, command: list[str], given: tuple[int, ...] = ()) -> None:
        self.name, self.command, self.given = name, command, given
        self.pause = Pause()
        self.due: float | None = None
        self.began = 0.0
        self.process = self._start()

    def _start(self) -> subprocess.Popen[bytes]:
        self.began = time.monotonic()
        env = {**os.environ, "MELLOW_SPAN_PARENT": str(os.getpid())}
        return subprocess.Popen(self.command, cwd=ROOT, env=env, start_new_session=True, pass_fds=self.given)

    def keep(self) -> None:
        """Start it again where it died, after a pause where it has just died before."""
        if self.process.poll() is None:
            return
        now = time.monotonic()
        if self.due is None:
            wait = self.pause.next(self.began, now)
            when = f"started again in {wait:g} s; the lines above may say why it stops" if wait else "started again"
            say(f"{self.name} stopped (status {self.process.returncode}); {when}")
            self.due = now + wait
        if now >= self.due:
            self.due, self.process = None, self._start()

    def stop(self) -> None:
        """Have it end what it has begun."""
        if self.process.poll() is None:
            self.process.terminate()


class Database:
    """The cluster, kept running in the same way."""

    def __init__(self, data: Path) -> None:
        self.data = data
        self.pause, self.due = Pause(), 0.0
        self.began = time.monotonic()

    def keep(self) -> None:
        """Start it again where it stopped; one that does not start is tried again."""
        if cluster.serving(self.data) is not None or time.monotonic() < self.due:
            return
        wait = self.pause.next(self.began, time.monotonic())
        try:
            cluster.start()
            say("the database stopped; started again")
        except SystemExit as why:
            say(f"THE DATABASE DOES NOT START; tried again in {max(wait, FIRST):g} s: {why}")
            self.due = time.monotonic() + max(wait, FIRST)
        self.began = time.monotonic()


def stand_ins(as_user: list[str]) -> list[Child]:
    """Start what stands in for outside services, each where none is set up, and tell the others where it is."""
    found = []
    for name, variable, module, address in (
        ("the stand-in of the merchant", "MELLOW_SPAN_MERCHANT", "mellow_span.standins.merchant", "http://127.0.0.1:{}"),
        ("the stand-in of the instrument", "MELLOW_SPAN_INSTRUMENT", "mellow_span.standins.instrument", "127.0.0.1:{}"),
    ):
        if variable not in os.environ:
            port = cluster.free_port()
            os.environ[variable] = address.format(port)
            found.append(Child(name, [sys.executable, "-m", module, "--port", str(port), *as_user]))
    return found


class Night:
    """Makes a backup each night at a time of day; keeps the last so many."""

    def __init__(self, at: str) -> None:
        self.at = datetime.strptime(at, "%H:%M").time() if at else None
        now = datetime.now()
        # Not at once where the time of today is past already.
        self.last: date | None = now.date() if self.at and now.time() >= self.at else None

    def keep(self) -> None:
        """Make it where it is time; one that fails is said, and does not stop the app."""
        now = datetime.now()
        if self.at is None or now.time() < self.at or self.last == now.date():
            return
        self.last = now.date()
        try:
            say(f"backup of the night: {backup.make(backup.folder())}")
            backup.thin_out(backup.folder())
        except (SystemExit, OSError) as error:
            say(f"THE BACKUP OF THE NIGHT FAILED: {error}")


class Asked:
    """Whether it was told to stop. Noted, never raised: an exception in the middle of something could be swallowed there."""

    def __init__(self) -> None:
        self.to_stop = False
        for name in (signal.SIGTERM, signal.SIGINT, signal.SIGHUP):
            signal.signal(name, self._note)

    def _note(self, *_: object) -> None:
        self.to_stop = True

    def within(self, seconds: float) -> bool:
        """Wait so long, less where it is told to stop; return whether it was."""
        until = time.monotonic() + seconds
        while not self.to_stop and time.monotonic() < until:
            time.sleep(0.1)
        return self.to_stop


def wait_until_ready(port: int, child: Child, database: Database, asked: Asked) -> None:
    """Return when the app answers, well or not, or is told to stop. Raises SystemExit where it does not."""
    for _ in range(300):
        database.keep()
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{port}/api/health", timeout=5)
            return
        except urllib.error.HTTPError:
            # It says what ails it; that is looked after like everything else.
            return
        except OSError:
            pass
        if child.process.poll() is not None:
            sys.exit("The server did not start. The lines above say why.")
        if asked.within(0.1):
            return
    sys.exit("The server did not answer within half a minute.")


def run(port: int, workers: int, searchers: int, night: str) -> None:
    """Serve until told to stop."""
    asked = Asked()
    user = service_user()
    as_user = ["--user", user] if user else []
    stood_in = stand_ins(as_user)
    # They share a socket: whichever is free takes who comes next, and while one is started again the others answer.
    where = os.environ.get("MELLOW_SPAN_BIND", "127.0.0.1")
    try:
        sock = listen(where, port)
    except OSError as error:
        sys.exit(f"Port {port} of {where} cannot be had: {error.strerror}")
    line = [sys.executable, "-m", "mellow_span.serving.server", "--fd", str(sock.fileno()), *as_user]
    web = [Child("a web server", line, (sock.fileno(),)) for _ in range(workers)]
    children = [
        *web,
        *stood_in,
        # One is kept for what people look at: no search, however long, holds it up.
        *(
            Child(
                "the search process",
                [sys.executable, "-m", "mellow_span.serving.searcher", *as_user, *(["--views-alone"] if k == 0 < searchers - 1 else [])],
            )
            for k in range(searchers)
        ),
    ]
    nightly, database = Night(night), Database(cluster.data_folder())
    try:
        cluster.write_private(MARK, json.dumps({"pid": os.getpid(), "began": cluster.process_began(Path("/proc/self")), "port": port}))
        wait_until_ready(port, web[0], database, asked)
        say("")
        say(f"Open     http://127.0.0.1:{port}")
        say("Sign in  name demo, password mellow-span")
        say("Stop     Ctrl-C, or ./run stop")
        if user:
            say(f"It was started as root and serves as the user {user}.")
        while not asked.within(LOOK):
            database.keep()
            for child in children:
                child.keep()
            nightly.keep()
    finally:
        for child in children:
            child.stop()
        until = time.monotonic() + GRACE
        for child in children:
            with contextlib.suppress(subprocess.TimeoutExpired):
                child.process.wait(max(0.1, until - time.monotonic()))
            if child.process.poll() is None:
                child.process.kill()
        MARK.unlink(missing_ok=True)


def other() -> int | None:
    """Return the process that serves this very checkout already."""
    try:
        about = json.loads(MARK.read_text("utf-8"))
        began = cluster.process_began(Path(f"/proc/{about['pid']}"))
        return int(about["pid"]) if abs(began - about["began"]) < 2 else None
    except (OSError, ValueError, KeyError):
        return None


def stop_other(grace: int = GRACE + 5) -> bool:
    """Stop the app of this checkout where it runs, and wait for it, grace [s] at most; return whether it ran."""
    pid = other()
    if pid is None:
        return False
    with contextlib.suppress(ProcessLookupError):
        os.kill(pid, signal.SIGTERM)
    for _ in range(10 * grace):
        if other() is None:
            return True
        time.sleep(0.1)
    # What it keeps ends with it; what would start it again is told not to.
    with contextlib.suppress(OSError):
        above = int(Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[1])
        if b"again.sh" in Path(f"/proc/{above}/cmdline").read_bytes():
            os.kill(above, signal.SIGTERM)
    with contextlib.suppress(ProcessLookupError):
        os.kill(pid, signal.SIGKILL)
    MARK.unlink(missing_ok=True)
    print(f"process {pid} did not stop within {grace} s; it was killed", file=sys.stderr)
    return True


def owner_of(port: int) -> str:
    """Return who listens on a port of this machine, as far as it can be told."""
    wanted = f":{port:04X}"
    inodes = set()
    for table in ("/proc/net/tcp", "/proc/net/tcp6"):
        with contextlib.suppress(OSError):
            rows = [line.split() for line in Path(table).read_text().splitlines()[1:]]
            inodes |= {row[9] for row in rows if row[1].endswith(wanted) and row[3] == "0A"}
    for about in Path("/proc").glob("[0-9]*"):
        with contextlib.suppress(OSError):
            if any(os.readlink(f) in {f"socket:[{i}]" for i in inodes} for f in (about / "fd").iterdir()):
                line = (about / "cmdline").read_bytes().replace(b"\\0", b" ").replace(b"\0", b" ").decode(errors="replace").strip()
                return f"process {about.name}: {line[:70]}"
    return "another program"


def need_port(port: int) -> None:
    """Return where a port is free; else say loudly who has it, and offer to free it where that is us and somebody is there to ask."""
    if not cluster.taken(port):
        return
    mine = other()
    print(f"\nPORT {port} IS TAKEN by {owner_of(port)}.", file=sys.stderr)
    print(
        "  A browser keeps work that was not sent yet by the address of the app. So Mellow Span does not move to another port by itself:\n"
        "  at another address that work would not be seen.",
        file=sys.stderr,
    )
    if mine is not None:
        print("  It is a Mellow Span of this very folder that runs already.", file=sys.stderr)
        if sys.stdin.isatty() and input("  Stop it and start anew? [y/N] ").strip().lower() in ("y", "yes"):
            stop_other()
            return
        print("  To start it anew: ./run stop, then this again.", file=sys.stderr)
    else:
        print(f"  Stop that program and start again, or ask for another port: PORT={port + 10} ./run demo", file=sys.stderr)
    sys.exit(1)


def main() -> None:
    """Do what the command line asks."""
    asked = argparse.ArgumentParser()
    asked.add_argument("action", choices=("run", "need-port", "stop"))
    asked.add_argument("--port", type=int, default=8000)
    asked.add_argument("--workers", type=int, default=2)
    asked.add_argument("--searchers", type=int, default=max(2, (os.cpu_count() or 2) // 2))
    asked.add_argument("--grace", type=int, default=GRACE + 5, help="how long one that is told to stop may take [s]")
    asked.add_argument("--night", default=os.environ.get("MELLOW_SPAN_NIGHTLY", ""), help="when a backup is made each night, as 02:30")
    given = asked.parse_args()
    if given.action == "need-port":
        need_port(given.port)
    elif given.action == "stop":
        print("stopped" if stop_other(given.grace) else "not running")
    else:
        run(given.port, given.workers, given.searchers, given.night)


if __name__ == "__main__":
    main()
