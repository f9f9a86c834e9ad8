"""Print each figure beside the one to reach. Medians of several runs; nothing here is a test."""

from __future__ import annotations

import math
import os
import random
import statistics
import sys
import time
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Any

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "mellow_span.settings")
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")

from mellow_span.core.design.check import check
from mellow_span.core.design.joint import cheapest
from mellow_span.core.design.size import size
from mellow_span.core.model.parts import Installation
from mellow_span.process.tuning import collect_seldom
from tests.build import circuit, submain
from tests.build import job as build
from tests.core.test_joint import deep


def house(circuits: int) -> Installation:
    """An installation of so many unlike circuits of four spans each."""

    places = ["masonry", "stud_touching", "ceiling_thick", "timber"]
    made = []
    for i in range(circuits):
        spans = [{"place": p, "length": 2 + (i % 7) + k, "ambient": 30 + i % 3} for k, p in enumerate(places)]
        device = {"kind": "rcbo", "rating": (16, 20, 32, 40)[i % 4], "idn": 0.03}
        made.append(circuit(f"c{i}", spans=spans, device=device, loads=[{"amount": 1000 + 37 * i}], cable={"csa": (2.5, 4, 6, 10)[i % 4]}))
    return build(*made)


def estate(circuits: int) -> Installation:
    """A house of so many circuits, half of them on a second board behind an armoured sub-main."""
    inputs = house(circuits - 1)
    feed = submain("m", ib_from="device", device={"rating": 63}, spans=[{"place": "duct", "length": 25}])
    far = build(feed, boards=["b", "far"])
    moved = tuple(replace(c, board="far") if i % 2 else c for i, c in enumerate(inputs.circuits))
    return replace(inputs, boards=far.boards, circuits=(*far.circuits, *moved))


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
    line("joint sizing of 40 circuits, a sub-main among them", median_ms(lambda: cheapest(estate(40)), 3), "ms", 1000)
    tree = deep(6, 54, 5, random.Random(3))
    began = time.perf_counter()
    found = cheapest(tree)
    line("joint sizing of 60 circuits, six sub-mains deep", (time.perf_counter() - began) * 1000, "ms", 3000)
    line("how much dearer than the cheapest that can be, at most", found.gap * 100, "%", 2)
    times = {}
    for n in (10, 40, 100, 400):
        inputs = house(n)
        times[n] = median_ms(partial(check, inputs, keep=False), 5)
    for n, ms in times.items():
        print(f"    {n:>3} circuits without working {ms:8.1f} ms, {ms / n * 1000:6.0f} µs each")
    line("400 circuits against ten times 40 (1 is linear)", times[400] / times[40] / 10, "", 1.15)
    draw_growth(times)


def papers() -> None:
    """What a paper takes once its engine is there, and the first one, which loads it."""
    from mellow_span.papers.pdf import pdf
    from mellow_span.papers.register import paper
    from mellow_span.papers.subject import Subject

    print("papers")
    forty = Subject(replace(estate(40), name="Forty"))
    for kind, about, goal in (
        ("schedule", "", 5000),
        ("results", "", 5000),
        ("chart", "", 5000),
        ("working", "c7", 5000),
        ("working", "", 60000),
    ):
        began = time.perf_counter()
        pdf(paper(forty, kind, about))
        what = f"PDF of 40 circuits: {kind}" + (" of one" if about else " of all" if kind == "working" else "")
        line(what, (time.perf_counter() - began) * 1000, "ms", goal)


# Kept beside the docs by hand, when it changed: measuring leaves what is in the repository as it is.
PLOT = Path(os.environ.get("MELLOW_SPAN_LOCAL", Path(__file__).parents[1] / ".local")) / "growth.svg"


def draw_growth(times: dict[int, float]) -> None:
    """Draw the time of a check over the number of circuits, both axes logarithmic, with the straight line of linear growth beside it."""
    wide, high, left, top = 560, 300, 70, 20

    def x(n: float) -> float:
        return left + (wide - left - 20) * math.log(n / 8) / math.log(500 / 8)

    low, most = min(times.values()) / 2, max(times.values()) * 2

    def y(ms: float) -> float:
        return top + (high - top - 50) * (1 - math.log(ms / low) / math.log(most / low))

    first = min(times)
    linear = f"M{x(first):.1f} {y(times[first]):.1f}L{x(max(times)):.1f} {y(times[first] * max(times) / first):.1f}"
    path = "M" + "L".join(f"{x(n):.1f} {y(ms):.1f}" for n, ms in times.items())
    marks = "".join(
        f'<circle cx="{x(n):.1f}" cy="{y(ms):.1f}" r="4"/><text x="{x(n):.1f}" y="{y(ms) - 10:.1f}" text-anchor="middle">{ms:.0f} ms</text>'
        f'<text x="{x(n):.1f}" y="{high - 28}" text-anchor="middle">{n}</text>'
        for n, ms in times.items()
    )
    PLOT.write_text(
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {wide} {high}" font-family="sans-serif" font-size="13" fill="#1f2a2a">'
        f'<rect width="{wide}" height="{high}" fill="#faf7f0"/><path d="{linear}" stroke="#9c4a1b" stroke-dasharray="5 4" fill="none"/>'
        f'<path d="{path}" stroke="#1f2a2a" stroke-width="2" fill="none"/>{marks}'
        f'<text x="{(wide + left) / 2}" y="{high - 8}" text-anchor="middle">circuits in the job; dashed: linear growth</text>'
        f'<text x="12" y="{top + 14}">time of a whole check</text></svg>\n',
        encoding="utf-8",
    )


if __name__ == "__main__":
    # As the server does before its first request.
    collect_seldom()
    core()
    papers()
    if "core" not in sys.argv[1:]:
        import django

        django.setup()
        from bench.device import on_device
        from bench.operations import operations
        from bench.web import browser, limits, many_jobs, people

        people(20)
        people(1)
        limits()
        operations()
        many_jobs()
        browser()
        on_device()
