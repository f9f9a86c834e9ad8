"""The command line: plain data wherever it is offered, standard input and output in place of files, names in place of numbers, completion."""

from __future__ import annotations

import io
import json
import os
import subprocess
import sys
import zipfile
from pathlib import Path
from typing import Any

import pytest

from mellow_span import cli
from mellow_span.cli.commands import parser
from mellow_span.exchange.packs import as_zip, from_folder

HOUSE = "mellow_span/demo/orchard_row.json"
PACK = "docs/format/packs/fuses-by-i2"
# How each command is called, without --json. What one is not in this list is told by the test below.
CALLS: dict[str, list[str]] = {
    "check": [HOUSE], "say": ["shower 9.2kW b40 rcbo 10 flat: loft 8"], "size": [HOUSE, "A3"], "options": [HOUSE, "A4"], "pull": [HOUSE], "materials": [HOUSE],
    "isolate": [HOUSE, "A4"], "paper": [HOUSE, "labels", "--out", "OUT.csv"], "read": [HOUSE, "READINGS"], "prove": ["ISSUE"], "verify": [HOUSE],
    "coordinate": [HOUSE], "advise": [HOUSE], "hold": [HOUSE], "explain": [HOUSE, "Shower"], "tables": [], "compare": [HOUSE, "--with", "iec60364"],
    "pack": [PACK], "why": [], "schema": [], "fields": [], "completion": ["bash"],
}  # fmt: skip


def commands() -> list[str]:
    return list(next(a.choices for a in parser()._actions if isinstance(a.choices, dict)))


@pytest.fixture
def files(tmp_path: Path) -> dict[str, str]:
    from mellow_span.exchange.document import read
    from mellow_span.exchange.issue import issued

    job = read(json.loads(Path(HOUSE).read_text("utf-8")))
    (tmp_path / "issue.json").write_text(json.dumps(issued(job, 1, "2026-01-01T08:00:00+00:00", "Ann"), ensure_ascii=False), "utf-8")
    (tmp_path / "readings.csv").write_text("circuit,quantity,value\nA4,zs,0.3\n", "utf-8")
    return {"OUT.csv": str(tmp_path / "out.csv"), "READINGS": str(tmp_path / "readings.csv"), "ISSUE": str(tmp_path / "issue.json")}


def test_every_command_is_in_the_list() -> None:
    assert set(CALLS) == set(commands())


@pytest.mark.parametrize("command", sorted(CALLS))
def test_every_command_prints_plain_data_where_it_is_asked_for(
    command: str, files: dict[str, str], capsys: pytest.CaptureFixture[str]
) -> None:
    status = cli.main([command, *(files.get(a, a) for a in CALLS[command]), "--json"])
    out = capsys.readouterr()
    assert status in (0, 1), out.err
    assert json.loads(out.out), out.out[:200]


def stdin(monkeypatch: pytest.MonkeyPatch, content: bytes) -> None:
    monkeypatch.setattr(sys, "stdin", io.TextIOWrapper(io.BytesIO(content), "utf-8"))


def stdout(monkeypatch: pytest.MonkeyPatch) -> io.BytesIO:
    out = io.BytesIO()
    monkeypatch.setattr(sys, "stdout", io.TextIOWrapper(out, "utf-8", write_through=True))
    return out


def test_a_paper_goes_to_standard_output_and_what_is_told_beside_it(
    monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    stdin(monkeypatch, Path(HOUSE).read_bytes())
    out = stdout(monkeypatch)
    assert cli.main(["paper", "-", "chart", "--out", "-", "--form", "pdf"]) == 0
    assert out.getvalue().startswith(b"%PDF-")
    assert "Board chart" in capsys.readouterr().err
    assert cli.main(["paper", HOUSE, "chart", "--out", "-"]) == 2, "nothing says what kind it is"


def test_readings_come_from_standard_input_and_the_job_goes_to_standard_output(monkeypatch: pytest.MonkeyPatch) -> None:
    stdin(monkeypatch, "\ufeffcircuit,quantity,value\nShower,zs,0.3\n".encode())
    out = stdout(monkeypatch)
    assert cli.main(["read", HOUSE, "-", "--out", "-"]) in (0, 1)
    job = json.loads(out.getvalue())
    assert any(e["kind"] == "reading" and e["data"].get("value") == 0.3 for e in job["site"])
    stdin(monkeypatch, b"")
    assert cli.main(["read", "-", "-"]) == 2, "it can be read once"


def test_prices_and_packs_come_from_standard_input(monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> None:
    stdin(monkeypatch, b"item,name,size,price\ncable,flat_twin_cpc_pvc70,6,99\n")
    assert cli.main(["materials", HOUSE, "--prices", "-"]) == 0
    assert "1287.00" in capsys.readouterr().out
    zipped = as_zip(from_folder(Path(PACK)))
    stdin(monkeypatch, zipped)
    out = stdout(monkeypatch)
    assert cli.main(["pack", "-", "--out", "-"]) == 0
    assert zipfile.ZipFile(io.BytesIO(out.getvalue())).namelist() == zipfile.ZipFile(io.BytesIO(zipped)).namelist()


@pytest.mark.parametrize(
    "words", [["tables", "4d5"], ["tables", "soil"], ["size", HOUSE, "shower"], ["explain", HOUSE, "a4"], ["options", HOUSE, "A4"], ["options", HOUSE, "house board"], ["isolate", HOUSE, "Shower"]]
)  # fmt: skip
def test_names_do_where_numbers_do(words: list[str], capsys: pytest.CaptureFixture[str]) -> None:
    assert cli.main(words) in (0, 1), capsys.readouterr().err


def completed(line: str) -> list[str]:
    """What a shell would offer after a line, asked as a shell asks it."""
    where = {
        "COMP_LINE": line,
        "COMP_POINT": str(len(line)),
        "_ARGCOMPLETE": "1",
        "_ARGCOMPLETE_STDOUT_FILENAME": "/dev/stdout",
        "_ARGCOMPLETE_IFS": "\n",
    }
    code = "import sys; sys.argv[0] = 'mellow-span'; from mellow_span.cli import main; main()"
    found = subprocess.run([sys.executable, "-c", code], env={**os.environ, **where}, capture_output=True, text=True, check=False)
    return [word.strip() for word in found.stdout.split("\n") if word.strip()]


def test_a_shell_completes_commands_options_and_choices() -> None:
    assert set(completed("mellow-span ma")) == {"materials"}
    assert "--joint" in completed("mellow-span size job.json --")
    assert set(completed("mellow-span paper job.json minor")) == {"minor_work"}


def test_the_code_for_a_shell_is_printed(capsys: pytest.CaptureFixture[str]) -> None:
    for shell in ("bash", "zsh", "fish"):
        assert cli.main(["completion", shell]) == 0
        assert "mellow-span" in capsys.readouterr().out


def test_help_says_what_the_exit_status_means() -> None:
    def text(of: Any) -> str:
        return str(of.format_help())

    assert "Exit status" in text(parser())
