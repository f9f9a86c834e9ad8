"""Figures of the API and of the page, against a real server on loopback with a firm of its own that is removed again."""

from __future__ import annotations

import contextlib
import json
import os
import random
import re
import statistics
import subprocess
import sys
import threading
import time
import urllib.error
import urllib.request
import uuid
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

from bench.__main__ import line
from bench.largest import largest
from mellow_span.core.model.parts import Installation
from mellow_span.process.port import listen
from mellow_span.standins import instrument, merchant

PASSWORD = uuid.uuid4().hex
WARM_UP = 3
# How often somebody who works on one job with others changes what is another's.
ASTRAY = 0.01


@contextlib.contextmanager
def firm_with(circuits: int, jobs: int, inputs: Installation | None = None) -> Iterator[tuple[Any, list[Any]]]:
    """A throw-away firm with a person and some jobs of so many circuits, or of those given."""
    from django.contrib.auth import get_user_model

    from bench.__main__ import house
    from mellow_span.jobs.models import Firm, Member
    from mellow_span.jobs.writes import take_in

    user = get_user_model().objects.create_user(f"bench-{uuid.uuid4().hex[:8]}", password=PASSWORD)
    firm = Firm.objects.create(name="bench")
    Member.objects.create(user=user, firm=firm, name="bench", role=Member.Role.SUPERVISOR)
    inputs = inputs or house(circuits)
    try:
        yield user, [take_in(firm, replace(inputs, name=f"Bench {i}")) for i in range(jobs)]
    finally:
        firm.delete()
        user.delete()


@contextlib.contextmanager
def server() -> Iterator[tuple[str, list[int]]]:
    """The app as ./run demo serves it; yields its address and the web servers."""
    shared = listen("127.0.0.1", 0)
    port = shared.getsockname()[1]
    shop, meter = merchant.server(0), instrument.server(0)
    for standin in (shop, meter):
        threading.Thread(target=standin.serve_forever, daemon=True).start()
    outside = {
        "MELLOW_SPAN_MERCHANT": f"http://127.0.0.1:{shop.server_port}", "MELLOW_SPAN_INSTRUMENT": f"127.0.0.1:{meter.server_address[1]}",
    }  # fmt: skip
    line = [sys.executable, "-m", "mellow_span.serving.server", "--fd", str(shared.fileno())]
    web = [subprocess.Popen(line, env={**os.environ, **outside}, pass_fds=[shared.fileno()]) for _ in range(2)]
    searchers = [subprocess.Popen([sys.executable, "-m", "mellow_span.serving.searcher", *more]) for more in (["--views-alone"], [])]
    url = f"http://127.0.0.1:{port}"
    for _ in range(100):
        with contextlib.suppress(OSError):
            urllib.request.urlopen(url + "/api/session", timeout=1)
            break
        time.sleep(0.1)
    try:
        yield url, [one.pid for one in web]
    finally:
        for one in (*web, *searchers):
            one.terminate()
            one.wait(20)
        shared.close()
        for standin in (shop, meter):
            standin.shutdown()
            standin.server_close()


def p95(times: list[float]) -> float:
    """The 95th percentile."""
    return sorted(times)[int(len(times) * 0.95)]


def edit_for(
    url: str, session: str, job: Any, which: int, times: list[float], seconds: float, pace: float, apart: bool, refused: list[int]
) -> None:
    """Edit one job as a person does: a change, a look at it, the next, so many seconds later. which: of twenty; apart: each edits circuits of their
    own alone, else now and then one of another's. refused: the status of each that was not simply taken, as it would open a dialog.
    """
    from mellow_span.jobs.reads import installation

    rnd = random.Random(which)
    every = [c.run.spans[0].id for c in installation(job).circuits]
    spans = every[which::20]
    version, i, until = job.version, 0, time.monotonic() + seconds
    token = json.loads(urllib.request.urlopen(urllib.request.Request(url + "/api/session", headers={"Cookie": session})).read())["csrf"]
    secret = session.split("csrftoken=")[1]
    while time.monotonic() < until:
        i += 1
        change = {
            "op": "set",
            "kind": "span",
            "id": rnd.choice(every) if not apart and rnd.random() < ASTRAY else spans[i % len(spans)],
            "fields": {"length": 2 + i % 9 + which / 100},
        }
        body = json.dumps({"edit_id": str(uuid.uuid4()), "version": version, "changes": [change]}).encode()
        headers = {"Cookie": session, "X-CSRFToken": token or secret, "Content-Type": "application/json"}
        request = urllib.request.Request(f"{url}/api/jobs/{job.pk}", body, headers, method="PATCH")
        began = time.perf_counter()
        try:
            with urllib.request.urlopen(request) as answer:
                version = json.loads(answer.read())["version"]
        except urllib.error.HTTPError as error:
            refused.append(error.code)
            version = json.loads(error.read()).get("state", {}).get("version", version)
        # The first edits open connections and figure each job for the first time in each worker.
        if i > WARM_UP:
            times.append((time.perf_counter() - began) * 1000)
        time.sleep(pace)


def session_of(user: Any) -> str:
    """The cookies of a person signed in."""
    from django.test import Client

    client = Client()
    client.force_login(user)
    client.get("/api/session", headers={"host": "127.0.0.1"})
    return "; ".join(f"{k}={v.value}" for k, v in client.cookies.items())


def people(jobs_there: int) -> None:
    """Twenty people editing jobs of 40 circuits at once: each their own, or all the same one."""
    where = "20 jobs" if jobs_there > 1 else "one job"
    pace, apart, goal = (1.0, True, 60) if jobs_there > 1 else (2.0, False, 100)
    print(f"api, 20 people editing {where} of 40 circuits at once, a change every {pace:g} s each, after three each to warm up")
    with firm_with(40, jobs_there) as (user, made), server() as (url, web):
        session = session_of(user)
        jobs = made * (20 // jobs_there)
        times: list[float] = []
        refused: list[int] = []
        seconds = 20 * pace
        threads = [
            threading.Thread(target=edit_for, args=(url, session, job, i, times, seconds, pace, apart, refused))
            for i, job in enumerate(jobs)
        ]
        for i, thread in enumerate(threads):
            thread.start()
            time.sleep(pace / 20 if i else 0)
        for thread in threads:
            thread.join()
        print(f"    {len(times)} edits, median {statistics.median(times):.0f} ms")
        line(f"edit answered, {where}, p95", p95(times), "ms", goal)
        made = len(times) + WARM_UP * len(jobs)
        line(f"edits of {where} that would open a dialog", 100 * len(refused) / made, "%", 2)
        line("memory of one worker", largest_mb(web), "MB", 250)


def fetched(url: str, session: str) -> bytes:
    """The body of a page asked for by a person signed in."""
    with urllib.request.urlopen(urllib.request.Request(url, headers={"Cookie": session})) as answer:
        return bytes(answer.read())


def limits() -> None:
    """Every request that asks about a job, with the largest job there may be; the largest edit and the largest file."""
    from mellow_span.api import api
    from mellow_span.exchange.document import write
    from mellow_span.jobs.models import Job
    from mellow_span.jobs.reads import installation

    print("api, the largest job there may be: 500 circuits on 60 boards, 2000 spans, 200 routes, sub-mains ten deep")
    with firm_with(0, 1, largest()) as (user, (job,)), server() as (url, _):
        session, inputs = session_of(user), installation(job)
        token = json.loads(fetched(f"{url}/api/session", session))["csrf"]
        ids = {
            "job_id": str(job.pk),
            "circuit_id": inputs.circuits[-1].id,
            "board_id": inputs.boards[5].id,
            "route_id": inputs.routes[3].id,
        }

        def sent(method: str, address: str, body: Any = None) -> float:
            headers = {"Cookie": session, "X-CSRFToken": token, "Content-Type": "application/json"}
            data = None if body is None else json.dumps(body).encode()
            began = time.perf_counter()
            with (
                contextlib.suppress(urllib.error.HTTPError),
                urllib.request.urlopen(urllib.request.Request(url + address, data, headers, method=method)) as answer,
            ):
                answer.read()
            return (time.perf_counter() - began) * 1000

        times: dict[str, float] = {}
        for path, by in api.get_openapi_schema()["paths"].items():
            if "get" in by and "{job_id}" in path and set(re.findall(r"\{(\w+)\}", path)) <= set(ids):
                address = re.sub(r"\{(\w+)\}", lambda m: ids[m.group(1)], path)
                times[by["get"]["operationId"]] = max(sent("GET", address) for _ in range(4))
        times["open_job, with a circuit"] = max(sent("GET", f"/api/jobs/{job.pk}?focus={ids['circuit_id']}") for _ in range(3))
        slowest = sorted(times, key=lambda name: -times[name])[:6]
        print("    " + ", ".join(f"{name} {times[name]:.0f} ms" for name in slowest))
        line("worst legal request", max(times.values()), "ms", 2000)
        edits = []
        for i in range(3):
            changes = [
                {"op": "set", "kind": "span", "id": s.id, "fields": {"length": 2 + i + s_at / 100}}
                for s_at, s in enumerate(s for c in inputs.circuits[-50:] for s in c.run.spans)
            ][:200]
            body = {"edit_id": str(uuid.uuid4()), "version": Job.objects.get(pk=job.pk).version, "changes": changes}
            edits.append(sent("PATCH", f"/api/jobs/{job.pk}", body))
        line("largest edit: 200 changes among 500 circuits", statistics.median(edits), "ms", 1000)
        whole = write(inputs)
        line("largest file taken in", statistics.median(sent("POST", "/api/jobs/import", whole) for _ in range(3)), "ms", 3000)
        half = {**whole, "installation": {**whole["installation"], "circuits": whole["installation"]["circuits"][:250]}}
        line(
            "half of it, twice (1 is linear, or better)",
            2 * sent("POST", "/api/jobs/import", half) / sent("POST", "/api/jobs/import", whole),
            "",
            3,
        )


def many_jobs() -> None:
    """The list with 300 jobs, and the memory of a worker that has worked all of them out."""
    print("api, a firm with 300 jobs of 40 circuits")
    with firm_with(40, 300) as (user, jobs), server() as (url, web):
        session, times = session_of(user), []
        for _ in range(3 + 20):
            began = time.perf_counter()
            fetched(f"{url}/api/jobs", session)
            times.append((time.perf_counter() - began) * 1000)
        line("list of 300 jobs, median", statistics.median(times[3:]), "ms", 150)
        looks = []
        for job in jobs:
            began = time.perf_counter()
            fetched(f"{url}/api/jobs/{job.pk}", session)
            looks.append((time.perf_counter() - began) * 1000)
        line("a job opened, p95 of 300", p95(looks), "ms", 150)
        quiet = []
        for job in jobs[:50]:
            request = urllib.request.Request(
                f"{url}/api/jobs/{job.pk}", headers={"Cookie": session, "If-None-Match": f'W/"{job.version}.{job.cells}-"'}
            )
            began = time.perf_counter()
            with contextlib.suppress(urllib.error.HTTPError):
                urllib.request.urlopen(request)
            quiet.append((time.perf_counter() - began) * 1000)
        line("a look at a job that has not changed, median", statistics.median(quiet), "ms", 10)
        line("memory of one worker after 300 jobs", largest_mb(web), "MB", 250)


def largest_mb(processes: list[int]) -> float:
    """Resident memory of the fattest process [MB]."""
    sizes = [int(s.split()[1]) for c in processes for s in Path(f"/proc/{c}/status").read_text().splitlines() if s.startswith("VmRSS")]
    return max(sizes) / 1024


def browser() -> None:
    """First load and edit-to-repaint in headless Chromium."""
    from playwright.sync_api import sync_playwright

    from tests.browser.conftest import CHROMIUM, FLAGS

    print("page, 40-circuit job, headless Chromium")
    with firm_with(40, 1) as (user, jobs), server() as (url, _), sync_playwright() as p:
        page = p.chromium.launch(executable_path=CHROMIUM, args=FLAGS).new_page(viewport={"width": 1280, "height": 800})
        began = time.perf_counter()
        page.goto(url)
        page.get_by_label("Name").wait_for()
        line("cold first load", (time.perf_counter() - began) * 1000, "ms", 1500)
        sizes = "performance.getEntriesByType('resource').filter(e => e.name.endsWith('.js')).reduce((s, e) => s + e.encodedBodySize, 0)"
        line("script of the first load, compressed", page.evaluate(sizes) / 1000, "kB", 300)
        page.get_by_label("Name").fill(user.username)
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="sign in").click()
        page.get_by_role("heading", name="Jobs").wait_for()
        page.goto(f"{url}/jobs/{jobs[0].pk}")
        page.locator("[data-circuit]").first.click()
        page.locator("[data-check=volt_drop]").wait_for()
        times = [repaint_ms(page, i) for i in range(40)]
        line("edit to repainted checks, p95", p95(times[3:]), "ms", 150)
        times = [watched_ms(page, lambda i=i: step_length(page, i), "[data-cell='3-4']") for i in range(23)] if to_grid(page) else []
        line("cell of the grid to its repainted row, p95", p95(times[3:]), "ms", 150)
        times = [watched_ms(page, lambda i=i: step_rating(page, i), "[data-plot] [data-band]") for i in range(23)] if to_plot(page) else []
        line("rating stepped to the repainted plot, p95", p95(times[3:]), "ms", 150)
        line("keys for the shower, in one line", keys_for(page, SHOWER), "", 90)
        began = time.perf_counter()
        keys_for(page, "\n".join(f"{tree} {SHOWER}" for tree in TREES))
        page.locator("[data-circuit]").filter(has_text="Yew shower").wait_for()
        line("a list of ten circuits, pasted, to the last in the column", (time.perf_counter() - began) * 1000, "ms", 3000)


TREES = ("alder", "ash", "beech", "birch", "elm", "hazel", "lime", "maple", "rowan", "yew")
# A shower with its device, cable and three spans, as briefly as the reader takes it.
SHOWER = "shower 9.2kw b40 30ma 10 flat:riser 3.2 brick,loft 2.4 quilt,landing 7.5 joists"


def keys_for(page: Any, text: str) -> int:
    """Say circuits in the sheet and take them; return how many keys a single line took: the letter that opens it, the line, Enter."""
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("n")
    box = page.get_by_label("Circuits of")
    box.wait_for()
    several = "\n" in text
    (box.fill if several else page.keyboard.type)(text)
    page.locator("[data-said]").last.wait_for()
    page.keyboard.press("Control+Enter" if several else "Enter")
    page.get_by_role("dialog").wait_for(state="detached")
    return 1 + len(text) + 1


def to_grid(page: Any) -> bool:
    """Go to the grid of the first board."""
    page.evaluate("document.activeElement.blur()")
    page.locator("nav section h2 a").first.click()
    page.get_by_role("grid").wait_for()
    return True


def to_plot(page: Any) -> bool:
    """Go to the plot of the first circuit."""
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("c")
    page.locator("[data-plot]").wait_for()
    return True


def step_length(page: Any, i: int) -> None:
    """Type another length into a cell, up to the Enter that takes it."""
    page.locator("[data-cell='3-4']").click()
    page.keyboard.type(str(3 + i % 7 + i / 100))


def step_rating(page: Any, i: int) -> None:
    """Put the focus on the button that steps the first device up or down."""
    page.get_by_role("button", name="Larger rating of" if i % 2 else "Smaller rating of").first.focus()


def watched_ms(page: Any, make: Any, shown: str) -> float:
    """Time [ms] in the page from Enter to the painted frame in which what is shown differs."""
    before = page.locator(shown).first.evaluate("e => e.outerHTML")
    make()
    watch = """([shown, before]) => { window.painted = new Promise(done => { addEventListener('keydown', () => {
      const began = performance.now();
      const look = () => { const there = document.querySelector(shown);
        const settled = there && there.tagName !== 'INPUT' && !there.hasAttribute('aria-busy');
        if (settled && there.outerHTML !== before) requestAnimationFrame(() => setTimeout(() => done(performance.now() - began)));
        else requestAnimationFrame(look); };
      look(); }, {once: true, capture: true}); }); }"""
    page.evaluate(watch, [shown, before])
    page.keyboard.press("Enter")
    return float(page.evaluate("window.painted"))


def repaint_ms(page: Any, i: int) -> float:
    """Time [ms] in the page from Enter on a new length to the painted frame with the new volt drop."""
    page.locator('[data-word="span length"]').click()
    page.get_by_label("Length of the span").fill(str(3 + i % 7 + i / 100))
    watch = """() => { const row = document.querySelector('[data-check=volt_drop]'), before = row.textContent;
      window.painted = new Promise(done => { addEventListener('keydown', () => { const began = performance.now();
        const look = new MutationObserver(() => { if (row.textContent !== before) { look.disconnect();
          requestAnimationFrame(() => setTimeout(() => done(performance.now() - began))); } });
        look.observe(row, {subtree: true, childList: true, characterData: true}); }, {once: true, capture: true}); }); }"""
    page.evaluate(watch)
    page.keyboard.press("Enter")
    return float(page.evaluate("window.painted"))
