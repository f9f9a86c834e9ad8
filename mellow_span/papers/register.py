"""Every paper there is: what it is called, what it is about, what may be chosen, and the function that makes its blocks."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from mellow_span.core.errors import InputError
from mellow_span.core.site.isolation_record import records
from mellow_span.papers import at_a_glance, chart, design, labels, minor_work, onsite, registers, results, schedule, survey, two_books
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
    "schedule": Kind("Circuit schedule", "every circuit as designed, with calculated values", schedule.schedule, wide=True),
    "glance": Kind("At a glance", "every circuit beside its limits, on one page", at_a_glance.at_a_glance),
    "results": Kind("Test results", "measured values with predictions and limits, then every reading", results.results, wide=True),
    "chart": Kind("Board chart", "for the board door: ways, what they serve, notes", chart.chart, _boards, "board", "every board"),
    "labels": Kind("Labels", "for cables, ways and doors, on sheets of labels", labels.labels, _sheets, "labels and sheet"),
    "minor_work": Kind(
        "Minor work record", "work on one circuit: what was done, designed and read, to be signed", minor_work.minor_work, _circuits, "circuit",
        wide=True,
    ),
    "working": Kind(
        "Working", "a circuit with its cable run, checks, and every step with its table cell", design.working, _circuits, "circuit", "every circuit"
    ),
    "coordination": Kind(
        "Selectivity", "which device operates first, with time/current curves for one circuit", design.coordination, _circuits, "circuit",
        "the pairs of all",
    ),
    "earthing": Kind("Earthing of an outbuilding", "options side by side, what was decided and why", design.earthing, _fed, "board", "every one"),
    "existing": Kind("Existing installation", "observations, graded, with changes and limitations", survey.survey, wide=True),
    "assumptions": Kind("Assumed and unchecked", "values nobody measured, and † table values still to be checked", registers.assumed, wide=True),
    "books": Kind(
        "Two standards compared", "verdicts under the job's own standard and under another", two_books.two_books, two_books.others, "book", wide=True
    ),
    "advice": Kind("Advice", "advice for this job, and what was marked not applicable", registers.advice, wide=True),
    "pulls": Kind("Cable list", "every cable to pull in, in order, with cut lengths", onsite.pull_list, wide=True),
    "materials": Kind("Materials", "what the job needs, at the price list", onsite.bill),
    "isolation": Kind("Isolation record", "each step in order, who and when", onsite.isolation_record, _records, "record", "every record"),
}  # fmt: skip


# Papers of the work of a day: at a stage they leave out what was there before.
OF_A_DAY = frozenset(["pulls", "materials"])


def paper(s: Subject, kind: str, subject: str = "", stage: str = "") -> Paper:
    """Make a paper. subject: what was chosen, empty for all; stage: the one of the job that it is about, empty for its last.

    Raises InputError for a kind that is none, where one has to be chosen, and for a stage the job does not have.
    """
    found = PAPERS.get(kind)
    if found is None:
        raise InputError("paper", kind, "one of " + ", ".join(PAPERS))
    s = s.at(stage, bool(stage) and kind in OF_A_DAY)
    if subject and found.choices is _none:
        raise InputError("subject", subject, "nothing: this paper is about the whole job")
    chosen = next((title for i, title in found.choices(s) if i == subject), "")
    return Paper(kind, found.title, chosen or found.all, s.stamp, found.blocks(s, subject), found.wide)
