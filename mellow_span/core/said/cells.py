"""A board as a grid: cells that are typed or pasted, read with the same words as a line, each by itself.

A cell that cannot be read is told with its reason and changes nothing; the others of its row are taken all the same.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Literal, get_args

from mellow_span.core.adding import added
from mellow_span.core.errors import CoreError, InputError
from mellow_span.core.figures import quantity
from mellow_span.core.model.changes import Change, Refused, apply
from mellow_span.core.model.parts import Cable, Circuit, Installation, Load, Phase, Span
from mellow_span.core.model.routes import resolved
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.said.cable import read_bare_size, read_cable
from mellow_span.core.said.changes import refusal
from mellow_span.core.said.device import read_amps, read_device
from mellow_span.core.said.loads import read_loads
from mellow_span.core.said.spans import METRES, read_span
from mellow_span.core.said.text import NUMBER, Text, number

Column = Literal["name", "device", "load", "cable", "length", "place", "phase"]
COLUMNS: tuple[Column, ...] = get_args(Column)
# What the head of a pasted column may be called.
HEADS: dict[str, Column] = {
    "name": "name", "circuit": "name", "description": "name", "designation": "name",
    "device": "device", "breaker": "device", "protection": "device", "mcb": "device", "ocpd": "device", "fuse": "device",
    "load": "load", "loads": "load", "demand": "load", "power": "load",
    "cable": "cable", "size": "cable", "csa": "cable", "conductor": "cable",
    "length": "length", "run": "length", "metres": "length", "length m": "length", "length (m)": "length",
    "place": "place", "surroundings": "place", "installed": "place", "method": "place", "phase": "phase",
}  # fmt: skip
ROWS = 200
# What a span says that has no surroundings yet: it is taken back as it stands.
NOT_CHOSEN = "to choose"


@dataclass(slots=True)
class CellSaid:
    """A cell as it was read. told: as what; why: why it cannot be taken, empty where it was."""

    column: Column
    text: str
    told: str = ""
    why: str = ""


@dataclass(slots=True)
class RowSaid:
    """A row as it was read: the circuit it is, its cells, and the changes that take the good ones."""

    circuit: str | None
    cells: tuple[CellSaid, ...]
    changes: tuple[Change, ...]
    assumed: tuple[str, ...] = ()


@dataclass(slots=True)
class _Taking:
    """What the cells of a row ask of one circuit, as they are read one after the other."""

    rules: RuleSet
    circuit: Circuit
    lying: tuple[Span, ...]
    identity: Callable[[], str]
    changes: list[Change] = field(default_factory=list)
    assumed: list[str] = field(default_factory=list)


def columns_of(cells: list[str]) -> list[Column | None] | None:
    """Return the columns that a row of heads names, None for one it does not know; None where the row is no row of heads.

    >>> columns_of(["Circuit", "Breaker", "Notes"])
    ['name', 'device', None]
    """
    found = [HEADS.get(" ".join(cell.lower().split())) for cell in cells]
    given = len([c for c in cells if c.strip()])
    # Of several cells two at least: a circuit may be called "Fuse".
    return found if given and added(1 for one in found if one) >= max(min(2, given), given // 2) else None


def read_rows(
    rules: RuleSet,
    job: Installation,
    rows: list[list[str]],
    columns: list[Column | None],
    circuits: list[str | None],
    board: str,
    identity: Callable[[], str],
) -> list[RowSaid]:
    """Read rows of a board. columns: what each cell is, None for one that is left alone; circuits: the circuit of each row, None for a new
    one. Each row is read on top of those before it; nothing is changed here. Raises InputError for a circuit the job does not have.
    """
    found = []
    for at, cells in enumerate(rows[:ROWS]):
        given = [(c, text) for c, text in zip(columns, cells, strict=False) if c is not None]
        wanted = circuits[at] if at < len(circuits) else None
        if wanted is None and not any(text.strip() for _, text in given):
            continue
        row = _read_row(rules, job, given, wanted, board, identity)
        job, _ = apply(job, row.changes, rules.choices)
        found.append(row)
    return found


def _read_row(
    rules: RuleSet, job: Installation, given: list[tuple[Column, str]], wanted: str | None, board: str, identity: Callable[[], str]
) -> RowSaid:
    changes: list[Change] = []
    if wanted is None:
        wanted = identity()
        changes.append(Change(op="add", kind="circuit", id=wanted, parent=board))
        job, _ = apply(job, changes, rules.choices)
    circuit = next((c for c in job.circuits if c.id == wanted), None)
    if circuit is None:
        raise InputError("circuits", wanted, "a circuit of this job")
    cells, assumed = [], []
    for column, text in given:
        cell = CellSaid(column, text)
        lying = next(c for c in resolved(job).circuits if c.id == wanted).run.spans
        taking = _Taking(rules, circuit, lying, identity)
        try:
            cell.told = READERS[column](taking, text.strip())
            after, _ = apply(job, taking.changes, rules.choices)
        except (CoreError, ValueError) as refused:
            cell.why = refusal(refused) if isinstance(refused, Refused) else str(refused)
        else:
            # A cell that says what stands there already changes nothing, and assumes nothing.
            if after != job:
                changes += taking.changes
                assumed += taking.assumed
            job = after
            circuit = next(c for c in job.circuits if c.id == wanted)
        cells.append(cell)
    return RowSaid(wanted, tuple(cells), tuple(changes), tuple(dict.fromkeys(assumed)))


def _whole(text: Text, allowed: str) -> None:
    """Refuse a cell of which something is left."""
    if left := text.plain():
        raise ValueError(f"“{left}” was not understood; {allowed}")


def _set(taking: _Taking, fields: dict[str, Any]) -> None:
    taking.changes.append(Change(op="set", kind="circuit", id=taking.circuit.id, fields=fields))


def _name(taking: _Taking, said: str) -> str:
    _set(taking, {"name": said})
    return said or "no name"


def _phase(taking: _Taking, said: str) -> str:
    plain = said.upper().replace(" ", "")
    if plain in ("3", "3PH", "L1L2L3", "L1-L3", "THREE-PHASE"):
        _set(taking, {"phases": 3, "phase": None})
        return "three-phase"
    if plain in ("", "-"):
        _set(taking, {"phase": None})
        return "phase not entered"
    phase = plain if plain.startswith("L") else f"L{plain}"
    if phase not in get_args(Phase):
        raise ValueError("say L1, L2, L3 or 3 for three-phase")
    _set(taking, {"phases": 1, "phase": phase})
    return phase


def _device(taking: _Taking, said: str) -> str:
    if alone := re.fullmatch(rf"({NUMBER})\s*a?", said, re.IGNORECASE):
        # A number alone keeps the kind and the type that stand there.
        _set(taking, {"device": {"rating": number(alone[1])}})
        return quantity(number(alone[1]), "A")
    text = Text(said)
    fields = read_device(taking.rules, text)
    if said:
        read_amps(taking.rules, text, fields)
        _whole(text, "type it like b40 rcbo 30 mA, C16 mcb 10 kA, bs88-3 80")
    else:
        fields = {"rating": None}
    if fields.get("kind") == "mcb" and taking.circuit.device.kind == "rcbo" and "mcb" not in said.lower():
        fields.pop("kind")
        text.assumed[:] = [one for one in text.assumed if "MCB" not in one]
    taking.assumed += text.assumed
    _set(taking, {"device": fields})
    return ", ".join(w.told for w in sorted(text.words, key=lambda w: w.start)) or "no device"


def _cable(taking: _Taking, said: str) -> str:
    text = Text(said)
    fields = read_cable(taking.rules, text)
    read_bare_size(taking.rules, text, fields)
    _whole(text, "type it like 10 flat, 2.5/1.5 flat, 16 singles, 10 armoured 90 3 core")
    if not said:
        fields = {"csa": None}
    # A size alone keeps the family, and the cpc that goes with the size.
    text.assumed[:] = [one for one in text.assumed if "without a unit" not in one]
    stands = taking.circuit.run.cable
    if "csa" in fields and not re.search(r"/|cpc|earth", said, re.IGNORECASE):
        _cpc_with(taking, stands, fields)
        if "cpc_csa" not in fields:
            text.assumed[:] = [one for one in text.assumed if "cpc" not in one]
    taking.assumed += text.assumed
    _set(taking, {"cable": fields})
    return ", ".join(w.told for w in sorted(text.words, key=lambda w: w.start)) or "no size"


def _cpc_with(taking: _Taking, stands: Cable, fields: dict[str, Any]) -> None:
    """The cpc where only lines were said: with another size the one that goes with it; where the size or a metal conduit stays, so does it."""
    fields.pop("cpc_csa", None)
    name = fields.get("family", stands.family)
    if (name, fields["csa"]) == (stands.family, stands.csa) or (name == stands.family and stands.cpc not in ("usual", "separate")):
        return
    family = taking.rules.families.get(name or "")
    fields["cpc_csa"] = fields["csa"] if family and family.cpc == "single" else None


def _plain(said: str) -> str:
    """Words alone, without case and what stands between them."""
    return " ".join(re.findall(r"\w+", said.lower()))


def _load(taking: _Taking, said: str) -> str:
    text = Text(said)
    loads = read_loads(taking.rules, text)
    if said and not loads:
        raise ValueError("type it like 9.2 kW shower, 6 x 8 W lights pf 0.9, 13 A heater, sockets")
    there: tuple[Load, ...] = taking.circuit.loads
    for load, before in zip(loads, there, strict=False):
        if _plain(load["name"]) == _plain(before.name):
            # Only its figures are said anew: what it is stays as it was entered.
            load |= {"kind": before.kind, "name": before.name}
        taking.changes.append(Change(op="set", kind="load", id=before.id, fields=load))
    for extra in there[len(loads) :]:
        taking.changes.append(Change(op="remove", kind="load", id=extra.id))
    for load in loads[len(there) :]:
        taking.changes.append(Change(op="add", kind="load", id=taking.identity(), parent=taking.circuit.id, fields=load))
    taking.assumed += text.assumed
    return "; ".join(load["name"] for load in loads) or "no load"


def _apart(said: str, spans: tuple[Span, ...], what: str) -> list[str]:
    """A cell for several spans holds one part for each, set apart by '+'."""
    parts = [part.strip() for part in said.split("+")]
    if len(spans) > 1 and len(parts) != len(spans):
        raise ValueError(f"the run has {len(spans)} spans: give {what} of each, with + between them")
    if len(spans) <= 1 and len(parts) > 1 and spans:
        raise ValueError(f"the run has one span: give one {what}")
    return parts


def _length(taking: _Taking, said: str) -> str:
    spans = taking.lying
    told = []
    for at, part in enumerate(_apart(said, spans, "a length")):
        if part == "?":
            told.append("not entered yet")
            continue
        match = re.fullmatch(rf"({NUMBER})\s*(?:{METRES})?", part, re.IGNORECASE)
        if match is None:
            raise ValueError(f"“{part}” is not a length in metres")
        length = number(match[1])
        told.append(quantity(length, "m"))
        if at < len(spans) and length == spans[at].length:
            continue
        _span(taking, at, {"length": length})
    return " + ".join(told)


def _place(taking: _Taking, said: str) -> str:
    spans = taking.lying
    told = []
    for at, part in enumerate(_apart(said, spans, "a place")):
        text = Text(part)
        titled = next((p.id for p in taking.rules.places.values() if _plain(p.title) == _plain(part)), None)
        span = {"name": "", "place": titled} if titled else read_span(taking.rules, (), text)
        place = span.get("place")
        if at < len(spans) and (place == spans[at].place or part == NOT_CHOSEN):
            told.append(taking.rules.places[place].title if place else NOT_CHOSEN)
            continue
        if place is None:
            raise ValueError(
                f"“{part}” is not a known installation method; try clipped, in joists, under thick quilt, stud, conduit, tray, trench"
            )
        if at < len(spans) and spans[at].route is not None:
            raise ValueError("set by its route: change it there")
        taking.assumed += [one for one in text.assumed if "length" not in one and "surroundings" not in one]
        told.append(taking.rules.places[place].title)
        lying = {"laid": taking.rules.laid_as(taking.rules.places[place], spans[at].laid)} if at < len(spans) else {}
        _span(taking, at, {"place": place, **lying, **({"name": span["name"]} if span["name"] else {})})
    return " + ".join(told)


def _span(taking: _Taking, at: int, fields: dict[str, Any]) -> None:
    """Set fields of the span at a place of the run, adding it where there is none."""
    spans = taking.circuit.run.spans
    if at < len(spans):
        taking.changes.append(Change(op="set", kind="span", id=spans[at].id, fields=fields))
    else:
        taking.changes.append(Change(op="add", kind="span", id=taking.identity(), parent=taking.circuit.id, fields=fields))


READERS: dict[Column, Callable[[_Taking, str], str]] = {
    "name": _name, "device": _device, "load": _load, "cable": _cable, "length": _length, "place": _place, "phase": _phase,
}  # fmt: skip
