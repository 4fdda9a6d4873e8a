from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("exchange", "0012_consults")]

    operations = [
        migrations.AddIndex(
            "journal",
            models.Index(
                fields=["site", "at_ms"],
                name="journal_of_alerts",
                condition=models.Q(kind="floor.alert"),
            ),
        )
    ]
