"""Isolation: every point to lock off so that a place is dead, as steps in an order in which nothing is left out; the record of doing it is in
`isolation_record`.

The tester is proved, points are isolated, locked and tagged, all pairs of conductors are proved dead, the tester is proved again; only then is it dead.
A long buried cable is identified where it is to be cut.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from mellow_span.core.adding import added
from mellow_span.core.design.check import Plan, lay_out
from mellow_span.core.errors import InputError
from mellow_span.core.model.numbers import numbers
from mellow_span.core.model.parts import Circuit, Installation
from mellow_span.core.model.tree import feeder_of
from mellow_span.core.rules.neutral import needs_neutral
from mellow_span.core.rules.sources.known import Source
from mellow_span.core.rulesets.vocabulary import C
from mellow_span.core.site.isolation_steps import ONE_PHASE, THREE_PHASE, Act, Kind
from mellow_span.core.site.words import device_words

# From so much in the ground on [m], a cable is identified at the cut: nobody sees from end to end.
LONG_BURIED = 5.0
# Fuses are drawn, everything else is switched.
FUSES = ("BS88-2", "BS88-3", "BS1361", "BS3036", "BS1362")


@dataclass(slots=True)
class LockPoint:
    """A point to lock off: where it is, what it is, and how it is kept open."""

    key: str
    where: str
    what: str
    how: str


@dataclass(slots=True)
class IsolationPlan:
    """What makes a place dead. dead: numbers and names of the circuits that go dead; live: what stays live there all the same.

    cautions: to be read first.

    steps: of the record, in order; release: those at its end.
    """

    kind: Kind
    id: str
    title: str
    points: list[LockPoint]
    dead: list[str]
    live: list[str]
    cautions: list[str]
    steps: list[Act]
    release: list[Act]


@dataclass(slots=True)
class Target:
    """A place that can be made dead."""

    kind: Kind
    id: str
    title: str


def targets(job: Installation) -> tuple[Target, ...]:
    """Return every place of a job that can be made dead: boards, circuits, routes, rooms."""
    named = numbers(job)
    found = [Target("board", b.id, b.name or "a board") for b in job.boards]
    found += [Target("circuit", c.id, f"{named[c.id]} {c.name or 'a circuit'}") for c in job.circuits]
    found += [Target("route", r.id, r.name or "a route") for r in job.routes]
    rooms = dict.fromkeys(load.room for c in job.circuits for load in c.loads if load.room)
    return tuple(found + [Target("room", room, room) for room in rooms])


def isolation(job: Installation, kind: str, identity: str) -> IsolationPlan:
    """Return what makes a place of a job dead. Raises InputError for a place it does not have, and for a job that is no tree."""
    target = next((t for t in targets(job) if t.kind == kind and t.id == identity), None)
    if target is None:
        raise InputError(
            "id" if kind in ("board", "circuit", "route", "room") else "kind", identity if kind else kind, "a place of this job"
        )
    plan = lay_out(job)
    aimed = [c for c in plan.job.circuits if _in(c, target)]
    aimed += _interlocked(plan, aimed)
    points = _points(plan, target, aimed)
    gone = _below(plan, target, aimed)
    named = numbers(plan.job)
    sources = _sources(plan, target, gone)
    points += [_at_source(named, plan, one) for one in sources]
    phases = 3 if any(c.phases == 3 for c in aimed) or (target.kind == "board" and _phases(plan, target.id) == 3) else 1
    buried = added(s.length or 0.0 for c in aimed for s in c.run.spans if (p := plan.rules.places.get(s.place or "")) and p.ground)
    charging = [c for c in gone if any(load.kind == "ev" for load in c.loads)]
    switched = any(p.key.startswith("main:") for p in points)
    found = IsolationPlan(
        target.kind,
        target.id,
        target.title,
        points,
        [f"{named[c.id]} {c.name or 'a circuit'}" for c in gone],
        _live(plan, target, switched),
        _cautions(target, buried),
        [],
        [],
    )
    if switched:
        found.cautions.append(
            "On an earth electrode the neutral can stand at a voltage to earth. The device of the circuit is not known to open it, so the whole "
            f"board is switched off ({plan.rules.clause(C.ISOLATION_TT)})."
        )
    inverters = [one.name for one in sources if one.load.kind == "inverter"]
    others = [one.name for one in sources if one.load.kind != "inverter"]
    if inverters:
        found.live.append(f"the direct-current side of {', '.join(inverters)}: panels in any light, a battery at all times")
    if others:
        found.live.append(f"{', '.join(others)} up to the isolator, while running")
    found.steps = _steps(
        points, THREE_PHASE if phases == 3 else ONE_PHASE, buried, [(named[c.id], c.name or "a charging point") for c in charging]
    )
    found.release = [Act(f"release:{p.key}", f"Remove the lock and tag from {p.what} at {p.where}", "words", "by whom") for p in points]
    found.release.append(Act("energised", "Re-energise", "words", "what was energised, and who was told"))
    return found


def _in(circuit: Circuit, target: Target) -> bool:
    if target.kind == "circuit":
        return circuit.id == target.id
    if target.kind == "route":
        return any(s.route == target.id for s in circuit.run.spans)
    if target.kind == "room":
        return any(load.room == target.id for load in circuit.loads)
    return circuit.feeds == target.id


def _interlocked(plan: Plan, aimed: list[Circuit]) -> list[Circuit]:
    """Circuits that supply the same appliance as one of these by way of an interlock: its terminals are live from either.

    Appliances of two kinds that take turns are two: each has its own terminals.
    """
    shared = {(load.interlock, load.kind) for c in aimed for load in c.loads if load.interlock}
    return [c for c in plan.job.circuits if c not in aimed and any((load.interlock, load.kind) in shared for load in c.loads)]


def _points(plan: Plan, target: Target, aimed: list[Circuit]) -> list[LockPoint]:
    """The device of each circuit that is aimed at; of a board the one that feeds it, or its main switch where the supply does."""
    named = numbers(plan.job)
    if target.kind == "board" and not aimed:
        rating = plan.boards[target.id].switch_in
        what = f"the main switch{f' of {rating:g} A' if rating else ''}"
        return [LockPoint("main", target.title, what, "lock it off in the open position")]
    found: list[LockPoint] = []
    for c in aimed:
        if _leaves_neutral(plan, c):
            found += [p for p in _whole_board(plan, c) if p.key not in {f.key for f in found}]
        fuse = c.device.kind in FUSES
        how = "withdraw the fuse, keep it with the key, fit a lockable blank in the carrier" if fuse else "lock the device off in its way"
        what = f"{named[c.id]} {c.name or 'a circuit'}: {device_words(plan.rules, c.device, c.phases)}"
        found.append(LockPoint(named[c.id], plan.boards[c.board].name or "a board", what, how))
    return found


def _sources(plan: Plan, target: Target, gone: list[Circuit]) -> list[Source]:
    """The sources that could make it live from behind: on a circuit that goes dead at its board, or keeping a board alive that goes dead."""
    circuits = {c.id for c in gone}
    boards = {c.feeds for c in gone if c.feeds} | ({target.id} if target.kind == "board" else set())
    return [one for one in plan.sources if one.circuit in circuits or one.alone in boards]


def _at_source(named: dict[str, str], plan: Plan, source: Source) -> LockPoint:
    circuit = next(c for c in plan.job.circuits if c.id == source.circuit)
    where = source.load.room or (circuit.run.spans[-1].name if circuit.run.spans else "") or f"the end of {named[circuit.id]}"
    what = f"{source.name} ({named[circuit.id]}) at its own isolators, alternating and direct current"
    if source.load.kind == "generator":
        return LockPoint(
            f"source:{named[circuit.id]}", where, f"{source.name} ({named[circuit.id]})", "stop it, and lock its isolator or inlet off"
        )
    return LockPoint(
        f"source:{named[circuit.id]}", where, what, "shut it down as its maker says, lock both off, wait the time on its label"
    )


def _leaves_neutral(plan: Plan, circuit: Circuit) -> bool:
    """Whether the device of a circuit on an electrode is not known to open the neutral: there that is no isolation (461.2)."""
    if _earthing(plan, circuit.board) != "TT":
        return False
    neutral = needs_neutral(circuit) if not circuit.feeds else True
    return (circuit.device.poles or 0) < circuit.phases + neutral


def _earthing(plan: Plan, board: str) -> str | None:
    """The earthing of a board: its own electrode, else what its feed brings."""
    if plan.boards[board].earthing == "TT":
        return "TT"
    feeder = feeder_of(plan.job, board)
    return plan.job.supply.earthing if feeder is None else _earthing(plan, feeder.board)


def _whole_board(plan: Plan, circuit: Circuit) -> list[LockPoint]:
    """What opens the neutral as well: the main switch of its board."""
    board = plan.boards[circuit.board]
    what = f"the main switch{f' of {board.switch_in:g} A' if board.switch_in else ''}; see that it opens the neutral too"
    return [LockPoint(f"main:{board.id}"[:60], board.name or "a board", what, "lock it off in the open position")]


def _below(plan: Plan, target: Target, aimed: list[Circuit]) -> list[Circuit]:
    """Every circuit that goes dead with those aimed at: what their boards feed, and so on."""
    boards = {target.id} if target.kind == "board" else set()
    gone = [c.id for c in aimed]
    boards |= {c.feeds for c in aimed if c.feeds} | {c.board for c in aimed if _leaves_neutral(plan, c)}
    for _ in plan.job.boards:
        more = [c for c in plan.job.circuits if c.board in boards and c.id not in gone]
        gone += [c.id for c in more]
        boards |= {c.feeds for c in more if c.feeds}
    return [c for c in plan.job.circuits if c.id in gone]


def _phases(plan: Plan, board: str) -> int:
    feeder = next((c for c in plan.job.circuits if c.feeds == board), None)
    return feeder.phases if feeder else plan.job.supply.phases


def _live(plan: Plan, target: Target, main: bool) -> list[str]:
    found = []
    if main or (target.kind == "board" and not any(c.feeds == target.id for c in plan.job.circuits)):
        found.append(
            "the incoming terminals of the main switch and the tails: only the distributor, the meter operator or an isolator ahead of them "
            "can make those dead"
        )
    if target.kind == "route":
        others = next(r.others for r in plan.job.routes if r.id == target.id)
        if others:
            found.append(f"{others} {'circuit' if others == 1 else 'circuits'} in it that {'is' if others == 1 else 'are'} not in this job")
        found.append("anything else there that has not been entered")
    if target.kind == "room":
        found.append("cables passing through the room: check the cable routes, and prove each dead before touching it")
    return found


def _cautions(target: Target, buried: float) -> list[str]:
    found = [
        "For a competent person. This list is as good as the design: what is not in the job is not in it. Prove dead at the point of work.",
        "A neutral can carry another circuit's current: prove it dead to earth like a line before disconnecting it.",
    ]
    if buried >= LONG_BURIED:
        found.append(
            "Buried cables look alike. Identify this one where it is to be cut before cutting; a neighbour's cable may run next to it."
        )
    if target.kind == "room":
        found.append("The room may also have points on circuits that were not given a room.")
    return found


# What can make a place live although its own points are locked off: each has to be ruled out, or isolated.
SOURCES = (
    ("generation", "Can generation feed back: solar PV, a generator, wind?", "look at the meter position, the boards and the roof"),
    (
        "battery",
        "Can a battery feed back, or an inverter that keeps a backed-up circuit live?",
        "look for storage, and for a socket that stays on",
    ),
    ("neutral", "Is the neutral shared with another circuit?", "follow it to its bar; a clamp meter on it shows load of others"),
    (
        "second",
        "Does a second circuit reach the point of work: two-way lighting over two circuits, an appliance with two supplies?",
        "look into the accessory",
    ),
)


def _steps(points: list[LockPoint], pairs: Sequence[str], buried: float, charging: list[tuple[str, str]]) -> list[Act]:
    found = [Act("told", "Tell everyone affected, and note what is energised now", "words", "who was told, what was on")]
    found += [Act(f"ask:{key}", question, "clear", how) for key, question, how in SOURCES]
    found += [
        Act(f"ask:charging:{number}", f"Can a vehicle at {number} {name} feed back?", "clear", "unplug it, and lock the charging point off")
        for number, name in charging
    ]
    found.append(Act("tester:before", "Prove the tester on a known live source or proving unit", "words", "which tester, on what"))
    for p in points:
        found += [
            Act(f"isolate:{p.key}", f"Isolate {p.what} at {p.where}"),
            Act(f"lock:{p.key}", f"Lock: {p.how}", "words", "number of the lock, and who has the key", local=True),
            Act(f"tag:{p.key}", f"Tag at {p.where}, {p.what}", "words", "who, and until when"),
        ]
    if buried >= LONG_BURIED:
        found.append(Act("identify", "Identify the buried cable at the very place of the cut", "words", "how: signal, tracing, spiking"))
    found += [Act(f"dead:{pair}", f"Prove dead at the point of work: {pair}", "dead") for pair in pairs]
    found.append(Act("tester:after", "Prove the tester again on the same source", "words", "still shows live, and on what"))
    return found
