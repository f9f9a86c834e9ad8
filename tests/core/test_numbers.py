"""Numbers that stay: whatever is added, moved or removed, a circuit that was tagged keeps its number, and none is given twice."""

from __future__ import annotations

import random
from dataclasses import replace

import pytest

from mellow_span.core.errors import InputError
from mellow_span.core.model.changes import Change, apply
from mellow_span.core.model.numbers import elsewhere, letters, letters_of, numbers, to_keep, unused
from mellow_span.core.model.parts import Board, Circuit, Installation, Tagged
from mellow_span.exchange.document import read, write


def house(*phases: int) -> Installation:
    circuits = tuple(Circuit(id=f"c{i}", board="b1" if i < 4 else "b2", name=f"n{i}", phases=p) for i, p in enumerate(phases))
    return Installation(name="house", boards=(Board(id="b1", name="House board"), Board(id="b2")), circuits=circuits)


def tagged(job: Installation, *parts: str) -> Installation:
    return replace(job, numbers=job.numbers + to_keep(job, parts))


def removed(job: Installation, circuit: str) -> Installation:
    return apply(job, [Change("remove", "circuit", circuit)], lambda *_: ())[0]


def test_without_a_tag_numbers_follow_the_ways() -> None:
    assert list(numbers(house(1, 3, 1, 1, 1)).values()) == ["A1", "A2", "A5", "A6", "B1"]
    assert elsewhere(house(1, 3)) == {}


def test_a_tagged_circuit_keeps_its_number_and_a_removed_one_is_not_used_again() -> None:
    job = tagged(house(1, 1, 1, 1, 1), "c1", "c2")
    assert {t.part: t.number for t in job.numbers} == {"b1": "A", "c1": "A2", "c2": "A3"}
    less = removed(job, "c1")
    # c3 was never tagged: its way is 3 now, whose number is on a cable, and A2 is on one that was removed.
    assert numbers(less) == {"c0": "A1", "c2": "A3", "c3": "A4", "c4": "B1"}
    assert elsewhere(less) == {"c2": "now way 2 of House board", "c3": "now way 3 of House board"}
    assert unused(less) == ["A2"]
    # Taken back it has its own again.
    assert numbers(replace(job)) == numbers(job)


def test_the_letter_of_a_board_stays_when_an_earlier_one_goes() -> None:
    job = tagged(house(1, 1, 1, 1, 1), "c4")
    alone = replace(job, boards=job.boards[1:], circuits=job.circuits[4:])
    assert letters_of(alone) == {"b2": "B"}
    assert numbers(alone) == {"c4": "B1"}
    more = replace(alone, boards=(*alone.boards, Board(id="b3")), circuits=(*alone.circuits, Circuit(id="x", board="b3")))
    # The second place is B, which is taken: the next that nobody had.
    assert numbers(more) == {"c4": "B1", "x": "A1"}


@pytest.mark.parametrize("seed", range(60))
def test_random_work_never_gives_a_number_twice_nor_takes_one_away(seed: int) -> None:
    dice = random.Random(seed)
    job, made, on_cables = house(1, 1, 3, 1, 1), 0, {}
    for _ in range(40):
        here = [c.id for c in job.circuits]
        step = dice.choice(("add", "insert", "remove", "tag", "move", "phases", "board"))
        if step in ("add", "insert"):
            made += 1
            fresh = Circuit(id=f"x{made}", board=dice.choice(job.boards).id)
            at = dice.randrange(len(job.circuits) + 1) if step == "insert" else len(job.circuits)
            job = replace(job, circuits=(*job.circuits[:at], fresh, *job.circuits[at:]))
        elif step == "remove" and here:
            job = removed(job, dice.choice(here))
        elif step == "tag" and here:
            job = tagged(job, *dice.sample(here, min(2, len(here))))
        elif step == "move" and here:
            gone = dice.choice(here)
            job = replace(job, circuits=tuple(replace(c, board=dice.choice(job.boards).id) if c.id == gone else c for c in job.circuits))
        elif step == "phases" and here:
            gone = dice.choice(here)
            job = replace(job, circuits=tuple(replace(c, phases=4 - c.phases) if c.id == gone else c for c in job.circuits))
        elif step == "board" and len(job.boards) > 1:
            job = replace(job, boards=tuple(reversed(job.boards)))
        named = numbers(job)
        assert set(named) == {c.id for c in job.circuits}
        assert len({*named.values(), *unused(job)}) == len(named) + len(unused(job)), step
        assert len(set(letters_of(job).values())) == len(job.boards)
        for part, number in on_cables.items():
            assert named.get(part, number) == number, (step, part)
        on_cables |= {t.part: t.number for t in job.numbers if not t.number.isalpha()}
        assert {i: n for i, n in named.items() if i in on_cables} == {i: on_cables[i] for i in named if i in on_cables}


def test_numbers_go_with_the_file_and_bad_ones_are_refused_by_name() -> None:
    job = removed(tagged(house(1, 1, 1, 1, 1), "c1", "c2"), "c1")
    assert read(write(job)) == job
    plain = write(job)
    for bad, allowed in (
        ({"part": "c9", "number": "A3"}, "each number once"),
        ({"part": "c2", "number": "A9"}, "each number once"),
        ({"part": "c9", "number": "A0"}, "letter and way"),
        ({"part": "c9", "number": "I1"}, "letter and way"),
        ({"part": "c9", "number": ""}, "letter and way"),
        ({"part": "b2", "number": "B2"}, "a letter"),
    ):
        wrong = {**plain, "installation": {**plain["installation"], "numbers": [*plain["installation"]["numbers"], bad]}}
        with pytest.raises(InputError) as refused:
            read(wrong)
        assert allowed in refused.value.allowed, bad
    assert read({**write(house(1)), "version": 6}).numbers == ()


def test_letters_go_past_the_alphabet() -> None:
    assert letters(25)[-2:] == ["Z", "AA"]
    assert Tagged(part="b", number="AA").number.isalpha()
