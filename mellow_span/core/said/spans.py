"""The spans as they are said: 'riser 3.2 masonry, loft 2.4 under quilt, landing joists 7.5 with 2 others, trench 12 m wrapped 0.3'."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from typing import Any

from mellow_span.core.figures import quantity
from mellow_span.core.model.parts import Route
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.words import Phrase, pattern
from mellow_span.core.said.cable import read_cable
from mellow_span.core.said.text import NUMBER, Text, number

METRES = r"m|metres?|meters?|mtrs?"
UNITS = {"mm": 0.001, "cm": 0.01}


BOX = r"(?:junction\s+|joint\s+)?box|jb|joint"


def read_spans(rules: RuleSet, routes: tuple[Route, ...], text: Text) -> list[dict[str, Any]]:
    """Read the spans out of a text, one between each two commas; return the fields of each.

    '4 armoured from here' begins another cable with the span after it, or with the one it stands in: 'hall 6, 4 armoured from here, garden 20 duct'.

    What stands in square brackets leaves from the end of the span before it, which 'box A' gives a name: 'joists 6, box A [landing 4, bath 5], hall 7'.
    The main way comes first; `after` of a span that does not go on from the one before it is the place of the one it does, in the list, from 0.
    """
    spans: list[dict[str, Any]] = []
    rows: list[tuple[Text, int | None]] = [(text, None)]
    while rows:
        row, last = rows.pop(0)
        begun: dict[str, Any] = {}
        said = row
        for item in parts(row):
            head, branches = _branches(item)
            if another := _begun(rules, head):
                begun, said = another, head
            if head.plain() and not _box(head, spans, last):
                span = read_span(rules, routes, head) | begun
                begun = {}
                if last is not None and last != len(spans) - 1:
                    span["after"] = last
                last = len(spans)
                spans.append(span)
            for branch in branches:
                if last is None:
                    branch.refuse(0, len(branch.left), "nothing leads to it yet: say the way to the box first")
                else:
                    rows.append((branch, last))
        if begun:
            said.refuse(len(said.left) - len(said.left.lstrip()), len(said.left), "no span follows: say where this cable goes")
    return spans


JOINTS = {"terminals?": "terminals", r"maintenance[\s-]+free|mf": "maintenance_free", "crimp(?:ed|s)?": "crimped", "resin": "resin"}


JOINED = {
    "terminals": "joined with terminals", "maintenance_free": "a maintenance-free joint", "crimped": "joined by crimps",
    "resin": "a joint filled with resin",
}  # fmt: skip


def _begun(rules: RuleSet, text: Text) -> dict[str, Any]:
    """Read another cable that begins here: type, size, cores and cpc before 'from here', and how it is joined."""
    match = text.find(r"from\s+here(?:\s+on)?")
    if match is None:
        return {}
    before = text.within(text.start, text.start + match.start())
    found = {f"own_{name}": value for name, value in read_cable(rules, before).items() if name in ("family", "csa", "cpc_csa", "cores")}
    if not found:
        text.refuse(*match.span(), "which cable? say its size and type before it: 4 armoured from here")
        return {}
    # What was read of the cable is read of the item, too.
    text.left = before.left + text.left[match.start() :]
    text.take(match, "span.own_csa", "another cable from here on")
    for said, joint in JOINTS.items():
        if match := text.find(rf"(?:{said})(?:\s+(?:joint|box))?"):
            found["joint"] = joint
            text.take(match, "span.joint", JOINED[joint])
            break
    return found


def _box(text: Text, spans: list[dict[str, Any]], last: int | None) -> bool:
    """Read the name of the box at the end of the last span: words that begin with box and have no length in metres."""
    match = re.match(rf"\s*((?:{BOX})(?![^\W_])[^\x00]*?)\s*$", text.left, re.IGNORECASE)
    if match is None or last is None or text.find(rf"{NUMBER}\s*(?:{METRES})"):
        return False
    name = " ".join(match[1].split())
    spans[last]["box"] = name
    text.take(match, "span.box", f"{name}: at the end of the span before it", 1)
    return True


def _branches(item: Text) -> tuple[Text, list[Text]]:
    """Cut an item into what stands before its square brackets and what is in each; one that is not closed goes to the end."""
    found: list[Text] = []
    depth, start, first = 0, 0, None
    for at, sign in enumerate(item.left):
        if sign == "[":
            depth += 1
            if depth == 1:
                start, first = at + 1, at if first is None else first
        elif sign == "]" and depth:
            depth -= 1
            if depth == 0:
                found.append(item.within(item.start + start, item.start + at))
    if depth:
        found.append(item.within(item.start + start, item.start + len(item.left)))
    if first is None:
        return item, []
    _after(item, first)
    return item.within(item.start, item.start + first), found


def _after(item: Text, first: int) -> None:
    """Refuse what stands behind a closing bracket before the next comma."""
    depth = 0
    for match in re.finditer(r"[\[\]]|[^\s\[\],;]+", item.left[first:]):
        depth += (match[0] == "[") - (match[0] == "]")
        if depth == 0 and match[0] != "]":
            item.refuse(first + match.start(), first + match.end(), "a comma is missing before it")


def parts(text: Text) -> Iterator[Text]:
    """Cut a text at its commas and semicolons; a comma inside a number is none, nor is one in square brackets."""
    start = 0
    for match in [*re.finditer(r"(?<!\d),|,(?!\d)|;", text.left), None]:
        if match and text.left.count("[", 0, match.start()) > text.left.count("]", 0, match.start()):
            continue
        end = match.start() if match else len(text.left)
        yield text.within(text.start + start, text.start + end)
        if match:
            start = match.end()


def read_span(rules: RuleSet, routes: tuple[Route, ...], text: Text) -> dict[str, Any]:
    """Read one span. A route of the job is joined where its name is said; a length that it does not say is then the route's."""
    span: dict[str, Any] = {}
    _route(routes, text, span)
    _temperature(text, span)
    _neighbours(rules, text, span)
    if match := text.find(rf"wrapped\s+(?:for\s+)?({NUMBER})\s*(?:{METRES})?|({NUMBER})\s*(?:{METRES})?\s+wrapped"):
        span["wrapped"] = number(match[1] or match[2])
        text.take(match, "span.wrapped", f"{quantity(span['wrapped'], 'm')} surrounded by insulation")
    _place(rules, text, span)
    _length(text, span)
    for match in list(text.rest()):
        if match[0][0].isdigit():
            text.refuse(*match.span(), "a number too many: a span has one length; say 35 °C, with 2 others or wrapped 0.5 for the rest")
    if "place" not in span and "route" not in span:
        text.assumed.append(f"installation method of “{text.plain() or 'a span'}” still to choose")
    span["name"] = re.sub(
        r"^(?:(?:in|through|along|up|down|across|under|over|the)\s+)+", "", text.plain().strip("-–. "), flags=re.IGNORECASE
    )
    told = f"span: {span['name']}"
    for word in text.rest():
        text.note(word, "span.name", told)
        told = ""
    return span


def _route(routes: tuple[Route, ...], text: Text, span: dict[str, Any]) -> None:
    named = [r for r in routes if r.name]
    if not named:
        return
    names = pattern(Phrase(r.name.lower(), r.id) for r in named)
    match = text.find_name(rf"(?:in\s+|along\s+)?(?:the\s+)?(?:route\s+)?({names})")
    if match:
        said = " ".join(match[1].lower().split())
        route = next(r for r in named if " ".join(r.name.lower().split()) == said)
        span["route"] = route.id
        text.take(match, "span.route", f"in the route {route.name}, with its surroundings")


def _temperature(text: Text, span: dict[str, Any]) -> None:
    if match := text.find(rf"(?:at\s+)?({NUMBER})\s*(?:°\s*c|°|c|deg(?:rees)?(?:\s*c)?)"):
        span["ambient"] = number(match[1])
        text.take(match, "span.ambient", quantity(span["ambient"], "°C"))


def _neighbours(rules: RuleSet, text: Text, span: dict[str, Any]) -> None:
    if match := text.find(r"(?:with|beside|and)\s+(\d{1,2})\s*(?:other\s*(?:circuits?|cables?)?|others|more)"):
        span["group"] = int(match[1]) + 1
        text.take(match, "span.group", f"{span['group']} circuits together, this one included")
    elif match := text.find(r"(\d{1,2})\s*(?:circuits|cables)(?:\s*(?:together|grouped))?|(?:grouped|group\s+of|bunch\s+of)\s+(\d{1,2})"):
        span["group"] = int(match[1] or match[2])
        text.take(match, "span.group", f"{span['group']} circuits together, this one included")
    if match := text.find(pattern(rules.words.laid)):
        said = " ".join(match[0].lower().split())
        span["laid"] = next(p.means for p in rules.words.laid if p.text == said)
        text.take(match, "span.laid", f"lying {said}")


def _place(rules: RuleSet, text: Text, span: dict[str, Any]) -> None:
    match = text.find(pattern(rules.words.places))
    if match is None:
        _hinted(rules, text, span)
        return
    phrase = _phrase(rules.words.places, match)
    span["place"] = phrase.means
    place = rules.places[phrase.means]
    text.take(match, "span.place", f"{place.title}, method {place.method}")
    if phrase.told:
        text.assumed.append(f"“{match[0]}”: {phrase.told}")
    # The group lies as it can there; how was not said, so as the first that exists, which is never the better one.
    if "laid" in span and span["laid"] not in rules.laid_in(place):
        span["laid"] = rules.laid_as(place, span["laid"])
    if place.ground and "ambient" in span:
        span["ground"] = span.pop("ambient")


def _phrase(phrases: Iterable[Phrase], match: re.Match[str]) -> Phrase:
    said = " ".join(match[0].lower().split())
    return next(p for p in phrases if p.text == said)


def _hinted(rules: RuleSet, text: Text, span: dict[str, Any]) -> None:
    """A word that only hints at a place, in a span that no other word and no route places: taken the worse way, said, and left in the name."""
    match = text.find(pattern(rules.words.hints)) if rules.words.hints and "route" not in span else None
    if match is None:
        return
    phrase = _phrase(rules.words.hints, match)
    span["place"] = phrase.means
    place = rules.places[phrase.means]
    text.note(match, "span.place", f"{place.title}, method {place.method}")
    text.assumed.append(f"“{match[0]}”: {phrase.told}")


def _length(text: Text, span: dict[str, Any]) -> None:
    match = text.find(rf"({NUMBER})\s*(mm|cm|{METRES})") or text.find(rf"({NUMBER})()")
    if match is None:
        if "route" not in span:
            text.assumed.append(f"no length given for “{text.plain() or 'a span'}”")
        return
    span["length"] = round(number(match[1]) * UNITS.get(match[2].lower(), 1), 6)
    text.take(match, "span.length", quantity(span["length"], "m"))
