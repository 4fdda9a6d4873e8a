"""Internal extensions and text numbers; the values that a number hands to its flow."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("numbers_app", "0002_planned_changes")]

    operations = [
        migrations.RenameField("number", "e164", "address"),
        migrations.AlterModelOptions("number", {"ordering": ["address"]}),
        migrations.AddField(
            "number", "channel",
            models.CharField(
                choices=[("voice", "Voice"), ("text", "Text messages")], default="voice",
                max_length=5,
            ),
        ),
        migrations.AddField("number", "values", models.JSONField(blank=True, default=dict)),
    ]
