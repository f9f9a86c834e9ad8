"""Drawings on paper: to scale, in black and white, with nothing left out that the figures hold."""

from __future__ import annotations

import json
import re
from dataclasses import replace
from itertools import combinations, pairwise
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import pytest

from mellow_span import demo
from mellow_span.core.design.check import Checked, work_out
from mellow_span.core.drawing.curves import plot_of
from mellow_span.core.drawing.profile import profile_of
from mellow_span.core.figures import figure, quantity
from mellow_span.core.findings.results import Profile
from mellow_span.exchange.document import read
from mellow_span.papers.figures import HATCHES, LOOKS, plot, strip

DEMO = Path(demo.__file__).parent
NS = "{http://www.w3.org/2000/svg}"


def worked(name: str) -> Checked:
    return work_out(read(json.loads((DEMO / f"{name}.json").read_text("utf-8"))), keep=False)


HOUSE = worked("orchard_row")


def drawn(svg: str) -> Any:
    return ElementTree.fromstring(svg)


def texts(svg: str) -> list[str]:
    return [t.text or "" for t in drawn(svg).iter(f"{NS}text")]


def boxes(svg: str) -> list[tuple[float, float, float]]:
    """The frames of the spans: left, width, width of the line."""
    found = [r for r in drawn(svg).iter(f"{NS}rect") if r.get("fill") == "none"]
    return [(float(r.get("x")), float(r.get("width")), float(r.get("stroke-width"))) for r in found]


@pytest.mark.parametrize("name", ["orchard_row", "tern_quay", "mill_lane", "weir_lodge"])
def test_every_run_is_drawn_span_by_span_to_scale(name: str) -> None:
    done = worked(name)
    for circuit in done.plan.job.circuits:
        profile = profile_of(done, circuit.id)
        svg = strip(profile)
        if not profile.stretches or profile.stretches[-1].end <= 0:
            assert svg == ""
            continue
        frames = boxes(svg)
        assert len(frames) == len(profile.stretches)
        scale = sum(w for _, w, _ in frames) / profile.stretches[-1].end
        for s, (_, wide, _) in zip(profile.stretches, frames, strict=True):
            assert wide == pytest.approx((s.end - s.start) * scale, abs=0.11)
        for (left, wide, _), (after, _, _) in pairwise(frames):
            assert left + wide == pytest.approx(after, abs=0.21), "one after the other"
        used = set(re.findall(r'fill="url\(#look-(\w+)\)"', svg))
        assert used == {s.look if s.look in LOOKS and s.look else "unknown" for s in profile.stretches}


def test_the_span_that_throttles_has_the_heavy_frame_and_the_lanes_say_the_figures() -> None:
    profile = profile_of(HOUSE, "shower")
    svg = strip(profile)
    heavy = [k for k, (_, _, line) in enumerate(boxes(svg)) if line > 1]
    assert [profile.stretches[k].span for k in heavy] == [profile.governing]
    told = texts(svg)
    most = max(p.zs or 0.0 for p in profile.points)
    assert profile.zs_limit is not None
    for words in ("Iz 36 A too low", "In 40 A", f"Zs {figure(most, 'Ω')} Ω", f"max {figure(profile.zs_limit, 'Ω')} Ω", "limit 5.00 %"):
        assert words in told
    assert told[-1] == quantity(profile.stretches[-1].end, "m")
    # Where the same span carries enough nothing is heavy, and nothing is called short.
    enough = replace(profile, iz_needed=30.0)
    assert all(line == 1 for _, _, line in boxes(strip(enough)))
    assert not any("short" in t for t in texts(strip(enough)))


def test_a_lane_whose_figures_are_not_known_says_so_and_nothing_is_drawn_of_nothing() -> None:
    profile = profile_of(HOUSE, "shower")
    unknown = replace(profile, points=(), drop_limit=None, zs_limit=None)
    assert texts(strip(unknown)).count("not known yet") == 2
    assert strip(Profile()) == ""


@pytest.mark.parametrize(("name", "circuit"), [("orchard_row", "kiln"), ("orchard_row", "shower"), ("tern_quay", "winch")])
def test_a_plot_holds_every_device_fault_and_time_of_its_chain(name: str, circuit: str) -> None:
    done = HOUSE if name == "orchard_row" else worked(name)
    laid = plot_of(done, circuit)
    svg = plot(laid)
    root, told = drawn(svg), texts(svg)
    for device in laid.devices:
        if device.slow and device.rating is not None:
            assert f"{device.rating:g} A" in told
    hatched = [p for p in root.iter(f"{NS}path") if (p.get("fill") or "").startswith("url(#band-")]
    assert len(hatched) == sum(bool(d.area) for d in laid.devices)
    assert len({p.get("fill") for p in hatched}) == min(len(hatched), len(HATCHES)), "told apart without colour"
    uprights = [p for p in root.iter(f"{NS}path") if p.get("stroke-width") == "1.8" and re.fullmatch(r"M[\d.]+ 16V436", p.get("d") or "")]
    assert len(uprights) == len(laid.faults)
    assert len([p for p in root.iter(f"{NS}path") if p.get("stroke-dasharray") == "8 4"]) == len(laid.times)
    assert not re.search(r'(?:stroke|fill)="#(?!666|555|bbb)', svg), "black, white and grey alone"
    names = [(float(t.get("x")), float(t.get("y"))) for t in root.iter(f"{NS}text") if t.get("font-weight") == "700"]
    for (x1, y1), (x2, y2) in combinations(names, 2):
        assert abs(x1 - x2) >= 60 or abs(y1 - y2) >= 12, "no name over another"
