"""Every operation of the API at the largest job there may be, with a full log: how soon it answers or says that it is worked on, the slowest first.

Asked alone, and while eight others ask the dearest ones of another firm's largest job. Each is asked as somebody who was never there before would ask,
so that nothing is kept of it yet.
"""

from __future__ import annotations

import contextlib
import http.client
import json
import random
import re
import sys
import threading
import time
import uuid
from dataclasses import dataclass, field
from datetime import timedelta
from typing import Any

from bench.largest import largest
from bench.web import firm_with, server, session_of
from mellow_span.core.model.parts import Installation

# All but the last is what an electrician feels; no answer at all may take longer [ms].
GOAL = 500
# How many others ask meanwhile.
OTHERS = 8
# Asked by these is what takes longest.
DEAREST = ("tests", "existing", "substitutes", "paper_look", "circuit_tests", "materials", "robustness", "cheapest")
QUANTITIES = ("r1r2", "zs", "r2_lead", "ir_le", "ir_ln", "polarity", "rcd_1", "ipf")


def filled(job: Any, inputs: Installation, member: Any, count: int) -> None:
    """Fill the log of a job with so many entries: readings of every circuit and board, ticks, observations, materials."""
    from django.utils import timezone

    from mellow_span.logbook.models import Entry

    rnd, began = random.Random(1), timezone.now() - timedelta(days=30)
    made = []
    for k in range(count):
        circuit = inputs.circuits[k % len(inputs.circuits)]
        kind, subject, data = "reading", circuit.id, reading(rnd, QUANTITIES[(k // len(inputs.circuits)) % len(QUANTITIES)])
        if k % 20 == 19:
            kind, data = "pulled", {"done": True}
        elif k % 20 == 18:
            kind, subject, data = "board_reading", inputs.boards[k % len(inputs.boards)].id, reading(rnd, "zs")
        elif k % 200 == 17:
            kind, subject, data = "observed", None, {"what": "heat", "where": f"place {k}"}
        made.append(
            Entry(
                id=uuid.uuid4(),
                job=job,
                kind=kind,
                subject=subject,
                data=data,
                at=began + timedelta(seconds=60 * k),
                by=member,
                name="bench",
            )
        )
    Entry.objects.bulk_create(made, batch_size=2000)


def reading(rnd: random.Random, quantity: str) -> dict[str, Any]:
    """A reading that is about right."""
    if quantity == "polarity":
        return {"quantity": quantity, "ok": True}
    value = {"ir_le": 200.0, "ir_ln": 200.0, "rcd_1": 22.0, "ipf": 900.0}.get(quantity, 0.3)
    return {"quantity": quantity, "value": round(value * rnd.uniform(0.8, 1.2), 3), **({"volts": 500} if quantity.startswith("ir") else {})}


@dataclass(slots=True)
class Asked:
    """An operation as it is asked. times: till an answer, in ms; status: of the last one; whole: till there was one that is not 'worked on'."""

    name: str
    method: str
    address: str
    body: Any = None
    times: list[float] = field(default_factory=list)
    status: int = 0
    whole: float = 0.0


class Caller:
    """Somebody signed in, on one connection after the other."""

    def __init__(self, url: str, session: str) -> None:
        self.host, self.session = url.removeprefix("http://"), session
        self.token = json.loads(self.ask("GET", "/api/session")[1])["csrf"] if session else ""

    def ask(self, method: str, address: str, body: Any = None) -> tuple[int, bytes, float]:
        """Ask, and return status, answer and ms."""
        there = http.client.HTTPConnection(self.host, timeout=300)
        headers = {"Cookie": self.session, "Content-Type": "application/json", "X-CSRFToken": getattr(self, "token", "")}
        began = time.perf_counter()
        there.request(method, address, None if body is None else json.dumps(body), headers)
        answer = there.getresponse()
        text = answer.read()
        there.close()
        return answer.status, text, (time.perf_counter() - began) * 1000

    def wait_for(self, one: Asked) -> None:
        """Say that somebody waits, as the page does, and wait a little."""
        if one.method == "GET":
            _, _, took = self.ask("POST", "/".join(one.address.split("/")[:4]) + "/searches", {"address": one.address})
            one.times.append(took)
        time.sleep(0.4)


def asked_of(job: Any, inputs: Installation) -> list[Asked]:
    """Every operation that looks at something, and what is sent to be worked out, as it is asked of a job."""
    from mellow_span.api import api
    from mellow_span.core.design.check import lay_out
    from mellow_span.core.site.materials import cable_key

    final = inputs.circuits[-1]
    ids = {
        "job_id": str(job.pk), "circuit_id": final.id, "board_id": inputs.boards[5].id, "route_id": inputs.routes[3].id, "ruleset": "bs7671",
        "number": "4D5", "paper_id": "results", "form": "csv", "revision": "1",
    }  # fmt: skip
    cable = cable_key(lay_out(inputs), final)
    query = {
        "isolation_plan": f"kind=circuit&id={final.id}", "substitutes": f"key={cable}&count=500", "search_tables": "words=4D5",
        "beside": "book=iec60364", "compare_revisions": "old=1&new=0",
    }  # fmt: skip
    found = []
    for path, by in api.get_openapi_schema()["paths"].items():
        if "get" in by and set(re.findall(r"\{(\w+)\}", path)) <= set(ids):
            name = by["get"]["operationId"]
            address = re.sub(r"\{(\w+)\}", lambda m: ids[m.group(1)], path)
            found.append(Asked(name, "GET", f"{address}?{query[name]}" if name in query else address))
    span = final.run.spans[0].id
    edit = {"edit_id": "", "version": job.version, "changes": [{"op": "set", "kind": "span", "id": span, "fields": {"length": 3.5}}]}
    at = {"id": "", "kind": "reading", "subject": final.id, "data": {"quantity": "zs", "value": 0.4}, "at": "2026-11-30T10:00:00+00:00"}
    ofjob = f"/api/jobs/{job.pk}"
    return [
        *found,
        Asked("said", "POST", f"{ofjob}/said", {"text": "shower 9.2kW b40 rcbo 10 flat: stud 3 loft 7"}),
        Asked("write_down", "POST", f"{ofjob}/site", at),
        Asked("edit_job", "PATCH", ofjob, edit),
        Asked("issue", "POST", f"{ofjob}/revisions", {"version": 0, "note": "bench"}),
        Asked("revisions, one issued", "GET", f"{ofjob}/revisions"),
        Asked("revision_file, one issued", "GET", f"{ofjob}/revisions/1/file"),
        Asked("compare_revisions, one issued", "GET", f"{ofjob}/revisions/compare?old=1&new=0"),
        Asked("shared pages: jobs", "GET", "/api/jobs"),
    ]


def ask_all(caller: Caller, job: Any, every: list[Asked], patience: float) -> None:
    """Ask each once, of a job by its identity; patience: how long one that is worked on is asked again [s]."""
    from mellow_span.jobs.models import Job

    for one in every:
        body = one.body
        if one.name in ("edit_job", "issue"):
            # As the job stands by then.
            body = {**body, "version": Job.objects.get(pk=job).version}
        if one.name == "edit_job":
            body = {**body, "edit_id": str(uuid.uuid4())}
        if one.name == "write_down":
            body = {**body, "id": str(uuid.uuid4())}
        began = time.perf_counter()
        while True:
            one.status, _, took = caller.ask(one.method, one.address, body)
            one.times.append(took)
            one.whole = (time.perf_counter() - began) * 1000
            if one.status != 202 or one.whole > patience * 1000:
                break
            caller.wait_for(one)


def operations(entries: int = 20_000, patience: float = 60.0) -> None:
    """Print the table."""
    print(f"api, every operation at the largest job there may be, with {entries} entries in its log: answer or 'worked on', goal {GOAL} ms")
    from mellow_span.jobs.models import Member
    from mellow_span.jobs.reads import installation

    with (
        firm_with(0, 1, largest()) as (user, (job,)),
        firm_with(0, 1, largest()) as (stranger, (theirs,)),
        server() as (url, _),
    ):
        for one, whose in ((job, user), (theirs, stranger)):
            filled(one, installation(one), Member.objects.get(user=whose), entries)
        alone = asked_of(job, installation(job))
        ask_all(Caller(url, session_of(user)), job.pk, alone, patience)
        going = threading.Event()
        dear = [a for a in asked_of(theirs, installation(theirs)) if a.name in DEAREST]
        others = [
            threading.Thread(target=press, args=(Caller(url, session_of(stranger)), dear[k % len(dear)], going), daemon=True)
            for k in range(OTHERS)
        ]
        for thread in others:
            thread.start()
        time.sleep(1)
        beside = asked_of(job, installation(job))
        ask_all(Caller(url, session_of(user)), job.pk, beside, 0.0)
        going.set()
        for thread in others:
            thread.join(300)
    worst = sorted(zip(alone, beside, strict=True), key=lambda pair: -max(*pair[0].times, *pair[1].times))
    print(f"    {'operation':<34}{'alone':>9}{'beside 8':>10}{'whole':>9}  status")
    for mine, other in worst:
        over = "OVER" if max(*mine.times, *other.times) > GOAL else ""
        print(
            f"    {mine.name:<34}{max(mine.times):>7.0f}ms{max(other.times):>8.0f}ms{mine.whole:>7.0f}ms  {mine.status} {over}", flush=True
        )


def press(caller: Caller, one: Asked, going: threading.Event) -> None:
    """Ask for the same thing again and again."""
    while not going.is_set():
        with contextlib.suppress(OSError):
            status, _, _ = caller.ask(one.method, one.address, one.body)
            if status == 202:
                caller.wait_for(one)
            time.sleep(0.01)


if __name__ == "__main__":
    import django

    django.setup()
    operations(*(int(x) for x in sys.argv[1:2]))
