"""The book of a job through the API: chosen at the start, changed as an edit like any other, looked at side by side first."""

from __future__ import annotations

import dataclasses
import json
import uuid
from collections.abc import Callable
from typing import Any

import pytest
from django.test import Client

from mellow_span.core.design.books import beside
from mellow_span.core.rulesets import available, rule_set
from mellow_span.jobs import models
from mellow_span.jobs.reads import installation
from tests.api.test_isolation import OPERATIONS, ask, furnish
from tests.api.test_jobs import change, named, send
from tests.conftest import Firm

pytestmark = pytest.mark.django_db
Sign = Callable[[Firm], Client]
OTHER = "iec60364"


def under(client: Client, firm: Firm, book: str) -> Any:
    return send(client, firm, change("set", "job", fields={"ruleset": book}))


def posted(client: Client, path: str, body: dict[str, Any]) -> Any:
    return client.post(path, json.dumps(body), content_type="application/json")


def test_every_book_is_listed_with_how_much_of_it_is_still_to_be_checked(firm: Firm, signed_in: Sign) -> None:
    books = {b["id"]: b for b in signed_in(firm).get("/api/rules").json()}
    assert tuple(books) == available()
    assert books[OTHER]["to_check"] == books[OTHER]["numbers"] > 500
    assert 0 < books["bs7671"]["to_check"] < books["bs7671"]["numbers"]


def test_a_job_is_started_under_a_book_and_its_choices_are_that_books(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    made = posted(client, "/api/jobs", {"name": "Larch Cottage", "ruleset": OTHER})
    assert made.status_code == 201
    assert made.json()["installation"]["ruleset"] == OTHER
    assert made.json()["edition"] == rule_set(OTHER).edition
    refused = posted(client, "/api/jobs", {"name": "x", "ruleset": "of nowhere"})
    assert refused.status_code == 422
    assert refused.json()["errors"][0]["field"] == "ruleset"
    assert not models.Job.objects.filter(name="x").exists()
    choices = client.get(f"/api/rules/{OTHER}").json()
    assert choices["title"] == "IEC 60364"
    assert {d["id"]: d["title"] for d in choices["devices"]}["BS88-2"] == "gG fuse"
    assert choices["example"] == "60228 · 411.3.2", "what can be searched for is of this book"


def test_the_book_is_changed_as_an_edit_and_taken_back(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    before = client.get(f"/api/jobs/{firm.job.pk}").json()
    after = under(client, firm, OTHER)
    assert after.status_code == 200
    assert after.json()["edition"] == rule_set(OTHER).edition
    stands = [s["verdict"] for s in after.json()["summaries"]]
    assert stands != [s["verdict"] for s in before["summaries"]]
    said = client.get(f"/api/jobs/{firm.job.pk}/history").json()["lines"][0]["said"]
    assert said == [f"{firm.job.name}: rule set the job is designed to {rule_set('bs7671').title} became IEC 60364"]
    back = posted(client, f"/api/jobs/{firm.job.pk}/undo", {"edit_id": str(uuid.uuid4())}).json()
    assert [s["verdict"] for s in back["summaries"]] == [s["verdict"] for s in before["summaries"]]
    assert models.Job.objects.get(pk=firm.job.pk).ruleset == "bs7671"
    for wrong in ("of nowhere", "", 3, None):
        refused = under(client, firm, wrong)  # type: ignore[arg-type]
        assert (refused.status_code, refused.json()["errors"][0]["field"]) == (422, "ruleset"), refused.json()


def test_what_a_firm_read_in_a_book_goes_with_that_book(firm: Firm, signed_in: Sign) -> None:
    """A cell read in the second book counts only under it; going back, the first book has none."""
    client = signed_in(firm)
    cell = {"table": "B.52.2", "row": "6", "column": "C", "value": 30, "edition": "made-up edition"}
    assert posted(client, f"/api/rules/{OTHER}/cells", cell).status_code == 200
    cooker = str(named(firm, "Cooker").pk)

    def iz(answer: Any) -> float:
        return float(next(s["iz"] for s in answer.json()["summaries"] if s["id"] == cooker))

    assert iz(client.get(f"/api/jobs/{firm.job.pk}")) == 47
    assert iz(send(client, firm, change("set", "job", fields={"ruleset": OTHER}), dry_run=True)) == 30
    assert iz(under(client, firm, OTHER)) == 30
    assert iz(client.get(f"/api/jobs/{firm.job.pk}")) == 30
    assert iz(under(client, firm, "bs7671")) == 47
    assert installation(models.Job.objects.get(pk=firm.job.pk)).cells == ()


def test_side_by_side_is_what_the_core_says_with_the_cells_the_firm_read(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    path = f"/api/jobs/{firm.job.pk}/beside?book={OTHER}"
    shown, worked = client.get(path).json(), beside(installation(firm.job), OTHER)
    assert [(r["id"], r["here"], r["there"], r["decides"]) for r in shown] == [(r.id, r.here, r.there, r.decides) for r in worked]
    cell = {"table": "B.52.2", "row": "6", "column": "C", "value": 30, "edition": "made-up edition"}
    assert posted(client, f"/api/rules/{OTHER}/cells", cell).status_code == 200
    cooker = next(r for r in client.get(path).json() if r["name"] == "Cooker")
    assert "30 A by IEC 60364, against 32 A" in cooker["decides"].replace(" †", "")
    assert client.get(f"/api/jobs/{firm.job.pk}/beside?book=nowhere").status_code == 422


def test_a_copy_under_another_book_says_what_turns_and_is_kept_as_an_edit(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    changes = [change("set", "job", fields={"ruleset": OTHER})]
    copy = {"id": str(uuid.uuid4()), "name": "Under the other book", "changes": changes}
    assert posted(client, f"/api/jobs/{firm.job.pk}/copies", copy).status_code == 201
    columns = client.get(f"/api/jobs/{firm.job.pk}/copies").json()
    one = next(c for c in columns if c["id"] == copy["id"])
    turned = {
        r["id"]
        for r in client.get(f"/api/jobs/{firm.job.pk}/beside?book={OTHER}").json()
        if r["kind"] == "circuit" and r["here"] != r["there"]
    }
    assert one["why"] == ""
    assert {*one["worse"], *one["better"]} <= turned
    assert one["worse"]


def test_a_book_that_does_not_know_what_is_in_a_job_is_refused(firm: Firm, signed_in: Sign, monkeypatch: pytest.MonkeyPatch) -> None:
    """The second book without a place that the job has: nothing is changed, and the place is named."""
    whole = rule_set(OTHER)
    less = dataclasses.replace(whole, places={k: v for k, v in whole.places.items() if k != "ceiling_thick"})
    monkeypatch.setattr("mellow_span.jobs.books.rules_of", lambda job: less)
    refused = under(signed_in(firm), firm, OTHER)
    assert refused.status_code == 422
    assert refused.json()["errors"][0]["field"] == "ruleset"
    assert "ceiling_thick" in refused.json()["errors"][0]["allowed"]
    assert models.Job.objects.get(pk=firm.job.pk).version == 1


@pytest.mark.parametrize(
    ("method", "path", "about"),
    [one for one in OPERATIONS if one[0] == "get"],
    ids=lambda v: v["operationId"] if isinstance(v, dict) else "",
)
def test_every_look_answers_under_a_second_book_as_under_the_first(
    method: str, path: str, about: dict[str, Any], firm: Firm, signed_in: Sign
) -> None:
    """What a book does not have is 'not known' in an answer; it is never a failure of one, nor a view that cannot be opened."""
    client, mine = signed_in(firm), furnish(firm)
    known = {**mine, "ruleset": "bs7671"}
    first = ask(client, method, path, about, known).status_code
    assert under(client, firm, OTHER).status_code == 200
    assert ask(client, method, path.replace("4D5", "B.52.2"), about, {**known, "ruleset": OTHER}).status_code in (
        first,
        404 if "{number}" in path else first,
    )
