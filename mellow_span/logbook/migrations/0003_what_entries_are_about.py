"""Entries keep what their part was called, and what the clock on site showed where it was put right."""

from django.db import migrations, models


def named(apps, schema):
    Entry = apps.get_model("site", "Entry")
    for kind in ("Circuit", "Board", "Route"):
        for pk, name in apps.get_model("jobs", kind).objects.exclude(name="").values_list("pk", "name"):
            Entry.objects.filter(subject=pk, about="").update(about=name)


class Migration(migrations.Migration):

    dependencies = [
        ("site", "0002_readings_held_in_designs"),
        ("jobs", "0004_no_readings_in_designs"),
    ]

    operations = [
        migrations.AddField(model_name="entry", name="about", field=models.CharField(blank=True, default="", max_length=240)),
        migrations.AddField(model_name="entry", name="clock", field=models.DateTimeField(null=True)),
        migrations.RunPython(named, migrations.RunPython.noop),
    ]
