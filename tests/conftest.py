"""Fixtures shared by the API and browser tests: firms with a person and a job each."""

from __future__ import annotations

import json
import os
import random
import uuid
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any
from unittest import mock

import pytest
from django.db.backends.postgresql.operations import DatabaseOperations

from mellow_span import demo
from mellow_span.process.tuning import collect_seldom


def emptied_by_rows(self: DatabaseOperations, style: Any, tables: list[str], **more: Any) -> list[str]:
    """Empty tables row by row: for the few rows of a test that is a hundred times quicker than to make each table's files anew."""
    return [f"DELETE FROM {self.quote_name(table)}" for table in tables]


DatabaseOperations.sql_flush = emptied_by_rows  # type: ignore[method-assign]
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


class SameIdentities:
    """Stands in for the module uuid: the same identities each time, so that a house that was worked out in one test is known in the next."""

    def __init__(self, seed: str) -> None:
        self.chance = random.Random(seed)

    def uuid4(self) -> uuid.UUID:
        return uuid.UUID(int=self.chance.getrandbits(128), version=4)


@cache
def demo_house() -> Any:
    from mellow_span.exchange.document import read

    return read(json.loads((Path(demo.__file__).parent / "orchard_row.json").read_text("utf-8")))


def make_firm(username: str = "", same: str = "") -> Firm:
    """same: the parts of its house have the identities they have each time; the job itself never has."""
    from django.contrib.auth import get_user_model

    from mellow_span.jobs import writes
    from mellow_span.jobs.models import Firm as FirmRow
    from mellow_span.jobs.models import Member

    username = username or f"person-{uuid.uuid4().hex[:8]}"
    user = get_user_model().objects.create_user(username, password=PASSWORD)
    firm = FirmRow.objects.create(name=username)
    member = Member.objects.create(user=user, firm=firm, name=username, role=Member.Role.SUPERVISOR)
    with mock.patch.object(writes, "uuid", SameIdentities(same) if same else uuid):
        job = writes.take_in(firm, demo_house())
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
            # A server that was killed hard may not have let go of it yet. The cluster's own workers are not ours to send away.
            cursor.execute(
                """SELECT pg_terminate_backend(pid) FROM pg_stat_activity
                WHERE datname = current_database() AND usename = current_user AND pid <> pg_backend_pid()"""
            )
        with django_db_blocker.unblock():
            teardown_databases(made, verbosity=0)


# What takes longest comes first, so that no processor is left with a long test at the end.
ORDER = ("tests/server/", "tests/browser/", "tests/api/", "")


@pytest.hookimpl(trylast=True)
def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    items.sort(key=lambda item: next(i for i, room in enumerate(ORDER) if item.nodeid.startswith(room)))


@pytest.fixture(scope="session")
def standing(django_db_setup: None, django_db_blocker: Any) -> dict[str, Firm]:
    """Two firms stored once for all tests of a worker: what a test does to them is taken back with its transaction."""
    with django_db_blocker.unblock():
        return {same: make_firm(same=same) for same in ("one", "other")}


def as_stored(kept: Firm, same: str) -> Firm:
    """The firm as a test finds it: as it was made, anew where a test that could not be taken back emptied the database."""
    from mellow_span.jobs import reads
    from mellow_span.jobs.models import Job, Member

    reads.forget(kept.job)
    job = Job.objects.filter(pk=kept.job.pk).first()
    if job is None:
        return make_firm(same=same)
    return Firm(kept.username, job, Member.objects.select_related("user", "firm").get(pk=kept.member.pk))


@pytest.fixture
def firm(standing: dict[str, Firm], db: None) -> Firm:
    return as_stored(standing["one"], "one")


@pytest.fixture
def other(standing: dict[str, Firm], db: None) -> Firm:
    return as_stored(standing["other"], "other")


@pytest.fixture
def signed_in(client: Any) -> Callable[[Firm], Any]:
    def sign(firm: Firm) -> Any:
        client.force_login(firm.member.user)
        # The page asks first who is signed in; from then on its session is known.
        client.get("/api/session")
        return client

    return sign
