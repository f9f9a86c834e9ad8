"""Views of a large job: worked out by the process behind, the same as the request would have answered, for whoever asked and nobody else."""

from __future__ import annotations

import json
import uuid
from collections.abc import Callable
from datetime import timedelta
from typing import Any

import pytest
from django.test import Client
from django.utils import timezone
from procrastinate.jobs import Job

from mellow_span.api import behind
from mellow_span.jobs import searches
from mellow_span.jobs.models import Search
from mellow_span.logbook.models import Issue
from tests.api.test_isolation import OPERATIONS
from tests.api.test_jobs import change, named, send
from tests.api.test_together import entry
from tests.behind import asked, take, work_once
from tests.conftest import Firm, make_colleague

pytestmark = pytest.mark.django_db
Sign = Callable[[Firm], Client]
# What a search answers with, and not a view; and what asks for more than the house has.
SEARCHES = {
    "assumptions", "beside", "stage_sizes", "cheapest", "circuit_breaks", "circuit_options", "copies", "intake_options", "board_options", "robustness",
    "route_tryouts", "size_circuit",
}  # fmt: skip
VIEWS = [
    (path, about["operationId"]) for method, path, about in OPERATIONS
    if method == "get" and "202" in {str(s) for s in about["responses"]} and about["operationId"] not in SEARCHES
]  # fmt: skip
QUERY = {"isolation_plan": "?kind=circuit&id={circuit_id}", "substitutes": "?key=cable/x/1&count=2", "compare_revisions": "?old=1&new=0"}


@pytest.fixture
def large(monkeypatch: pytest.MonkeyPatch) -> None:
    """Every job is too large for its request."""
    monkeypatch.setattr(behind, "CIRCUITS", 0)


def address(path: str, name: str, firm: Firm) -> str:
    ids = {
        "job_id": firm.job.pk, "circuit_id": named(firm, "Shower").pk, "board_id": firm.job.board_set.first().pk, "paper_id": "schedule",
        "form": "csv", "revision": 1,
    }  # fmt: skip
    return (path + QUERY.get(name, "")).format(**ids)


def same(given: Any) -> tuple[int, bytes, str, str]:
    return given.status_code, given.content, given["Content-Type"], given.headers.get("Content-Disposition", "")


@pytest.mark.parametrize(("path", "name"), VIEWS, ids=[name for _, name in VIEWS])
def test_what_is_worked_out_behind_is_what_the_view_would_have_answered(
    path: str, name: str, firm: Firm, signed_in: Sign, monkeypatch: pytest.MonkeyPatch
) -> None:
    client, about = signed_in(firm), address(path, name, firm)
    at_once = client.get(about)
    assert at_once.status_code in (200, 404, 422)
    assert not Search.objects.exists()
    monkeypatch.setattr(behind, "CIRCUITS", 0)
    first = asked(client, about)
    assert (first.status_code, first.json()) == (202, {"share": 0.0, "before": 0})
    assert work_once(views_alone=True)
    assert same(client.get(about)) == same(at_once)
    assert client.get(about, headers={"If-None-Match": "something else"}).headers.get("ETag") == at_once.headers.get("ETag")


def test_enough_views_are_held_to_that() -> None:
    assert len(VIEWS) >= 22


def test_a_look_at_what_has_not_changed_costs_nothing_behind(firm: Firm, large: None, signed_in: Sign) -> None:
    client, about = signed_in(firm), f"/api/jobs/{firm.job.pk}"
    asked(client, about)
    work_once(views_alone=True)
    tag = client.get(about)["ETag"]
    Search.objects.all().delete()
    assert client.get(about, headers={"If-None-Match": tag}).status_code == 304
    assert not Search.objects.exists()


@pytest.mark.parametrize("what", ["an edit", "a reading", "a price", "a link of another kind"])
def test_an_answer_stands_until_something_it_depends_on_changes(what: str, firm: Firm, large: None, signed_in: Sign) -> None:
    client, about = signed_in(firm), f"/api/jobs/{firm.job.pk}/tests"
    asked(client, about)
    work_once(views_alone=True)
    assert client.get(about).status_code == 200
    if what == "an edit":
        send(client, firm, change("set", "job", fields={"note": "x"}))
    elif what == "a reading":
        given = entry("reading", named(firm, "Shower").pk, quantity="zs", value=0.4)
        client.post(f"/api/jobs/{firm.job.pk}/site", json.dumps(given), content_type="application/json")
    elif what == "a price":
        text = "item,name,size,price\ncable,flat_twin_cpc_pvc70,2.5,9"
        client.put("/api/firm/prices", json.dumps({"text": text}), content_type="application/json")
    assert client.get(about).status_code == (200 if what == "a link of another kind" else 202)


def test_a_view_waits_for_no_search_and_its_process_takes_none(firm: Firm, other: Firm, large: None, signed_in: Sign) -> None:
    client, about = signed_in(firm), f"/api/jobs/{firm.job.pk}"
    for what in ("cheapest", "holds"):
        asked(client, f"{about}/{what}")
    assert not work_once(views_alone=True), "searches are left to others"
    search = take()
    assert search
    assert row_of(search).kind == "cheapest"
    for what in ("tests", "pulls"):
        asked(client, f"{about}/{what}")
    first = take(views_alone=True)
    assert first
    assert row_of(first).subject.endswith("/tests")
    assert take(views_alone=True) is None, "one view at a time for a firm"
    assert take() is None, "and one search"
    theirs = Client()
    theirs.force_login(other.member.user)
    asked(theirs, f"/api/jobs/{other.job.pk}/tests")
    beside = take()
    assert beside
    assert row_of(beside).firm == other.member.firm, "no stranger waits for either"


def row_of(task: Job) -> Search:
    return Search.objects.get(pk=task.task_kwargs["pk"])


def test_what_was_worked_out_for_one_is_shown_to_no_other(firm: Firm, other: Firm, large: None, signed_in: Sign) -> None:
    client, about = signed_in(firm), f"/api/jobs/{firm.job.pk}/tests"
    asked(client, about)
    work_once(views_alone=True)
    stranger, colleague = Client(), make_colleague(firm)
    stranger.force_login(other.member.user)
    assert stranger.get(about).status_code == 404
    assert Client().get(about).status_code == 401
    mine = Client()
    mine.force_login(colleague.user)
    assert asked(mine, about).status_code == 202
    # Somebody who was removed meanwhile gets nothing, and holds up nobody.
    colleague.left = timezone.now()
    colleague.save()
    assert work_once(views_alone=True)
    assert Search.objects.filter(state=Search.State.DONE).count() == 1
    assert mine.get(about).status_code == 404


def test_a_large_job_is_issued_once_however_often_it_is_asked(firm: Firm, large: None, signed_in: Sign) -> None:
    client, about = signed_in(firm), f"/api/jobs/{firm.job.pk}/revisions"

    def ask(note: str) -> Any:
        return client.post(about, json.dumps({"version": firm.job.version, "note": note}), content_type="application/json")

    assert [ask("first").status_code for _ in range(2)] == [202, 202]
    assert work_once(views_alone=True)
    for _ in range(3):
        answer = ask("first")
        assert (answer.status_code, answer.json().get("number")) == (201, 1), answer.json()
    assert not work_once(views_alone=True)
    assert ask("second").status_code == 202
    assert work_once(views_alone=True)
    refused = ask("second")
    assert (refused.status_code, refused.json()["errors"][0]["field"]) == (422, "version"), "nothing changed since"
    assert Issue.objects.filter(job=firm.job).count() == 1
    strict = Client(enforce_csrf_checks=True)
    strict.force_login(firm.member.user)
    assert strict.post(about, json.dumps({"version": 1, "note": "x"}), content_type="application/json").status_code == 403
    assert not work_once(views_alone=True), "without the token of the page nothing is even asked"
    apprentice = Client()
    apprentice.force_login(make_colleague(firm, "apprentice").user)
    for _ in range(2):
        told = apprentice.post(about, json.dumps({"version": 1, "note": ""}), content_type="application/json")
        work_once(views_alone=True)
    assert told.status_code == 403


def test_a_fault_of_ours_is_told_once_and_asked_again(firm: Firm, large: None, signed_in: Sign, monkeypatch: pytest.MonkeyPatch) -> None:
    client, about = signed_in(firm), f"/api/jobs/{firm.job.pk}/tests"

    def fail(*_: Any) -> Any:
        raise ZeroDivisionError

    monkeypatch.setattr("mellow_span.answers.site.tests_of", fail)
    asked(client, about)
    assert work_once(views_alone=True)
    assert client.get(about).status_code == 500
    assert client.get(about).status_code == 202, "it is not kept"


def test_an_address_that_is_too_long_is_refused_and_what_is_over_is_thrown_away(firm: Firm, large: None, signed_in: Sign) -> None:
    client, about = signed_in(firm), f"/api/jobs/{firm.job.pk}/tests"
    answer = client.get(f"{about}?x={'y' * 600}")
    assert (answer.status_code, answer.json()["errors"][0]["field"]) == (422, "address")
    asked(client, about)
    work_once(views_alone=True)
    Search.objects.update(beat=timezone.now() - searches.KEPT_VIEW - timedelta(seconds=1))
    searches.thin_out()
    assert not Search.objects.exists()


def test_the_readings_of_a_circuit_with_many_points_are_fitted_behind_in_the_smallest_job(
    firm: Firm, signed_in: Sign, monkeypatch: pytest.MonkeyPatch
) -> None:
    client, about = signed_in(firm), address("/api/jobs/{job_id}/circuits/{circuit_id}/tests", "", firm)
    at_once = client.get(about)
    load = named(firm, "Shower").loads.first()
    monkeypatch.setattr(behind, "POINTS", load.quantity)
    assert client.get(about).status_code == 200
    monkeypatch.setattr(behind, "POINTS", load.quantity - 1)
    assert asked(client, about).status_code == 202
    assert work_once(views_alone=True)
    assert same(client.get(about)) == same(at_once)


@pytest.mark.parametrize(("circuits", "entries", "is_so"), [(16, 3000, False), (15, 3000, True), (120, 0, True), (120, 1, False)])
def test_a_job_is_large_by_its_circuits_or_by_its_log(
    circuits: int, entries: int, is_so: bool, firm: Firm, signed_in: Sign, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert firm.job.circuit_set.count() == 16
    monkeypatch.setattr(behind, "CIRCUITS", circuits)
    monkeypatch.setattr(behind, "ENTRIES", entries)
    given = entry("reading", named(firm, "Shower").pk, quantity="zs", value=0.4)
    signed_in(firm).post(f"/api/jobs/{firm.job.pk}/site", json.dumps({**given, "id": str(uuid.uuid4())}), content_type="application/json")
    assert behind.is_large(firm.job) == is_so
