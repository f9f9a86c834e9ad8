"""Packs: laid over a book they change what they say and nothing else; each kind of mistake is refused by file, line, column and name."""

from __future__ import annotations

import dataclasses
import io
import json
import zipfile
from pathlib import Path

import pytest

from mellow_span.core.design.check import check
from mellow_span.core.errors import InputError
from mellow_span.core.model.parts import Installation, Pack
from mellow_span.core.rulesets import RuleSet, rule_set
from mellow_span.core.rulesets.fingerprint import fingerprint
from mellow_span.core.rulesets.fitting import hold_to
from mellow_span.core.rulesets.packs import at_hand, digest, joined, mark
from mellow_span.core.rulesets.readings import layered, rules_of
from mellow_span.core.rulesets.troubles import BadPack
from mellow_span.exchange.document import read, write
from mellow_span.exchange.issue import issued, prove
from mellow_span.exchange.packs import as_zip, checked, from_folder, from_texts, from_zip

EXAMPLE = Path("docs/format/packs/fuses-by-i2")
HEAD = {"id": "mine", "title": "Mine", "version": "1", "over": "bs7671", "source": "a made-up sheet"}


def pack(about: str = "", head: dict[str, str] | None = None, **files: str) -> Pack:
    top = "\n".join(f'{k} = "{v}"' for k, v in {**HEAD, **(head or {})}.items() if v)
    texts = {name.replace("__", "."): text for name, text in files.items()}
    return from_texts([("pack.toml", f"{top}\n{about}"), *texts.items()])


def laid(one: Pack, book: str = "bs7671") -> RuleSet:
    checked(one)
    return layered(joined(book, [mark(one)]), (), (one,))


def under(job: Installation, *packs: Pack) -> Installation:
    return dataclasses.replace(job, ruleset=joined("bs7671", map(mark, packs)), packs=packs)


def demo(name: str) -> Installation:
    return read(json.loads((Path("mellow_span/demo") / f"{name}.json").read_text("utf-8")))


ROWS = '[[table]]\nid = "{}"\nfile = "cells.csv"\nrows = true\n'

# What it lays over -----------------------------------------------------------------------------------------------------


def test_the_example_asks_i2_of_every_fuse_and_changes_nothing_else() -> None:
    """In 63 A on Iz 65: I2 = 1.6 x 63 = 100.8 A, 1.45 Iz = 94.3 A: deemed in the book, short with the pack. In 63 on Iz 70: 101.5 A, it holds."""
    example = from_folder(EXAMPLE)
    rules = laid(example)
    assert [k for k, d in rules.devices.items() if d.deemed] == []
    job = demo("tern_quay")
    fused = [c for c in job.circuits if c.device.kind.startswith("BS88")]
    assert fused, "the demo has fuses"
    before, after = check(job, keep=False), check(under(job, example), keep=False)
    turned = set()
    for old, new in zip(before.circuits, after.circuits, strict=True):
        for a, b in zip(old.checks, new.checks, strict=True):
            if a.verdict != b.verdict:
                turned.add((new.id, b.id))
            if b.id == "overload_current" and new.id in {c.id for c in fused}:
                assert b.decides
                assert b.value is not None
                assert b.limit is not None
                assert (b.verdict == "short") == (b.value > b.limit)
    assert {check for _, check in turned} <= {"overload_current"}
    assert {circuit for circuit, _ in turned} <= {c.id for c in fused}


def test_rows_take_the_place_of_cells_and_the_rest_of_the_table_stays() -> None:
    rules, book = laid(pack(ROWS.format("4D5"), cells__csv="size,C\n6,45.5\n")), rule_set("bs7671")
    mine, theirs = rules.tables["4D5"], book.tables["4D5"]
    assert mine.cell(6.0, "C").value == 45.5
    assert mine.cell(6.0, "m101").value == theirs.cell(6.0, "m101").value
    assert [r.label for r in mine.rows] == [r.label for r in theirs.rows]
    assert mine.row(6.0).read["C"] == "Mine, version 1"
    assert rule_set("bs7671").tables["4D5"].cell(6.0, "C").value == 47, "the book itself stays as it is"
    changed = [n for n, t in rules.tables.items() if t.rows != book.tables[n].rows]
    assert changed == ["4D5"]


def test_a_number_that_nobody_checked_is_doubtful_and_one_that_somebody_did_is_not() -> None:
    cells = "size,C\n6,45.5\n"
    assert laid(pack(ROWS.format("4D5"), cells__csv=cells)).tables["4D5"].cell(6.0, "C").check
    sure = laid(pack(ROWS.format("4D5"), {"checked": "A. Person against the sheet"}, cells__csv=cells))
    assert not sure.tables["4D5"].cell(6.0, "C").check


def test_a_row_between_sizes_is_put_in_its_place_and_can_be_chosen() -> None:
    cells = "size,m100,m101,m102,m103,C,A,mv\n8,40,30,42,25,55,38,5.5\n"
    rules = laid(pack(ROWS.format("4D5"), cells__csv=cells))
    assert 8 in rules.families["flat_twin_cpc_pvc70"].sizes
    sizes = rules.families["flat_twin_cpc_pvc70"].sizes
    assert sizes == tuple(sorted(sizes))
    assert rules.tables["4D5"].cell(8.0, "C").value == 55


FAMILY = """
[[table]]
id = "M1"
file = "m1.csv"
title = "Capacities by the maker"
source = "sheet 7"
unit = "A"
keys = ["size"]
[family.maker_flat]
title = "maker's flat cable"
insulation = "pvc70"
capacity = "M1"
columns = { C = ["C2"] }
drop = "4D5"
drop_columns = { 1 = "mv" }
cpc = "in_cable"
pairs = { "2.5" = 1.5, "4" = 1.5 }
[place.felt]
title = "on a board of felt"
method = "C"
look = "timber"
laid = ["bunched"]
[device.maker_breaker]
title = "maker's breaker"
trips = "breaker"
conventional = "MCB BS EN 60898 / RCBO BS EN 61009"
[clause]
overload = "sheet 7, 3"
"""


def test_a_cable_a_place_and_a_device_of_a_makers_are_used_like_those_of_the_book() -> None:
    one = pack(FAMILY, m1__csv="size,C2\n2.5,31\n4,41\n", words__toml='[family]\nmaker_flat = ["felt flat"]\n')
    rules = laid(one)
    assert rules.families["maker_flat"].sizes == (2.5, 4.0)
    assert rules.clause("overload") == "sheet 7, 3"
    job = demo("orchard_row")
    cooker = next(c for c in job.circuits if c.name == "Cooker")
    spans = tuple(dataclasses.replace(s, place="felt", route=None) for s in cooker.run.spans)
    cable = dataclasses.replace(cooker.run.cable, family="maker_flat", csa=4.0, cpc_csa=None)
    mine = dataclasses.replace(
        cooker,
        device=dataclasses.replace(cooker.device, kind="maker_breaker"),
        run=dataclasses.replace(cooker.run, cable=cable, spans=spans),
    )
    job = under(dataclasses.replace(job, circuits=tuple(mine if c.id == mine.id else c for c in job.circuits)), one)
    assert read(write(job)) == job, "the pack goes along in the file"
    found = next(c for c in check(job).circuits if c.id == mine.id)
    assert found.iz == 41
    steps = next(c for c in found.checks if c.id == "capacity").steps
    assert any(s.cite and s.cite.table == "M1" and s.cite.read == "Mine, version 1" and s.cite.check for s in steps)


def test_what_a_pack_has_no_data_for_is_not_known_under_it() -> None:
    job = under(demo("orchard_row"), pack('silent = ["loop"]\n'))
    for circuit in check(job, keep=False).circuits:
        found = next((c for c in circuit.checks if c.id == "loop"), None)
        assert found is None or found.verdict == "not_known"
        assert found is None or circuit.verdict in ("not_known", "short")


def test_packs_lie_over_one_book_together_whatever_their_order() -> None:
    first = pack(ROWS.format("4D5"), cells__csv="size,C\n6,45\n")
    second = pack(ROWS.format("4D5"), {"id": "second"}, cells__csv="size,C\n10,60\n")
    for packs in ((first, second), (second, first)):
        both = layered(joined("bs7671", map(mark, packs)), (), (second, first))
        assert [both.tables["4D5"].cell(size, "C").value for size in (6.0, 10.0)] == [45, 60]


def test_prices_and_words_of_a_pack_are_used() -> None:
    from mellow_span.core.design.prices import shipped, with_pack
    from mellow_span.core.said.line import read_line

    one = pack(prices__csv="item,name,size,price\ncable,flat_twin_cpc_pvc70,6,99\n", words__toml='[place]\ntimber = ["up the newel"]\n')
    rules = laid(one)
    book = with_pack(shipped(), rules)
    assert book.of_cable("flat_twin_cpc_pvc70", 6) == 99
    assert book.of_cable("flat_twin_cpc_pvc70", 10) == shipped().of_cable("flat_twin_cpc_pvc70", 10)
    said = read_line(rules, "cooker 7kW b32 6 flat: up the newel 4")
    assert [span["place"] for span in said.spans] == ["timber"]


# What a job and an issue keep ------------------------------------------------------------------------------------------


def test_a_pack_is_known_by_what_is_in_it() -> None:
    one = from_folder(EXAMPLE)
    assert mark(from_zip(as_zip(one))) == mark(one)
    assert as_zip(one) == as_zip(from_zip(as_zip(one)))
    windows = from_texts([(f.name, f.text.replace("\n", "\r\n")) for f in one.files])
    assert digest(windows) == digest(one)
    other = from_texts([(f.name, f.text + ("\n" if f.name == "pack.toml" else "")) for f in one.files])
    assert mark(other) != mark(one)


def test_a_file_without_its_pack_or_with_one_that_was_changed_is_refused() -> None:
    job = under(demo("orchard_row"), from_folder(EXAMPLE))
    document = write(job)
    without = json.loads(json.dumps(document))
    del without["installation"]["packs"]
    with pytest.raises(InputError, match="packs that are at hand"):
        read(without)
    changed = json.loads(json.dumps(document))
    changed["installation"]["packs"][0]["files"][0]["text"] += "\n"
    with pytest.raises(InputError, match="packs that are at hand"):
        read(changed)


def test_an_issued_design_is_proved_with_the_pack_it_carries() -> None:
    job = under(demo("tern_quay"), from_folder(EXAMPLE))
    document = json.loads(json.dumps(issued(job, 1, "2026-01-05T10:00:00+00:00", "A. Person")))
    proof = prove(document)
    assert proof.stands
    assert proof.tables
    assert fingerprint(job.ruleset, job.packs) != fingerprint("bs7671")


def test_at_most_four_and_none_twice() -> None:
    packs = [pack(head={"id": f"number-{n}"}) for n in range(5)]
    with pytest.raises(InputError, match="at most 4"):
        at_hand(joined("bs7671", map(mark, packs)), packs)
    with pytest.raises(InputError, match="each pack once"):
        at_hand(joined("bs7671", [mark(packs[0])] * 2), packs)
    assert rules_of(under(demo("orchard_row"), *packs[:4])).title.count("Mine 1") == 4


def test_a_service_fuse_of_ones_own_is_chosen_by_name_and_holds_its_supply() -> None:
    """A fuse that is the book's gG fuse by another name gives what that gives; without the pack the job cannot stand under the book."""
    cutout = pack('[device.cutout]\ntitle = "cut-out fuse"\ntrips = "fuse"\nconventional = "BS88-2 gG"\nservice = true\n')
    house = demo("orchard_row")
    assert "cutout" in laid(cutout).choices["service"]
    assert "mcb" not in laid(cutout).choices["service"]
    mine = dataclasses.replace(under(house, cutout), supply=dataclasses.replace(house.supply, fuse_kind="cutout"))
    assert check(mine, keep=False).circuits[0].verdict == check(house, keep=False).circuits[0].verdict
    with pytest.raises(InputError, match="cutout"):
        hold_to(dataclasses.replace(mine, ruleset="bs7671", packs=()), rule_set("bs7671"))


COLOURS = "line = {0}\nL1 = {0}\nL2 = 'black'\nL3 = 'white'\nneutral = 'blue'\ncpc = 'green-yellow'\n"


def test_colours_of_a_country_are_taken_whole_and_what_they_mean_is_told() -> None:
    code = laid(pack(f"[colours]\n{COLOURS.format(repr('red'))}[colours.older]\nbefore = 1980\n{COLOURS.format(repr('grey'))}")).colours
    assert (code.today["line"], code.older["line"], code.before, code.traps) == ("red", "grey", 1980, "")
    assert rule_set("bs7671").colours.traps == "blue was a line and black the neutral"
    assert laid(pack(f"[colours]\n{COLOURS.format(repr('red'))}")).colours.older == {}, "none is left over from the book under it"


# Each kind of mistake --------------------------------------------------------------------------------------------------

WHOLE = '[[table]]\nid = "{}"\nfile = "cells.csv"\n'
CONV = "device,in_from,in_to,i1_multiple,i2_multiple,time_h\n"
MISTAKES: list[tuple[str, Pack, str, int, str, str]] = [
    # what is wrong, the pack, file, line, column, part of what is said
    ("no pack.toml", from_texts([("cells.csv", "a,b\n")]), "pack.toml", 0, "", "which says what the pack is"),
    ("bad TOML", from_texts([("pack.toml", 'id = "x"\ntitle = \n')]), "pack.toml", 2, "", "a file in TOML"),
    ("not entered of its source", pack(head={"source": ""}), "pack.toml", 0, "source", "cannot be left out"),
    ("an id with a blank", pack(head={"id": "my pack"}), "pack.toml", 0, "id", "small letters"),
    ("a version with a stroke", pack(head={"version": "1/2"}), "pack.toml", 0, "version", "letters, digits"),
    ("over no book", pack(head={"over": "mine"}), "pack.toml", 0, "over", "bs7671, iec60364"),
    ("an unknown name", pack("colour = 3\n"), "pack.toml", 0, "colour", "one of id, title"),
    ("a breaker ahead of the meter", pack('[device.mcb]\nservice = true\n'), "pack.toml", 0, "device.mcb.service", "a fuse alone"),
    ("a colour nobody knows", pack(f"[colours]\n{COLOURS.format(repr('sand'))}"), "pack.toml", 0, "colours.line", "brown, black"),
    ("a country without colours", pack("[colours]\n"), "pack.toml", 0, "colours.line", "brown, black"),
    ("a conductor without its colour", pack("[colours]\nline = 'red'\n"), "pack.toml", 0, "colours.neutral", "brown, black"),
    ("older colours of no year", pack(f"[colours]\n{COLOURS.format(repr('red'))}[colours.older]\n{COLOURS.format(repr('red'))}"), "pack.toml", 0, "colours.older.before", "a year"),
    ("text where a list belongs", pack('silent = "charging"\n'), "pack.toml", 0, "silent", "a list"),
    ("a check that is none", pack('not_asked = ["rings"]\n'), "pack.toml", 0, "not_asked", "names of checks"),
    ("a check that every book asks", pack('not_asked = ["loop"]\n'), "pack.toml", 0, "not_asked", "under silent"),
    ("a file that is not there", pack(WHOLE.format("4D5")), "pack.toml", 0, "table[0].file", "a file of the pack"),
    ("a file nothing names", pack(cells__csv="a\n1\n"), "cells.csv", 0, "", "only files that pack.toml names"),
    ("a file in a folder", from_texts([("a/cells.csv", "a\n"), ("pack.toml", "")]), "a/cells.csv", 0, "", "no folders"),
    ("a table twice", pack(ROWS.format("4D5") * 2, cells__csv="size,C\n6,45\n"), "pack.toml", 0, "table[1].id", "each table once"),
    ("rows of a table that is none", pack(ROWS.format("4Z9"), cells__csv="size,C\n6,45\n"), "pack.toml", 0, "table.rows", "number of a table"),
    ("a new table without a title", pack(WHOLE.format("M1"), cells__csv="size,C\n6,45\n"), "pack.toml", 0, "table[0].title", "no such table"),
    ("a name out of the vocabulary", pack(WHOLE.format("4D5") + 'name = "amps"\n', cells__csv="size\n"), "pack.toml", 0, "table[0].name", "vocabulary"),
    ("no key column", pack(ROWS.format("4D5"), cells__csv="csa,C\n6,45\n"), "cells.csv", 1, "", "size"),
    ("a column twice", pack(ROWS.format("4D5"), cells__csv="size,C,C\n6,45,45\n"), "cells.csv", 1, "", "each column once"),
    ("a column the table has not", pack(ROWS.format("4D5"), cells__csv="size,K\n6,45\n"), "cells.csv", 1, "", "columns of the table"),
    ("a whole table that lost a column", pack(WHOLE.format("4D5"), cells__csv="size,C\n6,45\n"), "cells.csv", 1, "", "every column"),
    ("a cell too many", pack(ROWS.format("4D5"), cells__csv="size,C\n6,45,1\n"), "cells.csv", 2, "", "2 cells"),
    ("a word for a number", pack(ROWS.format("4D5"), cells__csv="size,C\n4,35\n6,4s\n"), "cells.csv", 3, "C", "a number with a point"),
    ("a comma in a number", pack(ROWS.format("4D5"), cells__csv='size,C\n6,"45,5"\n'), "cells.csv", 2, "C", "a number with a point"),
    ("no number", pack(ROWS.format("4D5"), cells__csv="size,C\n6,nan\n"), "cells.csv", 2, "C", "from 0 up"),
    ("a number under nought", pack(ROWS.format("4D5"), cells__csv="size,C\n6,-45\n"), "cells.csv", 2, "C", "from 0 up"),
    ("a row twice", pack(ROWS.format("4D5"), cells__csv="size,C\n6,45\n6,45\n"), "cells.csv", 3, "", "line 2 too"),
    ("a row found by nothing", pack(ROWS.format("4D5"), cells__csv="size,C\n,45\n"), "cells.csv", 2, "size", "found by"),
    ("a key that is no number", pack(ROWS.format("4B1"), cells__csv="ambient_c,pvc70\nwarm,1\n"), "cells.csv", 2, "ambient_c", "a number"),
    ("a size in words", pack(ROWS.format("4D5"), cells__csv="size,C\nsix,45\n"), "cells.csv", 2, "size", "a number"),
    ("no rows", pack(ROWS.format("4D5"), cells__csv="size,C\n"), "cells.csv", 0, "", "at least one row"),
    ("a band that ends ahead of it begins", pack(ROWS.format("I1-I2"), cells__csv=CONV + "BS88-3,63,20,1,1.6,1\n"), "cells.csv", 2, "in_to", "above"),
    ("bands over each other", pack(ROWS.format("I1-I2"), cells__csv=CONV + "BS88-3,0,40,1,1.6,1\n"), "cells.csv", 2, "in_from", "lie over"),
    ("a larger size that carries less", pack(ROWS.format("4D5"), cells__csv="size,C\n6,30\n"), "cells.csv", 2, "C", "more than the size before"),
    ("a smaller size that carries more", pack(ROWS.format("4D5"), cells__csv="size,C\n4,64\n"), "cells.csv", 2, "C", "more than the size before"),
    ("a current of nought", pack(ROWS.format("4D5"), cells__csv="size,C\n1,0\n"), "cells.csv", 2, "C", "over 0 A"),
    ("a drop that grows with size", pack(ROWS.format("4D5"), cells__csv="size,mv\n6,11.5\n"), "cells.csv", 2, "mv", "no more than the size before"),
    ("a factor in per cent", pack(ROWS.format("4C1"), cells__csv="GROUPED"), "cells.csv", 2, "bunched_or_enclosed", "a factor over 0"),
    ("a device that trips like none", pack('[device.mcb]\ntrips = "slow"\n'), "pack.toml", 0, "device.mcb.trips", "breaker, adjustable, fuse"),
    ("a device without a row of currents", pack('[device.mcb]\nconventional = "none of it"\n'), "pack.toml", 0, "device.mcb.conventional", "a row of"),
    ("a new device of which too little is said", pack('[device.x]\ntitle = "x"\n'), "pack.toml", 0, "device.x.conventional", "no such thing"),
    ("ratings that fall", pack("[device.mcb]\nratings = [32, 16]\n"), "pack.toml", 0, "device.mcb.ratings", "that rise"),
    ("a place of no method", pack('[place.timber]\nmethod = "Q"\n'), "pack.toml", 0, "place.timber.method", "one of"),
    ("a place that looks like none", pack('[place.timber]\nlook = "moss"\n'), "pack.toml", 0, "place.timber.look", "masonry"),
    ("a place where nothing can lie so", pack('[place.timber]\nlaid = ["woven"]\n'), "pack.toml", 0, "place.timber.laid", "bunched"),
    ("a cable of no table", pack('[family.single_pvc70]\ncapacity = "4Z"\n'), "pack.toml", 0, "family.single_pvc70.columns.A", "a table: "),
    ("a cable of no column", pack('[family.single_pvc70]\ncolumns = { C = ["K"] }\n'), "pack.toml", 0, "family.single_pvc70.columns.C", "a column of"),
    ("a cpc of no kind", pack('[family.single_pvc70]\ncpc = "beside"\n'), "pack.toml", 0, "family.single_pvc70.cpc", "in_cable"),
    ("a pair that is none", pack('[family.flat_twin_cpc_pvc70]\npairs = { "6" = 0 }\n'), "pack.toml", 0, "family.flat_twin_cpc_pvc70.pairs", "its cpc"),
    ("a way of laying out of no table", pack('[laid.bunched]\nair = ["4C1", "tight"]\n'), "pack.toml", 0, "laid.bunched.air", "one of its columns"),
    ("a clause for nothing", pack('[clause]\nlunch = "1.2"\n'), "pack.toml", 0, "clause.lunch", "vocabulary of clauses"),
    ("a formula there is not", pack('[variant]\nvolt_drop = "guess"\n'), "pack.toml", 0, "variant.volt_drop", "table, formula"),
    ("a phrase for nothing", pack(words__toml='[place]\nmoon = ["on the moon"]\n'), "words.toml", 0, "place.moon", "masonry"),
    ("a phrase that is taken", pack(words__toml='[place]\ntimber = ["masonry"]\n'), "words.toml", 0, "place.timber", "names nothing else"),
    ("a price of words", pack(prices__csv="item,name,size,price\ncable,x,6,dear\n"), "prices.csv", 0, "price book, line 2", "to a million"),
]  # fmt: skip


@pytest.mark.parametrize(("bad", "file", "line", "column", "said"), [m[1:] for m in MISTAKES], ids=[m[0] for m in MISTAKES])
def test_each_kind_of_mistake_is_refused_by_name(bad: Pack, file: str, line: int, column: str, said: str) -> None:
    if "GROUPED" in [f.text for f in bad.files]:
        table = rule_set("bs7671").tables["4C1"]
        cells = f"{table.keys[0].columns[0]},bunched_or_enclosed\n{table.rows[1].label},80\n"
        bad = from_texts([(f.name, cells if f.name == "cells.csv" else f.text) for f in bad.files])
    with pytest.raises(BadPack) as refused:
        checked(bad)
    troubles = refused.value.troubles
    assert any((t.file, t.line, t.column) == (file, line, column) and said in t.allowed for t in troubles), "\n".join(map(str, troubles))


def test_everything_that_is_wrong_is_told_at_once() -> None:
    bad = pack(ROWS.format("4D5") + '[device.mcb]\ntrips = "slow"\n', cells__csv="size,C\n4,x\n6,y\n10,-1\n")
    with pytest.raises(BadPack) as refused:
        checked(bad)
    assert [(t.file, t.line) for t in refused.value.troubles] == [("cells.csv", 2), ("cells.csv", 3), ("cells.csv", 4), ("pack.toml", 0)]


def test_a_file_that_carries_a_pack_which_leaves_a_vital_check_out_is_refused() -> None:
    """Also where nobody brought the pack in: a job's file, an issued design, the command line."""
    job = under(demo("orchard_row"), pack('not_asked = ["loop"]\n'))
    with pytest.raises(InputError, match="under silent"):
        read(write(job))


def test_a_pack_over_another_book_is_not_laid_over_this_one() -> None:
    one = pack(head={"over": "iec60364"})
    checked(one)
    with pytest.raises(BadPack, match="the book it is to be laid over"):
        layered(joined("bs7671", [mark(one)]), (), (one,))


def zipped(*files: tuple[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        for name, content in files:
            made.writestr(name, content)
    return out.getvalue()


def test_a_zip_is_read_from_its_one_folder_and_a_bad_one_refused() -> None:
    texts = [(f.name, f.text.encode()) for f in from_folder(EXAMPLE).files]
    inside = zipped(*((f"fuses/{name}", text) for name, text in texts), ("fuses/.hidden", b"\xff"))
    assert mark(from_zip(inside)) == mark(from_folder(EXAMPLE))
    for bad, said in (
        (b"no zip at all", "a zip of a pack"),
        (as_zip(from_folder(EXAMPLE))[:-30], "a zip of a pack"),
        (zipped(*((f"{n}.csv", b"a") for n in range(61))), "at most 60 files"),
        (zipped(("pack.toml", b"#" * 1_600_000)), "bytes in all"),
    ):
        with pytest.raises(InputError, match=said):
            from_zip(bad)
    with pytest.raises(BadPack, match="UTF-8"):
        from_zip(zipped(("pack.toml", b"title = '\xff'")))
