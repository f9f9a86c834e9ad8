"""What is worked out once and kept: it is what would be worked out anew, and of nothing else."""

from __future__ import annotations

from dataclasses import replace

import pytest

from mellow_span.core.cache import Latest
from mellow_span.core.design import check as module
from mellow_span.core.design.check import check, lay_out, work_out
from mellow_span.core.design.joint import cheapest
from mellow_span.core.design.solving import changed
from mellow_span.core.model.changes import Change
from mellow_span.core.site.at_boards import all_board_tests, board_tests
from mellow_span.core.site.entries import Entry, plain
from mellow_span.core.site.isolation_record import Isolation
from mellow_span.core.site.kinds import KINDS
from mellow_span.core.site.measured import as_measured
from mellow_span.core.site.readings import Reading
from mellow_span.core.site.results import tests_of as of_circuits
from tests.build import circuit, job, submain
from tests.core.random_jobs import random_job
from tests.depth import many, seeded


def test_an_object_is_known_by_being_that_very_one_for_as_long_as_it_is_held() -> None:
    latest: Latest[list[int], str] = Latest(2)
    kept = [[1], [1], [1]]
    for k, each in enumerate(kept):
        latest.put(each, f"of {k}")
    assert [latest.get(each) for each in kept] == [None, "of 1", "of 2"]
    latest.cache_clear()
    assert latest.get(kept[2]) is None


def test_a_job_asked_about_twice_is_worked_out_once_and_another_anew(monkeypatch: pytest.MonkeyPatch) -> None:
    first = job(circuit("a"), circuit("b"))
    worked: list[str] = []
    plain_way = module._work_out
    monkeypatch.setattr(module, "_work_out", lambda *a: worked.append("once") or plain_way(*a))
    found = check(first, keep=False, reuse=True)
    assert check(first, keep=False, reuse=True) is found
    assert len(worked) == 1
    other = changed(first, (Change("set", "circuit", "a", {"device.rating": 6}),))
    assert check(other, keep=False, reuse=True).circuits != found.circuits
    assert check(first, keep=False, reuse=True) is found
    assert len(worked) == 2
    check(first, keep=False)
    assert len(worked) == 3, "who asks for it anew gets it anew"


def test_the_working_of_some_circuits_changes_no_figure_and_is_no_part_of_what_is_kept() -> None:
    inputs = job(submain("m"), circuit("f", board="far"), circuit("a"), boards=["b", "far"])
    bare = work_out(inputs, keep=False, reuse=True)
    shown = work_out(inputs, keep=frozenset(["f", "m"]), reuse=True)
    whole = {c.id: c for c in check(inputs, keep=True).circuits}
    for c in shown.result.circuits:
        assert [k.steps for k in c.checks] == ([k.steps for k in whole[c.id].checks] if c.id in ("f", "m") else [()] * len(c.checks))
    assert shown.result.attention == bare.result.attention
    assert shown.feeds == bare.feeds
    for a, b in zip(shown.result.circuits, bare.result.circuits, strict=True):
        assert [replace(k, steps=()) for k in a.checks] == [replace(k, steps=()) for k in b.checks]
        assert (a.verdict, a.ruling, a.zs, a.iz) == (b.verdict, b.ruling, b.zs, b.iz)
    assert not any(k.steps for c in work_out(inputs, keep=False, reuse=True).result.circuits for k in c.checks)


@pytest.mark.parametrize("seed", range(many(40, 6)))
def test_whatever_is_asked_of_a_job_leaves_what_is_kept_of_it_as_it_was(seed: int) -> None:
    inputs = random_job(seeded(seed))
    before = repr(lay_out(inputs)), repr(check(inputs, keep=False, reuse=True))
    cheapest(inputs)
    of_circuits(inputs, [])
    all_board_tests(inputs, [])
    assert (repr(lay_out(inputs)), repr(check(inputs, keep=False, reuse=True))) == before
    again = replace(inputs)
    assert (repr(lay_out(again)), repr(check(again, keep=False))) == before


def logged(subject: str, quantity: str, value: float, at: int, kind: str = "board_reading") -> Entry:
    return Entry(f"{kind}{at}", kind, subject, Reading(quantity=quantity, value=value), f"2026-03-05T14:{at:02d}:00+00:00", "Ann")  # type: ignore[arg-type]


def test_the_tests_of_all_boards_are_those_of_each_whatever_stands_between_them() -> None:
    inputs = job(submain("m"), circuit("f", board="far"), circuit("a"), boards=["b", "far"])
    log = [
        logged("far", "zs", 0.9, 5), logged("b", "ze", 0.4, 4), logged("a", "zs", 0.5, 3, "reading"), logged("far", "zs", 0.3, 2),
        logged("gone", "zs", 9.0, 1), logged("b", "ipf", 900, 0),
    ]  # fmt: skip
    together = all_board_tests(inputs, log)
    assert list(together) == ["b", "far"]
    for name, found in together.items():
        assert found == board_tests(inputs, name, log)
    zs = next(t for t in together["far"].tests if t.quantity == "zs")
    assert [r.reading.value for r in zs.rows] == [0.3, 0.9], "in the order in which they were taken"
    assert of_circuits(inputs, log, {"a"}) == {"a": of_circuits(inputs, log)["a"]}


def test_a_supply_measured_again_is_another_one() -> None:
    inputs = job(circuit("a"), supply={"ze": 0.35, "ze_source": "assumed"})
    first = as_measured(inputs, [logged("b", "ze", 0.2, 1)])
    assert as_measured(inputs, [logged("b", "ze", 0.2, 2)]) is first
    later = as_measured(inputs, [logged("b", "ze", 0.2, 1), logged("b", "ze", 0.5, 2)])
    assert (first.supply.ze, later.supply.ze, inputs.supply.ze) == (0.2, 0.5, 0.35)


def test_what_an_entry_holds_is_plain_to_its_ground_whatever_its_kind() -> None:
    steps = Isolation(record="r", step="begin", steps=("a", "b"), release=("c",))
    assert plain(steps)["steps"] == ("a", "b")
    for kind, (cls, _) in KINDS.items():
        held = plain(cls())
        assert set(held) == set(cls.__dataclass_fields__), kind
        assert all(not hasattr(v, "__dataclass_fields__") for v in held.values()), kind


def test_a_route_is_settled_anew_when_what_a_sub_main_in_it_takes_changes() -> None:
    """The sub-main itself is entered as before: what it carries follows from a board that does not lie in the route."""
    inputs = job(
        submain("m", spans=[{"place": "masonry", "length": 10, "route": "k"}]),
        circuit("f", board="far", loads=[{"amount": 2000}]),
        circuit("a", spans=[{"place": "masonry", "length": 10, "route": "k"}]),
        boards=["b", "far"],
        routes=[{"id": "k", "name": "hall"}],
    )
    carried = []
    for watts in (2000, 6000, 2000):
        one = changed(inputs, (Change("set", "load", "f-l0", {"amount": watts}),))
        found = check(one, keep=False, reuse=True)
        carried.append(next(m.ib for m in found.routes[0].members if m.circuit == "m"))
    assert carried[0] == carried[2] < carried[1], carried


def test_who_asks_for_it_anew_gets_it_laid_out_anew(monkeypatch: pytest.MonkeyPatch) -> None:
    """Else what is remembered would be held against itself."""
    inputs, laid = job(circuit("a")), list[str]()
    plain_way = module._lay_out
    monkeypatch.setattr(module, "_lay_out", lambda *a: laid.append("once") or plain_way(*a))
    for _ in range(2):
        check(inputs, keep=False, reuse=True)
    assert len(laid) == 1
    check(inputs, keep=False)
    assert len(laid) == 2
