"""What is likely wrong with a circuit: each cause is fitted to all its readings together, and the one that fits best is named with how well it does.

A cause has at most one figure that is not known: a length, a size, the resistance of a joint. It is chosen so that the readings differ least from what
the circuit would then show, each difference counted in shares of what an instrument resolves. A cause with a figure to choose has to fit better for it
(the Bayesian information criterion: chi square plus the logarithm of the number of readings), and a length may be a little other than entered.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from math import exp, inf, log, sqrt

from mellow_span.core.adding import added
from mellow_span.core.figures import figure, quantity
from mellow_span.core.site.network import LIVE, Conductor, Joint, Network, shown

AT, NOWHERE = "<at>", "at a place these readings cannot tell"
NAMES: dict[str, str] = {"line": "the line", "neutral": "the neutral", "cpc": "the cpc"}
# What an instrument and its leads leave open: a share of the figure, and so much beside it [ohm]; on a live loop it is more.
SHARE, FLOOR, LIVE_SHARE, LIVE_FLOOR = 0.03, 0.015, 0.035, 0.02
# A length as entered may be out by so much; what is open where a figure was expected, or the other way round, counts as so many sigma.
LENGTH, OPEN = 0.04, 20.0
# From so much on a reading shows an open conductor [ohm].
OPEN_FROM = 90.0
# How closely a figure is looked for: so many looks in a row, so many halvings; at first for all causes, then for those that are left.
LOOK, CLOSER = (12, 5), (2, 12)
# So many kinds of cause are looked at more closely, and at lengths a little other, where they are not behind the best by so much.
MOST, HOPELESS = 9, 25.0
LENGTHS = (1.0, 1 - LENGTH, 1 + LENGTH, 1 - 2 * LENGTH, 1 + 2 * LENGTH)
# A cause is named with another only where that fits less well by so little.
CLOSE_BY = 2.0


@dataclass(frozen=True, slots=True)
class Read:
    """A reading to be fitted: what was read, where [m], and the value [ohm; A for ipf]; infinite: past the range."""

    quantity: str
    at: float
    value: float


@dataclass(slots=True)
class Cause:
    """A cause with how well it fits. share: of what all causes together explain, 0 to 1; off: root mean square difference [sigma].

    figure: what was fitted, None where nothing was.
    told: in words, as 'fits a joint of 0.14 Ω in the neutral before outlet 1'; next: what to do.
    """

    id: str
    told: str
    next: str
    share: float
    off: float
    figure: float | None


@dataclass(frozen=True, slots=True)
class _Idea:
    """A cause that can be tried: how the circuit then is for a figure, from what to what that may be, and its words for it."""

    id: str
    build: Callable[[Network, float], Network]
    lo: float
    hi: float
    told: Callable[[float], str]
    next: str
    against: float = 0.0
    free_length: bool = True
    # Where it is, put in for AT in its words where the readings tell; else they say that they do not.
    where: str = ""


@dataclass(frozen=True, slots=True)
class Sizes:
    """Resistance of other sizes [ohm/m] at the temperature of the readings, by csa [mm2]: of the line with the cpc that goes with it, and of a cpc."""

    lines: dict[float, tuple[float, float]]
    cpcs: dict[float, float]


def fit(n: Network, reads: Sequence[Read], outlets: Sequence[tuple[float, str]], sizes: Sizes) -> tuple[Cause, ...]:
    """Return the causes that explain readings best, the likeliest first; 'as predicted' is one of them. At most four.

    n: the circuit as designed; outlets: positions [m] and names of its points, in order. Fewer than two readings decide nothing: then none.
    """
    if len(reads) < 2:
        return ()
    ideas = list(_ideas(n, reads, outlets, sizes))
    looked = [_best(n, reads, idea, (1.0,), (idea.lo, idea.hi), LOOK) for idea in ideas]
    rough = sorted((score, k) for k, (score, _, _) in enumerate(looked))
    # Of a cause that may be in several places the best one stands for all; whether it is the place is told beside.
    firsts: dict[str, int] = {}
    for _, k in rough:
        firsts.setdefault(ideas[k].id, k)
    chosen = list(firsts.values())[:MOST]
    near = looked[chosen[0]][0] + HOPELESS
    tried = []
    for k in chosen:
        idea, value = ideas[k], looked[k][2]
        # A little other length helps a cause by little: one that is far behind stays there.
        lengths = LENGTHS if idea.free_length and looked[k][0] < near else (1.0,)
        step = (idea.hi / idea.lo) ** (1 / LOOK[0])
        around = (max(idea.lo, value / step), min(idea.hi, value * step))
        tried.append((_best(n, reads, idea, lengths, around, CLOSER), idea))
    tried.sort(key=lambda x: x[0][0])
    least = tried[0][0][0]
    weights = [exp((least - score) / 2) for (score, _, _), _ in tried]
    found = []
    for ((_, chi, value), idea), weight in zip(tried, weights, strict=True):
        place = _place(idea, ideas, rough)
        told, next_ = idea.told(value).replace(AT, place), idea.next.replace(AT, "one after the other" if place == NOWHERE else place)
        found.append(Cause(idea.id, told, next_, weight / added(weights), sqrt(chi / len(reads)), value if idea.lo < idea.hi else None))
    return tuple(found[:4])


def _place(idea: _Idea, ideas: Sequence[_Idea], rough: Sequence[tuple[float, int]]) -> str:
    """Where a cause is, where no other place fits about as well."""
    same = [(score, ideas[k].where) for score, k in rough if ideas[k].id == idea.id]
    return idea.where if len(same) < 2 or same[1][0] - same[0][0] > CLOSE_BY else NOWHERE


def _best(
    n: Network, reads: Sequence[Read], idea: _Idea, lengths: Sequence[float], span: tuple[float, float], how: tuple[int, int]
) -> tuple[float, float, float]:
    """Score, chi square and figure of a cause at its best, its figure looked for in a span. how: see `_least`."""
    answer = (inf, inf, idea.lo)
    for stretch in lengths:
        lying = n if stretch == 1.0 else _stretched(n, stretch)
        aside = ((stretch - 1) / LENGTH) ** 2

        def chi(value: float, lying: Network = lying, aside: float = aside) -> float:
            return _chi(idea.build(lying, value), reads) + aside

        value = _least(chi, *span, *how) if idea.lo < idea.hi else idea.lo
        square = chi(value)
        score = square + (log(len(reads)) if idea.lo < idea.hi else 0.0) + idea.against
        answer = min(answer, (score, square, value))
    return answer


def _least(f: Callable[[float], float], lo: float, hi: float, steps: int, halvings: int) -> float:
    """Where a function is least between two positive figures: a look at several in a row, then by halving around the best (golden section)."""
    if hi <= lo:
        return lo
    ratio: float = (hi / lo) ** (1 / steps)
    row = [lo * ratio**k for k in range(steps + 1)]
    k = min(range(len(row)), key=lambda i: f(row[i]))
    a, b = row[max(0, k - 1)], row[min(steps, k + 1)]
    gold = (sqrt(5) - 1) / 2
    c, d = b - gold * (b - a), a + gold * (b - a)
    fc, fd = f(c), f(d)
    for _ in range(halvings):
        if fc < fd:
            b, d, fd = d, c, fc
            c = b - gold * (b - a)
            fc = f(c)
        else:
            a, c, fc = c, d, fd
            d = a + gold * (b - a)
            fd = f(d)
    return (a + b) / 2


def _chi(n: Network, reads: Sequence[Read]) -> float:
    total = 0.0
    for r in reads:
        here = shown(n, r.quantity, r.at)
        value = r.value
        if r.quantity == "ipf":
            # As a loop: so the noise is that of a loop.
            here, value = n.u0 / here if here else inf, n.u0 / value if value else inf
        open_here, open_read = here > OPEN_FROM, value > OPEN_FROM
        if open_here or open_read:
            total += 0.0 if open_here and open_read else OPEN**2
            continue
        live = r.quantity in ("zs", "ipf")
        sigma = sqrt((here * (LIVE_SHARE if live else SHARE)) ** 2 + (LIVE_FLOOR if live else FLOOR) ** 2)
        # Past so many sigma it is wrong, however far.
        total += min(((value - here) / sigma) ** 2, OPEN**2)
    return total


def _stretched(n: Network, by: float) -> Network:
    """The same circuit with conductors longer by a factor; positions stay what they are called."""
    return replace(n, line=n.line * by, neutral=n.neutral * by, cpc=n.cpc * by)


def _ideas(n: Network, reads: Sequence[Read], outlets: Sequence[tuple[float, str]], sizes: Sizes) -> Iterator[_Idea]:
    yield _Idea("none", lambda m, v: m, 1.0, 1.0, lambda v: "fits the design as entered", "nothing to do")
    yield _Idea(
        "length", _stretched, 0.2, 5.0, lambda v: f"fits a run of {quantity(v * n.length, 'm')}, not {quantity(n.length, 'm')}",
        "measure the run again and enter it: volt drop and Zs go by it", 1.0, False,
    )  # fmt: skip
    for csa, (line, cpc) in sizes.lines.items():
        yield _Idea(
            f"csa:{csa:g}", _conductors(line, cpc), 1.0, 1.0, lambda v, csa=csa: f"fits {quantity(csa, 'mm²')}",  # type: ignore[misc]
            "check the sheath marking or measure a strand; enter that size", 2.0,
        )  # fmt: skip
    for csa, cpc in sizes.cpcs.items():
        yield _Idea(
            f"cpc:{csa:g}", _cpc(cpc), 1.0, 1.0, lambda v, csa=csa: f"fits a cpc of {quantity(csa, 'mm²')}",  # type: ignore[misc]
            "look at the cpc; its thermal check goes by its size", 2.0 if cpc > n.cpc else 6.0,
        )  # fmt: skip
    yield from _joints(n, reads, outlets)
    yield from _beside_the_cpc(n, reads, outlets)
    if added(r.quantity not in LIVE for r in reads) > 1:
        yield _Idea(
            "leads", lambda m, v: replace(m, leads=v), 0.03, 3.0, lambda v: f"fits test leads not nulled: {quantity(v, 'Ω')} in every dead reading",
            "null the leads, prove the instrument on a known resistance, and test again", 0.5,
        )  # fmt: skip
    yield from _longer(n, reads, outlets)
    if n.z_le is not None and any(r.quantity in ("zs", "ipf") for r in reads):
        yield _Idea(
            "supply", lambda m, v: replace(m, z_le=(m.z_le or 0) * v, z_ln=(m.z_ln or 0) * v), 0.1, 10.0,
            lambda v: f"fits a loop of {quantity(v * (n.z_le or 0), 'Ω')} at its board, not {quantity(n.z_le or 0, 'Ω')}",
            "read Ze and the loop at the board again", 1.0,
        )  # fmt: skip
    if n.ring:
        yield from _of_a_ring(n, outlets)
    for at, name in outlets:
        yield _Idea(
            f"swapped:{at:g}", lambda m, v, at=at: replace(m, swapped=frozenset([at])), 1.0, 1.0,  # type: ignore[misc]
            lambda v, name=name: f"fits line and neutral reversed at {name}", "open that point and put the conductors right", 2.0,  # type: ignore[misc]
        )  # fmt: skip


def _conductors(line: float, cpc: float) -> Callable[[Network, float], Network]:
    def build(m: Network, _: float) -> Network:
        return replace(m, line=line, neutral=line, cpc=cpc)

    return build


def _cpc(cpc: float) -> Callable[[Network, float], Network]:
    def build(m: Network, _: float) -> Network:
        return replace(m, cpc=cpc)

    return build


def _joints(n: Network, reads: Sequence[Read], outlets: Sequence[tuple[float, str]]) -> Iterator[_Idea]:
    """A poor joint in each conductor between each two points that were read apart, or at either end."""
    read_at = sorted({r.at for r in reads if r.quantity in ("cross_ln", "cross_le", "r1r2", "r2_lead", "zs", "ipf")})
    named = dict(outlets)
    places: list[tuple[float, str]] = []
    before = 0.0
    for at in read_at:
        if at > before:
            names = [name for spot, name in outlets if before < spot <= at]
            places.append(((before + at) / 2, f"before {names[0] if names else named.get(at, quantity(at, 'm'))}"))
        before = at
    if n.ring and before < n.length:
        places.append(((before + n.length) / 2, "on the way back to the board"))
    conductors: tuple[Conductor, ...] = ("line", "neutral", "cpc")
    for conductor in conductors:
        for at, where in places or [(n.length / 2, "along the run")]:
            yield _Idea(
                f"joint:{conductor}", _with_joint(conductor, at), 0.03, 60.0,
                lambda v, c=conductor: f"fits a high-resistance joint of {quantity(v, 'Ω')} in {NAMES[c]} {AT}",  # type: ignore[misc]
                f"remake the terminations of {NAMES[conductor]} {AT}; a joint like that heats under load",
                1.0 + log(max(1, len(places))), True, where,
            )  # fmt: skip
            if not n.ring:
                yield _Idea(
                    f"broken:{conductor}", lambda m, v, c=conductor, at=at: replace(m, broken=((c, at),)), 1.0, 1.0,  # type: ignore[misc]
                    lambda v, c=conductor: f"fits {NAMES[c]} broken {AT}",  # type: ignore[misc]
                    f"find the break in {NAMES[conductor]} {AT}", 1.0 + log(max(1, len(places))), True, where,
                )  # fmt: skip


def _with_joint(conductor: Conductor, at: float) -> Callable[[Network, float], Network]:
    def build(m: Network, ohm: float) -> Network:
        return replace(m, joints=(*m.joints, Joint(conductor, at, ohm)))

    return build


def _beside_the_cpc(n: Network, reads: Sequence[Read], outlets: Sequence[tuple[float, str]]) -> Iterator[_Idea]:
    """A way beside the cpc from any point of the run: in every test, or in live ones alone, where what makes it is parted for dead ones."""
    live = any(r.quantity == "zs" for r in reads) and n.z_le is not None
    part = "with the circuit dead, disconnect bonding, pipes and armour from the cpc and test again: the cpc must do alone"
    for at, name in outlets:
        if not n.ring:
            yield _Idea(
                "parallel", lambda m, v, at=at: replace(m, parallel=v, parallel_at=at), 0.005, 20.0,  # type: ignore[misc]
                lambda v: f"fits a parallel path of {quantity(v, 'Ω')} across the cpc", part, 1.0 + 0.5 * log(len(outlets)), True, f"from {name}",
            )  # fmt: skip
        if live:
            yield _Idea(
                "parallel:live", lambda m, v, at=at: replace(m, parallel=v, parallel_at=at, in_use=True), 0.002, 20.0,  # type: ignore[misc]
                lambda v: f"fits a parallel path of {quantity(v, 'Ω')} across the cpc that is there in live tests alone",
                "the dead tests say what the cpc does alone; what is bonded to the load lowers Zs, and may be taken away one day",
                1.5 + 0.5 * log(len(outlets)), True, f"from {name}",
            )  # fmt: skip


def _longer(n: Network, reads: Sequence[Read], outlets: Sequence[tuple[float, str]]) -> Iterator[_Idea]:
    """One leg that is longer than entered, between two points that were read apart."""
    read_at = sorted({r.at for r in reads if r.quantity in ("cross_ln", "cross_le", "r1r2", "r2_lead")})
    named = dict(outlets)
    for at in [*read_at, *([n.length] if n.ring else [])]:
        where = f"before {named[at]}" if at in named else "on the way back to the board" if n.ring else f"before {quantity(at, 'm')}"
        yield _Idea(
            "leg", lambda m, v, at=at: replace(m, longer=(at, v)), 1.0, 3 * n.length,  # type: ignore[misc]
            lambda v: f"fits one leg {quantity(v, 'm')} longer than entered, {AT}", f"look for the way round that the cable takes {AT}, and enter it",
            2.0 + log(max(1, len(read_at))), True, where,
        )  # fmt: skip


def _of_a_ring(n: Network, outlets: Sequence[tuple[float, str]]) -> Iterator[_Idea]:
    conductors: tuple[Conductor, ...] = ("line", "neutral", "cpc")
    edges = [0.0, *(at for at, _ in outlets), n.length]
    for conductor in conductors:
        for a, b in pairwise(edges):
            yield _Idea(
                f"broken:{conductor}", lambda m, v, c=conductor, at=(a + b) / 2: replace(m, broken=((c, at),)), 1.0, 1.0,  # type: ignore[misc]
                lambda v, c=conductor: f"fits {NAMES[c]} broken somewhere round the ring",  # type: ignore[misc]
                f"not a ring: split it in half and find where {NAMES[conductor]} is broken", 1.0 + log(len(edges)),
            )  # fmt: skip
    yield _Idea(
        "interchanged", lambda m, v: replace(m, interchanged=True), 1.0, 1.0,
        lambda v: "fits line, neutral and cpc all open round the ring: its second end is another ring's, or the whole cable is cut",
        "at the board find which two ends belong together, by a continuity test from one outlet to each end", 1.0,
    )  # fmt: skip
    for at, name in outlets:
        yield _Idea(
            f"spur:{at:g}", lambda m, v, at=at: replace(m, spur=(at, v)), 1.0, 60.0,  # type: ignore[misc]
            lambda v, name=name: f"fits {name} on a spur of {quantity(v, 'm')}, not on the ring",  # type: ignore[misc]
            f"open {name} and count its cables; draw it as a spur, and check what it may feed", 1.0 + log(len(outlets)),
        )  # fmt: skip
    for i, (a, first) in enumerate(outlets):
        for b, second in outlets[i + 1 :]:
            yield _Idea(
                "bridged", lambda m, v, a=a, b=b: replace(m, bridge=(a, b)), 1.0, 1.0,  # type: ignore[misc]
                lambda v: f"fits a ring bridged {AT}", "find the cable linking two points of it and remove it",
                2.0 + log(len(outlets)), True, f"between {first} and {second}",
            )  # fmt: skip


def words(causes: Sequence[Cause]) -> str:
    """Word the likeliest cause with how well it fits, and the next where that fits about as well."""
    if not causes:
        return "too few readings to tell"
    first = causes[0]
    told = f"{first.told}: {figure(100 * first.share, '%').split('.')[0]} % likely of what was tried"
    others = [c for c in causes[1:] if c.id != first.id and c.share > first.share * exp(-CLOSE_BY / 2)]
    return told + (f"; about as well: {others[0].told.removeprefix('fits ')}" if others else "")
