"""What turns one state of a job into another: for going back to an earlier one, and to see what changed between two."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from mellow_span.core.model import fields as of
from mellow_span.core.model.changes import Applied, Change, restore, siblings
from mellow_span.core.model.fields import REFERENCES
from mellow_span.core.model.parts import Installation
from mellow_span.core.model.tree import canonical


def parts(job: Installation) -> dict[tuple[str, str], tuple[Any, str | None]]:
    """Return every part of a job with its parent, by kind and identity; the job and its supply have no identity."""
    found: dict[tuple[str, str], tuple[Any, str | None]] = {("job", ""): (job, None), ("supply", ""): (job.supply, None)}
    found |= {("board", b.id): (b, None) for b in job.boards}
    found |= {("route", b.id): (b, None) for b in job.routes}
    found |= {("stage", s.id): (s, None) for s in job.stages}
    found |= {("dismissal", d.id): (d, None) for d in job.dismissals}
    for circuit in job.circuits:
        found[("circuit", circuit.id)] = (circuit, circuit.board)
        found |= {("load", x.id): (x, circuit.id) for x in circuit.loads}
        found |= {("span", s.id): (s, circuit.id) for s in circuit.run.spans}
    return found


def flat(job: Installation) -> dict[str, Any]:
    """Return a job as one flat mapping: 'circuit:ID.device.rating' to its value, 'order:circuit:BOARD' to the identities in their order."""
    found: dict[str, Any] = {}
    for (kind, identity), (part, _) in parts(job).items():
        found |= {f"{kind}:{identity}.{name}": of.get(part, name) for name in of.field_names(kind)}
    for kind, parent in _lists(job):
        found[f"order:{kind}:{parent or ''}"] = [p.id for p in siblings(job, kind, parent)]
    return found


def _lists(job: Installation) -> Iterable[tuple[str, str | None]]:
    yield from (("board", None), ("route", None), ("stage", None), ("dismissal", None))
    yield from (("circuit", b.id) for b in job.boards)
    for circuit in job.circuits:
        yield from (("load", circuit.id), ("span", circuit.id))


def difference(old: Installation, new: Installation) -> tuple[Applied, ...]:
    """Return what turns old into new: `replay(old, difference(old, new)) == new` for canonical jobs."""
    work = _Work(canonical(old))
    target = canonical(new)
    had, wants = parts(work.job), parts(target)
    both = [key for key in had if key in wants]
    work.do(_references(had, wants, both, clear=True))
    work.do(_added(target, ("board", "route", "stage", "dismissal"), had))
    work.do(
        Change("move", "circuit", c.id, parent=c.board) for c in target.circuits if had.get(("circuit", c.id), (c, c.board))[1] != c.board
    )
    for kind in ("span", "load", "circuit", "board", "route", "stage", "dismissal"):
        work.do(Change("remove", kind, i) for k, i in had if k == kind and (k, i) not in wants)
    work.do(_added(target, ("circuit", "load", "span"), had))
    for kind, parent in _lists(target):
        work.order(kind, parent, [p.id for p in siblings(target, kind, parent)])
    work.do(_fields(had, wants, both))
    # A part that went may have taken what others named with it: what counts is how they are by now.
    work.do(_references(parts(work.job), wants, list(wants), clear=False))
    return tuple(work.done)


class _Work:
    """A job on its way from one state to another, with what was applied so far."""

    def __init__(self, job: Installation) -> None:
        self.job = job
        self.done: list[Applied] = []

    def do(self, changes: Iterable[Change]) -> None:
        for change in changes:
            self.job, made = restore(self.job, [change])
            self.done += made

    def order(self, kind: str, parent: str | None, wanted: list[str]) -> None:
        for index, identity in enumerate(wanted):
            if siblings(self.job, kind, parent)[index].id != identity:
                self.do([Change("move", kind, identity, index=index)])  # type: ignore[arg-type]


def _added(target: Installation, kinds: tuple[str, ...], had: dict[tuple[str, str], Any]) -> Iterable[Change]:
    for (kind, identity), (part, parent) in parts(target).items():
        if kind in kinds and (kind, identity) not in had:
            fields = {n: v for n, v in of.given(kind, part).items() if (kind, n) not in REFERENCES}
            yield Change("add", kind, identity, fields, parent)  # type: ignore[arg-type]


def _fields(had: dict[Any, Any], wants: dict[Any, Any], both: list[tuple[str, str]]) -> Iterable[Change]:
    for kind, identity in both:
        old, new = had[(kind, identity)][0], wants[(kind, identity)][0]
        if old is new or old == new:
            continue
        fields = {
            name: of.get(new, name)
            for name in of.field_names(kind)
            if (kind, name) not in REFERENCES and of.get(old, name) != of.get(new, name)
        }
        if fields:
            yield Change("set", kind, identity, fields)  # type: ignore[arg-type]


def _references(had: dict[Any, Any], wants: dict[Any, Any], keys: list[tuple[str, str]], clear: bool) -> Iterable[Change]:
    """References that differ, or whose part moves: first all let go, at the end all set, so that no order of them matters."""
    for key in keys:
        for kind, name in REFERENCES:
            if kind != key[0]:
                continue
            old = of.get(had[key][0], name) if key in had else None
            new = of.get(wants[key][0], name)
            moves = key in had and had[key][1] != wants[key][1]
            if (old != new or moves) and (not clear or old is not None):
                yield Change("set", kind, key[1], {name: None if clear else new})  # type: ignore[arg-type]
