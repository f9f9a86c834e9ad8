"""Every paper there is: what it is called, what it is about, what may be chosen, and the function that makes its blocks."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from mellow_span.core.errors import InputError
from mellow_span.core.site.isolation_record import records
from mellow_span.papers import chart, design, labels, minor_work, onsite, registers, results, schedule, survey, two_books
from mellow_span.papers.page import Block, Paper
from mellow_span.papers.subject import Subject

Choices = Callable[[Subject], list[tuple[str, str]]]


def _none(_: Subject) -> list[tuple[str, str]]:
    return []


def _circuits(s: Subject) -> list[tuple[str, str]]:
    return [(c.id, s.named(c)) for c in design.chosen(s, "")]


def _boards(s: Subject) -> list[tuple[str, str]]:
    return [(b.id, schedule.board_title(s, b)) for b in s.job.boards]


def _fed(s: Subject) -> list[tuple[str, str]]:
    return [(b.id, schedule.board_title(s, b)) for b in s.job.boards if any(c.feeds == b.id for c in s.job.circuits)]


def _records(s: Subject) -> list[tuple[str, str]]:
    return [(r.id, f"{r.title}: {onsite.STATES[r.state].lower()}") for r in records(s.entries)]


def _sheets(_: Subject) -> list[tuple[str, str]]:
    return [
        (f"{kind}/{size}", f"{title}, {about.title} a sheet")
        for kind, title in labels.KINDS.items()
        for size, about in labels.SIZES.items()
    ]


@dataclass(frozen=True, slots=True)
class Kind:
    """A kind of paper. one, all: what its choices are called, and what the choice of all of them is, empty where one has to be chosen."""

    title: str
    about: str
    blocks: Callable[[Subject, str], list[Block]]
    choices: Choices = _none
    one: str = ""
    all: str = ""
    wide: bool = False


PAPERS: dict[str, Kind] = {
    "schedule": Kind("Circuit schedule", "every circuit as designed, with what the design predicts", schedule.schedule, wide=True),
    "results": Kind("Results of the tests", "what was read, beside predictions and limits, then every reading", results.results, wide=True),
    "chart": Kind("Board chart", "for the door of a board: ways, what they serve, what to know", chart.chart, _boards, "board", "every board"),
    "labels": Kind("Labels", "for cables, ways and doors, on sheets of labels", labels.labels, _sheets, "labels and sheet"),
    "minor_work": Kind(
        "Record of minor work", "work on one circuit: what was done, designed and read, to be signed", minor_work.minor_work, _circuits, "circuit"
    ),
    "working": Kind("Working", "a circuit with its run, checks, and every step with its cell", design.working, _circuits, "circuit", "every circuit"),
    "coordination": Kind(
        "Coordination", "which device opens first; of one circuit, time over current", design.coordination, _circuits, "circuit", "the pairs of all"
    ),
    "earthing": Kind("Earthing of an outbuilding", "the ways side by side, what was decided and why", design.earthing, _fed, "board", "every one"),
    "existing": Kind("What is there already", "what was found, graded, with changes and limits", survey.survey, wide=True),
    "assumptions": Kind("Assumed and doubtful", "what nobody measured, and † cells still to be read in the book", registers.assumed, wide=True),
    "books": Kind(
        "Under two books", "how the job stands under its own book and under another", two_books.two_books, two_books.others, "book", wide=True
    ),
    "advice": Kind("Advice", "what the facts of the job call for, and what was put aside", registers.advice, wide=True),
    "pulls": Kind("Pull list", "every cable to pull, in order, and how it is cut", onsite.pull_list, wide=True),
    "materials": Kind("Materials", "what the job takes, by the price book", onsite.bill),
    "isolation": Kind("Record of isolation", "each step in order, who and when", onsite.isolation_record, _records, "record", "every record"),
}  # fmt: skip


def paper(s: Subject, kind: str, subject: str = "") -> Paper:
    """Make a paper. subject: what was chosen, empty for all. Raises InputError for a kind that is none, and where one has to be chosen."""
    found = PAPERS.get(kind)
    if found is None:
        raise InputError("paper", kind, "one of " + ", ".join(PAPERS))
    if subject and found.choices is _none:
        raise InputError("subject", subject, "nothing: this paper is about the whole job")
    chosen = next((title for i, title in found.choices(s) if i == subject), "")
    return Paper(kind, found.title, chosen or found.all, s.stamp, found.blocks(s, subject), found.wide)
