"""The tables as they stand, in one step."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    # The migrations there were before; a database that has them all has this one.
    replaces = [
        ("site", "0001_initial"),
        ("site", "0002_readings_from_designs"),
        ("site", "0003_revisions"),
    ]

    initial = True

    dependencies = [
        ('jobs', '0001_squashed'),
    ]

    operations = [
        migrations.CreateModel(
            name='SiteRules',
            fields=[
                ('firm', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, primary_key=True, related_name='site_rules', serialize=False, to='jobs.firm')),
                ('board', models.FloatField()),
                ('end', models.FloatField()),
                ('undecided', models.FloatField()),
                ('drums', models.JSONField()),
            ],
        ),
        migrations.CreateModel(
            name='Prices',
            fields=[
                ('firm', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, primary_key=True, related_name='prices', serialize=False, to='jobs.firm')),
                ('text', models.TextField()),
                ('at', models.DateTimeField(auto_now=True)),
                ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='jobs.member')),
            ],
        ),
        migrations.CreateModel(
            name='Entry',
            fields=[
                ('id', models.UUIDField(primary_key=True, serialize=False)),
                ('kind', models.CharField(max_length=20)),
                ('subject', models.UUIDField(null=True)),
                ('data', models.JSONField()),
                ('at', models.DateTimeField()),
                ('stored', models.DateTimeField(auto_now_add=True)),
                ('name', models.CharField(max_length=120)),
                ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='jobs.member')),
                ('job', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='site_log', to='jobs.job')),
            ],
            options={
                'ordering': ['at', 'stored', 'id'],
                'indexes': [models.Index(fields=['job', 'kind', 'at'], name='site_log_in_order')],
            },
        ),
        migrations.CreateModel(
            name='Issue',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('number', models.PositiveIntegerField()),
                ('version', models.PositiveIntegerField()),
                ('note', models.CharField(blank=True, max_length=200)),
                ('document', models.TextField()),
                ('hash', models.CharField(max_length=64)),
                ('at', models.DateTimeField()),
                ('name', models.CharField(max_length=120)),
                ('signature', models.JSONField(null=True)),
                ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='jobs.member')),
                ('job', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='issues', to='jobs.job')),
            ],
            options={
                'ordering': ['-number'],
                'constraints': [models.UniqueConstraint(fields=('job', 'number'), name='a_revision_is_issued_once')],
            },
        ),
    ]
