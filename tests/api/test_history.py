"""Versions, merging, taking back, going back: two people on one job, and jobs that are broken."""

from __future__ import annotations

import json
import uuid
from collections.abc import Callable
from dataclasses import replace
from typing import Any

import pytest
from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext

from mellow_span.core.model.parts import Board, Circuit, Installation
from mellow_span.exchange.document import write
from mellow_span.jobs import models
from mellow_span.jobs.reads import forget, installation
from mellow_span.jobs.writes import persist, take_in
from tests.api.test_jobs import change, named, send
from tests.conftest import Firm, make_colleague

pytestmark = pytest.mark.django_db
Sign = Callable[[Firm], Client]


@pytest.fixture
def two(firm: Firm) -> tuple[Client, Client]:
    """The person and a colleague of the same firm, signed in apart."""
    mine, theirs = Client(), Client()
    mine.force_login(firm.member.user)
    theirs.force_login(make_colleague(firm).user)
    return mine, theirs


def now(firm: Firm) -> Installation:
    firm.job.refresh_from_db()
    return installation(firm.job)


def post(client: Client, firm: Firm, what: str, **body: Any) -> Any:
    body = {"edit_id": str(uuid.uuid4()), **body}
    return client.post(f"/api/jobs/{firm.job.pk}/{what}", json.dumps(body), content_type="application/json")


def length_of(firm: Firm, span: models.Span) -> float | None:
    return next(s.length for c in now(firm).circuits for s in c.run.spans if s.id == str(span.pk))


def test_two_on_different_circuits_never_see_a_clash(firm: Firm, two: tuple[Client, Client]) -> None:
    mine, theirs = two
    shower, cooker = named(firm, "Shower"), named(firm, "Cooker")
    assert send(theirs, firm, change("set", "circuit", cooker.pk, fields={"name": "Theirs"}), version=1).status_code == 200
    answer = send(mine, firm, change("set", "circuit", shower.pk, fields={"name": "Mine"}), version=1)
    assert (answer.status_code, answer.json()["version"], answer.json()["landed"]) == (200, 3, 3)
    assert {"Theirs", "Mine"} <= {c.name for c in now(firm).circuits}


def test_my_own_earlier_edits_are_no_clash_but_theirs_between_them_are(firm: Firm, two: tuple[Client, Client]) -> None:
    mine, theirs = two
    span = named(firm, "Shower").run.spans.first()
    assert send(mine, firm, change("set", "span", span.pk, fields={"length": 4}), version=1).json()["landed"] == 2
    assert send(theirs, firm, change("set", "span", span.pk, fields={"name": "riser 2"}), version=2).json()["landed"] == 3
    assert send(mine, firm, change("set", "span", span.pk, fields={"length": 5}), version=1, seen=[2]).json()["landed"] == 4
    assert send(mine, firm, change("set", "span", span.pk, fields={"name": "x"}), version=1, seen=[2, 4]).status_code == 409
    assert send(mine, firm, change("set", "span", span.pk, fields={"length": 6}), version=1, seen=[]).status_code == 409
    assert length_of(firm, span) == 5


def test_an_edit_sent_again_after_a_colleagues_is_made_once_and_told_its_own_version(firm: Firm, two: tuple[Client, Client]) -> None:
    mine, theirs = two
    span = named(firm, "Shower").run.spans.first()
    body = {"edit_id": str(uuid.uuid4()), "version": 1, "changes": [change("set", "span", span.pk, fields={"length": 4})]}

    def again() -> Any:
        return mine.patch(f"/api/jobs/{firm.job.pk}", json.dumps(body), content_type="application/json").json()

    assert again()["landed"] == 2
    send(theirs, firm, change("set", "span", span.pk, fields={"length": 7}), version=2)
    assert (again()["landed"], again()["version"]) == (2, 3)
    assert length_of(firm, span) == 7


def test_an_identity_used_in_another_job_is_refused(firm: Firm, other: Firm, signed_in: Sign) -> None:
    edit_id = str(uuid.uuid4())
    name = change("set", "job", fields={"name": "x"})
    assert send(signed_in(other), other, name, edit_id=edit_id).status_code == 200
    answer = send(signed_in(firm), firm, name, edit_id=edit_id)
    assert (answer.status_code, answer.json()["errors"][0]["field"]) == (422, "edit_id")
    taken = change("add", "circuit", named(other, "Shower").pk, parent=str(named(firm, "Shower").board_id))
    answer = send(signed_in(firm), firm, taken)
    assert (answer.status_code, answer.json()["errors"][0]["field"]) == (422, "id")


def test_undo_takes_back_mine_alone_and_redo_brings_it_again(firm: Firm, two: tuple[Client, Client]) -> None:
    mine, theirs = two
    start = now(firm)
    span, cooker = named(firm, "Shower").run.spans.first(), named(firm, "Cooker")
    send(mine, firm, change("set", "span", span.pk, fields={"length": 4}))
    send(mine, firm, change("remove", "circuit", named(firm, "Shower").pk))
    send(theirs, firm, change("set", "circuit", cooker.pk, fields={"name": "Theirs"}))
    assert post(mine, firm, "undo").status_code == 200
    assert length_of(firm, span) == 4
    assert post(mine, firm, "undo").status_code == 200
    cooker_now = next(c for c in now(firm).circuits if c.id == str(cooker.pk))
    assert cooker_now.name == "Theirs"
    assert (
        replace(now(firm), circuits=tuple(replace(c, name="Cooker") if c.id == str(cooker.pk) else c for c in now(firm).circuits)) == start
    )
    assert post(mine, firm, "undo").json()["errors"][0]["field"] == "undo"
    assert post(mine, firm, "undo", again=True).status_code == 200
    assert length_of(firm, span) == 4
    assert post(mine, firm, "undo", again=True).status_code == 200
    assert "Shower" not in {c.name for c in now(firm).circuits}
    assert post(mine, firm, "undo", again=True).json()["errors"][0]["field"] == "redo"
    assert post(theirs, firm, "undo").status_code == 200
    assert "Cooker" in {c.name for c in now(firm).circuits}


def test_redo_ends_where_something_new_was_done(firm: Firm, signed_in: Sign) -> None:
    client, span = signed_in(firm), named(firm, "Shower").run.spans.first()
    send(client, firm, change("set", "span", span.pk, fields={"length": 4}))
    post(client, firm, "undo")
    send(client, firm, change("set", "span", span.pk, fields={"length": 6}))
    assert post(client, firm, "undo", again=True).status_code == 422
    assert length_of(firm, span) == 6


def test_undo_of_mine_does_not_take_a_later_edit_of_theirs_away(firm: Firm, two: tuple[Client, Client]) -> None:
    mine, theirs = two
    span = named(firm, "Shower").run.spans.first()
    send(mine, firm, change("set", "span", span.pk, fields={"length": 4}))
    send(theirs, firm, change("set", "span", span.pk, fields={"length": 9}))
    answer = post(mine, firm, "undo")
    point = answer.json()["clashes"][0]
    assert (answer.status_code, point["theirs_told"], point["by"]) == (409, "9 m", "colleague")
    assert length_of(firm, span) == 9


def test_any_version_can_be_gone_back_to_and_the_history_reads_in_words(firm: Firm, two: tuple[Client, Client]) -> None:
    mine, theirs = two
    shower, start = named(firm, "Shower"), now(firm)
    board = str(shower.board_id)
    send(mine, firm, change("set", "circuit", shower.pk, fields={"cable": {"csa": 6}}))
    new = str(uuid.uuid4())
    send(theirs, firm, change("add", "circuit", new, parent=board, fields={"name": "Spare"}), change("set", "job", fields={"note": ""}))
    send(mine, firm, change("remove", "circuit", shower.pk))
    at_3 = post(mine, firm, "back", version=4, to=3)
    assert at_3.status_code == 200
    assert {"Spare", "Shower"} <= {c.name for c in now(firm).circuits}
    assert post(mine, firm, "back", version=4, to=1).json()["errors"][0]["allowed"].startswith("5:")
    assert post(mine, firm, "back", version=5, to=1).status_code == 200
    assert now(firm) == start
    assert post(mine, firm, "back", version=6, to=99).status_code == 422
    told = mine.get(f"/api/jobs/{firm.job.pk}/history").json()
    lines = {line["version"]: line for line in told["lines"]}
    assert lines[2]["said"] == ["Shower: line conductor csa 10 mm² became 6 mm²"]
    assert lines[3]["said"][0] == "Spare added"
    assert lines[4]["said"] == ["Shower removed, with 1 load and 4 spans"]
    assert (lines[5]["act"], lines[5]["of"], lines[3]["mine"], lines[3]["by"]) == ("back", 3, False, "colleague")
    older = mine.get(f"/api/jobs/{firm.job.pk}/history?before=4").json()
    assert [line["version"] for line in older["lines"]] == [3, 2]


def test_an_unchanged_job_answers_its_tag_without_being_figured(firm: Firm, signed_in: Sign) -> None:
    client, url = signed_in(firm), f"/api/jobs/{firm.job.pk}"
    tag = client.get(url)["ETag"]
    with CaptureQueriesContext(
        connection,
    ) as queries:
        answer = client.get(url, headers={"If-None-Match": tag})
    assert (answer.status_code, answer.content) == (304, b"")
    assert len(queries) <= 5
    send(client, firm, change("set", "job", fields={"name": "x"}))
    assert client.get(url, headers={"If-None-Match": tag}).status_code == 200
    assert client.get(f"{url}?focus={named(firm, 'Shower').pk}", headers={"If-None-Match": tag}).status_code == 200


def test_the_list_reads_counts_with_as_many_queries_for_many_jobs_as_for_one(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)

    def asked() -> tuple[int, Any]:
        with CaptureQueriesContext(connection) as queries:
            found = client.get("/api/jobs").json()
        return len(queries), found

    one, _ = asked()
    for i in range(60):
        take_in(firm.member.firm, Installation(name=f"Job {i:02}", boards=(Board(id="b"),), circuits=(Circuit(id="c", board="b"),)))
    many, page = asked()
    assert one == many
    assert (page["total"], page["pages"], len(page["jobs"])) == (61, 2, 50)
    assert (page["jobs"][0]["circuits"], page["jobs"][0]["not_known"], page["jobs"][0]["short"]) == (1, 1, 0)
    house = client.get("/api/jobs?search=orchard").json()["jobs"][0]
    state = client.get(f"/api/jobs/{firm.job.pk}").json()
    verdicts = [s["verdict"] for s in state["summaries"]]
    assert (house["short"], house["close"], house["not_known"]) == tuple(verdicts.count(v) for v in ("short", "close", "not_known"))
    assert house["not_known"] not in (house["short"], house["close"]), "columns that stood for one another would show"
    assert client.post(f"/api/jobs/{firm.job.pk}/archive", '{"archived": true}', content_type="application/json").json()["archived"]
    assert client.get("/api/jobs?search=orchard").json()["total"] == 0
    assert client.get("/api/jobs?archived=true").json()["jobs"][0]["name"] == "Orchard Row"


def test_counts_follow_each_edit(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    before = client.get("/api/jobs").json()["jobs"][0]
    send(client, firm, change("set", "span", named(firm, "Shower").run.spans.get(place="ceiling_thick").pk, fields={"place": "timber"}))
    after = client.get("/api/jobs").json()["jobs"][0]
    assert (after["short"], after["close"]) == (before["short"] - 1, before["close"] + 1)


def test_a_job_that_cannot_be_figured_is_a_line_of_its_own_and_can_be_mended(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    value = now(firm)
    feed = next(c for c in value.circuits if c.feeds)
    kiln = next(c for c in value.circuits if c.name == "Kiln")
    looped = replace(value, circuits=tuple(replace(c, feeds=feed.board) if c.id == kiln.id else c for c in value.circuits))
    persist(firm.job, value, looped)
    forget(firm.job)
    bad = client.get(f"/api/jobs/{firm.job.pk}").json()
    assert "no board may feed itself" in bad["trouble"]
    assert len(bad["installation"]["circuits"]) == len(value.circuits)
    assert client.get(f"/api/jobs/{firm.job.pk}/export").status_code == 200
    assert client.get("/api/jobs").status_code == 200
    still = send(client, firm, change("set", "job", fields={"name": "Broken"}))
    assert (still.status_code, client.get("/api/jobs").json()["jobs"][0]["trouble"] != "") == (200, True)
    mended = send(client, firm, change("set", "circuit", kiln.id, fields={"feeds": None}))
    assert mended.json()["trouble"] == ""
    assert client.get("/api/jobs").json()["jobs"][0]["trouble"] == ""


def test_values_an_older_version_stored_are_read_and_named(firm: Firm, signed_in: Sign) -> None:
    client, shower = signed_in(firm), named(firm, "Shower")
    models.Circuit.objects.filter(pk=shower.pk).update(device={"rating": 40, "curve": "B", "colour": "red", "icn": "many"}, shape="star")
    forget(firm.job)
    state = client.get(f"/api/jobs/{firm.job.pk}").json()
    found = next(c for c in state["installation"]["circuits"] if c["id"] == str(shower.pk))
    assert (found["device"]["rating"], found["device"]["icn"]) == (40, None)
    told = [p["field"] for p in state["unfit"]]
    assert set(told) == {f"circuit.{shower.pk}.shape", f"circuit.{shower.pk}.device.colour", f"circuit.{shower.pk}.device.icn"}
    mended = send(client, firm, change("set", "circuit", shower.pk, fields={"shape": "radial", "device": {"icn": 6000}})).json()
    assert mended["unfit"] == []
    forget(firm.job)
    assert client.get(f"/api/jobs/{firm.job.pk}").json()["unfit"] == []
    assert models.Circuit.objects.get(pk=shower.pk).shape == "radial"


def test_an_import_is_refused_whole_before_anything_is_stored(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    count = models.Job.objects.count(), models.Circuit.objects.count()
    good = write(now(firm))
    feed = next(i for i, c in enumerate(good["installation"]["circuits"]) if c.get("feeds"))
    damages: list[Callable[[Any], Any]] = [
        lambda d: d["installation"]["circuits"][feed].update(feeds=d["installation"]["circuits"][feed]["board"]),
        lambda d: d["installation"]["circuits"][0]["loads"].append(d["installation"]["circuits"][1]["loads"][0]),
        lambda d: d["installation"]["circuits"][0]["run"]["spans"].extend([{"id": f"x{i}"} for i in range(61)]),
        lambda d: d["installation"].update(boards=[]),
        lambda d: d.update(name="half \ud800"),
        lambda d: d["installation"]["circuits"][0].update(name="nu\x00ll"),
    ]
    for damage in damages:
        data = json.loads(json.dumps(good))
        damage(data)
        refused = client.post("/api/jobs/import", json.dumps(data), content_type="application/json")
        assert refused.status_code == 422, refused.content
        assert refused.json()["errors"][0]["field"]
    assert count == (models.Job.objects.count(), models.Circuit.objects.count())


def test_a_note_may_be_long_and_may_be_emptied(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    for note in ("n" * 2000, ""):
        assert send(client, firm, change("set", "job", fields={"note": note})).json()["installation"]["note"] == note
    half = send(client, firm, change("set", "job", fields={"note": "\ud800"}))
    assert (half.status_code, half.json()["errors"][0]["field"]) == (422, "note")


def test_a_dry_run_writes_and_locks_nothing(firm: Firm, signed_in: Sign) -> None:
    client, shower = signed_in(firm), named(firm, "Shower")
    with CaptureQueriesContext(connection) as queries:
        answer = send(client, firm, change("set", "circuit", shower.pk, fields={"name": "try"}), dry_run=True)
    assert answer.status_code == 200
    assert not [q["sql"] for q in queries if q["sql"].startswith(("INSERT", "UPDATE", "DELETE")) or "FOR UPDATE" in q["sql"]]
