"""A sound held one recording; now it holds one for each language. Takes are measured."""

from django.db import migrations, models

SPEED = 155


def gather(apps, schema_editor):
    sound = apps.get_model("sounds", "Sound")
    for row in sound.objects.all():
        source = "file" if row.uploaded else "spoken"
        row.takes = {
            row.language: {
                "text": row.text, "source": source, "speed": SPEED, "take": row.take_id,
            }
        }
        row.save(update_fields=["takes"])


def spread(apps, schema_editor):
    sound = apps.get_model("sounds", "Sound")
    for row in sound.objects.all():
        for language, kept in list(row.takes.items())[:1]:
            row.language, row.text, row.take_id = language, kept["text"], kept["take"]
            row.uploaded = kept["source"] != "spoken"
        row.save()


def measure(apps, schema_editor):
    from sounds.canonical import canonical

    take = apps.get_model("sounds", "Take")
    for row in take.objects.all().iterator():
        measured = canonical(bytes(row.wav))
        row.loudness, row.peaks = measured.loudness, measured.peaks
        row.save(update_fields=["loudness", "peaks"])


class Migration(migrations.Migration):
    dependencies = [("sounds", "0001_initial")]

    operations = [
        migrations.AddField("take", "loudness", models.FloatField(null=True)),
        migrations.AddField("take", "peaks", models.JSONField(default=list)),
        migrations.AddField("sound", "takes", models.JSONField(default=dict)),
        migrations.RunPython(gather, spread),
        migrations.RunPython(measure, migrations.RunPython.noop),
        migrations.RemoveField("sound", "language"),
        migrations.RemoveField("sound", "text"),
        migrations.RemoveField("sound", "uploaded"),
        migrations.RemoveField("sound", "take"),
    ]
