"""Papers over the API: made by the process that waits for such work, the same as what the API says, of the job as it stands or of a revision."""

from __future__ import annotations

import io
import json
import re
import uuid
from typing import Any

import pytest
from django.test import Client
from django.utils import timezone
from pypdf import PdfReader

from mellow_span.core.figures import figure
from mellow_span.jobs.models import Job, Search
from mellow_span.jobs.reads import installation
from mellow_span.logbook.models import Entry
from tests.api.test_isolation import Sign
from tests.api.test_jobs import change, named, send
from tests.behind import asked, work_once
from tests.conftest import Firm
from tests.pictures import address, jpeg

pytestmark = pytest.mark.django_db


def fetched(client: Client, about: str) -> Any:
    """A file that is made meanwhile: asked for, made, asked for again."""
    first = asked(client, about)
    assert first.status_code == 202, first.content
    assert first.json()["share"] == 0
    assert work_once()
    return client.get(about)


def text_of(content: bytes) -> str:
    return re.sub(r"\s+", " ", " ".join(page.extract_text() for page in PdfReader(io.BytesIO(content)).pages))


def test_the_printed_schedule_says_what_the_api_says(firm: Firm, signed_in: Sign) -> None:
    client, about = signed_in(firm), f"/api/jobs/{firm.job.pk}"
    answer = fetched(client, f"{about}/papers/schedule/pdf")
    assert (answer.status_code, answer["Content-Type"]) == (200, "application/pdf")
    assert answer["Content-Disposition"] == 'inline; filename="orchard-row-schedule.pdf"'
    told, state = text_of(answer.content), client.get(about).json()
    for one in state["summaries"]:
        for name, unit in (("ib", "A"), ("iz", "A"), ("drop", "%"), ("zs", "Ω")):
            assert one[name] is None or figure(one[name], unit) in told
    look = client.get(f"{about}/papers/schedule").json()
    assert "check code " + " ".join(look["hash"][i : i + 4] for i in range(0, 16, 4)) in told
    assert look["missing"] == ["A11 Kitchen island: Line, cpc, Length, Iz, Volt drop, Zs, Zs max, Longest time"]
    # It is made once, and made anew after an edit or an entry.
    assert client.get(f"{about}/papers/schedule/pdf").status_code == 200
    send(client, firm, change("set", "job", fields={"name": "Übung / 2"}))
    again = fetched(client, f"{about}/papers/schedule/pdf")
    assert again["Content-Disposition"] == 'inline; filename="ubung-2-schedule.pdf"'
    Entry.objects.create(id=uuid.uuid4(), job=firm.job, kind="limit", data={"text": "x"}, at=timezone.now(), by=firm.member, name="x")
    assert client.get(f"{about}/papers/schedule/pdf").status_code == 202


def test_a_revision_is_printed_as_it_was_issued_whatever_the_job_became(firm: Firm, signed_in: Sign) -> None:
    client, about = signed_in(firm), f"/api/jobs/{firm.job.pk}"
    issued = client.post(f"{about}/revisions", json.dumps({"version": 1}), content_type="application/json").json()
    send(client, firm, change("set", "circuit", named(firm, "Shower").pk, fields={"name": "Another shower"}))
    one, now = (client.get(f"{about}/papers/chart/json?revision={n}").json() for n in (1, 0))
    assert one["stamp"]["hash"] == issued["hash"]
    assert "Revision 1, issued" in one["stamp"]["revision"]
    assert now["stamp"]["revision"] == "Draft, not issued"
    assert ("Another shower" in json.dumps(one), "Another shower" in json.dumps(now)) == (False, True)
    assert client.get(f"{about}/papers/chart/json?revision=2").status_code == 404
    assert "not signed" in one["stamp"]["revision"]
    client.post(
        f"{about}/revisions/1/signature",
        json.dumps({"hash": issued["hash"], "read": [c["id"] for c in issued["circuits"]], "exceptions": "as seen"}),
        content_type="application/json",
    )
    assert f"signed by {firm.member.name}" in client.get(f"{about}/papers/chart/json?revision=1").json()["stamp"]["revision"]


@pytest.mark.parametrize(
    "bad",
    [
        "nothing/csv",
        "schedule/docx",
        "minor_work/csv",
        "labels/pdf?subject=ends/65/99",
        "working/pdf?subject=x",
        "schedule/pdf?subject=x",
        "schedule/pdf?subject=%00",
        f"labels/pdf?subject={'x' * 41}",
    ],
)
def test_a_paper_that_cannot_be_is_refused_at_once(bad: str, firm: Firm, signed_in: Sign) -> None:
    assert signed_in(firm).get(f"/api/jobs/{firm.job.pk}/papers/{bad}").status_code == 422
    assert not Search.objects.exists()


def test_every_paper_is_listed_with_what_it_can_be_about(firm: Firm, signed_in: Sign) -> None:
    found = {k["id"]: k for k in signed_in(firm).get(f"/api/jobs/{firm.job.pk}/papers").json()}
    assert len(found) == 16
    assert {c["title"] for c in found["minor_work"]["choices"]} >= {"A4 Shower", "B1 Kiln"}
    assert (found["minor_work"]["all"], found["chart"]["all"]) == ("", "every board")


def test_a_job_goes_out_with_its_log_and_comes_in_with_it(firm: Firm, signed_in: Sign) -> None:
    client, about, shower = signed_in(firm), f"/api/jobs/{firm.job.pk}", named(firm, "Shower").pk

    def write(kind: str, subject: Any = None, **data: Any) -> str:
        entry = {
            "id": str(uuid.uuid4()),
            "kind": kind,
            "subject": subject and str(subject),
            "data": data,
            "at": "2026-03-05T14:07:00+00:00",
        }
        assert client.post(f"{about}/site", json.dumps(entry), content_type="application/json").status_code == 200
        return str(entry["id"])

    shot = write("photo", shower, name="terminals", image=address(jpeg()))
    write("reading", shower, quantity="r1r2", value=0.2, photo=shot)
    write("graded", None, key=f"{shower}/capacity", grade="look", reason="seen")
    seen = write("observed", None, what="loose", where="hall")
    write("graded", None, key=seen, grade="look", reason="by eye")
    document = client.get(f"{about}/export").json()
    assert "base64" not in json.dumps(document), "pictures are saved by themselves"
    assert client.post("/api/jobs/import", json.dumps(document), content_type="application/json").status_code == 201
    copy = Job.objects.filter(firm=firm.member.firm).exclude(pk=firm.job.pk).get()
    here = next(c for c in installation(copy).circuits if c.name == "Shower")
    kept = {e.kind: e for e in copy.site_log.all() if e.data.get("reason") != "by eye"}
    assert set(kept) == {"reading", "graded", "observed"}
    assert copy.site_log.get(data__reason="by eye").data["key"] == str(kept["observed"].pk), "what was seen keeps its grade"
    assert (kept["reading"].subject, kept["reading"].data["value"], kept["reading"].data["photo"]) == (uuid.UUID(here.id), 0.2, "")
    assert kept["graded"].data["key"] == f"{here.id}/capacity"
    assert (kept["reading"].name, kept["reading"].by) == (firm.member.name, None)
    for wrong in (
        {"subject": ""},
        {"subject": installation(firm.job).boards[0].id},
        {"at": "2026-03-05"},
        {"kind": "x"},
        {"data": {"quantity": "r1r2", "value": -1}},
        {"more": 1},
    ):
        document["site"][1] = {**document["site"][1], **wrong}
        answer = client.post("/api/jobs/import", json.dumps(document), content_type="application/json")
        assert answer.status_code == 422
        assert answer.json()["errors"][0]["field"].startswith("site[1]")
    assert Job.objects.filter(firm=firm.member.firm).count() == 2


def test_parts_of_two_kinds_with_one_identity_keep_their_own_entries(firm: Firm, signed_in: Sign) -> None:
    at = "2026-03-05T14:07:00+00:00"
    ring = {"id": "same", "name": "Ring", "board": "same", "loads": [{"id": "l", "room": "same"}]}
    step = {"record": "r", "step": "begin", "title": "same", "kind": "room", "id": "same", "steps": [], "release": []}
    site = [
        {"id": "a", "kind": "reading", "subject": "same", "at": at, "by": "Ann", "data": {"quantity": "r1r2", "value": 0.2}},
        {"id": "b", "kind": "board_reading", "subject": "same", "at": at, "by": "Ann", "data": {"quantity": "ze", "value": 0.2}},
        {"id": "c", "kind": "isolation", "subject": "", "at": at, "by": "Ann", "data": step},
    ]
    document = {
        "format": "mellow-span/job", "version": 5, "name": "Same",
        "installation": {"boards": [{"id": "same", "name": "Board"}], "circuits": [ring]}, "site": site,
    }  # fmt: skip
    answer = signed_in(firm).post("/api/jobs/import", json.dumps(document), content_type="application/json")
    assert answer.status_code == 201, answer.content
    copy = Job.objects.get(name="Same")
    inputs, kept = installation(copy), {e.kind: e for e in copy.site_log.all()}
    assert str(kept["reading"].subject) == inputs.circuits[0].id
    assert str(kept["board_reading"].subject) == inputs.boards[0].id
    assert kept["isolation"].data["id"] == "same", "a room goes by its name"
