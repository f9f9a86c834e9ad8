"""Practice on places: space in a conduit, the electrode and the bonding of an outbuilding."""

from __future__ import annotations

from math import nan

from mellow_span.core.adding import added
from mellow_span.core.model.parts import Board, Cable, Circuit, Device, Installation, Load, Route, Run, Span
from mellow_span.core.practice.currents import finished
from mellow_span.core.practice.exercise import Exercise, Maker, Slip, always
from mellow_span.core.practice.houses import SUPPLY, one_circuit
from mellow_span.core.rulesets.vocabulary import C, T

SINGLES = "single_pvc70"
DIAMETERS = (16.0, 20.0, 25.0, 32.0)
MILLI = 1000.0


def conduit(m: Maker, seed: int) -> Exercise:
    """Cable factors, their sum, the smallest conduit that has the room."""
    table, cables = m.rules.table(T.CONDUIT_LONG), m.rules.table(T.CONDUIT_CABLE_LONG)
    bends = float(m.rng.randint(1, 3))
    lengths = sorted(r.key[0] for r in table.rows if r.key[1] == bends)
    length = m.rng.choice(lengths)
    sizes = sorted(m.rng.sample([r.key[0] for r in cables.rows if 1.5 <= r.key[0] <= 6], 2))
    circuits = [m.rng.randint(1, 3), m.rng.randint(1, 2)]
    counts = [3 * n for n in circuits]
    for k, (csa, count) in enumerate(zip(sizes, counts, strict=True), 1):
        m.give(f"n{k}", f"singles of {csa:g} mm²", float(count))
    m.give("L", "length between drawing-in points", length, "m")
    m.give("b", "bends between them", bends)
    m.tell(
        f"{counts[0]} singles of {sizes[0]:g} mm² and {counts[1]} of {sizes[1]:g} mm² are drawn into a conduit, "
        f"{length:g} m with {bends:g} {'bend' if bends == 1 else 'bends'} between drawing-in points."
    )
    m.tell("Find the smallest conduit that has the room.")
    short = m.rules.table(T.CONDUIT_CABLE_SHORT)
    for k, csa in enumerate(sizes, 1):
        other = short.cell(("stranded", csa), "factor").value
        m.look(
            f"f{k}", f"factor of one single of {csa:g} mm²", T.CONDUIT_CABLE_LONG, csa, "factor",
            Slip("wrong_column", "the factor for short straight conduit: this one is longer, or has bends", always(other)),
        )  # fmt: skip
    m.calc(
        "sum", "sum for all of them", "", "n1 × f1 + n2 × f2", lambda v: v["n1"] * v["f1"] + v["n2"] * v["f2"],
        Slip("factor_forgotten", "each size is counted once: every single takes its own room", lambda v: v["f1"] + v["f2"]), clause=C.DRAWING_IN,
    )  # fmt: skip
    cells = table.row((length, bends)).cells
    rooms = [(d, cells[f"d{d:g}"]) for d in DIAMETERS if cells.get(f"d{d:g}") is not None]

    def smallest(needed: float) -> float:
        return next(d for d, room in rooms if room >= needed - 1e-9)

    m.pick(
        "d", "smallest conduit, outer diameter", "mm", lambda v: smallest(v["sum"]),
        Slip("wrong_row", "one size smaller: its factor is below the sum", lambda v: [d for d, room in rooms if room < v["sum"]][-1]),
        table=T.CONDUIT_LONG,
    )  # fmt: skip
    made, at = [], 0
    for csa, n in zip(sizes, circuits, strict=True):
        for _ in range(n):
            id = f"c{at}" if at else "c"
            made.append(Circuit(
                id=id, name=id, board="b", device=Device(rating=6.0, icn=6000.0), loads=(Load(id=f"{id}-l", name="load", amount=800.0, basis="W"),),
                run=Run(id=f"{id}-run", cable=Cable(family=SINGLES, csa=csa, cpc_csa=csa), spans=(Span(id=f"{id}-s", length=length, route="route"),)),
            ))  # fmt: skip
            at += 1
    total = added(n * cables.cell(s, "factor").value for n, s in zip(counts, sizes, strict=True))
    route = Route(id="route", name="the conduit", kind="conduit", place="conduit", diameter=smallest(total), pull=length, bends=int(bends))
    job = Installation(
        name="Practice", ruleset=m.rules.id, supply=SUPPLY, boards=(Board(id="b", name="the board"),), circuits=tuple(made), routes=(route,)
    )
    return finished(m, "conduit", seed, job, ("space",))


def outbuilding(m: Maker, seed: int) -> Exercise:
    """Earthing of its own: the largest RA; or the supplier's earth taken along: the bonding conductor."""
    idn = m.rng.choice((30.0, 100.0, 300.0, 500.0))
    ra = float(m.rng.randint(25, 450))
    neutral = m.rng.choice((16.0, 25.0, 35.0, 50.0, 70.0, 95.0))
    m.give("IΔn", "rated residual current of its RCD", idn, "mA")
    m.give("RA", "resistance of its electrode, measured", ra, "Ω")
    m.give("SN", "neutral of the supply", neutral, "mm²")
    m.tell(f"An outbuilding on its own earth electrode: RA reads {ra:g} Ω, an RCD of {idn:g} mA clears every fault.")
    m.tell(f"Find the maximum RA. Then the other option: the PME earth is exported; the supply neutral is {neutral:g} mm².")
    m.tell("Find the main bonding conductor for that.")
    volts = m.rules.limit("touch_voltage")
    m.calc(
        "RAmax", "largest RA", "Ω", f"{volts:g} V / IΔn", lambda v: MILLI * volts / v["IΔn"],
        Slip("kilo", "milliamperes taken as amperes", lambda v: volts / v["IΔn"]),
        Slip(
            "other_formula",
            "the supply voltage in place of the touch voltage: 50 V is the permitted touch voltage",
            lambda v: MILLI * 230 / v["IΔn"],
        ),
        clause=C.RCD_TOUCH_VOLTAGE,
    )  # fmt: skip
    m.decide("holds", "Is RA within it?", lambda v: v["RA"] <= v["RAmax"], C.RCD_TOUCH_VOLTAGE)
    table = m.rules.table(T.PME_BONDING)
    value = table.cell(neutral, "requirement").value
    share = m.rules.limit("bond_share")
    m.look(
        "Sb", "main bonding conductor, copper, on a PME earth", T.PME_BONDING, neutral, "requirement",
        Slip(
            "wrong_column",
            "half of the earthing conductor: that is the rule without a combined earth",
            always(share * neutral if abs(share * neutral - value) > 0.1 else nan),
        ),
        unit="mm²",
    )  # fmt: skip
    job = one_circuit(
        m.rules, False, 16.0, 2.5, [("masonry", 10.0, 30.0)], 2000.0, device="rcbo", device_more={"idn": idn / MILLI, "rcd_type": "A"},
        supply={"earthing": "TT", "ze": ra},
    )  # fmt: skip
    return finished(m, "outbuilding", seed, job, ("electrode",))
