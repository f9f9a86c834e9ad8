"""Jobs through the API: isolation, edits, versions, history, refusals."""

from __future__ import annotations

import dataclasses
import json
import uuid
from collections.abc import Callable
from typing import Any

import pytest
from django.test import Client

from mellow_span.core.model import parts as core
from mellow_span.core.site.earlier import earlier
from mellow_span.exchange.site_log import entries_read
from mellow_span.jobs import models
from mellow_span.jobs.reads import installation
from mellow_span.logbook import log
from tests.conftest import PASSWORD, Firm, make_colleague

pytestmark = pytest.mark.django_db
NOBODY = "00000000-0000-0000-0000-000000000000"
Sign = Callable[[Firm], Client]


def change(op: str, kind: str, id: Any = NOBODY, **rest: Any) -> dict[str, Any]:
    return {"op": op, "kind": kind, "id": str(id), **rest}


def send(client: Client, firm: Firm, *changes: dict[str, Any], version: int | None = None, **rest: Any) -> Any:
    firm.job.refresh_from_db()
    body = {"edit_id": str(uuid.uuid4()), "version": version or firm.job.version, "changes": list(changes), **rest}
    return client.patch(f"/api/jobs/{firm.job.pk}", json.dumps(body), content_type="application/json")


def named(firm: Firm, name: str) -> models.Circuit:
    return models.Circuit.objects.get(job=firm.job, name=name)


@pytest.mark.parametrize("kind", ["board", "circuit", "load", "span", "route"])
@pytest.mark.parametrize("op", ["set", "remove", "move"])
def test_an_edit_cannot_reach_a_part_of_another_firms_job(op: str, kind: str, firm: Firm, other: Firm, signed_in: Sign) -> None:
    row: Any = {"board": models.Board, "circuit": models.Circuit, "load": models.Load, "span": models.Span, "route": models.Route}[kind]
    target = row.objects.filter(job=other.job).first()
    answer = send(signed_in(firm), firm, change(op, kind, target.pk, fields={"name": "x"} if op == "set" else {}, index=0))
    assert answer.status_code == 422
    assert row.objects.filter(pk=target.pk, job=other.job, name=target.name).exists()


def test_a_circuit_cannot_be_moved_to_another_firms_board(firm: Firm, other: Firm, signed_in: Sign) -> None:
    foreign = models.Board.objects.get(job=other.job, name="House board")
    mine = named(firm, "Shower")
    assert send(signed_in(firm), firm, change("move", "circuit", mine.pk, parent=str(foreign.pk))).status_code == 422
    assert send(signed_in(firm), firm, change("set", "circuit", mine.pk, fields={"feeds": str(foreign.pk)})).status_code == 422
    assert send(signed_in(firm), firm, change("add", "circuit", uuid.uuid4(), parent=str(foreign.pk))).status_code == 422


def test_an_edit_answers_with_the_recomputed_job(firm: Firm, signed_in: Sign) -> None:
    shower = named(firm, "Shower")
    quilt = shower.run.spans.get(place="ceiling_thick")
    answer = send(signed_in(firm), firm, change("set", "span", quilt.pk, fields={"place": "timber"}), focus=str(shower.pk))
    state = answer.json()
    assert answer.status_code == 200
    assert state["version"] == 2
    assert state["detail"]["verdict"] == "close"
    assert next(c for c in state["detail"]["checks"] if c["id"] == "capacity")["value"] == 51.2
    saved = models.Edit.objects.get(job=firm.job).changes
    assert [(c["op"], c["id"], c["before"], c["after"]) for c in saved] == [
        ("set", str(quilt.pk), {"place": "ceiling_thick"}, {"place": "timber"})
    ]


def test_an_edit_on_an_older_version_clashes_where_the_same_was_changed_and_says_both_values(firm: Firm, signed_in: Sign) -> None:
    client, shower = signed_in(firm), named(firm, "Shower")
    assert send(client, firm, change("set", "circuit", shower.pk, fields={"name": "First"})).status_code == 200
    answer = send(client, firm, change("set", "circuit", shower.pk, fields={"name": "Second"}), version=1)
    assert answer.status_code == 409
    point = answer.json()["clashes"][0]
    assert (point["why"], point["field"], point["base_told"], point["mine_told"], point["theirs_told"]) == (
        "value", "name", "Shower", "Second", "First",
    )  # fmt: skip
    assert point["by"] == firm.username
    assert answer.json()["state"]["version"] == 2
    shower.refresh_from_db()
    assert shower.name == "First"


def test_a_figure_is_not_laid_over_what_another_made_it_a_figure_of(firm: Firm, signed_in: Sign) -> None:
    """One takes another kind of cable while another, who has not seen it, makes the old kind larger: neither meant the two together."""
    client, other = signed_in(firm), Client()
    other.force_login(make_colleague(firm).user)
    cooker = named(firm, "Cooker").pk
    assert send(other, firm, change("set", "circuit", cooker, fields={"cable": {"family": "armoured_pvc70"}})).status_code == 200
    answer = send(client, firm, change("set", "circuit", cooker, fields={"cable": {"csa": 10}}), version=1)
    assert answer.status_code == 409
    (point,) = answer.json()["clashes"]
    assert (point["field"], point["mine_told"]) == ("cable.csa", "10 mm², with cable type armoured, 70 °C")
    assert point["base_told"] == "6 mm², with cable type flat twin & earth"
    assert point["theirs_told"] == "6 mm², with cable type armoured, 70 °C"
    # Another field of the cable's circuit is taken all the same.
    assert send(client, firm, change("set", "circuit", cooker, fields={"device": {"curve": "C"}}), version=1).status_code == 200


def test_the_same_edit_sent_twice_is_applied_once(firm: Firm, signed_in: Sign) -> None:
    client, board = signed_in(firm), models.Board.objects.get(job=firm.job, name="House board")
    count = models.Circuit.objects.filter(job=firm.job).count()
    body = {"edit_id": str(uuid.uuid4()), "version": 1, "changes": [change("add", "circuit", uuid.uuid4(), parent=str(board.pk))]}
    for _ in range(2):
        answer = client.patch(f"/api/jobs/{firm.job.pk}", json.dumps(body), content_type="application/json")
        assert (answer.status_code, answer.json()["version"]) == (200, 2)
    assert models.Circuit.objects.filter(job=firm.job).count() == count + 1


def test_a_dry_run_saves_nothing(firm: Firm, signed_in: Sign) -> None:
    shower, before = named(firm, "Shower"), installation(firm.job)
    answer = send(signed_in(firm), firm, change("remove", "circuit", shower.pk), dry_run=True)
    assert len(answer.json()["summaries"]) == len(before.circuits) - 1
    assert installation(models.Job.objects.get(pk=firm.job.pk)) == before
    assert not models.Edit.objects.filter(job=firm.job).exists()


@pytest.mark.parametrize(
    ("kind", "fields", "field", "allowed"),
    [
        ("span", {"length": 5000}, "length", "0.1 to 1 000 m"),
        ("span", {"length": "long"}, "length", "a number"),
        ("span", {"place": "moon"}, "place", "masonry"),
        ("span", {"colour": 1}, "colour", "ambient"),
        ("span", {"group": 2.5}, "group", "a whole number"),
        ("circuit", {"device": {"rating": 0}}, "device.rating", "1 to 1 600 A"),
        ("circuit", {"device": {"curve": "Q"}}, "device.curve", "B, C, D"),
        ("circuit", {"cable": {"family": "rope"}}, "cable.family", "flat_twin_cpc_pvc70"),
        ("circuit", {"board": "here"}, "board", "existing"),
        ("supply", {"ze": -1}, "ze", "0.01 to 500"),
        ("job", {"name": " "}, "name", "1 to 200 characters"),
    ],
)
def test_a_refusal_names_field_given_and_allowed_and_changes_nothing(
    kind: str, fields: dict[str, Any], field: str, allowed: str, firm: Firm, signed_in: Sign
) -> None:
    shower, before = named(firm, "Shower"), installation(firm.job)
    target = {"span": shower.run.spans.first(), "circuit": shower}.get(kind)
    good = change("set", "circuit", shower.pk, fields={"name": "must not land"})
    answer = send(signed_in(firm), firm, good, change("set", kind, target.pk if target else NOBODY, fields=fields))
    error = answer.json()["errors"][0]
    assert answer.status_code == 422
    assert (error["field"], error["change"], error["kind"]) == (field, 1, kind)
    assert allowed in error["allowed"]
    assert installation(models.Job.objects.get(pk=firm.job.pk)) == before


def test_parts_keep_their_order(firm: Firm, signed_in: Sign) -> None:
    client, shower = signed_in(firm), named(firm, "Shower")
    new = uuid.uuid4()
    send(client, firm, change("add", "span", new, parent=str(shower.pk), index=1, fields={"length": 2, "place": "timber", "name": "new"}))
    send(client, firm, change("move", "span", new, index=3))
    send(client, firm, change("move", "circuit", shower.pk, index=0))
    firm.job.refresh_from_db()
    found = installation(firm.job)
    assert found.circuits[0].id == str(shower.pk)
    assert [s.name for s in found.circuits[0].run.spans] == [
        "riser",
        "bathroom loft, under quilt",
        "landing joists",
        "new",
        "to the switch",
    ]


def test_size_through_the_api(firm: Firm, signed_in: Sign) -> None:
    answer = signed_in(firm).get(f"/api/jobs/{firm.job.pk}/circuits/{named(firm, 'Shower').pk}/size").json()
    assert (answer["csa"], answer["decided_by"]) == (16, "capacity")
    assert signed_in(firm).get(f"/api/jobs/{firm.job.pk}/circuits/{uuid.uuid4()}/size").status_code == 422


def test_a_new_job_opens_empty_and_can_be_deleted(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    made = client.post("/api/jobs", json.dumps({"name": "Fresh"}), content_type="application/json").json()
    assert [b["name"] for b in made["installation"]["boards"]] == ["Main board"]
    assert client.delete(f"/api/jobs/{made['id']}").status_code == 204
    assert client.get(f"/api/jobs/{made['id']}").status_code == 404


def test_changes_need_the_token(firm: Firm) -> None:
    client = Client(enforce_csrf_checks=True)
    token = client.get("/api/session").json()["csrf"]
    body = json.dumps({"username": firm.username, "password": PASSWORD})
    assert client.post("/api/session", body, content_type="application/json").status_code == 403
    signed = client.post("/api/session", body, content_type="application/json", headers={"X-CSRFToken": token})
    assert signed.json()["signed_in"]
    assert client.delete(f"/api/jobs/{firm.job.pk}").status_code == 403
    assert models.Job.objects.filter(pk=firm.job.pk).exists()


@pytest.mark.parametrize(
    ("row", "part", "apart"),
    [
        (models.Supply, core.Supply, {"job"}),
        (models.Board, core.Board, {"job", "position"}),
        (models.Circuit, core.Circuit, {"job", "position"}),
        (models.Load, core.Load, {"job", "position", "circuit"}),
        (models.Span, core.Span, {"job", "position", "run"}),
        (models.Route, core.Route, {"job", "position"}),
        (models.Dismissal, core.Dismissal, {"job", "position"}),
    ],
)
def test_storage_and_core_have_the_same_fields(row: Any, part: Any, apart: set[str]) -> None:
    stored = {f.name for f in row._meta.concrete_fields} - apart
    meant = {f.name for f in dataclasses.fields(part)} - {"loads", "run"}
    assert stored == meant - ({"id"} if row is models.Supply else set())


def test_a_job_goes_out_as_a_file_and_comes_in_with_the_same_results(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    out = client.get(f"/api/jobs/{firm.job.pk}/export")
    assert out["Content-Disposition"] == "attachment; filename*=UTF-8''Orchard%20Row.json"
    made = client.post("/api/jobs/import", out.content, content_type="application/json")
    assert made.status_code == 201
    before = client.get(f"/api/jobs/{firm.job.pk}").json()
    strip = ("id",)
    assert [{k: v for k, v in s.items() if k not in strip} for s in made.json()["summaries"]] == [
        {k: v for k, v in s.items() if k not in strip} for s in before["summaries"]
    ]
    bad = json.loads(out.content)
    bad["installation"]["circuits"][3]["device"]["rating"] = 4000
    refused = client.post("/api/jobs/import", json.dumps(bad), content_type="application/json")
    assert refused.status_code == 422
    assert refused.json()["errors"][0]["field"] == "installation.circuits[3].device.rating"


def test_every_kind_of_input_is_stored_and_comes_back(firm: Firm, signed_in: Sign) -> None:
    """No dead fields: each field of each part, set through the API, is in the answer and in storage."""
    client, shower = signed_in(firm), named(firm, "Shower")
    route = models.Route.objects.get(job=firm.job)
    targets = {
        "job": NOBODY,
        "supply": NOBODY,
        "board": shower.board_id,
        "circuit": shower.pk,
        "load": shower.loads.get().pk,
        "span": shower.run.spans.first().pk,
    }  # type: ignore[union-attr]
    targets |= {"route": route.pk}
    plan = [change("add", "stage", uuid.uuid4(), fields={"name": name}) for name in ("now", "first", "later")]
    assert send(client, firm, *plan).status_code == 200
    now, first, later = (one["id"] for one in plan)
    targets |= {"stage": first}
    rules = client.get("/api/rules/bs7671").json()
    changes, wanted = [], []
    for field in rules["fields"]:
        kind, _, name = field["field"].partition(".")
        value = sample(field)
        if name.endswith("_stage"):
            value = now if name == "from_stage" else later
        if value is None or name in ("feeds", "board", "route"):
            continue
        if name in ("after", "span"):
            # Where it leaves from, or stands: the last span of the shower.
            value = "board" if name == "after" else str(shower.run.spans.last().pk)
        if name == "alone":
            # The board that a source supplies with the mains off.
            value = str(shower.board_id)
        if kind in ("device", "cable"):
            changes.append(change("set", "circuit", shower.pk, fields={kind: {name: value}}))
        else:
            changes.append(change("set", kind, targets[kind], fields={name: value}))
        wanted.append((kind, name, value))
    assert len(wanted) > 90
    # More fields than one edit may change at once.
    half = len(changes) // 2
    assert send(client, firm, *changes[:half]).status_code == 200
    answer = send(client, firm, *changes[half:])
    assert answer.status_code == 200, answer.json()
    inputs = answer.json()["installation"]
    mine = next(c for c in inputs["circuits"] if c["id"] == str(shower.pk))
    parts = {
        "job": inputs, "supply": inputs["supply"], "board": next(b for b in inputs["boards"] if b["id"] == str(shower.board_id)), "circuit": mine, "load": mine["loads"][0],
        "span": mine["run"]["spans"][0], "device": mine["device"], "cable": mine["run"]["cable"], "route": inputs["routes"][0], "stage": inputs["stages"][1],
    }  # fmt: skip
    for kind, name, value in wanted:
        assert parts[kind][name] == value, (kind, name)
    assert json.loads(json.dumps(dataclasses.asdict(installation(models.Job.objects.get(pk=firm.job.pk))))) == inputs


def sample(field: dict[str, Any]) -> Any:
    """A value the field takes that is not its default."""
    if field["kind"] == "flag":
        return True
    if field["choices"]:
        last = field["choices"][-1]
        return int(last) if last.isdigit() else last
    if field["kind"] in ("number", "whole"):
        value = field["lo"] + (field["hi"] - field["lo"]) / 2 if field["lo"] is not None else None
        return value if value is None or field["kind"] == "number" else int(value)
    return "some words"


def test_the_overview_shows_boards_routes_order_and_advice(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    found = client.get(f"/api/jobs/{firm.job.pk}/overview").json()
    assert {c["id"] for c in found["intake"]} == {"demand", "tails", "earthing", "bonding", "tails_length", "ze", "surge"}
    studio = next(b for b in found["boards"] if b["demand"]["board"] != found["boards"][0]["id"])
    assert studio["demand"]["highest"] == pytest.approx(40 + 0.5 * 750 / 230 / 0.8 + 3 + 0.66 * 120 / 230 + 480 / 230 / 0.9)
    assert studio["checks"][0]["steps"]
    assert found["routes"][0]["n"] == 2
    assert any(p["lower"] == "Kiln" and p["upper"] == "Studio feed" for p in found["pairs"])
    advice = next(a for a in found["advice"] if a["key"].startswith("polystyrene"))
    put = change("add", "dismissal", uuid.uuid4(), fields={"key": advice["key"], "reason": "sleeved"})
    assert send(client, firm, put).status_code == 200
    after = client.get(f"/api/jobs/{firm.job.pk}/overview").json()
    assert next(a for a in after["advice"] if a["key"] == advice["key"])["dismissed"] == "sleeved"
    out = client.get(f"/api/jobs/{firm.job.pk}/export").content
    made = client.post("/api/jobs/import", out, content_type="application/json").json()
    again = client.get(f"/api/jobs/{made['id']}/overview").json()
    assert [a["dismissed"] for a in again["advice"]] == [a["dismissed"] for a in after["advice"]]


def test_ways_out_readings_reach_and_sizes(firm: Firm, signed_in: Sign) -> None:
    client, shower = signed_in(firm), named(firm, "Shower")
    url = f"/api/jobs/{firm.job.pk}/circuits/{shower.pk}"
    ways = client.get(f"{url}/options").json()
    assert ways[0]["passes"]
    asked = ways[0]["changes"]
    assert send(client, firm, *asked).status_code == 200
    assert client.get(f"{url}/options").json() == []
    log.bring_in(firm.job, *[installation(firm.job)] * 2, entries_read(earlier(str(shower.pk), {"r1r2": 0.3})), "Ann")
    read = {c["id"]: c for c in client.get(f"{url}/readings").json()}
    assert read["r1r2"]["found"] == "above"
    assert read["zs"]["found"] == "not_known"
    assert {r["check"] for r in client.get(f"{url}/reach").json()} >= {"volt_drop", "loop"}
    cheapest = client.get(f"/api/jobs/{firm.job.pk}/cheapest").json()
    assert cheapest["exact"] is False or cheapest["gap"] == 0
    assert len(client.get(f"/api/jobs/{firm.job.pk}/holds").json()) == 4
    studio = models.Board.objects.get(job=firm.job, name="Studio board")
    ways = client.get(f"/api/jobs/{firm.job.pk}/boards/{studio.pk}/earthing").json()
    assert [w["id"] for w in ways] == ["export", "local", "both"]
    house = models.Board.objects.get(job=firm.job, name="House board")
    assert client.get(f"/api/jobs/{firm.job.pk}/boards/{house.pk}/earthing").status_code == 422


def test_a_route_that_goes_leaves_its_spans(firm: Firm, signed_in: Sign) -> None:
    route = models.Route.objects.get(job=firm.job)
    spans = route.spans.count()
    assert spans == 3
    answer = send(signed_in(firm), firm, change("remove", "route", route.pk))
    assert answer.status_code == 200
    assert answer.json()["installation"]["routes"] == []
    assert [c["op"] for c in models.Edit.objects.get(job=firm.job).changes] == ["set"] * spans + ["remove"]


def test_a_tree_that_is_none_is_refused_in_words_and_nothing_changes(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    house, studio = (models.Board.objects.get(job=firm.job, name=n) for n in ("House board", "Studio board"))
    before = installation(firm.job)
    second = send(client, firm, change("set", "circuit", named(firm, "Cooker").pk, fields={"feeds": str(studio.pk)}))
    assert second.status_code == 422
    assert "fed by Studio feed" in second.json()["detail"]
    loop = send(client, firm, change("set", "circuit", named(firm, "Kiln").pk, fields={"feeds": str(house.pk)}))
    assert loop.status_code == 422
    assert "no board may feed itself, directly or through others (Studio feed)" in loop.json()["detail"]
    assert loop.json()["errors"][0]["change"] == 0
    assert installation(models.Job.objects.get(pk=firm.job.pk)) == before
    assert not models.Edit.objects.filter(job=firm.job).exists()


def test_the_job_of_a_first_visit_is_told_while_it_can_be_opened(firm: Firm, signed_in: Sign) -> None:
    """Who is signed in comes with the job to open first; not once it is put away or in the bin."""
    client = signed_in(firm)
    assert client.get("/api/session").json()["opens_with"] == ""
    firm.member.opens_with = firm.job
    firm.member.save()
    assert client.get("/api/session").json()["opens_with"] == str(firm.job.pk)
    assert client.delete(f"/api/jobs/{firm.job.pk}").status_code == 204
    assert client.get("/api/session").json()["opens_with"] == ""
