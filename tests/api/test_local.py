"""A device answers what the server answers: every question, from what goes with a job to it, and equal as JSON."""

from __future__ import annotations

import io
import json
import logging
import uuid
import zipfile
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from django.test import Client
from django.utils import timezone

from mellow_span.answers.local import Local
from mellow_span.answers.questions import QUESTIONS, SOUGHT
from mellow_span.api import api
from mellow_span.core.model.parts import CellRead
from mellow_span.jobs import models
from mellow_span.jobs.cells import settle
from mellow_span.logbook.models import Money, Prices, SiteRules
from tests.api.test_jobs import change, named, send
from tests.api.test_packs import amps, bring
from tests.conftest import Firm

pytestmark = pytest.mark.django_db
Sign = Callable[[Firm], Client]
OF_JOB = "/api/jobs/{job_id}"
SCHEMA: dict[str, Any] = api.get_openapi_schema()
# What is asked of a job and only the server can say: what it keeps, who asked for what, what is outside.
SERVERS = {
    "", "/export", "/history", "/kit", "/links", "/revisions", "/revisions/compare", "/revisions/{revision}/file", "/photos/{photo_id}",
    "/materials/substitutes",
}  # fmt: skip
BOOK = "/papers/{paper_id}/{form}"
ASKED = [p.removeprefix(OF_JOB) for p, by in SCHEMA["paths"].items() if p.startswith(OF_JOB) and "get" in by]


def test_every_question_about_a_job_is_one_that_a_device_answers_or_is_said_to_be_the_servers() -> None:
    here = {*QUESTIONS, *SOUGHT, "/papers", "/papers/{paper_id}", BOOK}
    assert here | SERVERS == set(ASKED)
    assert not here & SERVERS


def written_down(client: Client, firm: Firm) -> None:
    """Some of every kind of entry that a question reads."""
    shower, ring = named(firm, "Shower"), named(firm, "Ring, ground floor")
    board = firm.job.board_set.first()
    entries: list[tuple[str, Any, dict[str, Any]]] = [
        ("pulled", shower.pk, {"done": True}),
        ("undecided", ring.pk, {"undecided": True}),
        ("colours", ring.pk, {"older": True}),
        ("on_hand", None, {"cable": "10 mm² flat twin & earth", "lengths": [12.5]}),
        ("reading", shower.pk, {"quantity": "zs", "value": 0.9}),
        ("reading", shower.pk, {"quantity": "r1r2", "value": 0.4}),
        ("board_reading", board.pk, {"quantity": "ze", "value": 0.3}),
        ("limit", None, {"text": "loft not reached"}),
    ]
    for kind, subject, data in entries:
        body = {
            "id": str(uuid.uuid4()),
            "kind": kind,
            "subject": str(subject) if subject else None,
            "data": data,
            "at": timezone.now().isoformat(),
        }
        answer = client.post(f"/api/jobs/{firm.job.pk}/site", body, content_type="application/json")
        assert answer.status_code == 200, (kind, answer.json())


def goes_by(firm: Firm) -> None:
    """A firm that has something of its own of everything that goes with a job."""
    own = firm.member.firm
    Prices.objects.create(firm=own, by=firm.member, text="item,name,size,price\ncable,flat_twin_cpc_pvc70,10,4.2")
    SiteRules.objects.create(firm=own, board=2.0, end=1.0, undecided=3.0, drums=[25.0, 50.0], neutral="grey")
    Money.objects.create(firm=own, currency="€", vat=20)
    settle(own, "bs7671", CellRead(table="4D5", row="10", column="m101", value=39.0, by="x", on="2026-11-01", edition="x"), firm.member)
    kept = [change("set", "circuit", named(firm, "Shower").pk, fields={"device.rating": 32})]
    models.Copy.objects.create(job=firm.job, member=firm.member, name="smaller", changes=kept)


def device_of(client: Client, firm: Firm) -> Local:
    """A device that was given the job as the page gives it."""
    about = f"/api/jobs/{firm.job.pk}"
    state, device = client.get(about).json(), Local()
    given = {"installation": state["installation"], "version": state["version"], "kit": client.get(f"{about}/kit").json()}
    device.lay(str(firm.job.pk), json.dumps(given))
    device.log(str(firm.job.pk), json.dumps(client.get(f"{about}/site").json()["entries"]))
    return device


def filled(firm: Firm, address: str) -> Iterator[tuple[dict[str, str], dict[str, Any]]]:
    """The parts of an address and its query, for each of what it can be about."""
    job, first = {"job_id": str(firm.job.pk)}, str(firm.job.board_set.first().pk)
    several: dict[str, list[Any]] = {
        "circuit_id": list(firm.job.circuit_set.values_list("pk", flat=True)), "board_id": list(firm.job.board_set.values_list("pk", flat=True)),
        "route_id": list(firm.job.route_set.values_list("pk", flat=True)), "paper_id": ["schedule", "results", "materials", "working", "none"],
    }  # fmt: skip
    queries: dict[str, list[dict[str, Any]]] = {
        "/isolation/plan": [
            {"kind": "board", "id": first},
            {"kind": "circuit", "id": str(named(firm, "Shower").pk)},
            {"kind": "tree", "id": "x"},
        ],
        "/beside": [{"book": "iec60364"}],
    }
    # One part at most stands in an address beside the job, or a document and its form.
    name = next((n for n in several if f"{{{n}}}" in address), None)
    if address == BOOK:
        several["paper_id"].remove("none")
    for one in several[name] if name else [None]:
        for query in queries.get(address, [{}]):
            yield job | ({name: str(one)} if name else {}) | ({"form": "csv"} if address == BOOK else {}), query


def both(client: Client, device: Local, address: str, path: dict[str, str], query: dict[str, Any], changes: list[Any]) -> tuple[Any, Any]:
    """What the server and the device answer: status and body."""
    server = client.get((OF_JOB + address).format(**path), query)
    asked = {"method": "GET", "address": OF_JOB + address, "path": path, "query": query, "changes": changes}
    here = json.loads(device.ask(json.dumps(asked)))
    body = server.content.decode() if address == BOOK and server.status_code == 200 else server.json()
    return (server.status_code, body), (here["status"], here["body"]["text"] if here.get("file") else here["body"])


def same_but(found: Any, address: str) -> Any:
    """An answer without what is the server's alone: a merchant's offers, and on a document where and when it was made."""
    status, body = found
    if address == "/materials" and status == 200:
        body = {k: v for k, v in body.items() if k not in ("state", "merchant", "asked", "unknown")}
        body["lines"] = [{k: v for k, v in line.items() if k != "offer"} for line in body["lines"]]
    if address == "/papers/{paper_id}" and status == 200:
        body = body | {"revision": body["revision"].partition(",")[0]}
    if address == BOOK and status == 200:
        body = body.replace(", worked out on this device: not yet confirmed by the server", "")
        body = "\n".join(line for line in body.splitlines() if "UTC" not in line)
    return status, body


@pytest.mark.parametrize("address", sorted({*QUESTIONS, *SOUGHT, "/papers", "/papers/{paper_id}", BOOK}))
def test_the_answers_are_equal(address: str, firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    goes_by(firm)
    written_down(client, firm)
    device, statuses = device_of(client, firm), set()
    for path, query in filled(firm, address):
        server, here = both(client, device, address, path, query, [])
        assert same_but(here, address) == same_but(server, address), (path, query)
        statuses.add(server[0])
    # The house has one phase: there is nothing to spread.
    assert statuses == {422} if address == "/boards/{board_id}/balance" else 200 in statuses


def test_what_was_changed_and_not_sent_is_worked_out_as_the_server_does_once_it_lands(firm: Firm, signed_in: Sign) -> None:
    client, shower = signed_in(firm), named(firm, "Shower")
    goes_by(firm)
    device = device_of(client, firm)
    fresh = str(uuid.uuid4())
    edits = [
        [change("set", "circuit", shower.pk, fields={"device.rating": 32, "cable.csa": 6})],
        [change("add", "circuit", fresh, parent=str(shower.board_id), fields={"name": "Heater"})],
        [change("add", "load", str(uuid.uuid4()), parent=fresh, fields={"kind": "water_heater", "amount": 3000.0})],
        [change("set", "job", fields={"ruleset": "iec60364"})],
    ]
    typed: list[Any] = []
    for edit in edits:
        typed += edit
        mine = json.loads(device.figures(str(firm.job.pk), json.dumps(typed), fresh))
        state = send(client, firm, *edit, version=firm.job.version, focus=fresh).json()
        assert {name: state.get(name) for name in mine} == mine, edit
        for address in ("/overview", "/pulls", "/cheapest"):
            server, here = both(client, device, address, {"job_id": str(firm.job.pk)}, {}, typed)
            for found in (server, here):
                found[1].pop("version", None)
            assert here == server, (edit, address)


def test_what_has_landed_need_not_be_laid_up_again(firm: Firm, signed_in: Sign) -> None:
    client, shower, job = signed_in(firm), named(firm, "Shower"), str(firm.job.pk)
    device = device_of(client, firm)
    for version, csa in ((2, 6), (3, 16), (4, 10)):
        edit = change("set", "circuit", shower.pk, fields={"cable.csa": csa})
        # Whatever was asked in between: what has landed is said with it.
        device.figures(job, json.dumps([edit] if csa != 16 else []), "")
        state = send(client, firm, edit, version=version - 1).json()
        device.land(job, json.dumps([edit]), version)
        mine = json.loads(device.figures(job, "[]", ""))
        assert {name: state[name] for name in mine} == mine
        server, here = both(client, device, "/pulls", {"job_id": job}, {}, [])
        assert here == server


def test_a_pack_goes_along_with_its_job(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    send(client, firm, change("set", "job", fields={"ruleset": bring(client, amps("1", "6,45,27")).json()["book"]}))
    server, here = both(client, device_of(client, firm), "/overview", {"job_id": str(firm.job.pk)}, {}, [])
    assert here == server


def test_a_change_that_cannot_be_made_is_refused_as_the_server_refuses_it_and_nothing_moves(firm: Firm, signed_in: Sign) -> None:
    client, shower = signed_in(firm), named(firm, "Shower")
    device = device_of(client, firm)
    whole = json.loads(device.figures(str(firm.job.pk), "[]", ""))
    for fields in ({"device.rating": -1}, {"cable.csa": "thick"}, {"no": 1}):
        edit = change("set", "circuit", shower.pk, fields=fields)
        mine = json.loads(device.figures(str(firm.job.pk), json.dumps([edit]), ""))
        told = send(client, firm, edit).json()["errors"][0]
        assert mine["refused"] == told
        assert json.loads(device.figures(str(firm.job.pk), "[]", "")) == whole


def test_lines_are_read_alike(firm: Firm, signed_in: Sign) -> None:
    client, board = signed_in(firm), str(firm.job.board_set.first().pk)
    device, ids = device_of(client, firm), {"job_id": str(firm.job.pk)}
    bodies = [
        ("/said", {"text": "shower 9.2kW b40 10 mm2: riser 3, loft 6\nnonsense", "board": board}),
        ("/said/rows", {"board": board, "rows": [["Cooker", "32"], ["?", "x"]], "columns": [], "pasted": True, "circuits": []}),
    ]
    for address, body in bodies:
        server = client.post((OF_JOB + address).format(**ids), body, content_type="application/json").json()
        asked = {"method": "POST", "address": OF_JOB + address, "path": ids, "body": body}
        here = json.loads(device.ask(json.dumps(asked)))["body"]
        # Identities are made anew each time.
        assert without_identities(here) == without_identities(server)


def without_identities(value: Any) -> Any:
    if isinstance(value, dict):
        return {k: without_identities(v) for k, v in value.items() if k not in ("id", "circuit", "parent")}
    return [without_identities(v) for v in value] if isinstance(value, list) else value


@pytest.mark.parametrize(
    ("address", "path", "query"),
    [
        ("/api/rules", {}, {}), ("/api/rules/{ruleset}", {"ruleset": "bs7671"}, {}), ("/api/rules/{ruleset}/why", {"ruleset": "bs7671"}, {}),
        ("/api/rules/{ruleset}/tables", {"ruleset": "bs7671"}, {}), ("/api/rules/{ruleset}/tables/{number}", {"ruleset": "bs7671", "number": "4D5"}, {}),
        ("/api/rules/{ruleset}/search", {"ruleset": "bs7671"}, {"words": "36"}), ("/api/rules/{ruleset}/tables/{number}", {"ruleset": "bs7671", "number": "0"}, {}),
    ],
)  # fmt: skip
def test_books_and_tables_are_told_alike_with_what_the_firm_read_in_them(
    address: str, path: dict[str, str], query: dict[str, str], firm: Firm, signed_in: Sign
) -> None:
    client = signed_in(firm)
    goes_by(firm)
    server = client.get(address.format(**path), query)
    asked = {"method": "GET", "address": address, "path": path, "query": query, "job": str(firm.job.pk)}
    here = json.loads(device_of(client, firm).ask(json.dumps(asked)))
    assert (here["status"], here["body"] if here["status"] == 200 else here["body"]["detail"]) == (
        server.status_code, server.json() if server.status_code == 200 else server.json()["detail"],
    )  # fmt: skip


def test_an_exercise_is_made_and_marked_alike(firm: Firm, signed_in: Sign) -> None:
    client, device = signed_in(firm), Local()
    for address, body in (
        ("/api/practice/exercises", {"head": "pairs", "seed": 7, "tables": True}),
        ("/api/practice/marks", {"head": "pairs", "seed": 7, "answers": {}}),
    ):
        server = client.post(address, body, content_type="application/json").json()
        assert json.loads(device.ask(json.dumps({"method": "POST", "address": address, "body": body})))["body"] == server


def test_a_device_answers_for_no_job_but_those_laid_up_there(firm: Firm, other: Firm, signed_in: Sign) -> None:
    device = device_of(signed_in(firm), firm)
    for address in ("/overview", "/papers", "/cheapest"):
        asked = {"method": "GET", "address": OF_JOB + address, "path": {"job_id": str(other.job.pk)}}
        assert json.loads(device.ask(json.dumps(asked)))["status"] == 0
    for method, address in (("DELETE", OF_JOB), ("GET", f"{OF_JOB}/history"), ("POST", f"{OF_JOB}/copies"), ("GET", "/api/firm")):
        asked = {"method": method, "address": address, "path": {"job_id": str(firm.job.pk)}}
        assert json.loads(device.ask(json.dumps(asked)))["status"] == 0


def test_the_archive_holds_what_answers_and_nothing_of_what_keeps_or_serves(firm: Firm, signed_in: Sign) -> None:
    told = signed_in(firm).get("/api/engine").json()
    served = Client().get(told["archive"])
    assert "immutable" in served["Cache-Control"]
    with zipfile.ZipFile(io.BytesIO(served.content)) as archive:
        names = archive.namelist()
    assert "mellow_span/answers/local.py" in names
    assert {name.split("/")[1] for name in names} == {"__init__.py", "core", "exchange", "papers", "answers", "standins"}
    assert Client().get("/engine/0123456789abcdef.zip").status_code == 404
    assert signed_in(firm).get(f"/api/jobs/{firm.job.pk}/kit").json()["program"] == told["program"]


def test_the_worker_alone_may_run_compiled_code(client: Client) -> None:
    assert "wasm" not in client.get("/")["Content-Security-Policy"]
    assert "wasm" not in client.get("/assets/index-abc.js")["Content-Security-Policy"]
    policy = client.get("/assets/local-worker-abc.js")["Content-Security-Policy"]
    assert "script-src 'self' 'wasm-unsafe-eval';" in policy
    assert "default-src 'self'" in policy


def test_figures_that_a_device_found_otherwise_are_for_whoever_runs_the_server(
    firm: Firm, signed_in: Sign, caplog: pytest.LogCaptureFixture
) -> None:
    body = {"version": 3, "program": "another", "where": ["circuit x", "attention"]}
    with caplog.at_level(logging.WARNING, "mellow_span.api.engine"):
        assert signed_in(firm).post(f"/api/jobs/{firm.job.pk}/difference", body, content_type="application/json").status_code == 204
    said = caplog.records[-1].__dict__
    assert (said["job"], said["version"], said["device"], said["where"]) == (str(firm.job.pk), 3, "another", "circuit x, attention")
