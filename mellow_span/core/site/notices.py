"""Notices that stay where somebody works years later: at the meter, on boards, at the isolators of sources and at earth connections (section 514)."""

from __future__ import annotations

from dataclasses import dataclass

from mellow_span.core.model.numbers import numbers
from mellow_span.core.model.parts import Board, Installation
from mellow_span.core.model.places import rcds_of
from mellow_span.core.model.tree import feeder_of
from mellow_span.core.rules.sources.known import Source, sources_of
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.readings import rules_of
from mellow_span.core.rulesets.vocabulary import C


@dataclass(frozen=True, slots=True)
class Notice:
    """A notice. where: place it stays at, board: identity of that board, else None; heading and text as they are put up; clause that asks for it."""

    where: str
    board: str | None
    heading: str
    text: str
    clause: str


def notices_of(job: Installation) -> tuple[Notice, ...]:
    """Return the notices of a job, from the meter on: more than one source, RCDs to be tested, surge protection, earth connections."""
    rules = rules_of(job)
    sources, named = sources_of(rules, job), numbers(job)
    found: list[Notice] = []
    if sources:
        found.append(_two(rules, "the meter and the origin", None, sources, named))
    for board in job.boards:
        found += _of_board(rules, job, board, sources, named)
    found += [_at_source(rules, one, named) for one in sources]
    earths = "each connection of an earthing or bonding conductor to an electrode or to metal of the building"
    asked = rules.clauses.get(C.EARTH_LABEL)
    if asked:
        found.append(Notice(earths, None, "Earth connection", "Safety connection: do not remove.", asked))
    return tuple(found)


def _two(rules: RuleSet, where: str, board: str | None, sources: tuple[Source, ...], named: dict[str, str]) -> Notice:
    each = ", ".join(f"{one.name} ({named[one.circuit]})" for one in sources)
    return Notice(where, board, "More than one source", f"Isolate the mains and {each} before work.", rules.clause(C.SOURCE_LABEL))


def _of_board(rules: RuleSet, job: Installation, board: Board, sources: tuple[Source, ...], named: dict[str, str]) -> list[Notice]:
    where = board.name or "a board"
    found = [_two(rules, where, board.id, sources, named)] if sources else []
    for one in sources:
        if one.alone == board.id:
            found.append(
                Notice(where, board.id, "Live with the mains off", f"{one.name} supplies this board.", rules.clause(C.SOURCE_LABEL))
            )
    asked = rules.clauses.get(C.RCD_NOTICE)
    if asked and (rcds_of(board) or any(c.device.idn for c in job.circuits if c.board == board.id and not c.spare)):
        text = "Press the test button about every six months. If it does not trip, have it replaced."
        found.append(Notice(where, board.id, "RCD", text, asked))
    origin = feeder_of(job, board.id) is None and job.supply.surge == "fitted"
    if origin or any(c.device.spd for c in job.circuits if c.board == board.id):
        text = "Disconnect it before an insulation test. Replace it when its window shows so."
        found.append(Notice(where, board.id, "Surge protection", text, rules.clause(C.SURGE)))
    return found


def _at_source(rules: RuleSet, source: Source, named: dict[str, str]) -> Notice:
    where = f"the isolators of {source.name}"
    inverter = "The direct-current side stays live: panels in any light, a battery always."
    text = inverter if source.load.kind == "inverter" else "Live while it runs."
    return Notice(where, None, f"Isolator of {source.name}, {named[source.circuit]}", text, rules.clause(C.SOURCE_LABEL))
