"""Why a check is asked, and what a symbol is, in a few words: for whoever learns, and for whoever has to explain it to a client."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from functools import cache
from pathlib import Path


@dataclass(frozen=True, slots=True)
class WhyCheck:
    """Why a check is asked. guards: what it guards against; wrong: what goes wrong; differ: where practitioners differ, empty where they do not."""

    id: str
    guards: str
    wrong: str
    differ: str


@dataclass(frozen=True, slots=True)
class WhySymbol:
    """What a symbol of the working is."""

    symbol: str
    told: str


@dataclass(frozen=True, slots=True)
class Why:
    """Every check and symbol there is something to say of."""

    checks: tuple[WhyCheck, ...]
    symbols: tuple[WhySymbol, ...]


@cache
def why() -> Why:
    """Return what there is to say of checks and symbols.

    >>> next(s.told for s in why().symbols if s.symbol == "Ib")
    'Design current: what the circuit carries in normal use.'
    """
    found = tomllib.loads((Path(__file__).parent / "why.toml").read_text("utf-8"))
    checks = tuple(WhyCheck(i, c["guards"], c["wrong"], c.get("differ", "")) for i, c in found["check"].items())
    return Why(checks, tuple(WhySymbol(symbol, told) for symbol, told in found["symbol"].items()))


def as_markdown() -> str:
    """Return all of it as the page docs/rules/why.md."""
    lines = [
        "# Why this?",
        "",
        "What each check guards against, what goes wrong without it, and where practitioners differ; what each symbol is.",
        "Made from `core/findings/why.toml` by `mellow-span why`; the page shows the same beside each check and symbol.",
        "",
        "## Checks",
        "",
    ]
    for one in why().checks:
        title = one.id.replace("_", " ").capitalize()
        lines += [f"**{title}.** {one.guards} {one.wrong}{f' *{one.differ}*' if one.differ else ''}", ""]
    lines += ["## Symbols", "", "| symbol | what it is |", "|---|---|"]
    lines += [f"| {' in '.join(reversed(s.symbol.split('/')))} | {s.told} |" for s in why().symbols]
    return "\n".join([*lines, ""])
