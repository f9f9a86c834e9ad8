"""The one way a job changes: pure functions on the `Installation` value.

What is asked is a `Change`; what it did is one or more `Applied`, each of which holds enough to be played forwards and backwards. Removing
a part takes what hangs on it apart first, step by step, so that going backwards puts every piece back where it was.

    job, applied = apply(job, changes)          refuses by name, all or none
    earlier = replay(job, invert(applied))      exactly what it was
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, Literal, cast

from mellow_span.core.errors import CoreError, InputError
from mellow_span.core.model import fields as of
from mellow_span.core.model.fields import PART, REFERENCES, PartKind
from mellow_span.core.model.legs import befores, let_go
from mellow_span.core.model.limits import MOST, hold
from mellow_span.core.model.parts import Circuit, Installation, Run
from mellow_span.core.model.stages import NEVER, check_stages, naming
from mellow_span.core.model.tree import board_of, canonical, check_feeds, circuit_of, identities

Op = Literal["set", "add", "remove", "move"]
Known = Mapping[str, Any] | None
LISTS = {"board": "boards", "route": "routes", "stage": "stages", "dismissal": "dismissals"}
SINGLE = ("job", "supply")


@dataclass(frozen=True, slots=True)
class Change:
    """One change that is asked for. parent: the board of a circuit, the circuit of a load or span; index: place among its siblings."""

    op: Op
    kind: PartKind
    id: str = ""
    fields: Mapping[str, Any] = field(default_factory=dict)
    parent: str | None = None
    index: int | None = None


@dataclass(frozen=True, slots=True)
class Applied:
    """What a change did to one part. name: what the part was called; step: the change of the edit it stems from.

    before, after: fields by dotted name for a set; {parent, index} for a move; {parent, index, fields} of a part that was removed, added.
    """

    op: Op
    kind: PartKind
    id: str
    name: str
    before: Mapping[str, Any] | None
    after: Mapping[str, Any] | None
    step: int = 0


class Refused(CoreError):
    """A change that cannot be made. at: which change of the edit; change: what was asked."""

    def __init__(self, at: int, change: Change, error: CoreError) -> None:
        super().__init__(error.field, error.given, error.allowed)
        self.at, self.change = at, change


def apply(job: Installation, changes: Iterable[Change], known: Known = None) -> tuple[Installation, tuple[Applied, ...]]:
    """Return the job with changes made, and what they did; all or none.

    known: the choices of the rule set by section (`RuleSet.choices`); None leaves them unasked.
    Raises Refused, naming the change, for the first that cannot be made.
    """
    return _each(canonical(job), changes, _Rule(known, trusted=False))


def replay(job: Installation, applied: Iterable[Applied]) -> Installation:
    """Return the job with what was once applied, or its inverse, made again; values are taken as they stood.

    Raises Refused where the job is not what it was then.
    """
    return _each(canonical(job), (forward(one) for one in applied), _Rule(None, trusted=True))[0]


def restore(job: Installation, changes: Iterable[Change]) -> tuple[Installation, tuple[Applied, ...]]:
    """Like `apply`, with values that once were in the job: they are not judged again."""
    return _each(canonical(job), changes, _Rule(None, trusted=True))


def invert(applied: Sequence[Applied]) -> tuple[Applied, ...]:
    """Return what takes back what was applied, in the order to do it."""
    back: dict[Op, Op] = {"set": "set", "move": "move", "add": "remove", "remove": "add"}
    return tuple(replace(one, op=back[one.op], before=one.after, after=one.before) for one in reversed(applied))


def forward(one: Applied) -> Change:
    """Return the change that does again what was applied."""
    after = one.after or {}
    if one.op == "set":
        return Change("set", one.kind, one.id, after)
    return Change(one.op, one.kind, one.id, after.get("fields", {}), after.get("parent"), after.get("index"))


@dataclass(frozen=True, slots=True)
class _Rule:
    """How values are taken: judged by the model and the choices of a rule set, or trusted since they stood in the job before."""

    known: Known
    trusted: bool

    def values(self, kind: str, given: Mapping[str, Any]) -> dict[str, Any]:
        flat = of.flattened(kind, given)
        if self.trusted:
            return {name: of.restored(kind, name, value) for name, value in flat.items()}
        return {name: of.checked(kind, name, value, self.known) for name, value in flat.items()}


def _each(job: Installation, changes: Iterable[Change], rule: _Rule) -> tuple[Installation, tuple[Applied, ...]]:
    done: list[Applied] = []
    for at, change in enumerate(changes):
        try:
            if change.kind not in PART:
                raise InputError("kind", change.kind, "one of " + ", ".join(PART))
            before = job
            job, made = _DO[change.op](job, change, rule)
            if job.stages and not rule.trusted:
                check_stages(job)
            if not rule.trusted and (change.op == "add" or "feeds" in change.fields or change.parent is not None):
                hold(job, before)
        except CoreError as error:
            raise Refused(at, change, error) from None
        done += (replace(one, step=at) for one in made)
    return job, tuple(done)


# Finding and replacing a part ----------------------------------------------------------------------------------------


def owner(job: Installation, kind: str, part_id: str) -> Circuit | None:
    """Return the circuit a load or span belongs to, or None."""
    for circuit in job.circuits:
        parts: Sequence[Any] = circuit.loads if kind == "load" else circuit.run.spans
        if any(part.id == part_id for part in parts):
            return circuit
    return None


def find(job: Installation, kind: str, part_id: str) -> Any:
    """Return a part by kind and identity; the job and its supply need none. Raises InputError."""
    if kind in SINGLE:
        return job if kind == "job" else job.supply
    if kind in LISTS:
        parts: Sequence[Any] = getattr(job, LISTS[kind])
    elif kind == "circuit":
        parts = job.circuits
    else:
        home = owner(job, kind, part_id)
        parts = () if home is None else home.loads if kind == "load" else home.run.spans
    found = next((part for part in parts if part.id == part_id), None)
    if found is None:
        raise InputError("id", part_id, f"a {kind} of this job")
    return found


def siblings(job: Installation, kind: str, parent: str | None) -> tuple[Any, ...]:
    """Return the parts a part of a kind stands among, in their order."""
    if kind in LISTS:
        return cast(tuple[Any, ...], getattr(job, LISTS[kind]))
    if kind == "circuit":
        return tuple(c for c in job.circuits if c.board == parent)
    home = circuit_of(job, parent or "")
    return home.loads if kind == "load" else home.run.spans


def parent_of(job: Installation, kind: str, part: Any) -> str | None:
    """Return the identity of the board of a circuit, of the circuit of a load or span; None for what hangs on the job itself."""
    if kind == "circuit":
        return cast(str, part.board)
    if kind in ("load", "span"):
        home = owner(job, kind, part.id)
        return None if home is None else home.id
    return None


def _with_siblings(job: Installation, kind: str, parent: str | None, parts: tuple[Any, ...]) -> Installation:
    if kind in LISTS:
        job = replace(job, **{LISTS[kind]: parts})  # type: ignore[arg-type]
        return canonical(job) if kind == "board" else job
    if kind == "circuit":
        return canonical(replace(job, circuits=tuple(c for c in job.circuits if c.board != parent) + parts))
    home = circuit_of(job, parent or "")
    home = replace(home, loads=parts) if kind == "load" else replace(home, run=replace(home.run, spans=parts))
    return replace(job, circuits=tuple(home if c.id == home.id else c for c in job.circuits))


def _with_part(job: Installation, kind: str, part: Any) -> Installation:
    if kind in SINGLE:
        return part if kind == "job" else replace(job, supply=part)
    if kind in LISTS:
        parts = tuple(part if p.id == part.id else p for p in getattr(job, LISTS[kind]))
        return replace(job, **{LISTS[kind]: parts})  # type: ignore[arg-type]
    if kind == "circuit":
        return replace(job, circuits=tuple(part if c.id == part.id else c for c in job.circuits))
    parent = parent_of(job, kind, part)
    return _with_siblings(job, kind, parent, tuple(part if p.id == part.id else p for p in siblings(job, kind, parent)))


def called(job: Installation, kind: str, part: Any) -> str:
    """Return what a part is called: a load or span together with its circuit; empty where it has no name."""
    if kind == "supply":
        return ""
    own = cast(str, part.key if kind == "dismissal" else part.name)
    home = owner(job, kind, part.id) if kind in ("load", "span") else None
    return ", ".join(name for name in (home.name if home else "", own) if name)


# The four things a change can do ---------------------------------------------------------------------------------------


def _set(job: Installation, change: Change, rule: _Rule) -> tuple[Installation, list[Applied]]:
    part = find(job, change.kind, change.id)
    values = rule.values(change.kind, change.fields)
    before = {name: of.get(part, name) for name in values}
    _check_references(job, change.kind, part, values)
    made = Applied("set", change.kind, change.id, called(job, change.kind, part), before, values)
    return _with_part(job, change.kind, of.laid_over(part, values)), [made]


def _check_span(job: Installation, kind: str, part: Any, value: str) -> None:
    """Raise InputError where a load stands at the end of a span that is not of its circuit, or a span leaves from one that is not before it."""
    home = owner(job, kind, part.id)
    if home is None:
        # Added just now: it is asked again where it stands.
        return
    if kind == "load":
        if not any(s.id == value for s in home.run.spans):
            raise InputError("span", value, "a span of this job, of its circuit")
        return
    try:
        befores([replace(s, after=value) if s.id == part.id else s for s in home.run.spans])
    except InputError as error:
        raise InputError("after", value, error.allowed) from None


def _check_references(job: Installation, kind: str, part: Any, values: Mapping[str, Any]) -> None:
    for (owning, name), target in REFERENCES.items():
        value = values.get(name)
        if owning != kind or value is None:
            continue
        if target == "span":
            _check_span(job, kind, part, value)
        elif not any(p.id == value for p in getattr(job, LISTS[target])):
            raise InputError(name, value, f"a {target} of this job")
        if name == "feeds":
            check_feeds(job, part, value)


def _add(job: Installation, change: Change, rule: _Rule) -> tuple[Installation, list[Applied]]:
    kind = change.kind
    if kind in SINGLE:
        raise InputError("kind", kind, "one of " + ", ".join(MOST))
    if not change.id or change.id in {one for _, one in identities(job)}:
        raise InputError("id", change.id, "an identity that is not used yet")
    parent = _parent(job, kind, change.parent)
    beside = siblings(job, kind, parent)
    if len(beside) >= MOST[kind]:
        raise InputError(kind, len(beside) + 1, f"at most {MOST[kind]} of them")
    values = rule.values(kind, change.fields)
    made: Any = Circuit(id=change.id, board=parent or "", run=Run(id=f"{change.id}-run")) if kind == "circuit" else PART[kind](id=change.id)
    made = of.laid_over(made, values)
    _check_references(job, kind, made, values)
    index = len(beside) if change.index is None else max(0, min(change.index, len(beside)))
    if kind == "span" and made.after and not rule.trusted and index < len(beside) and beside[index].after is None:
        # A branch goes behind the others: put between two it would take the rest of the run with it.
        index = len(beside)
    job = _with_siblings(job, kind, parent, (*beside[:index], made, *beside[index:]))
    _check_references(job, kind, made, {name: value for name, value in values.items() if REFERENCES.get((kind, name)) == "span"})
    after = {"parent": parent, "index": index, "fields": of.given(kind, made)}
    return job, [Applied("add", kind, change.id, called(job, kind, made), None, after)]


def _parent(job: Installation, kind: str, parent: str | None) -> str | None:
    if kind in LISTS:
        return None
    try:
        return board_of(job, parent or "").id if kind == "circuit" else circuit_of(job, parent or "").id
    except InputError as error:
        raise InputError("parent", parent, error.allowed) from None


def _remove(job: Installation, change: Change, rule: _Rule) -> tuple[Installation, list[Applied]]:
    kind = change.kind
    if kind in SINGLE:
        raise InputError("kind", kind, "one of " + ", ".join(MOST))
    part = find(job, kind, change.id)
    if kind == "board" and len(job.boards) == 1:
        raise InputError("board", change.id, "a job keeps at least one board")
    done: list[Applied] = []
    for inner in _hanging_on(job, kind, part):
        job, made = _DO[inner.op](job, inner, rule)
        done += made
    part = find(job, kind, change.id)
    parent = parent_of(job, kind, part)
    beside = siblings(job, kind, parent)
    index = next(i for i, p in enumerate(beside) if p.id == change.id)
    before = {"parent": parent, "index": index, "fields": of.given(kind, part)}
    done.append(Applied("remove", kind, change.id, called(job, kind, part), before, None))
    return _with_siblings(job, kind, parent, (*beside[:index], *beside[index + 1 :])), done


def _hanging_on(job: Installation, kind: str, part: Any) -> list[Change]:
    """List what goes before a part can: references to it let go, its own parts removed, the last first."""
    if kind == "route":
        spans = [s for c in job.circuits for s in c.run.spans if s.route == part.id]
        return [Change("set", "span", s.id, {"route": None}) for s in spans]
    if kind == "stage":
        return _unstaged(job, part.id)
    if kind == "board":
        feeders = [Change("set", "circuit", c.id, {"feeds": None}) for c in job.circuits if c.feeds == part.id and c.board != part.id]
        kept = [
            Change("set", "load", x.id, {"alone": None}) for c in job.circuits for x in c.loads if x.alone == part.id and c.board != part.id
        ]
        return feeders + kept + [Change("remove", "circuit", c.id) for c in reversed(job.circuits) if c.board == part.id]
    if kind == "span":
        home = circuit_of(job, parent_of(job, kind, part) or "")
        moved = [Change("set", "span", i, {"after": after}) for i, after in let_go(home.run.spans, part.id).items()]
        standing = befores(home.run.spans)[part.id]
        return moved + [Change("set", "load", x.id, {"span": standing}) for x in home.loads if x.span == part.id]
    if kind == "circuit":
        spans_out = [Change("remove", "span", s.id) for s in reversed(part.run.spans)]
        return [Change("remove", "load", x.id) for x in reversed(part.loads)] + spans_out
    return []


def _unstaged(job: Installation, stage: str) -> list[Change]:
    """What comes or goes at a stage is there from the first on, or stays."""
    return [
        Change("set", kind, part.id, {name: None for name in NEVER if getattr(part, name) == stage}) for kind, part in naming(job, stage)
    ]


def _move(job: Installation, change: Change, rule: _Rule) -> tuple[Installation, list[Applied]]:
    kind = change.kind
    if kind in SINGLE:
        raise InputError("kind", kind, "one of " + ", ".join(MOST))
    part = find(job, kind, change.id)
    home = parent_of(job, kind, part)
    beside = siblings(job, kind, home)
    if kind == "span" and not rule.trusted and any(s.after for s in beside):
        raise InputError("index", change.index, "no other place in a run that branches: say what it leaves from instead")
    before = {"parent": home, "index": next(i for i, p in enumerate(beside) if p.id == change.id)}
    name = called(job, kind, part)
    target = home
    if change.parent is not None and change.parent != home:
        if kind != "circuit":
            raise InputError("parent", change.parent, "no other: a load or span stays with its circuit")
        target = _parent(job, kind, change.parent)
        if len(siblings(job, kind, target)) >= MOST[kind]:
            raise InputError(kind, MOST[kind] + 1, f"at most {MOST[kind]} of them")
        part = replace(part, board=target)
        if part.feeds:
            check_feeds(job, part, part.feeds)
    job = _with_siblings(job, kind, home, tuple(p for p in beside if p.id != change.id))
    others = siblings(job, kind, target)
    index = len(others) if change.index is None else max(0, min(change.index, len(others)))
    job = _with_siblings(job, kind, target, (*others[:index], part, *others[index:]))
    return job, [Applied("move", kind, change.id, name, before, {"parent": target, "index": index})]


_DO = {"set": _set, "add": _add, "remove": _remove, "move": _move}


# In and out of the history ---------------------------------------------------------------------------------------------


# Fields of before, by the name they began with.
RETIRED = frozenset(["readings"])


def as_data(applied: Sequence[Applied]) -> list[dict[str, Any]]:
    """Return what was applied as plain data for storage."""
    return [
        {"op": a.op, "kind": a.kind, "id": a.id, "name": a.name, "before": _plain(a.before), "after": _plain(a.after), "step": a.step}
        for a in applied
    ]


def _plain(value: Mapping[str, Any] | None) -> dict[str, Any] | None:
    return None if value is None else {k: dict(v) if isinstance(v, Mapping) else v for k, v in value.items()}


def from_data(rows: Sequence[Mapping[str, Any]]) -> tuple[Applied, ...]:
    """Return what storage holds as what was applied, without fields that parts do not have any more: readings went to the log."""
    return tuple(Applied(r["op"], r["kind"], r["id"], r["name"], _held(r["before"]), _held(r["after"]), r["step"]) for r in rows)


def _held(fields: Mapping[str, Any] | None) -> dict[str, Any] | None:
    return None if fields is None else {k: v for k, v in fields.items() if k.partition(".")[0] not in RETIRED}
