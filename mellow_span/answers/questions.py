"""Every question of a job by its address below that of the job, as docs/openapi.json has it: the one list that server and device answer from."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from mellow_span.answers import job, site
from mellow_span.answers.materials import HAD, Materials, unquoted
from mellow_span.answers.stages import StageTold, stages_told
from mellow_span.core.design.balance import Balanced
from mellow_span.core.design.cells import CellUse
from mellow_span.core.design.place_options import INTAKE
from mellow_span.core.design.reach import Reach
from mellow_span.core.drawing.curves import Plot
from mellow_span.core.site.compare import Comparison
from mellow_span.core.site.ends import Ends
from mellow_span.core.site.existing import Existing
from mellow_span.core.site.readings import CircuitTests


@dataclass(frozen=True, slots=True)
class Question:
    """kind: type of the answer; answer: works it out from `Given` and what stands in the address; log: kinds of entries it reads, None for all."""

    kind: Any
    answer: Callable[..., Any]
    log: tuple[str, ...] | None = ()


@dataclass(frozen=True, slots=True)
class Sought:
    """A search, and what it is about: the name in the address or the query, or a word of its own."""

    search: str
    about: str = ""
    always: str = ""


QUESTIONS: dict[str, Question] = {
    "/overview": Question(job.Overview, job.overview),
    "/stages": Question(list[StageTold], stages_told),
    "/cells": Question(list[CellUse], job.job_cells),
    "/routes": Question(list[job.RouteOut], job.routes),
    "/circuits/{circuit_id}/curves": Question(Plot, job.curves),
    "/circuits/{circuit_id}/reach": Question(list[Reach], job.reach),
    "/boards/{board_id}/balance": Question(Balanced, job.balanced),
    "/boards/{board_id}/earthing": Question(list[job.EarthingOut], job.earthing),
    "/pulls": Question(site.PullList, site.pull_list, site.PULLED),
    "/ends": Question(list[Ends], site.terminations, ("colours",)),
    "/isolation": Question(site.Isolations, site.isolations, ("isolation",)),
    "/isolation/plan": Question(site.IsolationOut, site.isolation_plan),
    "/tests": Question(site.JobTests, site.job_tests, site.TESTED),
    "/circuits/{circuit_id}/tests": Question(CircuitTests, site.circuit_tests, site.READ),
    "/boards/{board_id}/tests": Question(CircuitTests, site.tests_of_board, ("board_reading",)),
    "/circuits/{circuit_id}/readings": Question(list[Comparison], site.readings, ("reading",)),
    "/existing": Question(Existing, site.existing_work, site.EXISTING),
    "/site": Question(site.Log, site.site_log, None),
    "/materials": Question(Materials, unquoted, HAD),
}

SOUGHT: dict[str, Sought] = {
    "/cheapest": Sought("cheapest"),
    "/assumptions": Sought("assumptions"),
    "/holds": Sought("holds"),
    "/stages/sizes": Sought("growing"),
    "/copies": Sought("copies"),
    "/beside": Sought("beside", "book"),
    "/intake/options": Sought("place_options", always=INTAKE),
    "/boards/{board_id}/options": Sought("place_options", "board_id"),
    "/routes/{route_id}/tryouts": Sought("tryouts", "route_id"),
    "/circuits/{circuit_id}/options": Sought("options", "circuit_id"),
    "/circuits/{circuit_id}/size": Sought("size", "circuit_id"),
    "/circuits/{circuit_id}/breaks": Sought("breaks", "circuit_id"),
}
