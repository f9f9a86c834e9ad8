"""The log outlives what the design loses and what a clock on site shows: nothing written down is refused for either, and both are told."""

from __future__ import annotations

import json
import uuid
from collections.abc import Callable
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from django.test import Client
from django.utils import timezone

from mellow_span.cli import main
from mellow_span.jobs.models import Job
from mellow_span.logbook.models import Entry
from tests.api.test_jobs import change, named, send
from tests.api.test_pulls import write
from tests.conftest import Firm
from tests.pictures import address, jpeg

pytestmark = pytest.mark.django_db
Sign = Callable[[Firm], Client]
READING = {"quantity": "zs", "value": 0.5, "point": "an old outlet"}


def removed(client: Client, firm: Firm, circuit: Any) -> None:
    assert send(client, firm, change("remove", "circuit", circuit)).status_code == 200


def test_a_circuit_with_entries_goes_and_they_stay_under_what_it_was_called(firm: Firm, signed_in: Sign) -> None:
    client, shower = signed_in(firm), named(firm, "Shower").pk
    assert write(client, firm, "reading", shower, **READING).json()["about"] == "A4 Shower"
    removed(client, firm, shower)
    about = f"/api/jobs/{firm.job.pk}"
    gone = client.get(f"{about}/tests").json()["gone"]
    assert [(g["about"], g["what"]) for g in gone] == [("A4 Shower", "Zs at an old outlet: 0.500 Ω")]
    # What a phone sends later about it is kept as well; about what never was there it is refused.
    assert write(client, firm, "pulled", shower, done=True).json()["about"] == "Shower"
    assert write(client, firm, "pulled", uuid.uuid4(), done=True).status_code == 422
    assert write(client, firm, "board_reading", shower, quantity="ze", value=0.3).status_code == 422, "it was a circuit, no board"
    assert len(client.get(f"{about}/tests").json()["gone"]) == 2
    for view in ("pulls", "existing", "isolation", "materials", "site"):
        assert client.get(f"{about}/{view}").status_code == 200, view


def test_the_photos_of_what_is_gone_are_listed_with_it(firm: Firm, signed_in: Sign) -> None:
    client, shower = signed_in(firm), named(firm, "Shower").pk
    photo = write(client, firm, "photo", shower, name="terminals", image=address(jpeg())).json()["id"]
    write(client, firm, "reading", shower, quantity="polarity", ok=True, point="shower", photo=photo)
    removed(client, firm, shower)
    gone = client.get(f"/api/jobs/{firm.job.pk}/tests").json()["gone"]
    assert sorted((g["what"], g["photo"]) for g in gone) == [("Polarity at shower: yes", photo), ("photo", photo)]
    assert client.get(f"/api/jobs/{firm.job.pk}/photos/{photo}").status_code == 200


def test_the_jobs_own_file_is_always_taken_in_again(firm: Firm, signed_in: Sign) -> None:
    client, shower = signed_in(firm), named(firm, "Shower").pk
    write(client, firm, "reading", shower, **READING)
    write(client, firm, "reading", named(firm, "Cooker").pk, **READING)
    removed(client, firm, shower)
    for _ in range(2):
        file = client.get(f"/api/jobs/{firm.job.pk}/export").json()
        answer = client.post("/api/jobs/import", json.dumps(file), content_type="application/json")
        assert answer.status_code == 201, answer.json()
        job = Job.objects.get(pk=answer.json()["id"])
        assert sorted(e.about for e in Entry.objects.filter(job=job)) == ["A4 Shower", "A2 Cooker"] or sorted(
            e.about.partition(" ")[2] for e in Entry.objects.filter(job=job)
        ) == ["Cooker", "Shower"]
        assert len(client.get(f"/api/jobs/{job.pk}/tests").json()["gone"]) == 1
        firm.job = job


def test_a_file_of_readings_that_came_from_here_adds_nothing(firm: Firm, signed_in: Sign) -> None:
    client, shower, at = signed_in(firm), named(firm, "Shower").pk, timezone.now() - timedelta(hours=1)
    first = write(client, firm, "reading", shower, at=at, **READING).json()
    again = write(client, firm, "reading", shower, at=at.replace(microsecond=at.microsecond // 1000 * 1000), **READING).json()
    assert again["id"] == first["id"]
    assert write(client, firm, "reading", shower, at=at, **{**READING, "value": 0.6}).json()["id"] != first["id"]
    assert write(client, firm, "reading", shower, at=at + timedelta(seconds=5), **READING).json()["id"] != first["id"]


def entered(client: Client, firm: Firm, at: datetime, sent: datetime | None) -> dict[str, Any]:
    body = {
        "id": str(uuid.uuid4()), "kind": "pulled", "subject": str(named(firm, "Shower").pk), "data": {"done": True}, "at": at.isoformat(),
        **({"sent": sent.isoformat()} if sent else {}),
    }  # fmt: skip
    answer = client.post(f"/api/jobs/{firm.job.pk}/site", json.dumps(body), content_type="application/json")
    assert answer.status_code == 200, answer.json()
    found: dict[str, Any] = answer.json()
    return found


@pytest.mark.parametrize("apart", [-90, -15, 15, 600])
def test_a_clock_that_is_wrong_is_put_right_and_both_times_are_kept(apart: int, firm: Firm, signed_in: Sign) -> None:
    client, now = signed_in(firm), timezone.now()
    fast, an_hour_ago = timedelta(minutes=apart), now - timedelta(hours=1)
    found = entered(client, firm, an_hour_ago + fast, now + fast)
    assert abs(datetime.fromisoformat(found["at"]) - an_hour_ago) < timedelta(seconds=30)
    assert abs(datetime.fromisoformat(found["clock"]) - an_hour_ago - fast) < timedelta(seconds=1)


def test_a_little_difference_is_let_be_and_a_time_ahead_is_taken_as_now(firm: Firm, signed_in: Sign) -> None:
    client, now = signed_in(firm), timezone.now()
    found = entered(client, firm, now - timedelta(minutes=5), now + timedelta(seconds=100))
    assert (found["clock"], datetime.fromisoformat(found["at"])) == ("", now - timedelta(minutes=5))
    ahead = entered(client, firm, now + timedelta(minutes=15), None)
    assert abs(datetime.fromisoformat(ahead["at"]) - now) < timedelta(seconds=30)
    assert datetime.fromisoformat(ahead["clock"]) == now + timedelta(minutes=15)
    soon = entered(client, firm, now + timedelta(minutes=1), None)
    assert soon["clock"] == "", "too little to be told"


def test_readings_count_by_the_times_put_right(firm: Firm, signed_in: Sign) -> None:
    """A phone that is a day fast reads 1.9 yesterday by its own clock; ours read 0.4 since: ours is the last."""
    client, shower, now = signed_in(firm), named(firm, "Shower").pk, timezone.now()
    body = {
        "id": str(uuid.uuid4()), "kind": "reading", "subject": str(shower), "data": {"quantity": "zs", "value": 1.9},
        "at": (now + timedelta(hours=22)).isoformat(), "sent": (now + timedelta(hours=24)).isoformat(),
    }  # fmt: skip
    assert client.post(f"/api/jobs/{firm.job.pk}/site", json.dumps(body), content_type="application/json").status_code == 200
    write(client, firm, "reading", shower, at=now - timedelta(hours=1), quantity="zs", value=0.4)
    zs = next(t for t in client.get(f"/api/jobs/{firm.job.pk}/circuits/{shower}/tests").json()["tests"] if t["quantity"] == "zs")
    assert [r["reading"]["value"] for r in zs["rows"]] == [1.9, 0.4]
    assert zs["rows"][0]["clock"] != ""


@pytest.mark.parametrize(
    ("at", "sent"),
    [
        ("0001-01-01T00:00:00Z", None),
        ("9999-12-31T23:59:59-12:00", None),
        ("2026-01-01T00:00:00Z", "0001-01-01T00:00:00+14:00"),
        ("2999-12-31T00:00:00Z", "1970-01-01T00:00:00Z"),
    ],
)
def test_a_time_that_is_none_is_refused_or_taken_and_never_brings_it_down(at: str, sent: str | None, firm: Firm, signed_in: Sign) -> None:
    body = {
        "id": str(uuid.uuid4()),
        "kind": "pulled",
        "subject": str(named(firm, "Shower").pk),
        "data": {"done": True},
        "at": at,
        "sent": sent,
    }
    answer = signed_in(firm).post(f"/api/jobs/{firm.job.pk}/site", json.dumps(body), content_type="application/json")
    assert answer.status_code in (200, 422)
    if answer.status_code == 200:
        assert datetime.fromisoformat(answer.json()["at"]) <= timezone.now()


def test_every_paper_and_view_stands_beside_entries_whose_part_is_gone(firm: Firm, signed_in: Sign, tmp_path: Path) -> None:
    client, shower = signed_in(firm), named(firm, "Shower").pk
    write(client, firm, "reading", shower, **READING)
    write(client, firm, "pulled", shower, done=True)
    write(client, firm, "minor_work", shower, done="x", completed="y", departures="none", existing="none")
    removed(client, firm, shower)
    file = tmp_path / "job.json"
    file.write_text(json.dumps(client.get(f"/api/jobs/{firm.job.pk}/export").json()))
    for command in (["pull"], ["materials"], ["verify"], ["check"], ["paper"]):
        rest = ["results", "--out", str(tmp_path / "r.json")] if command == ["paper"] else []
        assert main([*command, str(file), *rest]) in (0, 1), command
