"""The steps of the work, from the survey to coordination: which check belongs to which, and how each stands."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal, get_args

from mellow_span.core.findings.results import Check, InstallationResult, Verdict, worst
from mellow_span.core.model.parts import Supply

WorkStep = Literal["survey", "demand", "boards", "routes", "earthing", "coordination", "attention"]
STEPS: tuple[WorkStep, ...] = get_args(WorkStep)
# Checks of the intake and of a board by the step that cures them; what is not named is the survey's, or the boards'.
OF_INTAKE: dict[str, WorkStep] = {"demand": "demand", "earthing": "earthing", "bonding": "earthing"}
OF_BOARD: dict[str, WorkStep] = {
    "feed": "demand", "electrode": "earthing", "ahead": "earthing", "electrode_place": "earthing", "island": "earthing", "bonding": "earthing",
}  # fmt: skip
# What the survey has to find out before anything can be worked out.
SURVEYED = ("earthing", "ze", "ipf", "fuse_kind", "fuse_in", "tails_csa")


@dataclass(slots=True)
class StepMark:
    """How a step of the work stands: its worst verdict, None where there is nothing to judge yet."""

    id: WorkStep
    verdict: Verdict | None


def of_intake(check: str) -> WorkStep:
    """Return the step that cures a check of the intake."""
    return OF_INTAKE.get(check, "survey")


def of_board(check: str) -> WorkStep:
    """Return the step that cures a check of a board."""
    return OF_BOARD.get(check, "boards")


def marks(supply: Supply, found: InstallationResult, pairs: Iterable[Verdict]) -> tuple[StepMark, ...]:
    """Return how each step stands. pairs: how each two devices in series stand; they make no other step pass or fail."""
    verdicts: dict[WorkStep, list[Verdict]] = {step: [] for step in STEPS}
    for check in found.intake:
        verdicts[of_intake(check.id)].append(check.verdict)
    if any(getattr(supply, name) is None for name in SURVEYED):
        verdicts["survey"].append("not_known")
    for board in found.boards:
        for check in board.checks:
            verdicts[of_board(check.id)].append(_of(check))
    verdicts["boards"] += [circuit.verdict for circuit in found.circuits]
    verdicts["routes"] += [_of(check) for route in found.routes for check in route.checks]
    for step in STEPS:
        if step not in ("attention", "coordination"):
            verdicts["attention"] += verdicts[step]
    verdicts["coordination"] += list(pairs)
    return tuple(StepMark(step, worst(verdicts[step]) if verdicts[step] else None) for step in STEPS)


def _of(check: Check) -> Verdict:
    return check.verdict if check.decides else "meets"
