"""The made-up jobs behind the exercises, for the engine: one circuit, a bunch of circuits, a sub-main with a final."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from mellow_span.core.model.parts import Board, Cable, Circuit, Device, Installation, Load, Route, Run, Span, Supply
from mellow_span.core.rulesets import RuleSet

FLAT = "flat_twin_cpc_pvc70"
SUPPLY = Supply(
    earthing="TN-C-S", ze=0.28, ze_source="measured", ipf=1500.0, ipf_source="measured", fuse_kind="BS88-3", fuse_in=100.0,
    fuse_source="declared", tails_csa=25.0,
)  # fmt: skip


def one_circuit(
    rules: RuleSet, three: bool, rating: float, csa: float, spans: Sequence[tuple[str, float, float]], watts: float, **more: Any
) -> Installation:
    """Return a job of one circuit. spans: place, length [m], temperature [C] of each; more: fields of the circuit's cable, device or supply."""
    family = more.pop("family", "multicore_pvc70" if three else FLAT)
    laid = tuple(Span(id=f"s{k}", place=place, length=length, ambient=ambient) for k, (place, length, ambient) in enumerate(spans))
    device = Device(kind=more.pop("device", "mcb"), curve="B", rating=rating, icn=6000.0, **more.pop("device_more", {}))
    cable = Cable(family=family, csa=csa, **more.pop("cable", {}))
    circuit = Circuit(
        id="c", name="the circuit", board="b", phases=3 if three else 1, device=device, loads=(Load(id="l", amount=watts, basis="W", name="load"),),
        run=Run(id="c-run", cable=cable, spans=laid), **more.pop("circuit", {}),
    )  # fmt: skip
    supply = replace(SUPPLY, phases=3 if three else 1, **more.pop("supply", {}))
    board = Board(id="b", name="the board", **more.pop("board", {}))
    return Installation(name="Practice", ruleset=rules.id, supply=supply, boards=(board,), circuits=(circuit,))


def house(rules: RuleSet, circuits: Sequence[tuple[str, float, float, float]]) -> Installation:
    """Return a job of circuits bunched on masonry. circuits: identity, rating [A], csa [mm2], load [W] of each."""
    route = Route(id="route", name="the bunch", laid="bunched", place="masonry")
    made = tuple(
        Circuit(
            id=id, name=id, board="b", device=Device(curve="B", rating=rating, icn=6000.0),
            loads=(Load(id=f"{id}-l", amount=watts, basis="W", name="load"),),
            run=Run(id=f"{id}-run", cable=Cable(family=FLAT, csa=csa), spans=(Span(id=f"{id}-s", length=10.0, route="route"),)),
        )
        for id, rating, csa, watts in circuits
    )  # fmt: skip
    return Installation(
        name="Practice", ruleset=rules.id, supply=SUPPLY, boards=(Board(id="b", name="the board"),), circuits=made, routes=(route,)
    )
