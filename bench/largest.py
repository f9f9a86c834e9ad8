"""The largest job there may be: as many circuits, boards, spans, loads and routes as the limits allow, sub-mains as deep as they may lie."""

from __future__ import annotations

import random
from functools import cache
from typing import Any

from mellow_span.core.model.limits import DEEPEST, IN_ALL
from mellow_span.core.model.parts import Installation
from tests.build import circuit, submain
from tests.build import job as build


@cache
def largest() -> Installation:
    """Return it: a chain of sub-mains with more beside it, every final of four spans in four routes and with four loads."""
    rnd = random.Random(1)
    boards, each = IN_ALL["board"], IN_ALL["span"] // IN_ALL["circuit"]
    made: list[dict[str, Any]] = []
    for i in range(1, boards):
        above = i - 1 if i <= DEEPEST else rnd.randrange(DEEPEST)
        spans = [{"place": "duct", "length": 3}, *({"place": "masonry", "length": 1 + k} for k in range(each - 1))]
        made.append(submain(f"m{i}", board=f"b{above}", feeds=f"b{i}", device={"rating": 63}, spans=spans))
    finals = IN_ALL["circuit"] - len(made)
    for i in range(finals):
        loads = [{"amount": 40 + (i * 37 + k * 11) % 120, "kind": "other"} for k in range(IN_ALL["load"] // finals)]
        spans = [{"length": 2 + (i * 7 + k) % 7, "place": "masonry", "route": f"r{(i * each + k) % IN_ALL['route']}"} for k in range(each)]
        made.append(
            circuit(f"f{i}", board=f"b{i % boards}", loads=loads, device={"rating": 16}, cable={"csa": 2.5}, spans=spans, name=f"Final {i}")
        )
    routes = [{"id": f"r{i}", "name": f"Route {i}"} for i in range(IN_ALL["route"])]
    return build(*made, boards=[f"b{i}" for i in range(boards)], routes=routes, supply={"ze": 0.15, "ipf": 1500})
