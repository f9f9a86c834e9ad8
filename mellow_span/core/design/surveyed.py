"""What the survey assumed, and what each assumption costs: the job checked again at the values that could turn out instead."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from mellow_span.core.adding import added
from mellow_span.core.design.check import check
from mellow_span.core.design.effort import Effort
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import WORSE, InstallationResult
from mellow_span.core.model.changes import Change, restore
from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.readings import rules_of
from mellow_span.core.working.recorders import Silent

# The fuses that are met in a cut-out of a house [A].
FUSES = (60.0, 80.0, 100.0)


@dataclass(slots=True)
class Instead:
    """A value that could turn out instead: in words, and the circuits that would then fall short or be cured; places: checks elsewhere."""

    value: float
    text: str
    worse: tuple[str, ...]
    better: tuple[str, ...]
    places: tuple[str, ...]


@dataclass(slots=True)
class Assumption:
    """A surveyed value that nobody measured: its field, how it is known, and what other values would do. moves: verdicts it can turn."""

    field: str
    board: str | None
    title: str
    source: str
    told: str
    instead: tuple[Instead, ...]
    moves: int
    first: bool = False


def assumptions(job: Installation, effort: Effort | None = None) -> tuple[Assumption, ...]:
    """Return the values of the survey that were declared or assumed, those that turn most verdicts first; that one is to be read first.

    effort: how much work it may be; values left out are missing.
    """
    effort = effort or Effort()
    asked = _unmeasured(rules_of(job), job)
    effort.expect((1 + added(len(one[-1]) for one in asked)) * len(job.circuits))
    now = check(job, keep=False, reuse=True)
    found = []
    for one in asked:
        if effort.over():
            break
        effort.spend(len(one[-1]) * len(job.circuits))
        found.append(_assumption(job, now, *one))
    found.sort(key=lambda a: -a.moves)
    if found and found[0].moves > 0:
        found[0].first = True
    return tuple(found)


Asked = tuple[str, str | None, str, str, float | None, str, list[float]]


def _unmeasured(rules: RuleSet, job: Installation) -> list[Asked]:
    """Field, board, title, source, value, unit, and the values that could turn out instead."""
    s = job.supply
    found: list[Asked] = []
    if s.ze_source != "measured":
        declared = s.ze_declared or declared_ze(rules, s.earthing)
        found.append(("ze", None, "Ze", s.ze_source, s.ze, "Ω", _others(s.ze, declared)))
    # What suppliers usually declare, and from where an electrode is unstable, is not in every book.
    if s.ipf_source != "measured" and rules.has("declared_ipf"):
        highest = Silent(rules).constant("declared_ipf")
        found.append(("ipf", None, "Ipf", s.ipf_source, s.ipf, "A", _others(s.ipf, highest)))
    if s.fuse_source != "measured":
        found.append(("fuse_in", None, "service fuse", s.fuse_source, s.fuse_in, "A", [f for f in FUSES if f != s.fuse_in]))
    for board in job.boards:
        if board.earthing == "TT" and board.ra_source != "measured" and rules.has("tt_stable"):
            most = Silent(rules).constant("tt_stable")
            found.append(("ra", board.id, f"RA of {board.name or 'a board'}", board.ra_source, board.ra, "Ω", _others(board.ra, most)))
    return found


def declared_ze(rules: RuleSet, earthing: str | None) -> float | None:
    """Return the largest Ze that suppliers usually declare for an arrangement [ohm], None where they declare none."""
    names = {"TN-C-S": "declared_ze_pme", "TN-S": "declared_ze_tns", "TT": "declared_ze_tt"}
    key = names.get(earthing or "", "")
    return Silent(rules).constant(key) if rules.has(key) else None


def _others(value: float | None, worst: float | None) -> list[float]:
    return [worst] if worst is not None and (value is None or abs(worst - value) > 1e-9) else []


def _assumption(
    job: Installation, now: InstallationResult, field: str, board: str | None, title: str, source: str, value: float | None, unit: str,
    values: list[float],
) -> Assumption:  # fmt: skip
    instead = tuple(_instead(job, now, field, board, title, unit, other) for other in values)
    told = f"{title} is not entered" if value is None else f"{title} {quantity(value, unit)} is {source}"
    moves = max((len(one.worse) + len(one.better) + len(one.places) for one in instead), default=0)
    return Assumption(field, board, title, source, told, instead, moves)


def _instead(job: Installation, now: InstallationResult, field: str, board: str | None, title: str, unit: str, value: float) -> Instead:
    fields: dict[str, Any] = {field: value}
    change = Change("set", "board", board, fields) if board else Change("set", "supply", fields=fields)
    after = check(restore(job, [change])[0], keep=False, reuse=True)
    stood = {c.id: WORSE[c.verdict] for c in now.circuits}
    worse = tuple(c.id for c in after.circuits if WORSE[c.verdict] > stood[c.id])
    better = tuple(c.id for c in after.circuits if WORSE[c.verdict] < stood[c.id])
    places = tuple(sorted(_short_places(after) - _short_places(now)))
    text = f"if {title} were {quantity(value, unit)}"
    return Instead(value, text, worse, better, places)


def _short_places(found: InstallationResult) -> set[str]:
    titles = {one.title for one in found.intake if one.verdict == "short"}
    return titles | {one.title for board in found.boards for one in board.checks if one.verdict == "short"}
