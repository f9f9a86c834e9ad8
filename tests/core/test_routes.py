"""Routes: what spans take from them, how older files come over, what is drawn, and what trying something does."""

from __future__ import annotations

import copy
import dataclasses
import json
import math
import random
from pathlib import Path
from typing import Any

import pytest

from mellow_span.core.design.check import check, work_out
from mellow_span.core.design.routes import route_views, tryouts
from mellow_span.core.drawing.section import section_of
from mellow_span.core.errors import InputError
from mellow_span.core.model.changes import Change, restore
from mellow_span.core.model.parts import Installation
from mellow_span.core.model.routes import SHARED, apart, resolved
from mellow_span.core.rulesets import rule_set
from mellow_span.exchange.document import read, write
from tests.build import circuit, job
from tests.core.random_jobs import random_job
from tests.depth import many

R = rule_set("bs7671")
DEMO = Path(__file__).parents[2] / "mellow_span" / "demo"


def loft(**route: Any) -> Installation:
    """Three circuits of 6 mm2 over the same ceiling, and one that lies alone."""
    there = {"id": "loft", "name": "Loft", "place": "masonry", "ambient": 30, "length": 12, **route}
    lying = [circuit(f"c{i}", loads=[{"amount": 6000}], spans=[{"place": None, "length": None, "route": "loft"}]) for i in range(3)]
    return job(*lying, circuit("alone"), routes=[there])


def test_one_edit_of_a_route_is_felt_by_every_circuit_in_it_and_by_nobody_else() -> None:
    before = {c.id: c for c in check(loft()).circuits}
    after = {c.id: c for c in check(restore(loft(), [Change("set", "route", "loft", {"place": "ceiling_thick"})])[0]).circuits}
    for name in ("c0", "c1", "c2"):
        assert before[name].iz == pytest.approx(47 * 0.7)
        assert after[name].iz == pytest.approx(27 * 0.7)
    assert after["alone"] == before["alone"]


def test_a_job_apart_computes_as_it_lies() -> None:
    """Over random jobs: laying the routes over the spans once more, or writing their values into the spans, changes no figure."""
    rnd = random.Random(7)
    for _ in range(many(150)):
        inputs = random_job(rnd)
        lying = resolved(inputs)
        assert resolved(lying) == lying
        found = check(inputs, keep=False)
        assert check(apart(inputs), keep=False) == found
        for one in lying.circuits:
            for span in one.run.spans:
                route = next((r for r in inputs.routes if r.id == span.route), None)
                for name in SHARED if route else ():
                    if name != "wrapped" and getattr(route, name) is not None:
                        assert getattr(span, name) == getattr(route, name)


def as_version_3(document: dict[str, Any]) -> dict[str, Any]:
    """A job as it was written before there were routes: every span with its own surroundings, in bundles that say none."""
    inside = copy.deepcopy(document["installation"])
    routes = {r["id"]: r for r in inside.pop("routes", [])}
    for one in inside["circuits"]:
        for span in one.get("run", {}).get("spans", []):
            route = routes.get(span.pop("route", None) or "")
            if route:
                span |= {"bundle": route["id"], **{k: route[k] for k in SHARED if k in route}}
    inside["bundles"] = [
        {
            ("length" if k == "pull" else k): ("bundle" if k == "kind" and v == "open" else v)
            for k, v in r.items()
            if k not in SHARED and k != "length"
        }
        for r in routes.values()
    ]
    return {**document, "version": 3, "installation": inside}


@pytest.mark.parametrize("name", ["orchard_row", "tern_quay"])
def test_a_file_with_bundles_comes_over_without_a_changed_figure(name: str) -> None:
    document = json.loads((DEMO / f"{name}.json").read_text("utf-8"))
    old = as_version_3(document)
    assert "routes" not in old["installation"]
    upgraded = read(old)
    assert check(upgraded) == check(read(document))
    assert [r.place for r in upgraded.routes] == [r.place for r in read(document).routes], "what all spans have moves up"


def test_where_the_spans_of_a_bundle_differ_the_route_leaves_the_field_to_them() -> None:
    spans = {"a": {"ambient": 35}, "b": {"ambient": 40}}
    lying = [circuit(name, spans=[{**span, "route": "k"}]) for name, span in spans.items()]
    old = as_version_3(json.loads(json.dumps(write(dataclasses.replace(job(*lying, routes=[{"id": "k", "laid": "layer"}]), name="x")))))
    upgraded = read(old)
    assert (upgraded.routes[0].place, upgraded.routes[0].ambient, upgraded.routes[0].laid) == ("masonry", None, "layer")
    assert [c.run.spans[0].ambient for c in upgraded.circuits] == [35, 40]


def test_trying_something_with_a_route_tells_what_it_does_to_every_circuit() -> None:
    inputs = loft(place="timber")
    found = {t.id: t for t in tryouts(inputs, "loft")}
    insulated = {e.circuit: e for e in found["insulate"].effects}
    assert set(insulated) == {"c0", "c1", "c2"}
    assert insulated["c0"].iz_before == pytest.approx(47 * 0.7)
    assert insulated["c0"].iz_after == pytest.approx(27 * 0.7)
    assert insulated["c0"].worse
    split = {e.circuit: e for e in found["split"].effects}
    assert sorted(e.iz_after or 0 for e in split.values()) == pytest.approx([47 * 0.8, 47 * 0.8, 47]), "two and one lie together then"
    assert check(restore(inputs, found["split"].changes)[0]).circuits[0].iz == pytest.approx(47 * 0.8)
    assert found["tray"].effects[0].iz_after == pytest.approx(R.table("4D2A").cell(6.0, "E_2").value * 0.82)
    alone = {t.id: t for t in tryouts(job(circuit(spans=[{"route": "k"}]), routes=[{"id": "k", "place": "buried"}]), "k")}
    assert alone["split"].why
    assert alone["insulate"].why
    with pytest.raises(InputError):
        tryouts(inputs, "nowhere")


def test_a_route_stands_with_heat_and_space_side_by_side() -> None:
    lying = [circuit(f"c{i}", cable={"csa": 6}, spans=[{"place": "conduit", "route": "k"}]) for i in range(3)]
    views = route_views(work_out(job(*lying, routes=[{"id": "k", "kind": "trunking", "width": 50, "height": 50}])))
    assert (views[0].heat, views[0].space) == ("short", "meets"), "they fit and cook each other"
    assert views[0].lying[0].iz == pytest.approx(R.table("4D2A").cell(6.0, "B_2").value * 0.7)
    assert views[0].lying[0].needed == 32


def test_a_section_is_drawn_to_scale_and_nothing_overlaps() -> None:
    rnd = random.Random(3)
    for kind, laid in (("open", "bunched"), ("open", "layer"), ("open", "spaced"), ("conduit", "bunched"), ("trunking", "bunched")):
        lying = []
        for i in range(rnd.randint(1, 6)):
            family, csa = rnd.choice(["flat_twin_cpc_pvc70", "single_pvc70", "multicore_pvc70"]), rnd.choice([1, 2.5, 6, 10])
            place = "conduit" if kind != "open" else "masonry"
            lying.append(circuit(f"c{i}", cable={"family": family, "csa": csa, "cpc_csa": csa}, spans=[{"place": place, "route": "k"}]))
        inputs = job(*lying, routes=[{"id": "k", "kind": kind, "laid": laid, "diameter": 32, "width": 75, "height": 50}])
        section = section_of(R, inputs, inputs.routes[0])
        assert section.shapes
        assert not section.why
        assert {s.circuit for s in section.shapes} == {c.id for c in inputs.circuits}
        for i, a in enumerate(section.shapes):
            if a.inside and kind == "conduit" and a.width == a.height:
                off = math.hypot(a.x + a.width / 2 - section.width / 2, a.y + a.height / 2 - section.width / 2)
                assert off <= (section.width - a.width) / 2 + 1e-6
            elif a.inside and kind == "conduit":
                corners = [(x, y) for x in (a.x, a.x + a.width) for y in (a.y, a.y + a.height)]
                assert all(math.hypot(x - section.width / 2, y - section.width / 2) <= section.width / 2 + 1e-6 for x, y in corners)
            for b in section.shapes[i + 1 :]:
                apart_x = a.x + a.width <= b.x + 1e-9 or b.x + b.width <= a.x + 1e-9
                if kind == "conduit" and a.width == a.height and b.width == b.height:
                    centres = math.hypot(a.x + a.width / 2 - b.x - b.width / 2, a.y + a.height / 2 - b.y - b.height / 2)
                    assert centres >= (a.width + b.width) / 2 - 1e-6
                    continue
                apart_y = a.y + a.height <= b.y + 1e-9 or b.y + b.height <= a.y + 1e-9
                assert apart_x or apart_y, (kind, laid, a, b)


def test_a_section_says_why_it_cannot_be_drawn() -> None:
    inputs = job(circuit(cable={"csa": None}, spans=[{"route": "k"}]), routes=[{"id": "k"}])
    assert "cable" in section_of(R, inputs, inputs.routes[0]).why
