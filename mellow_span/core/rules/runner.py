"""Running one rule of the intake, a board or a bundle: what it refuses for want of an input becomes 'not known'."""

from __future__ import annotations

from collections.abc import Callable

from mellow_span.core.errors import CoreError
from mellow_span.core.findings.results import Check, Outcome, judge
from mellow_span.core.working.recorders import Working


def run_check(w: Working, id: str, title: str, clause: str, rule: Callable[[], Outcome], assumed: tuple[str, ...] = ()) -> Check:
    """Run one rule of the intake or a board; what it refuses for want of an input becomes 'not known' with the field to fill."""
    try:
        found = rule()
    except CoreError as refusal:
        steps, doubtful = w.take()
        return Check(id, title, clause, "not_known", str(refusal), field=refusal.field, steps=steps, doubtful=doubtful, assumed=assumed)
    steps, doubtful = w.take()
    return Check(
        id, title, clause, found.verdict or judge(found.margin), found.text, found.value, found.limit, found.unit, found.margin,
        None, found.decides, doubtful, assumed, None, steps,
    )  # fmt: skip
