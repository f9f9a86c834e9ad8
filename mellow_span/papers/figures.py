"""Drawings as SVG, in black and white: what is told apart is told apart by line and hatch, and each says in words what it shows."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from html import escape
from math import inf

from mellow_span.core.drawing.curves import Plot
from mellow_span.core.drawing.glance import Bar
from mellow_span.core.figures import figure, quantity
from mellow_span.core.findings.results import Profile, Stretch

WIDE, LEFT, RIGHT, LANE, STRIP, TOP = 680.0, 78.0, 98.0, 74.0, 34.0, 20.0
# Hatches of the surroundings, as paths in a tile of a width and height; told apart by their lines alone.
LOOKS: dict[str, tuple[float, float, str]] = {
    "masonry": (20, 12, "M0 .5h20M0 6.5h20M5 0v6M15 6v6"),
    "timber": (30, 11, "M0 3c7-2 11 2 17 0s9-1 13 0M0 8c5 1 10-2 15 0s10 2 15 0"),
    "quilt": (14, 10, "M0 4c2-4 5-4 7 0s5 4 7 0M0 9c2-4 5-4 7 0s5 4 7 0"),
    "stud": (24, 11, "M1 0v11M5 0v11M9 4c3-3 5 3 7 0s4 3 7 0"),
    "conduit": (26, 34, "M0 9.5h26M0 24.5h26M23 7v20"),
    "tray": (12, 9, "M2 3h5M8 7h4M0 7h2"),
    "soil": (15, 12, "M2 3h1M9 4h1M5 7h1M12 9h1M2 11h1M8 11l2-1"),
    "": (9, 9, "M4 4h1"),
}
HATCHES = ("M0 0L8 8", "M0 8L8 0", "M0 4H8", "M4 0V8", "M0 0L8 8M0 8L8 0")
Axis = Callable[[float], float]


def _text(x: float, y: float, text: str, anchor: str = "start", size: float = 10, weight: int = 400) -> str:
    return f'<text x="{x:.1f}" y="{y:.1f}" font-size="{size:g}" text-anchor="{anchor}" font-weight="{weight}">{escape(text)}</text>'


def _path(d: str, width: float = 1.0, dash: str = "", fill: str = "none") -> str:
    return f'<path d="{d}" fill="{fill}" stroke="black" stroke-width="{width:g}"{f" stroke-dasharray={chr(34)}{dash}{chr(34)}" if dash else ""}/>'


def _linear(lo: float, hi: float, a: float, b: float) -> Axis:
    return lambda v: a + (v - lo) / ((hi - lo) or 1.0) * (b - a)


def bar(one: Bar) -> str:
    """Return a bar of the whole house at a glance: grey up to what is used, of amps Ib; the limit a full upright, In and 80 % a short one."""
    wide, high, all_of_it = 120.0, 14.0, 96.0
    if one.used is None:
        return ""
    at = {m.name: m.share for m in one.marks}
    x = _linear(0, 1, 0, all_of_it)
    filled, before = at.get("Ib", 0.0) if one.about == "amps" else one.used, at.get("before", 0.0)
    parts = [f'<rect x="0" y="3" width="{min(x(filled), wide):.1f}" height="8" fill="#aaa"/>']
    if before:
        parts.append(f'<rect x="0" y="3" width="{min(x(min(before, filled)), wide):.1f}" height="8" fill="#444"/>')
    if filled > 1:
        over = min(x(filled), wide) - all_of_it
        parts.append(f'<rect x="{all_of_it:g}" y="1" width="{over:.1f}" height="12" fill="none" stroke="black" stroke-width="1.6"/>')
    tick = at.get("In", at.get("measured"))
    if tick is not None:
        parts.append(_path(f"M{min(x(tick), wide - 1):.1f} 2V12", 1.8))
    parts.append(_path(f"M{all_of_it:g} 0V14", 1.6))
    return f'<svg class="bar" viewBox="0 0 {wide:g} {high:g}">{"".join(parts)}</svg>'


def strip(p: Profile) -> str:
    """Return the run drawn to scale from the origin with its three lanes; empty where a length is not known. The figures are the profile's own."""
    end = p.stretches[-1].end if p.stretches else 0.0
    if end <= 0:
        return ""
    x = _linear(0, end, LEFT, WIDE - RIGHT)
    parts = [_strip(p, x)]
    top = TOP + STRIP + 34
    for lane in (_amps, _volts, _loop):
        parts.append(lane(p, x, top))
        top += LANE + 16
    parts.append(_text(LEFT, top + 4, "0 m", size=9) + _text(WIDE - RIGHT, top + 4, quantity(end, "m"), "end", 9))
    defs = "".join(
        f'<pattern id="look-{name or "unknown"}" width="{w:g}" height="{h:g}" patternUnits="userSpaceOnUse">'
        f'<path d="{d}" fill="none" stroke="#666" stroke-width=".7"/></pattern>'
        for name, (w, h, d) in LOOKS.items()
    )
    return _svg(WIDE, top + 12, f"<defs>{defs}</defs>" + "".join(parts))


def _svg(wide: float, high: float, inside: str) -> str:
    # The type in a drawing is that of the page.
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {wide:g} {high:g}" width="100%" font-family="Page, Symbols">{inside}</svg>'
    )


def _strip(p: Profile, x: Axis) -> str:
    found = []
    for s in p.stretches:
        left, wide = x(s.start), x(s.end) - x(s.start)
        look = s.look if s.look in LOOKS else "unknown"
        governs = s.span == p.governing and p.iz_needed is not None and (s.iz or 0.0) < p.iz_needed
        box = f'x="{left:.1f}" y="{TOP:g}" width="{wide:.1f}" height="{STRIP:g}"'
        found.append(f'<rect {box} fill="url(#look-{look})"/><rect {box} fill="none" stroke="black" stroke-width="{3 if governs else 1}"/>')
        found.append(_fitting(s.name, left + wide / 2, TOP - 6, wide))
        method = f"{s.method} · " if s.method else ""
        found.append(_fitting(f"{method}{quantity(s.end - s.start, 'm')}", left + wide / 2, TOP + STRIP + 12, wide))
    found.append(_path(f"M{x(0):.1f} {TOP + STRIP / 2:g}H{x(p.stretches[-1].end):.1f}", 2.4))
    return "".join(found)


def _fitting(text: str, x: float, y: float, wide: float) -> str:
    """A caption where it fits; the table beside the drawing says it in full."""
    return _text(x, y, text, "middle", 9) if len(text) * 4.9 <= wide else ""


def _lane(title: str, unit: str, top: float, x: Axis, labels: Sequence[tuple[float, str]]) -> str:
    found = [_text(0, top + 11, title, weight=700), _text(0, top + 24, unit, size=9), _path(f"M{LEFT:g} {top:.1f}V{top + LANE:.1f}", 0.5)]
    at = top + 6
    for y, text in sorted(labels):
        at = max(at, y + 3)
        found.append(_text(WIDE - RIGHT + 6, at, text, size=9.5))
        at += 11
    return "".join(found)


def _empty(title: str, top: float) -> str:
    return _lane(title, "not known yet", top, lambda v: v, ())


def _amps(p: Profile, x: Axis, top: float) -> str:
    own = [s for s in p.stretches if s.start >= p.own_from - 1e-9]
    levels = [v for s in p.stretches for v in (s.iz, s.ib, s.rating) if v is not None]
    if not levels or not own:
        return _empty("Current", top)
    needed, last = p.iz_needed, own[-1]
    y = _linear(min([*levels, needed or inf]) * 0.75, max([*levels, needed or 0.0]) * 1.06, top + LANE, top)
    right, start = WIDE - RIGHT, x(p.own_from)
    found, labels = [_path(_steps(p.stretches, x, y), 2.2)], []
    least = min((s.iz for s in own if s.iz is not None), default=None)
    for s in own:
        if needed is not None and s.iz is not None and s.iz < needed:
            found.append(
                f'<rect x="{x(s.start):.1f}" width="{x(s.end) - x(s.start):.1f}" y="{y(needed):.1f}" height="{y(s.iz) - y(needed):.1f}" fill="#bbb"/>'
            )
    if last.ib is not None:
        found.append(_path(f"M{start:.1f} {y(last.ib):.1f}H{right:g}", 1, "5 3"))
        labels.append((y(last.ib), f"Ib {quantity(last.ib, 'A')}"))
    if last.rating is not None:
        found.append(_path(f"M{start:.1f} {y(last.rating):.1f}H{right:g}", 1.6, "8 2"))
        labels.append((y(last.rating), f"In {quantity(last.rating, 'A')}"))
    if needed is not None and needed != last.rating:
        found.append(_path(f"M{start:.1f} {y(needed):.1f}H{right:g}", 1.6, "2 2"))
        labels.append((y(needed), f"needed {quantity(needed, 'A')}"))
    if least is not None:
        labels.append((y(least), f"Iz {quantity(least, 'A')}{' too low' if needed is not None and least < needed else ''}"))
    return _lane("Current", "Iz by span", top, x, labels) + "".join(found)


def _steps(stretches: Sequence[Stretch], x: Axis, y: Axis) -> str:
    path, pen = "", False
    for s in stretches:
        if s.iz is not None:
            path += f"{'L' if pen else 'M'}{x(s.start):.1f} {y(s.iz):.1f}L{x(s.end):.1f} {y(s.iz):.1f}"
        pen = s.iz is not None
    return path


def _trace(points: Sequence[tuple[float, float | None]], x: Axis, y: Axis) -> str:
    known = [(at, v) for at, v in points if v is not None]
    return "".join(f"{'L' if k else 'M'}{x(at):.1f} {y(v):.1f}" for k, (at, v) in enumerate(known))


def _volts(p: Profile, x: Axis, top: float) -> str:
    points = [(q.at, q.drop) for q in p.points]
    most = max((v for _, v in points if v is not None), default=0.0)
    limit = p.drop_limit
    if limit is None or not points:
        return _empty("Volt drop", top)
    y = _linear(0, max(most, limit) * 1.08, top, top + LANE)
    labels = [(y(limit), f"limit {figure(limit, '%')} %"), (y(most), f"{figure(most, '%')} %{' over' if most > limit else ''}")]
    line = _path(f"M{x(0):.1f} {y(limit):.1f}H{WIDE - RIGHT:g}", 1.6, "8 2")
    return _lane("Volt drop", "% so far", top, x, labels) + line + _path(_trace(points, x, y), 2.2)


def _loop(p: Profile, x: Axis, top: float) -> str:
    points = [(q.at, q.zs) for q in p.points]
    most = max((v for _, v in points if v is not None), default=0.0)
    if most <= 0:
        return _empty("Earth loop", top)
    limit, reading = p.zs_limit, p.zs_reading_limit
    near = limit is not None and limit < most * 3
    y = _linear(0, max(most, limit if near and limit is not None else 0.0) * 1.12, top + LANE, top)
    labels, found = [(y(most), f"Zs {figure(most, 'Ω')} Ω")], [_path(_trace(points, x, y), 2.2)]
    if limit is not None:
        labels.append((y(limit) if near else top, f"max {figure(limit, 'Ω')} Ω"))
    for value, dash in ((limit, "8 2"), (reading, "2 2")):
        if near and value is not None:
            found.append(_path(f"M{x(p.own_from):.1f} {y(value):.1f}H{WIDE - RIGHT:g}", 1.4, dash))
    if near and reading is not None:
        labels.append((y(reading), f"80 % {figure(reading, 'Ω')} Ω"))
    return _lane("Earth loop", "Zs, Ω", top, x, labels) + "".join(found)


def plot(p: Plot) -> str:
    """Return time over current for a chain of devices, as it was laid out: bands by their hatches, damage lines, faults, times."""
    wide, high, left, right, top, bottom = 680.0, 470.0, 52.0, 10.0, 16.0, 34.0
    x, y = _linear(0, 1, left, wide - right), _linear(0, 1, high - bottom, top)

    def line(points: Sequence[tuple[float, float]]) -> str:
        return "".join(f"{'L' if k else 'M'}{x(a):.1f} {y(b):.1f}" for k, (a, b) in enumerate(points))

    parts = []
    for tick in p.amps:
        anchor = "end" if tick.at > 0.98 else "start" if tick.at < 0.02 else "middle"
        parts += [_path(f"M{x(tick.at):.1f} {top:g}V{high - bottom:g}", 0.3), _text(x(tick.at), high - bottom + 13, tick.label, anchor)]
    for tick in p.seconds:
        parts += [_path(f"M{left:g} {y(tick.at):.1f}H{wide - right:g}", 0.3), _text(left - 4, y(tick.at) + 3, tick.label, "end")]
    parts += [_text(wide - right, high - 6, "current, A", "end"), _text(left, top - 5, "time, s")]
    for level in p.times:
        parts.append(_path(f"M{left:g} {y(level.y):.1f}H{wide - right:g}", 1.2, "8 4"))
    names: list[tuple[float, float]] = []
    for k, device in enumerate(p.devices):
        if device.area:
            parts.append(f'<path d="{line(device.area)}Z" fill="url(#band-{k % len(HATCHES)})"/>')
        parts += [_path(line(device.fast), 0.8) if device.fast else "", _path(line(device.slow), 1.8) if device.slow else ""]
        if device.slow and device.rating is not None:
            at, down = min(x(device.slow[0][0]) + 4, wide - 70), top + 12
            while any(abs(a - at) < 60 and abs(d - down) < 12 for a, d in names):
                down += 12
            names.append((at, down))
            parts.append(_text(at, down, f"{device.rating:g} A", weight=700))
    dashes = {"line": "", "cpc": "9 4"}
    parts += [_path(line(d.points), 2.2, dashes.get(d.id, "2 3")) for d in p.damage]
    parts += [_path(f"M{x(f.x):.1f} {top:g}V{high - bottom:g}", 1.8, "2 4" if f.end == "least" else "") for f in p.faults]
    if p.through:
        parts.append(_path(f"M{x(p.through.x):.1f} {y(p.through.y) - 6:.1f}l6 6l-6 6l-6 -6z", 1.6, fill="white"))
    defs = "".join(
        f'<pattern id="band-{k}" width="8" height="8" patternUnits="userSpaceOnUse">'
        f'<path d="{d}" stroke="#555" stroke-width=".7" fill="none"/></pattern>'
        for k, d in enumerate(HATCHES)
    )
    frame = f'<rect x="{left:g}" y="{top:g}" width="{wide - left - right:g}" height="{high - top - bottom:g}" fill="none" stroke="black"/>'
    return _svg(wide, high, f"<defs>{defs}</defs>" + "".join(parts) + frame)
