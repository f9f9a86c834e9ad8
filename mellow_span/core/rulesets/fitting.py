"""Whether a job can stand under a book: every cable, place and device in it is one that the book knows."""

from __future__ import annotations

from collections.abc import Container, Iterator

from mellow_span.core.errors import InputError
from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets import RuleSet


def strange(job: Installation, rules: RuleSet) -> tuple[str, ...]:
    """Return what is in a job that a book does not know, each once: identities of families, places, ways of laying, devices."""
    return tuple(dict.fromkeys(value for value, known in _chosen(job, rules) if value and value not in known))


def hold_to(job: Installation, rules: RuleSet) -> None:
    """Raise InputError, naming all of it, where a job has something in it that a book does not know."""
    if found := strange(job, rules):
        raise InputError("ruleset", job.ruleset, f"a book that knows everything in the job; {rules.title} has no " + ", ".join(found))


def _chosen(job: Installation, rules: RuleSet) -> Iterator[tuple[str | None, Container[str]]]:
    yield job.supply.fuse_kind, rules.service
    for circuit in job.circuits:
        yield circuit.run.cable.family, rules.families
        yield circuit.device.kind, rules.devices
        for span in circuit.run.spans:
            yield span.place, rules.places
            yield span.laid, rules.laid
    for route in job.routes:
        yield route.place, rules.places
        yield route.laid, rules.laid
