"""Try hard to break it: strange inputs to every operation, half-open connections, and everything killed in the middle of edits.

./run soak [INPUTS] [KILLS] [SECONDS]. It works on a database of its own, in a cluster of its own, which are thrown away.
"""

from __future__ import annotations

import http.client
import json
import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
import uuid
from collections import Counter
from pathlib import Path
from typing import Any

ROOT = Path(__file__).parents[1]
FOLDER = Path(tempfile.mkdtemp(prefix="ms-soak-"))
FOLDER.chmod(0o755)
os.environ["MELLOW_SPAN_LOCAL"] = str(FOLDER)
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "mellow_span.settings")
os.environ.pop("MELLOW_SPAN_DB_NAME", None)
PASSWORD = "a long one for the soak"
# No answer may take longer [s]; as a test it has the machine not for itself.
LONGEST = float(sys.argv[3]) if len(sys.argv) > 3 else 2.0


def script(name: str, *given: str) -> str:
    """Run a script of the checkout against the cluster of the soak."""
    done = subprocess.run([sys.executable, f"scripts/{name}.py", *given], cwd=ROOT, capture_output=True, text=True, check=False)
    if done.returncode:
        raise SystemExit(f"{name} {given}: {done.stderr}{done.stdout}")
    return done.stdout


class Away(Exception):
    """No answer came."""


class Browser:
    """Somebody signed in, as a browser is."""

    def __init__(self, port: int, username: str) -> None:
        self.port, self.cookies, self.token = port, {}, ""
        _, who, _ = self.ask("GET", "/api/session")
        self.token = who["csrf"]
        status, who, _ = self.ask("POST", "/api/session", {"username": username, "password": PASSWORD})
        assert status == 200, who
        self.token = who["csrf"]

    def ask(
        self, method: str, address: str, body: Any = None, raw: bytes | None = None, kind: str = "application/json"
    ) -> tuple[int, Any, float]:
        """Ask and return status, answer and seconds. Raises Away."""
        data = raw if raw is not None else None if body is None else json.dumps(body).encode()
        headers = {"Cookie": "; ".join(f"{k}={v}" for k, v in self.cookies.items()), "X-CSRFToken": self.token, "Content-Type": kind}
        there = http.client.HTTPConnection("127.0.0.1", self.port, timeout=30)
        began = time.perf_counter()
        try:
            there.request(method, address, data, headers)
            answer = there.getresponse()
            text = answer.read()
        except (OSError, http.client.HTTPException) as error:
            raise Away(str(error)) from None
        took = time.perf_counter() - began
        for line in answer.headers.get_all("Set-Cookie") or ():
            name, _, value = line.partition(";")[0].partition("=")
            self.cookies[name] = value
        try:
            found = json.loads(text) if text else None
        except ValueError:
            found = text[:200]
        return answer.status, found, took


# Strange inputs ----------------------------------------------------------------------------------------------------------------------

STRANGE: list[Any] = [
    None, True, 0, -1, 0.1, 1e308, -1e308, 10**18, 10**400, "", " ", "x", "x" * 300, "x" * 60_000, "\ud800", "\x00", "𝔘", "‮abc", "' OR 1=1 --", "<b>",
    "../../etc", "%00", "NaN", "1e999", "2026-02-30", [], {}, [[]], {"a": 1}, [None] * 300, "00000000-0000-0000-0000-000000000000", str(uuid.uuid4()),
]  # fmt: skip
RAW = [
    b"", b"{", b"[" * 100_000, b'{"a":' * 20_000, b"\xff\xfe", b"NaN", b"1e999", b'"\\ud800"', b'{"version": ' + b"9" * 6000 + b"}", b"null", b"[]",
    b"0", b" " * 2_100_000,
]  # fmt: skip
KINDS = [
    "application/json",
    "application/json",
    "application/json",
    "text/plain",
    "multipart/form-data",
    "",
    "application/json; charset=utf-16",
]


class Fuzzer:
    """Makes inputs for every operation of the description: right in most, strange in some place."""

    def __init__(self, rnd: random.Random, ids: dict[str, list[str]]) -> None:
        from mellow_span.api import api

        self.rnd, self.ids = rnd, ids
        self.schema: dict[str, Any] = json.loads(json.dumps(api.get_openapi_schema()))
        leave = {"sign_out", "sign_in", "remove_job", "change_password", "remove_member", "hand_over", "give_role", "end_device"}
        self.operations = [
            (method.upper(), path, about)
            for path, by in self.schema["paths"].items()
            for method, about in by.items()
            if about["operationId"] not in leave
        ]

    def one(self) -> tuple[str, str, str, bytes | None, str]:
        """Return operation, method, address, body and content type."""
        rnd = self.rnd
        method, path, about = rnd.choice(self.operations)
        address = path
        for part in about.get("parameters", ()):
            if part["in"] == "path":
                known = self.ids.get(part["name"], ["bs7671", "4D5"])
                value = rnd.choice(known) if rnd.random() < 0.9 else str(rnd.choice(STRANGE))[:100]
                address = address.replace("{" + part["name"] + "}", quoted(value))
        query = [
            f"{p['name']}={quoted(str(self.value(p['schema'], 0))[:3000])}"
            for p in about.get("parameters", ())
            if p["in"] == "query" and rnd.random() < 0.6
        ]
        if query:
            address += "?" + "&".join(query)
        if rnd.random() < 0.03:
            method = rnd.choice(["PUT", "PATCH", "DELETE", "POST", "TRACE"])
        body: bytes | None = None
        kind = "application/json"
        if "requestBody" in about:
            if rnd.random() < 0.12:
                body, kind = rnd.choice(RAW), rnd.choice(KINDS)
            else:
                schema = about["requestBody"]["content"]["application/json"]["schema"]
                body = json.dumps(self.value(schema, 0)).encode("utf-8", "surrogatepass")
        return about["operationId"], method, address, body, kind

    def value(self, schema: dict[str, Any], depth: int) -> Any:
        """Make a value of a schema, or a strange one."""
        rnd = self.rnd
        if "$ref" in schema:
            return self.value(self.schema["components"]["schemas"][schema["$ref"].rpartition("/")[2]], depth)
        if rnd.random() < 0.06 or depth > 6:
            return rnd.choice(STRANGE)
        if "anyOf" in schema:
            return self.value(rnd.choice(schema["anyOf"]), depth)
        if "enum" in schema:
            return rnd.choice(schema["enum"])
        if "const" in schema:
            return schema["const"]
        kind = schema.get("type")
        if kind == "object":
            fields = schema.get("properties", {})
            if not fields:
                names = [
                    "name",
                    "amount",
                    "csa",
                    "length",
                    "device",
                    "cable",
                    "cable.csa",
                    "place",
                    "ze",
                    "at",
                    "feeds",
                    "board",
                    "route",
                    "x",
                ]
                return {rnd.choice(names): rnd.choice([*STRANGE, 2.5, "masonry", {"rating": 32}]) for _ in range(rnd.randrange(4))}
            return {name: self.value(about, depth + 1) for name, about in fields.items() if rnd.random() < 0.95}
        if kind == "array":
            return [self.value(schema.get("items", {}), depth + 1) for _ in range(rnd.choice([1, 1, 2, 3, 0]))]
        if kind == "integer":
            return rnd.choice([1, 1, 1, 2, 5, 0, -1, 10**9, 10**30])
        if kind == "number":
            return rnd.choice([0.5, 1, 2.5, 30, 0, -1, 1e9])
        if kind == "boolean":
            return rnd.random() < 0.5
        if schema.get("format") == "uuid":
            return rnd.choice([str(uuid.uuid4()), *(rnd.choice(v) for v in self.ids.values() if v and "-" in v[0])])
        return rnd.choice(["x", "shower 9.2kW b40", "6 flat", "12.5", "name", *[s for s in STRANGE if isinstance(s, str)]])


def quoted(text: str) -> str:
    """A text as it stands in an address."""
    from urllib.parse import quote

    return quote(text.encode("utf-8", "surrogatepass"), safe="")


def named(status: int, answer: Any) -> bool:
    """Say whether a refusal has the one shape: a detail, and points with field, given and allowed."""
    if status < 400 or status == 409:
        return True
    errors = answer.get("errors") if isinstance(answer, dict) else None
    return bool(answer.get("detail") and errors and all(e["field"] and e["given"] and e["allowed"] for e in errors)) if errors else False


def fuzz(port: int, people: list[str], ids: dict[str, list[str]], inputs: int) -> list[str]:
    """Send so many strange inputs, from several at once; return what went wrong."""
    wrong: list[str] = []
    counts: Counter[int] = Counter()
    slowest = ["", 0.0]
    lock = threading.Lock()

    def work(seed: int, share: int) -> None:
        fuzzer, browser = Fuzzer(random.Random(seed), ids), Browser(port, people[seed % len(people)])
        for _ in range(share):
            name, method, address, body, kind = fuzzer.one()
            try:
                status, answer, took = browser.ask(method, address, raw=body, kind=kind)
            except Away as why:
                status, answer, took = 0, str(why), 0.0
            with lock:
                counts[status] += 1
                if took > slowest[1]:
                    slowest[:] = [name, took]
                if status == 0 or status >= 500 or took > LONGEST or not named(status, answer):
                    wrong.append(f"{status} {took:.2f} s {name} {method} {address[:120]} {(body or b'')[:300]!r} -> {str(answer)[:200]}")

    threads = [threading.Thread(target=work, args=(seed, inputs // 4)) for seed in range(4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    print(f"    {sum(counts.values())} inputs: " + ", ".join(f"{n} x {s}" for s, n in sorted(counts.items())), flush=True)
    print(f"    the slowest was {slowest[0]}, {float(slowest[1]) * 1000:.0f} ms", flush=True)
    return wrong


# Everything killed -------------------------------------------------------------------------------------------------------------------


def edit_through(browser: Browser, username: str, job: str, stop: threading.Event, made: list[str]) -> None:
    """Edit as the page does: each edit is sent under its identity until it is acknowledged."""
    _, state, _ = browser.ask("GET", f"/api/jobs/{job}")
    version, number = state["version"], 0
    while not stop.is_set():
        number += 1
        identity = str(uuid.uuid4())
        body = {
            "edit_id": identity, "version": version,
            "changes": [{"op": "set", "kind": "job", "id": str(uuid.UUID(int=0)), "fields": {"note": f"{username} {number}"}}],
        }  # fmt: skip
        while True:
            try:
                status, answer, _ = browser.ask("PATCH", f"/api/jobs/{job}", body)
            except Away:
                status = 0
            if status == 200:
                version = answer["version"]
                made.append(identity)
                break
            if status == 409:
                version = answer["state"]["version"]
                break
            if stop.is_set() and status == 0:
                return
            time.sleep(0.05)


def children(pid: int) -> list[int]:
    """The processes that one started."""
    try:
        return [int(c) for c in Path(f"/proc/{pid}/task/{pid}/children").read_text().split()]
    except OSError:
        return []


WEB = b"mellow_span.serving.server"


def like(keeper: int, name: bytes) -> list[int]:
    """Those of the processes it keeps whose command has a name in it."""
    return [c for c in children(keeper) if name in Path(f"/proc/{c}/cmdline").read_bytes()]


KINDS_OF_KILL = ("a web server", "all web servers", "search processes", "database", "keeper of it all", "all")


def kill(what: str, above: int) -> None:
    """Kill a part of it, hard. above: the process that starts the keeper again."""
    postmaster = int((FOLDER / "pg" / "postmaster.pid").read_text().split("\n")[0])
    (keeper,) = children(above)
    web = like(keeper, WEB)
    found = {
        "a web server": web[:1], "all web servers": web, "search processes": like(keeper, b"searcher"),
        "database": [postmaster], "keeper of it all": [keeper],
    }  # fmt: skip
    targets = [pid for each in found.values() for pid in each] if what == "all" else found[what]
    for pid in targets:
        os.kill(pid, signal.SIGKILL)


def killed(port: int, keeper: int, people: list[str], jobs: list[str], rounds: int) -> list[str]:
    """Kill each part in turn while everybody edits; return what was lost."""
    stop, made = threading.Event(), [[] for _ in people]  # type: ignore[var-annotated]
    browsers = [Browser(port, name) for name in people]
    threads = [
        threading.Thread(target=edit_through, args=(browsers[i], name, jobs[i % len(jobs)], stop, made[i]), daemon=True)
        for i, name in enumerate(people)
    ]
    for thread in threads:
        thread.start()
    back: list[tuple[float, str]] = []
    for i in range(rounds):
        time.sleep(2)
        what = KINDS_OF_KILL[i % len(KINDS_OF_KILL)]
        kill(what, keeper)
        began = time.monotonic()
        until_well(port, like_before=keeper)
        back.append((time.monotonic() - began, what))
    time.sleep(2)
    stop.set()
    for thread in threads:
        thread.join(60)
    acknowledged = [identity for each in made for identity in each]
    from django.db import connection

    from mellow_span.jobs.models import Edit, Job
    from mellow_span.jobs.reads import installation

    connection.close()
    refresh()
    there = {str(pk) for pk in Edit.objects.values_list("pk", flat=True)}
    lost = [identity for identity in acknowledged if identity not in there]
    if not acknowledged:
        raise SystemExit("nobody edited anything")
    print(f"    {rounds} kills, {len(acknowledged)} acknowledged edits, {len(lost)} lost", flush=True)
    print("    back after at most " + ", ".join(f"{t:.1f} s ({what})" for t, what in sorted(back, reverse=True)[:3]), flush=True)
    wrong = [f"an acknowledged edit is lost: {identity}" for identity in lost]
    for job in Job.objects.all():
        edits = job.edits.count()
        if job.version != edits + 1:
            wrong.append(f"{job.name}: version {job.version} after {edits} edits")
        installation(job)
    return wrong


def refresh() -> None:
    """After the cluster was started again it may have another port."""
    from django.db import connection

    about = json.loads((FOLDER / "connection.json").read_text("utf-8"))
    connection.settings_dict["PORT"] = about["port"]


def whole(above: int) -> bool:
    """Say whether everything runs that is kept running: two workers, two search processes, and what keeps them."""
    try:
        (keeper,) = children(above)
        return len(like(keeper, WEB)) == 2 and len(like(keeper, b"searcher")) == 2
    except (ValueError, StopIteration, OSError):
        return False


def until_well(port: int, like_before: int | None = None) -> None:
    """Wait until the server is well again; like_before: and all of it runs that the process given starts."""
    for _ in range(600):
        if like_before is not None and not whole(like_before):
            time.sleep(0.1)
            continue
        there = http.client.HTTPConnection("127.0.0.1", port, timeout=3)
        try:
            there.request("GET", "/api/health")
            if there.getresponse().status == 200:
                return
        except (OSError, http.client.HTTPException):
            pass
        time.sleep(0.1)
    raise SystemExit("it did not come back within a minute")


def main() -> None:
    """Soak."""
    inputs = int(sys.argv[1]) if len(sys.argv) > 1 else 10_000
    rounds = int(sys.argv[2]) if len(sys.argv) > 2 else 12
    script("cluster", "start")
    (FOLDER / "secret_key").write_text(uuid.uuid4().hex * 2)
    wrong: list[str] = []
    keeper: subprocess.Popen[bytes] | None = None
    try:
        subprocess.run([sys.executable, "manage.py", "migrate", "-v", "0"], cwd=ROOT, check=True, stdout=subprocess.DEVNULL)
        import django

        django.setup()
        people, ids = furnish()
        import socket

        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            port = int(probe.getsockname()[1])
        line = ["scripts/again.sh", sys.executable, "scripts/supervise.py", "run", "--port", str(port)]
        keeper = subprocess.Popen(line, cwd=ROOT, stdout=subprocess.DEVNULL)
        until_well(port)
        print(f"{inputs} strange inputs to {len(Fuzzer(random.Random(0), ids).operations)} operations, from four at once", flush=True)
        wrong += fuzz(port, people, ids, inputs)
        print("each part of it killed in turn, and all at once, while twelve people edit", flush=True)
        wrong += killed(port, keeper.pid, people, ids["job_id"], rounds)
    finally:
        if keeper:
            keeper.terminate()
            keeper.wait(40)
        script("cluster", "stop")
        shutil.rmtree(FOLDER)
    for line in wrong[:40]:
        print("  WRONG", line)
    print(f"{len(wrong)} things went wrong" if wrong else "nothing went wrong")
    sys.exit(1 if wrong else 0)


def furnish() -> tuple[list[str], dict[str, list[str]]]:
    """A firm with twelve people and two houses; what has an identity in it, by the names that addresses call it."""
    from django.contrib.auth import get_user_model

    from mellow_span import demo
    from mellow_span.exchange.document import read
    from mellow_span.jobs.models import Firm, Member
    from mellow_span.jobs.reads import installation
    from mellow_span.jobs.writes import take_in

    firm = Firm.objects.create(name="Soak")
    people = [f"soak-{i}" for i in range(12)]
    for name in people:
        user = get_user_model().objects.create_user(name, password=PASSWORD)
        Member.objects.create(user=user, firm=firm, name=name, role=Member.Role.SUPERVISOR)
    folder = Path(demo.__file__).parent
    jobs = [take_in(firm, read(json.loads((folder / f"{name}.json").read_text("utf-8")))) for name in ("orchard_row", "weir_lodge")]
    first = installation(jobs[0])
    ids = {
        "job_id": [str(job.pk) for job in jobs], "circuit_id": [c.id for c in first.circuits], "board_id": [b.id for b in first.boards],
        "route_id": [r.id for r in first.routes], "copy_id": [str(uuid.uuid4())], "link_id": [str(uuid.uuid4())], "invitation_id": [str(uuid.uuid4())],
        "member_id": ["999999"], "token": ["x" * 43], "ruleset": ["bs7671"], "number": ["4D5"],
    }  # fmt: skip
    return people, ids


if __name__ == "__main__":
    main()
