"""What was said becomes changes of a job: a circuit with its loads and spans, and the board it feeds where there is none of that name."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from mellow_span.core.errors import CoreError
from mellow_span.core.model.changes import Change, Refused, apply
from mellow_span.core.model.parts import Board, Installation
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.said.line import Said, read_line

# Lines taken at once: a list for a large house has a few dozen.
LINES = 200


@dataclass(slots=True)
class Heard:
    """A line as it was understood, and the changes that make it so. why: the reason why it cannot be taken; its changes are then none."""

    said: Said
    circuit: str | None
    changes: tuple[Change, ...]
    why: str = ""


def hear(rules: RuleSet, job: Installation, lines: list[str], board: str | None, identity: Callable[[], str]) -> list[Heard]:
    """Read lines, one circuit each, and return what each would change in a job, each on top of those before it.

    board: identity of the board that a line starts from which says none; empty: the first. A line that only says 'from ...' holds for those
    after it. identity: gives a new identity for each part. Nothing is changed here.
    """
    found = []
    start = board if any(b.id == board for b in job.boards) else (job.boards[0].id if job.boards else None)
    for line in lines[:LINES]:
        if not line.strip() or line.lstrip().startswith("#"):
            continue
        heard, job, start = _one(rules, job, line.strip(), start, identity)
        found.append(heard)
    return found


def _one(
    rules: RuleSet, job: Installation, line: str, start: str | None, identity: Callable[[], str]
) -> tuple[Heard, Installation, str | None]:
    said = read_line(rules, line, job.boards, job.routes)
    here = start
    if said.board is not None:
        board = named(job, said.board)
        if board is None:
            there = ", ".join(b.name for b in job.boards if b.name) or "none with a name"
            return Heard(said, None, (), f"there is no board called “{said.board}”; there are: {there}"), job, start
        here = board.id
        if said.heading:
            return Heard(said, None, ()), job, here
    circuit = identity()
    changes = changes_of(said, job, circuit, here, identity)
    try:
        after, _ = apply(job, changes, rules.choices)
    except Refused as refused:
        return Heard(said, None, (), f"{refused.field}: {refused.given} given, allowed: {refused.allowed}"), job, start
    return Heard(said, circuit, tuple(changes)), after, start


def named(job: Installation, name: str) -> Board | None:
    """Return the board of a name, whatever its case, or None."""
    plain = " ".join(name.lower().split())
    return next((b for b in job.boards if " ".join(b.name.lower().split()) == plain), None)


def changes_of(said: Said, job: Installation, circuit: str, board: str | None, identity: Callable[[], str]) -> list[Change]:
    """Return the changes that add what was said as a circuit of a board."""
    changes = []
    feeds = None
    if said.feeds is not None:
        fed = named(job, said.feeds)
        feeds = fed.id if fed else identity()
        if fed is None:
            name = said.feeds[:1].upper() + said.feeds[1:]
            changes.append(Change(op="add", kind="board", id=feeds, fields={"name": name}))
    fields: dict[str, Any] = dict(said.circuit)
    if said.device:
        fields["device"] = said.device
    if said.cable:
        fields["cable"] = said.cable
    if feeds is not None:
        fields["feeds"] = feeds
    changes.append(Change(op="add", kind="circuit", id=circuit, parent=board, fields=fields))
    changes += [Change(op="add", kind="load", id=identity(), parent=circuit, fields=load) for load in said.loads]
    spans = [identity() for _ in said.spans]
    for own, span in zip(spans, said.spans, strict=True):
        leaves = {"after": spans[span["after"]]} if "after" in span else {}
        changes.append(Change(op="add", kind="span", id=own, parent=circuit, fields={**span, **leaves}))
    return changes


def refusal(error: CoreError) -> str:
    """Return why a value is not taken, for the place where it was typed."""
    return f"{error.given} given, allowed: {error.allowed}"
