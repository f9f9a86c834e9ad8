"""Nothing of one firm is shown to another or touched by it: every operation and every reference field, taken from the API's own description.

An operation, a part of an address, a body or a reference that is new fails here until it is said how another firm would try to reach through it.
"""

from __future__ import annotations

import json
import re
import uuid
from collections.abc import Callable, Iterator
from datetime import timedelta
from functools import cache
from typing import Any

import pytest
from django.db import transaction
from django.test import Client
from django.utils import timezone

from mellow_span.api import api
from mellow_span.core.model.parts import Installation
from mellow_span.exchange.issue import issued
from mellow_span.exchange.packs import from_texts
from mellow_span.jobs import models
from mellow_span.jobs.packs import keep
from mellow_span.jobs.reads import installation
from mellow_span.learning.models import Paper, Sitting, Tried
from mellow_span.logbook.models import Entry, Issue, Picture, Prices, SiteRules
from mellow_span.people.models import ClientLink, Device, Event, Invitation
from mellow_span.people.tokens import kept
from tests.api.test_jobs import change, named, send
from tests.conftest import Firm, as_stored, make_colleague

pytestmark = pytest.mark.django_db
Sign = Callable[[Firm], Client]
SCHEMA: dict[str, Any] = json.loads(json.dumps(api.get_openapi_schema()))
OPERATIONS = [(method, path, about) for path, by in SCHEMA["paths"].items() for method, about in by.items()]
NAMES = [about["operationId"] for _, _, about in OPERATIONS]
# What anybody may ask: the door, and what a link opens.
OPEN = {"who", "sign_in", "sign_out", "open_invitation", "join", "shared_job"}
# What an apprentice may send beside looking: their own session, a proposal, words to be understood.
APPRENTICE = {
    "sign_in", "sign_out", "act_in", "end_device", "change_password", "begin_second_step", "confirm_second_step", "end_second_step", "join",
    "exercise", "mark_exercise", "sit_paper", "hand_paper_in", "add_copy", "write_down", "write_down_all", "read_file", "read_instrument", "remove_copy", "said", "said_rows", "follow", "remove_member",
    "report_difference",
}  # fmt: skip


NAMED = "whose it is"


@cache
def issue_of(value: Installation) -> str:
    """A job issued, once for each house: the whole of it is worked out for that."""
    return json.dumps(issued(value, 1, "2026-03-05T14:07:00+00:00", NAMED))


def furnish(firm: Firm) -> dict[str, Any]:
    """Give a firm one of everything that has an identity, and return the identities by the names that addresses call them."""
    value = installation(firm.job)
    copy = models.Copy.objects.create(
        job=firm.job, member=firm.member, name=f"copy of {firm.username}", changes=[change("set", "job", fields={"name": "x"})]
    )
    ends = timezone.now() + timedelta(days=3)
    token = f"token-{firm.username}"
    invited = Invitation.objects.create(
        firm=firm.member.firm, token=kept(token), name=f"guest of {firm.username}", role="designer", ends=ends
    )
    link = ClientLink.objects.create(
        job=firm.job, token=kept(token), name=f"client of {firm.username}", version=1, document={"format": "mellow-span/job"}, ends=ends
    )
    device = Device.objects.create(user=firm.member.user, session=f"session-{firm.username}"[:40], agent=firm.username, seen=timezone.now())
    Event.objects.create(firm=firm.member.firm, member=firm.member, kind="exported", about=f"job of {firm.username}")
    Prices.objects.create(firm=firm.member.firm, text=f"item,name,size,price\npart,price of {firm.username},,1")
    Issue.objects.create(
        job=firm.job, number=1, version=1, note=f"by {firm.username}", document=issue_of(value).replace(NAMED, firm.username), hash="0" * 64,
        at=timezone.now(), by=firm.member, name=firm.username,
    )  # fmt: skip
    shot = Entry.objects.create(
        id=uuid.uuid4(), job=firm.job, kind="photo", subject=named(firm, "Shower").pk, data={"name": f"by {firm.username}"},
        at=timezone.now(), by=firm.member, name=firm.username,
    )  # fmt: skip
    Picture.objects.create(entry=shot, jpeg=f"of {firm.username}".encode())
    told = f'id = "mine"\ntitle = "Pack of {firm.username}"\nversion = "1"\nover = "bs7671"\nsource = "made up"\n'
    pack = keep(firm.member.firm, firm.member, from_texts([("pack.toml", told)]))
    paper = Paper.objects.create(
        firm=firm.member.firm,
        title=f"paper of {firm.username}",
        book="bs7671",
        heads=["pairs"],
        each=1,
        minutes=0,
        open=True,
        seed=1,
        by=firm.member,
    )
    models.Recheck.objects.create(firm=firm.member.firm, cause=f"cause of {firm.username}", change={})
    return {
        "set_id": paper.pk, "mark": pack.mark, "photo_id": shot.pk, "job_id": firm.job.pk, "circuit_id": named(firm, "Shower").pk, "board_id": value.boards[0].id, "route_id": value.routes[0].id,
        "copy_id": copy.pk, "link_id": link.pk, "invitation_id": invited.pk, "member_id": firm.member.pk, "device_id": device.pk,
    }  # fmt: skip


@pytest.fixture(scope="module")
def furnished(standing: dict[str, Firm], django_db_blocker: Any) -> Iterator[dict[str, dict[str, Any]]]:
    """Both firms with one of everything, for all tests here; each takes back what it did."""
    with django_db_blocker.unblock(), transaction.atomic():
        yield {kept.username: furnish(as_stored(kept, same)) for same, kept in standing.items()}
        transaction.set_rollback(True)


@pytest.fixture
def ids(furnished: dict[str, dict[str, Any]], firm: Firm) -> dict[str, Any]:
    """What the firm has, by the names that addresses call it."""
    return furnished[firm.username]


@pytest.fixture
def theirs(furnished: dict[str, dict[str, Any]], other: Firm) -> dict[str, Any]:
    """What the other firm has."""
    return furnished[other.username]


# Parts of addresses that belong to no firm.
COMMON = {
    "ruleset": "bs7671",
    "number": "4D5",
    "token": "a token that was never given out",
    "revision": "1",
    "paper_id": "schedule",
    "form": "csv",
}
EDIT = {"edit_id": str(uuid.uuid4()), "version": 1}


def entry(kind: str, subject: Any, **data: Any) -> dict[str, Any]:
    return {"id": str(uuid.uuid4()), "kind": kind, "subject": str(subject), "data": data, "at": timezone.now().isoformat()}


def bodies(theirs: dict[str, Any]) -> dict[str, Any]:
    """A body for every operation that takes one."""
    taken = [change("set", "job", fields={"name": "taken"})]
    return {
        "sign_in": {"username": "nobody", "password": "nothing at all"}, "act_in": {"member": theirs["member_id"]},
        "change_password": {"old": "x", "new": "quite long enough 42"}, "confirm_second_step": {"code": "000000"}, "end_second_step": {"code": "000000"},
        "add_job": {"name": "New"}, "import_job": {"format": "none"}, "edit_job": {**EDIT, "changes": taken}, "undo_edit": {"edit_id": EDIT["edit_id"]},
        "go_back": {**EDIT, "to": 1}, "archive_job": {"archived": True}, "said": {"text": "shower 9.2kW b40"},
        "said_rows": {"board": str(theirs["board_id"]), "rows": [["Cooker"]]}, "add_copy": {"id": str(uuid.uuid4()), "name": "taken", "changes": taken},
        "make_link": {"name": "x", "days": 3}, "read_cell": {"table": "4D5", "row": "1.5", "column": "C", "edition": "x"},
        "write_down": entry("pulled", theirs["circuit_id"], done=True), "read_file": {"content": "Y2lyY3VpdCx6cwpBNCwwLjM="}, "write_down_all": {"entries": [entry("pulled", theirs["circuit_id"], done=True)]}, "set_site_rules": {"board": 1, "end": 1, "undecided": 1, "drums": [50]},
        "exercise": {"head": "pairs"}, "mark_exercise": {"head": "pairs", "seed": 1, "answers": {}},
        "set_paper": {"title": "x", "heads": ["pairs"]}, "hand_paper_in": {"answers": [{}]}, "bring_pack": {"files": [{"name": "pack.toml", "text": "id = 1"}]}, "issue": {"version": 1}, "sign": {"hash": "0" * 64, "read": [str(theirs["circuit_id"])]}, "read_instrument": {"quantity": "r1r2"}, "set_prices": {"text": "item,name,size,price\ncable,flat_twin_cpc_pvc70,2.5,9"}, "rename_firm": {"name": "taken"}, "set_money": {"currency": "€", "vat": 20}, "invite": {"name": "x", "role": "designer"}, "give_role": {"role": "apprentice"}, "join": {},
        "follow": {"address": f"/api/jobs/{theirs['job_id']}/cheapest"}, "report_difference": {"version": 1, "program": "x", "where": ["circuit x"]},
    }  # fmt: skip


def fingerprint(firm: Firm) -> Any:
    """All that a firm owns."""
    job = models.Job.objects.get(pk=firm.job.pk)
    members = list(models.Member.objects.filter(firm=firm.member.firm).values_list("pk", "role", "left", "name"))
    kinds = (Invitation, Event, models.CellRead, models.Pack, models.Recheck, models.Search, SiteRules, Prices)
    return (
        job.name, job.version, job.archived, job.removed, installation(job), members, models.Firm.objects.get(pk=firm.member.firm_id).name,
        [kind.objects.filter(firm=firm.member.firm).count() for kind in kinds],
        list(Paper.objects.filter(firm=firm.member.firm).values_list("title", "away")), Sitting.objects.filter(paper__firm=firm.member.firm).count(),
        Tried.objects.filter(member=firm.member).count(), job.copies.count(), job.links.count(), job.site_log.count(), job.edits.count(), job.issues.count(),
        Device.objects.filter(user=firm.member.user).count(),
    )  # fmt: skip


def filled(path: str, ids: dict[str, Any]) -> str:
    """An address with its parts; a part that is not known here raises."""
    return re.sub(r"\{(\w+)\}", lambda m: str((ids | COMMON)[m.group(1)]), path)


def ask(client: Client, method: str, path: str, about: dict[str, Any], ids: dict[str, Any]) -> Any:
    body = json.dumps(bodies(ids)[about["operationId"]]) if "requestBody" in about else ""
    query = (
        "?words=4D5&table=4D5&row=x&column=x"
        if "{ruleset}" in path
        else "?key=cable/flat_twin_cpc_pvc70/2.5&kind=board&id=x&old=1&book=iec60364"
    )
    return client.generic(method.upper(), filled(path, ids) + query, body, content_type="application/json")


@pytest.mark.parametrize(("method", "path", "about"), OPERATIONS, ids=NAMES)
def test_no_operation_shows_or_touches_what_is_another_firms(
    method: str, path: str, about: dict[str, Any], firm: Firm, other: Firm, theirs: dict[str, Any], signed_in: Sign
) -> None:
    before, client = fingerprint(other), signed_in(firm)
    answer = ask(client, method, path, about, theirs)
    own = [part for part in re.findall(r"\{(\w+)\}", path) if part not in COMMON]
    if own or about["operationId"] == "act_in":
        assert answer.status_code == 404, answer.content
    said = answer.content.decode()
    assert other.username not in said
    # What was asked for stands in the refusal; nothing else of theirs does.
    for name, identity in theirs.items():
        assert name in own or name == "member_id" or str(identity) not in said, name
    assert fingerprint(other) == before


@pytest.mark.parametrize(("method", "path", "about"), OPERATIONS, ids=NAMES)
def test_every_operation_asks_who_it_is(
    method: str, path: str, about: dict[str, Any], firm: Firm, ids: dict[str, Any], client: Client
) -> None:
    answer = ask(client, method, path, about, ids)
    if about["operationId"] in OPEN:
        assert firm.username not in answer.content.decode()
    else:
        assert answer.status_code in (401, 403)


@pytest.mark.parametrize(
    ("method", "path", "about"), [o for o in OPERATIONS if o[0] != "get"], ids=[o[2]["operationId"] for o in OPERATIONS if o[0] != "get"]
)
def test_an_apprentice_looks_and_proposes(
    method: str, path: str, about: dict[str, Any], firm: Firm, ids: dict[str, Any], client: Client
) -> None:
    apprentice = make_colleague(firm, "apprentice")
    client.force_login(apprentice.user)
    client.get("/api/session")
    models.Job.objects.filter(pk=firm.job.pk).update(removed=timezone.now() if about["operationId"] == "bring_job_back" else None)
    before = fingerprint(firm)
    answer = ask(client, method, path, about, ids)
    if about["operationId"] not in APPRENTICE:
        assert (answer.status_code, answer.json()["errors"][0]["field"]) == (403, "role")
        assert fingerprint(firm) == before


SUPERVISOR = {
    "set_paper",
    "take_paper_back",
    "print_paper",
    "sign",
    "rename_firm",
    "invite",
    "take_back_invitation",
    "give_role",
    "way_back",
    "hand_over",
    "remove_member",
    "firm_events",
}


@pytest.mark.parametrize(("method", "path", "about"), [o for o in OPERATIONS if o[2]["operationId"] in SUPERVISOR], ids=sorted(SUPERVISOR))
def test_a_designer_looks_after_no_members(
    method: str, path: str, about: dict[str, Any], firm: Firm, ids: dict[str, Any], client: Client
) -> None:
    client.force_login(make_colleague(firm, "designer").user)
    client.get("/api/session")
    before = fingerprint(firm)
    assert ask(client, method, path, about, ids).status_code == 403
    assert fingerprint(firm) == before


# Reference fields: every field of a request that holds an identity ------------------------------------------------------------------


def references(schema: dict[str, Any], place: str) -> Iterator[str]:
    """The fields of a request schema that hold an identity."""
    if "$ref" in schema:
        name = schema["$ref"].rpartition("/")[2]
        yield from references(SCHEMA["components"]["schemas"][name], name)
    for name, about in schema.get("properties", {}).items():
        yield from references(about, f"{place}.{name}")
    for inner in [*schema.get("anyOf", ()), *([schema["items"]] if isinstance(schema.get("items"), dict) else [])]:
        yield from references(inner, place)
    if schema.get("format") == "uuid":
        yield place


def all_references() -> set[str]:
    found: set[str] = set()
    for _, _, about in OPERATIONS:
        for content in about.get("requestBody", {}).get("content", {}).values():
            found |= set(references(content["schema"], ""))
        found |= {f"?{p['name']}" for p in about.get("parameters", ()) if p["in"] == "query" and set(references(p["schema"], "x"))}
    return found


def through(field: str, client: Client, mine: Firm, theirs: Firm, ids: dict[str, Any]) -> Any:
    """Ask for something of one's own with an identity of the other firm in one field."""
    job = f"/api/jobs/{mine.job.pk}"

    def post(address: str, body: Any) -> Any:
        return client.post(job + address, json.dumps(body), content_type="application/json")

    models.Edit.objects.create(id=uuid.uuid4(), job=theirs.job, member=theirs.member, version=2, changes=[])
    used = str(models.Edit.objects.get(job=theirs.job).pk)
    logged = Entry.objects.create(
        id=uuid.uuid4(),
        job=theirs.job,
        kind="pulled",
        subject=ids["circuit_id"],
        data={"done": True},
        at=timezone.now(),
        by=theirs.member,
        name=theirs.username,
    ).pk
    rename, name = [change("set", "job", fields={"name": "mine"})], {"fields": {"name": "x"}}
    tries: dict[str, Callable[[], Any]] = {
        "EditIn.edit_id": lambda: client.patch(
            job, json.dumps({"edit_id": used, "version": 1, "changes": rename}), content_type="application/json"
        ),
        "UndoIn.edit_id": lambda: post("/undo", {"edit_id": used}),
        "BackIn.edit_id": lambda: post("/back", {"edit_id": used, "version": 1, "to": 1}),
        "EditIn.focus": lambda: send(client, mine, *rename, focus=str(ids["circuit_id"])),
        "UndoIn.focus": lambda: post("/undo", {"edit_id": str(uuid.uuid4()), "focus": str(ids["circuit_id"])}),
        "BackIn.focus": lambda: post("/back", {**EDIT, "to": 1, "focus": str(ids["circuit_id"])}),
        "?focus": lambda: client.get(f"{job}?focus={ids['circuit_id']}"),
        "ChangeIn.id": lambda: send(client, mine, change("set", "circuit", ids["circuit_id"], **name)),
        "ChangeIn.parent": lambda: send(client, mine, change("add", "circuit", uuid.uuid4(), parent=str(ids["board_id"]))),
        "CopyIn.id": lambda: post("/copies", {"id": str(ids["copy_id"]), "name": "x", "changes": rename}),
        "SaidIn.board": lambda: post("/said", {"text": "shower 9.2kW b40", "board": str(ids["board_id"])}),
        "RowsIn.board": lambda: post("/said/rows", {"board": str(ids["board_id"]), "rows": [["Cooker"]]}),
        "SignatureIn.read": lambda: post("/revisions/1/signature", {"hash": "0" * 64, "read": [str(ids["circuit_id"])]}),
        "EntryIn.id": lambda: post("/site", entry("pulled", named(mine, "Shower").pk) | {"id": str(logged)}),
        "EntryIn.subject": lambda: post("/site", entry("pulled", ids["circuit_id"])),
        "RowsIn.circuits": lambda: post(
            "/said/rows",
            {"board": installation(mine.job).boards[0].id, "rows": [["Cooker"]], "circuits": [str(ids["circuit_id"])]},
        ),
    }
    return tries[field]()


@pytest.mark.parametrize("field", sorted(all_references()))
def test_no_reference_reaches_into_another_firms_job(field: str, firm: Firm, other: Firm, theirs: dict[str, Any], signed_in: Sign) -> None:
    client = signed_in(firm)
    answer = through(field, client, firm, other, theirs)
    assert answer.status_code < 500
    said = answer.content.decode()
    assert other.username not in said
    if field.endswith("focus") and answer.status_code == 200:
        # Nothing of theirs is figured: there is no such circuit here.
        assert answer.json()["detail"] is None
    elif answer.status_code == 200:
        # Only understood: words, for which nothing is stored.
        assert "Said" in field or "Rows" in field
        assert str(other.job.pk) not in said
    before = installation(models.Job.objects.get(pk=other.job.pk))
    assert before == installation(other.job)
    assert models.Job.objects.get(pk=other.job.pk).version == 1
    assert models.Copy.objects.get(job=other.job).name == f"copy of {other.username}"


def parts() -> list[str]:
    """The fields of the model that name another part, as the rules describe them."""
    from mellow_span.answers.books import _fields
    from mellow_span.core.rulesets import rule_set

    return [f.field for f in _fields(rule_set("bs7671")) if f.kind == "part"]


@pytest.mark.parametrize("field", parts())
def test_no_field_of_the_model_names_a_part_of_another_firm(field: str, firm: Firm, other: Firm, signed_in: Sign) -> None:
    kind, name = field.split(".")
    send(signed_in(other), other, change("add", "stage", uuid.uuid4(), fields={"name": "theirs"}))
    stage = models.Stage
    foreign = {"board": models.Board, "feeds": models.Board, "route": models.Route, "from_stage": stage, "until_stage": stage}[name]
    foreign = foreign.objects.filter(job=other.job).first()
    shower = named(firm, "Shower")
    target = {"circuit": shower, "span": shower.run.spans.first(), "load": shower.loads.first(), "board": shower.board}[kind]
    answer = send(signed_in(firm), firm, change("set", kind, target.pk, fields={name: str(foreign.pk)}))
    assert (answer.status_code, answer.json()["errors"][0]["field"]) == (422, name)
