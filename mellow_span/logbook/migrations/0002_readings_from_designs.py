import uuid

from django.db import migrations
from django.utils import timezone

from mellow_span.core.site.earlier import earlier


def take_over(apps, schema_editor):
    """Readings that circuits hold in themselves become readings of the log; what the circuits hold is left as it is."""
    Circuit, Entry = apps.get_model("jobs", "Circuit"), apps.get_model("site", "Entry")
    now = timezone.now()
    rows = []
    for pk, job, held in Circuit.objects.exclude(readings={}).values_list("pk", "job_id", "readings"):
        for data in earlier(held):
            whole = {"over": False, "ok": None, "point": "", "at": None, "volts": None, "instrument": "", "method": "", "photo": "", **data}
            name = uuid.uuid5(job, f"{pk} {data['quantity']}")
            rows.append(Entry(id=name, job_id=job, kind="reading", subject=pk, data=whole, at=now, by=None, name="entered before"))
    Entry.objects.bulk_create(rows, ignore_conflicts=True)


class Migration(migrations.Migration):

    dependencies = [
        ("site", "0001_initial"),
        ("jobs", "0013_submains_as_stored"),
    ]

    operations = [migrations.RunPython(take_over, migrations.RunPython.noop)]
