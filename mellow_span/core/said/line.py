"""A circuit said in one line.

    shower 9.2kW b40 rcbo 30mA 10 flat: riser 3.2 masonry, loft 2.4 under quilt, landing joists 7.5

Before the colon, in any order: the name and the loads, the device, the cable, the board. After it, between commas: the spans in the order
of the run. Without a colon a length and a place make one span. The grammar stands in docs/format/said.md.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field, replace
from typing import Any

from mellow_span.core.model.parts import Board, Route
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.words import Phrase, pattern
from mellow_span.core.said.cable import read_bare_size, read_cable
from mellow_span.core.said.device import read_amps, read_device
from mellow_span.core.said.loads import read_loads
from mellow_span.core.said.numbered import hidden, shown
from mellow_span.core.said.spans import METRES, parts, read_span, read_spans
from mellow_span.core.said.text import NUMBER, Text, Unread, Word, sentence_case

MOST = 500


@dataclass(slots=True)
class Said:
    """A line as it was understood. board: name of the board it starts from, feeds: of the one it feeds, as said; both None where not said.

    circuit, device, cable: fields of those parts; loads, spans: fields of each. words, unread: in the order of the line.
    """

    line: str
    circuit: dict[str, Any] = field(default_factory=dict)
    device: dict[str, Any] = field(default_factory=dict)
    cable: dict[str, Any] = field(default_factory=dict)
    loads: list[dict[str, Any]] = field(default_factory=list)
    spans: list[dict[str, Any]] = field(default_factory=list)
    board: str | None = None
    feeds: str | None = None
    words: tuple[Word, ...] = ()
    assumed: tuple[str, ...] = ()
    unread: tuple[Unread, ...] = ()

    @property
    def heading(self) -> bool:
        """Whether the line only says from which board the lines after it start."""
        return self.board is not None and not (self.circuit or self.device or self.cable or self.loads or self.spans or self.feeds)


def read_line(rules: RuleSet, line: str, boards: tuple[Board, ...] = (), routes: tuple[Route, ...] = ()) -> Said:
    """Read a circuit said in one line. boards, routes: those of the job, known by their names.
    Never raises for what it cannot read: that is told, with its place in the line, and the rest stands.

    >>> from mellow_span.core.rulesets import rule_set
    >>> said = read_line(rule_set("bs7671"), "shower 9.2kW b40 10 flat: riser 3.2 masonry")
    >>> said.circuit["name"], said.device["rating"], said.cable["csa"], said.spans[0]["length"]
    ('Shower', 40.0, 10.0, 3.2)
    """
    line = line[:MOST]
    said = Said(line)
    whole = Text(line)
    colon = line.find(":")
    whole.left = hidden(rules, line) if colon < 0 else hidden(rules, line[:colon]) + hidden(rules, line[colon:], 1)
    head, tail = _cut(whole)
    _circuit(head, said)
    _boards(head, boards, said)
    if tail is None:
        head = _spans_between(rules, routes, head, said)
    said.cable = read_cable(rules, head)
    said.device = read_device(rules, head)
    if tail is None and not said.spans:
        _one_span(rules, routes, head, said)
    read_amps(rules, head, said.device)
    said.loads = read_loads(rules, head)
    read_bare_size(rules, head, said.cable)
    _unloaded(head, said)
    if said.loads and all(load["kind"] == "cooking" for load in said.loads) and "diversified" not in said.circuit:
        head.assumed.append("cooking alone on its circuit is taken after the usual allowance in a household: say “in full” where it is not")
    if tail is not None:
        said.spans = read_spans(rules, routes, tail)
    _name(head, said)
    said.circuit, said.loads, said.spans = shown(said.circuit), shown(said.loads), shown(said.spans)
    said.board, said.feeds = shown(said.board), shown(said.feeds)
    whole.words = [replace(w, told=shown(w.told)) for w in whole.words]
    whole.assumed = shown(whole.assumed)
    said.words = tuple(sorted(whole.words, key=lambda w: (w.start, w.end)))
    said.unread = tuple(sorted(whole.unread, key=lambda w: w.start))
    said.assumed = tuple(dict.fromkeys(whole.assumed))
    return said


def _cut(whole: Text) -> tuple[Text, Text | None]:
    """Cut the line at its colon."""
    at = whole.left.find(":")
    if at < 0:
        return whole, None
    return whole.within(0, at), whole.within(at + 1, len(whole.left))


def _boards(text: Text, boards: tuple[Board, ...], said: Said) -> None:
    """The board it feeds and the board it starts from. A name that no board has runs to the next comma."""
    names = pattern(Phrase(b.name.lower(), b.id) for b in boards if b.name)
    for word, field_name, told in (
        (r"feeding|feeds|to\s+feed|supplying|supplies|sub-?main\s+to", "feeds", "feeds the board"),
        (r"from|on\s+board", "board", "fed from the board"),
    ):
        known = text.find_name(rf"(?:{word})\s+(?:the\s+)?(?:board\s+)?({names})(?:\s+board)?") if names else None
        match = known or text.find(rf"(?:{word})\s+(?:the\s+|a\s+)?(?:new\s+)?(?:board\s+)?([^,;:\x00]+?)(?=\s*(?:[,;:\x00]|$))")
        if match:
            setattr(said, field_name, " ".join(match[1].split()))
            text.take(match, f"circuit.{field_name}", f"{told} {match[1]}")


def _circuit(text: Text, said: Said) -> None:
    """What is said of the circuit itself: phases, phase, shape, and whether it is there already or spare."""
    if match := text.find(r"(?:three|3)[- ]?phase|3\s*ph|tp\s*&?\s*n|tpn"):
        said.circuit["phases"] = 3
        text.take(match, "circuit.phases", "three-phase")
    elif match := text.find(r"(?:single|1)[- ]?phase|1\s*ph|sp\s*&?\s*n|spn"):
        said.circuit["phases"] = 1
        text.take(match, "circuit.phases", "single-phase")
    if match := text.find(r"(?:on\s+)?l([123])"):
        said.circuit["phase"] = f"L{match[1]}"
        text.take(match, "circuit.phase", f"on phase L{match[1]}")
    if match := text.find(r"(?:on|behind)\s+rcd\s*([1-3])"):
        said.circuit["section"] = int(match[1])
        text.take(match, "circuit.section", f"behind RCD {match[1]} of its board")
    if match := text.find(r"ring\s+final|ring\s+main|ring"):
        said.circuit["shape"] = "ring"
        text.note(match, "circuit.shape", "a ring")
    elif match := text.find(r"radial"):
        said.circuit["shape"] = "radial"
        text.take(match, "circuit.shape", "a radial")
    if match := text.find(r"in\s+full"):
        said.circuit["diversified"] = False
        text.take(match, "circuit.diversified", "in full, without diversity")
    elif match := text.find(r"after\s+(?:diversity|the\s+usual\s+allowance)"):
        said.circuit["diversified"] = True
        text.take(match, "circuit.diversified", "after diversity")
    for word, name, told in ((r"existing|already\s+there", "existing", "existing"), (r"spare", "spare", "not connected: carries nothing")):
        if match := text.find(word):
            said.circuit[name] = True
            text.take(match, f"circuit.{name}", told)


def _spans_between(rules: RuleSet, routes: tuple[Route, ...], head: Text, said: Said) -> Text:
    """Without a colon: what stands between commas after the first, and has a length in metres, is a span."""
    for part in list(parts(head))[1:]:
        if part.find(rf"{NUMBER}\s*(?:{METRES})") and not part.find(r"kw|rcbo|mcb|ma|ka"):
            said.spans.append(read_span(rules, routes, part))
            start = part.start - head.start
            head.left = head.left[:start] + "\x00" * len(part.left) + head.left[start + len(part.left) :]
    return head


def _one_span(rules: RuleSet, routes: tuple[Route, ...], head: Text, said: Said) -> None:
    """Without a colon: a length in metres, and what follows it up to the end, make one span."""
    match = head.find(rf"{NUMBER}\s*(?:{METRES})(?:\s+.*)?$")
    if match is None:
        return
    part = head.within(head.start + match.start(), head.start + len(head.left))
    said.spans.append(read_span(rules, routes, part))
    head.left = head.left[: match.start()] + "\x00" * (len(head.left) - match.start())


def _unloaded(head: Text, said: Said) -> None:
    """A ring of which no load was said serves socket-outlets."""
    if said.circuit.get("shape") == "ring" and not said.loads and not said.feeds:
        said.loads = [{"kind": "sockets", "basis": "In", "name": "sockets"}]
        head.assumed.append("a ring feeds sockets: full device rating assumed")


def _name(head: Text, said: Said) -> None:
    """What is left is the name; a number left over is not understood."""
    for match in list(head.rest()):
        if match[0][0].isdigit():
            head.refuse(*match.span(), "a number without a unit that fits: say 9.2 kW, b40, 10 mm², 12 m")
    if quoted := re.search(r"[\"“”']([^\"“”']+)[\"“”']", head.left):
        said.circuit["name"] = quoted[1].strip()
        head.take(quoted, "circuit.name", "the name")
        return
    name = head.plain().strip("-–. ")
    if name:
        said.circuit["name"] = sentence_case(name)
        told = f"name: {said.circuit['name']}"
        named: Word | None = None
        for word in head.rest():
            start = head.start + word.start()
            # Words that say something else as well are told as that.
            known = next((w for w in head.words if w.start <= start < w.end), None)
            if known is None:
                head.note(word, "circuit.name", told)
                told = ""
            named = named or known
        if told and named:
            head.words[head.words.index(named)] = replace(named, told=f"{named.told}; {told}")
    elif said.feeds:
        said.circuit["name"] = f"{sentence_case(said.feeds)} sub-main"
        head.assumed.append(f"no name given: “{said.circuit['name']}”")
