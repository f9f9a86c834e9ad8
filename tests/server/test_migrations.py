"""A database of each earlier version is brought up to date with every stored result as it was."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest
from django.db import connection

ROOT = Path(__file__).parents[2]


@pytest.mark.django_db(transaction=True)
def test_a_house_stored_in_any_earlier_version_is_worked_out_as_it_was() -> None:
    env = {**os.environ, "MELLOW_SPAN_DB_NAME": connection.settings_dict["NAME"], "PYTHONPATH": str(ROOT)}
    done = subprocess.run([sys.executable, "-m", "tests.server.versions"], cwd=ROOT, env=env, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr[-2000:]
    answers = json.loads(done.stdout)
    there = sorted(p.stem for p in (ROOT / "mellow_span/jobs/migrations").glob("0*.py"))
    assert sorted(answers) == there, "each version there ever was"
    newest = answers[there[-1]]
    for version, found in answers.items():
        assert found["unfit"] == 0, version
        assert (found["edits"], found["name"], found["role"]) == (1, "Someone", "supervisor" if version < "0012" else "designer")
        # Readings that a circuit held are in the log, once there were any.
        read = [["Final", "r1r2", 0.11, 15.0], ["Final", "zs", 0.4, 15.0]]
        assert found["readings"] == ([] if version == "0001_initial" else read), version
        # A sub-main of the first version took the rating of its device; later ones take the demand of their board.
        ib = found["circuits"]["Sub-main"][0]
        assert ib == (40.0 if version == "0001_initial" else pytest.approx(2000 / 230)), version
        for name in ("Final", "Far final"):
            # What does not hang on that is the same to the last figure.
            assert found["circuits"][name][:2] == newest["circuits"][name][:2], (version, name)
        if version != "0001_initial":
            assert found["circuits"] == newest["circuits"], version
