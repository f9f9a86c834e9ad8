"""The report on what is there already: what was found, graded, with the cures, what changed since, and what nobody looked at."""

from __future__ import annotations

from mellow_span.core.adding import added
from mellow_span.core.design.effort import Effort
from mellow_span.core.design.options import options
from mellow_span.core.errors import CoreError
from mellow_span.core.figures import figure
from mellow_span.core.site.existing import USUAL, Existing, Observation, existing
from mellow_span.papers.page import Block, Column, Facts, Item, Signature, Table, Words, money, number, words
from mellow_span.papers.schedule import supply_facts
from mellow_span.papers.subject import Subject, day

# In plain words first; the class usually given stands beside it.
GRADES = {
    "danger": "Danger present", "may_become": "Potentially dangerous", "look": "Needs further investigation", "improve": "Improvement recommended",
}  # fmt: skip
SUMMARY = {
    True: "Satisfactory, within what was inspected: nothing found is dangerous, potentially dangerous or needs further investigation.",
    False: "Unsatisfactory: something found is dangerous, potentially dangerous or needs further investigation.",
    None: "No circuit in this job is marked as existing: nothing to report.",
}
CHANGES = {
    "appliance": "a bigger appliance",
    "insulation": "insulation laid",
    "extension": "an extension",
    "use": "another use",
    "other": "something else",
}


def survey(s: Subject, _: str) -> list[Block]:
    """Return the report: how it stands, what was found from the worst down, changes, limits, where to sign."""
    found = existing(s.job, s.entries)
    rows = [_row(o) for o in found.observations]
    noted = [[words(CHANGES.get(c.what, c.what)), Item(c.text), words(c.by), words(day(c.at))] for c in found.changes]
    limits = [[Item(x.text), words(x.agreed, missing="no one"), words(x.by), words(day(x.at))] for x in found.limits]
    return [
        Words("Overall", [SUMMARY[found.satisfactory]], strong=True),
        Facts("Extent of inspection", _looked(s, found)),
        supply_facts(s),
        Table(
            "Observations",
            FOUND,
            rows,
            key=2,
            note="" if rows else "Nothing found with these inputs. That does not prove there is no defect.",
        ),
        Table(
            "Remedial options",
            CURES,
            _cures(s, found),
            key=1,
            note="The cheapest that make every check on the circuit pass, at the price list; each was checked in full.",
        ),
        Table("Changes since installation", CHANGED, noted, note="" if noted else "Nothing is known to have changed."),
        Table("Limitations", LIMITS, limits, note="" if limits else "No limitations noted."),
        Signature("Inspected and graded by"),
    ]


def _looked(s: Subject, found: Existing) -> list[tuple[str, Item]]:
    old = [c for c in s.job.circuits if c.existing]
    unread = added(s.tests[c.id].left for c in old if c.id in s.tests)
    return [
        ("Existing circuits", number(float(found.circuits), "")),
        ("Tests not done yet", Item(str(unread), float(unread), missing=unread > 0)),
    ]


def _row(o: Observation) -> list[Item]:
    grade = o.own or o.grade
    own = f"graded by {o.by}: {o.reason}; suggested grade: {GRADES[o.grade].lower()}" if o.own else ""
    return [
        Item(o.where), Item(o.told, assumed=o.assumed, doubtful=o.doubtful),
        Item(GRADES[grade], verdict="short" if grade in ("danger", "may_become") else None),
        Item(USUAL[grade]), words("; ".join(filter(None, (own, o.why)))), words(o.clause), Item(o.source),
    ]  # fmt: skip


# How many circuits may be worked out for all cures together, and how many cures of each are printed.
EFFORT, MOST = 1500, 2


def _cures(s: Subject, found: Existing) -> list[list[Item]]:
    """The cheapest cures of each circuit in which a check found something."""
    rows, effort = [], Effort(EFFORT)
    for circuit in dict.fromkeys(o.circuit for o in found.observations if o.source == "check" and o.circuit):
        name = s.named(next(c for c in s.laid.circuits if c.id == circuit))
        late = effort.over()
        try:
            cures = [] if late else [o for o in options(s.job, circuit, s.book, effort) if o.passes]
        except CoreError:
            cures = []
        if not cures:
            told = "not tried, the job is large: see the circuit’s fixes" if late else "no change tried fixes all of it"
            rows.append([Item(name), Item(told, missing=late), Item("–"), Item("–"), Item("–")])
        for o in cures[:MOST]:
            dug = f"{figure(o.digging, 'm')} m of digging" if o.digging else ""
            rows.append([Item(name), Item(o.title), Item(o.reason), money(o.cost, s.currency), words(dug)])
    return rows


CURES = (Column("Circuit", share=16), Column("Remedy", share=34), Column("Then", share=32), Column("Costs, without VAT"), Column("Digging"))
FOUND = (
    Column("Where", share=14), Column("What", share=30), Column("Grade", share=14), Column("Class"), Column("Reason", share=22),
    Column("Clause", share=8), Column("Found by"),
)  # fmt: skip
CHANGED = (Column("What", share=18), Column("How", share=50), Column("Noted by"), Column("When", share=16))
LIMITS = (Column("What", share=50), Column("Agreed with", share=18), Column("Noted by"), Column("When", share=16))
