"""Changes made on an older state of a job, laid over what others changed since: merged where they do not touch, a clash where they do."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal

from mellow_span.core.model import fields as of
from mellow_span.core.model.changes import SINGLE, Applied, Change, called, find
from mellow_span.core.model.fields import REFERENCES, PartKind
from mellow_span.core.model.parts import Installation
from mellow_span.core.model.stages import naming

# A part and a field of it. "exists" stands for the part itself, "place" for where it stands, "fed by" for what feeds a board.
Touch = tuple[str, str, str]
EXISTS, PLACE, FED_BY = "exists", "place", "fed by"
Why = Literal["value", "gone", "changed", "place"]


@dataclass(frozen=True, slots=True)
class Clash:
    """One point on which two people's changes cannot both stand.

    at: my change; why: both set the field (value), the part is gone, I remove what they changed (changed), both moved it (place);
    name: of the part; base, mine, theirs: the field before, as I set it and as they did; by: which of theirs it is.
    beside: the field that theirs is of, with the value before and theirs, where it is not the one I set but one that belongs together with it.
    """

    at: int
    why: Why
    kind: PartKind
    id: str
    name: str
    field: str
    base: Any
    mine: Any
    theirs: Any
    by: int
    beside: tuple[str, Any, Any] | None = None


@dataclass(frozen=True, slots=True)
class Rebased:
    """My changes as they fit the newer state, and the clashes; with any clash nothing is to be applied."""

    changes: tuple[Change, ...]
    clashes: tuple[Clash, ...]


def touches(changes: Iterable[Applied | Change]) -> frozenset[Touch]:
    """Return every part and field that changes touch, what feeds a board among them."""
    found: set[Touch] = set()
    for one in changes:
        if one.op == "set":
            values = (one.after or {}) if isinstance(one, Applied) else of.flattened(one.kind, one.fields)
            before = (one.before or {}) if isinstance(one, Applied) else {}
            found |= {(one.kind, one.id, name) for name in values}
            found |= {("board", board, FED_BY) for board in (values.get("feeds"), before.get("feeds")) if board}
            continue
        found.add((one.kind, one.id, PLACE if one.op == "move" else EXISTS))
        if isinstance(one, Applied):
            inside = [(side or {}).get("fields", {}) for side in (one.before, one.after)]
        else:
            inside = [of.flattened(one.kind, one.fields)]
        found |= {("board", values["feeds"], FED_BY) for values in inside if values.get("feeds")}
    return frozenset(found)


@dataclass
class _Theirs:
    """What the others did, by what it touched: the last change that set a field, made a part go, or moved it."""

    fields: dict[Touch, tuple[Any, Any, int]]
    gone: dict[str, int]
    names: dict[str, str]
    moved: dict[str, int]
    touched: dict[str, int]
    feeding: dict[str, tuple[str, int]]


def _by_touch(theirs: Sequence[Applied]) -> _Theirs:
    found = _Theirs({}, {}, {}, {}, {}, {})
    for i, one in enumerate(theirs):
        found.names[one.id] = one.name
        found.touched[one.id] = i
        if one.op == "set":
            for name, value in (one.after or {}).items():
                first = found.fields.get((one.kind, one.id, name))
                found.fields[(one.kind, one.id, name)] = (first[0] if first else (one.before or {}).get(name), value, i)
                if name == "feeds" and value:
                    found.feeding[value] = (one.name, i)
        elif one.op == "remove":
            found.gone[one.id] = i
        elif one.op == "add":
            found.gone.pop(one.id, None)
            if feeds := (one.after or {}).get("fields", {}).get("feeds"):
                found.feeding[feeds] = (one.name, i)
        else:
            found.moved[one.id] = i
    return found


def rebase(job: Installation, mine: Sequence[Change], theirs: Sequence[Applied]) -> Rebased:
    """Return my changes as they fit a job on which theirs were made first, or what they clash on.

    job: as it stands with theirs; theirs: what was applied since the state mine were made on, mine left out.
    Merged when no field mine touch, nor one that belongs together with it, and no part they need, has changed since; values that agree are no clash.
    """
    if not theirs:
        return Rebased(tuple(mine), ())
    known = _by_touch(theirs)
    made: set[str] = set()
    changes, clashes = [], []
    for at, change in enumerate(mine):
        found = list(_clashes(job, at, change, known, made))
        clashes += found
        changes.append(_shifted(change, theirs))
        if change.op == "add":
            made.add(change.id)
    return Rebased(tuple(changes), tuple(clashes))


def _clashes(job: Installation, at: int, change: Change, known: _Theirs, made: set[str]) -> Iterable[Clash]:
    flat = of.flattened(change.kind, change.fields)
    needs = [change.id, change.parent] + [flat.get(name) for (kind, name) in REFERENCES if kind == change.kind]
    for needed in needs:
        if needed and needed in known.gone and needed not in made:
            name = known.names.get(needed, "")
            yield Clash(at, "gone", change.kind, change.id, name, EXISTS, None, None, None, known.gone[needed])
            return
    if change.op == "set":
        part = None if change.id in made else find(job, change.kind, change.id)
        for name, value in flat.items():
            if (hit := known.fields.get((change.kind, change.id, name))) and hit[1] != value:
                yield Clash(at, "value", change.kind, change.id, called(job, change.kind, part), name, hit[0], value, hit[1], hit[2])
            elif part is not None and (found := _beside(change, name, flat, known)) and (stands := of.get(part, name)) != value:
                other, before, theirs, by = found
                about = called(job, change.kind, part)
                yield Clash(at, "value", change.kind, change.id, about, name, stands, value, stands, by, (other, before, theirs))
    if flat.get("feeds") in known.feeding and change.id not in known.touched:
        other, by = known.feeding[flat["feeds"]]
        yield Clash(at, "value", change.kind, change.id, "", "feeds", None, flat["feeds"], other, by)
    if change.op == "move" and change.id in known.moved:
        yield Clash(at, "place", change.kind, change.id, known.names[change.id], PLACE, None, None, None, known.moved[change.id])
    # The job itself and its supply hang on nothing: that they cannot be removed is said where the change is made.
    if change.op == "remove" and change.id not in made and change.kind not in SINGLE:
        part = find(job, change.kind, change.id)
        hit_by = max((known.touched[i] for i in _inside(job, change.kind, part) if i in known.touched), default=None)
        if hit_by is not None:
            name = called(job, change.kind, part)
            yield Clash(at, "changed", change.kind, change.id, name, EXISTS, None, None, None, hit_by)


def _beside(change: Change, name: str, flat: Mapping[str, Any], known: _Theirs) -> tuple[str, Any, Any, int] | None:
    """What others made another of, of all that belongs together with a field: the last of it; None where that is nothing, or as I have it."""
    hits = [(other, known.fields.get((change.kind, change.id, other))) for other in sorted(of.together(change.kind, name))]
    found = [(other, *hit) for other, hit in hits if hit is not None and hit[0] != hit[1] and not (other in flat and flat[other] == hit[1])]
    return max(found, key=lambda one: one[3], default=None)


def _inside(job: Installation, kind: str, part: Any) -> list[str]:
    """A part, all that hangs on it, and the parts that name it."""
    found = [part.id]
    circuits = [part] if kind == "circuit" else [c for c in job.circuits if kind == "board" and c.board == part.id]
    for circuit in circuits:
        found += [circuit.id, *(x.id for x in circuit.loads), *(s.id for s in circuit.run.spans)]
    if kind == "route":
        found += [s.id for c in job.circuits for s in c.run.spans if s.route == part.id]
    if kind == "board":
        found += [x.id for c in job.circuits for x in c.loads if x.alone == part.id]
    if kind == "stage":
        found += [named.id for _, named in naming(job, part.id)]
    if kind == "span":
        found += [s.id for c in job.circuits for s in c.run.spans if s.after == part.id]
        found += [x.id for c in job.circuits for x in c.loads if x.span == part.id]
    return found


def _shifted(change: Change, theirs: Sequence[Applied]) -> Change:
    """The change with its place among its siblings moved by what others put in or took out before it."""
    if change.index is None or change.op not in ("add", "move"):
        return change
    index = change.index
    for one in theirs:
        if one.kind != change.kind:
            continue
        gone, come = (one.before or {}), (one.after or {})
        if one.op in ("remove", "move") and gone.get("parent") == change.parent and gone["index"] < index:
            index -= 1
        if one.op in ("add", "move") and come.get("parent") == change.parent and come["index"] <= index:
            index += 1
    return replace(change, index=max(0, index))
