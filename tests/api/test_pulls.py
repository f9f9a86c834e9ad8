"""The pull list through the API: ticked off apart from the design, by whoever is on site."""

from __future__ import annotations

import json
import uuid
from collections.abc import Callable
from datetime import timedelta
from typing import Any

import pytest
from django.test import Client
from django.utils import timezone

from mellow_span.jobs.models import Job, Pulled
from tests.api.test_jobs import change, named, send
from tests.conftest import Firm, make_colleague

pytestmark = pytest.mark.django_db
Sign = Callable[[Firm], Client]


def tick(client: Client, firm: Firm, circuit: Any, **body: Any) -> Any:
    return client.post(f"/api/jobs/{firm.job.pk}/pulls/{circuit}", json.dumps(body), content_type="application/json")


def line(answer: Any, circuit: Any) -> dict[str, Any]:
    found: dict[str, Any] = next(x for x in answer.json()["lines"] if x["pull"]["circuit"] == str(circuit))
    return found


def test_an_apprentice_ticks_a_cable_off_and_no_edit_clashes_with_it(firm: Firm, signed_in: Sign) -> None:
    boss, shower = signed_in(firm), named(firm, "Shower").pk
    there = Client()
    there.force_login(make_colleague(firm, "apprentice").user)
    when = (timezone.now() - timedelta(hours=2)).isoformat()
    done = line(tick(there, firm, shower, done=True, at=when), shower)
    assert (done["done"], done["by"], done["at"][:16]) == (True, "colleague", when[:16])
    assert Job.objects.get(pk=firm.job.pk).version == 1
    assert send(boss, firm, change("set", "circuit", shower, fields={"name": "Power shower"}), version=1).status_code == 200
    assert line(boss.get(f"/api/jobs/{firm.job.pk}/pulls"), shower)["done"]
    # Sent again it is as it was, under the name of who did it first.
    assert line(tick(boss, firm, shower, done=True), shower)["by"] == "colleague"
    undone = line(tick(boss, firm, shower, done=False), shower)
    assert (undone["done"], undone["by"], undone["at"]) == (False, "", None)


def test_an_end_not_decided_yet_is_cut_longer(firm: Firm, signed_in: Sign) -> None:
    client, shower = signed_in(firm), named(firm, "Shower").pk
    before = line(client.get(f"/api/jobs/{firm.job.pk}/pulls"), shower)["pull"]["cut"]
    after = line(tick(client, firm, shower, undecided=True), shower)["pull"]
    assert after["open"]
    assert after["cut"] == pytest.approx(before + 2.5)


def test_the_slack_is_the_firms_and_counts_in_every_job_of_it(firm: Firm, other: Firm, signed_in: Sign) -> None:
    client, shower = signed_in(firm), named(firm, "Shower").pk
    before = line(client.get(f"/api/jobs/{firm.job.pk}/pulls"), shower)["pull"]["cut"]
    body = json.dumps({"board": 2, "end": 0.5, "undecided": 4})
    assert client.patch("/api/firm/slack", body, content_type="application/json").status_code == 200
    assert line(client.get(f"/api/jobs/{firm.job.pk}/pulls"), shower)["pull"]["cut"] == pytest.approx(before + 1)
    theirs = Client()
    theirs.force_login(other.member.user)
    assert theirs.get("/api/firm/slack").json() == {"board": 1.0, "end": 0.5, "undecided": 3.0}


@pytest.mark.parametrize(
    ("body", "field"), [({"done": True, "at": "2999-01-01T00:00:00Z"}, "at"), ({"done": True, "at": "2026-01-01T00:00:00"}, "at")]
)
def test_a_time_that_cannot_be_is_refused(body: dict[str, Any], field: str, firm: Firm, signed_in: Sign) -> None:
    answer = tick(signed_in(firm), firm, named(firm, "Shower").pk, **body)
    assert (answer.status_code, answer.json()["errors"][0]["field"]) == (422, field)
    assert not Pulled.objects.exists()


def test_a_circuit_that_is_none_is_refused_and_one_taken_out_and_back_keeps_its_tick(firm: Firm, signed_in: Sign) -> None:
    client, shower = signed_in(firm), named(firm, "Shower").pk
    assert tick(client, firm, uuid.uuid4(), done=True).json()["errors"][0]["field"] == "circuit_id"
    tick(client, firm, shower, done=True)
    send(client, firm, change("remove", "circuit", shower))
    assert str(shower) not in client.get(f"/api/jobs/{firm.job.pk}/pulls").content.decode()
    client.post(f"/api/jobs/{firm.job.pk}/undo", json.dumps({"edit_id": str(uuid.uuid4())}), content_type="application/json")
    assert line(client.get(f"/api/jobs/{firm.job.pk}/pulls"), shower)["done"]
