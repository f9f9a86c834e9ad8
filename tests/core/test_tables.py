"""Every table of the rule set: shape, order, and the checks that tie one to another."""

from __future__ import annotations

import dataclasses
import math
from pathlib import Path

import pytest

from mellow_span.core.design.check import check
from mellow_span.core.errors import InputError, OutsideTable, RuleSetError
from mellow_span.core.model.parts import CellRead
from mellow_span.core.rulesets import HERE, load_folder, rule_set
from mellow_span.core.rulesets.readings import checked, layered
from tests.build import circuit, job

R = rule_set("bs7671")
CAPACITY = ["4D1A", "4D2A", "4D4A", "4E1A", "4E2A", "4E4A"]
DROPS = {"4D1B": 1.20, "4D2B": 1.20, "4D4B": 1.20, "4E1B": 1.28, "4E2B": 1.28, "4E4B": 1.28}


def column(table: str, name: str) -> list[tuple[float, float]]:
    return [(r.key[0], r.cells[name]) for r in R.table(table).rows if r.cells[name] is not None]


@pytest.mark.parametrize("table", [*CAPACITY, "4D5", "4F3A"])
def test_capacity_grows_with_size(table: str) -> None:
    for name in R.table(table).columns:
        if name == "mv":
            continue
        values = [v for _, v in column(table, name)]
        assert values == sorted(values), f"{table} {name}"


@pytest.mark.parametrize("table", CAPACITY)
def test_three_loaded_carry_no_more_than_two_and_methods_are_ordered(table: str) -> None:
    for row in R.table(table).rows:
        c = row.cells
        for method in "ABCDE":
            if f"{method}_2" in c and c[f"{method}_2"] is not None:
                assert c[f"{method}_3"] <= c[f"{method}_2"], (table, row.label, method)
        order = [c[m] for m in ("A_2", "B_2", "C_2", "E_2") if m in c]
        assert order == sorted(order), (table, row.label)


def test_flat_twin_methods_are_ordered() -> None:
    for row in R.table("4D5").rows:
        c = row.cells
        assert c["m103"] < c["m101"] < c["m100"] <= c["C"], row.label


@pytest.mark.parametrize(("table", "factor"), DROPS.items())
def test_drop_agrees_with_resistance_and_z_with_its_parts(table: str, factor: float) -> None:
    """Up to 70 mm2 the tabulated figure follows the conductor's resistance; z2 = r2 + x2 within the rounding of the print."""
    ohm = dict(column("R20", "cu_mohm_per_m_20C"))
    for row in R.table(table).rows:
        size, c = row.key[0], row.cells
        for name in R.table(table).columns:
            if not name.endswith("_z") or c[name] is None:
                continue
            stem, phases = name[:-2], 2.0 if name.startswith("ph1") else math.sqrt(3)
            r = c[stem + "_r"] if c[stem + "_r"] is not None else c[name]
            if size <= 70:
                assert r == pytest.approx(ohm[size] * factor * phases, rel=0.045), (table, size, name)
            if c[stem + "_r"] is not None:
                z = math.hypot(c[stem + "_r"], c[stem + "_x"])
                assert c[name] == pytest.approx(z, abs=0.055 if z > 0.5 else 0.013), (table, size, name)


def test_large_conductors_drop_more_by_skin_and_proximity() -> None:
    """Over 70 mm2 the tabulated r exceeds the plain resistance, growing to about 15 % at 300 mm2."""
    ohm = dict(column("R20", "cu_mohm_per_m_20C"))
    for table, factor in DROPS.items():
        for row in R.table(table).rows:
            size = row.key[0]
            for name, r in row.cells.items():
                if size > 70 and name.endswith("_r") and r is not None:
                    phases = 2.0 if name.startswith("ph1") else math.sqrt(3)
                    assert 0.96 < r / (ohm[size] * factor * phases) < 1.20, (table, size, name)


# IEC 60364-5-52 Annex D: capacity = a S^m for copper; the last size up to which a pair of coefficients holds.
POWER_LAWS = {
    ("4D1A", "A_2"): (11.2, 0.6118, 120), ("4D1A", "A_3"): (10.4, 0.605, 120), ("4D2A", "A_2"): (10.8, 0.6015, 120),
    ("4D2A", "A_3"): (10.1, 0.592, 120), ("4D1A", "B_2"): (13.5, 0.625, 120), ("4D1A", "B_3"): (11.84, 0.628, 120),
    ("4D2A", "B_2"): (13.1, 0.600, 120), ("4D2A", "B_3"): (11.65, 0.6005, 120), ("4D2A", "C_2"): (15.0, 0.625, 120),
    ("4D2A", "C_3"): (13.5, 0.625, 16), ("4E1A", "A_2"): (14.9, 0.611, 120), ("4E1A", "A_3"): (13.3, 0.611, 120),
    ("4E1A", "B_2"): (17.76, 0.625, 120), ("4E1A", "B_3"): (15.62, 0.628, 120), ("4E2A", "C_2"): (18.77, 0.628, 16), ("4E2A", "C_3"): (17.0, 0.623, 16),
}  # fmt: skip


@pytest.mark.parametrize(("table", "name"), POWER_LAWS)
def test_capacities_follow_the_power_laws_of_annex_d(table: str, name: str) -> None:
    a, m, most = POWER_LAWS[(table, name)]
    for size, amps in column(table, name):
        if 1.5 <= size <= most:
            # The conductor sold as 50 mm2 has 47.5.
            assert amps == pytest.approx(a * (47.5 if size == 50 else size) ** m, rel=0.04), (table, name, size)


def test_pairs_are_the_sum_of_their_conductors() -> None:
    ohm = dict(column("R20", "cu_mohm_per_m_20C"))
    for row in R.table("R1R2").rows:
        assert row.cells["r1r2_mohm_per_m_20C"] == pytest.approx(sum(ohm[k] for k in row.key), rel=0.005), row.label


def test_k_follows_the_adiabatic_constants() -> None:
    """k = sqrt(Q (beta + 20) / rho20 x ln((beta + final) / (beta + start))), IEC 60724 constants."""
    constants = {"copper": (3.45e-3, 234.5, 17.241e-6), "aluminium": (2.5e-3, 228, 28.264e-6), "steel": (3.8e-3, 202, 138e-6)}
    for row in R.table("k").rows:
        _, material, insulation = row.key
        if material not in constants or insulation.startswith("mineral"):
            continue
        q, beta, rho = constants[material]
        k = math.sqrt(q * (beta + 20) / rho * math.log((beta + row.cells["final_c"]) / (beta + row.cells["start_c"])))
        assert row.cells["k"] == pytest.approx(k, rel=0.02, abs=1), row.label


def test_breaker_limits_are_u0_over_ia() -> None:
    for row in R.table("MCB-Zs").rows:
        kind, rating = row.key
        multiple = R.table("MCB-inst").cell(kind, "instant_max_multiple").value
        assert row.cells["max_zs_0p4s"] == pytest.approx(218.5 / (multiple * rating), abs=0.0056), row.label


def test_fuse_limits_are_u0_over_ia() -> None:
    for row in R.table("FUSE-I").rows:
        zs = R.table("FUSE-Zs").row(row.key).cells
        for i, z, rel in (("i_0p4s", "max_zs_0p4s", 0.035), ("i_5s", "max_zs_5s", 0.065)):
            if row.cells[i] is not None and zs[z] is not None:
                assert 218.5 / row.cells[i] == pytest.approx(zs[z], rel=rel), (row.label, i)


def test_long_conduit_factors_follow_their_law() -> None:
    """C / (a + L 2^b), L in m, b bends, to within 1."""
    law = {"d16": (6000, 30), "d20": (10000, 31), "d25": (19000, 33), "d32": (36000, 36)}
    for row in R.table("CDT-long").rows:
        length, bends = row.key
        for name, (c, a) in law.items():
            assert row.cells[name] == pytest.approx(c / (a + length * 2**bends), abs=1.01), (row.label, name)


@pytest.mark.parametrize("table", ["4B1", "4B2", "4B3", "4B4", "4C1", "4C2", "4C3", "52.2"])
def test_factors_fall_and_reach_the_edge(table: str) -> None:
    t = R.table(table)
    for name in t.columns:
        values = [v for _, v in column(table, name)]
        assert values == sorted(values, reverse=True), (table, name)
    first, last = t.rows[0].key[0], t.rows[-1].key[0]
    assert t.cell(first - 0.01, t.columns[0]).row == t.rows[0].label
    with pytest.raises(OutsideTable):
        t.cell(last + 0.01, t.columns[0])


def test_between_rows_the_unfavourable_one() -> None:
    assert R.table("4B1").cell(31, "pvc70").value == 0.94
    assert R.table("4C1").cell(10, "bunched_or_enclosed").value == 0.45
    assert R.table("52.2").cell(101, "factor").value == 0.63


def test_a_blank_cell_is_no_value() -> None:
    with pytest.raises(OutsideTable, match="no tabulated value"):
        R.table("4B1").cell(65, "pvc70")


def test_doubtful_cells_are_marked() -> None:
    assert R.table("4D2A").cell(300, "A_2").check
    assert not R.table("4D5").cell(10, "C").check
    assert sum(len(r.check) for t in R.tables.values() for r in t.rows) > 450


@pytest.mark.parametrize("damage", ["number", "stray", "twice", "columns"])
def test_a_damaged_rule_set_is_refused(tmp_path: Path, damage: str) -> None:
    folder = tmp_path / "bs7671"
    folder.mkdir()
    for path in (HERE / "bs7671").iterdir():
        (folder / path.name).write_bytes(path.read_bytes())
    file = folder / "4b1_ambient_air.csv"
    lines = file.read_text().splitlines()
    if damage == "stray":
        (folder / "extra.csv").write_text("a,b\n")
    elif damage == "number":
        file.write_text("\n".join([*lines, "85,abc,1"]))
    elif damage == "twice":
        file.write_text("\n".join([*lines, lines[-1]]))
    else:
        file.write_text("\n".join([*lines, "85,1"]))
    with pytest.raises(RuleSetError):
        load_folder(folder)


def test_a_cell_read_in_the_book_is_laid_over_its_table_and_over_nothing_else() -> None:
    """The doubt of the cell goes and a printed value counts, in the figures of a job that carries it and in no other."""
    doubtful = next((t, r, c) for t in R.tables.values() for r in t.rows for c in sorted(r.check) if isinstance(r.cells[c], float))
    table, row, column = doubtful
    read = CellRead(table=table.number, row=row.label, column=column, by="A", on="2026-01-02", edition="made up")
    changed = CellRead(table="4D5", row="6", column="C", value=45.0, by="B", on="2026-01-03", edition="made up")
    laid = layered("bs7671", (read, changed))
    cell = laid.tables[table.number].cell(row.key if len(row.key) > 1 else row.key[0], column)
    assert (cell.check, cell.value) == (False, row.cells[column])
    assert cell.cite.read == "agrees with the printed table, A, 2026-01-02, made up"
    assert column in row.check, "the rule set itself is as it was"
    assert check(dataclasses.replace(job(circuit()), cells=(changed,))).circuits[0].iz == 45
    assert check(job(circuit())).circuits[0].iz == 47
    with pytest.raises(InputError):
        checked(R, dataclasses.replace(read, column="nowhere"))
