"""Routes take the place of bundles. Nothing computes otherwise: what a route does not say is left to its spans."""

from django.db import migrations, models


def renamed(value):
    """Rename what an edit did to bundles and to the spans in them, at any depth."""
    if isinstance(value, list):
        return [renamed(one) for one in value]
    if not isinstance(value, dict):
        return value
    found = {("route" if k == "bundle" else k): renamed(v) for k, v in value.items()}
    if "op" in found and found.get("kind") == "bundle":
        found["kind"] = "route"
        for side in ("before", "after"):
            if isinstance(found.get(side), dict):
                found[side] = _of_route(found[side])
    return found


def _of_route(fields):
    if isinstance(fields.get("fields"), dict):
        return {**fields, "fields": _of_route(fields["fields"])}
    named = {("pull" if k == "length" else k): v for k, v in fields.items()}
    return {**named, "kind": "open"} if named.get("kind") == "bundle" else named


def forwards(apps, schema_editor):
    edits = apps.get_model("jobs", "Edit")
    for edit in edits.objects.iterator():
        changes = renamed(edit.changes)
        if changes != edit.changes:
            edits.objects.filter(pk=edit.pk).update(changes=changes)
    apps.get_model("jobs", "Route").objects.filter(kind="bundle").update(kind="open")


class Migration(migrations.Migration):

    dependencies = [
        ("jobs", "0006_surveyed_and_on_the_way"),
    ]

    operations = [
        migrations.RenameModel("Bundle", "Route"),
        migrations.RenameField("Route", "length", "pull"),
        migrations.RenameField("Span", "bundle", "route"),
        migrations.AlterField("Route", "kind", models.CharField(default="open", max_length=10)),
        *(
            migrations.AddField("Route", name, field)
            for name, field in (
                ("place", models.CharField(max_length=40, null=True)),
                ("length", models.FloatField(null=True)),
                ("ambient", models.FloatField(null=True)),
                ("wrapped", models.FloatField(null=True)),
                ("ground", models.FloatField(null=True)),
                ("soil", models.FloatField(null=True)),
                ("depth", models.FloatField(null=True)),
                ("guarded", models.BooleanField(null=True)),
                ("metal_partition", models.BooleanField(null=True)),
                ("fire_supports", models.BooleanField(null=True)),
                ("polystyrene", models.BooleanField(null=True)),
                ("fire_barrier", models.BooleanField(null=True)),
                ("location", models.CharField(max_length=20, null=True)),
            )
        ),
        migrations.RunPython(forwards, migrations.RunPython.noop),
    ]
