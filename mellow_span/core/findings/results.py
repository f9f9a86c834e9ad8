"""What a check answers: typed verdicts with margin, governing span, working and the inputs that were only assumed."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from mellow_span.core.working.steps import Step

Verdict = Literal["meets", "close", "short", "not_known"]
# How bad a verdict is. What is not known is no pass, and what is short is worse still.
WORSE: dict[Verdict, int] = {"meets": 0, "close": 0, "not_known": 1, "short": 2}
# What each is called to a person; the names above are those of the data.
STANDS: dict[Verdict, str] = {"meets": "meets", "close": "marginal", "short": "fails", "not_known": "not known"}
CLOSE_MARGIN = 0.05
# Margins below this are rounding of binary fractions, not a shortfall (9.0 m of 0.1 m steps must equal 9 m).
ROUNDING = 1e-9
WORST_FIRST: tuple[Verdict, ...] = ("short", "not_known", "close", "meets")


def judge(margin: float | None) -> Verdict:
    """Turn a margin (share of the limit left, negative when short) into a verdict; None means a yes that has no margin."""
    if margin is None:
        return "meets"
    if margin < -ROUNDING:
        return "short"
    return "close" if margin < CLOSE_MARGIN - ROUNDING else "meets"


def worst(verdicts: list[Verdict]) -> Verdict:
    """Return the worst of several verdicts; of none at all: not known."""
    return next((v for v in WORST_FIRST if v in verdicts), "not_known")


@dataclass(slots=True)
class Outcome:
    """What one rule finds, before it is worded as a check."""

    value: float
    # None where there is none: what nothing clears has no csa that would do.
    limit: float | None
    unit: str
    margin: float | None
    text: str
    span: str | None = None
    decides: bool = True
    verdict: Verdict | None = None
    # The input that would decide, where the figures alone do not.
    field: str | None = None
    # The clause that decides, by its name in the vocabulary, where it is another than that of the rule.
    clause: str = ""


@dataclass(slots=True)
class Check:
    """One check of a circuit. value, limit [unit]; margin: share of the limit left; span: identity of the governing span."""

    id: str
    title: str
    clause: str
    verdict: Verdict
    text: str
    value: float | None = None
    limit: float | None = None
    unit: str = ""
    margin: float | None = None
    span: str | None = None
    decides: bool = True
    doubtful: bool = False
    assumed: tuple[str, ...] = ()
    field: str | None = None
    steps: tuple[Step, ...] = ()


@dataclass(slots=True)
class Figure:
    """A figure that is shown beside the checks: its value [unit] with its steps, or why there is none."""

    id: str
    title: str
    value: float | None
    unit: str
    steps: tuple[Step, ...] = ()
    doubtful: bool = False
    why: str = ""


@dataclass(slots=True)
class SpanResult:
    """A span with its capacity [A], or the reason why there is none."""

    id: str
    method: str
    iz: float | None
    error: str | None = None
    doubtful: bool = False
    steps: tuple[Step, ...] = ()


@dataclass(slots=True)
class Point:
    """A point of the profile: at [m] from the origin, volt drop so far [%] and [V], loop impedance [ohm]."""

    at: float
    drop: float | None
    volts: float | None
    zs: float | None


@dataclass(slots=True)
class Stretch:
    """A span as the profile draws it: from, to [m from the origin]; the levels of its circuit in A.

    cable: its size, where another cable begins with it.
    """

    circuit: str
    span: str
    name: str
    look: str
    method: str
    start: float
    end: float
    ib: float | None
    rating: float | None
    iz: float | None
    cable: str = ""


@dataclass(slots=True)
class Profile:
    """Everything the profile draws: stretches from the origin, points for the volts and loop lanes, limits and reaches.

    end: of a run that branches the span that leads to the end it is drawn to.
    """

    stretches: tuple[Stretch, ...] = ()
    points: tuple[Point, ...] = ()
    own_from: float = 0.0
    drop_limit: float | None = None
    zs_limit: float | None = None
    zs_reading_limit: float | None = None
    iz_needed: float | None = None
    reach_drop: float | None = None
    reach_zs: float | None = None
    governing: str | None = None
    u0: float = 230.0
    end: str = ""


@dataclass(slots=True)
class Problem:
    """An input that was refused: field, what was given, what is allowed."""

    field: str
    given: str
    allowed: str


@dataclass(slots=True)
class EndResult:
    """What arrives at an end or a box of a run that branches: at [m] along the cable, volt drop from the origin [%], volts left [V], loops [ohm],
    least earth-fault current [A]. span: the one that leads there; last: nothing goes on from it; loads: what stands there; verdict: of its path, of
    a box not asked.
    """

    span: str
    name: str
    at: float | None
    last: bool
    loads: tuple[str, ...] = ()
    verdict: Verdict | None = None
    drop: float | None = None
    volts: float | None = None
    zs: float | None = None
    r1r2: float | None = None
    fault_min: float | None = None


@dataclass(slots=True)
class CircuitResult:
    """All that is found for one circuit. ib, rating, iz [A]; drop [%]; volts left at the far point [V]; zs, zs_max [ohm].

    ruling: the check that rules the verdict. fault_max: largest fault current at the board it starts from; far_ln, far_le: largest at its far
    point, line to neutral and line to earth; fault_min: least at its far point [A]. ends: of a run that branches, its ends and boxes.
    """

    id: str
    verdict: Verdict
    headline: str
    reason: str
    ruling: str | None = None
    margin: float | None = None
    ib: float | None = None
    rating: float | None = None
    iz: float | None = None
    length: float | None = None
    drop: float | None = None
    volts: float | None = None
    zs: float | None = None
    zs_max: float | None = None
    r1r2: float | None = None
    fault_max: float | None = None
    fault_min: float | None = None
    far_ln: float | None = None
    far_le: float | None = None
    doubtful: bool = False
    assumed: tuple[str, ...] = ()
    problems: tuple[Problem, ...] = ()
    checks: tuple[Check, ...] = ()
    spans: tuple[SpanResult, ...] = ()
    figures: tuple[Figure, ...] = ()
    ends: tuple[EndResult, ...] = ()


@dataclass(slots=True)
class PhaseSum:
    """One phase of a board [A]: connected load, demand after diversity, and that with what may come later."""

    phase: str
    connected: float
    demand: float
    later: float


@dataclass(slots=True)
class KindLine:
    """One kind of load on a board, on the phase where it draws most: how many lines of it, and [A] connected, allowed after diversity, and
    with what may come later.
    """

    kind: str
    count: int
    connected: float
    allowed: float
    later: float


@dataclass(slots=True)
class BoardDemand:
    """What a board draws [A]: per phase, the highest phase now and later, the imbalance.

    guessed: circuits whose phase nobody entered, counted on every phase; uneven: single-phase loads lie behind its three phases.
    """

    board: str
    phases: tuple[PhaseSum, ...] = ()
    highest: float | None = None
    later: float | None = None
    imbalance: float | None = None
    lines: tuple[KindLine, ...] = ()
    guessed: tuple[str, ...] = ()
    error: str = ""
    field: str | None = None
    uneven: bool = False
    steps: tuple[Step, ...] = ()


@dataclass(slots=True)
class BoardResult:
    """What is found at a board: earthing there, loop [ohm] hot, volt drop [%], fault currents [A], demand, and the checks of the board."""

    id: str
    earthing: str | None
    zs: float | None
    drop: float | None
    ipf_ln: float | None
    ipf_le: float | None
    ipf_3ph: float | None
    fault_min: float | None
    demand: BoardDemand
    checks: tuple[Check, ...] = ()
    figures: tuple[Figure, ...] = ()


@dataclass(slots=True)
class Member:
    """A circuit in a route: whether it counts, what it carries and 30 % of its grouped rating [A] in the whole group, n for itself."""

    circuit: str
    counted: bool
    ib: float | None
    light: float | None
    n: int


@dataclass(slots=True)
class RouteResult:
    """What runs together: who counts, the Cg of those that count, and the checks of the route."""

    id: str
    n: int
    cg: float | None
    members: tuple[Member, ...]
    checks: tuple[Check, ...] = ()


@dataclass(slots=True)
class Attention:
    """A line of the attention list: what is the matter and where its cure is."""

    level: Literal["short", "close", "not_known", "assumed", "confirm"]
    text: str
    reason: str
    circuit: str | None = None
    check: str | None = None
    field: str | None = None
    board: str | None = None
    route: str | None = None
    # The step of the work where its cure is.
    step: str = "boards"
    # The stage of the job that it is so at, where that is not the last.
    stage: str = ""


@dataclass(slots=True)
class InstallationResult:
    """The answer for a whole job."""

    ruleset: str
    edition: str
    circuits: tuple[CircuitResult, ...]
    attention: tuple[Attention, ...]
    intake: tuple[Check, ...] = ()
    boards: tuple[BoardResult, ...] = ()
    routes: tuple[RouteResult, ...] = ()
