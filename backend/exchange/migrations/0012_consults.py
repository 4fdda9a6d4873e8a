"""A colleague's call is a consult, also in what stands of contacts under way."""

from django.db import migrations


def _called(old: str, new: str) -> str:
    return (
        "UPDATE exchange_standing SET body = jsonb_set(body #- "
        f"'{{talk,{old}}}', '{{talk,{new}}}', body #> '{{talk,{old}}}') "
        f"WHERE what = 'contact' AND body #> '{{talk,{old}}}' IS NOT NULL;"
    )


class Migration(migrations.Migration):
    dependencies = [("exchange", "0011_people")]

    operations = [
        migrations.RenameField("contact", "aside", "consult_of"),
        migrations.RunSQL(_called("side", "consult"), _called("consult", "side")),
    ]
