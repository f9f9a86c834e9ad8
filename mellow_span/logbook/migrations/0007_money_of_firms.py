import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ("jobs", "0006_packs_confirmed_and_figures_moved"),
        ("site", "0006_pictures_by_themselves"),
    ]

    operations = [
        migrations.CreateModel(
            name="Money",
            fields=[
                ("firm", models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, primary_key=True, related_name="money", serialize=False, to="jobs.firm")),
                ("currency", models.CharField(default="£", max_length=3)),
                ("vat", models.FloatField(null=True)),
            ],
        ),
    ]
