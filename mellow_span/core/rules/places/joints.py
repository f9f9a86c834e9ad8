"""A joint between two cables of a run: how it is made, and whether it can be reached (section 526)."""

from __future__ import annotations

from mellow_span.core.errors import MissingInput
from mellow_span.core.findings.results import Outcome
from mellow_span.core.findings.wording import span_name
from mellow_span.core.model.parts import Span
from mellow_span.core.rules.case import Case
from mellow_span.core.rulesets.vocabulary import C
from mellow_span.core.working.recorders import Working

# What needs no access once it is made; of these a joint filled with resin alone is made to be buried.
SEALED = {"maintenance_free": "a maintenance-free joint", "crimped": "a crimped joint", "resin": "a joint filled with resin"}
BURIED = "resin"


def is_joined(case: Case) -> bool:
    """Say whether the cable that is asked about is joined to another before it; one that leaves from the device of the circuit is not."""
    return case.begins is not None and case.feed.run is not None


def in_ground(case: Case, span: Span) -> bool:
    """Say whether a joint lies in the ground: the cables on both sides of it do. At the wall of a house it does not."""
    return bool(case.place(span).ground) and case.feed.run is not None and case.feed.run.ground


def check_joint(w: Working, case: Case) -> Outcome:
    """Check a joint: with screw terminals where it can be reached for inspection and test, else of a kind that needs no access (526.3).

    In the ground, with both cables there, only one that is made for it. Raises MissingInput while it is not said how it is made, or whether it can be
    reached.
    """
    span = case.begins
    assert span is not None
    where = f"where “{span_name(case.rules, span)}” begins"
    if not span.joint:
        raise MissingInput(f"span.{span.id}.joint", f"how the cables are joined {where}")
    if in_ground(case, span) and span.joint != BURIED and span.joint_reached is not True:
        text = f"in the ground {where}: a joint made to be buried, filled with resin, or one that can be reached"
        return Outcome(0.0, 0.0, "", None, text, span.id, verdict="short")
    if span.joint in SEALED:
        return Outcome(0.0, 0.0, "", None, f"{SEALED[span.joint]} {where}: it needs no access ({case.rules.clause(C.JOINTS)})", span.id)
    if span.joint_reached is None:
        raise MissingInput(f"span.{span.id}.joint_reached", f"whether the joint {where} can be reached for inspection")
    if not span.joint_reached:
        text = f"terminals {where} cannot be reached: a maintenance-free, crimped or resin-filled joint, or access to it"
        return Outcome(0.0, 0.0, "", None, text, span.id, verdict="short")
    return Outcome(0.0, 0.0, "", None, f"terminals {where}, which can be reached", span.id)
