"""One law over every field that chooses from its book: a word the book does not know is not known by name, and stops nothing else.

Such words come in with a pack that was put away, another book, or a file of an older version.
"""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator
from typing import Any

import pytest

from mellow_span.core.design.balance import balance
from mellow_span.core.design.breaks import smallest_breaks
from mellow_span.core.design.cells import cells_of
from mellow_span.core.design.check import check, work_out
from mellow_span.core.design.coordination import coordination
from mellow_span.core.design.joint import cheapest
from mellow_span.core.design.options import options
from mellow_span.core.design.outbuilding import earthing_choices
from mellow_span.core.design.place_options import place_options
from mellow_span.core.design.prices import job_cost, shipped
from mellow_span.core.design.reach import reaches
from mellow_span.core.design.robustness import robustness
from mellow_span.core.design.routes import route_views, tryouts
from mellow_span.core.design.size import size
from mellow_span.core.design.surveyed import assumptions
from mellow_span.core.drawing.curves import plot_of
from mellow_span.core.drawing.profile import profile_of
from mellow_span.core.errors import CoreError
from mellow_span.core.findings.advice import advise
from mellow_span.core.findings.results import CircuitResult
from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets import rule_set
from mellow_span.core.site.ends import ends
from mellow_span.core.site.existing import existing
from mellow_span.core.site.isolation import isolation
from mellow_span.core.site.materials import materials
from mellow_span.core.site.pulls import pulls
from mellow_span.core.site.results import tests_of as readings_of
from tests.core.random_jobs import random_job
from tests.core.strange_words import FIELDS, WORD, house, strange


def told(found: CircuitResult) -> str:
    return " ".join([found.reason, *(f"{p.field} {p.given}" for p in found.problems), *(c.text for c in found.checks)])


@pytest.mark.parametrize(("kind", "name"), FIELDS)
def test_a_word_the_book_does_not_know_is_named_and_stops_nothing_else(kind: str, name: str) -> None:
    plain = {c.id: c for c in check(house()).circuits}
    assert all(c.verdict in ("meets", "close", "short") for c in plain.values())
    for id in ("m", "near"):
        inputs = strange(house(), kind, name, id)
        found = check(inputs)
        circuits = {c.id: c for c in found.circuits}
        if kind == "supply":
            intake = [c for c in found.intake if WORD in c.text]
            assert intake, "the service fuse is asked for in the intake"
            assert all(c.verdict == "not_known" for c in intake)
            assert all(WORD in told(c) or c.verdict == plain[c.id].verdict for c in found.circuits)
            continue
        hit = {"in1", "in2"} if kind == "route" else {id}
        for own in hit:
            assert circuits[own].verdict == "not_known", own
            assert WORD in told(circuits[own])
            field = circuits[own].problems[0].field
            assert field.rpartition(".")[2] == name.rpartition(".")[2]
        # What a sub-main brings along is not known either; whoever does not hang on it stands as before.
        hangs = {"far1"} if id == "m" and kind != "route" else set()
        for other in plain.keys() - hit - hangs:
            assert circuits[other] == plain[other]
        for other in hangs:
            assert circuits[other].verdict == "not_known" or name.startswith("device")


def questions(inputs: Installation) -> Iterator[tuple[str, Callable[[], Any]]]:
    """Everything a view asks of a job, each by name."""
    rules, ids = rule_set("bs7671"), [c.id for c in inputs.circuits]
    yield "check", lambda: check(inputs)
    yield "coordination", lambda: coordination(inputs)
    yield "advise", lambda: advise(inputs)
    yield "robustness", lambda: robustness(inputs)
    yield "cheapest", lambda: cheapest(inputs)
    yield "cells", lambda: cells_of(inputs)
    yield "cost", lambda: job_cost(shipped(), rules, inputs)
    yield "assumptions", lambda: assumptions(inputs)
    yield "routes", lambda: route_views(work_out(inputs))
    yield "pulls", lambda: pulls(inputs)
    yield "materials", lambda: materials(inputs, {})
    yield "ends", lambda: ends(inputs)
    yield "tests", lambda: readings_of(inputs, ())
    yield "existing", lambda: existing(inputs, ())
    for route in inputs.routes:
        yield "tryouts", lambda route=route: tryouts(inputs, route.id)  # type: ignore[misc]
    for board in inputs.boards:
        yield "balance", lambda board=board: balance(inputs, board.id)  # type: ignore[misc]
        yield "isolation", lambda board=board: isolation(inputs, "board", board.id)  # type: ignore[misc]
        yield "earthing", lambda board=board: earthing_choices(rules, inputs, board.id)  # type: ignore[misc]
        yield "place options", lambda board=board: place_options(inputs, board.id)  # type: ignore[misc]
    for id in ids[:3]:
        for ask in (size, options, reaches, smallest_breaks):
            yield ask.__name__, lambda ask=ask, id=id: ask(inputs, id)  # type: ignore[misc]
        yield "profile", lambda id=id: profile_of(work_out(inputs), id)  # type: ignore[misc]
        yield "curves", lambda id=id: plot_of(work_out(inputs), id)  # type: ignore[misc]


@pytest.mark.parametrize(("kind", "name"), FIELDS)
def test_whatever_is_asked_of_such_a_job_is_answered_or_refused_by_name(kind: str, name: str) -> None:
    for id in ("m", "in1"):
        for asked, ask in questions(strange(house(), kind, name, id)):
            try:
                ask()
            except CoreError as refusal:
                assert asked not in (
                    "check",
                    "coordination",
                    "advise",
                    "routes",
                    "cost",
                    "curves",
                    "profile",
                    "ends",
                    "pulls",
                    "tests",
                    "existing",
                )
                assert refusal.field, asked


@pytest.mark.parametrize(("kind", "name"), FIELDS)
def test_in_any_job_the_circuit_that_has_it_does_not_meet(kind: str, name: str) -> None:
    rnd = random.Random(f"{kind} {name}")
    for _ in range(20):
        plain = random_job(rnd)
        one = rnd.choice([c for c in plain.circuits if not c.spare] or [None])  # type: ignore[list-item]
        if one is None:
            continue
        found = check(strange(plain, kind, name, one.id), keep=False)
        # A place that comes from a route is the route's.
        own = [s for s in one.run.spans if name != "place" or not s.route or next(r for r in plain.routes if r.id == s.route).place is None]
        if kind == "circuit" or (kind == "span" and own):
            assert next(c for c in found.circuits if c.id == one.id).verdict == "not_known"
