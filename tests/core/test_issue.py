"""Issued designs: frozen with their hash, proved figure by figure; what lies between two states of a job."""

from __future__ import annotations

import copy
import json
from pathlib import Path
from typing import Any

import pytest

from mellow_span import cli, demo
from mellow_span.core.design.solving import changed
from mellow_span.core.errors import InputError
from mellow_span.core.model.changes import Change
from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets.fingerprint import fingerprint
from mellow_span.core.site.between import between
from mellow_span.exchange.document import read
from mellow_span.exchange.issue import hash_of, issued, prove
from tests.build import circuit, job, submain

HOUSES = [p.stem for p in Path(demo.__file__).parent.glob("*.json")]


def house(name: str) -> Installation:
    return read(json.loads((Path(demo.__file__).parent / f"{name}.json").read_text("utf-8")))


def frozen(inputs: Installation, **more: Any) -> Any:
    """A document as it comes back from a file."""
    return json.loads(json.dumps({**issued(inputs, 1, "2026-01-01T08:00:00+00:00", "Ann"), **more}))


@pytest.mark.parametrize("name", HOUSES)
def test_a_house_issued_and_read_back_stands_to_the_last_figure(name: str) -> None:
    found = prove(frozen(house(name)))
    assert (found.whole, found.tables, found.strays, found.stands) == (True, True, [], True)
    assert found.figures > 500


def test_any_change_of_what_it_holds_shows_in_its_hash() -> None:
    document = frozen(job(name="House"))

    def leaves(value: Any, path: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
        pairs = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else None
        return [path] if pairs is None else [leaf for k, v in pairs for leaf in leaves(v, (*path, k))]

    for path in leaves({k: v for k, v in document.items() if k != "hash"}):
        forged = copy.deepcopy(document)
        at: Any = forged
        for step in path[:-1]:
            at = at[step]
        at[path[-1]] = "forged"
        assert hash_of(forged) != document["hash"], path


@pytest.mark.parametrize(
    ("forge", "where"),
    [
        (lambda d: d["results"]["circuits"][0]["figures"].update(zs=0.1), "circuits[c].figures.zs"),
        (lambda d: d["results"]["circuits"][0]["checks"][1].update(verdict="meets", value=1.0), "circuits[c].checks[capacity].value"),
        (lambda d: d["results"]["circuits"][0].update(verdict="not_known"), "circuits[c].verdict"),
        (lambda d: d["results"]["intake"].pop(), "intake"),
        (lambda d: d["job"]["installation"]["supply"].update(ze=0.9), "circuits[c].figures.zs"),
    ],
)
def test_a_forged_figure_is_found_even_with_a_hash_made_to_fit(forge: Any, where: str) -> None:
    document = frozen(job(name="House"))
    forge(document)
    assert not prove(document).whole
    document["hash"] = hash_of(document)
    found = prove(document)
    assert found.whole
    assert not found.stands
    assert any(s.where.startswith(where) for s in found.strays), [s.where for s in found.strays]


def test_a_revision_stands_though_a_later_program_words_its_checks_otherwise() -> None:
    """What a check is called is no figure: a file issued before a change of words stands to the last figure, and one whose figure moved does not."""
    document = frozen(job(name="House"))
    for one in document["results"]["circuits"]:
        one.update(headline="said otherwise", reason="said otherwise")
        for k in one["checks"]:
            k.update(title="called otherwise", text="said otherwise")
    document["hash"] = hash_of(document)
    assert prove(document).stands
    document["results"]["circuits"][0]["checks"][0]["limit"] = 1.0
    document["hash"] = hash_of(document)
    assert not prove(document).stands


def test_other_tables_are_told() -> None:
    document = frozen(job(name="House"))
    document["ruleset"]["tables"] = "0" * 64
    document["hash"] = hash_of(document)
    found = prove(document)
    assert (found.whole, found.tables) == (True, False)
    assert len(fingerprint("bs7671")) == 64


@pytest.mark.parametrize("given", [None, [], {}, {"format": "mellow-span/job"}, {"format": "mellow-span/issue", "version": 99}])
def test_what_is_no_issued_design_is_refused(given: Any) -> None:
    with pytest.raises(InputError):
        prove(given)


def test_a_job_in_it_that_cannot_be_read_does_not_stand() -> None:
    document = frozen(job(name="House"))
    document["job"] = {"format": "none"}
    document["hash"] = hash_of(document)
    found = prove(document)
    assert not found.stands
    assert "format" in found.why


def test_the_command_says_whether_it_stands(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "issue.json"
    path.write_text(json.dumps(frozen(job(name="House")), ensure_ascii=False))
    assert cli.main(["prove", str(path)]) == 0
    assert "all agree" in capsys.readouterr().out
    document = json.loads(path.read_text())
    document["results"]["circuits"][0]["figures"]["iz"] = 99.0
    path.write_text(json.dumps(document, ensure_ascii=False))
    assert cli.main(["prove", str(path)]) == 1
    said = capsys.readouterr().out
    assert "CHANGED" in said
    assert "circuits[c].figures.iz: 99.0 in the file, 47.0 worked out" in said
    assert cli.main(["prove", "--json", str(path)]) == 1
    assert json.loads(capsys.readouterr().out)["stands"] is False
    assert cli.main(["prove", str(tmp_path / "none.json")]) == 2


def test_between_two_states_stands_what_was_changed_and_what_that_did() -> None:
    old = job(submain(ib_from="device"), circuit("f", board="far"), boards=["b", "far"])
    new = changed(old, [Change("set", "circuit", "m", {"cable.csa": 4}), Change("add", "circuit", "n", {"name": "new"}, "b")])
    found = between(old, new)
    assert any("10 mm² became 4 mm²" in text for text in found.lines)
    assert any("new added" in text for text in found.lines)
    where = {c.where: (c.before, c.after) for c in found.circuits}
    assert where["A1 m"][1] == "short"
    assert where["A2 new"][0] is None
    assert found.circuits[0].after == "short", "what got worse first"
    same = between(old, old)
    assert (same.lines, same.circuits) == ([], [])
