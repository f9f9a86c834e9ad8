"""The protective device as it is said: 'b40', 'C16 mcb', '40 A rcbo 30 mA 10 kA', 'bs88 80', 'rewirable 30'."""

from __future__ import annotations

from typing import Any

from mellow_span.core.figures import quantity
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.words import pattern
from mellow_span.core.said.text import NUMBER, Text, number
from mellow_span.core.units import AMPERE_PER_KA, MA_PER_A

BREAKERS = ("mcb", "rcbo")


def read_device(rules: RuleSet, text: Text) -> dict[str, Any]:
    """Read the device out of a text; return the fields of the device that were said, and those that are assumed with it.
    A breaker without its type is taken as type B, one that is only named by its type and rating as an MCB; both are told.
    """
    fields: dict[str, Any] = {}
    _residual(text, fields)
    _breaker(text, fields)
    _named(rules, text, fields)
    kind = fields.get("kind")
    if kind is None and ("idn" in fields or "rating" in fields):
        fields["kind"] = "rcbo" if "idn" in fields else "mcb"
        if "idn" not in fields:
            text.assumed.append("type of device not given: taken as an MCB")
    if fields.get("kind") in BREAKERS and "rating" in fields and "curve" not in fields:
        fields["curve"] = "B"
        text.assumed.append("breaker curve not given: taken as type B")
    _known(rules, text, fields)
    return fields


def _known(rules: RuleSet, text: Text, fields: dict[str, Any]) -> None:
    """Say where no table has a device of this kind and rating: nothing is looked up for it then."""
    kind, rating = fields.get("kind"), fields.get("rating")
    if kind is None or rating is None or rules.devices[kind].trips == "adjustable":
        return
    there = rules.ratings(kind)
    if rating not in there:
        usual = ", ".join(f"{r:g}" for r in there)
        text.assumed.append(f"no table has a {rules.devices[kind].title} of {rating:g} A (there are {usual}): its checks stay not known")


def _residual(text: Text, fields: dict[str, Any]) -> None:
    """What is said of residual current, breaking capacity and extras."""
    if match := text.find(rf"({NUMBER})\s*ma"):
        fields["idn"] = number(match[1]) / MA_PER_A
        text.take(match, "device.idn", f"IΔn {quantity(number(match[1]), 'mA')}")
    if match := text.find(rf"({NUMBER})\s*ka"):
        fields["icn"] = number(match[1]) * AMPERE_PER_KA
        text.take(match, "device.icn", f"Icn {quantity(number(match[1]), 'kA')}")
    if match := text.find(r"type\s*s|s[- ]type|time[- ]delayed|delayed"):
        fields["delayed"] = True
        text.take(match, "device.delayed", "time-delayed, type S")
    if match := text.find(r"(?:rcd\s+)?type\s*(ac|a|f)|rcd\s+type\s*(b)"):
        fields["rcd_type"] = (match[1] or match[2]).upper()
        text.take(match, "device.rcd_type", f"RCD type {fields['rcd_type']}")
    for word, field, told in (("afdd", "afdd", "with arc fault detection"), ("spd", "spd", "with surge protection")):
        if match := text.find(word):
            fields[field] = True
            text.take(match, f"device.{field}", told)


def _breaker(text: Text, fields: dict[str, Any]) -> None:
    """'b40', '40b', 'type c 16', 'type C'."""
    shapes = (rf"(?:type\s*)?(?P<c>[bcd])\s*(?P<r>{NUMBER})(?:\s*(?:a|amps?))?", rf"(?P<r>{NUMBER})\s*a?\s*(?:type\s*)?(?P<c>[bcd])")
    match = next((m for shape in shapes if (m := text.find(shape))), None)
    if match:
        fields["curve"], fields["rating"] = match["c"].upper(), number(match["r"])
        text.take(match, "device.rating", f"In {quantity(fields['rating'], 'A')}, type {fields['curve']}")
    elif lone := text.find(r"type\s*(?P<c>[bcd])|(?P<d>[bcd])[- ](?:type|curve)"):
        fields["curve"] = (lone["c"] or lone["d"]).upper()
        text.take(lone, "device.curve", f"type {fields['curve']}")


def _named(rules: RuleSet, text: Text, fields: dict[str, Any]) -> None:
    """A device named by its kind, with a rating before or after it where none was read yet."""
    names = pattern(rules.words.devices)
    before, after = rf"(?:({NUMBER})\s*a?\s+)?", rf"(?:\s*(?:fuse\s*)?({NUMBER})(?:\s*a|\s*amps?)?(?!\s*(?:x|×|k?w|m|off|a\b)\b))?"
    match = text.find(rf"()({names})()(?:\s*fuse)?" if "rating" in fields else rf"{before}({names}){after}(?:\s*fuse)?")
    if match is None:
        return
    said = " ".join(match[2].lower().split())
    kind = fields["kind"] = next(p.means for p in rules.words.devices if p.text == said)
    title = rules.devices[kind].title
    if match[1] and match[3]:
        text.refuse(match.start(3), match.end(), f"a second rating: {match[1]} A was said before it")
        match = text.find(rf"{before}({names})()(?:\s*fuse)?") or match
    rating = match[1] or match[3]
    if not rating:
        text.take(match, "device.kind", title)
        return
    fields["rating"] = number(rating)
    text.take(match, "device.rating", f"{quantity(number(rating), 'A')} {title}")


def read_amps(rules: RuleSet, text: Text, fields: dict[str, Any]) -> None:
    """Take an amount in A that stands by itself as the rating of a breaker, where that is one there is and no device was said. Told."""
    if "rating" in fields:
        return
    match = text.find(rf"({NUMBER})\s*(?:a|amps?)")
    if match is None or number(match[1]) not in rules.ratings("mcb"):
        return
    fields.setdefault("kind", "rcbo" if "idn" in fields else "mcb")
    if fields["kind"] in BREAKERS:
        fields.setdefault("curve", "B")
    fields["rating"] = number(match[1])
    text.take(match, "device.rating", f"In {quantity(number(match[1]), 'A')}")
    text.assumed.append(
        f"{match[1]} A was taken as the rating of the device, an {fields['kind'].upper()} of type {fields.get('curve', 'B')}"
    )
