from django.db import migrations


class Migration(migrations.Migration):

    dependencies = [
        ("jobs", "0003_what_was_measured_and_said"),
        ("site", "0002_readings_held_in_designs"),
    ]

    operations = [migrations.RemoveField(model_name="circuit", name="readings")]
