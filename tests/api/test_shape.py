"""Every refusal has one shape that names field, given and allowed; nothing that is sent makes the server fail."""

from __future__ import annotations

import json
import uuid
from collections.abc import Callable
from typing import Any
from unittest.mock import patch

import pytest
from django.db import OperationalError
from django.test import Client

from mellow_span.jobs import models
from mellow_span.jobs.writes import take_in
from tests.api.test_jobs import change, named
from tests.build import circuit, job
from tests.conftest import Firm

pytestmark = pytest.mark.django_db
Sign = Callable[[Firm], Client]
JSON = "application/json"


def refused(answer: Any, status: int, field: str) -> dict[str, Any]:
    """The one error of a refusal, which names field, given and allowed."""
    assert answer.status_code == status, answer.content
    body = json.loads(answer.content)
    assert body["detail"]
    error: dict[str, Any] = body["errors"][0]
    assert error["field"] == field
    assert error["given"] != ""
    assert error["allowed"] != ""
    return error


def deep(levels: int) -> str:
    return "[" * levels + "]" * levels


BODIES = {
    "not JSON": ("{", 400, "body"),
    "not UTF-8": (b"\xff\xfe{}", 400, "body"),
    "not a number": ('{"version": NaN}', 400, "body"),
    "too large a number": ('{"version": 1e999}', 400, "body"),
    "too many digits": ('{"version": ' + "9" * 5000 + "}", 400, "body"),
    "past the stack": ('{"changes": ' + deep(100_000) + "}", 400, "body"),
    "too deep": ('{"changes": ' + deep(60) + "}", 422, "body"),
    "half a character": ('{"edit_id": "\\ud800"}', 422, "body.edit_id"),
    "half a character in a name": ('{"\\udfff": 1}', 422, "body, a name"),
    "the character of number 0": ('{"edit_id": "a\\u0000b"}', 422, "body.edit_id"),
    "a great whole number": ('{"edit_id": "x", "version": ' + "9" * 400 + ', "changes": []}', 422, "body.edit.edit_id"),
}


@pytest.mark.parametrize("what", BODIES)
def test_a_body_that_cannot_be_taken_is_refused_by_name(what: str, firm: Firm, signed_in: Sign) -> None:
    body, status, field = BODIES[what]
    refused(signed_in(firm).patch(f"/api/jobs/{firm.job.pk}", body, content_type=JSON), status, field)


@pytest.mark.parametrize(
    "kind", ["multipart/form-data", "multipart/form-data; boundary=x", "text/plain", "application/x-www-form-urlencoded", ""]
)
def test_what_is_no_json_is_not_read(kind: str, firm: Firm, signed_in: Sign) -> None:
    answer = signed_in(firm).generic("PATCH", f"/api/jobs/{firm.job.pk}", "a=1", content_type=kind)
    refused(answer, 415, "Content-Type")
    empty = signed_in(firm).generic("POST", "/api/session/second/end", "", content_type=kind)
    assert empty.status_code in (415, 422)


def test_too_large_a_body_is_refused_before_it_is_read(firm: Firm, signed_in: Sign) -> None:
    error = refused(signed_in(firm).post("/api/jobs/import", b" " * 2_000_001, content_type=JSON), 413, "body")
    assert error["allowed"] == "at most 2 MB"
    assert signed_in(firm).post("/api/jobs/import", b" " * 1_999_999, content_type=JSON).status_code == 400


def test_other_methods_other_addresses_and_nobody_are_refused_in_the_same_shape(firm: Firm, signed_in: Sign, client: Client) -> None:
    refused(client.get("/api/jobs"), 401, "session")
    error = refused(signed_in(firm).put("/api/jobs"), 405, "method")
    assert {"GET", "POST"} <= set(error["allowed"].replace(",", " ").split())
    refused(client.get("/api/nowhere"), 404, "address")
    refused(client.get(f"/api/jobs/{uuid.uuid4()}"), 404, "job_id")
    refused(client.get("/api/rules/nothing"), 404, "ruleset")
    refused(client.get("/api/jobs?page=0"), 422, "query.page")
    strict = Client(enforce_csrf_checks=True)
    strict.force_login(firm.member.user)
    refused(strict.post("/api/jobs", {"name": "x"}, content_type=JSON), 403, "X-CSRFToken")


def test_no_answer_is_kept_by_the_browser(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    for address in ("/api/session", "/api/jobs", f"/api/jobs/{firm.job.pk}", "/api/nowhere", f"/api/jobs/{firm.job.pk}/export"):
        assert client.get(address).headers["Cache-Control"] == "no-store", address


def test_another_host_gets_nothing_at_all(client: Client) -> None:
    """Not the page, not its files, not the API; and what refuses it carries the policies as well."""
    for address in ("/", "/index.html", "/api/session", "/jobs/x"):
        answer = client.get(address, headers={"host": "elsewhere.invalid"})
        assert answer.status_code == 400, address
        assert "frame-ancestors 'none'" in answer.headers["Content-Security-Policy"]
        assert b"<script" not in answer.content


def test_the_page_comes_with_its_policies_by_every_name_it_has(client: Client) -> None:
    for address in ("/", "/index.html", "/index.html?x=1", "/jobs/x"):
        answer = client.get(address)
        assert answer.headers["Content-Security-Policy"].count("default-src") == 1
        assert answer.headers["X-Frame-Options"] == "DENY"
        assert "Access-Control-Allow-Origin" not in answer.headers
    asset = next(iter(sorted(__import__("pathlib").Path("web/dist/assets").glob("*.js"))))
    script = client.get(f"/assets/{asset.name}")
    assert script.status_code == 200
    assert "Access-Control-Allow-Origin" not in script.headers
    assert "default-src 'self'" in script.headers["Content-Security-Policy"]


def test_a_database_that_does_not_answer_is_told_as_busy(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    with patch("mellow_span.api.jobs.job_of", side_effect=OperationalError("secret of the server")):
        answer = client.get(f"/api/jobs/{firm.job.pk}")
    refused(answer, 503, "server")
    assert b"secret" not in answer.content


def test_a_fault_of_ours_says_nothing_of_what_was_typed(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    client.raise_request_exception = False
    with patch("mellow_span.api.jobs.job_of", side_effect=ValueError("what somebody typed")):
        answer = client.get(f"/api/jobs/{firm.job.pk}")
    assert answer.status_code == 500
    assert "program fault" in answer.json()["detail"]
    assert b"typed" not in answer.content


def test_reach_of_a_load_past_the_end_of_its_run_is_told(firm: Firm, signed_in: Sign) -> None:
    """A load entered at 30 m whose run was shortened to 5 m since."""
    inputs = job(circuit("c", loads=[{"at": 4.0}], spans=[{"length": 5}]))
    row = take_in(firm.member.firm, inputs)
    load = models.Load.objects.get(job=row)
    models.Load.objects.filter(pk=load.pk).update(at=30.0)
    found = models.Circuit.objects.get(job=row)
    client = signed_in(firm)
    for address in ("reach", "options", "breaks", "size", "readings", "curves"):
        assert client.get(f"/api/jobs/{row.pk}/circuits/{found.pk}/{address}").status_code < 500, address
    assert client.get(f"/api/jobs/{row.pk}?focus={found.pk}").status_code == 200


def test_what_was_deleted_for_good_in_this_moment_is_gone_and_nothing_fails(firm: Firm, signed_in: Sign) -> None:
    """Each call finds its job, and the row is gone before it writes."""
    client, shower = signed_in(firm), named(firm, "Shower").pk
    edit = {"edit_id": str(uuid.uuid4()), "version": 1, "changes": [change("set", "circuit", shower, fields={"name": "x"})]}
    calls: list[Callable[[], Any]] = [
        lambda: client.post(f"/api/jobs/{firm.job.pk}/archive", {"archived": True}, content_type=JSON),
        lambda: client.delete(f"/api/jobs/{firm.job.pk}"),
        lambda: client.patch(f"/api/jobs/{firm.job.pk}", edit, content_type=JSON),
        lambda: client.get(f"/api/jobs/{firm.job.pk}/cheapest"),
        lambda: client.get("/api/jobs"),
    ]
    real = models.Job.objects.get(pk=firm.job.pk)
    for call in calls:
        with patch("mellow_span.api.jobs.job_of", return_value=real), patch("mellow_span.api.searches.job_of", return_value=real):
            models.Job.objects.filter(pk=firm.job.pk).delete()
            assert call().status_code < 500
