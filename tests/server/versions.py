"""Stores a small house in each earlier version of a database on its way up to date, and prints how each is worked out then: run by a test."""

from __future__ import annotations

import json
import os
import uuid
from typing import Any

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tests.settings")

import django

django.setup()

from django.db import connection  # noqa: E402
from django.db.migrations.executor import MigrationExecutor  # noqa: E402

NAME = f"versions_{os.getpid()}"


def use(name: str) -> None:
    """Work in another database of the cluster."""
    connection.close()
    connection.settings_dict["NAME"] = name


def migrate(to: list[tuple[str, str]]) -> Any:
    """Bring the database to some migrations; return the models as they are there."""
    executor = MigrationExecutor(connection)
    executor.migrate(to)
    executor.loader.build_graph()
    return executor.loader.project_state(to).apps


def fill(apps: Any, version: str) -> None:
    """Store a house named after the version: a board, a sub-main to another, a final on each, with the fields that version has."""
    model = {
        name: apps.get_model("jobs", name)
        for name in ("Firm", "Member", "Job", "Supply", "Board", "Circuit", "Load", "Run", "Span", "Edit")
    }
    user = apps.get_model("auth", "User").objects.create(username=f"someone {version}")
    firm = model["Firm"].objects.create(name="A firm")
    member = model["Member"].objects.create(user_id=user.pk, firm_id=firm.pk, name="Someone")
    job = model["Job"].objects.create(firm_id=firm.pk, name=version)
    model["Supply"].objects.create(job_id=job.pk, earthing="TN-C-S", ze=0.28, ipf=920, ze_source="measured", ipf_source="measured")
    near, far = (model["Board"].objects.create(job_id=job.pk, name=name, position=i) for i, name in enumerate(("Near", "Far")))
    rows = (
        (
            "Sub-main",
            near,
            far,
            {"kind": "mcb", "curve": "B", "rating": 40, "icn": 6000},
            {"family": "armoured_xlpe90", "csa": 10},
            None,
            "duct",
            30,
        ),
        (
            "Final",
            near,
            None,
            {"kind": "mcb", "curve": "B", "rating": 32, "icn": 6000},
            {"family": "flat_twin_cpc_pvc70", "csa": 6},
            6000,
            "masonry",
            10,
        ),
        (
            "Far final",
            far,
            None,
            {"kind": "mcb", "curve": "B", "rating": 16, "icn": 6000},
            {"family": "flat_twin_cpc_pvc70", "csa": 2.5},
            2000,
            "masonry",
            8,
        ),
    )
    for at, (name, board, feeds, device, cable, amount, place, length) in enumerate(rows):
        circuit = model["Circuit"].objects.create(
            job_id=job.pk, board_id=board.pk, feeds_id=feeds.pk if feeds else None, name=name, device=device, position=at
        )
        if name == "Final" and any(f.name == "readings" for f in model["Circuit"]._meta.get_fields()):
            model["Circuit"].objects.filter(pk=circuit.pk).update(readings={"temperature": 15.0, "r1r2": 0.11, "zs": 0.4})
        run = model["Run"].objects.create(id=circuit.pk, job_id=job.pk, circuit_id=circuit.pk, cable=cable)
        model["Span"].objects.create(job_id=job.pk, run_id=run.pk, place=place, length=length)
        if amount:
            model["Load"].objects.create(job_id=job.pk, circuit_id=circuit.pk, amount=amount)
    before = {"op": "set", "kind": "job", "id": "", "before": {"name": "Old"}, "after": {"name": "House"}}
    model["Edit"].objects.create(id=uuid.uuid4(), job_id=job.pk, member_id=member.pk, version=1, changes=[before])


def found(name: str) -> dict[str, Any]:
    """How the house of a version is worked out by the program of today."""
    from mellow_span.core.design.check import check
    from mellow_span.jobs.models import Job, Member
    from mellow_span.jobs.reads import stored
    from mellow_span.logbook.log import entries

    job = Job.objects.get(name=name)
    kept = stored(job)
    names = {c.id: c.name for c in kept.installation.circuits}
    circuits = {names[c.id]: [c.ib, c.iz, c.drop, c.zs, c.length] for c in check(kept.installation).circuits}
    member = Member.objects.get(firm=job.firm)
    read = [[names[e.subject], e.data.quantity, e.data.value, e.data.temperature] for e in entries(job, "reading")]
    return {
        "circuits": circuits,
        "readings": sorted(read),
        "unfit": len(kept.unfit),
        "edits": job.edits.count(),
        "role": member.role,
        "name": member.name,
    }


def main() -> None:
    """Go through the versions."""
    home = connection.settings_dict["NAME"]
    with connection.cursor() as cursor:
        cursor.execute(f"CREATE DATABASE {NAME}")
    use(NAME)
    try:
        known = MigrationExecutor(connection).loader.disk_migrations
        auth = max(key for key in known if key[0] == "auth")
        versions = sorted(key for key in known if key[0] == "jobs")
        for version in versions:
            fill(migrate([version, auth]), version[1])
        executor = MigrationExecutor(connection)
        executor.migrate(executor.loader.graph.leaf_nodes())
        print(json.dumps({name: found(name) for _, name in versions}))
    finally:
        use(home)
        with connection.cursor() as cursor:
            cursor.execute(f"DROP DATABASE {NAME}")


if __name__ == "__main__":
    main()
