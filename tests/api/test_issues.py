"""Revisions through the API: frozen, numbered, signed once by a supervisor who read all, compared."""

from __future__ import annotations

import json
import uuid
from collections.abc import Callable
from typing import Any

import pytest
from django.test import Client

from mellow_span.exchange.issue import prove, prove_text
from mellow_span.logbook.models import Issue
from mellow_span.people.models import Event
from tests.api.test_jobs import change, named, send
from tests.api.test_pulls import write
from tests.conftest import Firm, make_colleague

pytestmark = pytest.mark.django_db
Sign = Callable[[Firm], Client]


def post(client: Client, firm: Firm, where: str = "", **body: Any) -> Any:
    return client.post(f"/api/jobs/{firm.job.pk}/revisions{where}", json.dumps(body), content_type="application/json")


def field(answer: Any) -> tuple[int, str]:
    return answer.status_code, answer.json()["errors"][0]["field"].removeprefix("body.given.")


def sign(client: Client, firm: Firm, one: dict[str, Any], **more: Any) -> Any:
    given = {"hash": one["hash"], "read": [c["id"] for c in one["circuits"]], "exceptions": "the shower waits for its cable", **more}
    return post(client, firm, f"/{one['number']}/signature", **given)


def test_a_design_is_issued_signed_changed_issued_again_and_compared(firm: Firm, signed_in: Sign) -> None:
    client, shower = signed_in(firm), named(firm, "Shower").pk
    write(client, firm, "pulled", shower, done=True)
    one = post(client, firm, version=1, note="for the client").json()
    assert (one["number"], one["signed"], one["current"]) == (1, "", True)
    signed = sign(client, firm, one).json()
    assert (signed["signed"], signed["exceptions"]) == (firm.username, "the shower waits for its cable")
    send(client, firm, change("set", "circuit", shower, fields={"cable": {"csa": 16}}))
    old = client.get(f"/api/jobs/{firm.job.pk}/revisions").json()["revisions"][0]
    assert (old["current"], old["hash"]) == (False, one["hash"])
    two = post(client, firm, version=2).json()
    assert (two["number"], two["signed"]) == (2, "")
    found = client.get(f"/api/jobs/{firm.job.pk}/revisions/compare?old=1&new=2").json()
    assert any("10 mm² became 16 mm²" in text for text in found["lines"])
    assert any(c["where"] == "A4 Shower" and c["before"] == "short" for c in found["circuits"])
    assert client.get(f"/api/jobs/{firm.job.pk}/revisions/compare?old=2").json() == {"lines": [], "circuits": []}
    file = json.loads(client.get(f"/api/jobs/{firm.job.pk}/revisions/1/file").content)
    assert prove(file).stands
    assert prove(file).signed == firm.username
    assert [e["kind"] for e in file["site"]] == ["pulled"]
    assert list(Event.objects.values_list("kind", flat=True).order_by("pk"))[-3:] == ["issued", "signed", "issued"]


def test_only_what_the_person_saw_is_issued_and_only_where_something_is_new(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    assert field(post(client, firm, version=2)) == (422, "version")
    assert post(client, firm, version=1).status_code == 201
    assert field(post(client, firm, version=1)) == (422, "version")
    write(client, firm, "pulled", named(firm, "Shower").pk, done=True)
    assert post(client, firm, version=1).json()["number"] == 2, "what was done on site is new"


def test_a_signature_asks_for_every_working_the_right_hash_and_a_word_on_what_fails(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    one = post(client, firm, version=1).json()
    assert any(c["verdict"] == "short" for c in one["circuits"])
    assert field(sign(client, firm, one, read=[c["id"] for c in one["circuits"]][1:])) == (422, "read")
    assert field(sign(client, firm, one, hash="0" * 64)) == (422, "hash")
    assert field(sign(client, firm, one, exceptions="  ")) == (422, "exceptions")
    assert Issue.objects.get().signature is None
    assert sign(client, firm, one).status_code == 200
    assert field(sign(client, firm, one)) == (422, "number")
    assert post(client, firm, "/9/signature", hash=one["hash"], read=[]).status_code == 404


@pytest.mark.parametrize(("role", "issues", "signs"), [("apprentice", 403, 403), ("designer", 201, 403), ("supervisor", 201, 200)])
def test_who_issues_and_who_signs(role: str, issues: int, signs: int, firm: Firm, signed_in: Sign) -> None:
    boss = signed_in(firm)
    one = post(boss, firm, version=1).json()
    write(boss, firm, "pulled", named(firm, "Shower").pk, done=True)
    there = Client()
    there.force_login(make_colleague(firm, role).user)
    assert post(there, firm, version=1).status_code == issues
    assert sign(there, firm, one).status_code == signs


def test_a_link_for_a_client_says_whether_what_it_shows_was_issued_and_signed(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    made = client.post(f"/api/jobs/{firm.job.pk}/links", json.dumps({"name": "client", "days": 3}), content_type="application/json").json()
    shared = f"/api/shared/{made['token']}"
    assert (client.get(shared).json()["revision"], client.get(shared).json()["signed"]) == (None, "")
    one = post(client, firm, version=1).json()
    assert (client.get(shared).json()["revision"], client.get(shared).json()["signed"]) == (1, "")
    sign(client, firm, one)
    assert client.get(shared).json()["signed"] == firm.username
    send(client, firm, change("set", "job", fields={"name": "Later"}))
    later = client.post(f"/api/jobs/{firm.job.pk}/links", json.dumps({"name": "later", "days": 3}), content_type="application/json").json()
    assert client.get(f"/api/shared/{later['token']}").json()["revision"] is None
    assert uuid.UUID(made["id"])


def test_the_list_says_how_far_each_job_is(firm: Firm, signed_in: Sign, django_assert_max_num_queries: Any) -> None:
    client = signed_in(firm)

    def stage() -> tuple[int, bool, int]:
        (job,) = client.get("/api/jobs").json()["jobs"]
        return job["issued"], job["on_site"], job["tested"]

    assert stage() == (0, False, 0)
    assert post(client, firm, version=1, note="").status_code == 201
    assert stage() == (1, False, 0)
    shower, cooker = named(firm, "Shower"), named(firm, "Cooker")
    write(client, firm, "pulled", shower.pk, done=True)
    assert stage() == (1, True, 0)
    for subject, quantity in ((shower.pk, "r1r2"), (shower.pk, "zs"), (cooker.pk, "zs")):
        body = {"quantity": quantity, "value": 0.4, "over": False, "ok": None, "point": "", "at": None, "temperature": 20.0}
        more = {"volts": None, "instrument": "", "method": "", "photo": ""}
        answer = write(client, firm, "reading", subject, **body, **more)
        assert answer.status_code == 200, answer.content
    # Two circuits, one of them read twice.
    assert stage() == (1, True, 2)
    # What was read of a circuit that is gone stays in the log, and does not count.
    assert send(client, firm, change("remove", "circuit", cooker.pk), version=1).status_code == 200
    assert stage() == (1, True, 1)
    # However many jobs, the same few queries.
    with django_assert_max_num_queries(16):
        client.get("/api/jobs")


def file_of(client: Client, firm: Firm, number: int) -> str:
    return client.get(f"/api/jobs/{firm.job.pk}/revisions/{number}/file").content.decode()


def test_revisions_are_sealed_by_the_key_of_the_firm_signed_and_chained(firm: Firm, signed_in: Sign, other: Firm) -> None:
    client, shower = signed_in(firm), named(firm, "Shower").pk
    one = post(client, firm, version=1).json()
    key = client.get("/api/firm").json()["key"]
    assert one["key"] == key
    assert len(key) == 64
    sign(client, firm, one)
    send(client, firm, change("set", "circuit", shower, fields={"cable": {"csa": 16}}))
    post(client, firm, version=2)
    first, second = prove_text(file_of(client, firm, 1), key), prove_text(file_of(client, firm, 2), key)
    assert (first.stands, first.made_here, first.signed) == (True, True, firm.username)
    assert (second.stands, second.made_here, second.signed) == (True, True, "")
    before = json.loads(file_of(client, firm, 2))["before"]
    signature = json.loads(file_of(client, firm, 1))["signature"]
    assert before == {"revision": 1, "hash": one["hash"], "signature": signature["hash"]}
    assert signature["exceptions"] == "the shower waits for its cable"
    # And it is on what is printed of the revision.
    assert key in client.get(f"/api/jobs/{firm.job.pk}/papers/chart/csv?revision=1").content.decode()
    # Another firm has a key of its own.
    theirs = signed_in(other)
    post(theirs, other, version=1)
    assert theirs.get("/api/firm").json()["key"] not in ("", key)
    assert prove_text(file_of(theirs, other, 1), key).made_here is False


def test_data_under_another_secret_seal_by_a_new_key_and_what_was_sealed_still_proves(firm: Firm, signed_in: Sign, settings: Any) -> None:
    client = signed_in(firm)
    one = post(client, firm, version=1).json()
    old = client.get("/api/firm").json()["key"]
    settings.SECRET_KEY = "another secret, as on a machine that a copy was put on"
    client = signed_in(firm)
    assert field(sign(client, firm, one)) == (422, "hash"), "its key is not there to seal a signature with"
    # So it may be issued anew though nothing changed; then not once more.
    two = post(client, firm, version=1).json()
    assert field(post(client, firm, version=1)) == (422, "version")
    assert two["key"] not in ("", old)
    assert sign(client, firm, two).status_code == 200
    assert prove_text(file_of(client, firm, 1), old).stands
    assert prove_text(file_of(client, firm, 2), two["key"]).stands
