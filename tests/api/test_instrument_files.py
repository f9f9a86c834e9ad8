"""A file of an instrument through the API: what each line was read as, with its time as the file has it, and nothing written down by looking."""

from __future__ import annotations

import base64
import json
from collections.abc import Callable
from typing import Any

import pytest
from django.test import Client

from mellow_span.logbook.models import Entry
from tests.api.test_jobs import named
from tests.conftest import Firm

pytestmark = pytest.mark.django_db
Sign = Callable[[Firm], Client]


def look(client: Client, firm: Firm, content: bytes, **more: Any) -> Any:
    body = {"content": base64.b64encode(content).decode(), **more}
    return client.post(f"/api/jobs/{firm.job.pk}/site/file", json.dumps(body), content_type="application/json")


def test_a_file_is_looked_at_line_by_line_and_nothing_is_written(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    text = 'circuit,quantity,value,time\nA4,zs,0.35,2026-06-05T14:07\nA4,R2,0.2,2026-06-05T14:07:00+02:00\nA,ze,0.24,\nZ9,zs,1,\nA4,ipf,"1,234",\n'
    found = look(client, firm, text.encode())
    assert found.status_code == 200, found.json()
    rows = found.json()["rows"]
    # A time without a zone is left so: it is of the clock of who brings it, not of the server's.
    assert [(r["said"], r["at"], bool(r["wrong"]), len(r["asks"])) for r in rows] == [
        ("0.35 Ω", "2026-06-05T14:07:00", False, 0), ("0.2 Ω", "2026-06-05T14:07:00+02:00", False, 0), ("0.24 Ω", "", False, 0), ("", "", True, 0),
        ("", "", False, 2),
    ]  # fmt: skip
    assert [r["entry"] and (r["entry"]["kind"], r["entry"]["data"]["quantity"]) for r in rows] == [
        ("reading", "zs"), ("reading", "r2_lead"), ("board_reading", "ze"), None, None,
    ]  # fmt: skip
    assert rows[0]["entry"]["subject"] == str(named(firm, "Shower").pk)
    assert not Entry.objects.exists()


@pytest.mark.parametrize("content", [b"", b"nothing,here\n1,2\n", b"\xff\xfe\x00"])
def test_what_is_no_such_file_is_refused_by_name(content: bytes, firm: Firm, signed_in: Sign) -> None:
    assert look(signed_in(firm), firm, content).status_code == 422


def test_bad_base64_and_another_firm(firm: Firm, other: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    bad = client.post(f"/api/jobs/{firm.job.pk}/site/file", json.dumps({"content": "%%%"}), content_type="application/json")
    assert bad.status_code == 422
    assert look(client, firm, b"circuit,zs\nA4,1\n", decimal="dot").status_code == 422
    assert look(signed_in(other), firm, b"circuit,zs\nA4,1\n").status_code == 404
