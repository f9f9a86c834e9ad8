"""A web server on the test database, and a spare checkout's cluster to break."""

from __future__ import annotations

import contextlib
import json
import os
import shutil
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from django.db import connection

ROOT = Path(__file__).parents[2]


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def get(port: int, address: str = "/api/health", timeout: float = 10, **headers: str) -> tuple[int, bytes]:
    """Ask a server; 0 where it does not answer."""
    request = urllib.request.Request(f"http://127.0.0.1:{port}{address}", headers=headers)
    try:
        with urllib.request.urlopen(request, timeout=timeout) as answer:
            return answer.status, answer.read()
    except urllib.error.HTTPError as error:
        return error.code, error.read()
    except OSError:
        return 0, b""


def until(true: Callable[[], bool], seconds: float = 90) -> None:
    """Wait until something is so."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if true():
            return
        time.sleep(0.1)
    raise AssertionError("it did not come to be")


def children(pid: int) -> list[int]:
    return [int(c) for c in Path(f"/proc/{pid}/task/{pid}/children").read_text().split()]


@contextlib.contextmanager
def serving(port: int, shared: socket.socket | None = None) -> Iterator[subprocess.Popen[bytes]]:
    """The web server on the test database; shared: on a socket that listens, which others may have as well."""
    env = {**os.environ, "MELLOW_SPAN_DB_NAME": connection.settings_dict["NAME"], "DJANGO_SETTINGS_MODULE": "tests.settings"}
    line = [sys.executable, "-m", "mellow_span.serving.server"]
    line += ["--port", str(port)] if shared is None else ["--fd", str(shared.fileno())]
    process = subprocess.Popen(line, cwd=ROOT, env=env, pass_fds=() if shared is None else (shared.fileno(),))
    try:
        until(lambda: get(port)[0] == 200)
        yield process
    finally:
        process.terminate()
        process.wait(20)


@pytest.fixture
def server(transactional_db: None) -> Iterator[tuple[int, subprocess.Popen[bytes]]]:
    port = free_port()
    with serving(port) as process:
        yield port, process


class Spare:
    """A folder as .local is, with a cluster of its own."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.env = {**os.environ, "MELLOW_SPAN_LOCAL": str(folder), "DJANGO_SETTINGS_MODULE": "tests.settings"}
        self.env.pop("MELLOW_SPAN_DB_NAME", None)

    def script(self, name: str, *given: str, **more: Any) -> subprocess.CompletedProcess[str]:
        """Run a script of the checkout against this cluster."""
        line = [sys.executable, f"scripts/{name}.py", *given]
        return subprocess.run(line, cwd=ROOT, env=self.env, capture_output=True, text=True, check=False, stdin=subprocess.DEVNULL, **more)

    @property
    def postmaster(self) -> int:
        """The process that serves the cluster."""
        return int((self.folder / "pg" / "postmaster.pid").read_text().split("\n")[0])

    def sql(self, statement: str, database: str = "mellow_span") -> str:
        """Ask the cluster."""
        import psycopg

        about = json.loads((self.folder / "connection.json").read_text())
        with psycopg.connect(
            host="127.0.0.1", port=about["port"], user=about["user"], password=about["password"], dbname=database, autocommit=True
        ) as asked:
            cursor = asked.execute(statement)
            return str(cursor.fetchone()[0]) if cursor.description else ""  # type: ignore[index]


@pytest.fixture(scope="module")
def spare() -> Iterator[Spare]:
    folder = Path(tempfile.mkdtemp(prefix="ms-spare-"))
    folder.chmod(0o755)
    made = Spare(folder)
    started = made.script("cluster", "start")
    assert started.returncode == 0, started.stderr + started.stdout
    (folder / "secret_key").write_text("a key for a test only, of some length")
    line = [sys.executable, "manage.py", "load_demo", "--migrate"]
    filled = subprocess.run(line, cwd=ROOT, env=made.env, capture_output=True, text=True, check=False)
    assert filled.returncode == 0, filled.stderr
    yield made
    made.script("cluster", "stop")
    shutil.rmtree(folder)
