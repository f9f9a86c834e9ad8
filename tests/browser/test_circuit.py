"""The main job as an electrician does it, through the built page and a real server."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from mellow_span.jobs.models import Circuit, Job, Span
from mellow_span.jobs.reads import installation
from tests.browser.conftest import Server, open_circuit
from tests.browser.hands import enter, of_job, saved
from tests.conftest import Firm


def word(page: Page, label: str) -> str:
    return page.locator(f'[data-word="{label}"]').inner_text()


def check_row(page: Page, check: str) -> object:
    return page.locator(f"[data-check={check}]")


def test_a_wrong_password_is_told_and_keeps_the_name(house: Firm, server: Server, page: Page) -> None:
    page.goto(server.url)
    page.get_by_label("Name").fill(house.username)
    page.get_by_label("Password").fill("not this one")
    page.get_by_role("button", name="sign in").click()
    expect(page.get_by_role("alert")).to_have_text("Wrong name or password.")
    expect(page.get_by_label("Name")).to_have_value(house.username)


def test_a_circuit_is_entered_by_keyboard_alone_in_a_fresh_job(at_jobs: Page, house: Firm) -> None:
    page, keys = at_jobs, at_jobs.keyboard
    page.get_by_label("Name of the new job").focus()
    keys.type("Fresh house")
    keys.press("Enter")
    expect(page).to_have_title("Fresh house · Mellow Span")
    expect(page.locator('[data-word="earthing"]')).to_be_focused()
    # Each Enter takes what is typed and opens the next word where nothing stands yet.
    enter(page, "TN-C-S", "0.31 ohm", "0.74", "1361", "80", "25", "2", "16", "not present", "fitted", "12")
    expect(page.locator('[data-word="Ipf, line to neutral at the origin"]')).to_have_text("740 A")
    expect(page.locator('[data-word="ways"]')).to_have_text("12 ways")
    page.evaluate("document.activeElement.blur()")
    page.locator("body").press("n")
    page.get_by_label("Circuits of Board of the house").wait_for()
    keys.press("Enter")
    page.get_by_label("Name on the board chart").wait_for()
    enter(page, "Oven", "3.6 kW oven", "b20 rcbo 30mA 6kA", "2.5 flat", "1250 cm", "clipped to masonry")
    expect(page.locator('[data-word="surroundings"]')).to_contain_text("clipped")
    saved(page)
    expect(page.locator("[data-verdict].border-y")).to_have_attribute("data-verdict", "meets")
    assert [word(page, w) for w in ("name", "load", "device", "cable", "length")] == [
        "Oven", "3.6 kW oven", "20 A type B RCBO", "2.5 mm² flat twin & earth", "12.5 m",
    ]  # fmt: skip
    made = installation(Job.objects.get(firm=house.member.firm, name="Fresh house")).circuits[0]
    assert (made.loads[0].kind, made.loads[0].amount, made.device.idn, made.device.icn) == ("cooking", 3600, 0.03, 6000)
    assert made.run.spans[0].length == 12.5


def test_a_changed_span_changes_the_verdict_and_the_neighbours_in_the_tree(at_shower: Page) -> None:
    page = at_shower
    expect(page.get_by_text("Fails by 4 A")).to_be_visible()
    page.locator('[data-word="surroundings"]').click()
    page.keyboard.type("timber")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Fails by 4 A")).to_have_count(0)
    expect(check_row(page, "capacity")).to_contain_text("Iz 51.2 A carries In 40 A")  # type: ignore[arg-type]
    expect(page.get_by_role("link", name=re.compile("^Shower marginal"))).to_be_visible()


def test_the_number_that_worries_opens_its_table_with_the_cell_lit(at_shower: Page) -> None:
    page = at_shower
    page.locator("[data-check=capacity]").click()
    page.get_by_role("button", name=re.compile("^It 36 A: show it in table 4D5, row 10")).click()
    lit = page.locator("td[data-lit]")
    expect(lit).to_have_text("36")
    expect(page.get_by_role("region", name="Table 4D5", exact=True)).to_be_visible()
    page.locator("[data-check=volt_drop]").click()
    page.get_by_role("button", name=re.compile("^mV 4.4")).click()
    expect(page.locator("td[data-lit]")).to_have_text("4.4")


def test_size_it_says_what_decided_and_takes_the_size(at_shower: Page) -> None:
    page = at_shower
    page.locator("body").press("z")
    sheet = page.get_by_role("dialog")
    expect(sheet).to_contain_text("16 mm² is the smallest that meets")
    expect(sheet).to_contain_text("10 mm² fails on cable capacity: bathroom loft, under quilt: Iz 36 A is under In 40 A")
    page.keyboard.press("Enter")
    expect(page.locator('[data-word="cable"]')).to_have_text("16 mm² flat twin & earth")
    expect(page.get_by_text("Marginal")).to_be_visible()


def test_spans_are_added_split_moved_and_removed(at_shower: Page, house: Firm) -> None:
    page = at_shower
    page.get_by_role("button", name="Span 3: landing joists").click()
    page.locator("body").press("s")
    expect(page.get_by_role("button", name=re.compile("^Span "))).to_have_count(5)
    expect(page.locator('[data-word="span length"]')).to_have_text("3.7 m")
    page.locator("body").press(".")
    page.locator("body").press("a")
    expect(page.get_by_role("button", name=re.compile("^Span "))).to_have_count(6)
    page.get_by_role("button", name="remove", exact=True).click()
    saved(page)
    names = [s.name for s in Span.objects.filter(run__circuit__name="Shower", job=house.job)]
    assert names == ["riser", "bathroom loft, under quilt", "landing joists", "to the switch", "landing joists"]


def test_an_edge_is_dragged_and_the_length_follows(at_shower: Page, house: Firm) -> None:
    page = at_shower
    edge = page.locator("[data-edge]").last
    box = edge.bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 20, y, steps=4)
    page.mouse.move(x + 60, y, steps=6)
    page.mouse.up()
    saved(page)
    length = Span.objects.get(run__circuit__name="Shower", job=house.job, name="to the switch").length
    assert length is not None
    assert 3.0 < length < 4.5
    expect(page.locator('[data-word="length"]')).to_have_text(f"{13.1 + length:g} m")


def test_nonsense_is_told_at_the_field_and_nothing_typed_is_lost(at_shower: Page) -> None:
    page = at_shower
    page.locator('[data-word="span length"]').click()
    field = page.get_by_label("Length of the span")
    for typed, told in (("5000", "0.1 to 1 000 m"), ("long", "A number is needed"), ("3 A", "A is not a unit for this field")):
        field.fill(typed)
        field.press("Enter")
        expect(page.get_by_role("alert")).to_contain_text(told)
        expect(field).to_have_value(typed)
    page.keyboard.press("Escape")
    expect(page.locator('[data-word="span length"]')).to_have_text("2.4 m")
    page.locator('[data-word="load"]').click()
    page.get_by_label("Load 1").fill("9200")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("needs a unit or a word")


def test_looking_at_a_value_does_not_round_it(at_shower: Page, house: Firm) -> None:
    """Opening a field and leaving it again, by Enter or by Tab, keeps every digit that was entered."""
    page = at_shower
    page.locator('[data-word="length"]').click()
    page.get_by_label("1. riser").fill("3.2575")
    page.keyboard.press("Tab")
    page.keyboard.press("Escape")
    saved(page)
    edits = house.job.edits.count()
    page.get_by_role("button", name="Span 1: riser").click()
    page.locator('[data-word="span length"]').click()
    expect(page.get_by_label("Length of the span")).to_have_value("3.2575")
    page.keyboard.press("Enter")
    page.locator('[data-word="length"]').click()
    for _ in range(5):
        page.keyboard.press("Tab")
    page.keyboard.press("Escape")
    saved(page)
    assert Span.objects.get(job=house.job, name="riser", run__circuit__name="Shower").length == 3.2575
    assert house.job.edits.count() == edits


def test_everything_is_still_there_after_a_restart(at_shower: Page, server: Server) -> None:
    page = at_shower
    page.locator('[data-word="name"]').click()
    page.keyboard.type("Shower, new")
    page.keyboard.press("Enter")
    saved(page)
    server.stop()
    server.start()
    page.reload()
    expect(page.locator('[data-word="name"]')).to_have_text("Shower, new")
    expect(page.get_by_text("Fails by 4 A")).to_be_visible()


def test_what_is_typed_while_the_server_is_away_is_kept_and_sent(at_shower: Page, server: Server, house: Firm) -> None:
    page = at_shower
    server.stop()
    page.locator('[data-word="span length"]').click()
    page.keyboard.type("1.7")
    page.keyboard.press("Enter")
    expect(page.get_by_text("server not reached: 1 change kept in this browser")).to_be_visible()
    expect(page.locator('[data-word="span length"]')).to_have_text("1.7 m")
    server.start()
    expect(page.locator("[data-phase]")).to_have_attribute("data-phase", "saved")
    assert Span.objects.get(job=house.job, name="bathroom loft, under quilt").length == 1.7


def test_circuits_are_moved_and_removed_by_keyboard_in_the_tree(at_jobs: Page, house: Firm) -> None:
    page = at_jobs
    open_circuit(page, "Cooker")
    row = page.locator("[data-circuit]").filter(has_text="Cooker")
    row.focus()
    page.keyboard.press("Alt+ArrowUp")
    saved(page)
    house.job.refresh_from_db()
    assert [c.name for c in installation(house.job).circuits][:3] == ["Ring, ground floor", "Cooker", "Ring, first floor"]
    row.focus()
    page.keyboard.press("Delete")
    page.get_by_role("button", name="remove it").click()
    saved(page)
    assert not Circuit.objects.filter(job=house.job, name="Cooker").exists()


def test_another_firms_job_is_not_to_be_found(at_jobs: Page, server: Server) -> None:
    from tests.conftest import make_firm

    foreign = make_firm()
    at_jobs.goto(f"{server.url}/jobs/{foreign.job.pk}")
    expect(at_jobs.get_by_role("heading", name="There is no such job.")).to_be_visible()


def test_signing_in_again_goes_on_where_it_was(at_shower: Page, server: Server, house: Firm) -> None:
    page = at_shower
    page.context.clear_cookies()
    page.locator('[data-word="span length"]').click()
    page.keyboard.type("2.1")
    page.keyboard.press("Enter")
    sheet = page.get_by_role("dialog")
    expect(sheet).to_contain_text("Sign in again")
    sign_in_sheet(sheet, house)
    saved(page)
    assert Span.objects.get(job=house.job, name="bathroom loft, under quilt").length == 2.1


def sign_in_sheet(sheet: object, house: Firm) -> None:
    from tests.conftest import PASSWORD

    sheet.get_by_label("Name").fill(house.username)  # type: ignore[attr-defined]
    sheet.get_by_label("Password").fill(PASSWORD)  # type: ignore[attr-defined]
    sheet.get_by_role("button", name="sign in").click()  # type: ignore[attr-defined]


def test_a_job_is_saved_as_a_file_and_taken_in_again(at_jobs: Page, tmp_path: Path) -> None:
    page = at_jobs
    with page.expect_download() as download:
        of_job(page, "Orchard Row", "save as file")
    path = tmp_path / "house.json"
    download.value.save_as(path)
    broken = tmp_path / "broken.json"
    broken.write_text(path.read_text("utf-8").replace('"ze": 0.28', '"ze": -3'), "utf-8")
    page.get_by_label("or open one from a file").set_input_files(broken)
    expect(page.get_by_role("alert")).to_contain_text("installation.supply.ze")
    expect(page.get_by_role("alert")).to_contain_text("0.01 to 500 Ω")
    page.get_by_label("or open one from a file").set_input_files(path)
    expect(page.locator("main").get_by_text("bathroom loft, under quilt: Iz 36 A is under In 40 A")).to_be_visible()
    page.get_by_role("link", name="Jobs", exact=True).click()
    expect(page.get_by_role("link", name="Orchard Row", exact=True)).to_have_count(2)


def test_a_check_and_a_symbol_say_why_they_are_there(at_shower: Page) -> None:
    page = at_shower
    page.locator("[data-check=capacity]").click()
    working = page.get_by_role("region", name="Working")
    working.get_by_text("why this?").click()
    expect(working).to_contain_text(
        "A conductor that runs hotter than its insulation can take, day after day, with nothing failing at first"
    )
    expect(working).to_contain_text("Where opinions differ.")
    symbol = working.get_by_role("button", name="Ca", exact=True).first
    symbol.click()
    expect(symbol).to_have_attribute("aria-expanded", "true")
    expect(working).to_contain_text("Factor for the ambient temperature")
    # Another check has its own words, shut until they are asked for.
    page.locator("[data-check=volt_drop]").click()
    expect(working.get_by_text("Appliances that work badly")).to_have_count(0)
