import uuid
from typing import Any

from django.db import migrations, models


def begin(apps: Any, editor: Any) -> None:
    """The history that is stored until now gets its mark."""
    epochs = apps.get_model("jobs", "Epoch").objects
    if not epochs.exists():
        epochs.create()


class Migration(migrations.Migration):

    dependencies = [
        ("jobs", "0007_views_of_large_jobs"),
    ]

    operations = [
        migrations.CreateModel(
            name="Epoch",
            fields=[
                ("mark", models.UUIDField(default=uuid.uuid4, primary_key=True, serialize=False)),
                ("put_back", models.DateTimeField(null=True)),
            ],
        ),
        migrations.RunPython(begin, migrations.RunPython.noop),
    ]
