"""Practice: a thousand exercises of each head solved by the engine itself, every named slip planted and named again, own errors taken forward."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from typing import Any

import pytest

from mellow_span.core.design.check import check
from mellow_span.core.errors import InputError
from mellow_span.core.findings.results import InstallationResult
from mellow_span.core.practice.exercise import NO, YES, Exercise, worked
from mellow_span.core.practice.making import HEADS, make, offered
from mellow_span.core.practice.marking import FOLLOWS, mark
from mellow_span.core.rulesets import rule_set
from tests.depth import many

MANY = many(1000)
IDS = [h.id for h in HEADS]
close = pytest.approx


# The engine solves each -----------------------------------------------------------------------------------------------


def circuit(found: InstallationResult, made: Exercise) -> Any:
    return next(c for c in found.circuits if c.id == made.circuit)


def checked(found: InstallationResult, made: Exercise, id: str) -> Any:
    return next(c for c in circuit(found, made).checks if c.id == id)


def stands(verdict: str) -> float:
    return NO if verdict == "short" else YES


def design_current(e: Exercise, r: InstallationResult) -> None:
    assert circuit(r, e).ib == close(e.solved["Ib"])
    assert checked(r, e, "design_current").verdict in ("meets", "close")
    assert circuit(r, e).rating == e.solved["In"]


def capacity(e: Exercise, r: InstallationResult) -> None:
    assert circuit(r, e).iz == close(e.solved["Iz"])
    if "holds" in e.solved:
        assert stands(checked(r, e, "capacity").verdict) == e.solved["holds"]


def grouping(e: Exercise, r: InstallationResult) -> None:
    assert r.routes[0].n == e.solved["count"]
    others = [c for c in r.circuits if c.id != "c1"]
    assert {round(c.iz or 0, 6) for c in others} == {round(e.solved["Iz"], 6)}
    assert next(m.light for m in r.routes[0].members if m.circuit == "c1") == close(e.solved["I30"])


def drop(e: Exercise, r: InstallationResult) -> None:
    assert circuit(r, e).drop == close(e.solved["vd"])
    assert stands(checked(r, e, "volt_drop").verdict) == e.solved["holds"]


def loop(e: Exercise, r: InstallationResult) -> None:
    assert circuit(r, e).zs == close(e.solved["Zs"])
    assert circuit(r, e).zs_max == close(e.solved["Zmax"])
    assert stands(checked(r, e, "loop").verdict) == e.solved["holds"]


def protective_conductor(e: Exercise, r: InstallationResult) -> None:
    found = checked(r, e, "cpc_thermal")
    sizes = [s.value for s in found.steps if s.symbol == "S"]
    assert sizes[0] == close(e.solved["Sad"], rel=1e-3)
    assert next(s.value for s in found.steps if s.symbol == "k") == e.solved["k"]
    assert checked(r, e, "cpc_table").limit == close(e.solved["Stab"])


def pairs(e: Exercise, r: InstallationResult) -> None:
    first = min(float(line.id[1:]) for line in e.lines)
    assert checked(r, e, "cpc_thermal").value == e.solved[f"S{first:g}"]


def conduit(e: Exercise, r: InstallationResult) -> None:
    space = next(c for c in r.routes[0].checks if c.id == "space")
    assert space.value == close(e.solved["sum"])
    assert space.verdict in ("meets", "close"), "the conduit that was found has the room"


def outbuilding(e: Exercise, r: InstallationResult) -> None:
    electrode = next(c for c in r.boards[0].checks if c.id == "electrode")
    assert electrode.limit == close(e.solved["RAmax"])
    assert stands(electrode.verdict) == e.solved["holds"]


def readings(e: Exercise, r: InstallationResult) -> None:
    assert circuit(r, e).r1r2 == close(e.solved["Rp"]) or any(
        s.value == close(e.solved["Rp"]) for s in checked(r, e, "loop").steps if s.symbol == "(R1+R2)20"
    )
    assert checked(r, e, "loop").limit == close(e.values["Zmax"], abs=0.0006)
    assert next(s.value for s in checked(r, e, "loop").steps if s.symbol == "80 %") == close(e.solved["Zr"], abs=0.0006)


SOLVED: dict[str, Callable[[Exercise, InstallationResult], None]] = {
    "design_current": design_current, "capacity": capacity, "throttled": capacity, "grouping": grouping, "volt_drop": drop, "chain": drop,
    "loop": loop, "protective_conductor": protective_conductor, "pairs": pairs, "conduit": conduit, "outbuilding": outbuilding,
    "readings": readings,
}  # fmt: skip


@pytest.mark.parametrize("head", IDS)
def test_exercises_are_each_solved_by_the_engine(head: str) -> None:
    stories = set()
    for seed in range(MANY):
        made = make(head, seed)
        SOLVED[head](made, check(made.job))
        found = mark(made, made.solved)
        assert found.whole
        assert [m.stands for m in found.marks] == ["right"] * len(made.lines)
        stories.add((made.story, tuple(g.value for g in made.given), tuple(line.id for line in made.lines)))
    # Of four sizes out of seven there are thirty-five.
    assert len(stories) > min(MANY / 2, 30 if head == "pairs" else 250) * (0.6 if head == "pairs" else 1), (
        "never the same twice, near enough"
    )


@pytest.mark.parametrize("head", IDS)
def test_a_seed_makes_the_same_exercise_again(head: str) -> None:
    one, other = make(head, 12345), make(head, 12345)
    assert (one.story, one.given, one.job, one.solved) == (other.story, other.given, other.job, other.solved)
    assert make(head, 12346).values != one.values or head == "pairs"


# Slips ------------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("head", IDS)
def test_every_slip_that_is_planted_is_named(head: str) -> None:
    """One slip on one line, all before it right, rounded to three figures as a person writes it."""
    planted: Counter[str] = Counter()
    named: Counter[str] = Counter()
    for seed in range(many(250, 40)):
        made = make(head, seed)
        right = made.solved
        for line in made.lines:
            for slip in line.slips:
                value = worked(slip.work, right)
                if value is None:
                    continue
                answers = {**right, line.id: float(f"{value:.3g}")}
                found = next(m for m in mark(made, answers).marks if m.id == line.id)
                planted[slip.kind] += 1
                named[slip.kind] += found.stands == "wrong" and found.told == slip.told and found.slip == slip.kind
    assert sum(planted.values()) >= MANY // 8
    assert {kind: named[kind] / count for kind, count in planted.items() if named[kind] < 0.95 * count} == {}


def test_the_slips_of_the_trade_are_all_among_them() -> None:
    kinds = {s.kind for head in IDS for seed in range(40) for line in make(head, seed).lines for s in line.slips}
    assert {
        "r_for_z", "single_phase_column", "volts_across_phases", "cpc_as_line", "factor_forgotten", "factor_twice", "kilo", "thirty_per_cent",
        "metres_for_millimetres",
    } <= kinds  # fmt: skip


# Own errors forward -----------------------------------------------------------------------------------------------------


def test_a_wrong_figure_is_marked_once_and_what_follows_from_it_follows() -> None:
    """By hand: r read for z is the first wrong line; the drop and the share worked from it are the learner's own and right by it."""
    made = next(e for e in (make("volt_drop", s) for s in range(200)) if e.lines[0].slips[0].kind == "r_for_z")
    right = made.solved
    r = made.lines[0].slips[0].work(right)
    volts = r * right["Ib"] * right["L"] / 1000
    answers = {"mV": r, "VD": volts, "vd": 100 * volts / 400, "holds": YES if 100 * volts / 400 <= 5 else NO}
    found = mark(made, answers)
    assert [m.stands for m in found.marks[:3]] == ["wrong", "follows", "follows"]
    assert (found.first, found.marks[0].slip) == ("mV", "r_for_z")
    assert found.marks[1].told == FOLLOWS
    assert found.marks[1].own == close(volts)
    assert not found.whole


@pytest.mark.parametrize("head", [h for h in IDS if h != "pairs"])
def test_whatever_the_first_line_is_the_rest_worked_from_it_follows(head: str) -> None:
    for seed in range(60):
        made = make(head, seed)
        first, *rest = made.lines
        answers = made.values | {first.id: made.solved[first.id] * 1.07}
        for line in rest:
            value = worked(line.work, answers)
            if value is None:
                break
            answers[line.id] = value
        else:
            found = mark(made, answers)
            assert found.first == first.id
            assert {m.stands for m in found.marks[1:]} <= {"follows", "right"}


def test_a_line_left_open_is_no_error_of_the_lines_after_it() -> None:
    made = make("loop", 3)
    answers: dict[str, float | None] = {k: v for k, v in made.solved.items() if k != "r2"}
    found = mark(made, answers)
    assert next(m for m in found.marks if m.id == "r2").stands == "left"
    assert {m.stands for m in found.marks if m.id != "r2"} == {"right"}
    assert (found.first, found.whole) == ("", False)


def test_a_right_figure_after_a_wrong_one_is_right() -> None:
    made = make("capacity", 5)
    right = made.solved
    found = mark(made, {**right, "It": right["It"] * 1.2})
    assert [m.stands for m in found.marks][:3] == ["wrong", "right", "right"]


def test_three_figures_are_enough_and_two_are_not() -> None:
    made = next(e for e in (make("loop", s) for s in range(300)) if 0.2 < e.solved["Zs"] < 0.96)
    right = made.solved
    rounded = mark(made, {k: float(f"{v:.3g}") if k in ("R1+R2", "Zs", "Ia", "Zmax") else v for k, v in right.items()})
    assert {m.stands for m in rounded.marks} == {"right"}, "what was only rounded ahead of it does not make a figure follow"
    off = mark(made, {**right, "Zs": right["Zs"] * 1.03})
    assert off.first == "Zs"


def test_a_factor_of_a_thousand_is_named_on_any_line() -> None:
    made = make("readings", 2)
    found = mark(made, {**made.solved, "R20": made.solved["R20"] * 1000})
    assert next(m for m in found.marks if m.id == "R20").slip == "kilo"


# What is offered --------------------------------------------------------------------------------------------------------


def test_a_book_offers_the_heads_it_has_tables_for_and_borrows_none() -> None:
    assert [h.id for h in offered("bs7671")] == IDS
    second = [h.id for h in offered("iec60364")]
    assert "capacity" in second
    assert "volt_drop" not in second, "it has a formula in place of tables"
    made = make("capacity", 11, "iec60364")
    numbers = {line.table for line in made.lines if line.table}
    assert numbers <= set(rule_set("iec60364").tables)
    SOLVED["capacity"](made, check(made.job))
    with pytest.raises(InputError, match="all tables for"):
        make("volt_drop", 1, "iec60364")


@pytest.mark.parametrize(("head", "seed"), [("lunch", 1), ("loop", -1), ("loop", 2**31), ("loop", True)])
def test_a_head_or_seed_that_is_none_is_refused(head: str, seed: int) -> None:
    with pytest.raises(InputError):
        make(head, seed)
