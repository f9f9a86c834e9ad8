"""Readings that circuits held in themselves go to the log, once; with that the column for them can go."""

import uuid
from datetime import datetime

from django.db import migrations

HELD = ("r1", "rn", "r2", "r1r2", "zs", "ipf")
# Nobody wrote down when they were taken.
LONG_AGO = datetime.fromisoformat("2000-01-01T00:00:00+00:00")


def to_the_log(apps, schema):
    Circuit, Entry = apps.get_model("jobs", "Circuit"), apps.get_model("site", "Entry")
    for circuit in Circuit.objects.exclude(readings={}).select_related("board").iterator():
        held, job = circuit.readings, circuit.board.job_id
        for name in HELD:
            value = held.get(name)
            if value is None:
                continue
            data = {"quantity": name, "value": value, "temperature": held.get("temperature", 20.0), "note": "entered with the design, time not known"}
            # An import of before wrote them down under this identity: what stands there with the same figure is not written again.
            before = Entry.objects.filter(pk=uuid.uuid5(job, f"{circuit.pk} {name}")).first()
            if before is not None and before.data.get("value") == value:
                continue
            pk = uuid.uuid5(job, f"{circuit.pk} {name} {value}")
            Entry.objects.get_or_create(pk=pk, defaults={"job_id": job, "kind": "reading", "subject": circuit.pk, "data": data, "at": LONG_AGO, "name": ""})


class Migration(migrations.Migration):

    dependencies = [
        ("site", "0001_squashed"),
        ("jobs", "0003_what_was_measured_and_said"),
    ]

    operations = [migrations.RunPython(to_the_log, migrations.RunPython.noop)]
