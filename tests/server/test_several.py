"""Several web servers and several processes for searches over one database, as on several hosts: each may be killed, and nothing is lost."""

from __future__ import annotations

import contextlib
import json
import os
import signal
import subprocess
import sys
import urllib.error
import urllib.request
import uuid
from collections.abc import Iterator
from typing import Any

import pytest
from django.db import connection
from django.test import Client

from mellow_span.jobs.models import Edit, Search
from tests.conftest import Firm, make_firm
from tests.server.conftest import ROOT, free_port, get, serving, until


@contextlib.contextmanager
def searching() -> Iterator[subprocess.Popen[bytes]]:
    """A process for searches on the test database."""
    env = {**os.environ, "MELLOW_SPAN_DB_NAME": connection.settings_dict["NAME"], "DJANGO_SETTINGS_MODULE": "tests.settings"}
    process = subprocess.Popen([sys.executable, "-m", "mellow_span.serving.searcher"], cwd=ROOT, env=env)
    try:
        yield process
    finally:
        process.kill()
        process.wait(20)


class Page:
    """A page of a person who is signed in, who asks whichever server there is."""

    def __init__(self, firm: Firm, port: int) -> None:
        client = Client()
        client.force_login(firm.member.user)
        self.cookies = f"sessionid={client.cookies['sessionid'].value}"
        who = json.loads(self.get(port, "/api/session"))
        assert who["signed_in"]
        self.token = who["csrf"]
        self.cookies += f"; csrftoken={self.token}"
        self.about = f"/api/jobs/{firm.job.pk}"

    def get(self, port: int, address: str) -> bytes:
        status, body = get(port, address, 60, Cookie=self.cookies)
        assert status in (200, 202), (status, body[:200])
        return body

    def state(self, port: int) -> Any:
        return json.loads(self.get(port, self.about))

    def follow(self, port: int, address: str) -> bool:
        """Say that somebody waits for what is worked out behind; whether it is there."""
        return bool(self.send(port, "POST", f"{self.about}/searches", {"address": address})["done"])

    def rename(self, port: int, version: int, name: str) -> Any:
        change = {"op": "set", "kind": "job", "id": str(uuid.UUID(int=0)), "fields": {"name": name}}
        return self.send(port, "PATCH", self.about, {"edit_id": str(uuid.uuid4()), "version": version, "changes": [change]})

    def send(self, port: int, method: str, address: str, body: Any) -> Any:
        headers = {"Cookie": self.cookies, "X-CSRFToken": self.token, "Content-Type": "application/json"}
        request = urllib.request.Request(f"http://127.0.0.1:{port}{address}", json.dumps(body).encode(), headers, method=method)
        with urllib.request.urlopen(request, timeout=60) as answer:
            return json.loads(answer.read())


@pytest.mark.django_db(transaction=True)
def test_what_one_server_takes_another_has_and_any_of_them_may_be_killed() -> None:
    firm = make_firm()
    ports = [free_port(), free_port()]
    with serving(ports[1]) as _, contextlib.ExitStack() as later:
        with serving(ports[0]) as first:
            page = Page(firm, ports[0])
            version = page.state(ports[0])["version"]
            # Edits by turns: each server sees at once what the other one stored, and figures it alike.
            for turn in range(6):
                here, there = ports[turn % 2], ports[(turn + 1) % 2]
                version = page.rename(here, version, f"Turn {turn}")["version"]
                mine, theirs = page.state(here), page.state(there)
                assert (theirs["version"], theirs["installation"]["name"]) == (version, f"Turn {turn}")
                assert {**mine, "landed": None} == {**theirs, "landed": None}
            # A file that one server put into the queue is had from the other, though who works on it is killed at it.
            paper = f"{page.about}/papers/schedule/pdf"
            with searching() as other:
                until(lambda: page.follow(ports[0], paper) or Search.objects.filter(state=Search.State.RUNNING).exists())
                other.kill()
            second = later.enter_context(searching())
            until(lambda: page.follow(ports[1], paper))
            assert page.get(ports[1], paper).startswith(b"%PDF")
            first.send_signal(signal.SIGKILL)
            first.wait(20)
        # The one that is left goes on: nobody is signed out, and nothing that was acknowledged is lost.
        assert page.state(ports[1])["version"] == version
        version = page.rename(ports[1], version, "After the first went")["version"]
        assert second.poll() is None
        with serving(ports[0]):
            assert page.state(ports[0])["installation"]["name"] == "After the first went"
            assert page.rename(ports[0], version, "And back")["version"] == version + 1
            assert page.state(ports[1])["installation"]["name"] == "And back"
    names = [e.changes[0]["after"]["name"] for e in Edit.objects.filter(job=firm.job).order_by("version")]
    assert names == [*(f"Turn {turn}" for turn in range(6)), "After the first went", "And back"]
