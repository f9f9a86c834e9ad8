"""The voice: words that an electrician reads twice do not come back into what a person reads. docs/glossary.md has the words that are used."""

from __future__ import annotations

import ast
import io
import re
import tokenize
from collections.abc import Iterator
from functools import cache
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
# What is not said, and why: one thing has one word, and no word means two things on site.
NOT_SAID = {
    r"\bways? out\b": "a fire exit: fix, or remedy for existing work",
    r"\bopens? first\b": "operates first",
    r"\bsuppliers?\b": "distributor",
    r"\bthrottl\w+": "limits",
    r"\bput aside\b": "does not apply",
    r"\bset aside\b": "not accepted",
    r"\bshort by\b": "fails by: short is a short circuit",
    r"\bis short\b": "fails",
    r"\bcrosswise\b": "cross-connected",
    r"\bopen neutral\b": "broken PEN",
    r"\bcombined conductor\b": "PEN",
    r"\bcarried across\b": "run with the feed",
    r"\bsmallest break\b": "nearest failure",
    r"\bfar point\b": "far end",
    r"\blet it go\b": "discard",
    r"\bmay come later\b": "future load",
    r"\bjoined crosswise\b": "cross-connected",
    r"\basked for\b": "needed",
    r"\bpull list\b": "cable list",
}
# Where one of them is right: the file, and the words.
EXCEPTIONS = {
    ("web/src/frame/steps.ts", "pull list"),  # found by it in the list of places to go to, never shown
    ("mellow_span/serving/management/commands/add_member.py", "asked for"),  # a password is
    ("mellow_span/core/site/entries.py", "pull list"),  # the name of a field in stored entries
}
UNSEEN = ("migrations", "__pycache__", "demo", "node_modules")


def said_in_python(path: Path) -> Iterator[str]:
    """Every string that is no docstring and has more than one word."""
    text = path.read_text("utf-8")
    docs = set()
    for node in ast.walk(ast.parse(text)):
        if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef) and ast.get_docstring(node):
            docs.add(node.body[0].lineno)
    for token in tokenize.generate_tokens(io.StringIO(text).readline):
        if token.type == tokenize.STRING and token.start[0] not in docs and " " in token.string:
            yield token.string


def said_on_the_page(path: Path) -> Iterator[str]:
    """Every line that is no comment and no import."""
    text = re.sub(r"/\*.*?\*/|(?<![:\"'`])//[^\n]*|^import[^;]*;", "", path.read_text("utf-8"), flags=re.DOTALL | re.MULTILINE)
    yield from text.splitlines()


def files() -> list[Path]:
    found = [p for p in (ROOT / "mellow_span").rglob("*.py") if not set(p.parts) & set(UNSEEN)]
    pages = [
        p
        for p in (ROOT / "web" / "src").rglob("*.ts*")
        if ".test." not in p.name and ".gen." not in p.name and not p.name.endswith(".d.ts")
    ]
    return found + [p for p in pages if not set(p.parts) & set(UNSEEN) and "tests" not in p.parts]


@cache
def said() -> tuple[tuple[str, str], ...]:
    """All that a person may read, by the file it stands in."""
    return tuple(
        (path.relative_to(ROOT).as_posix(), line)
        for path in files()
        for line in (said_in_python(path) if path.suffix == ".py" else said_on_the_page(path))
    )


@pytest.mark.parametrize("words", NOT_SAID)
def test_no_word_that_is_read_twice_comes_back(words: str) -> None:
    found = []
    for name, line in said():
        match = re.search(words, line, re.IGNORECASE)
        if match and (name, match[0].lower()) not in EXCEPTIONS:
            found.append(f"{name}: {line.strip()[:120]}")
    assert not found, f"say {NOT_SAID[words]}"


def test_the_verdicts_are_said_in_four_words() -> None:
    """On the page, on paper and on the command line alike; data keep theirs."""
    from mellow_span.cli.files import WORDS
    from mellow_span.papers.page import STANDS

    verdicts = {"meets": "meets", "close": "marginal", "short": "fails", "not_known": "not known"}
    assert verdicts == STANDS
    assert {k: v.lower() for k, v in WORDS.items()} == verdicts
    page = (ROOT / "web/src/ui/verdict.tsx").read_text("utf-8")
    assert dict(re.findall(r'^  (\w+): "([a-z ]+)",$', page, re.MULTILINE)[:4]) == verdicts


def test_the_sentences_of_a_view_stand_in_its_words_file() -> None:
    """The next edit of a text is a file and not a hunt. A sentence with an entry or a link in its middle stays where that is."""
    whole = re.compile(r"^\s+[A-Z][^{}<>=;()]*\w[.?…]$", re.MULTILINE)
    views = [p for room in ("features", "frame") for p in (ROOT / "web/src" / room).rglob("*.tsx") if ".test." not in p.name]
    assert len(views) > 60
    assert {
        str(p.relative_to(ROOT)): found
        for p in views
        if (found := whole.findall(re.sub(r"/\*.*?\*/|//[^\n]*", "", p.read_text("utf-8"), flags=re.DOTALL)))
    } == {}
