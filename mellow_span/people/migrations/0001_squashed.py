"""The tables as they stand, in one step."""

import django.db.models.deletion
import uuid
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    # The migrations there were before; a database that has them all has this one.
    replaces = [
        ("people", "0001_initial"),
        ("people", "0002_forget_old_attempts"),
    ]

    initial = True

    dependencies = [
        ('jobs', '0001_squashed'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Attempt',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=32)),
                ('address', models.CharField(max_length=32)),
                ('at', models.DateTimeField(auto_now_add=True)),
            ],
            options={
                'ordering': ['at'],
                'indexes': [models.Index(fields=['name', 'at'], name='attempts_by_name'), models.Index(fields=['address', 'at'], name='attempts_by_address')],
            },
        ),
        migrations.CreateModel(
            name='ClientLink',
            fields=[
                ('id', models.UUIDField(default=uuid.uuid4, primary_key=True, serialize=False)),
                ('token', models.CharField(max_length=64, unique=True)),
                ('name', models.CharField(max_length=120)),
                ('version', models.PositiveIntegerField()),
                ('document', models.JSONField()),
                ('made', models.DateTimeField(auto_now_add=True)),
                ('ends', models.DateTimeField()),
                ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='jobs.member')),
                ('job', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='links', to='jobs.job')),
            ],
            options={
                'ordering': ['made'],
            },
        ),
        migrations.CreateModel(
            name='Device',
            fields=[
                ('id', models.UUIDField(default=uuid.uuid4, primary_key=True, serialize=False)),
                ('session', models.CharField(max_length=40, unique=True)),
                ('agent', models.CharField(max_length=60)),
                ('made', models.DateTimeField(auto_now_add=True)),
                ('seen', models.DateTimeField()),
                ('user', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='devices', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['-seen'],
            },
        ),
        migrations.CreateModel(
            name='Invitation',
            fields=[
                ('id', models.UUIDField(default=uuid.uuid4, primary_key=True, serialize=False)),
                ('token', models.CharField(max_length=64, unique=True)),
                ('name', models.CharField(max_length=120)),
                ('role', models.CharField(choices=[('supervisor', 'Supervisor'), ('designer', 'Designer'), ('apprentice', 'Apprentice')], max_length=12)),
                ('made', models.DateTimeField(auto_now_add=True)),
                ('ends', models.DateTimeField()),
                ('used', models.DateTimeField(null=True)),
                ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='jobs.member')),
                ('firm', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='invitations', to='jobs.firm')),
            ],
            options={
                'ordering': ['made'],
            },
        ),
        migrations.CreateModel(
            name='Event',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('kind', models.CharField(max_length=24)),
                ('about', models.CharField(blank=True, max_length=200)),
                ('at', models.DateTimeField(auto_now_add=True)),
                ('firm', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='events', to='jobs.firm')),
                ('member', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='jobs.member')),
            ],
            options={
                'ordering': ['-id'],
                'indexes': [models.Index(fields=['firm', '-id'], name='events_of_a_firm')],
            },
        ),
    ]
