"""Current-carrying capacity: Iz of each span with its factors, the span that rules, and the overload checks on it."""

from __future__ import annotations

from mellow_span.core.case import Case, span_name
from mellow_span.core.errors import CoreError, InputError
from mellow_span.core.figures import quantity
from mellow_span.core.model import Span
from mellow_span.core.results import Outcome, SpanResult
from mellow_span.core.working import Working

MM_PER_M = 1000


def tabulated(w: Working, case: Case, method: str, symbol: str = "It") -> float:
    """Return the tabulated capacity [A] of the cable by a reference method (Appendix 4). Raises OutsideTable."""
    column = case.family.capacity_column(method, case.loaded)
    return w.look(symbol, case.family.capacity, case.csa, column, f"reference method {method}")


def ambient_factor(w: Working, case: Case, span: Span) -> float:
    """Return Ca for the air temperature of a span (Table 4B1): the next row up, no gain taken between rows."""
    return w.look("Ca", "4B1", span.ambient, case.family.insulation, f"{span.ambient:g} °C")


def grouping_factor(w: Working, case: Case, span: Span) -> float:
    """Return Cg for the circuits lying together in a span (Table 4C1). Raises OutsideTable past the last row."""
    if span.laid not in case.rules.laid:
        raise InputError("span.laid", span.laid, ", ".join(case.rules.laid))
    table, column = case.rules.laid[span.laid]
    return w.look("Cg", table, span.group, column, "alone" if span.group == 1 else f"{span.group} circuits, {span.laid}")


def wrapped_capacity(w: Working, case: Case, span: Span, method: str, it: float) -> float:
    """Return the capacity in place of It where a length is totally surrounded by insulation (523.9, Table 52.2) [A].

    Under 0.5 m: own method x Table 52.2. From 0.5 m: the lower of half of method C and half of the span's own method.
    The columns of flat twin and cpc for insulated places already hold it.
    """
    if span.wrapped <= 0 or method in case.family.insulated_methods:
        return it
    if span.wrapped < w.limit("from", "wrapped_long"):
        ci = w.look("Ci", "52.2", span.wrapped * MM_PER_M, "factor", f"{span.wrapped:g} m wrapped")
        return w.calc("It′", it * ci, "A", "It × Ci", {"It": it, "Ci": ci}, "523.9")
    share = w.limit("Ci", "wrapped_half", f"{span.wrapped:g} m wrapped")
    free = tabulated(w, case, "C", "It,C")
    return w.calc("It′", share * min(it, free), "A", "Ci × min(It, It,C)", {"Ci": share, "It": it, "It,C": free}, "523.9")


def span_capacity(w: Working, case: Case, span: Span) -> float:
    """Return Iz of one span [A] = It Ca Cg, with It replaced where insulation surrounds the cable.

    Raises MissingInput without surroundings, OutsideTable where the tables have no value. Appendix 4 section 5.
    """
    method = case.method(span)
    it = wrapped_capacity(w, case, span, method, tabulated(w, case, method))
    ca = ambient_factor(w, case, span)
    cg = grouping_factor(w, case, span)
    wrapped = span.wrapped > 0 and method not in case.family.insulated_methods
    symbol = "It′" if wrapped else "It"
    return w.calc("Iz", it * ca * cg, "A", f"{symbol} × Ca × Cg", {symbol: it, "Ca": ca, "Cg": cg}, "Appendix 4, 5.1")


def span_results(w: Working, case: Case) -> tuple[SpanResult, ...]:
    """Work out every span of the run; one without a capacity says why and does not stop the others."""
    found = []
    for span in case.circuit.run.spans:
        place = case.rules.places.get(span.place or "")
        method, iz, error = place.method if place else "", None, None
        try:
            iz = case.span_iz[span.id] = span_capacity(w, case, span)
        except CoreError as refusal:
            error = str(refusal)
        steps, doubtful = w.take()
        found.append(SpanResult(span.id, method, iz, error, doubtful, steps))
    return tuple(found)


def ruling_span(w: Working, case: Case) -> tuple[Span, float]:
    """Return the span with the least Iz and that Iz [A]; its working is recorded. Raises like span_capacity."""
    for span in case.spans:
        if span.id not in case.span_iz:
            span_capacity(w.quiet(), case, span)
    span = min(case.spans, key=lambda s: case.span_iz[s.id])
    return span, (span_capacity(w, case, span) if w.keep else case.span_iz[span.id])


def check_capacity(w: Working, case: Case) -> Outcome:
    """Check In <= Iz in the worst span (433.1.1 (ii)); each leg of a ring at least 20 A (433.1.204)."""
    span, iz = ruling_span(w, case)
    where = span_name(case.rules, span)
    if case.ring:
        needed = w.limit("Iz,leg", "ring_leg_iz", "each leg of a ring final")
        name = "the least for a ring leg"
    else:
        needed = w.given("In", case.rating, "A", "rating of the device")
        name = "In"
    margin = iz / needed - 1
    word = "carries" if margin >= 0 else "is under"
    text = f"{where}: Iz {quantity(iz, 'A')} {word} {name} {quantity(needed, 'A')}"
    return Outcome(iz, needed, "A", margin, text, span.id)


def check_overload_current(w: Working, case: Case) -> Outcome:
    """Check I2 <= 1.45 Iz written out (433.1.1 (iii)); breakers comply with it whenever In <= Iz."""
    span, iz = ruling_span(w, case)
    row = (case.rules.devices[case.device.kind].conventional, case.rating)
    multiple = w.look("I2/In", "I1-I2", row, "i2_multiple", "conventional operating current")
    i2 = w.calc("I2", multiple * case.rating, "A", "I2/In × In", {"I2/In": multiple, "In": case.rating}, "433.1.1")
    factor = w.limit("factor", "i2_multiple")
    most = w.calc("1.45 Iz", factor * iz, "A", "factor × Iz", {"factor": factor, "Iz": iz}, "433.1.1")
    word = "is within" if i2 <= most * (1 + 1e-9) else "is over"
    return Outcome(i2, most, "A", most / i2 - 1, f"I2 {quantity(i2, 'A')} {word} 1.45 Iz, {quantity(most, 'A')}", span.id)


def check_ring(w: Working, case: Case) -> Outcome:
    """Check what makes a ring final one: a device of 30 or 32 A and line conductors of at least 2.5 mm2 (433.1.204)."""
    low, high = w.limit("In,min", "ring_min_in"), w.limit("In,max", "ring_max_in")
    least = w.limit("S,min", "ring_min_csa")
    if not low <= case.rating <= high:
        text = f"a ring final takes a device of {low:g} or {high:g} A, not {quantity(case.rating, 'A')}"
        return Outcome(case.rating, high, "A", None, text, verdict="short")
    verdict = None if case.csa >= least else "short"
    word = "is enough" if verdict is None else "is too small"
    text = f"{quantity(case.csa, 'mm²')} {word} for a ring on {quantity(case.rating, 'A')}, at least {quantity(least, 'mm²')}"
    return Outcome(case.csa, least, "mm²", None, text, verdict=verdict)  # type: ignore[arg-type]


def check_least_csa(w: Working, case: Case) -> Outcome:
    """Check the line csa against the least of Table 52.3 for lighting or power."""
    only_light = case.lighting and all(load.kind == "lighting" for load in case.circuit.loads)
    use = "lighting" if only_light else "power"
    least = w.look("S,min", "52.3", (use, "copper"), "min_mm2", f"{use} circuit")
    csa = w.given("S", case.csa, "mm²", "line conductor")
    verdict = None if csa >= least else "short"
    word = "is enough" if verdict is None else "is too small"
    text = f"{quantity(csa, 'mm²')} {word}: a {use} circuit takes at least {quantity(least, 'mm²')}"
    return Outcome(csa, least, "mm²", None, text, verdict=verdict)  # type: ignore[arg-type]
