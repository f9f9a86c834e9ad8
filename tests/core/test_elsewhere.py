"""What does not come from our tables: a capacity from a maker or another book, and a current found for the heating of a group."""

from __future__ import annotations

from typing import Any

import pytest

from mellow_span.core.design.check import check
from mellow_span.core.design.size import size
from mellow_span.core.findings.results import Check, CircuitResult
from mellow_span.core.model.parts import Installation
from mellow_span.papers.register import paper
from mellow_span.papers.subject import Subject
from tests.build import circuit, job

SHEET = {"given_iz": 44, "given_for": 6, "given_by": "sheet of the maker, page 3"}


def found(inputs: Installation, which: str = "c") -> CircuitResult:
    return next(c for c in check(inputs).circuits if c.id == which)


def one(result: CircuitResult, id: str) -> Check:
    return next(c for c in result.checks if c.id == id)


def given(cable: Any = None, **span: Any) -> Installation:
    return job(circuit(spans=[{**SHEET, **span}], cable=cable or {}))


def test_a_capacity_from_elsewhere_counts_as_it_is_with_its_source_and_is_marked() -> None:
    # The tables would have it derated by far more: wrapped, hot and grouped.
    inputs = given(wrapped=5, ambient=50, group=6)
    result = found(inputs)
    assert result.iz == 44
    assert one(result, "capacity").doubtful
    assert any("page 3" in step.note for step in one(result, "capacity").steps)
    printed = " ".join(item.text for _, _, item in paper(Subject(inputs, printed="today"), "schedule", "").cells())
    assert "sheet of the maker, page 3" in printed
    assert "sheet of the maker, page 3" in " ".join(
        item.text for _, _, item in paper(Subject(inputs, printed="today"), "working", "c").cells()
    )


@pytest.mark.parametrize(
    ("fields", "field"), [({"given_for": None}, "given_for"), ({"given_by": ""}, "given_by"), ({"given_by": "  "}, "given_by")]
)
def test_without_its_csa_or_its_source_it_is_not_known(fields: dict[str, Any], field: str) -> None:
    refused = one(found(given(**fields)), "capacity")
    assert (refused.verdict, refused.field) == ("not_known", f"span.c-s0.{field}")


def test_it_holds_for_its_own_csa_alone() -> None:
    tables = found(job(circuit(cable={"csa": 10})))
    assert found(given(cable={"csa": 10})).iz == tables.iz
    # A search for a size does not carry it to another one.
    forty = {"device": {"rating": 40}}
    low = job(circuit(spans=[{**SHEET, "given_iz": 20}], **forty))
    assert one(found(low), "capacity").verdict == "short"
    assert (size(job(circuit(**forty)), "c").csa, size(low, "c").csa) == (6, 10)


def test_parallel_cables_carry_it_each() -> None:
    inputs = job(
        circuit(
            spans=[{**SHEET, "given_for": 25, "given_iz": 90}],
            cable={"family": "armoured_xlpe90", "csa": 25, "parallel": 2},
            device={"rating": 63},
        )
    )
    assert found(inputs).iz == 180


def test_the_factor_of_a_rewirable_fuse_is_the_fuses_and_counts_beside_it() -> None:
    fuse = {"kind": "BS3036", "rating": 30, "icn": 4000}
    inputs = job(circuit(spans=[{**SHEET, "given_iz": 32}], device=fuse))
    assert found(inputs).iz == pytest.approx(32 * 0.725)
    assert one(found(inputs), "capacity").verdict == "short"
    assert one(found(job(circuit(spans=[SHEET], device=fuse))), "capacity").verdict == "meets"


# Currents of a group ----------------------------------------------------------------------------------------------------------

SOCKETS = {"loads": [{"kind": "sockets", "basis": "In", "amount": None}], "device": {"rating": 20}, "cable": {"csa": 4}}


def bundle(n: int = 6, **first: Any) -> Installation:
    """So many socket circuits in one route; what is found is entered for all but the first, which is asked."""
    others = [circuit(f"o{i}", spans=[{"route": "k"}], **{**SOCKETS, **first}) for i in range(n - 1)]
    return job(circuit("c", spans=[{"route": "k"}], **SOCKETS), *others, routes=[{"id": "k", "name": "riser"}])


FOUND = {"group_amps": 4.0, "group_amps_by": "clamp, a week in October, by the designer"}


def count(inputs: Installation) -> Check:
    return next(c for c in check(inputs).routes[0].checks if c.id == "count")


def test_what_a_device_would_let_flow_groups_unless_what_flows_is_found() -> None:
    plain, judged = bundle(), bundle(**FOUND)
    assert (count(plain).value, count(judged).value) == (6, 1)
    assert (found(judged).iz or 0) > (found(plain).iz or 0)
    # Overload stays with the device.
    assert found(judged, "o0").ib == found(plain, "o0").ib == 20
    assert one(found(judged, "o0"), "design_current").limit == 20


def test_it_is_told_as_a_judgement_and_stands_on_the_paper() -> None:
    told = count(bundle(**FOUND))
    assert told.verdict == "close"
    assert "designer's judgement" in told.text
    assert any("clamp, a week in October" in step.note for step in told.steps)
    cells = [item.text for _, _, item in paper(Subject(bundle(**FOUND), printed="today"), "schedule", "").cells()]
    assert any("grouped at 4" in text and "clamp, a week in October" in text for text in cells)


def test_without_how_it_was_found_it_does_not_count() -> None:
    unsaid = bundle(group_amps=4.0)
    assert count(unsaid).value == 6
    assert "not used until it is entered how it was found" in count(unsaid).text
    assert found(unsaid).iz == found(bundle()).iz


def test_circuits_not_overloaded_together_take_it_too() -> None:
    def iz(**first: Any) -> float:
        others = [circuit(f"o{i}", spans=[{"route": "k"}], **SOCKETS) for i in range(5)]
        inputs = job(circuit("c", spans=[{"route": "k"}], **{**SOCKETS, **first}), *others, routes=[{"id": "k", "simultaneous": True}])
        return found(inputs).iz or 0.0

    # sqrt(20^2 + 0.48 x 8^2 (1 - Cg^2) / Cg^2) at Cg of 6 circuits, against Ib / Cg = 35 for 20 A.
    assert iz(group_amps=8.0, group_amps_by="logger") > iz()
