"""The smallest break of a circuit: the least change of each kind that makes it fall short, from insulation put round it to a longer run."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from mellow_span.core.design.effort import LAID_OUT, Effort, StoppedError
from mellow_span.core.design.solving import changed, rank, short, solved
from mellow_span.core.errors import CoreError
from mellow_span.core.figures import quantity
from mellow_span.core.findings.results import WORSE, CircuitResult
from mellow_span.core.model.changes import Change
from mellow_span.core.model.parts import Circuit, Installation, Span
from mellow_span.core.model.routes import apart
from mellow_span.core.model.tree import circuit_of
from mellow_span.core.rulesets import RuleSet
from mellow_span.core.rulesets.readings import rules_of

# How far each kind of change is looked at, and what counts as a usual step of it: the smaller the break in usual steps, the nearer it is.
FURTHEST = {"insulation": 10.0, "length": 200.0, "warmth": 50.0, "neighbours": 12.0, "load": 2.0, "loop": 5.0}
USUAL = {"insulation": 0.5, "length": 5.0, "warmth": 5.0, "neighbours": 1.0, "load": 0.1, "loop": 0.1}
HALVINGS = 14
# Where a change of a kind is tried, as shares of the furthest: what fails in between lies between two of these, or is narrower than they are.
TRIED = (0.002, 0.006, 0.015, 0.03, 0.06, 0.1, 0.16, 0.24, 0.34, 0.46, 0.6, 0.8, 1.0)


@dataclass(slots=True)
class Break:
    """The least change of one kind that makes a circuit fall short: how much [unit], in words, and the check that it fails.

    steps: how much that is in usual steps of its kind; span: where. until: from how much on it passes again, where that is a window between two
    that pass.
    """

    id: str
    amount: float
    unit: str
    text: str
    check: str
    reason: str
    steps: float
    span: str | None = None
    until: float | None = None


def smallest_breaks(job: Installation, circuit_id: str, effort: Effort | None = None) -> tuple[Break, ...]:
    """Return the least change of each kind that makes a circuit fall short, the nearest first; nothing where it is short already.

    effort: how much work it may be; without all of it, it is stopped. Raises InputError for a circuit the job does not have, StoppedError.
    """
    job = apart(job)
    circuit = circuit_of(job, circuit_id)
    before = solved(job, circuit_id)
    if short(before) or before.problems:
        return ()
    search = _Search(job, circuit, set(short(before)), effort or Effort())
    rules = rules_of(job)
    found = [search.insulated(rules, span) for span in circuit.run.spans]
    found.sort(key=lambda b: b.amount if b else float("inf"))
    more = [search.longer(), search.warmer(), search.joined(), search.heavier(), search.weaker()]
    return tuple(sorted((b for b in (*found[:1], *more) if b), key=lambda b: b.steps))


@dataclass(slots=True)
class _Found:
    """The least amount that fails with the circuit then, and from where on it passes again."""

    amount: float
    result: CircuitResult
    until: float | None = None


class _Search:
    """Looks for the least amount of a change that fails a circuit, halving the way to it."""

    def __init__(self, job: Installation, circuit: Circuit, before: set[str], effort: Effort) -> None:
        self.job, self.circuit, self.before, self.effort = job, circuit, before, effort

    def _looked_at(self, changes: list[Change]) -> CircuitResult | None:
        """The circuit with some changes made; None where they cannot be."""
        if self.effort.over():
            raise StoppedError("more work than it may do")
        self.effort.spend(LAID_OUT * len(self.job.circuits))
        try:
            return solved(changed(self.job, changes), self.circuit.id)
        except CoreError:
            return None

    def _fails(self, changes: list[Change]) -> CircuitResult | None:
        result = self._looked_at(changes)
        return result if result is not None and set(short(result)) - self.before else None

    def _least(self, most: float, make: Callable[[float], list[Change]], fine: float) -> _Found | None:
        if most < fine:
            return None
        tried = [share * most for share in TRIED if share * most >= fine / 2]
        hit = next(((i, bad) for i, amount in enumerate(tried) if (bad := self._fails(make(amount))) is not None), None)
        if hit is None:
            return None
        place, first = hit
        high, bad = self._between(tried[place - 1] if place else 0.0, tried[place], make, fine, first)
        # Rounded up to what a tape measures, so that what is told does break it; where the window is narrower, as it is.
        told = min(round(-(-high // fine) * fine, 6), most)
        at_told = self._fails(make(told))
        return _Found(told if at_told else high, at_told or bad, self._until(tried[place:], make, fine))

    def _between(
        self, low: float, high: float, make: Callable[[float], list[Change]], fine: float, bad: CircuitResult
    ) -> tuple[float, CircuitResult]:
        """Where it begins to fail between one that does not and one that does."""
        for _ in range(HALVINGS):
            if high - low <= fine / 4:
                break
            middle = (low + high) / 2
            if (found := self._fails(make(middle))) is not None:
                high, bad = middle, found
            else:
                low = middle
        return high, bad

    def _until(self, tried: list[float], make: Callable[[float], list[Change]], fine: float) -> float | None:
        """From which amount on it passes again, where one of those tried after the first that fails does."""
        low = tried[0]
        for amount in tried[1:]:
            result = self._looked_at(make(amount))
            if result is None or rank(result) == WORSE["not_known"]:
                # Where a table ends nothing is known any more.
                return None
            if set(short(result)) - self.before:
                low = amount
                continue
            while amount - low > fine / 4:
                middle = (low + amount) / 2
                low, amount = (middle, amount) if self._fails(make(middle)) is not None else (low, middle)
            return round(amount, 6)
        return None

    def _told(self, kind: str, found: _Found | None, unit: str, words: Callable[[str], str], span: Span | None = None) -> Break | None:
        if found is None:
            return None
        amount, result = found.amount, found.result
        failing = next(c for c in result.checks if c.decides and c.verdict == "short" and c.id not in self.before)
        said = words(quantity(round(amount, 3), unit))
        if found.until is not None:
            said += f"; from {quantity(round(found.until, 3), unit)} on it passes again"
        where = span.id if span else None
        return Break(kind, round(amount, 3), unit, said, failing.title, failing.text, amount / USUAL[kind], where, found.until)

    def insulated(self, rules: RuleSet, span: Span) -> Break | None:
        """Insulation all round it over a part of one span."""
        place = rules.places.get(span.place or "")
        if span.length is None or place is None or place.ground:
            return None
        room = min(FURTHEST["insulation"], span.length - span.wrapped)
        found = self._least(room, lambda m: [_span(span, wrapped=span.wrapped + m)], 0.05)
        name = span.name or place.title
        return self._told("insulation", found, "m", lambda much: f"{much} of insulation round the cable, in {name}", span)

    def longer(self) -> Break | None:
        """The last span longer."""
        last = self.circuit.run.spans[-1] if self.circuit.run.spans else None
        if last is None or last.length is None:
            return None
        length = last.length
        found = self._least(FURTHEST["length"], lambda m: [_span(last, length=min(1000.0, length + m))], 0.1)
        return self._told("length", found, "m", lambda much: f"{much} more of cable at the end", last)

    def warmer(self) -> Break | None:
        """Air and ground warmer along the whole run."""
        spans = self.circuit.run.spans

        def make(more: float) -> list[Change]:
            return [_span(s, ambient=min(80.0, s.ambient + more), ground=min(80.0, s.ground + more)) for s in spans]

        found = self._least(FURTHEST["warmth"], make, 1.0)
        return self._told("warmth", found, "°C", lambda much: f"{much} warmer along the run")

    def joined(self) -> Break | None:
        """More loaded circuits beside it, in the span or the route where that hurts first."""
        routes = {route.id: route for route in self.job.routes}
        for count in range(1, int(FURTHEST["neighbours"]) + 1):
            for span in self.circuit.run.spans:
                route = routes.get(span.route or "")
                if route is None:
                    one = _span(span, group=min(40, span.group + count))
                else:
                    # In a route those who lie there count, whatever is entered on the span.
                    one = Change("set", "route", route.id, {"others": min(40, route.others + count)})
                result = self._fails([one])
                if result is not None:
                    more = "one more loaded circuit" if count == 1 else f"{count} more loaded circuits"
                    where = (route.name if route else "") or span.name or "its span"
                    words = f"{more} beside it, in {where}"
                    return self._told("neighbours", _Found(float(count), result), "", lambda _, said=words: said, span)  # type: ignore[misc]
        return None

    def heavier(self) -> Break | None:
        """Every load of a known amount heavier."""
        loads = [x for x in self.circuit.loads if x.amount]

        def make(share: float) -> list[Change]:
            return [Change("set", "load", x.id, {"amount": min(200_000.0, (x.amount or 0) * (1 + share))}) for x in loads]

        found = self._least(FURTHEST["load"], make, 0.01) if loads else None
        return self._told("load", found, "", lambda _: f"{round(found.amount * 100 if found else 0)} % more load")

    def weaker(self) -> Break | None:
        """A larger Ze."""
        ze = self.job.supply.ze
        if ze is None:
            return None
        found = self._least(FURTHEST["loop"], lambda more: [Change("set", "supply", fields={"ze": ze + more})], 0.01)
        return self._told("loop", found, "Ω", lambda much: f"Ze {much} more")


def _span(span: Span, **fields: float | int) -> Change:
    return Change("set", "span", span.id, fields)
