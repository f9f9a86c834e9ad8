"""Numbers that stay, through the API: from the tick, the reading or the issue on, over removals, undo, files, and two who tag at once."""

from __future__ import annotations

import importlib
import json
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest
from django.apps import apps
from django.db import connection
from django.test import Client

from mellow_span.jobs.models import Circuit, Job, Number
from mellow_span.jobs.reads import forget, installation
from tests.api.test_issues import post as revision
from tests.api.test_jobs import change, named, send
from tests.api.test_pulls import write
from tests.conftest import PASSWORD, Firm

Sign = Callable[[Firm], Client]


def pulled(client: Client, firm: Firm) -> dict[str, dict[str, Any]]:
    lines = client.get(f"/api/jobs/{firm.job.pk}/pulls").json()["lines"]
    return {line["pull"]["name"]: line["pull"] for line in lines}


@pytest.mark.django_db
def test_a_tick_keeps_the_number_whatever_goes_before_it(firm: Firm, signed_in: Sign) -> None:
    client, ring = signed_in(firm), named(firm, "Ring, first floor").pk
    write(client, firm, "undecided", named(firm, "Shower").pk, undecided=True)
    assert not Number.objects.filter(job=firm.job).exists(), "nothing is tagged by that"
    was = pulled(client, firm)
    write(client, firm, "pulled", named(firm, "Shower").pk, done=True)
    assert set(Number.objects.filter(job=firm.job).values_list("number", flat=True)) == {"A", "A4"}
    assert send(client, firm, change("remove", "circuit", ring)).status_code == 200
    now = pulled(client, firm)
    assert (now["Shower"]["number"], now["Shower"]["kept"]) == ("A4", "now way 3 of House board")
    assert now["Shower"]["tags"] == was["Shower"]["tags"]
    # The cooker was at way 3 and moves up; whoever lands on way 4 gets another number.
    assert now["Cooker"]["number"] == "A2"
    assert now["Lights, ground floor"]["number"] not in ("A4", "A2")
    chart = client.get(f"/api/jobs/{firm.job.pk}/papers/chart/json").content.decode()
    assert "A4 is now way 3 of House board" in chart
    client.post(f"/api/jobs/{firm.job.pk}/undo", json.dumps({"edit_id": str(ring), "again": False}), content_type="application/json")
    assert {n: p["number"] for n, p in pulled(client, firm).items()} == {n: p["number"] for n, p in was.items()}


@pytest.mark.django_db
def test_an_issue_keeps_every_number_and_a_removed_one_is_not_used_again(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    was = pulled(client, firm)
    one = revision(client, firm, version=1)
    assert one.status_code == 201
    file = json.loads(client.get(f"/api/jobs/{firm.job.pk}/revisions/1/file").content)
    assert {t["number"] for t in file["job"]["installation"]["numbers"]} >= {"A", "B", "A4"}
    send(client, firm, change("remove", "circuit", named(firm, "Shower").pk))
    now = pulled(client, firm)
    assert {n: p["number"] for n, p in now.items()} == {n: p["number"] for n, p in was.items() if n != "Shower"}
    assert "Not used again, their circuits were removed: A4" in client.get(f"/api/jobs/{firm.job.pk}/papers/chart/json").content.decode()
    # They go with the file, and hold in the job made from it.
    told = client.get(f"/api/jobs/{firm.job.pk}/export").json()
    made = client.post("/api/jobs/import", json.dumps(told), content_type="application/json").json()["id"]
    lines = client.get(f"/api/jobs/{made}/pulls").json()["lines"]
    assert {x["pull"]["name"]: x["pull"]["number"] for x in lines} == {n: p["number"] for n, p in now.items()}
    assert Job.objects.get(pk=made).numbered == firm.job.numbers.count()


@pytest.mark.django_db
def test_the_state_of_a_job_is_another_once_a_number_stays(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    first = client.get(f"/api/jobs/{firm.job.pk}")
    write(client, firm, "reading", named(firm, "Shower").pk, quantity="zs", value=0.5, point="shower")
    again = client.get(f"/api/jobs/{firm.job.pk}", headers={"If-None-Match": first["ETag"]})
    assert again.status_code == 200
    assert {t["number"] for t in again.json()["installation"]["numbers"]} == {"A", "A4"}
    assert client.get(f"/api/jobs/{firm.job.pk}", headers={"If-None-Match": again["ETag"]}).status_code == 304


@pytest.mark.django_db(transaction=True)
def test_of_many_who_tag_at_once_each_number_is_kept_once(firm: Firm) -> None:
    circuits = list(Circuit.objects.filter(job=firm.job))[:6] * 2

    def tick(circuit: Circuit) -> Any:
        client = Client()
        client.login(username=firm.username, password=PASSWORD)
        answer = write(client, firm, "pulled", circuit.pk, done=True)
        connection.close()
        return answer.status_code, answer.json()["kind"]

    with ThreadPoolExecutor(6) as pool:
        assert set(pool.map(tick, circuits)) == {(200, "pulled")}
    job = Job.objects.get(pk=firm.job.pk)
    assert job.numbered == job.numbers.count() == 6 + len({c.board_id for c in circuits})
    forget(job)
    assert len(installation(job).numbers) == job.numbered


@pytest.mark.django_db
def test_jobs_from_before_keep_the_numbers_they_have(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    write(client, firm, "pulled", named(firm, "Shower").pk, done=True)
    kept = set(Number.objects.values_list("part", "number"))
    Number.objects.all().delete()
    Job.objects.update(numbered=0)
    step = importlib.import_module("mellow_span.logbook.migrations.0004_numbers_that_stay")
    step.keep(apps, None)
    assert set(Number.objects.values_list("part", "number")) == kept
    step.keep(apps, None)
    assert Number.objects.count() == len(kept) == Job.objects.get(pk=firm.job.pk).numbered
