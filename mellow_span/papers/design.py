"""The papers of the design: the working of a circuit, coordination, the earthing of an outbuilding."""

from __future__ import annotations

from mellow_span.core.design.check import check
from mellow_span.core.design.outbuilding import earthing_choices
from mellow_span.core.drawing.curves import plot_of
from mellow_span.core.drawing.profile import paths_of, profile_of
from mellow_span.core.errors import InputError
from mellow_span.core.figures import figure
from mellow_span.core.findings.results import STANDS, Check, CircuitResult, EndResult
from mellow_span.core.model.parts import Circuit, Span
from mellow_span.core.rulesets.readings import rules_of
from mellow_span.core.site.words import cable_words, device_words
from mellow_span.core.working.steps import Step
from mellow_span.papers import figures
from mellow_span.papers.page import Block, Column, Drawing, Facts, Item, Leaf, Table, Words, money, number, verdict_cell, words
from mellow_span.papers.schedule import serves
from mellow_span.papers.subject import Subject

CHECKS = (Column("Check", share=22), Column("Clause", share=10), Column("Verdict", share=17), Column("Result", share=51))
STEPS = (Column("Symbol", share=13), Column("Formula", share=40), Column("Value", share=13), Column("Source", share=34))


def chosen(s: Subject, circuit_id: str) -> list[Circuit]:
    """Return the circuit of an identity, or all of them for none. Raises InputError for one the job does not have."""
    found = [c for c in s.laid.circuits if circuit_id in ("", c.id)]
    if circuit_id and not found:
        raise InputError("subject", circuit_id, "a circuit of this job")
    return sorted(found, key=lambda c: list(s.letters).index(c.board))


def working(s: Subject, circuit_id: str) -> list[Block]:
    """Return the working of a circuit, or of each: how it is said, the run with its lanes, the checks, every step with its cell."""
    found: list[Block] = []
    shown = {r.id: r for r in s.shown.result.circuits}
    for circuit in chosen(s, circuit_id):
        if found:
            found.append(Leaf(s.named(circuit)))
        found += _working(s, circuit, shown[circuit.id])
    return found


def _working(s: Subject, circuit: Circuit, result: CircuitResult) -> list[Block]:
    blocks: list[Block] = [_said(s, circuit, result)]
    names = {end.span: end.name for end in result.ends}
    for profile in paths_of(s.shown, circuit.id) or (profile_of(s.shown, circuit.id),):
        drawn = figures.strip(profile)
        if drawn:
            told = (
                "The cable run to scale from the origin: capacity of each span, volt drop and Zs along it. Heavy frame: the limiting span."
            )
            blocks.append(Drawing(f"The run to {names[profile.end]}" if profile.end else "The run", drawn, told))
    if result.ends:
        blocks.append(
            Table("Ends and boxes", ENDS, [_end(end) for end in result.ends], note="Every check is made to each end; the worst counts.")
        )
    spans = [_span(s, span, circuit, result) for span in circuit.run.spans]
    blocks.append(Table("Spans", SPANS, spans, about=s.named(circuit)))
    blocks.append(Table("Checks", CHECKS, [_check(c) for c in result.checks], note=_problems(result)))
    for one in result.checks:
        if one.steps:
            blocks.append(Table(f"{one.title} ({one.clause})", STEPS, [_step(step) for step in one.steps], lined=True))
    return blocks


ENDS = (
    Column("At", share=28), Column("Verdict", share=20), Column("From the board", "m"), Column("Volt drop", "%"), Column("Zs", "Ω"),
    Column("R1+R2, 20 °C", "Ω"), Column("Earth fault, least", "A"),
)  # fmt: skip


def _end(end: EndResult) -> list[Item]:
    figures = ((end.at, "m"), (end.drop, "%"), (end.zs, "Ω"), (end.r1r2, "Ω"), (end.fault_min, "A"))
    verdict = verdict_cell(end.verdict, "") if end.verdict else Item("box")
    return [words(end.name), verdict, *(number(value, unit) for value, unit in figures)]


SPANS = (Column("Span", share=36), Column("Surroundings", share=30), Column("Method"), Column("Length", "m"), Column("Iz", "A"))


def _span(s: Subject, one: Span, circuit: Circuit, result: CircuitResult) -> list[Item]:
    place = s.rules.places.get(one.place or "")
    capacity = next((r for r in result.spans if r.id == one.id), None)
    return [
        words(one.name or "a span"), words(place.title if place else "", missing="not known"), words(place.method if place else ""),
        number(one.length, "m"),
        number(capacity.iz if capacity else None, "A", doubtful=bool(capacity and capacity.doubtful), needed=not circuit.spare),
    ]  # fmt: skip


def _said(s: Subject, circuit: Circuit, result: CircuitResult) -> Facts:
    return Facts(
        s.named(circuit),
        [
            ("Serves", words(serves(s, circuit), missing="" if circuit.spare else "no load yet")),
            ("Device", words(device_words(s.rules, circuit.device, circuit.phases))),
            ("Cable", words(cable_words(s.rules, circuit))),
            ("Verdict", verdict_cell(result.verdict, result.headline, assumed=bool(result.assumed), doubtful=result.doubtful)),
            ("Why", words(result.reason)),
            ("Assumed", words(", ".join(result.assumed))),
        ],
    )


def _problems(result: CircuitResult) -> str:
    return "; ".join(f"{p.field}: {p.given} given, allowed: {p.allowed}" for p in result.problems)


def _check(c: Check) -> list[Item]:
    verdict = verdict_cell(c.verdict, "" if c.decides else f"{STANDS[c.verdict]}, shown only", assumed=bool(c.assumed), doubtful=c.doubtful)
    return [Item(c.title), Item(c.clause), verdict, Item(c.text)]


def _step(step: Step) -> list[Item]:
    puts = ", ".join(f"{symbol} {figure(value)}" for symbol, value in step.puts.items())
    how = " with ".join(filter(None, (step.formula, puts)))
    cite = step.cite
    where = f"Table {cite.table}, {cite.row}, {cite.column}{f' ({cite.read})' if cite.read else ''}" if cite else ""
    doubtful = bool(cite and cite.check)
    value = Item(f"{figure(step.value, step.unit)} {step.unit}".strip(), step.value, step.unit, doubtful=doubtful)
    return [Item(step.symbol), words(how), value, words("; ".join(filter(None, (where, step.clause, step.note))))]


def coordination(s: Subject, circuit_id: str) -> list[Block]:
    """Return time over current for the chain of a circuit, with which device opens first; for none, every pair of the job."""
    blocks: list[Block] = []
    for circuit in chosen(s, circuit_id) if circuit_id else ():
        laid = plot_of(s.done, circuit.id)
        title = f"The chain of {s.named(circuit)}"
        told = "Time/current curves, log scales. Bands are what the product standard allows; a real device lies somewhere in its band."
        blocks.append(Drawing(title, figures.plot(laid), told))
        lines = [f"{d.name}: {d.title}{f'; no curve: {d.why}' if d.why else ''}" for d in laid.devices]
        kinds = {"line": "full", "cpc": "broken"}
        lines += [f"heavy {kinds.get(d.id, 'dotted')} line: what the {d.title.removeprefix('the ')} withstands" for d in laid.damage]
        lines += [f"{'dotted' if f.end == 'least' else 'full'} upright: {f.title}" for f in laid.faults]
        lines += [f"dashed level: {t.title}" for t in laid.times]
        lines += [f"diamond: {laid.through.title}, as the time of the same energy"] if laid.through else []
        blocks.append(Words("On the plot, from the load to the supply", lines, listed=True))
    wanted = {c.id for c in chosen(s, circuit_id)}
    rows = [
        [
            Item(p.lower), Item(p.upper), Item("residual current" if p.kind == "residual" else "overcurrent"),
            Item({"total": "lower device first", "partial": "in part", "none": "not assured", "not_known": "not known"}[p.result],
                 doubtful=p.doubtful, missing=p.result == "not_known"),
            number(p.limit, "A", needed=False), Item(p.text), Item(p.clause),
        ]
        for p in s.pairs if p.lower_circuit in wanted or (p.lower_circuit is None and not circuit_id)
    ]  # fmt: skip
    note = "Selectivity does not affect any other check."
    return [*blocks, Table("Which operates first", PAIRS, rows, key=2, note=note)]


PAIRS = (
    Column("Lower", share=14), Column("Upper", share=14), Column("Kind", share=10), Column("Operates first", share=12), Column("Up to", "A", 8),
    Column("Why", share=32), Column("Clause", share=10),
)  # fmt: skip


def earthing(s: Subject, board_id: str) -> list[Block]:
    """Return the ways to earth an outbuilding side by side, what was decided, and why. Raises InputError for a board no sub-main feeds."""
    boards = {b.id: b for b in s.job.boards}
    fed = [b for b in s.job.boards if any(c.feeds == b.id for c in s.job.circuits)]
    if board_id and board_id not in boards:
        raise InputError("subject", board_id, "a board of this job")
    blocks: list[Block] = []
    for board in [boards[board_id]] if board_id else [b for b in fed if b.outbuilding] or fed:
        if blocks:
            blocks.append(Leaf(board.name or "a board"))
        ways = earthing_choices(rules_of(s.job), s.job, board.id, book=s.book)
        decided = "its own electrode (TT)" if board.earthing == "TT" else "the supply earth"
        blocks.append(
            Facts(
                board.name or "a board",
                [
                    ("Earthing of the supply", words(s.job.supply.earthing or "", missing="not known")),
                    ("Decided", words(decided)),
                    ("Reason", words(board.earthing_reason, missing="no reason entered")),
                    ("Metal services or structure there", _yes_no(board.extraneous)),
                    ("RA", number(board.ra, "Ω", assumed=board.ra_source != "measured", needed=board.earthing == "TT")),
                ],
            )
        )
        touched = {c.id for c in s.job.circuits if board.id in (c.board, c.feeds)}
        rows = []
        for way in ways:
            found = check(way.job, keep=False, reuse=True)
            here = next(b for b in found.boards if b.id == board.id)
            short = [c.id for c in found.circuits if c.verdict == "short" and c.id in touched]
            rows.append([
                Item(way.title), Item(way.clause), number(here.zs, "Ω", needed=False), number(float(len(short)), ""),
                number(way.bond_csa, "mm²", needed=False), number(way.touch, "V", needed=False), number(way.digs_later, "m"),
                money(way.cost, s.currency),
            ])  # fmt: skip
        blocks.append(Table("Earthing options", WAYS, rows, note="Touch voltage: on metal there if the supply PEN conductor breaks."))
        blocks += [Words(way.title, list(way.consequences), listed=True) for way in ways]
    return blocks or [Words("", ["No board of this job is fed by a sub-main: there is nothing to decide."])]


WAYS = (
    Column("Way", share=26), Column("Clause"), Column("Zs at board", "Ω"), Column("Circuits failing"), Column("Bonding", "mm²"),
    Column("Touch voltage", "V"),
    Column("Digging later", "m"), Column("Extra cost"),
)  # fmt: skip


def _yes_no(value: bool | None) -> Item:
    return Item("not known", missing=True) if value is None else Item("yes" if value else "no")
