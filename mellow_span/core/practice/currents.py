"""Practice on currents: design current and device, capacity in one span, the span that throttles, grouping."""

from __future__ import annotations

from math import sqrt
from typing import Any

from mellow_span.core.adding import added
from mellow_span.core.errors import InputError
from mellow_span.core.practice.exercise import Exercise, Maker, Slip
from mellow_span.core.practice.houses import house, one_circuit
from mellow_span.core.rulesets import Family, Place, RuleSet
from mellow_span.core.rulesets.vocabulary import C, T

FLAT = "flat_twin_cpc_pvc70"
# From and up to [kW].
POWERS, MACHINES = (1.8, 11.0), (4.0, 19.0)
AMBIENTS = (35.0, 40.0, 45.0)
KILO = 1000.0
RATINGS = (16.0, 20.0, 25.0, 32.0, 40.0)


def design_current(m: Maker, seed: int) -> Exercise:
    """Ib from the power, then the rating that carries it."""
    three = m.rng.random() < 0.4
    power = round(20 * m.rng.uniform(*(MACHINES if three else POWERS))) / 20
    watts = m.give("P", "power of the appliance", power, "kW")
    volts = m.give("U", "voltage between lines" if three else "voltage, line to neutral", 400.0 if three else 230.0, "V")
    m.tell(
        f"A {'three-phase machine' if three else 'single-phase appliance'} of {power:g} kW, unity power factor, on a supply of {volts:g} V."
    )
    m.tell("Find its design current, then the smallest circuit-breaker rating for it.")
    root = sqrt(3) if three else 1.0
    slips = [
        Slip(
            "kilo", "kW for W: the power is in kilowatts, the current comes in amperes only from watts", lambda v: v["P"] / (root * v["U"])
        ),
        Slip("kilo", "kW for A: that is the power, not a current", lambda v: v["P"]),
    ]
    if three:
        slips += [
            Slip("factor_forgotten", "√3 left out: three lines share the power", lambda v: KILO * v["P"] / v["U"]),
            Slip("single_phase_column", "the single-phase voltage was taken for a three-phase load", lambda v: KILO * v["P"] / 230.0),
        ]
    else:
        slips.append(Slip("other_formula", "the voltage between lines was taken for a single-phase load", lambda v: KILO * v["P"] / 400.0))
    m.calc(
        "Ib", "design current", "A", "1000 × P / (√3 × U)" if three else "1000 × P / U", lambda v: KILO * v["P"] / (root * v["U"]), *slips
    )
    ratings = m.rules.ratings("mcb")
    m.pick(
        "In", "smallest rating that carries it", "A", lambda v: next(r for r in ratings if r >= v["Ib"] - 1e-9),
        Slip("wrong_row", "the rating below it: In is at least Ib", lambda v: [r for r in ratings if r < v["Ib"]][-1]),
        formula="Ib ≤ In",
    )  # fmt: skip
    rating = next(r for r in ratings if r >= KILO * watts / (root * volts))
    job = one_circuit(m.rules, three, rating, 10.0, [("masonry", 12.0, 30.0)], watts * KILO)
    return finished(m, "design_current", seed, job, ("design_current",))


def finished(m: Maker, head: str, seed: int, job: Any, checks: tuple[str, ...], circuit: str = "c") -> Exercise:
    """Return what was gathered as an exercise."""
    return Exercise(head, seed, m.rules.id, tuple(m.story), tuple(m.given), tuple(m.lines), job, circuit, checks)


def _places(rules: RuleSet, family: Family) -> list[Place]:
    """Places in the air in which the family has a capacity of its own."""
    return [p for p in rules.places.values() if not p.ground and not p.surrounded and p.method in family.columns and not p.joists]


def capacity(m: Maker, seed: int) -> Exercise:
    """It by the reference method, the factor for the temperature, Iz."""
    family = m.rules.families[FLAT]
    place = m.rng.choice(_places(m.rules, family))
    csa, ambient, rating = m.rng.choice([s for s in family.sizes if s <= 16]), m.rng.choice(AMBIENTS), m.rng.choice(RATINGS)
    m.give("S", "line conductor", csa, "mm²")
    m.give("θ", "ambient temperature", ambient, "°C")
    m.give("In", "rating of the breaker", rating, "A")
    m.tell(f"{csa:g} mm² {family.title}, {place.title}, at {ambient:g} °C, alone; behind a {rating:g} A breaker.")
    m.tell("Find what the cable carries there, and whether that is enough.")
    _capacity(m, family, place, csa, "It")
    m.look("Ca", "ambient temperature factor", T.AMBIENT_AIR, ambient, family.insulation)
    m.calc(
        "Iz", "what the cable carries there", "A", "It × Ca", lambda v: v["It"] * v["Ca"],
        Slip("factor_forgotten", "the ambient temperature factor is left out", lambda v: v["It"]),
        Slip("factor_twice", "the factor is applied twice", lambda v: v["It"] * v["Ca"] ** 2),
        Slip(
            "other_formula",
            "divided by the factor: that is the capacity to look for in the table, not what this cable carries",
            lambda v: v["It"] / v["Ca"],
        ),
        clause=C.CAPACITY,
    )  # fmt: skip
    m.decide("holds", "Does it carry In?", lambda v: v["Iz"] >= v["In"], C.OVERLOAD)
    job = one_circuit(m.rules, False, rating, csa, [(place.id, 10.0, ambient)], 0.9 * rating * 230)
    return finished(m, "capacity", seed, job, ("capacity",))


def _capacity(m: Maker, family: Family, place: Place, csa: float, id: str, name: str = "") -> float:
    """A line for the tabulated capacity, with the columns people read in its place."""
    table, column = family.capacity_column(place.method, 2)
    rows, here = m.rules.table(table), csa
    slips = []
    if place.method != "C":
        other, beside = family.capacity_column("C", 2)
        value = m.rules.table(other).cell(csa, beside).value
        slips.append(
            Slip(
                "wrong_column",
                "the column for a cable clipped to a surface: these surroundings have a method of their own",
                lambda _: value,
            )
        )
    larger = [r.key[0] for r in rows.rows if r.key[0] > here and isinstance(r.cells[column], float)]
    if larger:
        above = rows.cell(larger[0], column).value
        slips.append(Slip("wrong_row", "the row of the next size", lambda _: above))
    return m.look(id, f"tabulated capacity{f', {name}' if name else ''}", table, csa, column, *slips)


def throttled(m: Maker, seed: int) -> Exercise:
    """Three spans; the least of them rules."""
    family = m.rules.families[FLAT]
    places = m.rng.sample(_places(m.rules, family), 3)
    csa, rating = m.rng.choice([s for s in family.sizes if s <= 16]), m.rng.choice(RATINGS)
    m.give("S", "line conductor", csa, "mm²")
    m.give("In", "rating of the breaker", rating, "A")
    m.tell(f"{csa:g} mm² {family.title} behind a {rating:g} A breaker, alone, at 30 °C.")
    m.tell("It runs " + "; then ".join(p.title for p in places) + ".")
    m.tell("Find its capacity in each span, and for the whole run.")
    ids = ("Iz1", "Iz2", "Iz3")
    for id, place in zip(ids, places, strict=True):
        _capacity(m, family, place, csa, id, place.title)
    m.calc(
        "Iz", "what the run carries", "A", "the least of the spans", lambda v: min(v[i] for i in ids),
        Slip("other_formula", "the best span: a run carries what its worst span carries", lambda v: max(v[i] for i in ids)),
        Slip("other_formula", "the mean of the spans: the worst one is as hot as if it were alone", lambda v: added(v[i] for i in ids) / 3),
        clause=C.CAPACITY,
    )  # fmt: skip
    m.decide("holds", "Does it carry In?", lambda v: v["Iz"] >= v["In"], C.OVERLOAD)
    job = one_circuit(m.rules, False, rating, csa, [(p.id, 6.0, 30.0) for p in places], 0.9 * rating * 230)
    return finished(m, "throttled", seed, job, ("capacity",))


def grouping(m: Maker, seed: int) -> Exercise:
    """Circuits bunched, one of them lightly loaded: the 30 % rule, then the factor of those that count."""
    family, place = m.rules.families[FLAT], m.rules.places["masonry"]
    n, csa, rating = m.rng.randint(3, 6), m.rng.choice([s for s in family.sizes if 2.5 <= s <= 16]), m.rng.choice((16.0, 20.0, 25.0, 32.0))
    light = m.give("Ib", "design current of the lightly loaded one", float(m.rng.randint(2, 12)), "A")
    m.give("n", "circuits bunched, that one among them", float(n))
    m.give("S", "line conductor of each", csa, "mm²")
    m.tell(f"{n} circuits of {csa:g} mm² {family.title} are bunched, {place.title}, at 30 °C, each behind a {rating:g} A breaker.")
    m.tell(f"All but one are loaded to their ratings; that one carries {light:g} A.")
    m.tell("A cable that carries no more than 30 % of its grouped rating need not be counted.")
    it = _capacity(m, family, place, csa, "It")
    number, column = m.rules.laid["bunched"]["air"]
    cg = m.look("Cg", f"factor for {n} circuits", number, float(n), column)
    share = m.rules.limit("grouped_light")
    if rating <= share * it * cg:
        raise InputError("seed", seed, "a bunch in which the others count")
    m.calc(
        "I30", "30 % of the grouped rating of the light one", "A", "0.3 × It × Cg", lambda v: share * v["It"] * v["Cg"],
        Slip(
            "thirty_per_cent",
            "30 % of the capacity alone: it is 30 % of the grouped rating, with the factor for all of them",
            lambda v: share * v["It"],
        ),
        Slip("thirty_per_cent", f"30 % of In: it is 30 % of what the cable carries grouped, not of the {rating:g} A device", lambda v: share * rating),
        Slip("thirty_per_cent", "70 %: up to 30 % of the grouped rating a cable need not be counted", lambda v: (1 - share) * v["It"] * v["Cg"]),
        clause=C.GROUPED_LIGHT,
    )  # fmt: skip
    m.pick("count", "circuits that count", "", lambda v: v["n"] - 1 if v["Ib"] <= v["I30"] else v["n"])
    table = m.rules.table(number)
    m.pick("Cg′", "factor for those that count", "", lambda v: table.cell(v["count"], column).value, table=number)
    m.calc(
        "Iz", "capacity of each of the others", "A", "It × Cg′", lambda v: v["It"] * v["Cg′"],
        Slip("factor_forgotten", "the factor for grouping is forgotten", lambda v: v["It"]),
        Slip("factor_twice", "the factor is applied twice", lambda v: v["It"] * v["Cg′"] ** 2),
        clause=C.CAPACITY,
    )  # fmt: skip
    job = house(m.rules, [(f"c{k}" if k else "c", rating, csa, light * 230 if k == 1 else rating * 230) for k in range(n)])
    return finished(m, "grouping", seed, job, ("capacity",))
