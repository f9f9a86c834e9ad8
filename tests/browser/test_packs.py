"""Tables of one's own as a person meets them: a pack that is wrong, one that is taken in, a job put under it, what a newer version would turn."""

from __future__ import annotations

from pathlib import Path

from playwright.sync_api import Page, expect

from mellow_span.exchange.packs import as_zip, from_folder, from_texts
from mellow_span.jobs.models import Job, Pack
from tests.browser.conftest import Server
from tests.browser.hands import saved
from tests.browser.test_access import violations
from tests.conftest import Firm

HEAD = 'id = "amps"\ntitle = "Amps of a maker"\nversion = "{}"\nover = "bs7671"\nsource = "made up"\n[[table]]\nid = "4D5"\nfile = "amps.csv"\nrows = true\n'


def zip_at(path: Path, version: str, cells: str) -> str:
    pack = from_texts([("pack.toml", HEAD.format(version)), ("amps.csv", f"size,C\n{cells}\n")])
    path.write_bytes(as_zip(pack))
    return str(path)


def test_a_pack_is_brought_in_used_by_a_job_and_followed_by_a_newer_one(
    at_jobs: Page, house: Firm, server: Server, searcher: None, tmp_path: Path
) -> None:
    page = at_jobs
    page.get_by_role("link", name="Your own tables").click()
    page.get_by_role("heading", name="Your own tables").wait_for()
    looking = page.get_by_label("check a pack: a zip, or its files")
    # What is wrong is told cell by cell, and nothing is kept.
    looking.set_input_files(zip_at(tmp_path / "bad.zip", "1", "6,4s\n10,-3"))
    wrong = page.locator("[data-wrong]")
    expect(wrong).to_contain_text("2 errors in this pack")
    expect(wrong.get_by_role("row").nth(1)).to_contain_text("amps.csv, line 2, C")
    expect(wrong.get_by_role("row").nth(1)).to_contain_text("4s")
    expect(page.get_by_role("button", name="add it")).to_have_count(0)
    assert violations(page) == []
    # The example of the documentation, as loose files.
    looking.set_input_files([str(p) for p in sorted(Path("docs/format/packs/fuses-by-i2").iterdir())])
    seen = page.get_by_label("The pack that was looked at")
    expect(seen).to_contain_text("No errors found in Fuses by their I2, version 1")
    expect(seen).to_contain_text("Its numbers are not stated to be checked †")
    seen.get_by_role("button", name="add it").click()
    expect(page.locator(f"[data-pack='{from_mark()}']")).to_contain_text("No job uses it")
    looking.set_input_files(zip_at(tmp_path / "amps.zip", "1", "6,45"))
    page.get_by_role("button", name="add it").click()
    amps = page.locator("[data-pack]").filter(has_text="Amps of a maker")
    expect(amps).to_contain_text("version 1")
    assert violations(page) == []
    # A job beside it, put under it as a copy that is kept.
    page.goto(f"{server.url}/jobs/{house.job.pk}/books?book=bs7671")
    # What is chosen stands in the address, so the box follows a moment later.
    page.get_by_label("with Amps of a maker 1").click()
    expect(page.get_by_label("with Amps of a maker 1")).to_be_checked()
    expect(page.locator("[data-turned]")).to_be_visible()
    page.get_by_role("button", name="make a what-if copy under it").click()
    copy = page.locator("[data-copy]").filter(has_text="Amps of a maker 1")
    copy.get_by_role("button", name="apply to the job").click()
    saved(page)
    mark = Pack.objects.get(firm=house.member.firm, name="amps").mark
    expect(page.locator("[data-copy]").filter(has_text="Amps of a maker 1")).to_have_count(0)
    assert Job.objects.get(pk=house.job.pk).ruleset == f"bs7671+{mark}"
    page.goto(f"{server.url}/jobs/{house.job.pk}/tables/4D5?row=6&column=C")
    expect(page.locator("td[data-lit]")).to_contain_text("45")
    # A newer version: what it would turn is listed by clause, and the job stays as it is.
    page.goto(f"{server.url}/packs")
    page.get_by_label("check a pack: a zip, or its files").set_input_files(
        zip_at(tmp_path / "2.zip", "2", "1,9\n1.5,12\n2.5,20\n4,26\n6,30")
    )
    page.get_by_role("button", name="add it").click()
    listed = page.locator("[data-recheck]").filter(has_text="version 2, in place of an earlier one")
    expect(listed).to_contain_text("1 job checked")
    expect(listed.get_by_role("heading", name="433.1.1")).to_be_visible()
    expect(listed).to_contain_text("Orchard Row, Cooker, cable capacity")
    assert Job.objects.get(pk=house.job.pk).ruleset == f"bs7671+{mark}"
    assert violations(page) == []
    amps = page.locator(f"[data-pack='{mark}']")
    amps.get_by_role("button", name="withdraw", exact=True).click()
    page.get_by_role("button", name="withdraw it").click()
    expect(amps).to_contain_text("withdrawn")
    expect(amps).to_contain_text("1 job uses it")


def test_a_pack_that_departs_far_shows_where_and_is_confirmed_in_words(at_jobs: Page, house: Firm, tmp_path: Path) -> None:
    page = at_jobs
    page.get_by_role("link", name="Your own tables").click()
    page.get_by_label("check a pack: a zip, or its files").set_input_files(zip_at(tmp_path / "far.zip", "1", "6,60\n10,6.4"))
    wrong = page.locator("[data-wrong]")
    expect(wrong).to_contain_text("more than the size before it carries")
    page.get_by_label("check a pack: a zip, or its files").set_input_files(zip_at(tmp_path / "far.zip", "1", "6,60"))
    departs = page.locator("[data-departs]")
    expect(departs.get_by_role("row").nth(1)).to_have_text("4D51 of 491.28 to 1.2810")
    expect(departs).to_contain_text("Table 4D5, 6, C: 47 in the book, 60 here")
    expect(departs).to_contain_text("1 value over 10 % on the unsafe side")
    add = page.get_by_role("button", name="add it")
    expect(add).to_be_disabled()
    words = page.get_by_label("Why these values are right")
    words.fill("it is")
    add.click()
    expect(page.locator("[data-wrong]")).to_contain_text("in at least 3 words")
    assert not Pack.objects.filter(firm=house.member.firm).exists()
    words.fill("read in the sheet of the maker, page 4")
    assert violations(page) == []
    add.click()
    expect(page.locator("[data-pack]")).to_contain_text("Confirmed: “read in the sheet of the maker, page 4”")


def from_mark() -> str:
    from mellow_span.core.rulesets.packs import mark

    return mark(from_folder(Path("docs/format/packs/fuses-by-i2")))
