"""What stands between one firm and another, one person and the next, and a page and the rest of the world."""

from __future__ import annotations

import json
import threading
import uuid
from collections.abc import Callable
from typing import Any

import pytest
from django.db import connection, connections
from django.test import Client
from django.test.utils import CaptureQueriesContext

from mellow_span.jobs import models
from mellow_span.jobs.reads import installation
from tests.api.test_jobs import change, named, send
from tests.conftest import Firm, make_firm

pytestmark = pytest.mark.django_db
Sign = Callable[[Firm], Client]


def test_a_load_cannot_be_added_to_another_firms_circuit(firm: Firm, other: Firm, signed_in: Sign) -> None:
    foreign, before = named(other, "Shower"), installation(other.job)
    answer = send(signed_in(firm), firm, change("add", "load", uuid.uuid4(), parent=str(foreign.pk), fields={"amount": 1}))
    assert (answer.status_code, answer.json()["errors"][0]["field"]) == (422, "parent")
    answer = send(signed_in(firm), firm, change("add", "span", uuid.uuid4(), parent=str(foreign.pk)))
    assert answer.status_code == 422
    other.job.refresh_from_db()
    assert installation(other.job) == before


@pytest.mark.parametrize(("kind", "field", "row"), [("span", "route", models.Route), ("circuit", "feeds", models.Board)])
def test_a_part_cannot_name_another_firms_part(kind: str, field: str, row: Any, firm: Firm, other: Firm, signed_in: Sign) -> None:
    foreign = row.objects.filter(job=other.job).first()
    shower = named(firm, "Shower")
    target = {"span": shower.run.spans.first(), "circuit": shower}[kind]
    answer = send(signed_in(firm), firm, change("set", kind, target.pk, fields={field: str(foreign.pk)}))
    assert (answer.status_code, answer.json()["errors"][0]["field"]) == (422, field)
    new = change("add", kind, uuid.uuid4(), parent=str(shower.pk if kind == "span" else shower.board_id), fields={field: str(foreign.pk)})
    assert send(signed_in(firm), firm, new).status_code == 422


def test_an_edit_locks_its_job_and_a_look_locks_nothing(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    with CaptureQueriesContext(connection) as queries:
        send(client, firm, change("set", "job", fields={"name": "x"}))
    assert any("FOR UPDATE" in q["sql"] and "jobs_job" in q["sql"] for q in queries)
    shower = named(firm, "Shower").pk
    for path in (
        "",
        f"?focus={shower}",
        "/overview",
        "/export",
        "/history",
        "/holds",
        f"/circuits/{shower}/options",
        f"/circuits/{shower}/size",
    ):
        with CaptureQueriesContext(connection) as queries:
            assert client.get(f"/api/jobs/{firm.job.pk}{path}").status_code == 200
        assert not [q["sql"] for q in queries if "FOR UPDATE" in q["sql"]], path


@pytest.mark.django_db(transaction=True)
def test_many_edits_at_once_all_land_in_some_order() -> None:
    """Eight threads edit one job at the same time from the same version: every edit is there, each version once."""
    firm = make_firm()
    spans = [str(s.pk) for s in models.Span.objects.filter(job=firm.job)[:8]]
    clients = [Client() for _ in spans]
    for client in clients:
        client.force_login(firm.member.user)
    answers: list[int] = []

    def edit(client: Client, span: str, metres: int) -> None:
        body = {"edit_id": str(uuid.uuid4()), "version": 1, "changes": [change("set", "span", span, fields={"length": metres})]}
        answer = client.patch(f"/api/jobs/{firm.job.pk}", json.dumps(body), content_type="application/json")
        answers.append(answer.json()["landed"] if answer.status_code == 200 else answer.status_code)
        connections.close_all()

    threads = [threading.Thread(target=edit, args=(c, s, i + 2)) for i, (c, s) in enumerate(zip(clients, spans, strict=True))]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(answers) == list(range(2, 10))
    firm.job.refresh_from_db()
    assert firm.job.version == 9
    lengths = {str(s.pk): s.length for s in models.Span.objects.filter(job=firm.job, pk__in=spans)}
    assert lengths == {span: i + 2 for i, span in enumerate(spans)}


def test_a_removed_circuit_is_in_the_history_with_its_loads_and_spans(firm: Firm, signed_in: Sign) -> None:
    shower = named(firm, "Shower")
    loads, spans = {str(x.pk) for x in shower.loads.all()}, {str(s.pk) for s in shower.run.spans.all()}
    send(signed_in(firm), firm, change("remove", "circuit", shower.pk))
    rows = models.Edit.objects.get(job=firm.job).changes
    assert {r["id"] for r in rows if r["kind"] == "load"} == loads
    assert {r["id"] for r in rows if r["kind"] == "span"} == spans
    load = next(r for r in rows if r["kind"] == "load")
    assert load["before"]["fields"]["amount"] == 9200
    assert load["before"]["parent"] == str(shower.pk)


def test_one_more_than_the_most_is_refused_and_the_most_is_not(firm: Firm, signed_in: Sign) -> None:
    client, shower = signed_in(firm), named(firm, "Shower")
    have = shower.loads.count()
    fill = [change("add", "load", uuid.uuid4(), parent=str(shower.pk)) for _ in range(40 - have)]
    assert send(client, firm, *fill).status_code == 200
    over = send(client, firm, change("add", "load", uuid.uuid4(), parent=str(shower.pk)))
    assert (over.status_code, over.json()["errors"][0]["allowed"]) == (422, "at most 40 of them")


def test_too_many_changes_at_once_are_refused(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    many = [change("set", "job", fields={"name": f"n{i}"}) for i in range(201)]
    assert send(client, firm, *many).status_code == 422
    assert send(client, firm, *many[:200]).status_code == 200


def test_signing_out_needs_the_token_and_ends_the_session(firm: Firm) -> None:
    client = Client(enforce_csrf_checks=True)
    client.force_login(firm.member.user)
    token = client.get("/api/session").json()["csrf"]
    assert client.delete("/api/session").status_code == 403
    assert client.get("/api/session").json()["signed_in"] is True
    gone = client.delete("/api/session", headers={"X-CSRFToken": token})
    assert gone.json()["signed_in"] is False
    assert client.get("/api/session").json()["signed_in"] is False
    assert client.get(f"/api/jobs/{firm.job.pk}").status_code == 401


def test_every_answer_keeps_the_page_to_its_own_scripts(firm: Firm, client: Client) -> None:
    for path in ("/", "/api/session", f"/jobs/{firm.job.pk}", "/no/such/page"):
        policy = client.get(path).headers["Content-Security-Policy"]
        assert "default-src 'self'" in policy
        assert "frame-ancestors 'none'" in policy
        assert "unsafe-eval" not in policy
        assert "http:" not in policy


def test_the_person_behind_a_session_is_told_apart(firm: Firm, other: Firm, signed_in: Sign) -> None:
    mine = signed_in(firm).get("/api/session").json()
    theirs = signed_in(other).get("/api/session").json()
    assert mine["person"] == str(firm.member.pk)
    assert mine["person"] != theirs["person"]
    assert Client().get("/api/session").json()["person"] == ""


@pytest.mark.parametrize("version", [0, -1, 2_000_000_001, "x"])
def test_a_version_that_cannot_be_is_refused(version: Any, firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    body = {"edit_id": str(uuid.uuid4()), "version": version, "changes": [change("set", "job", fields={"name": "x"})]}
    assert client.patch(f"/api/jobs/{firm.job.pk}", json.dumps(body), content_type="application/json").status_code == 422


def test_an_edit_from_a_version_that_is_not_there_yet_is_refused(firm: Firm, signed_in: Sign) -> None:
    answer = send(signed_in(firm), firm, change("set", "job", fields={"name": "x"}), version=7)
    assert (answer.status_code, answer.json()["errors"][0]["field"]) == (422, "version")
    assert models.Job.objects.get(pk=firm.job.pk).version == 1


def test_a_version_number_out_of_an_old_database_cannot_be_merged_over(firm: Firm, signed_in: Sign) -> None:
    """An edit saved before the history could be played stops merging and going back, and says so."""
    client = signed_in(firm)
    send(client, firm, change("set", "job", fields={"name": "x"}))
    models.Edit.objects.filter(job=firm.job).update(
        playable=False, changes=[{"op": "set", "kind": "job", "id": "", "before": {}, "after": {}}]
    )
    assert send(client, firm, change("set", "job", fields={"note": "y"}), version=1).json()["errors"][0]["field"] == "version"
    assert send(client, firm, change("set", "job", fields={"note": "y"}), version=2).status_code == 200
    lines = client.get(f"/api/jobs/{firm.job.pk}/history").json()["lines"]
    assert [(line["version"], line["reachable"]) for line in lines] == [(3, True), (2, True)]
    body = {"edit_id": str(uuid.uuid4()), "version": 3, "to": 1}
    assert client.post(f"/api/jobs/{firm.job.pk}/back", json.dumps(body), content_type="application/json").status_code == 422
