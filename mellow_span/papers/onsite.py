"""The papers of the work on site: pull list with its cutting plan, materials, the record of an isolation."""

from __future__ import annotations

from mellow_span.core.errors import InputError
from mellow_span.core.site.entries import last_by
from mellow_span.core.site.isolation_record import Done, records
from mellow_span.core.site.materials import Need, materials, price_of
from mellow_span.core.site.pulls import Pull, by_cable, cut_lengths, pieces_told, ticked
from mellow_span.core.site.uncounted import uncounted
from mellow_span.papers.drums import Cutting, cuttings, pieces, rests
from mellow_span.papers.page import TICK, Block, Column, Facts, Item, Leaf, Signature, Table, Words, money, number, words
from mellow_span.papers.subject import Subject, day

PULLS = (
    Column("Order"), Column("No."), Column("Pull"), Column("Cable", share=20), Column("For", share=13), Column("From", share=11),
    Column("To", share=11),
    Column("Pieces"), Column("Cut length", "m"), Column("Sleeve", "mm"), Column("By", share=12), Column("Pulled in", share=12),
)  # fmt: skip


def pull_list(s: Subject, _: str) -> list[Block]:
    """Return the pull list in the order of pulling, how much of each cable it takes, and how that is cut from drums."""
    done, plans = ticked(s.entries), cuttings(pieces(s.pulled), list(s.drums), rests(s.entries))
    allowed = f"{s.slack.board:g} m at a board, {s.slack.end:g} m at other ends, {s.slack.undecided:g} m where the end is not decided"
    slack = f"Allowance included: {allowed}."
    sums = [
        [
            Item(x.cable), number(x.metres, "m"), number(float(x.pieces), ""), number(x.longest, "m"),
            Item(str(x.unknown), float(x.unknown), missing=x.unknown > 0),
        ]
        for x in by_cable(s.pulled)
    ]  # fmt: skip
    rows = []
    for p in s.pulled:
        entry = done.get(p.circuit)
        pulled = f"{entry.by}, {day(entry.at)}" if entry else TICK
        rows.append([*_pull(p), Item(pulled)])
    return [
        Table("Cables to pull in", PULLS, rows, key=2, fine=True, note=slack),
        Table("Total of each cable", SUMS, sums),
        Table("Cutting plan", CUTS, [row for plan in plans for row in _cut(plan)]),
    ]


SUMS = (Column("Cable", share=50), Column("Total", "m"), Column("Pieces"), Column("Longest", "m"), Column("Length not known"))
CUTS = (Column("Cable", share=30), Column("Drum", "m"), Column("Pieces cut from it", share=40), Column("Left over", "m"))


def _pull(p: Pull) -> list[Item]:
    marks = "".join((", end not decided" if p.open else "", ", not connected" if p.spare else "", ", future" if p.later else ""))
    marks += f", {p.why}" if p.cut is None else ""
    marks += f"; in {len(p.pieces)} pieces: {pieces_told(p)}" if p.pieces else ""
    marks += f", {p.kept}" if p.kept else ""
    return [
        number(float(p.place), ""), Item(p.number), number(float(p.bundle), ""), Item(p.cable), Item(f"{p.name}{marks}"), Item(p.start), Item(p.end),
        number(float(p.count), ""), number(p.cut, "m"), number(p.sleeve, "mm", doubtful=p.doubtful, needed=False), words(", ".join(p.routes)),
    ]  # fmt: skip


def _cut(plan: Cutting) -> list[list[Item]]:
    rows = [
        [
            Item(plan.cable), Item(f"{d.length:g}{' at hand' if d.at_hand else ''}", d.length, "m"),
            Item(", ".join(f"{p.tag} {p.length:g} m" for p in d.pieces)), number(d.left, "m"),
        ]
        for d in plan.drums
    ]  # fmt: skip
    return rows + [
        [Item(plan.cable), Item("none is long enough", missing=True), Item(f"{p.tag} {p.length:g} m"), Item("–")] for p in plan.too_long
    ]


def bill(s: Subject, _: str) -> list[Block]:
    """Return what the job takes, priced by the firm's book; what is there already is ticked."""
    needs = materials(s.job, cut_lengths(s.pulled))
    had = last_by([e for e in s.entries if e.kind == "had"], lambda e: e.data.key)
    groups: dict[str, list[list[Item]]] = {}
    total, unpriced = 0.0, 0
    for need in needs:
        cost = price_of(s.book, need)
        total, unpriced = total + (cost or 0.0), unpriced + (cost is None)
        entry = had.get(need.key)
        groups.setdefault(need.group, []).append(
            _need(s, need, cost, f"{entry.by}, {day(entry.at)}" if entry and entry.data.have else TICK)
        )
    tables: list[Block] = [Table(name.capitalize(), NEEDS, rows) for name, rows in groups.items()]
    total = round(total, 2)
    sums = [("Total at the price list, without VAT", money(total, s.currency))]
    if s.vat is not None:
        tax = round(total * s.vat / 100, 2)
        sums += [(f"VAT at {s.vat:g} %", money(tax, s.currency)), ("Total with VAT", money(round(total + tax, 2), s.currency))]
    sums += [
        ("Items without a price", Item(str(unpriced), float(unpriced))),
    ]
    left = [[Item(u.what), Item(u.where), Item(u.why)] for u in uncounted(s.job)]
    if left:
        tables.append(Table("Not counted", LEFT, left))
    return [*tables, Facts("Sum", sums), Words("", ["* estimated from usual sizes and spacings: check before ordering."])]


LEFT = (Column("What", share=34), Column("For", share=26), Column("Why", share=40))
NEEDS = (
    Column("Item", share=34), Column("Count", share=7), Column("Unit", share=7), Column("For", share=18), Column("Note", share=16),
    Column("Costs, without VAT", share=9), Column("On site", share=9),
)  # fmt: skip


def _need(s: Subject, need: Need, cost: float | None, there: str) -> list[Item]:
    count = number(need.count, "m" if need.unit == "m" else "")
    return [
        Item(f"{need.title}{' *' if need.usual else ''}", missing=need.key.endswith("/unknown")), count, Item(need.unit), Item(", ".join(need.where)),
        words(need.note), money(cost, s.currency) if cost is not None else Item("no price"), Item(there),
    ]  # fmt: skip


STATES = {
    "open": "Started: NOT proved dead", "dead": "Proved dead", "live": "Stopped: found LIVE", "released": "Locks off, re-energised",
    "given_up": "Abandoned",
}  # fmt: skip


def isolation_record(s: Subject, record_id: str) -> list[Block]:
    """Return a record of isolation, or every one: each step in order with who did it and when. Raises InputError for one that is none."""
    mine = [r for r in records(s.entries) if record_id in ("", r.id)]
    if record_id and not mine:
        raise InputError("subject", record_id, "a record of this job")
    blocks: list[Block] = []
    for record in mine:
        if blocks:
            blocks.append(Leaf(record.title))
        state = Item(STATES[record.state], verdict="short" if record.state in ("open", "live") else None)
        facts = [
            ("Isolated", Item(record.title)), ("Begun by", Item(record.by)), ("Begun", Item(day(record.at))), ("State", state),
            ("Proved dead at", words(day(record.proved), missing="" if record.state == "given_up" else "not proved")),
            ("Abandoned because", words(record.why)),
        ]  # fmt: skip
        blocks += [Facts(record.title, facts), Table("Steps", ACTS, [_act(k, d) for k, d in enumerate(record.steps, 1)], key=2)]
        blocks += [
            Table("Release", ACTS, [_act(k, d) for k, d in enumerate(record.release, 1)], key=2),
            Signature("Person in control of the isolation"),
        ]
    return blocks or [Words("", ["No isolation started in this job."])]


ACTS = (Column("Step"), Column("What", share=42), Column("Found or used", share=24), Column("By", share=12), Column("When", share=16))


def _act(k: int, d: Done) -> list[Item]:
    found = "; ".join(filter(None, (d.value, f"local isolator: {d.local}" if d.local else "")))
    bad = d.step.needs == "dead" and d.value == "live"
    return [
        Item(str(k)), Item(d.step.text), Item(found or ("done" if d.by else "not done"), missing=not d.by, verdict="short" if bad else None),
        words(d.by), words(day(d.at)),
    ]  # fmt: skip
