"""Jobs with a word that no book knows in any field that chooses from its book."""

from __future__ import annotations

import dataclasses

from mellow_span.core.model.fields import PART, about, field_names, laid_over
from mellow_span.core.model.parts import Installation
from tests.build import circuit, job, submain

WORD = "marsh fog"
# The book of a job is asked for where its rules are laid; see test_packs.
FIELDS = [(kind, name) for kind in PART for name in field_names(kind) if about(kind, name).get("choices") not in (None, "", "book")]


def house() -> Installation:
    """A sub-main with a final behind it, one beside it, two in a route together."""
    two = [circuit(id, spans=[{"route": "k", "place": None}], loads=[{"amount": 3000}]) for id in ("in1", "in2")]
    return job(
        submain("m"), circuit("far1", board="far"), circuit("near"), *two, boards=["b", "far"],
        supply={"fuse_kind": "BS1361", "fuse_in": 80}, routes=[{"id": "k", "place": "masonry", "length": 4}],
    )  # fmt: skip


def strange(job: Installation, kind: str, name: str, id: str) -> Installation:
    """The job with a word nobody knows in one field of one part."""
    word = {name: WORD}
    if kind == "supply":
        return dataclasses.replace(job, supply=laid_over(job.supply, word))
    if kind == "route":
        return dataclasses.replace(job, routes=tuple(laid_over(r, word) for r in job.routes))
    circuits = []
    for one in job.circuits:
        if one.id == id:
            if kind == "span":
                one = dataclasses.replace(one, run=dataclasses.replace(one.run, spans=tuple(laid_over(s, word) for s in one.run.spans)))
            else:
                one = laid_over(one, word)
        circuits.append(one)
    return dataclasses.replace(job, circuits=tuple(circuits))
