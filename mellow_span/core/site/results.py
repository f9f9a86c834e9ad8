"""The readings of a circuit against its tests, and what all of them together point to."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping, Sequence
from math import inf

from mellow_span.core.adding import added
from mellow_span.core.design.branches import arrivals
from mellow_span.core.design.check import NOTHING, Plan, check, feed_to, lay_out
from mellow_span.core.errors import CoreError, InputError
from mellow_span.core.figures import figure, quantity
from mellow_span.core.model.legs import mixed, plain
from mellow_span.core.model.numbers import numbers
from mellow_span.core.model.parts import Circuit, Installation
from mellow_span.core.rules.case import Case, Feed
from mellow_span.core.rules.stretches import at_end
from mellow_span.core.rulesets.vocabulary import T
from mellow_span.core.site.compare import temperature_factor
from mellow_span.core.site.entries import Entry
from mellow_span.core.site.fit import Cause, Read, Sizes, fit
from mellow_span.core.site.judging import OFF, Known, judge, warmed, without_armour
from mellow_span.core.site.limits import NO_LIMITS, Limits, limits_of
from mellow_span.core.site.measured import as_measured
from mellow_span.core.site.network import Network
from mellow_span.core.site.readings import FITTED, INSULATION, LIVE_CAUTION, CircuitTests, Quantity, Reading, SiteTest, taken
from mellow_span.core.site.sequence import branch_points, network_of, one_test, points, sequence
from mellow_span.core.site.worked_back import worked_back
from mellow_span.core.units import MM_PER_M
from mellow_span.core.working.recorders import Keeping, Working

BORROWED = Cause(
    "borrowed", "suggests a neutral shared with another circuit, or connected to earth",
    "isolate the whole board, prove the neutrals dead, disconnect them and test each: find the borrowed neutral", 1.0, 0.0, None,
)  # fmt: skip
# A neutral that is joined to another circuit's reads as good as nothing to earth [Mohm].
JOINED = 0.05
# Readings that lie so far off the best cause, in their usual spread, are not explained by it alone.
FAR_OFF = 2.5


def results_of(job: Installation, circuit_id: str, entries: Iterable[Entry], together: bool = True) -> CircuitTests:
    """Return the tests of a circuit with the readings of its log; together: all of them are fitted at once too, which takes its time.

    Raises InputError for an unknown circuit or a job that is no tree.
    """
    log = taken(entries)
    plan = lay_out(as_measured(job, log))
    circuit = next((c for c in plan.job.circuits if c.id == circuit_id), None)
    if circuit is None:
        raise InputError("circuit", circuit_id, "a circuit of this job")
    mine = [e for e in log if e.kind == "reading" and e.subject == circuit_id]
    return _tests(plan, circuit, feed_to(plan, circuit.board), numbers(plan.job)[circuit_id], mine, together)


def tests_of(job: Installation, entries: Iterable[Entry], circuits: Collection[str] | None = None) -> dict[str, CircuitTests]:
    """Return the tests of every circuit, or of those named, with the readings of its log, by its identity; what several readings point to
    together is left out. Raises InputError for a job that is no tree.
    """
    log = taken(entries)
    plan = lay_out(as_measured(job, log))
    named, feeds = numbers(plan.job), {b.id: feed_to(plan, b.id) for b in plan.job.boards}
    mine: dict[str, list[Entry]] = defaultdict(list)
    for e in log:
        if e.kind == "reading":
            mine[e.subject].append(e)
    asked = [c for c in plan.job.circuits if circuits is None or c.id in circuits]
    return {c.id: _tests(plan, c, feeds[c.board], named[c.id], mine[c.id], together=False) for c in asked}


def _tests(plan: Plan, circuit: Circuit, feed: Feed, number: str, mine: Sequence[Entry], together: bool) -> CircuitTests:
    """The tests of a circuit from what arrives at its board."""
    whole = Case(plan.rules, plan.job.supply, circuit, feed, plan.around.get(circuit.id, NOTHING))
    case = at_end(whole)
    w = Keeping(plan.rules)
    why, network = "", None
    try:
        # Of a run whose cable changes each point is predicted by itself, below: no one resistance holds for a metre of it.
        network = None if mixed(circuit) else network_of(w, case)
    except CoreError as refusal:
        why = f"no prediction: {refusal}"
    branched = not plain(circuit)
    spots = branch_points(circuit) if branched else points(circuit, network.length if network else None)
    limits = limits_of(w, case)
    tests = sequence(case, network, spots, limits)
    if mixed(circuit):
        _predict(whole, tests, spots)
    known = Known(network, plan.job.supply.ze if plan.job.supply.ze_source == "assumed" else None)
    homes = [(e, _home(e.data, tests)) for e in mine]
    for test in tests:
        judge(w, test, [e for e, home in homes if home is test], known)
    tests += _strays(w, [e for e, home in homes if home is None], limits, known)
    # What readings point to together is found along one run: of one that branches each point is compared by itself.
    causes = _causes(w, case, None if branched else network, spots, mine, tests) if together else []
    off = [t for t in tests if t.found in OFF]
    return CircuitTests(
        circuit.id, number, circuit.name or "a circuit", tests, added(t.found == "not_read" for t in tests), len(off), causes,
        _told(causes, off), _heat(plan, circuit, mine) if together else "", LIVE_CAUTION, why,
        "" if mixed(circuit) else worked_back(w, case, tests),
    )  # fmt: skip


def _predict(whole: Case, tests: Sequence[SiteTest], spots: Sequence[tuple[float, str]]) -> None:
    """Say what R1 + R2 and Zs should show at the boxes and ends of a run whose cable changes, by all the cables up to there."""
    there = {round(end.at, 2): end for end in arrivals(whole) if end.at is not None}
    feed = whole.feed
    for test in tests:
        end = there.get(next((at for at, name in spots if name == test.point), -1.0))
        if end is None or end.r1r2 is None:
            continue
        if test.quantity == "r1r2":
            test.predicted = end.r1r2
        elif test.quantity == "zs" and (start := feed.ze_cold if feed.ze_cold is not None else feed.ze_hot) is not None:
            test.predicted = start + end.r1r2


def _home(r: Reading, tests: Sequence[SiteTest]) -> SiteTest | None:
    """The test that a reading is of: by its point, else by its position; one that says neither is of the furthest point."""
    same = [t for t in tests if t.quantity == r.quantity]
    if r.point:
        return next((t for t in same if t.point == r.point), None)
    if r.at is not None:
        return next((t for t in same if t.at is None or abs(t.at - r.at) < 0.5), None)
    return max(same, key=lambda t: t.at or 0.0, default=None)


def _strays(w: Working, mine: Sequence[Entry], limits: Mapping[str, Limits], known: Known) -> list[SiteTest]:
    """Readings at points that the design does not have: each judged by what its quantity may show, and by its place where that is said."""
    points: dict[tuple[Quantity, str], list[Entry]] = defaultdict(list)
    for e in mine:
        points[e.data.quantity, e.data.point].append(e)
    found = []
    for (name, point), there in points.items():
        at = there[-1].data.at
        lies = known.n is not None and at is not None and at <= known.n.length
        test = one_test(name, (at, point), limits.get(name, NO_LIMITS), known.n if lies else None, listed=False)
        judge(w, test, there, known)
        found.append(test)
    return found


def _causes(
    w: Working, case: Case, n: Network | None, spots: Sequence[tuple[float, str]], mine: Sequence[Entry], tests: Sequence[SiteTest]
) -> list[Cause]:
    """What the readings point to together."""
    borrowed = _leaking(mine, tests)
    if n is None:
        return borrowed
    latest = {
        (t.quantity, t.point): t.rows[-1].reading for t in tests if t.rows and t.quantity in FITTED and not t.rows[-1].reading.tripped
    }
    if not latest:
        return borrowed
    degrees = added(r.temperature for r in latest.values()) / len(latest)
    factor = temperature_factor(w.quiet(), degrees)
    warm = warmed(n, factor)
    where = {t.id: t.at for t in tests}
    # Where nobody said the point: the furthest one, which of a ring is half way round.
    furthest = n.length / 2 if n.ring else n.length
    reads = []
    for (name, point), r in latest.items():
        at = r.at if r.at is not None else where.get(f"{name}@{point}")
        if r.value is not None and not r.over and without_armour(w.quiet(), warm, name, at, r.value) is not None:
            # Read with the armour disconnected: it says nothing of the two together.
            continue
        # To the temperature of them all.
        share = factor / temperature_factor(w.quiet(), r.temperature) if name not in ("zs", "ipf") else 1.0
        reads.append(Read(name, furthest if at is None else at, inf if r.over or r.value is None else r.value * share))
    return borrowed + list(fit(warm, reads, spots, sizes_of(case, factor)))


def sizes_of(case: Case, factor: float = 1.0) -> Sizes:
    """Return the resistances of the other sizes of a circuit's family [ohm/m], by a factor from 20 C."""
    table = case.rules.by_name[T.RESISTANCE]
    by_csa = {float(row.key[0]): float(row.cells["cu_mohm_per_m_20C"]) / MM_PER_M * factor for row in table.rows}
    near = {s: r for s, r in by_csa.items() if case.csa / 4 <= s <= case.csa * 4}
    pairs = case.family.pairs
    lines = {s: (r, by_csa[pairs.get(s, s)]) for s, r in near.items() if s != case.csa and (not pairs or s in pairs)}
    own = case.circuit.run.cable.cpc_csa or pairs.get(case.csa) or case.csa
    copper = case.cpc_kind in ("core", "separate")
    return Sizes(lines, {s: r for s, r in by_csa.items() if copper and own / 4 <= s <= own * 4 and s != own})


def _leaking(mine: Sequence[Entry], tests: Sequence[SiteTest]) -> list[Cause]:
    """What insulation and a tripped RCD say: a neutral that is another circuit's, or insulation that is low, and where."""
    latest = {e.data.quantity: e.data for e in mine if e.data.quantity in ("ir_ne", "ir_le")}
    ne, le = latest.get("ir_ne"), latest.get("ir_le")
    sound = le is not None and (le.over or (le.value or 0.0) > 1.0)
    joined = ne is not None and not ne.over and ne.value is not None and ne.value <= JOINED
    if joined and sound:
        return [BORROWED]
    low = [t for t in tests if t.quantity in INSULATION and t.found == "short" and t.rows[-1].reading.value is not None]
    low = [t for t in low if not t.rows[-1].reading.over and (t.rows[-1].reading.value or 0.0) < (t.least or 0.0)]
    if not low:
        tripped = any(t.rows and t.rows[-1].reading.tripped for t in tests)
        return [BORROWED] if tripped else []
    worst = min(low, key=lambda t: t.rows[-1].reading.value or 0.0)
    value = worst.rows[-1].reading.value or 0.0
    between = worst.title.partition(", ")[2]
    return [
        Cause(
            "insulation", f"suggests damaged or damp insulation, or a load still connected, {between}: {figure(value)} MΩ",
            "leave it dead; disconnect every load, then part the circuit in halves and test each until the low part is found", 1.0, 0.0, value,
        )
    ]  # fmt: skip


def _told(causes: Sequence[Cause], off: Sequence[SiteTest]) -> str:
    """What the readings come to: what is outside its limit by name first, then what they point to together."""
    failing = list(dict.fromkeys(_named(t) for t in off if t.found == "short"))
    told = [f"Outside its limit: {', '.join(failing)}."] if failing else []
    if causes and causes[0].id != "none":
        first = causes[0]
        more = " Not every reading fits that: look for a second fault." if first.off > FAR_OFF else ""
        told.append(f"{first.told[0].upper()}{first.told[1:]}. Next: {first.next}.{more}")
    elif causes:
        told.append(
            "The resistances together fit the design." if failing
            else "All readings together fit the design as entered." if not off
            else "Together they fit the design best, though one is outside its allowance."
        )  # fmt: skip
    return " ".join(told)


def _named(t: SiteTest) -> str:
    """A test in a list, with what it showed."""
    r = t.rows[-1].reading
    if r.tripped:
        return f"{t.title}, RCD tripped" + (f" at {t.point}" if t.point else "")
    shown = "" if r.value is None else f" {'over ' if r.over else ''}{quantity(r.value, t.unit)}"
    return t.title + shown + (f" at {t.point}" if t.point else "")


def _heat(plan: Plan, circuit: Circuit, mine: Sequence[Entry]) -> str:
    """The conductor temperature of the ruling span that the last clamp reading gives: it rises with the square of the current."""
    amps = next((e.data.value for e in reversed(mine) if e.data.quantity == "amps" and e.data.value), None)
    if amps is None:
        return ""
    result = next(c for c in check(plan.job, keep=False, reuse=True).circuits if c.id == circuit.id)
    span_id = next((c.span for c in result.checks if c.id == "capacity"), None)
    span = next((s for s in circuit.run.spans if s.id == span_id), None)
    family = plan.rules.families.get(circuit.run.cable.family or "")
    if result.iz is None or span is None or family is None:
        return f"{quantity(amps, 'A')} measured; the capacity is not known, so no temperature follows"
    place = plan.rules.places.get(span.place or "")
    ambient = span.ground if place and place.ground else span.ambient
    most = 90 if "90" in family.insulation and circuit.terminals == 90 else 70
    hot = ambient + (most - ambient) * (amps / result.iz) ** 2
    return (
        f"At {quantity(amps, 'A')} the conductors of the limiting span settle at about {figure(round(hot))} °C, {most} °C at most "
        f"(Iz {quantity(result.iz, 'A')}, {figure(ambient)} °C around)"
    )
