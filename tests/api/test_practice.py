"""Practice through the API: exercises never had before, marked and kept; papers set, sat once, read by the supervisor."""

from __future__ import annotations

import json
from collections.abc import Callable
from datetime import timedelta
from typing import Any

import pytest
from django.test import Client

from mellow_span.core.practice.making import HEADS, make
from mellow_span.learning.models import Paper, Sitting, Tried
from tests.conftest import Firm, make_colleague

pytestmark = pytest.mark.django_db
Sign = Callable[[Firm], Client]
IDS = [h.id for h in HEADS]


def post(client: Client, path: str, **body: Any) -> Any:
    return client.post(f"/api/practice{path}", json.dumps(body), content_type="application/json")


def right(head: str, seed: int) -> dict[str, float]:
    made = make(head, seed)
    return {line.id: made.solved[line.id] for line in made.lines}


@pytest.fixture
def apprentice(firm: Firm) -> Client:
    client = Client()
    client.force_login(make_colleague(firm, "apprentice").user)
    client.get("/api/session")
    return client


def test_an_exercise_tells_its_seed_and_not_its_answers(apprentice: Client) -> None:
    for head in IDS:
        one = post(apprentice, "/exercises", head=head).json()
        made = make(head, one["seed"])
        assert one["story"] == list(made.story)
        assert [x["id"] for x in one["lines"]] == [x.id for x in made.lines]
        assert set(one["lines"][0]) == {"id", "symbol", "ask", "unit", "table", "decides"}
        again = post(apprentice, "/exercises", head=head, seed=one["seed"], tables=False).json()
        assert again["given"] == one["given"]
        assert {x["table"] for x in again["lines"]} == {""}, "shut, as in an exam"
    assert post(apprentice, "/exercises", head="lunch").status_code == 422
    assert post(apprentice, "/exercises", head="loop", book="nowhere").status_code == 422
    assert post(apprentice, "/exercises", head="volt_drop", book="iec60364").status_code == 422


def test_what_was_had_is_not_given_again(apprentice: Client, firm: Firm) -> None:
    """Of the pairs there are few: all but some were had; what comes is one of those."""
    seen = set()
    for _ in range(12):
        one = post(apprentice, "/exercises", head="pairs").json()
        lines = tuple(x["id"] for x in one["lines"])
        assert lines not in seen
        seen.add(lines)
        post(apprentice, "/marks", head="pairs", seed=one["seed"], answers={})


def test_marks_name_the_first_wrong_step_and_its_slip_and_show_the_working(apprentice: Client) -> None:
    made = make("loop", 4)
    answers = right("loop", 4)
    answers["r2"] = made.solved["r1"]
    found = post(apprentice, "/marks", head="loop", seed=4, answers=answers).json()
    by = {m["id"]: m for m in found["marks"]}
    assert (found["first"], found["whole"]) == ("r2", False)
    assert (by["r2"]["stands"], by["r2"]["slip"]) == ("wrong", "cpc_as_line")
    assert "smaller" in by["r2"]["told"]
    assert by["r2"]["right"] == made.solved["r2"]
    assert [c["id"] for c in found["working"]] == ["loop", "disconnection"]
    assert any(s["symbol"] == "Zs,max" for s in found["working"][0]["steps"])
    whole = post(apprentice, "/marks", head="loop", seed=5, answers=right("loop", 5)).json()
    assert whole["whole"]
    for bad in ({"lunch": 1}, {"r1": "many"}, {"r1": 1e99}):
        assert post(apprentice, "/marks", head="loop", seed=5, answers=bad).status_code == 422


def test_progress_counts_the_first_time_by_head(apprentice: Client) -> None:
    wrong = {**right("loop", 6), "r2": make("loop", 6).solved["r1"]}
    post(apprentice, "/marks", head="loop", seed=6, answers=wrong)
    post(apprentice, "/marks", head="loop", seed=6, answers=right("loop", 6))
    post(apprentice, "/marks", head="loop", seed=7, answers=right("loop", 7))
    assert Tried.objects.count() == 2
    found = apprentice.get("/api/practice").json()
    assert [h["id"] for h in found["heads"]] == IDS
    loop = next(h for h in found["heads"] if h["id"] == "loop")
    assert (loop["tried"], loop["whole"], loop["last"], loop["slips"]) == (2, 1, [True, False], [{"kind": "cpc_as_line", "count": 1}])
    assert next(h for h in found["heads"] if h["id"] == "chain")["tried"] == 0
    second = apprentice.get("/api/practice?book=iec60364").json()
    assert "volt_drop" not in [h["id"] for h in second["heads"]]
    assert all(h["tried"] == 0 for h in second["heads"])


def test_a_paper_is_set_sat_once_and_read(firm: Firm, signed_in: Sign, apprentice: Client) -> None:
    supervisor = signed_in(firm)
    assert post(apprentice, "/papers", title="Mine", heads=["loop"]).status_code == 403
    paper = post(supervisor, "/papers", title="Friday", heads=["loop", "pairs"], each=2, minutes=30, tables=False).json()
    assert (paper["exercises"], paper["stage"], paper["heads"]) == (4, "new", ["Zs and disconnection", "Fixed pairs"])
    path = f"/papers/{paper['id']}"
    assert post(apprentice, f"{path}/hand-in", answers=[{}] * 4).status_code == 422, "nobody sat down"
    sat = post(apprentice, f"{path}/sitting").json()
    assert [e["head"] for e in sat["exercises"]] == ["loop", "loop", "pairs", "pairs"]
    assert {x["table"] for e in sat["exercises"] for x in e["lines"]} == {""}
    assert sat["ends"] is not None
    again = post(apprentice, f"{path}/sitting").json()
    assert again["exercises"] == sat["exercises"], "gone on with, not drawn again"
    # By its seed anybody could have an exercise marked beforehand: it is told once the paper is handed in.
    assert {e["seed"] for e in sat["exercises"]} == {None}
    answers: list[dict[str, Any]] = [right(*pair) for pair in Sitting.objects.get().seeds]
    answers[0]["Zs"] *= 2
    assert post(apprentice, f"{path}/hand-in", answers=answers[:3]).status_code == 422
    done = post(apprentice, f"{path}/hand-in", answers=answers).json()
    assert (done["results"][0]["whole"], done["results"][0]["late"], done["paper"]["stage"]) == (3, 0, "handed")
    assert done["results"][0]["marked"][0]["first"] == "Zs"
    assert [[e["head"], e["seed"]] for e in done["results"][0]["exercises"]] == Sitting.objects.get().seeds
    assert post(apprentice, f"{path}/hand-in", answers=answers).status_code == 422, "handed in once"
    # The supervisor reads everybody's, the learner their own; a colleague none.
    read = supervisor.get(f"/api/practice{path}/results").json()
    assert [r["name"] for r in read["results"]] == ["colleague"]
    assert len(apprentice.get(f"/api/practice{path}/results").json()["results"]) == 1
    other = Client()
    other.force_login(make_colleague(firm, "designer").user)
    assert other.get(f"/api/practice{path}/results").json()["results"] == []
    assert apprentice.get(f"/api/practice{path}/print").status_code == 403
    printed = supervisor.get(f"/api/practice{path}/print").json()
    assert len(printed["exercises"]) == len(printed["answers"]) == 4
    assert all(a["whole"] for a in printed["answers"])
    assert supervisor.delete(f"/api/practice{path}").status_code == 204
    assert post(other, f"{path}/sitting").status_code == 404, "taken back, nobody begins it any more"
    assert supervisor.get(f"/api/practice{path}/results").json()["results"]


def test_a_paper_handed_in_after_its_time_says_by_how_much(firm: Firm, signed_in: Sign, apprentice: Client) -> None:
    paper = post(signed_in(firm), "/papers", title="Short", heads=["pairs"], minutes=5).json()
    post(apprentice, f"/papers/{paper['id']}/sitting")
    sitting = Sitting.objects.get()
    Sitting.objects.filter(pk=sitting.pk).update(begun=sitting.begun - timedelta(minutes=7))
    done = post(apprentice, f"/papers/{paper['id']}/hand-in", answers=[{}]).json()
    assert (done["results"][0]["late"], done["results"][0]["whole"]) == (3, 0)


def test_two_learners_get_other_exercises_of_one_paper(firm: Firm, signed_in: Sign, apprentice: Client) -> None:
    supervisor = signed_in(firm)
    paper = post(supervisor, "/papers", title="Both", heads=["loop", "chain"], each=3).json()
    mine = post(supervisor, f"/papers/{paper['id']}/sitting").json()
    theirs = post(apprentice, f"/papers/{paper['id']}/sitting").json()
    assert mine["exercises"] != theirs["exercises"]
    first, second = ({tuple(pair) for pair in s.seeds} for s in Sitting.objects.all())
    assert first & second == set()
    assert Paper.objects.get().sittings.count() == 2


@pytest.mark.parametrize("wrong", [{"heads": []}, {"heads": ["lunch"]}, {"each": 0}, {"minutes": 999}, {"title": " "}, {"book": "none"}])
def test_a_paper_that_cannot_be_is_refused(wrong: dict[str, Any], firm: Firm, signed_in: Sign) -> None:
    body = {"title": "x", "heads": ["loop"], **wrong}
    assert post(signed_in(firm), "/papers", **body).status_code == 422
    assert not Paper.objects.exists()
