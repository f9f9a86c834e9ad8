"""The short version of ./run soak: strange inputs to every operation, and everything killed while people edit."""

from __future__ import annotations

import os
import subprocess
import sys

from tests.depth import many
from tests.server.conftest import ROOT


def test_strange_inputs_and_kills_leave_nothing_wrong() -> None:
    env = {k: v for k, v in os.environ.items() if not k.startswith("MELLOW_SPAN_")}
    # Twelve people are made and sign in: what a password costs has nothing to do with it.
    env["DJANGO_SETTINGS_MODULE"] = "tests.settings"
    done = subprocess.run(
        [sys.executable, "-m", "bench.soak", str(many(500, 60)), str(many(20, 1)), "60"],
        cwd=ROOT,
        env=env,
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stdout + done.stderr[-2000:]
    assert "nothing went wrong" in done.stdout
    assert "0 lost" in done.stdout
