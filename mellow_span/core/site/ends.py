"""The ends of a cable: which core is what, which is oversleeved and how, the gland, where the armour is earthed, and what to test after.

Colours are those of the book (Table 51, 514.3.1); green-yellow is for protective conductors alone (514.4.2). Blue and black may mean two things where
wiring of an older code is still there (a line was blue, the neutral black), so nothing is joined by its colour.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, replace
from typing import Literal

from mellow_span.core.adding import added
from mellow_span.core.design.branches import end_name
from mellow_span.core.design.check import Plan, lay_out
from mellow_span.core.design.prices import cores_of
from mellow_span.core.errors import CoreError
from mellow_span.core.figures import quantity
from mellow_span.core.model.legs import befores, boxes, cable_parts, legs, longest, path_to, paths, plain
from mellow_span.core.model.legs import ends as far_ends
from mellow_span.core.model.numbers import numbers
from mellow_span.core.model.parts import Circuit, Installation
from mellow_span.core.rules.protective import kind_of
from mellow_span.core.rulesets.vocabulary import T
from mellow_span.core.site.materials import fly_lead
from mellow_span.core.site.trade import rows
from mellow_span.core.site.words import cable_words
from mellow_span.core.units import MOHM_PER_OHM

# Which core of a three-core armoured cable is the neutral; the other of the two is then the cpc.
Neutral = Literal["black", "grey"]
CHOICE: dict[Neutral, str] = {
    "black": "black is the neutral and grey the cpc: black was the neutral of older cables too; sleeve both at both ends",
    "grey": "grey is the neutral and black the cpc: black was the neutral of older cables, so sleeve it at both ends before anything is joined",
}


@dataclass(slots=True)
class Core:
    """A conductor of a cable: what it is for, the colour it has from the maker, and the colour of the sleeve it gets at both ends, empty for none.

    older: the colour of its like in older wiring; empty where the book knows of no older code.
    """

    use: str
    made: str
    sleeve: str
    older: str


@dataclass(slots=True)
class End:
    """One end of a cable. where: the board or load; armour: what is done with it there, empty for a cable without; why: the design behind it."""

    where: str
    armour: str
    earthed: bool | None
    why: str


@dataclass(slots=True)
class Ends:
    """The ends of a circuit's cable: at its board, each box where a run parts, each far end.

    gland: its size, doubtful where that cell is; fly_lead [mm2]; armour_r: predicted end to end at 20 C [ohm].

    older: it is there already and somebody saw colours of the older code, None where nobody looked; before: the year that ended, None where the book
    knows of none; warning: colours of two times meet at its board.
    tests: what to test after, in order; rule: of a three-core armoured cable which core is the neutral, and why.
    """

    circuit: str
    number: str
    name: str
    cable: str
    cores: list[Core]
    spare: int
    gland: str
    doubtful: bool
    fly_lead: float | None
    armour_r: float | None
    ends: list[End]
    existing: bool
    older: bool | None
    before: int | None
    warning: str
    tests: list[str]
    rule: str = ""


def ends(
    job: Installation, older: frozenset[str] = frozenset(), newer: frozenset[str] = frozenset(), neutral: Neutral = "black"
) -> tuple[Ends, ...]:
    """Return the ends of every cable of a job. older, newer: circuits that are there already whose colours somebody saw, by identity;
    neutral: which core of a three-core armoured cable the firm takes for it.

    Raises InputError for a job that is no tree.
    """
    plan = lay_out(job)
    named = numbers(plan.job)
    boards = [b.id for b in plan.job.boards]
    order = sorted(plan.job.circuits, key=lambda c: boards.index(c.board))
    return tuple(_ends(plan, c, part, named[c.id], older, newer, neutral) for c in order for part in cable_parts(c))


def _ends(
    plan: Plan, whole: Circuit, circuit: Circuit, number: str, older: frozenset[str], newer: frozenset[str], neutral: Neutral
) -> Ends:
    family = plan.rules.families.get(circuit.run.cable.family or "")
    armoured = family is not None and bool(family.armour)
    cores, spare = _cores(plan, circuit, neutral) if family is not None else ([], 0)
    gland, doubtful, resistance = _armour(plan, circuit) if armoured else ("", False, None)
    csa = circuit.run.cable.csa
    places = _every_end(plan, circuit, armoured) if circuit is whole else _ends_of_part(plan, whole, circuit, armoured)
    seen = True if circuit.id in older else False if circuit.id in newer else None
    return Ends(
        circuit.id, number, circuit.name or "a circuit", cable_words(plan.rules, circuit), cores, spare, gland, doubtful,
        fly_lead(csa) if armoured and csa else None, resistance, places, circuit.existing, seen if circuit.existing else None,
        plan.rules.colours.before, _meeting(plan, circuit, older, newer), _tests(circuit, armoured, places, resistance),
        rule=CHOICE[neutral] if armoured and {"neutral", "cpc"} <= {core.use for core in cores} and len(cores) == 3 else "",
    )  # fmt: skip


def uses(circuit: Circuit) -> list[str]:
    """Return what the conductors of a circuit are for, without the cpc."""
    return ["line", "neutral"] if circuit.phases == 1 else ["L1", "L2", "L3", "neutral"]


def _cores(plan: Plan, circuit: Circuit, neutral: Neutral) -> tuple[list[Core], int]:
    """The conductors with their colours: each takes the core that has its colour already, the rest those that are left, sleeved."""
    cable = circuit.run.cable
    family, today, older = plan.rules.families[cable.family or ""], plan.rules.colours.today, plan.rules.colours.older
    wanted = uses(circuit) + (["cpc"] if _own_cpc(circuit, bool(family.armour)) else [])
    if family.cpc == "single":
        # Singles are bought in their colour; green-yellow ones are never sleeved for anything else (514.4.2).
        return [Core(use, today[use], "", older.get(use, "")) for use in wanted], 0
    kind = "armoured" if family.armour else "flat_twin" if family.cpc == "in_cable" else "multicore"
    count = cores_of(plan.rules, circuit)
    made = next((r["colours"].split(";") for r in rows("cores") if r["family"] == kind and int(r["cores"]) == count), [])
    left = list(made)
    found: dict[str, Core] = {}
    if family.armour and wanted == ["line", "neutral", "cpc"] and neutral in left:
        # Neither has a core of its colour: which takes which is the firm's to say.
        found["neutral"] = Core("neutral", neutral, today["neutral"], older.get("neutral", ""))
        left.remove(neutral)
    for use in wanted:
        if use not in found and today[use] in left:
            left.remove(today[use])
            found[use] = Core(use, today[use], "", older.get(use, ""))
    for use in wanted:
        if use not in found:
            # Never a green-yellow core for a live conductor.
            free = [c for c in left if c != "green-yellow" or use == "cpc"]
            colour = free[0] if free else "not in the cable"
            if free:
                left.remove(colour)
            found[use] = Core(use, colour, today[use] if free else "", older.get(use, ""))
    return [found[use] for use in wanted], len(left)


def _own_cpc(circuit: Circuit, armoured: bool) -> bool:
    """Whether the cpc is a conductor of the cable, or of the singles."""
    return kind_of(circuit, True) in ("armour_and_core", "core") if armoured else circuit.run.cable.cpc == "usual"


def _armour(plan: Plan, circuit: Circuit) -> tuple[str, bool, float | None]:
    """Gland size, whether that cell is doubtful, and the resistance of the armour end to end [ohm] at 20 C."""
    row, tables = (circuit.run.cable.csa, float(cores_of(plan.rules, circuit))), plan.rules.by_name
    # Of a run that branches to the end that is farthest.
    lengths = [s.length for s in longest(circuit).run.spans]
    try:
        cell = tables[T.ARMOURED_SIZES].cell(row, "gland_size")
        per_m = tables[T.ARMOUR_RESISTANCE].cell(row, "mohm_per_m_20C")
    except CoreError:
        return "", False, None
    known = bool(lengths) and None not in lengths
    total = per_m.value * added(x or 0.0 for x in lengths) / MOHM_PER_OHM / circuit.run.cable.parallel
    return str(cell.value), cell.check or per_m.check, total if known else None


def _both_ends(plan: Plan, circuit: Circuit, armoured: bool) -> list[End]:
    start = plan.boards[circuit.board].name or "a board"
    fed = plan.boards.get(circuit.feeds or "")
    far = (fed.name or "a board") if fed else "the far end"
    left_off = "cpc cut back and insulated, not connected here" if circuit.core_ends == "supply" else ""
    if not armoured:
        return [
            End(start, "", None, ""),
            End(far, left_off, False if left_off else None, "the supply's earth ends here" if left_off else ""),
        ]
    beside = f"; {left_off}" if left_off else ""
    earth = "earth tag and fly lead to the earth terminal"
    apart = fed is not None and fed.earthing == "TT"
    near = End(start, earth, True, "the armour is all or part of the cpc, or must be earthed anyway as exposed metal (411.3.1.1)")
    if circuit.armour_ends == "supply":
        why = (
            f"{far} is TT on its own electrode: the supply earth stops here"
            if apart
            else "the design earths the armour at the supply end only"
        )
        insulated = "insulated gland or enclosure, no fly lead; armour out of reach of metal earthed at the far end"
        return [near, End(far, insulated + beside, False, why)]
    if circuit.armour_ends == "none":
        bare, why = "insulated gland or enclosure, no fly-lead", "the design earths the armour at neither end (see the checks)"
        return [End(start, bare, False, why), End(far, bare + beside, False, why)]
    why = "the design earths the armour at both ends"
    if apart:
        why += f", although {far} is on its own electrode: two earths meet here (see the checks)"
    return [near, End(far, earth + beside, True, why)]


def _every_end(plan: Plan, circuit: Circuit, armoured: bool) -> list[End]:
    """All ends of a run that branches: what is done at its far end is done at each, and at a box every armour is joined to the others."""
    near, far = _both_ends(plan, circuit, armoured)
    if plain(circuit):
        return [near, far]
    met = Counter(before for before in befores(circuit.run.spans).values() if before is not None)
    found = [near]
    for span in boxes(circuit.run):
        name, cables = span.box or span.name or "a box", met[span.id] + 1
        if not armoured:
            found.append(End(f"{name}: {cables} cables", "", None, ""))
            continue
        told = f"{cables} glands with earth tags, all joined to each other and to the cpc of each cable"
        found.append(End(name, told, near.earthed, "without that joint what is downstream of the box has no armour as its cpc"))
    walked = {path.end.id: path for path in paths(circuit.run)}
    return found + [replace(far, where=end_name(circuit, walked[span.id])) for span in far_ends(circuit.run)]


def _ends_of_part(plan: Plan, whole: Circuit, part: Circuit, armoured: bool) -> list[End]:
    """The ends of one cable of a run whose cable changes: where each of its pieces starts and ends, a joint with the other cable among them."""
    near, far = _both_ends(plan, whole, armoured)
    before, found = befores(whole.run.spans), []
    names = {span.id: end_name(whole, path_to(whole.run, span.id)) for span in whole.run.spans}
    last = {span.id for span in far_ends(whole.run)}
    joint = "earth tag and fly lead to the cpc of the other cable, so that the cpc goes on through the joint" if armoured else ""
    for leg in legs(part.run):
        start, end = before[leg.spans[0].id], leg.spans[-1].id
        found.append(near if start is None else End(f"joint at {names[start]}", joint, near.earthed, ""))
        at_joint = end not in last
        found.append(End(f"joint at {names[end]}", joint, near.earthed, "") if at_joint else replace(far, where=names[end]))
    return found


def _meeting(plan: Plan, circuit: Circuit, older: frozenset[str], newer: frozenset[str]) -> str:
    """What to say where wiring of two times meets at the board of a circuit."""
    here = [c for c in plan.job.circuits if c.board == circuit.board or c.feeds == circuit.board]
    if not any(not c.existing for c in here):
        return ""
    name, code = plan.boards[circuit.board].name or "this board", plan.rules.colours
    if any(c.id in older for c in here):
        meant = f": {code.traps}" if code.traps else "" if code.older else ": what the older ones meant is not known in this standard"
        return (
            f"Old and new colours at {name}{meant}. Identify every conductor by test, never by colour, mark both ends, and fit the warning notice "
            "at the board."
        )
    if any(c.existing and c.id not in newer for c in here):
        when = f", when {code.traps}" if code.traps else ""
        return f"Wiring at {name} has not been checked for old colours: it may be {code.wiring}{when}."
    return ""


def _tests(circuit: Circuit, armoured: bool, places: list[End], resistance: float | None) -> list[str]:
    """What to test once both ends are made."""
    found = ["polarity and identity of every core, end to end"]
    if armoured:
        told = f": {quantity(resistance, 'Ω')} is predicted at 20 °C" if resistance is not None else ""
        found.append(f"continuity of the armour from gland to gland{told}")
        found.append("insulation of every core to the armour, and between cores")
        if all(p.earthed for p in places):
            found.append("gland, locknut and tag tight; continuity from tag to earth terminal at both ends")
        else:
            where = "of the far end" if places[0].earthed else "of either end"
            found.append(f"no continuity from the armour to the earth {where}")
    else:
        found.append("insulation between conductors and to earth")
    if circuit.run.cable.cpc in ("usual", "separate", "armour_and_core", "core"):
        found.append("continuity of the cpc (R1 + R2)")
    if circuit.core_ends == "supply":
        found.append("no continuity from the cpc of this cable to the earth of the far end")
    return found
