from django.db import migrations


def take_over(apps, schema_editor):
    """Readings that circuits hold in themselves become readings of the log; what the circuits hold is left as it is."""
    from mellow_span.jobs.models import Job
    from mellow_span.jobs.reads import installation
    from mellow_span.site import log

    columns = {c.name for c in schema_editor.connection.introspection.get_table_description(schema_editor.connection.cursor(), "jobs_circuit")}
    if "readings" not in columns:
        return
    for job in Job.objects.all():
        if job.circuits.exclude(readings={}).exists():
            log.take_over(job, installation(job), None, "entered before")


class Migration(migrations.Migration):

    dependencies = [
        ("site", "0001_initial"),
        ("jobs", "0013_submains_as_stored"),
    ]

    operations = [migrations.RunPython(take_over, migrations.RunPython.noop)]
