"""Why this: every check and symbol there is has its words, on the page and in docs/rules alike."""

from __future__ import annotations

import json
import re
from pathlib import Path

import pytest

from mellow_span import demo
from mellow_span.core.design.check import work_out
from mellow_span.core.design.circuit import RULES
from mellow_span.core.findings.results import Check
from mellow_span.core.findings.why import WhySymbol, as_markdown, why
from mellow_span.exchange.document import read

ROOT = Path(__file__).parents[2]
FILES = [*Path(demo.__file__).parent.glob("*.json"), *(ROOT / "docs" / "format" / "examples").glob("*.json")]


def checks() -> list[Check]:
    found: list[Check] = []
    for file in FILES:
        r = work_out(read(json.loads(file.read_text("utf-8"))), keep=True).result
        found += [*r.intake, *(k for each in (r.circuits, r.boards, r.routes) for one in each for k in one.checks)]
    return found


def test_every_check_says_what_it_guards_against_and_none_is_of_a_check_that_is_gone() -> None:
    known = {c.id for c in why().checks}
    asked = {c.id for c in checks()} | {r.id for r in RULES}
    assert known == asked


def symbol_of(symbol: str, check: str = "") -> WhySymbol | None:
    """What a symbol is in a check, as the page looks it up (web/src/parts/why.ts): there alone, else by itself, else by what stands before its comma."""
    known = {s.symbol: s for s in why().symbols}
    tried = (f"{check}/{symbol}", symbol, symbol.rstrip("′"), symbol.partition(",")[0])
    return next((known[s] for s in tried if s in known), None)


def test_every_symbol_of_a_working_is_explained_or_is_a_plain_word() -> None:
    left = {s.symbol for c in checks() for s in c.steps if symbol_of(s.symbol, c.id) is None}
    assert not [s for s in left if not re.fullmatch(r"[a-z][a-z ]+[a-z]", s)]


@pytest.mark.parametrize(
    ("symbol", "check", "words"),
    [("I2", "overload_current", "conventional time"), ("I2", "volt_drop", "second line"), ("S,acc", "accessory", "Cross-section")],
)
def test_a_symbol_with_two_meanings_has_the_one_of_its_check(symbol: str, check: str, words: str) -> None:
    found = symbol_of(symbol, check)
    assert found is not None
    assert words in found.told


def test_what_is_said_is_short_and_never_calls_anything_safe() -> None:
    for one in why().checks:
        for text in (one.guards, one.wrong, one.differ):
            assert len(text) <= 260, one.id
            assert not re.search(r"\bsafe\b", text.replace("safe side", "")), one.id


def test_the_page_of_the_docs_is_made_from_the_same_words() -> None:
    assert (ROOT / "docs" / "rules" / "why.md").read_text("utf-8") == as_markdown()
