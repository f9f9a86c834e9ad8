"""How a job stands, as the page shows it: a summary of each circuit, the attention list, the steps of the work, the open circuit in full."""

from __future__ import annotations

from dataclasses import dataclass

from mellow_span.answers.standing import Standing
from mellow_span.core.design.coordination import pairs_of, verdict_of
from mellow_span.core.drawing.profile import paths_of, profile_of
from mellow_span.core.errors import CoreError, RuleSetError
from mellow_span.core.findings.results import Attention, CircuitResult, Profile, Verdict
from mellow_span.core.findings.steps import StepMark, marks
from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets.readings import rules_of


@dataclass(slots=True)
class CircuitSummary:
    """What the tree shows of a circuit. ib, rating, iz [A]; drop [%]; zs [ohm]; margin: share of the limit left."""

    id: str
    verdict: Verdict
    headline: str
    reason: str
    margin: float | None
    ib: float | None
    rating: float | None
    iz: float | None
    length: float | None
    drop: float | None
    zs: float | None
    doubtful: bool
    assumed: tuple[str, ...]


@dataclass(slots=True)
class Figures:
    """The figures of a job. paths: of a run that branches, the drawing of the path to each end; trouble: why it cannot be worked out.

    stage: the stage of the job that the circuit in full is shown at, where that is not the last.
    """

    edition: str
    summaries: tuple[CircuitSummary, ...]
    attention: tuple[Attention, ...]
    steps: tuple[StepMark, ...]
    detail: CircuitResult | None
    profile: Profile | None
    paths: tuple[Profile, ...]
    trouble: str
    stage: str = ""


def figures_of(standing: Standing, focus: str | None) -> Figures:
    """Return the figures of a job from how it stands; the working is there for the circuit in focus."""
    done, found = standing.done, standing.result
    if done is None or found is None:
        return Figures(_edition(standing.installation), (), (), (), None, None, (), standing.trouble)
    detail = next((c for c in found.circuits if c.id == focus), None)
    at = standing.staged.at(detail.id).done if standing.staged and detail else done
    drawn = detail is not None and any(c.id == detail.id for c in at.plan.job.circuits)
    profile = profile_of(at, detail.id) if detail and drawn else None
    paths = paths_of(at, detail.id) if detail and drawn else ()
    steps = marks(standing.installation.supply, found, [verdict_of(pair) for pair in pairs_of(done)])
    return Figures(
        found.edition, tuple(map(summary, found.circuits)), found.attention, steps, detail, profile, paths, "", _stage_of(standing, focus)
    )


def _stage_of(standing: Standing, circuit: str | None) -> str:
    staged = standing.staged
    if staged is None or circuit not in staged.ruling or staged.at(circuit) is staged.last:
        return ""
    return staged.at(circuit).stage.name


def _edition(inputs: Installation) -> str:
    try:
        return rules_of(inputs).edition
    except (CoreError, RuleSetError):
        return ""


def summary(c: CircuitResult) -> CircuitSummary:
    """Return what the tree, the grid and a comparison show of a circuit."""
    return CircuitSummary(
        c.id, c.verdict, c.headline, c.reason, c.margin, c.ib, c.rating, c.iz, c.length, c.drop, c.zs, c.doubtful, c.assumed
    )
