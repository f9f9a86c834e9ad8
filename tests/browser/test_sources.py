"""More than one source, in the browser: a solar circuit said in one line, what it is asked, what it adds, and where it is locked off."""

from __future__ import annotations

import json
from pathlib import Path

from playwright.sync_api import Page, expect

from mellow_span import demo
from mellow_span.core.design.check import check
from mellow_span.core.findings.results import CircuitResult
from mellow_span.core.model.parts import Circuit
from mellow_span.exchange.document import read
from mellow_span.jobs.models import Job
from mellow_span.jobs.reads import installation
from mellow_span.jobs.writes import take_in
from tests.browser.hands import becomes, enter, saved, say
from tests.browser.test_access import accessible
from tests.conftest import Firm

LINE = "solar inverter 3.68kW b20 rcbo 30mA type A 6kA 4 flat: utility 5 masonry"


def made(house: Firm) -> Circuit:
    return next(c for c in installation(Job.objects.get(pk=house.job.pk)).circuits if c.name == "Solar inverter")


def found(house: Firm) -> CircuitResult:
    circuit = made(house)
    return next(c for c in check(installation(Job.objects.get(pk=house.job.pk))).circuits if c.id == circuit.id)


def pick(page: Page, word: str, answer: str) -> None:
    # Enter goes on to the next word that is missing, and opens it.
    page.keyboard.press("Escape")
    page.locator(f"[data-sentence] [data-word='{word}']").click()
    page.keyboard.type(answer)
    page.keyboard.press("Enter")
    saved(page)


def test_a_solar_circuit_is_said_asked_and_listed(at_jobs: Page, house: Firm) -> None:
    page = at_jobs
    say(page, "Orchard Row", LINE)
    becomes(lambda: "Solar inverter" in {c.name for c in installation(Job.objects.get(pk=house.job.pk)).circuits}, True)
    assert made(house).loads[0].kind == "inverter"
    # Nobody said how it joins: not known, and asked for in its sentence.
    expect(page.get_by_text("Not known yet")).to_be_visible()
    expect(page.get_by_text("in a way not entered")).to_be_visible()
    accessible(page)
    pick(page, "how it is connected", "parallel")
    pick(page, "mains failure", "disconnects itself")
    pick(page, "battery", "no battery")
    pick(page, "RCD type required", "type A")
    pick(page, "direction", "one direction")
    expect(page.get_by_text("Fails", exact=True).first).to_be_visible()
    pick(page, "direction", "both directions")
    load = made(house).loads[0]
    assert (load.joins, load.loss_of_mains, load.battery, load.maker_rcd, made(house).device.both_ways) == ("way", True, False, "A", True)
    source = next(c for c in found(house).checks if c.id == "source")
    assert source.verdict == "meets", source.text
    # What its maker says of faults stands in the figures of every board.
    page.keyboard.press("Escape")
    page.locator("[data-word='fault current']").click()
    enter(page, "40")
    saved(page)
    becomes(lambda: made(house).loads[0].fault_amps, 40.0)
    before = check(installation(Job.objects.get(pk=house.job.pk)))
    plain = next(b for b in before.boards if b.id == made(house).board)
    assert plain.ipf_ln == (installation(Job.objects.get(pk=house.job.pk)).supply.ipf or 0) + 40
    # Kept alive without the network: more is asked, and the circuits of that board answer for it.
    page.keyboard.press("Escape")
    page.locator("[data-word='board supplied']").click()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    saved(page)
    becomes(lambda: made(house).loads[0].alone is not None, True)
    expect(page.locator("[data-word='change-over']")).to_have_text("a switch not entered")
    pick(page, "change-over", "opens every")
    pick(page, "earth of its neutral", "electrode")
    page.keyboard.press("Escape")
    page.locator("[data-word='RA']").click()
    enter(page, "60")
    saved(page)
    becomes(
        lambda: (made(house).loads[0].parted, made(house).loads[0].alone_earth, made(house).loads[0].alone_ra), (True, "electrode", 60.0)
    )
    page.get_by_role("link", name="Survey").first.click()
    listed = page.get_by_role("region", name="Other sources")
    expect(listed).to_contain_text("adds up to 40 A to every fault")
    expect(listed).to_contain_text("with the mains off")
    listed.get_by_role("link").first.click()
    expect(page.get_by_role("heading", name="Solar inverter", exact=True)).to_be_attached()


def test_isolation_and_labels_name_the_source(at_jobs: Page, house: Firm) -> None:
    page = at_jobs
    croft = take_in(house.member.firm, read(json.loads((Path(demo.__file__).parent / "larch_croft.json").read_text("utf-8"))))
    board = next(b for b in installation(croft).boards if b.name == "Backup")
    page.goto(page.url.rstrip("/").removesuffix("/jobs") + f"/jobs/{croft.pk}/isolation?kind=board&id={board.id}")
    page.get_by_label("Stage", exact=True).select_option(label="Panels on the barn, in the autumn")
    expect(page.get_by_text("hybrid inverter").first).to_be_visible()
    expect(page.get_by_text("direct-current side").first).to_be_visible()
