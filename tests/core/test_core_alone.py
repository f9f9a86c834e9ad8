"""The core stands on the standard library alone, and knows nothing of the demo data."""

from __future__ import annotations

import ast
import json
import re
import sys
from pathlib import Path

import mellow_span.core
from mellow_span import demo
from mellow_span.core.rulesets import rule_set
from mellow_span.core.rulesets.vocabulary import CLAUSES, TABLES

CORE = Path(mellow_span.core.__file__).parent
FILES = sorted(CORE.rglob("*.py"))


def imported(file: Path) -> set[str]:
    found: set[str] = set()
    for node in ast.walk(ast.parse(file.read_text("utf-8"))):
        if isinstance(node, ast.Import):
            found |= {alias.name.split(".")[0] for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            found.add(node.module.split(".")[0])
    return found


def test_the_core_imports_the_standard_library_alone() -> None:
    for file in FILES:
        strange = imported(file) - set(sys.stdlib_module_names) - {"mellow_span"}
        assert not strange, (file, strange)


def test_rules_speak_of_tables_and_clauses_by_their_names_alone() -> None:
    """No number of a table and no clause stands as a literal in the code of a rule; docstrings cite them for whoever searches."""
    rules = rule_set("bs7671")
    numbers = {t for t in rules.tables if len(t) > 1}
    clause = re.compile(r"^\d{3}(\.\d+)+$|^Appendix \d|^Table \w")
    for file in [f for f in FILES if f.parent.parts[len(CORE.parts) :][:1] in (("rules",), ("design",), ("site",), ("drawing",))]:
        for node in ast.walk(ast.parse(file.read_text("utf-8"))):
            if isinstance(node, ast.Call):
                for argument in node.args:
                    if isinstance(argument, ast.Constant) and isinstance(argument.value, str):
                        assert argument.value not in numbers, (file, argument.value)
                        assert not clause.match(argument.value), (file, argument.value)


def test_every_name_of_the_vocabulary_stands_for_something_and_is_used() -> None:
    rules = rule_set("bs7671")
    assert set(rules.clauses) == CLAUSES
    assert set(rules.by_name) - set(rules.tables) == TABLES
    text = "\n".join(f.read_text("utf-8") for f in FILES if f.name != "vocabulary.py")
    for prefix, names in (("T", TABLES), ("C", CLAUSES)):
        unused = [n for n in names if not re.search(rf"\b({prefix}|Tables)\.{n.upper()}\b", text)]
        assert unused == []


def test_no_words_of_the_demo_data_stand_in_the_code() -> None:
    names: set[str] = set()
    for file in Path(demo.__file__).parent.glob("*.json"):
        data = json.loads(file.read_text("utf-8"))
        names |= {
            data["name"],
            *(c["name"] for c in data["installation"]["circuits"]),
            *(b["name"] for b in data["installation"]["boards"]),
        }
    special = {n for n in names if len(n.split()) > 1}
    root = CORE.parent
    for file in [*root.rglob("*.py"), *(root.parent / "web" / "src").rglob("*.ts*")]:
        if ".gen." in file.name or "test" in file.name or file.name == "schema.d.ts":
            continue
        text = file.read_text("utf-8")
        assert not [n for n in special if n in text], file
