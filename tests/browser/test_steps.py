"""The steps of the design done as a person does them: by keyboard, by pasted lists, in the grid, with copies and undo."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from mellow_span.jobs.models import Circuit, Copy, Job, Load
from mellow_span.jobs.reads import installation
from tests.browser.conftest import Server
from tests.browser.hands import becomes, enter, of_job, saved, to
from tests.conftest import PASSWORD, Firm

LIST = """from Board of the house
studio feed b63 mcb 6kA 16 armoured 90 3 core feeding Studio board: garage wall 6 masonry, under the lawn 25 trench
from Studio board
kiln 9.2kW b45 rcbo 30mA 6kA 10 flat: studio wall 6 masonry
"""


def fresh(page: Page, name: str) -> None:
    page.get_by_label("Name of the new job").focus()
    page.keyboard.type(name)
    page.keyboard.press("Enter")
    # It begins with the survey, its first question waiting to be typed.
    expect(page.locator('[data-word="earthing"]')).to_be_focused()
    expect(page).to_have_title(f"{name} · Mellow Span")


def test_the_studio_is_designed_from_an_empty_job_by_keyboard_alone(at_jobs: Page, house: Firm) -> None:
    """Survey, a sub-main said in a line with its new board, the kiln said in a line on it; the chain adds up."""
    page, keys = at_jobs, at_jobs.keyboard
    fresh(page, "By keyboard")
    expect(page.locator('[data-word="earthing"]')).to_be_focused()
    enter(page, "TN-C-S", "0.28", "0.92", "1361", "80", "25")
    expect(page.locator("[data-word='Csa of the meter tails']")).to_have_text("25 mm²")
    expect(page.get_by_role("dialog").get_by_role("textbox")).to_be_focused()
    # Escape closes the word that was opened next; a second one gives the letters back to the commands, and the page says so.
    keys.press("Escape")
    expect(page.locator("[data-letters=word]")).to_be_visible()
    keys.press("Escape")
    expect(page.locator("[data-letters=commands]")).to_be_visible()
    for line in LIST.splitlines()[1:4:2]:
        keys.press("n")
        page.get_by_label("Circuits of Board of the house").wait_for()
        keys.type(line if "kiln" not in line else f"{line.split(':')[0]} from Studio board:{line.split(':')[1]}")
        expect(page.locator("[data-said=whole]")).to_be_visible()
        keys.press("Enter")
        expect(page.get_by_role("dialog")).to_have_count(0)
        page.locator("[data-verdict].border-y").wait_for()
        keys.press("Escape")
    saved(page)
    made = installation(Job.objects.get(firm=house.member.firm, name="By keyboard"))
    feed, kiln = made.circuits
    assert [b.name for b in made.boards] == ["Board of the house", "Studio board"]
    assert (feed.feeds, kiln.board) == (made.boards[1].id, made.boards[1].id)
    assert (kiln.loads[0].amount, kiln.run.spans[0].length, feed.run.cable.csa) == (9200, 6, 16)
    expect(page.locator("[data-word=name]")).to_have_text("Kiln")
    expect(page.get_by_role("figure", name="Span profile")).to_be_visible()


def test_the_same_studio_is_taken_from_one_pasted_list(at_jobs: Page, house: Firm) -> None:
    page = at_jobs
    fresh(page, "By list")
    page.keyboard.press("Escape")
    page.locator("body").press("n")
    box = page.get_by_label("Circuits of Board of the house")
    box.fill(LIST)
    expect(page.get_by_role("button", name="add 2 circuits")).to_be_enabled()
    expect(page.locator("[data-said=whole]")).to_have_count(4)
    box.press("Control+Enter")
    saved(page)
    made = installation(Job.objects.get(firm=house.member.firm, name="By list"))
    assert [(c.name, len(c.run.spans)) for c in made.circuits] == [("Studio feed", 2), ("Kiln", 1)]
    assert Job.objects.get(firm=house.member.firm, name="By list").version == 2


def test_a_line_says_what_was_not_read_and_nothing_is_lost(at_shower: Page) -> None:
    page = at_shower
    page.locator("body").press("n")
    box = page.get_by_label("Circuits of House board")
    box.fill("lamp 20W b6 77: hall 4")
    expect(page.get_by_text("not understood: a number without a unit")).to_be_visible()
    expect(page.get_by_text("installation method of “hall” still to choose")).to_be_visible()
    expect(box).to_have_value("lamp 20W b6 77: hall 4")


def test_the_palette_leads_anywhere_and_takes_a_circuit(at_shower: Page, house: Firm) -> None:
    page, keys = at_shower, at_shower.keyboard
    page.keyboard.press("Control+k")
    keys.type("kiln")
    keys.press("Enter")
    expect(page.locator("[data-word=name]")).to_have_text("Kiln")
    page.keyboard.press("Control+k")
    keys.type("433.1.1")
    keys.press("Enter")
    expect(page.locator("[data-clauses]")).to_contain_text("capacity")
    page.keyboard.press("Control+k")
    keys.type("4D5")
    keys.press("Enter")
    expect(page.get_by_role("region", name="Cells of table 4D5")).to_be_visible()
    page.go_back()
    expect(page.locator("[data-clauses]")).to_be_visible()
    page.keyboard.press("Control+k")
    keys.type("towel rail 120W b6 rcbo 30mA 1.5 flat: landing joists 4")
    expect(page.get_by_role("option", name=re.compile("New circuit: Towel rail"))).to_be_visible()
    keys.press("Enter")
    expect(page.locator("[data-word=name]")).to_have_text("Towel rail")
    saved(page)
    assert Circuit.objects.get(job=house.job, name="Towel rail").run.spans.get().length == 4


def test_ten_steps_are_taken_back_one_by_one(at_shower: Page, house: Firm) -> None:
    page, keys = at_shower, at_shower.keyboard
    before = installation(house.job)
    for i in range(10):
        page.locator('[data-word="span length"]').click()
        keys.type(f"{3 + i / 10:.1f}")
        keys.press("Enter")
        saved(page)
    page.evaluate("document.activeElement.blur()")
    for _ in range(10):
        keys.press("Control+z")
    becomes(lambda: installation(Job.objects.get(pk=house.job.pk)).circuits, before.circuits)


def test_a_bigger_sub_main_rescues_the_finals_behind_it(at_shower: Page) -> None:
    page = at_shower
    page.locator("[data-circuit]").filter(has_text="Studio lights").click()
    expect(page.locator("[data-verdict].border-y")).to_contain_text("Fails")
    page.locator("[data-circuit]").filter(has_text="Studio feed").click()
    page.locator("[data-word=cable]").click()
    page.keyboard.type("16 armoured, 90")
    page.keyboard.press("Enter")
    saved(page)
    page.locator("[data-circuit]").filter(has_text="Studio lights").click()
    expect(page.locator("[data-verdict].border-y")).not_to_contain_text("Fails")


def test_a_copy_is_made_compared_and_kept_as_one_edit(at_shower: Page, house: Firm) -> None:
    page = at_shower
    page.locator("body").press("q")
    page.get_by_role("button", name="a new copy").click()
    page.get_by_label("what changes").select_option(label="Shower")
    page.get_by_label("new value").fill("quite hot")
    page.get_by_role("button", name="add the change").click()
    page.get_by_label("new value").fill("7.2 kW shower")
    page.get_by_role("button", name="add the change").click()
    page.get_by_label(re.compile("^value")).select_option(label="device")
    page.get_by_label("new value").fill("b32")
    page.get_by_role("button", name="add the change").click()
    page.get_by_label("name", exact=True).fill("Smaller shower")
    page.get_by_role("button", name="work it out").click()
    column = page.locator("th[data-copy]").filter(has_text="Smaller shower")
    expect(column).to_contain_text("1 better")
    assert Load.objects.get(job=house.job, name="shower").amount == 9200
    page.get_by_label("side by side").select_option(label="Ib")
    expect(page.locator("[data-what-if]")).to_contain_text("31.3 A")
    version = Job.objects.get(pk=house.job.pk).version
    column.get_by_role("button", name="apply to the job").click()
    expect(column).to_have_count(0)
    saved(page)
    assert Load.objects.get(job=house.job, name="shower").amount == 7200
    assert Job.objects.get(pk=house.job.pk).version == version + 1
    assert not Copy.objects.filter(job=house.job).exists()


def test_the_smallest_break_of_each_circuit_is_looked_for_with_progress(at_shower: Page) -> None:
    page = at_shower
    page.locator("body").press("q")
    page.get_by_role("button", name="find them").click()
    expect(page.locator("[data-breaks]")).to_contain_text("of insulation round the cable, in")
    expect(page.get_by_role("button", name="look again")).to_be_enabled()
    expect(page.locator("[data-breaks] li").filter(has_text="Shower").first).to_contain_text("fails as it is")


def test_demand_is_listed_by_room_and_a_load_is_added_with_the_client(at_shower: Page, house: Firm) -> None:
    page = at_shower
    to(page, "Maximum demand")
    expect(page.locator("[data-bar]").first).to_contain_text("105.3 A, later 122 A of 80 A")
    page.get_by_role("button", name="client view").click()
    expect(page.locator("nav")).to_be_visible()
    form = page.get_by_role("form", name="Add a load")
    form.get_by_label("Room").fill("hall")
    form.get_by_label("Load, as the client names it").fill("something nice")
    page.get_by_role("button", name="add", exact=True).click()
    expect(form.get_by_role("alert")).to_contain_text("Type a rating and what it is: 9.2 kW kiln, 6 x 8 W lights, sockets")
    form.get_by_label("Load, as the client names it").fill("2 kW towel rail")
    form.get_by_label("future load").check()
    page.get_by_role("button", name="add", exact=True).click()
    expect(page.locator("[data-room=hall]")).to_contain_text("towel rail")
    saved(page)
    load = Load.objects.get(job=house.job, room="hall")
    assert (load.amount, load.future, load.kind) == (2000, True, "heating")


def test_a_rating_is_stepped_on_the_plot_and_the_chain_is_solved_again(at_shower: Page, house: Firm) -> None:
    page = at_shower
    page.locator("body").press("c")
    expect(page.locator("[data-plot]")).to_be_visible()
    page.get_by_label("from").select_option(label="Kiln")
    expect(page.locator("[data-chain] li")).to_have_count(3)
    expect(page.locator("[data-band]")).to_have_count(3)
    page.get_by_role("button", name="Smaller rating of Kiln").click()
    saved(page)
    assert Circuit.objects.get(job=house.job, name="Kiln").device["rating"] == 32
    expect(page.locator("[data-chain]")).to_contain_text("32 A type B RCBO")
    plot = page.get_by_role("slider", name=re.compile("Read the plot"))
    plot.focus()
    page.keyboard.press("ArrowRight")
    expect(plot).to_have_attribute("aria-valuetext", re.compile(r"A, .* s\. which operates first is not certain here; Kiln within"))
    with page.expect_download() as got:
        page.get_by_role("button", name="save as SVG").click()
    text = got.value.path().read_text("utf-8")
    assert text.startswith("<svg")
    assert "var(--" not in text
    with page.expect_download() as got:
        page.get_by_role("button", name="save as PNG").click()
    assert got.value.path().read_bytes().startswith(b"\x89PNG")


def test_the_survey_is_drawn_and_its_parts_open_where_they_are_entered(at_shower: Page) -> None:
    page = at_shower
    page.locator("body").press("i")
    page.locator("[data-part='Csa of the meter tails']").click()
    page.get_by_role("textbox", name="Csa of the meter tails").wait_for()
    page.keyboard.press("Escape")
    expect(page.locator("[data-assumption=ze]")).to_contain_text("if Ze were 0.350 Ω")
    page.locator("[data-word='Ipf, line to neutral at the origin']").click()
    page.keyboard.type("2.1")
    expect(page.get_by_text("read as 2.1 kA")).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.locator("[data-word='Ipf, line to neutral at the origin']")).to_have_text("2.1 kA")


def test_a_load_is_dragged_along_the_run(at_shower: Page, house: Firm) -> None:
    page = at_shower
    page.locator("[data-circuit]").filter(has_text="Wheel and sockets").click()
    # The pegs of this circuit, not those of the one before it.
    expect(page.locator("[data-point]")).to_have_count(2)
    peg = page.locator("[data-point]").last
    peg.hover()
    box = peg.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + box["width"] - 8, box["y"] + 38)
    page.mouse.down()
    page.mouse.move(box["x"] - 60, box["y"] + 38, steps=6)
    page.mouse.up()
    expect(page.get_by_text("Points along the run")).to_contain_text(re.compile(r"at \d"))
    saved(page)
    placed = [x.at for x in Load.objects.filter(job=house.job, circuit__name="Wheel and sockets") if x.at is not None]
    assert len(placed) == 1
    assert 0 < placed[0] < 12
    expect(page.get_by_text("Points along the run")).to_contain_text(f"at {placed[0]:g} m")


def test_a_circuit_prints_on_one_sheet(at_shower: Page) -> None:
    sheet = at_shower.pdf(prefer_css_page_size=True, print_background=True)
    assert len(re.findall(rb"/Type\s*/Page[^s]", sheet)) == 1


def test_the_column_is_widened_and_stays_so(at_shower: Page) -> None:
    page = at_shower
    edge = page.get_by_role("separator", name="Width of the column")
    edge.focus()
    for _ in range(5):
        page.keyboard.press("ArrowRight")
    expect(edge).to_have_attribute("aria-valuenow", "320")
    page.reload()
    expect(page.get_by_role("separator", name="Width of the column")).to_have_attribute("aria-valuenow", "320")


def test_a_first_visit_opens_the_house_to_try_things_in_and_later_ones_the_list(page: Page, server: Server, house: Firm) -> None:
    house.member.opens_with = house.job
    house.member.save()
    page.goto(server.url)
    page.get_by_label("Name").fill(house.username)
    page.get_by_label("Password").fill(PASSWORD)
    page.keyboard.press("Enter")
    tries = page.get_by_role("region", name="Three things to try")
    tries.get_by_role("listitem").nth(2).wait_for()
    first = tries.locator("[data-first-step]")
    expect(first).to_have_attribute("data-first-step", "short")
    before = first.locator("[data-word=cable]").inner_text()
    word = first.locator("[data-word=cable]")
    word.click()
    expect(page.locator("[data-hint]")).to_contain_text("Esc leaves it as it was")
    page.keyboard.press("Escape")
    word.press("1")
    page.keyboard.type("6")
    page.keyboard.press("Enter")
    page.keyboard.press("Escape")
    expect(first).not_to_have_attribute("data-first-step", "short")
    expect(first).to_contain_text("Ctrl Z takes the change back")
    assert word.inner_text() != before
    page.locator("body").press("Control+z")
    expect(first).to_have_attribute("data-first-step", "short")
    expect(word).to_have_text(before)
    tries.get_by_role("link").first.click()
    expect(page.get_by_role("figure", name="Span profile")).to_be_visible()
    page.go_back()
    tries.get_by_role("button", name="hide this").click()
    expect(tries).to_have_count(0)
    page.goto(server.url)
    expect(page.get_by_role("heading", name="Jobs")).to_be_visible()


def test_a_deleted_job_lies_in_the_bin_and_is_brought_back(at_jobs: Page, house: Firm) -> None:
    page = at_jobs
    of_job(page, "Orchard Row", "delete")
    page.get_by_role("button", name="delete it").click()
    expect(page.locator("[data-job]")).to_have_count(0)
    page.get_by_label("Which jobs").select_option(label="deleted, for 30 days")
    page.get_by_role("button", name="Bring back Orchard Row").click()
    expect(page.get_by_text("No deleted jobs.")).to_be_visible()
    page.get_by_label("Which jobs").select_option("open")
    page.get_by_role("link", name="Orchard Row", exact=True).click()
    expect(page.locator("[data-circuit]").filter(has_text="Shower")).to_be_visible()
    house.job.refresh_from_db()
    assert house.job.removed is None


def test_a_short_start_asks_what_fits_and_makes_nothing_up(at_jobs: Page, house: Firm) -> None:
    page = at_jobs
    page.get_by_label("Name of the new job").fill("By the pond")
    page.get_by_label("a house with an outbuilding").check()
    page.get_by_label("Who it is for, in your own words").fill("the beekeeper")
    page.get_by_role("button", name="start a job").click()
    expect(page).to_have_title("By the pond · Mellow Span")
    made = installation(Job.objects.get(firm=house.member.firm, name="By the pond"))
    assert made.client == "the beekeeper"
    assert len(made.boards) == 2
    assert (made.supply.ze, made.supply.ipf, made.supply.fuse_in) == (None, None, None)
    # What is to be asked at the intake is one errand of the list.
    page.locator("nav").get_by_role("link", name=re.compile("Needs attention")).click()
    errand = page.locator("[data-errand]")
    expect(errand).to_contain_text("things to ask at the intake: Ze, Ipf, service fuse")
    errand.get_by_role("link").click()
    expect(page.get_by_role("heading", name="Survey")).to_be_visible()


def test_nothing_moves_while_lengths_are_typed(at_jobs: Page) -> None:
    """Verdict and reason change with each length; the strip, the span's sentence and the checks stay where the eye left them."""
    page = at_jobs
    page.get_by_role("link", name="Orchard Row", exact=True).click()
    where = """() => ['[aria-label="Span profile"]', '[data-span]', '[data-check]'].map(s => {
        const e = document.querySelector(s), scrolled = e.closest('main')?.scrollTop ?? 0;
        return Math.round(e.getBoundingClientRect().y + scrolled); })"""
    for name in ("Shower", "Ring, ground floor"):
        page.locator("[data-circuit]").filter(has_text=name).click()
        page.get_by_role("heading", name="Checks").wait_for()
        expect(page.locator("[data-word=name]")).to_have_text(name)
        reasons, places = set(), set()
        for length in ("3", "30", "11.5", "0.5"):
            page.locator('[data-word="span length"]').click()
            page.keyboard.type(length)
            page.keyboard.press("Enter")
            expect(page.locator('[data-word="span length"]')).to_have_text(f"{length} m")
            saved(page)
            reasons.add(page.locator("[data-verdict].border-y").inner_text())
            places.add(tuple(page.evaluate(where)))
        assert len(places) == 1
        assert name == "Shower" or len(reasons) > 1
