"""Words made from what was found: headlines, and problems with the inputs. What is decided is data; nothing here decides."""

from __future__ import annotations

from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import Check, Problem, Verdict
from mellow_span.core.model import Circuit, Span
from mellow_span.core.rulesets import RuleSet


def span_name(rules: RuleSet, span: Span) -> str:
    """Word a span: its own name, else its surroundings."""
    if span.name:
        return span.name
    place = rules.places.get(span.place or "")
    return place.title if place else "a span"


def problem_told(rules: RuleSet, circuit: Circuit, problem: Problem) -> str:
    """Say a problem in words: the identity of a span or load in its field is replaced by its name."""
    parts = problem.field.split(".")
    names = {span.id: span_name(rules, span) for span in circuit.run.spans} | {load.id: load.name or "a load" for load in circuit.loads}
    where = " of ".join([parts[-1].replace("_", " "), *(names.get(p, p) for p in parts[1:-1])])
    return f"{where}: {names.get(problem.given, problem.given)} given, allowed: {problem.allowed}"


def headline_of(rules: RuleSet, circuit: Circuit, verdict: Verdict, ruling: Check) -> tuple[str, str]:
    """Word the verdict of a circuit in two parts, the headline and the reason, from the check that rules it."""
    if verdict == "meets":
        return "Meets these checks with these inputs", f"least margin {100 * (ruling.margin or 0):.0f} %: {ruling.text}"
    if verdict == "not_known":
        return "Not known yet", f"{ruling.title.lower()}: {ruling.text}"
    if (
        verdict == "short"
        and ruling.span is not None
        and ruling.value is not None
        and ruling.limit is not None
        and ruling.value < ruling.limit
    ):
        # The check of a span says itself where it is and what is missing there.
        return f"Fails by {quantity(ruling.limit - ruling.value, ruling.unit)}", ruling.text
    if verdict == "close" and ruling.id == "disconnection":
        return "Meets by RCD alone", f"{ruling.title.lower()}: {ruling.text}"
    return ("Fails" if verdict == "short" else "Marginal"), f"{ruling.title.lower()}: {ruling.text}"
