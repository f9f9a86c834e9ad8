"""The attention list: what is short, what is not known, what is close and what was only assumed, in order of consequence."""

from __future__ import annotations

from mellow_span.core.findings import steps
from mellow_span.core.findings.results import Attention, BoardResult, Check, CircuitResult, RouteResult, Verdict
from mellow_span.core.model.circuit import without_label
from mellow_span.core.model.parts import Installation

# A fault that is not cleared kills, an overloaded or overheated cable burns, a long run only dims: in that order.
CONSEQUENCE = (
    "disconnection", "alone", "source", "alone_line", "source_cable",
    "conductors", "site_earth", "additional", "rcd_type", "charging", "supplementary", "loop", "breaking",
    "cpc_thermal", "cpc_least", "integrity", "line_thermal", "joint", "capacity", "overload_current", "ring", "outlets", "design_current",
    "lead_thermal", "lead", "accessory", "bath_sockets", "lampholders", "joists", "arc_fault",
    "supports", "leakage", "inrush", "least_csa", "volt_drop", "extra_low", "cpc_table",
)  # fmt: skip
# Checks of a board that say a fault is not cleared.
UNCLEARED = ("electrode", "ahead", "island")
# Checks of a circuit that are told while nobody entered what they ask for, and then hold nothing back.
TO_CONFIRM = ("accessory", "joists")
LEVELS: tuple[Verdict, ...] = ("short", "not_known", "close")


def attention(
    job: Installation,
    results: tuple[CircuitResult, ...],
    intake: tuple[Check, ...],
    boards: tuple[BoardResult, ...],
    routes: tuple[RouteResult, ...],
) -> tuple[Attention, ...]:
    """List what needs a person: one line per circuit, board and route and level, worst first, then what was only assumed.

    What the intake, a board or a route merely lacks is told last: it stops no circuit.
    """
    names = {c.id: c.name or "Unnamed circuit" for c in job.circuits}
    found = [(rank, line) for result in results for rank, line in _lines(names[result.id], result)]
    found += [_part("Intake", check) for check in intake if check.verdict in ("short", "close")]
    board_names = {b.id: b.name or "Unnamed board" for b in job.boards}
    found += [_part(board_names[b.id], k, board=b.id) for b in boards for k in b.checks if k.verdict in ("short", "close")]
    route_names = {b.id: b.name or "Unnamed route" for b in job.routes}
    found += [_part(route_names[b.id], k, route=b.id) for b in routes for k in b.checks if k.verdict in ("short", "close")]
    found.sort(key=lambda pair: pair[0])
    missing = [_part("Intake", check)[1] for check in intake if check.verdict == "not_known"]
    missing += [_part(board_names[b.id], k, board=b.id)[1] for b in boards for k in b.checks if k.verdict == "not_known" and k.decides]
    missing += [_part(route_names[b.id], k, route=b.id)[1] for b in routes for k in b.checks if k.verdict == "not_known"]
    told = tuple(line for _, line in found) + tuple(_assumed(job))
    seen = {line.field for line in told if line.field and line.field.startswith("supply.")}
    return told + tuple(line for line in missing if line.field not in seen) + tuple(_to_confirm(job, results, boards))


def _part(name: str, check: Check, board: str | None = None, route: str | None = None) -> tuple[tuple[int, int], Attention]:
    level = LEVELS.index(check.verdict)
    step = "routes" if route else steps.of_board(check.id) if board else steps.of_intake(check.id)
    text = f"{check.title}: {check.text}"
    line = Attention(LEVELS[level], name, text, None, check.id, check.field, board, route, step)  # type: ignore[arg-type]
    # An electrode that lets no fault be cleared is as grave as a circuit whose fault is not cleared; the rest of a place comes after circuits.
    return (level, 0 if check.id in UNCLEARED else len(CONSEQUENCE)), line


def _lines(name: str, result: CircuitResult) -> list[tuple[tuple[int, int], Attention]]:
    if result.problems:
        bad = result.problems[0]
        line = Attention("not_known", name, result.reason, result.id, None, bad.field)
        return [((LEVELS.index("not_known"), 0), line)]
    if result.verdict == "meets":
        return []
    hit = [c for c in result.checks if c.decides and c.verdict == result.verdict]
    # What is missing is asked for in the order of the work; what fails is told by what it can do.
    first = hit[0] if result.verdict == "not_known" else min(hit, key=_consequence)
    more = "" if len(hit) == 1 else f" (and {len(hit) - 1} more)"
    level = LEVELS.index(result.verdict)
    line = Attention(LEVELS[level], name, f"{first.title}: {first.text}{more}", result.id, first.id, first.field)  # type: ignore[arg-type]
    return [((level, _consequence(first)), line)]


def _to_confirm(job: Installation, results: tuple[CircuitResult, ...], boards: tuple[BoardResult, ...]) -> list[Attention]:
    """What nobody entered and holds nothing back: an accessory's rating and terminals, a board's main switch, nails in joists, the volts of a label.

    It is told beside the verdict, and asked for here.
    """
    found = []
    circuits = {c.id: c for c in job.circuits}
    for result in results:
        circuit = circuits[result.id]
        name = circuit.name or "Unnamed circuit"
        for check in result.checks:
            if check.id in TO_CONFIRM and not check.decides and check.verdict in ("not_known", "short"):
                found.append(Attention("confirm", name, f"{check.title}: {check.text}", circuit.id, check.id, check.field))
        unsaid = [] if result.problems or circuit.spare else without_label(circuit)
        if unsaid:
            whose = ", ".join(load.name or load.kind.replace("_", " ") for load in unsaid)
            text = f"volts on the label of {whose}: taken as {job.supply.u0:g} V"
            found.append(Attention("confirm", name, text, circuit.id, "design_current", f"load.{unsaid[0].id}.rated_volts"))
    names = {b.id: b.name or "Unnamed board" for b in job.boards}
    for board in boards:
        for check in board.checks:
            if not check.decides and check.verdict == "not_known":
                text = f"{check.title}: {check.text}"
                step = steps.of_board(check.id)
                found.append(Attention("confirm", names[board.id], text, None, check.id, check.field, board.id, step=step))
    return found


def _consequence(check: Check) -> int:
    return CONSEQUENCE.index(check.id)


def _assumed(job: Installation) -> list[Attention]:
    supply = job.supply
    told = (
        ("Ze", supply.ze, "Ω", supply.ze_source, "ze"),
        ("Ipf", supply.ipf, "A", supply.ipf_source, "ipf"),
        ("service fuse", supply.fuse_in, "A", supply.fuse_source, "fuse_in"),
    )
    found = []
    for name, value, unit, source, field in told:
        if value is None:
            found.append(Attention("not_known", "Intake", f"{name} is not entered yet", None, None, f"supply.{field}", step="survey"))
        elif source == "assumed":
            text = f"{name} {value:g} {unit} is assumed, not measured"
            found.append(Attention("assumed", "Intake", text, None, None, f"supply.{field}", step="survey"))
    for board in job.boards:
        if board.earthing == "TT" and board.ra is not None and board.ra_source == "assumed":
            text = f"RA {board.ra:g} Ω is assumed, not measured"
            found.append(Attention("assumed", board.name or "Unnamed board", text, field="board.ra", board=board.id, step="earthing"))
    if supply.earthing is None:
        found.append(
            Attention("not_known", "Intake", "the earthing arrangement is not entered yet", None, None, "supply.earthing", step="survey")
        )
    return found
