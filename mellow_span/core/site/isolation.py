"""Isolation: every point to lock off so that a place is dead, and the record of doing it, in an order in which nothing is left out in silence.

The tester is proved, points are isolated, locked and tagged, all pairs of conductors are proved dead, the tester is proved again; only then is it dead.
A local switch in the place of a lock at the board is taken only with its reason. A long buried cable is identified where it is to be cut.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

from mellow_span.core.design.check import Plan, lay_out
from mellow_span.core.errors import InputError
from mellow_span.core.model.parts import TEXT_LIMIT, Circuit, Installation, spec
from mellow_span.core.site.entries import Entry
from mellow_span.core.site.numbers import numbers
from mellow_span.core.site.words import device_words

Kind = Literal["board", "circuit", "route", "room"]
Needs = Literal["nothing", "words", "dead"]
ONE_PHASE = ("L–N", "L–E", "N–E")
THREE_PHASE = ("L1–N", "L2–N", "L3–N", "L1–E", "L2–E", "L3–E", "N–E", "L1–L2", "L2–L3", "L1–L3")
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
class Act:
    """A step of the record. needs: nothing but to be done, words (what is asked), or whether a pair is dead; local: a local switch may stand for it."""

    key: str
    text: str
    needs: Needs = "nothing"
    asks: str = ""
    local: bool = False


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


@dataclass(frozen=True, slots=True, kw_only=True)
class Isolation:
    """A step of a record of isolation, or its beginning with the steps that were asked for then."""

    record: str = spec("Identity of the record, made with its beginning", default="", least=1)
    step: str = spec("Which step: of those listed at the beginning; begin, or given_up with a reason", default="", least=1)
    value: str = spec("What was found or used: tester, lock and who has the key, answer, dead or live", default="")
    local: str = spec("Why a local switch stands for a lock", default="")
    title: str = spec("What is made dead, with the beginning", default="")
    kind: Literal["", "board", "circuit", "route", "room"] = spec("Kind of that place", default="")
    id: str = spec("That place: identity, or name of a room", default="")
    steps: tuple[str, ...] = spec(
        "With the beginning: each step as key|needs|text, with *local where a local switch may stand", default=(), most=400
    )
    release: tuple[str, ...] = spec("With the beginning: the steps of its end", default=(), most=400)


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
    points = _points(plan, target, aimed)
    gone = _below(plan, target, aimed)
    named = numbers(plan.job)
    phases = 3 if any(c.phases == 3 for c in aimed) or (target.kind == "board" and _phases(plan, target.id) == 3) else 1
    buried = sum(s.length or 0.0 for c in aimed for s in c.run.spans if (p := plan.rules.places.get(s.place or "")) and p.ground)
    charging = [c for c in gone if any(load.kind == "ev" for load in c.loads)]
    found = IsolationPlan(
        target.kind,
        target.id,
        target.title,
        points,
        [f"{named[c.id]} {c.name or 'a circuit'}" for c in gone],
        _live(plan, target),
        _cautions(target, buried),
        [],
        [],
    )
    found.steps = _steps(points, THREE_PHASE if phases == 3 else ONE_PHASE, buried, [c.name or "a charging point" for c in charging])
    found.release = [Act(f"release:{p.key}", f"Take lock and tag off {p.what} at {p.where}", "words", "by whom") for p in points]
    found.release.append(Act("energised", "Put the supply on again", "words", "what was energised, and who was told"))
    return found


def _in(circuit: Circuit, target: Target) -> bool:
    if target.kind == "circuit":
        return circuit.id == target.id
    if target.kind == "route":
        return any(s.route == target.id for s in circuit.run.spans)
    if target.kind == "room":
        return any(load.room == target.id for load in circuit.loads)
    return circuit.feeds == target.id


def _points(plan: Plan, target: Target, aimed: list[Circuit]) -> list[LockPoint]:
    """The device of each circuit that is aimed at; of a board the one that feeds it, or its main switch where the supply does."""
    named = numbers(plan.job)
    if target.kind == "board" and not aimed:
        rating = plan.boards[target.id].switch_in
        what = f"the main switch{f' of {rating:g} A' if rating else ''}"
        return [LockPoint("main", target.title, what, "lock it off in its open place")]
    found = []
    for c in aimed:
        fuse = c.device.kind in FUSES
        how = "draw the fuse, keep it with the key, close the carrier with a blank that locks" if fuse else "lock it off in its way"
        what = f"{named[c.id]} {c.name or 'a circuit'}: {device_words(plan.rules, c.device, c.phases)}"
        found.append(LockPoint(named[c.id], plan.boards[c.board].name or "a board", what, how))
    return found


def _below(plan: Plan, target: Target, aimed: list[Circuit]) -> list[Circuit]:
    """Every circuit that goes dead with those aimed at: what their boards feed, and so on."""
    boards = {target.id} if target.kind == "board" else set()
    gone = [c.id for c in aimed]
    boards |= {c.feeds for c in aimed if c.feeds}
    for _ in plan.job.boards:
        more = [c for c in plan.job.circuits if c.board in boards and c.id not in gone]
        gone += [c.id for c in more]
        boards |= {c.feeds for c in more if c.feeds}
    return [c for c in plan.job.circuits if c.id in gone]


def _phases(plan: Plan, board: str) -> int:
    feeder = next((c for c in plan.job.circuits if c.feeds == board), None)
    return feeder.phases if feeder else plan.job.supply.phases


def _live(plan: Plan, target: Target) -> list[str]:
    found = []
    if target.kind == "board" and not any(c.feeds == target.id for c in plan.job.circuits):
        found.append(
            "the incoming terminals of the main switch and the tails: only the supplier, or an isolator before them, makes those dead"
        )
    if target.kind == "route":
        others = next(r.others for r in plan.job.routes if r.id == target.id)
        if others:
            found.append(f"{others} {'circuit' if others == 1 else 'circuits'} in it that {'is' if others == 1 else 'are'} not in this job")
        found.append("whatever else lies there that nobody entered")
    if target.kind == "room":
        found.append("cables that pass through the room on their way: look at the routes, and prove each before it is touched")
    return found


def _cautions(target: Target, buried: float) -> list[str]:
    found = [
        "For a competent person. This list is as good as the design: what is not in the job is not in it. Prove dead at the very place of work.",
        "A neutral can carry the current of another circuit: it is proved to earth like a line, and not parted before it is.",
    ]
    if buried >= LONG_BURIED:
        found.append(
            "Cables in the ground look alike. Identify this one at the cut before it is cut; a cable of another house may lie beside it."
        )
    if target.kind == "room":
        found.append("A room may hold points of circuits whose loads were not given a room.")
    return found


def _steps(points: list[LockPoint], pairs: Sequence[str], buried: float, charging: list[str]) -> list[Act]:
    found = [
        Act("told", "Tell everybody it concerns, and find what is energised now", "words", "who was told, what was on"),
        Act(
            "ask:generation",
            "Is there generation or storage that can feed back: solar, battery, a generator?",
            "words",
            "none, or how it was isolated",
        ),
        Act(
            "ask:neutral",
            "Does another circuit borrow this neutral?",
            "words",
            "no and how that was found, or which and how it was isolated",
        ),
    ]
    for name in charging:
        found.append(Act(f"ask:charging:{name}"[:100], f"Can a vehicle at {name} feed back?", "words", "no, or unplugged and locked"))
    found.append(Act("tester:before", "Prove the tester on a source that is known to be live", "words", "which tester, on what"))
    for p in points:
        found += [
            Act(f"isolate:{p.key}", f"Isolate {p.what} at {p.where}"),
            Act(f"lock:{p.key}", f"Lock: {p.how}", "words", "number of the lock, and who has the key", local=True),
            Act(f"tag:{p.key}", f"Tag at {p.where}, {p.what}", "words", "who, and until when"),
        ]
    if buried >= LONG_BURIED:
        found.append(Act("identify", "Identify the buried cable at the very place of the cut", "words", "how: signal, tracing, spiking"))
    found += [Act(f"dead:{pair}", f"Prove dead {pair} at the place of work", "dead") for pair in pairs]
    found.append(Act("tester:after", "Prove the tester again on the same source", "words", "it still shows live, on what"))
    return found


def packed(step: Act) -> str:
    """Return a step as it is kept with the beginning of a record."""
    return f"{step.key}|{step.needs}{'*local' if step.local else ''}|{step.asks}|{step.text}"


def unpacked(text: str) -> Act:
    """Return a step as it was kept. Raises InputError."""
    parts = text.split("|", 3)
    if len(parts) != 4 or parts[1].removesuffix("*local") not in ("nothing", "words", "dead"):
        raise InputError("data.steps", text[:60], "key|needs|asks|text")
    needs: Needs = parts[1].removesuffix("*local")  # type: ignore[assignment]
    return Act(parts[0], parts[3], needs, parts[2], parts[1].endswith("*local"))


@dataclass(slots=True)
class Done:
    """A step of a record as it stands; by and at are empty until it is done."""

    step: Act
    value: str = ""
    local: str = ""
    by: str = ""
    at: str = ""


@dataclass(slots=True)
class Record:
    """A record of isolation. state: open, dead (proved), live (a pair was not dead: stopped), released, given_up; next: the step that is to be done."""

    id: str
    title: str
    kind: str
    place: str
    by: str
    at: str
    state: Literal["open", "dead", "live", "released", "given_up"]
    steps: list[Done]
    release: list[Done]
    next: str
    why: str = ""
    proved: str = ""


def records(entries: Iterable[Entry]) -> tuple[Record, ...]:
    """Return the records of isolation of a job, the newest first. entries: its log in the order of its times."""
    mine, found = [e for e in entries if e.kind == "isolation"], dict[str, Record]()
    for e in mine:
        if e.data.step == "begin":
            steps, release = ([Done(unpacked(s)) for s in given] for given in (e.data.steps, e.data.release))
            found.setdefault(
                e.data.record, Record(e.data.record, e.data.title, e.data.kind, e.data.id, e.by, e.at, "open", steps, release, "")
            )
    # After the beginnings, whatever the clocks said: a step by another hand may bear an earlier time.
    for e in mine:
        if e.data.step != "begin" and e.data.record in found:
            _take(found[e.data.record], e)
    for record in found.values():
        _settle(record)
    return tuple(sorted(found.values(), key=lambda r: r.at, reverse=True))


def _take(record: Record, e: Entry) -> None:
    if e.data.step == "given_up":
        record.state, record.why = "given_up", e.data.value
    done = next((d for d in (*record.steps, *record.release) if d.step.key == e.data.step), None)
    if done is not None and not done.by:
        done.value, done.local, done.by, done.at = e.data.value, e.data.local, e.by, e.at


def _settle(record: Record) -> None:
    """Say how a record stands, from the steps that are done."""
    left = next((d.step.key for d in record.steps if not d.by), "")
    if record.state == "given_up":
        return
    if any(d.value == "live" for d in record.steps if d.step.needs == "dead"):
        record.state = "live"
        return
    if left:
        record.next = left
        return
    record.state, record.proved = "dead", record.steps[-1].at if record.steps else ""
    record.next = next((d.step.key for d in record.release if not d.by), "")
    if not record.next:
        record.state = "released"


def _begun(steps: Sequence[str], release: Sequence[str]) -> None:
    """Raise InputError for a record that leaves out what none may: whoever begins it, and by whatever means."""
    dead = {key for key in steps if key.startswith("dead:")}
    points = {key.partition(":")[2] for key in steps if key.startswith("isolate:")}
    needed = {"tester:before", *(f"{what}:{point}" for what in ("isolate", "lock", "tag") for point in points)}
    pairs = [{f"dead:{pair}" for pair in each} for each in (ONE_PHASE, THREE_PHASE)]
    order = list(steps)
    proved = order.index("tester:before") if "tester:before" in order else len(order)
    fine = (
        points and needed <= set(steps) and dead in pairs and order[-1] == "tester:after" and len(set(order)) == len(order)
        and all(order.index(key) > proved and order.index(key) > order.index(f"lock:{point}") for key in dead for point in points)
        and {f"release:{point}" for point in points} | {"energised"} <= set(release)
    )  # fmt: skip
    if not fine:
        raise InputError(
            "data.steps",
            ", ".join(steps)[:TEXT_LIMIT],
            "every step of a plan: tester, each point isolated, locked, tagged, all pairs, tester",
        )


def allowed(entries: Iterable[Entry], given: Isolation) -> None:
    """Raise InputError where a step may not be written down now: one before it is missing, words are missing, or the record is closed."""
    found = {r.id: r for r in records(entries)}
    record = found.get(given.record)
    if given.step == "begin":
        if record is not None:
            raise InputError("data.record", given.record, "a record that has not begun yet")
        if not given.steps or not given.release:
            raise InputError("data.steps", "none", "the steps of the plan")
        _begun([unpacked(text).key for text in given.steps], [unpacked(text).key for text in given.release])
        return
    if record is None:
        raise InputError("data.record", given.record, "a record that has begun")
    if given.step == "given_up":
        if record.state in ("released", "given_up"):
            raise InputError("data.step", given.step, "nothing: the record is closed")
        if not given.value.strip():
            raise InputError("data.value", given.value, "why it was given up")
        return
    if given.step != record.next:
        due = next((d.step.text for d in (*record.steps, *record.release) if d.step.key == record.next), "nothing: the record is closed")
        raise InputError("data.step", given.step, f"{record.next or 'none'} ({due})"[:TEXT_LIMIT])
    step = next(d.step for d in (*record.steps, *record.release) if d.step.key == given.step)
    if given.local and not step.local:
        raise InputError("data.local", given.local, "nothing: no local switch stands for this step")
    if step.needs == "dead" and given.value not in ("dead", "live"):
        raise InputError("data.value", given.value, "dead or live")
    if step.needs == "words" and not (given.value.strip() or given.local.strip()):
        raise InputError("data.value", given.value, step.asks)
