"""Additional protection by a residual current device: which outlets, loads and places ask for it, and why."""

from __future__ import annotations

from dataclasses import dataclass

from mellow_span.core.errors import MissingInput
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import Outcome
from mellow_span.core.findings.wording import span_name
from mellow_span.core.model.parts import Span
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.faults.loop import residuals
from mellow_span.core.rulesets.vocabulary import C
from mellow_span.core.units import MA_PER_A
from mellow_span.core.working.recorders import Working

PLACES = {
    "bathroom": ("a room with a bath or shower", "bath_idn", C.BATHROOM_RCD),
    "pool": ("a swimming pool", "swim_idn", C.POOL_RCD),
    "hot_tub": ("a hot tub", "swim_idn", C.POOL_RCD),
    "sauna": ("a sauna", "sauna_idn", C.SAUNA_RCD),
}


@dataclass(frozen=True, slots=True)
class Ask:
    """What asks for a residual current device, the largest IDn that does [A], and one that stands at the outlet itself [A]."""

    why: str
    most: float
    clause: str
    at_outlet: float | None = None

    def told(self, w: Working) -> str:
        """Word the reason with its clause."""
        return f"{self.why} ({w.rules.clause(self.clause)})"


def asking(w: Working, case: Case) -> list[Ask]:
    """List what asks for a residual current device.

    Socket-outlets by their own rated current, whatever the device of the circuit (411.3.3); luminaires in a household (411.3.4); the special
    locations the run passes or ends in (Part 7). In agricultural premises outlets up to 32 A 30 mA, larger ones 100 mA, everything else
    300 mA (705.411.1).
    """
    most = w.limit("IΔn,max", "additional_idn")
    small = w.limit("In,outlet", "additional_sockets_in", "rated current of a socket-outlet")
    farm = any(span.location == "agricultural" for span in case.circuit.run.spans)
    found = []
    for load, rated in case.outlets:
        if rated <= small and weighed(case):
            continue
        if rated <= small:
            found.append(Ask(f"socket-outlets up to {small:g} A", most, C.SOCKET_RCD, load.outlet_idn))
        elif farm:
            large = w.limit("IΔn,max", "agri_large_idn", "larger socket-outlets in agricultural premises")
            found.append(Ask(f"socket-outlets over {small:g} A in agricultural premises", large, C.AGRICULTURAL_RCD, load.outlet_idn))
    if case.lighting and case.dwelling:
        found.append(Ask("luminaires in a household", most, C.LUMINAIRE_RCD))
    # A shower stands in a room with a shower, whatever is entered of its run; what heats a floor is trodden on.
    kinds = {load.kind for load in case.circuit.loads}
    if "shower" in kinds and not any(span.location == "bathroom" for span in case.circuit.run.spans):
        found.append(Ask("a shower", w.limit("IΔn,max", "bath_idn"), C.BATHROOM_RCD))
    if "floor_heating" in kinds and w.rules.has("floor_heating_idn"):
        found.append(Ask("heating in a floor", w.limit("IΔn,max", "floor_heating_idn"), C.FLOOR_HEATING_RCD))
    for location in dict.fromkeys(span.location for span in case.circuit.run.spans):
        if location in PLACES:
            words, key, clause = PLACES[location]
            found.append(Ask(words, w.limit("IΔn,max", key), clause))
    if farm:
        found.append(Ask("agricultural premises", w.limit("IΔn,max", "agri_idn"), C.AGRICULTURAL_RCD))
    return found


def weighed(case: Case) -> bool:
    """Say whether a recorded risk assessment leaves socket-outlets without an RCD: in a dwelling none does (411.3.3)."""
    return bool(case.circuit.socket_risk.strip()) and not case.dwelling and bool(case.rules.clause(C.SOCKET_RISK))


def hidden_spans(case: Case) -> list[Span]:
    """List the spans hidden in a wall that are not known to be deep enough or protected (522.6.202), or in a partition with metal parts at any
    depth (522.6.203). A cable with an earthed metal covering of its own is protected by it (522.6.204).
    """
    if case.earthed_metal:
        return []
    # Behind metal parts depth guards nothing, and what is entered does not tell depth from protection: the safe side.
    return [s for s in case.circuit.run.spans if s.metal_partition or (case.place(s).concealed and s.guarded is not True)]


def _left_out(w: Working, case: Case) -> list[str]:
    """What is not asked here and why: it would be elsewhere."""
    said = []
    if weighed(case) and case.outlets:
        clause = w.rules.clause(C.SOCKET_RISK)
        said.append(f"socket-outlets without an RCD by a recorded risk assessment ({clause}): {case.circuit.socket_risk.strip()}")
    if case.lighting and not case.dwelling and w.rules.clause(C.LUMINAIRE_RCD):
        said.append(f"luminaires need it in households ({w.rules.clause(C.LUMINAIRE_RCD)}), not here")
    return said


def covers(w: Working, case: Case, ask: Ask) -> float | None:
    """Return the IDn [A] of the device that gives what is asked, None where none does.

    One at the outlet counts for what is beyond it. A device with a time delay gives no additional protection (415.1.1).
    """
    additional = w.constant("additional_idn")
    there = [r.idn for r in residuals(case) if r.idn <= ask.most and not (r.delayed and ask.most <= additional)]
    if ask.at_outlet is not None and ask.at_outlet <= ask.most:
        there.append(ask.at_outlet)
    return min(there, default=None)


def check_additional(w: Working, case: Case) -> Outcome:
    """Check that a circuit whose outlets, loads or places ask for additional protection has a residual current device for it (415.1.1).

    A cable hidden in a wall asks for it unless it lies deep enough or is protected; where that is not entered it is not known. In a partition
    with metal parts it is asked for at any depth. Raises MissingInput without a load.
    """
    if not case.circuit.loads and not case.circuit.feeds:
        raise MissingInput("loads", "a load in W or A")
    # A reason the book has no clause for is none in it.
    asked = [ask for ask in asking(w, case) if w.rules.clause(ask.clause)]
    hidden = hidden_spans(case) if w.rules.clause(C.CONCEALED) else []
    wall = Ask("", w.constant("additional_idn"), C.CONCEALED)
    most = min((ask.most for ask in asked), default=wall.most)
    given = [*(r.idn for r in residuals(case)), *(a.at_outlet for a in asked if a.at_outlet is not None)]
    value = w.given("IΔn", min(given), "A", "lowest IΔn of the RCDs upstream") if given else 0.0
    if not asked and not hidden:
        return Outcome(value, most, "A", None, "; ".join(["no load or location entered here needs it", *_left_out(w, case)]))
    bare = [ask for ask in asked if covers(w, case, ask) is None]
    if bare:
        told = quantity(min(ask.most for ask in bare) * MA_PER_A, "mA")
        # Of several reasons each names its clause; of one the check itself does.
        many = len({ask.clause for ask in bare}) > 1
        reasons = " and ".join(dict.fromkeys(ask.told(w) if many else ask.why for ask in bare))
        delayed = any(r.delayed and r.idn <= wall.most for r in residuals(case))
        late = "; a time-delayed RCD does not give additional protection" if delayed else ""
        text = f"RCD of {told} or less needed: {reasons}{late}"
        return Outcome(value, most, "A", None, text, verdict="short", clause=bare[0].clause)
    if not hidden or covers(w, case, wall) is not None:
        told = quantity(most * MA_PER_A, "mA")
        clause = min(asked, key=lambda ask: ask.most).clause if asked else C.CONCEALED
        return Outcome(value, most, "A", None, f"IΔn {quantity(value * MA_PER_A, 'mA')} fitted, {told} or less needed", clause=clause)
    depth = quantity(w.limit("depth", "concealed_depth") * MA_PER_A, "mm")
    names = ", ".join(span_name(case.rules, s) for s in hidden)
    told = quantity(wall.most * MA_PER_A, "mA")
    text = f"concealed in a wall ({names}): RCD of {told} needed unless {depth} deep or mechanically protected"
    metal = any(span.metal_partition for span in hidden)
    if metal:
        text = f"in a partition with metal parts ({names}): an RCD of {told} is needed at any depth, unless the cable has earthed metal round it"
    elif not any(span.guarded is False for span in hidden):
        text += ": not entered"
        unsaid = hidden[0]
        return Outcome(
            value, most, "A", None, text, verdict="not_known", clause=C.CONCEALED,
            field=f"route.{unsaid.route}.guarded" if unsaid.route else f"span.{unsaid.id}.guarded",
        )  # fmt: skip
    return Outcome(value, most, "A", None, text, verdict="short", clause=C.METAL_PARTITION if metal else C.CONCEALED)
