"""A paper as HTML for the printed page: our own layout, in black on white, every mark and verdict in words as well."""

from __future__ import annotations

from collections.abc import Callable
from html import escape
from typing import Any

from mellow_span.core.adding import added
from mellow_span.exchange.sealing import spelled
from mellow_span.papers.labels import SIZES
from mellow_span.papers.page import (
    CAUTION,
    TICK,
    Block,
    Drawing,
    Facts,
    Item,
    Leaf,
    Paper,
    Sheet,
    Signature,
    Table,
    Words,
)

# Verdicts as drawn marks: a full disc, a half one, a ring struck through, a dotted ring.
_RING = '<circle cx="5" cy="5" r="3.6" fill="none" stroke="black" stroke-width="1.2"{}/>'
MARKS = {
    "meets": '<circle cx="5" cy="5" r="4.2" fill="black"/>',
    "close": _RING.format("") + '<path d="M5 1.4a3.6 3.6 0 0 1 0 7.2z" fill="black"/>',
    "short": _RING.format("") + '<path d="M2.6 7.4l4.8-4.8" stroke="black" stroke-width="1.2"/>',
    "not_known": _RING.format(' stroke-dasharray="1.3 1.5"'),
}


def _mark(cell: Item) -> str:
    return f'<svg class="mark" viewBox="0 0 10 10">{MARKS[cell.verdict]}</svg>' if cell.verdict else ""


def _cell(cell: Item, unit: bool = False) -> str:
    if cell.text == TICK:
        return '<span class="box"></span>'
    told = escape(cell.told)
    if unit and cell.unit and cell.value is not None and not cell.text.endswith(cell.unit):
        told = told.replace(escape(cell.text), f"{escape(cell.text)} {escape(cell.unit)}", 1)
    return _mark(cell) + cell.drawn + (f"<span class=missing>{told}</span>" if cell.missing else told)


def _title(text: str, level: str = "h2") -> str:
    return f"<{level}>{escape(text)}</{level}>" if text else ""


def _lines(t: Table) -> str:
    """A table of steps as lines: symbol = how = value, and where that is from."""
    rows = []
    for symbol, how, value, where in t.rows:
        formula = f" = {escape(how.text)}" if how.text != "–" else ""
        source = f" <i>{escape(where.told)}</i>" if where.text != "–" else ""
        rows.append(f"<p>{escape(symbol.text)}{formula} = <b>{_cell(value)}</b>{source}</p>")
    return f'<section class="lines">{_title(t.title, "h3")}{"".join(rows)}</section>'


def _table(t: Table) -> str:
    if t.lined:
        return _lines(t)
    shares = [c.share for c in t.columns]
    left, open_ones = 100 - added(shares), added(1 for share in shares if not share)
    widths = [share or (left / open_ones if open_ones else 0.0) for share in shares]
    # Where the shares leave too little for the rest, all are drawn in alike; but each has room for the longest word of its heading.
    widths = [max(w, 3.5, 0.7 + 0.57 * max(map(len, c.title.split()), default=0)) for w, c in zip(widths, t.columns, strict=True)]
    scale = 100 / added(widths)
    cols = "".join(f'<col style="width:{w * scale:.2f}%">' for w in widths)
    heads = "".join(f"<th>{escape(c.title)}{f'<br><small>{escape(c.unit)}</small>' if c.unit else ''}</th>" for c in t.columns)
    rows = "".join("<tr>" + "".join(_td(c) for c in row) + "</tr>" for row in t.rows)
    note = f'<p class="note">{escape(t.note)}</p>' if t.note else ""
    kind = " ".join(name for name, on in (("fine", t.fine), ("dense", t.dense)) if on)
    body = (
        f'<table class="{kind}"><colgroup>{cols}</colgroup><thead><tr>{heads}</tr></thead><tbody>{rows}</tbody></table>' if t.rows else ""
    )
    return f"<section>{_title(t.title)}{note}{body}</section>"


def _td(cell: Item) -> str:
    numeric = cell.value is not None and not cell.missing
    return f"<td{' class=n' if numeric else ''}>{_cell(cell)}</td>"


def _facts(f: Facts) -> str:
    rows = "".join(f"<dt>{escape(name)}</dt><dd>{_cell(cell, unit=True)}</dd>" for name, cell in f.rows)
    # Short values stand in two columns.
    short = len(f.rows) > 5 and all(len(name) + len(cell.told) < 42 for name, cell in f.rows)
    return f'<section class="facts{" two" if short else ""}">{_title(f.title)}<dl>{rows}</dl></section>'


def _words(w: Words) -> str:
    tag, inner = ("ul", "li") if w.listed else ("div", "p")
    lines = "".join(f"<{inner}>{escape(line)}</{inner}>" for line in w.lines)
    return f'<section class="{"strong" if w.strong else ""}">{_title(w.title)}<{tag}>{lines}</{tag}></section>'


def _drawing(d: Drawing) -> str:
    return f"<figure>{_title(d.title)}{d.svg}<figcaption>{escape(d.told)}</figcaption></figure>"


def _signature(s: Signature) -> str:
    signed = f"{s.name}, {s.at}" if s.name else ""
    return (
        f'<section class="sign"><div>{escape(s.role)}</div><div class="line">{escape(signed)}<small>name</small></div>'
        '<div class="line"><small>signature</small></div><div class="line short"><small>date</small></div></section>'
    )


def _sheet(s: Sheet) -> str:
    size = SIZES[s.size]
    room = size.columns * size.rows
    pages: dict[int, list[str]] = {}
    for k, lines in enumerate(s.each, s.first - 1):
        page, place = divmod(k, room)
        row, column = divmod(place, size.columns)
        box = f"left:{size.left + column * size.across:g}mm;top:{size.top + row * size.down:g}mm;width:{size.width:g}mm;height:{size.height:g}mm"
        pages.setdefault(page, []).append(f'<div class="label" style="{box}">{_label(lines, size.height)}</div>')
    return "".join(f'<div class="sheet">{"".join(each)}</div>' for each in pages.values())


def _label(lines: tuple[str, ...], height: float) -> str:
    """The lines of a label, in a size in which all of them fit: nothing on it may be cut off."""
    first, rest = lines[0], [line for line in lines[1:] if line]
    small = min(9.0, max(4.6, 1.35 * height / (2.2 + added(1 + len(line) // 34 for line in rest))))
    return f'<b style="font-size:{small * (1.7 if len(first) < 12 else 1.1):.1f}pt">{escape(first)}</b>' + "".join(
        f'<div style="font-size:{small:.1f}pt">{escape(line)}</div>' for line in rest
    )


def _leaf(leaf: Leaf) -> str:
    return f'<h1 class="leaf">{escape(leaf.title)}</h1>'


WRITERS: dict[type[Any], Callable[[Any], str]] = {
    Table: _table, Facts: _facts, Words: _words, Drawing: _drawing, Signature: _signature, Sheet: _sheet, Leaf: _leaf,
}  # fmt: skip


def html(paper: Paper) -> str:
    """Return a paper as one HTML document."""
    sheets = [b for b in paper.blocks if isinstance(b, Sheet)]
    # Labels are printed alone: nothing else may stand on a sheet of them.
    body = "".join(_sheet(b) for b in sheets) if sheets else _head(paper) + "".join(_block(b) for b in paper.blocks)
    kind = "labels" if sheets else "wide" if paper.wide else "tall"
    lang = f'<html lang="en"><head><meta charset="utf-8"><title>{escape(f"{paper.title}, {paper.stamp.job}")}</title></head>'
    return f'{lang}<body class="{kind}">{body}</body></html>'


def _block(block: Block) -> str:
    return WRITERS[type(block)](block)


def _head(paper: Paper) -> str:
    stamp = paper.stamp
    about = f" · {escape(paper.about)}" if paper.about else ""
    where = escape(", ".join(filter(None, (stamp.job, stamp.place, stamp.client))))
    missing = paper.missing
    lacks = f'<p class="lacks">Missing from this document: {len(missing)}: {escape("; ".join(missing))}.</p>' if missing else ""
    marks = "".join(f"<p>{escape(line)}</p>" for line in paper.legend)
    foot = f"{escape(stamp.revision)} · {escape(stamp.edition)} · check code {stamp.code}"
    printed = escape(f"printed {stamp.printed}") if stamp.printed else ""
    key = f'<p class="key">Key of the firm: {spelled(stamp.key)}</p>' if stamp.key else ""
    return (
        f'<div class="foot"><div>{escape(CAUTION)}</div><div>{where} · {escape(paper.title)} · {foot}</div></div>'
        f"<header><h1>{escape(paper.title)}{about}</h1><p>{where}</p><p>{foot}{f' · {printed}' if printed else ''}</p>{key}"
        f'{lacks}<div class="legend">{marks}</div></header>'
    )
