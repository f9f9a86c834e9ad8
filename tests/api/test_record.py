"""A record of isolation through the API: whatever is sent, 'proved dead' is reached by every step of the server's own plan, in order, and by nothing else."""

from __future__ import annotations

import random
import uuid
from collections.abc import Callable
from typing import Any

import pytest
from django.test import Client

from mellow_span.core.site.isolation_steps import NOT_CLEAR
from tests.api.test_jobs import change, named, send
from tests.api.test_pulls import write
from tests.conftest import Firm
from tests.depth import many

pytestmark = pytest.mark.django_db
Sign = Callable[[Firm], Client]
WRONG = ("", "yes", "no", "dead ", "DEAD", "isolated", "no:", "words", "dead", "live")


def plan_of(client: Client, firm: Firm, kind: str, id: Any) -> dict[str, Any]:
    found: dict[str, Any] = client.get(f"/api/jobs/{firm.job.pk}/isolation/plan", {"kind": kind, "id": str(id)}).json()
    return found


def begun(plan: dict[str, Any], record: str, **more: Any) -> dict[str, Any]:
    about = {name: plan["plan"][name] for name in ("title", "kind", "id")}
    return {"record": record, "step": "begin", "steps": plan["steps"], "release": plan["release"], **about, **more}


def state(client: Client, firm: Firm, record: str) -> dict[str, Any]:
    found: dict[str, Any] = next(r for r in client.get(f"/api/jobs/{firm.job.pk}/isolation").json()["records"] if r["id"] == record)
    return found


def right(step: dict[str, Any]) -> str:
    return {"nothing": "", "words": "by Ann", "dead": "dead", "clear": "no: looked"}[step["needs"]]


def test_a_record_begins_by_the_plan_of_the_server_and_by_no_other(firm: Firm, signed_in: Sign) -> None:
    client, rnd = signed_in(firm), random.Random(5)
    places = [("circuit", named(firm, n).pk) for n in ("Shower", "Cooker", "Studio feed")] + [("board", named(firm, "Shower").board_id)]
    for seed in range(many(40, 16)):
        kind, id = places[seed % len(places)]
        plan = plan_of(client, firm, kind, id)
        steps, release = list(plan["steps"]), list(plan["release"])
        k = rnd.randrange(len(steps))
        other = plan_of(client, firm, *places[(seed + 1) % len(places)])
        mutated = rnd.choice([
            {"steps": steps[:k] + steps[k + 1 :]}, {"steps": [*steps[:k], steps[k].replace("|clear|", "|words|").replace("|dead|", "|nothing|"), *steps[k + 1 :], "x|nothing||x"]},
            {"steps": steps[::-1]}, {"release": release[:-1]}, {"title": "somewhere else"}, {"steps": other["steps"], "release": other["release"]},
            {"steps": [s + " please" if i == k else s for i, s in enumerate(steps)]}, {"steps": [s.replace("words|", "nothing|") for s in steps]},
        ])  # fmt: skip
        answer = write(client, firm, "isolation", data=begun(plan, str(uuid.uuid4()), **mutated))
        assert answer.status_code == 422, mutated
        assert answer.json()["errors"][0]["field"] == "data.steps"
    assert client.get(f"/api/jobs/{firm.job.pk}/isolation").json()["records"] == []


def test_a_plan_that_the_design_has_left_behind_is_refused(firm: Firm, signed_in: Sign) -> None:
    client, shower = signed_in(firm), named(firm, "Shower")
    plan = plan_of(client, firm, "circuit", shower.pk)
    other = named(firm, "Cooker")
    loads = [c.loads.first().pk for c in (shower, other)]
    both = [change("set", "load", pk, fields={"interlock": "one or the other", "kind": "heating"}) for pk in loads]
    assert send(client, firm, *both).status_code == 200
    assert write(client, firm, "isolation", data=begun(plan, str(uuid.uuid4()))).status_code == 422
    fresh = plan_of(client, firm, "circuit", shower.pk)
    assert len(fresh["plan"]["points"]) == 2
    assert write(client, firm, "isolation", data=begun(fresh, str(uuid.uuid4()))).status_code == 200


def test_proved_dead_is_reached_by_every_step_in_order_and_by_nothing_else(firm: Firm, signed_in: Sign) -> None:
    """Steps and answers by chance, mostly wrong: what is due and rightly answered is taken, all else is refused; dead is only what has every step."""
    client, shower = signed_in(firm), named(firm, "Shower")
    plan = plan_of(client, firm, "circuit", shower.pk)
    steps = plan["plan"]["steps"]
    keys = [*(s["key"] for s in steps), *(s["key"] for s in plan["plan"]["release"]), "begin", "nothing"]
    for seed in range(many(12, 4)):
        rnd, record, at = random.Random(seed), str(uuid.uuid4()), 0
        answer = write(client, firm, "isolation", data=begun(plan, record))
        assert answer.status_code == 200, answer.json()
        for _ in range(60):
            due = steps[at] if at < len(steps) else None
            key = due["key"] if due and rnd.random() < 0.7 else rnd.choice(keys)
            value = right(due) if due and rnd.random() < 0.7 else rnd.choice(WRONG)
            answer = write(client, firm, "isolation", record=record, step=key, value=value)
            if answer.status_code == 200:
                assert due is not None
                assert key == due["key"], "a step that was not due was taken"
                if due["needs"] == "dead":
                    assert value in ("dead", "live")
                at += 1
                if value == "live" and due["needs"] == "dead":
                    break
            now = state(client, firm, record)
            assert (now["state"] == "dead") == (at == len(steps)), (now["state"], at)
            if at == len(steps):
                break
    record = str(uuid.uuid4())
    write(client, firm, "isolation", data=begun(plan, record))
    for step in steps:
        assert write(client, firm, "isolation", record=record, step=step["key"], value=right(step)).status_code == 200
    assert state(client, firm, record)["state"] == "dead"


def test_another_source_that_is_not_isolated_ends_the_record(firm: Firm, signed_in: Sign) -> None:
    client, record = signed_in(firm), str(uuid.uuid4())
    plan = plan_of(client, firm, "circuit", named(firm, "Shower").pk)
    write(client, firm, "isolation", data=begun(plan, record))
    write(client, firm, "isolation", record=record, step="told", value="all")
    assert write(client, firm, "isolation", record=record, step="ask:generation", value=NOT_CLEAR).status_code == 200
    stopped = state(client, firm, record)
    assert (stopped["state"], stopped["next"]) == ("live", "")
    assert write(client, firm, "isolation", record=record, step="ask:battery", value="no: none").status_code == 422
