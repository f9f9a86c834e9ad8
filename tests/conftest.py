"""Fixtures shared by the API and browser tests: firms with a person and a job each."""

from __future__ import annotations

import json
import os
import uuid
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, settings

from mellow_span import demo

# Playwright's event loop runs in the test's own thread; the ORM is still only used between its calls.
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")
# How long an example takes says how busy the machine is, and nothing about the code.
settings.register_profile("any machine", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("any machine")
PASSWORD = "long enough to pass"


@dataclass
class Firm:
    """A firm with one person and a copy of the demo house."""

    username: str
    job: Any
    member: Any


def make_firm(username: str = "") -> Firm:
    from django.contrib.auth import get_user_model

    from mellow_span.exchange.document import read
    from mellow_span.jobs.models import Firm as FirmRow
    from mellow_span.jobs.models import Member
    from mellow_span.jobs.writes import take_in

    username = username or f"person-{uuid.uuid4().hex[:8]}"
    user = get_user_model().objects.create_user(username, password=PASSWORD)
    firm = FirmRow.objects.create(name=username)
    member = Member.objects.create(user=user, firm=firm, name=username, role=Member.Role.SUPERVISOR)
    data = json.loads((Path(demo.__file__).parent / "orchard_row.json").read_text("utf-8"))
    job = take_in(firm, read(data))
    return Firm(username, job, member)


def make_colleague(firm: Firm, role: str = "designer") -> Any:
    from django.contrib.auth import get_user_model

    from mellow_span.jobs.models import Member

    user = get_user_model().objects.create_user(f"colleague-{uuid.uuid4().hex[:8]}", password=PASSWORD)
    return Member.objects.create(user=user, firm=firm.member.firm, name="colleague", role=role)


@pytest.fixture
def firm(db: None) -> Firm:
    return make_firm()


@pytest.fixture
def other(db: None) -> Firm:
    return make_firm()


@pytest.fixture
def signed_in(client: Any) -> Callable[[Firm], Any]:
    def sign(firm: Firm) -> Any:
        client.force_login(firm.member.user)
        # The page asks first who is signed in; from then on its session is known.
        client.get("/api/session")
        return client

    return sign
