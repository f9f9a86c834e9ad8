"""./run slips [ROOM ...] [--sample N] [--seed S]: make slips by class, one at a time, and list those that no quick test of their room notices.

Rooms: core, site, server, page. Without a sample every slip is made, which takes a night.
"""

from __future__ import annotations

import argparse
import dataclasses
import json
import os
import random
import shutil
import subprocess
import sys
from collections import defaultdict
from pathlib import Path

from slips.sites import Slip, sites

ROOT = Path(__file__).resolve().parents[2]
OUT = Path(os.environ.get("MELLOW_SPAN_LOCAL", ROOT / ".local")) / "slips"
LANES = max(1, len(os.sched_getaffinity(0)))
CORE = ["tests/core", "tests/papers", "tests/test_drums.py", "mellow_span/core"]
OUTSIDE = ["tests/test_merchant.py", "tests/test_instrument.py"]
# Room: its files, and the tests that have to notice.
ROOMS: dict[str, tuple[list[str], list[str]]] = {
    "core": (["mellow_span/core/**/*.py", "!mellow_span/core/site/*"], CORE),
    "site": (["mellow_span/core/site/*.py", "mellow_span/logbook/*.py"], ["tests/core", "tests/api", "tests/papers", *OUTSIDE]),
    "server": (
        [f"mellow_span/{room}/*.py" for room in ("answers", "api", "jobs", "people", "exchange", "learning", "settings")],
        ["tests/api", "tests/core/test_exchange.py", "tests/core/test_issue.py", "tests/core/test_packs.py", "tests/test_environment.py"],
    ),
}
PAGE = ["src/sync", "src/engine", "src/parts", "src/ui", "src/features", "src/api", "src/frame"]


def files_of(patterns: list[str]) -> list[str]:
    """Return the files of a room."""
    found: set[str] = set()
    for pattern in patterns:
        names = {str(p.relative_to(ROOT)) for p in ROOT.glob(pattern.removeprefix("!"))}
        found = found - names if pattern.startswith("!") else found | names
    return sorted(name for name in found if "/migrations/" not in name)


def sampled(slips: list[Slip], count: int, seed: int) -> list[Slip]:
    """Return so many slips, of each class as many as of any other while it has them; all where `count` is 0."""
    if not count or count >= len(slips):
        return slips
    rnd, by_class = random.Random(seed), defaultdict(list)
    for slip in slips:
        by_class[slip.kind].append(slip)
    for of_class in by_class.values():
        rnd.shuffle(of_class)
    found: list[Slip] = []
    while len(found) < count:
        for kind in sorted(by_class):
            if by_class[kind] and len(found) < count:
                found.append(by_class[kind].pop())
    return found


def python_room(room: str, count: int, seed: int) -> list[dict[str, str]]:
    """Make slips in a room of Python files; return what came of each."""
    patterns, tests = ROOMS[room]
    slips = [slip for file in files_of(patterns) for slip in sites(file, (ROOT / file).read_text("utf-8"))]
    folder = OUT / room
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True)
    (folder / "slips.json").write_text(json.dumps([dataclasses.asdict(s) for s in sampled(slips, count, seed)]))
    line = [sys.executable, "-m", "pytest", "-p", "slips.plugin", "-p", "no:xdist", "--slips", str(folder), "--slips-lanes", str(LANES)]
    env = {**os.environ, "PYTHONPATH": str(ROOT / "scripts")}
    subprocess.run([*line, "--reuse-db", "-W", "default", *tests], cwd=ROOT, env=env, check=False)
    return [json.loads(text) for text in (folder / "found.jsonl").read_text().splitlines()]


def page_room(count: int, seed: int) -> list[dict[str, str]]:
    """Make slips in the files of the page that have tests beside them."""
    folder = OUT / "page"
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True)
    line = ["node", str(ROOT / "scripts" / "slips" / "page.mjs"), str(folder), str(count), str(seed), str(LANES)]
    subprocess.run(line, cwd=ROOT / "web", check=False)
    return [json.loads(text) for text in (folder / "found.jsonl").read_text().splitlines()]


def summed_up(room: str, found: list[dict[str, str]]) -> float:
    """Print what of a room was not noticed, and the shares by class; return the share that was noticed."""
    made = [one for one in found if one["came"] != "not made"]
    missed = [one for one in made if one["came"] != "noticed"]
    print(f"\n{room}: not noticed")
    for one in sorted(missed, key=lambda one: (one["file"], int(one["line"]))):
        print(
            f"  {one['file']}:{one['line']}  {one['kind']}: {one['told']}{'  (no quick test comes there)' if one['came'] == 'untouched' else ''}"
        )
    by_class: dict[str, list[bool]] = defaultdict(list)
    for one in made:
        by_class[one["kind"]].append(one["came"] == "noticed")
    for kind, seen in sorted(by_class.items()):
        print(f"  {kind:<22}{sum(seen):5} of {len(seen):4}  {100 * sum(seen) / len(seen):3.0f} %")
    share = 1 - len(missed) / len(made) if made else 0.0
    print(f"  {room}: {len(made) - len(missed)} of {len(made)} noticed, {100 * share:.0f} %")
    return share


def main() -> int:
    """Make the slips that are asked for."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("room", nargs="*", choices=[*ROOMS, "page", []], default=[])
    asked.add_argument("--sample", type=int, default=0)
    asked.add_argument("--seed", type=int, default=1)
    given = asked.parse_args()
    for room in given.room or [*ROOMS, "page"]:
        found = page_room(given.sample, given.seed) if room == "page" else python_room(room, given.sample, given.seed)
        summed_up(room, found)
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
