"""The registers: what a design rests on that nobody measured or read in the book, and the advice its facts call for."""

from __future__ import annotations

from mellow_span.core.design.cells import cells_of
from mellow_span.core.design.effort import Effort
from mellow_span.core.design.surveyed import assumptions
from mellow_span.core.findings.advice import advise
from mellow_span.papers.page import Block, Column, Item, Table, number, words
from mellow_span.papers.subject import Subject

# Circuits that may be worked out again to say what an assumption costs.
EFFORT = 4000
WEIGHTS = {"danger": "danger", "duty": "duty", "note": "note"}


def assumed(s: Subject, _: str) -> list[Block]:
    """Return what was assumed, with what each would cost; then the doubtful cells of the tables, those nobody read first; who rests on what."""
    effort = Effort(EFFORT)
    rows = [
        [
            Item(one.title), Item(one.told, assumed=True), Item(one.source), number(float(one.moves), ""),
            words("; ".join(i.text + (f": worse {', '.join(i.worse)}" if i.worse else "") for i in one.instead)),
        ]
        for one in assumptions(s.job, effort)
    ]  # fmt: skip
    left = "The job is too large to check them all." if effort.cut else ""
    cells = [
        [
            Item(c.table), Item(c.title), Item(c.row), Item(c.column), Item(f"{c.value:g} {c.unit}".strip(), c.value, c.unit, doubtful=c.check),
            number(float(c.uses), ""), words(c.read, missing="" if c.read else "not checked yet"),
        ]
        for c in cells_of(s.job)
    ]  # fmt: skip
    resting = [
        [
            Item(s.numbers[r.id]), words(c.name), Item(", ".join(r.assumed) or "–", assumed=bool(r.assumed)),
            Item("yes" if r.doubtful else "–", doubtful=r.doubtful),
        ]
        for c, r in zip(s.job.circuits, s.done.result.circuits, strict=True) if r.assumed or r.doubtful
    ]  # fmt: skip
    return [
        Table("Assumed, not measured", ASSUMED, rows, note=left or ("" if rows else "Nothing is assumed.")),
        Table("Table values still to be checked", CELLS, cells, key=4, note="" if cells else "None is used."),
        Table("Circuits that use them", RESTING, resting, key=2),
    ]


ASSUMED = (
    Column("Value", share=16),
    Column("Value used", share=22),
    Column("Basis", share=12),
    Column("Verdicts it can change"),
    Column("If different", share=36),
)
CELLS = (
    Column("Table", share=10), Column("What it is", share=24), Column("Row", share=14), Column("Column", share=18), Column("Value", share=10),
    Column("Used"), Column("Checked in print", share=18),
)  # fmt: skip
RESTING = (Column("No."), Column("Circuit", share=30), Column("Assumed", share=40), Column("Unchecked value"))


def advice(s: Subject, _: str) -> list[Block]:
    """Return the advice the facts of the job call for, dangers first; what was put aside, with its reason, last."""
    rows = [
        [Item(a.weight), Item(a.subject), Item(a.title), Item(a.text), words(a.clause), words(a.dismissed or "")]
        for a in advise(s.job)
    ]  # fmt: skip
    return [Table("Advice", ADVICE, rows, key=3, note="Advice decides nothing; a check does." if rows else "None for this job.")]


ADVICE = (
    Column("Importance"), Column("About", share=15), Column("Advice", share=16), Column("Why", share=36), Column("Clause", share=10),
    Column("Not applicable because", share=16),
)  # fmt: skip
