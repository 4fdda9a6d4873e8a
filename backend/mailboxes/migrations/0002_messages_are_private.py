from django.db import migrations


def make_private(apps, schema_editor):
    """Takes that only messages use are for those who may hear the messages."""
    Take = apps.get_model("sounds", "Take")
    Message = apps.get_model("mailboxes", "Message")
    left = Message.objects.exclude(take=None).values("take")
    Take.objects.filter(pk__in=left).update(private=True)


class Migration(migrations.Migration):
    dependencies = [
        ("mailboxes", "0001_initial"),
        ("sounds", "0003_private_takes"),
    ]

    operations = [migrations.RunPython(make_private, migrations.RunPython.noop)]
