"""Sub-mains stored before 0002 took the rating of their device; that migration made them take the demand of their board. They take the rating again.

A sub-main with loads of its own never took it, and one whose basis somebody has set since keeps what they set.
"""

from __future__ import annotations

from typing import Any

from django.db import migrations
from django.db.migrations.recorder import MigrationRecorder


def as_stored(apps: Any, schema_editor: Any) -> None:
    """Give such sub-mains the rating of their device as their basis."""
    recorded = MigrationRecorder(schema_editor.connection).migration_qs.filter(app="jobs", name="0002_whole_rule_book").first()
    if recorded is None:
        return
    Circuit, Edit, Job = (apps.get_model("jobs", name) for name in ("Circuit", "Edit", "Job"))
    found = Circuit.objects.filter(job__created__lt=recorded.applied, feeds__isnull=False, ib_from="demand", loads__isnull=True)
    for circuit in found.distinct():
        later = Edit.objects.filter(job=circuit.job_id, at__gte=recorded.applied).values_list("changes", flat=True)
        if not any(_said(change, str(circuit.pk)) for changes in later for change in changes):
            Circuit.objects.filter(pk=circuit.pk).update(ib_from="device")
            Job.objects.filter(pk=circuit.job_id).update(counted=False)


def _said(change: Any, circuit: str) -> bool:
    """Whether a change made this circuit, or set its basis."""
    if not isinstance(change, dict) or str(change.get("id")) != circuit:
        return False
    after = change.get("after")
    return change.get("op") == "add" or (isinstance(after, dict) and "ib_from" in after)


class Migration(migrations.Migration):
    dependencies = [("jobs", "0012_roles")]

    operations = [migrations.RunPython(as_stored, migrations.RunPython.noop)]
