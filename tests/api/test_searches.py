"""Searches too long for a request: waited for, one at a time for a firm, given up when nobody asks, told how far they are."""

from __future__ import annotations

import json
from collections.abc import Callable
from datetime import timedelta
from typing import Any

import pytest
from django.test import Client
from django.utils import timezone

from mellow_span.answers.searches import SEARCHES
from mellow_span.api import searches as asked_for
from mellow_span.core.design.effort import Effort, StoppedError
from mellow_span.core.errors import InputError
from mellow_span.jobs import searches
from mellow_span.jobs.models import Search
from tests.api.test_jobs import change, named, send
from tests.behind import asked, begin, end, put_back, take, work_once
from tests.conftest import Firm, make_firm

pytestmark = pytest.mark.django_db
Sign = Callable[[Firm], Client]


@pytest.fixture
def slow(monkeypatch: pytest.MonkeyPatch) -> None:
    """No search is short enough for its request."""
    monkeypatch.setattr(asked_for, "QUICK", 0)


def addresses(firm: Firm) -> list[str]:
    job, shower = f"/api/jobs/{firm.job.pk}", named(firm, "Shower").pk
    board, route = firm.job.board_set.first().pk, firm.job.route_set.first().pk
    ofcircuit = [f"{job}/circuits/{shower}/{what}" for what in ("size", "breaks")]
    return [f"{job}/{what}" for what in ("cheapest", "holds", "assumptions", "copies")] + [
        *ofcircuit, f"{job}/intake/options", f"{job}/boards/{board}/options", f"{job}/routes/{route}/tryouts",
    ]  # fmt: skip


def test_what_is_worked_out_apart_is_what_the_request_would_have_answered(
    firm: Firm, signed_in: Sign, monkeypatch: pytest.MonkeyPatch
) -> None:
    client = signed_in(firm)
    monkeypatch.setattr(asked_for, "QUICK", 10**9)
    at_once = {address: client.get(address).json() for address in addresses(firm)}
    assert Search.objects.count() == 0
    monkeypatch.setattr(asked_for, "QUICK", 0)
    waited = 0
    for address, whole in at_once.items():
        first = asked(client, address)
        # What finds nothing to try is answered all the same.
        if first.status_code == 202:
            waited += 1
            assert first.json() == {"share": 0.0, "before": 0}
            assert work_once()
        assert client.get(address).json() == whole, address
    assert waited >= 7


def test_one_search_at_a_time_for_a_firm_and_in_turn(firm: Firm, other: Firm, slow: None, signed_in: Sign) -> None:
    client = signed_in(firm)
    for what in ("cheapest", "holds"):
        asked(client, f"/api/jobs/{firm.job.pk}/{what}")
    theirs = Client()
    theirs.force_login(other.member.user)
    asked(theirs, f"/api/jobs/{other.job.pk}/cheapest")
    first, second = take(), take()
    assert first
    assert second
    kinds = {row.pk: (row.kind, row.firm) for row in Search.objects.all()}
    assert kinds[first.task_kwargs["pk"]] == ("cheapest", firm.member.firm)
    assert kinds[second.task_kwargs["pk"]] == ("cheapest", other.member.firm)
    assert take() is None
    assert client.get(f"/api/jobs/{firm.job.pk}/holds").json()["before"] == 1
    searches.done(Search.objects.get(pk=first.task_kwargs["pk"]), "{}", False)
    end(first)
    third = take()
    assert third
    assert kinds[third.task_kwargs["pk"]] == ("holds", firm.member.firm)


def test_a_look_begins_nothing_and_keeps_nothing_going(firm: Firm, slow: None, signed_in: Sign) -> None:
    """A GET writes nothing; what is posted begins it, tells how far it is and that somebody waits, and no more than that."""
    client, address = signed_in(firm), f"/api/jobs/{firm.job.pk}/cheapest"
    assert client.get(address).json() == {"share": 0.0, "before": 0}
    assert not Search.objects.exists()
    assert begin(client, address) == {"share": 0.0, "before": 0, "done": False}
    long_ago = timezone.now() - searches.LEFT
    Search.objects.update(asked=long_ago)
    client.get(address)
    assert Search.objects.get().asked == long_ago
    begin(client, address)
    assert Search.objects.get().asked > long_ago
    assert work_once()
    assert not work_once(), "it was begun once"
    assert begin(client, address)["done"] is True
    assert client.get(address).status_code == 200


@pytest.mark.parametrize(
    "address",
    ["", "/api/jobs", "/api/session", "/api/jobs/{other}/cheapest", "/api/jobs/{job}/nothing", "/api/jobs/{job}x", "//elsewhere.example/"],
)
def test_what_is_no_address_of_the_job_is_refused_there(address: str, firm: Firm, other: Firm, slow: None, signed_in: Sign) -> None:
    client = signed_in(firm)
    body = json.dumps({"address": address.format(job=firm.job.pk, other=other.job.pk)})
    answer = client.post(f"/api/jobs/{firm.job.pk}/searches", body, content_type="application/json")
    assert (answer.status_code, answer.json()["errors"][0]["field"]) == (422, "address")
    assert not Search.objects.exists()


def test_a_search_nobody_asks_for_any_more_is_given_up_while_it_runs(firm: Firm, slow: None, signed_in: Sign) -> None:
    asked(signed_in(firm), f"/api/jobs/{firm.job.pk}/cheapest")
    row = searches.begin(Search.objects.get().pk)
    assert row
    watch = searches.Watch(row)
    assert watch(0.1)
    watch.last -= 2 * searches.BEAT
    assert watch(0.25)
    row.refresh_from_db()
    assert row.share == 0.25
    Search.objects.filter(pk=row.pk).update(asked=timezone.now() - searches.LEFT - timedelta(seconds=1))
    watch.last -= 2 * searches.BEAT
    effort = Effort(10**9, watch)
    with pytest.raises(StoppedError):
        effort.over()


def test_a_host_whose_clock_is_wrong_gives_up_nothing_that_is_waited_for(
    firm: Firm, slow: None, signed_in: Sign, monkeypatch: pytest.MonkeyPatch
) -> None:
    client, address = signed_in(firm), f"/api/jobs/{firm.job.pk}/cheapest"
    monkeypatch.setattr(searches, "LEFT", timedelta(minutes=2))
    real = timezone.now
    for wrong in (timedelta(minutes=-9), timedelta(minutes=9)):
        Search.objects.all().delete()
        asked(client, address)
        monkeypatch.setattr(timezone, "now", lambda wrong=wrong: real() + wrong)
        assert work_once()
        assert client.get(address).status_code == 200
        monkeypatch.setattr(timezone, "now", real)


def test_a_search_that_waits_for_nobody_is_not_begun(firm: Firm, slow: None, signed_in: Sign) -> None:
    asked(signed_in(firm), f"/api/jobs/{firm.job.pk}/cheapest")
    Search.objects.update(asked=timezone.now() - searches.LEFT - timedelta(seconds=1))
    assert work_once()
    assert Search.objects.count() == 0


def test_a_search_whose_process_died_is_begun_anew(firm: Firm, slow: None, signed_in: Sign) -> None:
    client = signed_in(firm)
    asked(client, f"/api/jobs/{firm.job.pk}/cheapest")
    taken = take()
    assert taken
    assert searches.begin(taken.task_kwargs["pk"])
    assert take() is None
    # What another process finds to be gone is put back, and done from its beginning.
    put_back(taken)
    assert work_once()
    assert client.get(f"/api/jobs/{firm.job.pk}/cheapest").status_code == 200


@pytest.mark.parametrize("state", Search.State)
def test_a_search_that_lost_its_task_is_begun_anew_and_no_other_is(state: Search.State, firm: Firm, slow: None, signed_in: Sign) -> None:
    """As after an upgrade from a queue of another kind: nothing works on what stands in the table."""
    client, address = signed_in(firm), f"/api/jobs/{firm.job.pk}/cheapest"
    begin(client, address)
    going = state in (Search.State.WAITING, Search.State.RUNNING)
    for ago, there in ((timedelta(seconds=-5), True), (timedelta(seconds=5), not going)):
        then = timezone.now() - searches.LOST - ago
        Search.objects.update(state=state, made=then, beat=then if state != Search.State.WAITING else None)
        searches.thin_out()
        assert Search.objects.exists() is there
    if going:
        # The task of before finds nothing to do.
        begin(client, address)
        assert [work_once(), work_once()] == [True, True]
        assert client.get(address).status_code == 200


def test_an_edit_meanwhile_makes_it_another_search(firm: Firm, slow: None, signed_in: Sign) -> None:
    client, address = signed_in(firm), f"/api/jobs/{firm.job.pk}/cheapest"
    asked(client, address)
    send(client, firm, change("set", "job", fields={"note": "x"}))
    assert asked(client, address).status_code == 202
    # That of the earlier version is thrown away, the next is worked out.
    assert work_once()
    assert work_once()
    assert client.get(address).status_code == 200


def test_a_refusal_and_a_fault_are_told_and_the_next_is_worked_out(
    firm: Firm, slow: None, signed_in: Sign, monkeypatch: pytest.MonkeyPatch
) -> None:
    client = signed_in(firm)

    def refuse(*given: Any) -> Any:
        if given[2].go_on is None:
            raise StoppedError
        raise InputError("csa", 1, "2 or more")

    def fail(*given: Any) -> Any:
        if given[2].go_on is None:
            raise StoppedError
        raise ZeroDivisionError

    monkeypatch.setitem(SEARCHES, "cheapest", (Any, refuse))
    monkeypatch.setitem(SEARCHES, "holds", (Any, fail))
    for what in ("cheapest", "holds", "assumptions"):
        asked(client, f"/api/jobs/{firm.job.pk}/{what}")
        assert work_once()
    told = client.get(f"/api/jobs/{firm.job.pk}/cheapest")
    assert (told.status_code, told.json()["errors"][0]["field"]) == (422, "csa")
    assert "fault of the program" in client.get(f"/api/jobs/{firm.job.pk}/holds").json()["errors"][0]["allowed"]
    assert client.get(f"/api/jobs/{firm.job.pk}/assumptions").status_code == 200


def test_what_was_cut_short_says_so(firm: Firm, slow: None, signed_in: Sign, monkeypatch: pytest.MonkeyPatch) -> None:
    client, address = signed_in(firm), f"/api/jobs/{firm.job.pk}/cheapest"
    monkeypatch.setattr(searches, "LONG", 30)
    asked(client, address)
    assert work_once()
    answer = client.get(address)
    assert answer.headers["Search-Cut-Short"] == "yes"
    assert json.loads(answer.content)["exact"] is False


def test_a_long_search_belongs_to_its_firm(firm: Firm, slow: None, signed_in: Sign) -> None:
    asked(signed_in(firm), f"/api/jobs/{firm.job.pk}/cheapest")
    stranger = Client()
    stranger.force_login(make_firm().member.user)
    assert stranger.get(f"/api/jobs/{firm.job.pk}/cheapest").status_code == 404
    told = stranger.post(f"/api/jobs/{firm.job.pk}/searches", json.dumps({"address": "/api/jobs"}), content_type="application/json")
    assert told.status_code == 404
