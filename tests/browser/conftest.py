"""The built app behind its real server, and a headless browser before it."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import threading
import time
import urllib.request
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

import pytest
from django.conf import settings
from django.test import Client
from playwright.sync_api import Browser, Page, expect

from mellow_span.standins import instrument, merchant
from tests.conftest import PASSWORD, Firm, make_firm

# The browser without its own window and menus: it draws the same pages with a good deal less work.
CHROMIUM = "/usr/bin/chromium-headless-shell"
FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking"]
FLAGS += ["--disable-component-update", "--disable-sync"]
# What is waited for comes sooner on a quiet machine; how soon says nothing about the page.
PATIENCE = 90_000
expect.set_options(timeout=PATIENCE)
DESK, PHONE = {"width": 1280, "height": 800}, {"width": 390, "height": 844}
# What lays the page up for a time without a server has a test of its own; elsewhere it would only take time.
PLAIN: dict[str, Any] = {"viewport": DESK, "reduced_motion": "reduce", "service_workers": "block"}


class Server:
    """The web server on the test database; it can be stopped and started again on the same address."""

    def __init__(self) -> None:
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.url = f"http://127.0.0.1:{self.port}"
        self.process: subprocess.Popen[bytes] | None = None
        self.outside: dict[str, str] = {}

    def start(self) -> None:
        if not self.outside:
            shop, meter = merchant.server(0), instrument.server(0)
            for standin in (shop, meter):
                threading.Thread(target=standin.serve_forever, daemon=True).start()
            self.outside = {
                "MELLOW_SPAN_MERCHANT": f"http://127.0.0.1:{shop.server_port}",
                "MELLOW_SPAN_INSTRUMENT": f"127.0.0.1:{meter.server_address[1]}",
            }
        env = {
            **os.environ,
            **self.outside,
            "MELLOW_SPAN_DB_NAME": settings.DATABASES["default"]["NAME"],
            "DJANGO_SETTINGS_MODULE": "tests.settings",
        }
        self.process = subprocess.Popen([sys.executable, "-m", "mellow_span.serving.server", "--port", str(self.port)], env=env)
        for _ in range(900):
            try:
                urllib.request.urlopen(self.url + "/api/session", timeout=1)
                return
            except OSError:
                time.sleep(0.1)
        raise AssertionError("the server did not start")

    def stop(self) -> None:
        if self.process:
            self.process.terminate()
            self.process.wait(20)
            self.process = None


@pytest.fixture(scope="session")
def browser_type_launch_args(browser_type_launch_args: dict[str, Any]) -> dict[str, Any]:
    return {**browser_type_launch_args, "executable_path": CHROMIUM, "args": FLAGS}


@pytest.fixture(scope="session")
def browser_context_args(browser_context_args: dict[str, Any]) -> dict[str, Any]:
    return {**browser_context_args, **PLAIN}


def new_page(browser: Browser, **more: Any) -> Page:
    """A browser of somebody else's, or another device; `house` closes it."""
    page = browser.new_context(**{**PLAIN, **more}).new_page()
    page.set_default_timeout(PATIENCE)
    page.on("pageerror", lambda error: pytest.fail(f"script error: {error}"))
    return page


@dataclass
class Warm:
    """A page that was open before: the app's scripts are compiled in it, which is half of what a visit costs."""

    page: Page
    errors: list[str] = field(default_factory=list)

    def empty(self, url: str) -> None:
        """Leave nothing of one test to the next: where it is, what is kept of it, how it looks."""
        page = self.page
        page.unroute_all(behavior="ignoreErrors")
        page.goto("about:blank")
        page.context.clear_cookies()
        page.context.new_cdp_session(page).send("Storage.clearDataForOrigin", {"origin": url, "storageTypes": "all"})
        page.set_viewport_size(DESK)  # type: ignore[arg-type]
        page.emulate_media(color_scheme="light", reduced_motion="reduce", media="screen")
        self.errors.clear()


@pytest.fixture(scope="session")
def warm(browser: Browser) -> Iterator[Warm]:
    kept = Warm(browser.new_context(**PLAIN).new_page())
    kept.page.set_default_timeout(PATIENCE)
    kept.page.on("pageerror", lambda error: kept.errors.append(str(error)))
    yield kept
    kept.page.context.close()


@pytest.fixture
def page(warm: Warm, server: Server) -> Iterator[Page]:
    """The page of this worker, empty; any error of the app's own scripts fails the test."""
    warm.empty(server.url)
    yield warm.page
    assert warm.errors == []
    # What a test left open asks the server on and on.
    warm.page.goto("about:blank")


@pytest.fixture(scope="session")
def server(django_db_setup: None) -> Iterator[Server]:
    found = Server()
    found.start()
    yield found
    found.stop()


@pytest.fixture
def searcher(house: Firm) -> Iterator[None]:
    """The process that works searches out which are too long for a request."""
    env = {**os.environ, "MELLOW_SPAN_DB_NAME": settings.DATABASES["default"]["NAME"], "DJANGO_SETTINGS_MODULE": "tests.settings"}
    process = subprocess.Popen([sys.executable, "-m", "mellow_span.serving.searcher"], env=env)
    yield
    process.terminate()
    process.wait(20)


@pytest.fixture
def house(django_db_setup: None, django_db_blocker: Any, server: Server, browser: Browser, warm: Warm) -> Iterator[Firm]:
    """A firm of its own for each test, stored as the server sees it. It stays: no test asks for what is another firm's."""
    # A test that failed while the server was away leaves the others theirs.
    if server.process is None:
        server.start()
    with django_db_blocker.unblock():
        yield make_firm()
    # Pages of other people and devices, which a test opened itself, ask again every few seconds until they are closed.
    for context in browser.contexts:
        if context is not warm.page.context:
            context.close()


@pytest.fixture
def at_jobs(house: Firm, server: Server, page: Page) -> Page:
    """Signed in, at the list of jobs."""
    sign_in(page, server, house)
    return page


@pytest.fixture
def at_shower(at_jobs: Page) -> Page:
    """The demo house open at its shower."""
    open_circuit(at_jobs, "Shower")
    return at_jobs


def sign_in(page: Page, server: Server, firm: Firm) -> None:
    """Come in with a session that is there already; how one signs in has tests of its own (`sign_in_by_hand`)."""
    client = Client()
    client.force_login(firm.member.user)
    page.context.add_cookies([{"name": "sessionid", "value": client.cookies["sessionid"].value, "url": server.url}])
    page.goto(server.url)
    page.get_by_role("heading", name="Jobs").wait_for()


def sign_in_by_hand(page: Page, server: Server, firm: Firm) -> None:
    page.goto(server.url)
    page.get_by_label("Name").fill(firm.username)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="sign in").click()
    page.get_by_role("heading", name="Jobs").wait_for()


def open_circuit(page: Page, name: str) -> None:
    page.get_by_role("link", name="Orchard Row", exact=True).click()
    page.locator("[data-circuit]").filter(has_text=name).click()
    page.get_by_role("heading", name="Checks").wait_for()
