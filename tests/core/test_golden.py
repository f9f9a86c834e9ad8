"""The same changes and what they come to, written down for the browser's mirror of the algebra: `python -m tests.core.test_golden`.

Each case starts from one house; each step holds the change, the field it is refused at where the shape of the job refuses it (values are
judged by the server alone), and otherwise every flat key of the job that differs after it.
"""

from __future__ import annotations

import dataclasses
import json
import random
from pathlib import Path
from typing import Any

from mellow_span.core.model import Installation
from mellow_span.core.model.changes import Change, Refused, apply
from mellow_span.core.model.difference import flat
from mellow_span.core.rulesets import rule_set
from tests.core.test_changes import house, random_change

WHERE = Path(__file__).parents[2] / "web" / "src" / "sync" / "golden.gen.json"
STRUCTURE = ("id", "parent", "kind", "board", "feeds", "route", "circuit", "load", "span", "after", "index")
CASES, STEPS = 45, 8


def as_sent(change: Change) -> dict[str, Any]:
    return {k: v for k, v in dataclasses.asdict(change).items() if v is not None}


def changed(before: Installation, after: Installation) -> dict[str, Any]:
    old, new = flat(before), flat(after)
    gone = {key: {"gone": True} for key in old if key not in new}
    return gone | {key: value for key, value in new.items() if key not in old or old[key] != value}


def case(seed: int) -> list[dict[str, Any]]:
    rnd, now, steps = random.Random(seed), house(), []
    while len(steps) < STEPS:
        change = random_change(rnd, now, len(steps) + 100 * seed)
        try:
            after, _ = apply(now, [change], rule_set("bs7671").choices)
        except Refused as refused:
            if refused.field in STRUCTURE:
                steps.append({"change": as_sent(change), "refused": refused.field})
            continue
        steps.append({"change": as_sent(change), "changed": changed(now, after)})
        now = after
    return steps


def golden() -> str:
    found = {"start": dataclasses.asdict(house()), "cases": [case(seed) for seed in range(CASES)]}
    return json.dumps(found, indent=0, ensure_ascii=False, sort_keys=True) + "\n"


def test_the_browsers_golden_file_is_what_the_core_says() -> None:
    assert WHERE.read_text("utf-8") == golden()


if __name__ == "__main__":
    WHERE.write_text(golden(), "utf-8")
