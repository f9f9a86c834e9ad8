"""Fixtures shared by the API and browser tests: firms with a person and a job each."""

from __future__ import annotations

import json
import os
import uuid
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pytest

from mellow_span import demo
from mellow_span.process.tuning import collect_seldom

# Playwright's event loop runs in the test's own thread; the ORM is still only used between its calls.
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")
PASSWORD = "long enough to pass"
# As the app does: thousands of tests leave much behind that is no garbage.
collect_seldom()


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


@pytest.fixture(scope="session")
def django_db_setup(
    request: pytest.FixtureRequest, django_test_environment: None, django_db_modify_db_settings: None, django_db_blocker: Any
) -> Iterator[None]:
    """The test database, also for tests that no mark says of: those in a browser store what a server of its own has to see."""
    from django.db import connection
    from django.test.utils import setup_databases, teardown_databases

    kept = bool(request.config.getoption("reuse_db"))
    with django_db_blocker.unblock():
        made = setup_databases(verbosity=0, interactive=False, aliases={"default"}, keepdb=kept)
    yield
    if not kept:
        with django_db_blocker.unblock(), connection.cursor() as cursor:
            # A server that was killed hard may not have let go of it yet.
            cursor.execute(
                "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = current_database() AND pid <> pg_backend_pid()"
            )
        with django_db_blocker.unblock():
            teardown_databases(made, verbosity=0)


# What takes longest comes first, so that no processor is left with a long test at the end.
ORDER = ("tests/server/", "tests/browser/", "tests/api/", "")


@pytest.hookimpl(trylast=True)
def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    items.sort(key=lambda item: next(i for i, room in enumerate(ORDER) if item.nodeid.startswith(room)))


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
