"""The API fuzzed from its own description: whatever is sent, it answers as it says it does."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from typing import Any

import pytest
import schemathesis
from django.core.management import call_command
from django.test import Client
from hypothesis import HealthCheck, settings

from mellow_span.api import api
from mellow_span.jobs.models import Job, Member
from mellow_span.serving.wsgi import application
from tests.conftest import Firm, make_firm
from tests.depth import many

SCHEMA = schemathesis.openapi.from_dict(json.loads(json.dumps(api.get_openapi_schema())))
SCHEMA.app = application
# Every edge of every field in turn: twenty requests an operation, for nights.
SCHEMA.config.phases.coverage.enabled = many(1, 0) == 1


@pytest.fixture(scope="module")
def firms(django_db_setup: None, django_db_blocker: Any) -> Iterator[list[Firm]]:
    """The firm that is asked about, as long as it stands what is sent; the database is emptied when all was asked."""
    with django_db_blocker.unblock():
        yield []
        call_command("flush", verbosity=0, interactive=False)


@pytest.fixture
def cookies(firms: list[Firm]) -> tuple[dict[str, str], Any]:
    if not (firms and Job.objects.filter(pk=firms[-1].job.pk, removed=None, firm__members=firms[-1].member).exists()):
        firms.append(make_firm())
    firm, client = firms[-1], Client()
    Member.objects.filter(pk=firm.member.pk).update(role=Member.Role.SUPERVISOR, left=None)
    client.force_login(firm.member.user)
    client.get("/api/session")
    return {k: v.value for k, v in client.cookies.items()}, firm.job


@SCHEMA.parametrize()
@settings(
    max_examples=many(12, 5),
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.filter_too_much, HealthCheck.too_slow],
)
def test_answers_fit_the_description(case: Any, cookies: tuple[dict[str, str], Any]) -> None:
    jar, job = cookies
    if "job_id" in (case.path_parameters or {}):
        case.path_parameters["job_id"] = str(job.pk)
    response = case.call(cookies=jar, headers={"X-CSRFToken": jar["csrftoken"], "Accept-Encoding": "identity"})
    assert response.status_code < 500
    declared = case.operation.definition.raw["responses"]
    assert str(response.status_code) in declared or response.status_code in (404, 405), response.status_code
    if response.status_code == 422:
        assert re.search(r'"message"', response.text)
