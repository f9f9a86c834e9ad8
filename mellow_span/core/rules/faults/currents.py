"""Prospective fault currents at a board and at the far point of a run, each with its working.

Largest: Cmax U0 over the loop with conductors at 20 C; three-phase twice the line-neutral one, with equal line and neutral. Least: Cmin U0
over the loop with conductors hot.
"""

from __future__ import annotations

from collections.abc import Callable
from math import sqrt

from mellow_span.core.errors import CoreError, MissingInput
from mellow_span.core.findings.results import Figure
from mellow_span.core.model import Supply
from mellow_span.core.rules.case import Case, Feed
from mellow_span.core.rules.faults.loop import THREE_PHASE, feed_loop, least_fault, loop_of, other_sources, run_cold, zs_of
from mellow_span.core.rulesets.vocabulary import C
from mellow_span.core.working.recorders import Working

NO_LOOP = "the prospective fault current and the loop at the origin"


def figure_of(w: Working, id: str, title: str, unit: str, work: Callable[[], float]) -> Figure:
    """Work one figure out with its steps; where an input is missing it has no value and says why."""
    try:
        value, why = work(), ""
    except CoreError as refusal:
        value, why = None, str(refusal)
    steps, doubtful = w.take()
    return Figure(id=id, title=title, value=value, unit=unit, steps=steps, doubtful=doubtful, why=why)


def largest(w: Working, supply: Supply, loop: float | None, symbol: str, note: str, feed: Feed) -> float:
    """Return the largest fault current [A] through a loop [ohm] at 20 C, with what the sources of a feed add beside the network.

    Raises MissingInput where the loop, or what a source adds, is not known.
    """
    if not loop:
        raise MissingInput("supply.ipf", NO_LOOP)
    z = w.given(symbol, loop, "Ω", note)
    terms = {"Cmax": supply.cmax, "U0": supply.u0, symbol: z}
    more = other_sources(feed)
    if not more:
        return w.calc("Imax", supply.cmax * supply.u0 / z, "A", f"Cmax × U0 / {symbol}", terms, C.FAULT_LEVEL)
    terms["Ig"] = w.given("Ig", more, "A", "maximum that sources in parallel with the mains add")
    return w.calc("Imax", supply.cmax * supply.u0 / z + more, "A", f"Cmax × U0 / {symbol} + Ig", terms, C.FAULT_LEVEL)


def board_figures(w: Working, supply: Supply, feed: Feed, phases: int) -> tuple[Figure, ...]:
    """Return the fault currents at a board [A]: largest line-neutral and line-earth, three-phase where it has three, least to earth."""

    def three() -> float:
        ln = largest(w, supply, feed.ln_cold, "Zln", "line-neutral loop at the board, 20 °C", feed)
        return w.calc("I3", THREE_PHASE * ln, "A", "2 × Imax", {"Imax": ln}, C.FAULT_LEVEL, "equal line and neutral")

    def least() -> float:
        if not feed.ze_hot:
            raise MissingInput("supply.ze", NO_LOOP)
        cmin, zs = w.limit("Cmin", "cmin"), w.given("Zs", feed.ze_hot, "Ω", "earth-fault loop at the board, conductors hot")
        return w.calc("Imin", cmin * supply.u0 / zs, "A", "Cmin × U0 / Zs", {"Cmin": cmin, "U0": supply.u0, "Zs": zs}, C.FAULT_LOOP)

    ln = figure_of(
        w, "ipf_ln", "maximum, line to neutral", "A",
        lambda: largest(w, supply, feed.ln_cold, "Zln", "line-neutral loop at the board, 20 °C", feed),
    )  # fmt: skip
    le = figure_of(
        w, "ipf_le", "largest, line to earth", "A",
        lambda: largest(w, supply, feed.ze_cold, "Zs", "earth-fault loop at the board, 20 °C", feed),
    )  # fmt: skip
    found = [ln, le]
    if phases > 1:
        found.append(figure_of(w, "ipf_3ph", "largest, three-phase", "A", three))
    return (*found, figure_of(w, "fault_min", "minimum, line to earth", "A", least))


def circuit_figures(w: Working, case: Case) -> tuple[Figure, ...]:
    """Return what is shown of the loops and fault currents of a circuit: R1 + R2 cold, largest at its board and at its far point, least."""
    supply, feed = case.supply, case.feed

    def r1r2() -> float:
        r1, r2, x = run_cold(loop_of(w, case), case)
        terms = {"R1": r1, "R2": r2, "X": x}
        return w.calc("R1+R2", sqrt((r1 + r2) ** 2 + x**2), "Ω", "√((R1 + R2)² + X²)", terms, C.CONTINUITY, "at 20 °C")

    def at_board() -> float:
        there = [i for i in (feed.ln_cold, feed.ze_cold) if i]
        return largest(w, supply, min(there, default=None), "Z", "smaller loop at the board, 20 °C", feed)

    def far(at: float | None, added: Callable[[], float], symbol: str) -> float:
        if at is None:
            raise MissingInput("supply.ipf", NO_LOOP)
        own = added()
        whole = w.calc(symbol, at + own, "Ω", f"{symbol},board + run", {f"{symbol},board": at, "run": own}, C.FAULT_LEVEL, "at 20 °C")
        return largest(w, supply, whole, symbol, "loop at the far end", feed)

    return (
        figure_of(w, "r1r2", "R1 + R2 of the run, at 20 °C", "Ω", r1r2),
        figure_of(w, "fault_max", "maximum at the board", "A", at_board),
        figure_of(
            w,
            "far_ln",
            "maximum at the far end, line to neutral",
            "A",
            lambda: far(feed.ln_cold, lambda: loop_of(w, case).ln_cold, "Zln"),
        ),
        figure_of(
            w, "far_le", "largest at the far end, line to earth", "A", lambda: far(feed.ze_cold, lambda: loop_of(w, case).cold, "Zs")
        ),
        figure_of(w, "fault_min", "minimum at the far end, conductors hot", "A", lambda: least_fault(w, case, _zs(w, case), "Imin")),
    )


def _zs(w: Working, case: Case) -> float:
    board, own = feed_loop(case), loop_of(w, case).hot
    return w.calc("Zs", zs_of(w, case), "Ω", "Zs,board + R1+R2", {"Zs,board": board, "R1+R2": own}, C.FAULT_LOOP)
