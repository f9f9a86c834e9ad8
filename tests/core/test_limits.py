"""How large a job may be: the same by an edit and from a file, each refusal by the name of what is too many."""

from __future__ import annotations

import json
from dataclasses import replace
from typing import Any

import pytest

from mellow_span.core.errors import InputError
from mellow_span.core.model.changes import Change, Refused, apply, restore
from mellow_span.core.model.limits import DEEPEST, IN_ALL, depth, hold, sizes
from mellow_span.core.model.parts import Board, Circuit, Installation, Load, Route, Run, Span
from mellow_span.exchange.document import read, write


def chain(boards: int) -> Installation:
    """Boards one after the other, each fed from the one before."""
    return Installation(
        name="Chain",
        boards=tuple(Board(id=f"b{i}", name=f"B{i}") for i in range(boards)),
        circuits=tuple(Circuit(id=f"c{i}", board=f"b{i}", feeds=f"b{i + 1}", run=Run(id=f"c{i}-run")) for i in range(boards - 1)),
    )


def full(kind: str) -> Installation:
    """A job that is as large as allowed in one kind."""
    most = IN_ALL[kind]
    if kind == "board":
        return Installation(name="Full", boards=tuple(Board(id=f"b{i}") for i in range(most)))
    if kind == "route":
        return Installation(name="Full", boards=(Board(id="b0"),), routes=tuple(Route(id=f"r{i}") for i in range(most)))
    if kind == "circuit":
        circuits = tuple(Circuit(id=f"c{i}", board=f"b{i % 2}", run=Run(id=f"c{i}-run")) for i in range(most))
        return Installation(name="Full", boards=(Board(id="b0"), Board(id="b1")), circuits=circuits)
    each = 40
    spans = lambda c: tuple(Span(id=f"s{c}-{i}") for i in range(each)) if kind == "span" else ()  # noqa: E731
    loads = lambda c: tuple(Load(id=f"l{c}-{i}") for i in range(each)) if kind == "load" else ()  # noqa: E731
    circuits = tuple(Circuit(id=f"c{c}", board="b0", loads=loads(c), run=Run(id=f"c{c}-run", spans=spans(c))) for c in range(most // each))
    more = Circuit(id="empty", board="b0", run=Run(id="empty-run"))
    return Installation(name="Full", boards=(Board(id="b0"),), circuits=(*circuits, more))


PARENT = {"circuit": "b0", "span": "empty", "load": "empty"}


@pytest.mark.parametrize("kind", IN_ALL)
def test_one_more_than_a_job_may_have_is_refused_by_name_and_the_last_allowed_is_taken(kind: str) -> None:
    job = full(kind)
    assert sizes(job)[kind] == IN_ALL[kind]
    hold(job)
    with pytest.raises(Refused, match=rf"at most {IN_ALL[kind]}"):
        apply(job, [Change("add", kind, "one-more", {}, PARENT.get(kind))])  # type: ignore[arg-type]
    # With one gone there is room for one.
    gone = {"board": "b1", "route": "r0", "circuit": "c0", "span": "s0-0", "load": "l0-0"}[kind]
    smaller, _ = apply(job, [Change("remove", kind, gone)])  # type: ignore[arg-type]
    again, _ = apply(smaller, [Change("add", kind, "one-more", {}, PARENT.get(kind))])  # type: ignore[arg-type]
    assert sizes(again)[kind] == IN_ALL[kind]


@pytest.mark.parametrize("kind", ["board", "route", "circuit", "span", "load"])
def test_a_file_is_held_to_the_same(kind: str) -> None:
    data: Any = json.loads(json.dumps(write(full(kind))))
    assert sizes(read(data))[kind] == IN_ALL[kind]
    job = full(kind)
    if kind == "board":
        larger = replace(job, boards=(*job.boards, Board(id="one-more")))
    elif kind == "route":
        larger = replace(job, routes=(*job.routes, Route(id="one-more")))
    else:
        larger, _ = restore(job, [Change("add", kind, "one-more", {}, PARENT.get(kind))])  # type: ignore[arg-type]
    with pytest.raises(InputError, match=f"at most {IN_ALL[kind]}") as refused:
        read(json.loads(json.dumps(write(larger))))
    assert refused.value.field.startswith("installation.")


def test_sub_mains_go_ten_deep_and_no_deeper() -> None:
    job = chain(DEEPEST + 1)
    assert depth(job) == DEEPEST
    hold(job)
    with_board, _ = apply(job, [Change("add", "board", "deeper")])
    feed = [Change("add", "circuit", "feed", {}, f"b{DEEPEST}"), Change("set", "circuit", "feed", {"feeds": "deeper"})]
    with pytest.raises(Refused, match="at most 10 sub-mains"):
        apply(with_board, feed)
    with pytest.raises(InputError, match="at most 10 sub-mains"):
        read(json.loads(json.dumps(write(chain(DEEPEST + 2)))))
    # Moved under a deeper board, a sub-main takes all behind it along.
    beside, _ = apply(with_board, [Change("add", "circuit", "feed", {"feeds": "deeper"}, "b0")])
    with pytest.raises(Refused, match="at most 10 sub-mains"):
        apply(beside, [Change("move", "circuit", "feed", parent=f"b{DEEPEST}")])


def test_a_job_that_is_larger_already_can_be_made_smaller_and_edited() -> None:
    """A job from before the limits is not locked: it may only not grow."""
    large, _ = restore(full("circuit"), [Change("add", "circuit", f"x{i}", {}, "b0") for i in range(5)])
    named, _ = apply(large, [Change("set", "circuit", "x0", {"name": "Larder"})])
    assert sizes(named)["circuit"] == IN_ALL["circuit"] + 5
    fewer, _ = apply(named, [Change("remove", "circuit", "x1")])
    with pytest.raises(Refused):
        apply(fewer, [Change("add", "circuit", "y", {}, "b1"), Change("add", "circuit", "z", {}, "b1")])


def test_a_circle_of_feeds_is_too_deep_and_ends() -> None:
    job = chain(3)
    circle = replace(job, circuits=(*job.circuits, Circuit(id="back", board="b2", feeds="b0", run=Run(id="back-run"))))
    assert depth(circle) == DEEPEST + 1
