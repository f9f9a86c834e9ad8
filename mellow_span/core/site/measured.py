"""A supply as it was measured at the origin, in place of what was assumed of it: so what is predicted of a circuit rests on the instrument."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from mellow_span.core.cache import Latest
from mellow_span.core.model.parts import Installation
from mellow_span.core.site.entries import Entry

# As it was measured last: asked about by one view after the other.
_MEASURED: Latest[Installation, Installation] = Latest(4)


def as_measured(job: Installation, entries: Sequence[Entry]) -> Installation:
    """Return a job whose Ze and Ipf, where they are assumed or not entered, are those last read at the origin; else the job as it is.

    entries: its log in the order in which they were taken. For predictions alone: the design keeps what was entered until somebody changes it.
    """
    fed = {c.feeds for c in job.circuits}
    origin = next((b.id for b in job.boards if b.id not in fed), None)
    read = {
        e.data.quantity: e.data.value
        for e in entries
        # Nothing at all is less than an instrument tells, and no supply.
        if e.kind == "board_reading" and e.subject == origin and (e.data.value or 0.0) > 0 and not e.data.over
    }
    supply, better = job.supply, dict[str, Any]()
    if "ze" in read and (supply.ze is None or supply.ze_source == "assumed"):
        better |= {"ze": read["ze"], "ze_source": "measured"}
    if "ipf" in read and (supply.ipf is None or supply.ipf_source == "assumed"):
        better |= {"ipf": read["ipf"], "ipf_source": "measured"}
    if not better:
        return job
    measured, known = replace(supply, **better), _MEASURED.get(job)
    if known is None or known.supply != measured:
        known = replace(job, supply=measured)
        _MEASURED.put(job, known)
    return known
