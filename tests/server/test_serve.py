"""The web server: slow requests keep nobody waiting, nothing acknowledged is lost, it stops gracefully, and never as root."""

from __future__ import annotations

import contextlib
import http.client
import json
import os
import socket
import subprocess
import time
import uuid
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import pytest
from django.test import Client

from bench.largest import largest
from mellow_span.exchange.document import write
from mellow_span.jobs import models
from mellow_span.process.port import listen
from mellow_span.process.rights import reachable
from mellow_span.settings.headers import EVERYWHERE
from tests.conftest import Firm, make_firm
from tests.server.conftest import free_port, get, serving


def session_of(firm: Firm) -> dict[str, str]:
    """The headers of a person signed in."""
    client = Client()
    client.force_login(firm.member.user)
    token = client.get("/api/session", headers={"host": "127.0.0.1"}).json()["csrf"]
    cookies = "; ".join(f"{k}={v.value}" for k, v in client.cookies.items())
    return {"Cookie": cookies, "X-CSRFToken": token, "Content-Type": "application/json"}


def ask(port: int, method: str, address: str, body: Any, headers: dict[str, str], timeout: float = 30) -> tuple[int, Any]:
    there = http.client.HTTPConnection("127.0.0.1", port, timeout=timeout)
    there.request(method, address, json.dumps(body), headers)
    answer = there.getresponse()
    return answer.status, json.loads(answer.read() or b"null")


# Asked of one server, one after the other, since they change nothing and take nothing away.
TOGETHER = pytest.mark.xdist_group("one server")


@pytest.fixture(scope="module")
def lasting(django_db_setup: None) -> Iterator[tuple[int, subprocess.Popen[bytes]]]:
    """A server for all tests that leave it as it is."""
    port = free_port()
    with serving(port) as process:
        yield port, process


HALVES = {
    "the first line": b"GET /api/ses",
    "the headers": b"POST /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-",
    "the body": b"POST /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/json\r\nContent-Length: 900\r\n\r\n{",
    "nothing at all": b"",
}


@TOGETHER
@pytest.mark.parametrize("what", HALVES)
def test_two_hundred_half_sent_requests_keep_nobody_waiting(what: str, lasting: Any) -> None:
    port, _ = lasting
    held = []
    for _ in range(200):
        one = socket.create_connection(("127.0.0.1", port), timeout=5)
        one.sendall(HALVES[what])
        held.append(one)
    time.sleep(0.5)
    slowest = 0.0
    for _ in range(20):
        began = time.monotonic()
        assert get(port, "/api/session")[0] == 200
        slowest = max(slowest, time.monotonic() - began)
    # One that is kept waiting waits until they are let go, half a minute; what is less says how busy the machine is.
    assert slowest < 15
    for one in held:
        one.close()


@pytest.mark.django_db(transaction=True)
def test_an_edit_that_was_acknowledged_is_there_after_every_server_was_killed() -> None:
    port, firm = free_port(), make_firm()
    with contextlib.ExitStack() as running:
        servers = [running.enter_context(serving(port)) for _ in range(2)]
        kill_between(edits := 12, port, firm, servers, lambda: running.enter_context(serving(port)))
    assert models.Job.objects.get(pk=firm.job.pk).version == 1 + edits
    assert firm.job.edits.count() == edits


def kill_between(edits: int, port: int, firm: Firm, servers: list[Any], another: Callable[[], Any]) -> None:
    """Edit a job so many times; every fourth edit, all servers of a port are killed, and another is started."""
    headers, address = session_of(firm), f"/api/jobs/{firm.job.pk}"
    for i in range(edits):
        change = {"op": "set", "kind": "job", "id": str(uuid.UUID(int=0)), "fields": {"note": f"note {i}"}}
        body = {"edit_id": str(uuid.uuid4()), "version": i + 1, "changes": [change]}
        if i % 4 == 3:
            for one in servers:
                one.kill()
                one.wait(20)
            servers[:] = [another()]
        for _ in range(50):
            # Sent again under the same identity until it is acknowledged, as the page does.
            try:
                status, state = ask(port, "PATCH", address, body, headers, timeout=5)
                assert status == 200
                break
            except (OSError, http.client.HTTPException):
                time.sleep(0.1)
        assert state["installation"]["note"] == f"note {i}"


@pytest.mark.django_db(transaction=True)
def test_what_was_begun_is_answered_when_the_server_is_told_to_stop() -> None:
    port, firm = free_port(), make_firm()
    # Made before anything is sent: on a slow machine that takes longer than the wait below.
    body = json.dumps(write(largest())).encode()
    with serving(port) as process:
        asked = http.client.HTTPConnection("127.0.0.1", port, timeout=30)
        asked.request("POST", "/api/jobs/import", body, {"Content-Type": "application/json", **session_of(firm)})
        time.sleep(0.4)
        process.terminate()
        assert asked.getresponse().status == 201
        process.wait(15)
        assert process.returncode == 0
    assert get(port)[0] == 0


BROKEN = {
    "no request at all": b"\x16\x03\x01\x02\x00\x01\r\n\r\n",
    "a first line that is none": b"GET\r\n\r\n",
    "too many headers": b"GET / HTTP/1.1\r\nHost: 127.0.0.1\r\n" + b"X-A: " + b"a" * 70_000 + b"\r\n\r\n",
    "a length that is none": b"POST /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: many\r\n\r\n",
    "two ways to say how long": b"POST / HTTP/1.1\r\nHost: 127.0.0.1\r\nTransfer-Encoding: sideways\r\n\r\n",
    "too large": b"POST /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 99000000\r\n\r\n",
    "another host": b"GET / HTTP/1.1\r\nHost: elsewhere.example\r\n\r\n",
}


@TOGETHER
@pytest.mark.parametrize("what", BROKEN)
def test_what_the_server_itself_refuses_goes_out_with_the_policies_too(what: str, lasting: Any) -> None:
    port, _ = lasting
    with socket.create_connection(("127.0.0.1", port), timeout=30) as asked:
        asked.sendall(BROKEN[what])
        answer = http.client.HTTPResponse(asked)
        answer.begin()
        assert 400 <= answer.status < 600
        assert {k: answer.headers.get(k) for k in EVERYWHERE} == EVERYWHERE


@TOGETHER
@pytest.mark.skipif(os.geteuid() != 0, reason="only root has rights to give up")
def test_nobody_is_served_as_root(lasting: Any) -> None:
    _, process = lasting
    status = dict(line.split(":\t", 1) for line in Path(f"/proc/{process.pid}/status").read_text().splitlines() if ":\t" in line)
    assert "0" not in status["Uid"].split()
    assert "0" not in status["Gid"].split()
    # At most the right to read, where the program lies in a folder that is closed to others.
    assert int(status["CapEff"], 16) in (0, 1 << 2)


def test_a_folder_closed_to_others_is_seen_as_such(tmp_path: Path) -> None:
    inside = tmp_path / "inside"
    inside.mkdir()
    for place in (tmp_path, *tmp_path.parents):
        if place.owner() == "root" and place != Path("/tmp") and str(place).startswith("/tmp/"):
            place.chmod(0o755)
    open_there = reachable("nobody", inside)
    tmp_path.chmod(0o700)
    assert not reachable("nobody", inside)
    assert open_there


@pytest.mark.django_db(transaction=True)
def test_servers_share_a_socket_and_nobody_is_turned_away_when_one_goes() -> None:
    with listen("127.0.0.1", 0) as shared:
        port = shared.getsockname()[1]
        with serving(port, shared) as first, serving(port, shared) as second:
            first.terminate()
            assert [get(port, "/api/session", 90)[0] for _ in range(40)] == [200] * 40
            assert first.wait(20) == 0
            second.kill()
            second.wait(20)
            # Whoever comes while none is there is answered by the next that is started.
            with ThreadPoolExecutor() as threads:
                come = threads.submit(get, port, "/api/session", 90)
                with serving(port, shared):
                    assert come.result()[0] == 200


@pytest.mark.django_db(transaction=True)
def test_the_health_page_tells_when_the_database_is_away(client: Client, monkeypatch: pytest.MonkeyPatch) -> None:
    assert client.get("/api/health").json() == {"well": True, "database": True, "searches": True}
    monkeypatch.setattr("mellow_span.serving.health._database", lambda: False)
    answer = client.get("/api/health")
    assert (answer.status_code, answer.json()["database"]) == (503, False)


def headers_of(port: int, **headers: str) -> http.client.HTTPMessage:
    there = http.client.HTTPConnection("127.0.0.1", port, timeout=10)
    there.request("GET", "/api/session", headers=headers)
    answer = there.getresponse()
    answer.read()
    return answer.headers


@pytest.mark.django_db(transaction=True)
def test_behind_a_proxy_over_https_cookies_are_for_https_alone_and_the_proxy_says_who_asks(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("MELLOW_SPAN_HTTPS", "1")
    monkeypatch.setenv("MELLOW_SPAN_PROXY", "127.0.0.1")
    port, firm = free_port(), make_firm()
    with serving(port):
        secure = headers_of(port, **{"X-Forwarded-Proto": "https"})
        assert "max-age=31536000" in secure["Strict-Transport-Security"]
        assert all("Secure" in cookie for cookie in secure.get_all("Set-Cookie"))
        assert "Strict-Transport-Security" not in headers_of(port)
        # Five wrong ones from one address behind the proxy; another address is another.
        assert [wrong(port, firm, "198.51.100.7") for _ in range(5)][-1] == 429
        assert wrong(port, firm, "198.51.100.8") == 401


def test_without_a_proxy_nobody_says_where_they_ask_from(server: Any) -> None:
    port, _ = server
    firm = make_firm()
    assert [wrong(port, firm, f"198.51.100.{i}") for i in range(5)][-1] == 429


def wrong(port: int, firm: Firm, address: str) -> int:
    """Sign in with a wrong password, saying that one asks from an address."""
    there = headers_of(port, **{"X-Forwarded-Proto": "https"})
    cookie = there["Set-Cookie"].partition(";")[0]
    token = json.loads(get_with(port, cookie))["csrf"]
    headers = {
        "Cookie": cookie, "X-CSRFToken": token, "Content-Type": "application/json", "X-Forwarded-For": address, "X-Forwarded-Proto": "https",
        "Referer": f"https://127.0.0.1:{port}/",
    }  # fmt: skip
    return ask(port, "POST", "/api/session", {"username": firm.username, "password": "wrong"}, headers)[0]


def get_with(port: int, cookie: str) -> bytes:
    return get(port, "/api/session", Cookie=cookie)[1]
