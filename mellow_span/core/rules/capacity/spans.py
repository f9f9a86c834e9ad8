"""Current-carrying capacity: Iz of each span with its factors, and the span that rules."""

from __future__ import annotations

from math import inf, prod, sqrt

from mellow_span.core.errors import CoreError, InputError, MissingInput, NotTogether
from mellow_span.core.findings.results import SpanResult
from mellow_span.core.findings.wording import span_name
from mellow_span.core.model.parts import Circuit, Span
from mellow_span.core.rules.case import Case, Group
from mellow_span.core.rules.demand.loads import ib_of
from mellow_span.core.rulesets import Family
from mellow_span.core.rulesets.vocabulary import C, T
from mellow_span.core.units import MM_PER_M
from mellow_span.core.working.recorders import Working


def tabulated(w: Working, case: Case, family: Family, method: str, symbol: str = "It") -> float:
    """Return the tabulated capacity [A] of one cable by a reference method (Appendix 4), from the tables of a family. Raises OutsideTable."""
    table, column = family.capacity_column(method, case.loaded)
    because = f"; a 90 °C cable rated at 70 °C, for its terminals or the cables beside it ({case.rules.clause(C.TERMINALS)})"
    cooler = "" if family is case.family else because
    return w.look(symbol, table, case.csa, column, f"reference method {method}{cooler}")


def ambient_factor(w: Working, case: Case, family: Family, span: Span) -> float:
    """Return Ca for the air (Table 4B1) or the ground (Table 4B2) around a span: the next row up, no gain between rows."""
    if case.place(span).ground:
        return w.look("Ca", T.AMBIENT_GROUND, span.ground, family.insulation, f"ground at {span.ground:g} °C")
    return w.look("Ca", T.AMBIENT_AIR, span.ambient, family.insulation, f"{span.ambient:g} °C")


def grouping_factor(w: Working, case: Case, span: Span, group: Group | None = None) -> float:
    """Return Cg for the circuits lying together in a span (Tables 4C1 to 4C3); alone in the ground it is 1.

    Raises OutsideTable past the last row, NotTogether where cables cannot lie like that in such a place.
    """
    group = group or case.group(span)
    place = case.place(span)
    where = place.ground or "air"
    if where != "air" and group.n <= 1:
        return w.given("Cg", 1.0, "", "alone in the ground")
    fitting = case.rules.laid_in(place)
    if group.n > 1 and group.laid not in fitting:
        raise NotTogether("span.laid", f"{group.laid!r} and {place.title!r}", ", ".join(fitting))
    table, column = case.rules.laid[group.laid if group.n > 1 else fitting[0]][where]
    note = group.note or ("alone" if group.n == 1 else f"{group.n} circuits, {group.laid}")
    return w.look("Cg", table, group.n, column, note)


def wraps(case: Case, span: Span, method: str) -> bool:
    """Say whether a wrapped length derates the span: the columns for insulated places of flat twin and cpc already hold it."""
    return wrapped_length(case, span) > 0 and method not in case.family.insulated_methods


def wrapped_length(case: Case, span: Span) -> float:
    """Return the length of a span with insulation all round it [m]: as entered, or the whole span in a place that is all insulation.

    A span of unknown length there is taken as long, which is the lower capacity.
    """
    if not case.place(span).surrounded:
        return span.wrapped
    return inf if span.length is None else max(span.wrapped, span.length)


def wrapped_capacity(w: Working, case: Case, family: Family, span: Span, method: str, it: float) -> float:
    """Return the capacity in place of It where a length is totally surrounded by insulation (523.9, Table 52.2) [A].

    Under 0.5 m: own method x Table 52.2. From 0.5 m: the lower of half of method C and half of the span's own method.
    """
    if not wraps(case, span, method):
        return it
    wrapped = wrapped_length(case, span)
    if wrapped < w.limit("from", "wrapped_long"):
        ci = w.look("Ci", T.WRAPPED_SHORT, wrapped * MM_PER_M, "factor", f"{wrapped:g} m surrounded by insulation")
        return w.calc("It′", it * ci, "A", "It × Ci", {"It": it, "Ci": ci}, C.WRAPPED)
    share = w.limit(
        "Ci", "wrapped_half", f"{wrapped:g} m surrounded by insulation" if wrapped < inf else "surrounded by insulation throughout"
    )
    free = tabulated(w, case, family, "C", "It,C")
    return w.calc("It′", share * min(it, free), "A", "Ci × min(It, It,C)", {"Ci": share, "It": it, "It,C": free}, C.WRAPPED)


def ground_factors(w: Working, case: Case, span: Span, in_cf: bool) -> dict[str, float]:
    """Return the soil and depth factors Cs, Cd of a span in the ground (Tables 4B3, 4B4), and Cc 0.9 where it has overload protection.

    in_cf: the factor of a rewirable fuse in the ground is used, which has Cc in it.
    """
    where = case.place(span).ground
    if not where:
        return {}
    found = {
        "Cs": w.look("Cs", T.SOIL, span.soil, where, f"soil {span.soil:g} K·m/W"),
        "Cd": w.look("Cd", T.DEPTH, span.depth, where, f"{span.depth:g} m deep"),
    }
    if not case.overload_omitted and not in_cf and w.rules.has("cc_ground"):
        found["Cc"] = w.limit("Cc", "cc_ground", "buried, with overload protection")
    return found


def fuse_factor(w: Working, case: Case, span: Span) -> dict[str, float]:
    """Return Cf of a rewirable fuse: 0.725, in the ground 0.653 (433.1.202); none for a ring leg or where overload protection is omitted."""
    if not case.rewirable or case.overload_omitted or case.ring:
        return {}
    if case.place(span).ground:
        return {"Cf": w.limit("Cf", "cf_rewirable_ground", "rewirable fuse, in the ground")}
    return {"Cf": w.limit("Cf", "cf_rewirable", "rewirable fuse")}


def span_capacity(w: Working, case: Case, span: Span, without_fuse: bool = False) -> float:
    """Return Iz of one span [A], remembered by all it hangs on; what hangs on the load or on harmonics is worked out each time.

    without_fuse: leave Cf out, for the rule on I2, which Cf already is.
    Raises MissingInput without surroundings, OutsideTable where the tables have no value. Appendix 4 section 5.
    """
    group = case.group(span)
    if (group.simultaneous and group.n > 1) or case.circuit.harmonics or span.given_iz is not None:
        return worked_capacity(w, case, span, without_fuse)
    key = (
        "Iz", case.family.id, case.rated(group).id, case.csa, case.loaded, case.parallel, span.place, span.ambient, wrapped_length(case, span),
        span.ground, span.soil, span.depth,
        group.n, group.laid, group.note, case.rewirable, case.overload_omitted, case.ring, without_fuse,
    )  # fmt: skip
    if span.place is None:
        case.method(span)
    return w.remembered(key, lambda aside: worked_capacity(aside, case, span, without_fuse))


def worked_capacity(w: Working, case: Case, span: Span, without_fuse: bool = False) -> float:
    """Return Iz of one span [A] = It Ca Cg Ci Cs Cd Cc Cf, It replaced where insulation surrounds the cable, times the cables in parallel."""
    if span.given_iz is not None and given_counts(case.circuit, span):
        return harmonic_capacity(w, case, from_elsewhere(w, case, span, span.given_iz, without_fuse))
    method, group = case.method(span), case.group(span)
    if case.place(span).ground == "direct" and not case.family.armour:
        raise NotTogether("span.place", f"{case.family.title!r} and {case.place(span).title!r}", "an armoured cable, or a duct (522.8.10)")
    if case.family.cpc == "single" and not case.place(span).encloses:
        raise NotTogether(
            "span.place",
            f"{case.family.title!r} and {case.place(span).title!r}",
            f"conduit, trunking or a duct round them ({case.rules.clause(C.UNSHEATHED)})",
        )
    family = case.rated(group)
    it = wrapped_capacity(w, case, family, span, method, tabulated(w, case, family, method))
    symbol = "It′" if wraps(case, span, method) else "It"
    terms = {symbol: it, "Ca": ambient_factor(w, case, family, span)}
    together = group.simultaneous and group.n > 1
    if not together:
        terms["Cg"] = grouping_factor(w, case, span, group)
    # The formulae for circuits not overloaded together have the rewirable fuse in them already.
    fuse = {} if without_fuse or together else fuse_factor(w, case, span)
    terms |= ground_factors(w, case, span, bool(fuse)) | fuse
    if case.parallel > 1:
        terms["np"] = w.given("np", float(case.parallel), "", "cables in parallel, of equal length and size (433.4.1)")
    value = 1.0
    for factor in terms.values():
        value *= factor
    iz = w.calc("Iz", value, "A", " × ".join(terms), terms, C.CAPACITY)
    if together:
        iz = not_overloaded_together(w, case, span, group, iz)
    return harmonic_capacity(w, case, iz)


def given_counts(circuit: Circuit, span: Span) -> bool:
    """Say whether a capacity from elsewhere counts in a span: it holds for the csa it was entered for, and until that is said it is asked."""
    return span.given_iz is not None and span.given_for in (None, circuit.run.cable.csa)


def from_elsewhere(w: Working, case: Case, span: Span, amps: float, without_fuse: bool = False) -> float:
    """Return a capacity [A] that a maker or another book gives for this cable as it is installed, times the cables in parallel; marked to be checked.

    The factor of a rewirable fuse is the device's, not the cable's, and is never in it.
    Raises MissingInput while it is not said for which csa it holds and where it is from.
    """
    name = span_name(case.rules, span)
    if span.given_for is None:
        raise MissingInput(f"span.{span.id}.given_for", f"the csa that the entered capacity of the span “{name}” is for, in mm²")
    if not span.given_by.strip():
        raise MissingInput(
            f"span.{span.id}.given_by", f"where the entered capacity of the span “{name}” is from: maker's sheet or book, and page"
        )
    one = w.given("Iz,one", amps, "A", f"entered, not from our tables: {span.given_by.strip()}; all factors in it")
    w.add((), True)
    terms = {"Iz,one": one, "np": float(case.parallel)} | ({} if without_fuse else fuse_factor(w, case, span))
    return w.calc("Iz", prod(terms.values()), "A", " × ".join(terms), terms, C.CAPACITY, "the factors of its place are in it")


def not_overloaded_together(w: Working, case: Case, span: Span, group: Group, iz: float) -> float:
    """Return the capacity that counts where the circuits of a group are not overloaded at one time (Appendix 4, 5.1.2) [A].

    The ungrouped capacity must reach the larger of Ib/Cg and sqrt(In^2 + 0.48 Ib^2 (1 - Cg^2) / Cg^2); the result is that capacity put in
    relation to In, so that it reads against In like any other Iz.
    """
    cg = grouping_factor(w, case, span, group)
    found = found_amps(case.circuit)
    note = "design current" if found is None else f"current found: {case.circuit.group_amps_by.strip()}"
    ib = w.given("Ib", ib_of(w, case) if found is None else found, "A", note)
    a = w.limit("a", "not_overloaded")
    b = w.limit("b", "not_overloaded_rewirable") if case.rewirable else 1.0
    terms = {"b": b, "In": case.rating, "a": a, "Ib": ib, "Cg": cg}
    root = sqrt(b * case.rating**2 + a * ib**2 * (1 - cg**2) / cg**2)
    both = {"Ib/Cg": ib / cg, "√": w.calc("√", root, "A", "√(b In² + a Ib² (1 − Cg²) / Cg²)", terms, C.NOT_OVERLOADED_TOGETHER)}
    needed = w.calc("Iz,min", max(both.values()), "A", "max(Ib/Cg, √)", both, C.NOT_OVERLOADED_TOGETHER, "not overloaded at one time")
    terms = {"Iz": iz, "In": case.rating, "Iz,min": needed}
    return w.calc("Iz", iz * case.rating / needed, "A", "Iz × In / Iz,min", terms, C.NOT_OVERLOADED_TOGETHER, "scaled to compare with In")


def found_amps(circuit: Circuit) -> float | None:
    """Return the current found that counts for the heating of a group [A], the designer's judgement; None where none is entered with how it was found.

    Overload protection stays with In: what a group heats up by is what flows, not what the device would let flow (Appendix 4, 5.1.2).
    """
    return circuit.group_amps if circuit.group_amps is not None and circuit.group_amps_by.strip() else None


def harmonic_capacity(w: Working, case: Case, iz: float) -> float:
    """Return the capacity left for the line current where the third harmonic loads the neutral of a three-phase circuit (5.5) [A].

    Up to 15 % nothing changes, to 33 % 0.86 on the line current, to 45 % 0.86 on the neutral current 3h, beyond that 1.0 on it.
    """
    h = case.circuit.harmonics
    if case.circuit.phases == 1 or h == 0 or h <= w.constant("harmonic_low"):
        return iz
    w.given("h", h, "%", "third harmonic in the line current")
    factor = w.limit("Ch", "harmonic_factor") if h <= w.constant("harmonic_high") else 1.0
    if h <= w.constant("harmonic_mid"):
        return w.calc("Iz", iz * factor, "A", "Iz × Ch", {"Iz": iz, "Ch": factor}, C.HARMONICS, "for the line current")
    terms = {"Iz": iz, "Ch": factor, "h": h}
    return w.calc("Iz", iz * factor / (3 * h / 100), "A", "Iz × Ch / (3 h / 100)", terms, C.HARMONICS, "the neutral current decides")


def grouped_rating(w: Working, case: Case, span: Span, n: int, laid: str, rated_at: int) -> float:
    """Return the grouped rating of one cable of the circuit in a span with n circuits counted [A]: It Ca Ci Cg, soil and depth.

    rated_at: the lowest temperature a cable of the group is rated at [C].

    Without Cc and Cf: the note on lightly loaded cables asks what the cable carries, not what its device protects.
    """
    method, family = case.method(span), case.rated(Group("", n, laid, rated_at=rated_at))
    rating = wrapped_capacity(w, case, family, span, method, tabulated(w, case, family, method)) * ambient_factor(w, case, family, span)
    where = case.place(span).ground
    if where:
        rating *= w.look("Cs", T.SOIL, span.soil, where) * w.look("Cd", T.DEPTH, span.depth, where)
    return rating * grouping_factor(w, case, span, Group("", n, laid))


def span_results(w: Working, case: Case) -> tuple[SpanResult, ...]:
    """Work out every span of the run; one without a capacity says why and does not stop the others."""
    found = []
    for span in case.circuit.run.spans:
        method, iz, error = case.place(span).method, None, None
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
            case.span_iz[span.id] = span_capacity(w.quiet(), case, span)
    span = min(case.spans, key=lambda s: case.span_iz[s.id])
    # Asked again on the working in hand, so that a value to be checked is remembered with the check that rests on it.
    return span, span_capacity(w, case, span)


def least_known(w: Working, case: Case) -> tuple[Span, float] | None:
    """Return the span with the least Iz [A] among those that can be worked out; None where none can."""
    found: list[tuple[float, Span]] = []
    for span in case.circuit.run.spans:
        try:
            found.append((span_capacity(w.quiet(), case, span), span))
        except CoreError:
            continue
    if not found:
        return None
    span = min(found, key=lambda pair: pair[0])[1]
    return span, span_capacity(w, case, span)


def parallel_allowed(case: Case) -> None:
    """Raise InputError for cables in parallel in a ring; what is paralleled elsewhere is alike by its one entry (433.4.1)."""
    if case.ring and case.parallel > 1:
        raise InputError("cable.parallel", case.parallel, "1 for a ring final")
