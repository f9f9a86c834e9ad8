"""The whole job in the browser: boards, routes, fixes, readings, advice, and every field that has no place in a sentence."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from mellow_span.jobs.models import Board, CellRead, Circuit, Dismissal, Load, Route, Span
from tests.browser.hands import enter, saved, to
from tests.conftest import Firm


def word_by_word(page: Page, board: str) -> None:
    """A new circuit that is entered word by word: nothing said, and Enter."""
    page.locator("nav section").filter(has_text=board).get_by_role("button", name=re.compile("new circuit")).click()
    page.get_by_label(re.compile("Circuits of")).wait_for()
    page.keyboard.press("Enter")
    page.get_by_label("Name on the board chart").wait_for()


def shed_feed(page: Page) -> None:
    """Enter a sub-main from the house board to a new board that is there, word by word."""
    word_by_word(page, "House board")
    page.keyboard.type("Shed feed")
    page.keyboard.press("Enter")
    page.get_by_label("Load 1").wait_for()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.locator('[data-word="feeds"]').focus()
    # What is missing is asked for next: the device, the cable, the length, its surroundings.
    enter(page, "New")
    expect(page.locator('[data-word="feeds"]')).to_contain_text("New")
    # The next word has the focus by itself: only then may another be gone to.
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.locator("[data-word]:focus").wait_for()
    page.locator('[data-word="device"]').focus()
    enter(page, "b32 mcb 6kA", "10 armoured", "20", "duct")
    expect(page.locator('[data-word="surroundings"]')).to_contain_text("duct")


def opened(page: Page, title: str) -> None:
    page.locator("summary").filter(has_text=title).first.click()


def test_a_way_out_is_taken_by_keyboard_and_cures_the_circuit(at_shower: Page) -> None:
    page = at_shower
    page.locator("body").press("o")
    first = page.locator("[data-option]").first
    expect(first).to_contain_text("bathroom loft, under quilt")
    expect(page.get_by_role("dialog")).to_contain_text("a cable of 16 mm²")
    # No shower that fits 32 A is sold: none is offered.
    expect(page.get_by_role("dialog")).not_to_contain_text("shower of at most")
    expect(page.get_by_role("dialog")).to_contain_text("the same length assumed")
    page.locator("[data-option=final]").get_by_role("button", name="use it").focus()
    page.keyboard.press("Enter")
    expect(page.locator("[data-verdict]").first).to_contain_text("Marginal")
    expect(page.locator('[data-word="cable"]')).to_contain_text("16 mm²")
    expect(page.get_by_role("button", name=re.compile("fixes"))).to_have_count(0)


def test_a_new_board_and_its_sub_main_are_entered_and_finals_follow_it(at_shower: Page, house: Firm) -> None:
    """From the boards: add a board; make a circuit its sub-main; add a final on it; the chain adds up."""
    page = at_shower
    to(page, "Boards")
    page.get_by_role("button", name="add a board").click()
    expect(page.locator("nav").get_by_role("link", name=re.compile("New board"))).to_be_visible()
    saved(page)
    shed_feed(page)
    saved(page)
    feed = Circuit.objects.get(job=house.job, name="Shed feed")
    assert feed.feeds == Board.objects.get(job=house.job, name="New board")
    assert feed.run.cable["family"] == "armoured_pvc70"
    word_by_word(page, "New board")
    enter(page, "Lamp", "100 W lights", "b6 rcbo 30mA 6kA", "1.5 flat", "8")
    expect(page.locator('[data-word="length"]')).to_have_text("8 m")
    saved(page)
    page.locator("nav").get_by_role("link", name=re.compile("^New board")).click()
    expect(page.get_by_text("Fed by Shed feed")).to_be_visible()
    to(page, "Maximum demand")
    section = page.get_by_role("region", name="Demand of New board")
    expect(section.locator("[data-check=feed]")).to_contain_text("0.4 A after diversity is within In 32 A")


def to_routes(page: Page) -> None:
    page.locator("nav").get_by_role("link", name="Cable routes").click()
    page.get_by_role("heading", name="Cable routes", exact=True).wait_for()


def test_a_route_is_made_and_a_span_laid_in_it(at_shower: Page, house: Firm) -> None:
    page = at_shower
    to_routes(page)
    page.get_by_role("button", name="add a route, conduit or trunking").click()
    saved(page)
    page.locator("[data-circuit]").filter(has_text="Cooker").click()
    expect(page.locator("[data-span]")).to_contain_text("method C, Iz 47 A")
    page.locator('[data-word="group"]').click()
    page.get_by_role("button", name="New route").click()
    saved(page)
    expect(page.locator('[data-word="group"]')).to_have_text("in New route")
    route = Route.objects.get(job=house.job, name="New route")
    assert route.spans.count() == 1
    to_routes(page)
    section = page.get_by_role("region", name="New route")
    expect(section).to_contain_text("Cooker")
    expect(section.locator("[data-shape]")).to_have_count(1)
    opened_section = section.locator("summary").filter(has_text="All details of this route")
    opened_section.click()
    section.get_by_label("Loaded circuits in it that are not in this job").fill("2")
    section.get_by_label("Loaded circuits in it that are not in this job").press("Tab")
    expect(section).to_contain_text("3 circuits counted, Cg 0.7")
    page.locator("[data-circuit]").filter(has_text="Cooker").click()
    expect(page.locator("[data-span]")).to_contain_text("method C, Iz 32.9 A")


def test_a_stretch_of_another_circuit_becomes_a_route_that_both_feel_until_one_leaves(at_shower: Page, house: Firm) -> None:
    """'alone' opens to the stretches of others; what is then changed in one changes the other, and leaving takes the values along."""
    page = at_shower
    page.locator("[data-circuit]").filter(has_text="Cooker").click()
    page.locator('[data-word="group"]').click()
    if not page.get_by_role("button", name="Ring, first floor: riser").is_visible():
        page.get_by_text("installed differently").click()
    page.get_by_role("button", name="Ring, first floor: riser").click()
    saved(page)
    expect(page.locator('[data-word="group"]')).to_have_text("in riser")
    expect(page.locator("[data-shared]")).to_contain_text("Ring, first floor")
    route = Route.objects.get(job=house.job, name="riser")
    assert route.spans.count() == 2
    page.locator('[data-word="temperature"]').click()
    page.keyboard.type("45")
    page.keyboard.press("Enter")
    saved(page)
    route.refresh_from_db()
    assert route.ambient == 45
    page.locator('[data-word="group"]').click()
    page.get_by_role("button", name="leave the route").click()
    saved(page)
    expect(page.locator('[data-word="temperature"]')).to_have_text("45 °C")
    expect(page.locator('[data-word="group"]')).to_have_text("alone")
    assert Span.objects.filter(route=route).count() == 1


def test_trying_something_with_a_route_shows_every_circuit_and_can_be_done(at_shower: Page, house: Firm) -> None:
    page = at_shower
    to_routes(page)
    section = page.get_by_role("region", name="Landing joists")
    section.locator("summary").filter(has_text="Try a change").click()
    insulate = section.locator("[data-tryout=insulate]")
    expect(insulate).to_contain_text("Shower")
    expect(insulate).to_contain_text("worse off")
    section.locator("[data-tryout=split]").get_by_role("button", name="apply it").click()
    saved(page)
    expect(page.get_by_role("region", name="Landing joists, second")).to_be_visible()
    assert Route.objects.filter(job=house.job).count() == 2


def test_the_intake_has_ways_out_and_one_is_taken(at_shower: Page, house: Firm) -> None:
    page = at_shower
    to(page, "Maximum demand")
    page.locator("[data-ways=intake] summary").click()
    way = page.locator("[data-ways=intake] [data-option]").filter(has_text="load management that holds car charger")
    way.get_by_role("button", name="use it").click()
    saved(page)
    assert Load.objects.get(job=house.job, name="car charger").managed == 6
    expect(page.locator("[data-check=demand]").first).to_have_attribute("data-verdict", "close")


def test_a_sub_main_is_sized_for_what_stands_behind_it(at_shower: Page) -> None:
    page = at_shower
    page.locator("[data-circuit]").filter(has_text="Studio feed").click()
    # The words of the circuit before look the same: it is there once its own name is.
    expect(page.locator("[data-word=name]")).to_have_text("Studio feed")
    page.locator("body").press("z")
    sheet = page.get_by_role("dialog")
    expect(sheet).to_contain_text("makes Studio lights fail")
    expect(sheet).to_contain_text("of volt drop for lights")


def test_a_doubtful_value_is_settled_with_the_book_in_hand(at_shower: Page, house: Firm) -> None:
    page = at_shower
    page.get_by_role("link", name="Tables").click()
    cells = page.get_by_role("region", name="Values to be checked")
    first = cells.locator("[data-cell]").first
    name = first.get_attribute("data-cell")
    first.get_by_role("button").click()
    agrees = page.get_by_role("button", name="agrees with the printed table")
    expect(agrees).to_be_disabled()
    page.get_by_label("Edition you are checking against").fill("a made-up edition")
    agrees.click()
    expect(cells.locator(f'[data-cell="{name}"]')).to_contain_text("agrees with the printed table")
    expect(cells.locator(f'[data-cell="{name}"]')).to_contain_text("a made-up edition")
    assert CellRead.objects.get(firm=house.member.firm).value is None


def test_a_group_is_laid_only_as_its_place_allows(at_shower: Page) -> None:
    """A conduit takes a bunch alone. A wall takes a layer too; moved into a conduit that layer is refused in words, and shown as what is wrong."""
    page = at_shower
    opened_words = page.locator('[data-word="group"]')
    page.locator("[data-circuit]").filter(has_text="Drive lights").click()
    opened_words.click()
    expect(page.get_by_role("radio", name="bunched or enclosed")).to_be_checked()
    expect(page.get_by_role("radio", name="one layer")).to_have_count(0)
    page.keyboard.press("Escape")
    page.locator("[data-circuit]").filter(has_text="Cooker").click()
    opened_words.click()
    page.get_by_label("Circuits grouped, including this one").fill("3")
    page.get_by_label("Circuits grouped, including this one").press("Tab")
    page.get_by_role("radio", name="single layer on a surface").check()
    page.keyboard.press("Escape")
    expect(page.locator("[data-span]")).to_contain_text("method C, Iz 37.1 A")
    page.locator('[data-word="surroundings"]').focus()
    enter(page, "plastered")
    expect(page.locator("[data-span]")).to_contain_text("cannot be combined; available: bunched")
    saved(page)
    opened_words.click()
    expect(page.get_by_text("not possible here")).to_be_visible()
    page.get_by_role("radio", name="bunched or enclosed").check()
    page.keyboard.press("Escape")
    expect(page.locator("[data-span]")).to_contain_text("method C, Iz 32.9 A")


def test_a_reading_is_compared_with_its_prediction(at_shower: Page) -> None:
    page = at_shower
    page.get_by_role("link", name="Test results").last.click()
    row = page.locator("[data-test=r1r2]")
    expect(row).to_contain_text("is predicted at 20 °C")
    field = row.get_by_role("textbox")
    field.fill("-1")
    field.press("Enter")
    expect(row.get_by_role("alert")).to_contain_text("Enter a figure from 0")
    expect(field).to_have_value("-1")
    field.fill("0.3")
    field.press("Enter")
    expect(row).to_contain_text("0.300 Ω measured")
    expect(row).to_contain_text("above")
    expect(page.get_by_role("heading", name="Shower")).to_be_visible()


def test_fields_outside_the_sentence_change_the_figures_and_stay(at_shower: Page, house: Firm) -> None:
    page = at_shower
    opened(page, "Other details")
    page.get_by_label("Overload protection: by the device").select_option("omitted")
    expect(page.locator("[data-check=capacity]")).to_contain_text(
        "overload protection deliberately omitted: the load cannot overload (433.3.1)"
    )
    opened(page, "Load: 9.2 kW shower")
    page.get_by_label("Flex csa, outlet to appliance").fill("4")
    page.get_by_label("Flex csa, outlet to appliance").press("Tab")
    expect(page.locator("[data-check=lead]")).to_contain_text("32 A is under In 40 A")
    opened(page, "More of this span")
    page.get_by_label("Special location it passes through or ends in").select_option("bathroom")
    page.get_by_label("Touches expanded polystyrene").check()
    saved(page)
    page.reload()
    page.get_by_role("heading", name="Checks").wait_for()
    expect(page.locator("[data-check=capacity]")).to_contain_text(
        "overload protection deliberately omitted: the load cannot overload (433.3.1)"
    )
    assert Load.objects.get(job=house.job, name="shower").lead_csa == 4
    span = Span.objects.get(job=house.job, name="bathroom loft, under quilt")
    assert (span.location, span.polystyrene) == ("bathroom", True)


def test_a_fuse_is_typed_and_its_curve_used(at_shower: Page) -> None:
    page = at_shower
    page.locator('[data-word="device"]').focus()
    page.keyboard.type("bs88 40 80kA")
    page.keyboard.press("Enter")
    expect(page.locator('[data-word="device"]')).to_have_text("40 A BS 88-2 gG fuse")
    expect(page.locator("[data-check=loop]")).to_contain_text("1.285")
    expect(page.locator("[data-check=overload_current]")).to_contain_text("deemed to comply")


def test_advice_is_put_aside_with_a_reason_and_taken_up_again(at_shower: Page, house: Firm) -> None:
    page = at_shower
    to(page, "Needs attention")
    page.get_by_role("button", name="Does not apply: Notification, Intake").click()
    page.get_by_label("Why it does not apply").fill("the owner declines it in writing")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Does not apply: Notification, Intake")).to_have_count(0)
    saved(page)
    assert Dismissal.objects.get(job=house.job).reason == "the owner declines it in writing"
    page.locator("summary").filter(has_text="1 does not apply").click()
    page.get_by_role("button", name="show it again").click()
    expect(page.get_by_role("button", name="Does not apply: Notification, Intake")).to_be_visible()


def test_all_sizes_are_found_together_and_some_are_taken(at_shower: Page, house: Firm) -> None:
    page = at_shower
    to(page, "Boards")
    opened(page, "Cheapest sizes for the whole job")
    table = page.locator("[data-cheapest]")
    expect(table).to_contain_text("Studio feed")
    expect(table).to_contain_text("kg")
    page.get_by_label("Take the size of Kiln").uncheck()
    expect(page.get_by_text("These were found as a set: leave some out and the rest may fail or cost more than need be")).to_be_visible()
    before = Circuit.objects.get(job=house.job, name="Kiln").run.cable["csa"]
    page.get_by_role("button", name=re.compile(r"use \d+ of \d+")).click()
    saved(page)
    assert Circuit.objects.get(job=house.job, name="Kiln").run.cable["csa"] == before
    page.locator("[data-circuit]").filter(has_text="Studio feed").click()
    expect(page.locator('[data-word="cable"]')).to_contain_text("16 mm²")


def test_a_way_to_earth_the_studio_is_chosen_with_its_reason(at_shower: Page, house: Firm) -> None:
    page = at_shower
    to(page, "Earthing")
    ways = page.locator("[data-earthing-ways]")
    expect(ways).to_contain_text("10 mm², 31 m run with the feed")
    expect(ways).to_contain_text("supply end only")
    expect(ways).to_contain_text("the electrode is not relied on for disconnection")
    expect(ways).to_contain_text("about 230 V")
    ways.get_by_role("button", name="choose").nth(1).click()
    page.get_by_placeholder("the reason, printed on the document").fill("a metal pipe enters and the lawn is not dug twice")
    page.keyboard.press("Enter")
    saved(page)
    board = Board.objects.get(job=house.job, name="Studio board")
    assert (board.earthing, board.earthing_reason) == ("TT", "a metal pipe enters and the lawn is not dug twice")
    expect(ways).to_contain_text("Chosen because: a metal pipe enters")
    expect(page.locator("th[data-chosen]")).to_contain_text("Own earth electrode (TT)")


def test_attention_leads_to_the_board_it_speaks_of(at_jobs: Page) -> None:
    page = at_jobs
    page.get_by_role("link", name="Orchard Row", exact=True).click()
    page.get_by_role("link", name=re.compile("^Studio board Bonding")).click()
    expect(page.get_by_role("heading", name="Earthing and outbuildings")).to_be_visible()
    expect(page.locator("[data-check=bonding]").nth(1)).to_be_in_viewport()


def test_the_whole_house_at_a_glance_is_sorted_walked_by_arrows_and_lit_where_it_changes(at_shower: Page) -> None:
    page = at_shower
    to(page, "Boards")
    rows = page.locator("[data-glance-row]")
    expect(rows).to_have_count(16)
    # As fed: the circuits of the studio stand behind their feed, further in.
    expect(rows.nth(11)).to_contain_text("Studio feed")
    expect(rows.nth(12)).to_contain_text("Kiln")
    shower = rows.filter(has_text="Shower")
    expect(shower).to_contain_text("fails −10 %")
    expect(shower).to_contain_text("40 · 40 · 36 A")
    # What the drawing shows is said too.
    expect(shower.get_by_role("img", name="current: 111 % of what is allowed")).to_be_visible()
    light = rows.filter(has_text="Studio lights").get_by_role("img", name=re.compile("volt drop: 104 %.*101 % by the sub-mains"))
    expect(light).to_be_visible()
    page.get_by_label("least margin first").check()
    expect(rows.first).to_contain_text("fails")
    expect(rows.last).to_contain_text("meets")
    page.get_by_label("as fed").check()
    rows.first.get_by_role("link").focus()
    page.keyboard.press("ArrowDown")
    expect(rows.nth(1).get_by_role("link")).to_be_focused()
    page.keyboard.press("ArrowDown")
    expect(rows.nth(2).get_by_role("link")).to_be_focused()
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("/circuits/"))
    expect(page.locator("main")).to_contain_text("Cooker")
    # On a phone the bar that is nearest its limit stands alone, and nothing has to be scrolled sideways.
    page.go_back()
    page.set_viewport_size({"width": 390, "height": 844})
    expect(shower.get_by_role("img", name=re.compile("of what is allowed"))).to_have_count(1)
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    page.get_by_role("link", name="print on one page").click()
    expect(page.get_by_role("heading", name="At a glance")).to_be_visible()
