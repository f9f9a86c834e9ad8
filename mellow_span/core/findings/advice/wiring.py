"""Advice on how cables are run, joined and earthed."""

from __future__ import annotations

from mellow_span.core.findings.advice.base import Facts, _named, hint
from mellow_span.core.model.parts import Circuit
from mellow_span.core.rulesets.vocabulary import C


@hint("polystyrene", "circuit", "danger", "PVC against expanded polystyrene", C.POLYSTYRENE)
def polystyrene(facts: Facts, circuit: Circuit) -> str | None:
    """PVC and polystyrene harm each other where they touch."""
    spans = [s for s in circuit.run.spans if s.polystyrene]
    if not spans or not facts.pvc(circuit):
        return None
    return f"{_named(spans)}: polystyrene draws the plasticiser out of PVC and the sheath goes brittle; separate them with sleeving, conduit or tape"


@hint("zones", "circuit", "duty", "Safe zones for concealed cables", C.CONCEALED)
def zones(facts: Facts, circuit: Circuit) -> str | None:
    """A cable hidden less than 50 mm deep lies in a prescribed zone and has 30 mA protection, or is mechanically protected."""
    spans = [s for s in facts.places(circuit, concealed=True) if s.guarded is not True]
    if not spans:
        return None
    return (
        f"{_named(spans)}: run straight up, down or across from an accessory, or within 150 mm of the corner or ceiling, with a 30 mA RCD"
    )


@hint("cavity", "circuit", "note", "Cable in a filled wall", C.WRAPPED)
def cavity(facts: Facts, circuit: Circuit) -> str | None:
    """Where a wall is or may be filled later, the next check of the run is for that."""
    looks = [(s, facts.rules.places.get(s.place or "")) for s in circuit.run.spans]
    spans = [s for s, p in looks if p and p.look == "stud"]
    if not spans:
        return None
    return f"{_named(spans)}: keep the cable touching the lining where it can be fixed; never in a cavity with blown insulation"


@hint("fire", "circuit", "duty", "Fire sealing", C.FIRE_SEALING)
def fire(facts: Facts, circuit: Circuit) -> str | None:
    """Where a run passes a fire barrier the hole is made good to the barrier's own resistance."""
    spans = [s for s in circuit.run.spans if s.fire_barrier]
    return f"{_named(spans)}: seal the hole to the fire rating of the wall or floor, inside the conduit or sleeve too" if spans else None


@hint("burial", "circuit", "danger", "Buried cable", C.BURIED)
def burial(facts: Facts, circuit: Circuit) -> str | None:
    """A buried cable lies deep enough not to be dug into, is marked, and is armoured or in a duct."""
    spans = facts.places(circuit, ground=True)
    if not spans:
        return None
    reach = facts.rules.limit("spade_depth") if facts.rules.has("spade_depth") else None
    shallow = [s for s in spans if reach is not None and s.depth < reach]
    said = f"{_named(spans)}: bed it in sand, with cover tiles or warning tape above, and record its route; prove it dead before it is cut"
    if reach is None:
        said = f"how deep a spade reaches is not known in this rule set, so lay it as deep as the rules of the place ask. {said}"
    elif shallow:
        said = f"{_named(shallow)} is less than {reach:g} m deep: within reach of a spade. {said}"
    bare = [s for s in spans if (p := facts.rules.places.get(s.place or "")) and p.ground == "direct"]
    if bare and not facts.armoured(circuit):
        said += f". Buried direct ({_named(bare)}): needs armour or an earthed sheath, or a duct giving equal protection"
    return said


@hint("outdoors", "circuit", "note", "Protection against water", C.WATER)
def outdoors(facts: Facts, circuit: Circuit) -> str | None:
    """Equipment outdoors and where water falls has a protection code for it."""
    spans = [s for s in circuit.run.spans if s.location == "outdoors"]
    return (
        f"{_named(spans)}: accessories at least IPX4, glands to match; IPX7 if it may flood, IPX8 if submerged, boxes gel-filled"
        if spans
        else None
    )


@hint("flylead", "circuit", "note", "Earth metal containment and armour", C.METAL_CPC)
def flylead(facts: Facts, circuit: Circuit) -> str | None:
    """Where armour, conduit or trunking is the cpc, a separate lead ties it to each accessory or terminal."""
    kind = circuit.run.cable.cpc
    if kind in ("conduit", "trunking"):
        return f"the {kind} is the cpc: a fly lead from its earth terminal to that of each accessory, joints tight and continuous"
    if facts.armoured(circuit) and kind in ("usual", "armour", "armour_and_core"):
        return "the armour is the cpc: a gland with an earth tag at each earthed end, and a fly lead from it to the earth bar"
    return None


@hint("island", "circuit", "danger", "Armour of a feed to a TT board", C.TT_ISLAND)
def island(facts: Facts, circuit: Circuit) -> str | None:
    """The armour of a feed to a TT island is kept clear of the far earth; one that is earthed there is short, not advice."""
    board = facts.fed(circuit)
    if board is None or board.earthing != "TT" or not facts.armoured(circuit) or circuit.armour_ends == "both":
        return None
    return "earthed at the supply end only: use an insulated gland at the far end, out of reach of metal earthed to the electrode"


@hint("joint", "circuit", "note", "Joints accessible", C.JOINTS)
def joint(facts: Facts, circuit: Circuit) -> str | None:
    """Work that is extended tends to get joints: they stay accessible unless they are of the maintenance-free kind."""
    return (
        "if the run is extended, joints must be accessible unless maintenance-free, encapsulated, welded or compressed"
        if circuit.existing
        else None
    )
