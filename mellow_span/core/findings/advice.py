"""Advice: facts of the job that call for a word, each with its reason and clause. It decides nothing; it can be put aside with a reason.

A piece of advice is a function from a subject (the intake, a board, a circuit, a bundle) to words, or to nothing where its facts are not
there. Its key is the rule and the subject, so that a dismissal stays with it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal, TypeVar

from mellow_span.core.model.parts import Board, Bundle, Circuit, Installation, Span
from mellow_span.core.rulesets import RuleSet, load
from mellow_span.core.rulesets.vocabulary import C

Weight = Literal["danger", "duty", "note"]


@dataclass(slots=True)
class Advice:
    """One piece of advice. key: rule and subject; weight: danger, duty or note; dismissed: the reason for which it was put aside."""

    key: str
    weight: Weight
    title: str
    text: str
    clause: str
    subject: str
    circuit: str | None = None
    board: str | None = None
    dismissed: str | None = None


@dataclass(frozen=True, slots=True)
class Facts:
    """What the rules look at: the rule set, the job, and of a circuit's surroundings what is asked for most."""

    rules: RuleSet
    job: Installation

    def board(self, circuit: Circuit) -> Board | None:
        """The board a circuit starts from."""
        return next((b for b in self.job.boards if b.id == circuit.board), None)

    def fed(self, circuit: Circuit) -> Board | None:
        """The board a sub-main feeds."""
        return next((b for b in self.job.boards if b.id == circuit.feeds), None)

    def places(self, circuit: Circuit, *, concealed: bool = False, ground: bool = False) -> list[Span]:
        """The spans of a circuit hidden in a wall, or in the ground."""
        found = [(s, self.rules.places.get(s.place or "")) for s in circuit.run.spans]
        return [s for s, p in found if p and ((concealed and p.concealed) or (ground and p.ground))]

    def armoured(self, circuit: Circuit) -> bool:
        """Whether the cable of a circuit is armoured."""
        family = self.rules.families.get(circuit.run.cable.family or "")
        return bool(family and family.armour)

    def pvc(self, circuit: Circuit) -> bool:
        """Whether the insulation of a circuit is thermoplastic."""
        family = self.rules.families.get(circuit.run.cable.family or "")
        return bool(family and family.insulation == "pvc70")


@dataclass(frozen=True, slots=True)
class Rule:
    """A rule of advice by name: what it is about, how much it weighs, its title and clause, and the function that finds its facts."""

    id: str
    about: Literal["job", "board", "circuit", "bundle"]
    weight: Weight
    title: str
    clause: str
    run: Callable[..., str | None]


RULES: list[Rule] = []


F = TypeVar("F", bound=Callable[..., str | None])


def rule(id: str, about: Literal["job", "board", "circuit", "bundle"], weight: Weight, title: str, clause: str) -> Callable[[F], F]:
    """Register a function as a rule of advice."""

    def add(run: F) -> F:
        RULES.append(Rule(id, about, weight, title, clause, run))
        return run

    return add


def _named(spans: list[Span]) -> str:
    return ", ".join(s.name or "a span" for s in spans)


@rule("polystyrene", "circuit", "danger", "PVC against expanded polystyrene", C.POLYSTYRENE)
def polystyrene(facts: Facts, circuit: Circuit) -> str | None:
    """PVC and polystyrene harm each other where they touch."""
    spans = [s for s in circuit.run.spans if s.polystyrene]
    if not spans or not facts.pvc(circuit):
        return None
    return f"{_named(spans)}: the plasticiser leaves the sheath and the foam shrinks from it; keep them apart by a sleeve, conduit or tape"


@rule("zones", "circuit", "duty", "Hidden cables run in zones", C.CONCEALED)
def zones(facts: Facts, circuit: Circuit) -> str | None:
    """A cable hidden less than 50 mm deep lies in a prescribed zone and has 30 mA protection, or is mechanically protected."""
    spans = [s for s in facts.places(circuit, concealed=True) if s.guarded is not True]
    if not spans:
        return None
    return f"{_named(spans)}: run it straight up, down or across from an accessory, or within 150 mm of a corner or ceiling, with 30 mA protection"


@rule("cavity", "circuit", "note", "Cable in a filled wall", C.WRAPPED)
def cavity(facts: Facts, circuit: Circuit) -> str | None:
    """Where a wall is or may be filled later, the next check of the run is for that."""
    looks = [(s, facts.rules.places.get(s.place or "")) for s in circuit.run.spans]
    spans = [s for s, p in looks if p and p.look == "stud"]
    if not spans:
        return None
    return f"{_named(spans)}: keep the cable against the lining where it can be held there, and out of a blown-fill cavity altogether"


@rule("fire", "circuit", "duty", "Fire sealing", C.FIRE_SEALING)
def fire(facts: Facts, circuit: Circuit) -> str | None:
    """Where a run passes a fire barrier the hole is made good to the barrier's own resistance."""
    spans = [s for s in circuit.run.spans if s.fire_barrier]
    return f"{_named(spans)}: sleeve the hole and seal it to the resistance of the wall or floor, inside the conduit too" if spans else None


@rule("burial", "circuit", "danger", "Buried cable", C.BURIED)
def burial(facts: Facts, circuit: Circuit) -> str | None:
    """A buried cable lies deep enough not to be dug into, is marked, and is armoured or in a duct."""
    spans = facts.places(circuit, ground=True)
    if not spans:
        return None
    shallow = [s for s in spans if s.depth < 0.5]
    said = (
        f"{_named(spans)}: bed it on sand, cover or tape above it, and draw its route on the record; prove it dead before anybody cuts it"
    )
    if shallow:
        said = f"{_named(shallow)} lies less than half a metre deep: within a spade's reach. {said}"
    bare = [s for s in spans if (p := facts.rules.places.get(s.place or "")) and p.ground == "direct"]
    if bare and not facts.armoured(circuit):
        said += f". Direct in the ground ({_named(bare)}) asks for armour or an earthed sheath, or a duct that gives the same protection"
    return said


@rule("outdoors", "circuit", "note", "Protection against water", C.WATER)
def outdoors(facts: Facts, circuit: Circuit) -> str | None:
    """Equipment outdoors and where water falls has a protection code for it."""
    spans = [s for s in circuit.run.spans if s.location == "outdoors"]
    return f"{_named(spans)}: accessories at least IPX4, boxes that may stand wet filled or IP66, glands to match" if spans else None


@rule("bathroom", "circuit", "danger", "Room with a bath or shower", C.BATHROOM)
def bathroom(facts: Facts, circuit: Circuit) -> str | None:
    """Zones, 30 mA, and supplementary bonding unless three conditions are met."""
    if not any(s.location == "bathroom" for s in circuit.run.spans):
        return None
    return "keep to the zones, IPX4 in zones 1 and 2; supplementary bonding unless disconnection, 30 mA and main bonding are all in place (701.415.2)"


@rule("pool", "circuit", "danger", "Swimming pool", C.POOL)
def pool(facts: Facts, circuit: Circuit) -> str | None:
    """Zones, extra-low voltage in the water, supplementary bonding of what is extraneous."""
    if not any(s.location == "pool" for s in circuit.run.spans):
        return None
    return (
        "extra-low voltage of at most 12 V in zone 0, supplementary bonding in the zones, no PME earth without measures for it (702.410.3)"
    )


@rule("agricultural", "circuit", "danger", "Agricultural premises", C.AGRICULTURAL)
def agricultural(facts: Facts, circuit: Circuit) -> str | None:
    """Animals feel less voltage than people; rodents and dust harm cables."""
    if not any(s.location == "agricultural" for s in circuit.run.spans):
        return None
    return "bond what animals touch, keep cables out of their reach, at least IP44, and no supply earth of the PME kind without bonding the floor (705)"


@rule("flylead", "circuit", "note", "Earth the metal of the wiring", C.METAL_CPC)
def flylead(facts: Facts, circuit: Circuit) -> str | None:
    """Where armour, conduit or trunking is the cpc, a separate lead ties it to each accessory or terminal."""
    kind = circuit.run.cable.cpc
    if kind in ("conduit", "trunking"):
        return f"the {kind} is the cpc: a fly lead from its earth terminal to that of each accessory, joints tight and continuous"
    if facts.armoured(circuit) and kind in ("usual", "armour", "armour_and_core"):
        return "the armour is the cpc: a gland with an earth tag at each end that is earthed, and a lead from it to the earth bar"
    return None


@rule("island", "circuit", "danger", "Armour of a feed to an electrode of its own", C.TT_ISLAND)
def island(facts: Facts, circuit: Circuit) -> str | None:
    """The armour of a feed to a TT island is earthed at the supply end only and kept clear of the far earth."""
    board = facts.fed(circuit)
    if board is None or board.earthing != "TT" or not facts.armoured(circuit):
        return None
    told = "insulate it at the far gland and keep it out of reach of what the electrode earths"
    if circuit.armour_ends == "both":
        return f"entered as earthed at both ends, which would join the two earths: earth it at the supply end only, {told}"
    return f"earthed at the supply end only: {told}"


@rule("ev", "circuit", "danger", "Car charging", C.CAR_CHARGING)
def ev(facts: Facts, circuit: Circuit) -> str | None:
    """Loss of the combined conductor, direct fault current, a circuit of its own."""
    if not any(load.kind == "ev" for load in circuit.loads):
        return None
    said = "a circuit of its own with an RCD that also sees direct fault current: type B, or type A with 6 mA detection in the charger (722.531.3)"
    if facts.job.supply.earthing == "TN-C-S":
        said += "; outdoors on a PME supply a broken neutral makes the car live: a device for it, or an electrode (722.411.4.1)"
    return said


@rule("rcdtype", "circuit", "note", "Type of residual current device", C.RCD_TYPE)
def rcdtype(facts: Facts, circuit: Circuit) -> str | None:
    """Type AC only where there is no direct current; others by what the loads send back."""
    if circuit.device.idn is None:
        return None
    direct = {"ev", "heat_pump"} & {load.kind for load in circuit.loads}
    if circuit.device.rcd_type == "AC":
        return "type AC is for loads without any direct current in their fault current, such as a fixed heater; type A for the rest"
    if circuit.device.rcd_type is None:
        return "the type is not entered: A for most loads, F or B where a drive or charger sends direct current back"
    if direct and circuit.device.rcd_type == "A":
        return "ask the maker of the load whether type A is enough, or whether F or B is"
    return None


@rule("afdd", "circuit", "note", "Arc fault detection", C.ARC_FAULT)
def afdd(facts: Facts, circuit: Circuit) -> str | None:
    """Recommended for socket circuits of dwellings; asked for in some other buildings."""
    if circuit.device.afdd or not any(load.kind == "sockets" for load in circuit.loads) or circuit.feeds:
        return None
    return (
        "recommended for socket circuits up to 32 A; asked for where people sleep in houses in multiple occupation, care homes and the like"
    )


@rule("isolation", "circuit", "note", "Isolation", C.ISOLATION)
def isolation(facts: Facts, circuit: Circuit) -> str | None:
    """Before work: lock off, prove dead, also for a motor's local switch."""
    if not any(load.kind == "motor" for load in circuit.loads):
        return None
    return "a switch for maintenance beside the machine; for work on the circuit lock off at the board, prove the tester, prove dead, prove it again"


@rule("joint", "circuit", "note", "Joints stay in reach", C.JOINTS)
def joint(facts: Facts, circuit: Circuit) -> str | None:
    """Work that is extended tends to get joints: they stay accessible unless they are of the maintenance-free kind."""
    return (
        "if the run is extended, joints stay accessible unless maintenance-free, encapsulated, welded or compressed"
        if circuit.existing
        else None
    )


@rule("tails", "job", "danger", "Meter tails", C.TAILS_IN_INSULATION)
def tails(facts: Facts) -> str | None:
    """Tails have insulation, sheath and a way through the wall that does not cook them."""
    if facts.job.supply.tails_wrapped <= 0:
        return None
    return "tails pass through insulation: sleeve or re-route them, or fit larger ones; agree the fuse with the supplier before touching its side"


@rule("assumed-fuse", "job", "danger", "Service fuse only assumed", C.FAULT_LEVEL)
def assumed_fuse(facts: Facts) -> str | None:
    """What is printed on a cut-out is the carrier's rating, not the fuse's."""
    s = facts.job.supply
    if s.fuse_in is None or s.fuse_source != "assumed":
        return None
    return "the carrier's marking is not the fuse's rating: ask the supplier, who alone may open the cut-out"


@rule("surge", "job", "note", "Surge protection", C.SURGE)
def surge(facts: Facts) -> str | None:
    """Overvoltage protection is fitted unless the owner declines it for a single dwelling."""
    if any(c.device.spd for c in facts.job.circuits):
        return None
    return "fit surge protection at the origin, or record that the owner of the dwelling declines it"


@rule("notify", "job", "duty", "Notification", C.NOTIFICATION)
def notify(facts: Facts) -> str | None:
    """A new circuit, a new board and work in a bathroom are notifiable in most places; local rules decide."""
    if not facts.job.circuits:
        return None
    return "a new circuit, a changed board or work near a bath or shower is notifiable in most places: by a registered person or to building control"


@rule("electrode", "board", "danger", "Earth electrode", C.ELECTRODE)
def electrode(facts: Facts, board: Board) -> str | None:
    """Where a rod is driven nobody must hit a service, and soil that dries or freezes raises its resistance."""
    root = not any(c.feeds == board.id for c in facts.job.circuits)
    if board.earthing != "TT" and not (root and facts.job.supply.earthing == "TT"):
        return None
    return "find buried services before driving it and keep clear of them; deep enough not to dry or freeze, its head in a marked pit"


@rule("enclosure", "board", "duty", "Enclosure of the board", C.ENCLOSURE)
def enclosure(facts: Facts, board: Board) -> str | None:
    """In a dwelling the enclosure of a consumer unit is of non-combustible material or in a cupboard of it."""
    if board.metal is True:
        return None
    known = "is not of" if board.metal is False else "is not known to be of"
    return f"the enclosure {known} non-combustible material: in a dwelling it is, or stands in an enclosure that is"


@rule("outbuilding", "board", "danger", "Earth of an outbuilding", C.OUTBUILDING)
def outbuilding(facts: Facts, board: Board) -> str | None:
    """Export the supply's earth, or an electrode: a choice to make knowingly."""
    if not board.outbuilding:
        return None
    if board.earthing == "TT":
        return "on an electrode of its own: an RCD for every circuit, and nothing earthed by the house within reach"
    if facts.job.supply.earthing == "TN-C-S":
        return "the supply's combined earth is exported: bond its metal services in full size, and weigh an electrode instead"
    return "the supply's earth is exported: bond its metal services in full size"


@rule("space-and-heat", "bundle", "note", "Space is not heat", C.SPACE_AND_HEAT)
def space_and_heat(facts: Facts, bundle: Bundle) -> str | None:
    """Cables that fit a conduit may still cook each other."""
    if bundle.kind == "bundle":
        return None
    return f"that the cables fit the {bundle.kind} proves nothing of their heat: the grouping of the same circuits stands beside it"


def _subjects(facts: Facts, one: Rule) -> Iterator[tuple[str, str, str | None, str | None, str | None]]:
    """Yield (key, subject, circuit, board, words) for each subject of a rule."""
    job = facts.job
    if one.about == "job":
        yield one.id, "Intake", None, None, one.run(facts)
    elif one.about == "board":
        for board in job.boards:
            yield f"{one.id}:{board.id}", board.name or "a board", None, board.id, one.run(facts, board)
    elif one.about == "circuit":
        for circuit in job.circuits:
            yield f"{one.id}:{circuit.id}", circuit.name or "a circuit", circuit.id, None, one.run(facts, circuit)
    else:
        for bundle in job.bundles:
            yield f"{one.id}:{bundle.id}", bundle.name or "a bundle", None, None, one.run(facts, bundle)


ORDER: dict[str, int] = {"danger": 0, "duty": 1, "note": 2}


def advise(job: Installation) -> tuple[Advice, ...]:
    """Return all advice the facts of a job call for: dangers first, then duties, then notes; what was put aside keeps its reason."""
    facts = Facts(load(job.ruleset), job)
    aside = {d.key: d.reason for d in job.dismissals}
    found = [
        Advice(key, one.weight, one.title, words, facts.rules.clause(one.clause), subject, circuit, board, aside.get(key))
        for one in RULES
        for key, subject, circuit, board, words in _subjects(facts, one)
        if words is not None
    ]
    return tuple(sorted(found, key=lambda a: (a.dismissed is not None, ORDER[a.weight])))
