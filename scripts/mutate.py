"""Make the slips of slips.toml one at a time in a copy of the tree and run the fast tests; print what no test noticed."""

from __future__ import annotations

import argparse
import os
import subprocess
import sys
import tempfile
import time
import tomllib
from pathlib import Path
from typing import Any

ROOT = Path(__file__).parents[1]
PYTEST = [sys.executable, "-m", "pytest", "-q", "-x", "-p", "no:cacheprovider", "--no-header"]
FAST: dict[str, list[str]] = {
    # The long walks over random jobs and the fuzzed schema are left out: they take minutes, not seconds.
    "core": [*PYTEST, "tests/core", "--deselect", "tests/core/test_whole.py"],
    "api": [*PYTEST, "tests/api", "--ignore", "tests/api/test_schema.py"],
    "web": ["npm", "--prefix", "web", "run", "test", "--", "--bail", "1"],
}


def copy_tree(to: Path) -> None:
    """Copy what git knows of the tree, as it stands, and link what is installed beside it."""
    files = subprocess.run(
        ["git", "ls-files", "-z", "--cached", "--others", "--exclude-standard"], cwd=ROOT, capture_output=True, check=True
    )
    names = [name for name in files.stdout.decode().split("\0") if name and (ROOT / name).exists()]
    for name in names:
        (to / name).parent.mkdir(parents=True, exist_ok=True)
        (to / name).write_bytes((ROOT / name).read_bytes())
    for name in (".venv", ".local", "web/node_modules", "web/dist"):
        if (ROOT / name).exists():
            (to / name).symlink_to(ROOT / name)


def noticed(tree: Path, slip: dict[str, Any]) -> bool:
    """Make one slip, run its tests, take it back; say whether a test failed."""
    path = tree / slip["file"]
    text = path.read_text("utf-8")
    if text.count(slip["old"]) != 1:
        raise SystemExit(
            f"'{slip['name']}': what it changes stands {text.count(slip['old'])} times in {slip['file']}; bring the list up to date"
        )
    path.write_text(text.replace(slip["old"], slip["new"]), "utf-8")
    try:
        # A group of tests, or the file that stands beside it.
        tests = FAST.get(slip["tests"]) or [*PYTEST, slip["tests"]]
        run = subprocess.run(tests, cwd=tree, capture_output=True, env={**os.environ, "PYTHONPATH": str(tree)}, check=False)
    finally:
        path.write_text(text, "utf-8")
    return run.returncode != 0


def main() -> int:
    """Run them all, or those whose name holds a word; exit 1 where one went unnoticed."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("word", nargs="?", default="")
    parser.add_argument("--check", action="store_true", help="only see that every slip still fits the code")
    asked = parser.parse_args()
    slips = [s for s in tomllib.loads((ROOT / "scripts" / "slips.toml").read_text("utf-8"))["slip"] if asked.word in s["name"]]
    if asked.check:
        stray = [s["name"] for s in slips if (ROOT / s["file"]).read_text("utf-8").count(s["old"]) != 1]
        print("\n".join(stray) if stray else f"{len(slips)} slips fit the code")
        return 1 if stray else 0
    unseen = []
    with tempfile.TemporaryDirectory(prefix="mutate-") as folder:
        tree = Path(folder)
        copy_tree(tree)
        for slip in slips:
            began = time.monotonic()
            seen = noticed(tree, slip)
            print(f"{'noticed' if seen else 'UNNOTICED':<10}{time.monotonic() - began:6.1f} s  {slip['name']}", flush=True)
            if not seen:
                unseen.append(slip["name"])
    print(f"{len(slips) - len(unseen)} of {len(slips)} noticed")
    return 1 if unseen else 0


if __name__ == "__main__":
    raise SystemExit(main())
