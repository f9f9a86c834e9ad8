"""Readings on site: the tests of a circuit with what was read, and the instrument."""

from __future__ import annotations

import random
import zlib
from typing import Any, Literal
from uuid import UUID

from django.http import HttpRequest
from ninja import Field, Router, Schema
from ninja.decorators import decorate_view

from mellow_span.answers.site import JobTests
from mellow_span.api.asked import OfStage, ask
from mellow_span.api.behind import behind, behind_where_it_is_fitted
from mellow_span.api.errors import Refusal
from mellow_span.api.render import send
from mellow_span.api.waiting import Searching
from mellow_span.core.design.check import NOTHING, feed_to, lay_out
from mellow_span.core.design.stages import stage_shown
from mellow_span.core.errors import CoreError, InputError
from mellow_span.core.model.parts import Installation
from mellow_span.core.rules.case import Case
from mellow_span.core.rules.faults.loop import residuals
from mellow_span.core.site.readings import CircuitTests, Quantity
from mellow_span.core.site.results import sizes_of
from mellow_span.core.site.sequence import network_of, points
from mellow_span.core.working.recorders import Silent
from mellow_span.jobs.ownership import job_of, member_of
from mellow_span.jobs.reads import installation, snapshot
from mellow_span.logbook import instrument
from mellow_span.standins.under_test import FAULTS
from mellow_span.standins.under_test import Circuit as OnBench

router = Router()
REFUSALS: dict[Any, Any] = {401: Refusal, 404: Refusal, 422: Refusal}


@router.get("/{uuid:job_id}/tests", response={200: JobTests, 202: Searching, **REFUSALS}, operation_id="tests")
@decorate_view(behind)
def job_tests(request: HttpRequest, job_id: UUID, stage: OfStage = "") -> Any:
    """Return how far the tests of each circuit of a job are."""
    return ask(request, job_id, "/tests", stage)


@router.get(
    "/{uuid:job_id}/circuits/{uuid:circuit_id}/tests",
    response={200: CircuitTests, 202: Searching, **REFUSALS},
    operation_id="circuit_tests",
)
@decorate_view(behind_where_it_is_fitted)
def circuit_tests(request: HttpRequest, job_id: UUID, circuit_id: UUID, stage: OfStage = "") -> Any:
    """Return the tests of a circuit in their order, with its readings, and what they point to together."""
    return ask(request, job_id, "/circuits/{circuit_id}/tests", stage, circuit_id=circuit_id)


@router.get(
    "/{uuid:job_id}/boards/{uuid:board_id}/tests", response={200: CircuitTests, 202: Searching, **REFUSALS}, operation_id="board_tests"
)
@decorate_view(behind)
def board_tests(request: HttpRequest, job_id: UUID, board_id: UUID, stage: OfStage = "") -> Any:
    """Return the tests at a board with its readings."""
    return ask(request, job_id, "/boards/{board_id}/tests", stage, board_id=board_id)


class ReadIn(Schema):
    """What the instrument is to read, where [m along the run]; fault: what the stand-in puts into the circuit before it, by a seed."""

    quantity: Quantity
    at: float | None = Field(None, ge=0, le=2000)
    fault: Literal[FAULTS] = "none"  # type: ignore[valid-type]
    seed: int = Field(0, ge=0, le=1_000_000)


@router.post(
    "/{uuid:job_id}/circuits/{uuid:circuit_id}/instrument", response={200: instrument.Shown, **REFUSALS}, operation_id="read_instrument"
)
def read_instrument(request: HttpRequest, job_id: UUID, circuit_id: UUID, given: ReadIn) -> Any:
    """Take one reading from the instrument. Nothing is written down by it."""
    member_of(request.user)
    with snapshot():
        inputs = installation(job_of(request.user, job_id))
    try:
        bench = on_bench(inputs, str(circuit_id))
        # Each reading is another one, but the fault stays where it was put.
        found = instrument.read(given.quantity, given.at, bench, given.fault, given.seed)
    except instrument.AwayError as away:
        raise InputError("instrument", given.quantity, str(away)) from None
    return send(instrument.Shown, found)


def on_bench(inputs: Installation, circuit_id: str) -> OnBench:
    """Return a circuit of a job as it is laid on the bench of the stand-in. Raises InputError where it cannot be."""
    plan = lay_out(stage_shown(inputs, circuit_id))
    circuit = next((c for c in plan.job.circuits if c.id == circuit_id), None)
    if circuit is None:
        raise InputError("circuit_id", circuit_id, "a circuit of this job")
    case = Case(plan.rules, inputs.supply, circuit, feed_to(plan, circuit.board), plan.around.get(circuit_id, NOTHING))
    try:
        network = network_of(Silent(plan.rules), case)
    except CoreError as refusal:
        raise InputError("circuit_id", circuit_id, f"a circuit whose cable and lengths are entered: {refusal}") from None
    spots = [at for at, _ in points(circuit, network.length)]
    rcd = min(residuals(case), key=lambda r: r.idn, default=None)
    smaller = [r for r in sizes_of(case).cpcs.values() if r > network.cpc]
    chance = random.Random(zlib.crc32(circuit_id.encode()))
    thinner = min(smaller, default=network.cpc * 1.6) / network.cpc
    return OnBench(
        network.ring, network.length, network.line, network.neutral, network.cpc, sorted(set(spots)), network.z_le or 0.35, network.z_ln or 0.35,
        network.u0, rcd.idn if rcd else 0.0, bool(rcd and rcd.delayed), round(chance.uniform(2, 12), 1), thinner,
    )  # fmt: skip
