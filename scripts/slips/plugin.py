"""Inside pytest: the tests are collected once; each slip is made in a copy of this process, which runs the tests that touch its line.

Loaded by scripts/slips/__main__.py. A first copy runs all tests and notes what lines each touches and how long it takes.
"""

from __future__ import annotations

import dataclasses
import json
import os
import signal
import sys
import time
from pathlib import Path
from typing import Any

import coverage
import pytest

from slips.sites import Slip
from slips.swap import NotMade, make

ROOT = Path(__file__).resolve().parents[2]
# A test that takes longer than this is none of the quick ones; all that touch a line have so long together; a slip that never ends is noticed [s].
QUICK, TOGETHER, ENDLESS = 8.0, 60.0, 180.0
NOTICED, UNNOTICED, NOT_MADE, UNTOUCHED = 1, 0, 3, 4
TOLD = {NOTICED: "noticed", UNNOTICED: "unnoticed", NOT_MADE: "not made", UNTOUCHED: "untouched"}


def pytest_addoption(parser: pytest.Parser) -> None:
    """Say where the slips are."""
    parser.addoption("--slips", help="a folder with slips.json; what comes of each is written there")
    parser.addoption("--slips-lanes", type=int, default=2)


def _database(lane: int) -> None:
    """Each copy that runs at the same time has a database of its own, which is kept from one slip to the next."""
    if "django" in sys.modules and os.environ.get("DJANGO_SETTINGS_MODULE"):
        from django.db import connections

        connections["default"].settings_dict["TEST"]["NAME"] = f"test_slips_{lane}"


def _run(session: pytest.Session, items: list[pytest.Item], until: float, stop: bool) -> dict[str, float]:
    """Run items; return how long each that passed took. Ends at the first failure where `stop`."""
    took = {}
    for i, item in enumerate(items):
        failed, began = session.testsfailed, time.monotonic()
        if stop and began > until:
            break
        # What the next one is decides what is torn down: nothing shared by a session is, until the end.
        item.config.hook.pytest_runtest_protocol(item=item, nextitem=items[i + 1] if i + 1 < len(items) else None)
        if session.testsfailed == failed:
            took[item.nodeid] = time.monotonic() - began
        elif stop:
            os._exit(NOTICED)
    return took


class _Contexts:
    def __init__(self, cov: coverage.Coverage) -> None:
        self.cov = cov

    @pytest.hookimpl(wrapper=True)
    def pytest_runtest_protocol(self, item: pytest.Item) -> Any:
        self.cov.switch_context(item.nodeid)
        return (yield)


def _learn(session: pytest.Session, folder: Path, files: list[str]) -> None:
    """In a copy: run everything, note the lines that each test touches."""
    cov = coverage.Coverage(data_file=str(folder / "coverage"), include=[str(ROOT / f) for f in files], config_file=False)
    session.config.pluginmanager.register(_Contexts(cov))
    cov.start()
    took = _run(session, session.items, 0, stop=False)
    cov.stop()
    cov.save()
    (folder / "took.json").write_text(json.dumps(took))


def _touching(folder: Path, files: list[str]) -> dict[tuple[str, int], list[str]]:
    data = coverage.CoverageData(str(folder / "coverage"))
    data.read()
    found: dict[tuple[str, int], list[str]] = {}
    for file in files:
        for line, tests in data.contexts_by_lineno(str(ROOT / file)).items():
            found[file, line] = [t for t in tests if t]
    return found


def _forked(session: pytest.Session, slip: Slip, items: list[pytest.Item], lane: int) -> int:
    number = os.fork()
    if number:
        return number
    null = os.open(os.devnull, os.O_WRONLY)
    os.dup2(null, 1)
    os.dup2(null, 2)
    os.setsid()
    try:
        _database(lane)
        make(slip)
        _run(session, items, time.monotonic() + TOGETHER, stop=True)
    except NotMade:
        os._exit(NOT_MADE)
    except BaseException:
        os._exit(NOTICED)
    os._exit(UNNOTICED)


@pytest.hookimpl(tryfirst=True)
def pytest_runtestloop(session: pytest.Session) -> bool | None:
    """Make the slips in the place of running the tests."""
    folder = Path(session.config.getoption("--slips") or "")
    if not session.config.getoption("--slips"):
        return None
    lanes = session.config.getoption("--slips-lanes")
    slips = [Slip(**s) for s in json.loads((folder / "slips.json").read_text())]
    files = sorted({s.file for s in slips})
    if not (folder / "took.json").exists():
        number = os.fork()
        if not number:
            try:
                _database(0)
                _learn(session, folder, files)
            finally:
                os._exit(0)
        os.waitpid(number, 0)
    took: dict[str, float] = json.loads((folder / "took.json").read_text())
    quick = {i.nodeid: i for i in session.items if took.get(i.nodeid, QUICK) < QUICK}
    print(f"\n{len(took)} tests pass, {len(quick)} of them are quick", flush=True)
    touching = _touching(folder, files)
    with (folder / "found.jsonl").open("a") as out:
        _all(session, slips, quick, took, touching, lanes, out)
    return True


def _all(session: Any, slips: list[Slip], quick: Any, took: Any, touching: Any, lanes: int, out: Any) -> None:
    waiting, free = list(slips), list(range(lanes))
    running: dict[int, tuple[Slip, int, float]] = {}
    while waiting or running:
        while waiting and free:
            slip = waiting.pop(0)
            names = {t for line in range(slip.line, slip.last + 1) for t in touching.get((slip.file, line), ())} & quick.keys()
            # Defaults are read when the module is loaded, which no test is seen to touch.
            names = names or (set(quick) if slip.kind == "default" else set())
            if not names:
                _tell(out, slip, UNTOUCHED, 0)
                continue
            lane = free.pop()
            items = [quick[n] for n in sorted(names, key=lambda n: took[n])]
            running[_forked(session, slip, items, lane)] = (slip, lane, time.monotonic())
        for number, (slip, lane, began) in list(running.items()):
            done, status = os.waitpid(number, os.WNOHANG)
            if not done and time.monotonic() - began > ENDLESS:
                os.killpg(number, signal.SIGKILL)
                done, status = os.waitpid(number, 0)
            if done:
                code = os.waitstatus_to_exitcode(status)
                _tell(out, slip, code if code in TOLD else NOTICED, time.monotonic() - began)
                free.append(lane)
                del running[number]
        time.sleep(0.02)


def _tell(out: Any, slip: Slip, code: int, seconds: float) -> None:
    print(f"{TOLD[code]:<10}{seconds:6.1f} s  {slip.name}", flush=True)
    out.write(json.dumps({**dataclasses.asdict(slip), "came": TOLD[code]}) + "\n")
    out.flush()
