"""The cable as it is said: '10 flat', '2.5 mm²', '16/16 singles', '10 armoured 90 3 core', and the length of its run."""

from __future__ import annotations

from typing import Any

from mellow_span.core.figures import quantity
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.words import Phrase, pattern
from mellow_span.core.said.text import NUMBER, Text, number

MM2 = r"mm²|mm2|mm\^2|sq\s*mm|mm"

# Cores that the tables have armoured cables of.
CORES = (2, 3, 4)


def read_cable(rules: RuleSet, text: Text) -> dict[str, Any]:
    """Read family, csa, cpc and cores out of a text; return the fields of the cable that were said, and what is assumed with them.
    A number stands for the csa where it has mm² behind it, or the name of a family on either side.
    """
    fields: dict[str, Any] = {}
    if match := text.find(r"(\d{1,2})[\s-]*cores?|([2-4])\s*c"):
        count = int(match[1] or match[2])
        if count in CORES:
            fields["cores"] = count
            text.take(match, "cable.cores", f"{count} cores")
        else:
            text.refuse(*match.span(), "armoured cables of 2, 3 or 4 cores are in the tables")
    if match := text.find(rf"(?:with\s+|\+\s*)?({NUMBER})\s*(?:{MM2})?\s*(?:cpc|earth)|cpc\s*(?:of\s*)?({NUMBER})\s*(?:{MM2})?"):
        fields["cpc_csa"] = number(match[1] or match[2])
        text.take(match, "cable.cpc_csa", f"cpc {quantity(fields['cpc_csa'], 'mm²')}")
    names, size = pattern(rules.words.families), rf"({NUMBER})(?:\s*/\s*({NUMBER}))?\s*(?:{MM2})?"
    match = text.find(rf"{size}\s*({names})") or text.find(rf"()()({names})")
    if match:
        phrase = _phrase(rules.words.families, match[3])
        family = fields["family"] = phrase.means
        if phrase.told:
            text.assumed.append(phrase.told)
        after = None if match[1] else text.find(rf"{names}\s*({NUMBER})(?:\s*/\s*({NUMBER}))?\s*(?:{MM2})?(?!\s*(?:x|×|k?w|m|off)\b)")
        _sized(fields, match[1] or (after and after[1]), match[2] or (after and after[2]))
        own = f" with a cpc of {quantity(fields['cpc_csa'], 'mm²')}" if "cpc_csa" in fields else ""
        told = f"{quantity(fields['csa'], 'mm²')} " if "csa" in fields else ""
        text.take(after or match, "cable.family", told + rules.families[family].title + own)
    if "csa" not in fields and (match := text.find(rf"({NUMBER})(?:\s*/\s*({NUMBER}))?\s*(?:{MM2})")):
        _sized(fields, match[1], match[2])
        text.take(match, "cable.csa", quantity(fields["csa"], "mm²"))
    return _whole(rules, text, fields)


def _phrase(phrases: tuple[Phrase, ...], said: str) -> Phrase:
    plain = " ".join(said.lower().split())
    return next(p for p in phrases if p.text == plain)


def _sized(fields: dict[str, Any], csa: str | None, cpc: str | None) -> None:
    if csa:
        fields["csa"] = number(csa)
    if cpc:
        fields["cpc_csa"] = number(cpc)


def _whole(rules: RuleSet, text: Text, fields: dict[str, Any]) -> dict[str, Any]:
    """Add the cpc that goes with singles, and say where the family has no such size."""
    family = rules.families.get(fields.get("family", ""))
    csa = fields.get("csa")
    if family is None or csa is None:
        return fields
    if family.cpc == "single" and "cpc_csa" not in fields:
        fields["cpc_csa"] = csa
        text.assumed.append(f"cpc not given: a single of {quantity(csa, 'mm²')}, as the lines")
    if csa not in family.sizes:
        sizes = ", ".join(f"{s:g}" for s in family.sizes)
        text.assumed.append(f"no table has {family.title} of {quantity(csa, 'mm²')} (there are {sizes}): its checks stay not known")
    return fields


def read_bare_size(rules: RuleSet, text: Text, fields: dict[str, Any]) -> None:
    """Take a number that nothing else claimed as the csa, where cables have such a size. Told."""
    if "csa" in fields:
        return
    family = rules.families.get(fields.get("family", ""))
    sizes = family.sizes if family else {size for one in rules.families.values() for size in one.sizes}
    match = text.find(rf"({NUMBER})(?:\s*/\s*({NUMBER}))?")
    if match and number(match[1]) in sizes:
        _sized(fields, match[1], match[2])
        text.take(match, "cable.csa", quantity(fields["csa"], "mm²"))
        text.assumed.append(f"{match[1]} without a unit was taken as {quantity(fields['csa'], 'mm²')}")
