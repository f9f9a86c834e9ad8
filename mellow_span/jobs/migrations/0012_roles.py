"""Roles, and people in several firms. The member who was there first looks after a firm from now on; names of people differ in more than case."""

from __future__ import annotations

from typing import Any

import django.db.models.deletion
import django.utils.timezone
from django.conf import settings
from django.db import migrations, models


def first_supervises(apps: Any, schema_editor: Any) -> None:
    """Make the first member of each firm its supervisor."""
    Member = apps.get_model("jobs", "Member")
    seen = set()
    for member in Member.objects.order_by("pk"):
        if member.firm_id not in seen:
            seen.add(member.firm_id)
            Member.objects.filter(pk=member.pk).update(role="supervisor")


def names_apart(apps: Any, schema_editor: Any) -> None:
    """Give people whose name another has in another case a number behind it, the later ones."""
    User = apps.get_model("auth", "User")
    taken: set[str] = set()
    for user in User.objects.order_by("pk"):
        name, number = user.username, 1
        while name.lower() in taken:
            number += 1
            name = f"{user.username[:140]}-{number}"
        taken.add(name.lower())
        if name != user.username:
            User.objects.filter(pk=user.pk).update(username=name)


class Migration(migrations.Migration):
    dependencies = [
        ("jobs", "0011_searches"),
        ("auth", "0012_alter_user_first_name_max_length"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AlterModelOptions(name="member", options={"ordering": ["name", "id"]}),
        migrations.AddField(
            "member", "joined", models.DateTimeField(auto_now_add=True, default=django.utils.timezone.now), preserve_default=False
        ),
        migrations.AddField("member", "left", models.DateTimeField(null=True)),
        migrations.AddField(
            "member",
            "role",
            models.CharField(
                choices=[("supervisor", "Supervisor"), ("designer", "Designer"), ("apprentice", "Apprentice")], default="designer", max_length=12
            ),
        ),
        migrations.AlterField(
            "member",
            "user",
            models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="memberships", to=settings.AUTH_USER_MODEL),
        ),
        migrations.RunPython(first_supervises, migrations.RunPython.noop),
        migrations.RunPython(names_apart, migrations.RunPython.noop),
        # PostgreSQL changes no table that still has checks of its own to make.
        migrations.RunSQL("SET CONSTRAINTS ALL IMMEDIATE", migrations.RunSQL.noop),
        migrations.AddConstraint("member", models.UniqueConstraint(fields=("user", "firm"), name="a_person_is_in_a_firm_once")),
        migrations.RunSQL(
            "CREATE UNIQUE INDEX a_name_whatever_its_case ON auth_user (lower(username))", "DROP INDEX a_name_whatever_its_case"
        ),
    ]
