"""Two depths of testing. `every`: derandomised, few examples, nothing shrunk, so that it ends in minutes and says the same each time.
`deep` (--deep): many examples drawn at random, shrunk where one fails; for nights.

Loaded as a plugin before any test is, since what is decided here is asked for while tests are collected.
"""

from __future__ import annotations

import random

import pytest
from hypothesis import HealthCheck, Phase, settings

# How long an example takes says how busy the machine is, and nothing about the code.
ANY_MACHINE = {"deadline": None, "suppress_health_check": [HealthCheck.too_slow]}
WITHOUT_SHRINKING = (Phase.explicit, Phase.reuse, Phase.generate)
EXAMPLES = 30
settings.register_profile("every", derandomize=True, database=None, max_examples=EXAMPLES, phases=WITHOUT_SHRINKING, **ANY_MACHINE)  # type: ignore[arg-type]
settings.register_profile("deep", max_examples=100, **ANY_MACHINE)  # type: ignore[arg-type]
_deep = False


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--deep", action="store_true", help="many random examples, shrunk where one fails: for nights")


@pytest.hookimpl(tryfirst=True)
def pytest_configure(config: pytest.Config) -> None:
    global _deep
    _deep = bool(config.getoption("--deep"))
    settings.load_profile("deep" if _deep else "every")


def examples(deep: int, every: int = EXAMPLES) -> settings:
    """How many examples a property is tried with at each depth."""
    return settings(max_examples=deep if _deep else min(deep, every))


def many(deep: int, every: int = 60) -> int:
    """How often a loop over seeds goes round at each depth."""
    return deep if _deep else min(deep, every)


def seeded(seed: int | str) -> random.Random:
    """Chance for a loop: the same each time at the depth of every day, its own each time when deep; a failure names the seed."""
    drawn = random.Random().randrange(2**32) if _deep else seed
    print(f"chance by the seed {drawn!r}")
    return random.Random(drawn)
