"""The whole house on one page: every circuit beside what it is allowed, as on the view of all boards."""

from __future__ import annotations

from mellow_span.core.drawing.glance import Bar, GlanceRow, glance_of
from mellow_span.core.figures import figure
from mellow_span.papers import figures
from mellow_span.papers.page import Block, Column, Item, Table, number, verdict_cell
from mellow_span.papers.subject import Subject

COLUMNS = (
    Column("Circuit", share=24), Column("Ib · In · Iz", "A", 25), Column("Volt drop", "%", 15), Column("Zs", "Ω", 15.5), Column("Verdict", share=20.5),
)  # fmt: skip
# Up to so many rows there is room on the page for the usual space between them.
ROOMY = 40
NOTE = (
    "Each bar is the share used of what is allowed; the vertical line is the limit, what is over it is framed. Amps: filled to Ib, the tick is In, the "
    "limit is Iz. Volt drop: the sub-mains’ part is darker. Zs: the tick is 80 %, for measured values."
)


def at_a_glance(s: Subject, _: str) -> list[Block]:
    """Return a row for every circuit in the order of the tree, with its three bars and its verdict."""
    names = {c.id: s.named(c) for c in s.laid.circuits}
    rows = [_row(names[row.circuit], row) for row in glance_of(s.done)]
    return [Table("", COLUMNS, rows, fine=True, note=NOTE, dense=len(rows) > ROOMY)]


def _row(name: str, row: GlanceRow) -> list[Item]:
    amps, volts, loop = row.bars
    told = row.margin is not None and row.verdict != "not_known" and (row.verdict != "short" or row.margin < 0)
    verdict = verdict_cell(row.verdict)
    if told and row.margin is not None:
        verdict.text += f", {'−' if row.margin < 0 else ''}{abs(row.margin) * 100:.0f} %"
    if row.verdict != "meets" and row.ruling:
        verdict.text += f": {row.ruling}"
    # No-break spaces: a table has no other way to stand further in.
    return [Item("\u00a0\u00a0" * 2 * row.depth + name), _amps(amps), _figure(volts), _figure(loop), verdict]


def _amps(bar: Bar) -> Item:
    if bar.used is None:
        return Item("not known", missing=True)
    by_name = {m.name: figure(m.value, bar.unit) for m in bar.marks}
    capacity = f"{by_name['leg']} a leg" if "leg" in by_name else by_name.get("Iz", "–")
    return Item(" · ".join([by_name.get("Ib", "–"), by_name.get("In", "–"), capacity]), drawn=figures.bar(bar))


def _figure(bar: Bar) -> Item:
    cell = number(bar.value if bar.used is not None else None, bar.unit)
    cell.drawn = figures.bar(bar)
    return cell
