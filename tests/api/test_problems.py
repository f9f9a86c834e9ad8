"""Refusals are problems of known kinds, each with a code and a type that stay."""

from __future__ import annotations

import json
import re
import uuid
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from django.test import Client

from mellow_span.answers.problems import PROBLEMS, TYPE, USUAL, code_of, type_of
from tests.conftest import Firm

pytestmark = pytest.mark.django_db
Sign = Callable[[Firm], Client]
LISTED = (Path(__file__).parents[2] / "docs" / "problems.md").read_text("utf-8")


def problem(answer: Any) -> dict[str, Any]:
    assert answer.headers["Content-Type"] == TYPE
    body: dict[str, Any] = json.loads(answer.content)
    status, title = PROBLEMS[body["code"]]
    assert (body["status"], body["title"], body["type"]) == (status, title, type_of(body["code"]))
    assert answer.status_code == status
    assert body["detail"]
    return body


def test_each_way_of_being_refused_has_its_kind(firm: Firm, signed_in: Sign, monkeypatch: pytest.MonkeyPatch) -> None:
    client, about = signed_in(firm), f"/api/jobs/{firm.job.pk}"

    def edit(**more: Any) -> Any:
        name = {"op": "set", "kind": "circuit", "id": str(uuid.uuid4()), "fields": {"name": "x"}}
        return {"edit_id": str(uuid.uuid4()), "version": firm.job.version, "changes": [name], **more}

    def patch(body: Any) -> Any:
        return client.patch(about, body if isinstance(body, str) else json.dumps(body), content_type="application/json")

    found = {
        "unreadable": patch("{"),
        "signed_out": Client().get(about),
        "not_recognised": Client().post(
            "/api/session", json.dumps({"username": "nobody", "password": "wrong"}), content_type="application/json"
        ),
        "not_found": client.get(f"/api/jobs/{uuid.uuid4()}"),
        "no_address": client.get("/api/nothing"),
        "no_rules": client.get("/api/rules/none"),
        "method": client.put(about, "{}", content_type="application/json"),
        "not_json": client.post("/api/jobs", "a=b", content_type="application/x-www-form-urlencoded"),
        "input": patch(edit()),
        "form": patch(edit(version="many")),
        "too_large": client.post("/api/jobs", json.dumps({"name": "x" * 3_000_000}), content_type="application/json"),
        "out_of_date": strict(client).patch(about, "{}", content_type="application/json"),
    }
    assert {code: problem(answer)["code"] for code, answer in found.items()} == {code: code for code in found}


def strict(client: Client) -> Client:
    """The same person, whose page has no token."""
    found = Client(enforce_csrf_checks=True)
    found.cookies = client.cookies
    return found


def test_the_list_in_the_docs_is_the_one_that_is_answered_from() -> None:
    rows = re.findall(r"^\| `(\w+)` \| (\d+) \| (.+) \|$", LISTED, re.MULTILINE)
    assert [(code, int(status), title) for code, status, title in rows] == [(code, *about) for code, about in PROBLEMS.items()]


def test_every_status_has_a_kind_of_its_own_and_none_is_told_under_another() -> None:
    assert all(PROBLEMS[code][0] == status for status, code in USUAL.items())
    assert [code_of(status) for status in (422, 500, 502, 418)] == ["input", "fault", "fault", "unreadable"]
