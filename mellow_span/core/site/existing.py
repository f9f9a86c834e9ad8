"""What is there already: what checks, readings and the eye found in it, graded by facts; what changed since; limits of the survey.

The grading follows the facts (grades.csv): whether live parts can be touched now, whether a conductor is overloaded by what is connected, whether
something was absent or only smaller than today's rule. Missing what was not asked for at its time is not put like a burning cable. The person who
surveys may grade otherwise, with a reason; both stand.
"""

from __future__ import annotations

import csv
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path
from typing import Literal

from mellow_span.core.design.check import check, lay_out
from mellow_span.core.errors import InputError
from mellow_span.core.findings.results import Check, CircuitResult
from mellow_span.core.model.numbers import numbers
from mellow_span.core.model.parts import Circuit, Installation
from mellow_span.core.model.spec import spec
from mellow_span.core.site.at_boards import all_board_tests
from mellow_span.core.site.entries import Entry
from mellow_span.core.site.readings import CircuitTests
from mellow_span.core.site.results import tests_of

Grade = Literal["danger", "may_become", "improve", "look"]
ORDER: tuple[Grade, ...] = ("danger", "may_become", "look", "improve")
# The class that reports usually give, beside our words.
USUAL: dict[Grade, str] = {"danger": "C1", "may_become": "C2", "improve": "C3", "look": "FI"}
Seen = Literal["damaged", "heat", "blank", "no_cpc", "unenclosed", "loose", "water", "foam", "support", "label", "other"]
SEEN: dict[str, str] = {
    "damaged": "a broken accessory, lid or enclosure", "heat": "signs of overheating: discoloured plastic, brittle insulation, smell",
    "blank": "a missing blank, open way or hole", "no_cpc": "no cpc at a point or exposed metal",
    "unenclosed": "joint or cores not in an enclosure", "loose": "an accessory or board that is loose", "water": "water or damp inside",
    "foam": "sheath against expanded polystyrene", "support": "unsupported cables", "label": "missing label or circuit chart",
    "other": "something else",
}  # fmt: skip
FIXED = (
    "lighting", "cooking", "shower", "water_heater", "heating", "floor_heating", "storage_heating", "ev", "heat_pump", "motor", "inverter",
    "generator",
)  # fmt: skip
# Not known where it could hide a danger: it is to be looked into.
HIDES = "may_become"


@dataclass(frozen=True, slots=True, kw_only=True)
class Observed:
    """Something seen by eye at what is there. touch, burning: the facts that grade it."""

    what: Seen = spec("What was seen", default="other")  # noqa: RUF009
    where: str = spec("Where", default="", least=1)
    touch: bool = spec("Live parts can be touched there now, without a tool", default=False)
    burning: bool = spec("It is hot, charred or arcing now", default=False)
    note: str = spec("In plain words", default="")
    photo: str = spec("Identity of a photo", default="")
    gone: bool = spec("Put right, or entered by mistake: removed", default=False)
    key: str = spec("With gone: which observation", default="")


@dataclass(frozen=True, slots=True, kw_only=True)
class Graded:
    """An observation graded otherwise than the facts do, by the person who answers for it."""

    key: str = spec("Which observation", default="", least=1)
    grade: Grade = spec("How it is graded", default="look")  # noqa: RUF009
    reason: str = spec("Why", default="", least=1)


@dataclass(frozen=True, slots=True, kw_only=True)
class Limit:
    """What was not looked at, and with whom that was agreed."""

    text: str = spec("What was not inspected or opened, and why", default="", least=1)
    agreed: str = spec("With whom it was agreed", default="")
    gone: bool = spec("It does not hold any more", default=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class Changed:
    """What changed since it was installed: a bigger appliance, insulation, an extension."""

    what: Literal["appliance", "insulation", "extension", "use", "other"] = spec("What changed", default="other")
    text: str = spec("How, and about when", default="", least=1)
    gone: bool = spec("It does not hold any more", default=False)


@dataclass(slots=True)
class Observation:
    """Something found. key: names it; where; told: in plain words; grade by the facts with why, usual: the class usually given; source: what found it.

    own: the grade of the person who overruled it, reason and by whom; circuit, check: where its working and its cures are.
    """

    key: str
    where: str
    told: str
    grade: Grade
    why: str
    usual: str
    source: Literal["check", "reading", "eye"]
    clause: str = ""
    own: Grade | None = None
    reason: str = ""
    by: str = ""
    circuit: str | None = None
    board: str | None = None
    check: str | None = None
    doubtful: bool = False
    assumed: bool = False


@dataclass(slots=True)
class Noted:
    """A limit of the survey or a change since, with who noted it and when."""

    id: str
    what: str
    text: str
    agreed: str
    by: str
    at: str


@dataclass(slots=True)
class Existing:
    """All that is known of what is there. satisfactory: nothing is dangerous, may become so or needs looking into; None where nothing is there."""

    observations: list[Observation]
    limits: list[Noted]
    changes: list[Noted]
    circuits: int
    satisfactory: bool | None
    seen: dict[str, str] = field(default_factory=lambda: dict(SEEN))


@cache
def _grades() -> dict[tuple[str, str, str], tuple[Grade, str]]:
    with (Path(__file__).parent / "grades.csv").open(encoding="utf-8", newline="") as file:
        return {(r["source"], r["key"], r["fact"]): (r["grade"], r["why"]) for r in csv.DictReader(file)}  # type: ignore[misc]


def graded(source: str, key: str, facts: Sequence[str]) -> tuple[Grade, str] | None:
    """Return the grade of something by its facts, with why: the first fact that counts decides; None where it is no matter for a survey.

    >>> graded("check", "additional", ["outdoors"])[0], graded("check", "additional", [])[0]
    ('may_become', 'improve')
    """
    found = (_grades().get((source, key, fact)) for fact in (*facts, ""))
    return next((g for g in found if g is not None), None)


def existing(job: Installation, entries: Sequence[Entry]) -> Existing:
    """Return what is found in the existing work of a job, the worst first. entries: its log. Raises InputError for a job that is no tree."""
    plan = lay_out(job)
    old = [c for c in plan.job.circuits if c.existing]
    numbered = numbers(plan.job)
    named = {c.id: f"{numbered[c.id]} {c.name or 'a circuit'}" for c in plan.job.circuits}
    found: list[Observation] = []
    if old:
        result = check(job, keep=False, reuse=True)
        by_id, tests, at_boards = (
            {c.id: c for c in result.circuits},
            tests_of(job, entries, {c.id for c in old}),
            all_board_tests(job, entries),
        )
        for c in old:
            found += _of_circuit(c, by_id[c.id], named[c.id])
            found += _of_readings(tests[c.id], named[c.id], circuit=c.id)
        found += _of_place("intake", "the intake", result.intake, None, [job.supply.bond == "none" or job.supply.bonding_csa is None])
        for board, here in zip(job.boards, result.boards, strict=True):
            if any(c.board == board.id for c in old):
                name = board.name or "a board"
                found += _of_place("board", name, here.checks, board.id, [board.bond == "none"])
                found += _of_readings(at_boards[board.id], name, board=board.id)
    found += _by_eye(entries)
    _overruled(found, entries)
    found.sort(key=lambda o: ORDER.index(o.own or o.grade))
    bad = any((o.own or o.grade) != "improve" for o in found)
    return Existing(found, _noted(entries, "limit"), _noted(entries, "changed"), len(old), None if not old and not found else not bad)


def _of_circuit(circuit: Circuit, result: CircuitResult, name: str) -> list[Observation]:
    facts = []
    if result.ib is not None and result.iz is not None and result.ib > result.iz:
        facts.append("overloaded")
    if circuit.loads and all(load.kind in FIXED for load in circuit.loads):
        facts.append("fixed")
    if any(s.location == "outdoors" for s in circuit.run.spans):
        facts.append("outdoors")
    found = []
    for c in result.checks:
        one = _observation("check", f"{circuit.id}/{c.id}", c.id, name, c, facts)
        if one is not None:
            one.circuit, one.check = circuit.id, c.id
            found.append(one)
    return found


def _of_place(source: str, name: str, checks: Sequence[Check], board: str | None, absent: Sequence[bool]) -> list[Observation]:
    facts = ["absent"] if any(absent) else []
    found = []
    for c in checks:
        one = _observation(source, f"{board or source}/{c.id}", c.id, name, c, facts)
        if one is not None:
            one.board, one.check = board, c.id
            found.append(one)
    return found


def _observation(source: str, key: str, check_id: str, where: str, c: Check, facts: Sequence[str]) -> Observation | None:
    """What a check that does not pass is as an observation; what is not known is to be looked into where it could hide a danger."""
    if not c.decides or c.verdict not in ("short", "not_known"):
        return None
    grade = graded(source, check_id, facts)
    if grade is None or (c.verdict == "not_known" and grade[0] != HIDES):
        return None
    told = f"{c.title}: {c.text}"
    if c.verdict == "not_known":
        grade = ("look", f"not known; where it fails, {grade[1]}")
    return Observation(
        key, where, told, grade[0], grade[1], USUAL[grade[0]], "check", c.clause, doubtful=c.doubtful, assumed=bool(c.assumed)
    )


def _of_readings(results: CircuitTests, name: str, circuit: str | None = None, board: str | None = None) -> list[Observation]:
    """What was read at a circuit or a board and is not as it should be."""
    found = []
    for test in results.tests:
        if test.found not in ("above", "short"):
            continue
        # At a board a fault current may be more than its devices break; elsewhere it is no matter.
        grade = graded("reading", f"board_{test.quantity}" if board and test.quantity == "ipf" else test.quantity, [])
        if grade is None:
            continue
        if test.found == "above":
            grade = ("look", "higher than expected: find out why")
        at = f" at {test.point}" if test.point else ""
        told = f"{test.title}{at}: {test.text}"
        key = f"{circuit or board}/{test.id}"
        found.append(
            Observation(key, name, told, grade[0], grade[1], USUAL[grade[0]], "reading", circuit=circuit, board=board, check=test.quantity)
        )
    return found


def _by_eye(entries: Sequence[Entry]) -> list[Observation]:
    gone = {e.data.key for e in entries if e.kind == "observed" and e.data.gone}
    found = []
    for e in entries:
        if e.kind != "observed" or e.data.gone or e.id in gone:
            continue
        grade, why = graded("eye", e.data.what, []) or ("look", "")
        if e.data.touch or e.data.burning:
            grade, why = "danger", "live parts can be touched" if e.data.touch else "burning, or about to"
        told = SEEN[e.data.what][0].upper() + SEEN[e.data.what][1:] + (f": {e.data.note}" if e.data.note else "")
        found.append(Observation(e.id, e.data.where, told, grade, why, USUAL[grade], "eye"))
    return found


def _overruled(found: list[Observation], entries: Sequence[Entry]) -> None:
    last = {e.data.key: e for e in entries if e.kind == "graded"}
    for o in found:
        e = last.get(o.key)
        if e is not None and e.data.grade != o.grade:
            o.own, o.reason, o.by = e.data.grade, e.data.reason, e.by
            o.usual = USUAL[e.data.grade]


def _noted(entries: Sequence[Entry], kind: str) -> list[Noted]:
    """The notes of a kind that hold: one whose words were noted again as gone does not."""
    last = {e.data.text: e for e in entries if e.kind == kind}
    return [
        Noted(e.id, getattr(e.data, "what", ""), e.data.text, getattr(e.data, "agreed", ""), e.by, e.at) for e in last.values() if not e.data.gone
    ]  # fmt: skip


def seen_whole(given: Observed) -> None:
    """Raise InputError where an observation is taken off the list without saying which."""
    if given.gone and not given.key:
        raise InputError("data.key", given.key, "the observation that is taken off")
