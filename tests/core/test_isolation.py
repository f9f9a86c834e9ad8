"""Isolation: what must be locked off for a place to be dead, and a record in which nothing is skipped in silence."""

from __future__ import annotations

import pytest

from mellow_span.core.errors import InputError
from mellow_span.core.site.entries import Entry
from mellow_span.core.site.isolation import IsolationPlan, isolation, targets
from mellow_span.core.site.isolation_record import Isolation, Record, allowed, records
from mellow_span.core.site.isolation_steps import THREE_PHASE, packed
from tests.build import circuit, job, submain

TWO = job(circuit("near"), submain(), circuit("far one", board="far"), circuit("far two", board="far"), boards=["b", "far"])


def keys(plan: IsolationPlan) -> list[str]:
    return [s.key for s in plan.steps]


def test_a_circuit_is_locked_off_at_its_own_device_and_takes_what_it_feeds_along() -> None:
    assert [p.key for p in isolation(TWO, "circuit", "near").points] == ["A1"]
    plan = isolation(TWO, "circuit", "m")
    assert [p.key for p in plan.points] == ["A2"]
    assert plan.dead == ["A2 m", "B1 far one", "B2 far two"]


def test_a_board_is_made_dead_where_it_is_fed_from_and_one_at_the_origin_keeps_live_terminals() -> None:
    assert [p.key for p in isolation(TWO, "board", "far").points] == ["A2"]
    main = isolation(TWO, "board", "b")
    assert [p.key for p in main.points] == ["main"]
    assert "incoming terminals" in main.live[0]
    assert len(main.dead) == 4


def test_a_route_takes_every_circuit_in_it_and_says_what_it_cannot_know() -> None:
    inputs = job(
        circuit("a", spans=[{"route": "r"}]),
        circuit("b"),
        circuit("c", spans=[{"route": "r"}]),
        routes=[{"id": "r", "name": "Riser", "others": 2}],
    )
    plan = isolation(inputs, "route", "r")
    assert [p.key for p in plan.points] == ["A1", "A3"]
    assert "2 circuits in it that are not in this job" in plan.live[0]


def test_a_room_by_its_loads_over_several_circuits() -> None:
    inputs = job(circuit("a", loads=[{"room": "Kitchen"}]), circuit("b", loads=[{"room": "Hall"}, {"room": "Kitchen"}]), circuit("c"))
    assert [p.key for p in isolation(inputs, "room", "Kitchen").points] == ["A1", "A2"]
    assert {t.id for t in targets(inputs) if t.kind == "room"} == {"Kitchen", "Hall"}


def test_three_phases_are_proved_in_all_ten_pairs_and_one_in_three() -> None:
    three = job(circuit("m", phases=3), supply={"phases": 3})
    dead = [k.removeprefix("dead:") for k in keys(isolation(three, "circuit", "m")) if k.startswith("dead:")]
    assert dead == list(THREE_PHASE)
    assert len(set(dead)) == 10
    assert sum(k.startswith("dead:") for k in keys(isolation(TWO, "circuit", "near"))) == 3
    assert sum(k.startswith("dead:") for k in keys(isolation(three, "board", "b"))) == 10


def test_the_tester_is_proved_before_and_after_and_locks_come_before_proving_dead() -> None:
    order = keys(isolation(TWO, "circuit", "m"))
    assert (
        order.index("tester:before") < order.index("isolate:A2") < order.index("lock:A2") < order.index("tag:A2") < order.index("identify")
    )
    assert order.index("identify") < order.index("dead:L–N") < order.index("tester:after") == len(order) - 1


def test_back_feeds_are_asked_for() -> None:
    charger = job(circuit("charger", loads=[{"kind": "ev", "amount": 7000}]))
    order = keys(isolation(charger, "board", "b"))
    assert {"ask:generation", "ask:neutral", "ask:battery", "ask:second", "ask:charging:A1"} <= set(order)
    assert not any("charging" in k for k in keys(isolation(TWO, "board", "b")))


def test_a_fuse_is_drawn_and_kept() -> None:
    fused = job(circuit("c", device={"kind": "BS3036", "rating": 30}))
    assert "draw the fuse" in isolation(fused, "circuit", "c").points[0].how


@pytest.mark.parametrize(("kind", "identity"), [("circuit", "nobody"), ("tea", "near"), ("", ""), ("room", "b")])
def test_a_place_that_is_none_is_refused(kind: str, identity: str) -> None:
    with pytest.raises(InputError):
        isolation(TWO, kind, identity)


class Site:
    """A record as it is written down, entry by entry, each asked for whether it may be."""

    def __init__(self, plan: IsolationPlan) -> None:
        self.plan, self.entries = plan, list[Entry]()
        self.write(
            "begin",
            title=plan.title,
            kind=plan.kind,
            id=plan.id,
            steps=tuple(map(packed, plan.steps)),
            release=tuple(map(packed, plan.release)),
        )

    def write(self, step: str, value: str = "", **more: object) -> None:
        given = Isolation(record="r", step=step, value=value, **more)  # type: ignore[arg-type]
        allowed(self.entries, given)
        self.entries.append(Entry(str(len(self.entries)), "isolation", "", given, f"2026-01-01T08:{len(self.entries):02}:00+00:00", "Ann"))

    @property
    def record(self) -> Record:
        return records(self.entries)[0]

    def all_of(self, steps: list[str]) -> None:
        for key in steps:
            self.write(key, "dead" if key.startswith("dead:") else "no: looked" if key.startswith("ask:") else "words")


def test_a_record_is_dead_only_once_every_step_is_done_in_order() -> None:
    site = Site(isolation(TWO, "circuit", "near"))
    order = keys(site.plan)
    for k, key in enumerate(order):
        assert site.record.state == "open"
        for later in (*order[k + 1 :], "release:A1", "energised"):
            with pytest.raises(InputError) as error:
                site.write(later, "dead")
            assert error.value.field == "data.step"
        site.all_of([key])
    assert site.record.state == "dead"
    assert site.record.proved == site.entries[-1].at
    site.all_of(["release:A1", "energised"])
    assert site.record.state == "released"
    with pytest.raises(InputError):
        site.write("given_up", "too late")


def test_a_pair_that_is_live_stops_the_record_and_it_can_only_be_given_up() -> None:
    site = Site(isolation(TWO, "circuit", "near"))
    order = keys(site.plan)
    site.all_of(order[: order.index("dead:L–N")])
    site.write("dead:L–N", "live")
    assert site.record.state == "live"
    with pytest.raises(InputError):
        site.write("dead:L–E", "dead")
    site.write("given_up", "wrong breaker")
    assert (site.record.state, site.record.why) == ("given_up", "wrong breaker")


def test_words_are_asked_for_and_a_local_switch_only_with_its_reason_and_only_for_a_lock() -> None:
    site = Site(isolation(TWO, "circuit", "near"))
    for wrong in ("", "   "):
        with pytest.raises(InputError):
            site.write("told", wrong)
    with pytest.raises(InputError):
        site.write("told", local="switch in the hall")
    order = keys(site.plan)
    site.all_of(order[: order.index("lock:A1")])
    with pytest.raises(InputError):
        site.write("lock:A1")
    site.write("lock:A1", local="no lock fits this old board: switch compared with, in sight")
    assert site.record.next == "tag:A1"


def test_what_is_no_beginning_is_refused() -> None:
    with pytest.raises(InputError):
        allowed([], Isolation(record="r", step="told", value="x"))
    with pytest.raises(InputError):
        allowed([], Isolation(record="r", step="begin"))
    with pytest.raises(InputError):
        allowed([], Isolation(record="r", step="begin", steps=("x",), release=("y",)))


@pytest.mark.parametrize("left_out", ["tester:before", "isolate:A1", "lock:A1", "tag:A1", "dead:L–E", "tester:after"])
def test_a_record_cannot_begin_without_what_none_may_leave_out(left_out: str) -> None:
    plan = isolation(TWO, "circuit", "near")
    steps = tuple(packed(s) for s in plan.steps if s.key != left_out)
    release = tuple(map(packed, plan.release))
    with pytest.raises(InputError) as error:
        allowed([], Isolation(record="r", step="begin", steps=steps, release=release))
    assert error.value.field == "data.steps"
    with pytest.raises(InputError):
        allowed([], Isolation(record="r", step="begin", steps=tuple(packed(s) for s in reversed(plan.steps)), release=release))
    with pytest.raises(InputError):
        allowed([], Isolation(record="r", step="begin", steps=tuple(map(packed, plan.steps)), release=release[1:]))


@pytest.mark.parametrize(("kind", "place"), [(t.kind, t.id) for t in targets(TWO)])
def test_every_plan_can_be_begun(kind: str, place: str) -> None:
    Site(isolation(TWO, kind, place))


def test_on_an_electrode_the_whole_board_is_switched_off_unless_the_device_opens_the_neutral() -> None:
    def plan(earthing: str, **device: int) -> IsolationPlan:
        inputs = job(circuit("a", device=device), circuit("b"), supply={"earthing": earthing})
        return isolation(inputs, "circuit", "a")

    left = plan("TT")
    assert [p.key for p in left.points] == ["main:b", "A1"]
    assert len(left.dead) == 2
    assert any("incoming terminals" in said for said in left.live)
    assert [p.key for p in plan("TT", poles=2).points] == ["A1"]
    assert [p.key for p in plan("TN-S").points] == ["A1"]


@pytest.mark.parametrize("source", ["generation", "battery", "neutral", "second"])
def test_another_source_is_ruled_out_or_isolated_and_one_that_is_neither_ends_the_record(source: str) -> None:
    site = Site(isolation(TWO, "circuit", "near"))
    order = keys(site.plan)
    site.all_of(order[: order.index(f"ask:{source}")])
    for wrong in ("", "yes", "no", "no: ", "isolated:", "isolated:   ", "maybe"):
        with pytest.raises(InputError) as error:
            site.write(f"ask:{source}", wrong)
        assert error.value.field == "data.value"
    site.write(f"ask:{source}", "not isolated")
    assert site.record.state == "live"
    assert "not isolated" in site.record.why
    with pytest.raises(InputError):
        site.write(order[order.index(f"ask:{source}") + 1], "no: looked")
    site.write("given_up", "the battery has no isolator")
    assert site.record.state == "given_up"


def test_a_second_circuit_on_one_appliance_is_locked_off_with_the_first() -> None:
    both = [circuit(i, loads=[{"kind": "water_heater", "interlock": "tank"}]) for i in ("day", "night")]
    turns = circuit("turns", loads=[{"kind": "shower", "interlock": "tank"}])
    inputs = job(*both, circuit("other", loads=[{"interlock": ""}]), turns)
    assert [p.key for p in isolation(inputs, "circuit", "day").points] == ["A1", "A2"]
    assert [p.key for p in isolation(inputs, "circuit", "other").points] == ["A3"]


def test_steps_that_sound_alike_have_identities_of_their_own() -> None:
    names = [circuit(i, name="Charger", loads=[{"kind": "ev", "amount": 7000}]) for i in ("one", "two")]
    inputs = job(submain(), *[{**c, "board": "far"} for c in names], boards=["b", "far"])
    for t in targets(inputs):
        plan = isolation(inputs, t.kind, t.id)
        order = [s.key for s in (*plan.steps, *plan.release)]
        assert len(set(order)) == len(order), t
    assert {"ask:charging:B1", "ask:charging:B2"} <= set(keys(isolation(inputs, "board", "far")))
