"""A database of the version before the migrations were squashed, with every kind of row in it, is brought up to date and loses nothing."""

from __future__ import annotations

import gzip
import hashlib
import json
import os
import re
import subprocess
import sys
import uuid
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import psycopg
import pytest
from django.apps import apps
from django.conf import settings

# One worker brings the database up to date for all of them.
pytestmark = pytest.mark.xdist_group("migrations")

ROOT = Path(__file__).parents[2]
STORED = Path(__file__).parent / "stored"
OWN = ("jobs", "people", "site", "practice")
COLUMNS = """SELECT table_name, column_name, data_type, is_nullable, character_maximum_length FROM information_schema.columns
    WHERE table_schema = 'public' ORDER BY 1, 2"""
CONSTRAINTS = """SELECT conrelid::regclass::text, contype::text, pg_get_constraintdef(oid) FROM pg_constraint
    WHERE connamespace = 'public'::regnamespace ORDER BY 1, 2, 3"""
INDEXES = (
    r"""SELECT tablename, regexp_replace(indexdef, 'INDEX \S+ ON', 'INDEX ON') FROM pg_indexes WHERE schemaname = 'public' ORDER BY 1, 2"""
)
# Run in a process of its own, whose database is that one: what the program of today makes of the house in it.
LOOK = """
import django, json
django.setup()
from mellow_span.core.design.check import check
from mellow_span.jobs.models import Job
from mellow_span.jobs.reads import stored
from mellow_span.logbook.log import entries
job = Job.objects.get()
kept = stored(job)
found = check(kept.installation, keep=False)
print(json.dumps({"unfit": len(kept.unfit), "version": job.version, "edits": job.edits.count(), "circuits": len(found.circuits),
    "short": sorted(c.id for c in found.circuits if c.verdict == "short"), "names": sorted(c.name for c in kept.installation.circuits), "photos": len(list(entries(job, "photo")))}))
"""


class Cluster:
    """Databases of a test's own in the cluster that the tests work in."""

    def __init__(self) -> None:
        self.names: list[str] = []
        self.about: dict[str, Any] = settings.DATABASES["default"]

    def open(self, name: str) -> psycopg.Connection[Any]:
        a = self.about
        return psycopg.connect(host=a["HOST"], port=a["PORT"], user=a["USER"], password=a["PASSWORD"], dbname=name, autocommit=True)

    def new(self, name: str) -> str:
        name = f"{name}_{os.getpid()}"
        with self.open("postgres") as asked:
            asked.execute(f"CREATE DATABASE {name}")
        self.names.append(name)
        return name

    def run(self, name: str, *line: str) -> str:
        env = {**os.environ, "MELLOW_SPAN_DB_NAME": name, "DJANGO_SETTINGS_MODULE": "tests.settings"}
        done = subprocess.run([sys.executable, *line], cwd=ROOT, env=env, capture_output=True, text=True, check=False)
        assert done.returncode == 0, done.stderr[-3000:]
        return done.stdout


@pytest.fixture(scope="module")
def cluster() -> Iterator[Cluster]:
    made = Cluster()
    yield made
    with made.open("postgres") as asked:
        for name in made.names:
            # Not WITH (FORCE): the cluster's own workers may be looking in, and only its owner may send those away. Without, it does that itself.
            asked.execute(f"DROP DATABASE {name}")


@pytest.fixture(scope="module")
def before(cluster: Cluster) -> tuple[str, dict[str, list[Any]]]:
    """A database as the version before left it, brought up to date; and every row that was in it."""
    name = cluster.new("before")
    with cluster.open(name) as asked:
        asked.execute(gzip.decompress((STORED / "before_squash.sql.gz").read_bytes()).decode())
    rows = all_rows(cluster, name, columns_of(cluster, name))
    cluster.run(name, "manage.py", "migrate", "-v", "0", "--no-input")
    return name, rows


# Tables that were made since; what a migration puts into them is asked about below.
SINCE = ("jobs_number", "site_firmkey", "site_picture", "site_money", "jobs_epoch", "jobs_stage")


def tables() -> list[str]:
    return sorted(m._meta.db_table for m in apps.get_models() if m._meta.app_label in OWN and m._meta.db_table not in SINCE)


def told(row: Any) -> str:
    """A row as text; the picture of a photo lies beside it now, and its entry keeps the fingerprint."""
    return re.sub(r"'image': '(data:[^']*)'", lambda m: f"'image': '{hashlib.sha256(m[1].encode()).hexdigest()}'", repr(row))


def columns_of(cluster: Cluster, name: str) -> dict[str, str]:
    with cluster.open(name) as asked:
        found = {table: asked.execute(f"SELECT * FROM {table} LIMIT 0").description or () for table in tables()}
    # Readings that designs held went to the log: see the test of them.
    return {
        table: ", ".join(f'"{c.name}"' for c in columns if (table, c.name) != ("jobs_circuit", "readings"))
        for table, columns in found.items()
    }


def all_rows(cluster: Cluster, name: str, columns: dict[str, str]) -> dict[str, list[Any]]:
    with cluster.open(name) as asked:
        return {table: sorted(map(told, asked.execute(f"SELECT {columns[table]} FROM {table}").fetchall())) for table in tables()}


def test_every_kind_of_row_is_in_it_and_none_is_lost_or_changed(cluster: Cluster, before: tuple[str, dict[str, list[Any]]]) -> None:
    name, rows = before
    assert not [table for table, there in rows.items() if not there], "a kind of row is missing: store one of it"
    old = cluster.new("old")
    with cluster.open(old) as asked:
        asked.execute(gzip.decompress((STORED / "before_squash.sql.gz").read_bytes()).decode())
    # What was added since has no place in what was there.
    assert all_rows(cluster, name, columns_of(cluster, old)) == rows


def test_what_was_tagged_or_issued_keeps_its_number_and_pictures_lie_beside_their_entries(
    cluster: Cluster, before: tuple[str, Any]
) -> None:
    with cluster.open(before[0]) as asked:
        numbers = asked.execute("SELECT number FROM jobs_number").fetchall()
        (counted,) = asked.execute("SELECT sum(numbered) FROM jobs_job").fetchone() or (0,)
        pictures = asked.execute("SELECT e.kind, length(p.jpeg) FROM site_picture p JOIN site_entry e ON e.id = p.entry_id").fetchall()
    assert len(numbers) == counted > 0
    assert ("A",) in numbers
    assert [kind for kind, _ in pictures] == ["photo"]
    assert pictures[0][1] > 0


def test_its_tables_are_those_of_a_fresh_one(cluster: Cluster, before: tuple[str, Any]) -> None:
    fresh = cluster.new("fresh")
    cluster.run(fresh, "manage.py", "migrate", "-v", "0", "--no-input")
    for question in (COLUMNS, CONSTRAINTS, INDEXES):
        found = []
        for name in (before[0], fresh):
            with cluster.open(name) as asked:
                found.append(asked.execute(question).fetchall())
        assert found[0] == found[1]


def test_the_house_in_it_opens_and_is_worked_out(cluster: Cluster, before: tuple[str, Any]) -> None:
    found = json.loads(cluster.run(before[0], "-c", LOOK))
    assert (found["unfit"], found["version"], found["edits"], found["photos"]) == (0, 3, 2, 1)
    assert found["circuits"] == len(found["names"]) == 16
    assert "Shower upstairs" in found["names"]
    assert found["short"], "what was short is not forgotten"


def test_readings_held_in_a_design_go_to_its_log_once(cluster: Cluster) -> None:
    """Before everything that says its time; what an import wrote down already is not written again, what was entered since is."""
    name = cluster.new("held")
    with cluster.open(name) as asked:
        asked.execute(gzip.decompress((STORED / "before_squash.sql.gz").read_bytes()).decode())
        asked.execute("SET search_path TO public")
        pk, job = asked.execute(
            "SELECT c.id, b.job_id FROM jobs_circuit c JOIN jobs_board b ON b.id = c.board_id WHERE c.name = 'Shower upstairs'"
        ).fetchone() or (None, None)
        held = {"r1r2": 0.3, "zs": 0.9, "temperature": 11}
        asked.execute("UPDATE jobs_circuit SET readings = %s WHERE id = %s", (json.dumps(held), pk))
        asked.execute(
            "INSERT INTO site_entry (id, job_id, kind, subject, data, at, stored, name) VALUES (%s, %s, 'reading', %s, %s, now(), now(), 'Ann')",
            (uuid.uuid5(job, f"{pk} zs"), job, pk, json.dumps({"quantity": "zs", "value": 0.9, "temperature": 11})),
        )
    cluster.run(name, "manage.py", "migrate", "-v", "0", "--no-input")
    with cluster.open(name) as asked:
        table = next(t for t in ("site_entry", "logbook_entry") if t in tables())
        found = asked.execute(f"SELECT data, at::text, name FROM {table} WHERE kind = 'reading' AND subject = %s", (pk,)).fetchall()
    assert sorted((d["quantity"], d["value"], d["temperature"], at[:4], who) for d, at, who in found) == [
        ("r1r2", 0.3, 11, "2000", ""), ("zs", 0.9, 11, found[0][1][:4] if found[0][0]["quantity"] == "zs" else found[1][1][:4], "Ann"),
    ]  # fmt: skip


def test_no_model_differs_from_its_migration(cluster: Cluster, before: tuple[str, Any]) -> None:
    cluster.run(before[0], "manage.py", "makemigrations", "--check", "--dry-run")
    assert "[ ]" not in cluster.run(before[0], "manage.py", "showmigrations")
