"""The loads as they are said: '9.2 kW shower', '6 x 8 W lights pf 0.9', 'sockets', 'kiln 9.2 kW + wheel 400 W later'."""

from __future__ import annotations

import re
from typing import Any

from mellow_span.core.figures import figure, quantity
from mellow_span.core.model.circuit import RESISTIVE
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.words import pattern
from mellow_span.core.said.text import NUMBER, Text, number
from mellow_span.core.units import WATT_PER_KW

UNITS = "kva|kw|k|w|va|a|amps?|watts?"
AMOUNT = rf"(?:(\d{{1,3}})\s*(?:x|×|off|no\.?|nr\.?)\s*)?({NUMBER})\s*({UNITS})"
# Several loads on one circuit are set apart by these; 'and' is one of them only where another amount, or sockets, follow: a boiler and pump
# of 350 W is one load.
BETWEEN = r"\s*\+\s*|\s+plus\s+|;|\s+and\s+(?=[^+;]*?(?:\d\s*(?:{units})|{sockets})(?![^\W_]))"


def read_loads(rules: RuleSet, text: Text) -> list[dict[str, Any]]:
    """Read the loads out of what is left of a text; return the fields of each. Words that name a load stay where they are: the name of the
    circuit is made of them.
    """
    found = []
    start = 0
    sockets = pattern(p for p in rules.words.loads if p.means == "sockets")
    between = BETWEEN.format(units=UNITS, sockets=sockets)
    for match in [*re.finditer(between, text.left, re.IGNORECASE), None]:
        end = match.start() if match else len(text.left)
        part = text.within(text.start + start, text.start + end)
        if load := read_load(rules, part):
            found.append(load)
        text.left = text.left[:start] + part.left + text.left[end:]
        if match:
            start = match.end()
    return found


def read_load(rules: RuleSet, text: Text) -> dict[str, Any] | None:
    """Read one load out of a text; None where there is neither an amount nor a word for one."""
    load: dict[str, Any] = {}
    kind = text.find(pattern(rules.words.loads))
    what = rules.words.load_titles[meaning] if kind and (meaning := _kind(rules, kind[0])) else "load"
    if amount := text.find(AMOUNT):
        _amount(load, amount)
        each = watts(load["amount"]) if load["basis"] == "W" else quantity(load["amount"], "A")
        times = f"{load['quantity']} × " if load.get("quantity", 1) > 1 else ""
        text.take(amount, "load.amount", f"{times}{each}")
    if kind is None and not load:
        return None
    if match := text.find(r"(?:pf|cos(?:\s*phi|\s*φ)?)\s*(0?[.,]\d+|1(?:[.,]0+)?)"):
        load["pf"] = number(match[1] if match[1][0].isdigit() else f"0{match[1]}")
        text.take(match, "load.pf", f"power factor {figure(load['pf'])}")
    if match := text.find(r"(?:(?:label(?:led)?\s+)?at\s+)?(\d{3})\s*v(?:olts?)?"):
        load["rated_volts"] = number(match[1])
        text.take(match, "load.rated_volts", f"{match[1]} V on its label")
    if match := text.find(r"(?:may\s+come\s+)?later|future|to\s+come"):
        load["future"] = True
        text.take(match, "load.future", "future load: in the second total only")
    load["kind"] = _kind(rules, kind[0]) if kind else "other"
    if kind:
        text.note(kind, "load.kind", f"load: {what}")
    if "amount" not in load:
        _unsaid(rules, text, load, what)
    elif load["basis"] == "W" and load["kind"] in RESISTIVE and "rated_volts" not in load:
        text.assumed.append(f"label volts of the {what} not given: its watts are taken at the supply voltage")
    load["name"] = " ".join(m[0] for m in text.rest() if not m[0][0].isdigit()) or what
    return load


def watts(value: float) -> str:
    """Return a power as it is said: in kW from a kilowatt on.

    >>> watts(9200), watts(400)
    ('9.2 kW', '400 W')
    """
    return f"{value / WATT_PER_KW:g} kW" if value >= WATT_PER_KW else f"{value:g} W"


def _amount(load: dict[str, Any], match: re.Match[str]) -> None:
    value, unit = number(match[2]), match[3].lower()
    load["basis"] = "A" if unit.startswith("a") else "W"
    load["amount"] = round(value * WATT_PER_KW, 6) if unit.startswith("k") else value
    if match[1]:
        load["quantity"] = int(match[1])


def _unsaid(rules: RuleSet, text: Text, load: dict[str, Any], what: str) -> None:
    """A load without an amount: sockets take the whole rating of the device, everything else stays to be entered."""
    times = text.find(r"(\d{1,3})\s*(?:x|×|off|no\.?|nr\.?)") or text.find(rf"(\d{{1,3}})(?=\s+(?:{pattern(rules.words.loads)}))")
    if times:
        load["quantity"] = int(times[1])
        text.take(times, "load.quantity", f"{times[1]} of them")
    if load["kind"] == "sockets":
        load["basis"] = "In"
        text.assumed.append("sockets without a rating count the full device rating")
    else:
        text.assumed.append(f"no rating given for the {what}: Ib not known")


def _kind(rules: RuleSet, said: str) -> str:
    plain = " ".join(said.lower().split())
    return next(p.means for p in rules.words.loads if p.text == plain)
