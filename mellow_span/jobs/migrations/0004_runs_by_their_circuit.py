from django.db import migrations


class Migration(migrations.Migration):
    """A run goes by the identity of its circuit, so that a circuit put back from the history brings it along."""

    dependencies = [
        ('jobs', '0003_history_that_plays'),
    ]

    operations = [
        migrations.RunSQL(
            [
                "UPDATE jobs_span SET run_id = jobs_run.circuit_id FROM jobs_run WHERE jobs_run.id = jobs_span.run_id",
                "UPDATE jobs_run SET id = circuit_id",
            ],
            migrations.RunSQL.noop,
        ),
    ]
