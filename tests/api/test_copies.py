"""Copies beside a job, the bin, short starts and what is said: what the API keeps of them, and for whom."""

from __future__ import annotations

import json
import uuid
from datetime import timedelta
from typing import Any

import pytest
from django.utils import timezone

from mellow_span.jobs import models
from mellow_span.jobs.reads import installation
from mellow_span.serving.tasks import thin_out
from tests.api.test_jobs import Sign, change, send
from tests.conftest import Firm

pytestmark = pytest.mark.django_db


def put(client: Any, firm: Firm, name: str, *changes: Any, id: str | None = None) -> Any:
    body = {"id": id or str(uuid.uuid4()), "name": name, "changes": list(changes)}
    return client.post(f"/api/jobs/{firm.job.pk}/copies", json.dumps(body), content_type="application/json")


def columns(client: Any, firm: Firm) -> dict[str, Any]:
    return {c["title"]: c for c in client.get(f"/api/jobs/{firm.job.pk}/copies").json()}


def test_a_copy_stands_beside_the_job_and_follows_it_without_touching_it(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    before = installation(firm.job)
    shower = next(c for c in before.circuits if c.name == "Shower")
    smaller = change("set", "load", shower.loads[0].id, fields={"amount": 7200})
    device = change("set", "circuit", shower.id, fields={"device": {"rating": 32}})
    assert put(client, firm, "Smaller shower", smaller, device).status_code == 201
    found = columns(client, firm)
    assert installation(models.Job.objects.get(pk=firm.job.pk)) == before
    assert found["Smaller shower"]["better"] == [shower.id]
    assert found["Smaller shower"]["worse"] == []
    assert found["Smaller shower"]["said"][0].startswith("Shower")
    assert found["Every length 10 % longer"]["ready"]
    assert found["As it is"]["changes"] == []
    # The circuit goes from the job: the copy can no longer be made, and says so instead of failing the page.
    assert send(client, firm, change("remove", "circuit", shower.id)).status_code == 200
    assert columns(client, firm)["Smaller shower"]["why"] != ""


def test_a_copy_that_cannot_be_made_is_refused_and_so_is_one_too_many(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    bad = put(client, firm, "Bad", change("set", "supply", fields={"ze": -4}))
    assert bad.status_code == 422
    assert "ze" in bad.content.decode()
    ze = change("set", "supply", fields={"ze": 0.3})
    first = str(uuid.uuid4())
    assert put(client, firm, "One", ze, id=first).status_code == 201
    # Sent again it takes the place of what was kept, and is no second one.
    assert put(client, firm, "One, renamed", ze, id=first).status_code == 201
    assert firm.job.copies.count() == 1
    for i in range(7):
        assert put(client, firm, f"More {i}", ze).status_code == 201
    assert put(client, firm, "Too many", ze).status_code == 422
    assert client.delete(f"/api/jobs/{firm.job.pk}/copies/{first}").status_code == 204
    assert put(client, firm, "Now there is room", ze).status_code == 201


def test_a_copy_of_another_firm_is_neither_seen_nor_thrown_away(firm: Firm, other: Firm, signed_in: Sign) -> None:
    theirs = str(uuid.uuid4())
    assert put(signed_in(other), other, "Theirs", change("set", "supply", fields={"ze": 0.3}), id=theirs).status_code == 201
    client = signed_in(firm)
    assert "Theirs" not in columns(client, firm)
    assert client.delete(f"/api/jobs/{firm.job.pk}/copies/{theirs}").status_code == 204
    assert put(client, firm, "Mine", change("set", "supply", fields={"ze": 0.3}), id=theirs).status_code == 422
    assert models.Copy.objects.get(pk=theirs).job_id == other.job.pk


def test_a_deleted_job_lies_in_the_bin_for_thirty_days(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    url = f"/api/jobs/{firm.job.pk}"
    assert client.delete(url).status_code == 204
    assert client.get(url).status_code == 404
    assert client.get("/api/jobs").json()["total"] == 0
    assert [j["name"] for j in client.get("/api/jobs?removed=true").json()["jobs"]] == ["Orchard Row"]
    assert client.post(f"{url}/bring-back", "{}", content_type="application/json").status_code == 200
    assert client.get(url).status_code == 200
    client.delete(url)
    models.Job.objects.filter(pk=firm.job.pk).update(removed=timezone.now() - timedelta(days=29, hours=23))
    assert client.get("/api/jobs?removed=true").json()["total"] == 1
    models.Job.objects.filter(pk=firm.job.pk).update(removed=timezone.now() - timedelta(days=30, minutes=1))
    assert client.get("/api/jobs?removed=true").json()["total"] == 0
    assert client.post(f"{url}/bring-back", "{}", content_type="application/json").status_code == 404
    # It is gone for good once the processes behind put away what is kept no longer.
    assert models.Job.objects.filter(pk=firm.job.pk).exists()
    thin_out(0)
    assert not models.Job.objects.filter(pk=firm.job.pk).exists()


def test_the_list_says_whose_job_it_is_where_and_who_touched_it_last(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    send(client, firm, change("set", "job", fields={"client": "the potter", "place": "end of the row"}))
    line = client.get("/api/jobs?search=potter").json()["jobs"][0]
    assert (line["client"], line["place"], line["by"]) == ("the potter", "end of the row", firm.member.name)


@pytest.mark.parametrize(
    ("kind", "boards", "phases"),
    [
        ("house", ["Board of the house"], 1),
        ("outbuilding", ["Board of the house", "Studio board"], 1),
        ("workshop", ["Workshop board"], 3),
        ("flat", ["Board of the flat"], 1),
    ],
)
def test_a_short_start_makes_what_was_answered_and_nothing_else(
    kind: str, boards: list[str], phases: int, firm: Firm, signed_in: Sign
) -> None:
    body = {"name": "New", "kind": kind, "outbuilding": "Studio", "distance": 22.5, "ways": 12}
    made = signed_in(firm).post("/api/jobs", json.dumps(body), content_type="application/json").json()["installation"]
    assert [b["name"] for b in made["boards"]] == boards
    assert (made["supply"]["phases"], made["supply"]["earthing"], made["supply"]["ze"], made["boards"][0]["ways"]) == (
        phases,
        None,
        None,
        12,
    )
    feeds = [(c["name"], c["device"]["rating"], c["run"]["spans"][0]["length"]) for c in made["circuits"]]
    assert feeds == ([("Studio feed", None, 22.5)] if kind == "outbuilding" else [])


def test_lines_and_cells_are_read_and_change_nothing(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    before = installation(firm.job)
    text = "towel rail 120W b6 rcbo 30mA 1.5 flat: landing joists 4\nlamp 20W b6 77"
    found = client.post(f"/api/jobs/{firm.job.pk}/said", json.dumps({"text": text}), content_type="application/json").json()
    assert [(line["name"], [u["text"] for u in line["unread"]]) for line in found] == [("Towel rail", []), ("Lamp", ["77"])]
    edit = {"edit_id": str(uuid.uuid4()), "version": 1, "changes": [c for line in found for c in line["changes"]]}
    assert installation(models.Job.objects.get(pk=firm.job.pk)) == before
    assert client.patch(f"/api/jobs/{firm.job.pk}", json.dumps(edit), content_type="application/json").status_code == 200
    rows = {"board": before.boards[0].id, "rows": [["Breaker", "Size"], ["b16 what", "2.5"]], "circuits": [before.circuits[0].id]}
    read = client.post(f"/api/jobs/{firm.job.pk}/said/rows", json.dumps(rows), content_type="application/json").json()
    assert read["columns"] == ["device", "cable"]
    assert [c["why"] != "" for c in read["rows"][0]["cells"]] == [True, False]
    strange = {**rows, "circuits": [str(uuid.uuid4())]}
    assert client.post(f"/api/jobs/{firm.job.pk}/said/rows", json.dumps(strange), content_type="application/json").status_code == 422


def test_tables_are_found_by_number_word_clause_and_value(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)

    def search(words: str) -> Any:
        return client.get("/api/rules/bs7671/search", {"words": words}).json()

    assert [t["number"] for t in search("4D5")["tables"]] == ["4D5"]
    assert "4B1" in [t["number"] for t in search("ambient air")["tables"]]
    clauses = search("433.1.1")["clauses"]
    assert any("Cable capacity" in c["checks"] for c in clauses)
    lit = {(t["number"], c["row"], c["column"]) for t in search("36")["tables"] for c in t["cells"]}
    assert ("4D5", "10", "m101") in lit
    assert search("")["tables"] == []
    assert search("nothing of the kind")["clauses"] == []


def test_a_pasted_first_row_that_names_the_columns_is_read_as_that(firm: Firm, signed_in: Sign) -> None:
    """By any of the names it is known by; a circuit that is called Fuse is a circuit."""
    client, board = signed_in(firm), str(firm.job.board_set.get(name="House board").pk)

    def rows(table: list[list[str]]) -> Any:
        body = {"board": board, "rows": table, "columns": ["name", "device", "length"], "pasted": True}
        return client.post(f"/api/jobs/{firm.job.pk}/said/rows", json.dumps(body), content_type="application/json").json()

    named = rows([["Designation", "MCB", "csa"], ["Pond", "b16", "2.5"]])
    assert named["columns"] == ["name", "device", "cable"]
    assert [[c["text"] for c in r["cells"]] for r in named["rows"]] == [["Pond", "b16", "2.5"]]
    plain = rows([["Fuse", "b16", "9"], ["Pond", "b16", "9"]])
    assert plain["columns"] == ["name", "device", "length"]
    assert [r["cells"][0]["text"] for r in plain["rows"]] == ["Fuse", "Pond"]
