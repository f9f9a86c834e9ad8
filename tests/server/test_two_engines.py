"""The program gives the same answers in the runtime of a browser as in that of the server: every question, on the demo jobs and on random ones."""

from __future__ import annotations

import json
import random
import subprocess
from pathlib import Path
from typing import Any

from mellow_span.answers.local import Local
from mellow_span.answers.questions import QUESTIONS, SOUGHT
from mellow_span.answers.written import plain
from mellow_span.core.model.parts import Installation
from mellow_span.exchange.program import archive
from tests.core.random_jobs import random_job
from tests.depth import many
from tests.pinned import DEMO, whole_demo_job

HERE = Path(__file__).parent
ASSETS = HERE.parents[1] / "web" / "dist" / "assets"
OF_JOB = "/api/jobs/{job_id}"
# Circuits of each job whose questions are asked; searches, which cost most, are asked of each fourth job.
CIRCUITS, FOURTH = 3, 4


def asked_of(inputs: Installation, searched: bool) -> dict[str, Any]:
    """A job to be laid up, its figures with and without a change, and every question about it; searched: also the searches."""
    circuits = [c.id for c in inputs.circuits][:CIRCUITS]
    parts = {"circuit_id": circuits, "board_id": [b.id for b in inputs.boards][:2], "route_id": [r.id for r in inputs.routes][:2]}
    asks = []
    for address in (*QUESTIONS, *(SOUGHT if searched else ()), "/papers", "/papers/{paper_id}/{form}"):
        name = next((n for n in parts if f"{{{n}}}" in address), None)
        query = (
            {"book": "iec60364"}
            if address == "/beside"
            else {"kind": "board", "id": inputs.boards[0].id}
            if address.endswith("plan")
            else {}
        )
        for one in parts[name] if name else [""]:
            about = {"paper_id": "working", "form": "csv"} if "{form}" in address else {name: one} if name else {}
            asks.append({"method": "GET", "address": OF_JOB + address, "path": {"job_id": "j", **about}, "query": query})
    longer = [
        {"op": "set", "kind": "span", "id": s.id, "fields": {"length": 31.7}} for c in inputs.circuits[:4] for s in c.run.spans[:1] if s.id
    ]
    figures: list[list[Any]] = [[[], one] for one in ("", *circuits)] + ([[longer, circuits[0]]] if longer else [])
    # What was changed stays changed for the questions after it, as in the page.
    asks = [{**ask, "changes": longer} for ask in asks]
    return {"lay": {"installation": plain(inputs), "version": 1, "kit": None}, "figures": figures, "asks": asks}


def answers(asked: list[dict[str, Any]]) -> list[list[str]]:
    """What this runtime answers."""
    found = []
    for one in asked:
        local = Local()
        local.lay("j", json.dumps(one["lay"]))
        found.append(
            [
                *(local.figures("j", json.dumps(changes), focus) for changes, focus in one["figures"]),
                *(local.ask(json.dumps(ask)) for ask in one["asks"]),
            ]
        )
    return found


def without_time(text: str) -> Any:
    """An answer without the minute at which a document was made, and without whether a solver proved a cutting plan: a browser has none."""
    found = json.loads(text)
    body = found.get("body")
    if found.get("file"):
        body["text"] = "\n".join(line for line in body["text"].splitlines() if "UTC" not in line)
    if isinstance(body, dict):
        body.pop("cutting", None)
    return found


def test_the_runtime_of_a_browser_answers_as_that_of_the_server(tmp_path: Path) -> None:
    jobs = [whole_demo_job(name) for name in DEMO] + [random_job(random.Random(seed)) for seed in range(many(195, 20))]
    asked = [asked_of(job, k % FOURTH == 0) for k, job in enumerate(jobs)]
    (tmp_path / "asked.json").write_text(json.dumps(asked))
    (tmp_path / "program.zip").write_bytes(archive())
    (runtime,) = [folder for folder in ASSETS.glob("runtime-*") if folder.is_dir()]
    files = [str(tmp_path / name) for name in ("program.zip", "asked.json", "answered.json")]
    done = subprocess.run(
        ["node", str(HERE / "two_engines.mjs"), str(runtime), *files], check=False, capture_output=True, text=True, timeout=1800
    )
    assert done.returncode == 0, done.stderr[-2000:]
    theirs, statuses = json.loads((tmp_path / "answered.json").read_text()), set()
    for job, one, mine, other in zip(jobs, asked, answers(asked), theirs, strict=True):
        questions = [*one["figures"], *(ask["address"] for ask in one["asks"])]
        for question, here, there in zip(questions, mine, other, strict=True):
            assert without_time(there) == without_time(here), (job.name, question)
            statuses.add(json.loads(here).get("status", 200))
    assert 200 in statuses
    assert len(theirs) == len(jobs)
