"""Readings that a design holds in itself, as files of before the log on site do, as readings of the log."""

from __future__ import annotations

from dataclasses import fields

from mellow_span.core.errors import CoreError
from mellow_span.core.model.parts import Installation
from mellow_span.core.site.readings import Reading
from mellow_span.core.site.results import results_of


def earlier(job: Installation) -> list[tuple[str, Reading]]:
    """Return the readings that the circuits of a job hold in themselves, each with its circuit, at the furthest point that the test is asked for."""
    found = []
    for circuit in job.circuits:
        held, degrees = circuit.readings, circuit.readings.temperature
        given = [(f.name, value) for f in fields(held) if f.name != "temperature" and (value := getattr(held, f.name)) is not None]
        if not given:
            continue
        try:
            tests = results_of(job, circuit.id, (), together=False).tests
        except CoreError:
            tests = []
        for name, value in given:
            test = max((t for t in tests if t.quantity == name), key=lambda t: t.at or 0.0, default=None)
            point, at = (test.point, test.at) if test else ("", None)
            note = "entered with the design"
            found.append((circuit.id, Reading(quantity=name, value=value, point=point, at=at, temperature=degrees, note=note)))  # type: ignore[arg-type]
    return found
