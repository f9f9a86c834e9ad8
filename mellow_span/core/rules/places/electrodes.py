"""An electrode of a board's own: what it must clear, the parts before its RCDs, the armour that reaches it, and what stands too near (411.5)."""

from __future__ import annotations

from math import inf, log, sqrt

from mellow_span.core.errors import MissingInput
from mellow_span.core.figures import apart, quantity
from mellow_span.core.findings.results import Check, Outcome
from mellow_span.core.model.legs import cable_parts
from mellow_span.core.model.parts import Board, Circuit, Installation
from mellow_span.core.model.places import rcd_over, rcds_of
from mellow_span.core.rules.case import Feed, Residual
from mellow_span.core.rules.protective import live_cores
from mellow_span.core.rules.runner import run_check
from mellow_span.core.rulesets.vocabulary import C
from mellow_span.core.units import MA_PER_A, MM_PER_M
from mellow_span.core.working.recorders import Working


def electrode_checks(w: Working, job: Installation, board: Board, feed: Feed, above: Circuit | None) -> tuple[Check, ...]:
    """Return the checks of a board that is earthed by an electrode; none for another."""
    if board.earthing != "TT" and not (above is None and job.supply.earthing == "TT"):
        return ()
    assumed = ("RA",) if feed.earth_assumed else ()
    found = [
        run_check(w, "electrode", "Earth electrode", C.RCD_TOUCH_VOLTAGE, lambda: check_electrode(w, job, board, feed), assumed),
        run_check(w, "ahead", "Board ahead of its RCDs", C.OWN_ELECTRODE, lambda: check_ahead(w, board, feed), assumed),
        run_check(w, "electrode_place", "Electrode position", C.ELECTRODE, lambda: check_place(w, job, board)),
    ]
    if above is not None and board.earthing == "TT":
        found.append(run_check(w, "island", "Supply earth towards a TT board", C.TT_ISLAND, lambda: check_island(w, board, above)))
    return tuple(found)


def check_electrode(w: Working, job: Installation, board: Board, feed: Feed) -> Outcome:
    """Check the electrode of a TT board: RA x IDn <= 50 V with the largest RCD that has to clear, and stable up to 200 ohm (411.5.3)."""
    ra = resistance(board, feed)
    upstream = min((r.idn for r in before(board, feed)), default=None)
    clears = [_clearing(board, c, upstream) for c in job.circuits if c.board == board.id and not c.spare]
    if None in clears or not (clears or upstream or rcds_of(board)):
        text = "a circuit on this board has no RCD; a fuse or breaker will not clear an earth fault through an electrode"
        return Outcome(ra, 0.0, "Ω", None, text, verdict="short")
    # Faults before the circuits' own devices are left to the board's; an empty board has what lies upstream.
    over: tuple[float | None, ...] = tuple(one.idn for one in rcds_of(board)) or (() if clears else (upstream,))
    idn = w.given("IΔn", max(i for i in (*clears, *over) if i is not None), "A", "highest RCD rating that must clear")
    most = largest_resistance(w, idn)
    stable = w.limit("stable", "tt_stable") if w.rules.has("tt_stable") else inf
    told, limit = apart(ra, most, "Ω")
    text = f"RA {told} {'is within' if ra <= most else 'is over'} {limit}"
    if ra <= most and ra > stable:
        return Outcome(ra, most, "Ω", None, f"{text}, but over {quantity(stable, 'Ω')} it may not stay stable all year", verdict="close")
    return Outcome(ra, most, "Ω", 1 - ra / most, text)


def _clearing(board: Board, circuit: Circuit, upstream: float | None) -> float | None:
    """The device that clears an earth fault of a circuit [A]: its own, else the most sensitive of its section's and those before the board."""
    if circuit.device.idn is not None:
        return circuit.device.idn
    own = rcd_over(board, circuit.section)
    return min((i for i in (own.idn if own else None, upstream) if i is not None), default=None)


def resistance(board: Board, feed: Feed) -> float:
    """Return RA [ohm] of the electrode that earths a board. Raises MissingInput."""
    if feed.ze_hot is None:
        name = "board.ra" if board.earthing == "TT" else "supply.ze"
        raise MissingInput(name, "the resistance RA of the earth electrode in Ω")
    return feed.ze_hot


def largest_resistance(w: Working, idn: float) -> float:
    """Return the largest RA [ohm] with which an RCD of IDn [A] keeps the touch voltage in its limit (411.5.3)."""
    volts = w.limit("UL", "touch_voltage")
    return w.calc("RA,max", volts / idn, "Ω", "UL / IΔn", {"UL": volts, "IΔn": idn}, C.RCD_TOUCH_VOLTAGE)


def before(board: Board, feed: Feed) -> tuple[Residual, ...]:
    """Return the residual current devices that lie before a board's own, nearest first."""
    return feed.residuals[1:] if board.rcd_idn is not None else feed.residuals


def check_ahead(w: Working, board: Board, feed: Feed) -> Outcome:
    """Check the metal of the board ahead of its RCDs (411.5.2): a fault there is cleared by an RCD before the board, or cannot happen.

    No fuse clears through an electrode, so a metal enclosure needs an RCD before it, delayed so that the board's own open first, or class II
    construction up to them (412.2). Raises MissingInput where nobody said.
    """
    there = before(board, feed)
    if there:
        ra = resistance(board, feed)
        nearest = min(there, key=lambda r: r.idn)
        idn = w.given("IΔn", nearest.idn, "A", nearest.where)
        most = largest_resistance(w, idn)
        word = "clears" if ra <= most else "does not clear"
        late = "" if nearest.delayed else "; without a time delay it trips together with those downstream"
        return Outcome(
            ra, most, "Ω", 1 - ra / most, f"{nearest.where}, {quantity(idn * MA_PER_A, 'mA')}, {word} a fault to its enclosure{late}"
        )
    if board.metal is None:
        raise MissingInput("board.metal", "whether the enclosure is of metal: no RCD lies before it")
    if not board.metal:
        return Outcome(0.0, 0.0, "", None, "the enclosure is not of metal")
    if board.class_ii is None:
        raise MissingInput("board.class_ii", "whether the metal board is class II up to its RCDs: no RCD upstream")
    if board.class_ii:
        return Outcome(0.0, 0.0, "", None, "of class II construction up to its RCDs, as entered")
    text = "metal enclosure with no RCD upstream: nothing clears a fault to it on TT; a time-delayed RCD at the intake would"
    return Outcome(0.0, 0.0, "", None, text, verdict="short")


def _armoured(w: Working, above: Circuit) -> bool:
    family = w.rules.families.get(above.run.cable.family or "")
    return bool(family and family.armour)


def _has_core(w: Working, above: Circuit) -> bool:
    """Whether a conductor of a feed serves as its cpc, alone or beside its armour."""
    cable = above.run.cable
    return not _armoured(w, above) or cable.cpc in ("armour_and_core", "core", "separate") or (cable.cores or 0) > live_cores(above)


def check_island(w: Working, board: Board, above: Circuit) -> Outcome:
    """Check that armour and core of the feed keep the two earths apart: connected at the supply end alone, no bond at the electrode (542.1.3.3).

    Raises MissingInput where a core serves as cpc and nobody said where it ends.
    """
    wrong = []
    # Of a feed whose cable changes each of them may bring the supply's earth along.
    parts = cable_parts(above)
    armoured, core = any(_armoured(w, part) for part in parts), any(_has_core(w, part) for part in parts)
    if armoured and above.armour_ends == "both":
        wrong.append(
            "earthed at both ends, so it joins the supply earth to the electrode: earth it at the supply end only, "
            "with an insulated gland at the far end"
        )
    if board.bond == "armour":
        wrong.append("it bonds the metal here and brings the supply earth over: bond to the electrode with a separate conductor")
    if board.bond == "core":
        wrong.append("a core of it bonds the metal here and brings the supply earth over: bond to the electrode with a separate conductor")
    if core and above.core_ends == "both":
        wrong.append(
            "its cpc is connected at both ends and joins the supply's earth to the electrode: leave it off at this board, insulated"
        )
    if wrong:
        return Outcome(0.0, 0.0, "", None, "; ".join(wrong), verdict="short")
    if core and above.core_ends is None:
        raise MissingInput("circuit.core_ends", f"whether the cpc of {above.name or 'the feed'} is connected at this board")
    what = "armour and cpc are" if core and armoured else "the cpc is" if core else "the armour is"
    return Outcome(0.0, 0.0, "", None, f"{what} connected at the supply end alone", verdict="meets")


def check_place(w: Working, job: Installation, board: Board) -> Outcome:
    """Check how far the electrode stands from buried metal and other electrodes, and say what voltage it may pick up from them (542.2).

    What lies near an earth that rises to U0 rises with the ground: at a distance x of a buried pipe of length l and diameter d by the share
    ln((l/2 + sqrt(l2/4 + x2)) / x) / ln(2 l / d) of it. A pipe of usual size is taken.
    """
    if board.electrode_distance is None:
        raise MissingInput("board.electrode_distance", "distance from the electrode to buried metal services and other electrodes, in m")
    x = w.given("x", board.electrode_distance, "m", "to the nearest buried metal or other electrode")
    clear = w.limit("clear", "electrode_clear")
    length, across = w.limit("l", "pipe_length", "a usual buried pipe"), w.limit("d", "pipe_diameter", "a usual buried pipe")
    terms = {"l": length, "x": x, "d": across}
    share = log((length / 2 + sqrt(length**2 / 4 + x**2)) / x) / log(2 * length * MM_PER_M / across)
    share = w.calc("share", min(1.0, share), "", "ln((l/2 + √(l²/4 + x²)) / x) / ln(2000 l / d)", terms, C.ELECTRODE)
    volts = w.calc("U", share * job.supply.u0, "V", "share × U0", {"share": share, "U0": job.supply.u0}, C.ELECTRODE)
    if x >= clear * (1 - 1e-9):
        return Outcome(x, clear, "m", None, f"{quantity(x, 'm')} from buried metal and other electrodes, at least {quantity(clear, 'm')}")
    text = (
        f"{quantity(x, 'm')} from buried metal or another electrode: up to {quantity(volts, 'V')} can transfer "
        f"through the ground if that metal rises to {quantity(job.supply.u0, 'V')} (broken PEN or fault); from {quantity(clear, 'm')} little is left"
    )
    return Outcome(x, clear, "m", None, text, verdict="close")
