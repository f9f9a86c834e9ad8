"""Places whose metal must not hang on a combined earth and neutral: pitches for caravans, berths for boats, building sites (704, 708, 709)."""

from __future__ import annotations

from mellow_span.core.adding import added
from mellow_span.core.errors import MissingInput
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import Outcome, Verdict, worst
from mellow_span.core.rules.case import Case
from mellow_span.core.rulesets.vocabulary import C
from mellow_span.core.units import MA_PER_A
from mellow_span.core.working.recorders import Working

Said = tuple[Verdict, str]
# What a place is called, and its clause.
WORDS = {
    "caravan_pitch": ("a caravan pitch", C.CARAVANS),
    "marina": ("a berth for boats", C.MARINAS),
    "construction_site": ("a construction site", C.CONSTRUCTION),
}
HOOKED_UP = ("caravan_pitch", "marina")


def sites(case: Case) -> list[str]:
    """List the places of this kind that the run passes or ends in."""
    return list(dict.fromkeys(s.location for s in case.circuit.run.spans if s.location in WORDS))


def asks_site_earth(case: Case) -> bool:
    """Say whether the run passes or ends in such a place."""
    return bool(sites(case))


def check_site_earth(w: Working, case: Case) -> Outcome:
    """Check that no caravan, boat or building site is earthed by a combined earth and neutral, and that each hook-up has an RCD of its own.

    Where the conductor that is both breaks, all metal earthed by it is live, and stays so. Raises MissingInput.
    """
    if case.feed.earthing is None:
        raise MissingInput("supply.earthing", "the earthing arrangement: TN-C-S, TN-S or TT")
    there = sites(case)
    said = [_earth(case, place) for place in there] + [_own_rcds(w, case, place) for place in there if place in HOOKED_UP]
    verdict = worst([v for v, _ in said])
    wrong = [words for v, words in said if v == verdict]
    clauses = [WORDS[place][1] for place in there]
    return Outcome(0.0, 0.0, "", None, "; ".join(dict.fromkeys(wrong)), verdict=verdict, clause=clauses[0])


def _earth(case: Case, place: str) -> Said:
    name = WORDS[place][0]
    if case.feed.earthing != "TN-C-S" or case.feed.own_earth:
        return "meets", f"{name}, not on a combined earth and neutral"
    if place in HOOKED_UP:
        return "short", f"{name} on the supply's combined earth and neutral: not allowed; an electrode of its own, or a TN-S source"
    return (
        "close",
        f"{name} on the supply's combined earth and neutral: only with every metal part there reliably bonded; else an electrode",
    )


def _own_rcds(w: Working, case: Case, place: str) -> Said:
    most = w.constant("additional_idn")
    outlets = added(load.quantity for load, _ in case.outlets)
    if outlets > 1 and any(load.outlet_idn is None or load.outlet_idn > most for load, _ in case.outlets):
        return "short", f"{outlets} hook-ups: each has an RCD of {quantity(most * MA_PER_A, 'mA')} of its own"
    return "meets", "each hook-up has an RCD of its own" if outlets else WORDS[place][0]
