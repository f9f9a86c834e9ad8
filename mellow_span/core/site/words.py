"""Cables and devices in the words in which they are asked for at a counter."""

from __future__ import annotations

from mellow_span.core.design.prices import cores_of
from mellow_span.core.figures import figure, quantity
from mellow_span.core.model.legs import cable_parts, mixed
from mellow_span.core.model.parts import Circuit, Device
from mellow_span.core.rulesets import RuleSet

NOT_CHOSEN = "a cable not chosen yet"


def for_later(circuit: Circuit) -> bool:
    """Say whether everything on a circuit may come later: its cable is drawn in now or with the load, as was agreed."""
    return bool(circuit.loads) and all(load.future for load in circuit.loads)


def cable_words(rules: RuleSet, circuit: Circuit) -> str:
    """Return a cable as it is asked for: csa, cores where they are not fixed by the family, family, and the cpc of singles.

    Of a run whose cable changes all of them, in order.
    """
    if mixed(circuit):
        return ", then ".join(cable_words(rules, part) for part in cable_parts(circuit))
    cable = circuit.run.cable
    family = rules.families.get(cable.family or "")
    if family is None or cable.csa is None:
        return NOT_CHOSEN
    cores = f"{cores_of(rules, circuit)}-core " if family.cpc in ("core", "armour") else ""
    cpc = f" with {quantity(cable.cpc_csa, 'mm²')} cpc" if cable.cpc_csa and family.cpc == "single" else ""
    return f"{quantity(cable.csa, 'mm²')} {cores}{family.title}{cpc}"


def device_words(rules: RuleSet, device: Device, phases: int) -> str:
    """Return a device as it is asked for: rating, type, kind, poles, breaking capacity and residual current function."""
    if device.rating is None:
        return "a device not chosen yet"
    kind = rules.device_title(device.kind)
    curve = f" type {device.curve}" if device.kind in ("mcb", "rcbo") else ""
    facts = [f"{quantity(device.rating, 'A')}{curve} {kind}", f"{device.poles or phases}-pole"]
    if device.icn:
        facts.append(f"{figure(device.icn / 1000)} kA")
    if device.idn:
        facts.append(
            f"{figure(device.idn * 1000)} mA{f' type {device.rcd_type}' if device.rcd_type else ''}{', time-delayed' if device.delayed else ''}"
        )
    facts += [name for name, on in (("with arc fault detection", device.afdd), ("with surge protection", device.spd)) if on]
    return ", ".join(facts)
