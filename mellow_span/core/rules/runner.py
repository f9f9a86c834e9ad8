"""The one runner of checks: it asks a rule, and what the rule refuses for want of an input becomes 'not known' with the field to fill."""

from __future__ import annotations

from collections.abc import Callable

from mellow_span.core.errors import CoreError, NotInBook
from mellow_span.core.findings.results import Check, Outcome, judge
from mellow_span.core.working.recorders import Working


def run_check(
    w: Working, id: str, title: str, clause: str, rule: Callable[[], Outcome], assumed: tuple[str, ...] = (), decides: bool = True
) -> Check:
    """Run one rule and return its check with the steps it recorded.

    clause: its name in the vocabulary; assumed: the surveyed values it rests on that were only assumed; decides: whether it counts for the
    verdict where it cannot be answered.
    """
    try:
        if id in w.rules.silent:
            raise NotInBook(w.rules.title, f"what the check of {title.lower()} needs")
        found = rule()
    except CoreError as refusal:
        steps, doubtful = w.take()
        value, unit = refusal.shown or (None, "")
        return Check(
            id=id, title=title, clause=w.rules.clause(clause), verdict="not_known", text=str(refusal), value=value, unit=unit,
            field=refusal.field, steps=steps, doubtful=doubtful, assumed=assumed, decides=decides,
        )  # fmt: skip
    steps, doubtful = w.take()
    return Check(
        id=id, title=title, clause=w.rules.clause(found.clause or clause), verdict=found.verdict or judge(found.margin), text=found.text,
        value=found.value, limit=found.limit, unit=found.unit, margin=found.margin, span=found.span, decides=found.decides,
        field=found.field, steps=steps, doubtful=doubtful, assumed=assumed,
    )  # fmt: skip
