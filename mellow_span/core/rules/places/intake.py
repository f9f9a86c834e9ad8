"""The intake: demand against the service fuse, meter tails, main earthing conductor and main bonding."""

from __future__ import annotations

from math import sqrt

from mellow_span.core.errors import CoreError, InputError, MissingInput, OutsideTable, UnknownWord
from mellow_span.core.figures import apart, quantity
from mellow_span.core.findings.results import BoardDemand, Check, Outcome, judge
from mellow_span.core.model.parts import Device, Installation, Supply
from mellow_span.core.rules.devices.trip import let_through
from mellow_span.core.rules.runner import run_check
from mellow_span.core.rules.thermal.table_method import next_size, table_csa
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.units import MM_PER_M
from mellow_span.core.working.recorders import Silent, Working

BURIED = {"protected": ("yes", "yes"), "against_corrosion": ("yes", "no"), "bare": ("no", "no")}


def fuse_rating(rules: RuleSet, supply: Supply) -> float:
    """Return the rating of the service fuse [A]. Raises MissingInput without one, UnknownWord for a kind that the book does not know."""
    if supply.fuse_in is None:
        raise MissingInput("supply.fuse_in", "the rating of the service fuse in A")
    if supply.fuse_kind is not None and supply.fuse_kind not in rules.service:
        raise UnknownWord("supply.fuse_kind", supply.fuse_kind, rules.service)
    return supply.fuse_in


def service_fuse(supply: Supply) -> Device:
    """Return the service fuse as a device. Raises MissingInput without its kind or rating."""
    if supply.fuse_kind is None:
        raise MissingInput("supply.fuse_kind", "the kind of service fuse")
    if supply.fuse_in is None:
        raise MissingInput("supply.fuse_in", "the rating of the service fuse in A")
    return Device(kind=supply.fuse_kind, rating=supply.fuse_in)


def intake_checks(w: Working, job: Installation, demand: BoardDemand | None) -> tuple[Check, ...]:
    """Return the checks of the intake: demand against the service fuse, tails, earthing conductor, main bonding."""
    s = job.supply
    fuse = ("service fuse",) if s.fuse_in is not None and s.fuse_source == "assumed" else ()
    ze = ("Ze",) if s.ze is not None and s.ze_source == "assumed" else ()
    return (
        run_check(w, "demand", "Maximum demand on the service fuse", C.DEMAND, lambda: check_demand(w, job, demand), fuse),
        run_check(w, "ze", "External loop, Ze", C.ZE_BELIEVED, lambda: check_ze(w, s)),
        run_check(w, "tails", "Meter tails", C.OVERLOAD, lambda: check_tails(w, s), fuse),
        run_check(w, "earthing", "Main earthing conductor", C.EARTHING_CONDUCTOR, lambda: check_earthing(w, s), ze),
        run_check(w, "bonding", "Main bonding", C.MAIN_BONDING, lambda: check_bonding(w, s)),
        run_check(w, "tails_length", "Length of the tails", C.LONG_TAILS, lambda: check_tails_length(w, s)),
        run_check(w, "surge", "Surge protection", C.SURGE, lambda: check_surge(w, job)),
    )


def believed(rules: RuleSet, supply: Supply) -> bool:
    """Say whether Ze can be of a TN supply at all (313.1): over 2 ohm it was read or written down wrong."""
    if supply.ze is None or supply.earthing not in ("TN-C-S", "TN-S") or not rules.has("ze_believed"):
        return True
    return supply.ze <= rules.limit("ze_believed")


def _declared_most(rules: RuleSet, supply: Supply) -> float | None:
    """The largest Ze that is usually declared for the arrangement [ohm], None where the book knows none."""
    key = {"TN-C-S": "declared_ze_pme", "TN-S": "declared_ze_tns"}.get(supply.earthing or "")
    return rules.limit(key) if key and rules.has(key) else None


def doubted(rules: RuleSet, supply: Supply) -> bool:
    """Say whether Ze is more than is usually declared for the arrangement: what rests on it is marked."""
    most = _declared_most(rules, supply)
    return most is not None and supply.ze is not None and supply.ze > most * (1 + 1e-9)


def check_ze(w: Working, s: Supply) -> Outcome:
    """Check that Ze can be: by what is usually declared for the arrangement, and beside Ipf, which U0 / Ze should be like (313.1).

    Raises MissingInput without Ze, or where no TN supply has such a one.
    """
    ze = w.given("Ze", _believed_ze(w, s), "Ω", s.ze_source)
    told, usual = [], _declared_most(w.rules, s)
    if usual is not None and doubted(w.rules, s):
        told.append(
            f"Ze {quantity(ze, 'Ω')} is over the {quantity(usual, 'Ω')} usually declared for {s.earthing}: check the arrangement and measure again"
        )
    if s.ipf is not None and s.earthing != "TT":
        by_ze = w.calc("I", s.u0 / ze, "A", "U0 / Ze", {"U0": s.u0, "Ze": ze}, C.ZE_BELIEVED)
        ratio = w.calc("ratio", max(s.ipf / by_ze, by_ze / s.ipf), "", "max(Ipf / I, I / Ipf)", {"Ipf": s.ipf, "I": by_ze}, C.ZE_BELIEVED)
        if ratio > w.limit("most", "ze_ipf_ratio"):
            told.append(f"Ipf {quantity(s.ipf, 'A')} and U0 / Ze, {quantity(by_ze, 'A')}, do not fit each other: one of them may be wrong")
    if told:
        return Outcome(ze, usual or 0.0, "Ω", None, "; ".join(told), verdict="close")
    return Outcome(ze, usual or 0.0, "Ω", None, f"Ze {quantity(ze, 'Ω')} is usual for {s.earthing or 'the supply'}")


def _believed_ze(w: Working, s: Supply) -> float:
    """Return Ze [ohm]. Raises MissingInput without one, or where no TN supply has such a one."""
    if s.ze is None:
        raise MissingInput("supply.ze", "Ze at the origin in Ω, measured or declared")
    if not believed(w.rules, s):
        most = w.limit("most", "ze_believed")
        raise MissingInput(
            "supply.ze",
            f"a Ze that can be: {quantity(s.ze, 'Ω')} is over {quantity(most, 'Ω')} on {s.earthing}; measure again or ask the distributor",
        )
    return s.ze


def intake_bonded(rules: RuleSet, supply: Supply) -> bool | None:
    """Say whether main bonding at the intake meets its own check; None where that is not known."""
    try:
        return check_bonding(Silent(rules), supply).verdict == "meets"
    except CoreError:
        return None


def check_demand(w: Working, job: Installation, demand: BoardDemand | None) -> Outcome:
    """Check the demand of the highest phase after diversity against the service fuse, and beside it with what may come later (311.1)."""
    if demand is None:
        raise InputError("boards", 0, "a board at the origin")
    if demand.highest is None:
        raise MissingInput(demand.field or "loads", demand.error)
    rating = fuse_rating(w.rules, job.supply)
    amps = w.given("I,max", demand.highest, "A", "demand of the highest phase after diversity")
    fuse = w.given("In", rating, "A", "service fuse")
    told, most = apart(amps, fuse, "A")
    text = f"{told} after diversity {'is over' if judge(1 - amps / fuse) == 'short' else 'is within'} {most}"
    later = demand.later or amps
    if later > amps + 1e-9:
        w.given("I,later", later, "A", "with future loads")
        text += f"; with future loads {quantity(later, 'A')}{', over the fuse' if later > fuse else ''}"
    if demand.imbalance and len(demand.phases) > 1:
        text += f"; imbalance {quantity(demand.imbalance, 'A')}"
    return Outcome(amps, fuse, "A", 1 - amps / fuse, text)


def check_tails(w: Working, s: Supply) -> Outcome:
    """Check that the meter tails carry the service fuse (433.1.1): single-core, method C, less where insulation surrounds them (523.9)."""
    if s.tails_csa is None:
        raise MissingInput("supply.tails_csa", "the csa of the meter tails in mm²")
    rating = fuse_rating(w.rules, s)
    family = w.rules.families[w.rules.tails]
    table, column = family.capacity_column("C", 2 if s.phases == 1 else 3)
    iz = w.look("It", table, s.tails_csa, column, "tails, reference method C")
    if s.tails_wrapped > 0:
        if s.tails_wrapped >= w.limit("from", "wrapped_long"):
            ci = w.limit("Ci", "insulated_tail_share", f"{s.tails_wrapped:g} m surrounded by insulation")
        else:
            ci = w.look("Ci", T.WRAPPED_SHORT, s.tails_wrapped * MM_PER_M, "factor", f"{s.tails_wrapped:g} m surrounded by insulation")
        iz = w.calc("Iz", iz * ci, "A", "It × Ci", {"It": iz, "Ci": ci}, C.WRAPPED)
    fuse = w.given("In", rating, "A", "service fuse")
    word = "carry" if iz >= fuse else "are too small for"
    text = f"tails of {quantity(s.tails_csa, 'mm²')}, Iz {quantity(iz, 'A')}, {word} the fuse of {quantity(fuse, 'A')}"
    return Outcome(iz, fuse, "A", iz / fuse - 1, text)


def check_earthing(w: Working, s: Supply) -> Outcome:
    """Check the main earthing conductor (542.3.1, 543.1.1): by the adiabatic equation or by the table, whichever asks for less, and never
    under the least where it is buried (Table 54.1) or, under PME, under the main bonding size by the supply neutral (544.1.1).
    """
    if s.earthing_csa is None:
        raise MissingInput("supply.earthing_csa", "the csa of the main earthing conductor in mm²")
    csa = w.given("S,earthing", s.earthing_csa, "mm²", "main earthing conductor")
    needed, told = required_earthing(w, s)
    clause = C.EARTHING_CONDUCTOR
    if s.earthing == "TN-C-S" and (s.neutral_csa is not None or csa >= needed):
        # What is too thin already is short, whatever the neutral turns out to be.
        by_neutral = pme_bonding(w, s)
        if by_neutral > needed:
            needed, told = by_neutral, f"PME: at least {quantity(by_neutral, 'mm²')}, by the supply neutral"
            clause = C.PME_EARTHING
    if s.earthing == "TT" and s.earthing_buried == "no":
        # Little heats it through an electrode: how it stands up to a knock is what asks for a size (542.3.1, 543.1.1).
        key, how = (
            ("separate_cpc_least", "where it is protected") if s.earthing_protected else ("separate_cpc_bare", "where nothing protects it")
        )
        least = w.limit("least", key, f"{how} against mechanical damage")
        if s.earthing_protected is None and w.constant("separate_cpc_least") <= csa < least and csa >= needed:
            raise MissingInput(
                "supply.earthing_protected",
                f"whether the earthing conductor of {quantity(csa, 'mm²')} is protected against mechanical damage",
            )
        if least > needed:
            needed, told = least, f"at least {quantity(least, 'mm²')} {how} against mechanical damage"
            return _sized(csa, needed, told, clause)
    word = "is enough" if csa >= needed else "is too small"
    margin = csa / needed - 1 if needed else None
    return Outcome(csa, needed, "mm²", margin, f"{quantity(csa, 'mm²')} {word}: {told}", clause=clause)


def _sized(csa: float, least: float, told: str, clause: str) -> Outcome:
    """A conductor against a least size: the size itself is enough, and nothing is close to it."""
    word = "is enough" if csa >= least else "is too small"
    return Outcome(
        csa, least, "mm²", None, f"{quantity(csa, 'mm²')} {word}: {told}", verdict="meets" if csa >= least else "short", clause=clause
    )


def required_earthing(w: Working, s: Supply) -> tuple[float, str]:
    """Return the least main earthing conductor [mm2] and why, without the rule for PME: adiabatic or table, and the least where buried."""
    by_table = None if s.tails_csa is None else next_size(w, table_csa(w, s.tails_csa, 1.0, 1.0))
    try:
        needed, told = _earthing_by_fault(w, s)
    except OutsideTable:
        if by_table is None:
            raise
        needed, told = by_table, f"by the table {quantity(by_table, 'mm²')}; the fault is outside the curve of the service fuse"
    else:
        if by_table is not None and by_table < needed:
            needed, told = by_table, f"by the table {quantity(by_table, 'mm²')} (543.1.4); {told}"
        elif by_table is not None:
            told += f"; by the table {quantity(by_table, 'mm²')}"
    if s.earthing_buried != "no":
        buried = w.look("S,buried", T.BURIED_EARTHING, BURIED[s.earthing_buried], "copper_mm2", "buried earthing conductor")
        if buried > needed:
            needed, told = buried, f"buried: at least {quantity(buried, 'mm²')}; {told}"
    return needed, told


def pme_bonding(w: Working, s: Supply) -> float:
    """Return the least main bonding conductor under PME, copper [mm2], by the supply neutral (Table 54.8). Raises MissingInput."""
    if s.neutral_csa is None:
        raise MissingInput("supply.neutral_csa", "the csa of the supply neutral in mm²")
    return w.look("S,bond", T.PME_BONDING, s.neutral_csa, "requirement", "by the supply neutral")


def _earthing_by_fault(w: Working, s: Supply) -> tuple[float, str]:
    ze, fuse = _believed_ze(w, s), service_fuse(s)
    fault = w.calc("I", s.cmax * s.u0 / ze, "A", "Cmax × U0 / Ze", {"Cmax": s.cmax, "U0": s.u0, "Ze": ze}, C.CPC_ADIABATIC)
    energy = let_through(w, fuse, fuse.rating or 0.0, fault)
    if energy is None:
        if s.earthing == "TT":
            # An electrode passes so little that the service fuse does not see it; the RCDs of the installation clear it.
            return 0.0, f"fault current through the electrode, {quantity(fault, 'A')}, is too low to heat it"
        raise w.rules.outside(T.FUSE_CURRENTS, f"a fault of {quantity(fault, 'A')}", "currents that operate the service fuse within 5 s")
    k = w.look("k", T.K_VALUES, ("separate_cpc", "copper", "pvc70"), "k", "separate copper conductor")
    needed = w.calc("S", sqrt(energy) / k, "mm²", "√(I²t) / k", {"I²t": energy, "k": k}, C.CPC_ADIABATIC)
    return needed, f"the fault of {quantity(fault, 'A')} needs {quantity(needed, 'mm²')}"


def bonding_csa(w: Working, s: Supply) -> float:
    """Return the least main bonding conductor, copper [mm2]: Table 54.8 by the supply neutral under PME, else half the earthing conductor
    that is required, whatever is there; at least 6 and no more than 25 (544.1.1).
    """
    if s.earthing is None:
        raise MissingInput("supply.earthing", "the earthing arrangement: TN-C-S, TN-S or TT")
    if s.earthing == "TN-C-S" and T.PME_BONDING in w.rules.by_name:
        return pme_bonding(w, s)
    required = next_size(w, required_earthing(w, s)[0])
    share, least, most = w.limit("share", "bond_share"), w.limit("least", "bond_least"), w.limit("most", "bond_most")
    terms = {"share": share, "S": required, "least": least, "most": most}
    asked = min(most, max(least, share * required))
    return next_size(w, w.calc("S,bond", asked, "mm²", "min(most, max(least, share × S))", terms, C.MAIN_BONDING, "S: the one required"))


def check_bonding(w: Working, s: Supply) -> Outcome:
    """Check the main bonding conductors at the intake (544.1.1)."""
    if s.extraneous is None:
        raise MissingInput("supply.extraneous", "whether metal services or structure need main bonding here")
    if not s.extraneous:
        return Outcome(0.0, 0.0, "mm²", None, "no extraneous metal found that needs main bonding", verdict="meets")
    needed = bonding_csa(w, s)
    if s.bond == "none":
        return Outcome(0.0, needed, "mm²", None, f"nothing bonds it: at least {quantity(needed, 'mm²')} copper is needed", verdict="short")
    if s.bonding_csa is None:
        raise MissingInput("supply.bonding_csa", "the csa of the main bonding conductors in mm²")
    csa = w.given("S", s.bonding_csa, "mm²", "main bonding conductors")
    word = "is enough" if csa >= needed else "is too thin"
    verdict = "meets" if csa >= needed else "short"
    return Outcome(csa, needed, "mm²", None, f"{quantity(csa, 'mm²')} {word}: at least {quantity(needed, 'mm²')}", verdict=verdict)  # type: ignore[arg-type]


def check_tails_length(w: Working, s: Supply) -> Outcome:
    """Check that tails of more than 3 m have a fuse of their own: the service fuse protects no more of the consumer's side (434.2.1)."""
    if s.tails_length is None:
        raise MissingInput("supply.tails_length", "the length of the tails from the service fuse to the board in m")
    most = w.limit("L,most", "tails_most")
    length = w.given("L", s.tails_length, "m", "meter tails")
    if length <= most * (1 + 1e-9):
        return Outcome(
            length, most, "m", None, f"{quantity(length, 'm')} of tails, at most {quantity(most, 'm')} without a fuse of their own"
        )
    if s.tails_fused is None:
        raise MissingInput(
            "supply.tails_fused", f"whether tails of {quantity(length, 'm')} have a fuse or switch-fuse of their own at the meter"
        )
    if s.tails_fused:
        return Outcome(length, most, "m", None, f"{quantity(length, 'm')} of tails, fused at the meter")
    text = f"{quantity(length, 'm')} of tails with no fuse of their own: over {quantity(most, 'm')} fit a switch-fuse at the meter"
    return Outcome(length, most, "m", None, text, verdict="short")


def _surge_fitted(w: Working, s: Supply) -> Outcome:
    """What is entered of a surge protective device: its connections stay short (534.4.8), and what backs it up is no larger than its maker allows
    (534.4.5). What nobody entered is told and holds nothing back.
    """
    told = ["surge protection is fitted"]
    if s.surge_length is not None:
        best, most = w.limit("L", "surge_lead", "usual"), w.limit("L,max", "surge_lead_most", "at most")
        length = w.given("L", s.surge_length, "m", "connections of the surge protective device")
        if length > most * (1 + 1e-9):
            text = f"its connections of {quantity(length, 'm')} are over {quantity(most, 'm')}: connections that long let the surge through"
            return Outcome(length, most, "m", None, text, verdict="short", clause=C.SURGE_LEADS, field="supply.surge_length")
        if length > best * (1 + 1e-9):
            text = (
                f"its connections of {quantity(length, 'm')} are over the {quantity(best, 'm')} that is usual, within {quantity(most, 'm')}"
            )
            return Outcome(length, best, "m", None, text, verdict="close", clause=C.SURGE_LEADS, field="supply.surge_length")
        told.append(f"connections {quantity(length, 'm')}")
    if s.surge_backup_most is not None:
        ahead = s.surge_backup if s.surge_backup is not None else s.fuse_in
        if ahead is None:
            raise MissingInput("supply.surge_backup", "the rating of the device that backs up the surge protective device in A")
        if ahead > s.surge_backup_most * (1 + 1e-9):
            what = "its back-up device" if s.surge_backup is not None else "the service fuse alone"
            text = f"{what} of {quantity(ahead, 'A')} is over the {quantity(s.surge_backup_most, 'A')} that its maker allows"
            return Outcome(ahead, s.surge_backup_most, "A", None, text, verdict="short", clause=C.SURGE_BACKUP, field="supply.surge_backup")
        told.append(f"backed up by {quantity(ahead, 'A')}")
    missing = [
        name
        for name, value in (("length of its connections", s.surge_length), ("maximum back-up device", s.surge_backup_most))
        if value is None
    ]
    text = ", ".join(told) + (f"; still to confirm: {' and '.join(missing)}" if missing else "")
    return Outcome(0.0, 0.0, "", None, text)


def check_surge(w: Working, job: Installation) -> Outcome:
    """Check that surge protection is fitted, or that the owner of a single dwelling decided against it with a reason (443.4.1).

    Where others live, work or depend on the supply no reason of the owner's stands in. Raises MissingInput.
    """
    s = job.supply
    if s.surge == "fitted" or any(c.device.spd for c in job.circuits):
        return _surge_fitted(w, s)
    if s.surge == "declined" and job.premises != "household":
        text = "left out, where others live, work or depend on the supply: a reason of cost is none here"
        return Outcome(0.0, 0.0, "", None, text, verdict="short")
    if s.surge == "declined" and s.surge_reason.strip():
        return Outcome(0.0, 0.0, "", None, f"omitted: {s.surge_reason.strip()}")
    if s.surge == "declined":
        raise MissingInput("supply.surge_reason", "why surge protection is left out")
    raise MissingInput("supply.surge", "whether surge protection is fitted, or left out with a reason")
