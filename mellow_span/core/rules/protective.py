"""What serves as protective conductor of a cable as it is bought: said, or what is usual for it."""

from __future__ import annotations

from mellow_span.core.model.circuit import Circuit, CpcKind
from mellow_span.core.rules.neutral import needs_neutral
from mellow_span.core.rulesets import RuleSet


def live_cores(circuit: Circuit) -> int:
    """Return the cores that carry current: line and neutral; three lines, with a neutral unless all it feeds works between lines."""
    if circuit.phases == 1:
        return 2
    return 3 + (1 if circuit.feeds or needs_neutral(circuit) else 0)


def kind_of(circuit: Circuit, armoured: bool) -> CpcKind:
    """Return what serves as cpc: as entered; usual of an armoured cable is its armour, where it has a core to spare that core with the armour
    beside it, and the core alone where the armour is not earthed at both ends.
    """
    cable = circuit.run.cable
    if cable.cpc != "usual":
        return cable.cpc
    if not armoured:
        return "core"
    if (cable.cores or 0) <= live_cores(circuit):
        return "armour"
    return "armour_and_core" if circuit.armour_ends == "both" else "core"


def serves(rules: RuleSet, circuit: Circuit) -> CpcKind:
    """Return what serves as cpc of a circuit by its rule set; a cable that is not chosen is not armoured."""
    family = rules.families.get(circuit.run.cable.family or "")
    return kind_of(circuit, family is not None and family.cpc == "armour")
