"""Writing a whole installation as a job: identities are made anew, references between parts follow."""

from __future__ import annotations

import dataclasses
import uuid
from typing import Any

from django.db import transaction

from mellow_span.core.model import parts as core
from mellow_span.exchange.document import Document
from mellow_span.jobs import models
from mellow_span.jobs.load import (
    BOARD_FIELDS,
    BUNDLE_FIELDS,
    CIRCUIT_FIELDS,
    DISMISSAL_FIELDS,
    LOAD_FIELDS,
    SPAN_FIELDS,
    SUPPLY_FIELDS,
)


def _given(value: Any) -> dict[str, Any]:
    """The fields of a value that differ from its defaults."""
    return {f.name: getattr(value, f.name) for f in dataclasses.fields(value) if getattr(value, f.name) != f.default}


def _copied(part: Any, names: tuple[str, ...], job: models.Job, position: int) -> dict[str, Any]:
    return {"job": job, "position": position, **{name: getattr(part, name) for name in names}}


@transaction.atomic
def store(firm: models.Firm, document: Document) -> models.Job:
    """Store a document as a new job of a firm and return it."""
    inputs = document.installation
    name = document.name.strip() or "Unnamed job"
    job = models.Job.objects.create(firm=firm, name=name, note=document.note, ruleset=inputs.ruleset)
    models.Supply.objects.create(job=job, **{f: getattr(inputs.supply, f) for f in SUPPLY_FIELDS})
    boards = {b.id: models.Board(id=uuid.uuid4(), **_copied(b, BOARD_FIELDS, job, i)) for i, b in enumerate(inputs.boards)}
    models.Board.objects.bulk_create(boards.values())
    bundles = {b.id: models.Bundle(id=uuid.uuid4(), **_copied(b, BUNDLE_FIELDS, job, i)) for i, b in enumerate(inputs.bundles)}
    models.Bundle.objects.bulk_create(bundles.values())
    made: dict[str, str] = {old: str(row.pk) for old, row in (*boards.items(), *bundles.items())}
    for position, circuit in enumerate(inputs.circuits):
        made[circuit.id] = str(_store_circuit(job, circuit, position, boards, bundles).pk)
    for i, dismissal in enumerate(inputs.dismissals):
        row = models.Dismissal(**_copied(dismissal, DISMISSAL_FIELDS, job, i))
        # A key ends in the identity of what the advice is about.
        rule, _, subject = row.key.partition(":")
        row.key = f"{rule}:{made.get(subject, subject)}" if subject else rule
        row.save()
    return job


def _store_circuit(
    job: models.Job, circuit: core.Circuit, position: int, boards: dict[str, models.Board], bundles: dict[str, models.Bundle]
) -> models.Circuit:
    row = models.Circuit.objects.create(
        board=boards[circuit.board],
        feeds=boards[circuit.feeds] if circuit.feeds else None,
        device=_given(circuit.device),
        readings=_given(circuit.readings),
        **_copied(circuit, CIRCUIT_FIELDS, job, position),
    )
    run = models.Run.objects.create(job=job, circuit=row, cable=_given(circuit.run.cable))
    models.Load.objects.bulk_create(models.Load(circuit=row, **_copied(load, LOAD_FIELDS, job, i)) for i, load in enumerate(circuit.loads))
    models.Span.objects.bulk_create(
        models.Span(run=run, bundle=bundles[span.bundle] if span.bundle else None, **_copied(span, SPAN_FIELDS, job, i))
        for i, span in enumerate(circuit.run.spans)
    )
    return row
