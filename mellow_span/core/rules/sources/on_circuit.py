"""The circuit of a source, and a sub-main that has one behind it: how they meet the network, what device and cable carry (551.6, 551.7)."""

from __future__ import annotations

from mellow_span.core.adding import added
from mellow_span.core.figures import apart, quantity
from mellow_span.core.findings.results import Outcome, judge
from mellow_span.core.model.parts import Load
from mellow_span.core.rules.capacity.spans import ruling_span
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.demand.loads import load_current
from mellow_span.core.rules.sources.known import gives
from mellow_span.core.rules.sources.said import Said, together
from mellow_span.core.rulesets.vocabulary import C
from mellow_span.core.working.recorders import Working

# Types of RCD, each of which sees what those before it see.
SEEING = ("AC", "A", "F", "B")


def has_source(case: Case) -> bool:
    """Say whether a source stands on the circuit, or behind the sub-main."""
    return bool(gives(case.whole)) or case.around.given_back > 0


def check_source(w: Working, case: Case) -> Outcome:
    """Check how the sources of a circuit are joined to the network, and that its devices let through what they give (551.6, 551.7, 712.531.3.5)."""
    loads = gives(case.whole)
    said = [one for load in loads for one in _joined(load)]
    if beside_network(case):
        said += [*_one_way(case), _device(w, case)]
    said += [one for load in loads for one in _kind_of_rcd(case, load)]
    return together(said, _sent(w, case), None, "A")


def beside_network(case: Case) -> bool:
    """Say whether current of a source comes back through the circuit while the network is there."""
    return case.around.given_back > 0 or any(load.joins != "changeover" for load in gives(case.whole))


def check_source_cable(w: Working, case: Case) -> Outcome:
    """Check the cable of a source: alone on it, what the source gives; where something else is fed along it, the device and the source together
    (551.7.2). Of a sub-main: what the sources behind it send back.
    """
    _, iz = ruling_span(w, case)
    sent = _sent(w, case)
    shared = bool(gives(case.whole)) and len(gives(case.whole)) < len(case.whole.loads)
    needed = w.calc("Iz,min", case.rating + sent, "A", "In + Ig", {"In": case.rating, "Ig": sent}, C.SOURCE_CAPACITY) if shared else sent
    own, asked = apart(iz, needed, "A")
    word = "is under" if judge(iz / needed - 1) == "short" else "carries"
    why = f"In and the source together, {asked}" if shared else f"the {asked} of the source"
    return Outcome(iz, needed, "A", iz / needed - 1, f"Iz {own} {word} {why}")


def _joined(load: Load) -> list[Said]:
    name, here = load.name or load.kind, f"load.{load.id}"
    if load.joins is None:
        text = f"not entered how {name} is connected: in parallel with the mains by a way of the board, or instead of it by a change-over switch"
        return [("not_known", text, C.SOURCES, f"{here}.joins")]
    said: list[Said] = []
    if load.kind == "inverter" and load.battery is None:
        said.append(("not_known", f"not entered whether {name} has a battery", C.SOURCES, f"{here}.battery"))
    if load.joins == "way":
        said.append(_cuts_out(load, name))
    if load.joins == "changeover" or load.alone is not None:
        said.append(_parted(load, name))
    return said


def _cuts_out(load: Load, name: str) -> Said:
    field = f"load.{load.id}.loss_of_mains"
    if load.loss_of_mains is None:
        return "not_known", f"not entered whether {name} disconnects itself when the mains fails", C.LOSS_OF_MAINS, field
    if not load.loss_of_mains:
        return (
            "short",
            f"{name} does not disconnect itself when the mains fails: it would feed a line that others work on",
            C.LOSS_OF_MAINS,
            field,
        )
    return "meets", f"{name} disconnects itself when the mains fails, as its maker declares", C.LOSS_OF_MAINS, None


def _parted(load: Load, name: str) -> Said:
    field = f"load.{load.id}.parted"
    if load.parted is None:
        text = (
            f"not entered whether the switch that disconnects {name} from the mains opens every live conductor and cannot connect the two"
        )
        return "not_known", text, C.SOURCE_SWITCHED, field
    if not load.parted:
        return (
            "short",
            f"the switch of {name} can leave it connected to the mains: a change-over opens every live conductor",
            C.SOURCE_SWITCHED,
            field,
        )
    return "meets", f"a change-over disconnects {name} from the mains", C.SOURCE_SWITCHED, None


def _one_way(case: Case) -> list[Said]:
    """What detects by electronics can fail to open, or burn, where current comes in at its load side: every such device up to the origin."""
    found: list[tuple[str, bool | None, str | None]] = [(r.where, r.both_ways, r.field) for r in case.residuals]
    if case.device.afdd and case.device.idn is None:
        found.append(("the AFDD", case.device.both_ways, "device.both_ways"))
    said: list[Said] = []
    for where, both, field in found:
        if both is None:
            said.append(
                ("not_known", f"not entered whether the maker of {where} lets current through it in both directions", C.BOTH_WAYS, field)
            )
        elif not both:
            said.append(("short", f"{where} is for current in one direction: fed from downstream it may not trip", C.BOTH_WAYS, field))
    return said


def _kind_of_rcd(case: Case, load: Load) -> list[Said]:
    """An inverter can send direct current into a fault: type B, unless its maker says that a lesser one will do."""
    if load.kind != "inverter" or not case.residuals:
        return []
    name, field = load.name or load.kind, f"load.{load.id}.maker_rcd"
    if all(r.kind == "B" for r in case.residuals):
        return [("meets", "type B", C.SOURCE_RCD, None)]
    if load.maker_rcd is None:
        return [
            ("not_known", f"type of RCD that the maker of {name} requires not entered: type B unless it says less", C.SOURCE_RCD, field)
        ]
    said: list[Said] = []
    for r in case.residuals:
        if r.kind is None:
            said.append(("not_known", f"type of {r.where} not entered: {name} needs type {load.maker_rcd}", C.SOURCE_RCD, r.type_field))
        elif SEEING.index(r.kind) < SEEING.index(load.maker_rcd):
            said.append(("short", f"{r.where} is of type {r.kind}, and {name} needs type {load.maker_rcd}", C.SOURCE_RCD, r.type_field))
    return said


def _sent(w: Working, case: Case) -> float:
    loads = [load for load in gives(case.whole) if load.joins != "changeover"] or gives(case.whole)
    if not loads:
        return w.given("Ig", case.around.given_back, "A", "what the sources downstream send back, on one line")
    return added(load_current(w, case.supply, case.whole, load) for load in loads)


def _device(w: Working, case: Case) -> Said:
    sent = _sent(w.quiet(), case)
    told = quantity(sent, "A")
    if case.rating < sent * (1 - 1e-9):
        return (
            "short",
            f"In {quantity(case.rating, 'A')} is under the {told} that flow back through it",
            C.SOURCES_PARALLEL,
            "device.rating",
        )
    return "meets", f"In {quantity(case.rating, 'A')} lets the {told} of the source through", C.SOURCES_PARALLEL, None
