"""All tests, stage by stage: every stage runs whatever the others did, and the last line says how many passed and failed.

suite.py                 every stage
suite.py --deep          the same, with many random examples: for nights
suite.py --changed       the stages and tests of the rooms that changed since the last commit, or in it
suite.py PATH ...        pytest on these, vitest on what lies under web/
"""

from __future__ import annotations

import os
import re
import subprocess
import sys
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent))
import rooms

ROOT = Path(__file__).resolve().parents[1]
BIN = Path(sys.executable).parent
LOGS = Path(os.environ.get("MELLOW_SPAN_LOCAL", ROOT / ".local")) / "tests"
CORES = max(1, len(os.sched_getaffinity(0)))
NPM = ["npm", "--prefix", "web", "run", "--silent"]
# The end of a log that is shown where a stage failed [lines].
SHOWN = 60


@dataclass
class Stage:
    """A command and what came of it. counted: reads passed and failed from what it printed; a stage without is one test itself."""

    name: str
    command: list[str]
    advice: str
    counted: Callable[[str], tuple[int, int]] | None = None
    passed: int = 0
    failed: int = 0
    seconds: float = 0.0
    log: Path = field(init=False)

    def __post_init__(self) -> None:
        self.log = LOGS / f"{re.sub('[^a-z]+', '-', self.name.lower())}.log"

    def run(self) -> None:
        """Run it, keep what it printed, and say how it ended."""
        began = time.monotonic()
        with self.log.open("wb") as log:
            status = subprocess.run(self.command, cwd=ROOT, stdin=subprocess.DEVNULL, stdout=log, stderr=subprocess.STDOUT, check=False)
        self.seconds = time.monotonic() - began
        printed = re.sub(r"\x1b\[[0-9;]*m", "", self.log.read_text("utf-8", "replace"))
        self.passed, self.failed = self.counted(printed) if self.counted else (0, 0)
        if status.returncode and not self.failed:
            self.failed = 1
        elif not self.counted and not status.returncode:
            self.passed = 1
        print(f"  {self.name:<22} {self.seconds:7.1f} s  {self.passed:5} passed {self.failed:5} failed", flush=True)

    def tell(self) -> None:
        """Show the end of what a stage that failed has printed."""
        lines = self.log.read_text("utf-8", "replace").splitlines()
        print(
            f"\n── {self.name} ── {self.advice}; all of it in {self.log.relative_to(ROOT) if self.log.is_relative_to(ROOT) else self.log}"
        )
        print("\n".join(lines[-SHOWN:]))


def by_pytest(printed: str) -> tuple[int, int]:
    """Read the closing line of pytest: errors of set-up count as failed.

    >>> by_pytest("3 failed, 12 passed, 1 error in 2.1s")
    (12, 4)
    """
    line = next((one for one in reversed(printed.splitlines()) if re.search(r"\d+ (passed|failed|error)", one)), "")
    number = {word: int(n) for n, word in re.findall(r"(\d+) (passed|failed|error)", line)}
    return number.get("passed", 0), number.get("failed", 0) + number.get("error", 0)


def by_vitest(printed: str) -> tuple[int, int]:
    """Read the closing lines of vitest.

    >>> by_vitest(" Test Files  1 failed | 3 passed (4)\\n      Tests  2 failed | 368 passed (370)")
    (368, 2)
    """
    line = next((one for one in reversed(printed.splitlines()) if one.strip().startswith("Tests ")), "")
    number = {word: int(n) for n, word in re.findall(r"(\d+) (passed|failed)", line)}
    return number.get("passed", 0), number.get("failed", 0)


def ruff() -> Stage:
    """Style of the Python files."""
    return Stage("ruff", ["sh", "-c", f"{BIN}/ruff check . && {BIN}/ruff format --check ."], "run .venv/bin/ruff check . and ruff format")


def python_stages() -> list[Stage]:
    """Types and structure of the Python files."""
    return [
        Stage("mypy", [f"{BIN}/mypy"], "run .venv/bin/mypy"),
        Stage("import contracts", [f"{BIN}/lint-imports"], "run .venv/bin/lint-imports"),
        Stage("OpenAPI up to date", ["./run", "drift"], "run ./run api and commit what it writes"),
    ]


def web_stages(only: list[str] | None = None) -> list[Stage]:
    """Style, types and tests of the page. only: the tests to run."""
    return [
        Stage("tsc", [*NPM, "check"], "run npm --prefix web run check"),
        Stage("vitest", [*NPM, "test", "--", *(only or [])], "run npm --prefix web run test", by_vitest),
        Stage("biome", [*NPM, "lint"], "run npm --prefix web run lint"),
    ]


def pytest_stage(paths: list[str], deep: bool = False, workers: int = CORES) -> Stage:
    """The Python tests. What starts a server and a browser has its own of each in every worker."""
    line = [sys.executable, "-m", "pytest", *paths, "--durations=25", *(["--deep"] if deep else [])]
    if workers > 1:
        line += ["-n", str(workers), "--dist", "loadgroup"]
    return Stage("pytest", line, "run .venv/bin/python -m pytest on the one that failed", by_pytest)


def changed() -> list[str]:
    """Return the files that differ from the last commit; where none does, those that it changed."""

    def asked(*line: str) -> list[str]:
        return subprocess.run(["git", *line], cwd=ROOT, capture_output=True, text=True, check=True).stdout.split()

    now = asked("diff", "--name-only", "HEAD") + asked("ls-files", "--others", "--exclude-standard")
    return now or asked("diff", "--name-only", "HEAD~1", "HEAD")


def of_changed(files: list[str], deep: bool) -> tuple[list[Stage], Stage | None]:
    """Return the stages that these files call for."""
    python, page = any(f.endswith(".py") for f in files), any(f.startswith("web/") for f in files)
    stages = [ruff(), *python_stages()] if python else []
    if page:
        sources = [str(Path(f).relative_to("web")) for f in files if f.startswith("web/src/") and (ROOT / f).exists()]
        check, test, lint = web_stages()
        test.command = ["npx", "--prefix", "web", "vitest", "related", "--root", "web", "--run", *sources] if sources else test.command
        stages += [check, test, lint]
    paths = rooms.tests_of(files)
    return stages, pytest_stage(paths, deep) if paths else None


def run(stages: list[Stage], last: Stage | None) -> int:
    """Run stages side by side on what cores there are, then the one that takes them all; return the exit status."""
    LOGS.mkdir(parents=True, exist_ok=True)
    with ThreadPoolExecutor(CORES) as pool:
        list(pool.map(Stage.run, stages))
    if last:
        last.run()
    ran = [*stages, *([last] if last else [])]
    for stage in ran:
        if stage.failed:
            stage.tell()
    passed, failed = sum(s.passed for s in ran), sum(s.failed for s in ran)
    print(f"\n{passed} passed, {failed} failed", flush=True)
    return 1 if failed or not passed else 0


def main(given: list[str]) -> int:
    """Run what is asked for."""
    deep = "--deep" in given
    rest = [g for g in given if g != "--deep"]
    if rest == ["--changed"]:
        files = changed()
        print(f"  {len(files)} files changed")
        return run(*of_changed(files, deep))
    if rest:
        page = [str(Path(g).relative_to("web")) if g.startswith("web/") else g for g in rest if g.startswith("web")]
        other = [g for g in rest if not g.startswith("web")]
        return run([web_stages(page)[1]] if page else [], pytest_stage(other, deep, 1) if other else None)
    types, structure, drift = python_stages()
    check, test, lint = web_stages()
    # The long ones first.
    return run([test, check, types, drift, structure, lint, ruff()], pytest_stage([], deep))


if __name__ == "__main__":
    raise SystemExit(main(sys.argv[1:]))
