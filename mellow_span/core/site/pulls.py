"""The pull list: every cable to be drawn in, numbered at both ends, with the length to cut and the order in which it is pulled.

A cable is cut to its length along its spans and some more at each end; an end that nobody has decided yet gets much more, since a joint costs more
than cable. Long and heavy cables are pulled first, while the way is free; those that lie in the same routes are pulled together.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from math import ceil

from mellow_span.core.adding import added
from mellow_span.core.design.branches import end_name
from mellow_span.core.design.check import Plan, lay_out
from mellow_span.core.errors import CoreError, InputError
from mellow_span.core.figures import quantity
from mellow_span.core.model.legs import cable_parts, cables, ends, legs, mixed, path_to, paths
from mellow_span.core.model.numbers import elsewhere, numbers
from mellow_span.core.model.parts import Board, Circuit, Installation
from mellow_span.core.rules.places.bodies import of_circuit
from mellow_span.core.site.entries import Entry
from mellow_span.core.site.sleeves import sleeve
from mellow_span.core.site.words import cable_words, for_later
from mellow_span.core.working.recorders import Keeping


@dataclass(frozen=True, slots=True)
class Slack:
    """What is cut more than the run is long [m]: at a board, at another end, at an end not decided yet. Good practice, the firm's to change."""

    board: float = 1.0
    end: float = 0.5
    undecided: float = 3.0

    def __post_init__(self) -> None:
        for name in ("board", "end", "undecided"):
            if not 0 <= getattr(self, name) <= 20:
                raise InputError(f"slack.{name}", getattr(self, name), "0 to 20 m")


@dataclass(frozen=True, slots=True)
class FromDrum:
    """What is cut from a drum for a cable, and how many of it.

    cuts: what each is cut to [m], where the cable changes along the run; else that of the pull.
    """

    cable: str
    count: int
    cuts: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True)
class PieceOf:
    """A piece of a run that is cut at its boxes: from where to where, length along its spans and what it is cut to [m], None where not known.

    cable: which it is, where the cable changes along the run; own: the span which that begins with, empty for the first.
    """

    start: str
    end: str
    run: float | None
    cut: float | None
    cable: str = ""
    own: str = ""


@dataclass(slots=True)
class Pull:
    """A cable of the pull list. number: board and way, as A3; tags: what stands on the cable at its two ends.

    run: length along its spans, None where one is not entered; cut: what each of `count` cables is cut to, in whole decimetres up [m]; why: why it is
    not known. start, end: where it goes from and to; open: ends not decided yet. across: size over all [mm], doubtful where it is of usual sizes.
    sleeve: bore of the sleeve for its tags [mm], over one conductor where it is of singles, None where no size is known. later: all its loads may come
    later. routes: names of the routes it lies in, in order; bundle: the number of the lot it is pulled with; place: in the order of pulling, from 1.
    kept: where it is now, where its number is not that of its way. stock: what is cut for it and how many of each: of singles every conductor.
    pieces: of a run with boxes the pieces it is pulled in; cut is then all of them together.
    """

    circuit: str
    number: str
    name: str
    start: str
    end: str
    cable: str
    count: int
    tags: tuple[str, ...]
    run: float | None
    cut: float | None
    why: str
    open: bool
    across: float | None
    doubtful: bool
    sleeve: float | None
    routes: tuple[str, ...]
    spare: bool
    later: bool = False
    bundle: int = 0
    place: int = 0
    kept: str = ""
    stock: tuple[FromDrum, ...] = ()
    pieces: tuple[PieceOf, ...] = ()

    @property
    def cuts(self) -> tuple[float, ...]:
        """What is cut of each cable [m]; none where a length is not known."""
        if self.cut is None:
            return ()
        return tuple(piece.cut or 0.0 for piece in self.pieces) or (self.cut,)

    def cuts_of(self, drum: FromDrum) -> tuple[float, ...]:
        """What is cut from one drum [m]; none where a length is not known."""
        return () if self.cut is None else drum.cuts or self.cuts


def pulls(
    job: Installation, slack: Slack | None = None, undecided: frozenset[str] = frozenset(), whole: Installation | None = None
) -> tuple[Pull, ...]:
    """Return the pull list of a job in the order of pulling. What is there already is not pulled.

    undecided: circuits (by identity) whose far end nobody has decided yet; whole: the job at all its stages, where this is it at one of them.
    Raises InputError for a job that is no tree, and for a circuit that is none.
    """
    plan = lay_out(job)
    for identity in undecided - {c.id for c in job.circuits}:
        raise InputError("undecided", identity, "a circuit of this job")
    found = []
    named, kept = numbers(plan.job), elsewhere(whole or plan.job)
    for board in job.boards:
        for circuit in (c for c in plan.job.circuits if c.board == board.id and not c.existing):
            one = _pull(plan, board, circuit, named[circuit.id], slack or Slack(), circuit.id in undecided)
            found.append(replace(one, kept=kept.get(circuit.id, ""), stock=_stock(plan, circuit, one)))
    return _in_order(found)


def _pull(plan: Plan, board: Board, circuit: Circuit, number: str, slack: Slack, undecided: bool) -> Pull:
    lengths = [s.length for s in circuit.run.spans]
    known = bool(lengths) and None not in lengths
    run = added(s for s in lengths if s is not None) if known else None
    names = {r.id: r.name or "a route" for r in plan.job.routes}
    ring = circuit.shape == "ring"
    at_board = ring or circuit.feeds is not None
    far = slack.undecided if undecided else slack.board if at_board else slack.end
    across, doubtful, over = _across(plan, circuit)
    pieces = _pieces(plan, board, circuit, slack, far)
    return Pull(
        circuit.id, number, circuit.name or "a circuit", board.name or "a board", _end(plan, circuit), cable_words(plan.rules, circuit),
        max(1, circuit.run.cable.parallel), (f"{number} board", f"{number} {'back' if ring else 'far'}"), run,
        None if run is None else round(added(p.cut or 0.0 for p in pieces), 1) if pieces else _cut_to(run + slack.board + far),
        "" if known else "a span has no length yet" if lengths else "the run has no span yet", undecided, across, doubtful, over,
        tuple(dict.fromkeys(names[s.route] for s in circuit.run.spans if s.route in names)), circuit.spare,
        for_later(circuit), pieces=pieces,
    )  # fmt: skip


def _cut_to(length: float) -> float:
    """A length in whole decimetres up [m]."""
    return ceil(length * 10 - 1e-9) / 10


def _pieces(plan: Plan, board: Board, circuit: Circuit, slack: Slack, far: float) -> tuple[PieceOf, ...]:
    """The pieces of a run that is cut at boxes; none where it is pulled in one."""
    found = legs(circuit.run)
    if len(found) < 2:
        return ()
    names = {span.id: end_name(circuit, path_to(circuit.run, span.id)) for span in circuit.run.spans}
    last = {span.id for span in ends(circuit.run)}
    of = (
        {span: (cable_words(plan.rules, one), own) for one in cable_parts(circuit) for span, own in _in_it(circuit, one)}
        if mixed(circuit)
        else {}
    )
    pieces = []
    for leg in found:
        lengths = [span.length for span in leg.spans]
        run = None if None in lengths else added(x or 0.0 for x in lengths)
        end = leg.spans[-1].id
        more = (slack.board if leg.start is None else slack.end) + (far if end in last else slack.end)
        start = names[leg.start.id] if leg.start else board.name or "a board"
        pieces.append(PieceOf(start, names[end], run, None if run is None else _cut_to(run + more), *of.get(end, ())))
    return tuple(pieces)


def _in_it(circuit: Circuit, part: Circuit) -> list[tuple[str, str]]:
    """The spans of one cable of a run, each with the span that this cable begins with."""
    own = cables(circuit.run)
    return [(span.id, own[span.id][1]) for span in part.run.spans]


def pieces_told(pull: Pull) -> str:
    """Return the pieces of a pull in words, as they go from box to box."""
    return ", ".join(f"{p.start} to {p.end}{_metres(p.cut)}{f' of {p.cable}' if p.cable else ''}" for p in pull.pieces)


def cut_lengths(found: Iterable[Pull]) -> dict[str, float]:
    """Return what is cut for each circuit by its identity [m]; where the cable changes along its run, for each cable by `circuit/span`, the span
    that it begins with, nothing for the first. What is not known is left out.
    """
    lengths: dict[str, float] = {}
    for pull in found:
        if any(piece.cable for piece in pull.pieces):
            for piece in pull.pieces:
                if piece.cut is not None:
                    key = f"{pull.circuit}/{piece.own}"
                    lengths[key] = lengths.get(key, 0.0) + piece.cut
        elif pull.cut is not None:
            lengths[pull.circuit] = pull.cut
    return lengths


def _metres(length: float | None) -> str:
    return "" if length is None else f" {quantity(length, 'm')}"


def _stock(plan: Plan, circuit: Circuit, one: Pull) -> tuple[FromDrum, ...]:
    """What is cut from a drum for each cable of a run, and how many of each: of singles line, neutral and cpc each for itself."""
    if not mixed(circuit):
        return _stock_of(plan, circuit, ())
    found: list[FromDrum] = []
    for part in cable_parts(circuit):
        own = cables(circuit.run)[part.run.spans[0].id][1]
        cuts = tuple(p.cut or 0.0 for p in one.pieces if p.own == own)
        found += _stock_of(plan, part, cuts if one.cut is not None else ())
    return tuple(found)


def _stock_of(plan: Plan, part: Circuit, cuts: tuple[float, ...]) -> tuple[FromDrum, ...]:
    cable, words, count = part.run.cable, cable_words(plan.rules, part), max(1, part.run.cable.parallel)
    family = plan.rules.families.get(cable.family or "")
    if family is None or family.cpc != "single" or cable.csa is None:
        return (FromDrum(words, count, cuts),)
    live = (2 if part.phases == 1 else 4) * count
    found = [FromDrum(f"{quantity(cable.csa, 'mm²')} {family.title}, line and neutral", live, cuts)]
    if cable.cpc == "usual" and cable.cpc_csa:
        found.append(FromDrum(f"{quantity(cable.cpc_csa, 'mm²')} {family.title}, cpc", count, cuts))
    return tuple(found)


def _end(plan: Plan, circuit: Circuit) -> str:
    """Where a cable ends: the board it feeds, where it began, or the last load on it."""
    if circuit.feeds is not None:
        return plan.boards[circuit.feeds].name or "a board"
    if circuit.shape == "ring":
        return "back to the same board (ring)"
    if any(span.after for span in circuit.run.spans):
        return ", ".join(end_name(circuit, path) for path in paths(circuit.run))
    last = max(circuit.loads, key=lambda x: (x.at is None, x.at or 0.0), default=None)
    if last is None:
        return "a coil left at its end" if circuit.spare else "its far end"
    return ", ".join(filter(None, (last.name or last.kind.replace("_", " "), last.room)))


def _across(plan: Plan, circuit: Circuit) -> tuple[float | None, bool, float | None]:
    """The larger size over all of a cable [mm], whether it rests on a value still to be checked, and the sleeve; none where no table has it.

    Singles have no size over all, and a sleeve that goes over each of them.
    """
    w = Keeping(plan.rules)
    try:
        largest = max(of_circuit(w, circuit), key=lambda b: b.width)
    except CoreError:
        return None, False, None
    return largest.width if largest.whole else None, w.doubtful, sleeve(largest.width, largest.height)


def _in_order(found: list[Pull]) -> tuple[Pull, ...]:
    """Lots that share their routes, the one with the hardest cable first; in a lot the longest and thickest first; what has no length last."""
    lots: dict[tuple[str, ...], list[Pull]] = {}
    for one in found:
        # A cable in no route is a lot of its own.
        lots.setdefault(one.routes or (one.circuit,), []).append(one)
    ordered = sorted(lots.values(), key=lambda lot: max(map(_hardness, lot)), reverse=True)
    place = 0
    for number, lot in enumerate(ordered, 1):
        lot.sort(key=_hardness, reverse=True)
        for one in lot:
            place += 1
            one.bundle, one.place = number, place
    return tuple(one for lot in ordered for one in lot)


def _hardness(one: Pull) -> tuple[bool, float, float]:
    """The more, the earlier it is pulled: length times thickness, then length; a thickness no table has counts as a usual one."""
    return one.cut is not None, (one.cut or 0.0) * one.count * (one.across or 10.0), one.cut or 0.0


@dataclass(slots=True)
class CableSum:
    """So much of one cable [m], of so many pieces, the longest of them; unknown: pieces whose length is not known yet."""

    cable: str
    metres: float
    pieces: int
    longest: float
    unknown: int


def by_cable(found: tuple[Pull, ...]) -> tuple[CableSum, ...]:
    """Return how much of each cable a pull list takes, the most first."""
    sums: dict[str, CableSum] = {}
    for each, cuts in ((each, pull.cuts_of(each)) for pull in found for each in pull.stock):
        here = sums.setdefault(each.cable, CableSum(each.cable, 0.0, 0, 0.0, 0))
        if not cuts:
            here.unknown += each.count
            continue
        here.metres = round(here.metres + added(cuts) * each.count, 1)
        here.pieces += each.count * len(cuts)
        here.longest = max(here.longest, *cuts)
    return tuple(sorted(sums.values(), key=lambda s: (-s.metres, s.cable)))


def ticked(entries: Sequence[Entry]) -> dict[str, Entry]:
    """Return who pulled a cable in, by its circuit; of the same tick by two devices the first says who. entries: in the order of their times."""
    found: dict[str, Entry] = {}
    for e in entries:
        if e.kind == "pulled" and e.data.done:
            found.setdefault(e.subject, e)
        elif e.kind == "pulled":
            found.pop(e.subject, None)
    return found
