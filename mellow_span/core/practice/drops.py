"""Practice on volt drop: along one run, and along a chain of a three-phase sub-main and a single-phase final."""

from __future__ import annotations

from dataclasses import replace

from mellow_span.core.model.parts import Board, Cable, Circuit, Device, Installation, Load, Run, Span
from mellow_span.core.practice.currents import FLAT, finished
from mellow_span.core.practice.exercise import Exercise, Maker, Slip
from mellow_span.core.practice.houses import SUPPLY, one_circuit
from mellow_span.core.rulesets.vocabulary import C
from mellow_span.core.units import MM_PER_M, PERCENT

LARGE, U0, U = "multicore_pvc70", 230.0, 400.0
SIZES = (25.0, 35.0, 50.0, 70.0, 95.0)


def _three_phase_mv(m: Maker, id: str, csa: float, ask: str) -> float:
    """A line for the figure of a three-phase cable, with the columns that are read in its place."""
    family = m.rules.families[LARGE]
    table = m.rules.table(family.drop)
    r, single = (table.cell(csa, family.drop_column("C", *column)).value for column in ((3, "r"), (1, "z")))
    return m.look(
        id, ask, family.drop, csa, family.drop_column("C", 3, "z"),
        Slip("r_for_z", "r for z: from 25 mm² up the reactance counts, and z holds both", lambda _: r),
        Slip("single_phase_column", "the single-phase column: this circuit has three phases", lambda _: single),
    )  # fmt: skip


def _drop(m: Maker, id: str, ask: str, mv: str, current: str, length: str) -> None:
    m.calc(
        id, ask, "V", f"{mv} × {current} × {length} / 1000", lambda v: v[mv] * v[current] * v[length] / MM_PER_M,
        Slip("metres_for_millimetres", "the thousand is forgotten: the table has millivolts", lambda v: v[mv] * v[current] * v[length]),
        Slip("factor_forgotten", "the length is forgotten: the figure is for each metre", lambda v: v[mv] * v[current] / MM_PER_M),
        Slip("factor_twice", "the return is counted twice: the figure includes it", lambda v: 2 * v[mv] * v[current] * v[length] / MM_PER_M),
        clause=C.DROP_BY_TABLE,
    )  # fmt: skip


def volt_drop(m: Maker, seed: int) -> Exercise:
    """mV/A/m, the drop in volts, its share, the limit."""
    three = m.rng.random() < 0.7
    family = m.rules.families[LARGE if three else FLAT]
    csa = m.rng.choice(SIZES if three else [s for s in family.sizes if s <= 16])
    rating = m.rng.choice((63.0, 80.0, 100.0) if three else (16.0, 20.0, 32.0, 40.0))
    current = m.give("Ib", "design current", float(round(rating * m.rng.uniform(0.6, 0.95))), "A")
    length = m.give("L", "length", float(m.rng.randint(12, 70)), "m")
    m.give("S", "line conductor", csa, "mm²")
    m.tell(
        f"{csa:g} mm² {family.title}, clipped to masonry, {length:g} m, carries {current:g} A {'in three phases' if three else 'single-phase'}."
    )
    m.tell("It is no lighting, on a public supply. Find the volts dropped, their share, and whether that is within the limit.")
    if three:
        _three_phase_mv(m, "mV", csa, "volt drop per ampere and metre")
    else:
        larger = next(s for s in family.sizes if s > csa)
        column = family.drop_column("C", 1)
        wrong = m.rules.table(family.drop).cell(larger, column).value
        m.look(
            "mV", "volt drop per ampere and metre", family.drop, csa, column, Slip("wrong_row", "the row of the next size", lambda _: wrong)
        )
    _drop(m, "VD", "volts dropped", "mV", "Ib", "L")
    volts, other = (U, U0) if three else (U0, U)
    said = (
        "a share of 230 V: a three-phase drop is one of the voltage between lines"
        if three
        else "a share of 400 V: a single-phase drop is one of 230 V"
    )
    m.calc(
        "vd", "share of the voltage", "%", f"100 × VD / {volts:g}", lambda v: PERCENT * v["VD"] / volts,
        Slip("volts_across_phases" if three else "other_formula", said, lambda v: PERCENT * v["VD"] / other), clause=C.VOLT_DROP,
    )  # fmt: skip
    most = m.rules.limit("vd_other")
    m.decide("holds", f"Is it within {most:g} %?", lambda v: v["vd"] <= most, C.DROP_LIMIT)
    watts = current * (U * 3**0.5 if three else U0)
    job = one_circuit(m.rules, three, rating, csa, [("masonry", length, 30.0)], watts)
    return finished(m, "volt_drop", seed, job, ("volt_drop",))


def chain(m: Maker, seed: int) -> Exercise:
    """A three-phase sub-main and a single-phase final: shares are added, volts are not."""
    large, flat = m.rules.families[LARGE], m.rules.families[FLAT]
    big, small = m.rng.choice(SIZES), m.rng.choice([s for s in flat.sizes if 2.5 <= s <= 16])
    far, near = float(m.rng.randint(25, 60)), float(m.rng.randint(8, 40))
    sub, rating = m.rng.choice((63.0, 80.0, 100.0)), m.rng.choice((16.0, 20.0, 32.0, 40.0))
    m.give("Is", "current of the sub-main, on each line", sub, "A")
    m.give("Ls", "length of the sub-main", far, "m")
    current = m.give("If", "design current of the final", float(round(rating * m.rng.uniform(0.6, 0.95))), "A")
    m.give("Lf", "length of the final", near, "m")
    m.give("Ss", "line conductor of the sub-main", big, "mm²")
    m.give("Sf", "line conductor of the final", small, "mm²")
    m.tell(f"A three-phase sub-main of {big:g} mm² {large.title}, {far:g} m, carries {sub:g} A on each line to a board.")
    m.tell(f"From there a single-phase final of {small:g} mm² {flat.title}, {near:g} m, carries {current:g} A. All is clipped to masonry.")
    m.tell("Find the volt drop from the origin to the far end, as a share.")
    _three_phase_mv(m, "mVs", big, "figure of the sub-main")
    _drop(m, "VDs", "volts dropped in the sub-main", "mVs", "Is", "Ls")
    m.calc(
        "vds", "share in the sub-main", "%", "100 × VDs / 400", lambda v: PERCENT * v["VDs"] / U,
        Slip("volts_across_phases", "a share of 230 V: a three-phase drop is one of the voltage between lines", lambda v: PERCENT * v["VDs"] / U0),
    )  # fmt: skip
    m.look("mVf", "figure of the final", flat.drop, small, flat.drop_column("C", 1))
    _drop(m, "VDf", "volts dropped in the final", "mVf", "If", "Lf")
    m.calc(
        "vdf", "share in the final", "%", "100 × VDf / 230", lambda v: PERCENT * v["VDf"] / U0,
        Slip("other_formula", "a share of 400 V: a single-phase drop is one of 230 V", lambda v: PERCENT * v["VDf"] / U),
    )  # fmt: skip
    m.calc(
        "vd", "share from the origin to the far end", "%", "vds + vdf", lambda v: v["vds"] + v["vdf"],
        Slip(
            "volts_across_phases",
            "volts added across phases: volts between lines and volts to neutral do not add, their shares do",
            lambda v: PERCENT * (v["VDs"] + v["VDf"]) / U0,
        ),
        Slip("factor_forgotten", "the sub-main is forgotten: what is lost before the board is lost at the far end too", lambda v: v["vdf"]),
        clause=C.VOLT_DROP,
    )  # fmt: skip
    most = m.rules.limit("vd_other")
    m.decide("holds", f"Is it within {most:g} %?", lambda v: v["vd"] <= most, C.DROP_LIMIT)
    feed = Circuit(
        id="f", name="the sub-main", board="b", feeds="far", phases=3, device=Device(rating=sub, icn=10000.0),
        loads=(Load(id="f-l", name="load", amount=sub, basis="A"),),
        run=Run(id="f-run", cable=Cable(family=LARGE, csa=big, cpc_csa=big), spans=(Span(id="f-s", place="masonry", length=far),)),
    )  # fmt: skip
    final = Circuit(
        id="c", name="the final", board="far", phase="L1", device=Device(rating=rating, icn=6000.0),
        loads=(Load(id="l", name="load", amount=current * U0, basis="W"),),
        run=Run(id="c-run", cable=Cable(family=FLAT, csa=small), spans=(Span(id="c-s", place="masonry", length=near),)),
    )  # fmt: skip
    job = Installation(
        name="Practice", ruleset=m.rules.id, supply=replace(SUPPLY, phases=3),
        boards=(Board(id="b", name="the board"), Board(id="far", name="the far board")),
        circuits=(feed, final),
    )  # fmt: skip
    return finished(m, "chain", seed, job, ("volt_drop",))
