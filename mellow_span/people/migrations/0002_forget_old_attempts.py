"""Wrong passwords were kept with names and addresses by an app that is gone; they are forgotten."""

from django.db import migrations

TABLES = "axes_accessattemptexpiration, axes_accessattempt, axes_accesslog, axes_accessfailurelog"


class Migration(migrations.Migration):
    dependencies = [("people", "0001_initial")]

    operations = [migrations.RunSQL(f"DROP TABLE IF EXISTS {TABLES} CASCADE", migrations.RunSQL.noop)]
