"""Telephone numbers that are keys, in whatever spelling, become E.164."""

from django.db import migrations

from lookups.keys import key_of


def bring(apps, schema_editor):
    Row = apps.get_model("lookups", "Row")
    perhaps = Row.objects.filter(key__regex=r"^\(?[+0][0-9]")
    for row in perhaps.only("id", "key", "table_id", "generation").iterator():
        key = key_of(row.key)
        same = Row.objects.filter(table=row.table_id, generation=row.generation, key=key)
        # Where both spellings stand in a table, each stays as it is.
        if key != row.key and not same.exists():
            Row.objects.filter(pk=row.pk).update(key=key)


class Migration(migrations.Migration):
    dependencies = [("lookups", "0002_one_index_a_key")]
    operations = [migrations.RunPython(bring, migrations.RunPython.noop)]
