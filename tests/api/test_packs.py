"""Packs through the API: brought in whole or not at all, pinned to jobs, carried in files and issues; and what turns, worked out beside."""

from __future__ import annotations

import base64
import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from django.test import Client
from django.utils import timezone
from procrastinate.contrib.django import app

from mellow_span.core.errors import InputError
from mellow_span.core.rulesets.packs import mark
from mellow_span.exchange.issue import prove
from mellow_span.exchange.packs import as_zip, from_folder, from_texts, from_zip
from mellow_span.jobs import models, rechecks
from mellow_span.jobs.packs import adopt
from mellow_span.jobs.searches import LOST
from tests.api.test_books import posted, under
from tests.api.test_jobs import named, send
from tests.behind import asked, end, put_back, take, work, work_once
from tests.conftest import Firm, make_colleague, make_firm

pytestmark = pytest.mark.django_db
Sign = Callable[[Firm], Client]
HEAD = 'id = "amps"\ntitle = "Amps of a maker"\nversion = "{}"\nover = "bs7671"\nsource = "made up"\n{}\n'
TABLE = '[[table]]\nid = "4D5"\nfile = "amps.csv"\nrows = true\n'


def amps(version: str, cells: str, more: str = "") -> list[dict[str, str]]:
    return [{"name": "pack.toml", "text": HEAD.format(version, more) + TABLE}, {"name": "amps.csv", "text": f"size,C,m101\n{cells}\n"}]


def bring(client: Client, files: list[dict[str, str]], **more: Any) -> Any:
    return posted(client, "/api/packs", {"files": files, **more})


def iz(client: Client, firm: Firm, name: str) -> float:
    state = client.get(f"/api/jobs/{firm.job.pk}").json()
    return float(next(s["iz"] for s in state["summaries"] if s["id"] == str(named(firm, name).pk)))


def test_a_pack_is_looked_at_kept_pinned_and_goes_along_with_the_job(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    looked = bring(client, amps("1", "6,45,27"), look=True)
    assert looked.status_code == 200
    assert not models.Pack.objects.exists()
    book = bring(client, amps("1", "6,45,27")).json()["book"]
    assert iz(client, firm, "Cooker") == 47, "a pack that is there changes no job"
    state = under(client, firm, book)
    assert state.status_code == 200
    assert "packs" not in state.json()["installation"] or state.json()["installation"]["packs"] == [], (
        "what is in it is not sent with each edit"
    )
    assert iz(client, firm, "Cooker") == 45
    assert "Amps of a maker, version 1" in state.json()["edition"]
    table = client.get(f"/api/rules/{book}/tables/4D5").json()
    row = next(r for r in table["rows"] if r["label"] == "6")
    assert row["cells"][table["columns"].index("C")] == "45"
    assert "C" in row["check"], "nobody says that it was checked"
    # As a file it is whole: another firm opens it with the very pack, and is not offered that pack for others.
    document = client.get(f"/api/jobs/{firm.job.pk}/export").json()
    other = make_firm()
    client = signed_in(other)
    taken = posted(client, "/api/jobs/import", document)
    assert taken.status_code == 201, taken.json()
    assert taken.json()["installation"]["ruleset"] == book
    assert [(p["mark"], p["away"], p["jobs"]) for p in client.get("/api/packs").json()] == [(book.partition("+")[2], True, 1)]


def test_an_issue_keeps_its_pack_whatever_happens_after(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    book = bring(client, amps("1", "6,45,27")).json()["book"]
    under(client, firm, book)
    firm.job.refresh_from_db()
    assert posted(client, f"/api/jobs/{firm.job.pk}/revisions", {"version": firm.job.version}).status_code == 201
    under(client, firm, "bs7671")
    document = client.get(f"/api/jobs/{firm.job.pk}/revisions/1/file").json()
    proof = prove(document)
    assert proof.stands
    assert proof.tables
    assert document["ruleset"]["id"] == book


def test_a_bad_pack_is_refused_whole_with_every_cell_that_is_wrong(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    refused = bring(client, amps("1", "6,x,27\n10,-4,30"))
    assert refused.status_code == 422
    assert refused.json()["detail"] == "2 errors in this pack. Nothing was loaded."
    assert [e["field"] for e in refused.json()["errors"]] == ["amps.csv, line 2, C", "amps.csv, line 3, C"]
    assert refused.json()["errors"][0]["given"] == "x"
    assert posted(client, "/api/packs", {"zip": "!"}).status_code == 422
    assert posted(client, "/api/packs", {"zip": base64.b64encode(b"PK no").decode()}).status_code == 422
    assert posted(client, "/api/packs", {}).status_code == 422
    assert not models.Pack.objects.exists()


def test_a_version_never_changes_once_it_is_kept(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    first = bring(client, amps("1", "6,45,27")).json()
    assert bring(client, amps("1", "6,45,27")).json()["mark"] == first["mark"], "brought in again it is the same"
    refused = bring(client, amps("1", "6,44,27"))
    assert (refused.status_code, refused.json()["errors"][0]["field"]) == (422, "version")
    assert bring(client, amps("2", "6,44,27")).status_code == 201
    zipped = client.get(f"/api/packs/{first['mark']}/file")
    assert mark(from_zip(zipped.content)) == first["mark"]


def test_a_pack_put_away_is_offered_no_longer_and_stays_with_its_jobs(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    one = bring(client, amps("1", "6,45,27")).json()
    under(client, firm, one["book"])
    answer = client.delete(f"/api/packs/{one['mark']}")
    assert [(p["away"], p["jobs"]) for p in answer.json()] == [(True, 1)]
    assert iz(client, firm, "Cooker") == 45
    assert client.delete("/api/packs/000000000000").status_code == 404


def test_a_pack_of_another_firm_is_none_of_ours(firm: Firm, other: Firm, signed_in: Sign) -> None:
    theirs = bring(signed_in(other), amps("1", "6,45,27")).json()
    client = signed_in(firm)
    assert client.get("/api/packs").json() == []
    refused = under(client, firm, theirs["book"])
    assert refused.status_code == 422
    assert "at hand" in refused.json()["errors"][0]["allowed"]
    assert client.get(f"/api/rules/{theirs['book']}").status_code == 422
    assert client.get(f"/api/packs/{theirs['mark']}/file").status_code == 404


def test_an_apprentice_looks_and_brings_nothing_in(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    client.force_login(make_colleague(firm, "apprentice").user)
    assert client.get("/api/packs").status_code == 200
    assert bring(client, amps("1", "6,45,27")).status_code == 403


def test_a_cell_of_a_pack_is_not_read_in_the_printed_book(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    book = bring(client, amps("1", "6,45,27")).json()["book"]
    cell = {"table": "4D5", "row": "6", "column": "C", "value": 40, "edition": "x"}
    refused = posted(client, f"/api/rules/{book}/cells", cell)
    assert refused.status_code == 422
    assert "of a pack" in refused.json()["errors"][0]["allowed"]
    assert posted(client, f"/api/rules/{book}/cells", {**cell, "column": "m100"}).status_code == 200


# What turns ------------------------------------------------------------------------------------------------------------


def work_all() -> None:
    while work_once():
        pass


def test_a_cell_that_is_read_has_all_jobs_worked_out_again_and_lists_what_turns(firm: Firm, signed_in: Sign) -> None:
    """The cooker carries 32 A on 47 A; the printed book is said to have 30 A for 6 mm² in method C: its capacity turns, and comes back."""
    client = signed_in(firm)
    cell = {"table": "4D5", "row": "6", "column": "C", "value": 30, "edition": "made up"}
    assert posted(client, "/api/rules/bs7671/cells", cell).status_code == 200
    (waiting,) = client.get("/api/packs/rechecks").json()
    assert waiting["share"] < 1
    assert work_once(), "the process that works searches out takes it up"
    work_all()
    (done,) = client.get("/api/packs/rechecks").json()
    assert (done["share"], done["jobs"]) == (1, 1)
    assert "4D5, 6" in done["cause"]
    capacity = next(t for t in done["turned"] if t["part"] == "Cooker" and t["check"] == "Cable capacity")
    assert (capacity["clause"], capacity["after"], capacity["job"]) == ("433.1.1", "short", str(firm.job.pk))
    assert capacity["before"] != "short"
    assert client.delete("/api/rules/bs7671/cells?table=4D5&row=6&column=C").status_code == 200
    work_all()
    back = client.get("/api/packs/rechecks").json()[0]
    again = next(t for t in back["turned"] if t["part"] == "Cooker" and t["check"] == "Cable capacity")
    assert (again["before"], again["after"]) == ("short", capacity["before"])


def test_a_search_waits_for_one_job_of_a_recheck_at_most(firm: Firm, signed_in: Sign) -> None:
    """Three jobs: each is worked out by itself; one that is deleted meanwhile is passed over."""
    client = signed_in(firm)
    for name in ("Second", "Third"):
        assert posted(client, "/api/jobs", {"name": name}).status_code == 201
    posted(client, "/api/rules/bs7671/cells", {"table": "4D5", "row": "6", "column": "C", "value": 30, "edition": "made up"})
    shares = []
    while work_once():
        (one,) = client.get("/api/packs/rechecks").json()
        shares.append((one["jobs"], one["share"] < 1))
        models.Job.objects.filter(name="Second").update(removed=timezone.now())
    assert shares == [(1, True), (2, True), (3, False)]
    assert {t["name"] for t in one["turned"]} == {firm.job.name}


def test_a_newer_version_lists_what_would_turn_and_turns_nothing(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    first = bring(client, amps("1", "6,45,27")).json()
    under(client, firm, first["book"])
    assert not models.Recheck.objects.exists(), "nobody used an earlier one"
    second = bring(client, amps("2", "1,9,\n1.5,12,\n2.5,20,\n4,26,\n6,30,27")).json()
    work_all()
    (done,) = client.get("/api/packs/rechecks").json()
    assert "version 2" in done["cause"]
    assert {"Cooker"} <= {t["part"] for t in done["turned"] if t["check"] == "Cable capacity"}
    assert iz(client, firm, "Cooker") == 45, "the job keeps its pack"
    assert under(client, firm, second["book"]).status_code == 200
    assert iz(client, firm, "Cooker") == 30


def test_a_recheck_that_lost_its_process_is_begun_anew_and_no_other_firm_sees_it(firm: Firm, other: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    posted(client, "/api/rules/bs7671/cells", {"table": "4D5", "row": "6", "column": "C", "value": 30, "edition": "made up"})
    task = take()
    assert task is not None
    assert take() is None, "somebody works on it"
    # It was killed after it had kept what it found of the one job, and before it had said so: nothing is done or listed twice.
    app.tasks[task.task_name](**task.task_kwargs)
    found = models.Recheck.objects.get().turned
    put_back(task)
    again = take()
    assert again is not None
    assert again.id == task.id
    work(again)
    assert not work_once()
    assert models.Recheck.objects.get().turned == found != []
    assert signed_in(other).get("/api/packs/rechecks").json() == []


def test_rechecks_wait_behind_every_search_and_for_each_other(firm: Firm, other: Firm, signed_in: Sign) -> None:
    """Asked for before the search, and worked on after it; a firm has one re-check worked on at a time, and keeps no other firm from theirs."""
    client, theirs = signed_in(firm), Client()
    theirs.force_login(other.member.user)
    for row in ("4", "6"):
        posted(client, "/api/rules/bs7671/cells", {"table": "4D5", "row": row, "column": "C", "value": 20, "edition": "made up"})
    posted(theirs, "/api/rules/bs7671/cells", {"table": "4D5", "row": "6", "column": "C", "value": 30, "edition": "made up"})
    asked(client, f"/api/jobs/{firm.job.pk}/papers/schedule/pdf")
    names = []
    while (task := take()) is not None:
        names.append((task.task_name, models.Recheck.objects.get(pk=task.task_kwargs["pk"]).firm if task.task_name == "recheck" else None))
    assert names == [("search", None), ("recheck", firm.member.firm), ("recheck", other.member.firm)]


def test_a_recheck_that_lost_its_task_is_taken_up_again(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    posted(client, "/api/rules/bs7671/cells", {"table": "4D5", "row": "6", "column": "C", "value": 30, "edition": "made up"})
    lost = take()
    assert lost is not None
    end(lost)
    rechecks.take_up_lost()
    assert not work_once(), "it may only be slow"
    models.Recheck.objects.update(at=timezone.now() - 2 * LOST)
    rechecks.take_up_lost()
    assert work_once()
    assert models.Recheck.objects.get().state == models.Recheck.State.DONE
    rechecks.take_up_lost()
    assert not work_once(), "what is done is done"


def test_the_example_of_the_documentation_is_taken(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    content = base64.b64encode(as_zip(from_folder(Path("docs/format/packs/fuses-by-i2")))).decode()
    taken = posted(client, "/api/packs", {"zip": content})
    assert taken.status_code == 201
    assert taken.json()["tables"] == ["I1-I2"]


def test_a_file_whose_pack_is_bad_brings_nothing_in(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    document = client.get(f"/api/jobs/{firm.job.pk}/export").json()
    bad = from_texts([("pack.toml", HEAD.format("1", "") + "[device.mcb]\ntrips = 3\n")])
    document["installation"]["ruleset"] = f"bs7671+{mark(bad)}"
    document["installation"]["packs"] = [{"files": [{"name": f.name, "text": f.text} for f in bad.files]}]
    before = models.Job.objects.count()
    refused = posted(client, "/api/jobs/import", json.loads(json.dumps(document)))
    assert refused.status_code == 422
    assert models.Job.objects.count() == before
    assert not models.Pack.objects.exists()
    assert send(client, firm, {"op": "set", "kind": "job", "id": str(firm.job.pk), "fields": {"packs": []}}).status_code == 422


def test_a_job_is_printed_beside_a_book_with_a_pack(firm: Firm, signed_in: Sign) -> None:
    client, about = signed_in(firm), f"/api/jobs/{firm.job.pk}/papers"
    one = bring(client, amps("1", "1,9,\n1.5,12,\n2.5,20,\n4,26,\n6,30,27")).json()
    kinds = {k["id"]: k for k in client.get(about).json()}
    assert {c["id"] for c in kinds["books"]["choices"]} == {"iec60364", one["book"]}
    printed = client.get(f"{about}/books/json?subject={one['book'].replace('+', '%2B')}").json()
    assert "Amps of a maker 1" in json.dumps(printed)
    assert "Iz 30 A is under In 32 A" in json.dumps(printed)
    assert client.get(f"{about}/books/json?subject=nowhere").status_code == 422


def test_a_pack_that_has_the_mark_of_another_is_refused(firm: Firm, signed_in: Sign) -> None:
    """Twelve digits can be met on purpose: the firm's own pack must not be used for one that a file brings, nor the other way."""
    client = signed_in(firm)
    one = bring(client, amps("1", "6,45,27")).json()
    models.Pack.objects.filter(mark=one["mark"]).update(digest="0" * 64)
    refused = bring(client, amps("1", "6,45,27"))
    assert (refused.status_code, refused.json()["errors"][0]["field"]) == (422, "packs")
    with pytest.raises(InputError, match="which is another"):
        adopt(firm.member.firm, [from_texts([(f["name"], f["text"]) for f in amps("1", "6,45,27")])])


FAR = "6,60,27"


def test_a_pack_that_departs_far_is_confirmed_in_words_by_a_supervisor(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    looked = bring(client, amps("1", FAR), look=True).json()["departure"]
    assert looked["bounds"] == ["1 value over 10 % on the unsafe side"]
    assert looked["unsafe"] == ["Table 4D5, 6, C: 47 in the book, 60 here"]
    assert [(t["table"], t["changed"], t["unsafe"]) for t in looked["tables"]] == [("4D5", 1, 1)]
    for words in ("", "   ", "it is"):
        refused = bring(client, amps("1", FAR), words=words)
        assert refused.status_code == 422
        assert refused.json()["errors"][0]["field"].endswith("words")
    assert not models.Pack.objects.exists()
    # A designer cannot, whatever they say.
    client = signed_in(Firm(firm.username, firm.job, make_colleague(firm)))
    mate = make_colleague(firm)
    client.force_login(mate.user)
    assert bring(client, amps("1", FAR), words="read in the sheet of the maker").status_code == 422
    client = signed_in(firm)
    kept = bring(client, amps("1", FAR), words="read in the sheet of the maker")
    assert kept.status_code == 201, kept.json()
    assert kept.json()["confirmed"] == "read in the sheet of the maker"
    # Once confirmed it need not be again; and within the bounds nobody is asked.
    assert bring(client, amps("1", FAR)).status_code == 201
    assert bring(client, amps("2", "6,48,27")).json()["confirmed"] == ""


def test_a_file_that_carries_such_a_pack_waits_for_a_supervisor(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    book = bring(client, amps("1", FAR), words="read in the sheet of the maker").json()["book"]
    assert under(client, firm, book).status_code == 200
    document = client.get(f"/api/jobs/{firm.job.pk}/export").json()
    client = signed_in(make_firm())
    refused = posted(client, "/api/jobs/import", document)
    assert refused.status_code == 422
    assert "supervisor" in refused.json()["errors"][0]["allowed"]
    assert bring(client, amps("1", FAR), words="we read that sheet too").status_code == 201
    assert posted(client, "/api/jobs/import", document).status_code == 201


def test_figures_that_move_without_a_verdict_are_told(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    under(client, firm, bring(client, amps("1", "6,45,27")).json()["book"])
    bring(client, amps("2", "6,44,27"))
    work_all()
    (done,) = client.get("/api/packs/rechecks").json()
    assert done["turned"] == []
    moved = [(m["part"], m["before"] != m["text"]) for m in done["moved"] if m["check"] == "Cable capacity"]
    assert moved == [("Cooker", True)], done["moved"]


def test_a_job_is_not_put_under_two_packs_that_set_one_value(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    one = bring(client, amps("1", "6,45,27")).json()
    other = bring(
        client, [{**amps("1", "6,44,27")[0], "text": amps("1", "")[0]["text"].replace('"amps"', '"other"')}, amps("1", "6,44,27")[1]]
    ).json()
    answer = under(client, firm, f"{one['book']}+{other['mark']}")
    assert answer.status_code == 422
    assert "Table 4D5, 6, C" in answer.json()["errors"][0]["allowed"]
