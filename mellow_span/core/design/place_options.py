"""Cures for the intake and the boards: demand over the fuse, what a board is built of, bonding, electrodes. Each is solved again, whole."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from math import floor

from mellow_span.core.adding import added
from mellow_span.core.design.changed_price import price_of
from mellow_span.core.design.check import check, lay_out, total_demand
from mellow_span.core.design.effort import Effort
from mellow_span.core.design.options import moved
from mellow_span.core.design.prices import PriceBook, shipped
from mellow_span.core.design.solving import Idea, changed, in_book, rank
from mellow_span.core.errors import CoreError, InputError
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import WORSE, Check, InstallationResult, Verdict
from mellow_span.core.model.changes import Change
from mellow_span.core.model.parts import Board, Circuit, Installation, Load
from mellow_span.core.model.places import SWITCHES
from mellow_span.core.rules.demand.loads import load_current
from mellow_span.core.rules.places.intake import bonding_csa
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.readings import rules_of
from mellow_span.core.rulesets.vocabulary import T
from mellow_span.core.working.recorders import Silent

INTAKE = "intake"
# Loads that a manager can hold back, the most patient first.
PATIENT = ("ev", "storage_heating", "water_heater", "floor_heating", "heating", "heat_pump")
# Loads of which one can wait for the other: not what people plug in or see by.
SHUT_OUT = (*PATIENT, "shower", "cooking", "motor", "other")
SERVICE_FUSES = (60.0, 80.0, 100.0)
TAILS = (16.0, 25.0, 35.0, 50.0)
MOST = 8


@dataclass(slots=True)
class PlaceOption:
    """A cure for a check of the intake or of a board: the changes, the verdict and words of that check then, what it costs, and what turns.

    rescues, breaks: circuits and other checks of places that it brings to a pass or leaves worse; others: the identities of the circuits.
    asks: whose leave it needs, where it is not the electrician's alone.
    """

    id: str
    check: str
    title: str
    changes: tuple[Change, ...]
    verdict: Verdict
    reason: str
    cost: float
    rescues: int
    breaks: int
    others: tuple[str, ...] = ()
    asks: str = ""
    unpriced: tuple[str, ...] = ()


def place_options(job: Installation, place: str, book: PriceBook | None = None, effort: Effort | None = None) -> tuple[PlaceOption, ...]:
    """Return the cures for what is short or not known at the intake, or at a board by its identity.

    effort: how much work it may be; once spent, what was found until then is ranked. Raises InputError for an unknown place.
    """
    effort = effort or Effort()
    board = next((b for b in job.boards if b.id == place), None)
    if place != INTAKE and board is None:
        raise InputError("place", place, "intake, or a board of this job")
    rules, before = rules_of(job), check(job, keep=False, reuse=True)
    # Leakage is only typical and fails nothing; dividing it is offered all the same.
    wrong = {
        c.id: c for c in checks_of(before, place) if c.verdict in ("short", "not_known") or (c.id == "leakage" and c.verdict == "close")
    }
    ideas = list(_at_intake(rules, job, wrong) if board is None else _at_board(rules, job, board, wrong))
    found = []
    effort.expect(len(ideas) * len(job.circuits))
    for about, idea, asks in ideas:
        if effort.over():
            break
        effort.spend(len(job.circuits))
        try:
            found.append(_solved(job, before, place, about, idea, asks, book or shipped()))
        except CoreError:
            continue
    found.sort(key=lambda o: (list(wrong).index(o.check), WORSE[o.verdict], o.breaks, bool(o.unpriced), o.cost, o.title))
    cured = {o.check for o in found if WORSE[o.verdict] == 0}
    per: dict[str, int] = {}
    kept = []
    for option in found:
        if option.check in cured and WORSE[option.verdict] > 0:
            continue
        per[option.check] = per.get(option.check, 0) + 1
        if per[option.check] <= MOST:
            kept.append(option)
    return tuple(kept)


def checks_of(found: InstallationResult, place: str) -> tuple[Check, ...]:
    """Return the checks of the intake or of a board."""
    if place == INTAKE:
        return found.intake
    return next((b.checks for b in found.boards if b.id == place), ())


def _solved(job: Installation, before: InstallationResult, place: str, about: str, idea: Idea, asks: str, book: PriceBook) -> PlaceOption:
    trial = changed(job, idea.changes)
    after = check(trial, keep=False, reuse=True)
    one = next(c for c in checks_of(after, place) if c.id == about)
    stood = {c.id: rank(c) for c in before.circuits}
    rescued, broken = moved(stood, after)
    was = {(name, c.id): WORSE[c.verdict] for name in _places(job) for c in checks_of(before, name)}
    now = {(name, c.id): WORSE[c.verdict] for name in _places(job) for c in checks_of(after, name)}
    better = added(now[k] == 0 < was[k] for k in now if k in was and k != (place, about))
    worse = added(now[k] > was.get(k, 0) for k in now if k != (place, about))
    price = price_of(book, rules_of(job), job, trial)
    return PlaceOption(
        idea.id, about, idea.title, idea.changes, one.verdict, one.text, price.cost, len(rescued) + better, len(broken) + worse,
        (*rescued, *broken), asks, tuple(price.missing),
    )  # fmt: skip


def _places(job: Installation) -> list[str]:
    return [INTAKE, *(b.id for b in job.boards)]


Asked = tuple[str, Idea, str]


def _at_intake(rules: RuleSet, job: Installation, wrong: dict[str, Check]) -> Iterator[Asked]:
    if "demand" in wrong and wrong["demand"].value is not None and job.supply.fuse_in is not None:
        yield from in_book(_less_demand(rules, job))
        yield from _larger_fuse(job)
        yield from _three_phases(job)
    if "tails" in wrong:
        for csa in TAILS:
            if csa > (job.supply.tails_csa or 0.0):
                yield "tails", Idea(f"tails-{csa:g}", f"tails of {quantity(csa, 'mm²')}", (_supply({"tails_csa": csa}),)), ""
    if {"tails"} & set(wrong) and job.supply.tails_wrapped > 0:
        title = "tails and earthing conductor led out of the insulation, or through a sealed pipe"
        yield "tails", Idea("tails-out", title, (_supply({"tails_wrapped": 0.0}),)), ""
    if "tails_length" in wrong:
        yield "tails_length", Idea("tails-fused", "a switch-fuse at the meter before the tails", (_supply({"tails_fused": True}),)), ""
    if "surge" in wrong:
        yield "surge", Idea("surge", "fit surge protection at the origin", (_supply({"surge": "fitted"}),)), ""
    for about, field in (("earthing", "earthing_csa"), ("bonding", "bonding_csa")):
        if about in wrong and wrong[about].limit:
            least = _standard(rules, wrong[about].limit or 0.0)
            fields: dict[str, object] = {field: least}
            if about == "bonding" and job.supply.bond == "none":
                fields["bond"] = "conductor"
            yield about, Idea(field, f"a conductor of {quantity(least, 'mm²')}", (_supply(fields),)), ""


def _supply(fields: dict[str, object]) -> Change:
    return Change("set", "supply", "", fields)


def _standard(rules: RuleSet, csa: float) -> float:
    return next((row.key[0] for row in rules.table(T.RESISTANCE).rows if row.key[0] >= csa - 1e-9), csa)


def _drawing(rules: RuleSet, job: Installation) -> list[tuple[Circuit, Load, float]]:
    """The loads that stand now with their current [A], the largest first."""
    quiet, found = Silent(rules), []
    for circuit in job.circuits:
        for load in circuit.loads:
            if load.future or circuit.spare:
                continue
            try:
                found.append((circuit, load, load_current(quiet, job.supply, circuit, load)))
            except CoreError:
                continue
    return sorted(found, key=lambda one: -one[2])


def _less_demand(rules: RuleSet, job: Installation) -> Iterator[Asked]:
    """Hold a patient load back, let two large ones shut each other out, leave one for later."""
    fuse = job.supply.fuse_in or 0.0
    least = Silent(rules).constant("managed_least")
    drawing = _drawing(rules, job)
    for circuit, load, amps in sorted((one for one in drawing if one[1].kind in PATIENT), key=lambda one: PATIENT.index(one[1].kind)):
        name = load.name or circuit.name or "a load"
        off = _highest(changed(job, (Change("set", "load", load.id, {"managed": 0.0}),)))
        if off is None:
            continue
        cap = float(floor(fuse - off + 1e-9))
        if least <= cap < amps:
            idea = Idea(
                f"managed-{load.id}", f"load management that holds {name} to {quantity(cap, 'A')}", (_load(load, {"managed": cap}),)
            )
            yield "demand", idea, ""
        elif cap < least:
            title = f"load management that sheds {name} while the rest is on"
            yield "demand", Idea(f"managed-{load.id}", title, (_load(load, {"managed": 0.0}),)), ""
    for circuit, load, amps in drawing:
        if load.kind in PATIENT and not load.interlock and amps >= least:
            for name in dict.fromkeys(other.interlock for _, other, _ in drawing if other.interlock):
                title = f"{load.name or circuit.name or 'a load'} joins the interlock “{name}”: only one on at a time"
                yield "demand", Idea(f"join-{load.id}-{name}", title, (_load(load, {"interlock": name}),)), ""
    large = [one for one in drawing if not one[1].interlock and one[1].kind in SHUT_OUT][:3]
    for i, (_, a, _) in enumerate(large):
        for _, b, _ in large[i + 1 :]:
            title = f"an interlock of {a.name or 'one load'} and {b.name or 'another'}: only one at a time"
            name = f"{a.name or 'load'} or {b.name or 'load'}"
            yield "demand", Idea(f"interlock-{a.id}-{b.id}", title, (_load(a, {"interlock": name}), _load(b, {"interlock": name}))), ""
    for circuit, load, _ in [one for one in drawing if one[1].kind in SHUT_OUT][:3]:
        title = f"leave {load.name or circuit.name or 'a load'} for later"
        yield "demand", Idea(f"later-{load.id}", title, (_load(load, {"future": True}),)), "the client"


def _load(load: Load, fields: dict[str, object]) -> Change:
    return Change("set", "load", load.id, fields)


def _highest(job: Installation) -> float | None:
    found = total_demand(lay_out(job))
    return found.highest if found is not None else None


def _larger_fuse(job: Installation) -> Iterator[Asked]:
    """The supplier's to grant; tails are made to fit, earthing and bonding are asked again."""
    for fuse in SERVICE_FUSES:
        if fuse > (job.supply.fuse_in or 0.0):
            fields: dict[str, object] = {"fuse_in": fuse}
            told = f"a service fuse of {quantity(fuse, 'A')}"
            if fuse > SERVICE_FUSES[-2] and (job.supply.tails_csa or 0.0) < TAILS[1]:
                fields["tails_csa"] = TAILS[1]
                told += f" with tails of {quantity(TAILS[1], 'mm²')}"
            yield "demand", Idea(f"fuse-{fuse:g}", told, (_supply(fields),)), "the distributor"


def _three_phases(job: Installation) -> Iterator[Asked]:
    """A three-phase supply, the circuits spread largest first onto the phase that carries least."""
    if job.supply.phases > 1:
        return
    fed = {c.feeds for c in job.circuits if c.feeds}
    root = {b.id for b in job.boards if b.id not in fed}
    there = sorted((c for c in job.circuits if c.board in root), key=lambda c: (-(c.device.rating or 0.0), c.id))
    sums = {"L1": 0.0, "L2": 0.0, "L3": 0.0}
    changes = [_supply({"phases": 3})]
    for circuit in there:
        phase = min(sums, key=lambda p: sums[p])
        sums[phase] += circuit.device.rating or 0.0
        changes.append(Change("set", "circuit", circuit.id, {"phase": phase}))
    yield "demand", Idea("three-phase", "a three-phase supply, the circuits spread over it", tuple(changes)), "the distributor"


def _at_board(rules: RuleSet, job: Installation, board: Board, wrong: dict[str, Check]) -> Iterator[Asked]:
    def own(about: str, id: str, title: str, fields: dict[str, object]) -> Asked:
        return about, Idea(id, title, (Change("set", "board", board.id, fields),)), ""

    above = next((c for c in job.circuits if c.feeds == board.id), None)
    ratings = wrong.get("ratings")
    if ratings is not None and ratings.limit:
        fits = next((s for s in SWITCHES if s >= ratings.limit - 1e-9), None)
        if fits is not None:
            parts: dict[str, object] = {
                name: fits for name in ("switch_in", "busbar_in", "rcd_in") if 0 < (getattr(board, name) or 0.0) < fits
            }
            yield own("ratings", "switch", f"what is under it replaced by {quantity(fits, 'A')}", parts)
    if "leakage" in wrong:
        yield from in_book(_own_rcds(rules, job, board))
    if "bonding" in wrong:
        yield from in_book(_bonds(rules, job, board, above, wrong["bonding"]))
    if {"electrode", "ahead"} & set(wrong) and board.rcd_idn is None:
        yield from in_book(_rcds_everywhere(rules, job, board, "electrode" if "electrode" in wrong else "ahead"))
    if "ahead" in wrong:
        yield own("ahead", "class-ii", "a board that is class II up to its RCDs", {"class_ii": True})
        if above is not None and above.device.kind in ("mcb", "rcbo"):
            delayed = {"device": {"kind": "rcbo", "idn": 0.1, "delayed": True}}
            change = Change("set", "circuit", above.id, delayed)
            yield "ahead", Idea("delayed", "a 100 mA time-delayed RCD at the origin of its sub-main", (change,)), ""
    if "island" in wrong and above is not None:
        yield from _island(rules, board, above)
    if "enclosure" in wrong and wrong["enclosure"].verdict == "short":
        yield own("enclosure", "enclosure", "a board of metal, or a cabinet round it that does not burn", {"non_combustible": True})
    if "ways" in wrong and wrong["ways"].value is not None:
        needed = wrong["ways"].value
        yield own("ways", "ways", f"a board of {quantity(needed, '')} ways", {"ways": int(needed)})


def _bonds(rules: RuleSet, job: Installation, board: Board, above: Circuit | None, wrong: Check) -> Iterator[Asked]:
    """What bonds the metal at a board: a conductor, one beside an armour that is not enough, or a core of the feed."""
    if board.bond == "armour":
        yield from _beside_armour(rules, job, board, wrong)
    elif wrong.limit:
        least = _standard(rules, wrong.limit)
        change = Change("set", "board", board.id, {"bond": "conductor", "bond_csa": least})
        yield "bonding", Idea("bond", f"a bonding conductor of {quantity(least, 'mm²')} copper", (change,)), ""
    if above is not None:
        yield from _core_bonds(rules, job, board, above)


def _island(rules: RuleSet, board: Board, above: Circuit) -> Iterator[Asked]:
    """Armour and cpc of the feed left off at the board, and metal bonded to the electrode by a conductor."""
    family = rules.families.get(above.run.cable.family or "")
    armoured = bool(family and family.armour)
    fields: dict[str, object] = {"armour_ends": "supply"} if armoured and above.armour_ends == "both" else {}
    if above.core_ends == "both":
        fields["core_ends"] = "supply"
    changes = [Change("set", "circuit", above.id, fields)] if fields else []
    if board.bond == "armour":
        changes.append(Change("set", "board", board.id, {"bond": "conductor", "bond_csa": board.bond_csa or 10.0}))
    what = ["armour earthed at the supply end only, insulated gland at the far end"] if "armour_ends" in fields else []
    what += ["the cpc left off at this board and insulated"] if "core_ends" in fields else []
    if changes:
        yield "island", Idea("island", "; ".join(what) or "a bonding conductor to the electrode", tuple(changes)), ""


def _own_rcds(rules: RuleSet, job: Installation, board: Board) -> Iterator[Asked]:
    """An RCBO for every circuit in place of the one device over all of them."""
    small = Silent(rules).constant("additional_idn")
    fields = {"kind": "rcbo", "idn": small, "delayed": False}
    here = [c for c in job.circuits if c.board == board.id and not c.spare and c.device.kind in ("mcb", "rcbo")]
    changes = [Change("set", "board", board.id, {"rcd_idn": 0.1, "rcd_delayed": True})]
    changes += [
        Change("set", "circuit", c.id, {"device": {**fields, "rcd_type": c.device.rcd_type or "A"}}) for c in here if c.device.idn is None
    ]
    yield "leakage", Idea("own-rcds", "an RCBO for every circuit and a 100 mA time-delayed main RCD", tuple(changes)), ""


def _rcds_everywhere(rules: RuleSet, job: Installation, board: Board, about: str) -> Iterator[Asked]:
    """A board on an electrode without RCDs: one for every circuit, and a delayed one before them all."""
    small = Silent(rules).constant("additional_idn")
    here = [c for c in job.circuits if c.board == board.id and not c.spare and c.device.kind in ("mcb", "rcbo") and c.device.idn is None]
    if not here:
        return
    flows = max((board.switch_in or 0.0), 100.0)
    changes = [Change("set", "board", board.id, {"rcd_idn": 0.1, "rcd_delayed": True, "rcd_type": "A", "rcd_in": flows})]
    fields = {"kind": "rcbo", "idn": small, "rcd_type": "A", "delayed": False}
    changes += [Change("set", "circuit", c.id, {"device": fields}) for c in here]
    title = f"an RCBO of 30 mA, type A, for every circuit, and a delayed RCD of 100 mA, {quantity(flows, 'A')}, before them"
    yield about, Idea("rcds", title, tuple(changes)), ""


def _core_bonds(rules: RuleSet, job: Installation, board: Board, above: Circuit) -> Iterator[Asked]:
    """A core of the feed as bonding conductor beside its armour: where the feed is new, with the csa that bonding needs."""
    family = rules.families.get(above.run.cable.family or "")
    earthed_by_feed = board.earthing == "supply" and job.supply.earthing != "TT"
    if family is None or not family.armour or above.existing or not earthed_by_feed or above.phases > 1:
        return
    least = bonding_csa(Silent(rules), job.supply)
    csa = next((s for s in family.sizes if s >= max(least, above.run.cable.csa or 0.0)), None)
    if csa is None:
        return
    cable = {"cores": 3, "csa": csa, "cpc": above.run.cable.cpc if above.run.cable.cpc == "armour" else "usual"}
    changes = (Change("set", "circuit", above.id, {"cable": cable}), Change("set", "board", board.id, {"bond": "core"}))
    yield "bonding", Idea("core", f"a feed of 3 cores, {quantity(csa, 'mm²')}, whose third core bonds", changes), ""


def _beside_armour(rules: RuleSet, job: Installation, board: Board, wrong: Check) -> Iterator[Asked]:
    """A conductor beside the armour, of the size whose resistance the armour was asked to reach."""
    rows = rules.table(T.RESISTANCE).rows
    least = next((row.key[0] for row in rows if wrong.limit and row.cells["cu_mohm_per_m_20C"] <= wrong.limit * (1 + 1e-9)), None)
    if least is not None:
        change = Change("set", "board", board.id, {"bond": "conductor", "bond_csa": least})
        yield "bonding", Idea("bond", f"a {quantity(least, 'mm²')} copper bonding conductor run with the sub-main", (change,)), ""
