"""Exercises for a person: never one they had, kept with what came of it; papers begun and handed in."""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import timedelta

from django.db import transaction
from django.utils import timezone

from mellow_span.core.errors import InputError
from mellow_span.core.practice.exercise import Exercise
from mellow_span.core.practice.making import HEADS, MOST_SEED, make, offered
from mellow_span.core.practice.marking import Marked, mark
from mellow_span.core.rulesets import available
from mellow_span.jobs.models import Firm, Member
from mellow_span.learning.models import Paper, Sitting, Tried

# How many of the last tries of a head are shown, and of how many before a new exercise has to differ.
LAST, UNLIKE = 10, 200
# What a paper may ask for, and how long after its time it is still taken as in time.
MOST_EACH, MOST_MINUTES, GRACE = 10, 300, timedelta(seconds=30)
Answers = Mapping[str, float | None]


@dataclass(frozen=True, slots=True)
class Progress:
    """How somebody stands in a head: tried, whole; last: the last few, the newest first; slips: what was wrong most, kind and how often."""

    head: str
    tried: int
    whole: int
    last: tuple[bool, ...]
    slips: tuple[tuple[str, int], ...]


def progress(member: Member, book: str) -> list[Progress]:
    """Return how somebody stands in each head that a book offers."""
    rows = list(Tried.objects.filter(member=member, book=book).values_list("head", "whole", "slip"))
    found = []
    for head in offered(book):
        mine = [(whole, slip) for name, whole, slip in rows if name == head.id]
        slips = Counter(slip for _, slip in mine if slip)
        found.append(Progress(head.id, len(mine), sum(w for w, _ in mine), tuple(w for w, _ in mine[:LAST]), tuple(slips.most_common(2))))
    return found


def known_book(book: str) -> str:
    """Return a book that exercises are made from. Raises InputError."""
    if book not in available():
        raise InputError("book", book, "one of " + ", ".join(available()))
    return book


def fresh(member: Member, head: str, book: str) -> Exercise:
    """Return an exercise of a head that is none of those the person had. Raises InputError."""
    rng = random.SystemRandom()
    had = {
        same(make(head, seed, book))
        for seed in Tried.objects.filter(member=member, head=head, book=book).values_list("seed", flat=True)[:UNLIKE]
    }
    made = make(head, rng.randint(0, MOST_SEED), book)
    for _ in range(UNLIKE):
        if same(made) not in had:
            break
        made = make(head, rng.randint(0, MOST_SEED), book)
    return made


def same(made: Exercise) -> tuple[object, ...]:
    """Return what makes two exercises one: what is told, given and asked."""
    return (made.story, tuple(g.value for g in made.given), tuple(line.id for line in made.lines))


def hand_in(member: Member, made: Exercise, answers: Answers) -> Marked:
    """Mark an exercise and keep what came of it the first time. Raises InputError for an answer to no line of it."""
    found = mark(made, held(made, answers))
    wrong = next((m for m in found.marks if m.id == found.first), None)
    Tried.objects.get_or_create(
        member=member, book=made.book, head=made.head, seed=made.seed,
        defaults={"whole": found.whole, "first": found.first, "slip": wrong.slip if wrong else ""},
    )  # fmt: skip
    return found


def held(made: Exercise, answers: Answers) -> Answers:
    """Return answers that are all to lines of an exercise. Raises InputError."""
    lines = {line.id for line in made.lines}
    if strange := [a for a in answers if a not in lines]:
        raise InputError("answers", ", ".join(strange), "lines of the exercise: " + ", ".join(lines))
    return answers


# Papers -----------------------------------------------------------------------------------------------------------------


def set_paper(firm: Firm, member: Member, title: str, book: str, heads: Sequence[str], each: int, minutes: int, open: bool) -> Paper:
    """Set a paper for the firm. Raises InputError for a head that the book does not offer, or for none."""
    there = [h.id for h in offered(known_book(book))]
    chosen = [h.id for h in HEADS if h.id in heads]
    if not chosen or any(h not in there for h in heads):
        raise InputError("heads", ", ".join(heads), "one or more of " + ", ".join(there))
    seed = random.SystemRandom().randint(0, MOST_SEED)
    return Paper.objects.create(
        firm=firm, title=title, book=book, heads=chosen, each=each, minutes=minutes, open=open, seed=seed, by=member
    )


def drawn(paper: Paper, seed: int) -> list[tuple[str, int]]:
    """Return head and seed of each exercise of a paper, drawn from one seed; no two alike."""
    rng, found = random.Random(f"paper/{paper.pk}/{seed}"), []
    for head in paper.heads:
        seen: set[object] = set()
        while len(seen) < paper.each:
            made = make(head, rng.randint(0, MOST_SEED), paper.book)
            if same(made) not in seen:
                seen.add(same(made))
                found.append((head, made.seed))
    return found


def begin(paper: Paper, member: Member) -> Sitting:
    """Sit somebody down at a paper, once; who sits there already goes on."""
    seeds = drawn(paper, random.SystemRandom().randint(0, MOST_SEED))
    sitting, _ = Sitting.objects.get_or_create(paper=paper, member=member, defaults={"seeds": seeds})
    return sitting


def exercises(paper: Paper, seeds: Sequence[Sequence[object]]) -> list[Exercise]:
    """Return the exercises of a paper by their heads and seeds."""
    return [make(str(head), int(str(seed)), paper.book) for head, seed in seeds]


@transaction.atomic
def hand_paper_in(paper: Paper, member: Member, answers: Sequence[Answers]) -> Sitting:
    """Hand a paper in, once. Raises InputError where nobody sat down, where it was handed in already, and for answers that do not fit it."""
    sitting = Sitting.objects.select_for_update().filter(paper=paper, member=member).first()
    if sitting is None or sitting.handed is not None:
        raise InputError("paper", paper.title, "a paper that was begun and not handed in yet")
    made = exercises(paper, sitting.seeds)
    if len(answers) != len(made):
        raise InputError("answers", len(answers), f"answers to each of {len(made)} exercises")
    found = [mark(one, held(one, given)) for one, given in zip(made, answers, strict=True)]
    sitting.handed, sitting.answers, sitting.whole = timezone.now(), [dict(a) for a in answers], sum(f.whole for f in found)
    sitting.save()
    return sitting


def late(sitting: Sitting) -> int:
    """Return how many minutes after its time a paper was handed in, begun ones counted; 0 for in time."""
    if not sitting.paper.minutes or sitting.handed is None:
        return 0
    over = sitting.handed - sitting.begun - timedelta(minutes=sitting.paper.minutes)
    return 0 if over <= GRACE else -int(-over.total_seconds() // 60)
