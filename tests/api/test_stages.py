"""A job with stages over the API: documents and site work of one, in every form, and what is refused."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from typing import Any

import pytest
from django.test import Client

from tests.api.test_jobs import change, named, send
from tests.api.test_pulls import write
from tests.behind import asked, work_once
from tests.conftest import Firm, make_firm

pytestmark = pytest.mark.django_db
Sign = Callable[[Firm], Client]


def staged(client: Client, firm: Firm) -> tuple[str, str]:
    """The house planned in two stages, its charger at the second; return both."""
    now, later = uuid.uuid4(), uuid.uuid4()
    plan = [change("add", "stage", one, fields={"name": name}) for one, name in ((now, "Now"), (later, "Later"))]
    charger = change("set", "circuit", named(firm, "Car charger").pk, fields={"from_stage": str(later)})
    assert send(client, firm, *plan, charger).status_code == 200
    return str(now), str(later)


@pytest.mark.parametrize("form", ["csv", "json", "pdf", "xlsx"])
def test_a_document_of_a_stage_is_made_in_every_form(form: str, firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    now, later = staged(client, firm)
    made = []
    for stage in (now, later):
        # The longest name of a document there is: what it depends on is kept whole.
        about = f"/api/jobs/{firm.job.pk}/papers/{'coordination' if form in ('pdf', 'xlsx') else 'schedule'}/{form}?stage={stage}"
        answer = asked(client, about)
        while answer.status_code == 202:
            assert work_once()
            answer = client.get(about)
        assert answer.status_code == 200, answer.content[:200]
        made.append(answer.content)
    if form in ("csv", "json"):
        assert [b"Car charger" in one for one in made] == [False, True]
    else:
        assert made[0] != made[1]


def test_site_work_is_of_the_stage_that_is_asked_and_another_firms_stage_is_none(firm: Firm, signed_in: Sign) -> None:
    other = make_firm()
    theirs, _ = staged(signed_in(other), other)
    client = signed_in(firm)
    now, later = staged(client, firm)
    about = f"/api/jobs/{firm.job.pk}"

    def pulled(stage: str) -> set[str]:
        return {line["pull"]["name"] for line in client.get(f"{about}/pulls?stage={stage}").json()["lines"]}

    assert "Car charger" not in pulled(now)
    assert pulled(later) == {"Car charger"}
    for address in ("pulls", "materials", "ends", "tests", "isolation", "papers/schedule"):
        refused: Any = client.get(f"{about}/{address}?stage={theirs}")
        assert (refused.status_code, refused.json()["errors"][0]["field"]) == (422, "stage"), address
        assert "Now, Later" in refused.json()["errors"][0]["allowed"]
    unnamed = client.get(f"{about}/isolation/plan?kind=circuit&id={named(firm, 'Shower').pk}")
    assert (unnamed.status_code, unnamed.json()["errors"][0]["field"]) == (422, "stage")


def test_an_isolation_begins_by_the_plan_of_one_of_the_stages_and_no_other(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    now, _ = staged(client, firm)
    shower = str(named(firm, "Shower").pk)
    found = client.get(f"/api/jobs/{firm.job.pk}/isolation/plan?kind=circuit&id={shower}&stage={now}").json()

    def begin(steps: list[str]) -> int:
        about = {name: found["plan"][name] for name in ("title", "kind", "id")}
        data = {"record": str(uuid.uuid4()), "step": "begin", "steps": steps, "release": found["release"], **about}
        return write(client, firm, "isolation", data=data).status_code

    assert begin(found["steps"]) == 200
    assert begin(found["steps"][1:]) == 422
