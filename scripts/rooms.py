"""Which tests belong to which room of the house: what is run where a room changed, and what has to notice a slip made in it.

A room is named by the beginning of its files' names; the longest that fits counts. Standard library alone.
"""

from __future__ import annotations

from collections.abc import Iterable

CORE = ("tests/core", "tests/test_drums.py", "mellow_span/core")
SITE = ("tests/core", "tests/api", "tests/test_merchant.py", "tests/test_instrument.py")
# Room: the Python tests of it.
ROOMS: dict[str, tuple[str, ...]] = {
    "mellow_span/core/": (*CORE, "tests/papers"),
    "mellow_span/core/site/": (*CORE, "tests/test_merchant.py", "tests/test_instrument.py"),
    "mellow_span/core/practice/": ("tests/core/test_practice.py", "tests/api/test_practice.py"),
    "mellow_span/core/said/": ("tests/core/test_said.py", "tests/core/test_steps.py"),
    "mellow_span/exchange/": ("tests/core", "tests/api", "tests/papers"),
    "mellow_span/papers/": ("tests/papers", "tests/api/test_papers.py", "mellow_span/papers"),
    "mellow_span/answers/": ("tests/api", "tests/server/test_two_engines.py"),
    "mellow_span/api/": ("tests/api",),
    "mellow_span/jobs/": ("tests/api", "tests/server"),
    "mellow_span/people/": ("tests/api",),
    "mellow_span/logbook/": SITE,
    "mellow_span/learning/": ("tests/api/test_practice.py",),
    "mellow_span/settings/": ("tests/test_environment.py", "tests/api", "tests/server"),
    "mellow_span/standins/": ("tests/test_merchant.py", "tests/test_instrument.py"),
    "mellow_span/demo/": ("tests/core", "tests/papers"),
    "mellow_span/": ("tests",),
    "scripts/": ("tests/server",),
    "requirements/": ("tests",),
    "pyproject.toml": ("tests",),
}
# Rooms of the page whose browser tests have other names than they.
BROWSER: dict[str, tuple[str, ...]] = {
    "web/src/features/boards/": ("tests/browser/test_grid.py",),
    "web/src/features/circuit/": ("tests/browser/test_circuit.py",),
    "web/src/features/site/": ("tests/browser/test_site.py", "tests/browser/test_without_signal.py"),
    "web/src/features/": ("tests/browser",),
    "web/src/engine/": ("tests/browser/test_works_here.py",),
    "web/runtime.ts": ("tests/server/test_two_engines.py", "tests/browser/test_works_here.py"),
    "web/src/sync/": ("tests/browser/test_together.py", "tests/browser/test_whole.py", "tests/browser/test_without_signal.py"),
    "web/": ("tests/browser",),
}


def tests_of(files: Iterable[str]) -> list[str]:
    """Return the Python tests of the rooms that these files are in, each once; a test that changed is its own."""
    found: dict[str, None] = {}
    for name in files:
        if name.startswith("tests/"):
            leaf = name.rpartition("/")[2]
            own = name if leaf.startswith("test_") else name.rpartition("/")[0]
            found[own] = None
            continue
        for rooms in (ROOMS, BROWSER):
            fitting = max((room for room in rooms if name.startswith(room)), key=len, default=None)
            for path in rooms[fitting] if fitting else ():
                found[path] = None
    # A folder has all that is in it.
    return [path for path in found if not any(path != other and path.startswith(other.rstrip("/") + "/") for other in found)]
