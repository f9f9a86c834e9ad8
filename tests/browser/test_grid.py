"""A board as a grid of its ways: typed into, filled, pasted, dragged, balanced."""

from __future__ import annotations

import json
import re
from pathlib import Path

from playwright.sync_api import Page, expect

from mellow_span import demo
from mellow_span.exchange.document import read
from mellow_span.jobs.models import Circuit, Job
from mellow_span.jobs.reads import installation
from mellow_span.jobs.writes import take_in
from tests.browser.hands import saved
from tests.conftest import Firm


def paste(page: Page, text: str) -> None:
    """Paste as the browser would: the event with the text, at what has the focus."""
    page.evaluate(
        """text => {
            const data = new DataTransfer();
            data.setData("text/plain", text);
            document.activeElement.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
        }""",
        text,
    )


def grid(page: Page) -> None:
    page.locator("nav").get_by_role("link", name=re.compile("^House board")).click()
    page.get_by_role("grid").wait_for()


def test_the_grid_is_typed_into_filled_down_and_several_are_changed_at_once(at_shower: Page, house: Firm) -> None:
    page, keys = at_shower, at_shower.keyboard
    grid(page)
    page.locator("[data-cell='3-1']").click()
    keys.type("32")
    keys.press("Enter")
    expect(page.locator("[data-cell='3-1']")).to_contain_text("B32")
    saved(page)
    shower = Circuit.objects.get(job=house.job, name="Shower")
    assert (shower.device["rating"], shower.device["kind"]) == (32, "rcbo")
    expect(page.locator("[data-cell='4-1']")).to_be_focused()
    page.locator("[data-cell='4-3']").click()
    keys.press("Shift+ArrowDown")
    keys.press("F2")
    keys.press("Control+a")
    keys.type("2.5")
    keys.press("Enter")
    expect(page.get_by_text("set in 2 circuits")).to_be_visible()
    saved(page)
    sizes = {c.name: c.run.cable.get("csa") for c in Circuit.objects.filter(job=house.job)}
    assert (sizes["Lights, ground floor"], sizes["Lights, loft room"]) == (2.5, 2.5)
    # A blank way is typed into and becomes a circuit: one, however fast its cells are typed, and no key of them is lost.
    before = Circuit.objects.filter(job=house.job).count()
    page.locator("[data-row=blank] [data-column=name]").first.click()
    for typed, leaves in (("Bell", "Tab"), ("b6 mcb 6kA", "Tab"), ("8 W bell", "Tab"), ("1.5 flat", "Tab"), ("7", "Enter")):
        keys.type(typed)
        keys.press(leaves)
    bell = page.locator("[data-row]").filter(has_text="Bell").locator("[data-column=length]")
    expect(bell).to_have_text("7 m")
    expect(page.get_by_role("grid").locator("[aria-busy=true]")).to_have_count(0)
    saved(page)
    made = Circuit.objects.get(job=house.job, name="Bell")
    assert (made.device["rating"], made.run.cable["csa"], made.run.spans.get().length, made.loads.get().amount) == (6, 1.5, 7, 8)
    assert Circuit.objects.filter(job=house.job).count() == before + 1
    # A circuit once more.
    page.locator("[data-cell='2-0']").click()
    keys.press("Control+Shift+d")
    saved(page)
    assert Circuit.objects.get(job=house.job, name="Cooker (again)").loads.get().amount == 7200
    # One pulled in for later is spare: nothing is asked of it.
    page.get_by_role("button", name="not connected", exact=True).click()
    expect(page.locator("[data-cell='2-0']")).to_contain_text("not connected")
    saved(page)
    assert Circuit.objects.get(job=house.job, name="Cooker").spare


def test_a_pasted_table_with_two_bad_rows_is_taken_in_one_step_and_taken_back_in_one(at_shower: Page, house: Firm) -> None:
    page, keys = at_shower, at_shower.keyboard
    grid(page)
    before = Circuit.objects.filter(job=house.job).count()
    page.locator("[data-row=blank] [data-column=name]").first.click()
    paste(
        page,
        "Circuit\tBreaker\tLoad\tSize\tLength\tPlace\nPond\tb16 rcbo 30mA\t400 W pump\t2.5 flat\t9\tclipped\n"
        "Gate\tb16 maybe\t200 W motor\t1.5 flat\t7\tclipped\nPorch\tb6 rcbo 30mA\t40 W lights\t1.5 flat\tfar\tclipped\n",
    )
    expect(page.get_by_text("3 rows added; Ctrl+Z undoes it all")).to_be_visible()
    bad = page.locator("[data-bad-cells]")
    expect(bad).to_contain_text("Gate, device: “b16 maybe”")
    expect(bad).to_contain_text("Porch, length: “far”")
    saved(page)
    assert Circuit.objects.filter(job=house.job).count() == before + 3
    gate = Circuit.objects.get(job=house.job, name="Gate")
    assert gate.device.get("rating") is None
    assert gate.run.cable["csa"] == 1.5
    # The bad cell keeps what was typed: it is opened, mended, and taken.
    cell = page.locator(f"[data-row='{gate.pk}'] [data-column=device]")
    cell.click()
    keys.press("F2")
    expect(page.get_by_label(re.compile("device, way"))).to_have_value("b16 maybe")
    for _ in range(6):
        keys.press("Backspace")
    keys.press("Enter")
    expect(cell).to_contain_text("B16")
    saved(page)
    gate.refresh_from_db()
    assert gate.device["rating"] == 16
    page.evaluate("document.activeElement.blur()")
    keys.press("Control+z")
    keys.press("Control+z")
    expect(page.locator("nav").get_by_text("Gate")).to_have_count(0)
    saved(page)
    assert Circuit.objects.filter(job=house.job).count() == before


def test_a_way_is_dragged_among_the_ways_and_to_another_board(at_shower: Page, house: Firm) -> None:
    page = at_shower
    grid(page)
    names = [c.name for c in Circuit.objects.filter(job=house.job, board__name="House board").order_by("position")]
    page.locator("[data-row]").nth(3).get_by_role("rowheader").drag_to(page.locator("[data-row]").first)
    expect(page.locator("[data-cell='0-0']")).to_have_text(names[3])
    page.locator("[data-row]").first.get_by_role("rowheader").drag_to(
        page.locator("nav").get_by_role("link", name=re.compile("^Studio board"))
    )
    expect(page.locator("[data-cell='0-0']")).to_have_text(names[0])
    saved(page)
    assert Circuit.objects.get(job=house.job, name=names[3]).board.name == "Studio board"


def test_the_phases_are_balanced_by_one_command(at_jobs: Page, house: Firm) -> None:
    store = take_in(house.member.firm, read(json.loads((Path(demo.__file__).parent / "tern_quay.json").read_text("utf-8"))))
    page = at_jobs
    page.reload()
    page.get_by_role("link", name="Tern Quay boat store", exact=True).click()
    page.locator("nav").get_by_role("link", name=re.compile("^Store board")).click()
    page.get_by_role("button", name="balance the phases").click()
    found = page.locator("[data-balance]")
    expect(found.locator("tbody tr, tr").filter(has_text=re.compile("before"))).to_have_count(1)
    version = store.version
    found.get_by_role("button", name="use it").click()
    expect(found).to_have_count(0)
    saved(page)
    store.refresh_from_db()
    assert store.version == version + 1
    page.get_by_role("button", name="balance the phases").click()
    expect(found).to_contain_text("No better balance was found")


def test_what_is_copied_from_a_board_and_pasted_back_changes_nothing(at_shower: Page, house: Firm) -> None:
    """Each cell says what the reader takes back as the same: chosen with Shift and the mouse, copied, pasted over itself."""
    page = at_shower
    grid(page)
    before = installation(house.job)
    version = Job.objects.get(pk=house.job.pk).version
    filled = page.locator("[data-row]:not([data-row=blank])").count()
    page.locator("[data-cell='0-0']").click()
    page.locator(f"[data-cell='{filled - 1}-0']").click(modifiers=["Shift"])
    text = page.evaluate(
        """() => {
            const data = new DataTransfer();
            document.activeElement.dispatchEvent(new ClipboardEvent("copy", { clipboardData: data, bubbles: true, cancelable: true }));
            return data.getData("text/plain");
        }"""
    )
    assert len(text.splitlines()) == filled
    page.locator("[data-cell='0-0']").click()
    paste(page, text)
    expect(page.get_by_text(f"{filled} rows added")).to_be_visible()
    expect(page.locator("[data-bad-cells]")).to_have_count(0)
    saved(page)
    now = Job.objects.get(pk=house.job.pk)
    assert installation(now) == before
    assert now.version == version
