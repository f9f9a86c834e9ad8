"""The environment is read once, typed, and refuses to start the app where anything of it is wrong."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import pytest
from pydantic import ValidationError

from mellow_span.settings.environment import PREFIX, Environment, WrongSettings, read

ROOT = Path(__file__).parents[1]
KEY = "a key for a test only, of some length"


@pytest.fixture
def clean(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> Path:
    for name in [name for name in os.environ if name.startswith(PREFIX)]:
        monkeypatch.delenv(name)
    monkeypatch.setenv(f"{PREFIX}LOCAL", str(tmp_path))
    return tmp_path


def test_what_is_said_is_read_as_what_it_is(clean: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (clean / "secret_key").write_text(KEY + "\n")
    for name, text in {
        "DEBUG": "0", "HTTPS": "1", "HOSTS": "span.example.org, other.example.org,", "PROXY": "127.0.0.1", "NIGHTLY": "02:30",
        "STATEMENT_MS": "0", "MERCHANT": "http://127.0.0.1:81", "INSTRUMENT": "", "BIND": "::1",
    }.items():  # fmt: skip
        monkeypatch.setenv(PREFIX + name, text)
    found = read()
    assert (found.secret_key, found.debug, found.https, found.log) == (KEY, False, True, False)
    assert found.hosts == ("span.example.org", "other.example.org")
    assert (str(found.proxy), str(found.bind)) == ("127.0.0.1", "::1")
    assert found.nightly is not None
    assert (found.nightly.hour, found.nightly.minute, found.statement_ms, found.instrument) == (2, 30, 0, "")
    with pytest.raises(ValidationError):
        found.debug = True  # type: ignore[misc]


@pytest.mark.parametrize(
    ("name", "text"),
    [
        ("DEBUG", "perhaps"), ("HTTPS", "https"), ("HOSTS", "*"), ("HOSTS", "http://span.example.org"), ("PROXY", "the one in front"), ("BIND", "everywhere"),
        ("STATEMENT_MS", "-1"), ("STATEMENT_MS", "1e9"), ("DB_NAME", 'x"; drop'), ("MERCHANT", "127.0.0.1"), ("INSTRUMENT", "127.0.0.1"),
        ("NIGHTLY", "half past two"), ("PARENT", "0"), ("SECRET_KEY", "stubby"), ("HOST", "span.example.org"), ("Secret_key".upper() + "S", KEY),
    ],
)  # fmt: skip
def test_what_is_wrong_is_refused_with_the_variable_that_says_it(
    clean: Path, monkeypatch: pytest.MonkeyPatch, name: str, text: str
) -> None:
    (clean / "secret_key").write_text(KEY)
    monkeypatch.setenv(PREFIX + name, text)
    with pytest.raises(WrongSettings, match=PREFIX + name) as refused:
        read()
    assert name != "SECRET_KEY" or text not in str(refused.value), "half of a key is not repeated"


def test_without_a_key_nothing_starts(clean: Path) -> None:
    with pytest.raises(WrongSettings, match="there is no key"):
        read()
    for start in (["-m", "mellow_span.serving.server", "--port", "1"], ["-m", "mellow_span.serving.searcher"], ["manage.py", "check"]):
        done = subprocess.run([sys.executable, *start], cwd=ROOT, env={**os.environ}, capture_output=True, text=True, check=False)
        assert done.returncode == 1, start
        assert "MELLOW_SPAN_SECRET_KEY: there is no key" in done.stderr
        assert "Traceback" not in done.stderr


def test_every_setting_is_told_to_whoever_runs_it() -> None:
    told = (ROOT / "docs" / "operations.md").read_text("utf-8")
    inside = {"local", "secret_key", "debug", "origins", "statement_ms", "db_name", "parent"}
    assert {name for name in Environment.model_fields if PREFIX + name.upper() not in told} <= inside
