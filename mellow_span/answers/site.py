"""What is asked on site: pull list, terminations, isolation, tests with their readings, what is there already, and the log itself."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

from mellow_span.answers.given import Given
from mellow_span.core.model.numbers import numbers
from mellow_span.core.model.stages import at_stage
from mellow_span.core.site.at_boards import all_board_tests, board_tests
from mellow_span.core.site.compare import Comparison, verify
from mellow_span.core.site.ends import Ends, ends
from mellow_span.core.site.entries import Entry, last, plain
from mellow_span.core.site.existing import Existing, existing
from mellow_span.core.site.gone import Gone, gone
from mellow_span.core.site.isolation import IsolationPlan, Target, isolation, targets
from mellow_span.core.site.isolation_record import Record, records
from mellow_span.core.site.isolation_steps import packed
from mellow_span.core.site.pulls import CableSum, Pull, Slack, by_cable, pulls, ticked
from mellow_span.core.site.readings import CircuitTests
from mellow_span.core.site.results import results_of, tests_of
from mellow_span.papers.drums import Cutting, cuttings, pieces, rests
from mellow_span.standins.under_test import FAULTS


@dataclass(slots=True)
class PullLine:
    """A cable of the pull list. done: it is pulled in; by, at: who ticked it off, and when."""

    pull: Pull
    done: bool
    by: str
    at: str | None


@dataclass(slots=True)
class PullList:
    """The pull list in the order of pulling, how much of each cable it takes, and how that is cut.

    version: of the job it was figured from; slack: what the firm cuts more, drums: what it buys, at_hand: what is left of a cable on the van [m].
    """

    version: int
    slack: Slack
    drums: list[float]
    lines: tuple[PullLine, ...]
    sums: tuple[CableSum, ...]
    cutting: list[Cutting]
    at_hand: dict[str, list[float]]


@dataclass(slots=True)
class IsolationOut:
    """A plan with its steps as they are kept with the beginning of a record."""

    plan: IsolationPlan
    steps: list[str]
    release: list[str]


@dataclass(slots=True)
class Isolations:
    """The places of a job that can be made dead, and its records, the newest first."""

    targets: list[Target]
    records: list[Record]


@dataclass(slots=True)
class TestsShort:
    """How far the tests of a circuit are: how many are left, how many are not as they should be."""

    circuit: str
    number: str
    name: str
    tests: int
    left: int
    off: int


@dataclass(slots=True)
class JobTests:
    """The circuits and boards of a job with how far their tests are; faults that the stand-in of the instrument can put into a circuit.

    gone: what was written down about parts that are no longer in the design.
    """

    circuits: list[TestsShort]
    boards: list[TestsShort]
    faults: list[str]
    gone: list[Gone]


@dataclass(slots=True)
class EntryOut:
    """An entry of the log: what was done or read, about which part, when, and by whom.

    about: what the part was called; clock: what the clock there showed, where it was put right.
    """

    id: str
    kind: str
    subject: str
    data: dict[str, Any]
    at: str
    by: str
    about: str = ""
    clock: str = ""


@dataclass(slots=True)
class Log:
    """The log of a job in the order of its times."""

    entries: list[EntryOut]


PULLED = ("pulled", "undecided", "on_hand")
EXISTING = ("observed", "graded", "limit", "changed", "reading", "board_reading")
TESTED = ("reading", "board_reading", "pulled", "undecided", "colours", "minor_work", "photo")
READ = ("reading", "board_reading")


def pull_list(given: Given) -> PullList:
    """Return the pull list of a job as it stands, with what its log says."""
    inputs, entries, ways = given.inputs, given.entries(*PULLED), given.ways
    there = {c.id for c in inputs.circuits}
    undecided = frozenset(i for i, e in last(entries, "undecided").items() if e.data.undecided and i in there)
    found = pulls(inputs, ways.slack, undecided, given.whole)
    firsts, at_hand = ticked(entries), rests(entries)
    lines = [PullLine(one, (e := firsts.get(one.circuit)) is not None, e.by if e else "", e.at if e else None) for one in found]
    cutting = cuttings(pieces(found), ways.drums, at_hand)
    return PullList(given.version, ways.slack, ways.drums, tuple(lines), by_cable(found), cutting, at_hand)


def terminations(given: Given) -> list[Ends]:
    """Return the ends of every cable of a job, with the colours somebody saw."""
    seen = last(given.entries("colours"), "colours")
    older = frozenset(i for i, e in seen.items() if e.data.older)
    return list(ends(given.inputs, older, frozenset(seen) - older, given.ways.neutral))


def isolations(given: Given) -> Isolations:
    """Return the places of a job that can be made dead, and its records of isolation."""
    return Isolations(list(targets(given.inputs)), list(records(given.entries("isolation"))))


def isolation_plan(given: Given, kind: str, id: str) -> IsolationOut:
    """Return what makes a place dead. kind: board, circuit, route or room; id: its identity, or the name of a room."""
    plan = isolation(given.inputs, kind, id)
    plan = replace(plan, live=[*plan.live, *_until_removed(given, plan)])
    return IsolationOut(plan, [packed(s) for s in plan.steps], [packed(s) for s in plan.release])


def _until_removed(given: Given, plan: IsolationPlan) -> list[str]:
    """What made the place live at the stage before, and is removed at this one: on the day it is still there."""
    order = [stage.id for stage in given.whole.stages]
    at = next((k for k, stage in enumerate(order) if at_stage(given.whole, stage) == given.inputs), 0)
    before = at_stage(given.whole, order[at - 1]) if at else None
    if before is None or not any((t.kind, t.id) == (plan.kind, plan.id) for t in targets(before)):
        return []
    known, name = {point.key for point in plan.points}, given.whole.stages[at - 1].name
    left = [point for point in isolation(before, plan.kind, plan.id).points if point.key not in known]
    return [f"{p.where}: {p.what}: live until it is removed at this stage. Lock it off first, by the plan of stage {name}" for p in left]


def job_tests(given: Given) -> JobTests:
    """Return how far the tests of each circuit of a job are."""
    inputs, entries = given.inputs, given.entries(*TESTED)
    by_circuit = tests_of(inputs, entries)
    # In the order of the boards and their ways.
    found = [_short(by_circuit[i]) for i in numbers(inputs)]
    boards = [_short(b) for b in all_board_tests(inputs, entries).values()]
    return JobTests(found, boards, list(FAULTS), gone(given.whole, entries))


def _short(one: CircuitTests) -> TestsShort:
    return TestsShort(one.circuit, one.number, one.name, len(one.tests), one.left, one.off)


def circuit_tests(given: Given, circuit_id: str) -> CircuitTests:
    """Return the tests of a circuit in their order, with its readings, and what they point to together."""
    return results_of(given.inputs, circuit_id, given.entries(*READ))


def tests_of_board(given: Given, board_id: str) -> CircuitTests:
    """Return the tests at a board with its readings."""
    return board_tests(given.inputs, board_id, given.entries("board_reading"))


def readings(given: Given, circuit_id: str) -> list[Comparison]:
    """Compare the readings of a circuit in the log with what its design predicts."""
    return list(verify(given.inputs, circuit_id, given.entries("reading")))


def existing_work(given: Given) -> Existing:
    """Return what is found in the existing work of a job, the worst first."""
    return existing(given.inputs, given.entries(*EXISTING))


def site_log(given: Given) -> Log:
    """Return all that was written down on site for a job."""
    return Log([told(e) for e in given.entries()])


def told(entry: Entry) -> EntryOut:
    """Return an entry as it is shown; a picture is fetched by itself."""
    data = {k: v for k, v in plain(entry.data).items() if (entry.kind, k) != ("photo", "image")}
    return EntryOut(entry.id, entry.kind, entry.subject, data, entry.at, entry.by, entry.about, entry.clock)
