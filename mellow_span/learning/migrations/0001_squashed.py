"""The tables as they stand, in one step."""

import django.db.models.deletion
import uuid
from django.db import migrations, models


class Migration(migrations.Migration):

    # The migrations there were before; a database that has them all has this one.
    replaces = [
        ("practice", "0001_practice"),
    ]

    initial = True

    dependencies = [
        ('jobs', '0001_squashed'),
    ]

    operations = [
        migrations.CreateModel(
            name='Paper',
            fields=[
                ('id', models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False)),
                ('title', models.CharField(max_length=120)),
                ('book', models.CharField(max_length=40)),
                ('heads', models.JSONField()),
                ('each', models.PositiveSmallIntegerField()),
                ('minutes', models.PositiveSmallIntegerField()),
                ('open', models.BooleanField()),
                ('seed', models.PositiveIntegerField()),
                ('at', models.DateTimeField(auto_now_add=True)),
                ('away', models.BooleanField(default=False)),
                ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='jobs.member')),
                ('firm', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='practice_papers', to='jobs.firm')),
            ],
            options={
                'ordering': ['-at', '-id'],
            },
        ),
        migrations.CreateModel(
            name='Sitting',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('seeds', models.JSONField()),
                ('begun', models.DateTimeField(auto_now_add=True)),
                ('handed', models.DateTimeField(null=True)),
                ('answers', models.JSONField(default=list)),
                ('whole', models.PositiveSmallIntegerField(default=0)),
                ('member', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='sittings', to='jobs.member')),
                ('paper', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='sittings', to='practice.paper')),
            ],
            options={
                'ordering': ['begun', 'id'],
                'constraints': [models.UniqueConstraint(fields=('paper', 'member'), name='a_paper_is_sat_once')],
            },
        ),
        migrations.CreateModel(
            name='Tried',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('book', models.CharField(max_length=40)),
                ('head', models.CharField(max_length=40)),
                ('seed', models.PositiveIntegerField()),
                ('whole', models.BooleanField()),
                ('first', models.CharField(blank=True, max_length=20)),
                ('slip', models.CharField(blank=True, max_length=40)),
                ('at', models.DateTimeField(auto_now_add=True)),
                ('member', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='tried', to='jobs.member')),
            ],
            options={
                'ordering': ['-at', '-id'],
                'constraints': [models.UniqueConstraint(fields=('member', 'book', 'head', 'seed'), name='an_exercise_is_tried_once')],
            },
        ),
    ]
