from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('jobs', '0004_runs_by_their_circuit'),
    ]

    operations = [
        migrations.AddField(
            model_name='circuit',
            name='spare',
            field=models.BooleanField(default=False),
        ),
        migrations.AddField(
            model_name='circuit',
            name='terminals',
            field=models.PositiveSmallIntegerField(default=70),
        ),
        migrations.AddField(
            model_name='job',
            name='premises',
            field=models.CharField(default='household', max_length=20),
        ),
        migrations.AddField(
            model_name='load',
            name='dc_detection',
            field=models.BooleanField(null=True),
        ),
        migrations.AddField(
            model_name='load',
            name='outlet',
            field=models.FloatField(default=13.0),
        ),
        migrations.AddField(
            model_name='load',
            name='outlet_idn',
            field=models.FloatField(null=True),
        ),
        migrations.AddField(
            model_name='load',
            name='pen_guard',
            field=models.CharField(max_length=12, null=True),
        ),
    ]
