"""The record of an isolation: which steps are done, by whom and when, in the order of the plan; nothing is skipped in silence.

A local switch in the place of a lock at the board is taken only with its reason.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

from mellow_span.core.errors import InputError
from mellow_span.core.model.spec import TEXT_LIMIT, spec
from mellow_span.core.site.entries import Entry
from mellow_span.core.site.isolation_steps import CLEAR, NOT_CLEAR, ONE_PHASE, THREE_PHASE, Act, unpacked


@dataclass(frozen=True, slots=True, kw_only=True)
class Isolation:
    """A step of a record of isolation, or its beginning with the steps that were asked for then."""

    record: str = spec("Identity of the record, made with its beginning", default="", least=1)
    step: str = spec("Which step: of those listed at the beginning; begin, or given_up with a reason", default="", least=1)
    value: str = spec("What was found or used: tester, lock and who has the key, answer, dead or live", default="")
    local: str = spec("Why a local isolator is used instead of a lock", default="")
    title: str = spec("What is made dead, with the beginning", default="")
    kind: Literal["", "board", "circuit", "route", "room"] = spec("Kind of that place", default="")
    id: str = spec("That place: identity, or name of a room", default="")
    steps: tuple[str, ...] = spec(
        "With the beginning: each step as key|needs|text, with *local where a local switch may stand", default=(), most=400
    )
    release: tuple[str, ...] = spec("With the beginning: the steps of its end", default=(), most=400)


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
    """A record of isolation. state: open, dead (proved), live (a pair or another source was not dead: stopped), released,
    given_up; next: the step that is to be done."""

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
    if source := next((d.step.text for d in record.steps if d.step.needs == "clear" and d.value == NOT_CLEAR), ""):
        record.state, record.why = "live", f"{source} Yes, and not isolated."
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
    _answered(next(d.step for d in (*record.steps, *record.release) if d.step.key == given.step), given)


def _answered(step: Act, given: Isolation) -> None:
    """Raise InputError where a step that is due is not answered as it asks."""
    if given.local and not step.local:
        raise InputError("data.local", given.local, "nothing: no local switch stands for this step")
    if step.needs == "dead" and given.value not in ("dead", "live"):
        raise InputError("data.value", given.value, "dead or live")
    if (
        step.needs == "clear"
        and given.value != NOT_CLEAR
        and not any(given.value.startswith(c) and given.value[len(c) :].strip() for c in CLEAR)
    ):
        raise InputError("data.value", given.value, f"no: and how you know; isolated: and how; or {NOT_CLEAR}")
    if step.needs == "words" and not (given.value.strip() or given.local.strip()):
        raise InputError("data.value", given.value, step.asks)
