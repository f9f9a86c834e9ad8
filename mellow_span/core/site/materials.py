"""Materials: what a job takes, counted from its design, with the places it is for; the same keys name a thing in price books and at merchants.

What is counted from usual sizes, spacings or stock lengths, and not from a table of the rule set or an entry, is marked as usual (†).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from math import ceil
from typing import Literal

from mellow_span.core.adding import added
from mellow_span.core.design.check import Plan, lay_out
from mellow_span.core.design.prices import PriceBook, cores_of
from mellow_span.core.errors import CoreError
from mellow_span.core.figures import figure, quantity
from mellow_span.core.model.legs import befores, begins, cable_parts, cables, legs, mixed
from mellow_span.core.model.legs import ends as far_ends
from mellow_span.core.model.numbers import numbers
from mellow_span.core.model.parts import Board, Circuit, Installation, Load, Route
from mellow_span.core.model.places import rcds_of
from mellow_span.core.rules.places.bodies import of_circuit
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.site.trade import rows
from mellow_span.core.site.words import cable_words, device_words, for_later
from mellow_span.core.working.recorders import Keeping

Group = Literal["cable", "devices", "boards", "glands", "boxes", "containment", "fixings", "labels", "earthing"]
Unit = Literal["m", "pieces"]
# Conduit and trunking are sold in lengths of so many metres.
STOCK = 3.0
# Brackets of a tray or basket usually stand so many metres apart.
BRACKETS = 1.5
# Kinds of load that end at an outlet or accessory in a box, with what that is called.
ENDS = {
    "lighting": "lighting point", "sockets": "socket-outlet", "cooking": "cooker outlet", "shower": "shower isolator or outlet",
    "water_heater": "outlet for a water heater", "heating": "outlet for a heater", "floor_heating": "outlet for floor heating",
    "storage_heating": "outlet for a storage heater", "ev": "outlet for a charging point", "heat_pump": "outlet for a heat pump",
    "motor": "outlet for a motor", "inverter": "isolator of an inverter", "generator": "inlet of a generator", "other": "outlet",
}  # fmt: skip


@dataclass(slots=True)
class Need:
    """So much of one thing. key: names it in price books and at merchants; where: numbers of circuits, names of boards and routes it is for.

    usual: counted from usual sizes or spacings; note: what to see to. circuits: identities of the circuits whose cable or device it is.
    """

    key: str
    group: Group
    title: str
    count: float
    unit: Unit
    where: list[str]
    usual: bool = False
    note: str = ""
    circuits: list[str] = field(default_factory=list)


class _Basket:
    def __init__(self) -> None:
        self.needs: dict[str, Need] = {}

    def add(
        self,
        key: str,
        group: Group,
        title: str,
        count: float,
        where: str,
        *,
        unit: Unit = "pieces",
        usual: bool = False,
        note: str = "",
        circuit: str = "",
    ) -> None:
        need = self.needs.setdefault(key, Need(key, group, title, 0.0, unit, [], usual, note))
        need.count = round(need.count + count, 1)
        need.usual = need.usual or usual
        if where and where not in need.where:
            need.where.append(where)
        if circuit:
            need.circuits.append(circuit)


def materials(job: Installation, cuts: Mapping[str, float]) -> tuple[Need, ...]:
    """Return what a job takes beside what is there already. cuts: length to cut for each circuit or each of its cables [m] (`pulls.cut_lengths`).

    Raises InputError for a job that is no tree.
    """
    plan = lay_out(job)
    basket, later = _Basket(), {c.id for c in plan.job.circuits if for_later(c)}
    # What may come later is on the list, and said: it is for the person to buy it now or then.
    named = {i: f"{n} (later)" if i in later else n for i, n in numbers(plan.job).items()}
    fresh = [c for c in plan.job.circuits if not c.existing]
    for circuit in fresh:
        for part in cable_parts(circuit):
            _cable(basket, plan, part, named[circuit.id], cuts.get(_key(circuit, part)))
            _ends(basket, plan, part, named[circuit.id])
            _fixings(basket, plan, part, named[circuit.id])
        _device(basket, plan, circuit, named[circuit.id])
        _joints(basket, circuit, named[circuit.id])
        _boxes(basket, circuit, named[circuit.id])
    for board in plan.job.boards:
        _board(basket, plan, board, [c for c in fresh if c.board == board.id])
    for route in plan.job.routes:
        if any(s.route == route.id for c in fresh for s in c.run.spans):
            _containment(basket, route)
    _earthing(basket, plan)
    _tails(basket, plan)
    _sleeving(basket, plan, fresh, named)
    order = list(Group.__args__)  # type: ignore[attr-defined]
    return tuple(sorted(basket.needs.values(), key=lambda n: order.index(n.group)))


def _key(circuit: Circuit, part: Circuit) -> str:
    """Under what the length of a cable is found: the circuit, or circuit and span where its cable changes (`pulls.cut_lengths`)."""
    return f"{circuit.id}/{cables(circuit.run)[part.run.spans[0].id][1]}" if mixed(circuit) else circuit.id


JOINTS = {
    "terminals": "junction box with terminals, for a joint that can be reached", "maintenance_free": "maintenance-free junction box",
    "crimped": "crimped joint with its sleeve", "resin": "resin joint kit",
}  # fmt: skip


def _joints(basket: _Basket, circuit: Circuit, number: str) -> None:
    """A joint wherever another cable goes on from one before it."""
    before = befores(circuit.run.spans) if mixed(circuit) else {}
    for span in circuit.run.spans:
        if begins(span) and before[span.id] is not None:
            note = "" if span.joint else "how it is joined is not entered"
            basket.add(
                f"joint/{span.joint or 'unknown'}", "boxes", JOINTS.get(span.joint, "joint of a kind not entered"), 1, number, note=note
            )


def price_of(book: PriceBook, need: Need) -> float | None:
    """Return what a need costs by a book, None where the book lacks it."""
    return book.price(need.key, need.count)


def cable_key(plan: Plan, circuit: Circuit) -> str:
    """Return the key of a circuit's cable: family, cores where the family leaves them open, csa."""
    cable = circuit.run.cable
    family = plan.rules.families[cable.family or ""]
    cores = f"/{cores_of(plan.rules, circuit)}" if family.cpc in ("core", "armour") else ""
    return f"cable/{family.id}{cores}/{cable.csa:g}"


def _cable(basket: _Basket, plan: Plan, circuit: Circuit, number: str, cut: float | None) -> None:
    cable = circuit.run.cable
    family = plan.rules.families.get(cable.family or "")
    if family is None or cable.csa is None:
        basket.add("cable/unknown", "cable", "cables not chosen yet", 1, number, note="choose them first")
        return
    note = "" if cut is not None else "a length is not known yet"
    metres = (cut or 0.0) * cable.parallel
    if family.cpc != "single":
        basket.add(
            cable_key(plan, circuit), "cable", cable_words(plan.rules, circuit), metres, number, unit="m", note=note, circuit=circuit.id
        )
        return
    live = 2 if circuit.phases == 1 else 4
    basket.add(
        cable_key(plan, circuit),
        "cable",
        f"{quantity(cable.csa, 'mm²')} {family.title}, line and neutral",
        metres * live,
        number,
        unit="m",
        note=note,
        circuit=circuit.id,
    )
    if cable.cpc == "usual" and cable.cpc_csa:
        basket.add(
            f"cpc/{family.id}/{cable.cpc_csa:g}",
            "cable",
            f"{quantity(cable.cpc_csa, 'mm²')} {family.title}, cpc",
            metres,
            number,
            unit="m",
            note=note,
        )


def _device(basket: _Basket, plan: Plan, circuit: Circuit, number: str) -> None:
    d = circuit.device
    if d.rating is None:
        basket.add("device/unknown", "devices", "devices not chosen yet", 1, number, note="choose them first")
        return
    residual = f"/{d.idn * 1000:g}{d.rcd_type or ''}{'S' if d.delayed else ''}" if d.idn else ""
    extra = ("/afdd" if d.afdd else "") + ("/spd" if d.spd else "")
    curve = f"/{d.curve}" if d.kind in ("mcb", "rcbo") else ""
    key = f"device/{d.kind}{curve}/{circuit.phases}/{d.rating:g}{residual}{extra}"
    missing = "" if d.icn or d.kind.startswith("BS") else "its breaking capacity is not entered"
    basket.add(key, "devices", device_words(plan.rules, d, circuit.phases), 1, number, note=missing, circuit=circuit.id)


def _ends(basket: _Basket, plan: Plan, circuit: Circuit, number: str) -> None:
    """Glands at both ends of multicore cables; an armoured one has a kit at each end, and a fly-lead where it is earthed."""
    family = plan.rules.families.get(circuit.run.cable.family or "")
    if family is None or family.cpc not in ("core", "armour") or circuit.run.cable.csa is None:
        return
    ends = _cable_ends(circuit) * circuit.run.cable.parallel
    wet = any(
        ((p := plan.rules.places.get(s.place or "")) and p.ground) or s.location in ("outdoors", "pool", "hot_tub", "agricultural")
        for s in circuit.run.spans
    )
    try:
        across = max(b.width for b in of_circuit(Keeping(plan.rules), circuit))
    except CoreError:
        basket.add(
            "gland/unknown",
            "glands",
            "glands of a size not known",
            ends,
            number,
            note="overall diameter not tabulated: ask the maker",
        )
        return
    if not family.armour:
        size = next((r["size"] for r in rows("glands") if float(r["from_mm"]) <= across <= float(r["to_mm"])), None)
        basket.add(
            f"gland/{size}",
            "glands",
            f"gland M{size}, for a cable of {quantity(across, 'mm')}" if size else "glands past the usual sizes",
            ends,
            number,
            usual=True,
        )
        return
    cores = float(cores_of(plan.rules, circuit))
    cell = plan.rules.by_name[T.ARMOURED_SIZES].cell((circuit.run.cable.csa, cores), "gland_size")
    size = str(cell.value)
    seal = "with a seal on the sheath, for wet places" if wet else "for dry places"
    basket.add(
        f"armour_gland/{size}{'w' if wet else ''}",
        "glands",
        f"gland kit {size} {seal}: gland, locknut, earth tag, shroud",
        ends,
        number,
        usual=cell.check,
    )
    # At boxes the armour goes on whichever of its ends is earthed.
    last = max(1, len(far_ends(circuit.run)))
    left_off = {"both": 0, "supply": last, "none": _cable_ends(circuit)}[circuit.armour_ends]
    earthed = circuit.run.cable.parallel * (_cable_ends(circuit) - left_off)
    if not earthed:
        return
    csa = fly_lead(circuit.run.cable.csa)
    basket.add(
        f"fly_lead/{csa:g}",
        "glands",
        f"fly lead from earth tag to earth terminal, {quantity(csa, 'mm²')} green-yellow",
        earthed,
        number,
        usual=True,
    )


def _cable_ends(circuit: Circuit) -> int:
    """How many ends the pieces of a run have: two each, so that at a box as many are made off as meet there."""
    return 2 * max(1, len(legs(circuit.run)))


def fly_lead(csa: float) -> float:
    """The fly-lead of an armoured cable [mm2], as the table method has it for the line (Table 54.7): never the weak part of the cpc."""
    needed = csa if csa <= 16 else 16.0 if csa <= 35 else csa / 2
    return next((s for s in (1.5, 2.5, 4, 6, 10, 16, 25, 35, 50, 70, 95, 120, 150, 185) if s >= needed), needed)


def _boxes(basket: _Basket, circuit: Circuit, number: str) -> None:
    place = circuit.run.spans[-1].location if circuit.run.spans else ""
    about = next((r for r in rows("places") if r["location"] == place), None)
    for load in circuit.loads:
        key, title = _outlet(circuit, load)
        note = f"at least {about['ip']} there ({about['clause']})" if about else ""
        tight = f", {about['ip']}" if about else ""
        basket.add(
            f"{key}{'/' + about['ip'] if about else ''}",
            "boxes",
            f"box and {title}{tight}",
            load.quantity,
            number,
            usual=about is not None,
            note=note,
        )


def _outlet(circuit: Circuit, load: Load) -> tuple[str, str]:
    if load.kind == "sockets":
        return f"outlet/socket/{load.outlet:g}", f"{quantity(load.outlet, 'A')} socket-outlet"
    if circuit.accessory:
        rating = f" {quantity(circuit.accessory_in, 'A')}" if circuit.accessory_in else ""
        return f"outlet/{circuit.accessory}/{circuit.accessory_in or 0:g}", f"{circuit.accessory.replace('_', ' ')}{rating}"
    return f"outlet/{load.kind}", ENDS[load.kind]


def _fixings(basket: _Basket, plan: Plan, circuit: Circuit, number: str) -> None:
    family = plan.rules.families.get(circuit.run.cable.family or "")
    if family is None or family.cpc == "single":
        return
    try:
        across = max(b.width for b in of_circuit(Keeping(plan.rules), circuit))
    except CoreError:
        return
    for span in circuit.run.spans:
        place = plan.rules.places.get(span.place or "")
        if place is None or span.length is None or place.concealed or place.method not in ("C", "E") or place.look == "soil":
            continue
        what = "cleat" if family.armour else "tie" if place.look == "tray" else "clip"
        metal = " of metal" if span.fire_supports else ""
        count = ceil(span.length / spacing(what, across) + 1) * circuit.run.cable.parallel
        size = f"{figure(across)} mm"
        basket.add(
            f"{what}{'_metal' if metal else ''}/{ceil(across):g}",
            "fixings",
            f"{what}{metal} for a cable of {size}",
            count,
            number,
            usual=True,
        )


def spacing(what: str, across: float) -> float:
    """Return how far apart fixings usually stand [m], by the size over all of what they hold [mm]."""
    return next(float(r["spacing_m"]) for r in rows("fixings") if r["what"] == what and float(r["from_mm"]) < across <= float(r["to_mm"]))


def _containment(basket: _Basket, route: Route) -> None:
    if route.kind == "open" or not route.length:
        return
    name, metres = route.name or "a route", route.length
    bars = ceil(metres / STOCK - 1e-9)
    if route.kind in ("tray", "basket"):
        size = f"{route.width:g}" if route.width else "unknown"
        title = f"{route.kind}, {f'{route.width:g} mm wide' if route.width else 'of a width not chosen yet'}"
        basket.add(f"{route.kind}/{size}", "containment", f"{title}, lengths of {quantity(STOCK, 'm')}", bars, name, usual=True)
        basket.add(f"{route.kind}_coupler/{size}", "containment", f"couplers of {title}", max(0, bars - 1), name, usual=True)
        basket.add(f"{route.kind}_bend/{size}", "containment", f"bends of {title}", route.bends, name, usual=True)
        basket.add(f"{route.kind}_bracket/{size}", "fixings", f"brackets for {title}", ceil(metres / BRACKETS - 1e-9) + 1, name, usual=True)
        return
    pulls = max(1, ceil(metres / route.pull - 1e-9)) if route.pull else 1
    if route.kind == "conduit":
        size = f"{route.diameter:g}" if route.diameter else "unknown"
        title = f"{size} mm" if route.diameter else "of a size not chosen yet"
        basket.add(f"conduit/{size}", "containment", f"conduit {title}, lengths of {quantity(STOCK, 'm')}", bars, name, usual=True)
        basket.add(f"conduit_coupler/{size}", "containment", f"conduit couplers {title}", max(0, bars - 1), name, usual=True)
        basket.add(f"conduit_bend/{size}", "containment", f"conduit bends {title}", route.bends * pulls, name, usual=True)
        basket.add(f"conduit_box/{size}", "containment", f"conduit boxes {title}", pulls + 1, name, usual=True)
        if route.diameter:
            basket.add(
                f"saddle/{size}", "containment", f"saddles {title}", ceil(metres / spacing("saddle", route.diameter)) + 1, name, usual=True
            )
    else:
        size = f"{route.width:g}x{route.height:g}" if route.width and route.height else "unknown"
        title = f"{route.width:g} × {route.height:g} mm" if route.width and route.height else "of a size not chosen yet"
        basket.add(f"trunking/{size}", "containment", f"trunking {title}, lengths of {quantity(STOCK, 'm')}", bars, name, usual=True)
        basket.add(f"trunking_coupler/{size}", "containment", f"trunking couplers {title}", max(0, bars - 1), name, usual=True)
        basket.add(f"trunking_bend/{size}", "containment", f"trunking bends {title}", route.bends * pulls, name, usual=True)
        basket.add(f"trunking_end/{size}", "containment", f"trunking stop ends {title}", 2, name, usual=True)


def _board(basket: _Basket, plan: Plan, board: Board, fresh: list[Circuit]) -> None:
    if not fresh:
        return
    name = board.name or "a board"
    there = any(c.existing for c in plan.job.circuits if c.board == board.id)
    used = added(c.phases for c in plan.job.circuits if c.board == board.id)
    if not there:
        ways, enclosure = board.ways or used, {True: ", of metal", False: "", None: ", its enclosure not entered"}[board.metal]
        switch = f", main switch {quantity(board.switch_in, 'A')}" if board.switch_in else ", its main switch not entered"
        note = "" if board.ways else "number of ways not entered: counted from the circuits, no spare ways"
        basket.add(
            f"board/{ways}{'/metal' if board.metal else ''}", "boards", f"board of {ways} ways{enclosure}{switch}", 1, name, note=note
        )
        for rcd in rcds_of(board):
            delay = ", time-delayed" if rcd.delayed else ""
            rating = f" {quantity(rcd.rated, 'A')}" if rcd.rated else ""
            basket.add(
                f"rccb/{rcd.rated or 0:g}/{rcd.idn * 1000:g}{'S' if rcd.delayed else ''}",
                "boards",
                f"residual current device{rating}, {figure(rcd.idn * 1000)} mA{delay}",
                1,
                name,
            )
    basket.add("label/chart", "labels", "circuit chart for a board", 1, name)
    basket.add("label/switch", "labels", "label of a main switch", 1, name)
    basket.add("label/tag", "labels", "tag or marker for a cable end", added(_cable_ends(c) * c.run.cable.parallel for c in fresh), name)
    if rcds_of(board) or any(c.device.idn for c in fresh):
        basket.add("label/rcd", "labels", plan.rules.cited("RCD test notice", C.RCD_NOTICE), 1, name)


def _earthing(basket: _Basket, plan: Plan) -> None:
    job = plan.job
    if all(c.existing for c in job.circuits):
        return
    basket.add("label/earth", "labels", plan.rules.cited("label at an earthing or bonding connection", C.EARTH_LABEL), 1, "the intake")
    if job.supply.earthing == "TT":
        _electrode(basket, "the intake")
    if job.supply.extraneous:
        basket.add(
            "clamp/bonding",
            "earthing",
            "bonding clamp with its label, one for each service",
            1,
            "the intake",
            usual=True,
            note="count the services",
        )
    for board in job.boards:
        if board.earthing == "TT":
            _electrode(basket, board.name or "a board")
        if board.extraneous:
            basket.add(
                "clamp/bonding",
                "earthing",
                "bonding clamp with its label, one for each service",
                1,
                board.name or "a board",
                usual=True,
                note="count the services",
            )


def _tails(basket: _Basket, plan: Plan) -> None:
    """Meter tails, a line and a neutral, where their size and length are entered."""
    supply = plan.job.supply
    if supply.tails_csa and supply.tails_length and not any(c.existing for c in plan.job.circuits):
        lines = supply.phases + 1
        title = f"{quantity(supply.tails_csa, 'mm²')} meter tails, line and neutral"
        basket.add(f"meter_tails/{supply.tails_csa:g}", "cable", title, lines * supply.tails_length, "the intake", unit="m")


# Of green-yellow sleeving at one end of a bare cpc [m].
SLEEVED = 0.15


def _sleeving(basket: _Basket, plan: Plan, fresh: list[Circuit], named: dict[str, str]) -> None:
    """Green-yellow sleeving for the bare cpcs of cables: at the board, and in and out of each point."""
    for circuit in fresh:
        family = plan.rules.families.get(circuit.run.cable.family or "")
        if family is None or family.cpc != "in_cable" or circuit.run.cable.csa is None:
            continue
        points = added(load.quantity for load in circuit.loads)
        ends = 2 * points + (2 if circuit.shape == "ring" else 0)
        metres = SLEEVED * max(2, ends) * circuit.run.cable.parallel
        basket.add(
            "sleeving/green_yellow", "glands", "green-yellow sleeving for bare cpcs", metres, named[circuit.id], unit="m", usual=True
        )


def _electrode(basket: _Basket, where: str) -> None:
    basket.add(
        "electrode/rod", "earthing", "earth rod", 1, where, usual=True, note="one allowed for; measured RA shows whether it is enough"
    )
    basket.add("electrode/clamp", "earthing", "rod clamp", 1, where)
    basket.add("electrode/pit", "earthing", "inspection pit with its label", 1, where)
