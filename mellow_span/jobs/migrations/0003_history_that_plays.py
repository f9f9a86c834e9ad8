import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('jobs', '0002_whole_rule_book'),
    ]

    operations = [
        migrations.AddField(
            model_name='edit',
            name='back_to',
            field=models.PositiveIntegerField(null=True),
        ),
        migrations.AddField(
            model_name='edit',
            name='playable',
            # Edits saved so far do not hold enough to be played backwards.
            field=models.BooleanField(default=False),
        ),
        migrations.AlterField(
            model_name='edit',
            name='playable',
            field=models.BooleanField(default=True),
        ),
        migrations.AddField(
            model_name='edit',
            name='undoes',
            field=models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='undone_by', to='jobs.edit'),
        ),
        migrations.AddField(
            model_name='job',
            name='archived',
            field=models.BooleanField(default=False),
        ),
        migrations.AddField(
            model_name='job',
            name='circuits',
            field=models.PositiveIntegerField(default=0),
        ),
        migrations.AddField(
            model_name='job',
            name='close',
            field=models.PositiveIntegerField(default=0),
        ),
        migrations.AddField(
            model_name='job',
            name='counted',
            field=models.BooleanField(default=False),
        ),
        migrations.AddField(
            model_name='job',
            name='not_known',
            field=models.PositiveIntegerField(default=0),
        ),
        migrations.AddField(
            model_name='job',
            name='short',
            field=models.PositiveIntegerField(default=0),
        ),
        migrations.AddField(
            model_name='job',
            name='trouble',
            field=models.CharField(blank=True, max_length=400),
        ),
        migrations.AddIndex(
            model_name='job',
            index=models.Index(fields=['firm', 'archived', 'name', 'created'], name='jobs_of_a_firm'),
        ),
    ]
