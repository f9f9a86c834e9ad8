"""What must hold for whole installations: boards, routes, every device and cpc, and the searches over them."""

from __future__ import annotations

import dataclasses
import math
import random
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mellow_span.core.design.check import check
from mellow_span.core.design.circuit import RULES
from mellow_span.core.design.coordination import coordination
from mellow_span.core.design.joint import cheapest
from mellow_span.core.design.options import options
from mellow_span.core.design.outbuilding import earthing_choices
from mellow_span.core.design.prices import read_book, shipped
from mellow_span.core.design.reach import reaches
from mellow_span.core.design.robustness import robustness
from mellow_span.core.design.size import size
from mellow_span.core.design.solving import changed, short, solved
from mellow_span.core.errors import CoreError, InputError
from mellow_span.core.findings.advice import HINTS as ADVICE
from mellow_span.core.findings.advice import advise
from mellow_span.core.findings.results import Check
from mellow_span.core.model.parts import Dismissal
from mellow_span.core.rulesets import rule_set
from mellow_span.core.site.compare import verify
from mellow_span.core.working.steps import Step
from tests.build import circuit, job, submain
from tests.core.random_jobs import numbers, random_job
from tests.depth import examples, many, seeded

R = rule_set("bs7671")


def test_random_jobs_give_results_or_named_errors() -> None:
    rnd, count = seeded(7671), many(10_000, 240)
    circuits = known = 0
    for i in range(count):
        inputs = random_job(rnd)
        found = check(inputs, keep=i % 25 == 0)
        assert all(math.isfinite(n) for n in numbers(found)), i
        for one in found.circuits:
            circuits += 1
            known += one.verdict != "not_known"
            assert one.verdict != "not_known" or one.reason
        if i % (count // 12) == 0:
            assert all(math.isfinite(n) for n in numbers((coordination(inputs), advise(inputs), robustness(inputs)))), i
    # A fuzz whose jobs were all refused at the door would prove nothing.
    assert known > circuits / 20


def test_random_jobs_survive_every_search() -> None:
    rnd = seeded(60364)
    for _ in range(many(60, 8)):
        inputs = random_job(rnd)
        cheapest(inputs)
        for one in inputs.circuits:
            for search in (size, options, reaches, verify):
                try:
                    assert all(math.isfinite(n) for n in numbers(search(inputs, one.id)))  # type: ignore[operator]
                except CoreError as error:
                    assert error.field
                    assert error.allowed


@examples(25)
@given(
    st.floats(3000, 11000),
    st.sampled_from([4, 6, 10]),
    st.sampled_from(["ceiling_thick", "stud_adrift", "stud_touching"]),
    st.floats(5, 60),
)
def test_a_way_out_that_passes_does_pass_when_taken(watts: float, csa: float, place: str, length: float) -> None:
    inputs = job(
        circuit(
            "f", loads=[{"amount": watts, "kind": "shower"}], device={"rating": 50, "kind": "rcbo", "idn": 0.03}, cable={"csa": csa},
            spans=[{"length": length}, {"length": 2, "place": place}],
        )
    )  # fmt: skip
    before = solved(inputs, "f")
    found = options(inputs, "f")
    assert bool(found) <= bool(short(before))
    for option in found:
        after = check(changed(inputs, option.changes)).circuits[0]
        assert option.passes == all(c.verdict in ("meets", "close") for c in after.checks if c.decides), option
    costs = [o.cost for o in found if o.passes]
    assert costs == sorted(costs)


def test_every_rule_cites_its_clause() -> None:
    assert all(rule.clause for rule in RULES)
    assert all(rule.clause for rule in ADVICE)
    steps: list[Step] = []
    rnd = random.Random(1)
    for _ in range(many(120, 60)):
        found = check(random_job(rnd))
        checks: list[Check] = [c for r in found.circuits for c in r.checks]
        checks += [*found.intake, *(c for b in found.boards for c in b.checks), *(c for b in found.routes for c in b.checks)]
        assert all(c.clause for c in checks)
        steps += [s for c in checks for s in c.steps] + [s for b in found.boards for s in b.demand.steps]
    assert len(steps) > 500
    for step in steps:
        assert step.cite or step.clause or step.note, step


def test_advice_follows_the_facts_and_can_be_put_aside() -> None:
    quiet = job(circuit("f", spans=[{"place": "masonry"}]), boards=[{"id": "b", "metal": True}])
    assert not [a for a in advise(quiet) if a.circuit == "f"]
    inputs = job(
        submain("m"), circuit("e", board="far", loads=[{"amount": 7000, "kind": "ev"}], spans=[{"location": "outdoors", "polystyrene": True, "fire_barrier": True}]),
        boards=["b", {"id": "far", "earthing": "TT", "outbuilding": True}],
    )  # fmt: skip
    told = {a.key: a for a in advise(inputs)}
    for key in ("burial:m", "flylead:m", "outdoors:e", "polystyrene:e", "fire:e", "electrode:far", "outbuilding:far"):
        assert told[key].clause, key
    assert "island:m" not in told, "earthed at both ends it is short, not advice"
    aside = dataclasses.replace(inputs, dismissals=(Dismissal(id="d", key="burial:m", reason="drawn in later"),))
    assert next(a for a in advise(aside) if a.key == "burial:m").dismissed == "drawn in later"
    assert [a.key for a in advise(aside)][-1] == "burial:m"


def test_a_price_book_is_read_strictly(tmp_path: Path) -> None:
    path = tmp_path / "book.csv"
    path.write_text("item,name,size,price\ncable,flat_twin_cpc_pvc70,2.5,1.00\ndigging,metre,,20\n")
    assert read_book(path).of_cable("flat_twin_cpc_pvc70", 2.5) == 1.0
    for bad in ("cable,x,two,1", "cable,x,2", "rope,x,2,1", "cable,x,2,-1"):
        path.write_text(f"item,name,size,price\n{bad}\n")
        with pytest.raises(InputError, match="line 2"):
            read_book(path)
    path.write_text("a,b\n")
    with pytest.raises(InputError, match="columns"):
        read_book(path)


def test_the_price_book_has_every_cable_device_and_place() -> None:
    book = shipped()
    for family in R.families.values():
        assert all(book.of_cable(family.id, size) for size in family.sizes), family.id
        prices = [book.of_cable(family.id, s) or 0 for s in family.sizes]
        assert prices == sorted(prices)
    assert set(book.device) == set(R.devices)
    assert set(book.laying) == set(R.places)


def test_attention_tells_of_electrodes_first_and_of_what_was_assumed_there() -> None:
    boards = ["b", {"id": "far", "earthing": "TT", "ra": 90}]
    thin = circuit("thin", cable={"csa": 2.5})
    inputs = job(thin, submain(ib_from="device"), circuit("f", board="far", loads=[{"amount": 2300}], device={"rating": 16}), boards=boards)
    lines = check(inputs).attention
    first = [(line.level, line.check) for line in lines if line.level == "short"]
    assert set(first[:2]) == {("short", "electrode"), ("short", "disconnection")}
    assert ("short", "capacity") in first[2:]
    assert [line.text for line in lines if line.level == "assumed"] == ["far"]


def test_the_ruling_check_is_the_one_the_headline_speaks_of() -> None:
    found = check(job(circuit("f", loads=[{"amount": 3000, "kind": "sockets"}], cable={"csa": 2.5}))).circuits[0]
    assert found.ruling == "additional", "what can kill comes before what can burn"
    assert found.reason.startswith("additional protection")
    assert check(job()).circuits[0].ruling == "design_current"


def test_an_open_neutral_is_told_beside_the_ways_to_earth_an_outbuilding() -> None:
    """6 kW is 26.09 A, 8.817 ohm: 80 ohm takes 230 x 80 / 88.817 = 207 V; 50 x 8.817 / 180 = 2.45 ohm would keep it at 50 V."""
    inputs = job(submain(), circuit("f", board="far"), boards=["b", {"id": "far", "outbuilding": True, "extraneous": False}])
    ways = {w.id: " ".join(w.consequences) for w in earthing_choices(rule_set("bs7671"), inputs, "far", ra=80)}
    assert "about 230 V" in ways["export"]
    assert "207.2 V" in ways["both"]
    assert "2.449 Ω" in ways["both"]


@pytest.mark.parametrize("u0", [50.0, 50.5, 51.0, 110.0])
def test_a_supply_of_a_voltage_that_may_be_touched_has_nothing_to_say_of_an_open_neutral(u0: float) -> None:
    inputs = job(
        submain(), circuit("f", board="far"), boards=["b", {"id": "far", "outbuilding": True, "extraneous": False}], supply={"u0": u0}
    )
    for ra in (None, 80.0):
        told = " ".join(" ".join(w.consequences) for w in earthing_choices(rule_set("bs7671"), inputs, "far", ra=ra))
        assert ("comes to" in told) == (u0 > 50), told
