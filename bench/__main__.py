"""Print each figure beside the one to reach. Medians of several runs; nothing here is a test."""

from __future__ import annotations

import os
import statistics
import sys
import time
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Any

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "mellow_span.settings")
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")

from mellow_span.core.installation import check
from mellow_span.core.model import Installation
from mellow_span.core.sizing import size


def house(circuits: int) -> Installation:
    """An installation of so many unlike circuits of four spans each."""
    from tests.build import circuit, job

    places = ["masonry", "stud_touching", "ceiling_thick", "timber"]
    made = []
    for i in range(circuits):
        spans = [{"place": p, "length": 2 + (i % 7) + k, "ambient": 30 + i % 3} for k, p in enumerate(places)]
        device = {"kind": "rcbo", "rating": (16, 20, 32, 40)[i % 4], "idn": 0.03}
        made.append(circuit(f"c{i}", spans=spans, device=device, loads=[{"amount": 1000 + 37 * i}], cable={"csa": (2.5, 4, 6, 10)[i % 4]}))
    return job(*made)


def edited(job: Installation) -> Callable[[], Any]:
    """Change one span at each call and check again, taking untouched circuits from memory."""
    lengths = iter(range(1, 900))
    first = job.circuits[0]

    def action() -> Any:
        span = replace(first.run.spans[0], length=float(next(lengths)))
        changed = replace(first, run=replace(first.run, spans=(span, *first.run.spans[1:])))
        return check(replace(job, circuits=(changed, *job.circuits[1:])), keep=frozenset([first.id]), reuse=True)

    return action


def median_ms(action: Callable[[], Any], runs: int = 9) -> float:
    """Median time of an action in ms, after one run to warm up."""
    action()
    times = []
    for _ in range(runs):
        began = time.perf_counter()
        action()
        times.append((time.perf_counter() - began) * 1000)
    return statistics.median(times)


def line(what: str, value: float, unit: str, goal: float) -> None:
    """Print one figure and whether it is reached."""
    print(f"  {what:<62}{value:>9.1f} {unit:<3} {'within' if value <= goal else 'OVER  '} {goal:g}", flush=True)


def core() -> None:
    """The core alone."""
    print("core")
    forty = house(40)
    line("40 circuits checked with working", median_ms(lambda: check(forty)), "ms", 15)
    line("40 circuits checked without working", median_ms(lambda: check(forty, keep=False)), "ms", 5)
    line("one circuit edited, the others remembered (as the app does)", median_ms(edited(forty)), "ms", 5)
    line("size one circuit", median_ms(lambda: size(forty, "c7")), "ms", 10)
    times = {}
    for n in (10, 40, 100, 400):
        inputs = house(n)
        times[n] = median_ms(partial(check, inputs, keep=False), 5)
    for n, ms in times.items():
        print(f"    {n:>3} circuits without working {ms:8.1f} ms, {ms / n * 1000:6.0f} µs each")
    line("400 circuits against ten times 40 (1 is linear)", times[400] / times[40] / 10, "", 1.15)


if __name__ == "__main__":
    core()
    if "core" not in sys.argv[1:]:
        import django

        django.setup()
        from bench.web import browser, people

        people()
        browser()
