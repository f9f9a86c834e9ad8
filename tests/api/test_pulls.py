"""The log of the work on site and the pull list through the API: apart from the design, by whoever is there."""

from __future__ import annotations

import json
import uuid
from collections.abc import Callable
from datetime import timedelta
from typing import Any

import pytest
from django.test import Client
from django.utils import timezone

from mellow_span.jobs.models import Job
from mellow_span.logbook.models import Entry
from tests.api.test_jobs import change, named, send
from tests.conftest import Firm, make_colleague
from tests.pictures import address, jpeg

pytestmark = pytest.mark.django_db
Sign = Callable[[Firm], Client]


def write(
    client: Client, firm: Firm, kind: str, subject: Any = None, /, at: Any = None, id: Any = None, data: Any = None, **more: Any
) -> Any:
    body = {
        "id": str(id or uuid.uuid4()), "kind": kind, "subject": str(subject) if subject else None, "data": data or more,
        "at": at if isinstance(at, str) else (at or timezone.now()).isoformat(),
    }  # fmt: skip
    return client.post(f"/api/jobs/{firm.job.pk}/site", json.dumps(body), content_type="application/json")


def pulls(client: Client, firm: Firm) -> Any:
    return client.get(f"/api/jobs/{firm.job.pk}/pulls")


def line(answer: Any, circuit: Any) -> dict[str, Any]:
    found: dict[str, Any] = next(x for x in answer.json()["lines"] if x["pull"]["circuit"] == str(circuit))
    return found


def test_an_apprentice_ticks_a_cable_off_and_no_edit_clashes_with_it(firm: Firm, signed_in: Sign) -> None:
    boss, shower = signed_in(firm), named(firm, "Shower").pk
    there = Client()
    there.force_login(make_colleague(firm, "apprentice").user)
    when = timezone.now() - timedelta(hours=2)
    assert write(there, firm, "pulled", shower, at=when, done=True).status_code == 200
    done = line(pulls(boss, firm), shower)
    assert (done["done"], done["by"], done["at"][:16]) == (True, "colleague", when.isoformat()[:16])
    assert Job.objects.get(pk=firm.job.pk).version == 1
    assert send(boss, firm, change("set", "circuit", shower, fields={"name": "Power shower"}), version=1).status_code == 200
    # Ticked once more it is as it was, under the name of who did it first; taken back and done again it is under the other.
    write(boss, firm, "pulled", shower, done=True)
    assert line(pulls(boss, firm), shower)["by"] == "colleague"
    write(boss, firm, "pulled", shower, done=False)
    undone = line(pulls(boss, firm), shower)
    assert (undone["done"], undone["by"], undone["at"]) == (False, "", None)
    write(boss, firm, "pulled", shower, done=True)
    assert line(pulls(boss, firm), shower)["by"] == firm.username
    assert Entry.objects.filter(job=firm.job).count() == 4, "nothing of the log is lost"


def test_an_entry_sent_twice_is_there_once_as_it_was_first(firm: Firm, signed_in: Sign) -> None:
    client, shower, same = signed_in(firm), named(firm, "Shower").pk, uuid.uuid4()
    first = write(client, firm, "pulled", shower, id=same, done=True).json()
    assert write(client, firm, "pulled", shower, id=same, done=True).json() == first
    assert client.get(f"/api/jobs/{firm.job.pk}/site").json()["entries"] == [first]


def test_a_step_of_a_record_sent_twice_is_answered_and_not_refused(firm: Firm, signed_in: Sign) -> None:
    client, same, record = signed_in(firm), uuid.uuid4(), str(uuid.uuid4())
    about = f"/api/jobs/{firm.job.pk}/isolation"
    plan = client.get(f"{about}/plan?kind=circuit&id={named(firm, 'Shower').pk}").json()
    about_it = {name: plan["plan"][name] for name in ("title", "kind", "id")}
    begun = {"record": record, "step": "begin", "steps": plan["steps"], "release": plan["release"], **about_it}
    assert write(client, firm, "isolation", data={**begun, "steps": plan["steps"][1:-1]}).status_code == 422
    assert write(client, firm, "isolation", data=begun).status_code == 200
    first = write(client, firm, "isolation", id=same, record=record, step="told", value="all")
    assert write(client, firm, "isolation", id=same, record=record, step="told", value="all").json() == first.json()
    assert write(client, firm, "isolation", record=record, step="told", value="again").status_code == 422
    assert client.get(about).json()["records"][0]["next"] == "ask:generation"


def test_a_photo_is_a_jpeg_or_refused_and_fetched_by_itself(firm: Firm, signed_in: Sign) -> None:
    client, shower, same = signed_in(firm), named(firm, "Shower").pk, uuid.uuid4()
    for image in (
        "",
        "data:image/png;base64,/9j/",
        "data:image/jpeg;base64,/9j/4",
        "data:image/jpeg;base64,AAAA",
        "data:image/jpeg;base64,/9j/<svg>",
    ):
        assert write(client, firm, "photo", shower, image=image).status_code == 422, image
    assert write(client, firm, "photo", shower, id=same, name="terminals", image=address(jpeg())).status_code == 200
    shown = client.get(f"/api/jobs/{firm.job.pk}/photos/{same}")
    assert (shown["Content-Type"], shown.content[:3]) == ("image/jpeg", bytes([0xFF, 0xD8, 0xFF]))
    assert "image" not in client.get(f"/api/jobs/{firm.job.pk}/site").json()["entries"][-1]["data"]


@pytest.mark.parametrize("count", ["nan", "-1", "inf", "1e9", "x"])
def test_how_much_is_needed_of_a_substitute_is_a_length(count: str, firm: Firm, signed_in: Sign) -> None:
    answer = signed_in(firm).get(f"/api/jobs/{firm.job.pk}/materials/substitutes?key=cable/flat_twin_cpc_pvc70/4&count={count}")
    assert answer.status_code == 422


def test_what_was_done_later_counts_although_it_was_sent_earlier(firm: Firm, signed_in: Sign) -> None:
    client, shower, now = signed_in(firm), named(firm, "Shower").pk, timezone.now()
    write(client, firm, "pulled", shower, at=now - timedelta(hours=1), done=False)
    write(client, firm, "pulled", shower, at=now - timedelta(hours=2), done=True)
    assert not line(pulls(client, firm), shower)["done"]


def test_an_end_not_decided_yet_is_cut_longer(firm: Firm, signed_in: Sign) -> None:
    client, shower = signed_in(firm), named(firm, "Shower").pk
    before = line(pulls(client, firm), shower)["pull"]["cut"]
    write(client, firm, "undecided", shower, undecided=True)
    after = line(pulls(client, firm), shower)["pull"]
    assert after["open"]
    assert after["cut"] == pytest.approx(before + 2.5)


def test_slack_and_drums_are_the_firms_and_count_in_every_job_of_it(firm: Firm, other: Firm, signed_in: Sign) -> None:
    client, shower = signed_in(firm), named(firm, "Shower").pk
    before = line(pulls(client, firm), shower)["pull"]["cut"]
    body = {"board": 2, "end": 0.5, "undecided": 4, "drums": [200, 30, 200]}
    assert client.patch("/api/firm/site-rules", json.dumps(body), content_type="application/json").json()["drums"] == [30, 200]
    found = pulls(client, firm)
    assert line(found, shower)["pull"]["cut"] == pytest.approx(before + 1)
    assert {d["length"] for c in found.json()["cutting"] for d in c["drums"]} <= {30.0, 200.0}
    theirs = Client()
    theirs.force_login(other.member.user)
    assert theirs.get("/api/firm/site-rules").json() == {
        "board": 1.0,
        "end": 0.5,
        "undecided": 3.0,
        "drums": [25.0, 50.0, 100.0],
        "neutral": "black",
    }
    # Which core of three is the neutral is said by itself, and stays when the rest is said without it.
    cable = {"family": "armoured_pvc70", "csa": 10, "cores": 3}
    assert send(client, firm, change("set", "circuit", shower, fields={"cable": cable})).status_code == 200
    for given, neutral in ((body | {"neutral": "grey"}, "grey"), (body, "grey"), (body | {"neutral": "black"}, "black")):
        said = client.patch("/api/firm/site-rules", json.dumps(given), content_type="application/json").json()
        assert said["neutral"] == neutral
        ends = client.get(f"/api/jobs/{firm.job.pk}/ends").json()
        assert {c["use"]: c["made"] for c in next(e for e in ends if e["circuit"] == str(shower))["cores"]}["neutral"] == neutral
    assert client.patch("/api/firm/site-rules", json.dumps(body | {"neutral": "blue"}), content_type="application/json").status_code == 422
    for drums in ([], [4], [25.03], [2000], list(range(10, 19))):
        refused = client.patch("/api/firm/site-rules", json.dumps(body | {"drums": drums}), content_type="application/json")
        assert refused.status_code == 422
        assert "drums" in refused.json()["errors"][0]["field"]


def test_a_rest_on_the_van_is_used_before_a_drum_is_bought(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    cut = pulls(client, firm).json()["cutting"][0]
    longest = max(p["length"] for d in cut["drums"] for p in d["pieces"])
    write(client, firm, "on_hand", cable=cut["cable"], lengths=[longest])
    after = next(c for c in pulls(client, firm).json()["cutting"] if c["cable"] == cut["cable"])
    assert after["bought"] <= cut["bought"]
    assert [d["length"] for d in after["drums"] if d["at_hand"]] == [longest]


@pytest.mark.parametrize(
    ("body", "field"),
    [
        ({"at": "2026-01-01T00:00:00"}, "at"), ({"kind": "signed"}, "kind"), ({"kind": "pulled", "done": 1}, "data.done"),
        ({"kind": "pulled", "wrong": 1}, "data.wrong"), ({"kind": "on_hand", "cable": "x"}, "subject"), ({"kind": "on_hand"}, "data.cable"),
        ({"kind": "on_hand", "cable": "x", "lengths": [0.1]}, "data.lengths[0]"), ({"kind": "on_hand", "cable": "x", "lengths": [1] * 401}, "data.lengths"),
    ],
)  # fmt: skip
def test_what_does_not_fit_is_refused_by_name_and_not_kept(body: dict[str, Any], field: str, firm: Firm, signed_in: Sign) -> None:
    given = {"kind": "pulled", **body}
    answer = write(signed_in(firm), firm, given.pop("kind"), named(firm, "Shower").pk, **given)
    assert (answer.status_code, answer.json()["errors"][0]["field"]) == (422, field)
    assert not Entry.objects.exists()


def test_a_circuit_that_is_none_is_refused_and_one_taken_out_and_back_keeps_its_tick(firm: Firm, signed_in: Sign) -> None:
    client, shower = signed_in(firm), named(firm, "Shower").pk
    assert write(client, firm, "pulled", uuid.uuid4(), done=True).json()["errors"][0]["field"] == "subject"
    write(client, firm, "pulled", shower, done=True)
    send(client, firm, change("remove", "circuit", shower))
    assert str(shower) not in pulls(client, firm).content.decode()
    client.post(f"/api/jobs/{firm.job.pk}/undo", json.dumps({"edit_id": str(uuid.uuid4())}), content_type="application/json")
    assert line(pulls(client, firm), shower)["done"]
