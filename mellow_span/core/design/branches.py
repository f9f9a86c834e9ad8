"""A circuit whose run branches, asked along each of its paths: what counts of every check is the path on which it stands worst."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from mellow_span.core.errors import CoreError, InputError
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import WORST_FIRST, Check, CircuitResult, EndResult, Figure, SpanResult, Verdict, worst
from mellow_span.core.model.legs import Path, befores, begins, boxes, path_to, paths, plain, straight
from mellow_span.core.model.parts import Circuit, Span
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.drop.run import totals
from mellow_span.core.rules.faults.loop import least_fault, loop_of, run_cold, zs_of
from mellow_span.core.rules.stretches import by_stretch
from mellow_span.core.working.recorders import Silent

# Of these figures the smallest is the one to reckon with, of the others the largest.
LEAST = frozenset(["fault_min"])
AT_START = frozenset(["fault_max"])


def refused_branches(circuit: Circuit) -> list[InputError]:
    """List what a run that branches cannot be: a ring, whose spurs are loads of it, or a sub-main, which goes to its board."""
    if plain(circuit):
        return []
    try:
        befores(circuit.run.spans)
    except InputError as error:
        return [error]
    if circuit.shape == "ring" and (span := next((s for s in circuit.run.spans if begins(s)), None)):
        return [InputError(f"span.{span.id}.own_csa", span.own_csa, "nothing for a ring final: it is of one cable")]
    known = {span.id for span in circuit.run.spans}
    found = [InputError(f"load.{x.id}.span", x.span, "a span of its circuit") for x in circuit.loads if x.span and x.span not in known]
    # Said twice it might be said nearer than it is.
    twice = [x for x in circuit.loads if x.span and x.at is not None]
    found += [InputError(f"load.{x.id}.at", x.at, "nothing for a load that stands at the end of a span") for x in twice]
    for span in circuit.run.spans:
        if span.after and (circuit.shape == "ring" or circuit.feeds):
            what = "a ring final: its spurs are entered with their loads" if circuit.shape == "ring" else "a sub-main: it goes to its board"
            found.append(InputError(f"span.{span.id}.after", span.after, f"nothing for {what}"))
    return found


@dataclass(frozen=True, slots=True)
class Asked:
    """What is asked by itself: a path, or a stretch of one where its cable changes. path: from the device to where it ends; to_end: that is an end."""

    path: Path
    case: Case
    to_end: bool


def cases_of(case: Case) -> list[Asked]:
    """Return the case of each stretch of each path of a circuit, the main way first.

    What two paths have in common is asked along each: what stands beside them draws elsewhere.
    """
    found: list[Asked] = []
    for path in paths(case.whole.run):
        parts = along_path(case, path)
        count = 0
        for k, part in enumerate(parts):
            count += len(part.circuit.run.spans)
            found.append(Asked(Path(path.spans[:count]), part, k == len(parts) - 1))
    return found


def along_path(case: Case, path: Path) -> list[Case]:
    """Return the case of each stretch of a path."""
    return by_stretch(Case(case.rules, case.supply, straight(case.whole, path), case.feed, case.around))


def path_case(case: Case, end: str) -> list[Case]:
    """Return the case of each stretch of the path to the end of a span. Raises InputError for a span that is not there."""
    return along_path(case, path_to(case.whole.run, end))


def worst_end(result: CircuitResult) -> str:
    """Return the end that stands worst: by its verdict, then by its volt drop, then by how far it is."""
    ends = [end for end in result.ends if end.last]
    return min(ends, key=lambda end: (WORST_FIRST.index(end.verdict or "meets"), -(end.drop or 0.0), -(end.at or 0.0))).span if ends else ""


@dataclass(frozen=True, slots=True)
class Merged:
    """What the paths of a circuit come to together: of each check and figure the worst, the capacity of every span, what arrives at each end."""

    checks: tuple[Check, ...]
    spans: tuple[SpanResult, ...]
    figures: tuple[Figure, ...]
    ends: tuple[EndResult, ...]


def merged(case: Case, found: Sequence[tuple[Asked, CircuitResult]]) -> Merged:
    """Return what the results along each path of a circuit come to together."""
    ends = [(end_name(case.whole, asked.path), asked.path.length) for asked, _ in found]
    results = [result for _, result in found]
    spans = {span.id: span for result in results for span in result.spans}
    each = zip(*(result.figures for _, result in found), strict=True)
    # The largest fault is that of the board, where the first cable starts; the others are those of the far ends.
    figures = [[f for f, (asked, _) in zip(row, found, strict=True) if asked.to_end or f.id in AT_START] for row in each]
    return Merged(
        _checks(ends, results),
        tuple(spans[span.id] for span in case.whole.run.spans if span.id in spans),
        tuple(_figure_of(row) for row in figures),
        _ends(case, found),
    )


def end_name(circuit: Circuit, path: Path) -> str:
    """Return what the end of a path is called: what is there, the span that leads there, a load that stands there, or how far it is."""
    end = path.end
    standing = next((load.name for load in circuit.loads if load.span == end.id and load.name), "")
    return end.box or end.name or standing or f"the end {quantity(path.length, 'm')} along"


# An end, by its name and how far it is [m].
End = tuple[str, float]


def _checks(ends: Sequence[End], results: Sequence[CircuitResult]) -> tuple[Check, ...]:
    """Each check that is asked of any path, in the order of the work: what one path has nothing of is asked of the others alone."""
    asked: dict[str, list[tuple[End, Check]]] = {}
    longest = max(results, key=lambda result: len(result.checks))
    for result in (longest, *results):
        for check in result.checks:
            asked.setdefault(check.id, [])
    for end, result in zip(ends, results, strict=True):
        for check in result.checks:
            asked[check.id].append((end, check))
    return tuple(_worst_of([end for end, _ in there], [check for _, check in there]) for there in asked.values())


def _differs(checks: Sequence[Check]) -> bool:
    return len({(check.verdict, check.text) for check in checks}) > 1


def _worst_of(ends: Sequence[End], checks: Sequence[Check]) -> Check:
    """The check on the path where it stands worst, with the name of that path's end where the paths differ; what does not decide comes behind,
    and of two alike the longer path counts.
    """

    def how_bad(i: int) -> tuple[bool, int, float, float, float]:
        check = checks[i]
        margin = 1e9 if check.margin is None else check.margin
        return (not check.decides, WORST_FIRST.index(check.verdict), margin, -(check.value or 0.0), -ends[i][1])

    at = min(range(len(checks)), key=how_bad)
    found = checks[at]
    # What a span rules has its name already.
    if found.span is None and _differs(checks):
        return replace(found, text=f"to {ends[at][0].removeprefix('to ')}: {found.text}")
    return found


def _figure_of(figures: Sequence[Figure]) -> Figure:
    missing = next((figure for figure in figures if figure.value is None), None)
    if missing is not None:
        return missing
    take = min if figures[0].id in LEAST else max
    return take(figures, key=lambda figure: figure.value or 0.0)


def _ends(case: Case, found: Sequence[tuple[Asked, CircuitResult]]) -> tuple[EndResult, ...]:
    """What arrives at each end and box, in the order in which one walks along the cable."""
    circuit = case.whole
    verdicts: dict[str, list[Verdict]] = {}
    for asked in (a for a, _ in found if a.to_end):
        on = {span.id for span in asked.path.spans}
        verdicts[asked.path.end.id] = [result.verdict for other, result in found if other.path.end.id in on]
    stations = {*verdicts, *(span.id for span in boxes(circuit.run, circuit.loads))}
    return tuple(_end(case, span, verdicts.get(span.id)) for span in circuit.run.spans if span.id in stations)


def arrivals(case: Case) -> tuple[EndResult, ...]:
    """Return what arrives at each end and box of a run, without a verdict."""
    circuit = case.whole
    there = {span.id for span in (*boxes(circuit.run, circuit.loads), *(path.end for path in paths(circuit.run)))}
    return tuple(_end(case, span, None) for span in circuit.run.spans if span.id in there)


def _end(case: Case, span: Span, verdicts: list[Verdict] | None) -> EndResult:
    path = path_to(case.whole.run, span.id)
    standing = tuple(x.id for x in case.whole.loads if x.span == span.id)
    at = None if any(one.length is None for one in path.spans) else path.length
    verdict = None if verdicts is None else worst(verdicts)
    found = EndResult(span.id, end_name(case.whole, path), at, verdicts is not None, standing, verdict)
    one, quiet = along_path(case, path)[-1], Silent(case.rules)
    try:
        found.drop = max(totals(quiet, one))
        found.volts = case.supply.u0 * (1 - found.drop / 100)
    except CoreError:
        pass
    try:
        r1, r2, _ = run_cold(loop_of(quiet, one), one)
        found.r1r2 = r1 + r2
        found.zs = zs_of(quiet, one)
        found.fault_min = least_fault(quiet, one, found.zs)
    except CoreError:
        pass
    return found
