"""What the core says today of many jobs, kept as digests in pinned.json: it verifies nothing, and notices whatever changes a figure unawares.

After a change that is meant: python -m tests.pinned, which prints what differs by question and case, and keeps it. Words are left out of the
digests: what is said of a figure may change, the figure may not.
"""

from __future__ import annotations

import dataclasses
import hashlib
import json
import random
from collections.abc import Callable, Iterator
from functools import cache, partial
from itertools import pairwise
from pathlib import Path
from typing import Any

from mellow_span import demo
from mellow_span.core.design.balance import balance
from mellow_span.core.design.breaks import smallest_breaks
from mellow_span.core.design.cells import cells_of
from mellow_span.core.design.check import check, work_out
from mellow_span.core.design.coordination import coordination
from mellow_span.core.design.joint import cheapest
from mellow_span.core.design.options import options
from mellow_span.core.design.outbuilding import earthing_choices
from mellow_span.core.design.place_options import INTAKE, place_options
from mellow_span.core.design.prices import circuit_cost, job_cost, shipped
from mellow_span.core.design.reach import reaches
from mellow_span.core.design.robustness import robustness
from mellow_span.core.design.routes import route_views, tryouts
from mellow_span.core.design.size import size
from mellow_span.core.design.surveyed import assumptions
from mellow_span.core.drawing.curves import plot_of
from mellow_span.core.drawing.profile import profile_of
from mellow_span.core.drawing.section import section_of
from mellow_span.core.errors import CoreError
from mellow_span.core.findings.advice import advise
from mellow_span.core.model import fields as of
from mellow_span.core.model.changes import Change, apply, invert
from mellow_span.core.model.difference import difference, parts
from mellow_span.core.model.parts import Installation
from mellow_span.core.model.stages import last_of, views
from mellow_span.core.practice.exercise import worked
from mellow_span.core.practice.making import HEADS, make
from mellow_span.core.practice.marking import mark
from mellow_span.core.rulesets import rule_set
from mellow_span.core.rulesets.readings import rules_of
from mellow_span.core.site.ends import ends
from mellow_span.core.site.existing import existing
from mellow_span.core.site.isolation import isolation, targets
from mellow_span.core.site.materials import materials
from mellow_span.core.site.pulls import by_cable, pulls
from mellow_span.core.site.results import tests_of as readings_of
from mellow_span.exchange.document import read
from tests.build import circuit, job, submain
from tests.core.random_jobs import random_job
from tests.simulated import FAULTS, simulated

KEPT = Path(__file__).parent / "pinned.json"
DEMO = ("larch_croft", "mill_lane", "orchard_row", "tern_quay", "weir_lodge")
# Numbers at which tables have their rows, limits lie, and usual things are made.
USUAL = (
    0, 0.1, 0.3, 0.4, 0.5, 1, 1.5, 2, 2.5, 3, 4, 5, 6, 8, 10, 13, 15, 16, 18, 20, 25, 30, 32, 33, 35, 40, 45, 50, 60, 63, 70, 80, 95, 100, 125, 150, 200, 300,
    400, 500, 1000, 1667, 2000, 3000, 6000, 10000, 16000,
)  # fmt: skip


# Fields that a plain job has nothing in: those of runs that branch, and of sources beside the network.
SOURCES = (
    "joins", "battery", "loss_of_mains", "parted", "fault_amps", "maker_rcd", "alone", "alone_amps", "alone_off", "alone_earth", "alone_ra",
)  # fmt: skip
ELSEWHERE = ("given_iz", "given_for", "given_by")
OWN_CABLE = (
    "own_family", "own_csa", "own_cpc_csa", "own_cpc", "own_cores", "own_overload", "own_short", "joint", "joint_reached",
)  # fmt: skip
EXTRA_LOW = ("elv_volts", "elv_length", "elv_csa", "elv_drop")
STAGED = ("from_stage", "until_stage")
SURGE = ("surge_length", "surge_backup", "surge_backup_most")
SECTIONS = tuple(f"rcd{n}_{name}" for n in (2, 3) for name in ("idn", "delayed", "type", "in", "both_ways"))
LATER = {
    "CircuitResult": ("ends",), "Pull": ("pieces",), "FromDrum": ("cuts",), "PieceOf": ("cable", "own"), "Stretch": ("cable",), "Profile": ("end",), "Span": ("after", "box", *ELSEWHERE, *OWN_CABLE), "Load": ("span", *SOURCES, *EXTRA_LOW, *STAGED),
    "Attention": ("stage",), "Installation": ("stages",),
    "Supply": SURGE,
    "Board": ("rcd_both_ways", *SECTIONS, *STAGED), "Device": ("both_ways",), "Circuit": ("section", "group_amps", "group_amps_by", *STAGED),
}  # fmt: skip
# Asked after the others, so that each keeps the part it is tried on.
ASKED_LAST = {
    *EXTRA_LOW,
    "rcd_both_ways",
    "device.both_ways",
    "section",
    "group_amps",
    "group_amps_by",
    *SOURCES,
    *SECTIONS,
    *ELSEWHERE,
    *SURGE,
    *OWN_CABLE,
}


def plain(value: Any) -> Any:
    """A value as plain data: figures to nine digits, no words."""
    if isinstance(value, float):
        return float(f"{value:.9g}")
    if isinstance(value, str):
        return value if " " not in value else ""
    if dataclasses.is_dataclass(value) and not isinstance(value, type):
        # What only a few jobs have is left out of the others.
        own = LATER.get(type(value).__name__, ())
        there = [f.name for f in dataclasses.fields(value) if not (f.name in own and getattr(value, f.name) in ((), f.default))]
        return [plain(getattr(value, name)) for name in there]
    if isinstance(value, dict):
        return [[plain(k), plain(v)] for k, v in value.items()]
    if isinstance(value, list | tuple):
        return [plain(v) for v in value]
    return sorted(map(str, value)) if isinstance(value, set | frozenset) else value


def digest(value: Any) -> str:
    return hashlib.sha256(json.dumps(plain(value), default=str).encode()).hexdigest()[:10]


def answered(ask: Callable[[], Any]) -> Any:
    """The answer, or the field of the refusal."""
    try:
        return ask()
    except CoreError as refusal:
        return ["refused", refusal.field]


@cache
def demo_job(name: str) -> Installation:
    """A demo job, at its last stage."""
    return last_of(whole_demo_job(name))


@cache
def whole_demo_job(name: str) -> Installation:
    return read(json.loads((Path(demo.__file__).parent / f"{name}.json").read_text("utf-8")))


# Every field varied --------------------------------------------------------------------------------------------------------------------


@cache
def bases() -> tuple[Installation, ...]:
    """Two jobs with something of everything, in one phase and in three."""
    singles = "single_pvc70"
    one = job(
        submain("m", device={"rating": 63}),
        circuit("a", spans=[{"route": "k"}, {"length": 4, "wrapped": 0.2}], loads=[{"amount": 5000, "lead_csa": 2.5, "lead_length": 1.5, "at": 6.0}, {"amount": 800, "at": 12.0}]),
        circuit("r", shape="ring", loads=[{"kind": "sockets", "basis": "In", "amount": None}], device={"kind": "rcbo", "idn": 0.03}, cable={"csa": 2.5}, spans=[{"length": 40}]),
        circuit("s", board="far", cable={"family": singles, "csa": 4, "cpc_csa": 2.5}, spans=[{"place": "conduit", "route": "k"}], loads=[{"kind": "lighting", "amount": 900}]),
        circuit("w", board="far", device={"kind": "BS3036", "rating": 15, "icn": 4000}, cable={"csa": 2.5}, loads=[{"amount": 2000}]),
        circuit("e", device={"kind": "rcbo", "idn": 0.03, "rcd_type": "A", "rating": 32}, loads=[{"amount": 7200, "kind": "ev"}], spans=[{"location": "outdoors", "place": "buried"}],
                cable={"family": "armoured_xlpe90", "csa": 6}, accessory="isolator", accessory_in=40),
        boards=["b", {"id": "far", "rcd_idn": 0.1, "outbuilding": True, "switch_in": 100, "busbar_in": 100, "extraneous": True, "bond": "armour"}],
        routes=[{"id": "k", "name": "loft", "others": 1, "kind": "conduit", "diameter": 25, "pull": 5, "bends": 2}],
        supply={"fuse_kind": "BS88-3", "fuse_in": 80, "tails_csa": 25, "earthing_csa": 16, "neutral_csa": 25, "bonding_csa": 10, "extraneous": True, "tails_length": 2},
    )  # fmt: skip
    three = job(
        submain("m", phases=3, device={"kind": "mccb", "rating": 100, "ir": 80, "isd": 500, "tsd": 0.1, "ii": 900, "icn": 25000}, cable={"csa": 25, "cores": 4, "parallel": 2}, harmonics=20.0,
                spans=[{"place": "buried", "length": 60, "group": 2, "laid": "touching"}]),
        circuit("t", board="far", phases=3, device={"kind": "BS88-2", "rating": 32, "icn": 50000}, cable={"family": "multicore_xlpe90", "csa": 10}, terminals=90, terminals_by="sheet",
                loads=[{"amount": 15000, "kind": "motor", "pf": 0.8}], spans=[{"length": 90, "place": "tray", "group": 3}], drop_method="refined"),
        circuit("l", board="far", phase="L1", loads=[{"amount": 60, "kind": "lighting", "at": 10.0 * k, "quantity": 4} for k in range(1, 6)], spans=[{"length": 60}], cable={"csa": 1.5}, device={"rating": 10}),
        circuit("c", board="far", phase="L2", cable={"family": "single_pvc70", "csa": 4, "cpc": "conduit", "conduit": 25}, spans=[{"place": "conduit", "route": "k"}]),
        circuit("p", board="far", phase="L3", common_cpc="riser", cable={"cpc": "separate", "cpc_csa": 4, "cpc_guarded": True}),
        circuit("q", board="far", phase="L3", common_cpc="riser", cable={"cpc": "separate", "cpc_csa": 4}, device={"kind": "BS88-3", "rating": 20, "icn": 16000}),
        boards=["b", {"id": "far", "earthing": "TT", "ra": 40.0, "rcd_idn": 0.3, "rcd_delayed": True, "rcd_in": 80, "electrode_distance": 12.0, "outbuilding": True}],
        routes=[{"id": "k", "kind": "trunking", "width": 50, "height": 50, "length": 12}],
        supply={"phases": 3, "earthing": "TN-S", "fuse_kind": "BS88-2", "fuse_in": 100, "tails_csa": 35, "ze": 0.5, "ipf": 5000, "neutral_csa": 35, "surge": "fitted"}, premises="other",
    )  # fmt: skip
    return one, three


def tried(kind: str, name: str, value: Any) -> list[Any]:
    """Values for a field: those at which something may turn."""
    about, known = of.about(kind, name), rule_set("bs7671").choices
    if about.get("choices"):
        return list(known[about["choices"]]) if about["choices"] != "book" else []
    if isinstance(value, bool):
        return [not value]
    lo, hi = about.get("lo"), about.get("hi")
    if lo is not None:
        whole = isinstance(value, int)
        fitting = [u for u in (lo, *USUAL, hi) if lo <= u <= hi and (not whole or u == int(u))]
        step = max(1, len(fitting) // 7)
        near = [] if value in (None, 0) or whole else [value * 0.97, value * 1.03]
        return [v for v in (*fitting[::step], *near) if lo <= v <= hi]
    found = []
    for one in ("x", "L2", "TT", "supply", "TN-S", "C", "ring", "separate", "armour_and_core", "conduit", "trunking", "device", "omitted", "refined", "assumed", "measured", "lighting",
                "sockets", "ev", "heating", "A", "W", "bathroom", "agricultural", "none", "conductor", "armour", "isolator", "socket", True, False, 1, 2, 3, 90):  # fmt: skip
        try:
            found.append(of.checked(kind, name, one, known))
        except CoreError:
            continue
    return found


def varied(base: int, kind: str) -> Iterator[tuple[str, Callable[[], Any]]]:
    """Each field of a kind of part of a base, with all that the job is then like."""
    inputs, known = bases()[base], rule_set("bs7671").choices
    there = [(i, part) for (k, i), (part, _) in parts(inputs).items() if k == kind]
    for at, name in enumerate(sorted(of.field_names(kind), key=lambda one: (one in ASKED_LAST) + 2 * (one in STAGED))):
        if (kind, name) in of.REFERENCES:
            continue
        # A part of the kind for each field in turn, the first for the most.
        identity, part = there[at % len(there)] if len(there) < 4 or at % 2 else there[0]

        def look(identity: str = identity, part: Any = part, name: str = name) -> list[Any]:
            found = []
            for value in tried(kind, name, of.get(part, name)):
                change = Change("set", kind, identity, {name: value})  # type: ignore[arg-type]
                found.append([value, answered(lambda change=change: check(apply(inputs, [change], known)[0], keep=False, reuse=True))])  # type: ignore[misc]
            return found

        yield name, look


# Everything a view asks -----------------------------------------------------------------------------------------------------------------


def beyond(inputs: Installation) -> Iterator[tuple[str, Callable[[], Any]]]:
    """What is asked of a whole job."""
    rules = rules_of(inputs)
    done = work_out(inputs)
    yield "check", lambda: done.result
    yield "coordination", lambda: coordination(inputs)
    yield "advice", lambda: advise(inputs)
    yield "cells", lambda: cells_of(inputs)
    yield "cost", lambda: (job_cost(shipped(), rules, inputs), [circuit_cost(shipped(), rules, c) for c in inputs.circuits])
    yield "routes", lambda: (route_views(done), [section_of(rules, done.plan.job, r) for r in done.plan.job.routes])
    yield "tryouts", lambda: [tryouts(inputs, r.id) for r in inputs.routes]
    yield "pulls", lambda: (pulls(inputs), by_cable(pulls(inputs)))
    yield "materials", lambda: materials(inputs, {})
    yield "ends", lambda: ends(inputs)
    yield "isolation", lambda: [isolation(inputs, t.kind, t.id) for t in targets(inputs)]
    yield "readings", lambda: readings_of(inputs, ())
    yield "existing", lambda: existing(inputs, ())
    yield "balance", lambda: [answered(partial(balance, inputs, b.id)) for b in inputs.boards]
    yield "earthing", lambda: [answered(partial(earthing_choices, rules, inputs, b.id, ra=80)) for b in inputs.boards]
    yield "places", lambda: [answered(partial(place_options, inputs, where)) for where in (INTAKE, *(b.id for b in inputs.boards))]


def searched(inputs: Installation) -> Iterator[tuple[str, Callable[[], Any]]]:
    """The searches over a job."""
    yield "robustness", lambda: robustness(inputs)
    yield "assumptions", lambda: assumptions(inputs)
    yield "cheapest", lambda: answered(lambda: cheapest(inputs))
    for c in inputs.circuits[:9]:
        for ask in (size, options, reaches, smallest_breaks):
            yield f"{ask.__name__} {c.name}", lambda ask=ask, c=c: answered(lambda: ask(inputs, c.id))  # type: ignore[misc]


def drawn(inputs: Installation) -> Iterator[tuple[str, Callable[[], Any]]]:
    done = work_out(inputs, keep=False)
    for c in inputs.circuits[:12]:
        yield f"profile {c.name}", lambda c=c: profile_of(done, c.id)  # type: ignore[misc]
        yield f"curves {c.name}", lambda c=c: answered(lambda: plot_of(done, c.id))  # type: ignore[misc]


def at_random(seed: int) -> Iterator[tuple[str, Callable[[], Any]]]:
    """Jobs of sense and nonsense, and what becomes of edits on the way from one to another."""
    rnd = random.Random(seed)
    made = [random_job(rnd) for _ in range(25)]
    for i, inputs in enumerate(made):
        yield f"job {i}", lambda inputs=inputs: (answered(lambda: check(inputs)), answered(lambda: coordination(inputs)))  # type: ignore[misc]
    for i, (one, two) in enumerate(pairwise(made)):

        def between(one: Installation = one, two: Installation = two) -> Any:
            applied = difference(one, two)
            return applied, invert(applied)

        yield f"edits {i}", partial(answered, between)


def practised(head: str) -> Iterator[tuple[str, Callable[[], Any]]]:
    for seed in range(8):

        def exercise(seed: int = seed) -> Any:
            made = make(head, seed)
            slips = [
                [line.id, s.kind, answered(partial(worked, s.work, made.values | made.solved))] for line in made.lines for s in line.slips
            ]
            wrong = {k: v * 1.3 for k, v in made.solved.items() if isinstance(v, float)}
            return made.given, made.solved, slips, mark(made, made.solved), mark(made, {**made.solved, **wrong})

        yield f"seed {seed}", partial(answered, exercise)


def diagnosed(fault: str) -> Iterator[tuple[str, Callable[[], Any]]]:
    for seed in range(2):
        yield f"seed {seed}", lambda seed=seed: simulated(seed, fault).causes  # type: ignore[misc]


def questions() -> dict[str, Callable[[], Iterator[tuple[str, Callable[[], Any]]]]]:
    """Every question by name, each small enough to be asked in seconds."""
    found: dict[str, Callable[[], Iterator[tuple[str, Callable[[], Any]]]]] = {}
    for base in range(len(bases())):
        for kind in ("job", "supply", "board", "circuit", "load", "span", "route"):
            found[f"varied {base} {kind}"] = partial(varied, base, kind)
    for name in DEMO:
        found[f"beyond {name}"] = lambda name=name: beyond(demo_job(name))  # type: ignore[misc]
        found[f"drawn {name}"] = lambda name=name: drawn(demo_job(name))  # type: ignore[misc]
    for at in range(2):
        found[f"beyond larch_croft, stage {at}"] = lambda at=at: beyond(views(whole_demo_job("larch_croft"))[at])  # type: ignore[misc]
    for base in range(len(bases())):
        found[f"beyond base {base}"] = lambda base=base: beyond(bases()[base])  # type: ignore[misc]
        found[f"searched base {base}"] = lambda base=base: searched(bases()[base])  # type: ignore[misc]
        found[f"drawn base {base}"] = lambda base=base: drawn(bases()[base])  # type: ignore[misc]
    found["searched orchard_row"] = lambda: searched(demo_job("orchard_row"))
    for seed in range(6):
        found[f"at random {seed}"] = partial(at_random, seed)
    for head in HEADS:
        found[f"practice {head.id}"] = partial(practised, head.id)
    for fault in FAULTS:
        found[f"diagnosis {fault}"] = partial(diagnosed, fault)
    return found


def asked(name: str) -> dict[str, str]:
    return {case: digest(ask()) for case, ask in questions()[name]()}


def kept() -> dict[str, dict[str, str]]:
    return json.loads(KEPT.read_text("utf-8"))  # type: ignore[no-any-return]


def main() -> None:
    """Keep what is said today; print what differs from before."""
    before = kept() if KEPT.exists() else {}
    now = {name: asked(name) for name in questions()}
    for name, cases in now.items():
        other = [case for case, found in cases.items() if before.get(name, {}).get(case) != found]
        if other:
            print(f"{name}: {len(other)} of {len(cases)} differ: {', '.join(other[:12])}")
    KEPT.write_text(json.dumps(now, indent=0, ensure_ascii=False) + "\n", "utf-8")


if __name__ == "__main__":
    main()
