"""What a device does by itself: how soon it can, what that costs, and how soon an edit is drawn whatever the network."""

from __future__ import annotations

import time
import urllib.request
from pathlib import Path
from typing import Any

from bench.__main__ import line
from bench.web import PASSWORD, firm_with, p95, repaint_ms, server
from mellow_span.exchange.program import fingerprint

EDITS = 23
# How far the server is [ms]; None: out of reach.
AWAY = (("with the server beside it", 0), ("300 ms from the server", 300), ("3 s from the server", 3000), ("with no server", None))


def on_device() -> None:
    """The program in the page, headless Chromium, a job of 40 circuits."""
    from playwright.sync_api import sync_playwright

    from tests.browser.conftest import CHROMIUM, FLAGS

    print("program on the device, 40-circuit job, headless Chromium")
    with firm_with(40, 1) as (user, jobs), server() as (url, _), sync_playwright() as p:
        page = p.chromium.launch(executable_path=CHROMIUM, args=FLAGS).new_context(viewport={"width": 1280, "height": 800}).new_page()
        page.goto(url)
        page.get_by_label("Name").fill(user.username)
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="sign in").click()
        page.get_by_role("heading", name="Jobs").wait_for()
        page.goto(f"{url}/jobs/{jobs[0].pk}")
        page.locator("[data-works=asleep]").wait_for(state="attached")
        before = memory_mb()
        line("ready after a cold start", ready_ms(page), "ms", 5000)
        line("downloaded for it, once, compressed", downloaded(url), "MB", 5)
        page.reload()
        line("ready after a warm start", ready_ms(page), "ms", 2500)
        page.locator("[data-circuit]").first.click()
        page.locator("[data-check=volt_drop]").wait_for()
        for told, latency in (
            ("with the server beside it", 0),
            ("300 ms from the server", 300),
            ("3 s from the server", 3000),
            ("with no server", None),
        ):
            network(page, latency)
            times = [repaint_ms(page, i) for i in range(EDITS)]
            line(f"edit to repainted checks, {told}, p95", p95(times[3:]), "ms", 50)
        line("memory of the browser for it", memory_mb() - before, "MB", 220)


def downloaded(url: str) -> float:
    """What a browser fetches for it, as it goes over the wire [MB]."""
    runtime = next(f for f in (Path("web") / "dist" / "assets").glob("runtime-*") if f.is_dir())
    parts = [f"/assets/{runtime.name}/{f.name}" for f in runtime.iterdir() if f.suffix not in (".br", ".gz")]
    found = 0
    for address in (*parts, f"/engine/{fingerprint()}.zip"):
        with urllib.request.urlopen(urllib.request.Request(url + address, headers={"Accept-Encoding": "br"})) as answer:
            found += len(answer.read())
    return found / 1e6


def ready_ms(page: Any) -> float:
    """Wait until it is there; return how long it took from when it began to be loaded."""
    page.locator("[data-works=loading]").wait_for(state="attached", timeout=60_000)
    began = time.perf_counter()
    page.locator("[data-works=ready]").wait_for(state="attached", timeout=120_000)
    return (time.perf_counter() - began) * 1000


def network(page: Any, latency: int | None) -> None:
    """Put the server so far away [ms]; None: out of reach."""
    page.context.set_offline(latency is None)
    if latency is not None:
        away = {"offline": False, "latency": latency, "downloadThroughput": -1, "uploadThroughput": -1}
        page.context.new_cdp_session(page).send("Network.emulateNetworkConditions", away)


def memory_mb() -> float:
    """Resident memory of every browser process of this run [MB]."""
    found = 0.0
    for status in Path("/proc").glob("[0-9]*/status"):
        try:
            text = status.read_text()
        except OSError:
            continue
        if "chromium" in text.partition("\n")[0] or "headless" in text.partition("\n")[0]:
            found += next((int(row.split()[1]) for row in text.splitlines() if row.startswith("VmRSS")), 0) / 1024
    return found
