"""How a firm shows amounts: its currency and VAT, wherever money stands."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Any

import pytest
from django.test import Client

from tests.conftest import Firm, make_colleague

pytestmark = pytest.mark.django_db
Sign = Callable[[Firm], Client]


def say(client: Client, **body: Any) -> Any:
    return client.patch("/api/firm/money", json.dumps(body), content_type="application/json")


def bill(client: Client, firm: Firm) -> dict[str, Any]:
    blocks = client.get(f"/api/jobs/{firm.job.pk}/papers/materials/json").json()["blocks"]
    return next(b for b in blocks if b.get("title") == "Sum")


def test_amounts_are_without_vat_until_a_firm_says_its_rate(firm: Firm, signed_in: Sign, other: Firm) -> None:
    client = signed_in(firm)
    who = client.get("/api/session").json()
    assert (who["currency"], who["vat"]) == ("£", None)
    text = json.dumps(bill(client, firm), ensure_ascii=False)
    assert "without VAT" in text
    assert "£" in text
    assert "Total with VAT" not in text
    assert say(client, currency="€", vat=19).status_code == 200
    who = client.get("/api/session").json()
    assert (who["currency"], who["vat"]) == ("€", 19)
    text = json.dumps(bill(client, firm), ensure_ascii=False)
    assert "£" not in text
    assert "VAT at 19 %" in text
    assert "Total with VAT" in text
    total = client.get(f"/api/jobs/{firm.job.pk}/materials").json()["total"]
    assert f"€{total:.2f}" in text
    assert f"€{round(total + round(total * 0.19, 2), 2):.2f}" in text
    # Of one firm alone.
    assert signed_in(other).get("/api/session").json()["currency"] == "£"


@pytest.mark.parametrize(
    "body",
    [
        {"currency": ""},
        {"currency": "a b"},
        {"currency": "£££££"},
        {"currency": "1"},
        {"currency": "£", "vat": -1},
        {"currency": "£", "vat": 99},
        {"vat": 20},
    ],
)
def test_what_is_no_currency_or_rate_is_refused(body: dict[str, Any], firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    assert say(client, **body).status_code == 422
    assert client.get("/api/session").json()["vat"] is None


def test_an_apprentice_does_not_set_it(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    client.force_login(make_colleague(firm, "apprentice").user)
    assert say(client, currency="€").status_code == 403
