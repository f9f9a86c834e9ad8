"""Numbers that belong to a name: 'Bedroom 2', 'Flat 3'. They are hidden from whoever reads figures, and put back into what is kept."""

from __future__ import annotations

import re
from functools import cache
from typing import Any

from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.words import pattern

# What is numbered in a building; kitchens and sheds are not.
PLACES = (
    r"bedrooms?|beds?|rooms?|flats?|units?|plots?|floors?|levels?|apartments?|apts?|studios?|offices?|berths?|pitch|bays?|stables?|zones?"
)
# A figure before one of these is a figure: 'room 3 x 8 W', 'flat 16 rcbo'.
UNITS = r"x|×|off|nr|k?va|k?w|watts?|a|amps?|ma|ka|m|mm|mm²|mm2|metres?|meters?|c|v|volts?|°|%|ω|ph|phase|cores?|circuits|cables"
# Digits stand as private characters while the rest of the line is read: they are no figures there, and keep their places.
_FROM = 0xE000
HIDDEN = {ord(str(k)): chr(_FROM + k) for k in range(10)}
SHOWN = {_FROM + k: str(k) for k in range(10)}


@cache
def _numbered(after: str) -> re.Pattern[str]:
    # After a size 'flat' is a cable.
    return re.compile(
        rf"(?<![^\W_])(?<!\d )(?<!\d)(?:{PLACES})\s+(\d{{1,3}}[a-z]?)(?![^\W_])(?![.,]\d)(?!\s*(?:{UNITS}|{after})(?![^\W_]))",
        re.IGNORECASE,
    )


def hidden(rules: RuleSet, line: str, figures: int = 0) -> str:
    """Return a line with the digits of its numbered names hidden. figures: how many figures must still come before the next comma, so that
    'bedroom 2' in a run stays a bedroom of 2 m.
    """
    numbered = _numbered(pattern((*rules.words.families, *rules.words.devices)))

    def hide(match: re.Match[str]) -> str:
        after = re.split(r"[,;\[\]]", line[match.end() :], maxsplit=1)[0]
        if len(re.findall(r"\d+(?:[.,]\d+)?", after)) < figures:
            return match[0]
        start = match.start(1) - match.start()
        return match[0][:start] + match[1].translate(HIDDEN)

    return numbered.sub(hide, line)


def shown(value: Any) -> Any:
    """Return what was read with the digits of names put back: a text, or every text in lists and mappings."""
    if isinstance(value, str):
        return value.translate(SHOWN)
    if isinstance(value, list):
        return [shown(one) for one in value]
    return {k: shown(v) for k, v in value.items()} if isinstance(value, dict) else value
