"""How far a pack departs: what it changes, what of it lies on the unsafe side, what looks like another unit; and what two packs both set."""

from __future__ import annotations

import pytest

from mellow_span.core.errors import InputError
from mellow_span.core.findings.why import why
from mellow_span.core.model.parts import Pack
from mellow_span.core.rulesets import rule_set
from mellow_span.core.rulesets.pack_about import MAY_LACK
from mellow_span.core.rulesets.pack_departure import LARGER, SMALLER, departure
from mellow_span.core.rulesets.packs import joined, mark
from mellow_span.core.rulesets.readings import layered
from mellow_span.core.rulesets.troubles import BadPack
from mellow_span.exchange.packs import checked
from tests.core.test_packs import pack

ROWS = '[[table]]\nid = "{}"\nfile = "cells.csv"\nrows = true\n'
BOOK = rule_set("bs7671")


def of(number: str, cells: str) -> object:
    return departure(BOOK, checked(pack(ROWS.format(number), cells__csv=cells)))


# A table, a row of cells a little on the unsafe side, and the same a little on the safe one; the value of the book lies between.
SIDES = [
    ("4D5", "size,C\n6,48\n", "size,C\n6,46\n"),
    ("4B1", "air_c,pvc70\n35,0.95\n", "air_c,pvc70\n35,0.93\n"),
    ("4C1", "circuits,bunched_or_enclosed\n2,0.81\n", "circuits,bunched_or_enclosed\n2,0.79\n"),
    ("4D2B", "size,ph1_z\n6,7.2\n", "size,ph1_z\n6,7.4\n"),
    ("R20", "size,cu_mohm_per_m_20C\n6,3.0\n", "size,cu_mohm_per_m_20C\n6,3.2\n"),
]


@pytest.mark.parametrize(("number", "unsafe", "safe"), SIDES, ids=[s[0] for s in SIDES])
def test_the_unsafe_side_of_a_table_is_known(number: str, unsafe: str, safe: str) -> None:
    keys = BOOK.tables[number].keys[0].columns[0]
    up, down = (of(number, ",".join([keys, cells.split(",", 1)[1]])) for cells in (unsafe, safe))
    assert [(t.table, t.changed, t.unsafe) for t in up.tables] == [(number, 1, 1)]  # type: ignore[attr-defined]
    assert [(t.table, t.changed, t.unsafe) for t in down.tables] == [(number, 1, 0)]  # type: ignore[attr-defined]
    assert up.bounds == down.bounds == ()  # type: ignore[attr-defined]


def test_every_table_of_both_books_has_a_side_or_is_taken_for_unsafe() -> None:
    """A table that nobody placed counts each change as unsafe: a new name cannot slip through."""
    assert not LARGER & SMALLER
    changed = (
        of("LIM", "name,value\nvolt_drop_lighting,2\n") if any("volt_drop_lighting" in r.label for r in BOOK.tables["LIM"].rows) else None
    )
    first = BOOK.tables["LIM"].rows[0]
    key = BOOK.tables["LIM"].keys[0].columns[0]
    for value in (first.cells["value"] * 0.99, first.cells["value"] * 1.01):
        found = of("LIM", f"{key},value\n{first.label},{value}\n")
        assert found.tables[0].unsafe == 1  # type: ignore[attr-defined]
    assert changed is None or changed.tables  # type: ignore[attr-defined]


def test_bounds_are_told_for_a_cell_a_share_and_another_unit() -> None:
    far = of("4D5", "size,C\n6,53\n")
    assert [m.told for m in far.unsafe] == ["Table 4D5, 6, C: 47 in the book, 53 here"]  # type: ignore[attr-defined]
    assert far.bounds == ("1 value over 10 % on the unsafe side",)  # type: ignore[attr-defined]
    # A twelfth of the currents is within the bound of a cell; all of them are past that of a share.
    columns = [c for c in BOOK.tables["4D5"].columns if c != "mv"]
    rows = [
        f"{r.label}," + ",".join(f"{(r.cells[c] or 0) * 1.05:g}" if r.cells[c] else "" for c in columns) for r in BOOK.tables["4D5"].rows
    ]
    share = of("4D5", "size," + ",".join(columns) + "\n" + "\n".join(rows) + "\n")
    assert len(share.bounds) == 1  # type: ignore[attr-defined]
    assert "on the unsafe side" in share.bounds[0]  # type: ignore[attr-defined]
    # Ohms where milliohms are meant: safe or not, it is another unit.
    rows = [f"{r.label},{r.cells['ph1_z'] / 1000:g}" for r in BOOK.tables["4D2B"].rows if r.cells["ph1_z"]]
    tens = of("4D2B", "size,ph1_z\n" + "\n".join(rows) + "\n")
    assert any("like another unit" in b for b in tens.bounds)  # type: ignore[attr-defined]
    more = of("4D2B", f"size,ph1_z\n1,{BOOK.tables['4D2B'].rows[0].cells['ph1_z'] * 10}\n")
    assert (more.tables[0].unsafe, len(more.tens)) == (0, 1)  # type: ignore[attr-defined]


def test_values_the_book_does_not_have_are_added_and_a_pack_that_changes_nothing_departs_nowhere() -> None:
    found = of("4D5", "size,C\n25,120\n")
    assert [(t.changed, t.added) for t in found.tables] == [(0, 1)]  # type: ignore[attr-defined]
    assert departure(BOOK, checked(pack())).tables == ()


def two(first: Pack, second: Pack) -> object:
    return layered(joined("bs7671", [mark(first), mark(second)]), (), (first, second))


def test_two_packs_that_set_one_cell_are_not_laid_together() -> None:
    a = pack(ROWS.format("4D5"), head={"id": "aa", "title": "Pack A"}, cells__csv="size,C\n6,45\n10,60\n")
    b = pack(ROWS.format("4D5"), head={"id": "bb", "title": "Pack B"}, cells__csv="size,C,m101\n6,44,\n4,,20\n")
    c = pack(ROWS.format("4D5"), head={"id": "cc", "title": "Pack C"}, cells__csv="size,C,m101\n4,36,\n6,,25\n")
    with pytest.raises(InputError, match=r"Table 4D5, 6, C is in Pack A.* and in Pack B"):
        two(a, b)
    assert two(a, c)
    with pytest.raises(InputError, match="silent is in"):
        two(pack('silent = ["arc_fault"]\n', head={"id": "aa"}), pack('silent = ["inrush"]\n', head={"id": "bb", "title": "Other"}))


@pytest.mark.parametrize("check", [c.id for c in why().checks])
def test_what_holds_back_from_danger_is_asked_under_every_pack(check: str) -> None:
    one = pack(f'not_asked = ["{check}"]\n')
    if check in MAY_LACK:
        assert check in checked(one).not_asked
    else:
        with pytest.raises(BadPack, match="under silent"):
            checked(one)
    assert check in checked(pack(f'silent = ["{check}"]\n')).silent


def test_what_the_book_under_it_lacks_a_pack_may_repeat() -> None:
    assert "ring" in checked(pack('not_asked = ["ring", "ze"]\n', head={"over": "iec60364"})).not_asked


@pytest.mark.parametrize("given", ["5", '"ring"', "[5]", '[["ring"]]', "[{}]", "true"])
def test_lists_that_are_none_are_told_and_break_nothing(given: str) -> None:
    for name in ("not_asked", "silent"):
        with pytest.raises(BadPack) as refused:
            checked(pack(f"{name} = {given}\n"))
        assert any(t.column == name for t in refused.value.troubles), given


REDIRECTED = [
    ("a name", '[[table]]\nid = "mine"\nfile = "cells.csv"\nname = "resistance"\ntitle = "t"\nsource = "s"\nunit = "mΩ/m"\nkeys = ["size"]\n',
     "size,cu_mohm_per_m_20C,al_mohm_per_m_20C\n1,1,1\n2.5,0.5,0.5\n", "resistance: table R20 in the book, mine here"),
    ("columns of a cable", '[family.flat_twin_cpc_pvc70]\ncolumns = {A = ["C", "C"], C = ["C", "C"]}\n', "", "columns"),
    ("another table for a cable", '[family.multicore_xlpe90]\ncapacity = "4D2A"\n', "", "capacity"),
    ("pairs of a cable", '[family.flat_twin_cpc_pvc70]\npairs = {"2.5" = 2.5}\n', "", "pairs"),
    ("the method of a place", '[place.insulated_conduit]\nmethod = "C"\n', "", "method"),
    ("a deemed device", '[device.BS3036]\ndeemed = true\n', "", "deemed"),
    ("a way of laying", '[laid.bunched]\nair = ["4C1", "single_layer_spaced_C"]\n', "", "laid bunched"),
]  # fmt: skip


@pytest.mark.parametrize(("about", "cells", "told"), [r[1:] for r in REDIRECTED], ids=[r[0] for r in REDIRECTED])
def test_what_is_looked_up_elsewhere_is_told_though_no_number_changed(about: str, cells: str, told: str) -> None:
    one = pack(about, **({"cells__csv": cells} if cells else {}))
    found = departure(BOOK, checked(one))
    assert any(told in line for line in found.otherwise), found.otherwise
    assert any("read otherwise" in line for line in found.bounds)


def test_what_only_asks_for_more_need_not_be_confirmed() -> None:
    stricter = pack('[device."BS88-2"]\ndeemed = false\ntitle = "called otherwise"\n')
    assert departure(BOOK, checked(stricter)).bounds == ()


def test_cells_of_words_that_are_others_are_told() -> None:
    first = BOOK.tables["LIM"].rows[0].label
    assert of("LIM", f"key,unit\n{first},kA\n").otherwise  # type: ignore[attr-defined]
    assert of("LIM", f"key,unit\n{first},kA\n").bounds  # type: ignore[attr-defined]
    assert not of("LIM", f"key,clause\n{first},9.9\n").otherwise, "what it is called changes no figure"  # type: ignore[attr-defined]
