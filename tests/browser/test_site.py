"""On site: the pull list ticked off on a phone, also while the server is away."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import Browser, Page, expect

from mellow_span.exchange.issue import prove_text
from mellow_span.jobs.models import Job
from mellow_span.logbook.models import Entry, SiteRules
from mellow_span.standins import under_test
from tests.api.test_jobs import named
from tests.browser.conftest import PHONE, Server, new_page, sign_in
from tests.browser.hands import becomes, kept
from tests.browser.test_access import violations
from tests.conftest import Firm


def test_the_pull_list_is_ticked_on_a_phone_while_the_server_is_away_and_back(house: Firm, server: Server, browser: Browser) -> None:
    phone = new_page(browser, viewport=PHONE, has_touch=True)
    sign_in(phone, server, house)
    phone.goto(f"{server.url}/jobs/{house.job.pk}/pulls")
    shower = phone.locator("[data-pull]").filter(has_text="Shower")
    cooker = phone.locator("[data-pull]").filter(has_text="Cooker")
    button = shower.get_by_role("button")
    box = button.bounding_box()
    assert box
    assert min(box["width"], box["height"]) >= 44, "big enough for a thumb"
    button.tap()
    expect(shower).to_contain_text(f"pulled in by {house.username}")
    # It is told at once, before the server has it: the server goes away once it does.
    expect(phone.get_by_text(re.compile("entr(y waits|ies wait)"))).to_have_count(0)
    expect(shower).not_to_contain_text("not sent yet")
    server.stop()
    cooker.get_by_role("button").tap()
    expect(cooker).to_contain_text("not sent yet")
    expect(phone.get_by_text("1 entry waits in this browser")).to_be_visible()
    expect(phone.get_by_text("2 of")).to_be_visible()
    server.start()
    expect(phone.get_by_text("entry waits")).to_have_count(0)
    expect(cooker).to_contain_text(f"pulled in by {house.username}")
    assert Entry.objects.filter(job=house.job, kind="pulled").count() == 2
    # The design knows nothing of it: nobody in the office is asked anything.
    assert Job.objects.get(pk=house.job.pk).version == 1


def test_a_number_stays_with_its_cable_when_a_circuit_before_it_goes(at_jobs: Page, server: Server, house: Firm) -> None:
    page = at_jobs
    page.goto(f"{server.url}/jobs/{house.job.pk}/pulls")
    shower = page.locator("[data-pull='A4']")
    shower.get_by_role("button").click()
    expect(shower).to_contain_text("pulled in by")
    expect(page.get_by_text(re.compile("entr(y waits|ies wait)"))).to_have_count(0)
    page.locator("[data-circuit]").filter(has_text="Cooker").focus()
    page.keyboard.press("Delete")
    page.get_by_role("alertdialog").get_by_role("button", name="remove it").click()
    page.get_by_role("navigation", name="Installation").get_by_role("link", name="House board").click()
    expect(page.locator("[data-stay]")).to_have_text("Numbers stay with their cables: A4 Shower is now way 3.")
    page.get_by_role("list", name="On site").get_by_role("link", name="Cable list").click()
    expect(shower).to_contain_text("Shower")
    expect(shower).to_contain_text("now way 3 of House board")
    expect(page.locator("[data-pull]").filter(has_text="Lights, ground floor")).not_to_have_attribute("data-pull", "A4")


def test_an_end_not_decided_and_the_slack_of_the_firm_change_what_is_cut(at_jobs: Page, server: Server, house: Firm) -> None:
    page = at_jobs
    page.goto(f"{server.url}/jobs/{house.job.pk}/pulls")
    shower = page.locator("[data-pull]").filter(has_text="Shower")
    expect(shower).to_contain_text("16.2 m")
    shower.get_by_label("far end not decided").check()
    expect(shower).to_contain_text("18.7 m")
    at_board = page.get_by_label("at a board")
    at_board.fill("2")
    at_board.press("Tab")
    expect(shower).to_contain_text("19.7 m")
    assert SiteRules.objects.get(firm=house.member.firm).board == 2
    plan = page.get_by_role("region", name="Cutting plan")
    expect(plan).to_contain_text("This is the least to buy.")
    drums = plan.get_by_label("Drum lengths you buy")
    drums.fill("30; x")
    drums.press("Tab")
    expect(plan.get_by_role("alert")).to_contain_text("5 to 1 000 m")
    drums.fill("30; 80")
    drums.press("Tab")
    expect(plan).to_contain_text("1 × 80 m")
    assert SiteRules.objects.get(firm=house.member.firm).drums == [30, 80]
    # The one word that leads there from anywhere.
    page.goto(f"{server.url}/jobs/{house.job.pk}")
    page.get_by_role("heading", name="Orchard Row").wait_for()
    page.keyboard.press("Control+k")
    page.keyboard.type("pull list")
    page.get_by_role("option", name="Cable list").wait_for()
    page.keyboard.press("Enter")
    page.get_by_role("heading", name="Cable list").wait_for()
    becomes(lambda: kept(page), 0)


def test_a_cable_that_is_out_of_stock_is_replaced_by_one_that_is_there(at_jobs: Page, server: Server, house: Firm) -> None:
    page = at_jobs
    page.goto(f"{server.url}/jobs/{house.job.pk}/materials")
    line = page.locator("[data-need='cable/flat_twin_cpc_pvc70/4']")
    expect(line).to_contain_text("out of stock")
    line.get_by_text("Alternatives in stock").click()
    found = line.locator("[data-substitute='cable/flat_twin_cpc_pvc70/6']")
    expect(found).to_contain_text("Meets every check with these inputs")
    expect(found).to_contain_text("A7 Loft room sockets")
    found.get_by_role("button", name="use it").click()
    expect(line).to_have_count(0)
    more = page.locator("[data-need='cable/flat_twin_cpc_pvc70/6']")
    expect(more).to_contain_text("A3, A7, B2")
    more.get_by_role("button").click()
    expect(more).to_contain_text(f"on site, says {house.username}")
    assert named(house, "Loft room sockets").run.cable["csa"] == 6
    # It is an edit like any other.
    page.keyboard.press("Control+z")
    expect(line).to_contain_text("out of stock")


def test_a_price_book_is_brought_in_goes_through_all_and_can_be_given_up(at_jobs: Page, server: Server, house: Firm) -> None:
    page = at_jobs
    page.goto(f"{server.url}/jobs/{house.job.pk}/materials")
    line = page.locator("[data-need='cable/flat_twin_cpc_pvc70/6']")
    expect(line).to_contain_text("13 m")
    book = {"name": "mine.csv", "mimeType": "text/csv"}
    page.get_by_label("Price book").set_input_files({**book, "buffer": b"item,name,size,price\ncable,flat_twin_cpc_pvc70,6,dear"})
    expect(page.get_by_role("alert")).to_contain_text("line 2")
    page.get_by_label("Price book").set_input_files({**book, "buffer": b"item,name,size,price\ncable,flat_twin_cpc_pvc70,6,100"})
    expect(page.get_by_text("mine.csv: 1 lines are in use now.")).to_be_visible()
    expect(line).to_contain_text("1300.00")
    with page.expect_download() as saved:
        page.get_by_role("link", name="save as a file").click()
    assert "flat_twin_cpc_pvc70,6,100" in saved.value.path().read_text()
    page.get_by_role("button", name="go back to the made-up prices").click()
    expect(line).to_contain_text("33.80")


def test_a_record_of_isolation_is_not_finished_with_a_step_missing_also_without_the_server(
    house: Firm, server: Server, browser: Browser
) -> None:
    page = new_page(browser, viewport=PHONE, has_touch=True)
    sign_in(page, server, house)
    page.goto(f"{server.url}/jobs/{house.job.pk}/isolation")
    page.get_by_label("What is to be made dead").select_option(label="A4 Shower")
    plan = page.get_by_role("region", name="To make A4 Shower dead")
    expect(plan).to_contain_text("lock the device off in its way")
    plan.get_by_role("button", name="start the record").tap()
    step = page.get_by_role("form", name="Next step")
    expect(step).to_contain_text("Tell everyone affected, and note what is energised now")
    expect(step.get_by_role("button", name="done")).to_be_disabled()

    def do(words: str = "") -> None:
        if words:
            step.get_by_role("textbox").fill(words)
        step.get_by_role("button", name="done").tap()

    do("Mrs Someone; shower and lights on")
    expect(step).to_contain_text("generator")
    unsent = page.get_by_text("in this browser")
    expect(unsent).to_have_count(0)
    server.stop()
    for source in ("generation", "battery", "neutral", "second circuit"):
        expect(step).to_contain_text(source)
        expect(step.get_by_role("button", name="no", exact=True)).to_be_disabled()
        step.get_by_role("textbox").fill("looked at the meter and the bars")
        step.get_by_role("button", name="no", exact=True).tap()
    expect(step).to_contain_text("Prove the tester on a known live source or proving unit")
    expect(page.get_by_text("4 entries wait in this browser")).to_be_visible()
    do("tester 7 on the proving unit")
    expect(step).to_contain_text("Isolate A4")
    do()
    server.start()
    expect(page.get_by_text("wait in this browser")).to_have_count(0)
    # A lock that does not fit: only with its reason.
    step.get_by_label("a local isolator is used instead of a lock").check()
    expect(step.get_by_role("button", name="done")).to_be_disabled()
    do("no lock fits; pull switch in sight")
    do("Ann, until four")
    for pair in ("L–N", "L–E", "N–E"):
        expect(step).to_contain_text(f"Prove dead at the point of work: {pair}")
        expect(page.get_by_role("status").filter(has_text="Not proved dead yet")).to_be_visible()
        step.get_by_role("button", name="dead", exact=True).tap()
        expect(unsent).to_have_count(0)
    expect(step).to_contain_text("Prove the tester again")
    expect(page.get_by_role("status").filter(has_text="Not proved dead yet: 12 of 13")).to_be_visible()
    do("still shows live on the proving unit")
    expect(page.get_by_role("status").filter(has_text="Proved dead at")).to_be_visible()
    do("Ann")
    do("shower on again, Mrs Someone told")
    expect(page.get_by_text("released")).to_be_visible()
    expect(page.get_by_text("in this browser")).to_have_count(0)
    page.get_by_text("A4 Shower: released").click()
    expect(page.get_by_text("local isolator, no lock fits; pull switch in sight")).to_be_visible()
    assert Entry.objects.filter(job=house.job, kind="isolation").count() == 16


def test_a_ring_read_by_the_instrument_with_a_loose_neutral_is_diagnosed(at_jobs: Page, server: Server, house: Firm) -> None:
    page, ring = at_jobs, named(house, "Ring, ground floor")
    load = ring.loads.first()
    load.quantity, load.basis, load.amount = 4, "A", 5.0
    load.save()
    page.goto(f"{server.url}/jobs/{house.job.pk}/tests")
    page.get_by_role("button", name="Ring, ground floor").click()
    page.get_by_label("Practice instrument: circuit connected").select_option("loose_terminal")
    seed = 2
    for quantity in ("r1", "rn", "r2", "cross_ln", "cross_le"):
        rows = page.locator(f"[data-test={quantity}]")
        expect(rows.first).to_be_visible()
        for k in range(rows.count()):
            rows.nth(k).get_by_role("button", name="instrument").click()
            expect(rows.nth(k)).to_contain_text("practice instrument")
    told = page.get_by_role("region", name="What they point to")
    expect(told).to_contain_text("Fits a high-resistance joint of")
    fault = under_test.put_in(
        under_test.Circuit(True, 58.0, 0.0074, 0.0074, 0.0121, [float(k) for k in (11, 23, 34, 46)]), "loose_terminal", seed
    ).fault
    expect(told).to_contain_text(f"in the {fault.conductor}")
    expect(told).to_contain_text("a joint like that heats under load")
    # Nothing live before the supply may be put on.
    zs = page.get_by_role("region", name="Live tests").locator("[data-test=zs]")
    expect(zs.get_by_role("textbox")).to_have_count(0)
    page.get_by_label("Dead tests are complete and I have read this: the supply may be energised").check()
    zs.get_by_role("textbox").fill("9")
    zs.get_by_role("button", name="save").click()
    expect(zs).to_contain_text("over the")
    assert Job.objects.get(pk=house.job.pk).version == 1, "a reading is no edit"
    # Read again, it stands beside the first.
    zs.get_by_role("textbox").fill("lots")
    zs.get_by_role("button", name="save").click()
    expect(zs.get_by_role("alert")).to_contain_text("Enter a figure from 0")
    zs.get_by_role("textbox").fill("0.6")
    zs.get_by_role("button", name="save").click()
    expect(zs).to_contain_text("9 Ω,")
    expect(zs).to_contain_text("0.6 Ω,")
    # Whoever opens the job is told of it, though the design is as it was.
    page.goto(f"{server.url}/jobs/{house.job.pk}")
    line = page.get_by_role("region", name="Test results to query").locator(f"[data-off='{ring.pk}']")
    expect(line).to_contain_text("to query")
    line.click()
    expect(told).to_contain_text("Fits a high-resistance joint of")


def test_readings_come_from_a_file_by_all_of_its_lines_or_none(at_jobs: Page, server: Server, house: Firm) -> None:
    page = at_jobs
    page.goto(f"{server.url}/jobs/{house.job.pk}/tests")
    file = {"name": "read.csv", "mimeType": "text/csv"}
    chosen = page.get_by_label("File of readings")
    chosen.set_input_files({**file, "buffer": b"circuit,quantity,value\nA4,r1r2,0.2\nA99,r1r2,0.2\n"})
    save = page.locator("[data-preview]").get_by_role("button", name=re.compile("^save"))
    refused = page.locator("[data-line='3']")
    expect(refused).to_contain_text("A99")
    expect(refused).to_contain_text("Not taken. Allowed: the number or name of a circuit or board of the job.")
    expect(save).to_be_disabled()
    chosen.set_input_files(
        {**file, "buffer": b"circuit,quantity,value,volts\nA4,ir_le,>200,500\nShower,ir_ne,over,500\nA4,ir_ln,0.2,500\n"}
    )
    save.click()
    expect(page.get_by_text("3 readings saved.")).to_be_visible()
    shower = page.get_by_role("button", name="Shower")
    expect(shower).to_contain_text("1 to query")
    shower.click()
    expect(page.locator("[data-test=ir_ln]")).to_contain_text("at least 1 MΩ")
    with page.expect_download() as saved:
        page.get_by_role("link", name="save the readings as a file").click()
    assert "A4,ir_ln,0.2," in saved.value.path().read_text()


def test_what_is_there_is_graded_by_facts_overruled_with_a_reason_and_cured(at_jobs: Page, server: Server, house: Firm) -> None:
    page, shower = at_jobs, named(house, "Shower")
    shower.existing = True
    shower.save()
    page.goto(f"{server.url}/jobs/{house.job.pk}/existing")
    expect(page.get_by_text("Unsatisfactory")).to_be_visible()
    capacity = page.locator(f"[data-observation='{shower.pk}/capacity']")
    expect(page.get_by_role("region", name="Potentially dangerous")).to_contain_text("A4 Shower")
    capacity.get_by_text("remedies").click()
    expect(capacity.get_by_role("listitem").first).to_contain_text("costs")
    capacity.get_by_text("change the grade").click()
    capacity.get_by_role("combobox").select_option("improve")
    expect(capacity.get_by_role("button", name="save the grade")).to_be_disabled()
    capacity.get_by_label("The reason").fill("the shower is out of use")
    capacity.get_by_role("button", name="save the grade").click()
    expect(page.get_by_role("region", name="Improvement recommended")).to_contain_text(f"Graded by {house.username}")
    eye = page.get_by_role("region", name="Visual inspection")
    eye.get_by_label("Where").fill("hall, beside the meter")
    eye.get_by_label("Live parts can be touched").check()
    expect(eye.get_by_role("alert")).to_contain_text("Make it safe now")
    eye.get_by_role("button", name="add").click()
    expect(page.get_by_role("region", name="Danger present")).to_contain_text("hall, beside the meter")
    page.get_by_label("How, and about when").fill("loft quilt, about 2019")
    page.get_by_role("region", name="Basis of the inspection").get_by_role("button", name="add").first.click()
    expect(page.get_by_text("thermal insulation added: loft quilt")).to_be_visible()
    page.get_by_role("button", name="put right: remove it").click()
    expect(page.get_by_role("region", name="Danger present")).to_have_count(0)


def test_a_design_is_issued_signed_changed_and_compared(at_jobs: Page, server: Server, house: Firm) -> None:
    page = at_jobs
    page.goto(f"{server.url}/jobs/{house.job.pk}/revisions")
    expect(page.get_by_text("Not issued yet")).to_be_visible()
    page.get_by_label("A note on it").fill("for the client")
    page.get_by_role("button", name="issue revision 1").click()
    one = page.locator("[data-revision='1']")
    expect(one).to_contain_text("as it stands")
    expect(one).to_contain_text("failing or not known")
    # Nothing new: no second one.
    page.get_by_role("button", name="issue revision 2").click()
    expect(page.get_by_role("alert")).to_contain_text("a change since revision 1")
    one.get_by_text("Read its working and sign").click()
    sign = one.get_by_role("button", name="sign revision 1")
    expect(sign).to_be_disabled()
    boxes = one.get_by_label("working read")
    for k in range(boxes.count()):
        boxes.nth(k).check()
    expect(sign).to_be_disabled()
    # Reading leads to the circuit and back, and what was read stays read.
    one.get_by_role("link", name="Shower").click()
    page.get_by_role("heading", name="Checks").wait_for()
    page.go_back()
    one.get_by_text("Read its working and sign").click()
    expect(one.get_by_text("not read yet")).to_have_count(0)
    one.get_by_role("textbox").fill("the shower waits for its cable")
    sign.click()
    expect(one).to_contain_text(f"Signed by {house.username}")
    with page.expect_download() as saved:
        one.get_by_role("link", name="save as a file").click()
    text = saved.value.path().read_text("utf-8")
    expect(one).to_contain_text("sealed with the firm’s key")
    page.goto(f"{server.url}/firm")
    key = page.locator("[data-key]").inner_text()
    proof = prove_text(text, key)
    assert (proof.stands, proof.made_here, proof.signed) == (True, True, house.username)
    assert not prove_text(text.replace("waits for", "has got"), key).stands
    page.goto(f"{server.url}/jobs/{house.job.pk}/circuits/{named(house, 'Shower').pk}")
    page.locator('[data-word="cable"]').click()
    page.keyboard.type("16 flat")
    page.keyboard.press("Enter")
    page.locator("[data-phase=saved]").wait_for()
    page.get_by_role("list", name="On site").get_by_role("link", name="Revisions").click()
    expect(one).to_contain_text("changed since")
    between = page.get_by_role("region", name="Compare revisions")
    expect(between).to_contain_text("10 mm² became 16 mm²")
    expect(between).to_contain_text("A4 Shower")


def test_a_board_is_read_and_a_point_nobody_entered_too(at_jobs: Page, server: Server, house: Firm) -> None:
    page = at_jobs
    page.goto(f"{server.url}/jobs/{house.job.pk}/tests")
    page.get_by_role("button", name="House board").click()
    page.get_by_label("Dead tests are complete and I have read this: the supply may be energised").check()
    ze = page.locator("[data-test=ze]")
    expect(ze).to_contain_text("0.280 Ω is the design value")
    ze.get_by_role("textbox").fill("0.35")
    ze.get_by_role("button", name="save").click()
    expect(ze).to_contain_text("enter it, and recheck what depends on it")
    page.get_by_label("Circuit or board").select_option(label="A4 Shower")
    form = page.get_by_role("form", name="A test at another point")
    # Nothing that needs the supply is asked before it may be put on.
    asked = form.get_by_role("combobox").locator("option")
    expect(asked.filter(has_text="Zs")).to_have_count(0)
    page.get_by_label("Dead tests are complete and I have read this: the supply may be energised").check()
    expect(asked.filter(has_text="Zs")).to_have_count(1)
    form.get_by_role("combobox").select_option(label="R1 + R2")
    form.get_by_label("Ω").fill("0.05")
    form.get_by_role("button", name="save").click()
    expect(form.get_by_role("alert")).to_contain_text("Enter where it was taken")
    form.get_by_label("where").fill("joint found in the loft")
    form.get_by_role("button", name="save").click()
    expect(page.locator("[data-point='joint found in the loft']")).to_contain_text("0.05 Ω")
    form.get_by_role("combobox").select_option(label="Insulation, line to earth")
    form.get_by_role("button", name="over").click()
    expect(page.locator("[data-test=ir_le][data-point='joint found in the loft']")).to_contain_text("over range")
    becomes(lambda: set(Entry.objects.filter(job=house.job).values_list("kind", flat=True)), {"board_reading", "reading"})


def test_a_file_of_an_instrument_is_shown_as_it_was_read_before_it_is_taken(
    at_jobs: Page, server: Server, house: Firm, tmp_path: Path
) -> None:
    page = at_jobs
    page.goto(f"{server.url}/jobs/{house.job.pk}/tests")
    file = tmp_path / "tester.csv"
    file.write_text("Tester 9\n\nCircuit;Zs (Ω);Ipf;IR L-E\nA4;0,35;1,234;>999 MΩ\nA;;;\n", "utf-16")
    load = page.get_by_label("File of readings")
    load.set_input_files(file)
    preview = page.locator("[data-preview]")
    expect(preview).to_contain_text("3 readings found (utf-16, 2 lines before its table)")
    save = preview.get_by_role("button", name=re.compile("^save"))
    # 1,234 may be either: nothing is guessed.
    expect(preview.get_by_role("alert")).to_contain_text("What does 1,234 mean?")
    expect(save).to_be_disabled()
    preview.get_by_role("button", name=re.compile(r"^1234 A$")).click()
    expect(preview.get_by_role("row").nth(2)).to_contain_text(re.compile(r"Ipf, line to neutral1,2341234 A"))
    expect(preview.get_by_role("row").nth(3)).to_contain_text("over 999 MΩ")
    assert violations(page) == []
    assert not Entry.objects.filter(job=house.job).exists()
    save.click()
    becomes(lambda: Entry.objects.filter(job=house.job, kind="reading").count(), 3)
    assert {e.data["quantity"]: e.data["value"] for e in Entry.objects.filter(job=house.job)} == {"zs": 0.35, "ipf": 1234, "ir_le": 999}
    # The same file again adds nothing; a line that cannot be taken is told, and nothing of its file is.
    load.set_input_files(file)
    preview.get_by_role("button", name=re.compile(r"^1234 A$")).click()
    save.click()
    expect(page.get_by_text("3 readings saved.")).to_be_visible()
    file.write_text("circuit,zs\nA4,0.3\nZ9,0.4\nA3,red\n", "utf-8")
    load.set_input_files(file)
    expect(preview).to_contain_text("2 lines are not taken, so nothing is saved yet")
    expect(save).to_be_disabled()
    expect(page.get_by_text(re.compile("entr(y waits|ies wait)"))).to_have_count(0)
    assert Entry.objects.filter(job=house.job).count() == 3
