"""Practice: exercises and how they are marked, progress, papers that a supervisor sets and reads."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Annotated, Any, Literal
from uuid import UUID

from django.http import HttpRequest
from django.utils import timezone
from ninja import Field, Query, Router, Schema, Status

from mellow_span.answers.practice import TITLES, ExerciseOut, MarkedOut, exercise_told, marked
from mellow_span.api.errors import Refusal
from mellow_span.api.render import send
from mellow_span.core.practice.making import MOST_SEED, make, offered
from mellow_span.core.rulesets import available, rule_set
from mellow_span.jobs.models import Member
from mellow_span.jobs.ownership import NotYours, member_of, supervisor_of
from mellow_span.learning import keeping
from mellow_span.learning.models import Paper, Sitting

router = Router()
REFUSALS: dict[Any, Any] = {400: Refusal, 401: Refusal, 403: Refusal, 404: Refusal, 422: Refusal}
NO_NUL = r"^[^\x00]*$"
Book = Annotated[str, Query(max_length=40)]
Number = Annotated[float, Field(ge=-1e12, le=1e12, allow_inf_nan=False)]


@dataclass(slots=True)
class SlipCount:
    """A kind of slip, and how often it was the first wrong step."""

    kind: str
    count: int


@dataclass(slots=True)
class HeadLine:
    """A head of practice, and how the person stands in it. last: the last ten, the newest first; slips: what was wrong most, and how often."""

    id: str
    title: str
    about: str
    tried: int
    whole: int
    last: tuple[bool, ...]
    slips: tuple[SlipCount, ...]


@dataclass(slots=True)
class Practice:
    """What there is to practise under a book; books: those that exercises are made from, with their titles."""

    book: str
    books: tuple[tuple[str, str], ...]
    heads: tuple[HeadLine, ...]


class ExerciseIn(Schema):
    """Which exercise: of a head, one of one's own or that of a seed. tables: open, or shut as in an exam."""

    head: str = Field(max_length=40, pattern=NO_NUL)
    book: str = Field(default="bs7671", max_length=40, pattern=NO_NUL)
    seed: int | None = Field(default=None, ge=0, le=MOST_SEED)
    tables: bool = True


class AnswersIn(Schema):
    """Answers to an exercise by its lines; null for a line that was left open."""

    head: str = Field(max_length=40, pattern=NO_NUL)
    book: str = Field(default="bs7671", max_length=40, pattern=NO_NUL)
    seed: int = Field(ge=0, le=MOST_SEED)
    answers: dict[str, Number | None] = Field(max_length=40)


class PaperIn(Schema):
    """A paper to set: heads, exercises of each, minutes (0 for no limit), whether the tables are open."""

    title: str = Field(min_length=1, max_length=120, pattern=r"^[^\x00]*\S[^\x00]*$")
    book: str = Field(default="bs7671", max_length=40, pattern=NO_NUL)
    heads: list[Annotated[str, Field(max_length=40, pattern=NO_NUL)]] = Field(min_length=1, max_length=20)
    each: int = Field(default=1, ge=1, le=keeping.MOST_EACH)
    minutes: int = Field(default=0, ge=0, le=keeping.MOST_MINUTES)
    tables: bool = False


class HandIn(Schema):
    """A paper handed in: the answers to each of its exercises, in their order."""

    answers: list[Annotated[dict[str, Number | None], Field(max_length=40)]] = Field(max_length=200)


Stage = Literal["new", "begun", "handed"]


@dataclass(slots=True)
class PaperLine:
    """A paper that is set. exercises: how many; stage: where the person is with it; handed: how many of the firm handed it in; ends: of a sitting."""

    id: str
    title: str
    book: str
    heads: tuple[str, ...]
    exercises: int
    minutes: int
    tables: bool
    by: str
    at: datetime
    stage: Stage
    whole: int
    handed: int
    away: bool


@dataclass(slots=True)
class SittingOut:
    """A paper that is sat. ends: when its time is over, null for no limit; now: by the clock of the server."""

    paper: PaperLine
    exercises: tuple[ExerciseOut, ...]
    begun: datetime
    ends: datetime | None
    now: datetime


@dataclass(slots=True)
class Result:
    """What somebody made of a paper. whole: exercises without an error; late: minutes after its time; marked: each exercise."""

    name: str
    begun: datetime
    handed: datetime | None
    late: int
    whole: int
    exercises: tuple[ExerciseOut, ...]
    marked: tuple[MarkedOut, ...]


@dataclass(slots=True)
class Results:
    """The results of a paper: of everybody for who set papers, else one's own."""

    paper: PaperLine
    results: tuple[Result, ...]


@dataclass(slots=True)
class Printed:
    """A paper to be printed, with the answers apart."""

    paper: PaperLine
    seed: int
    exercises: tuple[ExerciseOut, ...]
    answers: tuple[MarkedOut, ...]


@router.get("", response={200: Practice, **REFUSALS}, operation_id="practice")
def practice(request: HttpRequest, book: Book = "bs7671") -> Any:
    """Return what there is to practise, and how the person stands in each head."""
    about = {h.id: h for h in offered(keeping.known_book(book))}
    heads = [
        HeadLine(p.head, about[p.head].title, about[p.head].about, p.tried, p.whole, p.last, tuple(SlipCount(*s) for s in p.slips))
        for p in keeping.progress(member_of(request.user), book)
    ]
    return send(Practice, Practice(book, tuple((b, rule_set(b).title) for b in available()), tuple(heads)))


@router.post("/exercises", response={200: ExerciseOut, **REFUSALS}, operation_id="exercise")
def exercise(request: HttpRequest, given: ExerciseIn) -> Any:
    """Make an exercise: one the person has not had, or that of a seed."""
    member = member_of(request.user)
    keeping.known_book(given.book)
    made = keeping.fresh(member, given.head, given.book) if given.seed is None else make(given.head, given.seed, given.book)
    return send(ExerciseOut, exercise_told(made, given.tables))


@router.post("/marks", response={200: MarkedOut, **REFUSALS}, operation_id="mark_exercise")
def marks(request: HttpRequest, given: AnswersIn) -> Any:
    """Mark an exercise, own errors taken forward. The first time it counts for the progress of the person."""
    keeping.known_book(given.book)
    made = make(given.head, given.seed, given.book)
    keeping.hand_in(member_of(request.user), made, given.answers)
    return send(MarkedOut, marked(made, given.answers))


# Papers -----------------------------------------------------------------------------------------------------------------


def _paper(member: Member, set_id: UUID) -> Paper:
    found = Paper.objects.filter(firm=member.firm_id, pk=set_id).select_related("by").first()
    if found is None:
        raise NotYours("paper")
    return found


def _line(paper: Paper, member: Member) -> PaperLine:
    sittings = list(paper.sittings.all())
    mine = next((s for s in sittings if s.member_id == member.pk), None)
    stage: Stage = "new" if mine is None else "begun" if mine.handed is None else "handed"
    handed = sum(s.handed is not None for s in sittings)
    return PaperLine(
        str(paper.pk), paper.title, paper.book, tuple(TITLES.get(h, h) for h in paper.heads), len(paper.heads) * paper.each, paper.minutes, paper.open,
        paper.by.name if paper.by else "", paper.at, stage, mine.whole if mine else 0, handed, paper.away,
    )  # fmt: skip


@router.get("/papers", response={200: list[PaperLine], **REFUSALS}, operation_id="practice_papers")
def papers(request: HttpRequest) -> Any:
    """List the papers that are set in the firm."""
    member = member_of(request.user)
    rows = Paper.objects.filter(firm=member.firm_id).select_related("by").prefetch_related("sittings")
    return send(list[PaperLine], [_line(p, member) for p in rows])


@router.post("/papers", response={201: PaperLine, **REFUSALS}, operation_id="set_paper")
def set_paper(request: HttpRequest, given: PaperIn) -> Any:
    """Set a paper for the firm. A supervisor does."""
    member = supervisor_of(request.user)
    made = keeping.set_paper(member.firm, member, given.title.strip(), given.book, given.heads, given.each, given.minutes, given.tables)
    return send(PaperLine, _line(made, member), 201)


@router.delete("/papers/{uuid:set_id}", response={204: None, **REFUSALS}, operation_id="take_paper_back")
def take_back(request: HttpRequest, set_id: UUID) -> Any:
    """Offer a paper no longer; what was handed in stays."""
    found = _paper(supervisor_of(request.user), set_id)
    Paper.objects.filter(pk=found.pk).update(away=True)
    return Status(204, None)


@router.post("/papers/{uuid:set_id}/sitting", response={200: SittingOut, **REFUSALS}, operation_id="sit_paper")
def sit(request: HttpRequest, set_id: UUID) -> Any:
    """Begin a paper, or go on with it: its time runs from the first beginning. Handed in it is not begun again."""
    member = member_of(request.user)
    paper = _paper(member, set_id)
    if paper.away and not paper.sittings.filter(member=member).exists():
        raise NotYours("paper")
    sitting = keeping.begin(paper, member)
    return send(SittingOut, _sitting(paper, member, sitting))


def _sitting(paper: Paper, member: Member, sitting: Sitting) -> SittingOut:
    ends = sitting.begun + timedelta(minutes=paper.minutes) if paper.minutes else None
    made = keeping.exercises(paper, sitting.seeds)
    return SittingOut(
        _line(paper, member), tuple(exercise_told(e, paper.open, sat=True) for e in made), sitting.begun, ends, timezone.now()
    )


@router.post("/papers/{uuid:set_id}/hand-in", response={200: Results, **REFUSALS}, operation_id="hand_paper_in")
def hand_in(request: HttpRequest, set_id: UUID, given: HandIn) -> Any:
    """Hand a paper in, once, and return what came of it."""
    member = member_of(request.user)
    paper = _paper(member, set_id)
    sitting = keeping.hand_paper_in(paper, member, given.answers)
    return send(Results, Results(_line(paper, member), (_result(paper, sitting),)))


@router.get("/papers/{uuid:set_id}/results", response={200: Results, **REFUSALS}, operation_id="paper_results")
def results(request: HttpRequest, set_id: UUID) -> Any:
    """Return the results of a paper: of everybody who handed it in for a supervisor, else the person's own."""
    member = member_of(request.user)
    paper = _paper(member, set_id)
    rows = paper.sittings.select_related("member", "paper").filter(handed__isnull=False)
    if member.role != Member.Role.SUPERVISOR:
        rows = rows.filter(member=member)
    return send(Results, Results(_line(paper, member), tuple(_result(paper, s) for s in rows)))


def _result(paper: Paper, sitting: Sitting) -> Result:
    made = keeping.exercises(paper, sitting.seeds)
    found: Sequence[MarkedOut] = [marked(e, a) for e, a in zip(made, sitting.answers, strict=True)]
    return Result(
        sitting.member.name, sitting.begun, sitting.handed, keeping.late(sitting), sitting.whole,
        tuple(exercise_told(e, True) for e in made), tuple(found),
    )  # fmt: skip


@router.get("/papers/{uuid:set_id}/print", response={200: Printed, **REFUSALS}, operation_id="print_paper")
def printed(request: HttpRequest, set_id: UUID) -> Any:
    """Return a paper to be printed, with the answers apart. A supervisor's."""
    member = supervisor_of(request.user)
    paper = _paper(member, set_id)
    made = keeping.exercises(paper, keeping.drawn(paper, paper.seed))
    answers = tuple(marked(e, {line.id: e.solved[line.id] for line in e.lines}) for e in made)
    return send(Printed, Printed(_line(paper, member), paper.seed, tuple(exercise_told(e, paper.open) for e in made), answers))
