"""Entries of the site log that come together, and pictures that lie beside them."""

from __future__ import annotations

import hashlib
import importlib
import json
import uuid
from collections.abc import Callable
from typing import Any

import pytest
from django.apps import apps
from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from mellow_span.logbook import log
from mellow_span.logbook.models import Entry, Picture
from mellow_span.logbook.pictures import written_anew
from tests.api.test_jobs import named
from tests.conftest import Firm
from tests.pictures import address, jpeg

pytestmark = pytest.mark.django_db
Sign = Callable[[Firm], Client]
JPEG = jpeg()


def entry(kind: str, subject: Any, **data: Any) -> dict[str, Any]:
    return {"id": str(uuid.uuid4()), "kind": kind, "subject": str(subject), "data": data, "at": timezone.now().isoformat()}


def together(client: Client, firm: Firm, *entries: dict[str, Any]) -> Any:
    body = json.dumps({"entries": entries, "sent": timezone.now().isoformat()})
    return client.post(f"/api/jobs/{firm.job.pk}/site/entries", body, content_type="application/json")


def photo(name: str = "terminals", image: bytes = JPEG) -> dict[str, str]:
    return {"name": name, "image": address(image)}


# As it is kept: written anew.
KEPT = written_anew(photo()["image"])
DIGEST = hashlib.sha256(KEPT.encode()).hexdigest()


def test_each_entry_has_its_own_fate_in_their_order(firm: Firm, signed_in: Sign) -> None:
    client, shower = signed_in(firm), named(firm, "Shower").pk
    given = [
        entry("pulled", shower, done=True),
        entry("pulled", uuid.uuid4(), done=True),
        entry("reading", shower, quantity="zs", value=-3, point="shower"),
        entry("nothing", shower),
        entry("reading", shower, quantity="zs", value=0.5, point="shower"),
    ]
    answer = together(client, firm, *given)
    assert answer.status_code == 200, answer.json()
    found = answer.json()["entries"]
    assert [e["id"] for e in found] == [e["id"] for e in given]
    assert [bool(e["why"]) for e in found] == [False, True, True, True, False]
    assert Entry.objects.filter(job=firm.job).count() == 2
    # Sent again, since the answer was lost: nothing comes twice.
    assert together(client, firm, *given).status_code == 200
    assert Entry.objects.filter(job=firm.job).count() == 2


def test_no_more_than_a_days_entries_come_at_once_and_none_of_another_firm(firm: Firm, other: Firm, signed_in: Sign) -> None:
    client, shower = signed_in(firm), named(firm, "Shower").pk
    assert together(client, firm, *(entry("pulled", shower, done=True) for _ in range(61))).status_code == 422
    assert together(client, firm).status_code == 422
    client = signed_in(other)
    assert together(client, firm, entry("pulled", shower, done=True)).status_code == 404
    assert not Entry.objects.exists()


def test_pictures_lie_beside_the_log_and_no_reading_of_it_fetches_them(firm: Firm, signed_in: Sign) -> None:
    client, shower = signed_in(firm), named(firm, "Shower").pk
    taken = entry("photo", shower, **photo())
    sent = client.post(f"/api/jobs/{firm.job.pk}/site", json.dumps(taken), content_type="application/json")
    assert sent.status_code == 200, sent.json()
    row = Entry.objects.get(pk=taken["id"])
    assert row.data == {"name": "terminals", "image": DIGEST}
    assert address(bytes(row.picture.jpeg)) == KEPT
    shown = client.get(f"/api/jobs/{firm.job.pk}/photos/{taken['id']}")
    assert (shown["Content-Type"], shown.content) == ("image/jpeg", bytes(row.picture.jpeg))
    with CaptureQueriesContext(
        connection,
    ) as asked:
        assert len(log.entries(firm.job)) == 1
        again = entry("photo", shower, **photo("board"))
        client.post(f"/api/jobs/{firm.job.pk}/site", json.dumps(again), content_type="application/json")
    reads = [q["sql"] for q in asked if q["sql"].startswith("SELECT")]
    assert not [q for q in reads if "site_picture" in q], "adding a photo looks at no other"
    for bad in ({**photo(), "image": "data:image/png;base64,AAAA"}, {**photo(), "image": ""}, {"name": "x"}):
        answer = client.post(f"/api/jobs/{firm.job.pk}/site", json.dumps(entry("photo", shower, **bad)), content_type="application/json")
        assert answer.status_code == 422, bad
    assert Picture.objects.count() == 2
    # A file, and an issue, hold the fingerprint of the picture.
    site = client.get(f"/api/jobs/{firm.job.pk}/export").json()["site"]
    assert {e["data"]["image"] for e in site} == {DIGEST}


def test_pictures_from_before_are_put_beside_the_log_once(firm: Firm) -> None:
    old = Entry.objects.create(
        id=uuid.uuid4(), job=firm.job, kind="photo", subject=named(firm, "Shower").pk, data=photo(), at=timezone.now(), name="Ann"
    )
    step = importlib.import_module("mellow_span.logbook.migrations.0006_pictures_by_themselves")
    for _ in range(2):
        step.apart(apps, None)
        old.refresh_from_db()
        assert old.data == {"name": "terminals", "image": hashlib.sha256(photo()["image"].encode()).hexdigest()}
        assert bytes(Picture.objects.get(entry=old).jpeg) == JPEG
