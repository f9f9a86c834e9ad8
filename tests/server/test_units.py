"""The units for systemd, as written: what each would start is started with what systemd would give it, and stopped as it would stop it."""

from __future__ import annotations

import configparser
import os
import re
import shlex
import signal
import subprocess
from pathlib import Path
from typing import Any

import pytest
from django.db import connection

from mellow_span.process.port import listen
from mellow_span.settings.environment import Environment
from tests.server.conftest import ROOT, get, until

UNITS = ROOT / "scripts" / "systemd"
HOME = "/srv/mellow-span"


def unit(name: str) -> configparser.ConfigParser:
    found = configparser.ConfigParser(strict=False, interpolation=None)
    found.optionxform = str  # type: ignore[assignment, method-assign]
    found.read_string((UNITS / name).read_text())
    return found


def started(name: str, instance: str, **more: Any) -> subprocess.Popen[bytes]:
    """What a unit starts, in this checkout and on the test database."""
    line = unit(name)["Service"]["ExecStart"].replace(HOME, str(ROOT)).replace("%i", instance)
    env = {**os.environ, "MELLOW_SPAN_DB_NAME": connection.settings_dict["NAME"], "DJANGO_SETTINGS_MODULE": "tests.settings"}
    return subprocess.Popen(shlex.split(line), cwd=ROOT, env=env, **more)


def stopped(process: subprocess.Popen[bytes], name: str) -> int:
    process.send_signal(signal.SIGTERM)
    return process.wait(float(unit(name)["Service"]["TimeoutStopSec"]))


@pytest.mark.django_db(transaction=True)
def test_web_servers_answer_on_the_socket_they_are_given_and_stop_when_told() -> None:
    name = "mellow-span-web@.service"
    about = unit(name)["Service"]
    assert (about["StandardInput"], about["Sockets"]) == ("socket", "mellow-span.socket")
    assert unit("mellow-span.socket")["Socket"]["ListenStream"].startswith("127.0.0.1:"), "the proxy in front ends https"
    with listen("127.0.0.1", 0) as sock:
        port = sock.getsockname()[1]
        both = [started(name, str(k), stdin=sock.fileno()) for k in (1, 2)]
        until(lambda: get(port)[0] == 200)
        # Told to stop while it starts it just ends, which systemd takes for well.
        assert stopped(both[0], name) in (0, -signal.SIGTERM)
        assert get(port, timeout=90)[0] == 200
        assert stopped(both[1], name) == 0


@pytest.mark.django_db(transaction=True)
@pytest.mark.parametrize(("instance", "alone"), [("views", True), ("1", False)])
def test_processes_behind_take_what_their_name_says_and_stop_when_told(instance: str, alone: bool) -> None:
    name = "mellow-span-search@.service"
    with connection.cursor() as cursor:
        cursor.execute("TRUNCATE procrastinate_workers CASCADE")
    process = started(name, instance)
    said = Path(f"/proc/{process.pid}/cmdline")
    until(lambda: b"serving.searcher" in said.read_bytes() and b"exec" not in said.read_bytes())
    assert (b"--views-alone" in said.read_bytes()) is alone
    with connection.cursor() as cursor:

        def works() -> bool:
            cursor.execute("SELECT count(*) FROM procrastinate_workers")
            return bool(cursor.fetchone()[0])

        until(works)
    assert stopped(process, name) == 0


def test_every_unit_is_told_of_starts_what_there_is_and_is_started_again() -> None:
    told = (ROOT / "docs" / "operations.md").read_text()
    names = {path.name for path in UNITS.iterdir()}
    assert names == set(re.findall(r"mellow-span[a-z-]*@?\.(?:service|socket|timer)", told))
    for name in names:
        if not name.endswith(".service"):
            continue
        about = unit(name)["Service"]
        for key in ("ExecStart", "ExecStop"):
            for path in re.findall(r"(?:scripts|\.venv/bin|(?<=/)run)\S*", about.get(key, "")):
                assert (ROOT / path).exists(), (name, path)
        assert about.get("Restart") == "always" or about["Type"] == "oneshot"
        assert about["User"] == "mellow-span", "nothing is served as root"


def test_the_settings_of_the_guide_are_settings_there_are() -> None:
    told = (ROOT / "docs" / "operations.md").read_text()
    named = {name.lower() for name in re.findall(r"MELLOW_SPAN_([A-Z_]+)", told)}
    assert named <= set(Environment.model_fields)
