"""Every answer the API tests get is held against the OpenAPI file: a body that is not as described fails the test that asked for it."""

from __future__ import annotations

import json
import re
from datetime import timedelta
from functools import cache
from pathlib import Path
from typing import Any

import jsonschema_rs
import pytest
from django.core.management import call_command
from django.db import connection
from django.test import Client

from mellow_span.jobs import searches

FILE = json.loads((Path(__file__).parents[2] / "docs" / "openapi.json").read_text("utf-8"))
PATHS = [(re.compile("^" + re.sub(r"\{[^}]+\}", "[^/]+", path) + "$"), about) for path, about in FILE["paths"].items()]


@cache
def validator(path: int, method: str, status: str) -> Any:
    """The validator of an answer, None where it has no body; raises KeyError for a status the description does not know."""
    about = PATHS[path][1][method]["responses"][status]
    if "$ref" in about:
        about = FILE["components"]["responses"][about["$ref"].rpartition("/")[2]]
    # A refusal is a kind of JSON of its own.
    content = next(iter(about.get("content", {}).values()), None)
    if content is None:
        return None
    return jsonschema_rs.validator_for({**content["schema"], "components": FILE["components"]})


def hold(method: str, url: str, response: Any) -> None:
    path = next((i for i, (pattern, about) in enumerate(PATHS) if pattern.match(url.split("?")[0]) and method.lower() in about), None)
    if path is None or "json" not in response.headers.get("Content-Type", "json"):
        return
    check = validator(path, method.lower(), str(response.status_code))
    if check is None:
        assert response.content in (b"", b"null")
    else:
        check.validate(json.loads(response.content))


@pytest.fixture(scope="session", autouse=True)
def emptied(django_db_setup: None, django_db_blocker: Any) -> None:
    """An empty database to begin with: tests in a browser, which come before these in a worker, leave their firms in it."""
    with django_db_blocker.unblock():
        call_command("flush", verbosity=0, interactive=False)
        # The queue has tables of its own, which are no models that can be flushed.
        with connection.cursor() as cursor:
            cursor.execute("TRUNCATE procrastinate_jobs, procrastinate_workers, procrastinate_periodic_defers CASCADE")


@pytest.fixture(autouse=True)
def patient(monkeypatch: pytest.MonkeyPatch) -> None:
    """A busy machine takes long over a search that nobody asks for meanwhile here; what is given up is set back by hand."""
    monkeypatch.setattr(searches, "LEFT", timedelta(hours=1))


@pytest.fixture(autouse=True)
def described(monkeypatch: pytest.MonkeyPatch) -> None:
    plain = Client.request

    def request(self: Client, **sent: Any) -> Any:
        response = plain(self, **sent)
        if str(sent.get("PATH_INFO", "")).startswith("/api/"):
            hold(sent["REQUEST_METHOD"], sent["PATH_INFO"], response)
        return response

    monkeypatch.setattr(Client, "request", request)
