"""A backup put back under open pages: another history, in which the versions of a job mean something else."""

from __future__ import annotations

import json
import uuid
from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any

import pytest
from django.test import Client

from mellow_span.jobs.models import Edit, Epoch
from mellow_span.jobs.reads import installation
from tests.api.test_jobs import change
from tests.conftest import Firm

pytestmark = pytest.mark.django_db
Sign = Callable[[Firm], Client]
THEN = datetime(2026, 3, 5, 14, 2, tzinfo=UTC)


def put_back() -> None:
    """As restoring a backup does."""
    Epoch.objects.all().delete()
    Epoch.objects.create(put_back=THEN)


def ask(client: Client, firm: Firm, how: str, seen: str, **body: Any) -> Any:
    given = {"edit_id": str(uuid.uuid4()), "epoch": seen, **body}
    method, address = (client.patch, "") if how == "edit" else (client.post, f"/{how}")
    return method(f"/api/jobs/{firm.job.pk}{address}", json.dumps(given), content_type="application/json")


def test_a_state_says_which_history_it_is_of_and_its_tag_changes_with_it(firm: Firm, signed_in: Sign) -> None:
    client, about = signed_in(firm), f"/api/jobs/{firm.job.pk}"
    put_back()
    first = client.get(about)
    state = first.json()
    assert (state["epoch"], state["put_back"]) == (str(Epoch.objects.get().mark), "2026-03-05T14:02:00+00:00")
    # What the page asks with is made of what the state says.
    tag = f'W/"{state["tag"]}-"'
    assert first["ETag"] == tag
    assert client.get(about, headers={"If-None-Match": tag}).status_code == 304
    put_back()
    again = client.get(about, headers={"If-None-Match": tag})
    assert (again.status_code, again.json()["version"]) == (200, state["version"])
    assert again.json()["epoch"] != state["epoch"]


@pytest.mark.parametrize("how", ["edit", "undo", "back"])
def test_nothing_made_on_another_history_is_taken(how: str, firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    put_back()
    seen = client.get(f"/api/jobs/{firm.job.pk}").json()["epoch"]
    edits = {"changes": [change("set", "job", fields={"note": "mine"})], "version": 1}
    assert ask(client, firm, "edit", seen, **edits).status_code == 200
    put_back()
    body = {
        "edit": {**edits, "version": 2, "changes": [change("set", "job", fields={"note": "late"})]},
        "undo": {},
        "back": {"version": 2, "to": 1},
    }[how]
    refused = ask(client, firm, how, seen, **body)
    assert (refused.status_code, refused.json()["errors"][0]["field"]) == (422, "epoch")
    firm.job.refresh_from_db()
    assert (installation(firm.job).note, Edit.objects.filter(job=firm.job).count()) == ("mine", 1)
    now = client.get(f"/api/jobs/{firm.job.pk}").json()["epoch"]
    assert ask(client, firm, how, now, **body).status_code == 200


def test_where_there_is_none_yet_one_is_told_all_the_same(firm: Firm, signed_in: Sign) -> None:
    Epoch.objects.all().delete()
    state = signed_in(firm).get(f"/api/jobs/{firm.job.pk}").json()
    assert (state["epoch"], state["put_back"]) == (str(uuid.UUID(int=0)), "")
