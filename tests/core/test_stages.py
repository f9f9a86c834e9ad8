"""Stages: what is there on which day, every day checked, the circuit shown at the day that is hardest on it, and what growing later costs."""

from __future__ import annotations

import random
from typing import Any

import pytest

from mellow_span.answers.kit import Kit
from mellow_span.answers.local import Laid
from mellow_span.answers.site import isolation_plan
from mellow_span.answers.stages import seen, stages_told
from mellow_span.answers.standing import stand
from mellow_span.answers.state import figures_of
from mellow_span.core.design.check import check
from mellow_span.core.design.effort import Effort, StoppedError
from mellow_span.core.design.prices import circuit_cost, shipped
from mellow_span.core.design.size import with_csa
from mellow_span.core.design.staged_sizes import growing
from mellow_span.core.design.stages import stages_of
from mellow_span.core.errors import InputError
from mellow_span.core.model.changes import Change, Refused, apply, invert, replay
from mellow_span.core.model.difference import difference
from mellow_span.core.model.numbers import numbers
from mellow_span.core.model.parts import Installation
from mellow_span.core.model.rebase import rebase
from mellow_span.core.model.stages import at_stage, last_of, views
from mellow_span.core.model.tree import canonical
from mellow_span.core.rulesets import rule_set
from mellow_span.core.site.materials import materials
from mellow_span.core.site.pulls import pulls
from mellow_span.exchange.document import read, write
from mellow_span.exchange.issue import issued, prove
from mellow_span.papers.register import paper
from mellow_span.papers.subject import Subject
from tests.build import circuit, job, submain
from tests.core.random_jobs import random_job
from tests.core.test_changes import house
from tests.depth import many

R = rule_set("bs7671")
DAYS = [{"id": "now", "name": "Now"}, {"id": "first", "name": "First day", "date": "3 May"}, {"id": "later", "name": "Later"}]


def barn(**more: Any) -> Installation:
    """A barn that is kept alive by its old feed until the new one is there, and gets a charger later."""
    charger = {"kind": "ev", "amount": 7200, "from_stage": "later", "dc_detection": True}
    return canonical(
        job(
            submain("old", until_stage="first", existing=True, cable={"csa": 4}, device={"rating": 32}),
            submain("new", from_stage="first", cable={"csa": 6}, device={"rating": 50}, spans=[{"place": "duct", "length": 90}]),
            circuit("a"),
            circuit("heater", board="far", device={"rating": 16}, loads=[{"amount": 3000, "kind": "heating"}], cable={"csa": 2.5}),
            circuit(
                "ev", board="far", from_stage="later", device={"kind": "rcbo", "rating": 40, "idn": 0.03, "rcd_type": "A"}, loads=[charger]
            ),
            circuit("site", until_stage="later", loads=[{"amount": 1000}], device={"rating": 16}),
            boards=["b", "far"],
            stages=DAYS,
            **more,
        )
    )


def ids(inputs: Installation) -> list[str]:
    return [c.id for c in inputs.circuits]


def test_each_stage_is_a_whole_installation_of_its_own() -> None:
    inputs = barn()
    now, first, later = views(inputs)
    assert (ids(now), ids(first), ids(later)) == (
        ["old", "a", "site", "heater"], ["new", "a", "site", "heater"], ["new", "a", "heater", "ev"],
    )  # fmt: skip
    assert not any(v.stages for v in (now, first, later))
    # Each is worked out as a job would be that had never heard of stages.
    plain = job(submain("old", existing=True, cable={"csa": 4}, device={"rating": 32}), circuit("a"), circuit("site", loads=[{"amount": 1000}], device={"rating": 16}),
                circuit("heater", board="far", device={"rating": 16}, loads=[{"amount": 3000, "kind": "heating"}], cable={"csa": 2.5}), boards=["b", "far"])  # fmt: skip
    assert check(now).circuits == check(plain).circuits
    assert check(inputs).circuits == check(later).circuits == check(last_of(inputs)).circuits


def test_a_job_without_stages_is_the_very_same() -> None:
    inputs = job(circuit())
    assert (last_of(inputs), views(inputs), stages_of(inputs), growing(inputs, shipped())) == (inputs, (inputs,), None, ())
    assert last_of(inputs) is inputs
    with pytest.raises(InputError, match="it has no stages"):
        at_stage(inputs, "now")


def test_what_stands_inside_goes_with_it_and_a_sub_main_with_its_board() -> None:
    inputs = job(
        submain("m"), circuit("x", board="far"), circuit("pv", loads=[{"kind": "inverter", "alone": "far", "amount": 3000}]),
        boards=["b", {"id": "far", "from_stage": "later"}], stages=[DAYS[0], DAYS[2]],
    )  # fmt: skip
    now, later = views(inputs)
    assert (ids(now), ids(later)) == (["pv"], ["m", "x", "pv"])
    assert (now.circuits[0].loads[0].alone, later.circuits[2].loads[0].alone) == (None, "far")
    # What only some loads of a circuit come later for is smaller until then.
    growing_one = job(circuit(loads=[{"amount": 2000}, {"amount": 4000, "from_stage": "later"}]), stages=[DAYS[0], DAYS[2]])
    assert [v.circuits[0].loads[-1].amount for v in views(growing_one)] == [2000, 4000]
    assert [round(check(v).circuits[0].ib or 0, 1) for v in views(growing_one)] == [8.7, 26.1]


def test_every_stage_is_checked_and_a_circuit_is_shown_at_the_one_that_is_hardest_on_it() -> None:
    # The old feed of 4 mm2 is right for the barn as it is, and fails with 10 kW of heating until the new one comes.
    inputs, _ = apply(barn(), [Change("set", "load", "heater-l0", {"amount": 10000.0})], R.choices)
    found = figures_of(stand(inputs), "old")
    by = {s.id: s for s in found.summaries}
    assert set(by) == {c.id for c in inputs.circuits}
    assert by["old"].verdict == "short"
    assert by["old"].reason.startswith("Now: ")
    assert found.detail is not None
    assert (found.detail.id, found.profile is not None) == ("old", True)
    lines = [a for a in found.attention if a.circuit == "old"]
    assert [(a.level, a.stage) for a in lines] == [("short", "Now")]
    assert next(s for s in found.steps if s.id == "attention").verdict == "short"
    # The list is in its order still: what fails first.
    levels = [a.level for a in found.attention]
    assert levels.index("short") == 0
    # What is so at several stages is told once, and at the last without its name.
    heater = [a for a in found.attention if (a.circuit, a.level) == ("heater", "short")]
    assert [(a.level, a.stage) for a in heater] == [("short", "")]


def test_nothing_of_a_stage_is_hidden_by_another() -> None:
    """Over random plans: a circuit is as bad as at its worst stage, and whatever needs a person at any stage is told."""
    rnd = random.Random(5)
    tried = 0
    for _ in range(many(60)):
        base = random_job(rnd)
        if not base.circuits:
            continue
        marked = {
            c.id: rnd.choice([{}, {"from_stage": "first"}, {"until_stage": "later"}, {"from_stage": "later"}])
            for c in base.circuits
            if not c.feeds
        }
        given = [Change("add", "stage", d["id"], {k: v for k, v in d.items() if k != "id"}) for d in DAYS]
        inputs, _ = apply(base, [*given, *(Change("set", "circuit", i, m) for i, m in marked.items() if m)])
        standing = stand(inputs)
        if standing.staged is None or standing.result is None:
            continue
        order = ["meets", "close", "not_known", "short"]
        each = [one.done.result for one in standing.staged.each]
        for result in standing.result.circuits:
            assert order.index(result.verdict) == max(order.index(c.verdict) for one in each for c in one.circuits if c.id == result.id)
        worst = {b.id: max([order.index(k.verdict) for k in b.checks if k.decides], default=0) for b in standing.result.boards}
        for one in each:
            assert all(worst[b.id] >= order.index(k.verdict) for b in one.boards for k in b.checks if k.decides)
            most = max([order.index(k.verdict) for k in standing.result.intake if k.decides], default=0)
            assert all(most >= order.index(k.verdict) for k in one.intake if k.decides)
        told = {(a.level, a.circuit, a.board, a.route, a.check) for a in standing.result.attention}
        assert {(a.level, a.circuit, a.board, a.route, a.check) for one in each for a in one.attention} <= told
        tried += 1
    assert tried > 20


def test_a_circuit_that_is_there_on_no_day_is_told_and_counts_as_not_known() -> None:
    inputs = job(
        circuit("a"),
        circuit("x", board="c", until_stage="later"),
        boards=["b", {"id": "c", "from_stage": "later"}],
        stages=[DAYS[0], DAYS[2]],
    )
    found = figures_of(stand(inputs), "x")
    assert [(s.id, s.verdict) for s in found.summaries] == [("a", "meets"), ("x", "not_known")]
    assert (found.detail.verdict if found.detail else None, found.profile) == ("not_known", None)
    assert any(a.circuit == "x" and "at no stage" in a.reason for a in found.attention)


def test_a_board_that_has_a_feed_at_one_stage_alone_is_asked_about() -> None:
    inputs = job(submain("m", from_stage="later"), circuit("x", board="far"), boards=["b", "far"], stages=[DAYS[0], DAYS[2]])
    told = [a for a in figures_of(stand(inputs), None).attention if a.board == "far" and "no sub-main feeds it at Now:" in a.reason]
    assert [(a.level, a.field) for a in told] == [("confirm", "board.far.from_stage")]


def test_files_and_revisions_hold_every_circuit_with_what_is_worst_of_it() -> None:
    inputs, _ = apply(barn(), [Change("set", "load", "heater-l0", {"amount": 10000.0})], R.choices)
    document = issued(inputs, 1, "2026-05-03T10:00:00+00:00", "me")
    by = {c["id"]: c["verdict"] for c in document["results"]["circuits"]}
    assert set(by) == {c.id for c in inputs.circuits}
    assert by["old"] == "short"
    assert prove(document).strays == []


# Edits ------------------------------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("changes", "allowed"),
    [
        ([Change("set", "circuit", "new", {"from_stage": None})], "so it would be at Now"),
        ([Change("set", "circuit", "old", {"until_stage": "later"})], "so it would be at First day"),
        ([Change("remove", "stage", "first")], "no other circuit feeds"),
        ([Change("set", "circuit", "ev", {"until_stage": "first"})], "a stage after the one it is installed at"),
        ([Change("set", "circuit", "ev", {"until_stage": "later"})], "a stage after the one it is installed at"),
        ([Change("add", "circuit", "n", {"feeds": "far", "from_stage": "later"}, "b")], "so it would be at Later"),
        ([Change("add", "circuit", "n", {"feeds": "b", "from_stage": "later"}, "far")], "no board may feed itself"),
        ([Change("set", "board", "b", {"from_stage": "nowhen"})], "a stage of this job"),
        ([Change("add", "stage", f"n{i}", {"name": "x"}) for i in range(6)], "at most 8"),
        ([Change("set", "stage", "now", {"name": " "})], "1 to 200 characters"),
    ],
)  # fmt: skip
def test_a_plan_that_cannot_be_is_refused(changes: list[Change], allowed: str) -> None:
    with pytest.raises(Refused, match=allowed):
        apply(barn(), changes, R.choices)


def test_edits_of_stages_go_forwards_and_backwards_and_between_any_two_states() -> None:
    start = barn()
    changes = [
        Change("set", "circuit", "new", {"feeds": None}), Change("remove", "stage", "first"), Change("add", "stage", "x", {"name": "Second day"}, index=1),
        Change("set", "load", "heater-l0", {"from_stage": "x"}), Change("move", "stage", "x", index=0),
    ]  # fmt: skip
    after, applied = apply(start, changes, R.choices)
    assert [s.id for s in after.stages] == ["x", "now", "later"]
    # What named the stage that went is let go: it is there from the first on, or stays.
    assert {c.id: (c.from_stage, c.until_stage) for c in after.circuits}["old"] == (None, None)
    assert replay(after, invert(applied)) == start
    for one, two in ((start, after), (after, start), (house(), start), (start, house())):
        assert replay(one, difference(one, two)) == two


def test_two_people_who_part_over_a_stage_are_told() -> None:
    start = barn()
    meanwhile, theirs = apply(start, [Change("set", "circuit", "a", {"from_stage": "first"})], R.choices)
    clashes = rebase(meanwhile, [Change("remove", "stage", "first")], theirs).clashes
    assert [c.why for c in clashes] == ["changed"]
    _, gone = apply(start, [Change("set", "circuit", "new", {"feeds": None}), Change("remove", "stage", "first")], R.choices)
    assert [c.why for c in rebase(start, [Change("set", "circuit", "a", {"from_stage": "first"})], gone).clashes] == ["gone"]


def test_a_file_brings_stages_back_and_is_refused_where_they_cannot_be() -> None:
    inputs = barn()
    document = write(inputs)
    assert read(document) == inputs
    document["installation"]["circuits"][0].pop("until_stage")
    with pytest.raises(InputError, match="so it would be at First day"):
        read(document)


# On site ----------------------------------------------------------------------------------------------------------------------------------


def test_the_work_of_a_day_leaves_out_what_was_there_before() -> None:
    inputs = barn()
    whole = numbers(inputs)
    days = [at_stage(inputs, s.id, fresh=True) for s in inputs.stages]
    assert [{p.circuit for p in pulls(day)} for day in days] == [{"a", "site", "heater"}, {"new"}, {"ev"}]
    # A number on a cable is the same on every day's list, and nothing is told to have moved.
    for day in days:
        for pull in pulls(day, whole=inputs):
            assert (pull.number, pull.kept) == (whole[pull.circuit], "")
    cable = [{n.key: n.count for n in materials(day, {}) if n.key.startswith("cable/armoured")} for day in days]
    assert [set(c) for c in cable] == [set(), {"cable/armoured_xlpe90/2/6"}, set()]


def test_an_isolation_is_never_planned_for_just_any_stage() -> None:
    given = Laid(barn(), 1, Kit())
    with pytest.raises(InputError, match="Now, First day, Later"):
        seen(given, "/isolation/plan", "far")
    assert ids(seen(given, "/isolation/plan", "far", "now").inputs) == ["old", "a", "site", "heater"]
    with pytest.raises(InputError, match="a stage of this job: Now"):
        seen(given, "/isolation/plan", "far", "nowhen")
    # What is about a circuit is asked at the stage it is shown at, what is about a board at the last it is there at.
    assert "old" in ids(seen(given, "size", "old").inputs)
    assert "ev" in ids(seen(given, "/boards/{board_id}/tests", "far").inputs)
    assert seen(given, "/overview").inputs is given.inputs


def test_papers_are_of_a_stage_and_say_so_with_the_hash_of_the_whole() -> None:
    subject = Subject(barn(), printed="today")
    last, first = paper(subject, "schedule"), paper(subject, "schedule", stage="first")
    assert last.stamp.revision.endswith("as it stands at Later")
    assert first.stamp.revision.endswith("as it stands at First day")
    assert last.stamp.hash == first.stamp.hash == subject.stamp.hash
    rows = [cell for block in first.blocks for row in getattr(block, "rows", ()) for cell in row]
    assert any("site" in str(getattr(cell, "text", cell)) for cell in rows)
    with pytest.raises(InputError, match="a stage of this job"):
        paper(subject, "schedule", stage="nowhen")


# Side by side -----------------------------------------------------------------------------------------------------------------------------


def test_stages_stand_side_by_side_with_what_comes_and_goes() -> None:
    told = stages_told(Laid(barn(), 1, Kit()))
    assert [(s.name, s.date) for s in told] == [("Now", ""), ("First day", "3 May"), ("Later", "")]
    assert [(set(s.comes), set(s.goes)) for s in told] == [
        (set(), set()),
        ({"new", "new-l0"} - {"new-l0"}, {"old"}),
        ({"ev", "ev-l0"}, {"site", "site-l0"}),
    ]
    demands = [s.demand for s in told]
    assert None not in demands
    assert demands[2] > demands[1]  # type: ignore[operator]
    assert stages_told(Laid(job(circuit()), 1, Kit())) == []


def test_a_cable_that_grows_is_put_in_once_or_renewed_with_its_money_and_digging() -> None:
    inputs = barn()
    found = {g.circuit: g for g in growing(inputs, shipped())}
    assert "new" in found
    one = found["new"]
    assert [n.stage for n in one.needed] == ["first", "later"]
    small, large = (n.csa for n in one.needed)
    assert small is not None
    assert large is not None
    assert small < large == one.most
    new = next(c for c in inputs.circuits if c.id == "new")

    def cost(csa: float) -> float:
        c = circuit_cost(shipped(), R, with_csa(R, new, csa))
        return c.cable + c.laying + c.digging

    assert one.once == pytest.approx(cost(large), abs=0.01)
    assert one.renewed == pytest.approx(cost(small) + cost(large), abs=0.01)
    assert one.dug_again == pytest.approx(2 * one.dug)
    assert one.dug > 0
    # Taken, it is the least at every stage, and no longer offered.
    taken, _ = apply(inputs, one.changes, R.choices)
    assert {g.circuit: g.changes for g in growing(taken, shipped())}["new"] == ()


def test_what_may_do_no_more_work_says_that_it_is_not_the_whole_or_is_stopped() -> None:
    little = Effort(1)
    assert (growing(barn(), shipped(), little), little.cut) == ((), True)
    with pytest.raises(StoppedError):
        growing(barn(), shipped(), Effort(1, whole=True))
    with pytest.raises(StoppedError):
        growing(barn(), shipped(), Effort(go_on=lambda share: False))
    enough = Effort()
    assert growing(barn(), shipped(), enough)
    assert not enough.cut


def test_what_is_removed_at_a_stage_is_told_as_live_on_the_day_it_is_removed() -> None:
    given = Laid(barn(), 1, Kit())
    live = {s: isolation_plan(seen(given, "/isolation/plan", "far", s), "board", "far").plan.live for s in ("now", "first", "later")}
    assert not any("live until it is removed" in text for text in (*live["now"], *live["later"]))
    told = [text for text in live["first"] if "live until it is removed" in text]
    assert len(told) == 1
    assert "old" in told[0]
    assert "by the plan of stage Now" in told[0]
    # The record that is begun is that of the plan itself.
    assert isolation_plan(seen(given, "/isolation/plan", "far", "first"), "board", "far").plan.points


def test_what_fails_at_an_early_stage_alone_fails() -> None:
    """The heater loses too many volts behind the old feed, and is right behind the new one: it is shown, counted and told as it is first."""
    inputs, _ = apply(
        barn(), [Change("set", "span", "old-s0", {"length": 400.0}), Change("set", "circuit", "new", {"cable.csa": 25.0})], R.choices
    )
    each = [{c.id: c.verdict for c in check(now).circuits}["heater"] for now in views(inputs)]
    assert (each[0], each[-1]) == ("short", "meets")
    found = figures_of(stand(inputs), "heater")
    shown = next(s for s in found.summaries if s.id == "heater")
    assert (shown.verdict, shown.reason.startswith("Now: "), found.stage) == ("short", True, "Now")
    assert found.detail is not None
    assert found.detail.verdict == "short"
    assert [(a.level, a.stage) for a in found.attention if a.circuit == "heater" and a.level == "short"] == [("short", "Now")]
