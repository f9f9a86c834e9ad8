"""The tree: demand flows up, volts, loops and fault levels flow down, routes tie circuits together; and the answer for the whole job."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable
from dataclasses import dataclass, field, replace

from mellow_span.core.adding import added
from mellow_span.core.cache import Latest
from mellow_span.core.design.circuit import check_case, check_circuit
from mellow_span.core.errors import CoreError
from mellow_span.core.findings.attention import attention
from mellow_span.core.findings.results import (
    BoardDemand,
    BoardResult,
    Check,
    CircuitResult,
    InstallationResult,
    Problem,
    RouteResult,
)
from mellow_span.core.model.parse import out_of_range
from mellow_span.core.model.parts import Board, Circuit, Device, Installation, Route, Supply
from mellow_span.core.model.places import BoardRcd, rcds_of
from mellow_span.core.model.routes import resolved
from mellow_span.core.model.stages import last_of
from mellow_span.core.model.tree import ordered
from mellow_span.core.rules.capacity.routes import Settled, settle
from mellow_span.core.rules.case import Around, Case, Feed, Group, Residual
from mellow_span.core.rules.demand.boards import Draw, add, board_phases, demands
from mellow_span.core.rules.drop.run import totals
from mellow_span.core.rules.faults.currents import board_figures
from mellow_span.core.rules.faults.loop import loop_of
from mellow_span.core.rules.neutral import behind, connected, needs_neutral
from mellow_span.core.rules.places.boards import board_bonded, board_checks, board_rcd
from mellow_span.core.rules.places.containment import containment_checks
from mellow_span.core.rules.places.intake import believed, doubted, intake_bonded, intake_checks
from mellow_span.core.rules.sources.at_boards import source_checks
from mellow_span.core.rules.sources.known import Source, given_back, joined_at, kept_alive, sources_of, with_sources
from mellow_span.core.rules.stretches import at_end
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.readings import rules_of
from mellow_span.core.working.recorders import Silent, Working, recorder


def origin(rules: RuleSet, supply: Supply) -> Feed:
    """Return what arrives at the origin: Ze, the line-neutral loop behind the prospective fault current, and the service fuse."""
    ln = None if supply.ipf is None else supply.u0 / supply.ipf
    above = () if supply.fuse_kind is None else (Device(kind=supply.fuse_kind, rating=supply.fuse_in),)
    assumed = supply.ze is not None and supply.ze_source == "assumed"
    # What no TN supply has is no figure to design on.
    ze = supply.ze if believed(rules, supply) else None
    return Feed(
        ze, ze, ln, ln, earthing=supply.earthing, earth_assumed=assumed or doubted(rules, supply), above=above, phases=supply.phases
    )


def at_board(feed: Feed, board: Board) -> Feed:
    """Return the feed as the board hands it on: with its own electrode if it has one, its RCD, and its conditional rating.

    A board on its own electrode has Zs = RA for its earth faults, whatever the supply's earth (411.5).
    """
    if board.earthing == "TT":
        assumed = board.ra is not None and board.ra_source == "assumed"
        feed = replace(feed, ze_cold=board.ra, ze_hot=board.ra, earthing="TT", own_earth=True, earth_assumed=assumed)
    there = {one.section: _residual(board, one) for one in rcds_of(board)}
    first = (there[1],) if 1 in there else ()
    sections = tuple(there.get(n) for n in (1, 2, 3)) if there else ()
    if there or feed.board_rcds:
        feed = replace(feed, residuals=(*first, *feed.residuals), board_rcds=sections, own_rcd=len(first))
    return replace(feed, conditional=board.conditional) if board.conditional is not None else feed


def _residual(board: Board, rcd: BoardRcd) -> Residual:
    fields = (f"board.{rcd.prefix}_both_ways", f"board.{rcd.prefix}_type")
    return Residual(rcd.idn, rcd.delayed, board_rcd(board, rcd), rcd.kind, rcd.both_ways, *fields)


def feed_of(case: Case, result: CircuitResult) -> Feed:
    """Return what arrives at the board a sub-main feeds, from its own case and result."""
    return _passed_on(case, (), result.length or 0.0) if result.problems else feed_below(case)


def feed_below(case: Case) -> Feed:
    """Return what arrives at the board a sub-main feeds, checked or not."""
    case = at_end(case)
    try:
        drops = totals(Silent(case.rules), case)
    except CoreError:
        drops = ()
    return _passed_on(case, drops, added(s.length or 0.0 for s in case.circuit.run.spans))


def _passed_on(case: Case, drops: tuple[float, ...], length: float) -> Feed:
    """drops [%]: from the origin to the far point, one figure or one for each phase; none where it is not known."""
    feed, circuit = case.feed, case.circuit
    device = circuit.device
    where = f"the RCD of {circuit.name or 'the sub-main'}"
    own = () if device.idn is None else (Residual(device.idn, device.delayed, where, device.rcd_type, device.both_ways),)
    below = replace(
        feed, ze_cold=None, ze_hot=None, ln_cold=None, ln_hot=None, drop=max(drops, default=None), drops=drops if len(drops) > 1 else (),
        length=feed.length + length, residuals=own + feed.residuals,
        above=(device, *feed.above), conditional=None, board_rcds=(), own_rcd=0,
        alone=tuple(replace(one, own_way=False) for one in feed.alone), phases=min(feed.phases, circuit.phases), run=None,
    )  # fmt: skip
    try:
        loop = loop_of(Silent(case.rules), case)
    except CoreError:
        return replace(below, drop=None, drops=())
    return replace(
        below,
        ze_cold=None if feed.ze_cold is None else feed.ze_cold + loop.cold,
        ze_hot=None if feed.ze_hot is None else feed.ze_hot + loop.hot,
        ln_cold=None if feed.ln_cold is None else feed.ln_cold + loop.ln_cold,
        ln_hot=None if feed.ln_hot is None else feed.ln_hot + loop.ln_hot,
    )


NOTHING = Around()


@dataclass
class Plan:
    """A job laid out for checking: circuits in the order power flows, demand of each board, what each circuit takes from the rest."""

    rules: RuleSet
    job: Installation
    order: list[Circuit]
    boards: dict[str, Board]
    roots: tuple[str, ...]
    demand: dict[str, BoardDemand] = field(default_factory=dict)
    drawn: dict[str, Draw] = field(default_factory=dict)
    around: dict[str, Around] = field(default_factory=dict)
    routes: tuple[RouteResult, ...] = ()
    refused: tuple[Problem, ...] = ()
    sources: tuple[Source, ...] = ()
    joined: dict[str, list[Source]] = field(default_factory=dict)

    def root_feed(self, board: str) -> Feed:
        """Return the feed of a board at the origin."""
        feed = replace(origin(self.rules, self.job.supply), premises=self.job.premises, bonded=intake_bonded(self.rules, self.job.supply))
        return kept_alive(at_board(with_sources(feed, self.sources), self.boards[board]), self.boards[board], self.sources, self.joined)

    def below(self, case: Case, result: CircuitResult | None = None) -> Feed:
        """Return the feed of the board that a sub-main feeds, checked or not; the bonding there is judged with the sub-main as it is."""
        board = self.boards[case.circuit.feeds or ""]
        feed = kept_alive(at_board(feed_below(case) if result is None else feed_of(case, result), board), board, self.sources, self.joined)
        return replace(feed, bonded=board_bonded(self.rules, self.job, board, case.circuit, feed.bonded))


# Whole jobs laid out and worked out last: one version of a large job is asked about by many views, one after the other.
_LAID: Latest[Installation, Plan] = Latest(4)
_WORKED: Latest[Installation, Checked] = Latest(4)


def lay_out(job: Installation, keep: bool = False) -> Plan:
    """Lay a job out as it lies at its last stage, each span with what its route gives it: order, demand up the tree, routes settled, common cpcs found.

    keep: with the steps of demand and routes. A plan may be shared with others who ask of the same job, and must not be changed. Raises InputError
    for a tree that is no tree.
    """
    job = last_of(job)
    known = None if keep else _LAID.get(job)
    if known is None:
        known = _lay_out(job, keep)
        if not keep:
            _LAID.put(job, known)
    return known


def _lay_out(job: Installation, keep: bool) -> Plan:
    rules, job = rules_of(job), resolved(job)
    order, roots = ordered(job)
    plan = Plan(rules, job, order, {b.id: b for b in job.boards}, roots, refused=supply_problems(job))
    if plan.refused:
        return plan
    plan.sources = sources_of(rules, job)
    plan.joined = joined_at(job, plan.sources) if plan.sources else {}
    plan.demand, plan.drawn = demands(rules, job, [c for c in order if c.feeds], keep)
    groups, plan.routes = _routes(plan, keep)
    by_board = connected(job)
    back = given_back(job, plan.joined)
    labels: dict[tuple[str, str], list[Circuit]] = defaultdict(list)
    for circuit in job.circuits:
        for name in _cpc_names(circuit):
            labels[(circuit.board, name)].append(circuit)
    for circuit in job.circuits:
        fed = plan.demand.get(circuit.feeds or "")
        others = [c for name in _cpc_names(circuit) for c in labels[(circuit.board, name)] if c.id != circuit.id]
        sharing = tuple({c.id: c for c in others}.values())
        if groups[circuit.id] or sharing or fed:
            there = behind(by_board, circuit.feeds) if circuit.feeds else []
            plan.around[circuit.id] = Around(
                tuple(groups[circuit.id]), sharing, designed_for(fed) if fed else None,
                _by_phase(fed) if fed and fed.uneven else (), fed.error if fed else "",
                neutral=not there or any(needs_neutral(c) for c in there if not c.feeds), in_use=bool(there),
                own_earth=bool(circuit.feeds) and plan.boards[circuit.feeds or ""].earthing == "TT",
                core_bonds=bool(circuit.feeds) and plan.boards[circuit.feeds or ""].bond == "core",
                given_back=back.get(circuit.id, 0.0),
            )  # fmt: skip
    return plan


def designed_for(fed: BoardDemand) -> float | None:
    """Return what a sub-main is designed for [A]: the demand of its board now; where all of it may come later, that."""
    return fed.highest or fed.later if fed.highest is not None else None


def _by_phase(fed: BoardDemand) -> tuple[float, ...]:
    return tuple(p.demand if fed.highest else p.later for p in fed.phases)


def _cpc_names(circuit: Circuit) -> list[str]:
    """The cpcs a circuit shares by name: as entered, and the conduit or trunking of each route it lies in where that is its cpc (543.2.1)."""
    names = [circuit.common_cpc] if circuit.common_cpc else []
    if circuit.run.cable.cpc in ("conduit", "trunking") and not circuit.spare:
        names += dict.fromkeys(f"route {span.route}" for span in circuit.run.spans if span.route)
    return names


def _routes(plan: Plan, keep: bool) -> tuple[dict[str, list[Group]], tuple[RouteResult, ...]]:
    groups: dict[str, list[Group]] = defaultdict(list)
    results = []

    def demand_of(circuit: Circuit) -> float | None:
        fed = plan.demand.get(circuit.feeds or "")
        return designed_for(fed) if fed else None

    # Each route is asked with those alone who lie in it: a job has many of both.
    lying: dict[str, dict[str, Circuit]] = defaultdict(dict)
    for circuit in plan.job.circuits:
        for span in circuit.run.spans:
            if span.route is not None:
                lying[span.route][circuit.id] = circuit
    for route in plan.job.routes:
        settled = _settled(plan, route, tuple(lying[route.id].values()), demand_of, keep)
        for name, group in settled.groups.items():
            groups[name].append(group)
        if settled.result is not None:
            results.append(settled.result)
    return groups, tuple(results)


def _settled(plan: Plan, route: Route, circuits: tuple[Circuit, ...], demand_of: Callable[[Circuit], float | None], keep: bool) -> Settled:
    """A route with those who lie in it: from memory where they, what they take and the supply are the same. Shared: not to be changed."""
    job = plan.job
    key = (route, circuits, tuple(map(demand_of, circuits)), job.supply, job.premises)
    known: Settled | None = None if keep else plan.rules.settled.get(key)
    if known is None:
        there = Installation(supply=job.supply, premises=job.premises, circuits=circuits)
        known = settle(plan.rules, there, route, demand_of, keep)
        if known.result is not None:
            known.result.checks += _asked(plan, containment_checks(recorder(plan.rules, keep), there, route))
        if not keep:
            plan.rules.settled.put(key, known)
    return known


def feed_to(plan: Plan, board: str) -> Feed:
    """Return what arrives at a board, through the sub-mains before it."""
    above = next((c for c in plan.job.circuits if c.feeds == board), None)
    if above is None:
        return plan.root_feed(board)
    feed, around = feed_to(plan, above.board), plan.around.get(above.id, NOTHING)
    result = check_circuit(plan.rules, plan.job.supply, above, feed, False, around)
    return plan.below(Case(plan.rules, plan.job.supply, above, feed, around), result)


@dataclass
class Checked:
    """A job worked out: its plan, what arrives at each board, and the answer."""

    plan: Plan
    feeds: dict[str, Feed]
    result: InstallationResult


def check(job: Installation, keep: bool | frozenset[str] = True, reuse: bool = False) -> InstallationResult:
    """Check a whole installation; see `work_out`."""
    return work_out(job, keep, reuse).result


def work_out(job: Installation, keep: bool | frozenset[str] = True, reuse: bool = False, beyond: bool | None = None) -> Checked:
    """Work a whole installation out, as it stands at its last stage (`stages` asks for all of them).

    keep: record the working of all, of none, or of the circuits whose identities are given; the figures are the same.
    reuse: take the result of a circuit whose inputs and surroundings are those of an earlier call from memory; the results are then shared
    and must not be changed.
    beyond: record the working of intake, boards and routes; where not said, as that of all circuits.
    Raises InputError for a tree that is no tree; anything wrong inside one circuit is named in that circuit's result.
    """
    job = last_of(job)
    beyond = keep is True if beyond is None else beyond
    if not reuse or beyond or keep is True:
        return _work_out(job, keep, reuse, beyond)
    known = _WORKED.get(job)
    if known is None:
        known = _work_out(job, False, True, False)
        _WORKED.put(job, known)
    return _with_working(known, keep) if keep else known


def _with_working(done: Checked, keep: frozenset[str]) -> Checked:
    """A job worked out, with the working of some circuits as well; their figures are the same."""
    plan = done.plan
    if plan.refused:
        return done
    results = tuple(
        check_case(Case(plan.rules, plan.job.supply, c, done.feeds[c.board], plan.around.get(c.id, NOTHING)), True) if c.id in keep else r
        for c, r in zip(plan.job.circuits, done.result.circuits, strict=True)
    )
    return Checked(plan, done.feeds, replace(done.result, circuits=results))


def _work_out(job: Installation, keep: bool | frozenset[str], reuse: bool, beyond: bool) -> Checked:
    """See `work_out`. Who asks for it anew gets it laid out anew as well."""
    plan = lay_out(job, beyond) if reuse else _lay_out(job, beyond)
    feeds = {name: plan.root_feed(name) for name in plan.roots}
    found: dict[str, CircuitResult] = {}
    for circuit in plan.order:
        working = keep if isinstance(keep, bool) else circuit.id in keep
        case = Case(plan.rules, job.supply, circuit, feeds[circuit.board], plan.around.get(circuit.id, NOTHING))
        if plan.refused:
            found[circuit.id] = _refused(circuit, plan.refused)
        else:
            found[circuit.id] = _remembered(case) if reuse and not working else check_case(case, working)
        if circuit.feeds:
            feeds[circuit.feeds] = plan.below(case, found[circuit.id])
    results = tuple(found[c.id] for c in job.circuits)
    intake, boards = ((), ()) if plan.refused else _places(plan, feeds, beyond)
    told = attention(job, results, intake, boards, plan.routes)
    return Checked(plan, feeds, InstallationResult(plan.rules.id, plan.rules.edition, results, told, intake, boards, plan.routes))


def _remembered(case: Case) -> CircuitResult:
    """The result of a circuit, from memory where its inputs, what arrives and what lies around it are the same."""
    key = (case.supply, case.whole, case.feed, case.around)
    known: CircuitResult | None = case.rules.results.get(key)
    if known is None:
        known = check_case(case, keep=False)
        case.rules.results.put(key, known)
    return known


def _places(plan: Plan, feeds: dict[str, Feed], keep: bool) -> tuple[tuple[Check, ...], tuple[BoardResult, ...]]:
    """The checks of the intake and of each board."""
    w = recorder(plan.rules, keep)
    intake = _asked(plan, intake_checks(w, plan.job, total_demand(plan)))
    above = {c.feeds: c for c in plan.job.circuits if c.feeds}
    boards = []
    for board in plan.job.boards:
        feed = feeds[board.id]
        figures = board_figures(w, plan.job.supply, feed, board_phases(plan.job, board))
        value = {figure.id: figure.value for figure in figures}
        boards.append(
            BoardResult(
                id=board.id, earthing=feed.earthing, zs=feed.ze_hot, drop=feed.drop, ipf_ln=value["ipf_ln"], ipf_le=value["ipf_le"],
                ipf_3ph=value.get("ipf_3ph"), fault_min=value["fault_min"], demand=plan.demand[board.id],
                checks=_asked(plan, _of_board(w, plan, board, feed, above.get(board.id))), figures=figures,
            )
        )  # fmt: skip
    return intake, tuple(boards)


def _of_board(w: Working, plan: Plan, board: Board, feed: Feed, above: Circuit | None) -> tuple[Check, ...]:
    found = board_checks(w, plan.job, board, feed, plan.demand[board.id], above)
    return found + source_checks(w, plan.job, board, above, plan.joined.get(board.id, []))


def _asked(plan: Plan, checks: tuple[Check, ...]) -> tuple[Check, ...]:
    """Those of some checks that the book asks."""
    return tuple(c for c in checks if c.id not in plan.rules.not_asked)


def total_demand(plan: Plan) -> BoardDemand | None:
    """Return the demand on the service fuse: of the one board at the origin, or of several added phase by phase."""
    parts = [plan.demand[name] for name in plan.roots]
    if len(parts) <= 1:
        return parts[0] if parts else None
    bad = next((p for p in parts if p.error), None)
    if bad:
        return bad
    draw = Draw()
    for part in parts:
        for one in part.phases:
            add(draw, one.phase, plan.drawn[part.board], one.phase)
    phases = tuple(draw.summed(one.phase) for one in parts[0].phases)
    amps = [p.demand for p in phases]
    return BoardDemand("", phases, max(amps), max(p.later for p in phases), max(amps) - min(amps))


def supply_problems(job: Installation) -> tuple[Problem, ...]:
    """List the inputs of the intake, the boards and the routes that are outside what is allowed."""
    found = out_of_range(job.supply, "supply")
    for board in job.boards:
        found += out_of_range(board, f"board.{board.id}")
    for route in job.routes:
        found += out_of_range(route, f"route.{route.id}")
    return tuple(Problem(e.field, str(e.given), e.allowed) for e in found)


def _refused(circuit: Circuit, refused: tuple[Problem, ...]) -> CircuitResult:
    text = f"{refused[0].field}: {refused[0].given} given, allowed {refused[0].allowed}"
    return CircuitResult(circuit.id, "not_known", "Not known yet", text, problems=refused)
