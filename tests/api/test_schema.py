"""The API fuzzed from its own description: whatever is sent, it answers as it says it does."""

from __future__ import annotations

import json
import re
from typing import Any

import pytest
import schemathesis
from hypothesis import HealthCheck, settings

from mellow_span.api import api
from mellow_span.serving.wsgi import application
from tests.conftest import make_firm
from tests.depth import many

SCHEMA = schemathesis.openapi.from_dict(json.loads(json.dumps(api.get_openapi_schema())))
SCHEMA.app = application


@pytest.fixture
def cookies(transactional_db: None) -> tuple[dict[str, str], Any]:
    from django.test import Client

    firm = make_firm()
    client = Client()
    client.force_login(firm.member.user)
    client.get("/api/session")
    return {k: v.value for k, v in client.cookies.items()}, firm.job


@SCHEMA.parametrize()
@settings(
    max_examples=many(12, 3),
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
