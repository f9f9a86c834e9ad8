"""Ways back for who was here before; recovery codes are kept as hashes from now on."""

import re
from typing import Any

import django.db.models.deletion
from django.db import migrations, models

from mellow_span.people.second import hashed

# As they were made until now.
PLAIN = re.compile(r"[0-9a-f]{10}")


def hash_codes(apps: Any, editor: Any) -> None:
    """Keep of each recovery code its hash alone; done twice it does nothing more."""
    for token in apps.get_model("otp_static", "StaticToken").objects.filter(device__name="recovery"):
        if PLAIN.fullmatch(token.token):
            token.token = hashed(token.token)
            token.save(update_fields=["token"])


class Migration(migrations.Migration):

    dependencies = [
        ("people", "0001_squashed"),
        ("jobs", "0006_packs_confirmed_and_figures_moved"),
        ("otp_static", "0003_add_timestamps"),
    ]

    operations = [
        migrations.AddField(
            model_name="invitation",
            name="member",
            field=models.ForeignKey(null=True, on_delete=django.db.models.deletion.CASCADE, related_name="ways_back", to="jobs.member"),
        ),
        # A hash cannot be turned back.
        migrations.RunPython(hash_codes, migrations.RunPython.noop),
    ]
