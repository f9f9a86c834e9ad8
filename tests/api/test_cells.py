"""Cells read in the printed book: kept by the firm, felt by every job of it and by nobody else, and in the open format."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Any

import pytest
from django.test import Client

from mellow_span.jobs import models
from tests.conftest import Firm, make_firm

Sign = Callable[[Firm], Client]
CELL = {"table": "4D5", "row": "6", "column": "C", "edition": "made-up edition"}


def read(client: Client, **cell: Any) -> Any:
    return client.post("/api/rules/bs7671/cells", json.dumps({**CELL, **cell}), content_type="application/json")


def iz_of(client: Client, firm: Firm, name: str) -> tuple[float | None, bool]:
    state = client.get(f"/api/jobs/{firm.job.pk}").json()
    names = {c["id"]: c["name"] for c in state["installation"]["circuits"]}
    one = next(s for s in state["summaries"] if names[s["id"]] == name)
    return one["iz"], one["doubtful"]


def test_a_printed_value_is_used_in_every_job_of_the_firm_and_in_no_other(firm: Firm, signed_in: Sign) -> None:
    client, other = signed_in(firm), make_firm()
    before = iz_of(client, firm, "Cooker")[0]
    tag = client.get(f"/api/jobs/{firm.job.pk}")["ETag"]
    assert before == 47
    answer = read(client, value=45)
    assert answer.status_code == 200
    assert answer.json()[0]["by"]
    assert iz_of(client, firm, "Cooker")[0] == 45
    assert client.get(f"/api/jobs/{firm.job.pk}", headers={"If-None-Match": tag}).status_code == 200, "nothing old is shown for new"
    row = next(r for r in client.get("/api/rules/bs7671/tables/4D5").json()["rows"] if r["label"] == "6")
    assert "made-up edition" in row["read"]["C"]
    assert iz_of(signed_in(other), other, "Cooker")[0] == 47
    client = signed_in(firm)
    assert client.delete("/api/rules/bs7671/cells?table=4D5&row=6&column=C").json() == []
    assert iz_of(client, firm, "Cooker")[0] == 47


def test_a_doubtful_cell_that_agrees_is_doubtful_no_longer(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    cells = client.get(f"/api/jobs/{firm.job.pk}/cells").json()
    assert [c["check"] for c in cells] == [True] * len(cells)
    assert [c["uses"] for c in cells] == sorted((c["uses"] for c in cells), reverse=True)
    first = cells[0]
    assert read(client, table=first["table"], row=first["row"], column=first["column"], value=None).status_code == 200
    after = {(c["table"], c["row"], c["column"]): c for c in client.get(f"/api/jobs/{firm.job.pk}/cells").json()}
    one = after[(first["table"], first["row"], first["column"])]
    assert (one["check"], one["uses"]) == (False, first["uses"])
    assert "agrees with the printed table" in one["read"]


@pytest.mark.parametrize(
    "wrong", [{"table": "4D9"}, {"row": "7"}, {"column": "Z"}, {"value": -1}, {"edition": ""}, {"edition": " "}, {"table": "LIM", "row": "cmin", "column": "unit"}]
)  # fmt: skip
def test_a_cell_that_is_none_is_refused_at_its_field(firm: Firm, signed_in: Sign, wrong: dict[str, Any]) -> None:
    answer = read(signed_in(firm), **wrong)
    assert answer.status_code in (400, 422)
    assert answer.json()["errors"]
    assert not models.CellRead.objects.exists()


def test_what_was_read_travels_with_the_file_and_never_overrules_what_a_firm_read_itself(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    read(client, value=45)
    document = client.get(f"/api/jobs/{firm.job.pk}/export").json()
    assert document["installation"]["cells"][0]["value"] == 45
    other = make_firm()
    theirs = signed_in(other)
    read(theirs, row="10", value=60)
    assert theirs.post("/api/jobs/import", json.dumps(document), content_type="application/json").status_code == 201
    assert {(c["row"], c["value"]) for c in theirs.get("/api/rules/bs7671/cells").json()} == {("10", 60), ("6", 45)}
    document["installation"]["cells"][0]["value"] = 1
    assert theirs.post("/api/jobs/import", json.dumps(document), content_type="application/json").status_code == 201
    assert {(c["row"], c["value"]) for c in theirs.get("/api/rules/bs7671/cells").json()} == {("10", 60), ("6", 45)}
    document["installation"]["cells"][0]["column"] = "nowhere"
    refused = theirs.post("/api/jobs/import", json.dumps(document), content_type="application/json")
    assert refused.json()["errors"][0]["field"] == "installation.cells[0].column"
