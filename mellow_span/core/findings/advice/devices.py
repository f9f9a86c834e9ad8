"""Advice on devices and the appliances behind them."""

from __future__ import annotations

from mellow_span.core.findings.advice.base import Facts, hint
from mellow_span.core.model.parts import Circuit
from mellow_span.core.rulesets.vocabulary import C


@hint("rcdtype", "circuit", "note", "RCD type", C.RCD_TYPE)
def rcdtype(facts: Facts, circuit: Circuit) -> str | None:
    """Type AC only where there is no direct current; others by what the loads send back."""
    if circuit.device.idn is None:
        return None
    direct = {"ev", "heat_pump", "inverter"} & {load.kind for load in circuit.loads}
    if circuit.device.rcd_type == "AC":
        return "type AC only for loads with no DC component, such as a fixed heater; type A for the rest"
    if circuit.device.rcd_type is None:
        return "type not entered: A for most loads; F or B where a drive or charger can feed DC into a fault"
    if direct and circuit.device.rcd_type == "A":
        return "ask the maker of the load whether type A is enough, or whether F or B is"
    return None


@hint("afdd", "circuit", "note", "Arc fault detection", C.ARC_FAULT)
def afdd(facts: Facts, circuit: Circuit) -> str | None:
    """Recommended for socket circuits of dwellings; asked for in some other buildings."""
    if circuit.device.afdd or not any(load.kind == "sockets" for load in circuit.loads) or circuit.feeds:
        return None
    if facts.job.premises != "household":
        return None
    return "recommended for socket circuits up to 32 A; required in houses in multiple occupation, care homes and the like"


@hint("isolation", "circuit", "note", "Isolation", C.ISOLATION)
def isolation(facts: Facts, circuit: Circuit) -> str | None:
    """Before work: lock off, prove dead, also for a motor's local switch."""
    if not any(load.kind == "motor" for load in circuit.loads):
        return None
    return "a local isolator for maintenance; for work on the circuit lock off at the board, prove the tester, prove dead, prove the tester again"
