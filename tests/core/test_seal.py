"""What a firm issues is sealed by its key, signed within its own hash and chained: no character changes unnoticed, no file claims a signature it has not."""

from __future__ import annotations

import copy
import json
import random
import re
from pathlib import Path
from typing import Any

import pytest

from mellow_span import cli
from mellow_span.core.errors import InputError
from mellow_span.exchange.issue import BETWEEN, before_of, hash_of, issued, prove, prove_text, signature_of
from mellow_span.exchange.sealing import Key, new_key, seal, sealed, spelled
from tests.build import job

SECRET = b"of this server"
AT = "2026-01-01T08:00:00+00:00"
OURS, THEIRS = new_key(SECRET), new_key(SECRET)


def made(key: Key = OURS, number: int = 1, before: Any = None, signed: str = "Bo", **more: Any) -> dict[str, Any]:
    document = issued(job(name="House"), number, AT, "Ann", "for the client", (), "A firm", key.public, before_of(before))
    document["seal"] = seal(key.private, SECRET, document["hash"])
    if signed:
        signature = signature_of(document, signed, AT, "the shower waits")
        document["signature"] = {**signature, "seal": seal(key.private, SECRET, signature["hash"]), **more}
    return document


def written(document: Any) -> str:
    return json.dumps(document, ensure_ascii=False, indent=1)


def test_a_sealed_file_stands_and_says_by_which_key_and_after_which() -> None:
    first = made()
    second = made(number=2, before=first, signed="")
    found = prove_text(written(first))
    assert (found.stands, found.signed, found.sealed, found.key, found.made_here) == (True, "Bo", True, OURS.public, None)
    chained = prove_text(written(second), spelled(OURS.public).upper())
    assert (chained.stands, chained.signed, chained.made_here, chained.before) == (True, "", True, first["hash"][:16])
    # What signed the one before is inside the hash of the next.
    assert second["before"]["signature"] == first["signature"]["hash"] != made(number=2, before=made(signed=""))["before"]["signature"]


@pytest.mark.parametrize("indent", [None, 1, 4])
def test_white_space_is_no_change(indent: int | None) -> None:
    assert prove_text(json.dumps(made(), ensure_ascii=False, indent=indent) + "\n \t", OURS.public).stands


def test_no_character_changes_unnoticed() -> None:
    """300 of 300: a character put in, taken out or put in place of another, anywhere."""
    dice, text = random.Random(20), written(made())
    plain, met, noticed = BETWEEN.sub(r"\1", text), 0, 0
    while met < 300:
        at, how = dice.randrange(len(text)), dice.choice("-+=")
        put = dice.choice('0123456789abcdefABCXYZ.,:{}[]" _-é') if how != "-" else ""
        other = text[:at] + put + text[at + (how != "+") :]
        if BETWEEN.sub(r"\1", other) == plain:
            continue
        met += 1
        try:
            noticed += not prove_text(other).stands
        except InputError:
            noticed += 1
    assert noticed == 300


def test_the_same_value_written_otherwise_is_a_change_too() -> None:
    text = written(made())
    for old, new in (('"A firm"', '"\\u0041 firm"'), ("230.0", "2.3e2"), ("0.35", "0.350")):
        other = text.replace(old, new, 1)
        if other != text:
            assert json.loads(other) == json.loads(text)
            assert not prove_text(other).stands, old
    assert not prove_text(text.replace('"revision": 1,', '"revision": 9, "revision": 1,', 1)).stands


@pytest.mark.parametrize(
    "forge",
    [
        lambda d: d["signature"].update(name="Cy"),
        lambda d: d["signature"].update(exceptions=""),
        lambda d: d["signature"].update(statement="I looked at it"),
        lambda d: d["signature"].update(at="2026-02-01T08:00:00+00:00"),
        lambda d: d["signature"].update(more="also this"),
        lambda d: d["signature"].pop("seal"),
        lambda d: d["signature"].update(seal=d["seal"]),
        lambda d: d["signature"].update(seal=d["signature"]["seal"].upper()),
        lambda d: d.update(signature="Bo"),
        lambda d: d.update(signature=None),
        lambda d: d.update(seal=d["seal"].upper()),
        lambda d: d.pop("seal"),
        lambda d: d.update(key=THEIRS.public),
    ],
)
@pytest.mark.parametrize("fitted", [False, True])
def test_a_forged_signature_or_seal_is_none_even_with_hashes_made_to_fit(forge: Any, fitted: bool) -> None:
    document = made()
    forge(document)
    if fitted:
        document["hash"] = hash_of(document)
        if isinstance(document.get("signature"), dict):
            document["signature"] |= {"of": document["hash"]}
            document["signature"]["hash"] = hash_of(document["signature"])
    found = prove(document)
    assert not found.stands
    assert found.signed == ""


def test_a_file_made_elsewhere_is_told_by_the_key() -> None:
    """Whoever has a key of their own can seal anything; only the key that the firm prints tells it apart."""
    document = made(THEIRS)
    assert prove(document).stands
    assert prove(document).key == THEIRS.public
    found = prove(document, OURS.public)
    assert (found.made_here, found.stands) == (False, False)
    with pytest.raises(InputError):
        prove(document, "not a key")


def test_files_that_nothing_seals_never_read_signed() -> None:
    plain = issued(job(name="House"), 1, AT, "Ann")
    assert (prove(plain).stands, prove(plain).sealed, prove(plain).signed) == (True, False, "")
    claims = {**plain, "signature": {**signature_of(plain, "Bo", AT, ""), "seal": "0" * 128}}
    assert (prove(claims).stands, prove(claims).signed) == (False, "")
    # As they were issued before there was a seal: the figures stand, the signature says nothing.
    older = {k: v for k, v in copy.deepcopy(plain).items() if k not in ("firm", "key", "before")} | {"version": 1}
    older["hash"] = hash_of(older)
    older["signature"] = {"name": "Bo", "hash": older["hash"]}
    assert (prove(older).stands, prove(older).signed, prove(older, OURS.public).stands) == (True, "", False)
    assert not prove({**older, "signature": {"name": "Bo", "hash": "0" * 64}}).stands


def test_a_key_opens_with_its_secret_alone() -> None:
    digest = "ab" * 32
    assert sealed(OURS.public, digest, seal(OURS.private, SECRET, digest))
    assert not sealed(THEIRS.public, digest, seal(OURS.private, SECRET, digest))
    with pytest.raises(ValueError, match=r"."):
        seal(OURS.private, b"of another server", digest)
    assert "ENCRYPTED" in OURS.private


def test_the_command_says_what_it_can_tell_and_what_it_cannot(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = tmp_path / "issue.json"
    file.write_text(written(made()), "utf-8")
    assert cli.main(["prove", str(file)]) == 0
    told = capsys.readouterr().out
    assert "signed by Bo" in told
    assert "cannot tell who held the pen" in told
    assert spelled(OURS.public) in told
    assert cli.main(["prove", str(file), "--key", OURS.public]) == 0
    assert "sealed with the key you gave" in capsys.readouterr().out
    assert cli.main(["prove", str(file), "--key", THEIRS.public]) == 1
    assert "MADE ELSEWHERE" in capsys.readouterr().out
    file.write_text(re.sub('"exceptions": "[^"]*"', '"exceptions": "none"', written(made())), "utf-8")
    assert cli.main(["prove", str(file)]) == 1
    assert "not signed" in capsys.readouterr().out
