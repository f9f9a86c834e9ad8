"""Practice on faults: loop and disconnection, the protective conductor, the fixed pairs from memory, readings."""

from __future__ import annotations

from dataclasses import replace
from math import sqrt

from mellow_span.core.design.check import check
from mellow_span.core.errors import InputError
from mellow_span.core.model.parts import Curve
from mellow_span.core.practice.currents import FLAT, finished
from mellow_span.core.practice.exercise import Exercise, Maker, Slip, always
from mellow_span.core.practice.houses import one_circuit
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.units import MM_PER_M

U0 = 230.0
CURVES: tuple[Curve, ...] = ("B", "B", "C")
COPPER = "cu_mohm_per_m_20C"


def _pair(m: Maker) -> tuple[float, float]:
    """A cable with a smaller cpc than line conductor."""
    pairs = {s: c for s, c in m.rules.families[FLAT].pairs.items() if c < s}
    csa = m.rng.choice(sorted(pairs))
    return csa, pairs[csa]


def _resistances(m: Maker, csa: float, cpc: float) -> None:
    line = m.rules.table(T.RESISTANCE).cell(csa, COPPER).value
    m.look("r1", "resistance of the line conductor at 20 °C", T.RESISTANCE, csa, COPPER)
    m.look(
        "r2", "resistance of the cpc at 20 °C", T.RESISTANCE, cpc, COPPER,
        Slip("cpc_as_line", "the cpc is taken as large as the line conductor: in this cable it is smaller", lambda _: line),
    )  # fmt: skip


def loop(m: Maker, seed: int) -> Exercise:
    """Zs at the far end, the current that opens the breaker, the largest Zs."""
    csa, cpc = _pair(m)
    rating, curve = m.rng.choice((6.0, 10.0, 16.0, 20.0, 32.0, 40.0)), m.rng.choice(CURVES)
    length, ze = float(m.rng.randint(10, 60)), m.rng.choice((0.18, 0.24, 0.28, 0.32, 0.35))
    m.give("Ze", "external loop impedance, measured", ze, "Ω")
    m.give("L", "length", length, "m")
    m.give("S", "line conductor", csa, "mm²")
    m.give("Sp", "cpc in the cable", cpc, "mm²")
    m.give("In", "rating of the breaker", rating, "A")
    m.give("U0", "voltage to earth", U0, "V")
    m.tell(
        f"{csa:g} mm² {m.rules.families[FLAT].title} with its {cpc:g} mm² cpc, {length:g} m, behind a {rating:g} A breaker of type {curve}."
    )
    m.tell(f"Ze is {ze:g} Ω.")
    m.tell("Find Zs at the far end with the conductors hot, and the maximum Zs for the breaker to trip instantly.")
    _resistances(m, csa, cpc)
    m.look("F", "factor from 20 °C to operating temperature", T.RESISTANCE_HOT, ("in_cable_or_bunched", "pvc70"), "multiplier_from_20C")
    m.calc(
        "R1+R2", "both conductors, hot", "Ω", "(r1 + r2) × F × L / 1000", lambda v: (v["r1"] + v["r2"]) * v["F"] * v["L"] / MM_PER_M,
        Slip(
            "factor_forgotten",
            "the factor for the temperature is forgotten: a fault meets conductors that are hot",
            lambda v: (v["r1"] + v["r2"]) * v["L"] / MM_PER_M,
        ),
        Slip("factor_twice", "the factor for the temperature is multiplied twice", lambda v: (v["r1"] + v["r2"]) * v["F"] ** 2 * v["L"] / MM_PER_M),
        Slip("metres_for_millimetres", "the thousand is forgotten: the table has mΩ per metre", lambda v: (v["r1"] + v["r2"]) * v["F"] * v["L"]),
        Slip("cpc_as_line", "both conductors are taken as the line", lambda v: 2 * v["r1"] * v["F"] * v["L"] / MM_PER_M),
        clause=C.DEVICE_LIMITS,
    )  # fmt: skip
    m.calc(
        "Zs", "loop at the far end", "Ω", "Ze + (R1+R2)", lambda v: v["Ze"] + v["R1+R2"],
        Slip("factor_forgotten", "Ze is forgotten: the fault goes on to the transformer", lambda v: v["R1+R2"]), clause=C.FAULT_LOOP,
    )  # fmt: skip
    multiple = m.rules.table(T.BREAKER_INSTANT).cell(curve, "instant_max_multiple").value
    i2 = m.rules.limit("i2_multiple")
    m.calc(
        "Ia", "instantaneous tripping current", "A", f"{multiple:g} × In", lambda v: multiple * v["In"],
        Slip("other_formula", "In for Ia: a breaker carries In for ever", lambda v: v["In"]),
        Slip("other_formula", "I2 for Ia: that trips it within the hour, not instantly", lambda v: i2 * v["In"]),
    )  # fmt: skip
    cmin = m.rules.limit("cmin")
    m.calc(
        "Zmax", "largest Zs", "Ω", "Cmin × U0 / Ia", lambda v: cmin * v["U0"] / v["Ia"],
        Slip("factor_forgotten", "Cmin is forgotten: the supply may be at 95 % when the fault occurs", lambda v: v["U0"] / v["Ia"]),
        clause=C.DEVICE_LIMITS,
    )  # fmt: skip
    m.decide("holds", "Is Zs within it?", lambda v: v["Zs"] <= v["Zmax"], C.FAULT_LOOP)
    job = one_circuit(m.rules, False, rating, csa, [("masonry", length, 30.0)], 0.8 * rating * U0, supply={"ze": ze})
    (circuit,) = job.circuits
    job = replace(job, circuits=(replace(circuit, device=replace(circuit.device, curve=curve)),))
    return finished(m, "loop", seed, job, ("loop", "disconnection"))


def protective_conductor(m: Maker, seed: int) -> Exercise:
    """k, the smallest cpc by the adiabatic equation, and by the table."""
    csa, cpc = _pair(m)
    rating = m.rng.choice((16.0, 20.0, 32.0, 40.0, 45.0, 63.0, 80.0))
    length, ze = float(m.rng.randint(8, 40)), round(m.rng.uniform(0.4, 2.2), 3)
    job = one_circuit(m.rules, False, rating, csa, [("masonry", length, 30.0)], 0.8 * rating * U0, device="BS88-3", supply={"ze": ze})
    found = next(c for c in check(job).circuits[0].checks if c.id == "cpc_thermal")
    energy = next((s for s in found.steps if s.symbol == "I²t" and s.puts), None)
    if energy is None:
        raise InputError("seed", seed, "a circuit whose fault has a current and a time")
    current, time = round(energy.puts["I"], 1), round(energy.puts["t"], 3)
    m.give("I", "fault current, to be taken", current, "A")
    m.give("t", "operating time of the fuse at that current", time, "s")
    m.give("S", "line conductor", csa, "mm²")
    m.give("Sp", "cpc in the cable", cpc, "mm²")
    m.tell(
        f"{csa:g} mm² {m.rules.families[FLAT].title} with its {cpc:g} mm² cpc, behind a {rating:g} A fuse: a fault of {current:g} A lasts {time:g} s."
    )
    m.tell("Find the smallest cpc by the adiabatic equation, then by the table, and whether the cpc of the cable withstands the fault.")
    ks = m.rules.table(T.K_VALUES)
    aside = ks.cell(("separate_cpc", "copper", "pvc70"), "k").value
    m.look(
        "k", "k of a copper cpc within a 70 °C cable", T.K_VALUES, ("cpc_in_cable", "copper", "pvc70"), "k",
        Slip("wrong_row", "k of a separate cpc: one within the cable is as hot as its line when the fault comes", lambda _: aside),
    )  # fmt: skip
    m.calc(
        "Sad", "smallest cpc by the adiabatic equation", "mm²", "√(I² × t) / k", lambda v: sqrt(v["I"] ** 2 * v["t"]) / v["k"],
        Slip("other_formula", "the time is left outside the root", lambda v: v["I"] * v["t"] / v["k"]),
        Slip("other_formula", "the root is forgotten", lambda v: v["I"] ** 2 * v["t"] / v["k"]),
        Slip("factor_forgotten", "the time is forgotten", lambda v: v["I"] / v["k"]), clause=C.CPC_ADIABATIC,
    )  # fmt: skip
    cells = m.rules.table(T.CPC_BY_TABLE).row(csa).cells
    shares = m.rules.table(T.CPC_BY_TABLE)

    def by_table(v: object) -> float:
        return float(cells["fixed_mm2"]) if cells["fixed_mm2"] is not None else cells["share_of_s"] * csa

    m.pick(
        "Stab", "smallest cpc by the table", "mm²", by_table,
        Slip("wrong_row", "half of the line: that is for line conductors over 35 mm²", lambda v: csa / 2), table=shares.number,
    )  # fmt: skip
    m.decide("holds", "Does the cpc in the cable withstand it, by the equation?", lambda v: v["Sp"] >= v["Sad"], C.CPC_ADIABATIC)
    return finished(m, "protective_conductor", seed, job, ("cpc_thermal", "cpc_table"))


def pairs(m: Maker, seed: int) -> Exercise:
    """The cpc that comes in the cable, from memory."""
    known = m.rules.families[FLAT].pairs
    some = sorted(m.rng.sample(sorted(known), 4))
    m.tell(f"{m.rules.families[FLAT].title.capitalize()} comes with a cpc of its own size. Which, from memory?")
    for csa in some:
        cpc = known[csa]
        slips = (
            [Slip("cpc_as_line", "the cpc is taken as the line: in most of these cables it is smaller", always(csa))] if cpc < csa else []
        )
        m.pick(f"S{csa:g}", f"cpc beside a line of {csa:g} mm²", "mm²", always(cpc), *slips)
    job = one_circuit(m.rules, False, 16.0, some[0], [("masonry", 10.0, 30.0)], 2000.0)
    return finished(m, "pairs", seed, job, ("cpc_thermal",))


def readings(m: Maker, seed: int) -> Exercise:
    """R1+R2 read warm, brought to 20 °C, beside the prediction; Zs read, beside 80 % of the largest."""
    csa, cpc = _pair(m)
    length, warm = float(m.rng.randint(12, 60)), float(m.rng.choice((8, 10, 28, 32, 35, 38)))
    rating = m.rng.choice((16.0, 20.0, 32.0))
    alpha = m.give("α", "change of the resistance of copper", m.rules.limit("copper_alpha"), "/°C")
    line, back = (m.rules.table(T.RESISTANCE).cell(s, COPPER).value for s in (csa, cpc))
    cold = (line + back) * length / MM_PER_M
    off = m.rng.choice((1.0, 1.0, 1.25, 0.8))
    read = m.give("R", "R1+R2 as read at the far end", round(cold * off * (1 + alpha * (warm - 20)), 3), "Ω")
    m.give("θ", "temperature of the conductors when it was read", warm, "°C")
    m.give("L", "length by the drawing", length, "m")
    m.give("Zmax", "largest Zs of its breaker, hot", round(m.rules.limit("cmin") * U0 / (5 * rating), 3), "Ω")
    m.tell(
        f"{csa:g} mm² {m.rules.families[FLAT].title} with its {cpc:g} mm² cpc, {length:g} m by the drawing. R1+R2 reads {read:g} Ω at {warm:g} °C."
    )
    m.tell("Find what it should read at 20 °C, what was read brought to 20 °C, the length that fits it, and how much Zs may show on site.")
    _resistances(m, csa, cpc)
    m.calc(
        "Rp", "predicted R1+R2 at 20 °C", "Ω", "(r1 + r2) × L / 1000", lambda v: (v["r1"] + v["r2"]) * v["L"] / MM_PER_M,
        Slip("cpc_as_line", "both conductors are taken as the line", lambda v: 2 * v["r1"] * v["L"] / MM_PER_M),
        Slip("metres_for_millimetres", "the thousand is forgotten: the table has mΩ per metre", lambda v: (v["r1"] + v["r2"]) * v["L"]),
        clause=C.CONTINUITY,
    )  # fmt: skip
    m.calc(
        "R20", "the reading, brought to 20 °C", "Ω", "R / (1 + α × (θ − 20))", lambda v: v["R"] / (1 + v["α"] * (v["θ"] - 20)),
        Slip("factor_forgotten", "the temperature is forgotten", lambda v: v["R"]),
        Slip("other_formula", "multiplied instead of divided: a warm reading is lower at 20 °C", lambda v: v["R"] * (1 + v["α"] * (v["θ"] - 20))),
    )  # fmt: skip
    m.calc(
        "Lfit", "length the reading implies", "m", "1000 × R20 / (r1 + r2)", lambda v: MM_PER_M * v["R20"] / (v["r1"] + v["r2"]),
        Slip("metres_for_millimetres", "the thousand is forgotten: the table has mΩ per metre", lambda v: v["R20"] / (v["r1"] + v["r2"])),
        Slip("cpc_as_line", "both conductors are taken as the line", lambda v: MM_PER_M * v["R20"] / (2 * v["r1"])),
    )  # fmt: skip
    share = m.rules.limit("reading_share")
    m.calc(
        "Zr", "maximum measured Zs", "Ω", f"{share:g} × Zs,max", lambda v: share * v["Zmax"],
        Slip("factor_forgotten", "80 % is forgotten: what is read cold is more when it is hot", lambda v: v["Zmax"]),
        Slip("other_formula", "divided by 0.8: a cold reading has to be less than the limit", lambda v: v["Zmax"] / share), clause=C.FAULT_LOOP,
    )  # fmt: skip
    job = one_circuit(m.rules, False, rating, csa, [("masonry", length, 30.0)], 0.8 * rating * U0)
    return finished(m, "readings", seed, job, ("loop",))
